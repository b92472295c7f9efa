//! From a form's fields to an edit: the one place where raw input is read.

use std::collections::HashMap;

use zeitmass_core::fit::Model;
use zeitmass_core::logbook::{ColumnText, Edit, Instrument, TextField, Tools};
use zeitmass_core::record::ColumnKind;

use crate::error::WebError;

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
        ColumnText { name: field("name"), symbol: field("symbol"), unit: field("unit"), formula: field("formula") }
    }

    fn instrument(&self) -> Result<Instrument, WebError> {
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
            "setting" => Instrument::Setting { name: self.text("name").to_owned() },
            other => return Err(WebError::Unreadable(format!("there is no instrument “{other}”"))),
        })
    }

    /// The edit a student's form asks for. Sending back is the teacher's and has a form of its own.
    pub(crate) fn edit(&self) -> Result<Edit, WebError> {
        let field = |name| self.text(name).to_owned();
        Ok(match self.text("edit") {
            "set_setting" => Edit::SetSetting { name: field("name"), typed: field("typed") },
            "run" => Edit::Run,
            "place_tools" => Edit::PlaceTools {
                tools: Tools {
                    zero: self.number("zero")?,
                    start: self.optional("start")?,
                    end: self.optional("end")?,
                    tape: self.points()?,
                },
            },
            "add_column" => Edit::AddColumn { kind: self.named("kind", ColumnKind::named)?, text: self.column_text() },
            "change_column" => Edit::ChangeColumn { column: self.number("column")?, text: self.column_text() },
            "delete_column" => Edit::DeleteColumn { column: self.number("column")? },
            "add_row" => Edit::AddRow,
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
            "set_aside" => Edit::SetAside { row: self.number("row")?, aside: self.text("aside") == "true" },
            "choose_axes" => Edit::ChooseAxes { x: self.optional("x")?, y: self.optional("y")? },
            "choose_model" if self.text("model").is_empty() => Edit::ChooseModel { model: None },
            "choose_model" => Edit::ChooseModel { model: Some(self.named("model", Model::named)?) },
            "state_law" => Edit::StateLaw { typed: field("typed") },
            "state_accepted" => Edit::StateAccepted { typed: field("typed") },
            "write" => {
                Edit::Write { field: self.named("field", TextField::named)?, text: field("typed"), was: field("was") }
            }
            "hand_in" => Edit::HandIn,
            "undo" => Edit::Undo,
            "redo" => Edit::Redo,
            other => return Err(WebError::Unreadable(format!("there is no edit “{other}”"))),
        })
    }
}
