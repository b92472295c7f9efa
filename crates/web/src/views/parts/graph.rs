//! The graph, its curves, what they say, and what was asked of them.

use askama::Template;
use zeitmass_core::fit::{Fit, Model, Parameter, Weighting, student};
use zeitmass_core::graph::{AxisScale, FitSpec, Gap, Graph, GraphSpec};
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::{Part, TextField};
use zeitmass_core::quantity::format::{plain, plus_minus, to_step, with_unit};
use zeitmass_core::quantity::{DrawnFrom, Unit};
use zeitmass_core::record::{Table, TableColumn};
use zeitmass_core::result::{Agreement, Feedback, compare_slopes, read_out, simple_fraction};
use zeitmass_words::{Words, data};

use super::drawn::{DrawnPart, drawn_part};
use super::words::Beside;
use super::{Scene, two_figures};
use crate::draw::{self, Audience, look_words, parameter_text};
use crate::notation::{escape, formula_html, symbol_html};

pub(super) struct AxisOption {
    id: u32,
    label: String,
    chosen: bool,
}

/// The columns of a table; its name is told when there are several tables.
pub(super) struct AxisOptions {
    table: String,
    options: Vec<AxisOption>,
}

pub(super) struct Tab {
    id: u32,
    name: String,
    chosen: bool,
}

/// A parameter of a curve, as it is told below the graph.
pub(crate) struct ParameterView {
    pub symbol: String,
    pub value: String,
}

/// What a curve says about itself.
pub(super) struct FitView {
    label: String,
    equation: String,
    parameters: Vec<ParameterView>,
    quality: String,
    covariance: Vec<Vec<String>>,
    names: Vec<String>,
    error: String,
}

pub(super) struct StretchView {
    id: u32,
    letter: char,
    from: String,
    to: String,
    slope: String,
    model: String,
    formula: String,
    start: String,
    weighting: &'static str,
}

/// A piece of a sentence: words, or a gap.
pub(super) struct Piece {
    words: String,
    gap: &'static str,
    filled: String,
    feedback: String,
    right: bool,
}

pub(super) struct AxisView {
    up: bool,
    label: &'static str,
    title: String,
    logarithmic: bool,
    zero: bool,
    from: String,
    to: String,
    unit: String,
}

pub(super) struct SeriesView {
    index: usize,
    label: String,
}

