//! Why an edit of settings, runs and plans of trials was refused.

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum RunRefusal {
    NotByHand,
    CannotGoOn,
    TrackChanged,
    NotFree { name: String },
    Filmed,
    NotOpen,
    NotPlanned { name: String },
    PlanCount { most: u32 },
    EndsWanted,
    TooFine { setting: &'static str, step: String, values: u32 },
    AllRun,
    MeterEmpty { name: String, run: u32 },
    TooFew,
    TooLong { rows: usize, most_rows: usize, most_tables: usize },
    NotRecorded { name: String },
    NoSuchRepeat { table: String, symbol: String },
    OtherInstants { table: String },
}
