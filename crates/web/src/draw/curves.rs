//! Curves, confidence bands, stretches, what was looked up, and the card with the equation.

use std::fmt::Write;

use zeitmass_core::fit::{Fit, Model};
use zeitmass_core::graph::{Fitted, Graph, Looked, ModelCurve};
use zeitmass_core::lab::Expected;
use zeitmass_core::quantity::format::{plain, plus_minus, step_for, to_step, with_unit};

use super::marks::colour;
use super::text::{raised, symbol};
use super::{Frame, INK, RULE, SHEET, SOFT, STRAW, VERDIGRIS, parameter_text};

/// Places a curve is drawn through, over the whole frame.
const STEPS: usize = 240;

/// The range of a stretch as a bar above the axis, with its letter.
pub(super) fn stretch(out: &mut String, f: &Frame<'_>, fitted: &Fitted) {
    let (Some((_, letter)), Some((from, to))) = (fitted.stretch, fitted.range) else { return };
    let at = |v: f64| {
        let x = f.px(v);
        if x.is_nan() { f.left } else { x.clamp(f.left, f.right()) }
    };
    let (a, b) = (at(from), at(to));
    if b - a < 1.0 {
        return;
    }
    let (top, bottom) = (f.top, f.bottom());
    let _ = write!(
        out,
        r#"<path d="M{a:.1} {top}V{bottom}H{b:.1}V{top}" fill="{RULE}" fill-opacity="0.45" stroke="{SOFT}" stroke-dasharray="1 4"/><text x="{:.1}" y="{:.1}" fill="{SOFT}" font-weight="500">{letter}</text>"#,
        a + 5.0,
        bottom - 6.0
    );
}

/// The pieces of a curve that lie inside the frame, as paths.
pub(super) fn pieces(f: &Frame<'_>, from: f64, to: f64, heights: &dyn Fn(&[f64]) -> Vec<f64>) -> Vec<String> {
    let share = |v: f64| f.x.share(v).clamp(0.0, 1.0);
    let (a, b) = (share(from), share(to));
    if b - a < 1e-6 || a.is_nan() || b.is_nan() {
        return Vec::new();
    }
    let count = ((b - a) * STEPS as f64).ceil().max(2.0) as usize;
    let xs: Vec<f64> = (0..=count).map(|i| f.x.value(a + (b - a) * i as f64 / count as f64)).collect();
    let ys = heights(&xs);
    let shares: Vec<f64> = ys.iter().map(|y| f.y.share(*y)).collect();
    let mut paths: Vec<Vec<(f64, f64)>> = vec![Vec::new()];
    let place = |x: f64, s: f64| (f.px(x), f.top + (1.0 - s) * f.height);
    for i in 0..xs.len() {
        let s = shares[i];
        let inside = (0.0..=1.0).contains(&s);
        if i > 0 {
            let before = shares[i - 1];
            let was = (0.0..=1.0).contains(&before);
            // Where it crosses the edge of the frame, the curve is cut there.
            if was != inside && s.is_finite() && before.is_finite() {
                let edge = if s.max(before) > 1.0 { 1.0 } else { 0.0 };
                let part = (edge - before) / (s - before);
                let cut = place(xs[i - 1] + part * (xs[i] - xs[i - 1]), edge);
                if let Some(last) = paths.last_mut() {
                    last.push(cut);
                }
            }
            if was && !inside {
                paths.push(Vec::new());
            }
        }
        if inside && let Some(last) = paths.last_mut() {
            last.push(place(xs[i], s));
        }
    }
    let written = paths
        .into_iter()
        .filter(|p| p.len() > 1)
        .map(|p| p.iter().map(|(x, y)| format!("{x:.1} {y:.1}")).collect::<Vec<_>>().join("L"));
    written.collect()
}

