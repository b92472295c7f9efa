//! How two values compare.

use super::Constant;

/// How a constant compares with an accepted value.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Comparison {
    /// Found minus accepted, in the constant's unit, with its combined uncertainty.
    pub difference: Difference,
    /// |found − accepted| / |accepted| in percent; `None` when the accepted value is zero.
    pub percent_error: Option<f64>,
    /// |found − accepted| / ((|found| + |accepted|)/2) in percent; `None` when both are zero.
    pub percent_difference: Option<f64>,
}

/// A difference with its uncertainty.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Difference {
    /// First minus second.
    pub value: f64,
    /// √(u₁² + u₂²); `NaN` when one of them is not known.
    pub u: f64,
    /// Whether the two agree.
    pub agreement: Agreement,
}

/// Whether two values agree within their uncertainty.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Agreement {
    /// They differ by at most twice the combined standard uncertainty.
    Within,
    /// They differ by more.
    Outside,
    /// The uncertainty is not known.
    Unknown,
}

/// Compares two independent values, each with its standard uncertainty.
///
/// They agree when they differ by at most 2·√(u₁² + u₂²): coverage factor 2, about 95 % (JCGM 100:2008, 6.2 and G.6.6).
pub fn difference(first: (f64, f64), second: (f64, f64)) -> Difference {
    let value = first.0 - second.0;
    let u = first.1.hypot(second.1);
    let agreement = match u {
        u if u.is_nan() => Agreement::Unknown,
        u if value.abs() <= 2.0 * u => Agreement::Within,
        _ => Agreement::Outside,
    };
    Difference { value, u, agreement }
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
    /// Compares with an accepted value of standard uncertainty `accepted_u`, both in this constant's unit.
    pub fn compare(&self, accepted: f64, accepted_u: f64) -> Comparison {
        let difference = difference((self.value, self.u), (accepted, accepted_u));
        Comparison {
            difference,
            percent_error: (accepted != 0.0).then(|| (difference.value / accepted).abs() * 100.0),
            percent_difference: percent_difference(self.value, accepted),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::Unit;

    #[test]
    fn agreement_asks_for_twice_the_uncertainty() {
        let g = |value, u| Constant { symbol: "g".into(), unit: Unit::one(), value, u };
        assert_eq!(g(9.79, 0.02).compare(9.81, 0.0).difference.agreement, Agreement::Within);
        assert_eq!(g(9.70, 0.02).compare(9.81, 0.0).difference.agreement, Agreement::Outside);
        assert_eq!(g(9.70, 0.02).compare(9.81, 0.05).difference.agreement, Agreement::Outside);
        assert_eq!(g(9.71, 0.03).compare(9.81, 0.05).difference.agreement, Agreement::Within);
        assert_eq!(g(9.81, f64::NAN).compare(9.81, 0.0).difference.agreement, Agreement::Unknown);
        assert_eq!(g(1.0, 0.1).compare(0.0, 0.0).percent_error, None);
        let close = g(9.712, 0.1).compare(9.81, 0.0);
        assert!((close.percent_error.unwrap() - 0.998_98).abs() < 1e-4);
        assert!((close.percent_difference.unwrap() - 1.003_996).abs() < 1e-4);
        assert!((close.difference.in_uncertainties().unwrap() - 0.98).abs() < 1e-9);
    }
}
