//! A film in a logbook: what it is, and what has been laid over it.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::{Axes, Mark, Ruler, Scale, Tools, Trail, TrailId};
use crate::quantity::{Decimal, Dimension, Origin, Reading, ScaleShare, Unit};

/// Frames a film may ever have: its marks have to fit into a table. A server allows 3,000 unless told otherwise.
pub const MOST_FRAMES: usize = 10_000;
/// What a mark by hand or an end of a ruler is read to, in px.
pub const PIXEL: f64 = 1.0;
/// What a mark placed by the program is read to, in px: its error on rendered films is 0.04 px to 0.1 px.
const FOLLOWED: f64 = 0.3;
/// What frame times are known to, in s.
const TICK: f64 = 1e-4;

/// What is known of a film without looking at its pixels.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct FilmFacts {
    /// Name by which its frames are found.
    pub key: String,
    /// Title for people.
    pub title: String,
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// Time of every frame in s, ascending.
    pub times: Vec<f64>,
    /// What in it has a known length, in words.
    pub length: String,
}

/// A film with everything laid over it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct FilmWork {
    /// What it is.
    pub facts: Arc<FilmFacts>,
    /// t = 0, split and tape; the tape in px.
    #[serde(default)]
    pub tools: Tools,
    /// What the scale is taken from.
    pub rulers: Vec<Ruler>,
    /// Origin and direction.
    pub axes: Axes,
    /// What is marked.
    pub trails: Vec<Trail>,
}

fn metre() -> Unit {
    Unit::coherent(&Dimension::of([1, 0, 0, 0, 0, 0, 0]))
}

impl FilmWork {
    /// A film with nothing laid over it yet.
    pub fn new(facts: Arc<FilmFacts>) -> Self {
        let axes = Axes::of_picture(f64::from(facts.height));
        Self { facts, tools: Tools::default(), rulers: Vec::new(), axes, trails: Vec::new() }
    }

    /// Its scale, if something of known length is marked.
    pub fn scale(&self) -> Option<Scale> {
        Scale::of(&self.rulers)
    }

    /// The unit of x and y: metres, or pixels while there is no scale.
    pub fn unit(&self) -> Unit {
        if self.rulers.is_empty() { Unit::parse("\"px\"").unwrap_or_default() } else { metre() }
    }

    /// Time of a frame in s, from t = 0 on.
    pub fn time(&self, frame: u32) -> f64 {
        let at = |f: u32| self.facts.times.get(f as usize).copied().unwrap_or_default();
        at(frame) - at(self.tools.zero)
    }

    /// x and y of a place in px, in m, or in px without a scale.
    pub fn place(&self, at: [f64; 2]) -> [f64; 2] {
        let scale = self.scale().map_or(1.0, |s| s.metres);
        self.axes.along(at).map(|v| v * scale)
    }

    /// The trail with this id.
    pub fn trail(&self, id: TrailId) -> Option<&Trail> {
        self.trails.iter().find(|t| t.id == id)
    }

    /// t, x and y of a mark as readings. `number` is that of the film in the logbook.
    pub fn readings(&self, number: u32, trail: TrailId, frame: u32, mark: &Mark) -> [Reading; 3] {
        let scale = self.scale();
        let metres = scale.map_or(1.0, |s| s.metres);
        let share = scale.map(|s| ScaleShare { film: number, relative: s.u / s.metres });
        let resolution = if mark.followed { FOLLOWED } else { PIXEL } * metres;
        let origin = |scale| Origin::Mark { film: number, trail, frame, followed: mark.followed, scale };
        let unit = self.unit();
        let [x, y] = self.axes.along(mark.at).map(|v| Reading {
            // A tenth of a pixel can be told when marks are moved by keys.
            number: Decimal::rounded(v * metres, resolution / 10.0),
            unit: unit.clone(),
            resolution,
            origin: origin(share),
        });
        let second = Unit::coherent(&Dimension::of([0, 0, 1, 0, 0, 0, 0]));
        let number = Decimal::rounded(self.time(frame), TICK);
        [Reading { number, unit: second, resolution: TICK, origin: origin(None) }, x, y]
    }
}
