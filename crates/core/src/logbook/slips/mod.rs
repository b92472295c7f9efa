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
use crate::quantity::Unit;
use crate::record::RowId;

/// Slips that are told at most, the surest first.
const MOST: usize = 4;

/// A likely mistake.
#[derive(Clone, Debug, PartialEq)]
pub struct Slip {
    /// Of what kind.
    pub kind: SlipKind,
    /// Whether something in the logbook speaks for it beside the number that is off.
    pub sure: bool,
    /// What was seen. The teacher is told; the student is asked, in a way that does not say the answer.
    pub sign: Sign,
    /// The part of the bench it is about.
    pub part: Part,
    /// The row it is about.
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

/// A factor that people forget.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Factor {
    /// 2.
    Two,
    /// 4.
    Four,
    /// π.
    Pi,
    /// π².
    PiSquared,
    /// 2π.
    TwoPi,
    /// A power of ten.
    PowerOfTen,
    /// 60, or 60 twice: of times.
    Sixty,
    /// 3.6: of velocities.
    KilometresPerHour,
    /// 180/π: of angles.
    Degrees,
}

impl Factor {
    /// The kind of slip that it is by itself.
    pub fn kind(self) -> SlipKind {
        match self {
            Self::Two => SlipKind::Two,
            Self::Four => SlipKind::Four,
            Self::Pi => SlipKind::Pi,
            Self::PiSquared => SlipKind::PiSquared,
            Self::TwoPi => SlipKind::TwoPi,
            Self::PowerOfTen => SlipKind::PowerOfTen,
            Self::Sixty => SlipKind::Sixty,
            Self::KilometresPerHour => SlipKind::KilometresPerHour,
            Self::Degrees => SlipKind::Degrees,
        }
    }
}

/// How a value may have been mistyped.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Mistyped {
    /// Two digits swapped.
    SwappedDigits,
    /// A digit lost.
    LostDigit,
    /// A digit written twice.
    DoubledDigit,
    /// The point moved.
    MovedPoint,
}

impl Mistyped {
    /// The kind of slip that it is.
    pub fn kind(self) -> SlipKind {
        match self {
            Self::SwappedDigits => SlipKind::SwappedDigits,
            Self::LostDigit => SlipKind::LostDigit,
            Self::DoubledDigit => SlipKind::DoubledDigit,
            Self::MovedPoint => SlipKind::MovedPoint,
        }
    }
}

/// What was seen of a likely mistake.
#[derive(Clone, Debug, PartialEq)]
pub enum Sign {
    /// The constant is off by a factor people forget.
    Times {
        /// Symbol of the constant.
        symbol: String,
        /// The factor, above one.
        times: f64,
        /// Whether the constant is too large by it.
        large: bool,
        /// What the factor is.
        factor: Factor,
        /// What speaks for one mistake that leads to it.
        hint: Option<Hint>,
    },
    /// It has the right amount and the wrong sign.
    OtherSign,
    /// It would be right with the other of plus and minus.
    OtherOperator {
        /// Symbol of the column.
        symbol: String,
        /// The operator that would be right.
        operator: char,
    },
    /// It would come out with the axes swapped.
    SwappedAxes {
        /// What should go up.
        up: String,
        /// What should go across.
        across: String,
    },
    /// It would have its unit with a power of what stands on an axis.
    AxisPower {
        /// Symbol on the axis.
        symbol: String,
        /// Which power.
        power: AxisPower,
    },
    /// It lacks a factor that no formula has.
    Unused {
        /// Symbol of the quantity.
        symbol: String,
        /// Its unit.
        unit: Unit,
    },
    /// The line goes through rows in which more than one quantity changed.
    Odd {
        /// Numbers of the rows.
        rows: Vec<usize>,
        /// What changed in the first of them.
        what: String,
    },
    /// Two lines describe the points far better than one.
    Impact {
        /// Where they meet, with its unit.
        at: String,
    },
    /// A mended value would bring its row onto the line.
    Digits {
        /// Number of the row.
        row: usize,
        /// Symbol of the column.
        symbol: String,
        /// The value as it stands.
        value: String,
        /// How it may have been mistyped.
        way: Mistyped,
    },
}

/// What speaks for one mistake among those that lead to a factor.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Hint {
    /// A quantity is a radius or a diameter.
    Round {
        /// Its symbol.
        symbol: String,
    },
    /// A formula has π and a square.
    PiAndSquare,
    /// A signal goes there and back.
    ThereAndBack,
    /// A quantity is a distance over a time.
    Mean {
        /// Its symbol.
        symbol: String,
    },
}

/// A power of what stands on an axis.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum AxisPower {
    /// Its square.
    Square,
    /// One over it.
    Inverse,
    /// Its root.
    Root,
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
