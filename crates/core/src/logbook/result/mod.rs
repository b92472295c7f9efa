//! Results: where they come from, the law, and the accepted value.

mod change;
mod edit;
mod plan;
mod state;

pub use change::ResultChange;
pub use edit::{ResultEdit, ResultSource};
pub use state::ResultState;
