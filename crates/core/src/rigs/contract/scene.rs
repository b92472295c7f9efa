//! How a run is drawn: a few shapes in metres, or in the rig's own unit of length, each coordinate fixed or bound to a channel.
//!
//! x points right and y up. One player in the browser draws every scene.

use serde::Serialize;

use super::path::Node;

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
pub(in crate::rigs) fn at(x: f64, y: f64) -> Place {
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
    /// What is there for the eye only: the ground, a cross of axes.
    Guide,
}

/// A shape of a scene.
#[derive(Clone, Debug, Serialize, PartialEq)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum SceneShape {
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
    /// A line through many places: a track, a wave, a trace.
    Curve {
        /// Its places when nothing moves it.
        points: Vec<[f64; 2]>,
        /// What moves its places.
        sways: Vec<Sway>,
        /// How it is painted.
        paint: Paint,
    },
    /// Small discs that can be counted: so many of them, in the order of their places.
    Heap {
        /// Where they lie.
        area: Bounds,
        /// How many there can be.
        most: usize,
        /// How many there are.
        count: Coordinate,
        /// Whether they lie as they were thrown, otherwise in every frame, or in rows.
        loose: bool,
        /// How they are painted.
        paint: Paint,
    },
    /// A word.
    Word {
        /// Where it begins.
        place: [f64; 2],
        /// What it says.
        text: String,
    },
}

impl SceneShape {
    /// As many small discs as a channel says, in an area from its left edge, of a width and a height, standing on y = 0.
    pub(in crate::rigs) fn heap(
        [left, wide, high]: [f64; 3],
        most: usize,
        channel: &'static str,
        (loose, paint): (bool, Paint),
    ) -> Self {
        let area = Bounds { left, right: left + wide, bottom: 0.0, top: high };
        Self::Heap { area, most, count: Channel(channel), loose, paint }
    }
}

/// What moves the places of a curve: a channel, times a weight a place.
#[derive(Clone, Debug, Serialize, PartialEq)]
pub struct Sway {
    /// Which channel.
    pub channel: &'static str,
    /// Direction in which it moves them.
    pub along: [f64; 2],
    /// Factor of each place.
    pub weights: Vec<f64>,
}

/// Something on the stage that a hand can take hold of. What it moves is settings, and nothing else.
#[derive(Clone, Debug, PartialEq)]
pub struct Handle {
    /// What it is, for people.
    pub name: String,
    /// Where it is.
    pub at: [f64; 2],
    /// From where a thin line leads to it, as to the tip of an arrow.
    pub from: Option<[f64; 2]>,
    /// The settings it moves.
    pub pulls: Vec<Pull>,
}

impl Handle {
    /// A handle at a place that moves one setting.
    pub(in crate::rigs) fn of(name: &str, at: [f64; 2], setting: &'static str, how: Follows) -> Self {
        Self { name: name.to_owned(), at, from: None, pulls: vec![Pull { setting, how }] }
    }

    /// A handle at a place that moves a setting along a direction, times how much its value changes for a unit of length.
    pub(in crate::rigs) fn along(name: &str, at: [f64; 2], setting: &'static str, by: [f64; 2]) -> Self {
        Self::of(name, at, setting, Follows::Along { by })
    }

    /// A handle that turns a setting in degrees about a point; `side` is 1 where it grows to the left, −1 where it grows to the right.
    pub(in crate::rigs) fn turn(name: &str, at: [f64; 2], setting: &'static str, about: [f64; 2], side: f64) -> Self {
        Self::of(name, at, setting, Follows::Turn { about, by: side * 1f64.to_degrees() })
    }

    /// The same, moving another setting too.
    pub(in crate::rigs) fn and(mut self, setting: &'static str, how: Follows) -> Self {
        self.pulls.push(Pull { setting, how });
        self
    }

    /// The same at the end of a thin line.
    pub(in crate::rigs) fn led_from(self, from: [f64; 2]) -> Self {
        Self { from: Some(from), ..self }
    }
}

/// How a handle moves a setting. Values and factors are in the setting's own unit.
#[derive(Clone, Debug, PartialEq)]
pub struct Pull {
    /// Name of the setting.
    pub setting: &'static str,
    /// How it follows the handle.
    pub how: Follows,
}

/// How a setting follows a handle.
#[derive(Clone, Debug, Serialize, PartialEq)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Follows {
    /// By so much for each unit of length in a direction.
    Along {
        /// The direction, times how much the value changes for a unit of length.
        by: [f64; 2],
    },
    /// By so much for each rad about a point, to the left.
    Turn {
        /// The point.
        about: [f64; 2],
        /// How much the value changes for a rad.
        by: f64,
    },
    /// By so much for each unit of distance from a point.
    Reach {
        /// The point.
        from: [f64; 2],
        /// How much the value changes for a unit of length.
        by: f64,
    },
    /// The way along a curve to the place next to the handle.
    Way {
        /// Places of the curve, in order.
        points: Vec<[f64; 2]>,
        /// The way to each.
        ways: Vec<f64>,
    },
    /// A node of a path, which lies where the handle is.
    Node {
        /// Which, from 0.
        index: usize,
        /// The path it belongs to, in the setting's unit.
        #[serde(skip)]
        nodes: Vec<Node>,
    },
    /// An option that is chosen as soon as the handle moves.
    Chosen {
        /// Its name.
        option: &'static str,
    },
}

