//! Everything a person can do to a logbook, by subject.
//!
//! These are the types a page sends and the store keeps as the wish. What is read from JSON is what a page may ask for: variants that
//! only the server may form are skipped there.

use serde::{Deserialize, Serialize};

use super::answer::AnswerEdit;
use super::claim::ClaimEdit;
use super::film::FilmEdit;
use super::footage::FootageEdit;
use super::forecast::ForecastEdit;
use super::graph::GraphEdit;
use super::model::ModelEdit;
use super::office::OfficeEdit;
use super::record::RecordEdit;
use super::result::ResultEdit;
use super::run::RunEdit;
use super::write_up::WriteUpEdit;
use super::writing::WritingEdit;
use crate::inquiry::Step;

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
    /// The step model.
    Model(ModelEdit),
    /// Results.
    Result(ResultEdit),
    /// Texts.
    Writing(WritingEdit),
    /// Answers to the sheet's questions.
    Answer(AnswerEdit),
    /// The claim and its evidence.
    Claim(ClaimEdit),
    /// What the write-up shows, and in which order.
    WriteUp(WriteUpEdit),
    /// The logbook as a whole.
    Office(OfficeEdit),
    /// Takes back the last edit that was not yet taken back.
    Undo,
    /// Does again what was taken back last.
    Redo,
}

impl Edit {
    /// Whether it may be done while the logbook is with the teacher.
    pub(super) fn is_of_the_office(&self) -> bool {
        match self {
            Self::Office(edit) => match edit {
                OfficeEdit::SendBack { .. }
                | OfficeEdit::Stamp { .. }
                | OfficeEdit::SayWord { .. }
                | OfficeEdit::TickOff { .. } => true,
                OfficeEdit::HandIn
                | OfficeEdit::AskStamp { .. }
                | OfficeEdit::Restore { .. }
                | OfficeEdit::GoBack { .. } => false,
            },
            Self::Run(_)
            | Self::Footage(_)
            | Self::Film(_)
            | Self::Forecast(_)
            | Self::Record(_)
            | Self::Graph(_)
            | Self::Model(_)
            | Self::Result(_)
            | Self::Writing(_)
            | Self::Answer(_)
            | Self::Claim(_)
            | Self::WriteUp(_)
            | Self::Undo
            | Self::Redo => false,
        }
    }

    /// The step of the work it belongs to, where an earlier question may hold it back.
    pub(super) fn step(&self) -> Option<Step> {
        match self {
            Self::Forecast(_) => Some(Step::Forecast),
            Self::Run(_) | Self::Film(_) | Self::Record(_) => Some(Step::Measure),
            Self::Graph(_) => Some(Step::Graph),
            Self::Model(_) => Some(Step::Model),
            Self::Result(_) => Some(Step::Constant),
            Self::Writing(_) | Self::Claim(_) | Self::WriteUp(_) => Some(Step::WriteUp),
            // Looking is free, answers know themselves what they wait for, and the rest concerns the whole logbook.
            Self::Footage(_) | Self::Answer(_) | Self::Office(_) | Self::Undo | Self::Redo => None,
        }
    }
}
