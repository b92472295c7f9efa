//! The shape strip.

use askama::Template;
use zeitmass_core::fit::{Bend, Shape, Transform};
use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::StripRule;
use zeitmass_core::quantity::format::to_step;
use zeitmass_words::data::straightness;

use super::Scene;
use crate::draw;
use crate::notation::symbol_html;
use zeitmass_words::Words;

pub(super) struct ShapeView {
    name: &'static str,
    label: String,
    picture: String,
    verdict: String,
    straight: bool,
    chosen: bool,
    /// Why it cannot be drawn.
    closed: String,
}

#[derive(Template)]
#[template(path = "bench/strip_part.html")]
pub(super) struct StripPart {
    writable: bool,
    graph: u32,
    /// Whether the strip is open to this person.
    open: bool,
    /// Whether it will open after an attempt.
    later: bool,
    shapes: Vec<ShapeView>,
    symbols: (String, String),
    meaning: String,
}

impl Scene<'_> {
    pub(super) fn strip(&self) -> StripPart {
        let book = self.book();
        let id = self.graph_id();
        // The teacher may look at any time.
        let open = book.strip_is_open() || self.viewer.sees_key();
        let strip = if open { book.strip(id) } else { None };
        let mut part = StripPart {
            writable: self.open_at(Step::Graph),
            graph: id,
            open,
            later: book.sheet().strip == StripRule::AfterAttempt,
            shapes: Vec::new(),
            symbols: (String::new(), String::new()),
            meaning: String::new(),
        };
        let Some(strip) = strip else { return part };
        let (x, y) = (symbol_html(&strip.symbols.0), symbol_html(&strip.symbols.1));
        part.shapes = strip
            .shapes
            .iter()
            .map(|(shape, outcome)| {
                let (picture, verdict, straight, closed) = match outcome {
                    Ok(fit) => {
                        let rest = if fit.judgement.rest > 0.0 {
                            format!("; {} left", share(fit.judgement.rest))
                        } else {
                            String::new()
                        };
                        let words = format!("{}{rest}", straightness(&fit.judgement, fit.points.len()));
                        (draw::small(fit), words, fit.judgement.bend == Bend::None, String::new())
                    }
                    Err(e) => (String::new(), String::new(), false, e.words()),
                };
                ShapeView {
                    name: shape.name(),
                    label: label(*shape, &x, &y),
                    picture,
                    verdict,
                    straight,
                    chosen: *shape == strip.chosen,
                    closed,
                }
            })
            .collect();
        part.meaning = zeitmass_words::fits::meaning(strip.chosen, &x, &y);
        part.symbols = (x, y);
        part
    }
}

/// The share of the scatter of y that a line leaves, in percent.
fn share(rest: f64) -> String {
    let percent = rest * 100.0;
    let step = if percent >= 10.0 { 1.0 } else { 0.1 };
    format!("{}\u{A0}%", to_step(percent, step))
}

fn replaced(t: Transform, symbol: &str) -> String {
    match t {
        Transform::Same => symbol.to_owned(),
        Transform::Square => format!("{symbol}<sup>2</sup>"),
        Transform::Root => format!("√{symbol}"),
        Transform::Inverse => format!("1/{symbol}"),
        Transform::InverseSquare => format!("1/{symbol}<sup>2</sup>"),
        Transform::Ln => format!("ln {symbol}"),
    }
}

fn label(shape: Shape, x: &str, y: &str) -> String {
    let (across, up) = shape.transforms();
    format!("{} against {}", replaced(up, y), replaced(across, x))
}
