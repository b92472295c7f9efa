//! Rows and cells: what is typed and logged into them becomes changes.

use crate::logbook::Heard;
use crate::logbook::RecordRefusal;
use crate::logbook::refusal::{Kept, Refusal, Thing, ValueError};
use std::collections::BTreeSet;

use super::plan::room_for_rows;
use super::{RecordChange, RecordEdit};
use crate::logbook::change::Change;
use crate::logbook::edit::Edit;
use crate::logbook::footage::Instrument;
use crate::logbook::planning::{Changes, Fresh, Plan, Planned, nothing_changed};
use crate::logbook::{Logbook, PAGE_ROWS, RowAt};
use crate::quantity::{Decimal, DrawnFrom, Origin, Reading, parse_quantity};
use crate::record::{Column, ColumnId, ColumnKind, ColumnSource, Record, Row, RowId, TableId, shown};

impl Logbook {
    /// A reading into a cell; where nobody pointed at that cell, into the first empty one of its row that it fits, if it doesn't fit there.
    pub(super) fn plan_reading(
        &self,
        (row, column): (RowAt, ColumnId),
        pointed: bool,
        instrument: &Instrument,
        fresh: &mut Fresh,
    ) -> Changes {
        let (table, first) = self.writable(column)?;
        let reading = self.read(instrument, table.id)?;
        let fits = |c: &Column| c.unit.clone().unwrap_or_default().same_dimension(&reading.unit);
        let there = self.row_at(table, row)?.map(|(_, row)| row);
        let empty = |c: &Column| there.is_none_or(|row| !row.cells.contains_key(&c.id));
        let beside = || table.columns.iter().find(|c| self.writable(c.id).is_ok() && fits(c) && empty(c));
        let target = if pointed || fits(first) { first } else { beside().unwrap_or(first) };
        let wanted = target.unit.clone().unwrap_or_default();
        // Logged in the column's unit, as it is read off.
        let fitting = reading.in_unit(&wanted).ok_or_else(|| Refusal::WrongUnit {
            reading: reading.unit.clone(),
            symbol: target.symbol.clone(),
            column: wanted,
        })?;
        self.put(table, row, target.id, Some(fitting), fresh)
    }

    /// One row with all that the sheet lets a trial log by itself.
    pub(super) fn plan_log_trial(&self, table: TableId, frame: u32, fresh: &mut Fresh) -> Changes {
        let table = self.state.record.tables.iter().find(|t| t.id == table).ok_or(Refusal::Gone(Thing::Table))?;
        let run = self.state.run_on_stage().ok_or(Refusal::Gone(Thing::Run))?;
        if self.settings_are_new() {
            return Err(Refusal::from(RecordRefusal::SettingsChanged));
        }
        let mut cells = Vec::new();
        for (column, source) in table.columns.iter().filter_map(|c| Some((c, c.source.as_deref()?))) {
            let instrument = match source {
                ColumnSource::Setting(name) => Instrument::Setting { name: name.clone() },
                ColumnSource::Meter(name) => Instrument::Meter { run, name: name.clone(), frame },
            };
            let reading = self.read(&instrument, table.id)?;
            let wanted = column.unit.clone().unwrap_or_default();
            let fitting = reading.in_unit(&wanted).ok_or_else(|| Refusal::WrongUnit {
                reading: reading.unit.clone(),
                symbol: column.symbol.clone(),
                column: wanted,
            })?;
            cells.push((column.id, fitting));
        }
        let Some((first, _)) = cells.first() else {
            return Err(Refusal::from(RecordRefusal::NothingTaken));
        };
        let same =
            |row: &Row| cells.iter().all(|(id, reading)| row.cells.get(id).is_some_and(|c| c.origin == reading.origin));
        if let Some(place) = table.rows.iter().position(same) {
            return Err(Refusal::from(RecordRefusal::TrialThere { row: place + 1 }));
        }
        // The row a plan of trials has begun with the setting, or the first without anything in it, or a new one.
        let free = |row: &Row| {
            let held =
                |(id, reading): &(ColumnId, Reading)| row.cells.get(id).is_none_or(|c| c.origin == reading.origin);
            cells.iter().all(held)
        };
        match table.rows.iter().enumerate().rfind(|(_, row)| free(row) && row.cells.contains_key(first)) {
            Some((place, row)) => {
                let missing = cells.iter().filter(|(id, _)| !row.cells.contains_key(id));
                let changes = missing.map(|(id, reading)| {
                    let (column, reading) = (*id, Some(reading.clone()));
                    Change::Record(RecordChange::Cell { table: table.id, row: place, column, reading })
                });
                Ok(changes.collect())
            }
            None => {
                room_for_rows(table, 1)?;
                let cells = cells.into_iter().map(|(id, reading)| (id, Box::new(reading))).collect();
                let row = Row { id: fresh.next(), cells, ..Row::default() };
                Ok(vec![Change::Record(RecordChange::InsertRow { table: table.id, place: table.rows.len(), row })])
            }
        }
    }

