//! Drawn readings: values that curves and results give to cells, and how they follow.
//!
//! That a cell followed is a fact like any other: the edit that moved its curve stores the cell's new reading among its changes, and undo takes both
//! back together.

use strum::IntoStaticStr;

use crate::logbook::Followed;
use crate::logbook::RecordRefusal;
use std::collections::{BTreeMap, BTreeSet};

use derive_more::From;

use super::change::Change;
use super::deed::{Deed, Turn};
use super::record::RecordChange;
use super::refusal::{Kept, Refusal};
use super::{Analysis, Logbook};
use crate::fit::{Fit, FitError, Parameter};
use crate::graph::{Fitted, Graph, GraphId, Look, LookError, StretchId, look_up};
use crate::quantity::format::with_unit;
use crate::quantity::{Decimal, Drawn, DrawnFrom, Origin, Reading, Source, Uncertain, Unit};
use crate::record::{ColumnId, RowId, TableId, shown};
use crate::result::{ConstantError, ResultFrom};

/// Sources of uncertainty from here up belong to curves and means: 256 for each series of a graph. Below are readings, above what many share.
const CURVES: u64 = 1 << 58;
/// Tables that follow one another, at most.
const DEEPEST: usize = 8;

/// A value that a curve or a result gives now.
#[derive(Clone, Debug, PartialEq)]
pub struct Found {
    /// Where it comes from.
    pub source: DrawnFrom,
    /// The same in words.
    pub said: String,
    /// Value with the sources of its uncertainty, in coherent SI units.
    pub value: Uncertain,
    /// Its unit.
    pub unit: Unit,
}

impl Found {
    /// As a reading that stands in a cell.
    pub fn reading(self, frozen: bool) -> Reading {
        let size = self.unit.size();
        let (value, u) = (self.value.value / size, self.value.u() / size);
        // Known exactly: as many digits as a number can have.
        let step = if u > 0.0 { 0.1 * u } else { value.abs().max(1e-90) * 1e-12 };
        let terms = self.value.terms().iter().map(|(s, t)| (s.0, *t)).collect();
        let drawn = Drawn { source: self.source, frozen, said: self.said, terms, before: None };
        Reading {
            number: Decimal::rounded(value, step),
            // So that it has its standard uncertainty wherever readings have theirs from their resolution.
            resolution: if u > 0.0 { u * 12f64.sqrt() } else { step },
            origin: Origin::Curve { drawn: Box::new(drawn) },
            unit: self.unit,
        }
    }
}

/// First number of the own sources of a curve through these columns; other columns on the same graph make another curve. The numbers are stored, so
/// they may never come out otherwise (the hash is G. Fowler, L. C. Noll, K.-P. Vo's, over whole words).
fn first_source(curve: u32, series: usize, (x, y): (ColumnId, ColumnId)) -> u64 {
    let words = [u64::from(curve), series as u64, u64::from(x), u64::from(y)];
    let hash = words.iter().fold(0xcbf2_9ce4_8422_2325_u64, |h, word| (h ^ word).wrapping_mul(0x0100_0000_01b3));
    CURVES + (hash >> 16 << 8)
}

/// What a value is read from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, IntoStaticStr)]
#[strum(serialize_all = "lowercase")]
pub enum Behind {
    /// A graph.
    Graph,
    /// A curve on it.
    Curve,
    /// A column.
    Column,
    /// A result.
    Result,
}

/// Why there is no value to enter, or none any more.
#[derive(Clone, Debug, PartialEq, From)]
pub enum DrawError {
    /// What it comes from was deleted.
    Gone {
        /// What it was.
        of: Behind,
    },
    /// Its uncertainty would need one more point.
    Unsure {
        /// The value, for people.
        what: String,
    },
    /// The curve has no such parameter.
    NoParameter {
        /// Its symbol.
        symbol: String,
    },
    /// The curve does not come there any more.
    OutOfReach,
    /// More than a cell can hold.
    TooLarge {
        /// The value, for people.
        what: String,
    },
    /// The result has no value yet.
    Incomplete,
    /// The graph goes through other columns now.
    OtherColumns,
    /// It comes from the table it stands in.
    LeadsBack,
    /// Nothing can be read off the curve.
    #[from]
    Look(LookError),
    /// There is no curve.
    #[from]
    Fit(FitError),
    /// There is no constant.
    #[from]
    Constant(ConstantError),
}

