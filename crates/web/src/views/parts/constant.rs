//! The results: where each comes from, what the law says, and how it compares.

use askama::Template;
use zeitmass_core::fit::Parameter;
use zeitmass_core::graph::GraphId;
use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::Freedom;
use zeitmass_core::logbook::{GroupOutcome, ModelRun, Part, ResultOutcome, ResultSource, TermVerdict};
use zeitmass_core::quantity::DrawnFrom;
use zeitmass_core::quantity::format::{bracketed, plain, plus_minus, to_step, with_unit};
use zeitmass_core::result::{
    Agreement, Comparison, Constant, Difference, FIRST_RESULT, ResultFrom, ResultSpec, Term, difference,
    percent_difference,
};
use zeitmass_words::{Words, slips};

use super::drawn::{DrawnPart, drawn_part};
use super::words::Beside;
use super::{Scene, two_figures};
use crate::draw::parameter_text;
use crate::notation::{formula_html, symbol_html};
use crate::wish::json;

/// Rows offered for an unknown at most.
const MOST_ROWS: usize = 60;

pub(crate) struct SourceOption {
    value: String,
    label: String,
    chosen: bool,
}

/// A term of the law, below what stands for it in the line.
pub(crate) struct TermView {
    name: &'static str,
    /// What stands between the term before and this one.
    pub sign: &'static str,
    /// What stands in the fitted line, as HTML; empty where it is no line.
    pub line: String,
    /// The symbol on the axis, which the law may have as it is.
    on_axis: String,
    label: String,
    pub text: String,
    pub shown: String,
    right: bool,
    said: String,
}

/// A result, for the bench and the write-up.
pub(crate) struct ResultView {
    pub id: u32,
    pub name: String,
    pub first: bool,
    pub sources: Vec<SourceOption>,
    pub kind: &'static str,
    pub found: String,
    pub terms: Vec<TermView>,
    pub law: String,
    pub reading: String,
    /// Rows in which the unknown may have been measured: id, label, chosen.
    pub rows: Vec<(u32, String, bool)>,
    pub value: String,
    pub error: String,
    pub accepted: String,
    pub source: String,
    pub verdict: Vec<String>,
    pub steady: Vec<String>,
    /// What the curve of each group gives: group, value, accepted value, percent error.
    pub groups: Vec<[String; 4]>,
    /// What it offers to the tables.
    pub drawn: DrawnPart,
}

impl ResultView {
    /// Whether it starts from a straight line, below which the law is written.
    pub fn is_line(&self) -> bool {
        self.terms.iter().any(|t| !t.line.is_empty())
    }
}

#[derive(Template)]
#[template(path = "bench/constant_part.html")]
pub(super) struct ConstantPart {
    beside: Beside,
    writable: bool,
    /// Whether nothing is there yet that a result could come from.
    bare: bool,
    results: Vec<ResultView>,
    between: Vec<String>,
    /// The right answer and the hidden settings; empty for students.
    key: Vec<String>,
    /// Questions about likely mistakes, where the sheet lets them be asked.
    asks: Vec<String>,
}

/// A parameter as it stands in the line: `4.019(13) s²/m`.
fn in_place(p: &Parameter) -> String {
    with_unit(&if p.u.is_nan() { plus_minus(p.value, p.u) } else { bracketed(p.value, p.u) }, &p.unit)
}

