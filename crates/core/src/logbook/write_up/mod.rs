//! The write-up: a document put together from blocks. Nothing leaves the logbook: a block only says what is shown, where, and what introduces it.

mod change;
mod edit;
mod layout;
pub(super) mod plan;
mod refused;
mod state;

pub use change::WriteUpChange;
pub use edit::WriteUpEdit;
pub use layout::{Laid, Sources};
pub use refused::WriteUpRefusal;
pub use state::{Block, Shows, Taken, WriteUpState};
