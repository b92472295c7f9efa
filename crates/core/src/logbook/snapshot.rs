//! A logbook at a moment, as stored beside its edits so that opening it need not begin with the first one. A snapshot holds nothing
//! that the edits do not: one that cannot be read is left out.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::Logbook;
use super::change::Change;
use super::part::Part;
use super::planning::FIRST_ID;
use super::state::State;
use crate::lab::{LabSheet, SettingRule};
use crate::rigs::SettingValue;

/// A logbook at a moment.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Snapshot {
    seq: u64,
    state: State,
    undo: Vec<Vec<Change>>,
    redo: Vec<Vec<Change>>,
    next_id: u32,
}

/// What a logbook begins with: what it was dealt and what the sheet put into it. Stored when it is begun, so that neither another
/// way of dealing nor another range of a setting changes it later.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Start {
    dealt: BTreeMap<String, SettingValue>,
    /// The same of further deals.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    further: Vec<BTreeMap<String, SettingValue>>,
    state: State,
}

impl Snapshot {
    /// Number of the edit it is of.
    pub fn seq(&self) -> u64 {
        self.seq
    }
}

impl Logbook {
    /// What it holds now, to be stored.
    pub fn snapshot(&self) -> Snapshot {
        Snapshot {
            seq: self.seq,
            state: self.state.clone(),
            undo: self.undo.clone(),
            redo: self.redo.clone(),
            next_id: self.next_id,
        }
    }

    /// What this sheet and seed begin with, to be stored.
    pub fn start(sheet: Arc<LabSheet>, seed: u64) -> Start {
        let new = Self::new(sheet, seed);
        let values = |rules: &Vec<SettingRule>| rules.iter().map(|r| (r.name.to_owned(), r.value.clone())).collect();
        let mut all = new.rules.iter().map(values);
        Start { dealt: all.next().unwrap_or_default(), further: all.collect(), state: new.state }
    }

    /// A logbook as it was begun, or as it was at a snapshot.
    pub fn resume(sheet: Arc<LabSheet>, seed: u64, start: Start, snapshot: Option<Snapshot>) -> Self {
        let mut book = Self::new(sheet, seed);
        for (rules, dealt) in book.rules.iter_mut().zip(std::iter::once(&start.dealt).chain(&start.further)) {
            for rule in rules {
                if let Some(value) = dealt.get(rule.name) {
                    rule.value.clone_from(value);
                }
            }
        }
        let Snapshot { seq, state, undo, redo, next_id } = snapshot.unwrap_or(Snapshot {
            seq: 0,
            state: start.state,
            undo: Vec::new(),
            redo: Vec::new(),
            next_id: FIRST_ID,
        });
        Self { state, undo, redo, seq, next_id, touched: [seq; Part::ALL.len()], ..book }
    }
}
