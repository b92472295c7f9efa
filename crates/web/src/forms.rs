//! From a form's fields to an edit: the one place where raw input is read.

use std::collections::HashMap;

use zeitmass_core::fit::{Model, Shape, Weighting};
use zeitmass_core::graph::Gap;
use zeitmass_core::inquiry::{CurveShape, Direction, Hypothesis};
use zeitmass_core::logbook::{ColumnText, Edit, Instrument, MomentOf, TextField, Tools};
use zeitmass_core::quantity::PrecisionText;
use zeitmass_core::record::ColumnKind;
use zeitmass_core::result::Term;
use zeitmass_core::rigs::HandMotion;

use crate::error::WebError;
use crate::views::Look;

/// The fields of a form, as sent.
pub(crate) struct Fields(HashMap<String, String>);

impl Fields {
    pub(crate) fn new(fields: HashMap<String, String>) -> Self {
        Self(fields)
    }

    /// A field that may be missing or empty.
    pub(crate) fn text(&self, name: &str) -> &str {
        self.0.get(name).map_or("", String::as_str)
    }

    fn number<T: std::str::FromStr>(&self, name: &str) -> Result<T, WebError> {
        let missing = || WebError::Unreadable(format!("the field {name} is missing or no number"));
        self.text(name).parse().map_err(|_| missing())
    }

    fn optional<T: std::str::FromStr>(&self, name: &str) -> Result<Option<T>, WebError> {
        if self.text(name).is_empty() { Ok(None) } else { self.number(name).map(Some) }
    }

    fn named<T>(&self, name: &str, find: impl Fn(&str) -> Option<T>) -> Result<T, WebError> {
        find(self.text(name)).ok_or_else(|| WebError::Unreadable(format!("the field {name} is missing or unknown")))
    }

    /// Number of the last edit the page knows.
    pub(crate) fn since(&self) -> u64 {
        self.text("since").parse().unwrap_or(0)
    }

    /// What the person looks at; never the reason to refuse anything.
    pub(crate) fn look(&self) -> Look {
        let number = |name| self.text(name).parse().unwrap_or(0);
        Look {
            table: number("view_table"),
            from: self.text("view_from").parse().unwrap_or(0),
            graph: number("view_graph"),
        }
    }

    /// The token by which an edit sent twice is noticed.
    pub(crate) fn token(&self) -> Option<String> {
        Some(self.text("token")).filter(|t| (8..=64).contains(&t.len())).map(str::to_owned)
    }

    /// A row, or `None` for a new one.
    fn row(&self) -> Result<Option<u32>, WebError> {
        if self.text("row") == "new" { Ok(None) } else { self.number("row").map(Some) }
    }

    fn points(&self) -> Result<Option<[[f64; 2]; 2]>, WebError> {
        let text = self.text("tape");
        if text.is_empty() {
            return Ok(None);
        }
        let unreadable = || WebError::Unreadable("the tape's ends are not four numbers".to_owned());
        let numbers: Vec<f64> = text.split(',').map(str::parse).collect::<Result<_, _>>().map_err(|_| unreadable())?;
        match numbers[..] {
            [a, b, c, d] => Ok(Some([[a, b], [c, d]])),
            _ => Err(unreadable()),
        }
    }

    fn column_text(&self) -> ColumnText {
        let field = |name| self.text(name).to_owned();
        ColumnText {
            name: field("name"),
            symbol: field("symbol"),
            unit: field("unit"),
            formula: field("formula"),
            precision: PrecisionText {
                by: field("precision_by"),
                value: field("precision_value"),
                parts: field("precision_parts"),
            },
        }
    }

    /// Numbers parted by commas.
    fn list<T: std::str::FromStr>(&self, name: &str) -> Result<Vec<T>, WebError> {
        let unreadable = || WebError::Unreadable(format!("the field {name} is no list of numbers"));
        let parts = self.text(name).split(',').filter(|p| !p.is_empty());
        parts.map(|p| p.parse().map_err(|_| unreadable())).collect()
    }

    /// A part of a graph: ends across and up.
    fn range(&self) -> Result<Option<[[f64; 2]; 2]>, WebError> {
        match self.list::<f64>("range")?[..] {
            [] => Ok(None),
            [a, b, c, d] => Ok(Some([[a, b], [c, d]])),
            _ => Err(WebError::Unreadable("a part of a graph has four ends".to_owned())),
        }
    }

