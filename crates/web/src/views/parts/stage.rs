//! Settings, instruments, runs and tools.

use std::collections::BTreeMap;

use askama::Template;
use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::{Freedom, LabSheet};
use zeitmass_core::logbook::{Logbook, Part};
use zeitmass_core::quantity::Decimal;
use zeitmass_core::quantity::format::with_unit;
use zeitmass_core::record::{ColumnKind, ColumnSource, Record};
use zeitmass_core::rigs::{Clock, MeterSpec, Rig, Role, SecondBody, SettingValue};
use zeitmass_words::Words;

use super::Scene;
use super::runs::{Compared, PlanView, RunRow};
use super::settings::{FixedSetting, SettingLine, lines};
use super::words::Beside;
use crate::notation::symbol_html;
use crate::wish::json;

/// For each deal a logbook may have whether it is at hand and whether it was begun; nothing where there is one only.
fn deals(book: &Logbook) -> Vec<(bool, bool)> {
    let (most, deals) = (book.sheet().deals, &book.state().deals);
    (0..most).filter(|_| most > 1).map(|n| (n == deals.number, deals.begun(n))).collect()
}

/// The meters on the bench, and which of them is chosen as long as nobody chooses: the one that fills the first column of readings.
fn meter_rows(sheet: &LabSheet, record: Option<&Record>) -> Vec<MeterRow> {
    let meters: Vec<_> = sheet.card.meters.iter().filter(|m| sheet.meters.contains(&m.name)).collect();
    let columns = || record.into_iter().flat_map(|r| &r.columns);
    let named = columns().find_map(|c| match c.source.as_deref()? {
        ColumnSource::Meter(name) => Some(name.as_str()),
        ColumnSource::Setting(_) => None,
    });
    let of_unit = || {
        let unit = columns().find(|c| c.kind == ColumnKind::Read)?.unit.as_ref()?;
        meters.iter().find(|m| m.unit.same_dimension(unit)).map(|m| m.name)
    };
    let first = named.or_else(of_unit);
    let row = |m: &&MeterSpec| MeterRow {
        name: m.name,
        label: m.label,
        precision: zeitmass_words::rigs::precision(m),
        first: Some(m.name) == first,
    };
    meters.iter().map(row).collect()
}

/// The arrows that can be shown: name, label, letter.
fn arrows(sheet: &LabSheet) -> Vec<(&'static str, &'static str, String)> {
    let arrows = sheet.card.arrows.iter().filter(|a| sheet.arrows.contains(&a.name));
    arrows.map(|a| (a.name, a.label, symbol_html(a.letter))).collect()
}

impl Scene<'_> {
    pub(super) fn stage(&self) -> StagePart {
        let (book, state) = (self.book(), self.book().state());
        let (sheet, open) = (book.sheet(), self.open_at(Step::Measure));
        let card = &sheet.card;
        let on_stage = state.run_on_stage();
        let (rows, fixed, hidden) = self.settings();
        let tools = &state.run.tools;
        let hides = book.rules().iter().any(|r| r.freedom == Freedom::Hidden);
        let meters = meter_rows(sheet, self.table().map(|t| &*t.record));
        let drawn = book.setup(&BTreeMap::new()).ok().map(|s| s.scene);
        let chance = sheet.rig().is_some_and(Rig::left_to_chance);
        let entry = on_stage.and_then(|n| state.run(n));
        let fresh = book.settings_are_new();
        let open_stretch = entry
            .is_some_and(|r| card.durations().any(|d| matches!(r.settings.get(d.name), Some(SettingValue::Blank(_)))));
        StagePart {
            beside: self.beside(Part::Stage),
            writable: open,
            lines: lines(rows),
            deal: state.deals.number,
            deals: deals(book),
            fixed,
            hidden: hidden.join(", "),
            run: on_stage.unwrap_or(0),
            newer: entry.is_some_and(|r| book.is_newer_than(r)),
            failed: entry.is_some_and(|r| r.made.outcome.failed),
            frames: entry.map_or(0, |r| r.made.frames),
            held_back: book.forecast_missing().words(),
            fresh,
            pulled: entry.is_some_and(|r| r.pull.is_some() && r.settings == state.run.settings),
            goes_on: book.can_go_on(),
            open_stretch: open_stretch && !fresh && open,
            by_hand: sheet.by_hand() && open,
            second: on_stage.and_then(|n| card.second_body(&book.run_settings(n)?)),
            zero: tools.zero,
            tools: json(tools),
            division: if card.length.pretty() == "m" {
                crate::views::parts::plain_length(card.division)
            } else {
                with_unit(&card.division.to_string(), &card.length)
            },
            length: card.length.pretty(),
            every: TIMES_BETWEEN
                .map(|k| (k, frame_times(k, on_stage.and_then(|n| book.clock(n)).unwrap_or(card.clock)))),
            caption: self.caption(),
            said: entry.map_or_else(String::new, |r| r.made.outcome.words()),
            split_first: !meters.iter().any(|m| m.first),
            meters,
            arrows: arrows(sheet),
            recordable: recorders(sheet),
            faint: state
                .runs_kept()
                .filter(|(n, r)| r.faint && Some(*n) != on_stage)
                .map(|(n, _)| n.to_string())
                .collect::<Vec<_>>()
                .join(","),
            compared: self.compared(on_stage),
            runs: self.run_rows(on_stage),
            plan: self.plan(),
            plannable: self.plannable(),
            set_columns: self.set_columns(),
            trials: (sheet.trials, sheet.most_trials),
            again: open && on_stage.is_some() && !fresh && (chance || hides) && book.forecast_missing().is_empty(),
            places: card.channel_of(Role::PlaceX).is_some(),
            log_trial: self
                .table()
                .filter(|t| open && t.record.columns.iter().any(|c| c.source.is_some()))
                .map(|t| t.record.id),
            riders: drawn.as_ref().map_or_else(Vec::new, |s| s.riders.iter().map(|r| r.label).collect()),
            area: drawn.as_ref().is_some_and(|s| s.focus.is_some()),
            further: self.further(),
            chance,
            // What is counted is counted every time.
            usual: if chance { 1 } else { 10 },
        }
    }

    /// Tables a recording can go into as a further repeat of what they hold: id, name, and whether it is the first.
    fn further(&self) -> Vec<(u32, String, bool)> {
        let card = &self.book().sheet().card;
        let symbols =
            card.channels.iter().filter(|c| c.role != Role::Time && self.book().sheet().recordable.contains(&c.name));
        let symbols: Vec<&str> = symbols.map(|c| c.symbol).collect();
        let holds = |r: &&std::sync::Arc<Record>| {
            r.columns.iter().any(|c| {
                let stem = c.stem.as_deref().unwrap_or(&c.symbol);
                c.kind == ColumnKind::Read && c.source.is_none() && symbols.contains(&stem)
            })
        };
        let tables = self.book().state().record.tables.iter().filter(holds);
        tables.enumerate().map(|(i, r)| (r.id, r.name.clone(), i == 0)).collect()
    }
}

