//! Edits of the results.

use super::{ResultChange, ResultEdit};
use crate::formula::Formula;
use crate::graph::{GraphId, StretchId};
use crate::logbook::change::Change;
use crate::logbook::planning::{Changes, Fresh, Plan, Planned, name_of, nothing_changed, pretty};
use crate::logbook::refusal::{Counted, Kept, Limit, Named, Refusal, ShortText, Thing};
use crate::logbook::{Logbook, ModelRefusal, ResultSource};
use crate::quantity::{Unit, parse_quantity};
use crate::result::{FIRST_RESULT, MOST_RESULTS, ResultFrom, ResultId, ResultSpec, Term};

/// Longest source of an accepted value, in characters.
const LONGEST_SOURCE: usize = 200;
/// Longest symbol of a parameter, in characters.
const LONGEST_PARAMETER: usize = 12;
/// Longest label of a series, in characters.
const LONGEST_SERIES: usize = 120;

impl Logbook {
    pub(in crate::logbook) fn plan_result(&self, edit: &ResultEdit, fresh: &mut Fresh) -> Plan {
        let changes: Changes = match edit {
            ResultEdit::AddResult { name } => {
                if self.state.result.results.len() >= MOST_RESULTS {
                    return Err(Refusal::Limit(Limit::Many { of: Counted::Results, most: MOST_RESULTS }));
                }
                let name = name_of(name, Named::Result)?;
                let result = ResultSpec { id: fresh.next(), name, ..ResultSpec::default() };
                Ok(vec![Change::Result(ResultChange::Insert {
                    place: self.state.result.results.len(),
                    result: Box::new(result),
                })])
            }
            ResultEdit::NameResult { result, name } => {
                let name = name_of(name, Named::Result)?;
                self.change_result(*result, |r| r.name = name)
            }
            ResultEdit::DeleteResult { result } => {
                self.result_spec(*result)?;
                if *result == FIRST_RESULT {
                    return Err(Refusal::SheetsConstant);
                }
                let index = self.state.result.results.iter().position(|r| r.id == *result).unwrap_or(0);
                Ok(vec![Change::Result(ResultChange::Remove { place: index })])
            }
            ResultEdit::ChooseSource { result, from } => {
                let from = self.source_from(self.result_spec(*result)?, from)?;
                self.change_result(*result, |r| r.from = from)
            }
            ResultEdit::StateReading { result, typed } => self.plan_unknown(*result, typed),
            ResultEdit::ReadRow { result, row } => {
                let ResultFrom::Calibration { graph, stretch, .. } = &self.result_spec(*result)?.from else {
                    return Err(Refusal::Gone(Thing::Calibration));
                };
                if let Some(row) = row {
                    self.row(*row)?;
                }
                let from = ResultFrom::Calibration { graph: *graph, stretch: *stretch, reading: None, row: *row };
                self.change_result(*result, |r| r.from = from)
            }
            ResultEdit::StateLaw { result, term, typed } => self.plan_law(*result, *term, typed),
            ResultEdit::StateAccepted { result, typed } => self.plan_accepted(*result, typed),
            ResultEdit::StateSource { result, typed } => {
                let source = typed.trim();
                if source.chars().count() > LONGEST_SOURCE {
                    return Err(Refusal::Limit(Limit::Short { of: ShortText::Source, most: LONGEST_SOURCE }));
                }
                self.change_result(*result, |r| source.clone_into(&mut r.source))
            }
        };
        changes.map(Planned::from)
    }

    /// What the unknown read, on the vertical axis of a calibration.
    fn plan_unknown(&self, result: ResultId, typed: &str) -> Changes {
        let ResultFrom::Calibration { graph, stretch, .. } = &self.result_spec(result)?.from else {
            return Err(Refusal::Gone(Thing::Calibration));
        };
        let reading = if typed.trim().is_empty() {
            None
        } else {
            let unit = self.analyse().graph(*graph).map_or_else(Unit::one, |g| g.y.unit.clone());
            Some(parse_quantity(typed, &unit).map_err(nothing_changed)?)
        };
        let from = ResultFrom::Calibration { graph: *graph, stretch: *stretch, reading, row: None };
        self.change_result(result, |r| r.from = from)
    }

