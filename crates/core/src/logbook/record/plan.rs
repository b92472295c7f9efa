//! Edits of the record.

use crate::logbook::RecordRefusal;
use crate::logbook::refusal::{Counted, Limit, Named, Refusal, ShortText, Thing};
use std::collections::BTreeSet;

use super::columns::{not_a_symbol, room_for_columns};
use super::{RecordChange, RecordEdit, StatedQuantity, TableHead};
use crate::formula::is_symbol;
use crate::graph::GraphId;
use crate::logbook::change::Change;
use crate::logbook::film::FilmChange;
use crate::logbook::planning::{Changes, Fresh, Plan, Planned, name_of, nothing_changed};
use crate::logbook::{Logbook, StopBy};
use crate::quantity::{Decimal, Unit, parse_quantity};
use crate::record::{Column, ColumnId, ColumnKind, MOST_ROWS, MOST_TABLES, Record, Row, RowId, StoppingRule, TableId};

/// Most quantities stated beside the tables.
const MOST_HELD: usize = 20;
/// Longest reason for setting something aside, in characters.
const LONGEST_REASON: usize = 200;

impl Logbook {
    pub(in crate::logbook) fn plan_record(&self, edit: &RecordEdit, fresh: &mut Fresh) -> Plan {
        let state = &self.state;
        let changes: Changes = match edit {
            RecordEdit::AddTable { name } => {
                let table = self.new_table(name, fresh)?;
                Ok(vec![Change::Record(RecordChange::InsertTable {
                    place: state.record.tables.len(),
                    table: table.into(),
                })])
            }
            RecordEdit::NameTable { table, name } => {
                let table = self.table(*table)?;
                Ok(vec![Change::Record(RecordChange::TableHead {
                    table: table.id,
                    head: TableHead { name: name_of(name, Named::Table)?, ..head(table) },
                })])
            }
            RecordEdit::DeleteTable { table } => self.plan_delete_table(*table),
            RecordEdit::GroupBy { table, column } => self.plan_group_by(*table, *column),
            RecordEdit::AddColumn { table, kind, text } => {
                let table = self.table(*table)?;
                room_for_columns(table, 1)?;
                let column = self.column_from(table, fresh.next(), *kind, text)?;
                Ok(vec![Change::Record(RecordChange::InsertColumn {
                    table: table.id,
                    place: table.columns.len(),
                    column,
                })])
            }
            RecordEdit::ChangeColumn { column, text } => self.plan_change_column(*column, text),
            RecordEdit::DeleteColumn { column } => self.plan_delete_column(*column),
            RecordEdit::MoveColumn { column, by } => self.plan_move_column(*column, *by),
            RecordEdit::SetRunAside { column, why } => self.plan_repeat_aside(*column, why.as_deref()),
            RecordEdit::StopWhen { table, stem, rule, value } => {
                let table = self.table(*table)?;
                let stopping = stopping(table, stem.trim(), *rule, value)?;
                Ok(vec![Change::Record(RecordChange::TableHead {
                    table: table.id,
                    head: TableHead { stopping, ..head(table) },
                })])
            }
            RecordEdit::HoldQuantity { symbol, name, typed } => self.plan_hold(symbol, name, typed),
            RecordEdit::ReleaseQuantity { symbol } => self.plan_release(symbol),
            RecordEdit::AddRow { table, above } => self.plan_add_row(*table, *above, fresh),
            RecordEdit::MoveRow { row, by } => self.plan_move_row(*row, *by),
            RecordEdit::DeleteRow { row } => self.plan_delete_row(*row),
            RecordEdit::TypeCell { row, column, typed, was } => {
                self.plan_cell(*row, *column, typed, was.as_ref(), fresh)
            }
            RecordEdit::SetAside { row, aside, why } => {
                let (table, index, _) = self.row(*row)?;
                let why = if *aside { reason(why)? } else { String::new() };
                Ok(vec![Change::Record(RecordChange::Aside { table: table.id, row: index, aside: *aside, why })])
            }
            RecordEdit::SetBoxAside { graph, range, aside } => self.plan_box_aside(*graph, *range, *aside),
            RecordEdit::LogTrial { table, frame } => self.plan_log_trial(*table, *frame, fresh),
            RecordEdit::Freeze { row, column, frozen } => self.plan_freeze(*row, *column, *frozen),
            RecordEdit::LogReading { row, column, instrument } => {
                self.plan_reading((*row, *column), true, instrument, fresh)
            }
            RecordEdit::LogBeside { row, column, instrument } => {
                self.plan_reading((*row, *column), false, instrument, fresh)
            }
            RecordEdit::Paste { table, name, row, column, text } => {
                return self.plan_paste(*table, name, (*row, *column), text, fresh);
            }
            RecordEdit::FillColumn { column, from, to, count } => {
                return self.plan_fill(*column, (from, to), *count as usize, fresh);
            }
            RecordEdit::LogDrawn { column, like, all } => return self.plan_drawn(*column, like, *all, fresh),
            RecordEdit::AddRun { column } => return self.plan_add_run(*column, fresh),
        };
        changes.map(Planned::from)
    }

