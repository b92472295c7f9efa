//! The parts of the bench: what each of them shows.

use askama::Template;
use zeitmass_core::fit::Model;
use zeitmass_core::formula::FormulaError;
use zeitmass_core::lab::Freedom;
use zeitmass_core::logbook::{Analysis, HeldValue, Logbook, Part, TextField};
use zeitmass_core::quantity::Unit;
use zeitmass_core::quantity::format::{plain, plus_minus, with_unit};
use zeitmass_core::record::{Cell, ColumnKind, TableColumn};
use zeitmass_core::result::Agreement;
use zeitmass_core::rigs::{SettingKind, SettingValue};

use crate::desks::Desk;
use crate::draw::{self, Audience};
use crate::error::WebError;
use crate::notation::{formula_html, symbol_html};

/// What all parts need to know.
pub(crate) struct Scene<'a> {
    pub desk: &'a Desk,
    pub analysis: &'a Analysis,
    /// Whether the visitor may change anything.
    pub writable: bool,
    /// Whether the part replaces one that is on the page already.
    pub swap: bool,
}

impl Scene<'_> {
    fn book(&self) -> &Logbook {
        &self.desk.book
    }

    pub(crate) fn render(&self, part: Part) -> Result<String, WebError> {
        Ok(match part {
            Part::Header => self.header().render(),
            Part::Stage => self.stage().render(),
            Part::Record => self.record().render(),
            Part::Graph => self.graph().render(),
            Part::Constant => self.constant().render(),
            Part::Texts => self.texts().render(),
        }?)
    }

    fn header(&self) -> HeaderPart {
        let state = self.book().state();
        let (can_undo, can_redo) = self.book().can_undo_redo();
        HeaderPart {
            swap: self.swap,
            writable: self.writable && !state.handed_in,
            member: self.writable,
            seq: self.book().seq(),
            saved: self.desk.saved.as_ref().map(|s| s.at.clone()),
            author: self.desk.saved.as_ref().map_or_else(String::new, |s| s.author.clone()),
            handed_in: state.handed_in,
            note: state.note.clone().unwrap_or_default(),
            missing: missing(self.book(), self.analysis),
            can_undo,
            can_redo,
        }
    }

    fn stage(&self) -> StagePart {
        let (book, state) = (self.book(), self.book().state());
        let held = book.held();
        let settings = book.sheet().settings.iter().zip(held).filter_map(|(rule, held)| {
            let spec = book.sheet().card.setting(rule.name)?;
            let value = state.settings.get(rule.name).unwrap_or(&rule.value);
            let note = match (rule.freedom, held.value) {
                (Freedom::Hidden, _) => "hidden by the sheet",
                (Freedom::Fixed, _) => "fixed by the sheet",
                (Freedom::Free, HeldValue::Varied) => "varied",
                (Freedom::Free, _) if state.runs.len() > 1 => "held",
                (Freedom::Free, _) => "",
            };
            Some(SettingRow {
                name: rule.name,
                label: spec.label,
                symbol: symbol_html(spec.symbol),
                // A hidden value never reaches the page.
                value: if rule.freedom == Freedom::Hidden { String::new() } else { value.pretty() },
                free: rule.freedom == Freedom::Free,
                hidden: rule.freedom == Freedom::Hidden,
                switch: matches!(spec.kind, SettingKind::Switch { .. }),
                on: rule.freedom != Freedom::Hidden && *value == SettingValue::Switch(true),
                loggable: rule.freedom != Freedom::Hidden && matches!(spec.kind, SettingKind::Quantity { .. }),
                range: spec.range(),
                note,
            })
        });
        let tools = &state.tools;
        let frame = |f: Option<u32>| f.map_or_else(String::new, |f| f.to_string());
        let tape = tools.tape.map(|[[a, b], [c, d]]| format!("{a},{b},{c},{d}"));
        StagePart {
            swap: self.swap,
            writable: self.writable && !state.handed_in,
            settings: settings.collect(),
            run: state.runs.len(),
            fresh: book.settings_are_new(),
            zero: tools.zero,
            start: frame(tools.start),
            end: frame(tools.end),
            tape: tape.unwrap_or_default(),
            caption: self.caption(),
        }
    }

    /// What is held and varied in the run on the stage: `run 3 · length 0.800 m · …`.
    fn caption(&self) -> String {
        let (book, state) = (self.book(), self.book().state());
        let Some(run) = state.runs.last() else { return String::new() };
        let mut words = vec![format!("run {}", state.runs.len())];
        for rule in &book.sheet().settings {
            if let (Some(spec), Some(value)) = (book.sheet().card.setting(rule.name), run.get(rule.name)) {
                words.push(format!("{} {}", spec.label, value.pretty()));
            }
        }
        words.join(" · ")
    }

    fn record(&self) -> RecordPart {
        let table = &self.analysis.table;
        let columns: Vec<ColumnHead> = table.columns.iter().map(column_head).collect();
        let rows = table.rows.iter().map(|row| RowView {
            id: row.id.to_string(),
            number: row.number.to_string(),
            aside: row.aside,
            cells: row.cells.iter().zip(&table.columns).map(|(cell, c)| cell_view(cell, c, row.number)).collect(),
        });
        let mut rows: Vec<RowView> = rows.collect();
        let writable = self.writable && !self.book().state().handed_in;
        if writable {
            // There is always an empty row to write into.
            let number = rows.len() + 1;
            rows.push(RowView {
                id: "new".to_owned(),
                number: number.to_string(),
                aside: false,
                cells: table.columns.iter().map(|c| cell_view(&Cell::Empty, c, number)).collect(),
            });
        }
        RecordPart {
            swap: self.swap,
            writable,
            columns,
            rows,
            trials: self.book().state().record.trials(),
            wanted: self.book().sheet().trials,
            held: self.held(),
        }
    }

    fn held(&self) -> String {
        held_words(self.book())
    }

    fn graph(&self) -> GraphPart {
        let state = self.book().state();
        let options = |chosen: Option<u32>| {
            let option = |c: &TableColumn| AxisOption {
                id: c.column.id,
                label: format!("{} ({})", c.column.symbol, c.column.name),
                chosen: chosen == Some(c.column.id),
            };
            self.analysis.table.columns.iter().map(option).collect()
        };
        let graph = self.analysis.graph.as_ref();
        let writable = self.writable && !state.handed_in;
        let audience = if writable { Audience::Bench } else { Audience::Reader };
        GraphPart {
            swap: self.swap,
            writable,
            across: options(state.x),
            up: options(state.y),
            chosen: state.x.is_some() && state.y.is_some(),
            svg: graph.map(|g| draw::svg(g, audience)).unwrap_or_default(),
            points: graph.map_or(0, |g| g.points.len()),
            aside: graph.map_or(0, |g| g.points.iter().filter(|p| p.aside).count()),
            models: Model::ALL.iter().map(|m| (m.name(), m.title(), state.model == Some(*m))).collect(),
            no_model: state.model.is_none(),
            line_error: self.analysis.line_error.as_ref().map(ToString::to_string).unwrap_or_default(),
            read_out: self.read_out(),
        }
    }

    /// Slope and intercept as sentences.
    fn read_out(&self) -> Vec<String> {
        let Some(graph) = &self.analysis.graph else { return Vec::new() };
        let Some(line) = &graph.line else { return Vec::new() };
        let text = draw::line_text(line, &graph.x.unit, &graph.y.unit);
        let (x, y) = (symbol_html(&graph.x.symbol), symbol_html(&graph.y.symbol));
        let turn = if line.slope.value < 0.0 { "falls" } else { "rises" };
        let per = with_unit("1", &graph.x.unit);
        let u = if line.slope.u.is_nan() { 0.0 } else { line.slope.u };
        let by = with_unit(&plus_minus(line.slope.value.abs(), u), &graph.y.unit);
        let mut sentences = vec![format!("For every {per} of {x}, {y} {turn} by {by}.")];
        if let (Some(b), Some(shown)) = (line.intercept, text.intercept) {
            let near = if b.u.is_nan() {
                "its uncertainty needs a third point"
            } else if b.value.abs() <= 2.0 * b.u {
                "within twice its uncertainty of zero"
            } else {
                "more than twice its uncertainty away from zero"
            };
            sentences.push(format!("Where {x} is zero the line is at {shown}: {near}."));
        }
        if line.dof == 0 {
            sentences.push("Two points always lie on a line. Measure more to learn how certain it is.".to_owned());
        }
        sentences
    }

    fn constant(&self) -> ConstantPart {
        let state = self.book().state();
        let goal = &self.book().sheet().goal;
        let accepted = with_unit(&state.accepted.0.pretty(), &state.accepted.1);
        let (mut value, mut error) = (String::new(), String::new());
        match &self.analysis.constant {
            Some(Ok(c)) => {
                let u = if c.u.is_nan() { 0.0 } else { c.u };
                value = format!("{} = {}", symbol_html(&c.symbol), with_unit(&plus_minus(c.value, u), &c.unit));
            }
            Some(Err(e)) => error = e.to_string(),
            None => {}
        }
        let law = state.law.as_ref().map_or("", |l| l.text());
        ConstantPart {
            swap: self.swap,
            writable: self.writable && !state.handed_in,
            goal: goal.name.clone(),
            goal_symbol: symbol_html(&goal.symbol),
            law: law.to_owned(),
            law_shown: formula_html(law),
            has_line: self.analysis.graph.as_ref().is_some_and(|g| g.line.is_some()),
            slope: self.slope(),
            accepted: accepted.replace('\u{A0}', " "),
            value,
            error,
            verdict: self.verdict(&accepted),
        }
    }

    fn slope(&self) -> String {
        let Some(graph) = &self.analysis.graph else { return String::new() };
        let line = graph.line.as_ref();
        line.map(|l| draw::line_text(l, &graph.x.unit, &graph.y.unit).slope).unwrap_or_default()
    }

    /// The comparison with the accepted value, in sentences.
    fn verdict(&self, accepted: &str) -> Vec<String> {
        let Some(Ok(constant)) = &self.analysis.constant else { return Vec::new() };
        let comparison = match &self.analysis.comparison {
            Some(Ok(c)) => c,
            Some(Err(message)) => return vec![message.clone()],
            None => return Vec::new(),
        };
        let mut sentences = Vec::new();
        if let Some(percent) = comparison.percent_error {
            sentences.push(format!("Percent error against {accepted}: {}\u{A0}%.", two_figures(percent)));
        }
        let apart = with_unit(&two_figures(comparison.difference.abs()), &constant.unit);
        sentences.push(match comparison.agreement {
            Agreement::Within => {
                format!("The two differ by {apart}, less than twice the uncertainty: they agree within uncertainty.")
            }
            Agreement::Outside => format!(
                "The two differ by {apart}, more than twice the uncertainty: they do not agree. Look for an effect that shifts all values the same way, or measure more."
            ),
            Agreement::Unknown => {
                format!("The two differ by {apart}. With two points the uncertainty is not known: measure more.")
            }
        });
        sentences
    }

    fn texts(&self) -> TextsPart {
        let state = self.book().state();
        let prompt = |field| match field {
            TextField::Claim => "What do your data show? One or two sentences, in your quantities.",
            TextField::Evidence => "Which trials, which graph, which numbers show it?",
            TextField::Reasoning => "Why do they show it? Use the law from the background.",
        };
        let field = |f: TextField| {
            let text = state.texts.get(&f).cloned().unwrap_or_default();
            TextView { name: f.name(), title: f.title(), prompt: prompt(f), text }
        };
        TextsPart {
            swap: self.swap,
            writable: self.writable && !state.handed_in,
            texts: TextField::ALL.map(field).into(),
        }
    }
}

