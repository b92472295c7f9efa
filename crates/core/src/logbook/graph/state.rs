//! What is known of the graphs.

use serde::{Deserialize, Serialize};

use crate::graph::GraphSpec;

/// The graphs of a logbook.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct GraphState {
    /// The graphs.
    pub graphs: Vec<GraphSpec>,
}
