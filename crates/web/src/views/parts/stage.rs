//! Settings, instruments, runs and tools.

use std::collections::BTreeMap;

use askama::Template;
use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::{Freedom, LabSheet, SettingRule};
use zeitmass_core::logbook::{HeldValue, Logbook, Part, RunEntry};
use zeitmass_core::quantity::format::with_unit;
use zeitmass_core::quantity::{Decimal, Unit};
use zeitmass_core::record::{ColumnKind, ColumnSource, Record};
use zeitmass_core::rigs::{Clock, MeterSpec, Node, Rig, Role, SecondBody, SettingKind, SettingSpec, SettingValue};
use zeitmass_words::Words;

use super::Scene;
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
        precision: m.precision(),
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

    /// What can be set, what the sheet has fixed, and the names of what it hides.
    fn settings(&self) -> (Vec<SettingRow>, Vec<FixedSetting>, Vec<&'static str>) {
        let (book, card) = (self.book(), &self.book().sheet().card);
        let mut rows: Vec<SettingRow> = Vec::new();
        let (mut fixed, mut hidden) = (Vec::new(), Vec::new());
        for (rule, held) in book.rules().iter().zip(book.held()) {
            let Some(spec) = card.setting(rule.name) else { continue };
            if !book.counts(spec) {
                continue;
            }
            match rule.freedom {
                // A hidden value never reaches the page.
                Freedom::Hidden => hidden.push(spec.label),
                Freedom::Fixed if matches!(rule.value, SettingValue::Blank(_)) => {}
                Freedom::Fixed => fixed.push(FixedSetting {
                    label: spec.label,
                    symbol: symbol_html(spec.symbol),
                    value: spec.pretty(&rule.value),
                    dealt: rule.dealt.is_some(),
                    name: rule.name,
                    loggable: matches!(spec.kind, SettingKind::Quantity { .. }),
                }),
                Freedom::Free => rows.push(self.setting_row(rule, spec, &held.value)),
            }
        }
        (rows, fixed, hidden)
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

    fn setting_row(&self, rule: &SettingRule, spec: &SettingSpec, held: &HeldValue) -> SettingRow {
        let state = self.book().state();
        let value = state.run.settings.get(rule.name).unwrap_or(&rule.value);
        let note = match held {
            HeldValue::Varied => "varied",
            HeldValue::Held(_) | HeldValue::Hidden if state.runs_kept().count() > 1 && spec.line.is_none() => "held",
            HeldValue::Held(_) | HeldValue::Hidden => "",
        };
        let options = match &spec.kind {
            SettingKind::Choice { options } => {
                options.iter().map(|(name, label)| (*name, *label, value.pretty() == *name)).collect()
            }
            SettingKind::Quantity { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. } => Vec::new(),
        };
        let nodes = match (&spec.kind, value) {
            (SettingKind::Path { unit, limits, .. }, SettingValue::Path(nodes)) => {
                let row = |n: &Node| [n.at[0], n.at[1]].map(|v| Decimal::rounded(v, limits.step).pretty());
                let ring = |n: &Node| n.ring.map_or_else(String::new, |r| Decimal::rounded(r, limits.step).pretty());
                Some(NodeTable {
                    unit: unit.pretty(),
                    nodes: nodes.iter().map(|n| (row(n), ring(n))).collect(),
                    least: limits.count[0],
                    most: limits.count[1],
                })
            }
            _ => None,
        };
        let (step, blank) = match &spec.kind {
            SettingKind::Quantity { resolution, blank, .. } => (resolution.to_string(), blank.unwrap_or_default()),
            SettingKind::Choice { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. } => (String::new(), ""),
        };
        SettingRow {
            name: rule.name,
            label: spec.label,
            symbol: symbol_html(spec.symbol),
            value: value.pretty(),
            blank,
            step,
            options,
            switch: matches!(spec.kind, SettingKind::Switch { .. }),
            on: *value == SettingValue::Switch(true),
            loggable: matches!(spec.kind, SettingKind::Quantity { .. }),
            range: spec.range(),
            nodes,
            note,
            line: spec.line,
        }
    }

    /// What is held and varied in the run on the stage: `run 3 · length 0.800 m · …`.
    fn caption(&self) -> String {
        let state = self.book().state();
        let Some((number, run)) = state.run_on_stage().and_then(|n| Some((n, state.run(n)?))) else {
            return String::new();
        };
        run_words(self.book(), number, run)
    }

    fn run_rows(&self, on_stage: Option<u32>) -> Vec<RunRow> {
        let (book, state) = (self.book(), self.book().state());
        let mut before: Option<&RunEntry> = None;
        let mut rows = Vec::new();
        for (number, run) in state.runs_kept() {
            let changed: Vec<String> = match before {
                Some(before) => run
                    .settings
                    .iter()
                    .filter_map(|(name, value)| {
                        let spec = book.sheet().card.setting(name)?;
                        let was = before.settings.get(name)?;
                        (was != value).then(|| format!("{} {} → {}", spec.label, spec.pretty(was), spec.pretty(value)))
                    })
                    .collect(),
                None => words_of(book, run),
            };
            rows.push(RunRow {
                number,
                name: run.name.clone(),
                on_stage: on_stage == Some(number),
                faint: run.faint,
                several: before.is_some() && changed.len() > 1,
                changed: if run.pull.is_some() {
                    "pulled by hand".to_owned()
                } else if changed.is_empty() {
                    "as the run before".to_owned()
                } else {
                    changed.join(", ")
                },
                said: run.made.outcome.words(),
                failed: run.made.outcome.failed,
            });
            before = Some(run);
        }
        rows.reverse();
        rows
    }

    /// The settings in which the run on the stage and those behind it differ; nothing for a single run.
    fn compared(&self, on_stage: Option<u32>) -> Option<Compared> {
        let (book, state) = (self.book(), self.book().state());
        let of: Vec<(u32, &RunEntry)> = state.runs_kept().filter(|(n, r)| r.faint || Some(*n) == on_stage).collect();
        let of = &of[of.len().saturating_sub(MOST_COMPARED)..];
        if of.len() < 2 {
            return None;
        }
        let (mut rows, mut same) = (Vec::new(), Vec::new());
        for spec in book.rules().iter().filter_map(|r| book.sheet().card.setting(r.name)) {
            let values: Vec<String> = of
                .iter()
                .filter_map(|(_, r)| {
                    let value = r.settings.get(spec.name)?;
                    Some(if let SettingValue::Blank(meaning) = value { meaning.clone() } else { spec.pretty(value) })
                })
                .collect();
            match values.first() {
                Some(first) if values.iter().any(|v| v != first) => rows.push((spec.label, values)),
                Some(first) if spec.line.is_none() => same.push(format!("{} {first}", spec.label)),
                _ => {}
            }
        }
        Some(Compared { runs: of.iter().map(|(n, r)| title(*n, r)).collect(), rows, same: same.join(" · ") })
    }

    fn plan(&self) -> Option<PlanView> {
        let book = self.book();
        let plan = book.state().run.plan.as_ref()?;
        let spec = book.sheet().card.setting(&plan.setting)?;
        let words = |i: usize| plan.values.get(i).map_or_else(String::new, |v| spec.pretty(v));
        Some(PlanView {
            label: spec.label,
            from: words(0),
            to: words(plan.values.len().saturating_sub(1)),
            done: plan.done,
            of: plan.values.len(),
            next: words(plan.done),
        })
    }

    /// Columns that may take the values of a plan: id, name, and the settings whose values fit.
    fn set_columns(&self) -> Vec<(u32, String, Vec<&'static str>)> {
        let Some(table) = self.table() else { return Vec::new() };
        let set = table.record.columns.iter().filter(|c| c.kind == ColumnKind::Set);
        let fits = |unit: &Unit| {
            let all = self.plannable().into_iter();
            let card = &self.book().sheet().card;
            let of = |name: &str| match card.setting(name).map(|s| &s.kind) {
                Some(SettingKind::Quantity { unit: own, .. }) => own.same_dimension(unit),
                Some(SettingKind::Choice { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. }) | None => {
                    false
                }
            };
            all.map(|(name, ..)| name).filter(|name| of(name)).collect()
        };
        set.map(|c| (c.id, format!("{} ({})", c.name, c.symbol), fits(&c.unit.clone().unwrap_or_default()))).collect()
    }

    /// Settings a plan of trials may vary.
    fn plannable(&self) -> Vec<(&'static str, &'static str, String)> {
        let book = self.book();
        let free = book.rules().iter().filter(|r| r.freedom == Freedom::Free);
        free.filter_map(|r| {
            let spec = book.sheet().card.setting(r.name)?;
            matches!(spec.kind, SettingKind::Quantity { blank: None, .. })
                .then(|| (spec.name, spec.label, spec.range()))
        })
        .collect()
    }
}