impl Scene<'_> {
    pub(super) fn constant(&self) -> ConstantPart {
        let results = self.results();
        ConstantPart {
            beside: self.beside(Part::Constant),
            writable: self.open_at(Step::Constant),
            bare: !self.analysis().graphs.iter().any(|(_, g)| g.as_ref().is_some_and(|g| g.first_fit().is_some()))
                && results.iter().all(|r| r.kind == "curve"),
            results,
            between: self.between(),
            key: if self.viewer.sees_key() { self.key_words() } else { Vec::new() },
            asks: if self.viewer.may_write() {
                self.book().slips_to_ask(self.analysis()).into_iter().map(|s| slips::question(&s)).collect()
            } else {
                Vec::new()
            },
        }
    }

    /// The key of this logbook, for the teacher: the constant with its tolerance, how the result stands to it, and what was
    /// hidden or dealt.
    fn key_words(&self) -> Vec<String> {
        let book = self.book();
        let mut words = Vec::new();
        if let Some(key) = book.key() {
            let value = match key.tolerance {
                Some(t) => plus_minus(key.value, t),
                None => plain((key.value * 1e4).round() / 1e4),
            };
            words.push(format!(
                "Key: {} = {}{}.",
                key.symbol,
                with_unit(&value, &key.unit),
                if key.tolerance.is_some() { ", within three standard uncertainties of one careful trial" } else { "" }
            ));
            let result = self.analysis().outcome(FIRST_RESULT).and_then(|o| o.constant.as_ref());
            words.push(match result {
                Some(Ok(c)) if c.unit.same_dimension(&key.unit) => {
                    let factor = c.unit.size() / key.unit.size();
                    let near = key.accepts(c.value * factor, c.u * factor);
                    format!("The result {} {} with the key.", shown(c), if near { "agrees" } else { "does not agree" })
                }
                Some(Ok(c)) => format!("The result {} is in another unit than the key.", shown(c)),
                _ => "There is no result yet.".to_owned(),
            });
        }
        words.extend(book.slips(self.analysis()).into_iter().map(|s| format!("Likely slip: {}", slips::evidence(&s))));
        for rule in book.rules() {
            let secret = rule.freedom == Freedom::Hidden;
            if let Some(spec) = book.sheet().card.setting(rule.name).filter(|_| secret || rule.dealt.is_some()) {
                let how = match (secret, rule.dealt.is_some()) {
                    (true, true) => "dealt and hidden",
                    (true, false) => "hidden",
                    _ => "dealt",
                };
                words.push(format!("{}: {} ({how})", spec.label, spec.pretty(&rule.value)));
            }
        }
        words
    }

    /// All results.
    pub(crate) fn results(&self) -> Vec<ResultView> {
        let plans = self.book().state().result.results.iter();
        plans.filter_map(|plan| Some(self.result(plan, self.analysis().outcome(plan.id)?))).collect()
    }

    fn result(&self, plan: &ResultSpec, outcome: &ResultOutcome) -> ResultView {
        let goal = &self.book().sheet().goal;
        let (mut value, mut error) = (String::new(), String::new());
        match &outcome.constant {
            Some(Ok(c)) => value = format!("{} = {}", constant_name(c), shown(c)),
            Some(Err(e)) => error = e.words(),
            None => {}
        }
        let name = if plan.id == FIRST_RESULT && plan.name.is_empty() {
            format!("{} {}", goal.name, goal.symbol)
        } else {
            plan.name.clone()
        };
        let parameter = match &plan.from {
            ResultFrom::Curve { parameter, .. } => parameter.clone(),
            ResultFrom::Model { run } => {
                let fitted = self.book().state().model.run(*run).and_then(ModelRun::parameter);
                fitted.map_or_else(String::new, |p| p.symbol)
            }
            ResultFrom::Column { .. } | ResultFrom::Calibration { .. } => String::new(),
        };
        // What stands on axes is no matter of a model.
        let of_model = matches!(plan.from, ResultFrom::Model { .. });
        let terms = Term::ALL.iter().filter(|t| !of_model || **t == Term::Slope);
        ResultView {
            id: plan.id,
            first: plan.id == FIRST_RESULT,
            name,
            sources: self.sources(plan),
            kind: match plan.from {
                ResultFrom::Curve { .. } => "curve",
                ResultFrom::Column { .. } => "column",
                ResultFrom::Calibration { .. } => "calibration",
                ResultFrom::Model { .. } => "model",
            },
            found: self.found(plan),
            terms: terms.map(|t| self.term(*t, &parameter, plan, outcome)).collect(),
            law: plan.law.slope.as_ref().map_or_else(String::new, |f| formula_html(f.text())),
            reading: match &plan.from {
                ResultFrom::Calibration { reading: Some((number, unit)), .. } => {
                    with_unit(number.as_str(), unit).replace('\u{A0}', " ")
                }
                ResultFrom::Curve { .. }
                | ResultFrom::Column { .. }
                | ResultFrom::Calibration { reading: None, .. }
                | ResultFrom::Model { .. } => String::new(),
            },
            rows: self.rows_of_unknown(plan),
            value,
            error,
            accepted: plan
                .accepted
                .as_ref()
                .map_or_else(String::new, |(n, u)| with_unit(&n.pretty(), u).replace('\u{A0}', " ")),
            source: plan.source.clone(),
            verdict: verdict(plan, outcome),
            steady: steady_words(outcome),
            groups: outcome.groups.iter().map(group_row).collect(),
            drawn: self.drawn_result(plan),
        }
    }

    /// Rows that have a height on the graph of a calibration, those first that have no place on it.
    fn rows_of_unknown(&self, plan: &ResultSpec) -> Vec<(u32, String, bool)> {
        let ResultFrom::Calibration { graph, row, .. } = &plan.from else { return Vec::new() };
        let graph = self.analysis().graph(*graph);
        let columns = graph.and_then(|g| g.series.first()).map(|s| s.columns);
        let found = columns.and_then(|(x, y)| {
            let table = self.analysis().tables.iter().find(|t| t.place(y).is_some())?;
            let (x, y) = (table.place(x)?, table.place(y)?);
            let unit = table.columns[y].unit.as_ref().ok()?;
            let rows = (0..table.rows.len()).filter(|i| table.columns[y].cells[*i].value().is_some());
            let mut rows: Vec<usize> = rows.collect();
            rows.sort_by_key(|i| table.columns[x].cells[*i].value().is_some());
            let label = |i: usize| {
                let value = with_unit(&table.text(y, i), unit);
                format!("row {}: {} = {value}", table.rows[i].number, table.columns[y].column.symbol)
            };
            let one = |i: usize| (table.rows[i].id, label(i), Some(table.rows[i].id) == *row);
            Some(rows.into_iter().take(MOST_ROWS).map(one).collect())
        });
        found.unwrap_or_default()
    }

    /// What a result offers to the tables.
    fn drawn_result(&self, plan: &ResultSpec) -> DrawnPart {
        if !self.open_at(Step::Constant) {
            return DrawnPart::default();
        }
        let source = DrawnFrom::Result { result: plan.id, group: None };
        let alike = [("results of the groups".to_owned(), source.clone())];
        drawn_part(self.book(), self.analysis(), &[("result".to_owned(), source)], &alike)
    }

    /// Everything a result can come from.
    fn sources(&self, plan: &ResultSpec) -> Vec<SourceOption> {
        let mut all = Vec::new();
        let several = self.analysis().graphs.len() > 1;
        for ((id, graph), number) in self.analysis().graphs.iter().zip(1..) {
            let Some(graph) = graph else { continue };
            let place = if several { format!(" of graph {number}") } else { String::new() };
            for fitted in &graph.fits {
                let stretch = fitted.stretch.map(|(s, _)| s);
                let series =
                    graph.series.get(fitted.series).filter(|_| graph.series.len() > 1).map(|s| s.label.clone());
                let mut of = fitted.stretch.map_or_else(String::new, |(_, letter)| format!(", interval {letter}"));
                of.extend(series.iter().flat_map(|label| [", ", label.as_str()]));
                // The first series is meant without being named.
                let series = series.filter(|_| fitted.series > 0);
                if let Ok(fit) = &fitted.outcome {
                    for p in &fit.parameters {
                        let (series, parameter) = (series.clone(), p.symbol.clone());
                        let from = ResultSource::Curve { graph: *id, stretch, series, parameter };
                        all.push((from, format!("{}{place}{of}", p.symbol)));
                    }
                    if fitted.series == 0 {
                        all.push((
                            ResultSource::Calibration { graph: *id, stretch },
                            format!("unknown {} read from the curve{place}{of}", graph.x.symbol),
                        ));
                    }
                }
            }
        }
        for table in &self.analysis().tables {
            for c in &table.columns {
                let symbol = &c.column.symbol;
                all.push((
                    ResultSource::Column { column: c.column.id },
                    format!("column {symbol} that should stay the same"),
                ));
            }
        }
        for run in &self.book().state().model.runs {
            if let Some(p) = run.parameter() {
                all.push((ResultSource::Model { run: run.id }, format!("{} fitted in model {}", p.symbol, run.number)));
            }
        }
        let chosen = match &plan.from {
            ResultFrom::Curve { graph, stretch, series, parameter } => {
                let (series, parameter) = (series.clone(), parameter.clone());
                ResultSource::Curve { graph: *graph, stretch: *stretch, series, parameter }
            }
            ResultFrom::Column { column } => ResultSource::Column { column: *column },
            ResultFrom::Model { run } => ResultSource::Model { run: *run },
            ResultFrom::Calibration { graph, stretch, .. } => {
                ResultSource::Calibration { graph: *graph, stretch: *stretch }
            }
        };
        if all.iter().all(|(value, _)| *value != chosen) {
            all.insert(0, (chosen.clone(), "choose".to_owned()));
        }
        let option = |(from, label)| SourceOption { chosen: from == chosen, value: json(&from), label };
        all.into_iter().map(option).collect()
    }

    /// The parameter a result starts from.
    fn found(&self, plan: &ResultSpec) -> String {
        if let ResultFrom::Model { run } = &plan.from {
            let fitted = self.book().state().model.run(*run).and_then(ModelRun::parameter);
            return fitted.map(|p| parameter_text(&p)).unwrap_or_default();
        }
        let ResultFrom::Curve { graph, stretch, series, parameter } = &plan.from else { return String::new() };
        let fit = self.curve(*graph, *stretch, series.as_deref());
        fit.and_then(|f| f.parameter(parameter)).map(parameter_text).unwrap_or_default()
    }

    /// A term of the law, and what stands for it in the line.
    fn term(&self, term: Term, parameter: &str, plan: &ResultSpec, outcome: &ResultOutcome) -> TermView {
        let text = plan.law.term(term).map_or("", |f| f.text());
        let verdict = outcome.terms.get(&term);
        let right = verdict.is_some_and(TermVerdict::is_right);
        let said = verdict.map_or_else(String::new, Words::words);
        let label = match term {
            Term::Up => "Vertical axis".to_owned(),
            Term::Across => "Horizontal axis".to_owned(),
            Term::Slope if parameter == "slope" => "The slope means".to_owned(),
            Term::Slope => format!("The parameter {parameter} means"),
            Term::Intercept => "The intercept means".to_owned(),
        };
        let (line, on_axis) = self.in_line(term, plan).unwrap_or_default();
        TermView {
            name: term.name(),
            sign: match term {
                Term::Up => "",
                Term::Slope => "=",
                Term::Across => "·",
                Term::Intercept => "+",
            },
            line,
            on_axis,
            label,
            text: text.to_owned(),
            shown: if text.is_empty() { String::new() } else { formula_html(text) },
            right,
            said,
        }
    }

    /// What stands for a term in the fitted line, as HTML, and the symbol on the axis; none where it is no line.
    fn in_line(&self, term: Term, plan: &ResultSpec) -> Option<(String, String)> {
        let ResultFrom::Curve { graph, stretch, series, parameter } = &plan.from else { return None };
        let fit = self.curve(*graph, *stretch, series.as_deref())?;
        let graph = self.analysis().graph(*graph).filter(|_| parameter == "slope")?;
        let slope = fit.slope()?;
        let axis = |symbol: &str| (symbol_html(symbol), symbol.to_owned());
        Some(match term {
            Term::Up => axis(&graph.y.symbol),
            Term::Across => axis(&graph.x.symbol),
            // A place of the line holds one number, written as in a table: the sentences below the graph write it out.
            Term::Slope => (in_place(slope), String::new()),
            Term::Intercept => (fit.intercept().map_or_else(|| "0".to_owned(), in_place), String::new()),
        })
    }

    fn curve(&self, graph: GraphId, stretch: Option<u32>, series: Option<&str>) -> Option<&zeitmass_core::fit::Fit> {
        self.analysis().graph(graph)?.fit_of(stretch, series)?.outcome.as_ref().ok()
    }

    /// Results of the same dimension, each compared with the next.
    fn between(&self) -> Vec<String> {
        let found: Vec<(String, &Constant)> = self
            .book()
            .state()
            .result
            .results
            .iter()
            .filter_map(|plan| {
                let c = self.analysis().outcome(plan.id)?.constant.as_ref()?.as_ref().ok()?;
                Some((if plan.name.is_empty() { c.symbol.clone() } else { plan.name.clone() }, c))
            })
            .collect();
        let pairs = found.windows(2).filter(|p| p[0].1.unit.same_dimension(&p[1].1.unit));
        pairs
            .map(|p| {
                let (a, b) = (p[0].1, p[1].1);
                let factor = b.unit.size() / a.unit.size();
                let d = difference(a.known(1.0), b.known(factor));
                let percent = percent_difference(a.value, b.value * factor).map(|v| {
                    format!(
                        "percent difference |{} − {}| / mean = {}\u{A0}%",
                        plain(a.value),
                        plain(b.value * factor),
                        two_figures(v)
                    )
                });
                let verdict = match (d.agreement, d.in_uncertainties()) {
                    (Agreement::Within, Some(k)) => {
                        format!("they differ by {} combined uncertainties: they agree", two_figures(k))
                    }
                    (Agreement::Outside, Some(k)) => {
                        format!("they differ by {} combined uncertainties: they do not agree", two_figures(k))
                    }
                    (Agreement::Unknown, _) => {
                        "the uncertainty of one of them is not determined, so nothing can be said about that; one more point would determine it"
                            .to_owned()
                    }
                    (Agreement::Within, None) => "they are the same".to_owned(),
                    (Agreement::Outside, None) => "they differ".to_owned(),
                };
                format!("{} and {}: {}; {verdict}.", p[0].0, p[1].0, percent.unwrap_or_default())
            })
            .collect()
    }
}

