//! Edits of the record.

use crate::logbook::{Logbook, PAGE_ROWS, RowAt, StopBy};
use std::collections::BTreeSet;

use super::{ColumnText, RecordChange, RecordEdit, StatedQuantity, TableHead};
use crate::formula::{Formula, is_symbol};
use crate::logbook::change::Change;
use crate::logbook::edit::Edit;
use crate::logbook::film::FilmChange;
use crate::logbook::footage::Instrument;
use crate::logbook::graph::GraphChange;
use crate::logbook::planning::{Changes, Fresh, Plan, Planned, gone, name_of, named, nothing_changed};
use crate::logbook::refusal::Refusal;
use crate::logbook::state::State;
use crate::quantity::{Decimal, Precision, Reading, Unit, parse_quantity};
use crate::record::{
    Column, ColumnId, ColumnKind, MOST_COLUMNS, MOST_ROWS, MOST_TABLES, Record, Row, RowId, StoppingRule, TableId,
    shown,
};

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
                    head: TableHead { name: name_of(name, "a table")?, ..head(table) },
                })])
            }
            RecordEdit::DeleteTable { table } => self.plan_delete_table(*table),
            RecordEdit::GroupBy { table, column } => {
                let table = self.table(*table)?;
                if let Some(id) = column {
                    let column = table.column(*id).ok_or_else(|| gone("column"))?;
                    if column.kind == ColumnKind::Worked {
                        let symbol = &column.symbol;
                        return Err(Refusal::Invalid(format!(
                            "Rows are grouped by a column of set, given or read values; {symbol} is worked out. Nothing was changed."
                        )));
                    }
                }
                Ok(vec![Change::Record(RecordChange::TableHead {
                    table: table.id,
                    head: TableHead { group: *column, ..head(table) },
                })])
            }
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
            RecordEdit::MoveColumn { column, by } => {
                let (table, index, column) = self.column(*column)?;
                let to = moved(index, *by, table.columns.len());
                if to == index {
                    return Ok(Vec::new().into());
                }
                Ok(vec![
                    Change::Record(RecordChange::RemoveColumn { table: table.id, place: index }),
                    Change::Record(RecordChange::InsertColumn { table: table.id, place: to, column: column.clone() }),
                ])
            }
            RecordEdit::SetRunAside { column, why } => {
                let (table, index, column) = self.column(*column)?;
                if column.stem.is_none() {
                    let symbol = &column.symbol;
                    return Err(Refusal::Invalid(format!("{symbol} is not a run of several. Nothing was changed.")));
                }
                let aside = why.as_ref().map(|w| reason(w)).transpose()?;
                if aside.as_ref().is_some_and(String::is_empty) {
                    return Err(Refusal::Invalid(
                        "Say why this run is set aside: somebody will ask. The run still counts.".to_owned(),
                    ));
                }
                Ok(vec![Change::Record(RecordChange::ReplaceColumn {
                    table: table.id,
                    place: index,
                    column: Column { aside, ..column.clone() },
                })])
            }
            RecordEdit::StopWhen { table, stem, rule, value } => {
                let table = self.table(*table)?;
                let stopping = stopping(table, stem.trim(), *rule, value)?;
                Ok(vec![Change::Record(RecordChange::TableHead {
                    table: table.id,
                    head: TableHead { stopping, ..head(table) },
                })])
            }
            RecordEdit::HoldQuantity { symbol, name, typed } => self.plan_hold(symbol, name, typed),
            RecordEdit::ReleaseQuantity { symbol } => {
                let mut held = state.record.held.clone();
                held.retain(|h| h.symbol != *symbol);
                Ok(if held.len() == state.record.held.len() {
                    Vec::new()
                } else {
                    vec![Change::Record(RecordChange::Held { held })]
                })
            }
            RecordEdit::AddRow { table, above } => {
                let table = self.table(*table)?;
                room_for_rows(table, 1)?;
                let at = match above {
                    Some(row) => table.row(*row).ok_or_else(|| gone("row"))?.0,
                    None => table.rows.len(),
                };
                Ok(vec![Change::Record(RecordChange::InsertRow {
                    table: table.id,
                    place: at,
                    row: Row { id: fresh.next(), ..Row::default() },
                })])
            }
            RecordEdit::MoveRow { row, by } => {
                let (table, index, row) = self.row(*row)?;
                let to = moved(index, *by, table.rows.len());
                if to == index {
                    return Ok(Vec::new().into());
                }
                Ok(vec![
                    Change::Record(RecordChange::RemoveRow { table: table.id, place: index }),
                    Change::Record(RecordChange::InsertRow { table: table.id, place: to, row: row.clone() }),
                ])
            }
            RecordEdit::DeleteRow { row } => {
                let (table, index, row) = self.row(*row)?;
                if let Some((trail, frame)) = row.mark
                    && let Some((film, _)) = state.film_of(trail)
                {
                    let unmark = Change::Film(FilmChange::Mark { film, trail, frame, mark: None });
                    let row = Change::Record(RecordChange::RemoveRow { table: table.id, place: index });
                    return Ok(vec![unmark, row].into());
                }
                let given = table.columns.iter().find(|c| c.kind == ColumnKind::Given && row.cells.contains_key(&c.id));
                if let Some(column) = given {
                    return Err(Refusal::Invalid(format!(
                        "This row holds a value of {} that the sheet gives. Set the row aside if you do not need it.",
                        column.symbol
                    )));
                }
                Ok(vec![Change::Record(RecordChange::RemoveRow { table: table.id, place: index })])
            }
            RecordEdit::TypeCell { row, column, typed, was } => {
                self.plan_cell(*row, *column, typed, was.as_ref(), fresh)
            }
            RecordEdit::SetAside { row, aside, why } => {
                let (table, index, _) = self.row(*row)?;
                let why = if *aside { reason(why)? } else { String::new() };
                Ok(vec![Change::Record(RecordChange::Aside { table: table.id, row: index, aside: *aside, why })])
            }
            RecordEdit::SetBoxAside { graph, range: [across, up], aside } => {
                let analysis = self.analyse();
                let graph = analysis.graph(*graph).ok_or_else(|| gone("graph"))?;
                let inside = |v: f64, [a, b]: [f64; 2]| (a.min(b)..=a.max(b)).contains(&v);
                let hit: BTreeSet<RowId> =
                    graph.points().filter(|p| inside(p.x, *across) && inside(p.y, *up)).map(|p| p.row).collect();
                let mut changes = Vec::new();
                for table in &state.record.tables {
                    let wanted = |r: &Row| hit.contains(&r.id) && r.aside != *aside;
                    let places = table.rows.iter().enumerate().filter(|(_, r)| wanted(r));
                    changes.extend(places.map(|(i, _)| {
                        Change::Record(RecordChange::Aside {
                            table: table.id,
                            row: i,
                            aside: *aside,
                            why: String::new(),
                        })
                    }));
                }
                Ok(changes)
            }
            RecordEdit::LogReading { row, column, instrument } => self.plan_reading(*row, *column, instrument, fresh),
            RecordEdit::Paste { table, name, row, column, text } => {
                return self.plan_paste(*table, name, (*row, *column), text, fresh);
            }
            RecordEdit::FillColumn { column, from, to, count } => {
                return self.plan_fill(*column, (from, to), *count as usize, fresh);
            }
            RecordEdit::AddRun { column } => return self.plan_add_run(*column, fresh),
        };
        changes.map(Planned::from)
    }

    fn plan_reading(&self, row: RowAt, column: ColumnId, instrument: &Instrument, fresh: &mut Fresh) -> Changes {
        let (table, target) = self.writable(column)?;
        let reading = self.read(instrument)?;
        let wanted = target.unit.clone().unwrap_or_default();
        // Logged in the column's unit, as it is read off.
        let fitting = reading.in_unit(&wanted).ok_or_else(|| Refusal::WrongUnit {
            reading: reading.unit.clone(),
            symbol: target.symbol.clone(),
            column: wanted,
        })?;
        self.put(table, row, column, Some(fitting), fresh)
    }

    /// An empty table with a name no other has.
    pub(in crate::logbook) fn new_table(&self, name: &str, fresh: &mut Fresh) -> Result<Record, Refusal> {
        if self.state.record.tables.len() >= MOST_TABLES {
            return Err(Refusal::Limit(format!("A logbook can have {MOST_TABLES} tables. Nothing was added.")));
        }
        let name = name_of(name, "a table")?;
        if self.state.record.tables.iter().any(|t| t.name == name) {
            return Err(Refusal::Invalid(format!("There is already a table “{name}”. Choose another name.")));
        }
        Ok(Record { id: fresh.next(), name, ..Record::default() })
    }

    fn plan_delete_table(&self, id: TableId) -> Changes {
        let table = self.table(id)?;
        if let Some(trail) = self.state.film.films.iter().flat_map(|f| &f.trails).find(|t| t.table == id) {
            return Err(Refusal::Invalid(format!(
                "The marks of “{}” fill this table. Delete that trail on the stage instead.",
                trail.name
            )));
        }
        if self.state.record.tables.len() == 1 {
            return Err(Refusal::Invalid("A logbook keeps one table. Delete its columns instead.".to_owned()));
        }
        if table.columns.iter().any(|c| c.kind == ColumnKind::Given) {
            return Err(Refusal::Invalid("This table holds values that the sheet gives; it stays.".to_owned()));
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
        let name = name_of(name, "a quantity")?;
        let (number, unit) = parse_quantity(typed, &Unit::one())
            .map_err(|message| Refusal::Value { message, kept: "Nothing was changed".to_owned() })?;
        let mut held = self.state.record.held.clone();
        held.retain(|h| h.symbol != symbol);
        if held.len() >= MOST_HELD {
            return Err(Refusal::Limit(format!(
                "At most {MOST_HELD} quantities can be stated here. Nothing was added."
            )));
        }
        if let Some(table) = self.state.record.tables.iter().find(|t| t.by_symbol(symbol).is_some()) {
            return Err(Refusal::Invalid(format!(
                "The table “{}” has a column {symbol}. Choose another symbol.",
                table.name
            )));
        }
        held.push(StatedQuantity { symbol: symbol.to_owned(), name, number, unit });
        Ok(vec![Change::Record(RecordChange::Held { held })])
    }

    fn plan_change_column(&self, id: ColumnId, text: &ColumnText) -> Changes {
        let (table, index, old) = self.column(id)?;
        if old.kind == ColumnKind::Given {
            return Err(given(old));
        }
        let new = self.column_from(table, id, old.kind, text)?;
        if let (Some(from), Some(to)) = (&old.unit, &new.unit)
            && old.kind != ColumnKind::Worked
            && !from.same_dimension(to)
            && table.rows.iter().any(|r| r.cells.contains_key(&id))
        {
            return Err(Refusal::WrongUnit { reading: from.clone(), symbol: old.symbol.clone(), column: to.clone() });
        }
        let new = Column { stem: old.stem.clone(), aside: old.aside.clone(), filled: old.filled, ..new };
        let mut changes = Vec::new();
        // Formulas and stated uncertainties follow a renamed symbol.
        if old.symbol != new.symbol {
            changes = renamed(table, index, &old.symbol, &new.symbol);
        }
        changes.push(Change::Record(RecordChange::ReplaceColumn { table: table.id, place: index, column: new }));
        Ok(changes)
    }

    fn plan_delete_column(&self, id: ColumnId) -> Changes {
        let (table, index, column) = self.column(id)?;
        if column_is_filled(&self.state, id) {
            return Err(Refusal::Invalid(
                "Marks fill this column. Delete the trail on the stage if you no longer need it.".to_owned(),
            ));
        }
        if column.kind == ColumnKind::Given {
            return Err(given(column));
        }
        let rows = table.rows.iter().enumerate().filter(|(_, r)| r.cells.contains_key(&id));
        let mut changes: Vec<Change> = rows
            .map(|(i, _)| Change::Record(RecordChange::Cell { table: table.id, row: i, column: id, reading: None }))
            .collect();
        changes.extend(self.graphs_without(&[id]));
        let lonely = column.stem.as_deref().filter(|stem| table.runs(stem).count() == 1);
        let head_now = head(table);
        let group = head_now.group.filter(|g| *g != id);
        let stopping = head_now.stopping.clone().filter(|s| Some(s.stem()) != lonely);
        if group != head_now.group || stopping != head_now.stopping {
            changes.push(Change::Record(RecordChange::TableHead {
                table: table.id,
                head: TableHead { group, stopping, ..head_now },
            }));
        }
        changes.push(Change::Record(RecordChange::RemoveColumn { table: table.id, place: index }));
        Ok(changes)
    }

    /// Reads and checks a column's form.
    pub(in crate::logbook) fn column_from(
        &self,
        table: &Record,
        id: ColumnId,
        kind: ColumnKind,
        text: &ColumnText,
    ) -> Result<Column, Refusal> {
        let name = name_of(&text.name, "a column")?;
        let symbol = text.symbol.trim();
        if !is_symbol(symbol) {
            return Err(not_a_symbol(symbol));
        }
        if table.columns.iter().any(|c| (c.symbol == symbol || c.stem.as_deref() == Some(symbol)) && c.id != id) {
            return Err(Refusal::Invalid(format!(
                "There is already a column with the symbol {symbol}. Choose another symbol."
            )));
        }
        let unit = Unit::parse(&text.unit).map_err(|e| Refusal::Invalid(format!("{e} Nothing was changed.")))?;
        if self.state.record.held.iter().any(|h| h.symbol == symbol) {
            return Err(Refusal::Invalid(format!(
                "{symbol} is a quantity held beside the tables. Choose another symbol."
            )));
        }
        let column = |unit, formula, precision| Column {
            id,
            kind,
            name: name.clone(),
            symbol: symbol.to_owned(),
            unit,
            formula,
            precision,
            stem: None,
            aside: None,
            filled: false,
        };
        if kind != ColumnKind::Worked {
            let precision = Precision::read(&text.precision, &unit).map_err(nothing_changed)?;
            check_precision(table, &precision, symbol, &unit)?;
            return Ok(column(Some(unit), None, precision));
        }
        // `Tsq = T^2` may be typed whole.
        let typed = text.formula.trim();
        let right_side =
            typed.split_once('=').filter(|(left, _)| left.trim() == symbol).map_or(typed, |(_, right)| right.trim());
        let wrong = |e| Refusal::formula(right_side, e);
        let formula = Formula::parse(right_side).map_err(wrong)?;
        // Under its old symbol the column itself would count as another one.
        let columns = table.columns.iter().filter(|c| c.id != id).cloned().collect();
        let others = Record { columns, rows: Vec::new(), ..Record::default() };
        let derived = others.check_formula(symbol, &formula, &self.held_quantities()).map_err(wrong)?;
        let wanted = (!text.unit.trim().is_empty()).then_some(unit);
        if let Some(wanted) = &wanted
            && !wanted.same_dimension(&derived)
        {
            return Err(Refusal::Invalid(format!(
                "The formula gives {}, which cannot be shown in {}. Nothing was changed.",
                if derived.is_one() { "a pure number".to_owned() } else { derived.pretty() },
                wanted.pretty()
            )));
        }
        Ok(column(wanted, Some(formula), Precision::Resolution))
    }

    fn plan_cell(
        &self,
        row: RowAt,
        column: ColumnId,
        typed: &str,
        was: Option<&Decimal>,
        fresh: &mut Fresh,
    ) -> Changes {
        let (table, target) = self.writable(column)?;
        let unit = target.unit.clone().unwrap_or_default();
        let current = self.row_at(table, row)?.and_then(|(_, row)| row.cells.get(&column));
        let now = current.map(|r| shown(r, &unit));
        // Digits count: 0.40 in place of 0.4 is a change.
        if now.as_deref() != was.map(Decimal::pretty).as_deref() {
            return Err(Refusal::Changed { now: now.unwrap_or_default() });
        }
        if typed.trim().is_empty() {
            return if current.is_some() { self.put(table, row, column, None, fresh) } else { Ok(Vec::new()) };
        }
        let kept = || match &now {
            Some(now) => format!("The cell still holds {}", crate::quantity::format::with_unit(now, &unit)),
            None => "The cell is still empty".to_owned(),
        };
        let (number, typed_unit) =
            parse_quantity(typed, &unit).map_err(|message| Refusal::Value { message, kept: kept() })?;
        if !typed_unit.same_dimension(&unit) {
            return Err(Refusal::Value {
                message: format!("The column {} is in {}, not in {}.", target.symbol, named(&unit), named(&typed_unit)),
                kept: kept(),
            });
        }
        // Kept in the unit it was typed in; the column shows it in its own.
        self.put(table, row, column, Some(Reading::typed(number, typed_unit)), fresh)
    }

    /// The number that the cell holds which an edit types into, in the column's unit; nothing for any other edit, and for an empty
    /// cell.
    pub fn held_by_cell(&self, edit: &Edit) -> Option<String> {
        let Edit::Record(RecordEdit::TypeCell { row, column, .. }) = edit else { return None };
        let (table, _, target) = self.column(*column).ok()?;
        let reading = self.row_at(table, *row).ok()??.1.cells.get(column)?;
        Some(shown(reading, target.unit.as_ref()?))
    }

    /// Place and row that is meant; none when it has still to be made.
    pub(super) fn row_at<'a>(&self, table: &'a Record, row: RowAt) -> Result<Option<(usize, &'a Row)>, Refusal> {
        match row {
            RowAt::There(id) => table.row(id).map(Some).ok_or_else(|| gone("row")),
            RowAt::Begun(id) if id < PAGE_ROWS => Err(gone("row")),
            RowAt::Begun(id) => match table.row(id) {
                Some(found) => Ok(Some(found)),
                None if self.row(id).is_ok() => Err(gone("row")),
                None => Ok(None),
            },
            RowAt::Below => Ok(None),
        }
    }

    /// Writes into a cell, in a new row if need be.
    pub(in crate::logbook) fn put(
        &self,
        table: &Record,
        row: RowAt,
        column: ColumnId,
        reading: Option<Reading>,
        fresh: &mut Fresh,
    ) -> Changes {
        if let Some((index, _)) = self.row_at(table, row)? {
            return Ok(vec![Change::Record(RecordChange::Cell { table: table.id, row: index, column, reading })]);
        }
        room_for_rows(table, 1)?;
        let id = match row {
            RowAt::Begun(id) => id,
            RowAt::There(_) | RowAt::Below => fresh.next(),
        };
        let cells = reading.map(|r| (column, r)).into_iter().collect();
        let row = Row { id, cells, ..Row::default() };
        Ok(vec![Change::Record(RecordChange::InsertRow { table: table.id, place: table.rows.len(), row })])
    }

    pub(in crate::logbook) fn plan_fill(
        &self,
        id: ColumnId,
        (from, to): (&str, &str),
        count: usize,
        fresh: &mut Fresh,
    ) -> Plan {
        let (table, column) = self.writable(id)?;
        if column.kind != ColumnKind::Set {
            let symbol = &column.symbol;
            return Err(Refusal::Invalid(format!(
                "Only a column that is varied by hand is filled; {symbol} is measured. Nothing was changed."
            )));
        }
        if !(2..=1000).contains(&count) {
            return Err(Refusal::Invalid("The number of trials can be 2 to 1000. Nothing was changed.".to_owned()));
        }
        let unit = column.unit.clone().unwrap_or_default();
        let end = |typed: &str| {
            let (number, typed_unit) = parse_quantity(typed, &unit).map_err(nothing_changed)?;
            let reading = Reading::typed(number, typed_unit);
            reading.in_unit(&unit).ok_or_else(|| Refusal::WrongUnit {
                reading: reading.unit.clone(),
                symbol: column.symbol.clone(),
                column: unit.clone(),
            })
        };
        let (first, last) = (end(from)?, end(to)?);
        let (a, b) = (first.number.value(), last.number.value());
        if a == b {
            return Err(Refusal::Invalid(
                "Both ends are the same, so nothing would vary. Nothing was changed.".to_owned(),
            ));
        }
        // As few digits as the intervals need.
        let coarse = first.resolution.max(last.resolution).min((b - a).abs());
        let value = |i: usize| a + (b - a) * i as f64 / (count - 1) as f64;
        let exact = |step: f64| (0..count).all(|i| (value(i) / step - (value(i) / step).round()).abs() < 1e-6);
        let step = [1.0, 0.1, 0.01].into_iter().map(|f| f * coarse).find(|s| exact(*s)).unwrap_or(0.01 * coarse);
        let empty: Vec<usize> =
            table.rows.iter().enumerate().filter(|(_, r)| !r.cells.contains_key(&id)).map(|(i, _)| i).collect();
        room_for_rows(table, count.saturating_sub(empty.len()))?;
        let mut changes = Vec::with_capacity(count);
        for i in 0..count {
            let reading = Reading::typed(Decimal::rounded(value(i), step), unit.clone());
            match empty.get(i) {
                Some(row) => changes.push(Change::Record(RecordChange::Cell {
                    table: table.id,
                    row: *row,
                    column: id,
                    reading: Some(reading),
                })),
                None => {
                    let row = Row { id: fresh.next(), cells: [(id, reading)].into(), ..Row::default() };
                    changes.push(Change::Record(RecordChange::InsertRow {
                        table: table.id,
                        place: table.rows.len() + i - empty.len(),
                        row,
                    }));
                }
            }
        }
        Ok(Planned { word: self.sheet.advice(count), ..changes.into() })
    }

    pub(in crate::logbook) fn plan_add_run(&self, id: ColumnId, fresh: &mut Fresh) -> Plan {
        let (table, index, column) = self.column(id)?;
        if column.kind != ColumnKind::Read {
            let symbol = &column.symbol;
            return Err(Refusal::Invalid(format!(
                "Runs are repeated measurements; {symbol} is not measured. Nothing was changed."
            )));
        }
        room_for_columns(table, 1)?;
        let (stem, mut changes, mut word) = match &column.stem {
            Some(stem) => (stem.clone(), Vec::new(), None),
            None => {
                // The column there is becomes the first run.
                let first = run_symbol(&column.symbol, 1)?;
                let mut changes = renamed(table, index, &column.symbol, &first);
                let new = Column { symbol: first.clone(), stem: Some(column.symbol.clone()), ..column.clone() };
                changes.push(Change::Record(RecordChange::ReplaceColumn {
                    table: table.id,
                    place: index,
                    column: new,
                }));
                let stem = &column.symbol;
                let word = format!(
                    "{stem} is now {first}, its first run. Formulas take all runs together as mean({stem}), sum({stem}) or spread({stem})."
                );
                (column.symbol.clone(), changes, Some(word))
            }
        };
        let last = table.columns.iter().rposition(|c| c.stem.as_ref() == Some(&stem)).unwrap_or(index);
        let taken = |symbol: &str| table.by_symbol(symbol).is_some();
        let mut number = table.runs(&stem).count().max(1) + 1;
        while taken(&run_symbol(&stem, number)?) {
            number += 1;
        }
        let symbol = run_symbol(&stem, number)?;
        let new = Column { id: fresh.next(), symbol, stem: Some(stem), aside: None, ..column.clone() };
        changes.push(Change::Record(RecordChange::InsertColumn { table: table.id, place: last + 1, column: new }));
        if word.is_none() && number > 30 {
            word = Some(format!("That is run {number}."));
        }
        Ok(Planned { word, ..changes.into() })
    }

    /// The graphs that show one of these columns, without it.
    fn graphs_without(&self, gone: &[ColumnId]) -> Vec<Change> {
        let affected = self.state.graph.graphs.iter().filter(|g| {
            let main = g.x.iter().chain(&g.y).any(|c| gone.contains(c));
            main || g.more.iter().any(|(x, y)| gone.contains(x) || gone.contains(y))
        });
        affected
            .map(|g| {
                let mut plan = g.clone();
                plan.x = plan.x.filter(|c| !gone.contains(c));
                plan.y = plan.y.filter(|c| !gone.contains(c));
                plan.more.retain(|(x, y)| !gone.contains(x) && !gone.contains(y));
                Change::Graph(GraphChange::Change { graph: g.id, plan: Box::new(plan) })
            })
            .collect()
    }

    pub(in crate::logbook) fn table(&self, id: TableId) -> Result<&Record, Refusal> {
        self.state.table(id).ok_or_else(|| gone("table"))
    }

    pub(in crate::logbook) fn row(&self, id: RowId) -> Result<(&Record, usize, &Row), Refusal> {
        let found = self.state.record.tables.iter().find_map(|t| t.row(id).map(|(i, r)| (t.as_ref(), i, r)));
        found.ok_or_else(|| gone("row"))
    }

    pub(in crate::logbook) fn column(&self, id: ColumnId) -> Result<(&Record, usize, &Column), Refusal> {
        let table = self.state.table_of(id).ok_or_else(|| gone("column"))?;
        let index = table.columns.iter().position(|c| c.id == id).ok_or_else(|| gone("column"))?;
        Ok((table, index, &table.columns[index]))
    }

    pub(in crate::logbook) fn writable(&self, id: ColumnId) -> Result<(&Record, &Column), Refusal> {
        let (table, _, column) = self.column(id)?;
        let symbol = &column.symbol;
        if column.filled {
            return Err(Refusal::Invalid(format!(
                "The column {symbol} is filled by marks. Move the mark on the stage instead; nothing was written."
            )));
        }
        match column.kind {
            ColumnKind::Worked => {
                Err(Refusal::Invalid(format!("The column {symbol} is worked out by its formula. Nothing was written.")))
            }
            ColumnKind::Given => Err(given(column)),
            ColumnKind::Set | ColumnKind::Read => Ok((table, column)),
        }
    }
}

