//! The step model: how it is set, its curves beside the data, how near they come, and its ledger.

mod ledger;
mod overlay;
mod said;

use askama::Template;
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::{Called, ColumnText, Part, RecordEdit, Trace};
use zeitmass_core::quantity::PrecisionText;
use zeitmass_core::quantity::format::to_step;
use zeitmass_core::record::{ColumnId, ColumnKind};
use zeitmass_core::step_model::{ForceField, ForceName, ForceText, Method, ModelField};
use zeitmass_words::Words;

use super::Scene;
use super::words::Beside;
use crate::draw::{self, Audience};
use crate::notation::symbol_html;
use crate::wish::{json, wish};
use ledger::LedgerView;
use said::RunView;
pub(crate) use said::WrittenModel;

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
    kinds: Vec<(&'static str, String)>,
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

/// To four figures.
fn four(value: f64) -> String {
    if value == 0.0 { "0".to_owned() } else { to_step(value, 10f64.powf(value.abs().log10().floor() - 3.0)) }
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
        let shown = compared.map_or_else(Vec::new, |with| analysis.models_of(with));
        let newest = shown.last().copied();
        let ledger = self.ledger_view(axes);
        let graph = compared.and_then(|with| book.model_figure(analysis, with, trace));
        let wanted = matches!(trace, Trace::Vx | Trace::Vy) && graph.is_none();
        ModelPart {
            beside: self.beside(Part::Model),
            there: book.sheet().step_model,
            writable: self.open_at(Step::Model),
            times: self.choices(0),
            xs: self.choices(1),
            ys: self.choices(2),
            compared: [compared.map(|c| c.t), compared.and_then(|c| c.x), compared.and_then(|c| c.y)]
                .map(|id| json(&id)),
            body: vec![field(ModelField::Mass)],
            start: ModelField::ALL.iter().copied().filter(asked).map(field).collect(),
            stepping: vec![field(ModelField::Step), field(ModelField::Until)],
            from_data: book.state().model.plan.start_from_data,
            methods: Method::ALL.iter().map(|m| (m.name(), *m == text.method)).collect(),
            forces: self.force_views(),
            kinds: ForceName::ALL.iter().map(|k| (k.name(), k.words())).collect(),
            traces: self.trace_tabs(axes, trace),
            svg: graph.map_or_else(String::new, |g| draw::svg(&g, Audience::Reader)),
            make_velocities: if wanted { self.velocity_column(trace) } else { String::new() },
            sentences: newest.map_or_else(Vec::new, |m| self.model_sentences(m)),
            error: newest.and_then(|m| m.worked.as_ref().err()).map_or_else(String::new, Words::words),
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
        let offered = Trace::ALL.iter().copied().filter(|t| Self::offers(axes, *t));
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
            name: Called::from(force).words(),
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
}
