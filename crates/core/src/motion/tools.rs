//! The tools that are laid over footage, whether a rig or a camera made it.

use serde::{Deserialize, Serialize};

/// Where the tools stand on the stage.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Tools {
    /// Frame that counts as t = 0.
    pub zero: u32,
    /// First moment of the split.
    pub start: Option<u32>,
    /// Second moment of the split.
    pub end: Option<u32>,
    /// Zero end and reading end of the tape (x, y): in metres of the scene over a run, in px over a film.
    pub tape: Option<[[f64; 2]; 2]>,
}

/// The tape is never laid farther out than this, in m or px.
pub const FARTHEST: f64 = 1e4;

impl Tools {
    /// Whether the tools stand within so many frames and the tape is not laid out of reach.
    pub fn fit(&self, frames: usize) -> bool {
        let moments = [Some(self.zero), self.start, self.end];
        let ends = self.tape.iter().flatten().flatten();
        moments.into_iter().flatten().all(|f| (f as usize) < frames) && ends.into_iter().all(|v| v.abs() < FARTHEST)
    }
}
