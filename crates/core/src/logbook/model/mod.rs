//! The step model: edits, changes, state, and what follows from it beside the data.

mod change;
mod differs;
mod edit;
mod laid;
mod plan;
mod refused;
mod state;
mod worked;

pub use change::ModelChange;
pub use differs::{Called, Differs};
pub use edit::ModelEdit;
pub use laid::Trace;
pub(in crate::logbook) use plan::check_restored;
pub use refused::ModelRefusal;
pub use state::{Compared, FittedPart, ModelRun, ModelRunId, ModelSpec, ModelState};
pub use worked::{Ledgered, ModelOutcome, Worked};
