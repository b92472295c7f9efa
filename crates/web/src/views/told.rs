//! An edit as one sentence, for the history: what somebody did, in the words of the page.
//!
//! Names are those that things have now; of what is gone since, only what was typed is told.

use std::collections::BTreeSet;

use serde::Deserialize;
use zeitmass_core::graph::{GraphId, GraphSpec};
use zeitmass_core::inquiry::{Position, Step};
use zeitmass_core::logbook::{
    AnswerEdit, ClaimEdit, CurveText, Edit, FilmEdit, FootageEdit, ForecastEdit, FromTrail, GraphEdit, GraphShows,
    Logbook, ModelEdit, OfficeEdit, Part, RecordEdit, ResultEdit, RunEdit, StopBy, WriteUpEdit, WritingEdit,
};
use zeitmass_core::motion::{FilmFacts, TrailId};
use zeitmass_core::record::{ColumnId, ColumnKind, TableId};
use zeitmass_core::result::{ResultId, Term};
use zeitmass_store::Past;
use zeitmass_words::forecasts::{does, will};
use zeitmass_words::{Title, Words};

/// Longest text of an edit that is shown, in characters.
const LONGEST: usize = 120;

/// What only the server forms, as it is stored. Pages must not be able to ask for these, so that they are not read as an [`Edit`].
#[derive(Deserialize)]
#[serde(rename_all = "snake_case")]
enum Served {
    Film(ServedFilm),
    Office(ServedOffice),
}

#[derive(Deserialize)]
#[serde(rename_all = "snake_case")]
enum ServedFilm {
    ChooseFilm { facts: Box<FilmFacts> },
    PlaceMarks { trail: TrailId, marks: Vec<(u32, [f64; 2])> },
}

#[derive(Deserialize)]
#[serde(rename_all = "snake_case")]
enum ServedOffice {
    SendBack { note: String },
    Stamp { step: Step, given: bool },
    SayWord { part: Part, text: String },
    GoBack { to: u64 },
    Restore {},
}

/// As far as it is told: what a logbook was brought back to is not read again.
impl From<Served> for Edit {
    fn from(served: Served) -> Self {
        match served {
            Served::Film(edit) => Self::Film(match edit {
                ServedFilm::ChooseFilm { facts } => FilmEdit::ChooseFilm { facts },
                ServedFilm::PlaceMarks { trail, marks } => FilmEdit::PlaceMarks { trail, marks },
            }),
            Served::Office(edit) => Self::Office(match edit {
                ServedOffice::SendBack { note } => OfficeEdit::SendBack { note, steps: BTreeSet::new() },
                ServedOffice::Stamp { step, given } => OfficeEdit::Stamp { step, given },
                ServedOffice::SayWord { part, text } => OfficeEdit::SayWord { part, text },
                ServedOffice::GoBack { to } => OfficeEdit::GoBack { to, content: Box::default() },
                ServedOffice::Restore {} => OfficeEdit::Restore { content: Box::default() },
            }),
        }
    }
}

/// An edit as it is stored, told in one sentence; none if a newer program made it.
pub(super) fn told(past: &Past, book: &Logbook) -> Option<String> {
    let edit = serde_json::from_str(&past.wish).or_else(|_| serde_json::from_str::<Served>(&past.wish).map(Edit::from));
    let said = Teller(book).edit(&edit.ok()?);
    let turned = past.turned.as_ref().and_then(|deed| book.touched_by(deed));
    Some(turned.map_or(said.clone(), |touched| format!("{said}: {}", touched.words())))
}

/// Tells by the names things have in a logbook.
struct Teller<'a>(&'a Logbook);

