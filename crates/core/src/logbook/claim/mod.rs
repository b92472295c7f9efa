//! The claim: what the data show, and the rows that show it.

mod change;
mod edit;
mod judge;
pub(in crate::logbook) mod plan;
mod refused;
mod state;

pub use change::ClaimChange;
pub use edit::ClaimEdit;
pub use judge::{AskedRatios, Finding, Judged, JudgedRow};
pub use refused::ClaimRefusal;
pub use state::ClaimState;
