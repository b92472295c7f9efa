//! Readings: a value as it was read, with unit, resolution and where it came from.

use serde::{Deserialize, Serialize};

use super::Origin;
use super::format::to_step;
use super::unit::{Unit, superscript, unraised};

/// Longest number text that is read.
const LONGEST: usize = 24;

/// What is written for a minus sign: itself, and the dash that text programs make of a hyphen.
pub(crate) const fn is_minus(c: char) -> bool {
    matches!(c, '-' | '\u{2212}' | '\u{2013}')
}

/// Why a text is not a number.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum NumberError {
    /// Not written as a number.
    NotANumber(String),
    /// Too long or too large for the record.
    TooLong(String),
}

/// A decimal number as written: trailing zeros state how precisely it is known.
///
/// Written with a point whatever the person typed; `0,450` is kept as `0.450`.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Decimal(String);

impl Decimal {
    /// Reads `0.450`, `0,450`, `-3`, `−3.0`, `1.50e3`, `1.50 × 10³`.
    ///
    /// # Errors
    /// [`NumberError`] with the text as typed.
    pub fn parse(text: &str) -> Result<Self, NumberError> {
        let typed = text.trim();
        if typed.chars().count() > LONGEST {
            return Err(NumberError::TooLong(typed.chars().take(LONGEST).collect::<String>() + "…"));
        }
        let plain = unpowered(&typed.replace(is_minus, "-").replace(',', "."));
        let digits = plain.split(['e', 'E']).next().unwrap_or("");
        let shaped = digits.bytes().any(|b| b.is_ascii_digit())
            && plain.bytes().all(|b| b.is_ascii_digit() || matches!(b, b'.' | b'-' | b'+' | b'e' | b'E'));
        match plain.parse::<f64>() {
            Ok(value) if shaped && value.is_finite() && value.abs() < 1e100 => Ok(Self(plain)),
            _ => Err(NumberError::NotANumber(typed.to_owned())),
        }
    }

    /// A value rounded to the decade of `step`.
    pub fn rounded(value: f64, step: f64) -> Self {
        // A later program may write one digit more.
        let step = if crate::other_rules::on() { 0.1 * step } else { step };
        let text = to_step(value, step).replace('\u{2212}', "-");
        Self::parse(&text).unwrap_or_else(|_| Self(format!("{value:e}")))
    }

    /// The number's value.
    pub fn value(&self) -> f64 {
        self.0.parse().unwrap_or(0.0)
    }

    /// The number as written, with a point.
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// One unit of the last digit written: 0.001 for `0.450`, 1 for `12`, 10 for `1.50e3`.
    pub fn last_digit(&self) -> f64 {
        let (mantissa, power) = self.0.split_once(['e', 'E']).unwrap_or((&self.0, "0"));
        let decimals = mantissa.split_once('.').map_or(0, |(_, d)| d.len() as i32);
        10f64.powi(power.parse::<i32>().unwrap_or(0) - decimals)
    }

    /// The number for people, with a true minus sign and its power of ten in superscript.
    pub fn pretty(&self) -> String {
        let signed = |digits: &str| digits.replace('-', "\u{2212}");
        match self.0.split_once(['e', 'E']).and_then(|(digits, power)| Some((digits, power.parse().ok()?))) {
            Some((digits, power)) => format!("{} × 10{}", signed(digits), superscript(power)),
            None => signed(&self.0),
        }
    }
}

/// `2.371 × 10⁻⁹` as `2.371e-9`; anything else as it is.
fn unpowered(text: &str) -> String {
    let power =
        text.split_once(['×', '·', '*']).and_then(|(digits, power)| Some((digits, power.trim().strip_prefix("10")?)));
    let Some((digits, power)) = power else { return text.to_owned() };
    format!("{}e{}", digits.trim(), unraised(power.trim_start_matches('^')))
}

impl From<Decimal> for String {
    fn from(d: Decimal) -> Self {
        d.0
    }
}

impl TryFrom<String> for Decimal {
    type Error = String;
    fn try_from(text: String) -> Result<Self, String> {
        Self::parse(&text).map_err(|e| format!("{e:?}"))
    }
}

/// A value as read, with unit, resolution and provenance.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub struct Reading {
    /// The number as read.
    pub number: Decimal,
    /// Its unit.
    pub unit: Unit,
    /// Smallest step the instrument shows, in `unit`.
    pub resolution: f64,
    /// Where it came from.
    pub origin: Origin,
}

