//! Bringing back the content of a logbook from a file.

use super::refused::{Flaw, Kind, OfficeRefusal};
use crate::logbook::Heard;
use crate::logbook::planning::{FIRST_ID, Fresh, LONGEST_TEXT, Plan, Planned, seen};
use crate::logbook::refusal::Refusal;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use super::OfficeChange;
use super::evidence::count_brought;
use crate::formula::is_symbol;
use crate::graph::{MOST_GRAPHS, MOST_SERIES, MOST_STRETCHES};
use crate::lab::Freedom;
use crate::logbook::change::Change;
use crate::logbook::claim::plan::MOST_EVIDENCE;
use crate::logbook::graph::GraphState;
use crate::logbook::record::RecordState;
use crate::logbook::result::ResultState;
use crate::logbook::run::MOST_RUNS;
use crate::logbook::state::State;
use crate::logbook::write_up::plan::MOST_PICTURES;
use crate::logbook::{DealChange, Deals, Logbook, RunChange, Shows};
use crate::quantity::{Origin, Reading};
use crate::record::{ColumnKind, MOST_COLUMNS, MOST_ROWS, MOST_TABLES};
use crate::result::{FIRST_RESULT, MOST_RESULTS, ResultFrom};

/// Blocks of a write-up at most: more than there can be things to show.
const MOST_BLOCKS: usize = 200;
/// Sources of a drawn reading's uncertainty at most, and the longest words about where it is from, in characters.
const MOST_TERMS: usize = 400;
const LONGEST_SAID: usize = 400;

impl Logbook {
    pub(in crate::logbook) fn plan_restore(&self, content: &State, fresh: &mut Fresh, at: i64) -> Plan {
        let mut state = content.clone();
        let refused = |flaw: Flaw| Refusal::from(OfficeRefusal::NotBrought(flaw));
        self.check_restored(&state).map_err(refused)?;
        for deal in self.shelved(&state).map_err(refused)? {
            self.check_restored(&deal).map_err(refused)?;
        }
        for run in &mut state.run.runs {
            self.remake(run).map_err(|e| refused(Flaw::NotMade(e)))?;
        }
        if self.state.run.seen {
            // What was said before the first run stays as it was said.
            state.forecast.clone_from(&self.state.forecast);
        }
        self.check_answers(&mut state);
        let numbers: Vec<u32> = state.deals.shelf.keys().copied().collect();
        self.check_evidence(&mut state, at);
        // Each deal's readings are held against its own numbers.
        for number in numbers {
            let misfit = |_| refused(Flaw::Deals);
            let back = state.change_deal(DealChange::TakeUp { number }).map_err(misfit)?;
            let deals = Deals { number, ..Deals::default() };
            let bare = || State { deals, record: RecordState::default(), ..self.state.clone() };
            let there = Self { state: self.state.with_deal(number).unwrap_or_else(bare), ..self.clone() };
            there.check_evidence(&mut state, at);
            state.change_deal(back).map_err(misfit)?;
        }
        state.model.doubt(&self.state.model);
        let brought = count_brought(&state).total();
        renumber(&mut state, fresh);
        let mut changes = vec![Change::Office(OfficeChange::All { state: Box::new(state) })];
        // Afterwards: the forecast of a file is the one that was made before the file's runs.
        if !content.run.runs.is_empty() {
            changes.push(seen());
            // Runs that came after a round close it, whatever the file says of it.
            let runs = content.run.runs.len();
            let earlier = &content.forecast.earlier;
            let closed = earlier.iter().filter(|round| (round.until as usize) < runs).count() as u32;
            let rounds = closed.max(content.run.rounds.min(earlier.len() as u32));
            changes.extend((rounds > 0).then_some(Change::Run(RunChange::SeenAgain { rounds })));
        }
        Ok(Planned { heard: vec![Heard::Brought { unchecked: brought }], ..changes.into() })
    }