pub(super) fn curve(out: &mut String, f: &Frame<'_>, graph: &Graph, fitted: &Fitted) {
    let Ok(fit) = &fitted.outcome else { return };
    let along = |xs: &[f64]| fit.curve.along(xs);
    let stroke = match graph.fits.len() {
        1 => INK,
        // Several curves are told apart by the colour of their points too.
        _ => graph
            .series
            .get(fitted.series)
            .map_or(INK, |s| if fitted.stretch.is_some() { INK } else { colour(fitted.series, s.kind) }),
    };
    if graph.band {
        for side in [-1.0, 1.0] {
            let edge = |xs: &[f64]| xs.iter().map(|x| fit.at(*x) + side * fit.band(*x)).collect::<Vec<f64>>();
            for path in pieces(f, fit.span.0, fit.span.1, &edge) {
                let _ = write!(
                    out,
                    r#"<path class="curve" d="M{path}" fill="none" stroke="{SOFT}" stroke-width="1" stroke-dasharray="6 3"/>"#
                );
            }
        }
    }
    for path in pieces(f, fit.span.0, fit.span.1, &along) {
        let _ = write!(out, r#"<path class="curve" d="M{path}" fill="none" stroke="{stroke}" stroke-width="1.8"/>"#);
    }
    // Beyond the data dotted: a straight line by itself, another curve when it was asked for a value out there.
    let asked = match &graph.look {
        Some(Ok(l)) => {
            l.at.iter().map(|p| p.0).fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), x| (a.min(x), b.max(x)))
        }
        _ => (f64::INFINITY, f64::NEG_INFINITY),
    };
    let far = fit.model.is_straight() && fitted.stretch.is_none();
    let low = if far { f.x.min } else { asked.0.min(fit.span.0) };
    let high = if far { f.x.max } else { asked.1.max(fit.span.1) };
    for (from, to) in [(low, fit.span.0), (fit.span.1, high)] {
        for path in pieces(f, from, to, &along) {
            let _ = write!(
                out,
                r#"<path class="curve" d="M{path}" fill="none" stroke="{stroke}" stroke-width="1.8" stroke-dasharray="2 5"/>"#
            );
        }
    }
}

/// What should have come out, over the whole width, with its word where it ends.
pub(super) fn expected(out: &mut String, f: &Frame<'_>, expected: &Expected) {
    let along = |xs: &[f64]| expected.along(xs, &f.x.unit, &f.y.unit);
    let paths = pieces(f, f.x.min, f.x.max, &along);
    for path in &paths {
        let _ = write!(
            out,
            r#"<path class="expected" d="M{path}" fill="none" stroke="{VERDIGRIS}" stroke-width="2" stroke-dasharray="9 4 2 4"/>"#
        );
    }
    let end = paths.last().and_then(|p| p.rsplit('L').next()).and_then(|p| p.split_once(' '));
    let Some((x, y)) = end.and_then(|(x, y)| Some((x.parse::<f64>().ok()?, y.parse::<f64>().ok()?))) else { return };
    // Below the end of a curve that falls and above that of one that rises its word lies on neither the curve nor the points along it.
    let ends = along(&[f.x.value(0.8), f.x.value(1.0)]);
    let falls = f.y.share(ends[1]) < f.y.share(ends[0]);
    let y = if falls { y + 24.0 } else { y - 14.0 }.clamp(f.top + 18.0, f.bottom() - 6.0);
    let _ = write!(
        out,
        r#"<text x="{:.1}" y="{y:.1}" fill="{VERDIGRIS}" text-anchor="end" stroke="{SHEET}" stroke-width="4" paint-order="stroke">expected</text>"#,
        x.min(f.right() - 4.0)
    );
}

/// The curve of a step model: a thin double line; earlier ones are faint, one line each.
pub(super) fn model(out: &mut String, f: &Frame<'_>, model: &ModelCurve) {
    let along = |(x, y): &(f64, f64)| (f.px(*x), f.py(*y));
    let mut path = String::new();
    let mut pen_down = false;
    for pair in model.points.windows(2) {
        let (a, b) = (along(&pair[0]), along(&pair[1]));
        let Some((from, to)) = clipped(f, a, b) else {
            pen_down = false;
            continue;
        };
        if !pen_down || from != a {
            let _ = write!(path, "M{:.1} {:.1}", from.0, from.1);
        }
        let _ = write!(path, "L{:.1} {:.1}", to.0, to.1);
        pen_down = to == b;
    }
    if path.is_empty() {
        return;
    }
    if model.newest {
        let _ = write!(
            out,
            r#"<path class="model" d="{path}" fill="none" stroke="{VERDIGRIS}" stroke-width="4.4" stroke-linejoin="round"/><path d="{path}" fill="none" stroke="{SHEET}" stroke-width="2" stroke-linejoin="round"/>"#
        );
    } else {
        let _ = write!(
            out,
            r#"<path class="model" d="{path}" fill="none" stroke="{VERDIGRIS}" stroke-width="1.2" stroke-opacity="0.45"/>"#
        );
    }
}

