//! What Zeitmass keeps: SQLite through rusqlite, one module an aggregate.
//!
//! [`Store`] owns one writing connection and a pool of reading ones. Every method is one transaction; all are
//! blocking, so an async caller moves them to a thread for blocking work.

mod asks;
mod classes;
mod database;
mod drafts;
mod edits;
mod error;
mod films;
mod keep;
mod lesson;
mod logbooks;
mod own;
mod people;
mod registry;
mod secrets;
mod sheets;
mod tries;

pub use asks::{Ask, Forecast};
pub use classes::{ClassRow, OwnLogbook, Progress, StudentRow};
pub use database::Store;
pub use drafts::{Begun, DraftRow};
pub use edits::{Actor, Asked, CarriedOut, Loaded, Past, Share, StoredEdit, StoredStanding};
pub use error::StoreError;
pub use films::{FilmLimits, FilmOwner, FilmRow};
pub use keep::{Checked, backup, check, restore};
pub use lesson::{Beat, Decided, Group, LabRow, PoolOpen};
pub use logbooks::{LogbookInfo, PartnerCode};
pub use people::{Applicant, DAYS_SIGNED_IN, SessionRow, Student, Teacher, WRONG_PIN, Who};
pub use registry::Work;
pub use secrets::{code, token, token_hash};
pub use sheets::SheetRow;
pub use tries::Tried;

/// The application's identities.
pub type Id = i64;
