//! Columns: what is typed about them becomes changes.

use super::plan::{given, head};
use super::{ColumnText, RecordChange, TableHead};
use crate::formula::{Formula, is_symbol};
use crate::logbook::Heard;
use crate::logbook::Logbook;
use crate::logbook::RecordRefusal;
use crate::logbook::change::Change;
use crate::logbook::graph::GraphChange;
use crate::logbook::planning::{Changes, Fresh, Plan, Planned, name_of, nothing_changed};
use crate::logbook::refusal::{Counted, Limit, Named, Refusal};
use crate::logbook::state::State;
use crate::quantity::{Precision, Unit};
use crate::record::{Column, ColumnId, ColumnKind, MOST_COLUMNS, Record};

impl Logbook {
    pub(super) fn plan_change_column(&self, id: ColumnId, text: &ColumnText) -> Changes {
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
        let new = Column {
            stem: old.stem.clone(),
            aside: old.aside.clone(),
            filled: old.filled,
            source: old.source.clone(),
            ..new
        };
        let mut changes = Vec::new();
        // Formulas and stated uncertainties follow a renamed symbol.
        if old.symbol != new.symbol {
            changes = renamed(table, index, &old.symbol, &new.symbol);
        }
        changes.push(Change::Record(RecordChange::ReplaceColumn { table: table.id, place: index, column: new }));
        Ok(changes)
    }

    pub(super) fn plan_delete_column(&self, id: ColumnId) -> Changes {
        let (table, index, column) = self.column(id)?;
        if column_is_filled(&self.state, id) {
            return Err(Refusal::from(RecordRefusal::ColumnOfMarks));
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
        let name = name_of(&text.name, Named::Column)?;
        let symbol = text.symbol.trim();
        if !is_symbol(symbol) {
            return Err(not_a_symbol(symbol));
        }
        if table.columns.iter().any(|c| (c.symbol == symbol || c.stem.as_deref() == Some(symbol)) && c.id != id) {
            return Err(Refusal::from(RecordRefusal::SymbolTaken { symbol: symbol.to_owned() }));
        }
        let unit = Unit::parse(&text.unit).map_err(nothing_changed)?;
        if self.state.record.held.iter().any(|h| h.symbol == symbol) {
            return Err(Refusal::from(RecordRefusal::SymbolHeld { symbol: symbol.to_owned() }));
        }
        let column = |unit, formula, precision| {
            let plain = Column::worked(id, name.clone(), symbol.to_owned(), formula);
            Column { kind, unit, precision, ..plain }
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
        let held = self.held_quantities();
        let known = table.columns.iter().flat_map(|c| c.stem.as_deref().into_iter().chain([c.symbol.as_str()]));
        let formula = Formula::parse(right_side).map_err(wrong)?;
        let formula = formula.spelled_as(known.chain(held.keys().map(String::as_str)));
        // Under its old symbol the column itself would count as another one.
        let columns = table.columns.iter().filter(|c| c.id != id).cloned().collect();
        let others = Record { columns, rows: Vec::new(), ..Record::default() };
        let derived = others.check_formula(symbol, &formula, &held).map_err(wrong)?;
        let wanted = (!text.unit.trim().is_empty()).then_some(unit);
        if let Some(wanted) = &wanted
            && !wanted.same_dimension(&derived)
        {
            return Err(Refusal::from(RecordRefusal::FormulaGives { derived, wanted: wanted.clone() }));
        }
        Ok(column(wanted, Some(formula), Precision::Resolution))
    }

    pub(in crate::logbook) fn plan_add_run(&self, id: ColumnId, fresh: &mut Fresh) -> Plan {
        let (table, index, column) = self.column(id)?;
        if column.kind != ColumnKind::Read {
            let symbol = &column.symbol;
            return Err(Refusal::from(RecordRefusal::NotMeasured { symbol: symbol.clone() }));
        }
        room_for_columns(table, 1)?;
        let (stem, mut changes, mut heard) = match &column.stem {
            Some(stem) => (stem.clone(), Vec::new(), Vec::new()),
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
                let stem = column.symbol.clone();
                (stem.clone(), changes, vec![Heard::FirstRepeat { stem, first }])
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
        if heard.is_empty() && number > 30 {
            heard.push(Heard::Repeat { number });
        }
        Ok(Planned { heard, ..changes.into() })
    }

    /// The graphs that show one of these columns, without it.
    pub(super) fn graphs_without(&self, gone: &[ColumnId]) -> Vec<Change> {
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
}

fn column_is_filled(state: &State, id: ColumnId) -> bool {
    state.table_of(id).and_then(|t| t.column(id)).is_some_and(|c| c.filled)
}

pub(super) fn not_a_symbol(symbol: &str) -> Refusal {
    Refusal::from(RecordRefusal::NotASymbol { symbol: symbol.chars().take(20).collect() })
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
        let named = matches!(&other.precision, Precision::Column { symbol } if symbol == from);
        let precision = named.then(|| Precision::Column { symbol: to.to_owned() });
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
    if symbol == own {
        return Err(Refusal::from(RecordRefusal::OwnUncertainty { symbol: own.to_owned() }));
    }
    let Some(column) = table.by_symbol(symbol) else {
        return Err(Refusal::from(RecordRefusal::NoUncertainty { symbol: symbol.clone() }));
    };
    match &column.unit {
        Some(u) if !u.same_dimension(unit) => Err(Refusal::from(RecordRefusal::UncertaintyUnit {
            symbol: symbol.clone(),
            uncertainty: u.clone(),
            column: unit.clone(),
        })),
        _ => Ok(()),
    }
}

pub(in crate::logbook) fn room_for_columns(table: &Record, more: usize) -> Result<(), Refusal> {
    if table.columns.len() + more > MOST_COLUMNS {
        return Err(Refusal::Limit(Limit::Many { of: Counted::Columns, most: MOST_COLUMNS }));
    }
    Ok(())
}
