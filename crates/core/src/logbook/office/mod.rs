//! Handing in, sending back, and bringing back a logbook from its file.

mod change;
mod edit;
mod evidence;
mod plan;
mod refused;
mod restore;
mod state;

pub use change::OfficeChange;
pub use edit::OfficeEdit;
pub use evidence::BroughtParts;
pub use refused::{Flaw, Kind, OfficeRefusal};
pub use state::{OfficeState, Stamped, TeacherWord};