/// The piece of a line inside a frame (Liang, Barsky, 1984).
fn clipped(f: &Frame<'_>, a: (f64, f64), b: (f64, f64)) -> Option<((f64, f64), (f64, f64))> {
    let (dx, dy) = (b.0 - a.0, b.1 - a.1);
    if !(a.0.is_finite() && a.1.is_finite() && dx.is_finite() && dy.is_finite()) {
        return None;
    }
    let (mut from, mut to) = (0.0_f64, 1.0_f64);
    for (by, room) in [(-dx, a.0 - f.left), (dx, f.right() - a.0), (-dy, a.1 - f.top), (dy, f.bottom() - a.1)] {
        if by == 0.0 {
            if room < 0.0 {
                return None;
            }
        } else if by < 0.0 {
            from = from.max(room / by);
        } else {
            to = to.min(room / by);
        }
    }
    let at = |s: f64| {
        if s == 0.0 {
            a
        } else if s == 1.0 {
            b
        } else {
            (a.0 + s * dx, a.1 + s * dy)
        }
    };
    (from < to).then(|| (at(from), at(to)))
}

/// The place that was looked up, with lines to both axes.
pub(super) fn looked(out: &mut String, f: &Frame<'_>, looked: &Looked) {
    for (x, y) in looked.at.iter().filter(|(x, y)| f.holds(*x, *y)) {
        let (x, y) = (f.px(*x), f.py(*y));
        let _ = write!(
            out,
            r#"<path d="M{:.1} {y:.1}H{x:.1}V{:.1}" fill="none" stroke="{STRAW}" stroke-width="1.2" stroke-dasharray="1 3"/><path d="M{:.1} {y:.1}h12M{x:.1} {:.1}v12" stroke="{STRAW}" stroke-width="2"/>"#,
            f.left,
            f.bottom(),
            x - 6.0,
            y - 6.0
        );
    }
}

