//! Works out the table: units of worked columns, then every cell with its uncertainty.

use std::collections::BTreeMap;

use super::{Column, ColumnId, ColumnKind, Record, Row, RowId};
use crate::formula::{Formula, FormulaError, Problem};
use crate::quantity::format::{plain, step_for, to_step};
use crate::quantity::{Source, Uncertain, Unit};

/// The record with all its worked values.
#[derive(Clone, Debug)]
pub struct Table {
    /// Columns from left to right.
    pub columns: Vec<TableColumn>,
    /// Rows from top to bottom.
    pub rows: Vec<TableRow>,
}

/// A column with its unit worked out.
#[derive(Clone, Debug)]
pub struct TableColumn {
    /// The column as stored.
    pub column: Column,
    /// Its unit, or what is wrong with its formula.
    pub unit: Result<Unit, FormulaError>,
}

/// A row with its values worked out.
#[derive(Clone, Debug)]
pub struct TableRow {
    /// Its identity.
    pub id: RowId,
    /// Its number as shown, from 1.
    pub number: usize,
    /// Kept, but not used in fits.
    pub aside: bool,
    /// One cell a column.
    pub cells: Vec<Cell>,
}

/// A cell of the table.
#[derive(Clone, Debug)]
pub enum Cell {
    /// Nothing there yet.
    Empty,
    /// A value, with its text as shown in the column's unit.
    Value {
        /// The text as shown.
        text: String,
        /// Value and uncertainty in coherent SI units.
        value: Uncertain,
        /// Where it came from and how finely it was read; empty for worked values.
        origin: String,
    },
    /// No value, and why.
    Trouble(FormulaError),
}

impl Cell {
    /// Value and uncertainty in coherent SI units, if there is one.
    pub fn value(&self) -> Option<&Uncertain> {
        match self {
            Self::Value { value, .. } => Some(value),
            Self::Empty | Self::Trouble(_) => None,
        }
    }

    /// The text as shown; empty without a value.
    pub fn text(&self) -> &str {
        match self {
            Self::Value { text, .. } => text,
            Self::Empty | Self::Trouble(_) => "",
        }
    }
}

impl Record {
    /// Works out units and values of all columns.
    pub fn evaluate(&self) -> Table {
        let units = Units::of(self);
        let columns: Vec<TableColumn> =
            self.columns.iter().map(|c| TableColumn { column: c.clone(), unit: units.known[&c.id].clone() }).collect();
        let rows = self.rows.iter().enumerate().map(|(i, row)| {
            let mut values = Values { record: self, row, done: BTreeMap::new() };
            let cells = columns.iter().map(|c| values.cell(c)).collect();
            TableRow { id: row.id, number: i + 1, aside: row.aside, cells }
        });
        let rows = rows.collect();
        Table { columns, rows }
    }

    /// Checks the formula a column is to have: its symbols, its dimensions, and that it does not lead
    /// back to the column itself. Gives the derived unit.
    ///
    /// # Errors
    /// [`FormulaError`] with the place.
    pub fn check_formula(&self, symbol: &str, formula: &Formula) -> Result<Unit, FormulaError> {
        let mut trial = self.clone();
        match trial.columns.iter_mut().find(|c| c.symbol == symbol) {
            Some(column) => column.formula = Some(formula.clone()),
            None => trial.columns.push(Column {
                id: ColumnId::MAX,
                kind: ColumnKind::Worked,
                name: String::new(),
                symbol: symbol.to_owned(),
                unit: None,
                formula: Some(formula.clone()),
            }),
        }
        let mut units = Units { record: &trial, known: BTreeMap::new(), open: vec![symbol.to_owned()] };
        units.derive(formula)
    }
}

/// Units of all columns, worked out in the order their formulas need.
struct Units<'a> {
    record: &'a Record,
    known: BTreeMap<ColumnId, Result<Unit, FormulaError>>,
    /// Columns being worked out, to notice circles.
    open: Vec<String>,
}

impl<'a> Units<'a> {
    fn of(record: &'a Record) -> Self {
        let mut units = Self { record, known: BTreeMap::new(), open: Vec::new() };
        for column in &record.columns {
            let _ = units.column(column);
        }
        units
    }

