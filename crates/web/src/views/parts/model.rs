//! The step model: how it is set, its curves beside the data, how near they come, and its ledger.

use askama::Template;
use serde::Serialize;
use zeitmass_core::logbook::{ColumnText, FittedPart, ModelOutcome, ModelRun, Part, RecordEdit, Trace, Worked};
use zeitmass_core::motion::{FilmWork, Sight};
use zeitmass_core::quantity::format::{plus_minus, to_step, with_unit};
use zeitmass_core::quantity::{PrecisionText, Unit};
use zeitmass_core::record::{ColumnId, ColumnKind};
use zeitmass_core::step_model::{ForceField, ForceName, ForceText, Line, Method, ModelField, Step};

use super::words::Beside;
use super::{Scene, two_figures};
use crate::draw::{self, Audience};
use crate::notation::{symbol_html, without_marks};
use crate::wish::{json, wish};

/// Steps of the ledger that are shown at a time.
const STEPS_SHOWN: usize = 12;
/// Places of a path that are laid over the stage, at most.
const LAID: usize = 200;

/// A column to choose.
struct ColumnChoice {
    id: ColumnId,
    label: String,
    chosen: bool,
}

/// A value that is typed.
struct FieldView {
    name: &'static str,
    /// As HTML.
    label: String,
    typed: String,
    /// What holds when nothing is typed.
    usual: String,
}

/// A force in the list.
struct ForceView {
    place: usize,
    name: String,
    on: bool,
    fields: Vec<FieldView>,
    /// Symbol of the parameter that can be fitted.
    fits: String,
}

/// A model in the list of those that were run.
struct RunView {
    id: u32,
    number: u32,
    changed: String,
    /// What was fitted in it.
    fitted: String,
    rms: String,
    in_u: String,
    error: String,
    newest: bool,
    shown: bool,
}

/// A row of the ledger.
struct LedgerRow {
    number: usize,
    cells: Vec<String>,
    chosen: bool,
}

/// The ledger of a model.
struct LedgerView {
    number: u32,
    heads: Vec<String>,
    rows: Vec<LedgerRow>,
    /// Number of the first step shown, and of all.
    from: usize,
    all: usize,
    back: Option<usize>,
    on: Option<usize>,
    /// The chosen step in numbers, by axis.
    working: Vec<(String, Vec<Line>)>,
    step: usize,
}

