//! Motion made by hand: the body is pulled along its rail by pointer, finger or keys and recorded as it was, shaky.

use serde::{Deserialize, Serialize};

use crate::rigs::{Ending, Rig, RigError, Run, RunOutcome, Sampling, Settings};

/// Longest pull that is recorded, in s.
pub const LONGEST_PULL: f64 = 60.0;
/// Most places of a pull.
const MOST_PLACES: usize = 8000;
/// Half the width of the difference that gives a velocity, in frames.
const HALF: usize = 4;

/// Times in s from the start and positions in m, as the hand made them.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct HandMotion(pub Vec<(f64, f64)>);

/// Why a pull cannot be taken.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PullError {
    /// It has no length, or its places are not in the order of time.
    Short,
    /// It lasts too long, or leaves the rail.
    Long,
}

impl HandMotion {
    /// Checks what came from outside.
    ///
    /// # Errors
    /// [`PullError`] with what a pull is.
    pub fn check(&self) -> Result<(), PullError> {
        let rising = self.0.windows(2).all(|w| w[1].0 > w[0].0);
        let long = self.0.last().map_or(0.0, |p| p.0);
        let [left, right] = super::RAIL;
        if self.0.len() < 2 || self.0.len() > MOST_PLACES || self.0[0].0 != 0.0 || !rising {
            return Err(PullError::Short);
        }
        if !(0.2..=LONGEST_PULL + 0.1).contains(&long) || !self.0.iter().all(|p| (left..=right).contains(&p.1)) {
            return Err(PullError::Long);
        }
        Ok(())
    }

    /// The run that belongs to the pull: positions between two places lie on a straight line, velocities and accelerations are
    /// differences over 0.08 s.
    pub fn run(&self) -> Run {
        let long = self.0.last().map_or(0.0, |p| p.0).min(LONGEST_PULL);
        let card = super::Shuttle.card();
        let sampling = Sampling { duration: long, ..card.clock.sampling() };
        let frames = sampling.frames().unwrap_or(1);
        let place = |t: f64| {
            let k = self.0.partition_point(|p| p.0 <= t).clamp(1, self.0.len() - 1);
            let ((t0, x0), (t1, x1)) = (self.0[k - 1], self.0[k]);
            x0 + (x1 - x0) * ((t - t0) / (t1 - t0)).clamp(0.0, 1.0)
        };
        let x: Vec<f64> = (0..frames).map(|i| place(sampling.time(i))).collect();
        let slope = |of: &[f64], i: usize| {
            let (a, b) = (i.saturating_sub(HALF), (i + HALF).min(frames - 1));
            if a == b { 0.0 } else { (of[b] - of[a]) / (sampling.every * (b - a) as f64) }
        };
        let v: Vec<f64> = (0..frames).map(|i| slope(&x, i)).collect();
        let recorders = super::recorders();
        let mut run = Run::record(&recorders, sampling, frames, |i| [x[i], v[i], slope(&v, i)]);
        run.outcome = RunOutcome::told(Ending::PulledByHand);
        run
    }
}

impl dyn Rig {
    /// Makes a run, by hand where there is a pull.
    ///
    /// # Errors
    /// [`RigError`] when the motion cannot be computed.
    pub fn run_or_pull(
        &self,
        settings: &Settings,
        pull: Option<&HandMotion>,
        seed: u64,
        sampling: Sampling,
    ) -> Result<Run, RigError> {
        match pull {
            Some(pull) => Ok(pull.run()),
            None => self.run(settings, seed, sampling),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_pull_is_recorded_as_it_was() {
        let pull = HandMotion((0..100).map(|i| (f64::from(i) * 0.02, 0.3 * f64::from(i) * 0.02)).collect());
        assert_eq!(pull.check(), Ok(()));
        let run = pull.run();
        assert_eq!(run.frames(), 199);
        assert!((run.channel("x").unwrap()[100] - 0.3).abs() < 1e-12);
        assert!((run.channel("v").unwrap()[100] - 0.3).abs() < 1e-9);
        for bad in [
            vec![],
            vec![(0.0, 0.0), (1.0, 11.0)],
            vec![(0.0, 0.0), (1.0, 0.0), (0.5, 0.0)],
            vec![(0.0, 0.0), (90.0, 1.0)],
        ] {
            assert!(HandMotion(bad).check().is_err());
        }
    }
}
