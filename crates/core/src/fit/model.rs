//! The curves that can be fitted.

use serde::{Deserialize, Serialize};
use strum::IntoStaticStr;

use super::{Data, FitError};
use crate::formula::{Formula, FormulaError, Problem, Tape, infer};
use crate::quantity::format::plain;
use crate::quantity::{Dimension, Exponent, Unit};

/// A curve that can be fitted.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, IntoStaticStr)]
#[serde(rename_all = "kebab-case")]
#[strum(serialize_all = "kebab-case")]
pub enum Model {
    /// y = slope·x + intercept.
    Line,
    /// y = slope·x.
    Proportional,
    /// y = a·x² + b·x + c.
    Quadratic,
    /// y = a·(x/1)ⁿ, where 1 is one unit of x.
    Power,
    /// y = a·exp(b·x).
    Exponential,
    /// y = a·exp(b·x) + c.
    ExponentialOffset,
    /// y = a/x.
    Inverse,
    /// y = a/x².
    InverseSquare,
    /// y = a·√x.
    Root,
    /// y = A·sin(ω·x + φ) + C.
    Sine,
    /// y = A·exp(−k·x)·sin(ω·x + φ) + C.
    DampedSine,
    /// A formula typed by a person.
    #[strum(serialize = "formula")]
    Typed(Box<Typed>),
}

/// A formula with free parameters.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Typed {
    /// The formula: what y is.
    pub formula: Formula,
    /// Symbols that stand for data: x first, further columns after it.
    pub data: Vec<String>,
    /// Start values by symbol, in coherent SI units; those missing are guessed.
    #[serde(default)]
    pub start: std::collections::BTreeMap<String, f64>,
}

impl Typed {
    /// Symbols of the free parameters, in order of appearance.
    pub fn parameters(&self) -> Vec<String> {
        let all = self.formula.symbols().into_iter();
        all.filter(|s| !self.data.iter().any(|d| d == s)).map(str::to_owned).collect()
    }
}

/// A model made ready for its data: how to compute it, and the units of its parameters.
#[derive(Clone, Debug)]
pub(super) struct Ready {
    pub tape: Tape,
    pub symbols: Vec<String>,
    pub units: Vec<Unit>,
    /// A parameter's value times its factor is its value in its unit.
    pub factors: Vec<f64>,
    /// What the points' x and y are multiplied with before the tape sees them.
    pub x_sizes: Vec<f64>,
    pub y_size: f64,
}

impl Model {
    /// The models that are not typed, in the order they are offered.
    pub const OFFERED: [Self; 11] = [
        Self::Line,
        Self::Proportional,
        Self::Quadratic,
        Self::Root,
        Self::Inverse,
        Self::InverseSquare,
        Self::Power,
        Self::Exponential,
        Self::ExponentialOffset,
        Self::Sine,
        Self::DampedSine,
    ];