    /// Rows are put together by what a column holds; calculated values would move rows about.
    fn plan_group_by(&self, table: TableId, column: Option<ColumnId>) -> Changes {
        let table = self.table(table)?;
        if let Some(id) = column {
            let column = table.column(id).ok_or(Refusal::Gone(Thing::Column))?;
            if column.kind == ColumnKind::Worked {
                let symbol = &column.symbol;
                return Err(Refusal::from(RecordRefusal::GroupedByCalculated { symbol: symbol.clone() }));
            }
        }
        Ok(vec![Change::Record(RecordChange::TableHead {
            table: table.id,
            head: TableHead { group: column, ..head(table) },
        })])
    }

    /// A column changes places with those beside it.
    fn plan_move_column(&self, column: ColumnId, by: i32) -> Changes {
        let (table, index, column) = self.column(column)?;
        let to = moved(index, by, table.columns.len());
        if to == index {
            return Ok(Vec::new());
        }
        Ok(vec![
            Change::Record(RecordChange::RemoveColumn { table: table.id, place: index }),
            Change::Record(RecordChange::InsertColumn { table: table.id, place: to, column: column.clone() }),
        ])
    }

    /// A repeat counts no longer, for a reason, or counts again.
    fn plan_repeat_aside(&self, column: ColumnId, why: Option<&str>) -> Changes {
        let (table, index, column) = self.column(column)?;
        if column.stem.is_none() {
            let symbol = &column.symbol;
            return Err(Refusal::from(RecordRefusal::NotRepeated { symbol: symbol.clone() }));
        }
        let aside = why.map(reason).transpose()?;
        if aside.as_ref().is_some_and(String::is_empty) {
            return Err(Refusal::from(RecordRefusal::NoReason));
        }
        Ok(vec![Change::Record(RecordChange::ReplaceColumn {
            table: table.id,
            place: index,
            column: Column { aside, ..column.clone() },
        })])
    }

    /// A quantity is no longer said to be held.
    fn plan_release(&self, symbol: &str) -> Changes {
        let mut held = self.state.record.held.clone();
        held.retain(|h| h.symbol != symbol);
        Ok(if held.len() == self.state.record.held.len() {
            Vec::new()
        } else {
            vec![Change::Record(RecordChange::Held { held })]
        })
    }

    /// An empty row above another, or below all.
    fn plan_add_row(&self, table: TableId, above: Option<RowId>, fresh: &mut Fresh) -> Changes {
        let table = self.table(table)?;
        room_for_rows(table, 1)?;
        let at = match above {
            Some(row) => table.row(row).ok_or(Refusal::Gone(Thing::Row))?.0,
            None => table.rows.len(),
        };
        Ok(vec![Change::Record(RecordChange::InsertRow {
            table: table.id,
            place: at,
            row: Row { id: fresh.next(), ..Row::default() },
        })])
    }

    /// A row changes places with those beside it.
    fn plan_move_row(&self, row: RowId, by: i32) -> Changes {
        let (table, index, row) = self.row(row)?;
        let to = moved(index, by, table.rows.len());
        if to == index {
            return Ok(Vec::new());
        }
        Ok(vec![
            Change::Record(RecordChange::RemoveRow { table: table.id, place: index }),
            Change::Record(RecordChange::InsertRow { table: table.id, place: to, row: row.clone() }),
        ])
    }

