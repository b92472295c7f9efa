//! A picture of the stage: the apparatus at a moment, with rings where its bodies were before, in ink on paper.

use std::fmt::Write;

use zeitmass_core::quantity::Unit;
use zeitmass_core::rigs::{Bounds, Coordinate, PLACE, Paint, Place, Run, Scene, SceneShape};

use super::{INK, SHEET, SIGNAL, SOFT};
use crate::notation::escape;

const WIDTH: f64 = 620.0;
/// Least and largest height.
const HEIGHT: [f64; 2] = [130.0, 460.0];
const MARGIN: f64 = 24.0;
/// Most rings of a body.
const MOST_RINGS: usize = 80;
/// Turns of a coil spring.
const TURNS: usize = 14;

/// The scene as an SVG that stands alone, and the frames from one ring to the next, if there are rings.
pub(crate) fn stage(scene: &Scene, run: &Run, length: &Unit, frame: usize) -> (String, Option<usize>) {
    let frame = frame.min(run.frames().saturating_sub(1));
    let every = scene.shapes.iter().any(|s| moving_centre(s).is_some()).then(|| ring_step(scene, frame)).flatten();
    let picture = Picture::of(scene, run, length, frame, every);
    let mut out = String::new();
    let [w, h] = picture.size;
    let _ = write!(
        out,
        r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {w:.0} {h:.0}" width="{w:.0}" height="{h:.0}" font-family="Barlow" role="img" aria-label="The stage"><rect width="{w:.0}" height="{h:.0}" fill="{SHEET}"/>"#
    );
    picture.rings(&mut out, scene, every);
    for shape in &scene.shapes {
        picture.draw(&mut out, shape);
    }
    out.push_str("</svg>");
    (out, every)
}

fn ring_step(scene: &Scene, frame: usize) -> Option<usize> {
    let [step, reach] = scene.strobe;
    let last = reach.min(frame);
    (last > 0 && step > 0).then(|| step * last.div_ceil(step).div_ceil(MOST_RINGS).max(1))
}

/// Where a body that moves is, and how large it is drawn as a ring.
fn moving_centre(shape: &SceneShape) -> Option<(&Place, f64)> {
    let (place, radius, paint) = match shape {
        SceneShape::Disc { centre, radius, paint, .. } => (centre, *radius, paint),
        SceneShape::Box { centre, size: [w, h], paint, .. } => (centre, 0.2 * w.min(*h), paint),
        SceneShape::Line { .. }
        | SceneShape::Coil { .. }
        | SceneShape::Scale { .. }
        | SceneShape::Curve { .. }
        | SceneShape::Heap { .. }
        | SceneShape::Word { .. } => return None,
    };
    let moves = place.iter().any(|c| !matches!(c, Coordinate::Fixed(_)));
    (moves && matches!(paint, Paint::Body | Paint::Other)).then_some((place, radius))
}

/// Colours of a line and of an area, and the width of the line in px.
fn ink(paint: Paint) -> (&'static str, &'static str, f64) {
    match paint {
        Paint::Support => (INK, "#C9CDCB", 2.0),
        Paint::Thread => (INK, "none", 1.0),
        Paint::Body => (INK, INK, 2.5),
        Paint::Other => (INK, SHEET, 1.8),
        Paint::Aid => (SIGNAL, "none", 1.4),
        Paint::Guide => ("#B9B4A6", "none", 1.0),
    }
}

/// From the scene's lengths to px.
struct Picture<'a> {
    run: &'a Run,
    length: &'a Unit,
    frame: usize,
    size: [f64; 2],
    left: f64,
    top: f64,
    /// Px of a unit of length.
    scale: f64,
}