#[derive(Template)]
#[template(path = "bench/model_part.html")]
pub(super) struct ModelPart {
    beside: Beside,
    there: bool,
    writable: bool,
    /// Columns of times, of positions along x and along y.
    times: Vec<ColumnChoice>,
    xs: Vec<ColumnChoice>,
    ys: Vec<ColumnChoice>,
    /// What is held against, for the selects' edits.
    compared: [String; 3],
    body: Vec<FieldView>,
    start: Vec<FieldView>,
    stepping: Vec<FieldView>,
    from_data: bool,
    methods: Vec<(&'static str, bool)>,
    forces: Vec<ForceView>,
    kinds: Vec<(&'static str, &'static str)>,
    traces: Vec<(&'static str, String, bool)>,
    svg: String,
    /// Whether velocities of the data are wanted and there is no column of them yet: the edit that makes one.
    make_velocities: String,
    sentences: Vec<String>,
    error: String,
    runs: Vec<RunView>,
    ledger: Option<LedgerView>,
    /// What lies over the stage.
    overlay: String,
}

/// What lies over the stage, in its coordinates: px of the picture, or metres of the scene, y downwards.
#[derive(Serialize)]
struct Overlay {
    curves: Vec<OverlayCurve>,
    /// Times of the newest one, in s.
    t: Vec<f64>,
    forces: Vec<OverlayForce>,
    /// The largest force, in N.
    largest: f64,
}

#[derive(Serialize)]
struct OverlayCurve {
    number: u32,
    newest: bool,
    at: Vec<[f64; 2]>,
}

#[derive(Serialize)]
struct OverlayForce {
    name: String,
    along: Vec<[f64; 2]>,
}

fn rounded(value: f64, places: i32) -> f64 {
    let by = 10f64.powi(places);
    (value * by).round() / by
}

/// To four figures.
fn four(value: f64) -> String {
    if value == 0.0 { "0".to_owned() } else { to_step(value, 10f64.powf(value.abs().log10().floor() - 3.0)) }
}

fn unit(text: &str) -> Unit {
    Unit::parse(text).unwrap_or_default()
}

/// A length of the model for people: metres, centimetres or millimetres.
fn length(metres: f64) -> String {
    let (value, name) = if metres.abs() >= 1.0 {
        (metres, "m")
    } else if metres.abs() >= 0.01 {
        (metres * 1e2, "cm")
    } else {
        (metres * 1e3, "mm")
    };
    with_unit(&two_figures(value), &unit(name))
}

fn label(field: ModelField) -> String {
    match field {
        ModelField::Mass => "mass <i>m</i>".to_owned(),
        ModelField::Step => "time step Δ<i>t</i>".to_owned(),
        ModelField::Until => "until <i>t</i>".to_owned(),
        ModelField::T | ModelField::X | ModelField::Y | ModelField::Vx | ModelField::Vy => symbol_html(field.name()),
    }
}

/// The symbol of what a force takes, as HTML.
fn force_label(kind: ForceName, field: ForceField) -> String {
    let name = field.name();
    match field {
        ForceField::X | ForceField::Y => match kind {
            ForceName::Spring => format!("<i>{name}</i><sub>0</sub>"),
            ForceName::Push
            | ForceName::Own
            | ForceName::Weight
            | ForceName::Buoyancy
            | ForceName::Drag
            | ForceName::DragSquared
            | ForceName::Friction => format!("<i>F</i><sub>{name}</sub>"),
        },
        ForceField::Density => "<i>ρ</i>".to_owned(),
        ForceField::Volume => "<i>V</i>".to_owned(),
        ForceField::Force => "<i>F</i>".to_owned(),
        ForceField::G | ForceField::K => format!("<i>{name}</i>"),
        ForceField::From | ForceField::To => name.to_owned(),
    }
}

/// What a person calls a kind of force.
fn kind_label(kind: ForceName) -> &'static str {
    match kind {
        ForceName::Weight => "weight",
        ForceName::Buoyancy => "buoyancy",
        ForceName::Drag => "drag with v",
        ForceName::DragSquared => "drag with v²",
        ForceName::Push => "push for a time",
        ForceName::Spring => "spring",
        ForceName::Friction => "friction",
        ForceName::Own => "formula of your own",
    }
}

impl Scene<'_> {
    pub(super) fn model(&self) -> ModelPart {
        let (book, analysis) = (self.book(), self.analysis());
        let text = &book.state().model.plan.text;
        let compared = book.compared(analysis);
        let axes = compared.map_or([true, true], |c| [c.x.is_some(), c.y.is_some()]);
        let field = |field: ModelField| FieldView {
            name: field.name(),
            label: label(field),
            typed: text.value(field).to_owned(),
            usual: match field {
                ModelField::Mass => "4.3 g".to_owned(),
                ModelField::Step => "0.05 s".to_owned(),
                ModelField::Until => "last reading".to_owned(),
                ModelField::T | ModelField::X | ModelField::Y | ModelField::Vx | ModelField::Vy => {
                    format!("0 {}", field.unit())
                }
            },
        };
        // An axis nothing is known of is asked for only where something is typed for it.
        let asked = |f: &ModelField| match f {
            ModelField::X | ModelField::Vx => {
                axes[0] || !text.value(*f).is_empty() || !text.value(ModelField::Vx).is_empty()
            }
            ModelField::Y | ModelField::Vy => {
                axes[1] || !text.value(*f).is_empty() || !text.value(ModelField::Vy).is_empty()
            }
            ModelField::T => true,
            ModelField::Mass | ModelField::Step | ModelField::Until => false,
        };
        let trace = self.trace(axes);
        let newest = analysis.models.last();
        let ledger = self.ledger_view(axes);
        let graph = book.model_figure(analysis, trace);
        let wanted = matches!(trace, Trace::Vx | Trace::Vy) && graph.is_none();
        ModelPart {
            beside: self.beside(Part::Model),
            there: book.sheet().step_model,
            writable: self.open(),
            times: self.choices(0),
            xs: self.choices(1),
            ys: self.choices(2),
            compared: [compared.map(|c| c.t), compared.and_then(|c| c.x), compared.and_then(|c| c.y)]
                .map(|id| json(&id)),
            body: vec![field(ModelField::Mass)],
            start: ModelField::ALL.into_iter().filter(asked).map(field).collect(),
            stepping: vec![field(ModelField::Step), field(ModelField::Until)],
            from_data: book.state().model.plan.start_from_data,
            methods: Method::ALL.iter().map(|(m, name)| (*name, *m == text.method)).collect(),
            forces: self.force_views(),
            kinds: ForceName::ALL.iter().map(|k| (k.name(), kind_label(*k))).collect(),
            traces: self.trace_tabs(axes, trace),
            svg: graph.map_or_else(String::new, |g| draw::svg(&g, Audience::Reader)),
            make_velocities: if wanted { self.velocity_column(trace) } else { String::new() },
            sentences: newest.map_or_else(Vec::new, |m| self.model_sentences(m)),
            error: newest.and_then(|m| m.worked.as_ref().err().cloned()).unwrap_or_default(),
            runs: self.run_views(ledger.as_ref().map(|l| l.number)),
            ledger,
            overlay: self.overlay(),
        }
    }

