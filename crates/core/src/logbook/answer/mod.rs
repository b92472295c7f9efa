//! Answers to the sheet's questions.

mod change;
mod edit;
mod judge;
mod plan;
mod refused;
mod state;

pub use change::AnswerChange;
pub use edit::AnswerEdit;
pub use judge::Answered;
pub use refused::AnswerRefusal;
pub use state::{AnswerState, Given, Tried};