    fn column(&mut self, column: &'a Column) -> Result<Unit, FormulaError> {
        if let Some(known) = self.known.get(&column.id) {
            return known.clone();
        }
        let unit = match &column.formula {
            None => Ok(column.unit.clone().unwrap_or_default()),
            Some(formula) => {
                self.open.push(column.symbol.clone());
                let derived = self.derive(formula);
                self.open.pop();
                derived.and_then(|d| match &column.unit {
                    None => Ok(d),
                    Some(wanted) if wanted.same_dimension(&d) => Ok(wanted.clone()),
                    Some(wanted) => Err(FormulaError {
                        problem: Problem::UnitClash { left: d.pretty(), right: wanted.pretty() },
                        span: formula.tree().span.clone(),
                    }),
                })
            }
        };
        // A column met inside its own circle is decided by the outermost call alone.
        if self.open.is_empty() || !matches!(unit, Err(FormulaError { problem: Problem::Circular(_), .. })) {
            self.known.insert(column.id, unit.clone());
        }
        unit
    }

    fn derive(&mut self, formula: &Formula) -> Result<Unit, FormulaError> {
        let record = self.record;
        let mut found: BTreeMap<String, Result<Unit, Problem>> = BTreeMap::new();
        for symbol in formula.symbols() {
            let unit = match record.by_symbol(symbol) {
                None => Err(Problem::UnknownSymbol(symbol.to_owned())),
                Some(c) if self.open.contains(&c.symbol) => Err(Problem::Circular(symbol.to_owned())),
                Some(c) => self.column(c).map_err(|e| match e.problem {
                    Problem::Circular(name) => Problem::Circular(name),
                    _ => Problem::Broken(symbol.to_owned()),
                }),
            };
            found.insert(symbol.to_owned(), unit);
        }
        formula.unit(&|s| found.get(s).cloned().unwrap_or_else(|| Err(Problem::UnknownSymbol(s.to_owned()))))
    }
}

/// Values of one row, worked out in the order their formulas need. Circles were found with the units.
struct Values<'a> {
    record: &'a Record,
    row: &'a Row,
    done: BTreeMap<ColumnId, Result<Option<Uncertain>, FormulaError>>,
}

impl<'a> Values<'a> {
    fn cell(&mut self, column: &TableColumn) -> Cell {
        let unit = match &column.unit {
            Ok(unit) => unit,
            Err(e) => return Cell::Trouble(e.clone()),
        };
        let id = column.column.id;
        if let Some(reading) = self.row.cells.get(&id) {
            let text = reading.number.pretty();
            return Cell::Value { text, value: self.reading(id), origin: reading.describe() };
        }
        let Some(stored) = self.record.column(id) else { return Cell::Empty };
        match self.value(stored) {
            Ok(None) => Cell::Empty,
            Err(e) => Cell::Trouble(e),
            Ok(Some(value)) => {
                let (shown, u) = (value.value / unit.size(), value.u() / unit.size());
                let text = if u > 0.0 { to_step(shown, step_for(u)) } else { plain(shown) };
                Cell::Value { text, value, origin: String::new() }
            }
        }
    }

    fn reading(&self, id: ColumnId) -> Uncertain {
        self.row.cells.get(&id).map_or(Uncertain::exact(0.0), |reading| {
            let source = Source(u64::from(self.row.id) << 32 | u64::from(id));
            Uncertain::from_source(reading.si(), reading.u_si(), source)
        })
    }

    /// `None` while a cell it needs is still empty.
    fn value(&mut self, column: &'a Column) -> Result<Option<Uncertain>, FormulaError> {
        if let Some(done) = self.done.get(&column.id) {
            return done.clone();
        }
        let value = match &column.formula {
            None => Ok(self.row.cells.contains_key(&column.id).then(|| self.reading(column.id))),
            Some(formula) => self.work_out(formula),
        };
        self.done.insert(column.id, value.clone());
        value
    }