impl<'a> Picture<'a> {
    fn of(scene: &Scene, run: &'a Run, length: &'a Unit, frame: usize, every: Option<usize>) -> Self {
        let mut made = Self { run, length, frame, size: [WIDTH, 0.0], left: 0.0, top: 0.0, scale: 1.0 };
        let mut view = scene.bounds;
        let frames = (0..frame).step_by(every.unwrap_or(usize::MAX)).chain([frame]);
        for f in frames {
            for (place, radius) in scene.shapes.iter().filter_map(moving_centre) {
                let [x, y] = place.map(|c| made.value(c, f));
                let Bounds { left, right, bottom, top } = view;
                view = Bounds {
                    left: left.min(x - radius),
                    right: right.max(x + radius),
                    bottom: bottom.min(y - radius),
                    top: top.max(y + radius),
                };
            }
        }
        let (wide, high) = ((view.right - view.left).max(1e-9), (view.top - view.bottom).max(1e-9));
        let height = ((WIDTH - 2.0 * MARGIN) * high / wide + 2.0 * MARGIN).clamp(HEIGHT[0], HEIGHT[1]);
        made.scale = ((WIDTH - 2.0 * MARGIN) / wide).min((height - 2.0 * MARGIN) / high);
        made.size[1] = height;
        made.left = f64::midpoint(view.left, view.right) - 0.5 * WIDTH / made.scale;
        made.top = f64::midpoint(view.bottom, view.top) + 0.5 * height / made.scale;
        made
    }

    /// The value of a coordinate in a frame, in the scene's unit of length or in rad, and no finer than the footage is sent: a picture of a small
    /// scene would else tell more than the stage.
    fn value(&self, c: Coordinate, frame: usize) -> f64 {
        let channel = |name: &str| {
            let Some(channel) = self.run.channels.iter().find(|c| c.spec.name == name) else { return 0.0 };
            let unit = if channel.spec.unit.same_dimension(self.length) { self.length } else { &channel.spec.unit };
            let last = channel.values.len().saturating_sub(1);
            channel.values.get(frame.min(last)).map_or(0.0, |v| (v / unit.size() / PLACE).round() * PLACE)
        };
        match c {
            Coordinate::Fixed(v) => v,
            Coordinate::Channel(name) => channel(name),
            Coordinate::Moved { channel: name, times, plus } => channel(name) * times + plus,
        }
    }

    fn px(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        [(x - self.left) * self.scale, (self.top - y) * self.scale]
    }

    fn at(&self, place: &Place, frame: usize) -> [f64; 2] {
        self.px(place.map(|c| self.value(c, frame)))
    }

    fn rings(&self, out: &mut String, scene: &Scene, every: Option<usize>) {
        let Some(every) = every else { return };
        let last = scene.strobe[1].min(self.frame);
        for (place, radius) in scene.shapes.iter().filter_map(moving_centre) {
            for f in (0..=last).step_by(every).filter(|f| *f != self.frame) {
                let [x, y] = self.at(place, f);
                let r = (radius * self.scale).max(1.5);
                let _ = write!(
                    out,
                    r#"<circle cx="{x:.1}" cy="{y:.1}" r="{r:.1}" fill="none" stroke="{SOFT}" stroke-width="0.8"/>"#
                );
            }
        }
    }

