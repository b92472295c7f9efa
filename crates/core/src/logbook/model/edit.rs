//! Edits of the step model. An edit holds what the person typed or chose; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use super::ModelRunId;
use crate::record::ColumnId;
use crate::step_model::{ForceField, ForceName, Method, ModelField};

/// What a person can do to the step model.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum ModelEdit {
    /// Chooses the readings it is held against: columns of one table.
    Compare {
        /// The times.
        t: ColumnId,
        /// The positions along x.
        #[serde(default)]
        x: Option<ColumnId>,
        /// The positions along y.
        #[serde(default)]
        y: Option<ColumnId>,
    },
    /// Types a value of the whole.
    Type {
        /// Which.
        field: ModelField,
        /// Value and unit; empty for none.
        typed: String,
    },
    /// Chooses how a step is made.
    Choose {
        /// How.
        method: Method,
    },
    /// Takes position and velocity at the start from the readings.
    StartFromData,
    /// Adds a force.
    AddForce {
        /// Of what kind.
        kind: ForceName,
    },
    /// Takes a force away.
    RemoveForce {
        /// Its place in the list.
        place: usize,
    },
    /// Switches a force on or off.
    Switch {
        /// Its place in the list.
        place: usize,
        /// Whether it works.
        on: bool,
    },
    /// Types a value of a force.
    TypeForce {
        /// Its place in the list.
        place: usize,
        /// Which value.
        field: ForceField,
        /// Value and unit, or a formula; empty for none.
        typed: String,
    },
    /// Runs the model as it is set.
    Run,
    /// Finds the parameter of a force that brings it nearest to the readings, and runs it so.
    Fit {
        /// The force's place in the list.
        place: usize,
    },
    /// Deletes a model that was run.
    Delete {
        /// Which.
        run: ModelRunId,
    },
}