/// The part of the plane that must be visible, in the rig's unit of length.
#[derive(Clone, Copy, Debug, Default, Serialize, PartialEq)]
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
    pub(in crate::rigs) fn with_margin(self, share: f64) -> Self {
        let by = share * (self.right - self.left).max(self.top - self.bottom);
        Self { left: self.left - by, right: self.right + by, bottom: self.bottom - by, top: self.top + by }
    }
}

/// Somebody who moves along with something on the stage and sees everything else from there.
#[derive(Clone, Debug, Serialize, PartialEq)]
pub struct Rider {
    /// On what, for people.
    pub label: &'static str,
    /// How that moves.
    pub along: Place,
}

/// What the stage draws.
#[derive(Clone, Debug, Default, Serialize, PartialEq)]
pub struct Scene {
    /// What must be visible at the start; the view widens when a body leaves it.
    pub bounds: Bounds,
    /// Back to front.
    pub shapes: Vec<SceneShape>,
    /// Where the loupe looks while no tape is laid; none for no loupe.
    pub loupe: Option<Place>,
    /// Frames between two rings of the strobe, and frames up to which rings are drawn.
    pub strobe: [usize; 2],
    /// What can be taken hold of. They go out apart, each with its setting as it stands, and only where that is free.
    #[serde(skip)]
    pub handles: Vec<Handle>,
    /// Whether what can be taken hold of stays where it is as the rig runs: then its handles are there whenever it does not play.
    pub held_still: bool,
    /// Whence it can be seen, beside from where it stands.
    pub riders: Vec<Rider>,
    /// The point about which a ray to the body sweeps an area; none where there is no such thing.
    pub focus: Option<[f64; 2]>,
}

/// Step of places on the stage, in the rig's unit of length or in rad: a tenth of a millimetre over metres, finer than any instrument reads.
pub const PLACE: f64 = 1e-4;

/// Rings every tenth of a second, all along the way.
pub(in crate::rigs) const ALL_ALONG: [usize; 2] = [10, usize::MAX >> 12];

impl Scene {
    /// A scene of shapes, with rings every so many frames up to a frame.
    pub(in crate::rigs) fn of(bounds: Bounds, shapes: Vec<SceneShape>, strobe: [usize; 2]) -> Self {
        Self { bounds, shapes, strobe, ..Self::default() }
    }

    /// The scene to a step in m or rad, its bounds to a hundredth of their size: what it is drawn from may be hidden, and a place known to the
    /// last bit would tell.
    pub fn rounded(mut self, step: f64) -> Self {
        // A multiple of the step, written as short as it is.
        let to = |v: &mut f64, step: f64| {
            let steps = (*v / step).round();
            *v = if step < 1.0 { steps / step.recip().round() } else { steps * step };
        };
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
                SceneShape::Line { from, to: end, .. } => [from, end].into_iter().for_each(|p| place(p)),
                SceneShape::Disc { centre, radius, turn, .. } => {
                    place(centre);
                    place(turn.as_mut_slice());
                    to(radius, step);
                }
                SceneShape::Box { centre, size, turn, .. } => {
                    place(centre);
                    place(std::slice::from_mut(turn));
                    size.iter_mut().for_each(|v| to(v, step));
                }
                SceneShape::Coil { from, to: end, width } => {
                    [from, end].into_iter().for_each(|p| place(p));
                    to(width, step);
                }
                SceneShape::Scale { zero, from, length, .. } => {
                    zero.iter_mut().chain([from, length]).for_each(|v| to(v, step));
                }
                SceneShape::Heap { .. } => {}
                SceneShape::Word { place: at, .. } => at.iter_mut().for_each(|v| to(v, step)),
                SceneShape::Curve { points, sways, .. } => {
                    points.iter_mut().flatten().for_each(|v| to(v, step));
                    sways.iter_mut().flat_map(|s| &mut s.weights).for_each(|v| to(v, step));
                }
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
                SceneShape::Line { from, to, .. } | SceneShape::Coil { from, to, .. } => {
                    from.iter().chain(to).for_each(&mut add);
                }
                SceneShape::Disc { centre, turn, .. } => centre.iter().chain(turn).for_each(&mut add),
                SceneShape::Box { centre, turn, .. } => centre.iter().chain([turn]).for_each(&mut add),
                SceneShape::Curve { sways, .. } => sways.iter().for_each(|s| add(&Channel(s.channel))),
                SceneShape::Heap { count, .. } => add(count),
                SceneShape::Scale { .. } | SceneShape::Word { .. } => {}
            }
        }
        self.loupe.iter().chain(self.riders.iter().map(|r| &r.along)).flatten().for_each(&mut add);
        names
    }
}
