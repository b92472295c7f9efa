//! Quantities: dimensions, units, readings with uncertainty, and how numbers are written.
//!
//! A person types `0,450`; [`Decimal`] keeps the digits, [`Reading`] adds unit, resolution and origin,
//! and [`Uncertain`] carries value and uncertainty through formulas in coherent SI units.

use derive_more::From;

mod dimension;
mod drawn;
pub mod format;
mod origin;
mod precision;
mod reading;
mod share;
mod uncertain;
mod unit;

pub use dimension::{Dimension, Exponent};
pub use drawn::{Drawn, DrawnFrom};
pub use origin::{Footage, Origin};
pub use precision::{Precision, PrecisionBy, PrecisionError, PrecisionText};
pub(crate) use reading::is_minus;
pub use reading::{Decimal, NumberError, Reading};
pub use share::{Along, FilmShare};
pub use uncertain::{SHARED, Source, Uncertain};
pub use unit::{Unit, UnitError};

/// Why a text is not a quantity.
#[derive(Clone, Debug, PartialEq, Eq, From)]
pub enum QuantityError {
    /// Its number cannot be read.
    #[from]
    Number(NumberError),
    /// Its unit cannot be read.
    #[from]
    Unit(UnitError),
}

/// A typed quantity: a number followed by its unit, such as `0,80 m`, `80cm` or `10°`.
///
/// Without a unit, `default` is meant.
///
/// # Errors
/// [`QuantityError`] with the part that was not understood.
pub fn parse_quantity(text: &str, default: &Unit) -> Result<(Decimal, Unit), QuantityError> {
    let typed = text.trim();
    let numeric = |c: char| c.is_ascii_digit() || matches!(c, '.' | ',' | '+') || is_minus(c);
    let mut end = typed.find(|c| !numeric(c)).unwrap_or(typed.len());
    // 1.5e3 is one number, and so is 1.5 × 10³; 1.5 eV is not.
    let rest = &typed[end..];
    if let Some(power) = rest.trim_start().strip_prefix(['×', '·', '*']).and_then(|r| r.trim_start().strip_prefix("10"))
    {
        let raised =
            |c: char| matches!(c, '^' | '-' | '+' | '⁻' | '¹' | '²' | '³' | '⁰' | '⁴'..='⁹') || c.is_ascii_digit();
        end = typed.len() - power.trim_start_matches(raised).len();
    } else if let Some(power) = rest.strip_prefix(['e', 'E']) {
        let digits = power.trim_start_matches(['-', '+']);
        let count = digits.bytes().take_while(u8::is_ascii_digit).count();
        if count > 0 {
            end += 1 + (power.len() - digits.len()) + count;
        }
    }
    let (number, unit) = typed.split_at(end);
    if number.is_empty() {
        return Err(NumberError::NotANumber(typed.chars().take(40).collect()).into());
    }
    let number = Decimal::parse(number)?;
    // A count is shown without its quotes, so that is how it may come back.
    let unit = match unit.trim() {
        "" => default.clone(),
        shown if shown == default.pretty() => default.clone(),
        typed => Unit::parse(typed)?.turning_as(default),
    };
    Ok((number, unit))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn quantities_are_read_with_or_without_unit() {
        let m = Unit::parse("m").unwrap();
        let read = |text| parse_quantity(text, &m).map(|(d, u)| format!("{} {u}", d.as_str()));
        assert_eq!(read("0,80"), Ok("0.80 m".into()));
        assert_eq!(read("80cm"), Ok("80 cm".into()));
        assert_eq!(read(" 1.5e3 mm "), Ok("1.5e3 mm".into()));
        assert_eq!(read("2 eV"), Ok("2 eV".into()));
        // What is shown with a power of ten can be typed so, too.
        for shown in ["2.371 × 10⁻⁹ m", "2.371*10^-9 m", "2.371e-9m", "2,371·10⁻⁹"] {
            assert_eq!(read(shown), Ok("2.371e-9 m".into()), "{shown}");
        }
        let tiny = Decimal::rounded(2.371_04e-9, 1e-12);
        assert_eq!((tiny.as_str(), tiny.pretty().as_str(), tiny.last_digit()), ("2.371e-9", "2.371 × 10⁻⁹", 1e-12));
        assert_eq!(Decimal::rounded(-1.989e30, 1e27).pretty(), "−1.989 × 10³⁰");
        let washers = Unit::parse("\"washers\"").unwrap();
        assert_eq!(parse_quantity("5 washers", &washers).unwrap().1, washers);
        assert_eq!(read("0,4x"), Err(UnitError::Unknown("x".into()).into()));
        assert!(read("long").is_err());
        assert!(read("").is_err());
    }
}
