//! Edits of the results.

use super::record::nothing_changed;
use super::{Fresh, Logbook, Patch, Plan, gone, name_of};
use crate::formula::Formula;
use crate::logbook::edit::Edit;
use crate::logbook::refusal::Refusal;
use crate::quantity::{Unit, parse_quantity};
use crate::result::{FIRST_RESULT, MOST_RESULTS, ResultFrom, ResultId, ResultPlan};

/// Longest source of an accepted value, in characters.
const LONGEST_SOURCE: usize = 200;

impl Logbook {
    pub(super) fn plan_result(&self, edit: &Edit, fresh: &mut Fresh) -> Plan {
        match edit {
            Edit::AddResult { name } => {
                if self.state.results.len() >= MOST_RESULTS {
                    return Err(Refusal::Limit(format!(
                        "A logbook can have {MOST_RESULTS} results. Nothing was added."
                    )));
                }
                let name = name_of(name, "a result")?;
                let result = ResultPlan { id: fresh.next(), name, ..ResultPlan::default() };
                Ok(vec![Patch::InsertResult(self.state.results.len(), result)])
            }
            Edit::NameResult { result, name } => {
                let name = name_of(name, "a result")?;
                self.change_result(*result, |r| r.name = name)
            }
            Edit::DeleteResult { result } => {
                self.result_plan(*result)?;
                if *result == FIRST_RESULT {
                    return Err(Refusal::Invalid("This is the constant the sheet asks for; it stays.".to_owned()));
                }
                let index = self.state.results.iter().position(|r| r.id == *result).unwrap_or(0);
                Ok(vec![Patch::RemoveResult(index)])
            }
            Edit::ChooseSource { result, from } => {
                let from = self.source_from(self.result_plan(*result)?, from)?;
                self.change_result(*result, |r| r.from = from)
            }
            Edit::StateReading { result, typed } => {
                let ResultFrom::Calibration { graph, stretch, .. } = &self.result_plan(*result)?.from else {
                    return Err(gone("calibration"));
                };
                let reading = if typed.trim().is_empty() {
                    None
                } else {
                    let unit = self.analyse().graph(*graph).map_or_else(Unit::one, |g| g.y.unit.clone());
                    Some(parse_quantity(typed, &unit).map_err(nothing_changed)?)
                };
                let from = ResultFrom::Calibration { graph: *graph, stretch: *stretch, reading };
                self.change_result(*result, |r| r.from = from)
            }
            Edit::StateLaw { result, term, typed } => {
                let text = typed.trim();
                let formula = if text.is_empty() {
                    None
                } else {
                    Some(Formula::parse(text).map_err(|e| Refusal::formula(text, e))?)
                };
                self.change_result(*result, |r| r.law = std::mem::take(&mut r.law).with(*term, formula))
            }
            Edit::StateAccepted { result, typed } => {
                let plan = self.result_plan(*result)?;
                if typed.trim().is_empty() {
                    return self.change_result(*result, |r| r.accepted = None);
                }
                let unit = plan.accepted.as_ref().map_or_else(Unit::one, |(_, u)| u.clone());
                let accepted = parse_quantity(typed, &unit).map_err(|message| Refusal::Value {
                    message,
                    kept: match &plan.accepted {
                        Some((number, unit)) => format!("The accepted value is still {}", super::pretty(number, unit)),
                        None => "There is still no accepted value".to_owned(),
                    },
                })?;
                self.change_result(*result, |r| r.accepted = Some(accepted))
            }
            Edit::StateSource { result, typed } => {
                let source = typed.trim();
                if source.chars().count() > LONGEST_SOURCE {
                    return Err(Refusal::Limit(format!(
                        "A source can have {LONGEST_SOURCE} characters. Nothing was changed."
                    )));
                }
                self.change_result(*result, |r| source.clone_into(&mut r.source))
            }
            _ => Ok(Vec::new()),
        }
    }

    fn result_plan(&self, id: ResultId) -> Result<&ResultPlan, Refusal> {
        self.state.result(id).ok_or_else(|| gone("result"))
    }

    fn change_result(&self, id: ResultId, change: impl FnOnce(&mut ResultPlan)) -> Plan {
        let old = self.result_plan(id)?;
        let mut plan = old.clone();
        change(&mut plan);
        Ok(if plan == *old { Vec::new() } else { vec![Patch::Result(id, Box::new(plan))] })
    }

    /// Where a result comes from, as the form says: `curve:1::slope`, `column:1003`, `calibration:1:`.
    fn source_from(&self, plan: &ResultPlan, from: &str) -> Result<ResultFrom, Refusal> {
        let unclear = || Refusal::Invalid("This source is not known. The result is as it was.".to_owned());
        let parts: Vec<&str> = from.split(':').collect();
        let curve = |graph: &str, stretch: &str| -> Result<(u32, Option<u32>), Refusal> {
            let graph = graph.parse().map_err(|_| unclear())?;
            let stretches = &self.graph_plan(graph)?.stretches;
            let stretch = if stretch.is_empty() { None } else { Some(stretch.parse().map_err(|_| unclear())?) };
            if stretch.is_some_and(|id| stretches.iter().all(|s| s.id != id)) {
                return Err(gone("stretch"));
            }
            Ok((graph, stretch))
        };
        match parts.as_slice() {
            ["curve", graph, stretch, parameter] if (1..=12).contains(&parameter.chars().count()) => {
                let (graph, stretch) = curve(graph, stretch)?;
                Ok(ResultFrom::Curve { graph, stretch, parameter: (*parameter).to_owned() })
            }
            ["column", column] => {
                let column = column.parse().map_err(|_| unclear())?;
                self.column(column)?;
                Ok(ResultFrom::Column { column })
            }
            ["calibration", graph, stretch] => {
                let (graph, stretch) = curve(graph, stretch)?;
                let reading = match &plan.from {
                    ResultFrom::Calibration { reading, .. } => reading.clone(),
                    _ => None,
                };
                Ok(ResultFrom::Calibration { graph, stretch, reading })
            }
            _ => Err(unclear()),
        }
    }
}
