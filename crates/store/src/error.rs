//! What can go wrong in the store.

use thiserror::Error;
use zeitmass_core::lab::{DraftRefusal, SheetError};
use zeitmass_core::logbook::Refusal;
use zeitmass_words::Words;

/// Why the store did not do what was asked. In every case nothing was written.
#[derive(Debug, Error)]
pub enum StoreError {
    /// There is no such thing, or it belongs to somebody else.
    #[error("There is no such {0}.")]
    NotFound(&'static str),
    /// The name is taken.
    #[error("{0}")]
    Taken(String),
    /// Name and password or PIN do not belong together.
    #[error("{0}")]
    WrongSecret(&'static str),
    /// There were too many wrong tries: so many seconds have to pass.
    #[error("There were too many wrong tries. Try again in {}. A device that was used before is not held up by others.", in_words(*.0))]
    Wait(i64),
    /// Something typed cannot be taken.
    #[error("{0}")]
    Invalid(String),
    /// A lab sheet that does not read was to be saved.
    #[error("{} The sheet is as it was saved before.", .0.words())]
    NotSaved(SheetError),
    /// A lab sheet that does not read was to be tried.
    #[error("{} Put it right, then the sheet can be tried.", .0.words())]
    NotTried(SheetError),
    /// A change of a draft cannot be made.
    #[error("{}", .0.words())]
    NotDrafted(DraftRefusal),
    /// The edit cannot be done.
    #[error("{}", .0.words())]
    Refused(Refusal),
    /// Another edit came first.
    #[error("Another edit came first. Nothing was written; please try again.")]
    OutOfStep,
    /// The database itself failed.
    #[error("The data folder could not be read or written: {0}")]
    Database(#[from] rusqlite::Error),
    /// A migration failed.
    #[error("The data folder could not be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
    /// Stored content cannot be read.
    #[error("Stored content cannot be read: {0}")]
    Content(String),
    /// The folder could not be made.
    #[error("The data folder could not be opened: {0}")]
    Folder(#[from] std::io::Error),
}

impl From<DraftRefusal> for StoreError {
    fn from(why: DraftRefusal) -> Self {
        Self::NotDrafted(why)
    }
}

impl From<Refusal> for StoreError {
    fn from(why: Refusal) -> Self {
        Self::Refused(why)
    }
}

/// Seconds as people say them, never less than they are.
fn in_words(seconds: i64) -> String {
    let (count, unit) = match seconds {
        ..=90 => (seconds.max(1), "second"),
        91..=5400 => ((seconds + 59) / 60, "minute"),
        5401..=129_600 => ((seconds + 3599) / 3600, "hour"),
        _ => ((seconds + 86_399) / 86_400, "day"),
    };
    if count == 1 { format!("1 {unit}") } else { format!("{count} {unit}s") }
}
