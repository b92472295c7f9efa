//! A film in a logbook: what it is, and what has been laid over it.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::{Axes, Flat, Mark, Plane, Ruler, Scale, Tools, Trail, TrailId};
use crate::quantity::{Along, Decimal, Dimension, FilmShare, Origin, Reading, Unit};

/// Frames a film may ever have: its marks have to fit into a table. A server allows 3,000 unless told otherwise.
pub const MOST_FRAMES: usize = 10_000;
/// Pixels a picture of a film may be wide or high.
pub const LONGEST_SIDE: u32 = 4096;
/// What a mark by hand or an end of a ruler is read to, in px.
pub const PIXEL: f64 = 1.0;
/// What a mark placed by the program is read to, in px: its error on rendered films is 0.04 px to 0.1 px.
const FOLLOWED: f64 = 0.3;
/// The axes, in the order of a place's numbers.
const AXES: [Along; 2] = [Along::X, Along::Y];
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
    /// What sets the picture right, where it was not taken squarely. The rulers rest meanwhile.
    #[serde(default)]
    pub plane: Option<Plane>,
    /// Origin and direction.
    pub axes: Axes,
    /// What is marked.
    pub trails: Vec<Trail>,
}

fn metre() -> Unit {
    Unit::coherent(&Dimension::of([1, 0, 0, 0, 0, 0, 0]))
}

/// Steps that lead from a position to its place in the picture.
const NEWTON: usize = 12;

impl FilmWork {
    /// A film with nothing laid over it yet.
    pub fn new(facts: Arc<FilmFacts>) -> Self {
        let axes = Axes::of_picture(f64::from(facts.height));
        Self { facts, tools: Tools::default(), rulers: Vec::new(), plane: None, axes, trails: Vec::new() }
    }

    /// Its scale, if something of known length or a rectangle of known size is marked.
    pub fn scale(&self) -> Option<Scale> {
        match &self.plane {
            Some(plane) => Scale::of_plane(plane),
            None => Scale::of(&self.rulers),
        }
    }

    /// The unit of x and y: metres, or pixels while there is no scale.
    pub fn unit(&self) -> Unit {
        let scaled = self.plane.is_some() || !self.rulers.is_empty();
        if scaled { metre() } else { Unit::parse("\"px\"").unwrap_or_default() }
    }

    /// Time of a frame in s, from t = 0 on.
    pub fn time(&self, frame: u32) -> f64 {
        let at = |f: u32| self.facts.times.get(f as usize).copied().unwrap_or_default();
        at(frame) - at(self.tools.zero)
    }

    /// How its places become positions.
    pub fn sight(&self) -> Sight<'_> {
        let scale = self.scale();
        let (laid, moved) = match self.plane.as_ref().and_then(|p| Some((p.flat()?, p))) {
            Some((flat, plane)) => {
                let moved = plane.moved().into_iter().map(|f| Laid::on(&f, &self.axes));
                (Laid::on(&flat, &self.axes), moved.collect())
            }
            None => (Laid { flat: None, axes: self.axes, metres: scale.map_or(1.0, |s| s.metres) }, Vec::new()),
        };
        Sight { film: self, laid, moved, scale }
    }

    /// The trail with this id.
    pub fn trail(&self, id: TrailId) -> Option<&Trail> {
        self.trails.iter().find(|t| t.id == id)
    }
}

/// Axes over a picture, or over the plane it shows, and a scale.
#[derive(Clone, Copy, Debug)]
struct Laid {
    flat: Option<Flat>,
    /// Over the picture, or over the plane.
    axes: Axes,
    /// Metres for 1 of the axes.
    metres: f64,
}

impl Laid {
    fn on(flat: &Flat, axes: &Axes) -> Self {
        Self { flat: Some(*flat), axes: axes.on(flat), metres: 1.0 }
    }

    fn place(&self, at: [f64; 2]) -> [f64; 2] {
        self.axes.along(self.flat.map_or(at, |flat| flat.of(at))).map(|v| v * self.metres)
    }

    fn distance(&self, ends: [[f64; 2]; 2]) -> f64 {
        let [[ax, ay], [bx, by]] = ends.map(|at| self.flat.map_or(at, |flat| flat.of(at)));
        (bx - ax).hypot(by - ay) * self.metres
    }

    /// How finely the place of a mark read to a pixel tells x and y, in m, or in px without a scale.
    fn fineness(&self, at: [f64; 2]) -> [f64; 2] {
        let Some(flat) = self.flat else { return [self.metres; 2] };
        let [[a, b], [c, d]] = flat.slope(at);
        let (sin, cos) = self.axes.angle.sin_cos();
        [(a * cos - c * sin).hypot(b * cos - d * sin), (a * sin + c * cos).hypot(b * sin + d * cos)]
    }
}

/// How places of a film become positions: by its scale, or by the rectangle that sets it right.
#[derive(Clone, Debug)]
pub struct Sight<'a> {
    film: &'a FilmWork,
    laid: Laid,
    /// As it would be with each uncertain thing of the rectangle moved by its standard uncertainty.
    moved: Vec<Laid>,
    scale: Option<Scale>,
}

