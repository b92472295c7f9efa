//! Where a reading came from.

use std::fmt;

use serde::{Deserialize, Serialize};

use super::{Drawn, FilmShare};

/// What happened once, in time: by a rig or before a camera. Tools and readings do not care which.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Footage {
    /// A run of the rig, by its number.
    Run(u32),
    /// A film, by its number in the logbook, from 0.
    Film(u32),
}

impl fmt::Display for Footage {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Run(run) => write!(f, "run {run}"),
            Self::Film(film) => write!(f, "film {}", film + 1),
        }
    }
}

/// Where a reading came from.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
#[serde(tag = "from", rename_all = "snake_case")]
pub enum Origin {
    /// Typed by hand.
    Typed,
    /// Time between two frames.
    Split {
        /// Of what.
        of: Footage,
        /// Frame at the start.
        start: u32,
        /// Frame at the end.
        end: u32,
    },
    /// Area swept by a ray between two frames.
    Area {
        /// Number of the run.
        run: u32,
        /// Frame at the start.
        start: u32,
        /// Frame at the end.
        end: u32,
    },
    /// Distance between the two ends of the tape.
    Tape {
        /// Over what.
        of: Footage,
        /// Frame on the stage.
        frame: u32,
        /// Zero end: in metres of a run's scene, in px of a film.
        zero: [f64; 2],
        /// Reading end, likewise.
        reading: [f64; 2],
        /// What it owes to the film's scale; none over a run, and while that is not set.
        scale: Option<FilmShare>,
    },
    /// A mark in a film.
    Mark {
        /// Number of the film in the logbook.
        film: u32,
        /// The trail it belongs to.
        trail: u32,
        /// Its frame.
        frame: u32,
        /// Whether the program placed it.
        followed: bool,
        /// What it owes to the film's scale; none for a time.
        scale: Option<FilmShare>,
    },
    /// What a moment of a film or run was asked for.
    Moment {
        /// What was asked.
        what: String,
        /// The film and its trail, or the run, in words.
        of: String,
        /// Number of the run.
        #[serde(default)]
        run: Option<u32>,
        /// The frame.
        frame: u32,
        /// The formula, with the numbers put in.
        formula: String,
        /// What it owes to the film's scale.
        scale: Option<FilmShare>,
    },
    /// What a meter of the rig showed.
    Meter {
        /// The meter's name for people.
        name: String,
        /// Number of the run.
        run: u32,
        /// The frame; none for what belongs to the run as a whole.
        frame: Option<u32>,
    },
    /// A channel recorded during a run.
    Recorded {
        /// Number of the run.
        run: u32,
        /// The frame.
        frame: u32,
    },
    /// A setting of the rig as it stood.
    Setting {
        /// Name of the setting.
        name: String,
        /// Number of the run shown, if there was one with this setting.
        run: Option<u32>,
    },
    /// A value that a curve or a result gives.
    Curve {
        /// Which, and whether it follows.
        drawn: Box<Drawn>,
    },
    /// Brought from a file, where it said this of itself and nothing bears it out.
    Brought {
        /// What it was said to be.
        there: Box<Origin>,
    },
}

impl Origin {
    /// Number of independent end points that were read: a difference of two moments has two.
    pub(crate) fn ends(&self) -> u8 {
        match self {
            Self::Split { .. } | Self::Area { .. } | Self::Tape { .. } => 2,
            Self::Typed
            | Self::Setting { .. }
            | Self::Mark { .. }
            | Self::Moment { .. }
            | Self::Meter { .. }
            | Self::Recorded { .. }
            | Self::Curve { .. } => 1,
            Self::Brought { there } => there.ends(),
        }
    }

    /// Number of the run the reading was taken from.
    pub fn run(&self) -> Option<u32> {
        match self {
            Self::Split { of, .. } | Self::Tape { of, .. } => match of {
                Footage::Run(run) => Some(*run),
                Footage::Film(_) => None,
            },
            Self::Area { run, .. } | Self::Meter { run, .. } | Self::Recorded { run, .. } => Some(*run),
            Self::Moment { run, .. } | Self::Setting { run, .. } => *run,
            Self::Typed | Self::Mark { .. } | Self::Curve { .. } => None,
            Self::Brought { there } => there.run(),
        }
    }

    /// What a value that a curve gives says of itself.
    pub fn drawn(&self) -> Option<&Drawn> {
        match self {
            Self::Curve { drawn } => Some(drawn),
            Self::Typed
            | Self::Split { .. }
            | Self::Area { .. }
            | Self::Tape { .. }
            | Self::Mark { .. }
            | Self::Moment { .. }
            | Self::Meter { .. }
            | Self::Recorded { .. }
            | Self::Setting { .. }
            | Self::Brought { .. } => None,
        }
    }

    /// What the reading owes to the scale of a film.
    pub(crate) fn scale(&self) -> Option<&FilmShare> {
        match self {
            Self::Mark { scale, .. } | Self::Tape { scale, .. } | Self::Moment { scale, .. } => scale.as_ref(),
            Self::Typed
            | Self::Split { .. }
            | Self::Area { .. }
            | Self::Meter { .. }
            | Self::Recorded { .. }
            | Self::Curve { .. }
            | Self::Setting { .. } => None,
            Self::Brought { there } => there.scale(),
        }
    }
}
