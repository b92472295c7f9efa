//! Slips: likely mistakes, found from what stands in a logbook.
//!
//! A constant that is off by a factor people forget, a typed value that two swapped digits would bring onto the line, points behind an impact in the
//! fit, trials in which more than one quantity changed. Each slip has its evidence, for the teacher, and a question, for the student, that never says
//! the answer. Nothing is called a slip that chance or the instruments explain.

mod constant;
mod points;
mod typed;

use serde::{Deserialize, Serialize};

use super::part::Part;
use super::{Analysis, Logbook};
use crate::record::RowId;

/// Slips that are told at most, the surest first.
const MOST: usize = 4;

/// A likely mistake.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Slip {
    /// Of what kind.
    pub kind: SlipKind,
    /// Whether something in the logbook speaks for it beside the number that is off.
    pub sure: bool,
    /// What was seen, for the teacher.
    pub evidence: String,
    /// The same as a question to the student, which does not say the answer.
    pub question: String,
    /// The part of the bench it is about.
    pub part: Part,
    /// The row it is about.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub row: Option<RowId>,
}

/// Kinds of likely mistakes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum SlipKind {
    /// A diameter where the law has the radius, or the other way about.
    Radius,
    /// The surface or a square where the law has the cross-section.
    CrossSection,
    /// The way there and back taken for the way there.
    RoundTrip,
    /// The mean velocity of an accelerated motion taken for the final one.
    MeanVelocity,
    /// A factor 2 too many or too few.
    Two,
    /// A factor 4.
    Four,
    /// A factor π.
    Pi,
    /// A factor π².
    PiSquared,
    /// A factor 2π: it was not squared, or not divided by.
    TwoPi,
    /// A power of ten.
    PowerOfTen,
    /// Minutes for seconds, or hours for minutes.
    Sixty,
    /// Kilometres an hour for metres a second.
    KilometresPerHour,
    /// Degrees for radians.
    Degrees,
    /// A quantity left out of a product.
    Product,
    /// A quantity where the law has its square, or the other way about.
    Square,
    /// Axes swapped: the slope is inverted.
    Inverted,
    /// A sign lost for a direction.
    Sign,
    /// Two digits of a typed value swapped.
    SwappedDigits,
    /// A digit of a typed value lost.
    LostDigit,
    /// A digit of a typed value written twice.
    DoubledDigit,
    /// The point of a typed value moved.
    MovedPoint,
    /// Points behind an impact in the fit.
    Impact,
    /// More than one quantity changed between trials.
    SeveralChanged,
}

impl SlipKind {
    /// In a few words, for lists.
    pub fn words(self) -> &'static str {
        match self {
            Self::Radius => "radius or diameter",
            Self::CrossSection => "cross-section",
            Self::RoundTrip => "there and back",
            Self::MeanVelocity => "mean or final velocity",
            Self::Two => "factor 2",
            Self::Four => "factor 4",
            Self::Pi => "factor π",
            Self::PiSquared => "factor π²",
            Self::TwoPi => "factor 2π",
            Self::PowerOfTen => "power of ten",
            Self::Sixty => "minutes for seconds",
            Self::KilometresPerHour => "km/h for m/s",
            Self::Degrees => "degrees for radians",
            Self::Product => "a quantity left out",
            Self::Square => "not squared",
            Self::Inverted => "axes swapped",
            Self::Sign => "a sign",
            Self::SwappedDigits => "digits swapped",
            Self::LostDigit => "a digit lost",
            Self::DoubledDigit => "a digit doubled",
            Self::MovedPoint => "decimal point",
            Self::Impact => "points after an impact",
            Self::SeveralChanged => "several quantities changed",
        }
    }
}

impl Logbook {
    /// Likely mistakes, the surest first. For the teacher: they say where the constant stands to its key.
    pub fn slips(&self, analysis: &Analysis) -> Vec<Slip> {
        self.all_slips(analysis, true)
    }

    /// Questions about likely mistakes, for the students, if the sheet allows it. Where the constant is hidden or dealt nothing that compares with it
    /// is asked: who tries other laws would find the key by when the question comes and goes.
    pub fn slips_to_ask(&self, analysis: &Analysis) -> Vec<Slip> {
        if !self.sheet().ask_slips || self.state().office.handed_in {
            return Vec::new();
        }
        self.all_slips(analysis, self.key().is_none())
    }

    fn all_slips(&self, analysis: &Analysis, with_value: bool) -> Vec<Slip> {
        let mut all = self.slips_of_points(analysis);
        all.extend(self.slips_of_digits(analysis));
        all.extend(self.slips_of_constant(analysis, with_value));
        all.sort_by_key(|slip| !slip.sure);
        all.truncate(MOST);
        all
    }
}