fn column_is_filled(state: &State, id: ColumnId) -> bool {
    state.table_of(id).and_then(|t| t.column(id)).is_some_and(|c| c.filled)
}

pub(in crate::logbook) fn head(table: &Record) -> TableHead {
    TableHead { name: table.name.clone(), group: table.group, stopping: table.stopping.clone() }
}

fn given(column: &Column) -> Refusal {
    Refusal::Invalid(format!("The values of {} are given by the sheet and stay as they are.", column.symbol))
}

fn not_a_symbol(symbol: &str) -> Refusal {
    Refusal::Invalid(format!(
        "“{}” cannot be a symbol: write a letter, then letters or digits, 12 at most. Nothing was changed.",
        symbol.chars().take(20).collect::<String>()
    ))
}

/// Where something ends up that is moved by so many places.
fn moved(index: usize, by: i32, count: usize) -> usize {
    let to = index as i64 + i64::from(by);
    to.clamp(0, count.saturating_sub(1) as i64) as usize
}

fn reason(why: &str) -> Result<String, Refusal> {
    let why = why.trim();
    if why.chars().count() > LONGEST_REASON {
        return Err(Refusal::Limit(format!("A reason can have {LONGEST_REASON} characters. Nothing was changed.")));
    }
    Ok(why.to_owned())
}

