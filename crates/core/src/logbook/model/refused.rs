//! Why an edit of the step model was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[error("{self:?}")]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ModelRefusal {
    NoModel,
    NoField { force: &'static str, field: &'static str },
    NoPositions,
    OneColumn,
    TwoTables,
    NotHeldAgainst,
    NoStart,
    JustSo { number: u32 },
    NothingToFit { force: &'static str },
    NoReadings,
    NotDetermined,
    NothingFitted { number: u32 },
}
