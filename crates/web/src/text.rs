//! Markdown of lab sheets, with formulas between dollar signs typeset as MathML.

use pulldown_cmark::{CowStr, Event, Options, Parser, html};
use pulldown_latex::config::DisplayMode;
use pulldown_latex::{Parser as Latex, RenderConfig, Storage, push_mathml};

use crate::notation::escape;

/// Markdown as HTML. Raw HTML in it is shown as text.
pub(crate) fn markdown(source: &str) -> String {
    let options = Options::ENABLE_MATH | Options::ENABLE_TABLES;
    #[expect(clippy::wildcard_enum_match_arm, reason = "everything else is passed on as the reader gives it")]
    let events = Parser::new_ext(source, options).map(|event| match event {
        Event::InlineMath(formula) => Event::Html(CowStr::from(math(&formula, DisplayMode::Inline))),
        Event::DisplayMath(formula) => Event::Html(CowStr::from(math(&formula, DisplayMode::Block))),
        Event::Html(raw) | Event::InlineHtml(raw) => Event::Text(raw),
        other => other,
    });
    let mut out = String::with_capacity(source.len() * 2);
    html::push_html(&mut out, events);
    out
}

/// Markdown of one line as HTML that stands inside a line.
pub(crate) fn inline_markdown(source: &str) -> String {
    let html = markdown(source);
    let inside = html.trim().strip_prefix("<p>").and_then(|h| h.strip_suffix("</p>"));
    inside.filter(|h| !h.contains("<p>")).map_or_else(|| escape(source), str::to_owned)
}

/// A formula as MathML; one that cannot be read is shown as typed.
fn math(formula: &str, display_mode: DisplayMode) -> String {
    let storage = Storage::new();
    let as_typed = || format!("<code>{}</code>", escape(formula));
    if Latex::new(formula, &storage).any(|event| event.is_err()) {
        return as_typed();
    }
    let mut out = String::new();
    let config = RenderConfig { display_mode, annotation: Some(formula), ..RenderConfig::default() };
    let storage = Storage::new();
    match push_mathml(&mut out, Latex::new(formula, &storage), config) {
        // The library writes a space's name for a space, and then makes it safe.
        Ok(()) => out.replace("&amp;nbsp;", "\u{A0}"),
        Err(_) => as_typed(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn spaces_in_formulas_are_spaces() {
        let html = markdown(r"The speed is $v = 3\ \mathrm{m/s}$.");
        assert!(!html.contains("nbsp") && html.contains('\u{A0}'), "{html}");
    }

    #[test]
    fn a_choice_is_a_line_with_its_formulas() {
        let html = inline_markdown("$v^2$ against $m$");
        assert!(html.contains("<msup>") && !html.contains("<p>"), "{html}");
        assert_eq!(inline_markdown("- a list\n- of two"), "- a list\n- of two");
        assert_eq!(inline_markdown("less than 3 & <b>"), "less than 3 &amp; &lt;b&gt;");
    }

    #[test]
    fn formulas_become_mathml_and_raw_html_stays_text() {
        let html = markdown("The *period* $T^2$\n\n$$\\frac{a}{b}$$\n\n<script>alert(1)</script>\n\nand $\\nonsense$");
        assert!(html.contains("<msup>") && html.contains("<mfrac>"), "{html}");
        assert!(!html.contains("<script>"), "{html}");
        assert!(html.contains("<code>\\nonsense</code>"), "{html}");
    }
}
