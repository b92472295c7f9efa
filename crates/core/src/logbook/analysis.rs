//! What follows from a logbook: its tables, graphs, curves, results, and what was held.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::Logbook;
use super::groups::GroupOutcome;
use super::model::ModelOutcome;
use super::recall::lock;
use crate::fit::{Seen, Shape, ShapeError, ShapeFit, shapes};
use crate::formula::Formula;
use crate::graph::{Graph, GraphId, build};
use crate::inquiry::{Trial, Turned, incomparable, is_column, outcome};
use crate::lab::{Freedom, StripRule};
use crate::quantity::{Decimal, Reading, Source, Uncertain, Unit};
use crate::record::{Cell, Column, ColumnKind, Held, Record, Row, RowId, Stop, Table, TableColumn};
use crate::result::{
    Agreement, CalibrationError, Comparison, Constant, ConstantError, FIRST_RESULT, Known, NotComparable, ResultFrom,
    ResultId, ResultSpec, Steady, Term, difference, from_parameter, steady,
};
use crate::rigs::SettingValue;

/// Sources of uncertainty from here up belong to quantities stated beside the tables.
const STATED: u64 = 1 << 61;
/// Rows looked at when a term of the law is compared with an axis.
const COMPARED_ROWS: usize = 50;

/// Everything worked out from a logbook.
#[derive(Clone, Debug)]
pub struct Analysis {
    /// The tables with their worked values.
    pub tables: Vec<Table>,
    /// The graphs, once both axes are chosen and sound.
    pub graphs: Vec<(GraphId, Option<Graph>)>,
    /// The models that were run.
    pub models: Vec<ModelOutcome>,
    /// The results.
    pub results: Vec<ResultOutcome>,
}

