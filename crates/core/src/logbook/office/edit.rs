//! Edits of the logbook as a whole. An edit holds what the person typed or pointed at; the plan reads and checks it.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use crate::inquiry::Step;
use crate::logbook::part::Part;
use crate::logbook::state::State;

/// What a person can do to the logbook as a whole.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum OfficeEdit {
    /// Gives the logbook to the teacher; it can no longer be changed.
    HandIn,
    /// Gives it back to the students, with a note.
    ///
    /// The teacher does so by a form of its own.
    #[serde(skip_deserializing)]
    SendBack {
        /// What is still to be done.
        note: String,
        /// The steps that can be worked in again; all of them when none is named.
        #[serde(default, skip_serializing_if = "BTreeSet::is_empty")]
        steps: BTreeSet<Step>,
    },
    /// Asks the teacher for the stamp of a step, or no longer.
    AskStamp {
        /// The step.
        step: Step,
        /// Whether it is asked for.
        on: bool,
    },
    /// Gives the stamp of a step, or says that there is something still to be done.
    ///
    /// The teacher does so by a form of its own.
    #[serde(skip_deserializing)]
    Stamp {
        /// The step.
        step: Step,
        /// Whether it is given.
        given: bool,
    },
    /// Says a word beside a part.
    ///
    /// The teacher does so by a form of its own.
    #[serde(skip_deserializing)]
    SayWord {
        /// The part.
        part: Part,
        /// The word.
        text: String,
    },
    /// Ticks a word of the teacher off, or brings it back.
    TickOff {
        /// Its place, from 0.
        word: usize,
        /// Whether it is done.
        done: bool,
    },
    /// Goes back to what the logbook was after an earlier edit.
    ///
    /// The server looks up what that was, never a page.
    #[serde(skip_deserializing)]
    GoBack {
        /// Number of that edit; 0 for what it began with.
        to: u64,
        /// What it held then. Kept with what was done, not once more with what was wished.
        #[serde(skip_serializing)]
        content: Box<State>,
    },
    /// Brings back the content of a logbook from a file.
    ///
    /// The server reads the file, never a page.
    #[serde(skip_deserializing)]
    Restore {
        /// The content.
        content: Box<State>,
    },
}
