//! Frame, grid, labels and titles.

use std::fmt::Write;

use zeitmass_core::graph::Graph;

use super::text::{label, raised, title};
use super::{Frame, INK, LEFT, RIGHT, RULE, SOFT, WIDTH};

/// Width of a digit of a tick's label.
const DIGIT: f64 = 8.4;

/// Grid, labels and axes of a frame; the labels across only below the lowest frame.
pub(super) fn frame(out: &mut String, f: &Frame<'_>, labels_across: bool) {
    let (top, bottom, right) = (f.top, f.bottom(), f.right());
    for tick in &f.x.ticks {
        let x = f.px(tick.value);
        let _ = write!(out, r#"<path d="M{x:.1} {top}V{bottom}" stroke="{RULE}"/>"#);
        if labels_across {
            // The last one would reach beyond the paper where it is long.
            let x = x.min(right + RIGHT - 1.0 - DIGIT * label(f.x, tick).chars().count() as f64 / 2.0);
            let _ = write!(
                out,
                r#"<text x="{x:.1}" y="{:.1}" text-anchor="middle" fill="{SOFT}" font-family="IBM Plex Mono" font-size="14">{}</text>"#,
                bottom + 19.0,
                raised(label(f.x, tick))
            );
        }
    }
    for tick in &f.y.ticks {
        let y = f.py(tick.value);
        let _ = write!(out, r#"<path d="M{:.1} {y:.1}H{right}" stroke="{RULE}"/>"#, f.left);
        let _ = write!(
            out,
            r#"<text x="{:.1}" y="{:.1}" text-anchor="end" fill="{SOFT}" font-family="IBM Plex Mono" font-size="14">{}</text>"#,
            f.left - 8.0,
            y + 5.0,
            raised(label(f.y, tick))
        );
    }
    let _ = write!(
        out,
        r#"<path d="M{:.1} {top}V{bottom}H{right}" fill="none" stroke="{INK}" stroke-width="1.6"/>"#,
        f.left
    );
}

/// Titles of the axes and of the graph.
pub(super) fn titles(out: &mut String, graph: &Graph, height: f64) {
    let _ = write!(out, r#"<text x="{LEFT}" y="20">{}</text>"#, title(&graph.y));
    let right = WIDTH - RIGHT;
    if !graph.title.is_empty() {
        let text = raised(&graph.title);
        let _ = write!(out, r#"<text x="{right}" y="20" text-anchor="end" font-weight="500">{text}</text>"#);
    }
    let y = height - 12.0;
    let _ = write!(out, r#"<text x="{right}" y="{y:.1}" text-anchor="end">{}</text>"#, title(&graph.x));
    if graph.residuals.is_some() {
        let _ = write!(out, r#"<text x="{LEFT}" y="{y:.1}" fill="{SOFT}" font-size="13">below: residuals</text>"#);
    }
}