    fn is(&self, name: &str) -> bool {
        matches!(self.text(name), "true" | "on")
    }

    fn instrument(&self) -> Result<Instrument, WebError> {
        let field = |name: &str| self.text(name).to_owned();
        Ok(match self.text("instrument") {
            "split" => {
                Instrument::Split { run: self.number("run")?, start: self.number("start")?, end: self.number("end")? }
            }
            "tape" => {
                let [zero, reading] =
                    self.points()?.ok_or_else(|| WebError::Unreadable("the tape is not laid".to_owned()))?;
                let (run, frame) = (self.number("run")?, self.number("frame")?);
                Instrument::Tape { run, frame, zero, reading, tenths: self.optional("tenths")? }
            }
            "film_split" => Instrument::FilmSplit {
                film: self.text("film").to_owned(),
                start: self.number("start")?,
                end: self.number("end")?,
            },
            "film_tape" => {
                let [zero, reading] =
                    self.points()?.ok_or_else(|| WebError::Unreadable("the tape is not laid".to_owned()))?;
                Instrument::FilmTape { film: self.text("film").to_owned(), frame: self.number("frame")?, zero, reading }
            }
            "meter" => {
                Instrument::Meter { run: self.number("run")?, name: field("name"), frame: self.number("frame")? }
            }
            "moment" => Instrument::Moment {
                of: MomentOf {
                    trail: self.optional("trail")?,
                    run: self.optional("run")?,
                    second: self.text("second") == "true",
                    frame: self.number("frame")?,
                },
                what: self.text("what").to_owned(),
                mass: self.text("mass").to_owned(),
            },
            "setting" => Instrument::Setting { name: self.text("name").to_owned() },
            other => return Err(WebError::Unreadable(format!("there is no instrument “{other}”"))),
        })
    }

    /// The edit a student's form asks for. Sending back is the teacher's and has a form of its own.
    pub(crate) fn edit(&self) -> Result<Edit, WebError> {
        let field = |name| self.text(name).to_owned();
        Ok(match self.text("edit") {
            "set_setting" => Edit::SetSetting { name: field("name"), typed: field("typed") },
            "place_tools" => Edit::PlaceTools {
                tools: Tools {
                    zero: self.number("zero")?,
                    start: self.optional("start")?,
                    end: self.optional("end")?,
                    tape: self.points()?,
                },
            },
            "place_ruler" => Edit::PlaceRuler {
                film: field("film"),
                index: self.optional("index")?,
                ends: self.points()?.ok_or_else(|| WebError::Unreadable("the ruler has no ends".to_owned()))?,
                typed: field("typed"),
                circle: self.is("circle"),
            },
            "delete_ruler" => Edit::DeleteRuler { film: field("film"), index: self.number("index")? },
            "place_axes" => Edit::PlaceAxes {
                film: field("film"),
                origin: [self.number("x")?, self.number("y")?],
                angle: field("typed"),
                flipped: self.is("flipped"),
            },
            "add_trail" => Edit::AddTrail { film: field("film"), name: field("name"), table: self.optional("table")? },
            "name_trail" => Edit::NameTrail { trail: self.number("trail")?, name: field("name") },
            "delete_trail" => Edit::DeleteTrail { trail: self.number("trail")? },
            "place_mark" => Edit::PlaceMark {
                trail: self.number("trail")?,
                frame: self.number("frame")?,
                at: [self.number("x")?, self.number("y")?],
            },
            "delete_marks" => {
                Edit::DeleteMarks { trail: self.number("trail")?, from: self.number("from")?, to: self.number("to")? }
            }
            "add_from_trail" => {
                Edit::AddFromTrail { trail: self.number("trail")?, what: field("what"), rows: self.optional("rows")? }
            }
            "add_column" => Edit::AddColumn {
                table: self.number("table")?,
                kind: self.named("kind", ColumnKind::named)?,
                text: self.column_text(),
            },
            "change_column" => Edit::ChangeColumn { column: self.number("column")?, text: self.column_text() },
            "delete_column" => Edit::DeleteColumn { column: self.number("column")? },
            "add_row" => Edit::AddRow { table: self.number("table")?, above: self.optional("row")? },
            "move_row" => Edit::MoveRow { row: self.number("row")?, by: self.number("by")? },
            "set_box_aside" => Edit::SetBoxAside {
                graph: self.number("graph")?,
                range: self.range()?.ok_or_else(|| WebError::Unreadable("there is no box".to_owned()))?,
                aside: self.is("aside"),
            },
            "delete_row" => Edit::DeleteRow { row: self.number("row")? },
            "type_cell" => Edit::TypeCell {
                row: self.row()?,
                column: self.number("column")?,
                typed: field("typed"),
                was: field("was"),
            },
            "log_reading" => {
                Edit::LogReading { row: self.row()?, column: self.number("column")?, instrument: self.instrument()? }
            }
            "set_aside" => Edit::SetAside { row: self.number("row")?, aside: self.is("aside"), why: field("why") },
            "write" => {
                Edit::Write { field: self.named("field", TextField::named)?, text: field("typed"), was: field("was") }
            }
            "hand_in" => Edit::HandIn,
            "undo" => Edit::Undo,
            "redo" => Edit::Redo,
            _ => match (self.table_edit()?, self.run_edit()?) {
                (Some(edit), _) | (None, Some(edit)) => edit,
                (None, None) => self.graph_edit()?,
            },
        })
    }

