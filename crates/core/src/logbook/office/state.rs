//! Where a logbook is: with the students or with the teacher.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use crate::inquiry::Step;
use crate::logbook::part::Part;

/// Handing in and back.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct OfficeState {
    /// Whether the teacher has it.
    pub handed_in: bool,
    /// The teacher's note when it was sent back.
    pub note: Option<String>,
    /// The steps that are open again since it was sent back; all of them when none is named.
    #[serde(default, skip_serializing_if = "BTreeSet::is_empty")]
    pub reopened: BTreeSet<Step>,
    /// Stamps asked for and given, by the step they stand at.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub stamps: BTreeMap<Step, Stamped>,
    /// What the teacher said on the way, in order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub words: Vec<TeacherWord>,
}

/// A point at which the teacher signs off. Times are in seconds since 1970 (UTC).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct Stamped {
    /// Since when it is asked for.
    pub asked: Option<i64>,
    /// When it was given.
    pub given: Option<i64>,
}

/// A word of the teacher to a group, beside the part it is about.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct TeacherWord {
    /// When it was said, in seconds since 1970 (UTC).
    pub at: i64,
    /// The part.
    pub part: Part,
    /// What was said.
    pub text: String,
    /// Whether the students ticked it off.
    pub done: bool,
}
