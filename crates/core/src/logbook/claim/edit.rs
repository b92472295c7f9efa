//! Edits of the claim. An edit holds what the person chose or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::inquiry::CurvePick;
use crate::record::{ColumnId, RowId};

/// What a person can do to the claim.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum ClaimEdit {
    /// States what the data show.
    State {
        /// The column that is raised.
        cause: ColumnId,
        /// The column that follows.
        effect: ColumnId,
        /// Along which curve.
        curve: CurvePick,
    },
    /// Takes the claim back.
    Withdraw,
    /// Adds rows to the evidence.
    AddEvidence {
        /// Which rows.
        rows: Vec<RowId>,
    },
    /// Takes a row out of the evidence.
    RemoveEvidence {
        /// Which row.
        row: RowId,
    },
}
