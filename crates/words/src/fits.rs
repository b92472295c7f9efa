//! Curves by their names, what a straight line in a picture says, and why a curve or a value on it cannot be found.

use zeitmass_core::fit::{FitError, Model, Shape, ShapeError};
use zeitmass_core::graph::LookError;

use crate::Words;

/// The name of a curve, inside a sentence.
impl Words for Model {
    fn words(&self) -> String {
        let name = match self {
            Self::Line => "straight line",
            Self::Proportional => "line through the origin",
            Self::Quadratic => "parabola",
            Self::Power => "power law",
            Self::Exponential => "exponential",
            Self::ExponentialOffset => "exponential with offset",
            Self::Inverse => "inverse",
            Self::InverseSquare => "inverse square",
            Self::Root => "square root",
            Self::Sine => "sine",
            Self::DampedSine => "damped sine",
            Self::Typed(_) => "curve of this formula",
        };
        name.to_owned()
    }
}

/// What a straight line in this picture says about `y` and `x`, by their symbols.
pub fn meaning(shape: Shape, x: &str, y: &str) -> String {
    match shape {
        Shape::Straight => format!("{y} changes in proportion to the change of {x}"),
        Shape::Square => format!("{y} grows with the square of {x}"),
        Shape::Root => format!("{y} grows with the square root of {x}"),
        Shape::Inverse => format!("{y} is proportional to one over {x}"),
        Shape::InverseSquare => format!("{y} is proportional to one over the square of {x}"),
        Shape::SquareUp => format!("the square of {y} changes in proportion to the change of {x}"),
        Shape::Exponential => format!("equal steps of {x} multiply {y} by equal factors: exponential, not merely bent"),
        Shape::Power => format!("{y} is proportional to a power of {x}; the slope is the exponent"),
    }
}

impl Words for FitError {
    fn words(&self) -> String {
        match self {
            Self::TooFewPoints { model, needed, have } => format!("A {} needs at least {needed} points; there {} now.", model.words(), if *have == 1 { "is 1".to_owned() } else { format!("are {have}") }),
            Self::AllXEqual => "All points have the same x, so no slope can be found. Vary x.".to_owned(),
            Self::NotFinite => "Some values are not finite numbers, so no curve can be found.".to_owned(),
            Self::NoValue { model, x } => format!("A {} has no value at x = {x}. Set that point aside or choose another curve.", model.words()),
            Self::NoUncertainty { point } => format!("Point {point} has no uncertainty, so it cannot be weighted. State one for its column, or let all points count the same."),
            Self::NoConvergence { model } => format!("No best {} was found from these start values. Type other start values, or choose another curve.", model.words()),
            Self::NoWave => "These points do not determine a wave: a straight line fits as well. Choose another curve, or measure over more of a period.".to_owned(),
            Self::Undetermined { symbol } => format!("These points do not determine {symbol}: the curve describes them as well with quite different values of it. Choose a simpler curve, or measure over a wider range."),
            Self::Formula(why) => why.words(),
        }
    }
}

impl Words for ShapeError {
    fn words(&self) -> String {
        match self {
            Self::NotAboveZero => "needs values above zero".to_owned(),
            Self::BelowZero => "needs values from zero up".to_owned(),
            Self::AtZero => "has no value where x is zero".to_owned(),
            Self::Line(why) => why.words(),
        }
    }
}

impl Words for LookError {
    fn words(&self) -> String {
        match self {
            Self::NoCurve => "There is no curve to look along. Choose one first.".to_owned(),
            Self::Fit(why) => why.words(),
            Self::OtherUnit { axis, typed } => {
                format!("The axis is in {}, not in {}.", axis.in_words(), typed.in_words())
            }
            Self::NoValue { at } => format!("The curve has no value at {at}."),
            Self::OutOfReach { height } => format!("The curve does not reach {height} near the data."),
        }
    }
}