#[derive(Template)]
#[template(path = "bench/graph_part.html")]
pub(super) struct GraphPart {
    beside: Beside,
    writable: bool,
    graph: u32,
    tabs: Vec<Tab>,
    title: String,
    across: Vec<AxisOptions>,
    up: Vec<AxisOptions>,
    offers: Vec<AxisOptions>,
    chosen: bool,
    svg: String,
    points: usize,
    aside: usize,
    models: Vec<(&'static str, String, bool)>,
    /// The chosen columns, as JSON.
    no_model: bool,
    model: String,
    formula: String,
    start: String,
    weightings: Vec<(&'static str, &'static str, bool)>,
    errors: Vec<String>,
    read_out: Vec<String>,
    gaps: Vec<Vec<Piece>>,
    intercept_question: String,
    intercept_text: String,
    fits: Vec<FitView>,
    stretches: Vec<StretchView>,
    slopes: Vec<String>,
    look_forward: String,
    look_back: String,
    look_words: Vec<String>,
    look_error: String,
    x_symbol: String,
    y_symbol: String,
    axes: Vec<AxisView>,
    series: Vec<SeriesView>,
    bars: bool,
    residuals: bool,
    band: bool,
    grouped: bool,
    groups: bool,
    zoomed: bool,
    drawn: DrawnPart,
    /// What the sheet says of it once the logbook is handed in: headings and texts.
    after: Vec<(String, String)>,
}

impl Scene<'_> {
    /// What the curves of a graph offer to the tables: all parameters of a single one, of several their slopes; and what was looked up.
    fn drawn_of(&self, graph: &Graph, plan: &GraphSpec) -> DrawnPart {
        let id = graph.id;
        let single = graph.fits.len() == 1;
        let mut values = Vec::new();
        let mut kinds: Vec<String> = Vec::new();
        for (place, fitted) in graph.fits.iter().enumerate() {
            let Ok(fit) = &fitted.outcome else { continue };
            let of = label_of(graph, place);
            for p in &fit.parameters {
                if !kinds.contains(&p.symbol) {
                    kinds.push(p.symbol.clone());
                }
                if !single && fit.slope().is_some_and(|slope| slope.symbol != p.symbol) {
                    continue;
                }
                let label = if single { p.symbol.clone() } else { format!("{}, {of}", p.symbol) };
                let series = graph.series.get(fitted.series).filter(|_| graph.series.len() > 1);
                let source = DrawnFrom::Parameter {
                    graph: id,
                    stretch: fitted.stretch.map(|(id, _)| id),
                    series: series.map(|s| s.label.clone()),
                    symbol: p.symbol.clone(),
                    of: graph.series.get(fitted.series).map(|s| s.columns),
                };
                values.push((label, source));
            }
        }
        if let (Some(look), Some(Ok(looked))) = (&plan.look, &graph.look) {
            let (found, asked) = if look.back { (&graph.x, &graph.y) } else { (&graph.y, &graph.x) };
            for place in 0..looked.found.len() {
                let label =
                    format!("{} at {} = {}", found.symbol, asked.symbol, with_unit(&look.number.pretty(), &look.unit));
                let (number, unit) = (look.number.clone(), look.unit.clone());
                let source = DrawnFrom::Look {
                    graph: id,
                    stretch: look.stretch,
                    back: look.back,
                    number,
                    unit,
                    place,
                    of: None,
                };
                values.push((label, source));
            }
        }
        let alike = kinds.into_iter().map(|symbol| {
            (
                format!("values of {symbol}"),
                DrawnFrom::Parameter { graph: id, stretch: None, series: None, symbol, of: None },
            )
        });
        drawn_part(self.book(), self.analysis(), &values, &alike.collect::<Vec<_>>())
    }

