//! Draws graphs as SVG and as PNG. One function serves the page, the write-up and the exported file, so everything is
//! in presentation attributes and nothing depends on a style sheet.

mod axes;
mod curves;
pub(crate) mod forecast;
mod marks;
mod pool;
mod stage;
mod strip;
mod text;

use std::fmt::Write;
use std::sync::{Arc, OnceLock};

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{self, fontdb};
use zeitmass_core::fit::Parameter;
use zeitmass_core::graph::{Axis, Graph};
use zeitmass_core::quantity::format::{plus_minus, with_unit};

use crate::notation::escape;
pub(crate) use curves::look_words;
pub(crate) use pool::pool;
pub(crate) use stage::stage;
pub(crate) use strip::small;

const WIDTH: f64 = 560.0;
const LEFT: f64 = 62.0;
const RIGHT: f64 = 14.0;
const TOP: f64 = 34.0;
/// Height of the frame of the graph itself.
const FRAME: f64 = 308.0;
/// Room below the frame for labels and the title of the axis.
const BELOW: f64 = 58.0;
/// Height of the frame of the residuals, and the room above it.
const REST: (f64, f64) = (72.0, 12.0);
/// Pixels of the PNG for one unit of the SVG.
const PNG_SCALE: f32 = 2.5;

const INK: &str = "#1E2A32";
const SOFT: &str = "#5A6670";
const RULE: &str = "#E7E1D3";
const SHEET: &str = "#FBFAF6";
const SIGNAL: &str = "#C2402A";
const VERDIGRIS: &str = "#1F7A6D";
const SLATE: &str = "#4A5E9A";
const STRAW: &str = "#8F6A12";

/// Who the drawing is for.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum Audience {
    /// A student at the bench, who sets points aside by clicking them.
    Bench,
    /// A reader of a page or a file.
    Reader,
}

/// A parameter in words and units: `(4.031 ± 0.008) s²/m`.
pub(crate) fn parameter_text(p: &Parameter) -> String {
    with_unit(&plus_minus(p.value, p.u), &p.unit)
}

/// A frame into which values are drawn.
pub(super) struct Frame<'a> {
    pub x: &'a Axis,
    pub y: &'a Axis,
    pub left: f64,
    pub top: f64,
    pub width: f64,
    pub height: f64,
}

impl Frame<'_> {
    fn px(&self, value: f64) -> f64 {
        self.left + self.x.share(value) * self.width
    }

    fn py(&self, value: f64) -> f64 {
        self.top + (1.0 - self.y.share(value)) * self.height
    }

    fn bottom(&self) -> f64 {
        self.top + self.height
    }

    fn right(&self) -> f64 {
        self.left + self.width
    }

    /// Whether a point lies inside.
    fn holds(&self, x: f64, y: f64) -> bool {
        self.x.holds(x) && self.y.holds(y)
    }
}

fn frame(graph: &Graph) -> Frame<'_> {
    Frame { x: &graph.x, y: &graph.y, left: LEFT, top: TOP, width: WIDTH - LEFT - RIGHT, height: FRAME }
}

