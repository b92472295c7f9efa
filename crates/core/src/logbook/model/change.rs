//! Changes of the step model.

use serde::{Deserialize, Serialize};

use super::{Compared, ModelRun, ModelSpec, ModelState};
use crate::logbook::change::{Misfit, insert, remove};

/// A change of the step model.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ModelChange {
    /// Other readings to hold it against.
    Compare {
        /// Which.
        with: Option<Compared>,
    },
    /// It is set otherwise.
    Plan {
        /// How.
        plan: Box<ModelSpec>,
    },
    /// A model that was run comes.
    Insert {
        /// Its place.
        place: usize,
        /// The model.
        run: Box<ModelRun>,
    },
    /// A model that was run goes.
    Remove {
        /// Its place.
        place: usize,
    },
}

impl ModelState {
    pub(in crate::logbook) fn change(&mut self, change: ModelChange) -> Result<ModelChange, Misfit> {
        Ok(match change {
            ModelChange::Compare { mut with } => {
                std::mem::swap(&mut self.compared, &mut with);
                ModelChange::Compare { with }
            }
            ModelChange::Plan { mut plan } => {
                std::mem::swap(&mut self.plan, &mut plan);
                ModelChange::Plan { plan }
            }
            ModelChange::Insert { place, run } => {
                insert(&mut self.runs, place, *run)?;
                ModelChange::Remove { place }
            }
            ModelChange::Remove { place } => {
                ModelChange::Insert { place, run: Box::new(remove(&mut self.runs, place)?) }
            }
        })
    }
}
