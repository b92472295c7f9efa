//! Works out the table: units of worked columns, then every cell with its uncertainty.
//!
//! Columns are worked out one after the other, each for all rows, because a formula may look at whole columns. Such
//! functions see only rows that are not set aside, and of a grouped table only their own group.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use super::{Column, ColumnId, ColumnKind, Held, Record, RowId, Stop};
use crate::formula::{
    Along, Expr, Formula, FormulaError, Node, Problem, Surroundings, Whole, evaluate_part, gather, local_quadratic,
    window_of,
};
use crate::quantity::format::{plain, step_for, to_step};
use crate::quantity::{Precision, Reading, Source, Uncertain, Unit};

/// A table with all its worked values.
#[derive(Clone, Debug)]
pub struct Table {
    /// The table as stored.
    pub record: Arc<Record>,
    /// Columns from left to right.
    pub columns: Vec<TableColumn>,
    /// Rows from top to bottom.
    pub rows: Vec<TableRow>,
    /// Texts of the values that part the rows into groups, by number of the group; empty in a table without groups.
    pub groups: Vec<String>,
}

/// A column worked out.
#[derive(Clone, Debug)]
pub struct TableColumn {
    /// The column as stored.
    pub column: Column,
    /// Its unit, or what is wrong with its formula.
    pub unit: Result<Unit, FormulaError>,
    /// One cell a row.
    pub cells: Arc<Vec<Cell>>,
}

/// A row as shown.
#[derive(Clone, Copy, Debug)]
pub struct TableRow {
    /// Its identity.
    pub id: RowId,
    /// Its number as shown, from 1.
    pub number: usize,
    /// Kept, but not used in fits.
    pub aside: bool,
    /// Number of its group.
    pub group: usize,
}

/// A cell of the table.
#[derive(Clone, Debug)]
pub enum Cell {
    /// Nothing there yet.
    Empty,
    /// Value and uncertainty in coherent SI units.
    Value(Uncertain),
    /// No value, and why.
    Trouble(Arc<FormulaError>),
}

impl Cell {
    /// Value and uncertainty in coherent SI units, if there is one.
    pub fn value(&self) -> Option<&Uncertain> {
        match self {
            Self::Value(value) => Some(value),
            Self::Empty | Self::Trouble(_) => None,
        }
    }
}

impl From<Result<Uncertain, FormulaError>> for Cell {
    fn from(outcome: Result<Uncertain, FormulaError>) -> Self {
        match outcome {
            Ok(value) => Self::Value(value),
            Err(FormulaError { problem: Problem::Nothing, .. }) => Self::Empty,
            Err(e) => Self::Trouble(Arc::new(e)),
        }
    }
}

impl Table {
    /// Text of a cell as shown, in the column's unit; empty without a value.
    pub fn text(&self, column: usize, row: usize) -> String {
        let c = &self.columns[column];
        let Ok(unit) = &c.unit else { return String::new() };
        if let Some(reading) = self.reading(column, row) {
            return shown(reading, unit);
        }
        c.cells[row].value().map_or_else(String::new, |value| {
            let (v, u) = (value.value / unit.size(), value.u() / unit.size());
            if u > 0.0 { to_step(v, step_for(u)) } else { plain(v) }
        })
    }

    /// The reading a cell was filled with.
    pub fn reading(&self, column: usize, row: usize) -> Option<&Reading> {
        self.record.rows[row].cells.get(&self.columns[column].column.id).map(|r| &**r)
    }

    /// Place of the column with this id.
    pub fn place(&self, id: ColumnId) -> Option<usize> {
        self.columns.iter().position(|c| c.column.id == id)
    }
}

/// A reading's number in the unit of its column. What was read is never changed by showing it in another unit.
pub(crate) fn shown(reading: &Reading, unit: &Unit) -> String {
    if reading.unit == *unit {
        return reading.number.pretty();
    }
    reading.in_unit(unit).map_or_else(String::new, |r| r.number.pretty())
}

impl Record {
    /// Works out units and values of all columns. `held` are quantities that formulas may use beside the columns.
    pub fn evaluate(self: &Arc<Self>, held: &Held) -> Table {
        self.evaluate_until(held, &Stop::default())
    }