    /// What is drawn: what the person asked for, or positions along the axis that is compared.
    fn trace(&self, axes: [bool; 2]) -> Trace {
        let usual = if axes[1] { Trace::Y } else { Trace::X };
        self.look.trace.filter(|t| Self::offers(axes, *t)).unwrap_or(usual)
    }

    fn offers(axes: [bool; 2], trace: Trace) -> bool {
        match trace {
            Trace::X | Trace::Vx => axes[0],
            Trace::Y | Trace::Vy => axes[1],
            Trace::Path => axes[0] && axes[1],
        }
    }

    fn trace_tabs(&self, axes: [bool; 2], chosen: Trace) -> Vec<(&'static str, String, bool)> {
        let words = |t: Trace| match t {
            Trace::X => "<i>x</i> over <i>t</i>",
            Trace::Y => "<i>y</i> over <i>t</i>",
            Trace::Vx => "<i>v</i><sub>x</sub> over <i>t</i>",
            Trace::Vy => "<i>v</i><sub>y</sub> over <i>t</i>",
            Trace::Path => "path",
        };
        let offered = Trace::ALL.into_iter().filter(|t| Self::offers(axes, *t));
        offered.map(|t| (t.name(), words(t).to_owned(), t == chosen)).collect()
    }

    /// The edit that adds a column of velocities.
    fn velocity_column(&self, trace: Trace) -> String {
        let compared = self.book().compared(self.analysis());
        let Some((t, position)) = compared.and_then(|c| {
            let along = match trace {
                Trace::Vx | Trace::X => c.x,
                Trace::Vy | Trace::Y | Trace::Path => c.y,
            };
            Some((c.t, along?))
        }) else {
            return String::new();
        };
        let Some(table) = self.book().state().table_of(t) else { return String::new() };
        let symbol = |id| table.column(id).map_or("", |c| c.symbol.as_str());
        let taken = |s: &str| table.columns.iter().any(|c| c.symbol == s);
        let wanted = ["v", "v_x", "v_y"];
        let named = if trace == Trace::Vx { "v_x" } else { "v_y" };
        let symbols = [named].into_iter().chain(wanted).find(|s| !taken(s)).unwrap_or("v_m");
        wish(RecordEdit::AddColumn {
            table: table.id,
            kind: ColumnKind::Worked,
            text: ColumnText {
                name: "velocity".to_owned(),
                symbol: symbols.to_owned(),
                unit: "m/s".to_owned(),
                formula: format!("rate({}, {})", symbol(position), symbol(t)),
                precision: PrecisionText::default(),
            },
        })
    }

    /// Columns that can be chosen: 0 for times, 1 and 2 for positions.
    fn choices(&self, which: usize) -> Vec<ColumnChoice> {
        let book = self.book();
        let tables = book.comparable(self.analysis());
        let compared = book.compared(self.analysis());
        let chosen = compared.and_then(|c| [Some(c.t), c.x, c.y][which]);
        // Positions of the table the times are from.
        let own = |times: &[ColumnId]| which == 0 || compared.is_none_or(|c| times.contains(&c.t));
        let several = tables.len() > 1;
        let mut all = Vec::new();
        for (table, times, lengths) in tables.iter().filter(|(_, times, _)| own(times)) {
            for id in if which == 0 { times } else { lengths } {
                let symbol = book.state().table_of(*id).and_then(|t| t.column(*id)).map_or("", |c| c.symbol.as_str());
                let label = if several && which == 0 { format!("{symbol} · {table}") } else { symbol.to_owned() };
                all.push(ColumnChoice { id: *id, label, chosen: chosen == Some(*id) });
            }
        }
        all
    }

