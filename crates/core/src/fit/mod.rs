//! Fits: a model, its parameters with uncertainties, and how well it describes the points.

mod line;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::quantity::Unit;
pub use line::fit_line;

/// The shapes of line that can be fitted.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Model {
    /// y = a·x + b.
    Line,
    /// y = a·x.
    Proportional,
}

impl Model {
    /// All models.
    pub const ALL: [Self; 2] = [Self::Line, Self::Proportional];

    /// The name on the command line and in stored edits.
    pub fn name(self) -> &'static str {
        match self {
            Self::Line => "line",
            Self::Proportional => "proportional",
        }
    }

    /// The model of that name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|m| m.name() == name)
    }

    /// The name for people.
    pub fn title(self) -> &'static str {
        match self {
            Self::Line => "straight line",
            Self::Proportional => "line through the origin",
        }
    }
}

/// A fitted parameter.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Estimate {
    /// Best estimate.
    pub value: f64,
    /// Standard uncertainty. `NaN` when there are no degrees of freedom to tell it.
    pub u: f64,
}

/// A fitted line, in the units of the points it was given.
#[derive(Clone, Debug, PartialEq)]
pub struct LineFit {
    /// Which line.
    pub model: Model,
    /// Slope, in y per x.
    pub slope: Estimate,
    /// Intercept, in y; absent from a line through the origin.
    pub intercept: Option<Estimate>,
    /// Number of points.
    pub n: usize,
    /// Degrees of freedom: points minus parameters.
    pub dof: usize,
    /// Residual standard deviation, in y; `NaN` without degrees of freedom.
    pub residual_sd: f64,
    /// Coefficient of determination; about zero instead of the mean for a line through the origin.
    pub r2: f64,
    /// Observed minus fitted y, in the order of the points.
    pub residuals: Vec<f64>,
    /// Smallest and largest x of the points.
    pub span: (f64, f64),
}

impl LineFit {
    /// The line's y at x.
    pub fn at(&self, x: f64) -> f64 {
        self.slope.value * x + self.intercept.map_or(0.0, |b| b.value)
    }

    /// The slope's unit for y and x in these units, and the factor that brings the slope to it.
    /// (Centimetres per metre become a pure number, and the slope a hundredth.)
    pub fn slope_unit(x: &Unit, y: &Unit) -> Option<(Unit, f64)> {
        let unit = y.per(x)?;
        let factor = y.size() / x.size() / unit.size();
        // A factor that differs from one by rounding only is one.
        Some((unit, if (factor - 1.0).abs() < 1e-12 { 1.0 } else { factor }))
    }
}

/// Why there is no line.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum FitError {
    /// Fewer points than parameters.
    #[error("A {model} needs at least {needed} points; there {} now.", if *have == 1 { "is 1".to_owned() } else { format!("are {have}") })]
    TooFewPoints {
        /// The model's title.
        model: &'static str,
        /// Points needed.
        needed: usize,
        /// Points there are.
        have: usize,
    },
    /// All points above one another.
    #[error("All points have the same x, so no slope can be found. Vary x.")]
    AllXEqual,
    /// Infinite or missing values.
    #[error("Some values are not finite numbers, so no line can be found.")]
    NotFinite,
}
