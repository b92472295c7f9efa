//! Tables, columns, rows and cells.

mod cells;
mod change;
pub(super) mod columns;
mod edit;
mod paste;
pub(super) mod plan;
mod state;

pub use change::{RecordChange, TableHead};
pub use edit::{ColumnText, PAGE_ROWS, RecordEdit, RowAt, StopBy};
pub use state::{RecordState, StatedQuantity};
