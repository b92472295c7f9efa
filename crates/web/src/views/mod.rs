//! What the templates show.

pub(crate) mod asks;
mod bench;
mod drafting;
mod films;
mod history;
mod marking;
mod parts;
mod picks;
pub(crate) mod pool;
pub(crate) mod rounds;
mod simulation;
mod teacher;
mod told;
mod write_up;

pub(crate) use bench::{Bench, parts};
pub(crate) use drafting::{DraftPage, DraftParts, Growth};
pub(crate) use films::{FilmsPage, MomentView};
pub(crate) use history::HistoryPage;
pub(crate) use marking::{CriteriaPart, MarkedPage, MarkingPage, MarksPage};
pub(crate) use parts::{
    AnswerWords, ClaimView, ColumnHead, Look, ResultView, TermView, Written, WrittenModel, moment, part_name,
};
pub(crate) use rounds::{RoundsPage, RoundsPart};
pub(crate) use simulation::Simulation;
pub(crate) use teacher::{
    AccountPage, ClassLab, ClassPage, ClassTable, ClassesPage, EarlierLab, EntryPage, FreeBenchPage, InvitedPage,
    LabGroup, LabRow, LabStage, LabsPage, Mark, OwnLogbookView, SessionView, SheetGuidePage, SheetListRow, SheetPage,
    SheetPreview, SheetsPage, StudentMarks, StudentPage, rigs,
};
pub(crate) use write_up::{
    Content, Figure, PictureShown, WriteUp, WriteUpFile, WriteUpPage, WrittenPicture, WrittenTable, run_picture,
};