/// The graph as an SVG document.
pub(crate) fn svg(graph: &Graph, audience: Audience) -> String {
    let mut out = String::with_capacity(12_000);
    let main = frame(graph);
    let rest = graph.residuals.as_ref().map(|axis| Frame {
        x: &graph.x,
        y: axis,
        left: LEFT,
        top: main.bottom() + REST.1,
        width: main.width,
        height: REST.0,
    });
    let height = rest.as_ref().map_or(main.bottom(), Frame::bottom) + BELOW;
    let points = graph.points().count();
    let about = format!("Graph of {} against {}, {points} points", graph.y.symbol, graph.x.symbol);
    let _ = write!(
        out,
        r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}" font-family="Barlow, 'Noto Sans Math', sans-serif" font-size="15" fill="{INK}" role="group" aria-label="{}""#,
        escape(&about)
    );
    if audience == Audience::Bench {
        // What a drag over the graph means is worked out from these.
        let ends = |a: &Axis| {
            format!(
                "{} {} {}",
                a.min,
                a.max,
                if matches!(a.scale, zeitmass_core::graph::AxisScale::Linear) { "linear" } else { "log" }
            )
        };
        let _ = write!(
            out,
            r#" data-frame="{} {} {} {}" data-across="{}" data-up="{}""#,
            main.left,
            main.top,
            main.width,
            main.height,
            ends(&graph.x),
            ends(&graph.y)
        );
    }
    out.push('>');
    let _ = write!(out, r#"<rect width="{WIDTH}" height="{height}" fill="{SHEET}"/>"#);
    axes::frame(&mut out, &main, rest.is_none());
    if let Some(rest) = &rest {
        axes::frame(&mut out, rest, true);
    }
    axes::titles(&mut out, graph, height);
    for fitted in &graph.fits {
        curves::stretch(&mut out, &main, fitted);
    }
    for fitted in &graph.fits {
        curves::curve(&mut out, &main, graph, fitted);
    }
    for model in graph.models.iter().filter(|m| !m.newest) {
        curves::model(&mut out, &main, model);
    }
    if let Some(expected) = &graph.expected {
        curves::expected(&mut out, &main, expected);
    }
    if let Some(Ok(looked)) = &graph.look {
        curves::looked(&mut out, &main, looked);
    }
    marks::points(&mut out, &main, graph, audience);
    // Over the points: those of a film lie so close that they would hide it.
    for model in graph.models.iter().filter(|m| m.newest) {
        curves::model(&mut out, &main, model);
    }
    if let Some(rest) = &rest {
        marks::residuals(&mut out, rest, graph);
    }
    marks::legend(&mut out, &main, graph);
    curves::card(&mut out, &main, graph);
    out.push_str("</svg>");
    out
}

/// The graph as a PNG file. `None` when it cannot be drawn.
pub(crate) fn png(graph: &Graph) -> Option<Vec<u8>> {
    picture(&svg(graph, Audience::Reader))
}

