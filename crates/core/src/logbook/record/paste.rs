//! Pasting a block of cells, from a spreadsheet or a file.

use super::RecordChange;
use crate::formula::is_symbol;
use crate::logbook::Heard;
use crate::logbook::change::Change;
use crate::logbook::planning::{Fresh, Plan, Planned, name_of};
use crate::logbook::record::columns::room_for_columns;
use crate::logbook::record::plan::room_for_rows;
use crate::logbook::refusal::{Kept, Named, Refusal, Thing, ValueError};
use crate::logbook::{Logbook, RowAt};
use crate::quantity::{Precision, Reading, Unit, parse_quantity};
use crate::record::{Block, Column, ColumnId, ColumnKind, Head, Record, Row, TableId};

/// The head of the column that tells which rows are set aside, in our own files.
const ASIDE_HEAD: &str = "set aside";

/// Where a column of the block goes.
enum Target {
    /// Into a column of the table.
    Column(ColumnId, String, Unit),
    /// Says which rows are set aside.
    Aside,
    /// Nowhere: the table works it out, or has it from the sheet.
    Nowhere,
}

impl Logbook {
    pub(in crate::logbook) fn plan_paste(
        &self,
        table: Option<TableId>,
        name: &str,
        (row, column): (RowAt, Option<ColumnId>),
        text: &str,
        fresh: &mut Fresh,
    ) -> Plan {
        let block = Block::read(text).map_err(nothing_pasted)?;
        let new_table = match table {
            Some(_) => None,
            None => Some(self.new_table(name, fresh)?),
        };
        let target = match (&new_table, table) {
            (Some(new), _) => new,
            (None, Some(id)) => self.table(id)?,
            (None, None) => return Err(Refusal::Gone(Thing::Table)),
        };
        let (targets, new_columns) = match &block.heads {
            Some(heads) => self.by_heads(target, heads, fresh)?,
            None if new_table.is_some() => self.by_heads(target, &nameless(&block), fresh)?,
            None => (by_place(target, column, block.rows.first().map_or(0, Vec::len))?, Vec::new()),
        };
        room_for_columns(target, new_columns.len())?;
        let start = self.row_at(target, row)?.map_or(target.rows.len(), |(place, _)| place);
        room_for_rows(target, (start + block.rows.len()).saturating_sub(target.rows.len()))?;
        let mut changes = Vec::new();
        if let Some(table) = &new_table {
            changes.push(Change::Record(RecordChange::InsertTable {
                place: self.state.record.tables.len(),
                table: table.clone().into(),
            }));
        }
        let added = new_columns.len();
        for (i, column) in new_columns.into_iter().enumerate() {
            changes.push(Change::Record(RecordChange::InsertColumn {
                table: target.id,
                place: target.columns.len() + i,
                column,
            }));
        }
        for (i, line) in block.rows.iter().enumerate() {
            let (cells, aside) = read_line(line, &targets, i)?;
            let place = start + i;
            if place < target.rows.len() {
                changes.extend(cells.into_iter().map(|(c, r)| {
                    Change::Record(RecordChange::Cell { table: target.id, row: place, column: c, reading: Some(r) })
                }));
                if aside && !target.rows[place].aside {
                    changes.push(Change::Record(RecordChange::Aside {
                        table: target.id,
                        row: place,
                        aside: true,
                        why: String::new(),
                    }));
                }
            } else {
                let row = Row {
                    id: fresh.next(),
                    cells: cells.into_iter().map(|(c, r)| (c, Box::new(r))).collect(),
                    aside,
                    ..Row::default()
                };
                changes.push(Change::Record(RecordChange::InsertRow { table: target.id, place, row }));
            }
        }
        let skipped = targets.iter().filter(|t| matches!(t, Target::Nowhere)).count();
        let wide = targets.iter().filter(|t| matches!(t, Target::Column(..))).count();
        let heard = vec![Heard::Pasted { rows: block.rows.len(), columns: wide, new: added, skipped }];
        Ok(Planned { heard, ..changes.into() })
    }