    fn force_views(&self) -> Vec<ForceView> {
        let forces = &self.book().state().model.plan.text.forces;
        let one = |(place, force): (usize, &ForceText)| ForceView {
            place,
            name: force.name.clone().unwrap_or_else(|| kind_label(force.kind).to_owned()),
            on: force.on,
            fields: force
                .kind
                .takes()
                .iter()
                .map(|t| FieldView {
                    name: t.field.name(),
                    label: force_label(force.kind, t.field),
                    typed: force.values.get(&t.field).cloned().unwrap_or_default(),
                    usual: t.usual.map_or_else(|| t.unit.unwrap_or_default().to_owned(), str::to_owned),
                })
                .collect(),
            fits: force.kind.parameter().map_or_else(String::new, |(field, _)| field.name().to_owned()),
        };
        forces.iter().enumerate().map(one).collect()
    }

    fn run_views(&self, shown: Option<u32>) -> Vec<RunView> {
        let runs = &self.book().state().model.runs;
        let outcomes = &self.analysis().models;
        let one = |(i, (run, outcome)): (usize, (&ModelRun, &ModelOutcome))| {
            let agreement = outcome.worked.as_ref().ok().and_then(|w| w.agreement.as_ref());
            let found = agreement.and_then(|a| a.as_ref().ok());
            RunView {
                id: run.id,
                number: run.number,
                changed: if i == 0 { "the first one".to_owned() } else { outcome.changed.join("; ") },
                fitted: run.fitted.as_ref().map_or_else(String::new, |f| fitted_words(run, f)),
                rms: found.map_or_else(String::new, |a| length(a.rms)),
                in_u: found.and_then(|a| a.in_uncertainties).map_or_else(String::new, two_figures),
                error: outcome.worked.as_ref().err().cloned().unwrap_or_default(),
                newest: i + 1 == runs.len(),
                shown: shown == Some(run.number),
            }
        };
        runs.iter().zip(outcomes).enumerate().map(one).collect()
    }

    /// What the newest model says beside the data.
    pub(crate) fn model_sentences(&self, model: &ModelOutcome) -> Vec<String> {
        let Ok(worked) = &model.worked else { return Vec::new() };
        let mut all = Vec::new();
        match &worked.agreement {
            Some(Ok(a)) => {
                let in_u = a.in_uncertainties.map_or_else(String::new, |k| {
                    format!(", {} times the uncertainty of a single position", two_figures(k))
                });
                all.push(format!(
                    "Model {} lies {} from the readings (root mean square of {} positions){in_u}.",
                    model.number,
                    length(a.rms),
                    a.n
                ));
            }
            Some(Err(e)) => all.push(e.clone()),
            None => all.push(format!("Model {} has no readings beside it.", model.number)),
        }
        if worked.outside > 0 {
            let n = worked.outside;
            let (noun, verb) = if n == 1 { ("reading lies", "counts") } else { ("readings lie", "count") };
            all.push(format!("{n} {noun} before its start or after its end and {verb} for nothing."));
        }
        if let Some(by) = worked.by_half {
            all.push(if by < 5e-7 {
                "With half the time step nothing changes that could be measured.".to_owned()
            } else {
                format!("With half the time step its positions change by {} at most.", length(by))
            });
        }
        if let Some(terminal) = worked.terminal {
            let speed =
                with_unit(&to_step(terminal.speed, 0.001 * 10f64.powf(terminal.speed.log10().floor())), &unit("m/s"));
            all.push(match terminal.after {
                Some(after) => format!(
                    "The forces cancel at {speed}, its terminal speed; 99\u{A0}% of it are reached after {}.",
                    with_unit(&two_figures(after), &unit("s"))
                ),
                None => {
                    format!("The forces cancel at {speed}, its terminal speed; it does not get there in this time.")
                }
            });
        }
        all
    }

