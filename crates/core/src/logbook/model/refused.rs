//! Why an edit of the step model was refused.

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
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
