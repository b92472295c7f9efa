//! The tables.

use std::collections::{BTreeMap, BTreeSet};

use askama::Template;
use zeitmass_core::formula::FormulaError;
use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::Freedom;
use zeitmass_core::logbook::{Analysis, DrawError, HeldValue, Logbook, PAGE_ROWS, Part, RowAt, StatedQuantity};
use zeitmass_core::quantity::format::{plain, with_unit};
use zeitmass_core::quantity::{Origin, PrecisionBy, Unit};
use zeitmass_core::record::{Cell, ColumnId, ColumnKind, RowId, Standing, StoppingRule, Table, TableColumn, TableId};
use zeitmass_core::rigs::SettingValue;
use zeitmass_words::Words;

use super::words::Beside;
use super::{ROWS_SHOWN, Scene, two_figures};
use crate::notation::{formula_html, symbol_html};
use crate::wish::json;

pub(crate) struct ColumnHead {
    pub id: u32,
    pub kind: &'static str,
    pub worked: bool,
    pub given: bool,
    pub name: String,
    pub symbol: String,
    pub symbol_html: String,
    pub typed_unit: String,
    pub unit: String,
    pub formula: String,
    pub formula_html: String,
    pub trouble: String,
    /// How an uncertainty is stated that does not come from the digits; empty otherwise.
    pub precision: String,
    pub precision_by: &'static str,
    pub precision_value: String,
    pub precision_parts: String,
    /// Stem, if it is one of several runs.
    pub stem: String,
    /// Why the run is set aside.
    pub aside: String,
}

pub(crate) struct CellView {
    pub column: u32,
    pub kind: &'static str,
    pub writable: bool,
    pub trouble: bool,
    /// Whether it was brought from a file and could not be checked.
    pub brought: bool,
    /// How it stands to the curve it comes from: follows, frozen, or lost; empty for all others.
    pub drawn: &'static str,
    pub label: String,
    pub text: String,
    /// The number it holds, as the page sends it back to say what the person saw.
    pub was: Option<String>,
    pub about: String,
}

pub(crate) struct RowView {
    pub id: RowId,
    /// The row as edits name it, as JSON.
    pub at: String,
    /// Whether it is the empty row at the bottom, which is not stored yet.
    pub begun: bool,
    pub number: String,
    pub aside: bool,
    pub why: String,
    /// What changed beside the varied quantity, if the trial cannot be compared with the others.
    pub incomparable: String,
    /// Cells that come from curves, as JSON: column, symbol, and whether they are frozen.
    pub drawn: String,
    /// Head of the group that begins here.
    pub group: String,
    pub cells: Vec<CellView>,
}

pub(super) struct Tab {
    id: u32,
    name: String,
    chosen: bool,
}

pub(super) struct HeldView {
    symbol: String,
    symbol_html: String,
    name: String,
    value: String,
}

#[derive(Template)]
#[template(path = "bench/record_part.html")]
pub(super) struct RecordPart {
    beside: Beside,
    writable: bool,
    table: u32,
    name: String,
    tabs: Vec<Tab>,
    columns: Vec<ColumnHead>,
    /// Whether marks of films make columns too.
    filmed: bool,
    /// Whether a column is set by hand.
    sets: bool,
    rows: Vec<RowView>,
    total: usize,
    from: usize,
    to: usize,
    back: usize,
    page: usize,
    trials: usize,
    /// Whether those are marks of a film.
    marks: bool,
    wanted: usize,
    most: usize,
    first: bool,
    advice: String,
    held: String,
    stated: Vec<HeldView>,
    group: u32,
    stems: Vec<String>,
    /// What formulas may use: symbols of columns, of their stems, and of what is held.
    symbols: Vec<String>,
    standing: String,
    /// Rows that cannot be compared with the others, in words.
    warned: String,
    stop_stem: String,
    stop_rule: &'static str,
    stop_value: String,
}

/// There is always an empty row to write into, under the key that the page has for it.
fn row_to_begin(table: &Table, begun: RowId, marks: &Marks) -> RowView {
    let number = table.rows.len() + 1;
    RowView {
        id: begun,
        at: json(&RowAt::of(begun)),
        begun: true,
        number: number.to_string(),
        aside: false,
        why: String::new(),
        incomparable: String::new(),
        drawn: "[]".to_owned(),
        group: String::new(),
        cells: (0..table.columns.len()).map(|c| cell_view(table, c, None, number, true, marks)).collect(),
    }
}