    fn work_out(&mut self, formula: &Formula) -> Result<Option<Uncertain>, FormulaError> {
        let record = self.record;
        let mut inputs: BTreeMap<String, Result<Uncertain, Problem>> = BTreeMap::new();
        for symbol in formula.symbols() {
            let Some(column) = record.by_symbol(symbol) else { continue };
            match self.value(column) {
                Ok(None) => return Ok(None),
                Ok(Some(v)) => inputs.insert(symbol.to_owned(), Ok(v)),
                Err(_) => inputs.insert(symbol.to_owned(), Err(Problem::EmptyCell(symbol.to_owned()))),
            };
        }
        formula
            .evaluate(&|s| inputs.get(s).cloned().unwrap_or_else(|| Err(Problem::UnknownSymbol(s.to_owned()))))
            .map(Some)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::{Decimal, Reading};

    fn column(id: u32, symbol: &str, unit: Option<&str>, formula: Option<&str>) -> Column {
        Column {
            id,
            kind: if formula.is_some() { ColumnKind::Worked } else { ColumnKind::Read },
            name: symbol.to_lowercase(),
            symbol: symbol.to_owned(),
            unit: unit.map(|u| Unit::parse(u).unwrap()),
            formula: formula.map(|f| Formula::parse(f).unwrap()),
        }
    }

    fn record(columns: Vec<Column>, values: &[(u32, &str)]) -> Record {
        let cells = values
            .iter()
            .map(|(id, text)| {
                let unit = columns.iter().find(|c| c.id == *id).unwrap().unit.clone().unwrap();
                (*id, Reading::typed(Decimal::parse(text).unwrap(), unit))
            })
            .collect();
        Record { columns, rows: vec![Row { id: 1, cells, aside: false }] }
    }

    #[test]
    fn worked_columns_follow_each_other_and_keep_the_digits_they_earned() {
        let r = record(
            vec![
                column(3, "Tsq", None, Some("T^2")),
                column(1, "t10", Some("s"), None),
                column(2, "T", None, Some("t10/10")),
                column(4, "Tms", Some("ms"), Some("T")),
            ],
            &[(1, "20.10")],
        );
        let table = r.evaluate();
        let texts: Vec<&str> = table.rows[0].cells.iter().map(Cell::text).collect();
        assert_eq!(texts, ["4.040", "20.10", "2.010", "2010"]);
        let units: Vec<String> = table.columns.iter().map(|c| c.unit.as_ref().unwrap().to_string()).collect();
        assert_eq!(units, ["s^2", "s", "s", "ms"]);
    }

    #[test]
    fn circles_are_named_and_harm_no_other_column() {
        let r = record(
            vec![
                column(1, "a", None, Some("b + 1")),
                column(2, "b", None, Some("2*a")),
                column(3, "c", Some("s"), None),
            ],
            &[(3, "1.0")],
        );
        let table = r.evaluate();
        for i in [0, 1] {
            assert!(
                matches!(&table.columns[i].unit, Err(FormulaError { problem: Problem::Circular(_), .. })),
                "{:?}",
                table.columns[i].unit
            );
        }
        assert_eq!(table.rows[0].cells[2].text(), "1.0");
        let selfish = Formula::parse("d/2").unwrap();
        assert!(matches!(r.check_formula("d", &selfish).unwrap_err().problem, Problem::Circular(_)));
    }

    #[test]
    fn a_row_in_trouble_leaves_the_others_alone() {
        let mut r = record(vec![column(1, "x", Some(""), None), column(2, "y", None, Some("sqrt(x)"))], &[(1, "-4")]);
        let mut fine = r.rows[0].clone();
        fine.id = 2;
        fine.cells.insert(1, Reading::typed(Decimal::parse("4.00").unwrap(), Unit::one()));
        r.rows.push(fine);
        r.rows.push(Row { id: 3, ..Row::default() });
        let table = r.evaluate();
        assert!(matches!(&table.rows[0].cells[1], Cell::Trouble(e) if e.span == (0..7)));
        assert_eq!(table.rows[1].cells[1].text(), "2.000");
        assert!(matches!(table.rows[2].cells[1], Cell::Empty));
    }

    #[test]
    fn a_wanted_unit_of_another_dimension_is_refused() {
        let r = record(vec![column(1, "t", Some("s"), None), column(2, "v", Some("m"), Some("2*t"))], &[(1, "1.0")]);
        assert!(matches!(&r.evaluate().columns[1].unit, Err(FormulaError { problem: Problem::UnitClash { .. }, .. })));
    }
}