    pub(super) fn graph(&self) -> GraphPart {
        let state = self.book().state();
        let id = self.graph_id();
        let default = GraphSpec::default();
        let plan = state.graph(id).unwrap_or(&default);
        let graph = self.analysis().graph(id);
        let writable = self.open_at(Step::Graph);
        let audience = if writable { Audience::Bench } else { Audience::Reader };
        let (model, formula, start, weighting) = fit_form(plan.fit.as_ref());
        let gaps_wanted = self.book().sheet().gaps && self.viewer.may_write();
        let look = plan.look.as_ref().map(|l| (l.back, with_unit(l.number.as_str(), &l.unit).replace('\u{A0}', " ")));
        let (look_words, look_error) = match graph.and_then(|g| Some((g, g.look.as_ref()?))) {
            Some((g, Ok(looked))) => (look_words(g, looked), String::new()),
            Some((_, Err(e))) => (Vec::new(), e.words()),
            None => (Vec::new(), String::new()),
        };
        let groups =
            self.analysis().tables.iter().any(|t| !t.groups.is_empty() && plan.y.is_some_and(|y| t.place(y).is_some()));
        let symbol =
            |up: bool| graph.map_or_else(String::new, |g| if up { g.y.symbol.clone() } else { g.x.symbol.clone() });
        GraphPart {
            beside: self.beside(Part::Graph),
            writable,
            graph: id,
            tabs: self.graph_tabs(id),
            title: plan.title.clone(),
            across: self.options(plan.x),
            up: self.options(plan.y),
            offers: self.options(None),
            chosen: plan.x.is_some() && plan.y.is_some(),
            svg: graph.map(|g| draw::svg(g, audience)).unwrap_or_default(),
            points: graph.map_or(0, |g| g.points().count()),
            aside: graph.map_or(0, |g| g.points().filter(|p| p.aside).count()),
            models: Model::OFFERED.iter().map(|m| (m.name(), m.words(), model == m.name())).collect(),
            no_model: plan.fit.is_none(),
            model,
            formula,
            start,
            weightings: Weighting::ALL.iter().map(|w| (w.name(), data::weighting(*w), *w == weighting)).collect(),
            errors: graph.map(errors).unwrap_or_default(),
            read_out: if gaps_wanted { Vec::new() } else { graph.map(sentences).unwrap_or_default() },
            gaps: if gaps_wanted { graph.and_then(|g| gap_sentences(g, plan)).unwrap_or_default() } else { Vec::new() },
            intercept_question: graph.map(intercept_question).unwrap_or_default(),
            intercept_text: state.writing.texts.get(&TextField::Intercept).cloned().unwrap_or_default(),
            fits: graph.map(fit_views).unwrap_or_default(),
            stretches: graph.map(|g| stretch_views(g, plan)).unwrap_or_default(),
            drawn: graph.filter(|_| writable).map(|g| self.drawn_of(g, plan)).unwrap_or_default(),
            slopes: graph.map(slope_comparisons).unwrap_or_default(),
            look_forward: look.as_ref().filter(|l| !l.0).map(|l| l.1.clone()).unwrap_or_default(),
            look_back: look.as_ref().filter(|l| l.0).map(|l| l.1.clone()).unwrap_or_default(),
            look_words,
            look_error,
            x_symbol: symbol_html(&symbol(false)),
            y_symbol: symbol_html(&symbol(true)),
            axes: [false, true].map(|up| axis_view(plan, graph, up)).into(),
            series: self.series(plan),
            bars: plan.bars,
            residuals: plan.residuals,
            band: plan.band,
            grouped: plan.grouped,
            groups,
            zoomed: [&plan.across, &plan.up].iter().any(|a| a.from.is_some() || a.to.is_some()),
            after: self.told_after_handing_in(),
        }
    }

    fn graph_tabs(&self, chosen: u32) -> Vec<Tab> {
        let plans = self.book().state().graph.graphs.iter().zip(1..);
        plans
            .map(|(p, i)| {
                let name = match (p.title.is_empty(), self.analysis().graph(p.id)) {
                    (false, _) => p.title.clone(),
                    (true, Some(g)) => format!("{} against {}", g.y.symbol, g.x.symbol),
                    (true, None) => format!("graph {i}"),
                };
                Tab { id: p.id, name, chosen: p.id == chosen }
            })
            .collect()
    }

    fn options(&self, chosen: Option<u32>) -> Vec<AxisOptions> {
        let several = self.analysis().tables.len() > 1;
        let option = |c: &TableColumn| AxisOption {
            id: c.column.id,
            label: format!("{} ({})", c.column.symbol, c.column.name),
            chosen: chosen == Some(c.column.id),
        };
        let of = |t: &Table| AxisOptions {
            table: if several { t.record.name.clone() } else { String::new() },
            options: t.columns.iter().map(option).collect(),
        };
        self.analysis().tables.iter().filter(|t| !t.columns.is_empty()).map(of).collect()
    }

    fn series(&self, plan: &GraphSpec) -> Vec<SeriesView> {
        let symbol = |id: u32| {
            let column = self.book().state().table_of(id).and_then(|t| t.column(id));
            column.map_or_else(String::new, |c| c.symbol.clone())
        };
        let more = plan.more.iter().enumerate();
        more.map(|(index, (x, y))| SeriesView { index, label: format!("{} against {}", symbol(*y), symbol(*x)) })
            .collect()
    }
}