/// What cannot be entered, and why.
fn unsure(what: &str) -> DrawError {
    DrawError::Unsure { what: what.to_owned() }
}

impl Logbook {
    /// The value that a curve or a result gives now.
    ///
    /// # Errors
    /// [`DrawError`] with what is missing.
    pub fn draw(&self, analysis: &Analysis, asked: &DrawnFrom) -> Result<Found, DrawError> {
        let mut source = asked.clone();
        let (value, unit, said) = match asked {
            DrawnFrom::Parameter { graph, stretch, series, symbol, of } => {
                let curve = CurveOf::find(analysis, *graph, *stretch, (series.as_deref(), *of))?;
                let (value, unit) =
                    curve.parameter(symbol).ok_or_else(|| DrawError::NoParameter { symbol: symbol.clone() })?;
                let said = format!("{symbol} of {}", curve.words());
                source = DrawnFrom::Parameter {
                    graph: *graph,
                    stretch: *stretch,
                    series: series.clone(),
                    symbol: symbol.clone(),
                    of: Some(curve.columns),
                };
                (value.ok_or_else(|| unsure(&said))?, unit, said)
            }
            DrawnFrom::Look { graph, stretch, back, number, unit, place, of } => {
                let look = Look { back: *back, number: number.clone(), unit: unit.clone(), stretch: *stretch };
                let drawn = analysis.graph(*graph).ok_or_else(|| gone(Behind::Graph))?;
                let looked = look_up(&look, &drawn.fits, (&drawn.x.unit, &drawn.y.unit))?;
                let (given_at, _) = *looked.at.get(*place).ok_or(DrawError::OutOfReach)?;
                let curve = CurveOf::find(analysis, *graph, *stretch, (None, *of))?;
                let (asked, found) = if *back { (&drawn.y, &drawn.x) } else { (&drawn.x, &drawn.y) };
                let given = with_unit(&number.pretty(), unit);
                let said =
                    format!("{} at {} = {given}, from the curve of {}", found.symbol, asked.symbol, curve.words());
                source = DrawnFrom::Look {
                    graph: *graph,
                    stretch: *stretch,
                    back: *back,
                    number: number.clone(),
                    unit: unit.clone(),
                    place: *place,
                    of: Some(curve.columns),
                };
                let value = curve.looked(given_at, *back, looked.found[*place]).ok_or_else(|| unsure(&said))?;
                (value, found.unit.clone(), said)
            }
            DrawnFrom::Result { result, group } => self.draw_result(analysis, *result, group.as_deref())?,
        };
        let value = value.map(value.value * unit.size(), unit.size());
        if !value.value.is_finite() || value.value.abs() >= 1e99 {
            return Err(DrawError::TooLarge { what: said });
        }
        Ok(Found { source, said, value, unit })
    }

