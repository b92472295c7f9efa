//! Graphs: axes, series, fits, intervals and what is asked of them.

mod change;
mod edit;
mod plan;
mod refused;
mod shapes;
mod state;

pub use change::GraphChange;
pub use edit::{CurveText, GraphEdit, GraphShows};
pub use refused::GraphRefusal;
pub use state::GraphState;
