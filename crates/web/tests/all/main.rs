//! Tests of the routes, the pages and the files.
//! One program of all, so that it is linked once.

#![allow(clippy::wildcard_enum_match_arm, reason = "a test asks for one kind, and for nothing of the others")]

mod common;
mod controls;
mod drafting;
mod files;
mod filmed;
mod films;
mod gate;
mod hidden;
mod lesson;
mod outcomes;
mod permissions;
mod registry;
mod sheets;
mod templates;
mod worked_out;
