//! The curve pick: a shape chosen among small sketches.

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};

/// A shape of a curve.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
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
    /// All.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The one with this name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }

    /// The name in the store and on pages.
    pub fn name(self) -> &'static str {
        self.into()
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
