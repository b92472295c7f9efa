//! The curve pick: a shape chosen among small sketches.

use serde::{Deserialize, Serialize};

/// A shape of a curve.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CurvePick {
    /// It stays level.
    Level,
    /// It rises in a straight line.
    RisesStraight,
    /// It rises ever more steeply.
    RisesSteeper,
    /// It rises ever less steeply.
    RisesFlatter,
    /// It falls in a straight line.
    FallsStraight,
    /// It falls ever more steeply.
    FallsSteeper,
    /// It falls ever less steeply.
    FallsFlatter,
    /// It rises and falls again.
    UpAndDown,
}

impl CurvePick {
    /// All, with their names in the store and on pages, and in words.
    pub const ALL: [(Self, &'static str, &'static str); 8] = [
        (Self::Level, "level", "level"),
        (Self::RisesStraight, "rises_straight", "rising, straight"),
        (Self::RisesSteeper, "rises_steeper", "rising, ever steeper"),
        (Self::RisesFlatter, "rises_flatter", "rising, ever less steep"),
        (Self::FallsStraight, "falls_straight", "falling, straight"),
        (Self::FallsSteeper, "falls_steeper", "falling, ever steeper"),
        (Self::FallsFlatter, "falls_flatter", "falling, ever less steep"),
        (Self::UpAndDown, "up_and_down", "up and down"),
    ];

    /// The one with this name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.iter().find(|(_, n, _)| *n == name).map(|(pick, _, _)| *pick)
    }

    /// In words.
    pub fn words(self) -> &'static str {
        Self::ALL.iter().find(|(pick, _, _)| *pick == self).map_or("", |(_, _, words)| words)
    }

    /// Whether it is neither straight nor level.
    pub fn is_bent(self) -> bool {
        match self {
            Self::Level | Self::RisesStraight | Self::FallsStraight => false,
            Self::RisesSteeper | Self::RisesFlatter | Self::FallsSteeper | Self::FallsFlatter | Self::UpAndDown => true,
        }
    }

    /// Its height at a share of the time, from 0 to 1.
    pub fn at(self, t: f64) -> f64 {
        match self {
            Self::Level => 0.5,
            Self::RisesStraight => t,
            Self::RisesSteeper => t * t,
            Self::RisesFlatter => 1.0 - (1.0 - t) * (1.0 - t),
            Self::FallsStraight => 1.0 - t,
            Self::FallsSteeper => 1.0 - t * t,
            Self::FallsFlatter => (1.0 - t) * (1.0 - t),
            Self::UpAndDown => 4.0 * t * (1.0 - t),
        }
    }
}