/// Trials of one group: its value, then rows with the settings of their runs.
type Series<'a> = (Option<&'a Reading>, Vec<(RowId, Trial<'a>)>);

/// A result worked out.
#[derive(Clone, Debug)]
pub struct ResultOutcome {
    /// Which result.
    pub id: ResultId,
    /// The value, or why there is none; `None` while something has still to be chosen.
    pub constant: Option<Result<Constant, ConstantError>>,
    /// For a column that should stay the same: how steady it is, in `Constant`'s unit.
    pub steady: Option<Steady>,
    /// Comparison with the accepted value; an error when their units differ.
    pub comparison: Option<Result<Comparison, NotComparable>>,
    /// How the terms of the law stand to the line.
    pub terms: BTreeMap<Term, TermVerdict>,
    /// Where rows are grouped: the same from the curve of each group.
    pub groups: Vec<GroupOutcome>,
}

/// How a term of the law stands to the line.
#[derive(Clone, Debug, PartialEq)]
pub enum TermVerdict {
    /// It is what stands on its axis.
    HeldByAxis {
        /// Symbol on the axis.
        axis: String,
    },
    /// Something else stands there.
    NotOnAxis {
        /// Symbol on the axis.
        axis: String,
    },
    /// The table has no columns to work it out from.
    NotInTable,
    /// The intercept agrees with it.
    InterceptAgrees,
    /// The intercept differs from it.
    InterceptDiffers,
    /// One more point would be needed to tell.
    InterceptUnsure,
    /// The intercept gives one of its quantities.
    Gives {
        /// Symbol of the quantity.
        symbol: String,
        /// Its value with uncertainty and unit.
        value: String,
    },
    /// The intercept gives none.
    Unsolved(ConstantError),
}

impl TermVerdict {
    /// Whether it is right.
    pub fn is_right(&self) -> bool {
        match self {
            Self::HeldByAxis { .. } | Self::InterceptAgrees | Self::Gives { .. } => true,
            Self::NotOnAxis { .. }
            | Self::NotInTable
            | Self::InterceptDiffers
            | Self::InterceptUnsure
            | Self::Unsolved(_) => false,
        }
    }
}

/// A setting as it stands beside the table.
#[derive(Clone, Debug, PartialEq)]
pub struct HeldQuantity {
    /// Name of the setting.
    pub name: &'static str,
    /// Name for people.
    pub label: &'static str,
    /// Symbol.
    pub symbol: &'static str,
    /// Whether and at what it was held.
    pub value: HeldValue,
}

/// Whether a setting was held over all runs.
#[derive(Clone, Debug, PartialEq)]
pub enum HeldValue {
    /// Held at this value.
    Held(SettingValue),
    /// Different in some runs.
    Varied,
    /// Held, and hidden by the sheet.
    Hidden,
}

/// The shape strip of a graph.
#[derive(Clone, Debug)]
pub struct Strip {
    /// Symbols of what goes across and up.
    pub symbols: (String, String),
    /// The shape that is on the graph now.
    pub chosen: Shape,
    /// Every shape, or why the points have no place in it.
    pub shapes: Vec<(Shape, Result<ShapeFit, ShapeError>)>,
}

impl Analysis {
    /// The graph with this id.
    pub fn graph(&self, id: GraphId) -> Option<&Graph> {
        self.graphs.iter().find(|(g, _)| *g == id)?.1.as_ref()
    }

    /// How much room it takes, in values with their sources.
    pub fn weight(&self) -> usize {
        let cell = |cell: &Cell| cell.value().map_or(1, |v| 2 + v.terms().len());
        self.tables.iter().flat_map(|t| &t.columns).flat_map(|c| c.cells.iter()).map(cell).sum()
    }

    /// The result with this id.
    pub fn outcome(&self, id: ResultId) -> Option<&ResultOutcome> {
        self.results.iter().find(|r| r.id == id)
    }
}

impl Logbook {
    /// Tables, graphs and results, worked out once for each state.
    pub fn analyse(&self) -> Arc<Analysis> {
        // A sign that is never set.
        let never = Stop::default();
        self.analyse_until(&never).unwrap_or_else(|| Arc::new(self.work_out(&never)))
    }

    /// As [`Self::analyse`]; nothing if `stop` was set before the end.
    pub fn analyse_until(&self, stop: &Stop) -> Option<Arc<Analysis>> {
        let mut known = lock(&self.memo.analysis);
        if let Some(analysis) = &*known {
            return Some(Arc::clone(analysis));
        }
        let analysis = Arc::new(self.work_out(stop));
        if stop.is_set() {
            return None;
        }
        self.recall.count_analysis();
        *known = Some(Arc::clone(&analysis));
        Some(analysis)
    }

    /// Forgets what was worked out, to make room.
    pub fn forget_analysis(&self) {
        *lock(&self.memo.analysis) = None;
    }

    fn work_out(&self, stop: &Stop) -> Analysis {
        let state = self.state();
        let held = self.held_quantities();
        let tables: Vec<Table> = state.record.tables.iter().map(|t| t.evaluate_until(&held, stop)).collect();
        let plans = state.graph.graphs.iter();
        let mut graphs: Vec<_> =
            plans.map(|plan| (plan.id, if stop.is_set() { None } else { build(plan, &tables) })).collect();
        let odd = state.record.tables.iter().flat_map(|table| self.incomparable(table)).collect::<BTreeMap<_, _>>();
        if !odd.is_empty() {
            let drawn = graphs.iter_mut().filter_map(|(_, g)| g.as_mut());
            for point in drawn.flat_map(|g| &mut g.series).flat_map(|s| &mut s.points) {
                point.odd = odd.get(&point.row).cloned();
            }
        }
        if state.office.handed_in {
            for graph in graphs.iter_mut().filter_map(|(_, g)| g.as_mut()) {
                let mut curves = self.sheet.expected.iter().filter(|e| e.is_published());
                let fits = curves.find(|e| e.fits(&graph.x.unit, &graph.y.unit));
                graph.expected = fits.cloned();
            }
        }
        let mut analysis = Analysis { tables, graphs, models: Vec::new(), results: Vec::new() };
        analysis.models = self.models(&analysis, stop);
        self.lay_models(&mut analysis);
        let plans = state.result.results.iter();
        analysis.results = plans.map(|r| self.outcome(r, &analysis, &held)).collect();
        analysis
    }

    /// Quantities that formulas may use beside the columns: visible settings that were the same in all runs, and those
    /// stated. The constant that is sought is never among them.
    pub fn held_quantities(&self) -> Held {
        let mut all = Held::new();
        for h in self.held() {
            if let HeldValue::Held(SettingValue::Quantity(number, unit)) = h.value {
                all.insert(h.symbol.to_owned(), (Uncertain::exact(number.value() * unit.size()), unit));
            }
        }
        for (stated, k) in self.state().record.held.iter().zip(0u64..) {
            let size = stated.unit.size();
            // Known to its last digit (JCGM 100:2008, 4.3.7).
            let u = stated.number.last_digit() * size / 12f64.sqrt();
            let value = Uncertain::from_source(stated.number.value() * size, u, Source(STATED + k));
            all.insert(stated.symbol.clone(), (value, stated.unit.clone()));
        }
        all.remove(&self.sheet().goal.symbol);
        all
    }

    fn outcome(&self, plan: &ResultSpec, analysis: &Analysis, held: &Held) -> ResultOutcome {
        let (mut steadiness, mut terms) = (None, BTreeMap::new());
        let constant = match &plan.from {
            ResultFrom::Curve { graph, stretch, series, parameter } => {
                let graph = analysis.graph(*graph);
                terms = self.terms(plan, graph, held);
                graph.and_then(|g| g.fit_of(*stretch, series.as_deref())).and_then(|fitted| {
                    let fit = match &fitted.outcome {
                        Ok(fit) => fit,
                        Err(e) => return Some(Err(e.clone().into())),
                    };
                    let Some(p) = fit.parameter(parameter) else {
                        return Some(Err(ConstantError::NoSuchParameter { symbol: parameter.clone() }));
                    };
                    let law = plan.law.slope.as_ref()?;
                    Some(from_parameter(p, law, &|s| held.get(s).cloned()))
                })
            }
            ResultFrom::Column { column } => analysis.tables.iter().find_map(|t| {
                let c = &t.columns[t.place(*column)?];
                let unit = c.unit.as_ref().ok()?;
                let used = c.cells.iter().zip(&t.rows).filter(|(_, r)| !r.aside).map(|(cell, _)| cell);
                let found = steady(used)?;
                steadiness = Some(found);
                let symbol = format!("mean of {}", c.column.symbol);
                let size = unit.size();
                Some(Ok(Constant {
                    symbol,
                    unit: unit.clone(),
                    value: found.mean / size,
                    u: found.u / size,
                    freedom: found.freedom,
                }))
            }),
            ResultFrom::Model { run } => {
                let run = self.state().model.run(*run);
                Some(run.ok_or(ConstantError::NoModel).and_then(|run| {
                    let found = run.parameter().ok_or(ConstantError::NothingFitted { number: run.number })?;
                    match &plan.law.slope {
                        Some(law) => from_parameter(&found, law, &|s| held.get(s).cloned()),
                        None => Ok(Constant {
                            symbol: found.symbol,
                            unit: found.unit,
                            value: found.value,
                            u: found.u,
                            freedom: found.freedom,
                        }),
                    }
                }))
            }
            ResultFrom::Calibration { graph, stretch, reading, row } => {
                let graph = analysis.graph(*graph);
                let typed = reading.as_ref().map(|(number, unit)| Unknown {
                    y: number.value(),
                    u: number.last_digit() / 12f64.sqrt(),
                    unit: unit.clone(),
                });
                let of_row = row.zip(graph).and_then(|(row, graph)| height_of(analysis, graph, row));
                typed.map(Ok).or(of_row).zip(graph).map(|(seen, graph)| {
                    seen.map_err(ConstantError::from).and_then(|seen| calibrate(graph, *stretch, &seen))
                })
            }
        };
        // In the unit it is asked or compared in, where that is one of the same kind.
        let goal = &self.sheet().goal;
        let asked = goal.accepted.as_ref().map_or(&goal.unit, |(_, unit)| unit);
        let wanted = plan.accepted.as_ref().map(|(_, unit)| unit).or((plan.id == FIRST_RESULT).then_some(asked));
        let constant = constant.map(|found| found.map(|c| wanted.map_or(c.clone(), |unit| c.in_unit(unit))));
        let comparison = match (&constant, &plan.accepted) {
            (Some(Ok(c)), Some((number, unit))) => Some(compare(c, number, unit)),
            _ => None,
        };
        let groups = self.group_outcomes(plan, analysis, held);
        ResultOutcome { id: plan.id, constant, steady: steadiness, comparison, terms, groups }
    }

    /// What is to be said about the terms of the law that are stated.
    fn terms(&self, plan: &ResultSpec, graph: Option<&Graph>, held: &Held) -> BTreeMap<Term, TermVerdict> {
        let mut said = BTreeMap::new();
        let Some(graph) = graph else { return said };
        let (x, y) = graph.series.first().map_or((0, 0), |s| s.columns);
        for (term, axis, column) in [(Term::Up, &graph.y, y), (Term::Across, &graph.x, x)] {
            let Some(formula) = plan.law.term(term) else { continue };
            let same = self.state().table_of(column).and_then(|table| same_values(table, column, formula, held));
            let axis = axis.symbol.clone();
            let verdict = match same {
                Some(true) => TermVerdict::HeldByAxis { axis },
                Some(false) => TermVerdict::NotOnAxis { axis },
                None => TermVerdict::NotInTable,
            };
            said.insert(term, verdict);
        }
        let intercept = graph.first_fit().and_then(|f| f.intercept().cloned());
        if let (Some(formula), Some(found)) = (plan.law.term(Term::Intercept), intercept) {
            let known = |s: &str| held.get(s).cloned();
            let value = formula.evaluate(&|s| {
                held.get(s).map(|(v, _)| v.clone()).ok_or_else(|| crate::formula::Problem::UnknownSymbol(s.to_owned()))
            });
            let size = found.unit.size();
            let verdict = match value {
                Ok(meant) => {
                    let stated = Known { value: meant.value / size, u: meant.u() / size, freedom: f64::INFINITY };
                    let own = Known { value: found.value, u: found.u, freedom: found.freedom };
                    match difference(own, stated).agreement {
                        Agreement::Unknown => TermVerdict::InterceptUnsure,
                        Agreement::Within => TermVerdict::InterceptAgrees,
                        Agreement::Outside => TermVerdict::InterceptDiffers,
                    }
                }
                Err(_) => match from_parameter(&found, formula, &known) {
                    Ok(c) => {
                        let value = crate::quantity::format::plus_minus(c.value, c.u);
                        let value = crate::quantity::format::with_unit(&value, &c.unit);
                        TermVerdict::Gives { symbol: c.symbol, value }
                    }
                    Err(e) => TermVerdict::Unsolved(e),
                },
            };
            said.insert(Term::Intercept, verdict);
        }
        said
    }

    /// Whether the shape strip is open to the students now.
    pub fn strip_is_open(&self) -> bool {
        match self.sheet().strip {
            StripRule::Always => true,
            StripRule::Never => false,
            // An attempt: a curve through a column the students worked out themselves.
            StripRule::AfterAttempt => self.state().graph.graphs.iter().any(|g| {
                let worked = |id: &u32| {
                    let column = self.state().table_of(*id).and_then(|t| t.column(*id));
                    column.is_some_and(|c| c.kind == ColumnKind::Worked)
                };
                g.fit.is_some() && g.x.iter().chain(&g.y).any(worked)
            }),
        }
    }

    /// The strip of a graph, worked out once for each state; `None` until both axes are chosen and sound.
    pub fn strip(&self, graph: GraphId) -> Option<Arc<Strip>> {
        let analysis = self.analyse();
        let mut known = lock(&self.memo.strips);
        known.entry(graph).or_insert_with(|| self.work_out_strip(&analysis, graph).map(Arc::new)).clone()
    }

    fn work_out_strip(&self, analysis: &Analysis, graph: GraphId) -> Option<Strip> {
        let plan = self.state().graph(graph)?;
        let (bx, by, chosen) = self.bases(plan.x?, plan.y?).ok()?;
        let table = analysis.tables.iter().find(|t| t.place(bx).is_some())?;
        let (cx, cy) = (&table.columns[table.place(bx)?], &table.columns[table.place(by)?]);
        let (ux, uy) = (cx.unit.as_ref().ok()?, cy.unit.as_ref().ok()?);
        let points: Vec<Seen> = table
            .rows
            .iter()
            .enumerate()
            .filter(|(_, r)| !r.aside)
            .filter_map(|(i, _)| {
                let (x, y) = (cx.cells[i].value()?, cy.cells[i].value()?);
                let (x, own_x, y, own_y) = (x.value, x.own_and_shared().0, y.value, y.own_and_shared().0);
                Some(Seen { x: x / ux.size(), y: y / uy.size(), ux: own_x / ux.size(), uy: own_y / uy.size() })
            })
            .collect();
        let symbols = (cx.column.symbol.clone(), cy.column.symbol.clone());
        Some(Strip { symbols, chosen, shapes: shapes(&points) })
    }

    /// The hypothesis beside what the record shows of it: in the first table whose columns have the names of its cause and effect,
    /// over the rows that count and can be compared.
    pub fn hypothesis_outcome(&self, analysis: &Analysis) -> Option<Turned> {
        let hypothesis = self.state().forecast.hypothesis.as_ref()?;
        analysis.tables.iter().find_map(|table| {
            let column = |wanted: &str| table.columns.iter().find(|c| is_column(wanted, &c.column.name));
            let (cause, effect) = (column(&hypothesis.cause)?, column(&hypothesis.effect)?);
            let odd = self.incomparable(&table.record);
            let counts = |i: &usize| !table.rows[*i].aside && !odd.contains_key(&table.rows[*i].id);
            let points = (0..table.rows.len()).filter(counts).filter_map(|i| {
                let value = |c: &TableColumn| c.cells.get(i)?.value().map(|v| (v.value, v.own_and_shared().0));
                let ((x, ux), (y, uy)) = (value(cause)?, value(effect)?);
                Some(Seen { x, y, ux, uy })
            });
            outcome(hypothesis, &points.collect::<Vec<_>>())
        })
    }

    /// Rows of a table that cannot be compared with its others: what changed in their runs beside the quantity that is varied, in
    /// words.
    pub fn incomparable(&self, table: &Record) -> BTreeMap<RowId, String> {
        let state = self.state();
        let run_of = |row: &Row| row.cells.values().find_map(|r| r.origin.run());
        let mut found = BTreeMap::new();
        // Groups of a table are series of their own.
        let mut groups: Vec<Series<'_>> = Vec::new();
        for row in &table.rows {
            let Some(run) = run_of(row).and_then(|n| state.run.runs.get((n as usize).checked_sub(1)?)) else {
                continue;
            };
            let group = table.group.and_then(|c| row.cells.get(&c)).map(|r| &**r);
            let number = |r: &Reading| (r.number.clone(), r.unit.clone());
            match groups.iter_mut().find(|(g, _)| g.map(number) == group.map(number)) {
                Some((_, trials)) => trials.push((row.id, &run.settings)),
                None => groups.push((group, vec![(row.id, &run.settings)])),
            }
        }
        for (_, trials) in groups {
            for (row, names) in incomparable(&trials, &self.sheet().varied_together) {
                let labels = names.iter().map(|n| self.sheet().card.setting(n).map_or(*n, |s| s.label));
                found.insert(row, labels.collect::<Vec<_>>().join(", "));
            }
        }
        found
    }

    /// What was held in all runs, and what was varied, in the order of the rig's settings.
    pub fn held(&self) -> Vec<HeldQuantity> {
        let state = self.state();
        let settings = self.rules().iter().filter_map(|rule| {
            let spec = self.sheet().card.setting(rule.name)?;
            let value = match rule.freedom {
                Freedom::Hidden => HeldValue::Hidden,
                Freedom::Fixed => HeldValue::Held(rule.value.clone()),
                Freedom::Free => {
                    let mut seen = state.runs_kept().filter_map(|(_, r)| r.settings.get(rule.name));
                    let first = seen.next().or_else(|| state.run.settings.get(rule.name)).unwrap_or(&rule.value);
                    if seen.all(|v| v == first) { HeldValue::Held(first.clone()) } else { HeldValue::Varied }
                }
            };
            Some(HeldQuantity { name: rule.name, label: spec.label, symbol: spec.symbol, value })
        });
        settings.collect()
    }
}

/// Whether a formula has the values of a column in every row; `None` when it cannot be worked out.
fn same_values(table: &Record, column: u32, formula: &Formula, held: &Held) -> Option<bool> {
    let extra = u32::MAX;
    let mut columns = table.columns.clone();
    // No column can have this symbol, so the formula cannot mean itself.
    columns.push(Column::worked(extra, String::new(), String::new(), Some(formula.clone())));
    let rows: Vec<Row> = table.rows.iter().take(COMPARED_ROWS).cloned().collect();
    let trial = Arc::new(Record { columns, rows, group: table.group, ..Record::default() });
    let worked = trial.evaluate(held);
    let (a, b) = (&worked.columns[worked.place(column)?], &worked.columns[worked.place(extra)?]);
    if !a.unit.as_ref().ok()?.same_dimension(b.unit.as_ref().ok()?) {
        return Some(false);
    }
    let pairs: Vec<(f64, f64)> =
        a.cells.iter().zip(b.cells.iter()).filter_map(|(a, b)| Some((a.value()?.value, b.value()?.value))).collect();
    (!pairs.is_empty()).then(|| pairs.iter().all(|(a, b)| (a - b).abs() <= 1e-9 * (a.abs() + b.abs())))
}

/// The reading of an unknown, with its own standard uncertainty.
struct Unknown {
    y: f64,
    u: f64,
    unit: Unit,
}

/// What a row has in the column that goes up on a graph.
fn height_of(analysis: &Analysis, graph: &Graph, row: RowId) -> Option<Result<Unknown, CalibrationError>> {
    let column = graph.series.first()?.columns.1;
    let table = analysis.tables.iter().find(|t| t.place(column).is_some())?;
    let c = &table.columns[table.place(column)?];
    let unit = c.unit.as_ref().ok()?.clone();
    let missing = || CalibrationError::NoReading { symbol: c.column.symbol.clone() };
    let place = table.rows.iter().position(|r| r.id == row);
    Some(place.and_then(|i| c.cells[i].value()).ok_or_else(missing).map(|v| Unknown {
        y: v.value / unit.size(),
        u: v.own_and_shared().0 / unit.size(),
        unit,
    }))
}

/// An unknown x from its reading y by a calibration line.
fn calibrate(graph: &Graph, stretch: Option<u32>, unknown: &Unknown) -> Result<Constant, ConstantError> {
    let unit = &unknown.unit;
    let fitted = graph.fit_of(stretch, None).ok_or(CalibrationError::NoCurve)?;
    let fit = fitted.outcome.as_ref().map_err(|e| ConstantError::NoLine(e.clone()))?;
    if !unit.same_dimension(&graph.y.unit) {
        return Err(CalibrationError::OtherUnit.into());
    }
    let factor = unit.size() / graph.y.unit.size();
    let y = unknown.y * factor;
    let (lo, hi) = fit.span;
    let room = hi - lo;
    let found = fit.where_it_is(y, (lo, hi));
    let found = if found.is_empty() { fit.where_it_is(y, (lo - room, hi + room)) } else { found };
    let x = match found.as_slice() {
        [] => return Err(CalibrationError::OutOfReach.into()),
        [one] => *one,
        _ => return Err(CalibrationError::SeveralPlaces.into()),
    };
    let scatter = if fit.residual_sd.is_nan() { 0.0 } else { fit.residual_sd };
    let u0 = (unknown.u * factor).hypot(scatter);
    let (symbol, unit) = (graph.x.symbol.clone(), graph.x.unit.clone());
    Ok(Constant { symbol, unit, value: x, u: fit.u_of_x(x, u0), freedom: fit.freedom() })
}

pub(super) fn compare(constant: &Constant, number: &Decimal, unit: &Unit) -> Result<Comparison, NotComparable> {
    if !unit.same_dimension(&constant.unit) {
        return Err(NotComparable { accepted: unit.clone(), found: constant.unit.clone() });
    }
    let factor = unit.size() / constant.unit.size();
    // A rounded accepted value is known to its last digit (JCGM 100:2008, 4.3.7).
    Ok(constant.compare(number.value() * factor, number.last_digit() * factor / 12f64.sqrt()))
}
