//! The change of the write-up.

use serde::{Deserialize, Serialize};

use super::{Block, WriteUpState};

/// Another arrangement. It is small.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct WriteUpChange {
    /// Its blocks.
    pub blocks: Vec<Block>,
}

impl WriteUpState {
    pub(in crate::logbook) fn change(&mut self, WriteUpChange { blocks }: WriteUpChange) -> WriteUpChange {
        WriteUpChange { blocks: std::mem::replace(&mut self.blocks, blocks) }
    }
}
