//! The exponent of a power law, and the simple fraction it may be.

/// An exponent with the fraction it agrees with.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Exponent {
    /// Best estimate.
    pub value: f64,
    /// Standard uncertainty.
    pub u: f64,
    /// Numerator and denominator of the simplest fraction within twice the uncertainty; `None` when there is none, or
    /// when the uncertainty leaves more than one whole number open.
    pub fraction: Option<(i32, i32)>,
}

/// Looks for the simplest fraction within 2u: whole numbers first, then halves, thirds and quarters.
pub fn simple_fraction(value: f64, u: f64) -> Exponent {
    let none = Exponent { value, u, fraction: None };
    // So wide that whole numbers cannot be told apart.
    if !(u.is_finite() && u >= 0.0) || 4.0 * u >= 1.0 {
        return none;
    }
    for d in 1..=4 {
        let n = (value * f64::from(d)).round();
        // Rounding alone is not a disagreement.
        if n.abs() <= 24.0 && (value - n / f64::from(d)).abs() <= (2.0 * u).max(1e-9) {
            return Exponent { value, u, fraction: Some((n as i32, d)) };
        }
    }
    none
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_simplest_fraction_that_agrees_is_named() {
        assert_eq!(simple_fraction(1.98, 0.03).fraction, Some((2, 1)));
        assert_eq!(simple_fraction(0.497, 0.004).fraction, Some((1, 2)));
        assert_eq!(simple_fraction(-0.668, 0.002).fraction, Some((-2, 3)));
        assert_eq!(simple_fraction(1.9, 0.01).fraction, None);
        assert_eq!(simple_fraction(1.4, 0.3).fraction, None);
        assert_eq!(simple_fraction(2.0, f64::NAN).fraction, None);
    }
}
