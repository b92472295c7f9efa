//! How a run is drawn: a few shapes in metres, each coordinate fixed or bound to a channel.
//!
//! x points right and y up. One player in the browser draws every scene.

use serde::Serialize;

/// A coordinate in metres, or an angle in rad.
#[derive(Clone, Copy, Debug, Serialize, PartialEq)]
#[serde(untagged)]
pub enum Coordinate {
    /// Always the same.
    Fixed(f64),
    /// Follows a channel.
    Channel(&'static str),
    /// Follows a channel, times a factor and moved.
    Moved {
        /// Which channel.
        channel: &'static str,
        /// Factor.
        times: f64,
        /// Added to it.
        plus: f64,
    },
}

use Coordinate::{Channel, Fixed};

/// A place in the scene.
pub type Place = [Coordinate; 2];

/// A fixed place.
pub(super) fn at(x: f64, y: f64) -> Place {
    [Fixed(x), Fixed(y)]
}

/// What a shape stands for, which decides how it is painted.
#[derive(Clone, Copy, Debug, Serialize, PartialEq, Eq)]
#[serde(rename_all = "snake_case")]
pub enum Paint {
    /// Part of the stand.
    Support,
    /// A string, rod or rail.
    Thread,
    /// The body whose motion is measured.
    Body,
    /// A second body, told apart by being hollow.
    Other,
    /// Something beside the motion: a gate, a mark.
    Aid,
}

/// A shape of a scene.
#[derive(Clone, Debug, Serialize, PartialEq)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Shape {
    /// A straight line.
    Line {
        /// One end.
        from: Place,
        /// Other end.
        to: Place,
        /// How it is painted.
        paint: Paint,
    },
    /// A disc.
    Disc {
        /// Centre.
        centre: Place,
        /// Radius in m.
        radius: f64,
        /// Angle of a stroke on it that shows how it turns, in rad; none for no stroke.
        turn: Option<Coordinate>,
        /// How it is painted.
        paint: Paint,
    },
    /// A box.
    Box {
        /// Centre.
        centre: Place,
        /// Width and height in m.
        size: [f64; 2],
        /// How far it is turned to the left, in rad.
        turn: Coordinate,
        /// How it is painted.
        paint: Paint,
    },
    /// A coil spring.
    Coil {
        /// Upper end.
        from: Place,
        /// Lower end.
        to: Place,
        /// Width in m.
        width: f64,
    },
    /// A scale with a division a line, to be read by eye.
    Scale {
        /// Where its zero is.
        zero: [f64; 2],
        /// Direction in which it counts, as a unit vector.
        along: [f64; 2],
        /// Where it begins, in m from its zero.
        from: f64,
        /// Where it ends, in m from its zero.
        length: f64,
        /// Smallest division in m.
        division: f64,
    },
    /// A word.
    Word {
        /// Where it begins.
        place: [f64; 2],
        /// What it says.
        text: String,
    },
}

/// The part of the plane that must be visible, in metres.
#[derive(Clone, Copy, Debug, Serialize, PartialEq)]
pub struct Bounds {
    /// Left edge.
    pub left: f64,
    /// Right edge.
    pub right: f64,
    /// Lower edge.
    pub bottom: f64,
    /// Upper edge.
    pub top: f64,
}

impl Bounds {
    /// Widened by a share of its larger side.
    pub(super) fn with_margin(self, share: f64) -> Self {
        let by = share * (self.right - self.left).max(self.top - self.bottom);
        Self { left: self.left - by, right: self.right + by, bottom: self.bottom - by, top: self.top + by }
    }
}

/// What the stage draws.
#[derive(Clone, Debug, Serialize, PartialEq)]
pub struct Scene {
    /// What must be visible at the start; the view widens when a body leaves it.
    pub bounds: Bounds,
    /// Back to front.
    pub shapes: Vec<Shape>,
    /// Where the loupe looks while no tape is laid; none for no loupe.
    pub loupe: Option<Place>,
    /// Frames between two rings of the strobe, and frames up to which rings are drawn.
    pub strobe: [usize; 2],
}

/// Rings every tenth of a second, all along the way.
pub(super) const ALL_ALONG: [usize; 2] = [10, usize::MAX >> 12];

impl Scene {
    /// The scene to a step in m or rad, its bounds to a hundredth of their size: what it is drawn from may be hidden, and a place known to the
    /// last bit would tell.
    pub fn rounded(mut self, step: f64) -> Self {
        let to = |v: &mut f64, step: f64| *v = (*v / step).round() * step;
        let place = |p: &mut [Coordinate]| {
            for c in p {
                match c {
                    Fixed(v) | Coordinate::Moved { plus: v, .. } => to(v, step),
                    Channel(_) => {}
                }
            }
        };
        for shape in &mut self.shapes {
            match shape {
                Shape::Line { from, to: end, .. } => [from, end].into_iter().for_each(|p| place(p)),
                Shape::Disc { centre, radius, turn, .. } => {
                    place(centre);
                    place(turn.as_mut_slice());
                    to(radius, step);
                }
                Shape::Box { centre, size, turn, .. } => {
                    place(centre);
                    place(std::slice::from_mut(turn));
                    size.iter_mut().for_each(|v| to(v, step));
                }
                Shape::Coil { from, to: end, width } => {
                    [from, end].into_iter().for_each(|p| place(p));
                    to(width, step);
                }
                Shape::Scale { zero, from, length, .. } => {
                    zero.iter_mut().chain([from, length]).for_each(|v| to(v, step));
                }
                Shape::Word { place: at, .. } => at.iter_mut().for_each(|v| to(v, step)),
            }
        }
        let Bounds { left, right, bottom, top } = &mut self.bounds;
        let coarse = 0.01 * 10f64.powi((*right - *left).max(*top - *bottom).log10().floor() as i32);
        [left, right, bottom, top].into_iter().for_each(|v| to(v, coarse));
        self
    }

    /// The channels the shapes are bound to, each once.
    pub fn channels(&self) -> Vec<&'static str> {
        let mut names = Vec::new();
        let mut add = |c: &Coordinate| {
            if let Channel(name) | Coordinate::Moved { channel: name, .. } = c
                && !names.contains(name)
            {
                names.push(*name);
            }
        };
        for shape in &self.shapes {
            match shape {
                Shape::Line { from, to, .. } | Shape::Coil { from, to, .. } => from.iter().chain(to).for_each(&mut add),
                Shape::Disc { centre, turn, .. } => centre.iter().chain(turn).for_each(&mut add),
                Shape::Box { centre, turn, .. } => centre.iter().chain([turn]).for_each(&mut add),
                Shape::Scale { .. } | Shape::Word { .. } => {}
            }
        }
        self.loupe.iter().flatten().for_each(&mut add);
        names
    }
}