    /// As [`Self::evaluate`], given up once `stop` is set: the cells that are missing then are empty.
    pub fn evaluate_until(self: &Arc<Self>, held: &Held, stop: &Stop) -> Table {
        self.evaluate_with(held, stop, &|row, column, reading, u| {
            // A column has an id of its own among all tables, so its place tells a cell.
            if let Some(drawn) = reading.origin.drawn() {
                return drawn.uncertain(reading.si());
            }
            let source = Source((row as u64) << 32 | u64::from(column.id));
            let own = Uncertain::from_source(reading.si(), u, source);
            match reading.origin.scale() {
                // The scale of a film and its origin are the same for all that is read in it.
                Some(share) => own.plus(&share.of(reading.si())),
                None => own,
            }
        })
    }

    /// As [`Self::evaluate`], with values of readings made by `value_of` from row, column, reading and its standard
    /// uncertainty in coherent SI units.
    pub(super) fn evaluate_with(self: &Arc<Self>, held: &Held, stop: &Stop, value_of: ValueOf<'_>) -> Table {
        let units = Units::of(self, held);
        let (groups, group_of) = self.groups(&units.known);
        let mut values = Values {
            record: self,
            held,
            units: &units.known,
            group_of,
            value_of,
            stop,
            done: BTreeMap::new(),
            open: Vec::new(),
        };
        let columns = self.columns.iter().map(|c| TableColumn {
            column: c.clone(),
            unit: units.known[&c.id].clone(),
            cells: values.column(c),
        });
        let columns = columns.collect();
        let rows = self.rows.iter().enumerate();
        let rows = rows
            .map(|(i, row)| TableRow { id: row.id, number: i + 1, aside: row.aside, group: values.group_of[i] })
            .collect();
        Table { record: Arc::clone(self), columns, rows, groups }
    }

    /// Texts of the groups in order of appearance, and the group of every row.
    fn groups(&self, units: &BTreeMap<ColumnId, Result<Unit, FormulaError>>) -> (Vec<String>, Vec<usize>) {
        let Some((id, Some(Ok(unit)))) = self.group.map(|id| (id, units.get(&id))) else {
            return (Vec::new(), vec![0; self.rows.len()]);
        };
        let mut texts: Vec<String> = Vec::new();
        let group_of = self.rows.iter().map(|row| {
            let text = row.cells.get(&id).map_or_else(String::new, |r| shown(r, unit));
            texts.iter().position(|t| *t == text).unwrap_or_else(|| {
                texts.push(text);
                texts.len() - 1
            })
        });
        let group_of = group_of.collect();
        (texts, group_of)
    }

    /// Checks the formula a column is to have: its symbols, its dimensions, and that it does not lead
    /// back to the column itself. Gives the derived unit.
    ///
    /// # Errors
    /// [`FormulaError`] with the place.
    pub fn check_formula(&self, symbol: &str, formula: &Formula, held: &Held) -> Result<Unit, FormulaError> {
        let mut units = Units { record: self, held, known: BTreeMap::new(), open: vec![symbol.to_owned()] };
        units.derive(formula)
    }
}

/// Units of all columns, worked out in the order their formulas need.
struct Units<'a> {
    record: &'a Record,
    held: &'a Held,
    known: BTreeMap<ColumnId, Result<Unit, FormulaError>>,
    /// Columns being worked out, to notice circles.
    open: Vec<String>,
}

impl<'a> Units<'a> {
    fn of(record: &'a Record, held: &'a Held) -> Self {
        let mut units = Self { record, held, known: BTreeMap::new(), open: Vec::new() };
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
                        problem: Problem::UnitClash { left: d.clone(), right: wanted.clone() },
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
        let formula = formula.expanded(&|stem| record.counting_runs(stem));
        let mut found: BTreeMap<String, Result<Unit, Problem>> = BTreeMap::new();
        for symbol in formula.symbols() {
            let unit = match record.by_symbol(symbol) {
                _ if self.open.iter().any(|s| s == symbol) => Err(Problem::Circular(symbol.to_owned())),
                Some(c) => self.column(c).map_err(|e| {
                    let circular = matches!(e.problem, Problem::Circular(_));
                    if circular { e.problem } else { Problem::Broken(symbol.to_owned()) }
                }),
                None => match self.held.get(symbol) {
                    Some((_, unit)) => Ok(unit.clone()),
                    None => Err(Problem::UnknownSymbol(symbol.to_owned())),
                },
            };
            found.insert(symbol.to_owned(), unit);
        }
        formula.unit(&|s| found.get(s).cloned().unwrap_or_else(|| Err(Problem::UnknownSymbol(s.to_owned()))))
    }
}

/// Makes the value of a reading from the place of its row, column, reading and standard uncertainty.
pub(super) type ValueOf<'a> = &'a dyn Fn(usize, &Column, &Reading, f64) -> Uncertain;

type Evaluated = Result<Uncertain, FormulaError>;

