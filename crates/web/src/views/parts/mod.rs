//! The parts of the bench: what each of them shows. A file a part.

mod constant;
mod film;
mod forecast;
mod graph;
mod header;
mod record;
mod stage;
mod strip;
mod texts;

use askama::Template;
use zeitmass_core::graph::GraphId;
use zeitmass_core::logbook::{Analysis, Logbook, Part};
use zeitmass_core::record::{Table, TableId};

use crate::desks::Desk;
use crate::error::WebError;
pub(crate) use constant::ResultView;
pub(crate) use forecast::Written;
pub(crate) use graph::sentences;
pub(crate) use header::missing;
pub(crate) use record::{ColumnHead, RowView, heads_of, held_words, rows_of};

/// Rows of a table that are on the page at a time.
pub(crate) const ROWS_SHOWN: usize = 100;

/// What one person looks at: which table, from which row on, and which graph.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Look {
    pub table: TableId,
    pub from: usize,
    pub graph: GraphId,
}

/// What all parts need to know.
pub(crate) struct Scene<'a> {
    pub desk: &'a Desk,
    pub analysis: &'a Analysis<'a>,
    /// Whether the visitor may change anything.
    pub writable: bool,
    /// Whether the visitor is the teacher of the class.
    pub for_teacher: bool,
    /// Whether the part replaces one that is on the page already.
    pub swap: bool,
    pub look: Look,
}

impl<'a> Scene<'a> {
    fn book(&self) -> &'a Logbook {
        &self.desk.book
    }

    /// Whether the visitor is the teacher: everybody else may write.
    fn teacher(&self) -> bool {
        self.for_teacher
    }

    /// Whether the visitor may change the work now.
    fn open(&self) -> bool {
        self.writable && !self.book().state().handed_in
    }

    /// The table the person looks at; the first one if that is gone.
    fn table(&self) -> Option<&Table<'a>> {
        let tables = &self.analysis.tables;
        tables.iter().find(|t| t.record.id == self.look.table).or(tables.first())
    }

    /// The graph the person looks at; the first one if that is gone.
    fn graph_id(&self) -> GraphId {
        let graphs = &self.book().state().graphs;
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
            Part::Constant => self.constant().render(),
            Part::Texts => self.texts().render(),
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
