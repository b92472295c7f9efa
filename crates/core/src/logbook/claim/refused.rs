//! Why an edit of the claim was refused.

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ClaimRefusal {
    NoClaim,
    TwoTables,
    OneQuantity,
    OtherTable,
}
