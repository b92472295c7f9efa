//! Draws a graph as SVG and as PNG. One function serves the page, the write-up and the exported file, so everything is
//! in presentation attributes and nothing depends on a style sheet.

use std::fmt::Write;
use std::sync::{Arc, OnceLock};

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{self, fontdb};
use zeitmass_core::fit::{Estimate, LineFit, Model};
use zeitmass_core::graph::{Axis, Graph, Point, PointKind};
use zeitmass_core::quantity::Unit;
use zeitmass_core::quantity::format::{plus_minus, with_unit};

use crate::notation::{escape, split_symbol};

const WIDTH: f64 = 560.0;
const HEIGHT: f64 = 400.0;
const LEFT: f64 = 62.0;
const RIGHT: f64 = 14.0;
const TOP: f64 = 34.0;
const BOTTOM: f64 = 58.0;
/// Pixels of the PNG for one unit of the SVG.
const PNG_SCALE: f32 = 2.5;

const INK: &str = "#1E2A32";
const SOFT: &str = "#5A6670";
const RULE: &str = "#E7E1D3";
const SHEET: &str = "#FBFAF6";
const SIGNAL: &str = "#C2402A";
const VERDIGRIS: &str = "#1F7A6D";

/// Who the drawing is for.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum Audience {
    /// A student at the bench, who sets points aside by clicking them.
    Bench,
    /// A reader of a page or a file.
    Reader,
}

/// Slope and intercept of a line with units, as text: `(4.031 ± 0.008) s²/m`.
pub(crate) struct LineText {
    pub slope: String,
    pub intercept: Option<String>,
}

/// The line's parameters in words and units.
pub(crate) fn line_text(line: &LineFit, x: &Unit, y: &Unit) -> LineText {
    let show = |e: Estimate, unit: &Unit, factor: f64| {
        with_unit(&plus_minus(e.value * factor, if e.u.is_nan() { 0.0 } else { e.u * factor }), unit)
    };
    let (unit, factor) = LineFit::slope_unit(x, y).unwrap_or((Unit::one(), 1.0));
    LineText { slope: show(line.slope, &unit, factor), intercept: line.intercept.map(|b| show(b, y, 1.0)) }
}

/// The graph as an SVG document.
pub(crate) fn svg(graph: &Graph, audience: Audience) -> String {
    let mut out = String::with_capacity(8000);
    let _ = write!(
        out,
        r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}" font-family="Barlow, 'Noto Sans Math', sans-serif" font-size="15" fill="{INK}" role="group" aria-label="{}">"#,
        escape(&format!("Graph of {} against {}, {} points", graph.y.symbol, graph.x.symbol, graph.points.len()))
    );
    let _ = write!(out, r#"<rect width="{WIDTH}" height="{HEIGHT}" fill="{SHEET}"/>"#);
    axes(&mut out, graph);
    if let Some(line) = &graph.line {
        best_fit(&mut out, graph, line);
    }
    for point in &graph.points {
        draw_point(&mut out, graph, point, audience);
    }
    if let Some(line) = &graph.line {
        card(&mut out, graph, line);
    }
    out.push_str("</svg>");
    out
}

fn px(axis: &Axis, value: f64) -> f64 {
    LEFT + axis.share(value) * (WIDTH - LEFT - RIGHT)
}

fn py(axis: &Axis, value: f64) -> f64 {
    HEIGHT - BOTTOM - axis.share(value) * (HEIGHT - TOP - BOTTOM)
}

