//! Changes of where a logbook is, and of everything at once.

use std::mem::replace;

use serde::{Deserialize, Serialize};

use super::OfficeState;
use crate::logbook::state::State;

/// A change of the logbook as a whole.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum OfficeChange {
    /// It goes to the teacher, or back to the students.
    Place {
        /// Where it is, with the teacher's note.
        office: OfficeState,
    },
    /// Everything at once.
    All {
        /// What it holds now. Where the logbook is, and what was seen, stay as they are.
        state: Box<State>,
    },
}

impl State {
    pub(in crate::logbook) fn change_office(&mut self, change: OfficeChange) -> OfficeChange {
        match change {
            OfficeChange::Place { office } => OfficeChange::Place { office: replace(&mut self.office, office) },
            OfficeChange::All { mut state } => {
                // Handing in and out is not undone with the work.
                state.office.clone_from(&self.office);
                // Nor is what was seen, and what was said before it was seen stays as it was said.
                state.run.seen = self.run.seen;
                state.run.rounds = self.run.rounds;
                // What was checked was checked.
                state.answers.keep_tries(&self.answers);
                if self.run.seen {
                    state.forecast.clone_from(&self.forecast);
                }
                std::mem::swap(self, &mut state);
                OfficeChange::All { state }
            }
        }
    }
}
