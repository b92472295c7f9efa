//! Changes of the results.

use serde::{Deserialize, Serialize};

use super::ResultState;
use crate::logbook::change::{Misfit, insert, remove};
use crate::result::{ResultId, ResultSpec};

/// A change of the results.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ResultChange {
    /// A result comes.
    Insert {
        /// Its place.
        place: usize,
        /// The result.
        result: Box<ResultSpec>,
    },
    /// A result goes.
    Remove {
        /// Its place.
        place: usize,
    },
    /// A result changes.
    Change {
        /// Which result.
        result: ResultId,
        /// How it is now.
        plan: Box<ResultSpec>,
    },
}

impl ResultState {
    pub(in crate::logbook) fn change(&mut self, change: ResultChange) -> Result<ResultChange, Misfit> {
        Ok(match change {
            ResultChange::Insert { place, result } => {
                insert(&mut self.results, place, *result)?;
                ResultChange::Remove { place }
            }
            ResultChange::Remove { place } => {
                ResultChange::Insert { place, result: Box::new(remove(&mut self.results, place)?) }
            }
            ResultChange::Change { result, mut plan } => {
                let there = self.results.iter_mut().find(|there| there.id == result).ok_or(Misfit)?;
                std::mem::swap(there, &mut plan);
                ResultChange::Change { result, plan }
            }
        })
    }
}
