//! Inquiry: what students commit to before the first run, and how it is held against what came out.
//!
//! A [`Forecast`] has sketches of curves, a [`Hypothesis`] and a [`Prediction`]; [`compare`] judges a sketch by its shape alone,
//! never by a score, and [`outcome`] holds the hypothesis against the record. [`incomparable`] finds trials in which more than one quantity changed.

mod claim;
mod evidence;
mod hypothesis;
mod number;
mod outcome;
mod pick;
mod question;
mod shape;
mod step;
mod trials;
mod verdict;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::quantity::{Decimal, Unit};
pub use claim::Claim;
pub use evidence::{Shown, shown};
pub use hypothesis::{Hypothesis, Supposed, is_column};
pub use number::{NumberFault, Target};
pub use outcome::{Turned, outcome};
pub use pick::CurvePick;
pub use question::{
    Answer, Check, Choice, Expected, Extreme, Gap, LONGEST_ANSWER, LONGEST_NUMBER, MOST_POINTED, NumberAsked, Piece,
    Pointable, Pointer, Position, Question, QuestionKind, Within,
};
pub use shape::{Manner, Remark, Side, Span, Steepness, Way, compare, outline};
pub use step::Step;
pub use trials::{Trial, incomparable};
pub use verdict::{Fault, Missing, Untold, Verdict, Wanted};

/// Most points of a sketch.
pub const MOST_SKETCHED: usize = 600;
/// Longest reason of a hypothesis, in characters.
pub const LONGEST_REASON: usize = 1000;

/// What was committed to before the first run.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Forecast {
    /// Sketches by channel.
    pub sketches: BTreeMap<String, Sketch>,
    /// The hypothesis.
    pub hypothesis: Option<Hypothesis>,
    /// The predicted value.
    pub prediction: Option<Prediction>,
    /// What came out instead of the prediction, worked out by the students later.
    pub outcome: Option<(Decimal, Unit)>,
    /// Sketches of earlier rounds, where the sheet asks for sketches again after a run.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub earlier: Vec<Round>,
}

/// Sketches that were made before some runs, and stand since.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Round {
    /// Number of the last run they were made for.
    pub until: u32,
    /// Sketches by channel.
    pub sketches: BTreeMap<String, Sketch>,
}

impl Forecast {
    /// The sketches that were made before a run.
    pub fn sketches_for(&self, run: u32) -> &BTreeMap<String, Sketch> {
        self.earlier.iter().find(|round| run <= round.until).map_or(&self.sketches, |round| &round.sketches)
    }
}

/// A curve sketched by hand: t in s and the value in the channel's unit, one value a time.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Sketch {
    /// Its points, ascending in time.
    pub points: Vec<[f64; 2]>,
    /// When it was last changed, in seconds since 1970 (UTC); of one from a file, when that was brought.
    pub at: i64,
    /// Whether it was brought from a file, so that nobody knows when it was made.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub brought: bool,
}

/// A value written down before the first run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Prediction {
    /// Its number.
    pub number: Decimal,
    /// Its unit.
    pub unit: Unit,
    /// When it was written, in seconds since 1970 (UTC); of one from a file, when that was brought.
    pub at: i64,
    /// Whether it was brought from a file, so that nobody knows when it was made.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub brought: bool,
}
