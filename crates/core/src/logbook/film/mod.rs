//! Films: rulers, axes, trails and marks.

mod change;
mod edit;
pub(super) mod plan;
mod refused;
mod state;

pub use change::FilmChange;
pub use edit::{FilmEdit, FromTrail};
pub use refused::FilmRefusal;
pub use state::FilmState;
