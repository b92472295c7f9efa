//! The write-up as it is laid out: blocks that were arranged by hand in their order, all others in their usual place.

use super::{Block, Shows};
use crate::logbook::Logbook;
use crate::logbook::writing::TextField;
use crate::record::{Column, ColumnKind, Record};

/// A block as it is laid out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Laid {
    /// The block.
    pub block: Block,
    /// Its number among the tables or among the graphs that are shown, from 1.
    pub number: Option<usize>,
    /// Whether it needs a sentence that introduces it, and has none.
    pub wants_intro: bool,
}

/// How the columns of a table came about, for its caption.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Sources {
    /// Symbols of what was set or measured.
    pub measured: Vec<String>,
    /// Symbols of what the sheet gives.
    pub given: Vec<String>,
    /// Symbols of what a curve or a result gave.
    pub drawn: Vec<String>,
    /// Symbols of what was calculated.
    pub calculated: Vec<String>,
}

impl Sources {
    /// Of a table.
    pub fn of(table: &Record) -> Self {
        let mut made = Self::default();
        for column in &table.columns {
            let list = match column.kind {
                ColumnKind::Worked => &mut made.calculated,
                ColumnKind::Given => &mut made.given,
                ColumnKind::Set | ColumnKind::Read if comes_from_curves(table, column) => &mut made.drawn,
                ColumnKind::Set | ColumnKind::Read => &mut made.measured,
            };
            list.push(column.symbol.clone());
        }
        made
    }
}

fn comes_from_curves(table: &Record, column: &Column) -> bool {
    let mut cells = table.rows.iter().filter_map(|r| r.cells.get(&column.id)).peekable();
    cells.peek().is_some() && cells.all(|r| r.origin.drawn().is_some())
}

impl Logbook {
    /// The blocks of the write-up in their order, those left out among them.
    pub fn write_up(&self) -> Vec<Laid> {
        let (mut tables, mut graphs) = (0, 0);
        let laid = self.blocks().into_iter().map(|block| {
            let counter = match block.shows {
                Shows::Table(_) => Some(&mut tables),
                Shows::Graph(_) | Shows::Model | Shows::Picture(_) => Some(&mut graphs),
                Shows::Question
                | Shows::Forecast
                | Shows::Held
                | Shows::Result(_)
                | Shows::Claim
                | Shows::Text(_)
                | Shows::Own(_)
                | Shows::Answers => None,
            };
            let number = counter.filter(|_| !block.hidden).map(|n| {
                *n += 1;
                *n
            });
            let wants_intro = number.is_some() && block.intro.trim().is_empty();
            Laid { block, number, wants_intro }
        });
        laid.collect()
    }

    /// All blocks there can be now, in order.
    pub(super) fn blocks(&self) -> Vec<Block> {
        let usual = self.usual_blocks();
        let arranged = &self.state().write_up.blocks;
        let there = |shows: &Shows| usual.contains(shows) || matches!(shows, Shows::Own(_) | Shows::Picture(_));
        let mut blocks: Vec<Block> = arranged.iter().filter(|b| there(&b.shows)).cloned().collect();
        for (place, shows) in usual.iter().enumerate() {
            if blocks.iter().any(|b| b.shows == *shows) {
                continue;
            }
            // Behind what comes before it by itself, wherever that is now.
            let before = usual[..place].iter().rev().find_map(|s| blocks.iter().position(|b| b.shows == *s));
            let at = before.map_or(0, |i| i + 1);
            blocks.insert(at, Block::of(*shows));
        }
        blocks
    }

    /// What a write-up shows by itself, in the order of the work. What is empty has no block yet.
    fn usual_blocks(&self) -> Vec<Shows> {
        let state = self.state();
        let mut all = vec![Shows::Question];
        let sheet = self.sheet();
        all.extend(sheet.forecast.is_some().then_some(Shows::Forecast));
        all.push(Shows::Held);
        all.extend(state.record.tables.iter().filter(|t| !t.rows.is_empty()).map(|t| Shows::Table(t.id)));
        let drawn = state.graph.graphs.iter().filter(|g| g.x.is_some() && g.y.is_some());
        all.extend(drawn.map(|g| Shows::Graph(g.id)));
        all.extend((!state.model.runs.is_empty()).then_some(Shows::Model));
        all.extend(state.result.results.iter().map(|r| Shows::Result(r.id)));
        all.extend((!sheet.questions.is_empty()).then_some(Shows::Answers));
        all.extend(state.claim.claim.is_some().then_some(Shows::Claim));
        all.extend(TextField::ALL.map(Shows::Text));
        all
    }
}
