//! What undo took back or redo did again: the one thing a person would name.

use super::Logbook;
use super::change::Change;
use super::deed::Deed;
use super::film::FilmChange;
use super::record::RecordChange;
use super::run::RunChange;
use super::state::State;
use crate::record::{ColumnId, Record, TableId};

/// What changes are about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Touched {
    /// One cell: the symbol of its column, and the number of its row.
    Cell(String, usize),
    /// That many cells.
    Cells(usize),
    /// One row, by its number.
    Row(usize),
    /// That many rows.
    Rows(usize),
    /// A column, by its symbol.
    Column(String),
    /// A table, by its name.
    Table(String),
    /// Whether a row counts, by its number.
    Aside(usize),
    /// A quantity that is held.
    Held,
    /// A graph.
    Graph,
    /// The step model.
    Model,
    /// A result.
    Result,
    /// A setting, by its name.
    Setting(String),
    /// A run, by its number.
    Run(usize),
    /// What is on the stage.
    OnStage,
    /// The plan of trials.
    Plan,
    /// Split, tape and t = 0.
    Tools,
    /// A ruler, the rectangle or the axes of a film.
    Laid,
    /// A trail, by its name.
    Trail(String),
    /// That many marks.
    Marks(usize),
    /// The forecast.
    Forecast,
    /// A text.
    Text,
    /// An answer.
    Answer,
    /// The claim.
    Claim,
    /// How the write-up is arranged.
    WriteUp,
    /// Another deal of numbers.
    Deal,
    /// Everything at once.
    All,
}

impl Logbook {
    /// What a deed of before was about, by the names things have now.
    pub fn touched_by(&self, deed: &Deed) -> Option<Touched> {
        Touched::by(&deed.changes, &self.state)
    }
}

impl Touched {
    /// What changes are about that are about to be done; of several the one that a person would name.
    pub(super) fn by(changes: &[Change], state: &State) -> Option<Self> {
        // A run comes with a plan that goes on, a row with its cells, a mark with what follows from it.
        changes.iter().filter_map(|c| Some((rank(c)?, c))).min_by_key(|(rank, _)| *rank).map(|(_, first)| {
            let alike = |kind: fn(&Change) -> bool| changes.iter().filter(|c| kind(c)).count();
            match first {
                Change::Record(change) => of_record(change, state, changes),
                Change::Film(change) => match change {
                    FilmChange::Film { .. } | FilmChange::Shown { .. } => Self::OnStage,
                    FilmChange::Laid { .. } => Self::Laid,
                    FilmChange::Tools { .. } => Self::Tools,
                    FilmChange::InsertTrail { trail, .. } => Self::Trail(trail.name.clone()),
                    FilmChange::RemoveTrail { film, place } | FilmChange::NameTrail { film, place, .. } => {
                        let work = state.film.films.get(*film as usize);
                        let trail = work.and_then(|w| w.trails.get(*place));
                        Self::Trail(trail.map(|t| t.name.clone()).unwrap_or_default())
                    }
                    FilmChange::Mark { .. } => {
                        Self::Marks(alike(|c| matches!(c, Change::Film(FilmChange::Mark { .. }))))
                    }
                },
                Change::Run(change) => match change {
                    RunChange::Setting { name, .. } => Self::Setting(name.clone()),
                    RunChange::Run { place, .. } => Self::Run(place + 1),
                    RunChange::OnStage { .. } | RunChange::Seen | RunChange::SeenAgain { .. } => Self::OnStage,
                    RunChange::Plan { .. } => Self::Plan,
                    RunChange::Tools { .. } => Self::Tools,
                },
                Change::Forecast(_) => Self::Forecast,
                Change::Graph(_) => Self::Graph,
                Change::Model(_) => Self::Model,
                Change::Result(_) => Self::Result,
                Change::Writing(_) => Self::Text,
                Change::Answer(_) => Self::Answer,
                Change::Claim(_) => Self::Claim,
                Change::WriteUp(_) => Self::WriteUp,
                Change::Deal(_) => Self::Deal,
                Change::Office(_) => Self::All,
            }
        })
    }
}

/// The lower, the more a person would name it; none for what nobody sees.
fn rank(change: &Change) -> Option<u8> {
    match change {
        Change::Run(RunChange::Seen | RunChange::SeenAgain { .. }) => None,
        Change::Office(_) | Change::Deal(_) => Some(0),
        Change::Record(RecordChange::InsertTable { .. } | RecordChange::RemoveTable { .. }) => Some(2),
        Change::Film(FilmChange::InsertTrail { .. } | FilmChange::RemoveTrail { .. }) => Some(1),
        Change::Film(FilmChange::Mark { .. }) | Change::Run(RunChange::Run { .. }) => Some(1),
        Change::Record(
            RecordChange::InsertColumn { .. } | RecordChange::RemoveColumn { .. } | RecordChange::ReplaceColumn { .. },
        ) => Some(3),
        Change::Record(RecordChange::InsertRow { .. } | RecordChange::RemoveRow { .. }) => Some(4),
        Change::Record(_) => Some(5),
        Change::Run(RunChange::Setting { .. }) => Some(6),
        Change::Run(_) | Change::Film(_) => Some(7),
        Change::Forecast(_)
        | Change::Graph(_)
        | Change::Model(_)
        | Change::Result(_)
        | Change::Writing(_)
        | Change::Answer(_)
        | Change::Claim(_)
        | Change::WriteUp(_) => Some(8),
    }
}

fn of_record(change: &RecordChange, state: &State, changes: &[Change]) -> Touched {
    let table = |id: TableId| state.table(id);
    let symbol = |t: TableId, c: ColumnId| {
        table(t).and_then(|t: &Record| t.column(c)).map(|c| c.symbol.clone()).unwrap_or_default()
    };
    let name = |t: &Record| t.name.clone();
    let count = |kind: fn(&RecordChange) -> bool| {
        changes.iter().filter(|c| matches!(c, Change::Record(change) if kind(change))).count()
    };
    match change {
        RecordChange::InsertTable { table, .. } => Touched::Table(name(table)),
        RecordChange::RemoveTable { place } => {
            Touched::Table(state.record.tables.get(*place).map(|t| name(t)).unwrap_or_default())
        }
        RecordChange::TableHead { table: id, .. } => Touched::Table(table(*id).map(name).unwrap_or_default()),
        RecordChange::InsertColumn { column, .. } | RecordChange::ReplaceColumn { column, .. } => {
            Touched::Column(column.symbol.clone())
        }
        RecordChange::RemoveColumn { table: id, place } => {
            let column = table(*id).and_then(|t| t.columns.get(*place));
            Touched::Column(column.map(|c| c.symbol.clone()).unwrap_or_default())
        }
        RecordChange::InsertRow { place, .. } | RecordChange::RemoveRow { place, .. } => {
            match count(|c| matches!(c, RecordChange::InsertRow { .. } | RecordChange::RemoveRow { .. })) {
                0 | 1 => Touched::Row(place + 1),
                n => Touched::Rows(n),
            }
        }
        RecordChange::Cell { table: id, row, column, .. } => match count(|c| matches!(c, RecordChange::Cell { .. })) {
            0 | 1 => Touched::Cell(symbol(*id, *column), row + 1),
            n => Touched::Cells(n),
        },
        RecordChange::Aside { row, .. } => Touched::Aside(row + 1),
        RecordChange::Held { .. } => Touched::Held,
    }
}
