//! Tables, lines and results: what is said of how they stand.

use zeitmass_core::fit::{Bend, FEWEST, Judgement, Weighting};
use zeitmass_core::logbook::{Sources, TermVerdict};
use zeitmass_core::record::StoppingRule;
use zeitmass_core::result::{Feedback, Spread};

use crate::Words;

/// How the points of a fit count.
pub fn weighting(weighting: Weighting) -> &'static str {
    match weighting {
        Weighting::Equal => "all points count the same",
        Weighting::Up => "by the uncertainty of y",
        Weighting::Both => "by the uncertainties of x and y",
    }
}

/// What is wrong with a filled gap of a read-out; never the answer.
impl Words for Feedback {
    fn words(&self) -> String {
        let said = match self {
            Self::Empty => "",
            Self::Right => "agrees with the line",
            Self::UnknownQuantity => "this is not a quantity of this graph",
            Self::OtherAxis => "this quantity is on the other axis",
            Self::NotANumber => "this is not a number",
            Self::Number => "the number does not agree with the line to the digits you gave",
            Self::Sign => "look at the sign: does the line rise or fall?",
            Self::Decade => "the digits agree, the decimal point does not",
            Self::NotAUnit => "this is not a unit",
            Self::Unit => "this unit belongs to another quantity",
            Self::OtherUnit => "the right kind of unit, but not the one the number is in",
        };
        said.to_owned()
    }
}

/// What the results of a class say of their uncertainties.
impl Words for Spread {
    fn words(&self) -> String {
        let said = match self {
            Self::Wide => {
                "The results differ by more than their uncertainties explain: some uncertainties are too small, or some have a systematic error."
            }
            Self::Narrow => "The results agree better than their uncertainties say: the uncertainties are too large.",
            Self::AsStated => "The results spread as their uncertainties say: they are believable.",
        };
        said.to_owned()
    }
}

/// How straight so many points lie in a picture of the shape strip: `bends upward: residuals + − − +`.
pub fn straightness(judgement: &Judgement, points: usize) -> String {
    let sign = |s: &i8| match s {
        1 => "+",
        -1 => "−",
        _ => "0",
    };
    let signs = judgement.signs.iter().map(sign).collect::<Vec<_>>().join(" ");
    let how = match judgement.bend {
        _ if points < FEWEST => return "too few points to tell".to_owned(),
        Bend::None if judgement.signs.iter().all(|s| *s == 0) => return "straight to the last digit".to_owned(),
        Bend::None => "no bend",
        Bend::Upward => "bends upward",
        Bend::Downward => "bends downward",
        Bend::Outdone => "another shape is far straighter",
        Bend::Loose => "hardly follows a line",
        Bend::Waving => "waves about the line",
    };
    format!("{how}: residuals {signs}")
}

/// How a term of the law stands to the line.
impl Words for TermVerdict {
    fn words(&self) -> String {
        match self {
            Self::HeldByAxis { axis } => format!("this is what {axis} holds"),
            Self::NotOnAxis { axis } => format!("{axis} on the axis is something else"),
            Self::NotInTable => "this cannot be worked out from the columns of the table".to_owned(),
            Self::InterceptAgrees => "the intercept agrees within its uncertainty".to_owned(),
            Self::InterceptDiffers => "the intercept differs by more than its uncertainty".to_owned(),
            Self::InterceptUnsure => {
                "the uncertainty of the intercept is not determined: one more point would determine it".to_owned()
            }
            Self::Gives { symbol, value } => format!("so {symbol} = {value}"),
            Self::Unsolved(why) => why.words(),
        }
    }
}

/// When repeats are enough, inside a sentence.
impl Words for StoppingRule {
    fn words(&self) -> String {
        match self {
            Self::Runs { stem, wanted } => format!("{wanted} repeats of {stem}"),
            Self::Change { stem, percent } => {
                format!("one more repeat of {stem} changes no mean by {}\u{A0}% or more", percent.pretty())
            }
        }
    }
}

/// Where the columns of a table come from: `L, t10 measured; T calculated`.
impl Words for Sources {
    fn words(&self) -> String {
        let parts = [
            (&self.given, "given"),
            (&self.measured, "measured"),
            (&self.drawn, "from curves"),
            (&self.calculated, "calculated"),
        ];
        let parts = parts.into_iter().filter(|(list, _)| !list.is_empty());
        parts.map(|(list, how)| format!("{} {how}", list.join(", "))).collect::<Vec<_>>().join("; ")
    }
}
