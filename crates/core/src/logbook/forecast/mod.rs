//! What is committed to before the first run. Its state is [`crate::inquiry::Forecast`].

mod change;
mod edit;
pub(super) mod plan;

pub use change::ForecastChange;
pub use edit::ForecastEdit;