pub(in crate::logbook) fn room_for_columns(table: &Record, more: usize) -> Result<(), Refusal> {
    if table.columns.len() + more > MOST_COLUMNS {
        return Err(Refusal::Limit(format!("A table can have {MOST_COLUMNS} columns. Nothing was added.")));
    }
    Ok(())
}

pub(in crate::logbook) fn room_for_rows(table: &Record, more: usize) -> Result<(), Refusal> {
    let most = if crate::other_rules::on() { 1 } else { MOST_ROWS };
    if table.rows.len() + more > most {
        return Err(Refusal::Limit(format!("A table can have {MOST_ROWS} rows. Nothing was added.")));
    }
    Ok(())
}

fn run_symbol(stem: &str, number: usize) -> Result<String, Refusal> {
    let symbol = format!("{stem}_{number}");
    if is_symbol(&symbol) { Ok(symbol) } else { Err(not_a_symbol(&symbol)) }
}

/// The other columns with a symbol renamed in their formulas and uncertainties.
fn renamed(table: &Record, index: usize, from: &str, to: &str) -> Vec<Change> {
    let mut changes = Vec::new();
    for (i, other) in table.columns.iter().enumerate().filter(|(i, _)| *i != index) {
        let formula = other.formula.as_ref().filter(|f| f.symbols().contains(&from)).map(|f| f.renamed(from, to));
        let precision = match &other.precision {
            Precision::Column { symbol } if symbol == from => Some(Precision::Column { symbol: to.to_owned() }),
            _ => None,
        };
        if formula.is_some() || precision.is_some() {
            let formula = formula.or_else(|| other.formula.clone());
            let precision = precision.unwrap_or_else(|| other.precision.clone());
            changes.push(Change::Record(RecordChange::ReplaceColumn {
                table: table.id,
                place: i,
                column: Column { formula, precision, ..other.clone() },
            }));
        }
    }
    changes
}

