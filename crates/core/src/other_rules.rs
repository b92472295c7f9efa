//! Other limits, other rigs and another way of writing numbers, as a later program may have them: for the one test that opens a store
//! with them. Nothing turns them on in a program that is used.

use std::sync::atomic::{AtomicBool, Ordering};

static ON: AtomicBool = AtomicBool::new(false);

/// From now on this process has other rules. Only in builds with debug assertions.
pub fn turn_on() {
    ON.store(cfg!(debug_assertions), Ordering::Relaxed);
}

/// Whether this process has other rules.
pub(crate) fn on() -> bool {
    cfg!(debug_assertions) && ON.load(Ordering::Relaxed)
}
