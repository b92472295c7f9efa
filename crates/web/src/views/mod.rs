//! What the templates show.

mod bench;
mod parts;
mod teacher;

pub(crate) use bench::{Bench, Notice, WriteUp, parts};
pub(crate) use teacher::{
    ClassPage, ClassesPage, EntryPage, LabRow, LabsPage, Mark, SheetEditPage, SheetListRow, SheetPage, SheetPreview,
    SheetsPage, StudentMarks,
};
