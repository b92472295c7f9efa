//! The small graphs of the shape strip.

use std::fmt::Write;

use zeitmass_core::fit::{Bend, ShapeFit};

use super::{INK, RULE, SHEET, SIGNAL, VERDIGRIS};

const SIZE: (f64, f64) = (132.0, 84.0);
const ROOM: f64 = 9.0;

/// Points and line, without numbers: what counts is the shape.
pub(crate) fn small(fit: &ShapeFit) -> String {
    let (width, height) = SIZE;
    let reach = |value: fn(&(f64, f64)) -> f64| {
        let (lo, hi) =
            fit.points.iter().map(value).fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), v| (lo.min(v), hi.max(v)));
        (lo, if hi > lo { hi - lo } else { 1.0 })
    };
    let ((x0, xs), (y0, ys)) = (reach(|p| p.0), reach(|p| p.1));
    let px = |x: f64| ROOM + (x - x0) / xs * (width - 2.0 * ROOM);
    let py = |y: f64| (height - ROOM - (y - y0) / ys * (height - 2.0 * ROOM)).clamp(1.0, height - 1.0);
    let at = |x: f64| fit.line.intercept + fit.line.slope * x;
    let colour = if fit.judgement.bend == Bend::None { VERDIGRIS } else { SIGNAL };
    let mut out = format!(
        r#"<svg viewBox="0 0 {width} {height}" aria-hidden="true"><rect width="{width}" height="{height}" fill="{SHEET}"/><path d="M1 1V{h}H{w}" fill="none" stroke="{RULE}" stroke-width="2"/><path d="M{:.1} {:.1}L{:.1} {:.1}" stroke="{INK}" stroke-width="1.2"/>"#,
        px(x0),
        py(at(x0)),
        px(x0 + xs),
        py(at(x0 + xs)),
        h = height - 1.0,
        w = width - 1.0,
    );
    let mut seen = std::collections::BTreeSet::new();
    let mut path = String::new();
    for (x, y) in &fit.points {
        let place = (px(*x).round() as i32, py(*y).round() as i32);
        if seen.insert(place) {
            let _ = write!(path, "M{} {}h0", place.0, place.1);
        }
    }
    let _ = write!(out, r#"<path d="{path}" stroke="{colour}" stroke-width="5" stroke-linecap="round"/></svg>"#);
    out
}
