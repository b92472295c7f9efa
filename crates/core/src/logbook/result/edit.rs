//! Edits of the results. An edit holds what the person typed or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::graph::{GraphId, StretchId};
use crate::logbook::model::ModelRunId;
use crate::record::{ColumnId, RowId};
use crate::result::{ResultId, Term};

/// What a person can do to a result.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum ResultEdit {
    /// Adds a result.
    AddResult {
        /// What it is called.
        name: String,
    },
    /// Renames a result.
    NameResult {
        /// Which result.
        result: ResultId,
        /// What it is called.
        name: String,
    },
    /// Deletes a result.
    DeleteResult {
        /// Which result.
        result: ResultId,
    },
    /// Says where a result comes from.
    ChooseSource {
        /// Which result.
        result: ResultId,
        /// Where from.
        from: ResultSource,
    },
    /// States the reading that belongs to the unknown of a calibration.
    StateReading {
        /// Which result.
        result: ResultId,
        /// Value and unit as typed; empty for none.
        typed: String,
    },
    /// Says in which row the unknown of a calibration was measured.
    ReadRow {
        /// Which result.
        result: ResultId,
        /// Which row; none to take it back.
        row: Option<RowId>,
    },
    /// States what a term of the law is; the slope without another.
    StateLaw {
        /// Which result.
        result: ResultId,
        /// Which term.
        term: Term,
        /// The term as typed; empty to take it back.
        typed: String,
    },
    /// States the accepted value.
    StateAccepted {
        /// Which result.
        result: ResultId,
        /// Value and unit as typed; empty for none.
        typed: String,
    },
    /// States where the accepted value is from.
    StateSource {
        /// Which result.
        result: ResultId,
        /// As typed.
        typed: String,
    },
}

/// Where a result comes from, as chosen on a page.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum ResultSource {
    /// A parameter of a curve, through a law.
    Curve {
        /// Which graph.
        graph: GraphId,
        /// Which stretch of it; a whole series without.
        stretch: Option<StretchId>,
        /// Which of several series, by its label; the first without.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        series: Option<String>,
        /// Symbol of the parameter.
        parameter: String,
    },
    /// A column whose values should all be the same.
    Column {
        /// Which column.
        column: ColumnId,
    },
    /// An unknown read from a calibration line by its y.
    Calibration {
        /// Which graph.
        graph: GraphId,
        /// Which stretch of it.
        stretch: Option<StretchId>,
    },
    /// The parameter of a step model that was fitted.
    Model {
        /// Which model that was run.
        run: ModelRunId,
    },
}
