//! How a run is drawn: a few shapes in metres, each coordinate fixed or bound to a channel.
//!
//! x points right and y up. One player in the browser draws every scene.

use serde::Serialize;

/// A coordinate in metres.
#[derive(Clone, Debug, Serialize, PartialEq)]
#[serde(untagged)]
pub enum Coordinate {
    /// Always the same.
    Fixed(f64),
    /// Follows a channel.
    Channel(&'static str),
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
}

/// A shape of a scene.
#[derive(Clone, Debug, Serialize, PartialEq)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Shape {
    /// A straight line.
    Line {
        /// One end (x, y).
        from: [Coordinate; 2],
        /// Other end (x, y).
        to: [Coordinate; 2],
        /// How it is painted.
        paint: Paint,
    },
    /// A disc.
    Disc {
        /// Centre (x, y).
        centre: [Coordinate; 2],
        /// Radius in m.
        radius: f64,
        /// How it is painted.
        paint: Paint,
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

/// What the stage draws.
#[derive(Clone, Debug, Serialize, PartialEq)]
pub struct Scene {
    /// What must be visible.
    pub bounds: Bounds,
    /// Back to front.
    pub shapes: Vec<Shape>,
}

impl Scene {
    /// The channels the shapes are bound to, each once.
    pub fn channels(&self) -> Vec<&'static str> {
        let mut names = Vec::new();
        let points = self.shapes.iter().flat_map(|s| match s {
            Shape::Line { from, to, .. } => vec![from, to],
            Shape::Disc { centre, .. } => vec![centre],
        });
        for coordinate in points.flatten() {
            if let Coordinate::Channel(name) = coordinate
                && !names.contains(name)
            {
                names.push(name);
            }
        }
        names
    }
}
