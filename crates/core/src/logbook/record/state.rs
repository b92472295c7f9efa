//! What is known of the tables.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::quantity::{Decimal, Unit};
use crate::record::Record;

/// The record of a logbook: one table or several. A table is shared with what was worked out from it, and copied when it changes
/// while that is still in use.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct RecordState {
    /// The tables.
    pub tables: Vec<Arc<Record>>,
    /// Quantities held, as stated by the students.
    pub held: Vec<StatedQuantity>,
}

/// A quantity that is the same in all trials, stated beside the tables.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StatedQuantity {
    /// Its symbol.
    pub symbol: String,
    /// Its name.
    pub name: String,
    /// Its value.
    pub number: Decimal,
    /// Its unit.
    pub unit: Unit,
}
