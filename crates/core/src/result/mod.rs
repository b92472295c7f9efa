//! Results: from a slope through a law to a constant, from a column to its mean, from a calibration line to an unknown;
//! and how they compare.

mod compare;
mod exponent;
mod pool;
mod read_out;
mod spec;
mod steady;

use derive_more::From;

use crate::fit::{Fit, FitError, Parameter};
use crate::formula::{Formula, FormulaError};
use crate::quantity::{Source, Uncertain, Unit};
pub use compare::{Agreement, Comparison, Difference, Known, difference, percent_difference};
pub use exponent::{Exponent, simple_fraction};
pub use pool::{AgainstKeys, Pooled, Spread};
pub use read_out::{Feedback, ReadOut, read_out};
pub use spec::{FIRST_RESULT, Law, MOST_RESULTS, ResultFrom, ResultId, ResultSpec, Term};
pub use steady::{Steady, steady};

/// A constant found.
#[derive(Clone, Debug, PartialEq)]
pub struct Constant {
    /// Its symbol.
    pub symbol: String,
    /// Its unit.
    pub unit: Unit,
    /// Its value in `unit`.
    pub value: f64,
    /// Its standard uncertainty in `unit`; `NaN` when it cannot be told.
    pub u: f64,
    /// Degrees of freedom that was found with; infinite where it follows from stated ones.
    pub freedom: f64,
}

impl Constant {
    /// The same in another unit, if that is of the same dimension.
    #[must_use]
    pub fn in_unit(self, unit: &Unit) -> Self {
        if !self.unit.same_dimension(unit) {
            return self;
        }
        let times = self.unit.size() / unit.size();
        Self { value: self.value * times, u: self.u * times, unit: unit.clone(), ..self }
    }
}

/// Why there is no constant.
#[derive(Clone, Debug, PartialEq, From)]
pub enum ConstantError {
    /// No line to start from.
    #[from]
    NoLine(FitError),
    /// The law cannot be solved.
    #[from]
    Law(FormulaError),
    /// The curve has no such parameter.
    NoSuchParameter {
        /// Its symbol.
        symbol: String,
    },
    /// The model is not in the logbook any more.
    NoModel,
    /// The model has no fitted parameter.
    NothingFitted {
        /// Number of the model as shown.
        number: u32,
    },
    /// The unknown cannot be read off the calibration line.
    #[from]
    Calibration(CalibrationError),
}

/// Why an unknown cannot be read off a calibration line.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum CalibrationError {
    /// The row of the unknown is empty.
    NoReading {
        /// Symbol of what is missing.
        symbol: String,
    },
    /// There is no line.
    NoCurve,
    /// It is of another dimension.
    OtherUnit,
    /// The line does not come that far.
    OutOfReach,
    /// The curve turns.
    SeveralPlaces,
}

/// Two values in units that do not go together.
#[derive(Clone, Debug, PartialEq)]
pub struct NotComparable {
    /// Unit of the accepted value.
    pub accepted: Unit,
    /// Unit of the result.
    pub found: Unit,
}

/// Solves “this parameter of the curve means `law`” for the law's unknown symbol. `known` gives value and unit of held
/// quantities by symbol.
///
/// The uncertainty follows from the parameter's to first order (JCGM 100:2008, 5.1.2).
///
/// # Errors
/// [`ConstantError`] with the place in the law where it cannot be solved.
pub fn from_parameter(
    parameter: &Parameter,
    law: &Formula,
    known: &dyn Fn(&str) -> Option<(Uncertain, Unit)>,
) -> Result<Constant, ConstantError> {
    let size = parameter.unit.size();
    let unsure = parameter.u.is_nan();
    let u = if unsure { 0.0 } else { parameter.u };
    // Source 0 belongs to no reading: the curve's scatter is a source of its own.
    let target = Uncertain::from_source(parameter.value * size, u * size, Source(0));
    let found = law.solve(target, parameter.unit.clone(), known)?;
    let size = found.unit.size();
    let by_slope = found.value.terms().iter().find(|(s, _)| *s == Source(0)).map_or(0.0, |(_, t)| t.abs());
    Ok(Constant {
        symbol: found.symbol,
        value: found.value.value / size,
        u: if unsure { f64::NAN } else { found.value.u() / size },
        freedom: effective(by_slope, parameter.freedom, found.value.u()),
        unit: found.unit,
    })
}

/// Degrees of freedom of an uncertainty of which a part was found with few (Welch and Satterthwaite, JCGM 100:2008, G.4).
pub(crate) fn effective(part: f64, freedom: f64, whole: f64) -> f64 {
    if part == 0.0 { f64::INFINITY } else { freedom * (whole / part).powi(4) }
}

/// Difference of the slopes of two lines, in the unit of the first; `None` when their units do not go together.
pub fn compare_slopes(first: &Fit, second: &Fit) -> Option<(Difference, Unit)> {
    let (a, b) = (first.slope()?, second.slope()?);
    if !a.unit.same_dimension(&b.unit) {
        return None;
    }
    let factor = b.unit.size() / a.unit.size();
    let known = |p: &Parameter, factor: f64| Known { value: p.value * factor, u: p.u * factor, freedom: p.freedom };
    Some((difference(known(a, 1.0), known(b, factor)), a.unit.clone()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::fit::{Data, Model, Weighting, fit};

    /// Standard gravity, 9.80665 m/s² (3rd CGPM 1901; ISO 80000-3): a pendulum that swings by it gives it back.
    #[test]
    fn exact_pendulum_periods_give_standard_gravity_back() {
        let law = Formula::parse("4*pi^2/g").unwrap();
        let lengths_cm = [20.0, 50.0, 90.0, 140.0, 200.0];
        let points: Vec<_> =
            lengths_cm.map(|l| (l, 4.0 * std::f64::consts::PI.powi(2) * l / 100.0 / 9.806_65)).to_vec();
        let (cm, s2) = (Unit::parse("cm").unwrap(), Unit::parse("s^2").unwrap());
        let line = fit(&Data::of(&points), &Model::Line, Weighting::Equal, (&[cm], &s2)).unwrap();
        let g = from_parameter(line.slope().unwrap(), &law, &|_| None).unwrap();
        assert_eq!(g.unit.to_string(), "cm/s^2");
        assert!((g.value - 980.665).abs() < 1e-9);
        let si = g.clone().in_unit(&Unit::parse("m/s^2").unwrap());
        assert!((si.value - 9.806_65).abs() < 1e-11 && si.unit.to_string() == "m/s^2");
        assert_eq!(g.clone().in_unit(&Unit::parse("N").unwrap()), g);
        assert!(g.compare(980.665, 0.0).percent_error.unwrap() < 1e-10);
    }
}