    fn draw_result(
        &self,
        analysis: &Analysis,
        result: u32,
        group: Option<&str>,
    ) -> Result<(Uncertain, Unit, String), DrawError> {
        let plan = self.state().result(result).ok_or_else(|| gone(Behind::Result))?;
        let outcome = analysis.outcome(result).ok_or_else(|| gone(Behind::Result))?;
        let found = match group {
            None => outcome.constant.as_ref(),
            Some(label) => outcome.groups.iter().find(|g| g.label == label).map(|g| &g.constant),
        };
        let constant = found.ok_or(DrawError::Incomplete)?.as_ref().map_err(|e| DrawError::Constant(e.clone()))?;
        let of = group.map(|g| format!(", {g}")).unwrap_or_default();
        let said = format!("result {}{of}", constant.symbol);
        if constant.u.is_nan() {
            return Err(unsure(&said));
        }
        let size = constant.unit.size();
        let place = group.and_then(|label| outcome.groups.iter().position(|g| g.label == label)).unwrap_or(0);
        let first = first_source(result, place, (0, 0));
        let alone = || Uncertain::from_source(constant.value, constant.u, Source(first));
        let value = match &plan.from {
            ResultFrom::Curve { graph, stretch, series, parameter: symbol } => {
                let named =
                    group.and_then(|label| outcome.groups.iter().find(|g| g.label == label)).map(|g| g.series.as_str());
                let curve = CurveOf::find(analysis, *graph, *stretch, (named.or(series.as_deref()), None))?;
                let (target, unit) = curve.parameter(symbol).ok_or_else(|| gone(Behind::Curve))?;
                let law = plan.law.slope.as_ref().ok_or(DrawError::Incomplete)?;
                let held = self.held_quantities();
                let target = target.ok_or_else(|| unsure(&said))?;
                let target = target.map(target.value * unit.size(), unit.size());
                let solved = law.solve(target, unit, &|s| held.get(s).cloned()).map_err(ConstantError::Law)?;
                solved.value.map(solved.value.value / size, 1.0 / size)
            }
            ResultFrom::Column { column } => {
                let table =
                    analysis.tables.iter().find(|t| t.place(*column).is_some()).ok_or_else(|| gone(Behind::Column))?;
                let cells = table.place(*column).map_or(&[][..], |place| &table.columns[place].cells[..]);
                let used: Vec<&Uncertain> =
                    cells.iter().zip(&table.rows).filter(|(_, r)| !r.aside).filter_map(|(c, _)| c.value()).collect();
                let count = used.len().max(1) as f64;
                let (_, shared) = Uncertain::combination(used.iter().map(|v| (1.0 / count, *v))).own_and_shared();
                // The rest of the mean's uncertainty is its own.
                let together: f64 = shared.iter().map(|(_, t)| (t / size).powi(2)).sum();
                let own = Uncertain::from_source(
                    constant.value,
                    (constant.u.powi(2) - together).max(0.0).sqrt(),
                    Source(first),
                );
                shared.iter().fold(own, |all, (s, t)| all.plus(&Uncertain::from_source(0.0, t / size, *s)))
            }
            ResultFrom::Calibration { .. } | ResultFrom::Model { .. } => alone(),
        };
        Ok((value, constant.unit.clone(), said))
    }

    /// Tables whose readings a value is worked out from.
    fn tables_behind(&self, source: &DrawnFrom) -> BTreeSet<TableId> {
        let of_graph = |graph: GraphId| {
            let plan = self.state().graph(graph);
            let columns = plan
                .into_iter()
                .flat_map(|p| p.x.iter().chain(&p.y).copied().chain(p.more.iter().flat_map(|m| [m.0, m.1])));
            columns.filter_map(|c| Some(self.state().table_of(c)?.id)).collect()
        };
        match source {
            DrawnFrom::Parameter { graph, .. } | DrawnFrom::Look { graph, .. } => of_graph(*graph),
            DrawnFrom::Result { result, .. } => match self.state().result(*result).map(|r| &r.from) {
                Some(ResultFrom::Curve { graph, .. } | ResultFrom::Calibration { graph, .. }) => of_graph(*graph),
                Some(ResultFrom::Column { column }) => {
                    self.state().table_of(*column).map(|t| t.id).into_iter().collect()
                }
                Some(ResultFrom::Model { .. }) => {
                    let read = self.compared(&self.analyse()).and_then(|c| self.state().table_of(c.t));
                    read.map(|t| t.id).into_iter().collect()
                }
                None => BTreeSet::new(),
            },
        }
    }