    /// The name on the command line and in forms.
    pub fn name(&self) -> &'static str {
        self.into()
    }

    /// The model of that name.
    pub fn named(name: &str) -> Option<Self> {
        Self::OFFERED.into_iter().find(|m| m.name() == name)
    }

    /// The right side of its equation, over x.
    pub fn equation(&self) -> &str {
        match self {
            Self::Line => "slope*x + intercept",
            Self::Proportional => "slope*x",
            Self::Quadratic => "a*x^2 + b*x + c",
            Self::Power => "a*x^n",
            Self::Exponential => "a*exp(b*x)",
            Self::ExponentialOffset => "a*exp(b*x) + c",
            Self::Inverse => "a/x",
            Self::InverseSquare => "a/x^2",
            Self::Root => "a*sqrt(x)",
            Self::Sine => "A*sin(ω*x + φ) + C",
            Self::DampedSine => "A*exp(-k*x)*sin(ω*x + φ) + C",
            Self::Typed(t) => t.formula.text(),
        }
    }

    /// Symbols of its parameters.
    pub fn parameters(&self) -> Vec<String> {
        let fixed: &[&str] = match self {
            Self::Line => &["slope", "intercept"],
            Self::Proportional => &["slope"],
            Self::Quadratic | Self::ExponentialOffset => &["a", "b", "c"],
            Self::Power => &["a", "n"],
            Self::Exponential => &["a", "b"],
            Self::Inverse | Self::InverseSquare | Self::Root => &["a"],
            Self::Sine => &["A", "ω", "φ", "C"],
            Self::DampedSine => &["A", "k", "ω", "φ", "C"],
            Self::Typed(t) => return t.parameters(),
        };
        fixed.iter().map(|s| (*s).to_owned()).collect()
    }

    /// Whether it is a straight line.
    pub fn is_straight(&self) -> bool {
        matches!(self, Self::Line | Self::Proportional)
    }

    /// Whether it is linear in its parameters, so that the best ones can be computed directly.
    pub(super) fn is_linear(&self) -> bool {
        self.is_straight() || matches!(self, Self::Quadratic | Self::Inverse | Self::InverseSquare | Self::Root)
    }

    /// Whether a constant can be added to it without leaving its family.
    pub(super) fn has_height(&self) -> bool {
        !matches!(self, Self::Proportional | Self::Inverse | Self::InverseSquare | Self::Root)
    }

    /// What the columns of its design matrix are at x; for models that are linear in their parameters.
    pub(super) fn basis(&self, x: f64) -> Vec<f64> {
        match self {
            Self::Line => vec![x, 1.0],
            Self::Proportional => vec![x],
            Self::Quadratic => vec![x * x, x, 1.0],
            Self::Inverse => vec![1.0 / x],
            Self::InverseSquare => vec![1.0 / (x * x)],
            Self::Root => vec![x.sqrt()],
            Self::Power
            | Self::Exponential
            | Self::ExponentialOffset
            | Self::Sine
            | Self::DampedSine
            | Self::Typed(_) => Vec::new(),
        }
    }

    /// Makes the model ready: the tape, and the units of its parameters.
    pub(super) fn ready(&self, data: &Data, (x_units, y_unit): (&[Unit], &Unit)) -> Result<Ready, FitError> {
        if let Some(bad) = data.x.iter().flatten().find(|x| !self.has_value(**x)) {
            return Err(FitError::NoValue { model: self.clone(), x: plain(*bad) });
        }
        let symbols = self.parameters();
        let names: Vec<&str> = symbols.iter().map(String::as_str).collect();
        if let Self::Typed(typed) = self {
            return typed.ready(&names, data, (x_units, y_unit));
        }
        let formula = Formula::parse(self.equation())?;
        let tape = Tape::new(&formula, &["x"], &names)?;
        let one = Unit::one();
        let x = x_units.first().unwrap_or(&one);
        let (units, factors) = symbols.iter().map(|s| self.unit_of(s, x, y_unit)).unzip();
        Ok(Ready { tape, symbols, units, factors, x_sizes: vec![1.0], y_size: 1.0 })
    }

    /// Whether the curve has a value at x.
    fn has_value(&self, x: f64) -> bool {
        match self {
            Self::Power => x > 0.0,
            Self::Root => x >= 0.0,
            Self::Inverse | Self::InverseSquare => x != 0.0,
            Self::Line
            | Self::Proportional
            | Self::Quadratic
            | Self::Exponential
            | Self::ExponentialOffset
            | Self::Sine
            | Self::DampedSine
            | Self::Typed(_) => true,
        }
    }

    /// Unit of a parameter, and the factor that brings a number counted in the units of x and y to it. (Centimetres
    /// per metre become a pure number, and the number a hundredth.)
    fn unit_of(&self, symbol: &str, x: &Unit, y: &Unit) -> (Unit, f64) {
        let by_x = |power: i32| y.times(&x.power(Exponent::from_integer(power))?);
        let unit = match (self, symbol) {
            (Self::Line | Self::Proportional, "slope") | (Self::Quadratic, "b") => by_x(-1),
            (Self::Quadratic, "a") => by_x(-2),
            (Self::Inverse, _) => by_x(1),
            (Self::InverseSquare, _) => by_x(2),
            (Self::Root, _) => x.power(Exponent::new(-1, 2)).and_then(|p| y.times(&p)),
            (Self::Exponential | Self::ExponentialOffset, "b") | (Self::DampedSine, "k") => Unit::one().per(x),
            (_, "ω") => Unit::parse("rad").ok().and_then(|rad| rad.per(x)),
            (_, "φ") => Unit::parse("rad").ok(),
            (Self::Power, "n") => Some(Unit::one()),
            _ => Some(y.clone()),
        };
        let Some(unit) = unit else { return (Unit::one(), 1.0) };
        let counted = match (self, symbol) {
            (Self::Line | Self::Proportional, "slope") | (Self::Quadratic, "b") => y.size() / x.size(),
            (Self::Quadratic, "a") => y.size() / x.size().powi(2),
            (Self::Inverse, _) => y.size() * x.size(),
            (Self::InverseSquare, _) => y.size() * x.size().powi(2),
            (Self::Root, _) => y.size() / x.size().sqrt(),
            (Self::Exponential | Self::ExponentialOffset, "b") | (Self::DampedSine, "k") | (_, "ω") => 1.0 / x.size(),
            (_, "φ") | (Self::Power, "n") => 1.0,
            _ => y.size(),
        };
        let factor = counted / unit.size();
        // A factor that differs from one by rounding only is one.
        (unit, if (factor - 1.0).abs() < 1e-12 { 1.0 } else { factor })
    }
}

