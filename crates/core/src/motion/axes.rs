//! Origin and direction of the axes laid over a film.

use serde::{Deserialize, Serialize};

use super::Flat;

/// Where x and y are counted from, and which way.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Axes {
    /// Where x = 0 and y = 0, in px.
    pub origin: [f64; 2],
    /// Direction of +x in rad, counter-clockwise as seen; 0 points right, or along the width of the rectangle that sets the film right.
    pub angle: f64,
    /// Whether +y points to the other side of the x axis: down, for an x axis to the right.
    pub flipped: bool,
}

impl Axes {
    /// Origin near the lower left corner of a picture so high, where it can be taken hold of; x to the right, y up.
    pub fn of_picture(height: f64) -> Self {
        let inside = 24.0_f64.min(height / 4.0);
        Self { origin: [inside, height - inside], angle: 0.0, flipped: false }
    }

    /// The same axes on the plane that was filmed at a slant: there their direction counts from the rectangle's width, so that nobody has to
    /// turn them first.
    pub(super) fn on(&self, flat: &Flat) -> Self {
        Self { origin: flat.of(self.origin), ..*self }
    }

    /// A place in px, as x and y in px along the axes.
    pub fn along(&self, at: [f64; 2]) -> [f64; 2] {
        let (sin, cos) = self.angle.sin_cos();
        // The picture's y points down.
        let (right, up) = (at[0] - self.origin[0], self.origin[1] - at[1]);
        let y = up * cos - right * sin;
        [right * cos + up * sin, if self.flipped { -y } else { y }]
    }

    /// The place in px that has these x and y in px along the axes.
    pub fn back(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let (sin, cos) = self.angle.sin_cos();
        let y = if self.flipped { -y } else { y };
        let (right, up) = (x * cos - y * sin, x * sin + y * cos);
        [self.origin[0] + right, self.origin[1] - up]
    }
}
