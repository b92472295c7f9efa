//! What is to be said about a number somebody typed: right, or what is off. Rounding is never wrong.

use crate::quantity::{Unit, parse_quantity};

/// Share of a value up to which rounding it counts as knowing it.
const COARSEST: f64 = 0.1;
/// Factors between units that are mixed up: minutes, hours, km/h, degrees.
const FACTORS: [f64; 4] = [60.0, 3600.0, 3.6, 180.0 / std::f64::consts::PI];
/// Powers of ten that are looked at.
const POWERS: std::ops::RangeInclusive<i32> = 1..=12;

/// A value that is right.
#[derive(Clone, Debug, PartialEq)]
pub struct Target {
    /// The value, in coherent SI units.
    pub value: f64,
    /// How near is near enough, likewise.
    pub tolerance: f64,
    /// A unit of the quantity.
    pub unit: Unit,
}

/// What is off about a number.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NumberFault {
    /// It cannot be read.
    NotANumber,
    /// Its unit is missing.
    NoUnit,
    /// Its unit belongs to another quantity.
    Quantity,
    /// Its unit is of the right quantity, but the number is for another one.
    Unit,
    /// Its sign.
    Sign,
    /// Its power of ten.
    Power,
    /// It has too few digits to tell.
    Digits,
    /// The number itself.
    Value,
}

/// Judges a number as typed. A number that rounds to a right one is right, as long as rounding leaves something of it. Tells whether it
/// has more digits than can be known.
pub(super) fn judge_number(typed: &str, wanted: &[Target]) -> Result<bool, NumberFault> {
    let Ok((number, unit)) = parse_quantity(typed, &Unit::one()) else { return Err(NumberFault::NotANumber) };
    let those: Vec<&Target> = wanted.iter().filter(|t| t.unit.same_dimension(&unit)).collect();
    if those.is_empty() {
        return Err(if unit.is_one() { NumberFault::NoUnit } else { NumberFault::Quantity });
    }
    let value = number.value() * unit.size();
    let half = 0.5 * number.last_digit() * unit.size() * (1.0 + 1e-9);
    let near = |v: f64, half: f64| those.iter().any(|t| (v - t.value).abs() <= t.tolerance * (1.0 + 1e-9) + half);
    if near(value, 0.0) {
        let largest = those.iter().map(|t| t.tolerance).fold(0.0, f64::max);
        return Ok(largest > 0.0 && half * 2.0 < largest * 1e-3);
    }
    if near(value, half) {
        let leaves_something = those.iter().any(|t| half <= COARSEST * t.value.abs());
        return if leaves_something { Ok(false) } else { Err(NumberFault::Digits) };
    }
    if near(-value, half) && value != 0.0 {
        return Err(NumberFault::Sign);
    }
    let off_by = |factor: f64| [factor, 1.0 / factor].into_iter().any(|f| value != 0.0 && near(value * f, half * f));
    if FACTORS.into_iter().any(off_by) {
        return Err(NumberFault::Unit);
    }
    if POWERS.map(|k| 10f64.powi(k)).any(off_by) {
        return Err(NumberFault::Power);
    }
    Err(NumberFault::Value)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn judged(typed: &str, unit: &str, value: f64, tolerance: f64) -> Result<bool, NumberFault> {
        judge_number(typed, &[Target { value, tolerance, unit: Unit::parse(unit).unwrap() }])
    }

    #[test]
    fn what_is_off_is_named() {
        use NumberFault as F;
        for (typed, expected) in [
            ("0.123 m/s", Ok(false)),
            ("12.3 cm/s", Ok(false)),
            ("0,12 m/s", Ok(false)),
            ("0.1 m/s", Err(F::Digits)),
            ("0.123", Err(F::NoUnit)),
            ("0.123 s", Err(F::Quantity)),
            ("0.123 m", Err(F::Quantity)),
            ("-0.123 m/s", Err(F::Sign)),
            ("123 m/s", Err(F::Power)),
            ("12.3 m/s", Err(F::Power)),
            ("0.443 m/s", Err(F::Unit)),
            ("7.38 m/s", Err(F::Unit)),
            ("0.2 m/s", Err(F::Value)),
            ("0 m/s", Err(F::Digits)),
            ("fast", Err(F::NotANumber)),
            ("0.12300001 m/s", Ok(true)),
        ] {
            assert_eq!(judged(typed, "m/s", 0.123, 0.002), expected, "{typed}");
        }
        assert_eq!(judged("0.0", "1", 0.0, 0.01), Ok(false), "nothing is a value too");
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]
        /// However the right value is rounded, down to two digits, in whatever unit: never wrong.
        #[test]
        fn rounding_is_never_wrong(value in prop_oneof![1e-6f64..1e6, -1e6f64..-1e-6], digits in 2usize..7, unit in 0usize..3) {
            let (name, size) = [("m", 1.0), ("cm", 0.01), ("km", 1000.0)][unit];
            let typed = format!("{:.*e} {name}", digits - 1, value / size);
            prop_assert_eq!(judged(&typed, "m", value, 1e-12 * value.abs()), Ok(false), "{}", typed);
        }

        /// What is off by more than tolerance and rounding together is not right.
        #[test]
        fn a_neighbour_is_not_right(value in 0.1f64..100.0, share in 0.001f64..0.05, off in 1.2f64..30.0, up in any::<bool>()) {
            let tolerance = share * value;
            let other = value + if up { off } else { -off } * tolerance;
            let typed = format!("{other:.9} m");
            prop_assert!(judged(&typed, "m", value, tolerance).is_err(), "{} for {}", typed, value);
        }
    }
}