impl Teller<'_> {
    fn edit(&self, edit: &Edit) -> String {
        match edit {
            Edit::Run(edit) => self.run(edit),
            Edit::Footage(FootageEdit::PlaceTools { .. }) => "Placed the tape, the split or t = 0".to_owned(),
            Edit::Film(edit) => self.film(edit),
            Edit::Forecast(edit) => forecast(edit),
            Edit::Record(edit) => self.record(edit),
            Edit::Graph(edit) => self.graph(edit),
            Edit::Model(edit) => self.model(edit),
            Edit::Result(edit) => self.result(edit),
            Edit::Writing(WritingEdit::Write { field, text, .. }) => {
                with(&format!("Wrote under “{}”", field.title()), text)
            }
            Edit::Answer(edit) => self.answer(edit),
            Edit::Claim(edit) => self.claim(edit),
            Edit::WriteUp(edit) => write_up(edit),
            Edit::Office(edit) => office(edit),
            Edit::Undo => "Undid".to_owned(),
            Edit::Redo => "Redid".to_owned(),
        }
    }

    fn run(&self, edit: &RunEdit) -> String {
        match edit {
            RunEdit::SetSetting { name, typed } => with(&format!("Set {}", self.setting(name)), typed),
            RunEdit::SetSettings { typed, .. } => {
                let names: Vec<_> = typed.keys().map(|n| self.setting(n)).collect();
                with("Set", &names.join(", "))
            }
            RunEdit::TakeDeal { deal } => format!("Took deal {}", deal + 1),
            RunEdit::Run => "Ran the apparatus".to_owned(),
            RunEdit::GoOn => "Let the run go on".to_owned(),
            RunEdit::StopHere { .. } => "Stopped the run".to_owned(),
            RunEdit::Pull { .. } => "Pulled the body by hand".to_owned(),
            RunEdit::ChooseRun { run } => format!("Put run {run} on the stage"),
            RunEdit::NameRun { run, name } => with(&format!("Named run {run}"), name),
            RunEdit::ShowRun { run, on: true } => format!("Showed run {run} beside the others"),
            RunEdit::ShowRun { run, on: false } => format!("No longer showed run {run} beside the others"),
            RunEdit::DeleteRun { run } => format!("Deleted run {run}"),
            RunEdit::PlanTrials { name, from, to, count, .. } => {
                format!(
                    "Planned {}: {} from {from} to {to}",
                    counted(*count as usize, "trial", "trials"),
                    self.setting(name)
                )
            }
            RunEdit::RunTrial => "Ran a trial of the plan".to_owned(),
            RunEdit::DropPlan => "Discarded the plan of trials".to_owned(),
            RunEdit::Record { channels, .. } => with("Recorded the run into a table", &channels.join(", ")),
        }
    }

    fn film(&self, edit: &FilmEdit) -> String {
        match edit {
            FilmEdit::ChooseFilm { facts } => format!("Put the film “{}” on the stage", facts.title),
            FilmEdit::PlaceRuler { typed, .. } => with("Laid the ruler", typed),
            FilmEdit::DeleteRuler { .. } => "Deleted a ruler".to_owned(),
            FilmEdit::PlacePlane { typed, .. } => with("Laid the rectangle", &typed.join(" × ")),
            FilmEdit::DeletePlane { .. } => "Deleted the rectangle".to_owned(),
            FilmEdit::PlaceAxes { .. } => "Laid the axes".to_owned(),
            FilmEdit::AddTrail { name, .. } => with("Added a trail", name),
            FilmEdit::NameTrail { name, .. } => with("Named a trail", name),
            FilmEdit::DeleteTrail { trail } => format!("Deleted {}", self.trail(*trail)),
            FilmEdit::PlaceMark { trail, frame, .. } => {
                format!("Placed a mark on {}, frame {}", self.trail(*trail), frame + 1)
            }
            FilmEdit::PlaceMarks { trail, marks } => {
                format!("Placed {} on {}", counted(marks.len(), "mark", "marks"), self.trail(*trail))
            }
            FilmEdit::DeleteMarks { trail, from, to } if from == to => {
                format!("Deleted the mark on {}, frame {}", self.trail(*trail), from + 1)
            }
            FilmEdit::DeleteMarks { trail, from, to } => {
                format!("Deleted the marks on {}, frames {} to {}", self.trail(*trail), from + 1, to + 1)
            }
            FilmEdit::AddFromTrail { trail, what, .. } => {
                let what = match what {
                    FromTrail::Velocity => "velocity",
                    FromTrail::Acceleration => "acceleration",
                    FromTrail::Distance => "distance",
                    FromTrail::Angle => "angle",
                };
                format!("Added the {what} of {} to the table", self.trail(*trail))
            }
        }
    }

    fn record(&self, edit: &RecordEdit) -> String {
        match edit {
            RecordEdit::AddTable { name } => with("Added a table", name),
            RecordEdit::NameTable { name, .. } => with("Named a table", name),
            RecordEdit::DeleteTable { table } => format!("Deleted {}", self.table(*table)),
            RecordEdit::GroupBy { table, column: Some(column) } => {
                format!("Grouped {} by {}", self.table(*table), self.column(*column))
            }
            RecordEdit::GroupBy { table, column: None } => format!("Ungrouped {}", self.table(*table)),
            RecordEdit::AddColumn { kind, text, .. } => {
                let formula = if text.formula.is_empty() { String::new() } else { format!(" = {}", text.formula) };
                let kind = match kind {
                    ColumnKind::Worked => "calculated",
                    ColumnKind::Set | ColumnKind::Read | ColumnKind::Given => kind.word(),
                };
                format!("Added the {kind} column {}{}", text.symbol, short(&formula))
            }
            RecordEdit::ChangeColumn { column, text } => with(
                &format!("Changed {}", self.column(*column)),
                if text.formula.is_empty() { &text.name } else { &text.formula },
            ),
            RecordEdit::DeleteColumn { column } => format!("Deleted {}", self.column(*column)),
            RecordEdit::MoveColumn { column, .. } => format!("Moved {}", self.column(*column)),
            RecordEdit::FillColumn { column, from, to, count } => {
                format!(
                    "Filled {} from {from} to {to}, {}",
                    self.column(*column),
                    counted(*count as usize, "value", "values")
                )
            }
            RecordEdit::AddRun { column } => format!("Added a repeat of {}", self.column(*column)),
            RecordEdit::SetRunAside { column, why: Some(why) } => {
                with(&format!("Set {} aside", self.column(*column)), why)
            }
            RecordEdit::SetRunAside { column, why: None } => format!("Took {} back in", self.column(*column)),
            RecordEdit::StopWhen { rule: StopBy::Runs, value, .. } => with("Said how many repeats are enough", value),
            RecordEdit::StopWhen { rule: StopBy::Change, value, .. } => with("Said how many repeats are enough", value),
            RecordEdit::Paste { text, .. } => {
                format!("Pasted {}", counted(text.trim_end().lines().count(), "line", "lines"))
            }
            RecordEdit::HoldQuantity { symbol, typed, .. } => {
                format!("Added the controlled variable {symbol} = {}", short(typed))
            }
            RecordEdit::ReleaseQuantity { symbol } => format!("Deleted the controlled variable {symbol}"),
            RecordEdit::AddRow { table, .. } => format!("Added a row to {}", self.table(*table)),
            RecordEdit::MoveRow { .. } => "Moved a row".to_owned(),
            RecordEdit::DeleteRow { .. } => "Deleted a row".to_owned(),
            RecordEdit::TypeCell { column, typed, .. } if typed.trim().is_empty() => {
                format!("Emptied a cell of {}", self.column(*column))
            }
            RecordEdit::TypeCell { column, typed, .. } => format!("Typed {} in {}", short(typed), self.column(*column)),
            RecordEdit::LogReading { column, .. } | RecordEdit::LogBeside { column, .. } => {
                format!("Entered a reading in {}", self.column(*column))
            }
            RecordEdit::LogDrawn { column, .. } => format!("Entered a number from a curve in {}", self.column(*column)),
            RecordEdit::Freeze { column, frozen: true, .. } => format!("Froze a cell of {}", self.column(*column)),
            RecordEdit::Freeze { column, frozen: false, .. } => {
                format!("Let a cell of {} follow again", self.column(*column))
            }
            RecordEdit::LogTrial { .. } => "Entered the trial".to_owned(),
            RecordEdit::SetAside { aside: true, why, .. } => with("Set a row aside", why),
            RecordEdit::SetAside { aside: false, .. } => "Took a row back in".to_owned(),
            RecordEdit::SetBoxAside { aside: true, .. } => "Set points of the graph aside".to_owned(),
            RecordEdit::SetBoxAside { aside: false, .. } => "Took points of the graph back in".to_owned(),
        }
    }

    fn graph(&self, edit: &GraphEdit) -> String {
        match edit {
            GraphEdit::AddGraph => "Added a graph".to_owned(),
            GraphEdit::DeleteGraph { graph } => format!("Deleted {}", self.graph_name(*graph)),
            GraphEdit::NameGraph { graph, title, .. } => {
                with(&format!("Named {} and its axes", self.graph_name(*graph)), title)
            }
            GraphEdit::AddSeries { x, y, .. } => {
                format!("Added {} over {} to the graph", self.symbol(*y), self.symbol(*x))
            }
            GraphEdit::RemoveSeries { .. } => "Removed a series from the graph".to_owned(),
            GraphEdit::SetAxis { up, .. } => {
                format!("Changed the {} axis", if *up { "vertical" } else { "horizontal" })
            }
            GraphEdit::Zoom { range: Some(_), .. } => "Zoomed the graph".to_owned(),
            GraphEdit::Zoom { range: None, .. } => "Showed all of the graph".to_owned(),
            GraphEdit::ShowOnGraph { what, on, .. } => {
                let what = match what {
                    GraphShows::Bars => "error bars",
                    GraphShows::Residuals => "residuals",
                    GraphShows::Band => "the band of the line",
                    GraphShows::Groups => "groups",
                };
                format!("{} {what}", if *on { "Showed" } else { "Hid" })
            }
            GraphEdit::ChooseFit { curve, .. } => match curve {
                CurveText::None => "Removed the fit".to_owned(),
                CurveText::Offered(model) => format!("Fitted: {}", model.words()),
                CurveText::Formula { formula, .. } => with("Fitted a formula", formula),
            },
            GraphEdit::AddStretch { from, to, .. } => format!("Added the interval {from} to {to}"),
            GraphEdit::ChangeStretch { from, to, .. } => format!("Changed an interval to {from} to {to}"),
            GraphEdit::DeleteStretch { .. } => "Deleted an interval".to_owned(),
            GraphEdit::LookAhead { typed, .. } => with("Predicted from the line", typed),
            GraphEdit::ChooseShape { .. } => "Chose a shape".to_owned(),
            GraphEdit::FillGap { typed, .. } => with("Filled in the sentence about the line", typed),
            GraphEdit::ChooseAxes { x, y, .. } => {
                let of = |c: &Option<ColumnId>| c.map_or_else(|| "nothing".to_owned(), |c| self.symbol(c));
                format!("Chose {} over {} for the graph", of(y), of(x))
            }
            GraphEdit::ChooseAxis { up, column, .. } => {
                let axis = if *up { "vertical" } else { "horizontal" };
                let what = column.map_or_else(|| "nothing".to_owned(), |c| self.symbol(c));
                format!("Chose {what} for the {axis} axis")
            }
            GraphEdit::ChooseModel { model: Some(model), .. } => format!("Fitted: {}", model.words()),
            GraphEdit::ChooseModel { model: None, .. } => "Removed the fit".to_owned(),
        }
    }

    fn model(&self, edit: &ModelEdit) -> String {
        let force = |place: usize| {
            let forces = &self.0.state().model.plan.text.forces;
            forces.get(place).map_or_else(|| "a force".to_owned(), |f| format!("the force “{}”", f.name()))
        };
        match edit {
            ModelEdit::Compare { .. } => "Chose the readings the model is held against".to_owned(),
            ModelEdit::Type { field, typed } => with(&format!("Model: {}", field.name()), typed),
            ModelEdit::Choose { .. } => "Chose how the model steps".to_owned(),
            ModelEdit::StartFromData => "Started the model from the data".to_owned(),
            ModelEdit::AddForce { kind } => format!("Added the force “{}”", kind.name()),
            ModelEdit::RemoveForce { .. } => "Removed a force".to_owned(),
            ModelEdit::Switch { place, on } => format!("Switched {} {}", force(*place), if *on { "on" } else { "off" }),
            ModelEdit::TypeForce { place, field, typed } => {
                with(&format!("Model: {} of {}", field.name(), force(*place)), typed)
            }
            ModelEdit::Run => "Ran the model".to_owned(),
            ModelEdit::Fit { place } => format!("Fitted {} to the data", force(*place)),
            ModelEdit::Delete { .. } => "Deleted a run of the model".to_owned(),
        }
    }

    fn result(&self, edit: &ResultEdit) -> String {
        match edit {
            ResultEdit::AddResult { name } => with("Added a result", name),
            ResultEdit::NameResult { name, .. } => with("Named a result", name),
            ResultEdit::DeleteResult { .. } => "Deleted a result".to_owned(),
            ResultEdit::ChooseSource { result, .. } => format!("Chose where {} comes from", self.result_name(*result)),
            ResultEdit::StateReading { typed, .. } => with("Stated the reading of the unknown", typed),
            ResultEdit::ReadRow { .. } => "Chose the row in which the unknown was measured".to_owned(),
            ResultEdit::StateLaw { term, typed, .. } => {
                let term = match term {
                    Term::Up => "vertical axis",
                    Term::Across => "horizontal axis",
                    Term::Slope => "slope",
                    Term::Intercept => "intercept",
                };
                with(&format!("Wrote what the law has for the {term}"), typed)
            }
            ResultEdit::StateAccepted { typed, .. } => with("Stated the accepted value", typed),
            ResultEdit::StateSource { typed, .. } => with("Stated where the accepted value is from", typed),
        }
    }

    fn answer(&self, edit: &AnswerEdit) -> String {
        let of = |question: &str| {
            let place = self.0.sheet().questions.iter().position(|q| q.name == question);
            place.map_or_else(|| "a question".to_owned(), |n| format!("question {}", n + 1))
        };
        match edit {
            AnswerEdit::Write { question, text, .. } => with(&format!("Answered {}", of(question)), text),
            AnswerEdit::Choose { question, on: true, .. } => format!("Chose an answer to {}", of(question)),
            AnswerEdit::Choose { question, on: false, .. } => format!("Took back an answer to {}", of(question)),
            AnswerEdit::Fill { question, typed, .. } => with(&format!("Filled in {}", of(question)), typed),
            AnswerEdit::Take { question, position } => {
                let position = match position {
                    Position::Agree => "agree",
                    Position::Partly => "partly",
                    Position::Disagree => "disagree",
                };
                format!("Answered {}: {position}", of(question))
            }
            AnswerEdit::Point { question, .. } => format!("Pointed at something for {}", of(question)),
            AnswerEdit::Unpoint { question, .. } => format!("Took back a pointer for {}", of(question)),
            AnswerEdit::Check { question } => format!("Checked {}", of(question)),
        }
    }

    fn claim(&self, edit: &ClaimEdit) -> String {
        match edit {
            ClaimEdit::State { cause, effect, curve } => {
                format!("Claimed: as {} is raised, {} {}", self.symbol(*cause), self.symbol(*effect), does(*curve))
            }
            ClaimEdit::Withdraw => "Withdrew the claim".to_owned(),
            ClaimEdit::AddEvidence { rows } => format!("Added {} as evidence", counted(rows.len(), "row", "rows")),
            ClaimEdit::RemoveEvidence { .. } => "Removed a row from the evidence".to_owned(),
        }
    }

    fn setting(&self, name: &str) -> String {
        self.0.sheet().card.setting(name).map_or_else(|| name.to_owned(), |s| s.label.to_lowercase())
    }

    fn trail(&self, id: TrailId) -> String {
        let films = &self.0.state().film.films;
        let trail = films.iter().flat_map(|f| &f.trails).find(|t| t.id == id);
        trail.map_or_else(|| "a trail".to_owned(), |t| format!("trail “{}”", t.name))
    }

    fn table(&self, id: TableId) -> String {
        let table = self.0.state().record.tables.iter().find(|t| t.id == id);
        table.map_or_else(|| "a table".to_owned(), |t| format!("table “{}”", t.name))
    }

    fn symbol(&self, id: ColumnId) -> String {
        let column = self.0.state().record.tables.iter().find_map(|t| t.column(id));
        column.map_or_else(|| "a column".to_owned(), |c| c.symbol.clone())
    }

    fn column(&self, id: ColumnId) -> String {
        let column = self.0.state().record.tables.iter().find_map(|t| t.column(id));
        column.map_or_else(|| "a column".to_owned(), |c| format!("column {}", c.symbol))
    }

    fn graph_name(&self, id: GraphId) -> String {
        let title = |g: &GraphSpec| (g.id == id && !g.title.is_empty()).then(|| format!("the graph “{}”", g.title));
        self.0.state().graph.graphs.iter().find_map(title).unwrap_or_else(|| "a graph".to_owned())
    }

    fn result_name(&self, id: ResultId) -> String {
        let result = self.0.state().result.results.iter().find(|r| r.id == id && !r.name.is_empty());
        result.map_or_else(|| "the result".to_owned(), |r| format!("“{}”", r.name))
    }
}

