//! Why a block of cells cannot be read, or a table not be simulated.

use zeitmass_core::record::{BlockError, LARGEST_BLOCK, TooManyRows};

use crate::Words;

impl Words for BlockError {
    fn words(&self) -> String {
        match self {
            Self::TooLarge => format!("The block has more than {} MB.", LARGEST_BLOCK / 1_000_000),
            Self::Line { line, why } => format!("Line {line} cannot be read: {why}."),
            Self::Empty => "There is nothing in the block.".to_owned(),
            Self::Commas { line } => format!(
                "The commas in line {line} may separate the cells or be decimal commas. Write decimal points, or separate the cells with semicolons."
            ),
            Self::Head { head, error } => format!("The header “{head}”: {}", error.words()),
        }
    }
}

impl Words for TooManyRows {
    fn words(&self) -> String {
        format!("The table has {} rows: too many to draw each of them often enough.", self.rows)
    }
}
