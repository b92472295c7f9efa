//! The step model of a logbook.

use serde::{Deserialize, Serialize};

use crate::fit::Parameter;
use crate::quantity::Unit;
use crate::record::ColumnId;
use crate::step_model::ModelText;

/// Identity of a model that was run; never used twice in a logbook.
pub type ModelRunId = u32;

/// The step model as it is set, and the models that were run.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct ModelState {
    /// The readings it is held against; those that offer themselves without.
    pub compared: Option<Compared>,
    /// How it is set.
    pub plan: Box<ModelSpec>,
    /// The models that were run, in order.
    pub runs: Vec<ModelRun>,
}

/// Readings of a motion: columns of one table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Compared {
    /// The times.
    pub t: ColumnId,
    /// The positions along x.
    pub x: Option<ColumnId>,
    /// The positions along y.
    pub y: Option<ColumnId>,
}

/// A model as it is set.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct ModelSpec {
    /// As typed.
    pub text: ModelText,
    /// Whether position and velocity at the start were taken from the readings.
    #[serde(default)]
    pub start_from_data: bool,
}

/// A model that was run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct ModelRun {
    /// Its identity.
    pub id: ModelRunId,
    /// Its number as shown.
    pub number: u32,
    /// How it was set.
    pub plan: Box<ModelSpec>,
    /// The readings it was held against.
    #[serde(default)]
    pub compared: Option<Compared>,
    /// The parameter that was fitted, if one was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fitted: Option<FittedPart>,
}

/// A parameter as it was fitted.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct FittedPart {
    /// The place of its force.
    pub place: usize,
    /// Value in coherent SI units.
    pub value: f64,
    /// Standard uncertainty in coherent SI units.
    pub u: f64,
    /// Degrees of freedom of the uncertainty; none where it has no end.
    pub freedom: Option<f64>,
    /// Number of positions.
    pub n: usize,
    /// Whether it comes from a file and could not be checked.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub brought: bool,
}

impl ModelRun {
    /// The parameter that was fitted, with its symbol and unit; none where none was.
    pub fn parameter(&self) -> Option<Parameter> {
        let part = self.fitted?;
        let (field, unit) = self.plan.text.forces.get(part.place)?.kind.parameter()?;
        Some(Parameter {
            symbol: field.name().to_owned(),
            value: part.value,
            u: part.u,
            freedom: part.freedom.unwrap_or(f64::INFINITY),
            unit: Unit::parse(unit).ok()?,
        })
    }
}

impl ModelState {
    pub(crate) fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// The model that was run under this identity.
    pub fn run(&self, id: ModelRunId) -> Option<&ModelRun> {
        self.runs.iter().find(|r| r.id == id)
    }

    /// What was fitted in models from a file is known as little as its readings, unless it stands in this logbook too.
    pub(in crate::logbook) fn doubt(&mut self, own: &Self) {
        let known = |run: &ModelRun| own.runs.iter().any(|r| r.plan == run.plan && r.fitted == run.fitted);
        for run in self.runs.iter_mut().filter(|r| !known(r)) {
            run.fitted.iter_mut().for_each(|part| part.brought = true);
        }
    }

    /// Gives what it names the ids it has now.
    pub(in crate::logbook) fn renumber(&mut self, id: &mut impl FnMut(&mut u32)) {
        let all = self.runs.iter_mut().map(|r| &mut r.compared).chain([&mut self.compared]);
        for Compared { t, x, y } in all.flatten() {
            id(t);
            x.iter_mut().chain(y).for_each(&mut *id);
        }
        self.runs.iter_mut().for_each(|r| id(&mut r.id));
    }
}
