//! All groups' points on one graph, with their lines, faint; each with the number of its group where its line ends.

use std::fmt::Write;

use zeitmass_core::fit::Fit;
use zeitmass_core::graph::{Graph, PooledGraph};

use super::curves::pieces;
use super::{BELOW, FRAME, Frame, INK, LEFT, RIGHT, SHEET, SIGNAL, SLATE, SOFT, TOP, WIDTH, axes};
use crate::notation::escape;

/// The graph as an SVG document. `labels` are the numbers of the groups that were given, `own` the place of whoever looks, and with `cloud` all
/// points are one, with one line through them.
pub(crate) fn pool(graph: &PooledGraph, labels: &[usize], own: Option<usize>, cloud: bool) -> String {
    // Axes and titles are drawn as on every other graph.
    let bare = Graph {
        id: 0,
        title: String::new(),
        x: graph.x.clone(),
        y: graph.y.clone(),
        series: Vec::new(),
        fits: Vec::new(),
        bars: true,
        band: false,
        residuals: None,
        look: None,
        expected: None,
        models: Vec::new(),
    };
    let f = Frame { x: &bare.x, y: &bare.y, left: LEFT, top: TOP, width: WIDTH - LEFT - RIGHT, height: FRAME };
    let height = f.bottom() + BELOW;
    let points: usize = graph.series.iter().map(|s| s.points.len()).sum();
    let about =
        format!("{points} points of {} groups, {} against {}", graph.series.len(), bare.y.symbol, bare.x.symbol);
    let mut out = format!(
        r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}" font-family="Barlow, 'Noto Sans Math', sans-serif" font-size="15" fill="{INK}" role="img" aria-label="{}"><rect width="{WIDTH}" height="{height}" fill="{SHEET}"/>"#,
        escape(&about)
    );
    axes::frame(&mut out, &f, true);
    axes::titles(&mut out, &bare, height);
    if !cloud {
        // The own group comes last, above the others.
        let mut order: Vec<_> = graph.series.iter().collect();
        order.sort_by_key(|s| own == Some(s.group));
        for series in order {
            let mine = own == Some(series.group);
            let (colour, opacity, width) = if mine { (SIGNAL, 1.0, 2.0) } else { (SLATE, 0.45, 1.3) };
            let _ = write!(out, r#"<g stroke="{colour}" stroke-width="{width}" opacity="{opacity}" fill="none">"#);
            if let Some(fit) = &series.line {
                line(&mut out, &f, fit);
            }
            out.push_str("</g>");
            if let (Some(number), Some(last)) = (labels.get(series.group), series.points.last()) {
                let at = series.line.as_ref().map_or(last.y, |fit| fit.at(fit.span.1));
                let x = series.line.as_ref().map_or(last.x, |fit| fit.span.1);
                if f.holds(x, at) {
                    let _ = write!(
                        out,
                        r#"<text x="{:.1}" y="{:.1}" font-size="12" fill="{}">{number}</text>"#,
                        f.px(x) + 7.0,
                        f.py(at) - 5.0,
                        if mine { SIGNAL } else { SOFT }
                    );
                }
            }
        }
    }
    for series in &graph.series {
        let colour = if own == Some(series.group) { SIGNAL } else { SLATE };
        for p in series.points.iter().filter(|p| f.holds(p.x, p.y)) {
            let (x, y) = (f.px(p.x), f.py(p.y));
            let bar = |from: f64, to: f64| (to - from).abs() / 2.0;
            let (bx, by) = (bar(f.px(p.x - p.ux), f.px(p.x + p.ux)), bar(f.py(p.y - p.uy), f.py(p.y + p.uy)));
            if bx > 3.5 && bx.is_finite() {
                let _ = write!(out, r#"<path d="M{:.1} {y:.1}h{:.1}" stroke="{colour}"/>"#, x - bx, 2.0 * bx);
            }
            if by > 3.5 && by.is_finite() {
                let _ = write!(out, r#"<path d="M{x:.1} {:.1}v{:.1}" stroke="{colour}"/>"#, y - by, 2.0 * by);
            }
            let _ = write!(
                out,
                r#"<circle cx="{x:.1}" cy="{y:.1}" r="3.2" fill="{SHEET}" stroke="{colour}" stroke-width="1.5"/>"#
            );
        }
    }
    if let Some(fit) = graph.all.as_ref().filter(|_| cloud) {
        let _ = write!(out, r#"<g stroke="{INK}" stroke-width="1.8" fill="none">"#);
        line(&mut out, &f, fit);
        out.push_str("</g>");
    }
    out.push_str("</svg>");
    out
}

fn line(out: &mut String, f: &Frame<'_>, fit: &Fit) {
    let along = |xs: &[f64]| fit.curve.along(xs);
    for path in pieces(f, fit.span.0, fit.span.1, &along) {
        let _ = write!(out, r#"<path d="M{path}"/>"#);
    }
}