impl Scene<'_> {
    pub(super) fn record(&self) -> RecordPart {
        let state = self.book().state();
        let sheet = self.book().sheet();
        let writable = self.open_at(Step::Measure);
        let Some(table) = self.table() else { return RecordPart::empty(self.beside(Part::Record)) };
        let record = &table.record;
        let total = table.rows.len();
        // The window ends with a page that is full as long as there are rows enough.
        let from = self.look.from.min(total.saturating_sub(1)) / ROWS_SHOWN * ROWS_SHOWN;
        let to = (from + ROWS_SHOWN).min(total);
        let marks = Marks::of(self.book(), self.analysis(), table);
        let mut rows = rows_of(table, from, to, writable, &marks);
        let begun = if self.look.begun < PAGE_ROWS { row_key() } else { self.look.begun };
        let taken = record.row(begun).is_some();
        if writable && to == total && !taken {
            rows.push(row_to_begin(table, begun, &marks));
        }
        let mut stems: Vec<String> = record.columns.iter().filter_map(|c| c.stem.clone()).collect();
        stems.dedup();
        let own = record.columns.iter().map(|c| c.symbol.clone());
        let held: Vec<String> = self.book().held_quantities().into_keys().collect();
        let mut symbols: Vec<String> = own.chain(stems.iter().cloned()).chain(held).collect();
        let mut seen = BTreeSet::new();
        symbols.retain(|s| seen.insert(s.clone()));
        let (stop_stem, stop_rule, stop_value) = match &record.stopping {
            Some(StoppingRule::Runs { stem, wanted }) => (stem.clone(), "runs", wanted.to_string()),
            Some(StoppingRule::Change { stem, percent }) => (stem.clone(), "change", percent.as_str().to_owned()),
            None => (String::new(), "runs", String::new()),
        };
        let first = self.book().state().record.tables.first().is_some_and(|t| t.id == record.id);
        let trials = record.trials();
        let planned = record.rows.iter().filter(|r| !r.cells.is_empty()).count();
        // A film marked frame by frame is not too many trials.
        let many = planned > sheet.most_trials && !record.is_filled();
        let advice = if first && many { sheet.advice(planned).map(|a| a.words()) } else { None };
        RecordPart {
            beside: self.beside(Part::Record),
            writable,
            table: record.id,
            name: record.name.clone(),
            tabs: self.tabs(record.id),
            columns: table.columns.iter().map(column_head).collect(),
            filmed: sheet.is_filmed(),
            sets: record.columns.iter().any(|c| c.kind == ColumnKind::Set),
            rows,
            total,
            from,
            to,
            back: from.saturating_sub(ROWS_SHOWN),
            page: ROWS_SHOWN,
            trials,
            marks: record.is_filled(),
            wanted: sheet.trials,
            most: sheet.most_trials,
            first,
            advice: advice.unwrap_or_default(),
            held: held_words(self.book()),
            stated: state.record.held.iter().map(HeldView::of).collect(),
            group: record.group.unwrap_or(0),
            stems,
            symbols,
            standing: standing_words(table),
            warned: warned_words(table, &marks.incomparable),
            stop_stem,
            stop_rule,
            stop_value,
        }
    }
}

impl Scene<'_> {
    fn tabs(&self, chosen: TableId) -> Vec<Tab> {
        let tables = self.analysis().tables.iter().map(|t| &t.record);
        tables.map(|t| Tab { id: t.id, name: t.name.clone(), chosen: t.id == chosen }).collect()
    }
}

impl HeldView {
    fn of(h: &StatedQuantity) -> Self {
        Self {
            symbol: h.symbol.clone(),
            symbol_html: symbol_html(&h.symbol),
            name: h.name.clone(),
            value: with_unit(&h.number.pretty(), &h.unit),
        }
    }
}

impl RecordPart {
    fn empty(beside: Beside) -> Self {
        Self {
            beside,
            writable: false,
            table: 0,
            name: String::new(),
            tabs: Vec::new(),
            columns: Vec::new(),
            filmed: false,
            sets: false,
            rows: Vec::new(),
            total: 0,
            from: 0,
            to: 0,
            back: 0,
            page: ROWS_SHOWN,
            trials: 0,
            marks: false,
            wanted: 0,
            most: 0,
            first: false,
            advice: String::new(),
            held: String::new(),
            stated: Vec::new(),
            group: 0,
            stems: Vec::new(),
            symbols: Vec::new(),
            standing: String::new(),
            warned: String::new(),
            stop_stem: String::new(),
            stop_rule: "runs",
            stop_value: String::new(),
        }
    }
}

/// Which rows cannot be compared with the others, in words.
fn warned_words(table: &Table, incomparable: &BTreeMap<RowId, String>) -> String {
    let told = table.rows.iter().filter_map(|r| Some(format!("row {} ({})", r.number, incomparable.get(&r.id)?)));
    let told: Vec<String> = told.collect();
    if told.is_empty() {
        return String::new();
    }
    format!(
        "Not comparable (≠): {}. More than one quantity changed there. Run these trials again with only one changed, or set them aside.",
        told.join(", ")
    )
}