fn forecast(edit: &ForecastEdit) -> String {
    match edit {
        ForecastEdit::Sketch { points, .. } if points.is_empty() => "Cleared a sketch".to_owned(),
        ForecastEdit::Sketch { .. } => "Sketched a curve".to_owned(),
        ForecastEdit::SketchAgain => "Sketched again".to_owned(),
        ForecastEdit::Suppose { hypothesis } => {
            let (cause, effect, will) = (&hypothesis.cause, &hypothesis.effect, will(hypothesis.curve));
            format!("Stated the hypothesis: if the {} is raised, the {} {will}", short(cause), short(effect))
        }
        ForecastEdit::Predict { typed } => with("Predicted", typed),
        ForecastEdit::StateOutcome { typed } => with("Stated the outcome", typed),
    }
}

fn write_up(edit: &WriteUpEdit) -> String {
    match edit {
        WriteUpEdit::Move { .. } | WriteUpEdit::Step { .. } => "Changed the order of the write-up".to_owned(),
        WriteUpEdit::Introduce { text, .. } => with("Wrote in the write-up", text),
        WriteUpEdit::Show { on: true, .. } => "Put a part back into the write-up".to_owned(),
        WriteUpEdit::Show { on: false, .. } => "Left a part out of the write-up".to_owned(),
        WriteUpEdit::AddText { .. } => "Added a text to the write-up".to_owned(),
        WriteUpEdit::TakePicture { .. } => "Took a picture of the stage".to_owned(),
        WriteUpEdit::RemovePicture { .. } => "Removed a picture from the write-up".to_owned(),
        WriteUpEdit::RemoveText { .. } => "Removed a text from the write-up".to_owned(),
    }
}

