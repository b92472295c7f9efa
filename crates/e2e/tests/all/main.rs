//! Browser tests over the real program and a real Chromium.
//! One program of all, so that it is linked once.

#![allow(clippy::wildcard_enum_match_arm, reason = "a test asks for one kind, and for nothing of the others")]

mod analysis;
mod common;
mod drafting;
mod films;
mod forecast;
mod keyboard;
mod lens;
mod lesson;
mod model;
mod office;
mod rigs;
mod sheet;
mod story;
mod trials;
mod typing;
