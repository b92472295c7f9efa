//! Why an edit of the logbook as a whole was refused.

use crate::rigs::{RigError, SettingError};

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum OfficeRefusal {
    Stamped,
    AsItIs,
    NotBrought(Flaw),
}

/// Why a file cannot be brought back. It may have been changed by hand: nothing in it is trusted.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum Flaw {
    Number(Kind),
    Twice(Kind),
    OtherSheet,
    OtherGiven,
    NoConstant,
    NotFree { name: String },
    Setting(SettingError),
    OtherSetting { name: String },
    NotMade(RigError),
    Runs,
    ManyRuns { most: usize },
    PlanOrForecast,
    Deals,
    NoSuchDeal,
    LargeTable { table: String },
    Symbol { symbol: String },
    Column { symbol: String },
    LostReading,
    Reading { symbol: String },
    LargeGraph,
    GraphOfNothing,
    Films,
    Film,
    OverFilm,
    TrailOfNothing,
    Trail,
    ManyModels,
    LargeModel,
    Fitted,
    LongText,
    Evidence,
    Blocks,
    Pictures,
}

/// Kinds of things a logbook holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[allow(missing_docs, reason = "the name says it")]
pub enum Kind {
    Table,
    Column,
    Row,
    Graph,
    Result,
    Model,
    Held,
}
