//! Everything a person can do to a logbook, as stored.
//!
//! An edit holds what the person typed or pointed at; [`super::Logbook::apply`] reads and checks it.

use serde::{Deserialize, Serialize};

use super::instrument::Instrument;
use super::state::{State, TextField, Tools};
use crate::fit::{Model, Shape, Weighting};
use crate::graph::{FIRST_GRAPH, Gap, GraphId, StretchId};
use crate::inquiry::Hypothesis;
use crate::motion::{FilmFacts, TrailId};
use crate::quantity::PrecisionText;
use crate::record::{ColumnId, ColumnKind, FIRST_TABLE, RowId, TableId};
use crate::result::{FIRST_RESULT, ResultId, Term};
use crate::rigs::HandMotion;

fn first_table() -> TableId {
    FIRST_TABLE
}

fn first_graph() -> GraphId {
    FIRST_GRAPH
}

fn first_result() -> ResultId {
    FIRST_RESULT
}

/// One edit of a logbook.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "edit", rename_all = "snake_case")]
pub enum Edit {
    /// Sets a free setting of the rig.
    SetSetting {
        /// Name of the setting.
        name: String,
        /// Value as typed.
        typed: String,
    },
    /// Runs the rig with the settings as they stand.
    Run,
    /// Goes on with the run on the stage: its settings as they stand now, in the place of that run.
    GoOn,
    /// Ends the stretch that lasts until it is stopped at a frame.
    StopHere {
        /// The frame.
        frame: u32,
    },
    /// A run pulled by hand.
    Pull {
        /// Times in s from 0 and positions in m.
        motion: HandMotion,
    },
    /// Puts an earlier run on the stage.
    ChooseRun {
        /// Its number.
        run: u32,
    },
    /// Names a run; an empty name takes the name away.
    NameRun {
        /// Its number.
        run: u32,
        /// What it is called.
        name: String,
    },
    /// Shows the path of a run faintly, or no longer.
    ShowRun {
        /// Its number.
        run: u32,
        /// Shown or not.
        on: bool,
    },
    /// Deletes a run. Readings taken from it stay.
    DeleteRun {
        /// Its number.
        run: u32,
    },
    /// Plans trials with equal intervals of one setting.
    PlanTrials {
        /// Name of the setting.
        name: String,
        /// First value as typed.
        from: String,
        /// Last value as typed.
        to: String,
        /// Number of values.
        count: u32,
        /// Column that gets the value of each trial.
        column: Option<ColumnId>,
    },
    /// Runs the next trial of the plan.
    RunTrial,
    /// Drops the plan; what was run stays.
    DropPlan,
    /// Records channels of the run on the stage as a table.
    Record {
        /// Names of the channels beside time.
        channels: Vec<String>,
        /// First frame.
        from: u32,
        /// Last frame.
        to: u32,
        /// Frames from one reading to the next.
        every: u32,
    },
    /// Sketches the curve of a channel before the first run; no points take it away.
    Sketch {
        /// Name of the channel.
        channel: String,
        /// Its points: t in s and the value in the channel's unit.
        points: Vec<[f64; 2]>,
        /// When, in seconds since 1970 (UTC).
        at: i64,
    },
    /// States the hypothesis before the first run.
    Suppose {
        /// The hypothesis.
        hypothesis: Hypothesis,
    },
    /// Predicts a value before the first run.
    Predict {
        /// Value and unit as typed; empty takes it back.
        typed: String,
        /// When, in seconds since 1970 (UTC).
        at: i64,
    },
    /// States what came out instead of the prediction.
    StateOutcome {
        /// Value and unit as typed; empty takes it back.
        typed: String,
    },
    /// Puts a film on the stage.
    ChooseFilm {
        /// What is known of it.
        facts: Box<FilmFacts>,
    },
    /// Lays a ruler on something of known length, or moves one.
    PlaceRuler {
        /// Name of the film.
        film: String,
        /// Which ruler; a new one without.
        index: Option<u32>,
        /// Its ends in px; centre and rim of a circle.
        ends: [[f64; 2]; 2],
        /// Length or radius as typed.
        typed: String,
        /// Whether it is a circle.
        circle: bool,
    },
    /// Takes a ruler away.
    DeleteRuler {
        /// Name of the film.
        film: String,
        /// Which ruler.
        index: u32,
    },
    /// Places the axes.
    PlaceAxes {
        /// Name of the film.
        film: String,
        /// Origin in px.
        origin: [f64; 2],
        /// Direction of +x as typed, such as `-20°`.
        angle: String,
        /// Whether +y points to the other side.
        flipped: bool,
    },
    /// Begins a trail, with a table of its own or in one there is.
    AddTrail {
        /// Name of the film.
        film: String,
        /// Name of the object.
        name: String,
        /// The table its marks go into; a new one without.
        table: Option<TableId>,
    },
    /// Renames a trail.
    NameTrail {
        /// Which trail.
        trail: TrailId,
        /// Name of the object.
        name: String,
    },
    /// Deletes a trail, its marks and their rows.
    DeleteTrail {
        /// Which trail.
        trail: TrailId,
    },
    /// Marks an object in a frame, or moves its mark.
    PlaceMark {
        /// Which trail.
        trail: TrailId,
        /// Number of the frame.
        frame: u32,
        /// Where, in px.
        at: [f64; 2],
    },
    /// Marks placed by the program.
    PlaceMarks {
        /// Which trail.
        trail: TrailId,
        /// Frame and place in px.
        marks: Vec<(u32, [f64; 2])>,
    },
    /// Deletes the marks from one frame to another.
    DeleteMarks {
        /// Which trail.
        trail: TrailId,
        /// First frame.
        from: u32,
        /// Last frame.
        to: u32,
    },
    /// Adds a column worked out from a trail's marks: `velocity`, `acceleration`, `distance` or `angle`.
    AddFromTrail {
        /// Which trail.
        trail: TrailId,
        /// What.
        what: String,
        /// Rows of the parabola; none for differences of the neighbours.
        rows: Option<u8>,
    },
    /// Places t = 0, the split's two moments and the tape.
    PlaceTools {
        /// All tools as they now stand.
        tools: Tools,
    },
    /// Adds an empty table.
    AddTable {
        /// Its name.
        name: String,
    },
    /// Renames a table.
    NameTable {
        /// Which table.
        table: TableId,
        /// Its new name.
        name: String,
    },
    /// Deletes a table with all its readings.
    DeleteTable {
        /// Which table.
        table: TableId,
    },
    /// Parts the rows of a table into groups by a column, or no longer.
    GroupBy {
        /// Which table.
        table: TableId,
        /// By which column.
        column: Option<ColumnId>,
    },
    /// Adds a column at the right.
    AddColumn {
        /// Which table.
        #[serde(default = "first_table")]
        table: TableId,
        /// Set, read or worked.
        kind: ColumnKind,
        /// Name, symbol, unit and formula.
        text: ColumnText,
    },
    /// Changes a column's name, symbol, unit or formula.
    ChangeColumn {
        /// Which column.
        column: ColumnId,
        /// Name, symbol, unit and formula.
        text: ColumnText,
    },
    /// Deletes a column with all its readings.
    DeleteColumn {
        /// Which column.
        column: ColumnId,
    },
    /// Moves a column to the left or right.
    MoveColumn {
        /// Which column.
        column: ColumnId,
        /// By how many places; negative to the left.
        by: i32,
    },
    /// Fills a set column with equal intervals, from its first empty cell on.
    FillColumn {
        /// Which column.
        column: ColumnId,
        /// First value as typed.
        from: String,
        /// Last value as typed.
        to: String,
        /// Number of values.
        count: u32,
    },
    /// Makes room for one more run of a measured quantity: a column beside it.
    AddRun {
        /// A column of that quantity.
        column: ColumnId,
    },
    /// Sets a run aside with a reason, or takes it back.
    SetRunAside {
        /// The run's column.
        column: ColumnId,
        /// Why; `None` takes it back.
        why: Option<String>,
    },
    /// States when there are runs enough.
    StopWhen {
        /// Which table.
        table: TableId,
        /// Stem of the runs; empty for no rule.
        stem: String,
        /// `runs` or `change`.
        rule: String,
        /// Number of runs, or percent.
        value: String,
    },
    /// Pastes a block of cells.
    Paste {
        /// Into which table; a new one without.
        table: Option<TableId>,
        /// Name of a new table.
        #[serde(default)]
        name: String,
        /// From which row on; below the last one without.
        row: Option<RowId>,
        /// From which column on, where the block has no heads.
        column: Option<ColumnId>,
        /// The block as text.
        text: String,
    },
    /// States a quantity that is the same in all trials.
    HoldQuantity {
        /// Its symbol; one that is held already is changed.
        symbol: String,
        /// Its name.
        name: String,
        /// Value and unit as typed.
        typed: String,
    },
    /// Takes a stated quantity away.
    ReleaseQuantity {
        /// Its symbol.
        symbol: String,
    },
    /// Adds an empty row at the bottom, or above another.
    AddRow {
        /// Which table.
        #[serde(default = "first_table")]
        table: TableId,
        /// Above which row.
        #[serde(default)]
        above: Option<RowId>,
    },
    /// Moves a row up or down.
    MoveRow {
        /// Which row.
        row: RowId,
        /// By how many places; negative upwards.
        by: i32,
    },
    /// Deletes a row with all its readings.
    DeleteRow {
        /// Which row.
        row: RowId,
    },
    /// Types a value into a cell; an empty text clears it.
    TypeCell {
        /// Which row; `None` for a new one at the bottom.
        row: Option<RowId>,
        /// Which column.
        column: ColumnId,
        /// Value as typed.
        typed: String,
        /// What the person saw in the cell before.
        was: String,
    },
    /// Writes an instrument's reading into a cell.
    LogReading {
        /// Which row; `None` for a new one at the bottom.
        row: Option<RowId>,
        /// Which column.
        column: ColumnId,
        /// What is read.
        instrument: Instrument,
    },
    /// Sets a row aside from fits, or takes it back.
    SetAside {
        /// Which row.
        row: RowId,
        /// Aside or not.
        aside: bool,
        /// Why.
        #[serde(default)]
        why: String,
    },
    /// Sets all points in a part of a graph aside, or takes them back.
    SetBoxAside {
        /// Which graph.
        graph: GraphId,
        /// Ends across and up in the units of the axes.
        range: [[f64; 2]; 2],
        /// Aside or not.
        aside: bool,
    },
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
        /// `bars`, `residuals`, `band` or `groups`.
        what: String,
        /// Shown or not.
        on: bool,
    },
    /// Chooses the curve of a graph or of one of its stretches.
    ChooseFit {
        /// Which graph.
        graph: GraphId,
        /// Which stretch.
        stretch: Option<StretchId>,
        /// Name of the curve; empty for none, `formula` for a typed one.
        model: String,
        /// The typed formula.
        formula: String,
        /// Start values such as `A=5 m, b=0.1`; those missing are guessed.
        start: String,
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
        #[serde(default = "first_graph")]
        graph: GraphId,
        /// Column across.
        x: Option<ColumnId>,
        /// Column up.
        y: Option<ColumnId>,
    },
    /// Chooses the curve to be fitted, or none.
    ChooseModel {
        /// Which graph.
        #[serde(default = "first_graph")]
        graph: GraphId,
        /// Which line.
        model: Option<Model>,
    },
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
    /// Says where a result comes from: `curve:1::slope`, `curve:1:1007:slope`, `column:1003`, `calibration:1:`.
    ChooseSource {
        /// Which result.
        result: ResultId,
        /// Where from.
        from: String,
    },
    /// States the reading that belongs to the unknown of a calibration.
    StateReading {
        /// Which result.
        result: ResultId,
        /// Value and unit as typed; empty for none.
        typed: String,
    },
    /// States what a term of the law is; the slope without another.
    StateLaw {
        /// Which result.
        #[serde(default = "first_result")]
        result: ResultId,
        /// Which term.
        #[serde(default)]
        term: Term,
        /// The term as typed; empty to take it back.
        typed: String,
    },
    /// States the accepted value.
    StateAccepted {
        /// Which result.
        #[serde(default = "first_result")]
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
    /// Brings back the content of a logbook from a file.
    Restore {
        /// The content.
        content: Box<State>,
    },
    /// Writes one of the write-up's texts.
    Write {
        /// Which text.
        field: TextField,
        /// The new text.
        text: String,
        /// The text the person started from.
        was: String,
    },
    /// Gives the logbook to the teacher; it can no longer be changed.
    HandIn,
    /// Gives it back to the students, with a note.
    SendBack {
        /// What is still to be done.
        note: String,
    },
    /// Takes back the last edit that was not yet taken back.
    Undo,
    /// Does again what was taken back last.
    Redo,
}

/// A column as typed into its form.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct ColumnText {
    /// Name.
    pub name: String,
    /// Symbol.
    pub symbol: String,
    /// Unit; empty for a pure number, or for a worked column's derived unit.
    pub unit: String,
    /// Formula of a worked column; empty otherwise.
    pub formula: String,
    /// How precisely its readings are known.
    #[serde(default)]
    pub precision: PrecisionText,
}
