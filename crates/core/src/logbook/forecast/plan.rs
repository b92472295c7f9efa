//! Edits of the forecast: made before the first run, and never after it.

use super::{ForecastChange, ForecastEdit};
use crate::inquiry::{Forecast, Hypothesis, LONGEST_REASON, MOST_SKETCHED, Prediction, Round, Sketch, Supposed};
use crate::lab::ForecastAsked;
use crate::logbook::change::Change;
use crate::logbook::planning::{Plan, nothing_changed};
use crate::logbook::refusal::Refusal;
use crate::logbook::{ForecastPart, ForecastRefusal};
use crate::logbook::{Logbook, RunChange};
use crate::quantity::{Decimal, Unit, parse_quantity};

impl Logbook {
    pub(in crate::logbook) fn plan_forecast(&self, edit: &ForecastEdit, at: i64) -> Plan {
        let Some(plan) = &self.sheet.forecast else {
            return Err(Refusal::from(ForecastRefusal::NotAsked));
        };
        let mut forecast = self.state.forecast.clone();
        let said_after = matches!(edit, ForecastEdit::StateOutcome { .. });
        let again = matches!(edit, ForecastEdit::SketchAgain);
        if self.forecast_stands() && !said_after && !again {
            return Err(Refusal::ForecastStands);
        }
        match edit {
            ForecastEdit::SketchAgain => {
                if !self.may_sketch_again() {
                    return Err(Refusal::from(ForecastRefusal::NotYet));
                }
                let until = self.state.run.runs.len() as u32;
                forecast.earlier.push(Round { until, sketches: std::mem::take(&mut forecast.sketches) });
            }
            ForecastEdit::Suppose { .. } | ForecastEdit::Predict { .. } if self.state.run.seen => {
                return Err(Refusal::ForecastStands);
            }
            ForecastEdit::Sketch { channel, points } => {
                let curve = plan.curves.iter().find(|c| c.channel == channel);
                let curve =
                    curve.ok_or_else(|| Refusal::from(ForecastRefusal::OtherCurve { channel: channel.clone() }))?;
                if points.is_empty() {
                    forecast.sketches.remove(channel);
                } else {
                    let height = curve.ends[1] - curve.ends[0];
                    let inside = points.iter().all(|[t, v]| {
                        (-1e-9..=plan.duration + 1e-9).contains(t)
                            && (curve.ends[0] - 0.01 * height..=curve.ends[1] + 0.01 * height).contains(v)
                    });
                    let sketch = Sketch { points: points.clone(), at, brought: false };
                    if !inside || !rising(&sketch) {
                        return Err(Refusal::from(ForecastRefusal::OffAxes));
                    }
                    forecast.sketches.insert(channel.clone(), sketch);
                }
            }
            ForecastEdit::Suppose { hypothesis } => {
                let Some(wanted) = &plan.hypothesis else {
                    return Err(Refusal::from(ForecastRefusal::NoHypothesis));
                };
                let known = wanted.causes.contains(&hypothesis.cause) && wanted.effects.contains(&hypothesis.effect);
                let reason = hypothesis.reason.trim();
                if !known || reason.is_empty() || reason.chars().count() > LONGEST_REASON {
                    return Err(Refusal::from(ForecastRefusal::Incomplete));
                }
                let Supposed { cause, effect, curve, .. } = hypothesis.clone();
                forecast.hypothesis =
                    Some(Hypothesis { cause, effect, curve, reason: reason.to_owned(), at, brought: false });
            }
            ForecastEdit::Predict { typed } => {
                forecast.prediction =
                    answer(plan, typed)?.map(|(number, unit)| Prediction { number, unit, at, brought: false });
            }
            ForecastEdit::StateOutcome { typed } => forecast.outcome = answer(plan, typed)?,
        }
        Ok(vec![Change::Forecast(ForecastChange { forecast: Box::new(forecast) })].into())
    }

    /// Whether the rig has run since the forecast was made, so that it stays as it is.
    pub fn forecast_stands(&self) -> bool {
        self.state.run.seen && self.state.forecast.earlier.len() as u32 <= self.state.run.rounds
    }

    /// Whether the curves may be sketched once more, for the next run.
    pub fn may_sketch_again(&self) -> bool {
        let rounds = self.sheet.forecast.as_ref().map_or(1, |plan| usize::from(plan.rounds));
        self.forecast_stands() && self.state.forecast.earlier.len() + 1 < rounds
    }

    /// The change by which a run closes a forecast that was begun anew.
    pub(in crate::logbook) fn seen_again(&self) -> Option<Change> {
        let rounds = self.state.forecast.earlier.len() as u32;
        (rounds > self.state.run.rounds).then_some(Change::Run(RunChange::SeenAgain { rounds }))
    }

    /// What the sheet wants before the first run and is not there yet; nothing when the rig may run.
    pub fn forecast_missing(&self) -> Vec<ForecastPart> {
        let Some(plan) = self.sheet.forecast.as_ref().filter(|p| p.hold && !self.forecast_stands()) else {
            return Vec::new();
        };
        let forecast = &self.state.forecast;
        let curves = plan.curves.iter().filter(|c| !forecast.sketches.contains_key(c.channel));
        let mut missing: Vec<_> = curves.map(|c| ForecastPart::Sketch { curve: c.name.clone() }).collect();
        // Hypothesis and prediction are made once.
        if !self.state.run.seen {
            let hypothesis = plan.hypothesis.is_some() && forecast.hypothesis.is_none();
            let prediction = plan.prediction.is_some() && forecast.prediction.is_none();
            missing.extend(hypothesis.then_some(ForecastPart::Hypothesis));
            missing.extend(prediction.then_some(ForecastPart::Prediction));
        }
        missing
    }
}

/// A predicted value in a unit of the plan's dimension.
fn answer(plan: &ForecastAsked, typed: &str) -> Result<Option<(Decimal, Unit)>, Refusal> {
    let Some(wanted) = &plan.prediction else {
        return Err(Refusal::from(ForecastRefusal::NoPrediction));
    };
    if typed.trim().is_empty() {
        return Ok(None);
    }
    let (number, unit) = parse_quantity(typed, &wanted.unit).map_err(nothing_changed)?;
    if !unit.same_dimension(&wanted.unit) {
        return Err(Refusal::from(ForecastRefusal::OtherUnit { wanted: wanted.unit.clone(), typed: unit }));
    }
    Ok(Some((number, unit)))
}

fn rising(sketch: &Sketch) -> bool {
    (2..=MOST_SKETCHED).contains(&sketch.points.len())
        && sketch.points.windows(2).all(|w| w[1][0] > w[0][0])
        && sketch.points.iter().flatten().all(|v| v.is_finite())
}

/// Whether a forecast from a file can be taken over.
pub(in crate::logbook) fn sound(forecast: &Forecast) -> bool {
    let earlier = forecast.earlier.iter().map(|round| &round.sketches);
    forecast.earlier.len() < 6
        && earlier.chain([&forecast.sketches]).all(|s| s.len() <= 4 && s.values().all(rising))
        && forecast.hypothesis.as_ref().is_none_or(|h| {
            [&h.cause, &h.effect].iter().all(|t| t.chars().count() <= 60) && h.reason.chars().count() <= LONGEST_REASON
        })
}
