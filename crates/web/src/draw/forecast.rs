//! Axes for a sketch against time, with the sketch and, once there is one, the measured curve over it.

use std::fmt::Write;

use zeitmass_core::graph::{Axis, AxisSpec};
use zeitmass_core::lab::CurveAsked;
use zeitmass_core::quantity::Unit;

use super::axes::frame;
use super::text::title;
use super::{Frame, INK, STRAW};

/// Size of the drawing in its own units.
pub(crate) const SIZE: [f64; 2] = [640.0, 300.0];
/// Left, right, top and bottom edge of the plot.
pub(crate) const PLOT: [f64; 4] = [62.0, 622.0, 34.0, 250.0];

/// A curve against time: (t, value) in the units of the axes.
type Curve = Vec<[f64; 2]>;

/// An SVG of the axes. Curves are (t, value) in the units of the axes.
pub(crate) fn svg(
    plan: &CurveAsked,
    duration: f64,
    sketch: Option<&[[f64; 2]]>,
    measured: Option<&[[f64; 2]]>,
    second: &Unit,
) -> String {
    svg_with(plan, duration, (sketch, &[]), measured, second)
}

/// The same with the sketches of many, faint, below the measured curve.
pub(crate) fn svg_with(
    plan: &CurveAsked,
    duration: f64,
    (sketch, many): (Option<&[[f64; 2]]>, &[Curve]),
    measured: Option<&[[f64; 2]]>,
    second: &Unit,
) -> String {
    let across = AxisSpec { from: Some(0.0), to: Some(duration), ..AxisSpec::default() };
    // The measured curve is never cut off: the axis widens to hold it.
    let values = measured.into_iter().flatten().map(|p| p[1]);
    let (low, high) = values.fold((plan.ends[0], plan.ends[1]), |(a, b), v| (a.min(v), b.max(v)));
    let up = AxisSpec { from: Some(low), to: Some(high), ..AxisSpec::default() };
    let x = Axis::of("time", "t", second.clone(), [0.0, duration].into_iter(), &across);
    let y = Axis::of(&plan.name, plan.symbol, plan.unit.clone(), [low, high].into_iter(), &up);
    let [left, right, top, bottom] = PLOT;
    let f = Frame { x: &x, y: &y, left, top, width: right - left, height: bottom - top };
    let [width, height] = SIZE;
    let label = format!("Forecast of the {} against time", plan.name);
    let mut out = format!(
        r#"<svg xmlns="http://www.w3.org/2000/svg" class="forecast" viewBox="0 0 {width} {height}" role="img" aria-label="{}" font-family="Barlow" font-size="15" fill="{INK}" data-low="{low}" data-high="{high}" data-duration="{duration}" data-plot="{left},{right},{top},{bottom}">"#,
        crate::notation::escape(&label)
    );
    frame(&mut out, &f, true);
    let _ = write!(out, r#"<text x="{left}" y="20">{}</text>"#, title(&y));
    let _ = write!(out, r#"<text x="{}" y="{}" text-anchor="end">{}</text>"#, right, height - 8.0, title(&x));
    let path = |points: &[[f64; 2]]| {
        points.iter().enumerate().fold(String::new(), |mut d, (i, [t, v])| {
            let _ = write!(d, "{}{:.1} {:.1}", if i == 0 { "M" } else { "L" }, f.px(*t), f.py(*v));
            d
        })
    };
    if low < 0.0 && high > 0.0 {
        let _ = write!(out, r#"<path d="M{left} {:.1}H{:.1}" stroke="{INK}" stroke-width="0.8"/>"#, f.py(0.0), right);
    }
    for points in many {
        let _ = write!(
            out,
            r#"<path class="one-of-many" d="{}" fill="none" stroke="{STRAW}" stroke-width="1.8" stroke-dasharray="9 5" stroke-linejoin="round" opacity="0.5"/>"#,
            path(points)
        );
    }
    if let Some(points) = measured {
        let _ = write!(out, r#"<path d="{}" fill="none" stroke="{INK}" stroke-width="2"/>"#, path(points));
    }
    let drawn = sketch.map(path).unwrap_or_default();
    let _ = write!(
        out,
        r#"<path class="sketch" d="{drawn}" fill="none" stroke="{STRAW}" stroke-width="2.4" stroke-dasharray="9 5" stroke-linejoin="round"/>"#
    );
    out.push_str("</svg>");
    out
}
