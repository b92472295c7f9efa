//! Tests of the rules and the computation, through what other crates see of them.
//! One program of all, so that it is linked once.

#![allow(clippy::wildcard_enum_match_arm, reason = "a test asks for one kind, and for nothing of the others")]

mod chance;
mod claim;
mod common;
mod deals;
mod draft;
mod drawn;
mod edits;
mod evidence;
mod film;
mod inquiry;
mod labs;
mod logbook;
mod model;
mod questions;
mod reference;
mod rigs;
mod runs;
mod slips;
mod step_model;
mod strd;
mod tables;
mod truth;
mod ways;
mod write_up;
