//! Why edits are refused, by what they are about. Each sentence says what was kept.

mod answer;
mod claim;
mod film;
mod footage;
mod forecast;
mod graph;
mod model;
mod office;
mod record;
mod run;
mod shared;
mod write_up;
