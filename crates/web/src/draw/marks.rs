//! Points with their bars, residuals, and the legend.

use std::fmt::Write;

use zeitmass_core::graph::{Graph, Point, PointKind, Series};
use zeitmass_core::logbook::RecordEdit;

use super::{Audience, Frame, INK, SHEET, SIGNAL, SLATE, SOFT, STRAW, VERDIGRIS};
use crate::notation::escape;
use crate::wish::wish;

/// Points from this number on are one path of dots: single ones cannot be told apart, or clicked.
const MANY: usize = 500;

/// Colour of a series. A reading is vermilion, a worked value verdigris; further series have shapes of their own too.
pub(super) fn colour(series: usize, kind: PointKind) -> &'static str {
    match (series, kind) {
        (0, PointKind::Read) => SIGNAL,
        (0, PointKind::Worked) => VERDIGRIS,
        (n, _) => [SLATE, STRAW, INK, VERDIGRIS, SIGNAL][(n - 1) % 5],
    }
}

/// The outline of a mark: circle, square, triangle, diamond, six-cornered.
fn outline(series: usize, x: f64, y: f64, r: f64) -> String {
    let corners = |n: usize, turn: f64, r: f64| {
        let corner = |k: usize| {
            let angle = std::f64::consts::TAU * (k as f64 + turn) / n as f64;
            format!("{:.1} {:.1}", x + r * angle.sin(), y - r * angle.cos())
        };
        format!(r#"<path d="M{}Z""#, (0..n).map(corner).collect::<Vec<_>>().join("L"))
    };
    match series % 5 {
        0 => format!(r#"<circle cx="{x:.1}" cy="{y:.1}" r="{r}""#),
        1 => corners(4, 0.5, r * 1.25),
        2 => corners(3, 0.0, r * 1.3),
        3 => corners(4, 0.0, r * 1.25),
        _ => corners(6, 0.0, r * 1.1),
    }
}

fn mark(out: &mut String, series: usize, kind: PointKind, (x, y): (f64, f64), aside: bool) {
    let colour = colour(series, kind);
    let _ = write!(out, r#"{} fill="{SHEET}" stroke="{colour}" stroke-width="1.8"/>"#, outline(series, x, y, 5.5));
    if kind == PointKind::Read {
        let _ = write!(out, r#"<circle cx="{x:.1}" cy="{y:.1}" r="1.7" fill="{colour}"/>"#);
    }
    if aside {
        let (x, y) = (x - 9.0, y + 9.0);
        let _ = write!(out, r#"<path d="M{x:.1} {y:.1}l18 -18" stroke="{colour}" stroke-width="1.8"/>"#);
    }
}

/// The ring of a trial that cannot be compared with the others.
fn doubt(out: &mut String, (x, y): (f64, f64)) {
    let _ = write!(
        out,
        r#"<circle class="odd" cx="{x:.1}" cy="{y:.1}" r="10.5" fill="none" stroke="{INK}" stroke-width="1.3" stroke-dasharray="3 3"/>"#
    );
}

pub(super) fn points(out: &mut String, f: &Frame<'_>, graph: &Graph, audience: Audience) {
    let many = graph.points().count() > MANY;
    for (i, series) in graph.series.iter().enumerate() {
        if many {
            dots(out, f, i, series);
            continue;
        }
        for point in series.points.iter().filter(|p| f.holds(p.x, p.y)) {
            if graph.bars {
                bars(out, f, point, colour(i, series.kind));
            }
            let place = (f.px(point.x), f.py(point.y));
            if audience == Audience::Bench {
                open(out, graph, series, point, place);
            } else {
                out.push_str("<g>");
            }
            mark(out, i, series.kind, place, point.aside);
            if point.odd.is_some() {
                doubt(out, place);
            }
            out.push_str("</g>");
        }
    }
}

/// The part of a point that a person clicks, with its name.
fn open(out: &mut String, graph: &Graph, series: &Series, point: &Point, (x, y): (f64, f64)) {
    let state = if point.aside { "set aside" } else { "in the fit" };
    let odd = point.odd.as_ref().map_or_else(String::new, |names| format!("; {names} changed too"));
    let label = format!(
        "Row {}: {} {}, {} {}, {state}{odd}",
        point.number, graph.x.symbol, point.x_text, series.symbol, point.y_text
    );
    let _ = write!(
        out,
        r#"<g class="point" id="point-{}-{row}" role="button" tabindex="-1" aria-pressed="{aside}" aria-label="{label}" data-edit='{edit}' data-row="{row}" data-at="{x:.1} {y:.1}"><title>{label}</title><circle cx="{x:.1}" cy="{y:.1}" r="16" fill="transparent"/>"#,
        series.columns.1,
        edit = wish(RecordEdit::SetAside { row: point.row, aside: !point.aside, why: String::new() }),
        row = point.row,
        aside = point.aside,
        label = escape(&label),
    );
}

/// Standard uncertainties as bars, where they are longer than the mark.
fn bars(out: &mut String, f: &Frame<'_>, p: &Point, colour: &str) {
    let inside = |v: f64, lo: f64, hi: f64| v.clamp(lo, hi);
    let (x, y) = (f.px(p.x), f.py(p.y));
    let across =
        [f.px(p.x - p.ux), f.px(p.x + p.ux)].map(|v| if v.is_nan() { f.left } else { inside(v, f.left, f.right()) });
    let up = [f.py(p.y - p.uy), f.py(p.y + p.uy)]
        .map(|v| if v.is_nan() { f.bottom() } else { inside(v, f.top, f.bottom()) });
    if across[1] - across[0] > 4.0 {
        let [a, b] = across;
        let _ = write!(
            out,
            r#"<path d="M{a:.1} {y:.1}H{b:.1}M{a:.1} {:.1}v6M{b:.1} {:.1}v6" stroke="{colour}" stroke-width="1.2"/>"#,
            y - 3.0,
            y - 3.0
        );
    }
    if up[0] - up[1] > 4.0 {
        let [a, b] = up;
        let _ = write!(
            out,
            r#"<path d="M{x:.1} {a:.1}V{b:.1}M{:.1} {a:.1}h6M{:.1} {b:.1}h6" stroke="{colour}" stroke-width="1.2"/>"#,
            x - 3.0,
            x - 3.0
        );
    }
}

/// Very many points: a dot for every place that has one, those set aside hollow of colour.
fn dots(out: &mut String, f: &Frame<'_>, i: usize, series: &Series) {
    for aside in [true, false] {
        let mut seen = std::collections::BTreeSet::new();
        let mut path = String::new();
        for p in series.points.iter().filter(|p| p.aside == aside && f.holds(p.x, p.y)) {
            // Two dots on one place look like one.
            let (x, y) = ((f.px(p.x) * 2.0).round() as i32, (f.py(p.y) * 2.0).round() as i32);
            if seen.insert((x, y)) {
                let _ = write!(path, "M{} {}h0", f64::from(x) / 2.0, f64::from(y) / 2.0);
            }
        }
        if !path.is_empty() {
            let (colour, width) = if aside { ("#B9B3A2", 2.2) } else { (colour(i, series.kind), 3.0) };
            let _ = write!(
                out,
                r#"<path d="{path}" stroke="{colour}" stroke-width="{width}" stroke-linecap="round" fill="none"/>"#
            );
        }
    }
}

/// Residuals below the graph, at the same x.
pub(super) fn residuals(out: &mut String, f: &Frame<'_>, graph: &Graph) {
    let y = f.py(0.0);
    let _ = write!(out, r#"<path d="M{:.1} {y:.1}H{:.1}" stroke="{SOFT}"/>"#, f.left, f.right());
    for model in &graph.models {
        left_of_model(out, f, &model.left);
    }
    for fitted in &graph.fits {
        let Ok(fit) = &fitted.outcome else { continue };
        let Some(series) = graph.series.get(fitted.series) else { continue };
        let used =
            series.points.iter().filter(|p| !p.aside && fitted.range.is_none_or(|(a, b)| (a..=b).contains(&p.x)));
        let colour = colour(fitted.series, series.kind);
        let mut path = String::new();
        for (p, r) in used.zip(&fit.residuals).filter(|(p, r)| f.holds(p.x, **r)) {
            let _ = write!(path, "M{:.1} {y:.1}V{:.1}", f.px(p.x), f.py(*r));
        }
        let _ = write!(out, r#"<path d="{path}" stroke="{colour}" stroke-width="1.4" fill="none"/>"#);
        let heads = path.split('M').filter_map(|s| {
            let (x, rest) = s.split_once(' ')?;
            Some((x, rest.split_once('V')?.1))
        });
        if fit.residuals.len() <= MANY {
            for (x, y) in heads {
                let _ = write!(out, r#"<circle cx="{x}" cy="{y}" r="2.6" fill="{colour}"/>"#);
            }
        }
    }
}

/// What a model leaves, as the residuals of a curve.
fn left_of_model(out: &mut String, f: &Frame<'_>, left: &[(f64, f64)]) {
    let zero = f.py(0.0);
    let mut path = String::new();
    for (x, r) in left.iter().filter(|(x, r)| f.holds(*x, *r)) {
        let _ = write!(path, "M{:.1} {zero:.1}V{:.1}", f.px(*x), f.py(*r));
        if left.len() <= MANY {
            let _ = write!(out, r#"<circle cx="{:.1}" cy="{:.1}" r="2.6" fill="{VERDIGRIS}"/>"#, f.px(*x), f.py(*r));
        }
    }
    let _ = write!(out, r#"<path d="{path}" stroke="{VERDIGRIS}" stroke-width="1.4" fill="none"/>"#);
}

/// What the shapes mean; only when there is more than one, or a ring.
pub(super) fn legend(out: &mut String, f: &Frame<'_>, graph: &Graph) {
    let line = |out: &mut String, (x, y): (f64, f64), r: f64, text: &str| {
        let label: String = text.chars().take(34).collect();
        let _ = write!(
            out,
            r##"<text x="{:.1}" y="{:.1}" font-size="14" stroke="{SHEET}" stroke-width="4" paint-order="stroke">{}</text>"##,
            x + r,
            y + 5.0,
            escape(&label)
        );
    };
    let place = |n: usize| (f.left + 16.0, f.top + 14.0 + 20.0 * n as f64);
    let series = if graph.series.len() < 2 { &[][..] } else { &graph.series };
    for (i, series) in series.iter().enumerate() {
        mark(out, i, series.kind, place(i), false);
        line(out, place(i), 12.0, &series.label);
    }
    if graph.points().any(|p| p.odd.is_some()) && graph.points().count() <= MANY {
        doubt(out, place(series.len()));
        line(out, place(series.len()), 17.0, "more than one setting changed");
    }
}