    /// Whether a value would come from the table it goes into, by itself or by what stands in other tables.
    fn leads_back(&self, source: &DrawnFrom, into: TableId) -> bool {
        let mut open: Vec<TableId> = self.tables_behind(source).into_iter().collect();
        let mut seen: BTreeSet<TableId> = open.iter().copied().collect();
        while let Some(table) = open.pop() {
            if table == into {
                return true;
            }
            for drawn in self.drawn_cells().filter(|c| c.table == table && !c.drawn.frozen) {
                open.extend(self.tables_behind(&drawn.drawn.source).into_iter().filter(|t| seen.insert(*t)));
            }
        }
        false
    }

    /// Whether a value may be entered into a table: it is not worked out from it.
    pub fn may_take(&self, source: &DrawnFrom, into: TableId) -> bool {
        !self.leads_back(source, into)
    }

    /// A value to be entered into a table, read now.
    pub(super) fn read_drawn(&self, source: &DrawnFrom, into: TableId) -> Result<Reading, Refusal> {
        if self.leads_back(source, into) {
            return Err(RecordRefusal::LeadsBack.into());
        }
        let found = self.draw(&self.analyse(), source);
        found.map(|f| f.reading(false)).map_err(|e| Refusal::Value { wrong: e.into(), kept: Kept::NothingWritten })
    }