fn constant_name(c: &Constant) -> String {
    if c.symbol.contains(' ') { crate::notation::escape(&c.symbol) } else { symbol_html(&c.symbol) }
}

fn shown(c: &Constant) -> String {
    with_unit(&plus_minus(c.value, c.u), &c.unit)
}

/// A group's value beside its accepted one.
fn group_row(group: &GroupOutcome) -> [String; 4] {
    let value = match &group.constant {
        Ok(c) => shown(c),
        Err(e) => e.words(),
    };
    let accepted = group.accepted.as_ref().map_or_else(|| "–".to_owned(), |(n, u)| with_unit(&n.pretty(), u));
    let error = group.comparison.as_ref().and_then(|c| c.as_ref().ok()?.percent_error);
    let error = error.map_or_else(|| "–".to_owned(), |e| format!("{} %", to_step(e, if e < 1.0 { 0.01 } else { 0.1 })));
    [group.label.clone(), value, accepted, error]
}

/// The comparison with the accepted value, in sentences with their formulas.
fn verdict(plan: &ResultSpec, outcome: &ResultOutcome) -> Vec<String> {
    let (Some(Ok(constant)), Some(comparison), Some((number, unit))) =
        (&outcome.constant, &outcome.comparison, &plan.accepted)
    else {
        return Vec::new();
    };
    let Comparison { difference, percent_error } = match comparison {
        Ok(c) => c,
        Err(why) => return vec![why.words()],
    };
    let accepted = number.value() * unit.size() / constant.unit.size();
    let (a, b) = (plain(constant.value), plain(accepted));
    let mut sentences = Vec::new();
    if let Some(percent) = percent_error {
        sentences.push(format!("Percent error: |{a} − {b}| / {b} · 100\u{A0}% = {}\u{A0}%.", two_figures(*percent)));
    }
    let apart = with_unit(&two_figures(difference.value.abs()), &constant.unit);
    if let Some(k) = difference.in_uncertainties() {
        sentences.push(format!(
            "In units of uncertainty: |{a} − {b}| / {} = {}.",
            two_figures(difference.u),
            two_figures(k)
        ));
    }
    sentences.push(match difference.agreement {
        Agreement::Within => {
            format!("The two differ by {apart}, less than {}: they agree within uncertainty.", reach(difference))
        }
        Agreement::Outside => format!(
            "The two differ by {apart}, more than {}: they do not agree. Look for an effect that shifts all values the same way, or measure more.",
            reach(difference)
        ),
        Agreement::Unknown => {
            format!("The two differ by {apart}. Whether that is much is not determined: there are as many points as the curve has parameters. Measure one more point.")
        }
    });
    sentences
}