/// The fields of the form of a curve: model, formula, start values, weighting.
fn fit_form(fit: Option<&FitSpec>) -> (String, String, String, Weighting) {
    let Some(fit) = fit else { return (String::new(), String::new(), String::new(), Weighting::Equal) };
    let (formula, start) = if let Model::Typed(t) = &fit.model {
        let start = t.start.iter().map(|(s, v)| format!("{s}={v}")).collect::<Vec<_>>().join(", ");
        (t.formula.text().to_owned(), start)
    } else {
        (String::new(), String::new())
    };
    (fit.model.name().to_owned(), formula, start, fit.weighting)
}

fn label_of(graph: &Graph, place: usize) -> String {
    let fitted = &graph.fits[place];
    match (fitted.stretch, graph.series.len()) {
        (Some((_, letter)), _) => format!("Interval {letter}"),
        (None, 1) => String::new(),
        (None, _) => graph.series.get(fitted.series).map_or_else(String::new, |s| s.label.clone()),
    }
}

fn errors(graph: &Graph) -> Vec<String> {
    let with_label = |(i, message): (usize, String)| {
        let label = label_of(graph, i);
        if label.is_empty() { message } else { format!("{label}: {message}") }
    };
    let failed = graph.fits.iter().enumerate().filter_map(|(i, f)| Some((i, f.outcome.as_ref().err()?.words())));
    failed.map(with_label).collect()
}

/// Slope and intercept as sentences, for the only curve of a graph.
pub(crate) fn sentences(graph: &Graph) -> Vec<String> {
    let [only] = graph.fits.as_slice() else { return Vec::new() };
    let Ok(fit) = &only.outcome else { return Vec::new() };
    let mut sentences = Vec::new();
    let (x, y) = (symbol_html(&graph.x.symbol), symbol_html(&graph.y.symbol));
    if let Some(out) = read_out(fit, &graph.x, &graph.y, &Default::default()) {
        let turn = if out.falls { "falls" } else { "rises" };
        let per = with_unit("1", &graph.x.unit);
        let by = with_unit(&plus_minus(out.change.0, out.change.1), &graph.y.unit);
        sentences.push(format!("For every {per} of {x}, {y} {turn} by {by}."));
        if let Some(b) = fit.intercept() {
            let shown = with_unit(&plus_minus(b.value, b.u), &graph.y.unit);
            sentences.push(format!("Where {x} is zero the line is at {shown}: {}.", near_zero(b)));
        }
        if let Some(words) = exponent(graph, fit) {
            sentences.push(words);
        }
    } else if let (Model::Power, Some(n)) = (&fit.model, fit.parameter("n")) {
        sentences.push(fraction_words(n.value, n.u, &y, &x));
    }
    if fit.dof == 0 {
        sentences.push(
            "So few points always fit: they do not determine how certain the curve is. Measure one more.".to_owned(),
        );
    }
    sentences
}

fn near_zero(b: &Parameter) -> &'static str {
    if b.u.is_nan() {
        "its uncertainty is not determined: measure one more point"
    } else if b.value.abs() <= student(b.freedom) * b.u {
        "consistent with zero"
    } else {
        "not consistent with zero"
    }
}

/// The exponent of a power law, when both axes are logarithms.
fn exponent(graph: &Graph, fit: &Fit) -> Option<String> {
    let name = |symbol: &str| symbol.strip_suffix("_ln").map(symbol_html);
    let (x, y) = (name(&graph.x.symbol)?, name(&graph.y.symbol)?);
    let slope = fit.slope()?;
    Some(fraction_words(slope.value, slope.u, &y, &x))
}

fn fraction_words(value: f64, u: f64, y: &str, x: &str) -> String {
    let found = simple_fraction(value, u);
    let shown = plus_minus(value, u);
    let tail = match found.fraction {
        Some((n, 1)) => format!("which agrees with {}", plain(f64::from(n))),
        Some((n, d)) => format!("which agrees with {}/{d}", plain(f64::from(n))),
        None if u.is_nan() || 4.0 * u >= 1.0 => "too uncertain to name a simple fraction".to_owned(),
        None => "which agrees with no simple fraction".to_owned(),
    };
    format!("{y} is proportional to {x} to the power {shown}, {tail}.")
}