    /// What the law has in the place of a term of the line.
    fn plan_law(&self, result: ResultId, term: Term, typed: &str) -> Changes {
        let text = typed.trim();
        let formula = if text.is_empty() {
            None
        } else {
            let columns = self.state.record.tables.iter().flat_map(|t| &t.columns).map(|c| c.symbol.as_str());
            let (held, goal) = (self.held_quantities(), self.sheet.goal.symbol.as_str());
            let known = columns.chain(held.keys().map(String::as_str)).chain([goal]);
            Some(Formula::parse(text).map_err(|e| Refusal::formula(text, e))?.spelled_as(known))
        };
        self.change_result(result, |r| r.law = std::mem::take(&mut r.law).with(term, formula))
    }

    /// The value the result is compared with.
    fn plan_accepted(&self, result: ResultId, typed: &str) -> Changes {
        let spec = self.result_spec(result)?;
        if typed.trim().is_empty() {
            return self.change_result(result, |r| r.accepted = None);
        }
        let unit = spec.accepted.as_ref().map_or_else(Unit::one, |(_, u)| u.clone());
        let accepted = parse_quantity(typed, &unit).map_err(|e| Refusal::Value {
            wrong: e.into(),
            kept: Kept::Accepted(spec.accepted.as_ref().map(|(number, unit)| pretty(number, unit))),
        })?;
        self.change_result(result, |r| r.accepted = Some(accepted))
    }

    fn result_spec(&self, id: ResultId) -> Result<&ResultSpec, Refusal> {
        self.state.result(id).ok_or(Refusal::Gone(Thing::Result))
    }

    fn change_result(&self, id: ResultId, change: impl FnOnce(&mut ResultSpec)) -> Changes {
        let old = self.result_spec(id)?;
        let mut spec = old.clone();
        change(&mut spec);
        Ok(if spec == *old {
            Vec::new()
        } else {
            vec![Change::Result(ResultChange::Change { result: id, plan: Box::new(spec) })]
        })
    }

    /// Where a result comes from, checked: what it names has to be there.
    fn source_from(&self, spec: &ResultSpec, source: &ResultSource) -> Result<ResultFrom, Refusal> {
        let on_graph = |graph: GraphId, stretch: Option<StretchId>| {
            let stretches = &self.graph_spec(graph)?.stretches;
            if stretch.is_some_and(|id| stretches.iter().all(|s| s.id != id)) {
                Err(Refusal::Gone(Thing::Interval))
            } else {
                Ok(())
            }
        };
        match source {
            ResultSource::Curve { graph, stretch, series, parameter } => {
                on_graph(*graph, *stretch)?;
                if series.as_ref().is_some_and(|s| s.chars().count() > LONGEST_SERIES) {
                    return Err(Refusal::Gone(Thing::Series));
                }
                if !(1..=LONGEST_PARAMETER).contains(&parameter.chars().count()) {
                    return Err(Refusal::Gone(Thing::Parameter));
                }
                let (series, parameter) = (series.clone(), parameter.clone());
                Ok(ResultFrom::Curve { graph: *graph, stretch: *stretch, series, parameter })
            }
            ResultSource::Column { column } => {
                self.column(*column)?;
                Ok(ResultFrom::Column { column: *column })
            }
            ResultSource::Model { run } => {
                let there = self.state.model.run(*run).ok_or(Refusal::Gone(Thing::Model))?;
                if there.parameter().is_none() {
                    return Err(ModelRefusal::NothingFitted { number: there.number }.into());
                }
                Ok(ResultFrom::Model { run: *run })
            }
            ResultSource::Calibration { graph, stretch } => {
                on_graph(*graph, *stretch)?;
                let (reading, row) = match &spec.from {
                    ResultFrom::Calibration { reading, row, .. } => (reading.clone(), *row),
                    ResultFrom::Curve { .. } | ResultFrom::Column { .. } | ResultFrom::Model { .. } => (None, None),
                };
                Ok(ResultFrom::Calibration { graph: *graph, stretch: *stretch, reading, row })
            }
        }
    }
}
