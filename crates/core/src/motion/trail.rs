//! Marks on an object, frame by frame.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::quantity::Reading;
use crate::record::{ColumnId, TableId};

/// Identity of a trail; never used twice in a logbook.
pub type TrailId = u32;

/// One mark.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Mark {
    /// Where, in px.
    pub at: [f64; 2],
    /// Whether the program placed it.
    #[serde(default)]
    pub followed: bool,
}

/// All marks of one object.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Trail {
    /// Its identity.
    pub id: TrailId,
    /// Name of the object.
    pub name: String,
    /// The table its marks fill.
    pub table: TableId,
    /// Columns of that table for t, x and y.
    pub columns: [ColumnId; 3],
    /// Columns of that table for the conditions of the film, with their values.
    #[serde(default)]
    pub conditions: Vec<(ColumnId, Reading)>,
    /// Marks by frame.
    #[serde(deserialize_with = "crate::number_keys::map")]
    pub marks: BTreeMap<u32, Mark>,
}
