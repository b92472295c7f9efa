//! The constant: from the slope through the law to a value, and its comparison with an accepted one.

use thiserror::Error;

use crate::fit::{FitError, LineFit};
use crate::formula::{Formula, FormulaError};
use crate::quantity::{Source, Uncertain, Unit};

/// The constant found from a line.
#[derive(Clone, Debug, PartialEq)]
pub struct Constant {
    /// Its symbol.
    pub symbol: String,
    /// Its unit.
    pub unit: Unit,
    /// Its value in `unit`.
    pub value: f64,
    /// Its standard uncertainty in `unit`; `NaN` when the line has no degrees of freedom.
    pub u: f64,
}

/// Why there is no constant.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum ConstantError {
    /// No line to start from.
    #[error("{0}")]
    NoLine(#[from] FitError),
    /// The law cannot be solved.
    #[error("{0}")]
    Law(#[from] FormulaError),
    /// The slope's unit could not be formed.
    #[error("The slope has no unit that can be handled here.")]
    NoUnit,
}

/// Solves “the slope means `law`” for the law's unknown symbol. x and y are the units of the axes;
/// `known` gives value and unit of held quantities by symbol.
///
/// The uncertainty follows from the slope's to first order (JCGM 100:2008, 5.1.2).
///
/// # Errors
/// [`ConstantError`] with the place in the law where it cannot be solved.
pub fn from_slope(
    line: &LineFit,
    (x, y): (&Unit, &Unit),
    law: &Formula,
    known: &dyn Fn(&str) -> Option<(Uncertain, Unit)>,
) -> Result<Constant, ConstantError> {
    let (unit, factor) = LineFit::slope_unit(x, y).ok_or(ConstantError::NoUnit)?;
    let size = unit.size() * factor;
    let unsure = line.slope.u.is_nan();
    let u = if unsure { 0.0 } else { line.slope.u };
    // Source 0 belongs to no reading: the slope's scatter is a source of its own.
    let slope = Uncertain::from_source(line.slope.value * size, u * size, Source(0));
    let found = law.solve(slope, unit, known)?;
    let size = found.unit.size();
    Ok(Constant {
        symbol: found.symbol,
        value: found.value.value / size,
        u: if unsure { f64::NAN } else { found.value.u() / size },
        unit: found.unit,
    })
}

/// How two values compare.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Comparison {
    /// Found minus accepted, in the constant's unit.
    pub difference: f64,
    /// |found − accepted| / |accepted| in percent; `None` when the accepted value is zero.
    pub percent_error: Option<f64>,
    /// Whether they agree.
    pub agreement: Agreement,
}

/// Whether two values agree within their uncertainty.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Agreement {
    /// They differ by less than twice the combined standard uncertainty.
    Within,
    /// They differ by more.
    Outside,
    /// The uncertainty is not known.
    Unknown,
}

impl Constant {
    /// Compares with an accepted value of standard uncertainty `accepted_u`, both in this constant's unit.
    ///
    /// Values agree when they differ by at most 2·√(u² + u_accepted²): coverage factor 2, about 95 %
    /// (JCGM 100:2008, 6.2 and G.6.6).
    pub fn compare(&self, accepted: f64, accepted_u: f64) -> Comparison {
        let difference = self.value - accepted;
        let u = self.u.hypot(accepted_u);
        Comparison {
            difference,
            percent_error: (accepted != 0.0).then(|| (difference / accepted).abs() * 100.0),
            agreement: match u {
                u if u.is_nan() => Agreement::Unknown,
                u if difference.abs() <= 2.0 * u => Agreement::Within,
                _ => Agreement::Outside,
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::fit::{Model, fit_line};

    /// Standard gravity, 9.80665 m/s² (3rd CGPM 1901; ISO 80000-3): a pendulum that swings by it gives it back.
    #[test]
    fn exact_pendulum_periods_give_standard_gravity_back() {
        let law = Formula::parse("4*pi^2/g").unwrap();
        let lengths_cm = [20.0, 50.0, 90.0, 140.0, 200.0];
        let points: Vec<_> =
            lengths_cm.map(|l| (l, 4.0 * std::f64::consts::PI.powi(2) * l / 100.0 / 9.806_65)).to_vec();
        let line = fit_line(&points, Model::Line).unwrap();
        let (cm, s2) = (Unit::parse("cm").unwrap(), Unit::parse("s^2").unwrap());
        let g = from_slope(&line, (&cm, &s2), &law, &|_| None).unwrap();
        assert_eq!(g.unit.to_string(), "cm/s^2");
        assert!((g.value - 980.665).abs() < 1e-9);
        let back = g.compare(980.665, 0.0);
        assert!(back.percent_error.unwrap() < 1e-10);
    }

    #[test]
    fn agreement_asks_for_twice_the_uncertainty() {
        let g = |value, u| Constant { symbol: "g".into(), unit: Unit::one(), value, u };
        assert_eq!(g(9.79, 0.02).compare(9.81, 0.0).agreement, Agreement::Within);
        assert_eq!(g(9.70, 0.02).compare(9.81, 0.0).agreement, Agreement::Outside);
        assert_eq!(g(9.81, f64::NAN).compare(9.81, 0.0).agreement, Agreement::Unknown);
        assert_eq!(g(1.0, 0.1).compare(0.0, 0.0).percent_error, None);
        assert!((g(9.712, 0.1).compare(9.81, 0.0).percent_error.unwrap() - 0.998_98).abs() < 1e-4);
    }
}