fn intercept_question(graph: &Graph) -> String {
    let [only] = graph.fits.as_slice() else { return String::new() };
    let Some((fit, b)) = only.outcome.as_ref().ok().and_then(|f| Some((f, f.intercept()?))) else {
        return String::new();
    };
    let _ = fit;
    let (x, y) = (symbol_html(&graph.x.symbol), symbol_html(&graph.y.symbol));
    format!(
        "Does it make sense that {y} is {} where {x} is zero ({})?",
        with_unit(&plus_minus(b.value, b.u), &graph.y.unit),
        near_zero(b)
    )
}

/// The sentences with gaps in the place of what the student is to find.
fn gap_sentences(graph: &Graph, plan: &GraphSpec) -> Option<Vec<Vec<Piece>>> {
    let [only] = graph.fits.as_slice() else { return None };
    let fit = only.outcome.as_ref().ok()?;
    let out = read_out(fit, &graph.x, &graph.y, &plan.gaps)?;
    let words =
        |text: String| Piece { words: text, gap: "", filled: String::new(), feedback: String::new(), right: false };
    let gap = |gap: Gap| {
        let (filled, feedback) = out.gaps.get(&gap).cloned().unwrap_or((String::new(), Feedback::Empty));
        Piece {
            words: String::new(),
            gap: gap.name(),
            filled,
            feedback: feedback.words(),
            right: feedback == Feedback::Right,
        }
    };
    let per = with_unit("1", &graph.x.unit);
    let mut all = vec![vec![
        words(format!("For every {per} of")),
        gap(Gap::Across),
        words(",".to_owned()),
        gap(Gap::Up),
        words("changes by".to_owned()),
        gap(Gap::Slope),
        gap(Gap::SlopeUnit),
        words(".".to_owned()),
    ]];
    if out.intercept.is_some() {
        let x = symbol_html(&graph.x.symbol);
        all.push(vec![
            words(format!("Where {x} is zero the line is at")),
            gap(Gap::Intercept),
            gap(Gap::InterceptUnit),
            words(".".to_owned()),
        ]);
    }
    Some(all)
}

fn fit_views(graph: &Graph) -> Vec<FitView> {
    let view = |i: usize| {
        let label = label_of(graph, i);
        match &graph.fits[i].outcome {
            Err(e) => FitView {
                label,
                equation: String::new(),
                parameters: Vec::new(),
                quality: String::new(),
                covariance: Vec::new(),
                names: Vec::new(),
                error: e.words(),
            },
            Ok(fit) => FitView {
                label,
                equation: format!("{} = {}", symbol_html(&graph.y.symbol), formula_html(fit.model.equation())),
                parameters: fit
                    .parameters
                    .iter()
                    .map(|p| ParameterView { symbol: escape(&p.symbol), value: parameter_text(p) })
                    .collect(),
                quality: quality(graph, fit),
                covariance: fit.covariance.iter().map(|row| row.iter().map(|v| covariance(*v)).collect()).collect(),
                names: fit.parameters.iter().map(|p| p.symbol.clone()).collect(),
                error: String::new(),
            },
        }
    };
    (0..graph.fits.len()).map(view).collect()
}

fn covariance(v: f64) -> String {
    if v.is_nan() { "–".to_owned() } else { two_figures(v) }
}