    /// Columns of the table with the same symbol or name; new ones for the rest.
    fn by_heads(
        &self,
        table: &Record,
        heads: &[Head],
        fresh: &mut Fresh,
    ) -> Result<(Vec<Target>, Vec<Column>), Refusal> {
        let mut new: Vec<Column> = Vec::new();
        let mut targets = Vec::new();
        for head in heads {
            if head.name.eq_ignore_ascii_case(ASIDE_HEAD) {
                targets.push(Target::Aside);
                continue;
            }
            let same = |c: &&Column| c.symbol == head.symbol || c.name.eq_ignore_ascii_case(&head.name);
            if let Some(column) = table.columns.iter().find(same) {
                targets.push(match (&column.unit, column.kind) {
                    (_, ColumnKind::Worked | ColumnKind::Given) => Target::Nowhere,
                    (Some(unit), _) if !unit.same_dimension(&head.unit) && !head.unit.is_one() => {
                        return Err(Refusal::WrongUnit {
                            reading: head.unit.clone(),
                            symbol: column.symbol.clone(),
                            column: unit.clone(),
                        });
                    }
                    (Some(unit), _) if head.unit.is_one() => {
                        Target::Column(column.id, column.symbol.clone(), unit.clone())
                    }
                    _ => Target::Column(column.id, column.symbol.clone(), head.unit.clone()),
                });
                continue;
            }
            // Before a symbol is looked for that none of thousands has.
            room_for_columns(table, new.len() + 1)?;
            let of = head.uncertainty_of().map(|s| format!("u_{s}"));
            let symbol = self.free_symbol(of.as_deref().unwrap_or(&head.symbol), &head.name, |s| {
                table.columns.iter().chain(&new).any(|c| c.symbol == s || c.stem.as_deref() == Some(s))
            });
            let name = if head.name.is_empty() { symbol.clone() } else { head.name.chars().take(40).collect() };
            let named = name_of(&name, Named::Column)?;
            let (kind, unit) = (ColumnKind::Read, head.unit.clone());
            let column = Column::of_readings(fresh.next(), kind, named, symbol.clone(), unit);
            targets.push(Target::Column(column.id, symbol, head.unit.clone()));
            new.push(column);
        }
        // New columns whose uncertainties come along have them from there.
        for (head, of) in heads.iter().filter_map(|h| Some((h, h.uncertainty_of()?))) {
            let symbol = new.iter().find(|c| c.name == head.name).map(|c| c.symbol.clone());
            let stated = new
                .iter_mut()
                .find(|c| c.symbol == of && c.unit.as_ref().is_some_and(|u| u.same_dimension(&head.unit)));
            if let (Some(symbol), Some(column)) = (symbol, stated) {
                column.precision = Precision::Column { symbol };
            }
        }
        Ok((targets, new))
    }

    /// The wanted symbol, or one made from the name, that nothing else has.
    pub(in crate::logbook) fn free_symbol(&self, wanted: &str, name: &str, taken: impl Fn(&str) -> bool) -> String {
        let taken = |s: &str| taken(s) || self.state.record.held.iter().any(|h| h.symbol == s);
        let base = if is_symbol(wanted) {
            wanted.to_owned()
        } else {
            let letters: String =
                name.split_whitespace().filter_map(|w| w.chars().find(|c| c.is_alphabetic())).take(3).collect();
            if is_symbol(&letters) { letters } else { "v".to_owned() }
        };
        if !taken(&base) {
            return base;
        }
        let short: String = base.chars().take(8).collect();
        (2..).map(|i| format!("{short}{i}")).find(|s| !taken(s)).unwrap_or(base)
    }
}

/// Heads for a block that has none.
fn nameless(block: &Block) -> Vec<Head> {
    let wide = block.rows.first().map_or(0, Vec::len);
    (1..=wide).map(|i| Head { name: format!("column {i}"), symbol: format!("c{i}"), unit: Unit::one() }).collect()
}

/// Neighbouring columns from a place on.
fn by_place(table: &Record, column: Option<ColumnId>, wide: usize) -> Result<Vec<Target>, Refusal> {
    let first = match column {
        Some(id) => table.columns.iter().position(|c| c.id == id).ok_or(Refusal::Gone(Thing::Column))?,
        None => table.columns.iter().position(|c| c.kind.is_writable()).unwrap_or(0),
    };
    let there = &table.columns[first.min(table.columns.len())..];
    if there.len() < wide {
        return Err(nothing_pasted(ValueError::Wide { block: wide, there: there.len() }));
    }
    if let Some(column) = there[..wide].iter().find(|c| !c.kind.is_writable()) {
        return Err(nothing_pasted(ValueError::Covers { symbol: column.symbol.clone() }));
    }
    let target = |c: &Column| Target::Column(c.id, c.symbol.clone(), c.unit.clone().unwrap_or_default());
    Ok(there[..wide].iter().map(target).collect())
}

type Line = (Vec<(ColumnId, Reading)>, bool);

fn read_line(line: &[String], targets: &[Target], number: usize) -> Result<Line, Refusal> {
    let mut cells = Vec::new();
    let mut aside = false;
    for (text, target) in line.iter().zip(targets) {
        match target {
            _ if text.trim().is_empty() => {}
            Target::Nowhere => {}
            Target::Aside => aside = !matches!(text.trim().to_lowercase().as_str(), "no" | "0" | "false"),
            Target::Column(id, symbol, unit) => {
                let read = parse_quantity(text, unit);
                let (row, symbol) = (number + 1, symbol.clone());
                let (value, typed) = match read {
                    Ok((_, typed)) if !typed.same_dimension(unit) => {
                        return Err(nothing_pasted(ValueError::CellUnit { row, symbol, typed: text.clone() }));
                    }
                    Ok(read) => read,
                    Err(error) => return Err(nothing_pasted(ValueError::Cell { row, symbol, error })),
                };
                cells.push((*id, Reading::typed(value, typed)));
            }
        }
    }
    Ok((cells, aside))
}

fn nothing_pasted(wrong: impl Into<ValueError>) -> Refusal {
    Refusal::Value { wrong: wrong.into(), kept: Kept::NothingPasted }
}