/// How far two values may be apart that agree, in words: few points leave more open than many.
fn reach(d: &Difference) -> String {
    format!("{} times the uncertainty, which takes in 95\u{A0}%", two_figures(d.factor))
}

/// A column that should stay the same: mean, spread and trend.
fn steady_words(outcome: &ResultOutcome) -> Vec<String> {
    let (Some(s), Some(Ok(c))) = (&outcome.steady, &outcome.constant) else { return Vec::new() };
    let size = c.unit.size();
    let with = |v: f64| with_unit(&two_figures(v / size), &c.unit);
    let share = if s.mean == 0.0 {
        String::new()
    } else {
        format!(", {}\u{A0}% of the mean", two_figures((s.spread / s.mean).abs() * 100.0))
    };
    let mut words = vec![format!("{} values; spread (standard deviation) {}{share}.", s.n, with(s.spread))];
    if s.own > 0.0 {
        words.push(if s.is_restless() {
            format!("They scatter more than their own uncertainty of {} explains.", with(s.own))
        } else {
            format!("Their own uncertainty of {} explains the spread.", with(s.own))
        });
    }
    words.push(if s.p_trend.is_nan() {
        "A trend needs a third value.".to_owned()
    } else if s.has_trend() {
        let turn = if s.trend > 0.0 { "rise" } else { "fall" };
        format!("They {turn} from row to row, by {} each time: not constant.", with(s.trend.abs()))
    } else {
        "No trend from row to row: as far as these data tell, constant.".to_owned()
    });
    words
}
