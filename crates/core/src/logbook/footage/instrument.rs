//! What can be read off the bench.

use serde::{Deserialize, Serialize};

use crate::motion::{Ask, TrailId};
use crate::quantity::{DrawnFrom, Footage};

/// What is read off the bench.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Instrument {
    /// Time between two frames.
    Split {
        /// Of what.
        of: Footage,
        /// One frame.
        start: u32,
        /// The other frame.
        end: u32,
    },
    /// Distance between the ends of the tape.
    Tape {
        /// Over what.
        of: Footage,
        /// Frame on the stage.
        frame: u32,
        /// Zero end: in metres of a run's scene, in px of a film.
        zero: [f64; 2],
        /// Reading end, likewise.
        reading: [f64; 2],
        /// Tenths of a division estimated by eye, 0 to 9. Films have no divisions.
        #[serde(default)]
        tenths: Option<u8>,
    },
    /// The area that the ray from the scene's focus to the body sweeps between two frames.
    Area {
        /// Number of the run.
        run: u32,
        /// One frame.
        start: u32,
        /// The other frame.
        end: u32,
    },
    /// What a moment of a trail or a run is asked for.
    Moment {
        /// Whose moment, and which.
        of: MomentOf,
        /// What is asked.
        what: Ask,
        /// Mass as typed; empty for none.
        mass: String,
    },
    /// What a meter of the rig shows.
    Meter {
        /// Number of the run.
        run: u32,
        /// Name of the meter.
        name: String,
        /// Frame on the stage.
        frame: u32,
    },
    /// A value that a curve or a result gives.
    Curve {
        /// Which.
        source: DrawnFrom,
    },
    /// A setting as it stands.
    Setting {
        /// Name of the setting.
        name: String,
    },
}

/// A moment of a motion.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MomentOf {
    /// The trail; none for a run.
    #[serde(default)]
    pub trail: Option<TrailId>,
    /// Number of the run; the one on the stage without.
    #[serde(default)]
    pub run: Option<u32>,
    /// Whether the second body of the run is meant.
    #[serde(default)]
    pub second: bool,
    /// Number of the frame.
    pub frame: u32,
}
