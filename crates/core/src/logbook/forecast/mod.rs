//! What is committed to before the first run. Its state is [`crate::inquiry::Forecast`].

mod change;
mod edit;
pub(super) mod plan;
mod refused;

pub use change::ForecastChange;
pub use edit::ForecastEdit;
pub use refused::{ForecastPart, ForecastRefusal};
