//! What a sheet asks for before the first run: sketches, a hypothesis, a prediction.

use serde::Deserialize;

use super::read::read_quantity;
use super::sentence;
use crate::quantity::Unit;
use crate::rigs::Card;

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

/// A typed quantity in coherent units, of the dimension wanted.
fn quantity(typed: &str, wanted: &Unit, what: &str) -> Result<f64, String> {
    let (number, unit) = read_quantity(typed, wanted)?;
    if !unit.same_dimension(wanted) {
        return Err(format!("“{typed}” is no {what}."));
    }
    Ok(number.value() * unit.size())
}

pub(super) fn forecast(front: FrontForecast, card: &Card) -> Result<ForecastAsked, String> {
    let (_, _, clock) = card.clock.written();
    let time = if clock.is_one() || clock.dimension() == Unit::one().dimension() {
        clock
    } else {
        Unit::coherent(&clock.dimension())
    };
    let duration = quantity(front.duration.as_deref().unwrap_or("10"), &time, "time")?;
    if !(0.1..=60.0).contains(&duration) {
        return Err(format!("A forecast covers 0.1 to 60 {}.", time.pretty()));
    }
    let curves = front.curves.into_iter().map(|c| {
        let spec = card.channel(&c.channel).ok_or_else(|| {
            let known: Vec<&str> = card.channels.iter().map(|c| c.name).collect();
            format!("“{}” is not recorded by this rig. There is: {}.", c.channel, known.join(", "))
        })?;
        let unit = Unit::coherent(&spec.unit.dimension());
        let ends = [quantity(&c.from, &spec.unit, &c.name)?, quantity(&c.to, &spec.unit, &c.name)?];
        if ends[0] >= ends[1] {
            return Err(format!("The axis of the {} runs from a smaller value to a larger one.", c.name));
        }
        Ok(CurveAsked { channel: spec.name, name: c.name, symbol: spec.symbol, unit, ends })
    });
    let curves = curves.collect::<Result<Vec<_>, String>>()?;
    if curves.len() > 4 {
        return Err("At most four curves are sketched.".to_owned());
    }
    let hypothesis = front.hypothesis.map(|h| {
        let fits =
            |l: &[String]| (1..=12).contains(&l.len()) && l.iter().all(|w| (1..=60).contains(&w.chars().count()));
        if fits(&h.causes) && fits(&h.effects) {
            Ok(HypothesisAsked { causes: h.causes, effects: h.effects })
        } else {
            Err("A hypothesis needs causes and effects to choose from: causes = [\"mass\", \"angle\"].".to_owned())
        }
    });
    let prediction = front.prediction.map(|p| {
        let unit = Unit::parse(&p.unit).map_err(|e| sentence(&e.to_string()))?;
        Ok::<_, String>(PredictionAsked { question: p.question, unit })
    });
    if !(1..=6).contains(&front.rounds) || front.rounds > 1 && curves.is_empty() {
        return Err("The curves are sketched in 1 to 6 rounds: rounds = 3.".to_owned());
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
        return Err("A forecast asks for a curve, a hypothesis or a prediction.".to_owned());
    }
    Ok(plan)
}
