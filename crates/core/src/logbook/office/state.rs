//! Where a logbook is: with the students or with the teacher.

use serde::{Deserialize, Serialize};

/// Handing in and back.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct OfficeState {
    /// Whether the teacher has it.
    pub handed_in: bool,
    /// The teacher's note when it was sent back.
    pub note: Option<String>,
}
