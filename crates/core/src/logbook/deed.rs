//! What an edit did: the half of it that is stored and never judged again.

use serde::{Deserialize, Serialize};

use super::change::Change;
use super::graph::GraphChange;
use super::record::RecordChange;
use super::result::ResultChange;
use crate::graph::GraphId;
use crate::record::TableId;
use crate::result::ResultId;

/// What an edit did to a logbook.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Deed {
    /// How it stands to the edits before it.
    pub turn: Turn,
    /// The changes, in order.
    pub changes: Vec<Change>,
    /// The first id that nothing has had yet.
    pub next_id: u32,
}

/// How an edit stands to those before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Turn {
    /// New work; it can be undone.
    #[default]
    Work,
    /// Takes back the last work not yet taken back.
    Undo,
    /// Does again what was taken back last.
    Redo,
    /// Handing in or back; it is not undone with the work.
    Office,
}

/// What an edit has made that a page may want to look at.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize)]
pub struct MadeByEdit {
    /// A new table.
    pub table: Option<TableId>,
    /// A new graph.
    pub graph: Option<GraphId>,
    /// A new result.
    pub result: Option<ResultId>,
}

impl Deed {
    /// What it has made.
    pub fn made(&self) -> MadeByEdit {
        let mut made = MadeByEdit::default();
        for change in &self.changes {
            match change {
                Change::Record(RecordChange::InsertTable { table, .. }) => made.table = Some(table.id),
                Change::Graph(GraphChange::Insert { graph, .. }) => made.graph = Some(graph.id),
                Change::Result(ResultChange::Insert { result, .. }) => made.result = Some(result.id),
                Change::Record(_)
                | Change::Graph(_)
                | Change::Model(_)
                | Change::Result(_)
                | Change::Run(_)
                | Change::Film(_)
                | Change::Forecast(_)
                | Change::Writing(_)
                | Change::Answer(_)
                | Change::Claim(_)
                | Change::WriteUp(_)
                | Change::Office(_)
                | Change::Deal(_) => {}
            }
        }
        made
    }
}