fn office(edit: &OfficeEdit) -> String {
    match edit {
        OfficeEdit::HandIn => "Handed in".to_owned(),
        OfficeEdit::SendBack { note, .. } => with("Sent the logbook back", note),
        OfficeEdit::AskStamp { step, on: true } => format!("Asked for the stamp at {}", step.title()),
        OfficeEdit::AskStamp { step, on: false } => format!("No longer asked for the stamp at {}", step.title()),
        OfficeEdit::Stamp { step, given: true } => format!("Gave the stamp at {}", step.title()),
        OfficeEdit::Stamp { step, given: false } => format!("Did not give the stamp at {} yet", step.title()),
        OfficeEdit::SayWord { text, .. } => with("Left a word", text),
        OfficeEdit::TickOff { done: true, .. } => "Ticked off a word of the teacher".to_owned(),
        OfficeEdit::TickOff { done: false, .. } => "Opened a word of the teacher again".to_owned(),
        OfficeEdit::GoBack { to: 0, .. } => "Went back to the start".to_owned(),
        OfficeEdit::GoBack { to, .. } => format!("Went back to how it was after edit {to}"),
        OfficeEdit::Restore { .. } => "Brought the work in from a file".to_owned(),
    }
}

/// A deed with what was typed, if anything was.
fn with(deed: &str, typed: &str) -> String {
    match typed.trim() {
        "" => deed.to_owned(),
        typed => format!("{deed}: {}", short(typed)),
    }
}

fn short(text: &str) -> String {
    let cut: String = text.chars().take(LONGEST).collect();
    if cut.len() < text.len() { format!("{cut} …") } else { cut }
}

fn counted(n: usize, one: &str, more: &str) -> String {
    format!("{n} {}", if n == 1 { one } else { more })
}