    /// A file may have been changed by hand: nothing in it is trusted.
    fn check_restored(&self, state: &State) -> Result<(), Flaw> {
        self.check_restored_settings(state)?;
        let sizes = [
            (state.record.tables.len(), 1, MOST_TABLES, Kind::Table),
            (state.graph.graphs.len(), 1, MOST_GRAPHS, Kind::Graph),
            (state.result.results.len(), 1, MOST_RESULTS, Kind::Result),
            (state.record.held.len(), 0, 20, Kind::Held),
        ];
        if let Some((_, _, _, of)) = sizes.into_iter().find(|(n, least, most, _)| n < least || n > most) {
            return Err(Flaw::Number(of));
        }
        crate::logbook::film::plan::check_restored(state)?;
        crate::logbook::model::check_restored(&state.model)?;
        self.check_restored_runs(state)?;
        let mut ids = BTreeSet::new();
        let mut unique = |id: u32, of: Kind| if ids.insert((of, id)) { Ok(()) } else { Err(Flaw::Twice(of)) };
        check_restored_tables(state, &mut unique)?;
        // What the sheet gives is the sheet's.
        if given(state) != given(Self::new(self.sheet.clone(), self.seed).state()) {
            return Err(Flaw::OtherGiven);
        }
        for graph in &state.graph.graphs {
            unique(graph.id, Kind::Graph)?;
            if graph.more.len() > MOST_SERIES || graph.stretches.len() > MOST_STRETCHES {
                return Err(Flaw::LargeGraph);
            }
            let used = graph.x.iter().chain(&graph.y).chain(graph.more.iter().flat_map(|(x, y)| [x, y]));
            if used.into_iter().any(|id| state.table_of(*id).is_none()) {
                return Err(Flaw::GraphOfNothing);
            }
        }
        for result in &state.result.results {
            unique(result.id, Kind::Result)?;
        }
        for run in &state.model.runs {
            unique(run.id, Kind::Model)?;
        }
        if state.result(FIRST_RESULT).is_none() {
            return Err(Flaw::NoConstant);
        }
        if state.writing.texts.values().any(|t| t.chars().count() > LONGEST_TEXT) {
            return Err(Flaw::LongText);
        }
        if state.claim.claim.as_ref().is_some_and(|c| c.evidence.len() > MOST_EVIDENCE) {
            return Err(Flaw::Evidence);
        }
        let blocks = &state.write_up.blocks;
        let shown: BTreeSet<_> = blocks.iter().map(|b| b.shows).collect();
        if blocks.len() > MOST_BLOCKS || shown.len() < blocks.len() {
            return Err(Flaw::Blocks);
        }
        let pictures = blocks.iter().filter(|b| matches!(b.shows, Shows::Picture(_)));
        if pictures.count() > MOST_PICTURES
            || blocks.iter().any(|b| matches!(b.shows, Shows::Picture(_)) != b.taken.is_some())
        {
            return Err(Flaw::Pictures);
        }
        if blocks.iter().any(|b| b.intro.chars().count() > LONGEST_TEXT) {
            return Err(Flaw::LongText);
        }
        Ok(())
    }

    /// The same content with each of the other deals at hand that it has begun.
    fn shelved(&self, state: &State) -> Result<Vec<State>, Flaw> {
        let Deals { number, shelf } = &state.deals;
        let there = shelf.keys().chain([number]).chain(state.run.runs.iter().map(|r| &r.deal));
        if shelf.contains_key(number) || there.into_iter().any(|n| *n >= self.sheet.deals) {
            return Err(Flaw::NoSuchDeal);
        }
        Ok(shelf.keys().filter_map(|n| state.with_deal(*n)).collect())
    }

    /// Settings and runs belong to this sheet's apparatus.
    fn check_restored_settings(&self, state: &State) -> Result<(), Flaw> {
        let sheet = self.sheet();
        let free = |name: &str| self.rule(name).is_some_and(|r| r.freedom == Freedom::Free);
        let planned = state.run.plan.iter().flat_map(|p| p.values.iter().map(|v| (&p.setting, v)));
        for (name, value) in
            state.run.settings.iter().chain(state.run.runs.iter().flat_map(|r| &r.settings)).chain(planned)
        {
            if !free(name) {
                return Err(Flaw::NotFree { name: name.clone() });
            }
            let kept = sheet.card.check(name, &value.pretty().replace('\u{A0}', " ")).map_err(Flaw::Setting)?;
            if kept != *value {
                return Err(Flaw::OtherSetting { name: name.clone() });
            }
        }
        let start = Self::new(self.sheet.clone(), self.seed);
        let own = start.state.run.settings.keys();
        if state.run.settings.keys().ne(own.clone()) || state.run.runs.iter().any(|r| r.settings.keys().ne(own.clone()))
        {
            return Err(Flaw::OtherSheet);
        }
        if state.run.runs.len() > MOST_RUNS {
            return Err(Flaw::ManyRuns { most: MOST_RUNS });
        }
        Ok(())
    }
}

