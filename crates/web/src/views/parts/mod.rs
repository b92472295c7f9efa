//! The parts of the bench: what each of them shows. A file a part.

mod constant;
mod drawn;
mod film;
mod forecast;
mod graph;
mod header;
mod model;
mod questions;
mod record;
mod runs;
mod settings;
mod stage;
mod strip;
mod texts;
mod words;

use askama::Template;
use serde::Deserialize;
use zeitmass_core::graph::GraphId;
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::{Analysis, Logbook, ModelRunId, Part, Trace};
use zeitmass_core::record::{RowId, Table, TableId};

use crate::desks::Sight;
use crate::error::WebError;
use crate::viewer::Viewer;
pub(crate) use constant::{ResultView, TermView};
pub(crate) use forecast::Written;
pub(crate) use graph::sentences;
pub(crate) use header::{brought_words, missing};
pub(crate) use model::WrittenModel;
pub(crate) use questions::{AnswerWords, answers_in_words};
pub(crate) use record::{ColumnHead, Marks, RowView, heads_of, held_words, rows_of};
pub(crate) use runs::run_words;
pub(crate) use texts::ClaimView;
pub(crate) use words::part_name;

/// Rows of a table that are on the page at a time.
pub(crate) const ROWS_SHOWN: usize = 100;

/// What one person looks at: which table, from which row on, and which graph. Never the reason to refuse anything.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
#[serde(default)]
pub(crate) struct Look {
    pub table: TableId,
    pub from: usize,
    pub graph: GraphId,
    /// What of the step model is drawn; positions without.
    pub trace: Option<Trace>,
    /// Which model's ledger; the newest without.
    pub model: ModelRunId,
    /// From which step on.
    pub step: usize,
    /// The key of the empty row at the bottom of the page's table.
    pub begun: RowId,
}

/// What all parts need to know.
pub(crate) struct Scene<'a> {
    pub sight: &'a Sight,
    pub viewer: Viewer,
    pub look: Look,
}

impl<'a> Scene<'a> {
    fn book(&self) -> &'a Logbook {
        &self.sight.book
    }

    fn analysis(&self) -> &'a Analysis {
        &self.sight.analysis
    }

    /// Whether the visitor may change the work now.
    fn open(&self) -> bool {
        self.viewer.may_write() && !self.book().state().office.handed_in && self.book().unread().is_none()
    }

    /// Whether the visitor may change what belongs to a step now.
    fn open_at(&self, step: Step) -> bool {
        self.open() && !self.book().is_closed(step)
    }

    /// The table the person looks at; the first one if that is gone.
    fn table(&self) -> Option<&'a Table> {
        let tables = &self.analysis().tables;
        tables.iter().find(|t| t.record.id == self.look.table).or(tables.first())
    }

    /// The graph the person looks at; the first one if that is gone.
    fn graph_id(&self) -> GraphId {
        let graphs = &self.book().state().graph.graphs;
        graphs.iter().find(|g| g.id == self.look.graph).or(graphs.first()).map_or(0, |g| g.id)
    }

    pub(crate) fn render(&self, part: Part) -> Result<String, WebError> {
        Ok(match part {
            Part::Header => self.header().render(),
            Part::Forecast => self.forecast().render(),
            Part::Stage if self.book().sheet().is_filmed() => self.film_stage().render(),
            Part::Stage => self.stage().render(),
            Part::Record => self.record().render(),
            Part::Graph => self.graph().render(),
            Part::Strip => self.strip().render(),
            Part::Model => self.model().render(),
            Part::Constant => self.constant().render(),
            Part::Texts => self.texts().render(),
            Part::Questions => self.questions().render(),
        }?)
    }
}

/// A length of the tape's divisions: `1 mm`, `1 cm`, `0.5 m`.
pub(crate) fn plain_length(metres: f64) -> String {
    let (number, unit) = if metres < 0.0095 {
        (metres * 1e3, "mm")
    } else if metres < 0.5 {
        (metres * 1e2, "cm")
    } else {
        (metres, "m")
    };
    format!("{}\u{A0}{unit}", zeitmass_core::quantity::format::plain((number * 1e6).round() / 1e6))
}

/// A number to two significant figures, without a power of ten where possible.
fn two_figures(value: f64) -> String {
    if value == 0.0 {
        return "0".to_owned();
    }
    zeitmass_core::quantity::format::to_step(value, 10f64.powf(value.abs().log10().floor() - 1.0))
}

/// A time for people, which the browser shows in its own zone.
pub(crate) fn moment(at: i64) -> String {
    jiff::Timestamp::from_second(at).map_or_else(|_| String::new(), |t| t.to_string())
}
