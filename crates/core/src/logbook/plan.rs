//! From an edit to elementary changes: reads what was typed, checks it, and refuses what cannot be done.

use super::edit::{ColumnText, Edit, Instrument};
use super::refusal::Refusal;
use super::state::{Patch, TextField, Tools};
use super::{Logbook, RUN_SAMPLING};
use crate::formula::{Formula, is_symbol};
use crate::lab::Freedom;
use crate::quantity::{Decimal, Origin, Reading, Unit, parse_quantity};
use crate::record::{Column, ColumnId, ColumnKind, MOST_COLUMNS, MOST_ROWS, Row, RowId};
use crate::rigs::SettingValue;

/// Longest text of the write-up, in characters.
const LONGEST_TEXT: usize = 20_000;
/// Longest name of a column, in characters.
const LONGEST_NAME: usize = 40;
/// Most runs of a logbook.
const MOST_RUNS: usize = 500;
/// Smallest division of the tape, in m.
pub const TAPE_DIVISION: f64 = 0.001;
/// The tape is never laid farther out than this, in m.
const FARTHEST: f64 = 1e4;

type Plan = Result<Vec<Patch>, Refusal>;

impl Logbook {
    /// The changes an edit asks for. `fresh` is an id no row or column has had.
    pub(super) fn plan(&self, edit: &Edit, fresh: u32) -> Plan {
        let state = &self.state;
        match edit {
            Edit::SetSetting { name, typed } => self.plan_setting(name, typed),
            Edit::Run if state.runs.len() >= MOST_RUNS => {
                Err(Refusal::Limit(format!("A logbook can hold {MOST_RUNS} runs. Nothing was changed.")))
            }
            Edit::Run => Ok(vec![
                Patch::PushRun(state.settings.clone()),
                Patch::Tools(Tools { tape: state.tools.tape, ..Tools::default() }),
            ]),
            Edit::PlaceTools { tools } => plan_tools(tools),
            Edit::AddColumn { kind, text } => {
                if state.record.columns.len() >= MOST_COLUMNS {
                    return Err(Refusal::Limit(format!(
                        "A record can have {MOST_COLUMNS} columns. Nothing was added."
                    )));
                }
                let column = self.column_from(fresh, *kind, text)?;
                Ok(vec![Patch::InsertColumn(state.record.columns.len(), column)])
            }
            Edit::ChangeColumn { column, text } => self.plan_change_column(*column, text),
            Edit::DeleteColumn { column } => self.plan_delete_column(*column),
            Edit::AddRow => {
                self.room_for_a_row()?;
                Ok(vec![Patch::InsertRow(state.record.rows.len(), Row { id: fresh, ..Row::default() })])
            }
            Edit::DeleteRow { row } => Ok(vec![Patch::RemoveRow(self.row(*row)?.0)]),
            Edit::TypeCell { row, column, typed, was } => self.plan_cell(*row, *column, typed, was, fresh),
            Edit::LogReading { row, column, instrument } => {
                let target = self.writable(*column)?;
                let reading = self.read(instrument)?;
                let wanted = target.unit.clone().unwrap_or_default();
                let fitting = reading.in_unit(&wanted).ok_or_else(|| Refusal::WrongUnit {
                    reading: reading.unit.clone(),
                    symbol: target.symbol.clone(),
                    column: wanted,
                })?;
                self.put(*row, *column, Some(fitting), fresh)
            }
            Edit::SetAside { row, aside } => {
                self.row(*row)?;
                Ok(vec![Patch::Aside(*row, *aside)])
            }
            Edit::ChooseAxes { x, y } => {
                for column in [x, y].into_iter().flatten() {
                    self.column(*column)?;
                }
                Ok(vec![Patch::Axes(*x, *y)])
            }
            Edit::ChooseModel { model } => Ok(vec![Patch::Model(*model)]),
            Edit::StateLaw { typed } if typed.trim().is_empty() => Ok(vec![Patch::Law(None)]),
            Edit::StateLaw { typed } => {
                let law = Formula::parse(typed.trim()).map_err(|e| Refusal::formula(typed.trim(), e))?;
                Ok(vec![Patch::Law(Some(law))])
            }
            Edit::StateAccepted { typed } => {
                let (number, unit) = parse_quantity(typed, &state.accepted.1).map_err(|message| Refusal::Value {
                    message,
                    kept: format!("The accepted value is still {}", pretty(&state.accepted.0, &state.accepted.1)),
                })?;
                Ok(vec![Patch::Accepted(number, unit)])
            }
            Edit::Write { field, text, was } => self.plan_text(*field, text, was),
            // The logbook itself deals with these four.
            Edit::HandIn | Edit::SendBack { .. } | Edit::Undo | Edit::Redo => Ok(Vec::new()),
        }
    }