/// How the stopping rule stands, in words.
fn standing_words(table: &Table) -> String {
    let (Some(rule), Some(Standing { runs, change, met })) = (&table.record.stopping, table.standing()) else {
        return String::new();
    };
    let stands = match (rule, change) {
        (StoppingRule::Runs { .. }, _) => runs.to_string(),
        (_, Some((percent, row))) => format!("now {}\u{A0}% (row {row})", two_figures(percent)),
        (_, None) => format!("{runs} repeats, too few to say"),
    };
    let verdict = if met { "that is enough" } else { "keep going" };
    format!("Enough when: {}. So far: {stands}; {verdict}.", rule.words())
}

/// Heads of a table, for the bench and the write-up.
pub(crate) fn heads_of(table: &Table) -> Vec<ColumnHead> {
    table.columns.iter().map(column_head).collect()
}

/// What is to be said about rows and cells of a table beside their values.
pub(crate) struct Marks {
    /// Rows that cannot be compared with the others, and what changed in them.
    incomparable: BTreeMap<RowId, String>,
    /// Cells that lost their curve, and how.
    lost: BTreeMap<(RowId, ColumnId), DrawError>,
}

impl Marks {
    pub(crate) fn of(book: &Logbook, analysis: &Analysis, table: &Table) -> Self {
        let lost = book.lost_cells(analysis, table.record.id);
        Self { incomparable: book.incomparable(&table.record), lost }
    }
}

/// Rows of a table, for the bench and the write-up.
pub(crate) fn rows_of(table: &Table, from: usize, to: usize, writable: bool, marks: &Marks) -> Vec<RowView> {
    let mut order: Vec<usize> = (0..table.rows.len()).collect();
    // Groups stand together, in the order in which they first appear; within a group the order of the rows is kept.
    if !table.groups.is_empty() {
        order.sort_by_key(|i| table.rows[*i].group);
    }
    let mut before = None;
    let rows = order[from.min(order.len())..to.min(order.len())].iter().map(|i| {
        let row = &table.rows[*i];
        let begins = !table.groups.is_empty() && before != Some(row.group);
        before = Some(row.group);
        let group = if begins { group_words(table, row.group) } else { String::new() };
        RowView {
            id: row.id,
            at: json(&RowAt::of(row.id)),
            begun: false,
            number: row.number.to_string(),
            aside: row.aside,
            why: table.record.rows[*i].why.clone(),
            drawn: drawn_cells(table, *i),
            incomparable: marks
                .incomparable
                .get(&row.id)
                .map_or_else(String::new, |what| format!("{what} changed too, so more than one quantity varies")),
            group,
            cells: (0..table.columns.len())
                .map(|c| cell_view(table, c, Some(*i), row.number, writable, marks))
                .collect(),
        }
    });
    rows.collect()
}

fn group_words(table: &Table, group: usize) -> String {
    let text = table.groups.get(group).map_or("", String::as_str);
    let column = table.record.group.and_then(|id| table.record.column(id));
    let (name, unit) =
        column.map_or((String::new(), Unit::one()), |c| (c.name.clone(), c.unit.clone().unwrap_or_default()));
    if text.is_empty() { format!("{name}: none yet") } else { format!("{name} {}", with_unit(text, &unit)) }
}

/// Settings that are all named beside the table, at most.
const FEW_SETTINGS: usize = 6;

/// What was held, beside the table.
pub(crate) fn held_words(book: &Logbook) -> String {
    let (sheet, rules) = (book.sheet(), book.rules());
    // A rig with many settings has most of them fixed; these stand beside the stage.
    let few = rules.len() <= FEW_SETTINGS;
    let words: Vec<String> = book
        .held()
        .into_iter()
        .zip(rules)
        .filter(|(_, rule)| few || rule.freedom == Freedom::Free)
        .filter(|(_, rule)| sheet.card.setting(rule.name).is_some_and(|s| s.line.is_none() && book.counts(s)))
        .filter_map(|(h, rule)| match h.value {
            HeldValue::Held(SettingValue::Blank(_)) | HeldValue::Varied => None,
            HeldValue::Held(value) => {
                let shown = sheet.card.setting(rule.name).map_or_else(|| value.pretty(), |s| s.pretty(&value));
                Some(format!("{} {shown}", h.label))
            }
            HeldValue::Hidden => Some(format!("{} hidden", h.label)),
        })
        .collect();
    words.join(" · ")
}

