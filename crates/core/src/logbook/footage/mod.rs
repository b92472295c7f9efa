//! Tools on the stage and readings taken with them, from a run or a film alike.

mod edit;
mod instrument;
mod moment;
mod plan;
mod refused;

pub use edit::FootageEdit;
pub use instrument::{Instrument, MomentOf};
pub use moment::{MassError, Seen};
pub use refused::FootageRefusal;