    fn draw(&self, out: &mut String, shape: &SceneShape) {
        match shape {
            SceneShape::Line { from, to, paint } => {
                self.polyline(out, &[self.at(from, self.frame), self.at(to, self.frame)], *paint);
            }
            SceneShape::Disc { centre, radius, turn, paint } => {
                let ([x, y], r, (stroke, fill, width)) =
                    (self.at(centre, self.frame), (radius * self.scale).max(2.0), ink(*paint));
                let _ = write!(
                    out,
                    r#"<circle cx="{x:.1}" cy="{y:.1}" r="{r:.1}" fill="{fill}" stroke="{stroke}" stroke-width="{width}"/>"#
                );
                if let Some(turn) = turn {
                    let angle = self.value(*turn, self.frame);
                    let (dx, dy) = (-r * angle.sin(), -r * angle.cos());
                    let mark = if *paint == Paint::Body { SHEET } else { INK };
                    let _ =
                        write!(out, r#"<path d="M{x:.1} {y:.1}l{dx:.1} {dy:.1}" stroke="{mark}" stroke-width="1.6"/>"#);
                }
            }
            SceneShape::Box { centre, size, turn, paint } => {
                let ([x, y], (stroke, fill, width)) = (self.at(centre, self.frame), ink(*paint));
                let [w, h] = size.map(|s| s * self.scale);
                let degrees = -self.value(*turn, self.frame).to_degrees();
                let _ = write!(
                    out,
                    r#"<rect x="{:.1}" y="{:.1}" width="{w:.1}" height="{h:.1}" fill="{fill}" stroke="{stroke}" stroke-width="{width}" transform="translate({x:.1} {y:.1}) rotate({degrees:.2})"/>"#,
                    -0.5 * w,
                    -0.5 * h
                );
            }
            SceneShape::Coil { from, to, width } => self.coil(out, from, to, 0.5 * width * self.scale),
            SceneShape::Scale { zero, along, from, length, division } => {
                self.divided(out, *zero, *along, [*from, *length], *division);
            }
            SceneShape::Curve { points, sways, paint } => {
                let moved = points.iter().enumerate().map(|(i, [x, y])| {
                    let shift = sways.iter().map(|s| {
                        let v = self.value(Coordinate::Channel(s.channel), self.frame);
                        let by = v * s.weights.get(i).copied().unwrap_or_default();
                        s.along.map(|a| a * by)
                    });
                    let [u, v] = shift.fold([*x, *y], |[x, y], [u, v]| [x + u, y + v]);
                    self.px([u, v])
                });
                self.polyline(out, &moved.collect::<Vec<_>>(), *paint);
            }
            SceneShape::Heap { area, most, count, paint, .. } => self.heap(out, *area, *most, *count, *paint),
            SceneShape::Word { place, text } => {
                let [x, y] = self.px(*place);
                let _ =
                    write!(out, r#"<text x="{x:.1}" y="{y:.1}" font-size="12" fill="{SOFT}">{}</text>"#, escape(text));
            }
        }
    }

    fn polyline(&self, out: &mut String, points: &[[f64; 2]], paint: Paint) {
        let (stroke, _, width) = ink(paint);
        let mut d = String::new();
        for [x, y] in points {
            let _ = write!(d, "{x:.1},{y:.1} ");
        }
        let _ = write!(
            out,
            r#"<polyline points="{}" fill="none" stroke="{stroke}" stroke-width="{width}" stroke-linejoin="round" stroke-linecap="round"/>"#,
            d.trim_end()
        );
    }

    fn coil(&self, out: &mut String, from: &Place, to: &Place, half: f64) {
        let ([x, top], [_, low]) = (self.at(from, self.frame), self.at(to, self.frame));
        let pitch = (low - top) / (TURNS + 2) as f64;
        let mut points = vec![[x, top], [x, top + pitch]];
        points.extend(
            (0..2 * TURNS).map(|k| [x + if k % 2 == 0 { half } else { -half }, top + pitch * (1.25 + k as f64 / 2.0)]),
        );
        points.extend([[x, low - pitch], [x, low]]);
        self.polyline(out, &points, Paint::Thread);
    }

    /// A scale with as many divisions as can be told apart, and numbers.
    fn divided(&self, out: &mut String, zero: [f64; 2], along: [f64; 2], [from, length]: [f64; 2], division: f64) {
        let fits = |room: f64| {
            let steps = [1.0, 5.0, 10.0, 50.0, 100.0, 500.0, 1000.0, 5000.0].map(|k| k * division);
            steps.into_iter().find(|s| s * self.scale >= room).unwrap_or(length)
        };
        let (small, large) = (fits(3.0), fits(40.0));
        let [ax, ay] = along;
        let place = |s: f64, px: f64| {
            let [x, y] = self.px([zero[0] + ax * s, zero[1] + ay * s]);
            [x + ay.abs() * px, y + ax.abs() * px]
        };
        let steps = |step: f64| ((from / step - 1e-9).ceil() as i64..=(length / step + 1e-9).floor() as i64).take(5000);
        let inside = |[x, y]: [f64; 2]| (0.0..=self.size[0]).contains(&x) && (0.0..=self.size[1]).contains(&y);
        let mut d = String::new();
        for k in steps(small) {
            let s = k as f64 * small;
            let ([x, y], major) = (place(s, 0.0), (s / large - (s / large).round()).abs() < 1e-6);
            let [u, v] = place(s, if major { 8.0 } else { 4.0 });
            if inside([x, y]) {
                let _ = write!(d, "M{x:.1} {y:.1}L{u:.1} {v:.1}");
            }
        }
        let _ = write!(out, r#"<path d="{d}" stroke="{SOFT}" stroke-width="0.8" fill="none"/>"#);
        let anchor = if ay == 0.0 { "middle" } else { "start" };
        for k in steps(large) {
            let s = k as f64 * large;
            let [x, y] = place(s, if ay == 0.0 { 18.0 } else { 11.0 });
            // Millimetre scales count in centimetres, as on the stage.
            let number = if division <= 0.001 { (s * 1e3).round() / 10.0 } else { (s * 1e4).round() / 1e4 };
            if inside([x, y]) {
                let y = if ay == 0.0 { y } else { y + 3.5 };
                let text = number.to_string().replace('-', "\u{2212}");
                let _ = write!(
                    out,
                    r#"<text x="{x:.1}" y="{y:.1}" font-size="10" font-family="IBM Plex Mono" text-anchor="{anchor}" fill="{SOFT}">{text}</text>"#
                );
            }
        }
    }

    /// Small discs in rows, as many as there are.
    fn heap(&self, out: &mut String, area: Bounds, most: usize, count: Coordinate, paint: Paint) {
        let (w, h) = (area.right - area.left, area.top - area.bottom);
        let columns = ((most as f64 * w / h).sqrt().ceil() as usize).max(1);
        let cell = (w / columns as f64).min(h / most.div_ceil(columns).max(1) as f64);
        let (stroke, fill, _) = ink(paint);
        let there = self.value(count, self.frame).round().max(0.0) as usize;
        for i in 0..there.min(most) {
            let [x, y] = self
                .px([area.left + ((i % columns) as f64 + 0.5) * cell, area.top - ((i / columns) as f64 + 0.5) * cell]);
            let _ = write!(
                out,
                r#"<circle cx="{x:.1}" cy="{y:.1}" r="{:.1}" fill="{fill}" stroke="{stroke}" stroke-width="0.8"/>"#,
                0.42 * cell * self.scale
            );
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::Arc;
    use zeitmass_core::lab::LabSheet;
    use zeitmass_core::logbook::{Edit, Logbook, RunEdit};

    #[test]
    fn a_picture_tells_no_more_than_the_footage() {
        let sheet = LabSheet::parse(include_str!("../../../../labs/2.1-tower-pendulum.md")).unwrap();
        let mut book = Logbook::new(Arc::new(sheet), 1);
        book.apply(&Edit::Run(RunEdit::Run), 0).unwrap();
        let (run, settings) = (book.footage(1).unwrap().unwrap(), book.run_settings(1).unwrap());
        let rig = book.sheet().rig().unwrap();
        let mut scene = rig.scene(&settings, &run).rounded(PLACE);
        // As near as it gets: a hundredth of a millimetre would be seen.
        scene.bounds = Bounds { left: 0.0, right: 1e-9, bottom: -1e-9, top: 0.0 };
        scene.strobe = [1, 0];
        let length = &book.sheet().card.length;
        let moved = |by: f64| {
            let mut run = Run::clone(&run);
            for channel in &mut run.channels {
                channel.values.iter_mut().for_each(|v| *v = (*v / PLACE).round() * PLACE + by);
            }
            stage(&scene, &run, length, 30).0
        };
        assert_eq!(moved(0.0), moved(0.4 * PLACE));
        assert_ne!(moved(0.0), moved(5.0 * PLACE));
    }
}
