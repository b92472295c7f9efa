//! Edits of the graphs.

use crate::logbook::GraphRefusal;
use crate::logbook::refusal::{Counted, Limit, Refusal, ShortText, Thing, ValueError};
use crate::logbook::{CurveText, GraphShows, Logbook};
use std::collections::BTreeMap;
use std::sync::Arc;

use super::{GraphChange, GraphEdit};
use crate::fit::{Model, Typed, Weighting};
use crate::formula::Formula;
use crate::graph::{
    AxisScale, AxisSpec, FitSpec, Gap, GraphId, GraphSpec, Look, MOST_GRAPHS, MOST_SERIES, MOST_STRETCHES, Point,
    Stretch, StretchId,
};
use crate::logbook::change::Change;
use crate::logbook::planning::{Changes, Fresh, LONGEST_NAME, Plan, Planned, nothing_changed};
use crate::quantity::{Unit, parse_quantity};
use crate::record::{Column, ColumnId, Record};

/// Longest text in a gap, in characters.
const LONGEST_GAP: usize = 40;

impl Logbook {
    pub(in crate::logbook) fn plan_graph(&self, edit: &GraphEdit, fresh: &mut Fresh) -> Plan {
        let changes: Changes = match edit {
            GraphEdit::AddGraph => self.plan_add_graph(fresh),
            GraphEdit::DeleteGraph { graph } => self.plan_delete_graph(*graph),
            GraphEdit::NameGraph { graph, title, across, up } => self.plan_name_graph(*graph, [title, across, up]),
            GraphEdit::ChooseAxes { graph, x, y } => self.plan_axes(*graph, *x, *y),
            GraphEdit::ChooseAxis { graph, up, column } => {
                let spec = self.graph_spec(*graph)?;
                let (x, y) = if *up { (spec.x, *column) } else { (*column, spec.y) };
                self.plan_axes(*graph, x, y)
            }
            GraphEdit::AddSeries { graph, x, y } => self.plan_add_series(*graph, *x, *y),
            GraphEdit::RemoveSeries { graph, index } => {
                let spec = self.graph_spec(*graph)?;
                if *index >= spec.more.len() {
                    return Err(Refusal::Gone(Thing::Series));
                }
                self.changed(*graph, |g| {
                    g.more.remove(*index);
                })
            }
            GraphEdit::SetAxis { graph, up, logarithmic, zero, from, to } => {
                self.plan_axis(*graph, *up, [*logarithmic, *zero], [from, to])
            }
            GraphEdit::Zoom { graph, range } => self.plan_zoom(*graph, *range),
            GraphEdit::ShowOnGraph { graph, what, on } => {
                let place: fn(&mut GraphSpec) -> &mut bool = match what {
                    GraphShows::Bars => |g| &mut g.bars,
                    GraphShows::Residuals => |g| &mut g.residuals,
                    GraphShows::Band => |g| &mut g.band,
                    GraphShows::Groups => |g| &mut g.grouped,
                };
                self.changed(*graph, |g| *place(g) = *on)
            }
            GraphEdit::ChooseModel { graph, model } => {
                let model = model.as_ref().map(offered).transpose()?;
                let fit = model.map(|model| FitSpec { model, weighting: Default::default() });
                self.changed(*graph, |g| g.fit = fit)
            }
            GraphEdit::ChooseFit { graph, stretch, curve, weighting } => {
                self.plan_fit(*graph, *stretch, curve, *weighting)
            }
            GraphEdit::AddStretch { graph, from, to } => self.plan_add_stretch(*graph, [from, to], fresh),
            GraphEdit::ChangeStretch { graph, stretch, from, to } => {
                let spec = self.graph_spec(*graph)?;
                let (from, to) = self.ends(spec, from, to)?;
                self.changed_stretch(*graph, *stretch, |s| (s.from, s.to) = (from, to))
            }
            GraphEdit::DeleteStretch { graph, stretch } => self.plan_delete_stretch(*graph, *stretch),
            GraphEdit::LookAhead { graph, typed, .. } if typed.trim().is_empty() => {
                self.changed(*graph, |g| g.look = None)
            }
            GraphEdit::LookAhead { graph, back, typed, stretch } => self.plan_look(*graph, *back, typed, *stretch),
            GraphEdit::ChooseShape { graph, shape } => self.plan_shape(*graph, *shape, fresh),
            GraphEdit::FillGap { graph, gap, typed } => self.plan_gap(*graph, *gap, typed),
        };
        changes.map(Planned::from)
    }

