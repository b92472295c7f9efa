//! The change of the forecast.

use serde::{Deserialize, Serialize};

use crate::inquiry::Forecast;

/// Another forecast. It is small, and changed before the first run only.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct ForecastChange {
    /// The forecast.
    pub forecast: Box<Forecast>,
}