    /// A value of a curve into a column, or the same of every curve or group: into the cell that has it already, else the row that has the group's
    /// value, else the first row that is free.
    pub(super) fn plan_drawn(&self, column: ColumnId, like: &DrawnFrom, all: bool, fresh: &mut Fresh) -> Plan {
        let (table, target) = self.writable(column)?;
        let analysis = self.analyse();
        let sources = if all { self.alike(&analysis, like) } else { vec![like.clone()] };
        if sources.is_empty() {
            return Err(Refusal::from(RecordRefusal::NothingDrawn));
        }
        let wanted = target.unit.clone().unwrap_or_default();
        let mut found = Vec::new();
        for source in &sources {
            let reading = self.read_drawn(source, table.id)?;
            let fitting = reading.in_unit(&wanted).ok_or_else(|| Refusal::WrongUnit {
                reading: reading.unit.clone(),
                symbol: target.symbol.clone(),
                column: wanted.clone(),
            })?;
            found.push(fitting);
        }
        let holds = |row: &Row, one: &Reading| {
            let [there, one] =
                [row.cells.get(&column).map(|r| &**r), Some(one)].map(|r| r.and_then(|r| r.origin.drawn()));
            there.zip(one).is_some_and(|(a, b)| a.source == b.source)
        };
        // What was typed, or comes from elsewhere, stays.
        let free = |row: &Row| !row.cells.contains_key(&column) || found.iter().any(|one| holds(row, one));
        let mut taken: BTreeSet<usize> = BTreeSet::new();
        let (mut changes, mut rows, mut below) = (Vec::new(), Vec::new(), table.rows.len());
        for (source, reading) in sources.iter().zip(&found) {
            let group = self.group_value(&analysis, source);
            let of_group =
                |i: &usize| group.as_ref().is_some_and(|g| self.row_has(table.id, *i, g)) && free(&table.rows[*i]);
            let open = |i: &usize| !taken.contains(i) && !table.rows[*i].cells.contains_key(&column);
            let all = 0..table.rows.len();
            let place = table.rows.iter().position(|row| holds(row, reading));
            match place.or_else(|| all.clone().find(of_group)).or_else(|| all.clone().find(open)) {
                Some(row) => {
                    taken.insert(row);
                    rows.push(row + 1);
                    let reading = Some(reading.clone());
                    changes.push(Change::Record(RecordChange::Cell { table: table.id, row, column, reading }));
                }
                None => {
                    let cells = [(column, Box::new(reading.clone()))].into();
                    let row = Row { id: fresh.next(), cells, ..Row::default() };
                    changes.push(Change::Record(RecordChange::InsertRow { table: table.id, place: below, row }));
                    below += 1;
                    rows.push(below);
                }
            }
        }
        room_for_rows(table, below - table.rows.len())?;
        let heard = vec![Heard::Entered { symbol: target.symbol.clone(), rows, table: table.name.clone() }];
        Ok(Planned { heard, ..changes.into() })
    }

    /// Lets a cell follow its curve, or no longer.
    pub(super) fn plan_freeze(&self, row: RowId, column: ColumnId, frozen: bool) -> Changes {
        let (table, _) = self.writable(column)?;
        let (place, row) = table.row(row).ok_or(Refusal::Gone(Thing::Row))?;
        let mut reading = row.cells.get(&column).map(|r| (**r).clone()).ok_or(Refusal::Gone(Thing::Reading))?;
        let Origin::Curve { drawn } = &mut reading.origin else {
            return Err(Refusal::from(RecordRefusal::FollowsNothing));
        };
        if drawn.frozen == frozen {
            return Ok(Vec::new());
        }
        drawn.frozen = frozen;
        let reading = Some(reading);
        Ok(vec![Change::Record(RecordChange::Cell { table: table.id, row: place, column, reading })])
    }

    pub(super) fn plan_cell(
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
        let refuse = |wrong| {
            let holds = now.as_ref().map(|now| crate::quantity::format::with_unit(now, &unit));
            Refusal::Value { wrong, kept: Kept::Cell(holds) }
        };
        let (number, typed_unit) = parse_quantity(typed, &unit).map_err(|e| refuse(e.into()))?;
        if !typed_unit.same_dimension(&unit) {
            let symbol = target.symbol.clone();
            return Err(refuse(ValueError::OtherUnit { symbol, column: unit.clone(), typed: typed_unit }));
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
            RowAt::There(id) => table.row(id).map(Some).ok_or(Refusal::Gone(Thing::Row)),
            RowAt::Begun(id) if id < PAGE_ROWS => Err(Refusal::Gone(Thing::Row)),
            RowAt::Begun(id) => match table.row(id) {
                Some(found) => Ok(Some(found)),
                None if self.row(id).is_ok() => Err(Refusal::Gone(Thing::Row)),
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
        let cells = reading.map(|r| (column, Box::new(r))).into_iter().collect();
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
            return Err(Refusal::from(RecordRefusal::NotVaried { symbol: symbol.clone() }));
        }
        if !(2..=1000).contains(&count) {
            return Err(Refusal::from(RecordRefusal::FillCount));
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
            return Err(Refusal::from(RecordRefusal::SameEnds));
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
                    let row = Row { id: fresh.next(), cells: [(id, Box::new(reading))].into(), ..Row::default() };
                    changes.push(Change::Record(RecordChange::InsertRow {
                        table: table.id,
                        place: table.rows.len() + i - empty.len(),
                        row,
                    }));
                }
            }
        }
        let heard = self.sheet.advice(count).map(Heard::Trials).into_iter().collect();
        Ok(Planned { heard, ..changes.into() })
    }
}