/// Whether a column of uncertainties is there and fits.
fn check_precision(table: &Record, precision: &Precision, own: &str, unit: &Unit) -> Result<(), Refusal> {
    let Precision::Column { symbol } = precision else { return Ok(()) };
    let refuse = |message: String| Err(nothing_changed(message));
    if symbol == own {
        return refuse(format!("{own} cannot be its own uncertainty."));
    }
    let Some(column) = table.by_symbol(symbol) else {
        return refuse(format!("There is no column {symbol} in this table."));
    };
    match &column.unit {
        Some(u) if !u.same_dimension(unit) => {
            refuse(format!("The uncertainty {symbol} is in {}, the column in {}.", named(u), named(unit)))
        }
        _ => Ok(()),
    }
}

fn stopping(table: &Record, stem: &str, rule: StopBy, value: &str) -> Result<Option<StoppingRule>, Refusal> {
    if stem.is_empty() {
        return Ok(None);
    }
    if table.runs(stem).next().is_none() {
        return Err(nothing_changed(format!("{stem} has no runs. Add a run to a measured column first.")));
    }
    let stem = stem.to_owned();
    let number =
        Decimal::parse(value.trim().trim_end_matches('%').trim()).map_err(|e| nothing_changed(e.to_string()))?;
    match rule {
        StopBy::Runs if number.value().fract() == 0.0 && (2.0..=100.0).contains(&number.value()) => {
            Ok(Some(StoppingRule::Runs { stem, wanted: number.value() as u16 }))
        }
        StopBy::Runs => Err(nothing_changed("A whole number of runs, 2 to 100, is wanted.".to_owned())),
        StopBy::Change if number.value() > 0.0 && number.value() <= 100.0 => {
            Ok(Some(StoppingRule::Change { stem, percent: number }))
        }
        StopBy::Change => Err(nothing_changed("A percentage is more than 0 and at most 100.".to_owned())),
    }
}
