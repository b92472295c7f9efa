//! How motions end, and why some settings are no good for what a rig is for.

use serde::{Deserialize, Serialize};

/// What is to be told of a motion. Stored with its run, and with it in files: numbers are as coarse as they are told, so that none of them gives
/// a hidden value away.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum Ending {
    /// What an earlier program told, in its words.
    Said(String),
    PulledByHand,
    // Any rig with air.
    HeldByAir,
    // Shuttle, trolley, cabins, buffers.
    EndOfRail {
        right: bool,
    },
    NoVelocity,
    NothingPushes,
    FrictionHoldsTrolley,
    RestsBeforeBuffer,
    RollsOffStart,
    MissesBuffer {
        seconds: f64,
    },
    NeverMeet,
    NotPastMast {
        seconds: f64,
    },
    // Slope and hills.
    FrictionHoldsSledge,
    MissesFoot {
        seconds: f64,
    },
    Slips,
    NodesTogether {
        first: usize,
    },
    TwoNodesWanted,
    NoNodeBehindLoop,
    BendsSharply {
        x: f64,
    },
    CrossesItself {
        x: f64,
        y: f64,
    },
    StartBeyondTrack {
        length: f64,
    },
    StaysOnTrack,
    OffTrackAtOnce,
    ComesToRest,
    LeavesAndFalls,
    PastEndOfTrack,
    LeavesTrack,
    // Shaft and thrower.
    RisesOutOfShaft,
    FliesOutOfShaft,
    MissesFloor {
        seconds: f64,
    },
    FastForOil,
    SteadySpeed,
    OutOfYard {
        ends: f64,
    },
    OnGroundAtOnce,
    // Spring, torsion, whirl.
    SpringTears,
    SpringSlack,
    SpringWithoutLoad,
    /// Millimetres from centre to centre.
    BallsTouch {
        apart: f64,
    },
    BallsComeNear,
    CordTears {
        bears: f64,
    },
    // Water.
    LiquidBoils {
        x: f64,
        kilopascals: f64,
    },
    GaugeAtSurface,
    // Sky.
    StartsInSun,
    /// Speed that keeps a body on a circle there, in km/s.
    FallsIntoSun {
        circle: f64,
    },
    /// Likewise.
    Escapes {
        circle: f64,
    },
    MoonLost,
    // Counting and weighing.
    NoDiscs,
    EmptyTray,
}

/// What happens on the way, marked at its frame.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Happening {
    /// A body leaves its track.
    Leaves,
    /// It comes down on the track again.
    Lands,
    /// It strikes the track from below.
    Strikes,
    /// It goes past the end of the track.
    Ends,
}

/// A number as coarse as it is told.
pub(in crate::rigs) fn coarse(value: f64, step: f64) -> f64 {
    // Of a step like 0.1 the inverse is whole, so that no digits come in.
    let per = step.recip().round();
    if step < 1.0 { (value * per).round() / per } else { (value / step).round() * step }
}