/// Values of the columns, worked out in the order their formulas need. Circles were found with the units.
struct Values<'a, 'u> {
    record: &'a Record,
    held: &'u Held,
    units: &'u BTreeMap<ColumnId, Result<Unit, FormulaError>>,
    group_of: Vec<usize>,
    value_of: ValueOf<'u>,
    stop: &'u Stop,
    done: BTreeMap<ColumnId, Arc<Vec<Cell>>>,
    /// Columns being worked out: an uncertainty may be a column that needs this one.
    open: Vec<ColumnId>,
}

impl<'a> Values<'a, '_> {
    fn column(&mut self, column: &'a Column) -> Arc<Vec<Cell>> {
        if let Some(done) = self.done.get(&column.id) {
            return Arc::clone(done);
        }
        self.open.push(column.id);
        let cells = Arc::new(match (&column.formula, &self.units[&column.id]) {
            (_, Err(e)) => vec![Cell::Trouble(Arc::new(e.clone())); self.record.rows.len()],
            (None, Ok(_)) => self.readings(column),
            (Some(formula), Ok(_)) => self.worked(column.id, formula),
        });
        self.open.pop();
        self.done.insert(column.id, Arc::clone(&cells));
        cells
    }

    fn readings(&mut self, column: &'a Column) -> Vec<Cell> {
        // An uncertainty that depends on this column itself, or on none, leaves the resolution to speak.
        let other = match &column.precision {
            Precision::Column { symbol } => {
                let found = self.record.by_symbol(symbol).filter(|c| !self.open.contains(&c.id));
                let fits = |c: &&Column| match (&self.units[&c.id], &column.unit) {
                    (Ok(a), Some(b)) => a.same_dimension(b),
                    _ => false,
                };
                found.filter(fits).map(|c| self.column(c))
            }
            Precision::Resolution
            | Precision::Absolute { .. }
            | Precision::Percent { .. }
            | Precision::Scale { .. }
            | Precision::Counting => None,
        };
        let rows = self.record.rows.iter().enumerate();
        rows.map(|(i, row)| match row.cells.get(&column.id) {
            None => Cell::Empty,
            Some(reading) => {
                let stated = match &other {
                    Some(cells) => cells[i].value().map(|u| u.value.abs()),
                    None => column.precision.u_si(reading),
                };
                Cell::Value((self.value_of)(i, column, reading, stated.unwrap_or_else(|| reading.u_si())))
            }
        })
        .collect()
    }

    fn worked(&mut self, id: ColumnId, formula: &Formula) -> Vec<Cell> {
        let record = self.record;
        let formula = formula.expanded(&|stem| record.counting_runs(stem));
        let mut inputs: HashMap<&str, Arc<Vec<Cell>>> = HashMap::new();
        for symbol in formula.symbols() {
            if let Some(column) = record.by_symbol(symbol) {
                // A circle through the uncertainties of readings: no value rather than no end.
                if !self.open.contains(&column.id) {
                    inputs.insert(symbol, self.column(column));
                }
            }
        }
        let mut around = Around { values: self, inputs: &inputs, wholes: HashMap::new(), column: id, row: 0 };
        around.prepare(formula.tree());
        let mut cells = Vec::with_capacity(record.rows.len());
        for i in 0..record.rows.len() {
            if around.values.stop.is_set() {
                cells.push(Cell::Empty);
                continue;
            }
            around.row = i;
            let place = (i as u64) << 32 | u64::from(id) & 0x3f_ffff;
            cells.push(Cell::from(formula.evaluate_in(&around).map(|v| v.condensed(place))));
        }
        cells
    }

    /// Rows that whole-column functions look at, by group.
    fn counting(&self) -> BTreeMap<usize, Vec<usize>> {
        let mut all: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
        for (i, _) in self.record.rows.iter().enumerate().filter(|(_, r)| !r.aside) {
            all.entry(self.group_of[i]).or_default().push(i);
        }
        all
    }
}

/// What the formula of a column finds around it in one row.
struct Around<'a, 'u, 'b> {
    values: &'b Values<'a, 'u>,
    inputs: &'b HashMap<&'b str, Arc<Vec<Cell>>>,
    /// Values of functions over whole columns, by the address of their part in the tree.
    wholes: HashMap<usize, Vec<Evaluated>>,
    /// The column being worked out.
    column: ColumnId,
    row: usize,
}

fn address(part: &Expr) -> usize {
    std::ptr::from_ref(part) as usize
}

