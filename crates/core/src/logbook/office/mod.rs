//! Handing in, sending back, and bringing back a logbook from its file.

mod change;
mod edit;
mod plan;
mod restore;
mod state;

pub use change::OfficeChange;
pub use edit::OfficeEdit;
pub use state::OfficeState;