/// Runs that are compared at a time, the latest.
const MOST_COMPARED: usize = 7;
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

/// What a run is called.
/// A run with the settings it was run with, as far as a line holds them: `run 3 · length 0.800 m · …`.
pub(crate) fn run_words(book: &Logbook, number: u32, run: &RunEntry) -> String {
    let mut words = vec![title(number, run)];
    words.extend(words_of(book, run).into_iter().take(5));
    words.join(" · ")
}

/// The free settings of a run, blank ones left out.
fn words_of(book: &Logbook, run: &RunEntry) -> Vec<String> {
    if run.pull.is_some() {
        return vec!["pulled by hand".to_owned()];
    }
    let specs = book.rules().iter().filter_map(|r| book.sheet().card.setting(r.name));
    let counts = |spec: &&SettingSpec| {
        let with = spec.with.and_then(|(choice, option)| Some((run.settings.get(choice)?, option)));
        with.is_none_or(|(chosen, option)| matches!(chosen, SettingValue::Choice(name) if name == option))
    };
    let told = specs.filter(counts).filter_map(|spec| {
        let value = run.settings.get(spec.name)?;
        let blank = matches!(value, SettingValue::Blank(_));
        (!blank).then(|| format!("{} {}", spec.label, spec.pretty(value)))
    });
    told.collect()
}