    /// An empty graph behind the others.
    fn plan_add_graph(&self, fresh: &mut Fresh) -> Changes {
        if self.state.graph.graphs.len() >= MOST_GRAPHS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Graphs, most: MOST_GRAPHS }));
        }
        let graph = GraphSpec { id: fresh.next(), ..GraphSpec::default() };
        Ok(vec![Change::Graph(GraphChange::Insert { place: self.state.graph.graphs.len(), graph: Box::new(graph) })])
    }

    /// A graph goes; one stays.
    fn plan_delete_graph(&self, graph: GraphId) -> Changes {
        self.graph_spec(graph)?;
        if self.state.graph.graphs.len() == 1 {
            return Err(Refusal::from(GraphRefusal::LastGraph));
        }
        let index = self.state.graph.graphs.iter().position(|g| g.id == graph).unwrap_or(0);
        Ok(vec![Change::Graph(GraphChange::Remove { place: index })])
    }

    /// Titles of a graph and its axes.
    fn plan_name_graph(&self, graph: GraphId, [title, across, up]: [&str; 3]) -> Changes {
        let read = |typed: &str| -> Result<String, Refusal> {
            let title = typed.trim();
            if title.chars().count() > 2 * LONGEST_NAME {
                return Err(Refusal::Limit(Limit::Short { of: ShortText::Title, most: 2 * LONGEST_NAME }));
            }
            Ok(title.to_owned())
        };
        let (title, across, up) = (read(title)?, read(across)?, read(up)?);
        self.changed(graph, |g| {
            g.title = title;
            g.across.title = across;
            g.up.title = up;
        })
    }

    /// How an axis is divided, and where it ends.
    fn plan_axis(&self, graph: GraphId, up: bool, [logarithmic, zero]: [bool; 2], [from, to]: [&str; 2]) -> Changes {
        let spec = self.graph_spec(graph)?;
        let unit = self.axis_unit(spec, up).unwrap_or_default();
        let (from, to) = (self.end(from, &unit)?, self.end(to, &unit)?);
        if let (Some(a), Some(b)) = (from, to)
            && a >= b
        {
            return Err(Refusal::from(GraphRefusal::EndsCrossed));
        }
        if logarithmic && [from, to].into_iter().flatten().any(|v| v <= 0.0) {
            return Err(Refusal::from(GraphRefusal::NotAboveZero));
        }
        let scale = if logarithmic { AxisScale::Logarithmic } else { AxisScale::Linear };
        self.changed(graph, |g| {
            let axis = if up { &mut g.up } else { &mut g.across };
            *axis = AxisSpec { title: std::mem::take(&mut axis.title), scale, from, to, zero: zero && !logarithmic };
        })
    }

    /// A part of a graph is shown; all of it without a range.
    fn plan_zoom(&self, graph: GraphId, range: Option<[[f64; 2]; 2]>) -> Changes {
        let spec = self.graph_spec(graph)?;
        let units = [false, true].map(|up| self.axis_unit(spec, up).map_or(1.0, |u| u.size()));
        if range.iter().flatten().any(|[a, b]| !(a.is_finite() && b.is_finite() && a < b)) {
            return Err(Refusal::from(GraphRefusal::EmptyPart));
        }
        self.changed(graph, |g| {
            for (k, axis) in [&mut g.across, &mut g.up].into_iter().enumerate() {
                let ends = range.map(|r| r[k]);
                axis.from = ends.map(|e| e[0] * units[k]);
                axis.to = ends.map(|e| e[1] * units[k]);
            }
        })
    }

    /// A curve for the whole graph or one of its intervals.
    fn plan_fit(&self, graph: GraphId, stretch: Option<StretchId>, curve: &CurveText, weighting: Weighting) -> Changes {
        let spec = self.graph_spec(graph)?;
        let model = self.model_from(spec, curve)?;
        let fit = model.map(|model| FitSpec { model, weighting });
        match stretch {
            None => self.changed(graph, |g| g.fit = fit),
            Some(id) => {
                let fit = fit.ok_or_else(|| Refusal::from(GraphRefusal::IntervalWithoutCurve))?;
                self.changed_stretch(graph, id, |s| s.fit = fit)
            }
        }
    }

    /// An interval with its own line.
    fn plan_add_stretch(&self, graph: GraphId, [from, to]: [&str; 2], fresh: &mut Fresh) -> Changes {
        let spec = self.graph_spec(graph)?;
        if spec.stretches.len() >= MOST_STRETCHES {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Intervals, most: MOST_STRETCHES }));
        }
        let (from, to) = self.ends(spec, from, to)?;
        let line = FitSpec { model: Model::Line, weighting: Default::default() };
        let fit = spec.fit.clone().filter(|f| f.model.is_straight()).unwrap_or(line);
        // Several series have it in common: one for each that has points enough there.
        let analysis = self.analyse();
        let drawn = analysis.graph(graph);
        let size = drawn.map_or(1.0, |g| g.x.unit.size());
        let inside = |p: &&Point| !p.aside && (from / size..=to / size).contains(&p.x);
        let all = drawn.map(|g| g.series.as_slice()).unwrap_or_default().iter().enumerate();
        let mut series: Vec<usize> =
            all.filter(|(_, s)| s.points.iter().filter(inside).count() > 1).map(|(i, _)| i).collect();
        if series.is_empty() {
            series.push(0);
        }
        series.truncate(MOST_STRETCHES - spec.stretches.len());
        let ids: Vec<u32> = series.iter().map(|_| fresh.next()).collect();
        self.changed(graph, |g| {
            for (series, id) in series.into_iter().zip(ids) {
                let letter = ('A'..='Z').find(|l| g.stretches.iter().all(|s| s.letter != *l)).unwrap_or('Z');
                g.stretches.push(Stretch { id, letter, series, from, to, fit: fit.clone() });
            }
        })
    }

    /// An interval goes, and what was predicted from it.
    fn plan_delete_stretch(&self, graph: GraphId, stretch: StretchId) -> Changes {
        let spec = self.graph_spec(graph)?;
        if spec.stretches.iter().all(|s| s.id != stretch) {
            return Err(Refusal::Gone(Thing::Interval));
        }
        self.changed(graph, |g| {
            g.stretches.retain(|s| s.id != stretch);
            if g.look.as_ref().is_some_and(|l| l.stretch == Some(stretch)) {
                g.look = None;
            }
        })
    }

    /// A value is predicted from a line.
    fn plan_look(&self, graph: GraphId, back: bool, typed: &str, stretch: Option<StretchId>) -> Changes {
        let spec = self.graph_spec(graph)?;
        let unit = self.axis_unit(spec, back).unwrap_or_default();
        let (number, typed_unit) = parse_quantity(typed, &unit).map_err(nothing_changed)?;
        if !typed_unit.same_dimension(&unit) {
            return Err(Refusal::from(GraphRefusal::OtherUnit { axis: unit, typed: typed_unit }));
        }
        let look = Look { back, number, unit: typed_unit, stretch };
        self.changed(graph, |g| g.look = Some(look))
    }

    /// A gap of the sentence about the line is filled in.
    fn plan_gap(&self, graph: GraphId, gap: Gap, typed: &str) -> Changes {
        let text = typed.trim();
        if text.chars().count() > LONGEST_GAP {
            return Err(Refusal::Limit(Limit::Short { of: ShortText::Gap, most: LONGEST_GAP }));
        }
        self.changed(graph, |g| {
            if text.is_empty() {
                g.gaps.remove(&gap);
            } else {
                g.gaps.insert(gap, text.to_owned());
            }
        })
    }

    pub(in crate::logbook) fn graph_spec(&self, id: GraphId) -> Result<&GraphSpec, Refusal> {
        self.state.graph(id).ok_or(Refusal::Gone(Thing::Graph))
    }

    fn changed(&self, id: GraphId, change: impl FnOnce(&mut GraphSpec)) -> Changes {
        let old = self.graph_spec(id)?;
        let mut spec = old.clone();
        change(&mut spec);
        Ok(if spec == *old {
            Vec::new()
        } else {
            vec![Change::Graph(GraphChange::Change { graph: id, plan: Box::new(spec) })]
        })
    }

    fn changed_stretch(&self, graph: GraphId, id: StretchId, change: impl FnOnce(&mut Stretch)) -> Changes {
        if self.graph_spec(graph)?.stretches.iter().all(|s| s.id != id) {
            return Err(Refusal::Gone(Thing::Interval));
        }
        self.changed(graph, |g| {
            if let Some(stretch) = g.stretches.iter_mut().find(|s| s.id == id) {
                change(stretch);
            }
        })
    }

    /// x and y of a point stand in one row, so in one table.
    fn same_table(&self, x: Option<ColumnId>, y: Option<ColumnId>) -> Result<(), Refusal> {
        let (Some(x), Some(y)) = (x, y) else { return Ok(()) };
        if self.column(x)?.0.id == self.column(y)?.0.id {
            return Ok(());
        }
        Err(Refusal::from(GraphRefusal::TwoTables))
    }

    /// What goes across and what goes up.
    fn plan_axes(&self, graph: GraphId, x: Option<ColumnId>, y: Option<ColumnId>) -> Changes {
        for column in [x, y].into_iter().flatten() {
            self.column(column)?;
        }
        let (x, y) = self.in_one_table(self.graph_spec(graph)?, x, y)?;
        self.changed(graph, |g| {
            // Ranges, stretches and answers belong to the columns that were there.
            if g.x != x {
                (g.across.from, g.across.to) = (None, None);
                g.stretches.clear();
                g.look = None;
            }
            if g.y != y {
                (g.up.from, g.up.to) = (None, None);
                g.look = None;
            }
            (g.x, g.y) = (x, y);
        })
    }

    /// Axes as chosen, in one table: where one of them was left as it was and the other is of another table now, the first goes over to the
    /// column of its symbol there, or to none. From trail to trail one choice is enough.
    fn in_one_table(
        &self,
        before: &GraphSpec,
        x: Option<ColumnId>,
        y: Option<ColumnId>,
    ) -> Result<(Option<ColumnId>, Option<ColumnId>), Refusal> {
        let (Some(across), Some(up)) = (x, y) else { return Ok((x, y)) };
        let ((x_table, _, x_column), (y_table, _, y_column)) = (self.column(across)?, self.column(up)?);
        let alike = |table: &Record, of: &Column| table.by_symbol(&of.symbol).map(|c| c.id);
        if x_table.id == y_table.id {
            Ok((x, y))
        } else if before.x == x {
            Ok((alike(y_table, x_column), y))
        } else if before.y == y {
            Ok((x, alike(x_table, y_column)))
        } else {
            self.same_table(x, y).map(|()| (x, y))
        }
    }

    /// Unit of an axis, worked out from its column.
    fn axis_unit(&self, spec: &GraphSpec, up: bool) -> Option<Unit> {
        let id = if up { spec.y? } else { spec.x? };
        let table = self.state.table_of(id)?;
        self.unit_of(table, id)
    }

    /// Unit of a column, worked out without its rows.
    pub(super) fn unit_of(&self, table: &Record, id: ColumnId) -> Option<Unit> {
        let heads = Arc::new(Record { columns: table.columns.clone(), ..Record::default() });
        let held = self.held_quantities();
        let worked = heads.evaluate(&held);
        worked.columns.iter().find(|c| c.column.id == id)?.unit.clone().ok()
    }

    fn plan_add_series(&self, graph: GraphId, x: ColumnId, y: ColumnId) -> Changes {
        let spec = self.graph_spec(graph)?;
        self.same_table(Some(x), Some(y))?;
        if spec.more.len() >= MOST_SERIES {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Series, most: MOST_SERIES + 1 }));
        }
        if (spec.x, spec.y) == (Some(x), Some(y)) || spec.more.contains(&(x, y)) {
            return Err(Refusal::from(GraphRefusal::SeriesThere));
        }
        for (id, up) in [(x, false), (y, true)] {
            let (table, _, column) = self.column(id)?;
            if let (Some(axis), Some(own)) = (self.axis_unit(spec, up), self.unit_of(table, id))
                && !axis.same_dimension(&own)
            {
                return Err(Refusal::from(GraphRefusal::CannotShare {
                    symbol: column.symbol.clone(),
                    unit: own,
                    axis,
                }));
            }
        }
        self.changed(graph, |g| match (g.x, g.y) {
            (Some(_), Some(_)) => g.more.push((x, y)),
            _ => (g.x, g.y) = (Some(x), Some(y)),
        })
    }

    fn end(&self, typed: &str, unit: &Unit) -> Result<Option<f64>, Refusal> {
        if typed.trim().is_empty() {
            return Ok(None);
        }
        let (number, typed_unit) = parse_quantity(typed, unit).map_err(nothing_changed)?;
        if !typed_unit.same_dimension(unit) {
            return Err(Refusal::from(GraphRefusal::OtherUnit { axis: unit.clone(), typed: typed_unit }));
        }
        Ok(Some(number.value() * typed_unit.size()))
    }

    fn ends(&self, spec: &GraphSpec, from: &str, to: &str) -> Result<(f64, f64), Refusal> {
        let unit = self.axis_unit(spec, false).ok_or_else(|| Refusal::from(GraphRefusal::NothingAcross))?;
        match (self.end(from, &unit)?, self.end(to, &unit)?) {
            (Some(a), Some(b)) if a < b => Ok((a, b)),
            (Some(a), Some(b)) if a > b => Ok((b, a)),
            _ => Err(Refusal::from(GraphRefusal::OneEnd)),
        }
    }

    fn model_from(&self, spec: &GraphSpec, curve: &CurveText) -> Result<Option<Model>, Refusal> {
        let (formula, start) = match curve {
            CurveText::None => return Ok(None),
            CurveText::Offered(model) => return offered(model).map(Some),
            CurveText::Formula { formula, start } => (formula, start),
        };
        let symbol = |id: Option<ColumnId>| {
            let (_, _, column) = self.column(id.ok_or_else(|| Refusal::from(GraphRefusal::NothingChosen))?)?;
            Ok::<_, Refusal>(column.symbol.clone())
        };
        let (x, y) = (symbol(spec.x)?, symbol(spec.y)?);
        // `h = a*t^2` may be typed whole.
        let typed = formula.trim();
        let right = typed.split_once('=').filter(|(left, _)| left.trim() == y).map_or(typed, |(_, right)| right.trim());
        let formula =
            Formula::parse(right).map_err(|e| Refusal::formula(right, e))?.spelled_as([x.as_str()].into_iter());
        let start = read_start(start).map_err(nothing_changed)?;
        let curve = Typed { formula, data: vec![x.clone()], start };
        let free = curve.parameters();
        if !curve.formula.symbols().contains(&x.as_str()) {
            return Err(Refusal::from(GraphRefusal::WithoutAcross { across: x.clone() }));
        }
        if free.is_empty() {
            return Err(Refusal::from(GraphRefusal::NoParameter));
        }
        if free.len() > 8 {
            return Err(Refusal::from(GraphRefusal::TooManyParameters));
        }
        if let Some(unknown) = curve.start.keys().find(|s| !free.contains(s)) {
            return Err(Refusal::from(GraphRefusal::StartOfNothing { symbol: unknown.clone(), parameters: free }));
        }
        Ok(Some(Model::Typed(Box::new(curve))))
    }
}

/// A curve without a formula of its own: a typed one has to be read first.
fn offered(model: &Model) -> Result<Model, Refusal> {
    if Model::OFFERED.contains(model) {
        return Ok(model.clone());
    }
    Err(Refusal::from(GraphRefusal::OwnCurve))
}

/// Start values such as `A=5 m, b=0.1`, in coherent SI units.
fn read_start(text: &str) -> Result<BTreeMap<String, f64>, ValueError> {
    let mut all = BTreeMap::new();
    // A comma followed by no symbol is a decimal comma.
    let mut parts: Vec<String> = Vec::new();
    for piece in text.split([',', ';']) {
        match parts.last_mut() {
            Some(last) if !piece.contains('=') && !piece.trim().is_empty() => {
                last.push('.');
                last.push_str(piece);
            }
            _ => parts.push(piece.to_owned()),
        }
    }
    for part in parts.iter().filter(|p| !p.trim().is_empty()) {
        let (symbol, value) = part.split_once('=').ok_or_else(|| ValueError::Start { part: part.clone() })?;
        let (number, unit) = parse_quantity(value, &Unit::one())?;
        all.insert(symbol.trim().to_owned(), number.value() * unit.size());
    }
    Ok(all)
}