    /// A row goes, and with it the mark it stands for. What the sheet gives stays.
    fn plan_delete_row(&self, row: RowId) -> Changes {
        let (table, index, row) = self.row(row)?;
        if let Some((trail, frame)) = row.mark
            && let Some((film, _)) = self.state.film_of(trail)
        {
            let unmark = Change::Film(FilmChange::Mark { film, trail, frame, mark: None });
            let row = Change::Record(RecordChange::RemoveRow { table: table.id, place: index });
            return Ok(vec![unmark, row]);
        }
        let given = table.columns.iter().find(|c| c.kind == ColumnKind::Given && row.cells.contains_key(&c.id));
        if let Some(column) = given {
            return Err(Refusal::from(RecordRefusal::RowGiven { symbol: column.symbol.clone() }));
        }
        Ok(vec![Change::Record(RecordChange::RemoveRow { table: table.id, place: index })])
    }

    /// The points of a box on a graph count no longer, or count again.
    fn plan_box_aside(&self, graph: GraphId, [across, up]: [[f64; 2]; 2], aside: bool) -> Changes {
        let analysis = self.analyse();
        let graph = analysis.graph(graph).ok_or(Refusal::Gone(Thing::Graph))?;
        let inside = |v: f64, [a, b]: [f64; 2]| (a.min(b)..=a.max(b)).contains(&v);
        let hit: BTreeSet<RowId> =
            graph.points().filter(|p| inside(p.x, across) && inside(p.y, up)).map(|p| p.row).collect();
        let mut changes = Vec::new();
        for table in &self.state.record.tables {
            let wanted = |r: &Row| hit.contains(&r.id) && r.aside != aside;
            let places = table.rows.iter().enumerate().filter(|(_, r)| wanted(r));
            changes.extend(places.map(|(i, _)| {
                Change::Record(RecordChange::Aside { table: table.id, row: i, aside, why: String::new() })
            }));
        }
        Ok(changes)
    }

    /// An empty table with a name no other has.
    pub(in crate::logbook) fn new_table(&self, name: &str, fresh: &mut Fresh) -> Result<Record, Refusal> {
        if self.state.record.tables.len() >= MOST_TABLES {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Tables, most: MOST_TABLES }));
        }
        let name = name_of(name, Named::Table)?;
        if self.state.record.tables.iter().any(|t| t.name == name) {
            return Err(Refusal::from(RecordRefusal::TableNamed { name }));
        }
        Ok(Record { id: fresh.next(), name, ..Record::default() })
    }

    fn plan_delete_table(&self, id: TableId) -> Changes {
        let table = self.table(id)?;
        if let Some(trail) = self.state.film.films.iter().flat_map(|f| &f.trails).find(|t| t.table == id) {
            return Err(Refusal::from(RecordRefusal::TableOfMarks { trail: trail.name.clone() }));
        }
        if self.state.record.tables.len() == 1 {
            return Err(Refusal::from(RecordRefusal::LastTable));
        }
        if table.columns.iter().any(|c| c.kind == ColumnKind::Given) {
            return Err(Refusal::from(RecordRefusal::TableGiven));
        }
        let index = self.state.record.tables.iter().position(|t| t.id == id).unwrap_or(0);
        let gone: Vec<ColumnId> = table.columns.iter().map(|c| c.id).collect();
        let mut changes = self.graphs_without(&gone);
        changes.push(Change::Record(RecordChange::RemoveTable { place: index }));
        Ok(changes)
    }

    fn plan_hold(&self, symbol: &str, name: &str, typed: &str) -> Changes {
        let symbol = symbol.trim();
        if !is_symbol(symbol) {
            return Err(not_a_symbol(symbol));
        }
        let name = name_of(name, Named::Quantity)?;
        let (number, unit) = parse_quantity(typed, &Unit::one()).map_err(nothing_changed)?;
        let mut held = self.state.record.held.clone();
        held.retain(|h| h.symbol != symbol);
        if held.len() >= MOST_HELD {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Held, most: MOST_HELD }));
        }
        if let Some(table) = self.state.record.tables.iter().find(|t| t.by_symbol(symbol).is_some()) {
            return Err(Refusal::from(RecordRefusal::SymbolOfColumn {
                table: table.name.clone(),
                symbol: symbol.to_owned(),
            }));
        }
        held.push(StatedQuantity { symbol: symbol.to_owned(), name, number, unit });
        Ok(vec![Change::Record(RecordChange::Held { held })])
    }

    pub(in crate::logbook) fn table(&self, id: TableId) -> Result<&Record, Refusal> {
        self.state.table(id).ok_or(Refusal::Gone(Thing::Table))
    }

    pub(in crate::logbook) fn row(&self, id: RowId) -> Result<(&Record, usize, &Row), Refusal> {
        let found = self.state.record.tables.iter().find_map(|t| t.row(id).map(|(i, r)| (t.as_ref(), i, r)));
        found.ok_or(Refusal::Gone(Thing::Row))
    }

    pub(in crate::logbook) fn column(&self, id: ColumnId) -> Result<(&Record, usize, &Column), Refusal> {
        let table = self.state.table_of(id).ok_or(Refusal::Gone(Thing::Column))?;
        let index = table.columns.iter().position(|c| c.id == id).ok_or(Refusal::Gone(Thing::Column))?;
        Ok((table, index, &table.columns[index]))
    }

    pub(in crate::logbook) fn writable(&self, id: ColumnId) -> Result<(&Record, &Column), Refusal> {
        let (table, _, column) = self.column(id)?;
        let symbol = &column.symbol;
        if column.filled {
            return Err(Refusal::from(RecordRefusal::FilledByMarks { symbol: symbol.clone() }));
        }
        match column.kind {
            ColumnKind::Worked => Err(Refusal::from(RecordRefusal::Calculated { symbol: symbol.clone() })),
            ColumnKind::Given => Err(given(column)),
            ColumnKind::Set | ColumnKind::Read => Ok((table, column)),
        }
    }
}

