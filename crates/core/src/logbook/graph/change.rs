//! Changes of the graphs.

use serde::{Deserialize, Serialize};

use super::GraphState;
use crate::graph::{GraphId, GraphSpec};
use crate::logbook::change::{Misfit, insert, remove};

/// A change of the graphs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum GraphChange {
    /// A graph comes.
    Insert {
        /// Its place.
        place: usize,
        /// The graph.
        graph: Box<GraphSpec>,
    },
    /// A graph goes.
    Remove {
        /// Its place.
        place: usize,
    },
    /// A graph changes.
    Change {
        /// Which graph.
        graph: GraphId,
        /// How it is now.
        plan: Box<GraphSpec>,
    },
}

impl GraphState {
    pub(in crate::logbook) fn change(&mut self, change: GraphChange) -> Result<GraphChange, Misfit> {
        Ok(match change {
            GraphChange::Insert { place, graph } => {
                insert(&mut self.graphs, place, *graph)?;
                GraphChange::Remove { place }
            }
            GraphChange::Remove { place } => {
                GraphChange::Insert { place, graph: Box::new(remove(&mut self.graphs, place)?) }
            }
            GraphChange::Change { graph, mut plan } => {
                let there = self.graphs.iter_mut().find(|there| there.id == graph).ok_or(Misfit)?;
                std::mem::swap(there, &mut plan);
                GraphChange::Change { graph, plan }
            }
        })
    }
}
