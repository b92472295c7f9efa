//! Why an edit of the claim was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[error("{self:?}")]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ClaimRefusal {
    NoClaim,
    TwoTables,
    OneQuantity,
    OtherTable,
}
