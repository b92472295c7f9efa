//! Edits of settings, runs and plans of trials.

use zeitmass_core::logbook::RunRefusal;

use crate::Words;

impl Words for RunRefusal {
    fn words(&self) -> String {
        match self {
            Self::NotByHand => "Nothing can be pulled by hand in this lab.".to_owned(),
            Self::CannotGoOn => "Only a run that was stopped in its last part goes on, with what it did so far unchanged. Start a new run instead.".to_owned(),
            Self::TrackChanged => "Your partner has just changed the track at the same place. It stays as they set it: look at it, and change it again.".to_owned(),
            Self::NotFree { name } => format!("The setting “{name}” is not free in this lab. Nothing was changed."),
            Self::Filmed => "There is no rig in this lab: its motion is filmed. Choose a film.".to_owned(),
            Self::NotOpen => "No part of this run lasts until it is stopped. Nothing was changed.".to_owned(),
            Self::NotPlanned { name } => format!("“{name}” is not a quantity that is free in this lab. Nothing was changed."),
            Self::PlanCount { most } => format!("A plan has 2 to {most} trials. Nothing was changed."),
            Self::EndsWanted => "Both ends need a value. Nothing was changed.".to_owned(),
            Self::TooFine { setting, step, values } => format!("The {setting} can be set in steps of {step}, which gives {values} different values between these ends at most. Nothing was changed."),
            Self::AllRun => "All planned trials have been run. Nothing was changed.".to_owned(),
            Self::MeterEmpty { name, run } => format!("The meter “{name}” shows nothing in run {run}. Nothing was changed."),
            Self::TooFew => "A recording needs a quantity and two instants at least. Nothing was changed.".to_owned(),
            Self::TooLong { rows, most_rows, most_tables } => format!("This recording would have {rows} rows; a table can have {most_rows}, a logbook {most_tables} tables. Nothing was recorded: take fewer readings a second."),
            Self::NotRecorded { name } => format!("“{name}” cannot be recorded in this lab. Nothing was changed."),
            Self::NoSuchRepeat { table, symbol } => format!("The table “{table}” has no measured column {symbol} that this could be a repeat of. Record into a new table. Nothing was changed."),
            Self::OtherInstants { table } => format!("The rows of the table “{table}” are other instants. Record the same frames as before, or into a new table. Nothing was changed."),
        }
    }
}