    /// Edits of tables and columns as wholes.
    fn table_edit(&self) -> Result<Option<Edit>, WebError> {
        let field = |name| self.text(name).to_owned();
        Ok(Some(match self.text("edit") {
            "add_table" => Edit::AddTable { name: field("name") },
            "name_table" => Edit::NameTable { table: self.number("table")?, name: field("name") },
            "delete_table" => Edit::DeleteTable { table: self.number("table")? },
            "group_by" => Edit::GroupBy { table: self.number("table")?, column: self.optional("column")? },
            "move_column" => Edit::MoveColumn { column: self.number("column")?, by: self.number("by")? },
            "fill_column" => Edit::FillColumn {
                column: self.number("column")?,
                from: field("from"),
                to: field("to"),
                count: self.number("count")?,
            },
            "add_run" => Edit::AddRun { column: self.number("column")? },
            "set_run_aside" => Edit::SetRunAside {
                column: self.number("column")?,
                why: if self.is("aside") { Some(field("why")) } else { None },
            },
            "stop_when" => Edit::StopWhen {
                table: self.number("table")?,
                stem: field("stem"),
                rule: field("rule"),
                value: field("value"),
            },
            "paste" => Edit::Paste {
                table: self.optional("table")?,
                name: field("name"),
                row: if self.text("row") == "new" { None } else { self.optional("row")? },
                column: self.optional("column")?,
                text: field("text"),
            },
            "hold_quantity" => {
                Edit::HoldQuantity { symbol: field("symbol"), name: field("name"), typed: field("typed") }
            }
            "release_quantity" => Edit::ReleaseQuantity { symbol: field("symbol") },
            _ => return Ok(None),
        }))
    }

    /// Edits of runs and of the forecast.
    fn run_edit(&self) -> Result<Option<Edit>, WebError> {
        let field = |name| self.text(name).to_owned();
        let run = || self.number("run");
        let now = || jiff::Timestamp::now().as_second();
        Ok(Some(match self.text("edit") {
            "run" => Edit::Run,
            "go_on" => Edit::GoOn,
            "stop_here" => Edit::StopHere { frame: self.number("frame")? },
            "pull" => Edit::Pull { motion: HandMotion(self.pairs()?.into_iter().map(|[t, x]| (t, x)).collect()) },
            "choose_run" => Edit::ChooseRun { run: run()? },
            "name_run" => Edit::NameRun { run: run()?, name: field("typed") },
            "show_run" => Edit::ShowRun { run: run()?, on: self.is("typed") },
            "delete_run" => Edit::DeleteRun { run: run()? },
            "plan_trials" => Edit::PlanTrials {
                name: field("name"),
                from: field("from"),
                to: field("to"),
                count: self.number("count")?,
                column: self.optional("column")?,
            },
            "run_trial" => Edit::RunTrial,
            "drop_plan" => Edit::DropPlan,
            "record" => {
                let mut channels: Vec<String> =
                    self.0.keys().filter_map(|k| k.strip_prefix("channel:")).map(str::to_owned).collect();
                channels.sort_unstable();
                Edit::Record {
                    channels,
                    from: self.number("from")?,
                    to: self.number("to")?,
                    every: self.number("every")?,
                }
            }
            "sketch" => Edit::Sketch { channel: field("channel"), points: self.pairs()?, at: now() },
            "suppose" => Edit::Suppose {
                hypothesis: Hypothesis {
                    cause: field("cause"),
                    effect: field("effect"),
                    direction: self.named("direction", Direction::named)?,
                    shape: self.named("shape", CurveShape::named)?,
                    reason: field("reason"),
                    at: now(),
                },
            },
            "predict" => Edit::Predict { typed: field("typed"), at: now() },
            "state_outcome" => Edit::StateOutcome { typed: field("typed") },
            _ => return Ok(None),
        }))
    }

