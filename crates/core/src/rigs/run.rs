//! A run: what a rig recorded, frame by frame.

use super::{ChannelSpec, RigError};

/// Most frames a run may have.
const MOST_FRAMES: u64 = 2_000_000;

/// How densely and how long a run is recorded.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sampling {
    /// Time between two frames, in s.
    pub every: f64,
    /// Time of the last frame, in s.
    pub duration: f64,
}

impl Sampling {
    /// What the stage shows: 100 frames a second for 40 s, ten swings of the longest pendulum and some.
    pub const STAGE: Self = Self { every: 0.01, duration: 40.0 };

    /// Number of frames, the one at t = 0 included.
    ///
    /// # Errors
    /// [`RigError::TooManyFrames`] beyond two million.
    pub fn frames(&self) -> Result<usize, RigError> {
        let wanted = (self.duration / self.every + 1e-9).floor() as u64 + 1;
        if wanted > MOST_FRAMES {
            return Err(RigError::TooManyFrames { wanted, limit: MOST_FRAMES });
        }
        Ok(wanted as usize)
    }

    /// Time of a frame, in s.
    pub fn time(&self, frame: usize) -> f64 {
        frame as f64 * self.every
    }
}

/// One recorded quantity over all frames.
#[derive(Clone, Debug)]
pub struct Channel {
    /// Name and unit.
    pub spec: ChannelSpec,
    /// One value a frame.
    pub values: Vec<f64>,
}

/// What a rig recorded.
#[derive(Clone, Debug)]
pub struct Run {
    /// Frame times.
    pub sampling: Sampling,
    /// Channels in the order of the card; the first is time.
    pub channels: Vec<Channel>,
}

impl Run {
    /// Number of frames.
    pub fn frames(&self) -> usize {
        self.channels.first().map_or(0, |c| c.values.len())
    }

    /// The values of one channel.
    pub fn channel(&self, name: &str) -> Option<&[f64]> {
        self.channels.iter().find(|c| c.spec.name == name).map(|c| c.values.as_slice())
    }
}