/// How well the curve describes the points, in one line.
fn quality(graph: &Graph, fit: &Fit) -> String {
    let mut parts = vec![format!("{} points", fit.n), data::weighting(fit.weighting).to_owned()];
    if fit.residual_sd.is_finite() {
        parts.push(format!("residual standard deviation {}", with_unit(&two_figures(fit.residual_sd), &graph.y.unit)));
    }
    if let (Some(chi2), Some(p)) = (fit.chi2_reduced, fit.chi2_probability()) {
        parts.push(format!("reduced χ² {} (as much or more: {}\u{A0}%)", two_figures(chi2), two_figures(100.0 * p)));
    }
    if fit.dof > 0 {
        // As many nines as there are, and two figures after them.
        let digits = (1.0 - fit.r2).abs().max(1e-12).log10().floor() - 1.0;
        parts.push(format!("R² {}", to_step(fit.r2, 10f64.powf(digits.max(-8.0)))));
    }
    if let Some(nearer) = &fit.nearer {
        let start =
            nearer.iter().map(|(symbol, value, unit)| format!("{symbol} = {}", with_unit(&two_figures(*value), unit)));
        parts.push(format!(
            "from other start values the curve comes nearer to the points: try {}",
            start.collect::<Vec<_>>().join(", ")
        ));
    }
    if let Some(times) = fit.uneven {
        parts.push(format!(
            "one point is {} times as uncertain as another, which the uncertainties allow for; counting the points by their uncertainty makes more of them",
            to_step(times, if times < 10.0 { 0.1 } else { 1.0 })
        ));
    }
    parts.join(" · ")
}

fn stretch_views(graph: &Graph, plan: &GraphSpec) -> Vec<StretchView> {
    let size = graph.x.unit.size();
    let views = plan.stretches.iter().map(|s| {
        let fitted = graph.fit_of(Some(s.id), None).and_then(|f| f.outcome.as_ref().ok());
        let slope = fitted.and_then(Fit::slope).map(|p| format!("slope {}", parameter_text(p))).unwrap_or_default();
        let (model, formula, start, weighting) = fit_form(Some(&s.fit));
        let end = |v: f64| with_unit(&plain(v / size), &graph.x.unit).replace('\u{A0}', " ").replace('\u{2212}', "-");
        StretchView {
            id: s.id,
            letter: s.letter,
            from: end(s.from),
            to: end(s.to),
            slope,
            model,
            formula,
            start,
            weighting: weighting.name(),
        }
    });
    views.collect()
}

/// Slopes of stretches and of series, each with the next.
fn slope_comparisons(graph: &Graph) -> Vec<String> {
    let lines: Vec<(String, &Fit)> = graph
        .fits
        .iter()
        .enumerate()
        .filter_map(|(i, f)| Some((label_of(graph, i), f.outcome.as_ref().ok()?)))
        .collect();
    let compared = lines.windows(2).filter_map(|pair| {
        let (difference, unit) = compare_slopes(pair[0].1, pair[1].1)?;
        let shown = with_unit(&plus_minus(difference.value, difference.u), &unit);
        let verdict = match (difference.agreement, difference.in_uncertainties()) {
            (Agreement::Within, Some(k)) => format!("{} times its uncertainty: the slopes agree", two_figures(k)),
            (Agreement::Outside, Some(k)) => format!("{} times its uncertainty: the slopes differ", two_figures(k)),
            (Agreement::Within, None) => "the slopes are the same".to_owned(),
            (Agreement::Outside, None) => "the slopes differ".to_owned(),
            (Agreement::Unknown, _) => "its uncertainty is not determined: measure one more point".to_owned(),
        };
        Some(format!("{} minus {}: {shown}, {verdict}.", pair[0].0, pair[1].0.replace("Interval", "interval")))
    });
    compared.collect()
}

fn axis_view(plan: &GraphSpec, graph: Option<&Graph>, up: bool) -> AxisView {
    let (axis, drawn) = if up { (&plan.up, graph.map(|g| &g.y)) } else { (&plan.across, graph.map(|g| &g.x)) };
    let unit = drawn.map_or_else(Unit::one, |a| a.unit.clone());
    let end = |v: Option<f64>| v.map_or_else(String::new, |v| plain(v / unit.size()).replace('\u{2212}', "-"));
    AxisView {
        up,
        label: if up { "up" } else { "across" },
        title: axis.title.clone(),
        logarithmic: axis.scale == AxisScale::Logarithmic,
        zero: axis.zero,
        from: end(axis.from),
        to: end(axis.to),
        unit: unit.pretty(),
    }
}
