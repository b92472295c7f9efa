//! What the data show, in checkable form.

use serde::{Deserialize, Serialize};

use super::CurvePick;
use crate::record::{ColumnId, RowId};

/// A claim: when one column rises, another goes along a curve, and these rows show it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Claim {
    /// The column that is raised.
    pub cause: ColumnId,
    /// The column that follows, of the same table.
    pub effect: ColumnId,
    /// Along which curve.
    pub curve: CurvePick,
    /// Rows that show it, in the order in which they were chosen.
    #[serde(default)]
    pub evidence: Vec<RowId>,
}
