//! Why an edit of settings, runs and plans of trials was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum RunRefusal {
    #[error("Nothing can be pulled by hand in this lab.")]
    NotByHand,
    #[error(
        "Only a run that was stopped in its last part goes on, with what it did so far unchanged. Start a new run instead."
    )]
    CannotGoOn,
    #[error(
        "Your partner has just changed the track at the same place. It stays as they set it: look at it, and change it again."
    )]
    TrackChanged,
    #[error("The setting “{name}” is not free in this lab. Nothing was changed.")]
    NotFree { name: String },
    #[error("There is no rig in this lab: its motion is filmed. Choose a film.")]
    Filmed,
    #[error("No part of this run lasts until it is stopped. Nothing was changed.")]
    NotOpen,
    #[error("“{name}” is no quantity that is free in this lab. Nothing was changed.")]
    NotPlanned { name: String },
    #[error("A plan has 2 to {most} trials. Nothing was changed.")]
    PlanCount { most: u32 },
    #[error("Both ends need a value. Nothing was changed.")]
    EndsWanted,
    #[error(
        "The {setting} can be set in steps of {step}, which gives {values} different values between these ends at most. Nothing was changed."
    )]
    TooFine { setting: &'static str, step: String, values: u32 },
    #[error("All planned trials have been run. Nothing was changed.")]
    AllRun,
    #[error("The meter “{name}” shows nothing in run {run}. Nothing was changed.")]
    MeterEmpty { name: String, run: u32 },
    #[error("A recording needs a quantity and two instants at least. Nothing was changed.")]
    TooFew,
    #[error(
        "This recording would have {rows} rows; a table can have {most_rows}, a logbook {most_tables} tables. Nothing was recorded: take fewer readings a second."
    )]
    TooLong { rows: usize, most_rows: usize, most_tables: usize },
    #[error("“{name}” cannot be recorded in this lab. Nothing was changed.")]
    NotRecorded { name: String },
    #[error(
        "The table “{table}” has no measured column {symbol} that this could be a repeat of. Record into a new table. Nothing was changed."
    )]
    NoSuchRepeat { table: String, symbol: String },
    #[error(
        "The rows of the table “{table}” are other instants. Record the same frames as before, or into a new table. Nothing was changed."
    )]
    OtherInstants { table: String },
}
