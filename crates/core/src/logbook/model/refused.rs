//! Why an edit of the step model was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ModelRefusal {
    #[error("This lab has no step model. Nothing was changed.")]
    NoModel,
    #[error("The force “{force}” has no {field}. Nothing was changed.")]
    NoField { force: &'static str, field: &'static str },
    #[error("Choose a column of positions, along x or along y. Nothing was changed.")]
    NoPositions,
    #[error("Choose two different columns for x and y. Nothing was changed.")]
    OneColumn,
    #[error("Time and position have to stand in one table. Nothing was changed.")]
    TwoTables,
    #[error("A model is held against a column of times and columns of lengths. Nothing was changed.")]
    NotHeldAgainst,
    #[error(
        "There is nothing to take the start from: times and positions in one table are needed. Nothing was changed."
    )]
    NoStart,
    #[error("Model {number} is set just so. Change something, then run it again. Nothing was changed.")]
    JustSo { number: u32 },
    #[error("The force “{force}” has no parameter that can be fitted. Nothing was changed.")]
    NothingToFit { force: &'static str },
    #[error("A fit needs readings: times and positions in one table. Nothing was changed.")]
    NoReadings,
    #[error("The readings do not determine this parameter. Nothing was changed.")]
    NotDetermined,
}