    /// For the write-up: the figure, what is said of the newest model, and a row for each.
    pub(crate) fn written_model(&self) -> Option<(String, Vec<String>, Vec<[String; 4]>)> {
        let (book, analysis) = (self.book(), self.analysis());
        let newest = analysis.models.last()?;
        let axes = book.compared(analysis).map_or([true, true], |c| [c.x.is_some(), c.y.is_some()]);
        let figure = book.model_figure(analysis, self.trace(axes));
        let svg = figure.map_or_else(String::new, |g| draw::svg(&g, Audience::Reader));
        let rows = self.run_views(None).into_iter().map(|r| {
            let changed =
                if r.fitted.is_empty() { r.changed } else { format!("{}; {}", r.changed, without_marks(&r.fitted)) };
            [r.number.to_string(), changed, r.rms, r.in_u]
        });
        Some((svg, self.model_sentences(newest), rows.collect()))
    }

    /// The ledger the person looks at.
    fn ledger_view(&self, axes: [bool; 2]) -> Option<LedgerView> {
        let book = self.book();
        let runs = &book.state().model.runs;
        let run = runs.iter().find(|r| r.id == self.look.model).or(runs.last())?;
        let made = book.ledger(run.id).ok()?;
        let steps = &made.ledger.steps;
        let moves = |axis: usize| axes[axis] || steps.iter().any(|s| s.velocity[axis] != 0.0);
        let shown: Vec<usize> = (0..2).filter(|axis| moves(*axis)).collect();
        let from = self.look.step.min(steps.len().saturating_sub(1)) / STEPS_SHOWN * STEPS_SHOWN;
        let chosen = self.look.step.min(steps.len().saturating_sub(2));
        let on: Vec<&str> = made.model.forces.iter().filter(|f| f.on).map(|f| f.name.as_str()).collect();
        let mut heads = vec!["<i>t</i> (s)".to_owned()];
        for axis in &shown {
            let letter = ["x", "y"][*axis];
            heads.push(format!("<i>{letter}</i> (m)"));
            heads.push(format!("<i>v</i><sub>{letter}</sub> (m/s)"));
            heads.extend(on.iter().map(|name| {
                let sub = if shown.len() > 1 { format!("<sub>{letter}</sub>") } else { String::new() };
                format!("{}{sub} (N)", crate::notation::escape(name))
            }));
            heads.push("net (N)".to_owned());
        }
        let cells = |s: &Step| {
            let mut all = vec![four(s.t)];
            for axis in &shown {
                all.extend([s.position[*axis], s.velocity[*axis]].map(four));
                all.extend(s.forces.iter().map(|f| four(f[*axis])));
                all.push(four(s.net[*axis]));
            }
            all
        };
        let rows = steps.iter().enumerate().skip(from).take(STEPS_SHOWN);
        let working = match (steps.get(chosen), steps.get(chosen + 1)) {
            (Some(step), Some(next)) => shown
                .iter()
                .map(|axis| (["along x", "along y"][*axis].to_owned(), made.model.working(step, next, *axis)))
                .collect(),
            _ => Vec::new(),
        };
        Some(LedgerView {
            number: run.number,
            heads,
            rows: rows.map(|(i, s)| LedgerRow { number: i, cells: cells(s), chosen: i == chosen }).collect(),
            from,
            all: steps.len(),
            back: from.checked_sub(STEPS_SHOWN),
            on: Some(from + STEPS_SHOWN).filter(|n| *n < steps.len()),
            working,
            step: chosen,
        })
    }

    /// What is laid over the stage; blank where nothing is.
    fn overlay(&self) -> String {
        let models = &self.analysis().models;
        let Some(newest) = models.last().and_then(|m| m.worked.as_ref().ok()) else { return String::new() };
        let Some(place) = self.placing(newest) else { return String::new() };
        let thinned = |worked: &Worked| -> Vec<Step> {
            let every = worked.curve.len().div_ceil(LAID).max(1);
            let mut all: Vec<Step> = worked.curve.iter().step_by(every).cloned().collect();
            if !(worked.curve.len().max(1) - 1).is_multiple_of(every) {
                all.extend(worked.curve.last().cloned());
            }
            all
        };
        let at = |step: &Step| place.at(step.position);
        let curves = models.iter().enumerate().filter_map(|(i, m)| {
            let worked = m.worked.as_ref().ok()?;
            let at = thinned(worked).iter().map(at).collect();
            Some(OverlayCurve { number: m.number, newest: i + 1 == models.len(), at })
        });
        let steps = thinned(newest);
        let state = &self.book().state().model;
        let on = state.runs.last().into_iter().flat_map(|r| r.plan.text.forces.iter().filter(|f| f.on));
        let forces = on.enumerate().map(|(i, force)| OverlayForce {
            name: force.name.clone().unwrap_or_else(|| kind_label(force.kind).to_owned()),
            along: steps.iter().map(|s| place.turned(s.forces.get(i).copied().unwrap_or_default())).collect(),
        });
        let lengths = steps.iter().flat_map(|s| s.forces.iter().map(|f| f[0].hypot(f[1])));
        json(&Overlay {
            curves: curves.collect(),
            t: steps.iter().map(|s| rounded(s.t, 5)).collect(),
            forces: forces.collect(),
            largest: lengths.fold(0.0, f64::max),
        })
    }