/// A number to two significant figures, without a power of ten where possible.
fn two_figures(value: f64) -> String {
    if value == 0.0 {
        return "0".to_owned();
    }
    zeitmass_core::quantity::format::to_step(value, 10f64.powf(value.abs().log10().floor() - 1.0))
}

/// What was held, beside the table.
pub(crate) fn held_words(book: &Logbook) -> String {
    let words: Vec<String> = book
        .held()
        .into_iter()
        .filter_map(|h| match h.value {
            HeldValue::Held(SettingValue::Switch(on)) => Some(format!("{} {}", h.label, if on { "on" } else { "off" })),
            HeldValue::Held(value) => Some(format!("{} {}", h.label, value.pretty())),
            HeldValue::Hidden => Some(format!("{} hidden", h.label)),
            HeldValue::Varied => None,
        })
        .collect();
    words.join(" · ")
}

/// What the sheet wants and the logbook does not have yet.
pub(crate) fn missing(book: &Logbook, analysis: &Analysis) -> Vec<String> {
    let mut list = Vec::new();
    let (trials, wanted) = (book.state().record.trials(), book.sheet().trials);
    if trials < wanted {
        list.push(format!("{trials} of {wanted} trials are recorded"));
    }
    if analysis.graph.as_ref().is_none_or(|g| g.line.is_none()) {
        list.push("there is no best-fit line yet".to_owned());
    }
    if !matches!(analysis.constant, Some(Ok(_))) {
        list.push(format!("there is no value of {} yet", book.sheet().goal.symbol));
    }
    for field in TextField::ALL {
        if !book.state().texts.contains_key(&field) {
            list.push(format!("the {} is empty", field.name()));
        }
    }
    list
}