/// The equation and the parameters, in the corner the curve leaves free. Several curves are told of below the graph.
pub(super) fn card(out: &mut String, f: &Frame<'_>, graph: &Graph) {
    let [only] = graph.fits.as_slice() else { return };
    let Ok(fit) = &only.outcome else { return };
    let (sy, sx) = (symbol(&graph.y.symbol), symbol(&graph.x.symbol));
    let equation = match &fit.model {
        Model::Line => format!("{sy} = slope · {sx} + intercept"),
        Model::Proportional => format!("{sy} = slope · {sx}"),
        Model::Quadratic => format!("{sy} = a · {sx}{} + b · {sx} + c", raised("²")),
        Model::Power => format!(
            "{sy} = a · ({sx}/1{})<tspan font-size=\"10\" dy=\"-5\">n</tspan><tspan dy=\"5\">&#8203;</tspan>",
            raised(&unit_after(graph))
        ),
        Model::Exponential => format!("{sy} = a · exp(b · {sx})"),
        Model::ExponentialOffset => format!("{sy} = a · exp(b · {sx}) + c"),
        Model::Inverse => format!("{sy} = a / {sx}"),
        Model::InverseSquare => format!("{sy} = a / {sx}{}", raised("²")),
        Model::Root => format!("{sy} = a · √{sx}"),
        Model::Sine => format!("{sy} = A · sin(ω · {sx} + φ) + C"),
        Model::DampedSine => format!("{sy} = A · exp(−k · {sx}) · sin(ω · {sx} + φ) + C"),
        Model::Typed(t) => {
            let text: String = t.formula.text().chars().take(34).collect();
            format!("{sy} = {}", crate::notation::escape(&text))
        }
    };
    let lines = 1.0 + fit.parameters.len() as f64;
    let (width, height) = (262.0, 12.0 + 19.0 * lines);
    let [x, y] = free_corner(f, graph, fit, [width, height]);
    let _ = write!(
        out,
        r##"<g class="card"><rect x="{x:.1}" y="{y:.1}" width="{width}" height="{height}" fill="{SHEET}" fill-opacity="0.94" stroke="#D9D3C4"/>"##
    );
    let mut row = |i: f64, content: String| {
        let _ =
            write!(out, r#"<text x="{:.1}" y="{:.1}" font-size="14">{content}</text>"#, x + 10.0, y + 20.0 + 19.0 * i);
    };
    row(0.0, equation);
    for (p, i) in fit.parameters.iter().zip(1..) {
        let equals = if fit.model.is_straight() { "" } else { " = " };
        let name = if fit.model.is_straight() { format!("{} ", p.symbol) } else { symbol(&p.symbol) };
        row(f64::from(i), format!("{name}{equals}{}", raised(&parameter_text(p))));
    }
    out.push_str("</g>");
}

/// The corner in which a box covers the fewest points: of equal ones that beside the curve's later end.
fn free_corner(f: &Frame<'_>, graph: &Graph, fit: &Fit, [width, height]: [f64; 2]) -> [f64; 2] {
    let (left, right) = (f.left + 10.0, f.right() - width - 10.0);
    let (top, bottom) = (f.top + 8.0, f.bottom() - height - 12.0);
    let rises = f.y.share(fit.at(fit.span.1)) >= f.y.share(fit.at(fit.span.0));
    let corners = if rises {
        [[right, bottom], [left, top], [right, top], [left, bottom]]
    } else {
        [[right, top], [left, bottom], [right, bottom], [left, top]]
    };
    let covered = |[x, y]: &[f64; 2]| {
        let inside = |px: f64, py: f64| px >= *x && px <= x + width && py >= *y && py <= y + height;
        let points = graph.points().filter(|p| f.holds(p.x, p.y) && inside(f.px(p.x), f.py(p.y))).count();
        // The legend stands at the upper left.
        let told = graph.series.len() > 1 || graph.points().any(|p| p.odd.is_some());
        (told && [*x, *y] == [left, top], points)
    };
    corners.into_iter().min_by_key(covered).unwrap_or([right, bottom])
}

fn unit_after(graph: &Graph) -> String {
    let unit = graph.x.unit.pretty();
    if unit.is_empty() { String::new() } else { format!(" {unit}") }
}

/// What was looked up, in words.
pub(crate) fn look_words(graph: &Graph, looked: &Looked) -> Vec<String> {
    let (from, to) = if looked.back { (&graph.y, &graph.x) } else { (&graph.x, &graph.y) };
    let given = with_unit(&plain(looked.given), &from.unit);
    let mut sentences = Vec::new();
    for (value, u, single) in &looked.found {
        let shown = |u: f64| with_unit(&plus_minus(*value, u), &to.unit);
        let mut sentence = format!("Where {} is {given}, the curve gives {} = {}", from.symbol, to.symbol, shown(*u));
        let _ = if u.is_nan() {
            write!(sentence, ": so few points do not determine how certain that is. Measure one more.")
        } else {
            let (low, high) = (value - looked.factor * u, value + looked.factor * u);
            let [low, high] = [low, high].map(|v| with_unit(&to_step(v, step_for(*u)), &to.unit));
            write!(sentence, "; 95\u{A0}% lie between {low} and {high}.")
        };
        if single.is_finite() && *single > *u * 1.05 {
            let alone = with_unit(&plus_minus(*value, *single), &to.unit);
            let _ = write!(sentence, " A single reading there would be {alone}.");
        }
        sentences.push(sentence);
    }
    sentences.push(if looked.outside == 0.0 {
        "This lies within the data.".to_owned()
    } else {
        let far = if looked.outside < 0.995 {
            format!("{:.0}\u{A0}% of their range", looked.outside * 100.0)
        } else {
            format!("{} times their range", plain((looked.outside * 10.0).round() / 10.0))
        };
        format!("This lies outside the data by {far}: the law may no longer hold out there.")
    });
    sentences
}
