//! Edits of the graphs. An edit holds what the person typed or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::fit::{Model, Shape, Weighting};
use crate::graph::{Gap, GraphId, StretchId};
use crate::record::ColumnId;

/// What a person can do to a graph.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum GraphEdit {
    /// Adds an empty graph.
    AddGraph,
    /// Deletes a graph.
    DeleteGraph {
        /// Which graph.
        graph: GraphId,
    },
    /// Gives a graph and its axes titles; empty ones come from the columns.
    NameGraph {
        /// Which graph.
        graph: GraphId,
        /// Title of the graph.
        title: String,
        /// Title of the axis across.
        across: String,
        /// Title of the axis up.
        up: String,
    },
    /// Adds a series to a graph.
    AddSeries {
        /// Which graph.
        graph: GraphId,
        /// Column across.
        x: ColumnId,
        /// Column up.
        y: ColumnId,
    },
    /// Takes a series off a graph.
    RemoveSeries {
        /// Which graph.
        graph: GraphId,
        /// Which of the further series, from 0.
        index: usize,
    },
    /// Says how an axis runs.
    SetAxis {
        /// Which graph.
        graph: GraphId,
        /// Whether it is the axis up.
        up: bool,
        /// Whether it runs logarithmically.
        logarithmic: bool,
        /// Whether zero is always shown.
        zero: bool,
        /// Lower end as typed; automatic if empty.
        from: String,
        /// Upper end as typed; automatic if empty.
        to: String,
    },
    /// Shows a part of a graph, or all of it.
    Zoom {
        /// Which graph.
        graph: GraphId,
        /// Ends across and up in the units of the axes; `None` shows all.
        range: Option<[[f64; 2]; 2]>,
    },
    /// Shows or hides something on a graph.
    ShowOnGraph {
        /// Which graph.
        graph: GraphId,
        /// What.
        what: GraphShows,
        /// Shown or not.
        on: bool,
    },
    /// Chooses the curve of a graph or of one of its stretches.
    ChooseFit {
        /// Which graph.
        graph: GraphId,
        /// Which stretch.
        stretch: Option<StretchId>,
        /// Which curve.
        curve: CurveText,
        /// How the points count.
        weighting: Weighting,
    },
    /// Adds a range with a curve of its own.
    AddStretch {
        /// Which graph.
        graph: GraphId,
        /// Ends of x as typed or dragged.
        from: String,
        /// See `from`.
        to: String,
    },
    /// Moves the ends of a stretch.
    ChangeStretch {
        /// Which graph.
        graph: GraphId,
        /// Which stretch.
        stretch: StretchId,
        /// Ends of x as typed or dragged.
        from: String,
        /// See `from`.
        to: String,
    },
    /// Deletes a stretch.
    DeleteStretch {
        /// Which graph.
        graph: GraphId,
        /// Which stretch.
        stretch: StretchId,
    },
    /// Asks the curve for a value.
    LookAhead {
        /// Which graph.
        graph: GraphId,
        /// Whether y is given and x asked for.
        back: bool,
        /// The given value as typed; empty for no question.
        typed: String,
        /// Which stretch's curve.
        stretch: Option<StretchId>,
    },
    /// Puts the quantities of a shape of the strip on the axes.
    ChooseShape {
        /// Which graph.
        graph: GraphId,
        /// Which shape.
        shape: Shape,
    },
    /// Fills a gap of the read-out.
    FillGap {
        /// Which graph.
        graph: GraphId,
        /// Which gap.
        gap: Gap,
        /// As typed.
        typed: String,
    },
    /// Chooses what goes across and what goes up.
    ChooseAxes {
        /// Which graph.
        graph: GraphId,
        /// Column across.
        x: Option<ColumnId>,
        /// Column up.
        y: Option<ColumnId>,
    },
    /// Chooses what goes on one axis; the other stays as it is by then, whoever chose it.
    ChooseAxis {
        /// Which graph.
        graph: GraphId,
        /// The axis up, otherwise the one across.
        up: bool,
        /// Which column, or none.
        column: Option<ColumnId>,
    },
    /// Chooses the curve to be fitted, or none.
    ChooseModel {
        /// Which graph.
        graph: GraphId,
        /// Which one of those offered.
        model: Option<Model>,
    },
}

/// A curve as chosen on a page.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum CurveText {
    /// None.
    None,
    /// One of those offered.
    Offered(Model),
    /// A typed one.
    Formula {
        /// The formula as typed.
        formula: String,
        /// Start values such as `A=5 m, b=0.1`; those missing are guessed.
        start: String,
    },
}

/// What a graph may show beside its points.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum GraphShows {
    /// Bars of uncertainty.
    Bars,
    /// The residuals.
    Residuals,
    /// The band in which the curve lies.
    Band,
    /// A series for each group.
    Groups,
}