fn column_head(c: &TableColumn) -> ColumnHead {
    let unit = c.unit.as_ref().map(Unit::pretty).unwrap_or_default();
    let formula = c.column.formula.as_ref().map_or("", |f| f.text());
    let trouble = c.unit.as_ref().err().map(|e| trouble(e, formula)).unwrap_or_default();
    let shown = if formula.is_empty() { String::new() } else { formula_html(formula) };
    ColumnHead {
        id: c.column.id,
        kind: c.column.kind.word(),
        worked: c.column.kind == ColumnKind::Worked,
        name: c.column.name.clone(),
        symbol: c.column.symbol.clone(),
        symbol_html: symbol_html(&c.column.symbol),
        typed_unit: c.column.unit.as_ref().map(ToString::to_string).unwrap_or_default(),
        unit,
        formula: formula.to_owned(),
        formula_html: shown,
        trouble,
    }
}

fn trouble(e: &FormulaError, formula: &str) -> String {
    match formula.get(e.span.clone()) {
        Some(place) if !place.is_empty() => format!("{} Look at “{place}”.", e.problem),
        _ => e.problem.to_string(),
    }
}

fn cell_view(cell: &Cell, c: &TableColumn, number: usize) -> CellView {
    let symbol = &c.column.symbol;
    let unit = c.unit.as_ref().map(Unit::pretty).unwrap_or_default();
    let formula = c.column.formula.as_ref().map_or("", |f| f.text());
    let (text, about) = match cell {
        Cell::Empty => (String::new(), format!("{symbol}, row {number}: empty")),
        Cell::Value { text, value, origin } => {
            let shown = if unit == "°" { format!("{text}°") } else { format!("{text} {unit}") };
            let from = if origin.is_empty() {
                let size = c.unit.as_ref().map_or(1.0, Unit::size);
                format!("worked out by {formula}; uncertainty {} {unit}", plain(two(value.u() / size)))
            } else {
                origin.clone()
            };
            (text.clone(), format!("{symbol}, row {number}: {}; {from}", shown.trim_end()))
        }
        Cell::Trouble(e) => (String::new(), format!("{symbol}, row {number}: {}", trouble(e, formula))),
    };
    CellView {
        column: c.column.id,
        worked: c.column.kind == ColumnKind::Worked,
        set: c.column.kind == ColumnKind::Set,
        trouble: matches!(cell, Cell::Trouble(_)),
        label: format!("{symbol}, row {number}"),
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

#[derive(Template)]
#[template(path = "bench/header_part.html")]
struct HeaderPart {
    swap: bool,
    writable: bool,
    member: bool,
    seq: u64,
    saved: Option<String>,
    author: String,
    handed_in: bool,
    note: String,
    missing: Vec<String>,
    can_undo: bool,
    can_redo: bool,
}

struct SettingRow {
    name: &'static str,
    label: &'static str,
    symbol: String,
    value: String,
    free: bool,
    hidden: bool,
    switch: bool,
    on: bool,
    loggable: bool,
    range: String,
    note: &'static str,
}

#[derive(Template)]
#[template(path = "bench/stage_part.html")]
struct StagePart {
    swap: bool,
    writable: bool,
    settings: Vec<SettingRow>,
    run: usize,
    fresh: bool,
    zero: u32,
    start: String,
    end: String,
    tape: String,
    caption: String,
}

pub(crate) struct ColumnHead {
    pub id: u32,
    pub kind: &'static str,
    pub worked: bool,
    pub name: String,
    pub symbol: String,
    pub symbol_html: String,
    pub typed_unit: String,
    pub unit: String,
    pub formula: String,
    pub formula_html: String,
    pub trouble: String,
}

pub(crate) struct CellView {
    pub column: u32,
    pub worked: bool,
    pub set: bool,
    pub trouble: bool,
    pub label: String,
    pub text: String,
    pub about: String,
}

pub(crate) struct RowView {
    pub id: String,
    pub number: String,
    pub aside: bool,
    pub cells: Vec<CellView>,
}

#[derive(Template)]
#[template(path = "bench/record_part.html")]
pub(crate) struct RecordPart {
    pub swap: bool,
    pub writable: bool,
    pub columns: Vec<ColumnHead>,
    pub rows: Vec<RowView>,
    pub trials: usize,
    pub wanted: usize,
    pub held: String,
}

impl Scene<'_> {
    /// Heads and rows of the table, for the write-up.
    pub(crate) fn table(&self) -> (Vec<ColumnHead>, Vec<RowView>) {
        let part = self.record();
        (part.columns, part.rows)
    }

    /// The constant and its comparison, for the write-up.
    pub(crate) fn outcome(&self) -> (String, Vec<String>, String) {
        let part = self.constant();
        (part.value, part.verdict, part.law_shown)
    }

    /// Slope and intercept as sentences, for the write-up.
    pub(crate) fn sentences(&self) -> Vec<String> {
        self.read_out()
    }
}

struct AxisOption {
    id: u32,
    label: String,
    chosen: bool,
}

#[derive(Template)]
#[template(path = "bench/graph_part.html")]
struct GraphPart {
    swap: bool,
    writable: bool,
    across: Vec<AxisOption>,
    up: Vec<AxisOption>,
    chosen: bool,
    svg: String,
    points: usize,
    aside: usize,
    models: Vec<(&'static str, &'static str, bool)>,
    no_model: bool,
    line_error: String,
    read_out: Vec<String>,
}

#[derive(Template)]
#[template(path = "bench/constant_part.html")]
struct ConstantPart {
    swap: bool,
    writable: bool,
    goal: String,
    goal_symbol: String,
    law: String,
    law_shown: String,
    has_line: bool,
    slope: String,
    accepted: String,
    value: String,
    error: String,
    verdict: Vec<String>,
}

struct TextView {
    name: &'static str,
    title: &'static str,
    prompt: &'static str,
    text: String,
}

#[derive(Template)]
#[template(path = "bench/texts_part.html")]
struct TextsPart {
    swap: bool,
    writable: bool,
    texts: Vec<TextView>,
}
