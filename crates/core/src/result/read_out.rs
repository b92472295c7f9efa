//! Slope and intercept as sentences, with or without gaps for the student to fill.

use std::collections::BTreeMap;

use crate::fit::{Fit, Parameter};
use crate::graph::{Axis, Gap};
use crate::quantity::{Decimal, Unit};

/// The parts of the sentences about a straight line.
#[derive(Clone, Debug, PartialEq)]
pub struct ReadOut {
    /// Symbol and unit of what goes across.
    pub across: (String, Unit),
    /// Symbol and unit of what goes up.
    pub up: (String, Unit),
    /// How much y changes for one unit of x, in the unit of y: value without sign, and uncertainty.
    pub change: (f64, f64),
    /// Whether y falls.
    pub falls: bool,
    /// Height where x is zero, with uncertainty; absent through the origin.
    pub intercept: Option<(f64, f64)>,
    /// What the student wrote into each gap, with what is to be said about it.
    pub gaps: BTreeMap<Gap, (String, Feedback)>,
}

/// What is said about a filled gap.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Feedback {
    /// Nothing there yet.
    Empty,
    /// Right.
    Right,
    /// Not a symbol or name of a quantity on the graph.
    UnknownQuantity,
    /// The quantity of the other axis.
    OtherAxis,
    /// Not a number.
    NotANumber,
    /// The number does not agree with the line to the digits given.
    Number,
    /// The number has the wrong sign.
    Sign,
    /// The number is off by a power of ten.
    Decade,
    /// Not a unit.
    NotAUnit,
    /// The unit of another quantity.
    Unit,
    /// The right quantity, but in another unit than its column has.
    OtherUnit,
}

/// The sentences about a straight line; `None` for other curves.
pub fn read_out(fit: &Fit, x: &Axis, y: &Axis, filled: &BTreeMap<Gap, String>) -> Option<ReadOut> {
    // Counted per one unit of x, in the unit of y, whatever the slope's own unit is.
    let slope = fit.slope()?;
    let factor = slope.unit.size() * x.unit.size() / y.unit.size();
    let change = (slope.value * factor, slope.u * factor);
    let intercept = fit.intercept().map(|b: &Parameter| (b.value, b.u));
    let gaps = Gap::ALL.iter().copied().filter_map(|gap| {
        let text = filled.get(&gap).map_or("", String::as_str).trim();
        let feedback = if text.is_empty() {
            Feedback::Empty
        } else {
            match gap {
                Gap::Across => quantity(text, x, y),
                Gap::Up => quantity(text, y, x),
                Gap::Slope => number(text, change.0),
                Gap::SlopeUnit => unit(text, &y.unit),
                Gap::Intercept => number(text, intercept?.0),
                Gap::InterceptUnit => {
                    intercept?;
                    unit(text, &y.unit)
                }
            }
        };
        Some((gap, (text.to_owned(), feedback)))
    });
    let gaps = gaps.collect();
    Some(ReadOut {
        across: (x.symbol.clone(), x.unit.clone()),
        up: (y.symbol.clone(), y.unit.clone()),
        change: (change.0.abs(), change.1),
        falls: change.0 < 0.0,
        intercept,
        gaps,
    })
}

fn quantity(text: &str, own: &Axis, other: &Axis) -> Feedback {
    let names = |axis: &Axis| text == axis.symbol || text.eq_ignore_ascii_case(&axis.name);
    match (names(own), names(other)) {
        (true, _) => Feedback::Right,
        (false, true) => Feedback::OtherAxis,
        _ => Feedback::UnknownQuantity,
    }
}

fn number(text: &str, value: f64) -> Feedback {
    let Ok(typed) = Decimal::parse(text) else { return Feedback::NotANumber };
    // Rounded to its last digit the value must be what was typed.
    let half = typed.last_digit() / 2.0 * (1.0 + 1e-9);
    let near = |v: f64, half: f64| (typed.value() - v).abs() <= half;
    if near(value, half) && (typed.value() != 0.0 || value.abs() <= half) {
        return Feedback::Right;
    }
    if near(-value, half) {
        return Feedback::Sign;
    }
    let decade =
        (1..=6).flat_map(|k| [10f64.powi(k), 10f64.powi(-k)]).any(|d| near(value * d, half) && typed.value() != 0.0);
    if decade { Feedback::Decade } else { Feedback::Number }
}

fn unit(text: &str, wanted: &Unit) -> Feedback {
    // A count is shown without its quotes.
    if text == wanted.pretty() {
        return Feedback::Right;
    }
    match Unit::parse(text) {
        Err(_) => Feedback::NotAUnit,
        Ok(u) if !u.same_dimension(wanted) => Feedback::Unit,
        Ok(u) if (u.size() / wanted.size() - 1.0).abs() > 1e-9 => Feedback::OtherUnit,
        Ok(_) => Feedback::Right,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn feedback_names_what_is_wrong() {
        for (text, value, expected) in [
            ("4.03", 4.0312, Feedback::Right),
            ("4", 4.0312, Feedback::Right),
            ("4,031", 4.0312, Feedback::Right),
            ("4.04", 4.0312, Feedback::Number),
            ("-4.03", 4.0312, Feedback::Sign),
            ("40.3", 4.0312, Feedback::Decade),
            ("0.403", 4.0312, Feedback::Decade),
            ("four", 4.0312, Feedback::NotANumber),
            ("0", 4.0312, Feedback::Number),
            ("0.00", 0.0012, Feedback::Right),
        ] {
            assert_eq!(number(text, value), expected, "{text}");
        }
        let wanted = Unit::parse("s^2").unwrap();
        for (text, expected) in [
            ("s²", Feedback::Right),
            ("s", Feedback::Unit),
            ("ms^2", Feedback::OtherUnit),
            ("ticks", Feedback::NotAUnit),
        ] {
            assert_eq!(unit(text, &wanted), expected, "{text}");
        }
    }
}