    /// Pairs of numbers: `t,x;t,x`.
    fn pairs(&self) -> Result<Vec<[f64; 2]>, WebError> {
        let unreadable = || WebError::Unreadable("the points are no pairs of numbers".to_owned());
        let pair = |text: &str| -> Option<[f64; 2]> {
            let (a, b) = text.split_once(',')?;
            Some([a.parse().ok()?, b.parse().ok()?])
        };
        let parts = self.text("points").split(';').filter(|p| !p.is_empty());
        let pairs = parts.map(|p| pair(p).filter(|p| p.iter().all(|v| v.is_finite())).ok_or_else(unreadable));
        pairs.collect()
    }

    /// Edits of graphs and results.
    fn graph_edit(&self) -> Result<Edit, WebError> {
        let field = |name| self.text(name).to_owned();
        let graph = || self.number("graph");
        let result = || self.number("result");
        Ok(match self.text("edit") {
            "choose_axes" => Edit::ChooseAxes { graph: graph()?, x: self.optional("x")?, y: self.optional("y")? },
            "choose_model" if self.text("model").is_empty() => Edit::ChooseModel { graph: graph()?, model: None },
            "choose_model" => Edit::ChooseModel { graph: graph()?, model: Some(self.named("model", Model::named)?) },
            "choose_fit" => Edit::ChooseFit {
                graph: graph()?,
                stretch: self.optional("stretch")?,
                model: field("model"),
                formula: field("formula"),
                start: field("start"),
                weighting: self.named("weighting", Weighting::named)?,
            },
            "add_graph" => Edit::AddGraph,
            "delete_graph" => Edit::DeleteGraph { graph: graph()? },
            "name_graph" => {
                Edit::NameGraph { graph: graph()?, title: field("title"), across: field("across"), up: field("up") }
            }
            "add_series" => Edit::AddSeries { graph: graph()?, x: self.number("x")?, y: self.number("y")? },
            "remove_series" => Edit::RemoveSeries { graph: graph()?, index: self.number("index")? },
            "set_axis" => Edit::SetAxis {
                graph: graph()?,
                up: self.is("up"),
                logarithmic: self.is("logarithmic"),
                zero: self.is("zero"),
                from: field("from"),
                to: field("to"),
            },
            "zoom" => Edit::Zoom { graph: graph()?, range: self.range()? },
            "show_on_graph" => Edit::ShowOnGraph { graph: graph()?, what: field("what"), on: self.is("typed") },
            "add_stretch" => Edit::AddStretch { graph: graph()?, from: field("from"), to: field("to") },
            "change_stretch" => Edit::ChangeStretch {
                graph: graph()?,
                stretch: self.number("stretch")?,
                from: field("from"),
                to: field("to"),
            },
            "delete_stretch" => Edit::DeleteStretch { graph: graph()?, stretch: self.number("stretch")? },
            "look_ahead" => Edit::LookAhead {
                graph: graph()?,
                back: self.is("back"),
                typed: field("typed"),
                stretch: self.optional("stretch")?,
            },
            "choose_shape" => Edit::ChooseShape { graph: graph()?, shape: self.named("shape", Shape::named)? },
            "fill_gap" => Edit::FillGap { graph: graph()?, gap: self.named("gap", Gap::named)?, typed: field("typed") },
            "add_result" => Edit::AddResult { name: field("name") },
            "name_result" => Edit::NameResult { result: result()?, name: field("typed") },
            "delete_result" => Edit::DeleteResult { result: result()? },
            "choose_source" => Edit::ChooseSource { result: result()?, from: field("from") },
            "state_reading" => Edit::StateReading { result: result()?, typed: field("typed") },
            "state_law" => {
                Edit::StateLaw { result: result()?, term: self.named("term", Term::named)?, typed: field("typed") }
            }
            "state_accepted" => Edit::StateAccepted { result: result()?, typed: field("typed") },
            "state_source" => Edit::StateSource { result: result()?, typed: field("typed") },
            other => return Err(WebError::Unreadable(format!("there is no edit “{other}”"))),
        })
    }
}