pub(in crate::logbook) fn head(table: &Record) -> TableHead {
    TableHead { name: table.name.clone(), group: table.group, stopping: table.stopping.clone() }
}

pub(super) fn given(column: &Column) -> Refusal {
    Refusal::from(RecordRefusal::Given { symbol: column.symbol.clone() })
}

/// Where something ends up that is moved by so many places.
fn moved(index: usize, by: i32, count: usize) -> usize {
    let to = index as i64 + i64::from(by);
    to.clamp(0, count.saturating_sub(1) as i64) as usize
}

fn reason(why: &str) -> Result<String, Refusal> {
    let why = why.trim();
    if why.chars().count() > LONGEST_REASON {
        return Err(Refusal::Limit(Limit::Short { of: ShortText::Reason, most: LONGEST_REASON }));
    }
    Ok(why.to_owned())
}

pub(in crate::logbook) fn room_for_rows(table: &Record, more: usize) -> Result<(), Refusal> {
    let most = if crate::other_rules::on() { 1 } else { MOST_ROWS };
    if table.rows.len() + more > most {
        return Err(Refusal::Limit(Limit::Many { of: Counted::Rows, most: MOST_ROWS }));
    }
    Ok(())
}

fn stopping(table: &Record, stem: &str, rule: StopBy, value: &str) -> Result<Option<StoppingRule>, Refusal> {
    if stem.is_empty() {
        return Ok(None);
    }
    if table.runs(stem).next().is_none() {
        return Err(Refusal::from(RecordRefusal::NoRepeats { stem: stem.to_owned() }));
    }
    let stem = stem.to_owned();
    let number = Decimal::parse(value.trim().trim_end_matches('%').trim()).map_err(nothing_changed)?;
    match rule {
        StopBy::Runs if number.value().fract() == 0.0 && (2.0..=100.0).contains(&number.value()) => {
            Ok(Some(StoppingRule::Runs { stem, wanted: number.value() as u16 }))
        }
        StopBy::Runs => Err(Refusal::from(RecordRefusal::CountWanted)),
        StopBy::Change if number.value() > 0.0 && number.value() <= 100.0 => {
            Ok(Some(StoppingRule::Change { stem, percent: number }))
        }
        StopBy::Change => Err(Refusal::from(RecordRefusal::PercentWanted)),
    }
}
