//! How two values compare.

use super::Constant;
use crate::fit::student;

/// How a constant compares with an accepted value.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Comparison {
    /// Found minus accepted, in the constant's unit, with its combined uncertainty.
    pub difference: Difference,
    /// |found − accepted| / |accepted| in percent; `None` when the accepted value is zero.
    pub percent_error: Option<f64>,
}

/// A difference with its uncertainty.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Difference {
    /// First minus second.
    pub value: f64,
    /// √(u₁² + u₂²); `NaN` when one of them is not known.
    pub u: f64,
    /// How many times `u` takes in 95 %: Student's t of the effective degrees of freedom.
    pub factor: f64,
    /// Whether the two agree.
    pub agreement: Agreement,
}

/// Whether two values agree within their uncertainty.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Agreement {
    /// They differ by less than takes in 95 %.
    Within,
    /// They differ by more.
    Outside,
    /// The uncertainty is not known.
    Unknown,
}

/// A value with its standard uncertainty and the degrees of freedom that was found with; infinite for a stated one.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Known {
    /// The value.
    pub value: f64,
    /// Its standard uncertainty; `NaN` when it cannot be told.
    pub u: f64,
    /// Degrees of freedom.
    pub freedom: f64,
}

/// Compares two independent values.
///
/// They agree when they differ by at most t·√(u₁² + u₂²), with Student's t for 95 % and the effective degrees of freedom
/// of Welch and Satterthwaite, ν = u⁴/(u₁⁴/ν₁ + u₂⁴/ν₂) (JCGM 100:2008, G.4 and G.6.4).
pub fn difference(first: Known, second: Known) -> Difference {
    let value = first.value - second.value;
    let u = first.u.hypot(second.u);
    let freedom = u.powi(4) / (first.u.powi(4) / first.freedom + second.u.powi(4) / second.freedom);
    // Nothing but exact values: no freedom is lacking.
    let factor = student(if u == 0.0 || freedom.is_nan() { f64::INFINITY } else { freedom });
    let agreement = match u {
        u if u.is_nan() => Agreement::Unknown,
        u if value.abs() <= factor * u => Agreement::Within,
        _ => Agreement::Outside,
    };
    Difference { value, u, factor, agreement }
}

impl Difference {
    /// The difference counted in its own standard uncertainty; `None` when that is zero or not known.
    pub fn in_uncertainties(&self) -> Option<f64> {
        (self.u > 0.0).then(|| self.value.abs() / self.u)
    }
}

/// |a − b| / ((|a| + |b|)/2) in percent; `None` when both are zero (common practice).
pub fn percent_difference(a: f64, b: f64) -> Option<f64> {
    let middle = f64::midpoint(a.abs(), b.abs());
    (middle > 0.0).then(|| (a - b).abs() / middle * 100.0)
}

impl Constant {
    /// Its value and uncertainty times a factor, as in another unit.
    pub fn known(&self, factor: f64) -> Known {
        Known { value: self.value * factor, u: self.u * factor, freedom: self.freedom }
    }

    /// Compares with an accepted value of standard uncertainty `accepted_u`, both in this constant's unit.
    pub fn compare(&self, accepted: f64, accepted_u: f64) -> Comparison {
        let accepted_one = Known { value: accepted, u: accepted_u, freedom: f64::INFINITY };
        let difference = difference(self.known(1.0), accepted_one);
        Comparison { difference, percent_error: (accepted != 0.0).then(|| (difference.value / accepted).abs() * 100.0) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::Unit;

    #[test]
    fn agreement_asks_for_what_takes_in_95_percent() {
        let of = |value, u, freedom| Constant { symbol: "g".into(), unit: Unit::one(), value, u, freedom };
        let g = |value, u| of(value, u, f64::INFINITY);
        // Two degrees of freedom: t = 4.303 (JCGM 100:2008, table G.2).
        let few = of(9.73, 0.02, 2.0).compare(9.81, 0.0).difference;
        assert!(few.agreement == Agreement::Within && (few.factor - 4.303).abs() < 1e-3, "{few:?}");
        assert_eq!(of(9.72, 0.02, 2.0).compare(9.81, 0.0).difference.agreement, Agreement::Outside);
        // The better known the other is, the more freedom there is in effect.
        let both = difference(of(1.0, 0.1, 2.0).known(1.0), of(1.0, 0.2, 60.0).known(1.0));
        assert!(
            (both.factor - student(0.05f64.powi(2) / (0.01f64.powi(2) / 2.0 + 0.04f64.powi(2) / 60.0))).abs() < 1e-9
        );
        assert_eq!(g(9.79, 0.02).compare(9.81, 0.0).difference.agreement, Agreement::Within);
        assert_eq!(g(9.70, 0.02).compare(9.81, 0.0).difference.agreement, Agreement::Outside);
        assert_eq!(g(9.70, 0.02).compare(9.81, 0.05).difference.agreement, Agreement::Outside);
        assert_eq!(g(9.71, 0.03).compare(9.81, 0.05).difference.agreement, Agreement::Within);
        assert_eq!(g(9.81, f64::NAN).compare(9.81, 0.0).difference.agreement, Agreement::Unknown);
        assert_eq!(g(1.0, 0.1).compare(0.0, 0.0).percent_error, None);
        let close = g(9.712, 0.1).compare(9.81, 0.0);
        assert!((close.percent_error.unwrap() - 0.998_98).abs() < 1e-4);
        assert!((percent_difference(9.712, 9.81).unwrap() - 1.003_996).abs() < 1e-4);
        assert!((close.difference.in_uncertainties().unwrap() - 0.98).abs() < 1e-9);
    }
}
