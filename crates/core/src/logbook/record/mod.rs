//! Tables, columns, rows and cells.

mod cells;
mod change;
pub(super) mod columns;
mod edit;
mod paste;
pub(super) mod plan;
mod refused;
mod state;

pub use change::{RecordChange, TableHead};
pub use edit::{ColumnText, PAGE_ROWS, RecordEdit, RowAt, StopBy};
pub use refused::RecordRefusal;
pub use state::{RecordState, StatedQuantity};