impl Sight<'_> {
    /// Whether a place of the picture is one of the plane, not beyond its horizon.
    pub fn sees(&self, at: [f64; 2]) -> bool {
        self.laid.flat.is_none_or(|flat| flat.sees(at))
    }

    /// x and y of a place in px, in m, or in px without a scale.
    pub fn place(&self, at: [f64; 2]) -> [f64; 2] {
        self.laid.place(at)
    }

    /// The place in px that has this x and y: the other way round than [`Self::place`].
    pub fn picture_of(&self, r: [f64; 2]) -> [f64; 2] {
        let axes = &self.film.axes;
        if self.laid.flat.is_none() {
            return axes.back(r.map(|v| v / self.laid.metres));
        }
        // Over a rectangle by Newton's steps from the origin, where it maps a plane in perspective.
        let mut at = axes.origin;
        for _ in 0..NEWTON {
            let here = self.place(at);
            let [right, down] = [self.place([at[0] + 1.0, at[1]]), self.place([at[0], at[1] + 1.0])];
            let [[a, c], [b, d]] = [right, down].map(|to| [to[0] - here[0], to[1] - here[1]]);
            let (ex, ey, det) = (r[0] - here[0], r[1] - here[1], a * d - b * c);
            if det == 0.0 {
                break;
            }
            at = [at[0] + (d * ex - b * ey) / det, at[1] + (a * ey - c * ex) / det];
        }
        at
    }

    /// [`Self::place`] with each uncertain thing of the rectangle moved by its standard uncertainty, one after the other.
    pub fn moved(&self) -> impl Iterator<Item = impl Fn([f64; 2]) -> [f64; 2] + '_> {
        self.moved.iter().map(|laid| |at| laid.place(at))
    }

    /// Distance of two places in px, in m, or in px without a scale, and what a pixel is there.
    pub fn distance(&self, ends: [[f64; 2]; 2]) -> (f64, f64) {
        let pixel = ends.map(|at| self.laid.fineness(at)).iter().flatten().fold(0.0, |most: f64, v| most.max(*v));
        (self.laid.distance(ends), pixel)
    }

    /// What a length between two places owes to the scale or the rectangle. `number` is that of the film in the logbook.
    pub fn share_of_length(&self, number: u32, ends: [[f64; 2]; 2]) -> Option<FilmShare> {
        let here = self.laid.distance(ends);
        let plane = self.moved.iter().map(|laid| laid.distance(ends) - here).collect();
        Some(FilmShare { plane, ..self.share(number)? })
    }

    /// What its lengths owe to the scale; nothing yet of the rectangle. `number` is that of the film in the logbook.
    pub fn share(&self, number: u32) -> Option<FilmShare> {
        let relative = |s: Scale| if self.laid.flat.is_some() { 0.0 } else { s.u / s.metres };
        self.scale.map(|s| FilmShare {
            film: number,
            relative: relative(s),
            place: None,
            start: None,
            plane: Vec::new(),
        })
    }

    /// Standard uncertainties of where x and y are counted from, in m, or in px without a scale: the origin is placed to a pixel.
    pub fn u_of_origin(&self) -> [f64; 2] {
        self.laid.fineness(self.film.axes.origin).map(|fine| fine * PIXEL / 12f64.sqrt())
    }

    /// Standard uncertainties of x and y of a mark that go back to the one by hand from which the program went on: its error is that of
    /// all that follow.
    pub fn u_of_start(&self, mark: &Mark) -> Option<[f64; 2]> {
        mark.followed.then(|| self.laid.fineness(mark.at).map(|fine| fine * PIXEL / 12f64.sqrt()))
    }

    /// t, x and y of a mark as readings. `number` is that of the film in the logbook.
    pub fn readings(&self, number: u32, trail: TrailId, frame: u32, mark: &Mark) -> [Reading; 3] {
        let pixels = if mark.followed { FOLLOWED } else { PIXEL };
        let origin = |scale| Origin::Mark { film: number, trail, frame, followed: mark.followed, scale };
        let (unit, share, fine) = (self.film.unit(), self.share(number), self.laid.fineness(mark.at));
        let (place, offset, begun) = (self.place(mark.at), self.u_of_origin(), self.u_of_start(mark));
        let moved: Vec<[f64; 2]> = self.moved.iter().map(|laid| laid.place(mark.at)).collect();
        let [x, y] = [0, 1].map(|i| {
            let plane = moved.iter().map(|m| m[i] - place[i]).collect();
            let (axis, start) = ((AXES[i], offset[i]), begun.map(|u| (trail, u[i])));
            let share = share.clone().map(|s| FilmShare { place: Some(axis), start, plane, ..s });
            Reading {
                // A tenth of a pixel can be told when marks are moved by keys.
                number: Decimal::rounded(place[i], pixels * fine[i] / 10.0),
                unit: unit.clone(),
                resolution: pixels * fine[i],
                origin: origin(share),
            }
        });
        let second = Unit::coherent(&Dimension::of([0, 0, 1, 0, 0, 0, 0]));
        let number = Decimal::rounded(self.film.time(frame), TICK);
        [Reading { number, unit: second, resolution: TICK, origin: origin(None) }, x, y]
    }
}
