//! What was worked out once and is kept: recordings of rigs, under a bound, and what was worked out from a logbook's state for as long
//! as it is in that state.

use std::collections::BTreeMap;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use quick_cache::Weighter;
use quick_cache::sync::Cache;

use super::Logbook;
use super::analysis::{Analysis, Strip};
use crate::graph::GraphId;
use crate::inquiry::{Remark, compare};
use crate::rigs::{HandMotion, Rig, RigError, Run, Sampling, Settings};

/// Recordings expected, and their values at most: 64 MB.
const EXPECTED: usize = 300;
const MOST_VALUES: u64 = 8_000_000;

/// Recordings of rigs, shared by all logbooks that are open: the same settings give the same run, whoever asks.
#[derive(Debug)]
pub struct Recall {
    runs: Cache<String, Arc<Run>, Values>,
    integrations: AtomicU64,
    analyses: AtomicU64,
}

#[derive(Clone, Debug)]
struct Values;

impl Weighter<String, Arc<Run>> for Values {
    fn weight(&self, _: &String, run: &Arc<Run>) -> u64 {
        (run.frames() * run.channels.len()).max(1) as u64
    }
}

impl Default for Recall {
    fn default() -> Self {
        Self {
            runs: Cache::with_weighter(EXPECTED, MOST_VALUES, Values),
            integrations: AtomicU64::new(0),
            analyses: AtomicU64::new(0),
        }
    }
}

impl Recall {
    /// The motion of a rig with these settings, or pulled by hand: made now, or before.
    pub(super) fn run(
        &self,
        rig: &'static dyn Rig,
        settings: &Settings,
        pull: Option<&HandMotion>,
        seed: u64,
        sampling: Sampling,
    ) -> Result<Arc<Run>, RigError> {
        let card = rig.card();
        // Numbers written in full: settings that differ at all are different.
        let key = format!("{} {} {settings:?} {pull:?} {seed} {sampling:?}", card.name, card.revision);
        self.runs.get_or_insert_with(&key, || {
            self.integrations.fetch_add(1, Ordering::Relaxed);
            // A later program may work it out better, and so to more frames.
            let every = if crate::other_rules::on() { 0.5 * sampling.every } else { sampling.every };
            rig.run_or_pull(settings, pull, seed, Sampling { every, ..sampling }).map(Arc::new)
        })
    }

    /// How many motions were worked out, and how many analyses, since the program started.
    pub fn counts(&self) -> (u64, u64) {
        (self.integrations.load(Ordering::Relaxed), self.analyses.load(Ordering::Relaxed))
    }

    pub(super) fn count_analysis(&self) {
        self.analyses.fetch_add(1, Ordering::Relaxed);
    }
}

/// Remarks by run and channel.
type Remarks = BTreeMap<(u32, &'static str), Arc<Vec<Remark>>>;

/// What was worked out from one state of a logbook.
#[derive(Debug, Default)]
pub(super) struct Memo {
    /// The lock is held while it is worked out, so that two who ask at once wait for the same.
    pub analysis: Mutex<Option<Arc<Analysis>>>,
    pub strips: Mutex<BTreeMap<GraphId, Option<Arc<Strip>>>>,
    /// Remarks on the sketches beside a run.
    pub remarks: Mutex<Remarks>,
}

impl Memo {
    /// Forgets all: the state is another.
    pub fn clear(&mut self) {
        *self = Self::default();
    }
}

impl Logbook {
    /// What is to be said about a sketch beside what was measured in a run, worked out once for each state.
    pub fn remarks(
        &self,
        run: u32,
        channel: &'static str,
        sketch: &[[f64; 2]],
        measured: &[[f64; 2]],
        height: f64,
    ) -> Arc<Vec<Remark>> {
        let mut known = lock(&self.memo.remarks);
        let compared = known.entry((run, channel)).or_insert_with(|| Arc::new(compare(sketch, measured, height)));
        Arc::clone(compared)
    }
}

/// A copy is in the same state and knows the same.
impl Clone for Memo {
    fn clone(&self) -> Self {
        Self {
            analysis: Mutex::new(lock(&self.analysis).clone()),
            strips: Mutex::new(lock(&self.strips).clone()),
            remarks: Mutex::new(lock(&self.remarks).clone()),
        }
    }
}

/// Somebody who panicked while working it out has put nothing in.
pub(super) fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