impl Typed {
    /// Works in coherent SI units when the units of the parameters follow from the formula, and in the numbers of the
    /// points when a quantity has an unknown power.
    fn ready(&self, names: &[&str], data: &Data, (x_units, y_unit): (&[Unit], &Unit)) -> Result<Ready, FitError> {
        let columns: Vec<&str> = self.data.iter().map(String::as_str).collect();
        if columns.len() != data.x.len() {
            let missing = columns.last().map_or_else(String::new, |s| (*s).to_owned());
            let span = self.formula.tree().span.clone();
            return Err(FormulaError { problem: Problem::UnknownSymbol(missing), span }.into());
        }
        let tape = Tape::new(&self.formula, &columns, names)?;
        let symbols: Vec<String> = names.iter().map(|s| (*s).to_owned()).collect();
        let known = |s: &str| {
            let place = columns.iter().position(|c| *c == s)?;
            Some(x_units.get(place).map_or_else(Dimension::none, Unit::dimension))
        };
        let found = match infer(&self.formula, y_unit.dimension(), &known) {
            Ok(found) => found,
            Err(FormulaError { problem: Problem::VariableExponent, .. }) => {
                let p = symbols.len();
                let sizes = vec![1.0; columns.len()];
                return Ok(Ready {
                    tape,
                    symbols,
                    units: vec![Unit::one(); p],
                    factors: vec![1.0; p],
                    x_sizes: sizes,
                    y_size: 1.0,
                });
            }
            Err(e) => return Err(e.into()),
        };
        let one = Unit::one();
        let x = x_units.first().unwrap_or(&one);
        let handy: Vec<Unit> =
            [Some(y_unit.clone()), Some(x.clone()), Unit::one().per(x), y_unit.per(x)].into_iter().flatten().collect();
        let units: Vec<Unit> = symbols
            .iter()
            .map(|s| {
                let dimension = found.get(s).copied().unwrap_or_default();
                // The units the person works in, where they fit.
                let fitting = handy.iter().find(|u| !dimension.is_none() && u.dimension() == dimension);
                fitting.cloned().unwrap_or_else(|| Unit::coherent(&dimension))
            })
            .collect();
        let factors = units.iter().map(|u| 1.0 / u.size()).collect();
        let x_sizes = (0..columns.len()).map(|k| x_units.get(k).map_or(1.0, Unit::size)).collect();
        Ok(Ready { tape, symbols, units, factors, x_sizes, y_size: y_unit.size() })
    }
}
