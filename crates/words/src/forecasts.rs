//! Forecasts: what they lack, and how they turned out.

use std::collections::BTreeSet;

use zeitmass_core::inquiry::{CurvePick, Hypothesis, Manner, Remark, Side, Span, Steepness, Step, Turned, Way};
use zeitmass_core::logbook::ForecastPart;
use zeitmass_core::quantity::format::to_step;

use crate::{Title, Words, list};

/// Inside a sentence; empty where nothing is missing.
impl Words for [ForecastPart] {
    fn words(&self) -> String {
        let one = |part: &ForecastPart| match part {
            ForecastPart::Sketch { curve } => format!("the sketch of the {curve}"),
            ForecastPart::Hypothesis => "the hypothesis".to_owned(),
            ForecastPart::Prediction => "the prediction".to_owned(),
        };
        list(&self.iter().map(one).collect::<Vec<_>>())
    }
}

/// Titles of steps inside a sentence.
impl Words for BTreeSet<Step> {
    fn words(&self) -> String {
        list(&self.iter().map(|s| s.title()).collect::<Vec<_>>())
    }
}

/// The shape of a curve.
pub fn curve(curve: CurvePick) -> &'static str {
    match curve {
        CurvePick::Level => "level",
        CurvePick::RisesStraight => "rising, straight",
        CurvePick::RisesSteeper => "rising, ever steeper",
        CurvePick::RisesFlatter => "rising, ever less steep",
        CurvePick::FallsStraight => "falling, straight",
        CurvePick::FallsSteeper => "falling, ever steeper",
        CurvePick::FallsFlatter => "falling, ever less steep",
        CurvePick::UpAndDown => "up and down",
    }
}

/// The hypothesis as a sentence.
impl Words for Hypothesis {
    fn words(&self) -> String {
        let reason = self.reason.trim().trim_end_matches('.');
        format!("If I raise the {}, the {} {}, because {reason}.", self.cause, self.effect, will(self.curve))
    }
}

/// How a hypothesis turned out.
pub fn turned(hypothesis: &Hypothesis, turned: &Turned) -> String {
    let end = if turned.agrees { "as stated" } else { "not as stated" };
    let Hypothesis { cause, effect, .. } = hypothesis;
    format!("In the data the {effect} {} as the {cause} is raised, {end}.", does(turned.curve))
}

/// What a quantity does along a curve: `rises ever more steeply`.
pub fn does(curve: CurvePick) -> &'static str {
    match curve {
        CurvePick::Level => "stays the same",
        CurvePick::RisesStraight => "rises along a straight line",
        CurvePick::RisesSteeper => "rises ever more steeply",
        CurvePick::RisesFlatter => "rises ever less steeply",
        CurvePick::FallsStraight => "falls along a straight line",
        CurvePick::FallsSteeper => "falls ever more steeply",
        CurvePick::FallsFlatter => "falls ever less steeply",
        CurvePick::UpAndDown => "goes up and down",
    }
}

/// What it will do along it: `will rise ever more steeply`.
pub fn will(curve: CurvePick) -> &'static str {
    match curve {
        CurvePick::Level => "will stay the same",
        CurvePick::RisesStraight => "will rise along a straight line",
        CurvePick::RisesSteeper => "will rise ever more steeply",
        CurvePick::RisesFlatter => "will rise ever less steeply",
        CurvePick::FallsStraight => "will fall along a straight line",
        CurvePick::FallsSteeper => "will fall ever more steeply",
        CurvePick::FallsFlatter => "will fall ever less steeply",
        CurvePick::UpAndDown => "will go up and down",
    }
}

/// The shape of a sketch: `level, then falling`.
impl Words for [Way] {
    fn words(&self) -> String {
        let word = |way: &Way| match way {
            Way::Rises => "rising",
            Way::Falls => "falling",
            Way::Flat => "level",
        };
        match self {
            [Way::Flat] => "level throughout".to_owned(),
            [one] => format!("{} from the start", word(one)),
            all => all.iter().map(word).collect::<Vec<_>>().join(", then "),
        }
    }
}

/// A sketch beside what was measured.
impl Words for Remark {
    fn words(&self) -> String {
        match self {
            Self::Apart => {
                "The sketch and the measured curve share hardly any time, so there is nothing to compare.".to_owned()
            }
            Self::Start { measured, sketched } if measured == sketched => format!("Both start {}.", side(*measured)),
            Self::Start { measured, sketched } => {
                format!("The measured curve starts {}, the sketch {}.", side(*measured), side(*sketched))
            }
            Self::Run { over, measured, sketched } if measured == sketched => {
                format!("F{}, both {}.", &span(*over)[1..], manner(*measured, true))
            }
            Self::Run { over, measured, sketched } => {
                let (measured, sketched) = (manner(*measured, false), manner(*sketched, false));
                format!("F{}, the measured curve {measured}, the sketch {sketched}.", &span(*over)[1..])
            }
            Self::Lies { over, measured, sketched } => format!(
                "F{}, the measured curve is {}, the sketch {}.",
                &span(*over)[1..],
                side(*measured),
                side(*sketched)
            ),
            Self::Steeper { over, than, sketched } => {
                let same = if *sketched { "in both" } else { "in the measured curve, not in the sketch" };
                format!("It is steeper {} than {}, {same}.", span(*over), span(*than))
            }
        }
    }
}

fn side(side: Side) -> &'static str {
    match side {
        Side::Above => "above zero",
        Side::At => "at zero",
        Side::Below => "below zero",
    }
}

/// What one curve does, or both do.
fn manner(manner: Manner, both: bool) -> String {
    let s = if both { "" } else { "s" };
    let way = match manner.way {
        Way::Flat => return format!("stay{s} level"),
        Way::Rises => "rise",
        Way::Falls => "fall",
    };
    let how = match manner.steepness {
        Steepness::Even => "steadily",
        Steepness::Grows => "ever more steeply",
        Steepness::Shrinks => "ever less steeply",
    };
    format!("{way}{s} {how}")
}

fn span(span: Span) -> String {
    format!("from {}\u{A0}s to {}\u{A0}s", to_step(span.from, 0.1), to_step(span.to, 0.1))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hypotheses_sketches_and_what_came_of_them_are_sentences() {
        let (cause, effect, reason) = ("angle".to_owned(), "range".to_owned(), "it flies longer.".to_owned());
        let h = Hypothesis { cause, effect, curve: CurvePick::RisesFlatter, reason, at: 0, brought: false };
        assert_eq!(h.words(), "If I raise the angle, the range will rise ever less steeply, because it flies longer.");
        let other = Turned { agrees: false, curve: CurvePick::UpAndDown };
        assert_eq!(turned(&h, &other), "In the data the range goes up and down as the angle is raised, not as stated.");
        let over = Span { from: 4.0, to: 6.04 };
        let level = Manner { way: Way::Flat, steepness: Steepness::Even };
        let both = Remark::Run { over, measured: level, sketched: level };
        assert_eq!(both.words(), "From 4.0\u{A0}s to 6.0\u{A0}s, both stay level.");
        let lies = Remark::Lies { over, measured: Side::Below, sketched: Side::Above };
        assert_eq!(
            lies.words(),
            "From 4.0\u{A0}s to 6.0\u{A0}s, the measured curve is below zero, the sketch above zero."
        );
        assert_eq!([Way::Flat, Way::Falls].words(), "level, then falling");
        let missing = [ForecastPart::Sketch { curve: "position".into() }, ForecastPart::Hypothesis];
        assert_eq!(missing.words(), "the sketch of the position and the hypothesis");
    }
}
