//! What is known of the results.

use serde::{Deserialize, Serialize};

use crate::result::ResultSpec;

/// The results of a logbook.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct ResultState {
    /// The results.
    pub results: Vec<ResultSpec>,
}
