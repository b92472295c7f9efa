//! Everything a person can do to a logbook, by subject.
//!
//! These are the types a page sends and the store keeps as the wish. What is read from JSON is what a page may ask for: variants that
//! only the server may form are skipped there.

use serde::{Deserialize, Serialize};

use super::film::FilmEdit;
use super::footage::FootageEdit;
use super::forecast::ForecastEdit;
use super::graph::GraphEdit;
use super::office::OfficeEdit;
use super::record::RecordEdit;
use super::result::ResultEdit;
use super::run::RunEdit;
use super::writing::WritingEdit;

/// One edit of a logbook.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Edit {
    /// Settings, runs and plans of trials.
    Run(RunEdit),
    /// Tools on the stage.
    Footage(FootageEdit),
    /// Films.
    Film(FilmEdit),
    /// What is committed to before the first run.
    Forecast(ForecastEdit),
    /// Tables.
    Record(RecordEdit),
    /// Graphs.
    Graph(GraphEdit),
    /// Results.
    Result(ResultEdit),
    /// Texts.
    Writing(WritingEdit),
    /// The logbook as a whole.
    Office(OfficeEdit),
    /// Takes back the last edit that was not yet taken back.
    Undo,
    /// Does again what was taken back last.
    Redo,
}
