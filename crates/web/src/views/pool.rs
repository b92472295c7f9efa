//! The class pool: all groups' results under one another on one axis.

use std::fmt::Write;

use askama::Template;
use zeitmass_core::fit::Parameter;
use zeitmass_core::graph::PooledGraph;
use zeitmass_core::quantity::format::{bracketed, plain, plus_minus};
use zeitmass_core::result::{AgainstKeys, Pooled};
use zeitmass_store::{Id, PoolOpen};
use zeitmass_words::Words;

use crate::draw;
use crate::notation::escape;

const WIDTH: f64 = 860.0;
const LINE: f64 = 24.0;
const LEFT: f64 = 210.0;
const RIGHT: f64 = 150.0;

/// One group's result.
#[derive(Clone, Debug)]
pub(crate) struct PoolLine {
    pub names: String,
    pub value: f64,
    pub u: Option<f64>,
    /// Whether it is the one of whoever looks.
    pub own: bool,
    /// What is right for this group's own numbers, for the teacher.
    pub key: Option<f64>,
}

/// The results of a lab.
#[derive(Template)]
#[template(path = "lesson/pool.html")]
pub(crate) struct PoolPage {
    pub who: String,
    /// For the teacher: class and its name; none for students.
    pub class: Option<(Id, String)>,
    pub lab: Id,
    pub title: String,
    pub drawn: String,
    /// All groups' points on one graph; none while there are none.
    pub points: Option<Points>,
    /// What follows from all of them, in sentences.
    pub sentences: Vec<String>,
    pub lines: usize,
    pub open: PoolOpen,
    /// Results in other units, which stand outside.
    pub outside: usize,
}

/// All groups' points on one graph.
pub(crate) struct Points {
    pub svg: String,
    pub groups: usize,
    /// Graphs of something else.
    pub apart: usize,
    /// Whether all points are one cloud.
    pub cloud: bool,
    /// The line through the cloud; blank without one.
    pub line: String,
}

impl Points {
    pub(crate) fn of(graph: &PooledGraph, numbers: &[usize], own: Option<usize>, cloud: bool) -> Self {
        let said = graph.all.as_ref().filter(|_| cloud).map(|fit| {
            let told = |p: Option<&Parameter>| p.map_or_else(String::new, draw::parameter_text);
            let n: usize = graph.series.iter().map(|s| s.points.len()).sum();
            format!("One line through {n} points: slope {}, intercept {}.", told(fit.slope()), told(fit.intercept()))
        });
        Self {
            svg: draw::pool(graph, numbers, own, cloud),
            groups: graph.series.len(),
            apart: graph.apart,
            cloud,
            line: said.unwrap_or_default(),
        }
    }
}

/// All results on one axis, with their weighted mean and what is right, if that may be seen.
pub(crate) fn drawn(lines: &[PoolLine], (symbol, unit): (&str, &str), right: Option<f64>) -> String {
    let pooled = Pooled::of(&lines.iter().filter_map(|l| Some((l.value, l.u?))).collect::<Vec<_>>());
    let ends = lines.iter().flat_map(|l| {
        let u = l.u.unwrap_or(0.0);
        [l.value - u, l.value + u]
    });
    let keys = lines.iter().filter_map(|l| l.key);
    let (low, high) =
        ends.chain(right).chain(keys).fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), v| (a.min(v), b.max(v)));
    let room = ((high - low) * 0.06).max(1e-9 * high.abs()).max(f64::MIN_POSITIVE);
    let (low, high) = (low - room, high + room);
    let x = |v: f64| LEFT + (WIDTH - LEFT - RIGHT) * (v - low) / (high - low);
    let height = LINE * lines.len() as f64 + 46.0;
    let foot = LINE * lines.len() as f64 + 8.0;
    let mut out = format!(
        "<svg class=\"pool\" viewBox=\"0 0 {WIDTH} {height}\" role=\"img\" aria-label=\"{} results of {}\">",
        lines.len(),
        escape(symbol)
    );
    // Groups with numbers of their own have no common mean.
    if let Some(p) = pooled.filter(|_| lines.iter().all(|l| l.key.is_none())) {
        let (from, to) = (x(p.mean - p.u), x(p.mean + p.u));
        let _ = write!(
            out,
            "<rect class=\"mean\" x=\"{from:.1}\" y=\"0\" width=\"{:.1}\" height=\"{foot:.1}\"/>",
            (to - from).max(1.0)
        );
    }
    if let Some(v) = right {
        let _ = write!(out, "<path class=\"right\" d=\"M{:.1} 0V{foot:.1}\"/>", x(v));
    }
    for (line, k) in lines.iter().zip(0u32..) {
        draw_line(&mut out, line, LINE * (f64::from(k) + 0.5) + 2.0, unit, x);
    }
    let _ = write!(out, "<path class=\"axis\" d=\"M{LEFT} {foot:.1}H{:.1}\"/>", WIDTH - RIGHT);
    let step = nice((high - low) / 5.0);
    let mut tick = (low / step).ceil() * step;
    while tick <= high {
        let shown = zeitmass_core::quantity::format::to_step(tick, step);
        let _ = write!(
            out,
            "<path class=\"axis\" d=\"M{:.1} {foot:.1}v5\"/><text class=\"tick\" x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"middle\">{shown}</text>",
            x(tick),
            x(tick),
            foot + 18.0
        );
        tick += step;
    }
    let _ = write!(
        out,
        "<text class=\"tick\" x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"end\">{} in {}</text></svg>",
        WIDTH - RIGHT,
        foot + 34.0,
        escape(symbol),
        escape(if unit.is_empty() { "1" } else { unit })
    );
    out
}