/// What can be drawn as a curve or recorded on this bench.
fn recorders(sheet: &LabSheet) -> Vec<Recorder> {
    // A place along which nothing moves is not worth a curve.
    let [along_x, along_y] = sheet.card.velocity().unwrap_or_default().map(|channel| !channel.is_empty());
    let moving = sheet.card.channels.iter().filter(|c| match c.role {
        Role::Time => false,
        Role::PlaceX => along_x,
        Role::PlaceY => along_y,
        Role::Own => true,
    });
    let all = moving.map(|c| Recorder {
        name: c.name,
        label: c.label,
        symbol: symbol_html(c.symbol),
        drawn: sheet.tracks.contains(&c.name),
        recorded: sheet.recordable.contains(&c.name),
    });
    all.filter(|r| r.drawn || r.recorded).collect()
}

/// Frames between two readings that a recording offers; the first is every frame.
const TIMES_BETWEEN: [u32; 8] = [1, 2, 5, 10, 20, 50, 100, 500];

/// The time that some frames take, for people.
fn frame_times(frames: u32, clock: Clock) -> String {
    let (every, digit, unit) = clock.written();
    let time = Decimal::rounded(f64::from(frames) * every, digit);
    let text = time.as_str();
    // `0.1 s` rather than `0.10 s`: it is a choice, no reading.
    let text = if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { text };
    with_unit(text, &unit)
}

/// A channel that may be drawn as a curve or recorded into a table.
struct Recorder {
    name: &'static str,
    label: &'static str,
    symbol: String,
    drawn: bool,
    recorded: bool,
}

struct MeterRow {
    name: &'static str,
    label: &'static str,
    precision: String,
    /// Whether it is chosen as long as nobody chooses.
    first: bool,
}

#[derive(Template)]
#[template(path = "bench/stage_part.html")]
pub(super) struct StagePart {
    beside: Beside,
    writable: bool,
    lines: Vec<SettingLine>,
    /// The deal of numbers at hand, from 0.
    deal: u32,
    /// Deals of numbers, where there can be several: for each whether it is at hand and whether it was begun.
    deals: Vec<(bool, bool)>,
    fixed: Vec<FixedSetting>,
    hidden: String,
    run: u32,
    /// Whether the rig was improved since the run on the stage was made.
    newer: bool,
    failed: bool,
    frames: u32,
    held_back: String,
    fresh: bool,
    /// Whether a run pulled by hand is on the stage; the next run is another one all the same.
    pulled: bool,
    goes_on: bool,
    open_stretch: bool,
    by_hand: bool,
    second: Option<SecondBody>,
    zero: u32,
    /// Where the tools stand, as JSON.
    tools: String,
    division: String,
    /// Unit of the scene's lengths.
    length: String,
    /// Frames between two readings of a recording, and the time that is.
    every: [(u32, String); TIMES_BETWEEN.len()],
    caption: String,
    said: String,
    meters: Vec<MeterRow>,
    /// Whether the split is chosen as long as nobody chooses.
    split_first: bool,
    arrows: Vec<(&'static str, &'static str, String)>,
    recordable: Vec<Recorder>,
    faint: String,
    compared: Option<Compared>,
    runs: Vec<RunRow>,
    plan: Option<PlanView>,
    plannable: Vec<(&'static str, &'static str, String)>,
    set_columns: Vec<(u32, String, Vec<&'static str>)>,
    trials: (usize, usize),
    /// Whether another run with the same settings is worth it.
    again: bool,
    /// Whether what moves has a place, so that it can be taped and asked.
    places: bool,
    /// The table a whole trial can be logged into.
    log_trial: Option<u32>,
    riders: Vec<&'static str>,
    /// Whether a ray sweeps an area.
    area: bool,
    further: Vec<(u32, String, bool)>,
    /// Whether chance has a hand in the motion.
    chance: bool,
    /// Frames between two readings of a recording, unless somebody chooses.
    usual: u32,
}
