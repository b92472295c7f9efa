//! Settings and runs of the rig, and plans of trials.

mod change;
mod edit;
mod plan;
mod recording;
mod refused;
mod state;

pub use change::RunChange;
pub use edit::RunEdit;
pub(super) use plan::{MOST_RUNS, fresh_tools};
pub use refused::RunRefusal;
pub use state::{Made, RunEntry, RunState, TrialPlan};