    fn plan_setting(&self, name: &str, typed: &str) -> Plan {
        let free = self.sheet.rule(name).filter(|r| r.freedom == Freedom::Free);
        let rule = free.ok_or_else(|| {
            Refusal::Invalid(format!("The setting “{name}” is not free in this lab. Nothing was changed."))
        })?;
        let current = self.state.settings.get(name).unwrap_or(&rule.value);
        let value = self.sheet.card.check(name, typed).map_err(|message| Refusal::Value {
            message,
            kept: format!("The setting is still {}", current.pretty()),
        })?;
        Ok(vec![Patch::Setting(name.to_owned(), value)])
    }

    fn plan_change_column(&self, id: ColumnId, text: &ColumnText) -> Plan {
        let (index, old) = self.column(id)?;
        let new = self.column_from(id, old.kind, text)?;
        let mut patches = Vec::new();
        if let (Some(from), Some(to)) = (&old.unit, &new.unit)
            && old.kind != ColumnKind::Worked
            && from != to
        {
            for row in &self.state.record.rows {
                let Some(reading) = row.cells.get(&id) else { continue };
                let converted = reading.in_unit(to).ok_or_else(|| Refusal::WrongUnit {
                    reading: from.clone(),
                    symbol: old.symbol.clone(),
                    column: to.clone(),
                })?;
                patches.push(Patch::Cell(row.id, id, Some(converted)));
            }
        }
        // Formulas and the reader follow a renamed symbol.
        if old.symbol != new.symbol {
            for (i, other) in self.state.record.columns.iter().enumerate() {
                let Some(formula) =
                    other.formula.as_ref().filter(|f| i != index && f.symbols().contains(&old.symbol.as_str()))
                else {
                    continue;
                };
                let formula = Some(formula.renamed(&old.symbol, &new.symbol));
                patches.push(Patch::ReplaceColumn(i, Column { formula, ..other.clone() }));
            }
        }
        patches.push(Patch::ReplaceColumn(index, new));
        Ok(patches)
    }

    fn plan_delete_column(&self, id: ColumnId) -> Plan {
        let (index, _) = self.column(id)?;
        let rows = self.state.record.rows.iter().filter(|r| r.cells.contains_key(&id));
        let mut patches: Vec<Patch> = rows.map(|r| Patch::Cell(r.id, id, None)).collect();
        let (x, y) = (self.state.x, self.state.y);
        if x == Some(id) || y == Some(id) {
            patches.push(Patch::Axes(x.filter(|c| *c != id), y.filter(|c| *c != id)));
        }
        patches.push(Patch::RemoveColumn(index));
        Ok(patches)
    }

    /// Reads and checks a column's form.
    fn column_from(&self, id: ColumnId, kind: ColumnKind, text: &ColumnText) -> Result<Column, Refusal> {
        let name = text.name.trim();
        if name.is_empty() || name.chars().count() > LONGEST_NAME {
            return Err(Refusal::Invalid(format!(
                "A column's name needs 1 to {LONGEST_NAME} characters. Nothing was changed."
            )));
        }
        let symbol = text.symbol.trim();
        if !is_symbol(symbol) {
            return Err(Refusal::Invalid(format!(
                "“{}” cannot be a symbol: write a letter, then letters or digits, 12 at most. Nothing was changed.",
                symbol.chars().take(20).collect::<String>()
            )));
        }
        if self.state.record.columns.iter().any(|c| c.symbol == symbol && c.id != id) {
            return Err(Refusal::Invalid(format!(
                "There is already a column with the symbol {symbol}. Choose another symbol."
            )));
        }
        let unit = Unit::parse(&text.unit).map_err(|e| Refusal::Invalid(format!("{e} Nothing was changed.")))?;
        if kind != ColumnKind::Worked {
            return Ok(Column {
                id,
                kind,
                name: name.to_owned(),
                symbol: symbol.to_owned(),
                unit: Some(unit),
                formula: None,
            });
        }
        // `Tsq = T^2` may be typed whole.
        let typed = text.formula.trim();
        let right_side =
            typed.split_once('=').filter(|(left, _)| left.trim() == symbol).map_or(typed, |(_, right)| right.trim());
        let wrong = |e| Refusal::formula(right_side, e);
        let formula = Formula::parse(right_side).map_err(wrong)?;
        // Under its old symbol the column itself would count as another one.
        let mut others = self.state.record.clone();
        others.columns.retain(|c| c.id != id);
        let derived = others.check_formula(symbol, &formula).map_err(wrong)?;
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
        Ok(Column { id, kind, name: name.to_owned(), symbol: symbol.to_owned(), unit: wanted, formula: Some(formula) })
    }