impl Surroundings for Around<'_, '_, '_> {
    fn symbol(&self, symbol: &str) -> Result<Uncertain, Problem> {
        match self.inputs.get(symbol) {
            Some(cells) => match &cells[self.row] {
                Cell::Value(v) => Ok(v.clone()),
                Cell::Empty => Err(Problem::Nothing),
                Cell::Trouble(_) => Err(Problem::EmptyCell(symbol.to_owned())),
            },
            None => match self.values.held.get(symbol) {
                Some((value, _)) => Ok(value.clone()),
                None => Err(Problem::UnknownSymbol(symbol.to_owned())),
            },
        }
    }

    fn row(&self) -> Result<f64, Problem> {
        Ok((self.row + 1) as f64)
    }

    fn whole(&self, function: Whole, part: &Expr) -> Evaluated {
        let all = self.wholes.get(&address(part)).and_then(|all| all.get(self.row));
        all.cloned()
            .unwrap_or(Err(FormulaError { problem: Problem::NeedsColumn(function.name()), span: part.span.clone() }))
    }
}

impl Around<'_, '_, '_> {
    /// Works out the functions over whole columns, the innermost first.
    fn prepare(&mut self, part: &Expr) {
        match &part.node {
            Node::Negative(a) => self.prepare(a),
            Node::Binary(_, a, b) => {
                self.prepare(a);
                self.prepare(b);
            }
            Node::Call(function, all) | Node::Across(function, all) => {
                all.iter().for_each(|a| self.prepare(a));
                if let (Node::Call(..), Some(whole)) = (&part.node, function.whole(all.len())) {
                    let outcomes = self.over_rows(whole, part, all);
                    self.wholes.insert(address(part), outcomes);
                }
            }
            Node::Number(..) | Node::Pi | Node::Constant(_) | Node::Row | Node::Symbol(_) => {}
        }
    }

    fn over_rows(&mut self, function: Whole, part: &Expr, arguments: &[Expr]) -> Vec<Evaluated> {
        let rows = self.values.record.rows.len();
        let fail = |problem| FormulaError { problem, span: part.span.clone() };
        let mut inner: Vec<Vec<Evaluated>> = Vec::with_capacity(arguments.len());
        for argument in arguments {
            let each = (0..rows).map(|i| {
                self.row = i;
                evaluate_part(argument, self)
            });
            let each: Vec<Evaluated> = each.collect();
            inner.push(each);
        }
        let mut out: Vec<Evaluated> = vec![Err(fail(Problem::Nothing)); rows];
        for (group, counting) in self.values.counting() {
            // Rows in trouble or still empty are passed over.
            let values_of = |i: usize| inner.iter().map(|a| a[i].as_ref().ok()).collect::<Option<Vec<&Uncertain>>>();
            let used: Vec<(usize, Vec<&Uncertain>)> =
                counting.into_iter().filter_map(|i| Some((i, values_of(i)?))).collect();
            // Tells values of many sources taken together from those of other columns, parts and rows.
            let place = |row: usize| {
                (row as u64) << 32
                    | 1 << 31
                    | (part.span.start as u64 & 0x1ff) << 22
                    | u64::from(self.column) & 0x3f_ffff
            };
            match function {
                Whole::Rows(Along::Change) => {
                    for pair in used.windows(2) {
                        out[pair[1].0] = Ok(pair[1].1[0].minus(pair[0].1[0]));
                    }
                }
                Whole::Rows(Along::RunSum) => {
                    let mut sum = Uncertain::exact(0.0);
                    for (i, values) in &used {
                        sum = sum.plus(values[0]).condensed(place(*i));
                        out[*i] = Ok(sum.clone());
                    }
                }
                Whole::Rows(slope @ (Along::Rate | Along::Rate2)) => {
                    // Through the rows around; at the first and the last through the nearest, so that no parabola is ever bent.
                    let rows = arguments.get(2).map_or(Some(3), window_of).unwrap_or(3);
                    let second = slope == Along::Rate2;
                    for (k, (row, _)) in used.iter().enumerate() {
                        out[*row] = if used.len() >= rows {
                            let from = k.saturating_sub(rows / 2).min(used.len() - rows);
                            parabola(&used[from..from + rows], k - from, second)
                                .ok_or_else(|| fail(Problem::DivisionByZero))
                        } else {
                            Err(fail(Problem::FewRows(rows)))
                        };
                    }
                }
                Whole::Column(gathered) => {
                    let all: Vec<&Uncertain> = used.iter().map(|(_, values)| values[0]).collect();
                    let one = gather(gathered, &all).map(|v| v.condensed(place(group))).map_err(fail);
                    // A row set aside may still be compared with the mean of the others.
                    for (i, slot) in out.iter_mut().enumerate() {
                        if self.values.group_of[i] == group {
                            *slot = one.clone();
                        }
                    }
                }
            }
        }
        out
    }
}

