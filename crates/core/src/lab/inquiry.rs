//! What a sheet asks for before the first run: sketches, a hypothesis, a prediction.

use serde::Deserialize;

use super::read::one_of;
use super::wrong::{Named, Several, Wrong};
use crate::quantity::{Unit, parse_quantity};
use crate::rigs::{Card, ChannelSpec};

/// Most curves to sketch.
const MOST_CURVES: usize = 4;

/// What is to be forecast.
#[derive(Clone, Debug, PartialEq)]
pub struct ForecastAsked {
    /// Whether the rig does not run before all of it is there.
    pub hold: bool,
    /// End of the time axis, in `time`.
    pub duration: f64,
    /// Unit of times: s, or what the rig counts.
    pub time: Unit,
    /// The curves to sketch.
    pub curves: Vec<CurveAsked>,
    /// The hypothesis to state.
    pub hypothesis: Option<HypothesisAsked>,
    /// The value to predict.
    pub prediction: Option<PredictionAsked>,
    /// How many times the curves are sketched, each time before another run.
    pub rounds: u8,
}

/// A curve to sketch against time.
#[derive(Clone, Debug, PartialEq)]
pub struct CurveAsked {
    /// The rig's channel.
    pub channel: &'static str,
    /// Name on the axis.
    pub name: String,
    /// Symbol on the axis.
    pub symbol: &'static str,
    /// Unit of the axis, coherent.
    pub unit: Unit,
    /// Ends of the axis, in `unit`.
    pub ends: [f64; 2],
}

/// From what a hypothesis is built.
#[derive(Clone, Debug, PartialEq)]
pub struct HypothesisAsked {
    /// Quantities one may raise.
    pub causes: Vec<String>,
    /// Quantities that may follow.
    pub effects: Vec<String>,
}

/// A value to predict.
#[derive(Clone, Debug, PartialEq)]
pub struct PredictionAsked {
    /// The question.
    pub question: String,
    /// Unit of the answer.
    pub unit: Unit,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontForecast {
    #[serde(default)]
    hold: bool,
    duration: Option<String>,
    #[serde(default)]
    curves: Vec<FrontCurve>,
    hypothesis: Option<FrontHypothesis>,
    prediction: Option<FrontPrediction>,
    #[serde(default = "once")]
    rounds: u8,
}

fn once() -> u8 {
    1
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FrontCurve {
    channel: String,
    name: String,
    from: String,
    to: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FrontHypothesis {
    causes: Vec<String>,
    effects: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FrontPrediction {
    question: String,
    #[serde(default)]
    unit: String,
}

/// A typed quantity in coherent units, of the dimension wanted; it is said how one of another dimension is wrong.
fn quantity(typed: &str, wanted: &Unit, other: impl FnOnce(String) -> Wrong) -> Result<f64, Wrong> {
    let (number, unit) = parse_quantity(typed, wanted)?;
    if !unit.same_dimension(wanted) {
        return Err(other(typed.to_owned()));
    }
    Ok(number.value() * unit.size())
}

pub(super) fn forecast(front: FrontForecast, card: &Card) -> Result<ForecastAsked, Wrong> {
    let (_, _, clock) = card.clock.written();
    let time = if clock.is_one() || clock.dimension() == Unit::one().dimension() {
        clock
    } else {
        Unit::coherent(&clock.dimension())
    };
    let duration = quantity(front.duration.as_deref().unwrap_or("10"), &time, Wrong::NoTime)?;
    if !(0.1..=60.0).contains(&duration) {
        return Err(Wrong::Duration { time: Box::new(time) });
    }
    let channels: Vec<(&'static str, &ChannelSpec)> = card.channels.iter().map(|c| (c.name, c)).collect();
    let curves = front.curves.into_iter().map(|c| {
        let spec = one_of(&channels, &c.channel, Named::Recorded)?;
        let unit = Unit::coherent(&spec.unit.dimension());
        let end = |typed: &str| quantity(typed, &spec.unit, |given| Wrong::NotOfCurve { given, curve: c.name.clone() });
        let ends = [end(&c.from)?, end(&c.to)?];
        if ends[0] >= ends[1] {
            return Err(Wrong::AxisOrder { curve: c.name });
        }
        Ok(CurveAsked { channel: spec.name, name: c.name, symbol: spec.symbol, unit, ends })
    });
    let curves = curves.collect::<Result<Vec<_>, Wrong>>()?;
    if curves.len() > MOST_CURVES {
        return Err(Wrong::TooMany { of: Several::Curves, most: MOST_CURVES });
    }
    let hypothesis = front.hypothesis.map(|h| {
        let fits =
            |l: &[String]| (1..=12).contains(&l.len()) && l.iter().all(|w| (1..=60).contains(&w.chars().count()));
        if fits(&h.causes) && fits(&h.effects) {
            Ok(HypothesisAsked { causes: h.causes, effects: h.effects })
        } else {
            Err(Wrong::NoHypothesis)
        }
    });
    let prediction = front.prediction.map(|p| {
        let unit = Unit::parse(&p.unit)?;
        Ok::<_, Wrong>(PredictionAsked { question: p.question, unit })
    });
    if !(1..=6).contains(&front.rounds) || front.rounds > 1 && curves.is_empty() {
        return Err(Wrong::Rounds);
    }
    let plan = ForecastAsked {
        hold: front.hold,
        rounds: front.rounds,
        duration,
        time,
        curves,
        hypothesis: hypothesis.transpose()?,
        prediction: prediction.transpose()?,
    };
    if plan.curves.is_empty() && plan.hypothesis.is_none() && plan.prediction.is_none() {
        return Err(Wrong::NothingForecast);
    }
    Ok(plan)
}
