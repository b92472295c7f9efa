//! Giving up work that nobody waits for any longer.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// A sign that work is no longer wanted. Clones share it.
#[derive(Clone, Debug, Default)]
pub struct Stop(Arc<AtomicBool>);

impl Stop {
    /// Says that the work is no longer wanted.
    pub fn set(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// Whether somebody said so.
    pub fn is_set(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}
