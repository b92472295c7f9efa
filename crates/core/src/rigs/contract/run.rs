//! A run: what a rig recorded, frame by frame.

use serde::{Deserialize, Serialize};

use super::ending::{Ending, Happening};

use super::{ChannelSpec, RigError};

/// Most frames a run may have.
const MOST_FRAMES: u64 = 2_000_000;

/// How densely and how long a run is recorded.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sampling {
    /// Time between two frames, in s.
    pub every: f64,
    /// Time of the last frame at the latest, in s. A motion that ends before has fewer frames.
    pub duration: f64,
}

impl Sampling {
    /// Number of frames of a run that lasts the whole time, the one at t = 0 included.
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

    /// The first frame that is not before `t`.
    pub fn frame_from(&self, t: f64) -> usize {
        (t / self.every - 1e-9).ceil().max(0.0) as usize
    }
}

/// One recorded quantity over all frames.
#[derive(Clone, Debug)]
pub struct Channel {
    /// Name and unit.
    pub spec: ChannelSpec,
    /// One value a frame, in coherent SI units.
    pub values: Vec<f64>,
}

/// How a motion ended.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(from = "Stored")]
pub struct RunOutcome {
    /// What is to be told of it; none when there is nothing.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub told: Option<Ending>,
    /// Whether the settings were no good for what the rig is for; what is told says what to change.
    pub failed: bool,
}

/// An outcome as it was stored: at first in words.
#[derive(Deserialize)]
struct Stored {
    #[serde(default)]
    said: String,
    #[serde(default)]
    told: Option<Ending>,
    failed: bool,
}

impl From<Stored> for RunOutcome {
    fn from(stored: Stored) -> Self {
        let Stored { said, told, failed } = stored;
        Self { told: told.or_else(|| (!said.is_empty()).then_some(Ending::Said(said))), failed }
    }
}

impl RunOutcome {
    /// Something worth telling.
    pub(in crate::rigs) fn told(ending: Ending) -> Self {
        Self { told: Some(ending), failed: false }
    }

    /// A setting that does not work.
    pub(in crate::rigs) fn failed(ending: Ending) -> Self {
        Self { told: Some(ending), failed: true }
    }

    /// Whether there is anything to tell.
    pub fn is_told(&self) -> bool {
        self.told.is_some()
    }
}

/// What a rig recorded.
#[derive(Clone, Debug)]
pub struct Run {
    /// Frame times.
    pub sampling: Sampling,
    /// Channels in the order of the card; the first is time.
    pub channels: Vec<Channel>,
    /// Exact values behind the meters, by name, in SI units. Not for people's eyes.
    pub found: Vec<(&'static str, f64)>,
    /// How the motion ended.
    pub outcome: RunOutcome,
    /// What happened on the way, by the frame in which it shows.
    pub marks: Vec<(usize, Happening)>,
}

impl Run {
    /// The same run as far as its first frame.
    #[must_use]
    pub fn first_frame(&self) -> Self {
        let first = |c: &Channel| Channel { spec: c.spec.clone(), values: c.values.iter().take(1).copied().collect() };
        let channels = self.channels.iter().map(first).collect();
        Self { sampling: self.sampling, channels, found: Vec::new(), outcome: self.outcome.clone(), marks: Vec::new() }
    }

    /// Number of frames.
    pub fn frames(&self) -> usize {
        self.channels.first().map_or(0, |c| c.values.len())
    }

    /// The values of one channel.
    pub fn channel(&self, name: &str) -> Option<&[f64]> {
        self.channels.iter().find(|c| c.spec.name == name).map(|c| c.values.as_slice())
    }

    /// The exact value behind a meter.
    pub fn found(&self, name: &str) -> Option<f64> {
        self.found.iter().find(|(n, _)| *n == name).map(|(_, v)| *v)
    }

    /// Smallest and largest value of a channel.
    pub fn extent(&self, name: &str) -> Option<(f64, f64)> {
        let values = self.channel(name)?;
        let fold = |f: fn(f64, f64) -> f64| values.iter().copied().reduce(f);
        Some((fold(f64::min)?, fold(f64::max)?))
    }
}