/// Columns, rows and readings are whole, and fit each other.
fn check_restored_tables(state: &State, unique: &mut impl FnMut(u32, Kind) -> Result<(), Flaw>) -> Result<(), Flaw> {
    for table in &state.record.tables {
        unique(table.id, Kind::Table)?;
        if table.columns.len() > MOST_COLUMNS || table.rows.len() > MOST_ROWS {
            return Err(Flaw::LargeTable { table: table.name.clone() });
        }
        for column in &table.columns {
            unique(column.id, Kind::Column)?;
            if !is_symbol(&column.symbol) || table.columns.iter().filter(|c| c.symbol == column.symbol).count() > 1 {
                return Err(Flaw::Symbol { symbol: column.symbol.clone() });
            }
            if (column.kind == ColumnKind::Worked) != column.formula.is_some()
                || column.formula.is_none() && column.unit.is_none()
            {
                return Err(Flaw::Column { symbol: column.symbol.clone() });
            }
        }
        for row in &table.rows {
            unique(row.id, Kind::Row)?;
            for (id, reading) in &row.cells {
                let column = table.column(*id).ok_or(Flaw::LostReading)?;
                let unit = column.unit.clone().unwrap_or_default();
                let drawn = reading.origin.drawn();
                let sound = reading.resolution.is_finite()
                    && reading.resolution > 0.0
                    && drawn.is_none_or(|d| d.terms.len() <= MOST_TERMS && d.said.chars().count() <= LONGEST_SAID);
                if column.kind == ColumnKind::Worked || !reading.unit.same_dimension(&unit) || !sound {
                    return Err(Flaw::Reading { symbol: column.symbol.clone() });
                }
            }
        }
    }
    Ok(())
}

/// What the sheet gave, by symbol.
fn given(state: &State) -> BTreeMap<String, Vec<Reading>> {
    let columns = state.record.tables.iter().flat_map(|t| t.columns.iter().map(move |c| (t, c)));
    let given = columns.filter(|(_, c)| c.kind == ColumnKind::Given);
    given
        .map(|(t, c)| {
            (c.symbol.clone(), t.rows.iter().filter_map(|r| r.cells.get(&c.id).map(|r| (**r).clone())).collect())
        })
        .collect()
}

/// Gives everything made in that other logbook ids of this one, so that none is ever used twice.
fn renumber(state: &mut State, fresh: &mut Fresh) {
    let mut new: BTreeMap<u32, u32> = BTreeMap::new();
    let mut id = |old: &mut u32| {
        if *old >= FIRST_ID {
            *old = *new.entry(*old).or_insert_with(|| fresh.next());
        }
    };
    let shelved = state.deals.shelf.values_mut().map(|s| (&mut s.record, &mut s.graph, &mut s.result));
    for (record, graph, result) in shelved.chain([(&mut state.record, &mut state.graph, &mut state.result)]) {
        renumber_work(record, graph, result, &mut id);
    }
    state.run.plan.iter_mut().filter_map(|p| p.column.as_mut()).for_each(&mut id);
    state.answers.renumber(&mut id);
    state.claim.renumber(&mut id);
    state.model.renumber(&mut id);
    state.write_up.renumber(&mut id);
    for trail in state.film.films.iter_mut().flat_map(|f| &mut f.trails) {
        id(&mut trail.id);
        id(&mut trail.table);
        trail.columns.iter_mut().for_each(&mut id);
        trail.conditions.iter_mut().for_each(|(c, _)| id(c));
    }
}

fn renumber_work(
    record: &mut RecordState,
    graph: &mut GraphState,
    result: &mut ResultState,
    mut id: impl FnMut(&mut u32),
) {
    for table in record.tables.iter_mut().map(Arc::make_mut) {
        id(&mut table.id);
        table.rows.iter_mut().filter_map(|r| r.mark.as_mut()).for_each(|(trail, _)| id(trail));
        table.group.iter_mut().for_each(&mut id);
        table.columns.iter_mut().for_each(|c| id(&mut c.id));
        for row in &mut table.rows {
            id(&mut row.id);
            row.cells = std::mem::take(&mut row.cells)
                .into_iter()
                .map(|(mut c, mut reading)| {
                    id(&mut c);
                    if let Origin::Curve { drawn } = &mut reading.origin {
                        drawn.source.renumber(&mut id);
                    }
                    (c, reading)
                })
                .collect();
        }
    }
    for graph in &mut graph.graphs {
        id(&mut graph.id);
        graph.x.iter_mut().chain(graph.y.iter_mut()).for_each(&mut id);
        for (x, y) in &mut graph.more {
            id(x);
            id(y);
        }
        graph.stretches.iter_mut().for_each(|s| id(&mut s.id));
        graph.look.iter_mut().filter_map(|l| l.stretch.as_mut()).for_each(&mut id);
    }
    for result in &mut result.results {
        id(&mut result.id);
        match &mut result.from {
            ResultFrom::Curve { graph, stretch, .. } => {
                id(graph);
                stretch.iter_mut().for_each(&mut id);
            }
            ResultFrom::Calibration { graph, stretch, row, .. } => {
                id(graph);
                stretch.iter_mut().chain(row).for_each(&mut id);
            }
            ResultFrom::Column { column } => id(column),
            ResultFrom::Model { run } => id(run),
        }
    }
}
