//! What the templates show.

mod bench;
mod films;
mod parts;
mod simulation;
mod teacher;

pub(crate) use bench::{Bench, WriteUp, WriteUpFile, WriteUpPage, parts};
pub(crate) use films::{FilmsPage, MomentView};
pub(crate) use parts::{Look, moment};
pub(crate) use simulation::Simulation;
pub(crate) use teacher::{
    AccountPage, ClassPage, ClassTable, ClassesPage, EntryPage, InvitedPage, LabRow, LabsPage, Mark, SheetEditPage,
    SheetGuidePage, SheetListRow, SheetPage, SheetPreview, SheetsPage, StudentMarks, StudentPage, rigs,
};