    /// How places of the model come to lie over the stage.
    fn placing(&self, newest: &Worked) -> Option<Placing<'_>> {
        let book = self.book();
        if book.sheet().is_filmed() {
            let (_, film) = book.state().film_shown()?;
            film.scale()?;
            let sight = film.sight();
            let aside = self.beside_path(film, &sight);
            return Some(Placing::Film { sight: Box::new(sight), origin: film.axes.origin, aside });
        }
        let number = book.state().run_on_stage()?;
        let run = book.footage(number)?.ok()?;
        let foot = book.sheet().card.arrows.first()?.foot;
        let first = newest.curve.first()?;
        let frame = (first.t / book.clock(number)?.frame).round().max(0.0) as usize;
        let body = foot.map(|channel| run.channel(channel).and_then(|v| v.get(frame)).copied());
        let [Some(x), Some(y)] = body else { return None };
        Some(Placing::Scene([x - first.position[0], y - first.position[1]]))
    }
}

impl Scene<'_> {
    /// Where along an axis that is not compared the path lies over a film: in the middle of the trail it is held against.
    fn beside_path(&self, film: &FilmWork, sight: &Sight<'_>) -> [f64; 2] {
        let none = [0.0, 0.0];
        let Some(compared) = self.book().compared(self.analysis()) else { return none };
        let along = [compared.x, compared.y];
        let own = |id: &ColumnId| along.contains(&Some(*id));
        let Some(trail) = film.trails.iter().find(|t| t.columns.iter().any(own)) else { return none };
        let count = trail.marks.len().max(1) as f64;
        let mean = |axis: usize| trail.marks.values().map(|m| sight.place(m.at)[axis]).sum::<f64>() / count;
        [0, 1].map(|axis| if along[axis].is_some() { 0.0 } else { mean(axis) })
    }
}

/// How places and directions of a model are laid over the stage.
enum Placing<'a> {
    /// Over a film with a scale, by the axes as the person laid them.
    Film {
        sight: Box<Sight<'a>>,
        /// Origin of the axes in px.
        origin: [f64; 2],
        /// So far along an axis that is not compared.
        aside: [f64; 2],
    },
    /// Over the scene of a rig, so far from where the model is.
    Scene([f64; 2]),
}

impl Placing<'_> {
    fn at(&self, r: [f64; 2]) -> [f64; 2] {
        match self {
            Self::Film { sight, aside, .. } => {
                sight.picture_of([r[0] + aside[0], r[1] + aside[1]]).map(|v| rounded(v, 1))
            }
            Self::Scene(off) => [r[0] + off[0], -(r[1] + off[1])].map(|v| rounded(v, 5)),
        }
    }

    /// A direction as it is seen, its length kept.
    fn turned(&self, f: [f64; 2]) -> [f64; 2] {
        let long = f[0].hypot(f[1]);
        if long == 0.0 {
            return [0.0, 0.0];
        }
        let seen = match self {
            Self::Film { sight, origin, .. } => {
                let to = sight.picture_of(f.map(|v| 1e-3 * v / long));
                let (dx, dy) = (to[0] - origin[0], to[1] - origin[1]);
                let seen = dx.hypot(dy).max(1e-12);
                [dx / seen * long, dy / seen * long]
            }
            Self::Scene(_) => [f[0], -f[1]],
        };
        seen.map(|v| rounded(v, 6))
    }
}

fn fitted_words(run: &ModelRun, part: &FittedPart) -> String {
    let Some(p) = run.parameter() else { return String::new() };
    let start = if run.plan.start_from_data { ", the start along with it" } else { "" };
    let value = with_unit(&plus_minus(p.value, p.u), &p.unit);
    format!("{} = {value}, fitted to {} positions{start}", symbol_html(&p.symbol), part.n)
}
