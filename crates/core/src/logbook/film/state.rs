//! What is known of the films.

use serde::{Deserialize, Serialize};

use crate::motion::FilmWork;

/// The films of a logbook.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct FilmState {
    /// Films that were on the stage, with what is laid over them.
    pub films: Vec<FilmWork>,
    /// Number of the film on the stage.
    pub shown: Option<u32>,
}