    fn plan_cell(&self, row: Option<RowId>, column: ColumnId, typed: &str, was: &str, fresh: u32) -> Plan {
        let target = self.writable(column)?;
        let unit = target.unit.clone().unwrap_or_default();
        let current = match row {
            Some(id) => self.row(id)?.1.cells.get(&column),
            None => None,
        };
        let shown = current.map_or_else(String::new, |r| r.number.pretty());
        if shown.replace('\u{2212}', "-") != was.trim().replace('\u{2212}', "-") {
            return Err(Refusal::Changed { now: shown });
        }
        if typed.trim().is_empty() {
            return if current.is_some() { self.put(row, column, None, fresh) } else { Ok(Vec::new()) };
        }
        let kept = || match current {
            Some(r) => format!("The cell still holds {}", pretty(&r.number, &unit)),
            None => "The cell is still empty".to_owned(),
        };
        let (number, typed_unit) =
            parse_quantity(typed, &unit).map_err(|message| Refusal::Value { message, kept: kept() })?;
        let reading = Reading::typed(number, typed_unit);
        let reading = reading.in_unit(&unit).ok_or_else(|| Refusal::Value {
            message: format!("The column {} is in {}, not in {}.", target.symbol, named(&unit), named(&reading.unit)),
            kept: kept(),
        })?;
        self.put(row, column, Some(reading), fresh)
    }

    fn plan_text(&self, field: TextField, text: &str, was: &str) -> Plan {
        let text = text.replace("\r\n", "\n");
        if text.chars().count() > LONGEST_TEXT {
            return Err(Refusal::Limit(format!(
                "The {} can have {LONGEST_TEXT} characters. What was saved before is kept; shorten the text to save it.",
                field.name()
            )));
        }
        let current = self.state.texts.get(&field).map_or("", String::as_str);
        if current != was.replace("\r\n", "\n") && current != text {
            return Err(Refusal::TextChanged { field: field.name() });
        }
        Ok(vec![Patch::Text(field, text)])
    }

    /// Writes into a cell, in a new row if need be.
    fn put(&self, row: Option<RowId>, column: ColumnId, reading: Option<Reading>, fresh: u32) -> Plan {
        if let Some(id) = row {
            self.row(id)?;
            return Ok(vec![Patch::Cell(id, column, reading)]);
        }
        self.room_for_a_row()?;
        let new = Row { id: fresh, cells: reading.map(|r| (column, r)).into_iter().collect(), aside: false };
        Ok(vec![Patch::InsertRow(self.state.record.rows.len(), new)])
    }

    /// What an instrument shows.
    fn read(&self, instrument: &Instrument) -> Result<Reading, Refusal> {
        let metre = || Unit::coherent(&crate::quantity::Dimension::of([1, 0, 0, 0, 0, 0, 0]));
        let second = || Unit::coherent(&crate::quantity::Dimension::of([0, 0, 1, 0, 0, 0, 0]));
        match instrument {
            Instrument::Split { run, start, end } => {
                self.frame_of(*run, *start)?;
                self.frame_of(*run, *end)?;
                let (start, end) = (*start.min(end), *start.max(end));
                let step = RUN_SAMPLING.every;
                let number = Decimal::rounded(f64::from(end - start) * step, step);
                Ok(Reading {
                    number,
                    unit: second(),
                    resolution: step,
                    origin: Origin::Split { run: *run, start, end },
                })
            }
            Instrument::Tape { run, frame, zero, reading, tenths } => {
                self.frame_of(*run, *frame)?;
                if !zero.iter().chain(reading).all(|v| v.abs() < FARTHEST) || tenths.is_some_and(|t| t > 9) {
                    return Err(Refusal::Invalid("The tape lies outside the scene. Nothing was written.".to_owned()));
                }
                let distance = (reading[0] - zero[0]).hypot(reading[1] - zero[1]);
                let (value, resolution) = tape_reading(distance, *tenths);
                Ok(Reading {
                    number: Decimal::rounded(value, resolution),
                    unit: metre(),
                    resolution,
                    origin: Origin::Tape { run: *run, frame: *frame, zero: *zero, reading: *reading },
                })
            }
            Instrument::Setting { name } => {
                let rule = self.sheet.rule(name).filter(|r| r.freedom != Freedom::Hidden);
                let value = rule.map(|r| self.state.settings.get(name).unwrap_or(&r.value));
                let Some(SettingValue::Quantity(number, unit)) = value else {
                    return Err(Refusal::Invalid(format!(
                        "“{name}” is not a setting that can be logged. Nothing was written."
                    )));
                };
                let of_last_run = self.state.runs.last().and_then(|r| r.get(name)) == self.state.settings.get(name);
                let run = (of_last_run && !self.state.runs.is_empty()).then_some(self.state.runs.len() as u32);
                let origin = Origin::Setting { name: name.clone(), run };
                Ok(Reading { resolution: number.last_digit(), number: number.clone(), unit: unit.clone(), origin })
            }
        }
    }

