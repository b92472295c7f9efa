//! Why an edit of the logbook as a whole was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum OfficeRefusal {
    #[error("This step is stamped already. Nothing was changed.")]
    Stamped,
    #[error("That is how it is now. Nothing was changed.")]
    AsItIs,
    #[error("This file cannot be brought back: {why}. The logbook is as it was.")]
    NotBrought { why: String },
}
