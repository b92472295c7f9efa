//! The plane of the motion where the camera does not look at it squarely: four corners of a rectangle of known size set it right.

use nalgebra::{Matrix3, Vector3};
use serde::{Deserialize, Serialize};

use super::PIXEL;
use crate::quantity::{Decimal, Unit};

/// Corners of a rectangle on the picture closer to a line than this, in px, tell no plane.
const SLIMMEST: f64 = 5.0;
/// What is farther from the camera than so many times the middle of the rectangle lies as good as on the horizon.
const FARTHEST_AWAY: f64 = 20.0;

/// A rectangle of known size that lies in the plane of the motion.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Plane {
    /// Its corners in px: lower left, lower right, upper right, upper left.
    pub corners: [[f64; 2]; 4],
    /// Its width and height.
    pub sides: [(Decimal, Unit); 2],
}

/// The map from the picture to the plane: metres to the right and down from the rectangle's lower left corner, so that it reads
/// like a picture taken squarely with 1 m a pixel.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Flat {
    to: Matrix3<f64>,
    back: Matrix3<f64>,
    /// The third coordinate at the rectangle's middle: nearness to the horizon is told by it.
    near: f64,
}

impl Plane {
    fn lengths(&self) -> [f64; 2] {
        self.sides.each_ref().map(|(number, unit)| number.value() * unit.size())
    }

    /// Whether the corners go round once, counter-clockwise as seen, and none lies nearly on the line through its neighbours.
    pub fn is_sound(&self) -> bool {
        let c = &self.corners;
        (0..4).all(|i| {
            let ([ax, ay], [bx, by], [cx, cy]) = (c[i], c[(i + 1) % 4], c[(i + 2) % 4]);
            // The picture's y points down, which turns the sign.
            let twice = (by - ay) * (cx - bx) - (bx - ax) * (cy - by);
            twice > SLIMMEST * (cx - ax).hypot(cy - ay) && (bx - ax).hypot(by - ay) > SLIMMEST
        }) && self.lengths().iter().all(|l| *l > 0.0 && l.is_finite())
    }

    /// The map of this rectangle. `None` when its corners tell none.
    pub fn flat(&self) -> Option<Flat> {
        if self.is_sound() { flat(&self.corners, self.lengths()) } else { None }
    }

    /// Metres a pixel spans in the rectangle's middle.
    pub(super) fn metres(&self) -> Option<f64> {
        let flat = self.flat()?;
        let [width, height] = self.lengths();
        let [[a, b], [c, d]] = flat.slope(flat.back([width / 2.0, -height / 2.0]));
        Some((a * d - b * c).abs().sqrt())
    }

    /// Relative standard uncertainty of the scale in the rectangle's middle.
    pub(super) fn relative(&self) -> Option<f64> {
        let (here, [width, height]) = (self.flat()?, self.lengths());
        let middle = here.back([width / 2.0, -height / 2.0]);
        let size = |flat: &Flat| {
            let [[a, b], [c, d]] = flat.slope(middle);
            (a * d - b * c).abs().sqrt()
        };
        Some(self.moved().iter().map(|f| (size(f) / size(&here) - 1.0).powi(2)).sum::<f64>().sqrt())
    }

    /// The map with each of what is uncertain moved by its standard uncertainty, one after the other: the eight coordinates of
    /// the corners, read to [`PIXEL`] each, and the two sides, known to their last digits; all rectangular distributions
    /// (JCGM 100:2008, 4.3.7).
    pub(super) fn moved(&self) -> Vec<Flat> {
        let sides = self.lengths();
        let by_corner = (0..8).filter_map(|k| {
            let mut corners = self.corners;
            corners[k / 2][k % 2] += PIXEL / 12f64.sqrt();
            flat(&corners, sides)
        });
        let by_side = (0..2).filter_map(|k| {
            let mut sides = sides;
            let (number, unit) = &self.sides[k];
            sides[k] += number.last_digit() * unit.size() / 12f64.sqrt();
            flat(&self.corners, sides)
        });
        by_corner.chain(by_side).collect()
    }
}

/// The projective map of a unit square onto four corners (P. S. Heckbert, Fundamentals of Texture Mapping and Image Warping,
/// 1989, section 2.2.3), turned round and stretched to the sides.
fn flat(corners: &[[f64; 2]; 4], [width, height]: [f64; 2]) -> Option<Flat> {
    let [[x0, y0], [x1, y1], [x2, y2], [x3, y3]] = *corners;
    let (dx1, dy1, dx2, dy2) = (x1 - x2, y1 - y2, x3 - x2, y3 - y2);
    let (sx, sy) = (x0 - x1 + x2 - x3, y0 - y1 + y2 - y3);
    let det = dx1 * dy2 - dy1 * dx2;
    let (g, h) = ((sx * dy2 - sy * dx2) / det, (dx1 * sy - dy1 * sx) / det);
    let square =
        Matrix3::new(x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1.0);
    let stretch = Matrix3::from_diagonal(&Vector3::new(width, -height, 1.0));
    let to = stretch * square.try_inverse()?;
    let back = to.try_inverse()?;
    let middle = back * Vector3::new(width / 2.0, -height / 2.0, 1.0);
    let near = (to * (middle / middle.z)).z;
    (near.is_finite() && near != 0.0).then_some(Flat { to, back, near })
}

impl Flat {
    /// A place of the picture in px, in m of the plane: to the right and down.
    pub fn of(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let p = self.to * Vector3::new(x, y, 1.0);
        [p.x / p.z, p.y / p.z]
    }

    /// The place of the picture, in px, at which a place of the plane is seen.
    pub fn back(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let p = self.back * Vector3::new(x, y, 1.0);
        [p.x / p.z, p.y / p.z]
    }

    /// How a place of the plane moves with the place of the picture: ∂(right, down)/∂(x, y), in m/px, row by row.
    pub fn slope(&self, [x, y]: [f64; 2]) -> [[f64; 2]; 2] {
        let p = self.to * Vector3::new(x, y, 1.0);
        let part = |row: usize, column: usize| (self.to[(row, column)] - p[row] / p.z * self.to[(2, column)]) / p.z;
        [[part(0, 0), part(0, 1)], [part(1, 0), part(1, 1)]]
    }

    /// Whether a place of the picture lies on this side of the horizon, and not so near to it that nothing can be told.
    pub fn sees(&self, [x, y]: [f64; 2]) -> bool {
        (self.to * Vector3::new(x, y, 1.0)).z / self.near > 1.0 / FARTHEST_AWAY
    }

    /// The nine numbers of the map to the plane, row by row.
    pub fn rows(&self) -> [[f64; 3]; 3] {
        std::array::from_fn(|i| std::array::from_fn(|j| self.to[(i, j)]))
    }
}