    fn frame_of(&self, run: u32, frame: u32) -> Result<(), Refusal> {
        let frames = RUN_SAMPLING.frames().unwrap_or(0);
        if run == 0 || run as usize > self.state.runs.len() {
            return Err(Refusal::Gone(format!("Run {run} is no longer in this logbook. Nothing was written.")));
        }
        if frame as usize >= frames {
            return Err(Refusal::Invalid(format!("Run {run} has no frame {frame}. Nothing was written.")));
        }
        Ok(())
    }

    fn row(&self, id: RowId) -> Result<(usize, &Row), Refusal> {
        let gone = "This row is no longer in the record: it was deleted meanwhile. Nothing was written.";
        self.state.record.row(id).ok_or_else(|| Refusal::Gone(gone.to_owned()))
    }

    fn column(&self, id: ColumnId) -> Result<(usize, &Column), Refusal> {
        let gone = "This column is no longer in the record: it was deleted meanwhile. Nothing was written.";
        let columns = self.state.record.columns.iter().enumerate();
        columns.into_iter().find(|(_, c)| c.id == id).ok_or_else(|| Refusal::Gone(gone.to_owned()))
    }

    fn writable(&self, id: ColumnId) -> Result<&Column, Refusal> {
        let (_, column) = self.column(id)?;
        if column.kind == ColumnKind::Worked {
            let symbol = &column.symbol;
            return Err(Refusal::Invalid(format!(
                "The column {symbol} is worked out by its formula. Nothing was written."
            )));
        }
        Ok(column)
    }

    fn room_for_a_row(&self) -> Result<(), Refusal> {
        if self.state.record.rows.len() >= MOST_ROWS {
            return Err(Refusal::Limit(format!("A record can have {MOST_ROWS} rows. Nothing was added.")));
        }
        Ok(())
    }
}

/// What the tape shows for a distance, and its resolution; both in m. With a tenth estimated by eye, the
/// last division passed counts; without, the nearest one.
pub(super) fn tape_reading(distance: f64, tenths: Option<u8>) -> (f64, f64) {
    let divisions = distance / TAPE_DIVISION;
    match tenths {
        None => (divisions.round() * TAPE_DIVISION, TAPE_DIVISION),
        // A distance of exactly 1.500 m may be stored a little low.
        Some(t) => (((divisions + 1e-6).floor() + f64::from(t) / 10.0) * TAPE_DIVISION, TAPE_DIVISION / 10.0),
    }
}

fn plan_tools(tools: &Tools) -> Plan {
    let frames = RUN_SAMPLING.frames().unwrap_or(0);
    let moments = [Some(tools.zero), tools.start, tools.end];
    let ends = tools.tape.iter().flatten().flatten();
    if moments.into_iter().flatten().any(|f| f as usize >= frames) || !ends.into_iter().all(|v| v.abs() < FARTHEST) {
        return Err(Refusal::Invalid("The tools cannot stand outside the run. They are where they were.".to_owned()));
    }
    Ok(vec![Patch::Tools(tools.clone())])
}

fn pretty(number: &Decimal, unit: &Unit) -> String {
    crate::quantity::format::with_unit(&number.pretty(), unit)
}

fn named(unit: &Unit) -> String {
    if unit.is_one() { "pure numbers".to_owned() } else { unit.pretty() }
}