fn title(number: u32, run: &RunEntry) -> String {
    if run.name.is_empty() { format!("run {number}") } else { format!("run {number}, {}", run.name) }
}

/// Rows one by one; those of a stretch of the shuttle's motion together.
fn lines(rows: Vec<SettingRow>) -> Vec<SettingLine> {
    let mut lines: Vec<SettingLine> = Vec::new();
    for row in rows {
        match lines.last_mut() {
            Some(last) if row.line.is_some() && last.line == row.line => last.rows.push(row),
            _ => lines.push(SettingLine { line: row.line, rows: vec![row] }),
        }
    }
    // Blank stretches behind the first blank one are not shown yet.
    let blank = |l: &SettingLine| l.line.is_some() && l.rows.iter().all(|r| r.value.is_empty());
    let first_blank = lines.iter().position(blank);
    if let Some(first) = first_blank {
        let mut k = 0;
        lines.retain(|l| {
            k += 1;
            k <= first + 1 || !blank(l)
        });
    }
    lines
}

struct SettingLine {
    line: Option<u8>,
    rows: Vec<SettingRow>,
}

struct SettingRow {
    name: &'static str,
    label: &'static str,
    symbol: String,
    value: String,
    blank: &'static str,
    step: String,
    options: Vec<(&'static str, &'static str, bool)>,
    switch: bool,
    on: bool,
    loggable: bool,
    range: String,
    /// The nodes of a path.
    nodes: Option<NodeTable>,
    note: &'static str,
    line: Option<u8>,
}

/// Nodes of a path, each with the radius of a loop behind it, as text.
struct NodeTable {
    unit: String,
    nodes: Vec<([String; 2], String)>,
    least: usize,
    most: usize,
}

struct FixedSetting {
    label: &'static str,
    symbol: String,
    value: String,
    dealt: bool,
    name: &'static str,
    loggable: bool,
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

struct RunRow {
    number: u32,
    name: String,
    on_stage: bool,
    faint: bool,
    several: bool,
    changed: String,
    said: String,
    failed: bool,
}

/// Runs beside each other.
struct Compared {
    runs: Vec<String>,
    /// Label of a setting that differs, and its value in each run.
    rows: Vec<(&'static str, Vec<String>)>,
    /// Settings that are the same in all of them.
    same: String,
}

struct PlanView {
    label: &'static str,
    from: String,
    to: String,
    done: usize,
    of: usize,
    next: String,
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