fn column_head(c: &TableColumn) -> ColumnHead {
    let column = &c.column;
    let unit = c.unit.as_ref().map(Unit::pretty).unwrap_or_default();
    let formula = column.formula.as_ref().map_or("", |f| f.text());
    let trouble = c.unit.as_ref().err().map(|e| trouble(e, formula)).unwrap_or_default();
    let precision = column.precision.text();
    ColumnHead {
        id: column.id,
        kind: column.kind.word(),
        worked: column.kind == ColumnKind::Worked,
        given: column.kind == ColumnKind::Given,
        name: column.name.clone(),
        symbol: column.symbol.clone(),
        symbol_html: symbol_html(&column.symbol),
        typed_unit: column.unit.as_ref().map(ToString::to_string).unwrap_or_default(),
        unit,
        formula: formula.to_owned(),
        formula_html: if formula.is_empty() { String::new() } else { formula_html(formula) },
        trouble,
        precision: if precision.by == PrecisionBy::Resolution { String::new() } else { column.precision.words() },
        precision_by: precision.by.name(),
        precision_value: precision.value,
        precision_parts: precision.parts,
        stem: column.stem.clone().unwrap_or_default(),
        aside: column.aside.clone().unwrap_or_default(),
    }
}

fn trouble(e: &FormulaError, formula: &str) -> String {
    match formula.get(e.span.clone()) {
        Some(part) if !part.is_empty() && part.len() < formula.len() => {
            format!("{} Look at “{part}”.", e.problem.words())
        }
        _ => e.problem.words(),
    }
}

/// Cells of a row that come from curves, as JSON for its dialog.
fn drawn_cells(table: &Table, row: usize) -> String {
    let cells = table.columns.iter().enumerate().filter_map(|(place, c)| {
        let drawn = table.reading(place, row)?.origin.drawn()?;
        Some((c.column.id, &c.column.symbol, &drawn.said, drawn.frozen))
    });
    json(&cells.collect::<Vec<_>>())
}

fn cell_view(
    table: &Table,
    place: usize,
    row: Option<usize>,
    number: usize,
    writable: bool,
    marks: &Marks,
) -> CellView {
    let c = &table.columns[place];
    let symbol = &c.column.symbol;
    let formula = c.column.formula.as_ref().map_or("", |f| f.text());
    let unit = c.unit.as_ref().cloned().unwrap_or_default();
    let cell = row.map_or(&Cell::Empty, |i| &c.cells[i]);
    let (text, about) = match (cell, row) {
        (Cell::Value(value), Some(i)) => {
            let text = table.text(place, i);
            let u = plain(two(value.u() / unit.size()));
            let u = with_unit(&u, &unit);
            let from = match table.reading(place, i) {
                None => format!("= {formula}; uncertainty {u}"),
                Some(reading) => format!("{}; uncertainty {u}", reading.words()),
            };
            let about = format!("{symbol}, row {number}: {}; {from}", with_unit(&text, &unit));
            (text, about)
        }
        (Cell::Trouble(e), _) => (String::new(), format!("{symbol}, row {number}: {}", trouble(e, formula))),
        _ => (String::new(), String::new()),
    };
    let drawn = row.and_then(|i| table.reading(place, i)).and_then(|r| r.origin.drawn());
    let lost = row.and_then(|i| marks.lost.get(&(table.rows[i].id, c.column.id)));
    let about = lost.map_or(about.clone(), |why| {
        format!("{about}. It does not follow any more, the value was kept: {}", why.words())
    });
    CellView {
        column: c.column.id,
        drawn: match drawn {
            None => "",
            Some(_) if lost.is_some() => "lost",
            Some(drawn) if drawn.frozen => "frozen",
            Some(_) => "follows",
        },
        kind: c.column.kind.word(),
        brought: row.and_then(|i| table.reading(place, i)).is_some_and(|r| matches!(r.origin, Origin::Brought { .. })),
        writable: writable && c.column.kind.is_writable() && !c.column.filled,
        trouble: matches!(cell, Cell::Trouble(_)),
        label: format!("{symbol}, row {number}"),
        was: row.and_then(|i| table.reading(place, i)).map(|_| text.clone()),
        text,
        about,
    }
}

/// Rounded to two significant figures.
fn two(value: f64) -> f64 {
    if value == 0.0 {
        return 0.0;
    }
    let step = 10f64.powf(value.abs().log10().floor() - 1.0);
    (value / step).round() * step
}

/// A key for the empty row of a page that is drawn for the first time; the page makes the next ones itself.
fn row_key() -> RowId {
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH);
    now.map_or(0, |t| t.subsec_nanos()) | PAGE_ROWS
}
