//! Texts of the write-up and answers in words.

mod change;
mod edit;
mod plan;
mod state;

pub use change::WritingChange;
pub use edit::WritingEdit;
pub use state::{TextField, WritingState};