/// A drawing as PNG, twice as large as it is drawn.
pub(crate) fn picture(svg: &str) -> Option<Vec<u8>> {
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
    let tree = usvg::Tree::from_str(svg, &options).ok()?;
    let (width, height) = ((tree.size().width() * PNG_SCALE) as u32, (tree.size().height() * PNG_SCALE) as u32);
    let mut pixels = Pixmap::new(width, height)?;
    resvg::render(&tree, Transform::from_scale(PNG_SCALE, PNG_SCALE), &mut pixels.as_mut());
    pixels.encode_png().ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::Arc as Shared;
    use zeitmass_core::fit::{Model, Weighting};
    use zeitmass_core::lab::LabSheet;
    use zeitmass_core::logbook::{CurveText, Edit, GraphEdit, GraphShows, Logbook, RecordEdit, RowAt};

    fn book(block: &str) -> Logbook {
        let sheet = LabSheet::parse(include_str!("../../../../labs/2.1-tower-pendulum.md")).unwrap();
        let mut book = Logbook::new(Shared::new(sheet), 1);
        book.apply(
            &Edit::Record(RecordEdit::Paste {
                table: None,
                name: "t".into(),
                row: RowAt::Below,
                column: None,
                text: block.into(),
            }),
            0,
        )
        .unwrap();
        let c = &book.state().record.tables[1].columns;
        let (x, y) = (c[0].id, c[1].id);
        book.apply(&Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(x), y: Some(y) }), 0).unwrap();
        book.apply(&Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }), 0).unwrap();
        for what in [GraphShows::Residuals, GraphShows::Band] {
            book.apply(&Edit::Graph(GraphEdit::ShowOnGraph { graph: 1, what, on: true }), 0).unwrap();
        }
        book
    }

    const LENGTHS: &str =
        "length <b> L (m)\tT2 (s^2)\tset aside\n0.30\t1.2\t\n0.80\t3.3\tyes\n1.50\t6.05\t\n1.80\t7.20\t";

    #[test]
    fn the_same_drawing_is_sound_svg_and_a_png_with_ink_on_it() {
        let mut book = book(LENGTHS);
        let look = |typed: &str| {
            Edit::Graph(GraphEdit::LookAhead { graph: 1, back: false, typed: typed.into(), stretch: None })
        };
        book.apply(&look("3 m"), 0).unwrap();
        let analysis = book.analyse();
        let g = analysis.graph(1).unwrap();
        for audience in [Audience::Bench, Audience::Reader] {
            let text = svg(g, audience);
            let parsed = usvg::Tree::from_str(&text, &usvg::Options::default());
            assert!(parsed.is_ok(), "{parsed:?}\n{text}");
            assert!(text.contains("length &lt;b&gt;") && !text.contains("NaN"), "{text}");
            assert_eq!(text.contains("tabindex"), audience == Audience::Bench);
        }
        let file = png(g).unwrap();
        let pixels = Pixmap::decode_png(&file).unwrap();
        let dark = pixels.pixels().iter().filter(|p| p.red() < 80).count();
        assert!(dark > 3000, "{dark} dark pixels: axes, line and letters are missing");
    }

    /// Points in three corners: the box with the line's figures stands in the fourth, whichever that is.
    #[test]
    fn the_box_covers_no_points_where_a_corner_is_free() {
        for free in 0..4 {
            let corners = [("1", "1"), ("9", "1"), ("1", "9"), ("9", "9")];
            let rows = corners.iter().enumerate().filter(|(k, _)| *k != free);
            let rows: String = rows.map(|(_, (x, y))| format!("{x}\t{y}\n{x}.4\t{y}.4\n")).collect();
            let book = book(&format!("x (m)\ty (s)\n0\t0\n10\t10\n{rows}"));
            let analysis = book.analyse();
            let g = analysis.graph(1).unwrap();
            let drawn = svg(g, Audience::Reader);
            let rect = drawn.split("class=\"card\"><rect ").nth(1).unwrap().split('/').next().unwrap();
            let of = |name: &str| -> f64 {
                rect.split(&format!("{name}=\"")).nth(1).unwrap().split('"').next().unwrap().parse().unwrap()
            };
            let (x, y, width, height) = (of("x"), of("y"), of("width"), of("height"));
            let main = frame(g);
            let covered = g.points().filter(|p| {
                let (px, py) = (main.px(p.x), main.py(p.y));
                px > x && px < x + width && py > y && py < y + height
            });
            // The ends of the axes, at 0 and 10, lie in two of the corners.
            assert!(covered.count() <= usize::from(free == 0 || free == 3), "{free}: {rect}");
        }
    }

    #[test]
    fn curves_and_points_never_leave_the_frame() {
        let mut book = book("x\ty\n1\t100\n2\t50\n3\t33\n4\t25\n5\t20.5");
        let every = Model::OFFERED.into_iter().filter(|m| !m.name().contains("sine"));
        for model in every {
            let fit = Edit::Graph(GraphEdit::ChooseFit {
                graph: 1,
                stretch: None,
                curve: CurveText::Offered(model.clone()),
                weighting: Weighting::Equal,
            });
            book.apply(&fit, 0).unwrap();
            book.apply(&Edit::Graph(GraphEdit::Zoom { graph: 1, range: Some([[1.5, 4.5], [18.0, 60.0]]) }), 0).unwrap();
            let analysis = book.analyse();
            let g = analysis.graph(1).unwrap();
            let drawn = svg(g, Audience::Reader);
            assert!(!drawn.contains("NaN") && !drawn.contains("inf"), "{model:?}: {drawn}");
            let main = frame(g);
            for path in drawn.split("class=\"curve\" d=\"M").skip(1).filter_map(|p| p.split('"').next()) {
                for pair in path.split('L') {
                    let (x, y) = pair.split_once(' ').unwrap();
                    let (x, y): (f64, f64) = (x.parse().unwrap(), y.parse().unwrap());
                    let inside = (main.left - 0.2..=main.right() + 0.2).contains(&x)
                        && (main.top - 0.2..=main.bottom() + 0.2).contains(&y);
                    assert!(inside, "{model:?}: {x} {y}");
                }
            }
        }
    }

    #[test]
    fn thousands_of_points_are_one_path() {
        let rows: String = (0..5000).map(|i| format!("{}\t{}\n", i, (f64::from(i) * 0.01).sin())).collect();
        let book = book(&format!("x\ty\n{rows}"));
        let analysis = book.analyse();
        let drawn = svg(analysis.graph(1).unwrap(), Audience::Bench);
        assert!(drawn.len() < 200_000, "{} bytes", drawn.len());
    }
}