    fn drawn_cells(&self) -> impl Iterator<Item = DrawnCell<'_>> {
        self.state().record.tables.iter().flat_map(|table| {
            table.rows.iter().enumerate().flat_map(move |(row, r)| {
                r.cells.iter().filter_map(move |(column, reading)| {
                    let drawn = reading.origin.drawn()?;
                    Some(DrawnCell { table: table.id, row, column: *column, reading, drawn })
                })
            })
        })
    }

    /// Adds to a deed what follows from it: cells whose curves it moved. Gives what the person should hear about it.
    pub(super) fn let_follow(&self, deed: &mut Deed) -> Vec<Followed> {
        let touches =
            |c: &Change| matches!(c, Change::Record(_) | Change::Graph(_) | Change::Result(_) | Change::Film(_));
        if deed.turn != Turn::Work || !deed.changes.iter().any(touches) || self.drawn_cells().next().is_none() {
            return Vec::new();
        }
        let mut then = self.clone();
        if then.take(deed.clone()).is_err() {
            return Vec::new();
        }
        let mut moved: Vec<Followed> = Vec::new();
        for _ in 0..DEEPEST {
            let changes = then.following();
            if changes.is_empty() {
                break;
            }
            moved.extend(changes.iter().filter_map(|(_, told)| told.clone()));
            let changes: Vec<Change> = changes.into_iter().map(|(change, _)| change).collect();
            if then.take(Deed { turn: Turn::Work, changes: changes.clone(), next_id: deed.next_id }).is_err() {
                break;
            }
            deed.changes.extend(changes);
        }
        moved
    }

    /// Cells that stand otherwise than their curves now, as changes, and told where their numbers moved.
    fn following(&self) -> Vec<(Change, Option<Followed>)> {
        let analysis = self.analyse();
        let moved = self
            .drawn_cells()
            .filter(|c| !c.drawn.frozen && !self.leads_back(&c.drawn.source, c.table))
            .filter_map(|cell| {
                // What is gone leaves the last value; the cell says so.
                let found =
                    self.draw(&analysis, &cell.drawn.source).ok()?.reading(false).in_unit(&cell.reading.unit)?;
                let same = |a: f64, b: f64| (a - b).abs() <= 1e-9 * a.abs().max(b.abs());
                let stays = found.number == cell.reading.number;
                let known = found.origin.drawn().is_some_and(|d| d.terms == cell.drawn.terms);
                if stays && known && same(found.resolution, cell.reading.resolution) {
                    return None;
                }
                let column = self.state().table(cell.table)?.column(cell.column)?;
                // A number that stays, only otherwise certain, is nothing to be told.
                let told = (!stays).then(|| Followed {
                    symbol: column.symbol.clone(),
                    row: cell.row + 1,
                    now: with_unit(&found.number.pretty(), &found.unit),
                });
                let mut reading = found;
                if let Origin::Curve { drawn } = &mut reading.origin {
                    drawn.before = if stays { cell.drawn.before.clone() } else { Some(cell.reading.number.clone()) };
                }
                let (table, row, column) = (cell.table, cell.row, cell.column);
                Some((Change::Record(RecordChange::Cell { table, row, column, reading: Some(reading) }), told))
            });
        moved.collect()
    }

    /// Cells of a table that do not follow any more though they would, and why.
    pub fn lost_cells(&self, analysis: &Analysis, table: TableId) -> BTreeMap<(RowId, ColumnId), DrawError> {
        let cells = self.drawn_cells().filter(|c| c.table == table);
        let lost = cells.filter_map(|c| {
            let row = self.state().table(table)?.rows.get(c.row)?.id;
            Some(((row, c.column), self.lost(analysis, table, c.drawn)?))
        });
        lost.collect()
    }

    /// Why a drawn reading does not follow any more, if it would.
    pub fn lost(&self, analysis: &Analysis, table: TableId, drawn: &Drawn) -> Option<DrawError> {
        if drawn.frozen {
            return None;
        }
        if self.leads_back(&drawn.source, table) {
            return Some(DrawError::LeadsBack);
        }
        self.draw(analysis, &drawn.source).err()
    }

    /// Values of one kind that belong together, in the order of their series or groups: the same parameter of all curves of a graph, or a result of
    /// every group.
    pub fn alike(&self, analysis: &Analysis, source: &DrawnFrom) -> Vec<DrawnFrom> {
        match source {
            DrawnFrom::Parameter { graph: id, symbol, .. } => {
                let Some(graph) = analysis.graph(*id) else { return Vec::new() };
                let several = graph.series.len() > 1;
                let curves =
                    graph.fits.iter().filter(|f| f.outcome.as_ref().is_ok_and(|fit| fit.parameter(symbol).is_some()));
                let mut order: Vec<_> = curves.collect();
                order.sort_by_key(|f| f.series);
                let named = order.into_iter().map(|f| DrawnFrom::Parameter {
                    graph: *id,
                    stretch: f.stretch.map(|(id, _)| id),
                    series: graph.series.get(f.series).filter(|_| several).map(|s| s.label.clone()),
                    symbol: symbol.clone(),
                    of: graph.series.get(f.series).map(|s| s.columns),
                });
                named.collect()
            }
            DrawnFrom::Result { result, .. } => {
                let groups = analysis.outcome(*result).map(|o| o.groups.as_slice()).unwrap_or_default();
                let sound = groups.iter().filter(|g| g.constant.is_ok());
                sound.map(|g| DrawnFrom::Result { result: *result, group: Some(g.label.clone()) }).collect()
            }
            DrawnFrom::Look { .. } => vec![source.clone()],
        }
    }

    /// The value of the column that parts the rows behind a series, as the cell of another table may hold it.
    pub(super) fn group_value(&self, analysis: &Analysis, source: &DrawnFrom) -> Option<(String, String)> {
        let label = match source {
            DrawnFrom::Parameter { series, .. } => series.clone()?,
            DrawnFrom::Result { result, group } => {
                let groups = &analysis.outcome(*result)?.groups;
                groups.iter().find(|g| Some(&g.label) == group.as_ref())?.series.clone()
            }
            DrawnFrom::Look { .. } => return None,
        };
        let (symbol, value) = label.split_once(" = ")?;
        Some((symbol.to_owned(), value.to_owned()))
    }

    /// Whether a row has this value in the column of that symbol, written as a label is.
    pub(super) fn row_has(&self, table: TableId, row: usize, (symbol, value): &(String, String)) -> bool {
        let Some(table) = self.state().table(table) else { return false };
        let column = table.columns.iter().find(|c| c.symbol == *symbol);
        column.is_some_and(|c| {
            let unit = c.unit.clone().unwrap_or_default();
            table.rows[row].cells.get(&c.id).is_some_and(|r| with_unit(&shown(r, &unit), &unit) == *value)
        })
    }
}

