//! Tests of the routes, the pages and the files.
//! One program of all, so that it is linked once.

mod common;
mod controls;
mod files;
mod films;
mod hidden;
mod outcomes;
mod permissions;
mod sheets;
mod worked_out;
