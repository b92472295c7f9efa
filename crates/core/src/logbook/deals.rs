//! Deals of numbers: where a sheet allows it, a logbook gets new dealt values for another try. What was measured, graphed and concluded with one
//! deal stays with it, and is out of sight while another is at hand; the settings, the forecast and the texts are of the whole logbook.

use crate::logbook::refusal::Refusal;
use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::change::{Change, Misfit};
use super::graph::GraphState;
use super::planning::{Changes, Fresh};
use super::record::RecordState;
use super::result::ResultState;
use super::run::{RunChange, RunEntry, fresh_tools};
use super::state::State;
use super::{Logbook, started};
use crate::record::Record;

/// Which deal is at hand, and what belongs to the others.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Deals {
    /// Number of the deal at hand; 0 is the first one.
    pub number: u32,
    /// What belongs to the other deals that were begun, by their numbers.
    pub shelf: BTreeMap<u32, Shelf>,
}

impl Deals {
    /// Whether no deal but the first was ever begun.
    pub(super) fn is_first(&self) -> bool {
        self.number == 0 && self.shelf.is_empty()
    }

    /// Whether a deal was begun.
    pub fn begun(&self, number: u32) -> bool {
        number == self.number || self.shelf.contains_key(&number)
    }
}

/// What was measured and worked out with one deal.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Shelf {
    /// The tables.
    pub record: RecordState,
    /// The graphs.
    pub graph: GraphState,
    /// The results.
    pub result: ResultState,
}

/// A change of deals.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum DealChange {
    /// What belongs to a deal that is not at hand; nothing for one that is not begun.
    Shelve {
        /// Its number.
        number: u32,
        /// What belongs to it.
        shelf: Option<Box<Shelf>>,
    },
    /// Takes up a deal that was begun.
    TakeUp {
        /// Its number.
        number: u32,
    },
}

impl State {
    pub(super) fn change_deal(&mut self, change: DealChange) -> Result<DealChange, Misfit> {
        Ok(match change {
            DealChange::Shelve { number, shelf } => {
                let old = match shelf {
                    Some(shelf) => self.deals.shelf.insert(number, *shelf),
                    None => self.deals.shelf.remove(&number),
                };
                DealChange::Shelve { number, shelf: old.map(Box::new) }
            }
            DealChange::TakeUp { number } => {
                let mut shelf = self.deals.shelf.remove(&number).ok_or(Misfit)?;
                std::mem::swap(&mut self.record, &mut shelf.record);
                std::mem::swap(&mut self.graph, &mut shelf.graph);
                std::mem::swap(&mut self.result, &mut shelf.result);
                let left = std::mem::replace(&mut self.deals.number, number);
                self.deals.shelf.insert(left, shelf);
                DealChange::TakeUp { number: left }
            }
        })
    }

    /// The same with another deal at hand; none that was not begun.
    pub(super) fn with_deal(&self, number: u32) -> Option<Self> {
        let mut state = self.clone();
        if number != self.deals.number {
            state.change_deal(DealChange::TakeUp { number }).ok()?;
        }
        Some(state)
    }
}

impl Logbook {
    /// A run with the settings and the deal as they stand.
    pub(super) fn next_run(&self) -> RunEntry {
        let State { run, deals, .. } = &self.state;
        RunEntry { settings: run.settings.clone(), deal: deals.number, ..RunEntry::default() }
    }

    pub(super) fn plan_deal(&self, number: u32, fresh: &mut Fresh) -> Changes {
        let state = &self.state;
        if number >= self.sheet.deals {
            return Err(Refusal::NoSuchDeal { deals: self.sheet.deals });
        }
        if number == state.deals.number {
            return Ok(Vec::new());
        }
        let mut changes = Vec::new();
        if !state.deals.begun(number) {
            let (mut record, graph, result) = started(&self.sheet);
            for table in record.tables.iter_mut().map(Arc::make_mut) {
                table.name = format!("{}, deal {}", table.name, number + 1);
                renumbered(table, fresh);
            }
            changes.push(DealChange::Shelve { number, shelf: Some(Box::new(Shelf { record, graph, result })) });
        }
        changes.push(DealChange::TakeUp { number });
        let mut changes: Vec<Change> = changes.into_iter().map(Change::Deal).collect();
        changes.push(Change::Run(RunChange::OnStage { run: None }));
        changes.push(Change::Run(RunChange::Plan { plan: None }));
        changes.push(Change::Run(RunChange::Tools { tools: fresh_tools(state) }));
        Ok(changes)
    }
}

/// Ids of its own for a table the sheet starts with, so that what is still on its way to the other deal's finds nothing here.
fn renumbered(table: &mut Record, fresh: &mut Fresh) {
    table.id = fresh.next();
    let ids: BTreeMap<u32, u32> = table.columns.iter().map(|c| (c.id, fresh.next())).collect();
    table.columns.iter_mut().for_each(|c| c.id = ids[&c.id]);
    table.group = table.group.and_then(|c| ids.get(&c).copied());
    for row in &mut table.rows {
        row.id = fresh.next();
        row.cells = std::mem::take(&mut row.cells).into_iter().map(|(c, r)| (ids[&c], r)).collect();
    }
}
