//! How symbols and quantities are written on pages: symbols italic with their index below, units upright.

use std::fmt::Write;

/// A symbol split into its letter part and its index: `t10` into `t` and `10`, `v_max` into `v` and `max`.
pub(crate) fn split_symbol(symbol: &str) -> (&str, &str) {
    if let Some((base, index)) = symbol.split_once('_') {
        return (base, index);
    }
    let base = symbol.trim_end_matches(|c: char| c.is_ascii_digit());
    if base.is_empty() { (symbol, "") } else { (base, &symbol[base.len()..]) }
}

/// Text made safe for HTML and SVG.
pub(crate) fn escape(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;").replace('\'', "&#39;")
}

/// HTML of symbols and values as plain text.
pub(crate) fn without_marks(html: &str) -> String {
    let pieces = html.split('<').enumerate().map(|(i, piece)| match piece.split_once('>') {
        Some((_, text)) if i > 0 => text,
        _ => piece,
    });
    let text: String = pieces.collect();
    text.replace("&lt;", "<").replace("&gt;", ">").replace("&quot;", "\"").replace("&#39;", "'").replace("&amp;", "&")
}

/// A symbol as HTML: `<i>t</i><sub>10</sub>`.
pub(crate) fn symbol_html(symbol: &str) -> String {
    let (base, index) = split_symbol(symbol);
    let mut html = format!("<i>{}</i>", escape(base));
    if !index.is_empty() {
        let _ = write!(html, "<sub>{}</sub>", escape(index));
    }
    html
}

/// A formula as HTML: its symbols as symbols, powers raised, the rest as typed.
pub(crate) fn formula_html(formula: &str) -> String {
    let mut html = String::new();
    let mut rest = formula;
    while let Some(c) = rest.chars().next() {
        let name_end = rest.find(|c: char| !(c.is_alphanumeric() || c == '_' || c == '\'')).unwrap_or(rest.len());
        if c.is_alphabetic() {
            let name = &rest[..name_end];
            match name {
                "pi" => html.push('π'),
                _ if zeitmass_core::formula::is_symbol(name) => html.push_str(&symbol_html(name)),
                _ => html.push_str(&escape(name)),
            }
            rest = &rest[name_end..];
            continue;
        }
        rest = &rest[c.len_utf8()..];
        match c {
            '[' => {
                let end = rest.find(']').unwrap_or(rest.len());
                html.push_str(&escape(
                    &zeitmass_core::quantity::Unit::parse(&rest[..end])
                        .map_or_else(|_| rest[..end].to_owned(), |u| u.pretty()),
                ));
                rest = rest.get(end + 1..).unwrap_or("");
            }
            '^' => {
                let digits = rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len());
                if digits > 0 {
                    let _ = write!(html, "<sup>{}</sup>", &rest[..digits]);
                    rest = &rest[digits..];
                } else {
                    html.push('^');
                }
            }
            '*' => html.push('·'),
            '-' => html.push('\u{2212}'),
            other => html.push_str(&escape(&other.to_string())),
        }
    }
    html
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn symbols_and_formulas_are_typeset() {
        assert_eq!(symbol_html("t10"), "<i>t</i><sub>10</sub>");
        assert_eq!(symbol_html("v_max"), "<i>v</i><sub>max</sub>");
        assert_eq!(formula_html("4*pi^2/g"), "4·π<sup>2</sup>/<i>g</i>");
        assert_eq!(formula_html("sqrt(h)*9.81 [m/s^2]"), "sqrt(<i>h</i>)·9.81 m/s²");
        assert_eq!(formula_html("<script>"), "&lt;<i>script</i>&gt;");
    }
}
