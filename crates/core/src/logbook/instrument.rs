//! What can be read off the bench.

use serde::{Deserialize, Serialize};

use crate::motion::TrailId;

/// What is read off the bench.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "instrument", rename_all = "snake_case")]
pub enum Instrument {
    /// Time between two frames.
    Split {
        /// Number of the run.
        run: u32,
        /// One frame.
        start: u32,
        /// The other frame.
        end: u32,
    },
    /// Distance between the ends of the tape.
    Tape {
        /// Number of the run.
        run: u32,
        /// Frame on the stage.
        frame: u32,
        /// Zero end, in metres of the scene.
        zero: [f64; 2],
        /// Reading end, in metres of the scene.
        reading: [f64; 2],
        /// Tenths of a millimetre estimated by eye, 0 to 9.
        tenths: Option<u8>,
    },
    /// Time between two frames of a film.
    FilmSplit {
        /// Name of the film.
        film: String,
        /// One frame.
        start: u32,
        /// The other frame.
        end: u32,
    },
    /// Distance between the ends of the tape on a film.
    FilmTape {
        /// Name of the film.
        film: String,
        /// Frame on the stage.
        frame: u32,
        /// Zero end in px.
        zero: [f64; 2],
        /// Reading end in px.
        reading: [f64; 2],
    },
    /// What a moment of a trail or a run is asked for.
    Moment {
        /// Whose moment, and which.
        #[serde(flatten)]
        of: MomentOf,
        /// What is asked.
        what: String,
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
    /// A setting as it stands.
    Setting {
        /// Name of the setting.
        name: String,
    },
}

/// A moment of a motion.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct MomentOf {
    /// The trail; none for a run.
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