/// First or second derivative, in row `k`, of the parabola through values against places of these rows.
fn parabola(rows: &[(usize, Vec<&Uncertain>)], k: usize, second: bool) -> Option<Uncertain> {
    let places: Vec<f64> = rows.iter().map(|(_, v)| v[1].value).collect();
    let at = places[k];
    let (rate, bend) = local_quadratic(&places, at)?;
    let sum = |w: &[f64]| w.iter().zip(rows).map(|(w, (_, v))| w * v[0].value).sum::<f64>();
    let (slope, curve) = (sum(&rate), sum(&bend));
    let weights = if second { &bend } else { &rate };
    // A place that is off by δ acts as a value that is off by −δ times the slope there.
    let by_values = weights.iter().zip(rows).map(|(w, (_, v))| (*w, v[0]));
    let by_places = weights.iter().zip(rows).map(|(w, (_, v))| (-w * (slope + curve * (v[1].value - at)), v[1]));
    let own = (if second { 0.0 } else { curve }, rows[k].1[1]);
    let all = Uncertain::combination(by_values.chain(by_places).chain([own]));
    Some(all.with_value(if second { curve } else { slope }))
}

impl ColumnKind {
    /// Whether a person may write into its cells.
    pub fn is_writable(self) -> bool {
        matches!(self, Self::Set | Self::Read)
    }
}

#[cfg(test)]
mod tests {
    use super::super::Row;
    use super::*;
    use crate::quantity::Decimal;

    fn column(id: u32, symbol: &str, unit: Option<&str>, formula: Option<&str>) -> Column {
        let (name, symbol) = (symbol.to_lowercase(), symbol.to_owned());
        let unit = unit.map(|u| Unit::parse(u).unwrap());
        let kind = if formula.is_some() { ColumnKind::Worked } else { ColumnKind::Read };
        let formula = formula.map(|f| Formula::parse(f).unwrap());
        Column { kind, unit, ..Column::worked(id, name, symbol, formula) }
    }

    fn record(columns: Vec<Column>, values: &[(u32, &str)]) -> Arc<Record> {
        let cells = values
            .iter()
            .map(|(id, text)| {
                let unit = columns.iter().find(|c| c.id == *id).unwrap().unit.clone().unwrap();
                (*id, Box::new(Reading::typed(Decimal::parse(text).unwrap(), unit)))
            })
            .collect();
        Arc::new(Record { columns, rows: vec![Row { id: 1, cells, ..Row::default() }], ..Record::default() })
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
        let table = r.evaluate(&Held::new());
        let texts: Vec<String> = (0..4).map(|c| table.text(c, 0)).collect();
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
        let table = r.evaluate(&Held::new());
        for i in [0, 1] {
            assert!(
                matches!(&table.columns[i].unit, Err(FormulaError { problem: Problem::Circular(_), .. })),
                "{:?}",
                table.columns[i].unit
            );
        }
        assert_eq!(table.text(2, 0), "1.0");
        let selfish = Formula::parse("d/2").unwrap();
        assert!(matches!(r.check_formula("d", &selfish, &Held::new()).unwrap_err().problem, Problem::Circular(_)));
    }

    #[test]
    fn a_row_in_trouble_leaves_the_others_alone() {
        let mut r = record(vec![column(1, "x", Some(""), None), column(2, "y", None, Some("sqrt(x)"))], &[(1, "-4")]);
        let mut fine = r.rows[0].clone();
        fine.id = 2;
        fine.cells.insert(1, Box::new(Reading::typed(Decimal::parse("4.00").unwrap(), Unit::one())));
        Arc::make_mut(&mut r).rows.extend([fine, Row { id: 3, ..Row::default() }]);
        let table = r.evaluate(&Held::new());
        assert!(matches!(&table.columns[1].cells[0], Cell::Trouble(e) if e.span == (0..7)));
        assert_eq!(table.text(1, 1), "2.000");
        assert!(matches!(table.columns[1].cells[2], Cell::Empty));
    }

    #[test]
    fn a_wanted_unit_of_another_dimension_is_refused() {
        let r = record(vec![column(1, "t", Some("s"), None), column(2, "v", Some("m"), Some("2*t"))], &[(1, "1.0")]);
        assert!(matches!(
            &r.evaluate(&Held::new()).columns[1].unit,
            Err(FormulaError { problem: Problem::UnitClash { .. }, .. })
        ));
    }
}