fn axes(out: &mut String, graph: &Graph) {
    let (bottom, right) = (HEIGHT - BOTTOM, WIDTH - RIGHT);
    for tick in &graph.x.ticks {
        let x = px(&graph.x, tick.value);
        let _ = write!(out, r#"<path d="M{x:.1} {TOP}V{bottom}" stroke="{RULE}"/>"#);
        let _ = write!(
            out,
            r#"<text x="{x:.1}" y="{:.1}" text-anchor="middle" fill="{SOFT}" font-family="IBM Plex Mono" font-size="14">{}</text>"#,
            bottom + 19.0,
            tick.label
        );
    }
    for tick in &graph.y.ticks {
        let y = py(&graph.y, tick.value);
        let _ = write!(out, r#"<path d="M{LEFT} {y:.1}H{right}" stroke="{RULE}"/>"#);
        let _ = write!(
            out,
            r#"<text x="{:.1}" y="{:.1}" text-anchor="end" fill="{SOFT}" font-family="IBM Plex Mono" font-size="14">{}</text>"#,
            LEFT - 8.0,
            y + 5.0,
            tick.label
        );
    }
    let _ = write!(out, r#"<path d="M{LEFT} {TOP}V{bottom}H{right}" fill="none" stroke="{INK}" stroke-width="1.6"/>"#);
    let _ = write!(out, r#"<text x="{LEFT}" y="20">{}</text>"#, title(&graph.y));
    let _ = write!(out, r#"<text x="{right}" y="{:.1}" text-anchor="end">{}</text>"#, HEIGHT - 12.0, title(&graph.x));
}

/// `length L (m)` with the symbol in italics and its index below.
fn title(axis: &Axis) -> String {
    let unit = axis.unit.pretty();
    let unit = if unit.is_empty() { String::new() } else { format!(" ({})", escape(&unit)) };
    format!("{} {}{unit}", escape(&axis.name), symbol(&axis.symbol))
}

fn symbol(text: &str) -> String {
    let (base, index) = split_symbol(text);
    let base = format!(r#"<tspan font-style="italic">{}</tspan>"#, escape(base));
    if index.is_empty() {
        return base;
    }
    format!(r#"{base}<tspan font-size="11" dy="4">{}</tspan><tspan dy="-4">&#8203;</tspan>"#, escape(index))
}

fn best_fit(out: &mut String, graph: &Graph, line: &LineFit) {
    let (from, to) = line.span;
    let piece = |out: &mut String, a: f64, b: f64, dash: &str| {
        // Clipped to the frame: a continuation may leave it above or below.
        if let Some((a, b)) = clip(graph, line, a, b) {
            let _ = write!(
                out,
                r#"<path d="M{:.1} {:.1}L{:.1} {:.1}" stroke="{INK}" stroke-width="1.8"{dash}/>"#,
                px(&graph.x, a),
                py(&graph.y, line.at(a)),
                px(&graph.x, b),
                py(&graph.y, line.at(b)),
            );
        }
    };
    let dotted = r#" stroke-dasharray="2 5""#;
    piece(out, graph.x.min, from, dotted);
    piece(out, from, to, "");
    piece(out, to, graph.x.max, dotted);
}

/// The part of the line between x = a and x = b that lies inside the frame.
fn clip(graph: &Graph, line: &LineFit, a: f64, b: f64) -> Option<(f64, f64)> {
    let (mut a, mut b) = (a.max(graph.x.min), b.min(graph.x.max));
    let slope = line.slope.value;
    if slope != 0.0 {
        let at = |y: f64| (y - line.at(0.0)) / slope;
        let (low, high) = (at(graph.y.min), at(graph.y.max));
        a = a.max(low.min(high));
        b = b.min(low.max(high));
    }
    (a < b).then_some((a, b))
}

fn draw_point(out: &mut String, graph: &Graph, point: &Point, audience: Audience) {
    let (x, y) = (px(&graph.x, point.x), py(&graph.y, point.y));
    let colour = if point.kind == PointKind::Worked { VERDIGRIS } else { SIGNAL };
    if audience == Audience::Bench {
        let state = if point.aside { "set aside" } else { "in the fit" };
        let label = format!(
            "Row {}: {} {}, {} {}, {state}",
            point.number, graph.x.symbol, point.x_text, graph.y.symbol, point.y_text
        );
        let _ = write!(
            out,
            r#"<g class="point" id="point-{row}" role="button" tabindex="-1" aria-pressed="{aside}" aria-label="{label}" data-edit="set_aside" data-row="{row}" data-aside="{}"><title>{label}</title><circle cx="{x:.1}" cy="{y:.1}" r="14" fill="transparent"/>"#,
            !point.aside,
            row = point.row,
            aside = point.aside,
            label = escape(&label),
        );
    } else {
        out.push_str("<g>");
    }
    let _ =
        write!(out, r#"<circle cx="{x:.1}" cy="{y:.1}" r="5.5" fill="{SHEET}" stroke="{colour}" stroke-width="1.8"/>"#);
    if point.kind == PointKind::Read {
        let _ = write!(out, r#"<circle cx="{x:.1}" cy="{y:.1}" r="1.7" fill="{colour}"/>"#);
    }
    if point.aside {
        let _ =
            write!(out, r#"<path d="M{:.1} {:.1}l18 -18" stroke="{colour}" stroke-width="1.8"/>"#, x - 9.0, y + 9.0);
    }
    out.push_str("</g>");
}

/// The equation, in the corner the line leaves free.
fn card(out: &mut String, graph: &Graph, line: &LineFit) {
    let text = line_text(line, &graph.x.unit, &graph.y.unit);
    let lines = if line.model == Model::Line { 3.0 } else { 2.0 };
    let (width, height) = (254.0, 12.0 + 19.0 * lines);
    let rises = line.slope.value >= 0.0;
    let (x, y) = (WIDTH - RIGHT - width - 10.0, if rises { HEIGHT - BOTTOM - height - 12.0 } else { TOP + 8.0 });
    let _ = write!(
        out,
        r##"<rect x="{x}" y="{y}" width="{width}" height="{height}" fill="{SHEET}" fill-opacity="0.94" stroke="#D9D3C4"/>"##
    );
    let mut row = |i: f64, content: String, fill: &str| {
        let _ = write!(
            out,
            r#"<text x="{}" y="{:.1}" fill="{fill}" font-size="14">{content}</text>"#,
            x + 10.0,
            y + 20.0 + 19.0 * i
        );
    };
    let (sy, sx) = (symbol(&graph.y.symbol), symbol(&graph.x.symbol));
    let intercept = if line.model == Model::Line { " + intercept" } else { "" };
    row(0.0, format!("{sy} = slope · {sx}{intercept}"), INK);
    row(1.0, format!("slope {}", escape(&text.slope)), INK);
    if let Some(b) = text.intercept {
        row(2.0, format!("intercept {}", escape(&b)), INK);
    }
}

/// The graph as a PNG file. `None` when it cannot be drawn.
pub(crate) fn png(graph: &Graph) -> Option<Vec<u8>> {
    static FONTS: OnceLock<Arc<fontdb::Database>> = OnceLock::new();
    let fonts = FONTS.get_or_init(|| {
        let mut db = fontdb::Database::new();
        for name in [
            "barlow-latin-400-normal.ttf",
            "barlow-latin-400-italic.ttf",
            "barlow-latin-500-normal.ttf",
            "ibm-plex-mono-latin-400-normal.ttf",
            "noto-sans-math-latin-400-normal.ttf",
        ] {
            if let Some(data) = crate::assets::font(name) {
                db.load_font_data(data.into_owned());
            }
        }
        db.set_sans_serif_family("Barlow");
        Arc::new(db)
    });
    let options = usvg::Options { fontdb: Arc::clone(fonts), ..usvg::Options::default() };
    let tree = usvg::Tree::from_str(&svg(graph, Audience::Reader), &options).ok()?;
    let (width, height) = ((WIDTH as f32 * PNG_SCALE) as u32, (HEIGHT as f32 * PNG_SCALE) as u32);
    let mut pixels = Pixmap::new(width, height)?;
    resvg::render(&tree, Transform::from_scale(PNG_SCALE, PNG_SCALE), &mut pixels.as_mut());
    pixels.encode_png().ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use zeitmass_core::fit::fit_line;

    fn graph(points: &[(f64, f64)]) -> Graph {
        let axis = |name, symbol, unit, value: fn(&(f64, f64)) -> f64| {
            Axis::around(name, symbol, Unit::parse(unit).unwrap(), points.iter().map(value))
        };
        Graph {
            x: axis("length <b>", "L", "m", |p| p.0),
            y: axis("squared", "T2", "s^2", |p| p.1),
            points: (1..)
                .zip(points)
                .map(|(row, &(x, y))| Point {
                    row,
                    number: row as usize,
                    x,
                    y,
                    x_text: x.to_string(),
                    y_text: y.to_string(),
                    kind: PointKind::Worked,
                    aside: row == 2,
                })
                .collect(),
            line: fit_line(points, Model::Line).ok(),
        }
    }

    #[test]
    fn the_same_drawing_is_sound_svg_and_a_png_with_ink_on_it() {
        let g = graph(&[(0.3, 1.2), (0.8, 3.3), (1.5, 6.05)]);
        for audience in [Audience::Bench, Audience::Reader] {
            let text = svg(&g, audience);
            let parsed = usvg::Tree::from_str(&text, &usvg::Options::default());
            assert!(parsed.is_ok(), "{parsed:?}");
            assert!(text.contains("length &lt;b&gt;") && text.contains("s²/m"));
            assert_eq!(text.contains("tabindex"), audience == Audience::Bench);
        }
        let file = png(&g).unwrap();
        let pixels = Pixmap::decode_png(&file).unwrap();
        let dark = pixels.pixels().iter().filter(|p| p.red() < 80).count();
        assert!(dark > 3000, "{dark} dark pixels: axes, line and letters are missing");
    }

    #[test]
    fn the_line_never_leaves_the_frame() {
        let g = graph(&[(1.0, 100.0), (2.0, 50.0), (3.0, 1.0)]);
        let line = g.line.clone().unwrap();
        for (a, b) in [(g.x.min, g.x.max), (1.0, 3.0)] {
            let (a, b) = clip(&g, &line, a, b).unwrap();
            for x in [a, b] {
                assert!((-1e-9..=1.0 + 1e-9).contains(&g.y.share(line.at(x))));
            }
        }
    }
}
