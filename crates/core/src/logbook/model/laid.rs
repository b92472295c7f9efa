//! The curves of models over graphs of what they are held against.

use serde::Deserialize;
use strum::{IntoStaticStr, VariantArray};

use super::{Compared, ModelOutcome, Worked};
use crate::graph::{Axis, Graph, GraphSpec, ModelCurve, build};
use crate::logbook::{Analysis, Logbook};
use crate::record::ColumnId;
use crate::step_model::Step;

/// What a graph shows of a motion.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, VariantArray, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum Trace {
    /// Position along x against time.
    X,
    /// Position along y against time.
    Y,
    /// Velocity along x against time.
    Vx,
    /// Velocity along y against time.
    Vy,
    /// The path: y against x.
    Path,
}

impl Trace {
    /// All, in the order in which they are offered.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// Name in addresses.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// Across and up at a step, in coherent SI units.
    fn at(self, step: &Step) -> (f64, f64) {
        match self {
            Self::X => (step.t, step.position[0]),
            Self::Y => (step.t, step.position[1]),
            Self::Vx => (step.t, step.velocity[0]),
            Self::Vy => (step.t, step.velocity[1]),
            Self::Path => (step.position[0], step.position[1]),
        }
    }
}

impl Logbook {
    /// Columns across and up of a trace of readings; none where they are not there.
    pub fn columns_of_trace(&self, analysis: &Analysis, with: Compared, trace: Trace) -> Option<(ColumnId, ColumnId)> {
        let Compared { t, x, y } = with;
        Some(match trace {
            Trace::X => (t, x?),
            Trace::Y => (t, y?),
            Trace::Vx => (t, self.velocities(analysis, x?, t)?),
            Trace::Vy => (t, self.velocities(analysis, y?, t)?),
            Trace::Path => (x?, y?),
        })
    }

    /// Lays the models over all graphs that show the motion they are about.
    pub(in crate::logbook) fn lay_models(&self, analysis: &mut Analysis) {
        if analysis.models.is_empty() {
            return;
        }
        let mut laid = Vec::new();
        for (place, (_, graph)) in analysis.graphs.iter().enumerate() {
            let Some(graph) = graph else { continue };
            let shown = graph.series.first().map(|s| s.columns);
            let with = analysis.models.iter().rev().find_map(|m| {
                let with = m.compared?;
                let mut traces = Trace::ALL.iter().copied();
                let trace = traces.find(|t| self.columns_of_trace(analysis, with, *t) == shown && shown.is_some())?;
                Some((with, trace))
            });
            if let Some((with, trace)) = with {
                laid.push((place, curves(&analysis.models_of(with), trace, graph)));
            }
        }
        for (place, models) in laid {
            if let Some(graph) = &mut analysis.graphs[place].1 {
                graph.models = models;
            }
        }
    }

    /// A graph of readings and the models that are held against them, what is left below it.
    pub fn model_figure(&self, analysis: &Analysis, with: Compared, trace: Trace) -> Option<Graph> {
        let (x, y) = self.columns_of_trace(analysis, with, trace)?;
        let plan = GraphSpec { x: Some(x), y: Some(y), grouped: false, ..GraphSpec::default() };
        let mut graph = build(&plan, &analysis.tables)?;
        let models = analysis.models_of(with);
        graph.models = curves(&models, trace, &graph);
        let axis = match trace {
            Trace::X => Some(0),
            Trace::Y => Some(1),
            Trace::Vx | Trace::Vy | Trace::Path => None,
        };
        if let (Some(axis), Some(newest)) = (axis, models.last()) {
            lay_left(&mut graph, newest, axis);
        }
        Some(graph)
    }
}

impl Analysis {
    /// The models that are held against these readings, in order.
    pub fn models_of(&self, with: Compared) -> Vec<&ModelOutcome> {
        self.models.iter().filter(|m| m.compared == Some(with)).collect()
    }
}

/// What the newest model leaves, below the graph.
fn lay_left(graph: &mut Graph, newest: &ModelOutcome, axis: usize) {
    let Ok(Worked { agreement: Some(Ok(agreement)), at, .. }) = &newest.worked else { return };
    let (sx, sy) = (graph.x.unit.size(), graph.y.unit.size());
    let all = at.iter().zip(&agreement.residuals).filter(|((_, a), _)| *a == axis);
    let left: Vec<(f64, f64)> = all.map(|((t, _), r)| (t / sx, r / sy)).collect();
    let most = left.iter().fold(0.0_f64, |m, (_, r)| m.max(r.abs()));
    if most > 0.0
        && let Some(curve) = graph.models.last_mut()
    {
        curve.left = left;
        graph.residuals = Some(Axis::of_residuals(most, &graph.y));
    }
}

fn curves(models: &[&ModelOutcome], trace: Trace, graph: &Graph) -> Vec<ModelCurve> {
    let (sx, sy) = (graph.x.unit.size(), graph.y.unit.size());
    let one = |(i, model): (usize, &&ModelOutcome)| {
        let worked = model.worked.as_ref().ok()?;
        let points = worked.curve.iter().map(|step| trace.at(step)).map(|(x, y)| (x / sx, y / sy)).collect();
        Some(ModelCurve { number: model.number, newest: i + 1 == models.len(), points, left: Vec::new() })
    };
    models.iter().enumerate().filter_map(one).collect()
}