/// A cell that holds a drawn reading.
struct DrawnCell<'a> {
    table: TableId,
    row: usize,
    column: ColumnId,
    reading: &'a Reading,
    drawn: &'a Drawn,
}

fn gone(of: Behind) -> DrawError {
    DrawError::Gone { of }
}

/// A curve on its graph.
struct CurveOf<'a> {
    graph: &'a Graph,
    fit: &'a Fit,
    columns: (ColumnId, ColumnId),
    /// First number of its own sources of uncertainty.
    first: u64,
    /// What tells it from others of the graph, in words.
    apart: String,
}

impl<'a> CurveOf<'a> {
    /// The curve that is meant, through the columns it went through when it was read; the first one of a graph unless another is named.
    fn find(
        analysis: &'a Analysis,
        id: GraphId,
        stretch: Option<StretchId>,
        (label, of): (Option<&str>, Option<(ColumnId, ColumnId)>),
    ) -> Result<Self, DrawError> {
        let graph = analysis.graph(id).ok_or_else(|| gone(Behind::Graph))?;
        let shown = |columns| graph.series.iter().any(|s| s.columns == columns);
        if of.is_some_and(|columns| !shown(columns)) {
            return Err(DrawError::OtherColumns);
        }
        let meant = |f: &&Fitted| {
            graph.series.get(f.series).is_some_and(|s| {
                f.stretch.map(|(id, _)| id) == stretch
                    && label.is_none_or(|label| s.label == label)
                    && of.is_none_or(|columns| s.columns == columns)
            })
        };
        let fitted = graph.fits.iter().find(meant);
        let first = || graph.fit_of(stretch, None).filter(|_| label.is_none() && of.is_none());
        let fitted = fitted.or_else(first).ok_or_else(|| gone(Behind::Curve))?;
        let fit = fitted.outcome.as_ref().map_err(|e| DrawError::Fit(e.clone()))?;
        let columns = graph.series.get(fitted.series).ok_or_else(|| gone(Behind::Curve))?.columns;
        let letter = fitted.stretch.map(|(_, letter)| format!(", interval {letter}")).unwrap_or_default();
        let apart = label.map_or(letter.clone(), |s| format!(", {s}{letter}"));
        let first = first_source(stretch.unwrap_or(id), fitted.series, columns);
        Ok(Self { graph, fit, columns, first, apart })
    }

    fn words(&self) -> String {
        format!("{} against {}{}", self.graph.y.symbol, self.graph.x.symbol, self.apart)
    }

    /// A parameter with the sources of its uncertainty, in its unit; the value is none where the uncertainty cannot be told.
    fn parameter(&self, symbol: &str) -> Option<(Option<Uncertain>, Unit)> {
        let place = self.fit.parameters.iter().position(|p| p.symbol == symbol)?;
        let Parameter { value, unit, .. } = &self.fit.parameters[place];
        let gradient: Vec<f64> = (0..self.fit.parameters.len()).map(|k| f64::from(u8::from(k == place))).collect();
        Some((self.fit.with_sources(*value, &gradient, self.first), unit.clone()))
    }

    /// A value read off it: its height, or the place of a height that was itself a single reading, which then has a source of its own.
    fn looked(&self, x: f64, back: bool, found: (f64, f64, f64)) -> Option<Uncertain> {
        let gradient = self.fit.gradient(x);
        if !back {
            return self.fit.with_sources(found.0, &gradient, self.first);
        }
        // dx/dpᵢ = −(∂y/∂pᵢ)/(dy/dx).
        let steepness = self.fit.curve.steepness(x);
        let across: Vec<f64> = gradient.iter().map(|g| -g / steepness).collect();
        let by_curve = self.fit.with_sources(found.0, &across, self.first)?;
        let rest = (found.2.powi(2) - found.1.powi(2)).max(0.0).sqrt();
        Some(by_curve.plus(&Uncertain::from_source(0.0, rest, Source(self.first + 255))))
    }
}
