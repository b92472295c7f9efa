//! Changes of the tables.

use std::mem::replace;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::{RecordState, StatedQuantity};
use crate::logbook::change::{Misfit, insert, remove};
use crate::quantity::Reading;
use crate::record::{Column, ColumnId, Record, Row, StoppingRule, TableId};

/// A change of the tables.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum RecordChange {
    /// A table comes.
    InsertTable {
        /// Its place.
        place: usize,
        /// The table.
        table: Arc<Record>,
    },
    /// A table goes.
    RemoveTable {
        /// Its place.
        place: usize,
    },
    /// Another head of a table.
    TableHead {
        /// Which table.
        table: TableId,
        /// The head.
        head: TableHead,
    },
    /// A column comes.
    InsertColumn {
        /// Which table.
        table: TableId,
        /// Its place.
        place: usize,
        /// The column.
        column: Column,
    },
    /// A column goes; its readings were taken away before.
    RemoveColumn {
        /// Which table.
        table: TableId,
        /// Its place.
        place: usize,
    },
    /// A column changes.
    ReplaceColumn {
        /// Which table.
        table: TableId,
        /// Its place.
        place: usize,
        /// The column.
        column: Column,
    },
    /// A row comes.
    InsertRow {
        /// Which table.
        table: TableId,
        /// Its place.
        place: usize,
        /// The row.
        row: Row,
    },
    /// A row goes.
    RemoveRow {
        /// Which table.
        table: TableId,
        /// Its place.
        place: usize,
    },
    /// A reading comes or goes.
    Cell {
        /// Which table.
        table: TableId,
        /// Place of its row, for it may be one of thousands.
        row: usize,
        /// Which column.
        column: ColumnId,
        /// The reading.
        reading: Option<Reading>,
    },
    /// A row is set aside or taken back.
    Aside {
        /// Which table.
        table: TableId,
        /// Place of the row.
        row: usize,
        /// Aside or not.
        aside: bool,
        /// Why.
        why: String,
    },
    /// Other quantities are stated beside the tables.
    Held {
        /// All of them.
        held: Vec<StatedQuantity>,
    },
}

/// What a table has beside columns and rows.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TableHead {
    /// Its name.
    pub name: String,
    /// The column whose values part the rows into groups.
    pub group: Option<ColumnId>,
    /// When there are repeats enough.
    pub stopping: Option<StoppingRule>,
}

impl RecordState {
    fn table_mut(&mut self, id: TableId) -> Result<&mut Record, Misfit> {
        self.tables.iter_mut().find(|t| t.id == id).map(Arc::make_mut).ok_or(Misfit)
    }

    pub(in crate::logbook) fn change(&mut self, change: RecordChange) -> Result<RecordChange, Misfit> {
        Ok(match change {
            RecordChange::InsertTable { place, table } => {
                insert(&mut self.tables, place, table)?;
                RecordChange::RemoveTable { place }
            }
            RecordChange::RemoveTable { place } => {
                RecordChange::InsertTable { place, table: remove(&mut self.tables, place)? }
            }
            RecordChange::Held { held } => RecordChange::Held { held: replace(&mut self.held, held) },
            RecordChange::TableHead { table, head } => {
                let record = self.table_mut(table)?;
                let head = TableHead {
                    name: replace(&mut record.name, head.name),
                    group: replace(&mut record.group, head.group),
                    stopping: replace(&mut record.stopping, head.stopping),
                };
                RecordChange::TableHead { table, head }
            }
            RecordChange::InsertColumn { table, place, column } => {
                insert(&mut self.table_mut(table)?.columns, place, column)?;
                RecordChange::RemoveColumn { table, place }
            }
            RecordChange::RemoveColumn { table, place } => {
                let column = remove(&mut self.table_mut(table)?.columns, place)?;
                RecordChange::InsertColumn { table, place, column }
            }
            RecordChange::ReplaceColumn { table, place, column } => {
                let there = self.table_mut(table)?.columns.get_mut(place).ok_or(Misfit)?;
                RecordChange::ReplaceColumn { table, place, column: replace(there, column) }
            }
            RecordChange::InsertRow { table, place, row } => {
                insert(&mut self.table_mut(table)?.rows, place, row)?;
                RecordChange::RemoveRow { table, place }
            }
            RecordChange::RemoveRow { table, place } => {
                let row = remove(&mut self.table_mut(table)?.rows, place)?;
                RecordChange::InsertRow { table, place, row }
            }
            RecordChange::Cell { table, row, column, reading } => {
                let cells = &mut self.table_mut(table)?.rows.get_mut(row).ok_or(Misfit)?.cells;
                let reading = match reading {
                    Some(reading) => cells.insert(column, Box::new(reading)),
                    None => cells.remove(&column),
                };
                let reading = reading.map(|r| *r);
                RecordChange::Cell { table, row, column, reading }
            }
            RecordChange::Aside { table, row, aside, why } => {
                let there = self.table_mut(table)?.rows.get_mut(row).ok_or(Misfit)?;
                let (aside, why) = (replace(&mut there.aside, aside), replace(&mut there.why, why));
                RecordChange::Aside { table, row, aside, why }
            }
        })
    }
}