impl Reading {
    /// A reading typed by hand; its resolution is one unit of the last digit.
    pub fn typed(number: Decimal, unit: Unit) -> Self {
        let resolution = number.last_digit();
        Self { number, unit, resolution, origin: Origin::Typed }
    }

    /// The value in coherent SI units.
    pub fn si(&self) -> f64 {
        self.number.value() * self.unit.size()
    }

    /// Standard uncertainty from the resolution, in coherent SI units.
    ///
    /// Each end read contributes a rectangular distribution of full width `resolution`, so
    /// u = resolution·√(ends/12) (JCGM 100:2008, 4.3.7). Settings are exact to their last digit.
    pub fn u_si(&self) -> f64 {
        self.resolution * (f64::from(self.origin.ends()) / 12.0).sqrt() * self.unit.size()
    }

    /// The same reading in another unit of the same dimension; digits follow the resolution.
    /// `None` when the dimensions differ.
    pub fn in_unit(&self, unit: &Unit) -> Option<Self> {
        if !self.unit.same_dimension(unit) {
            return None;
        }
        if self.unit == *unit {
            return Some(self.clone());
        }
        let factor = self.unit.size() / unit.size();
        let resolution = self.resolution * factor;
        // A value worked out is written to two figures of its uncertainty, so that its rounding does not count.
        let step = if self.origin.drawn().is_some() { 0.1 * self.u_si() / unit.size() } else { resolution };
        let number = Decimal::rounded(self.number.value() * factor, step);
        Some(Self { number, unit: unit.clone(), resolution, origin: self.origin.clone() })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::Footage;
    use approx::assert_relative_eq;
    use proptest::prelude::*;

    #[test]
    fn commas_and_trailing_zeros_are_kept() {
        let d = Decimal::parse("0,450").unwrap();
        assert_eq!((d.as_str(), d.value(), d.last_digit()), ("0.450", 0.45, 0.001));
        assert_eq!(Decimal::parse("1.50e3").unwrap().last_digit(), 10.0);
        assert_eq!(Decimal::parse("−3.0").unwrap().value(), -3.0);
        // What a text program made of a hyphen.
        assert_eq!(Decimal::parse("–3.0").unwrap(), Decimal::parse("-3.0").unwrap());
        for bad in ["0,4x", "", "1.2.3", "1,2,3", "e5", "inf", "NaN", "--1", "1e999", "."] {
            assert!(Decimal::parse(bad).is_err(), "{bad}");
        }
    }

    #[test]
    fn a_reading_changes_its_unit_without_gaining_digits() {
        let cm = Unit::parse("cm").unwrap();
        let m = Unit::parse("m").unwrap();
        let tape = Reading { resolution: 0.001, ..Reading::typed(Decimal::parse("1.500").unwrap(), m.clone()) };
        let in_cm = tape.in_unit(&cm).unwrap();
        assert_eq!(in_cm.number.as_str(), "150.0");
        assert_relative_eq!(in_cm.si(), 1.5);
        assert!(tape.in_unit(&Unit::parse("s").unwrap()).is_none());
    }

    #[test]
    fn two_ends_are_less_certain_than_one() {
        let s = Unit::parse("s").unwrap();
        let mut r = Reading::typed(Decimal::parse("20.10").unwrap(), s);
        assert_relative_eq!(r.u_si(), 0.01 / 12f64.sqrt());
        r.origin = Origin::Split { of: Footage::Run(1), start: 0, end: 2010 };
        assert_relative_eq!(r.u_si(), 0.01 / 6f64.sqrt());
    }

    proptest! {
        #[test]
        fn what_is_written_is_what_is_kept(n in -1_000_000i64..1_000_000, places in 0usize..6) {
            let text = format!("{:.*}", places, n as f64 / 10f64.powi(places as i32));
            let d = Decimal::parse(&text).unwrap();
            prop_assert_eq!(d.as_str(), &text);
            prop_assert_eq!(Decimal::parse(&text.replace('.', ",")).unwrap(), d);
        }

        #[test]
        fn no_text_makes_the_number_reader_panic(text in "\\PC{0,40}") {
            let _ = Decimal::parse(&text);
        }
    }
}
