//! What Zeitmass keeps: SQLite through rusqlite, one module an aggregate.
//!
//! [`Store`] owns one writing connection and a pool of reading ones. Every method is one transaction; all are
//! blocking, so an async caller moves them to a thread for blocking work.

mod classes;
mod database;
mod edits;
mod error;
mod films;
mod logbooks;
mod people;
mod secrets;
mod sheets;

pub use classes::{AssignmentRow, ClassRow, Progress, StudentRow};
pub use database::Store;
pub use edits::{Actor, Asked, CarriedOut, Loaded, StoredEdit, StoredStanding};
pub use error::StoreError;
pub use films::{FilmLimits, FilmOwner, FilmRow};
pub use logbooks::LogbookInfo;
pub use people::{Student, Teacher, Who};
pub use sheets::SheetRow;

/// The application's identities.
pub type Id = i64;
