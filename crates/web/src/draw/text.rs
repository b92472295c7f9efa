//! Words and numbers in a drawing: symbols italic with their index below, exponents raised.

use std::fmt::Write;

use zeitmass_core::graph::{Axis, Tick};

use crate::notation::{escape, split_symbol};

/// A symbol: `t` italic, its index below.
pub(super) fn symbol(text: &str) -> String {
    let (base, index) = split_symbol(text);
    let base = format!(r#"<tspan font-style="italic">{}</tspan>"#, escape(base));
    if index.is_empty() {
        return base;
    }
    format!(r#"{base}<tspan font-size="11" dy="4">{}</tspan><tspan dy="-4">&#8203;</tspan>"#, escape(index))
}

/// Text with raised exponents, since not every font has raised digits beyond ³.
pub(super) fn raised(text: &str) -> String {
    const DIGITS: &str = "⁰¹²³⁴⁵⁶⁷⁸⁹";
    let plain = |c: char| match c {
        '⁻' => Some('−'),
        _ => DIGITS.chars().position(|d| d == c).and_then(|p| char::from_digit(p as u32, 10)),
    };
    let (mut out, mut up) = (String::new(), String::new());
    let flush = |out: &mut String, up: &mut String| {
        if !up.is_empty() {
            let _ = write!(out, r#"<tspan font-size="10" dy="-5">{up}</tspan><tspan dy="5">&#8203;</tspan>"#);
            up.clear();
        }
    };
    for c in text.chars() {
        match plain(c) {
            Some(digit) => up.push(digit),
            None => {
                flush(&mut out, &mut up);
                out.push_str(&escape(&c.to_string()));
            }
        }
    }
    flush(&mut out, &mut up);
    out
}

/// What stands between a number and its power of ten.
const POWER: &str = " × ";

/// The power of ten that all labels of an axis have in common: it stands once, before the unit.
fn power(axis: &Axis) -> Option<&str> {
    let mut all =
        axis.ticks.iter().filter(|t| t.value != 0.0).map(|t| t.label.split_once(POWER).map(|(_, power)| power));
    let first = all.next()??;
    all.all(|p| p == Some(first)).then_some(first)
}

/// The label of a tick, without the power of ten that all have.
pub(super) fn label<'t>(axis: &Axis, tick: &'t Tick) -> &'t str {
    match (power(axis), tick.label.split_once(POWER)) {
        (Some(_), Some((number, _))) => number,
        _ => &tick.label,
    }
}

/// `length L (m)`, or the title a person gave with its unit; `length L (10⁸ m)` where all numbers have that power of ten.
pub(super) fn title(axis: &Axis) -> String {
    let unit = [power(axis).unwrap_or_default(), &axis.unit.pretty()].join(" ").trim().to_owned();
    let unit = if unit.is_empty() { String::new() } else { format!(" ({})", raised(&unit)) };
    // A column called “position y” is not called y twice.
    let name = axis.name.strip_suffix(&axis.symbol).filter(|n| n.ends_with(' ')).unwrap_or(&axis.name).trim_end();
    format!("{} {}{unit}", escape(name), symbol(&axis.symbol))
}