/// One group's result at the height `y`: name, bar, its own key, point and number.
fn draw_line(out: &mut String, line: &PoolLine, y: f64, unit: &str, x: impl Fn(f64) -> f64) {
    let own = if line.own { " own" } else { "" };
    let _ = write!(
        out,
        "<g class=\"line{own}\"><text x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"end\">{}</text>",
        LEFT - 12.0,
        y + 4.0,
        escape(&short(&line.names))
    );
    if let Some(u) = line.u {
        let (from, to) = (x(line.value - u), x(line.value + u));
        let _ = write!(out, "<path d=\"M{from:.1} {y}H{to:.1}M{from:.1} {:.1}v8M{to:.1} {:.1}v8\"/>", y - 4.0, y - 4.0);
    }
    if let Some(key) = line.key {
        let _ = write!(out, "<path class=\"right\" d=\"M{:.1} {:.1}v18\"/>", x(key), y - 9.0);
    }
    let told = line.u.map_or_else(|| plain(line.value), |u| bracketed(line.value, u));
    let _ = write!(
        out,
        "<circle cx=\"{:.1}\" cy=\"{y}\" r=\"4\"/><text class=\"value\" x=\"{:.1}\" y=\"{:.1}\">{} {}</text></g>",
        x(line.value),
        WIDTH - RIGHT + 12.0,
        y + 4.0,
        escape(&told),
        escape(unit)
    );
}

/// 1, 2 or 5 times a power of ten.
fn nice(rough: f64) -> f64 {
    let decade = 10f64.powf(rough.log10().floor());
    let lead = rough / decade;
    decade
        * if lead > 5.0 {
            10.0
        } else if lead > 2.0 {
            5.0
        } else if lead > 1.0 {
            2.0
        } else {
            1.0
        }
}

fn short(names: &str) -> String {
    let cut: String = names.chars().take(30).collect();
    if cut.len() < names.len() { cut + "…" } else { cut }
}

/// What follows from all results.
pub(crate) fn sentences(lines: &[PoolLine], (symbol, unit): (&str, &str), right: Option<f64>) -> Vec<String> {
    let mut all = Vec::new();
    let own: Vec<_> = lines.iter().filter_map(|l| Some((l.value, l.u?, l.key?))).collect();
    if lines.iter().any(|l| l.key.is_some()) {
        all.push(
            "Each group has numbers of its own. The upright mark in its line is what is right for them.".to_owned(),
        );
        if let Some(a) = AgainstKeys::of(&own) {
            all.push(format!("{} of {} results lie within two of their uncertainties.", a.within, a.count));
            all.push(format!(
                "χ² against what is right = {} with {} degrees of freedom. {}",
                zeitmass_core::quantity::format::to_step(a.chi2, 0.1),
                a.count,
                a.spread().words()
            ));
        }
        return all;
    }
    if let Some(p) = Pooled::of(&lines.iter().filter_map(|l| Some((l.value, l.u?))).collect::<Vec<_>>()) {
        all.push(format!("Weighted mean of {} results: {symbol} = {} {unit}.", p.count, plus_minus(p.mean, p.u)));
        all.push(format!(
            "χ² = {} with {} degrees of freedom. {}",
            zeitmass_core::quantity::format::to_step(p.chi2, 0.1),
            p.count - 1,
            p.spread().words()
        ));
    }
    if let Some(v) = right {
        all.push(format!("The upright line is what is right: {} {unit}.", plain(v)));
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn results_stand_under_one_another_whatever_they_are() {
        let line = |value: f64, u: Option<f64>| PoolLine { names: "A <b>".into(), value, u, own: false, key: None };
        for lines in [
            vec![],
            vec![line(9.81, Some(0.02))],
            vec![line(9.81, None), line(9.81, None)],
            vec![line(6.6e-11, Some(1e-13)), line(6.7e-11, Some(2e-13))],
            vec![line(-3.0, Some(0.1)), line(3e8, Some(1.0))],
        ] {
            let svg = drawn(&lines, ("g", "m/s²"), Some(1.0));
            assert!(!svg.contains("NaN") && !svg.contains("inf") && !svg.contains("<b>"), "{svg}");
            assert_eq!(svg.matches("<circle").count(), lines.len());
        }
        // Numbers of their own: a mark in each line, no common mean.
        let own = |value: f64, key: f64| PoolLine { key: Some(key), ..line(value, Some(0.1)) };
        let lines = [own(4.05, 4.0), own(9.15, 9.0), own(12.5, 12.0)];
        let svg = drawn(&lines, ("k", "N/m"), None);
        assert_eq!((svg.matches("class=\"right\"").count(), svg.contains("class=\"mean\"")), (3, false));
        let said = sentences(&lines, ("k", "N/m"), None).join(" ");
        assert!(
            said.contains("2 of 3 results") && said.contains("27.5 with 3") && said.contains("systematic"),
            "{said}"
        );
        assert_eq!([0.7, 1.0, 3.0, 0.012].map(nice), [1.0, 1.0, 5.0, 0.02]);
    }
}
