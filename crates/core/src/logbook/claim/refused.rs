//! Why an edit of the claim was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ClaimRefusal {
    #[error("State the claim first, then choose what shows it. Nothing was changed.")]
    NoClaim,
    #[error("A claim is about two columns of one table. Nothing was changed.")]
    TwoTables,
    #[error("Choose two different quantities for a claim. Nothing was changed.")]
    OneQuantity,
    #[error("This row is in another table than the claim. Nothing was changed.")]
    OtherTable,
}
