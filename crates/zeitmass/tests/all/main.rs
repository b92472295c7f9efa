//! Tests of the program itself, as it is started.
//! One program of all, so that it is linked once.

mod analysis;
mod commands;
mod crash;
mod keep;
