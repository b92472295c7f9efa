//! The scale of a film: metres a pixel spans, from things of known length.

use serde::{Deserialize, Serialize};

use super::{PIXEL, Plane};
use crate::quantity::{Decimal, Unit};

/// Two ends on something of known length, or centre and rim of a circle of known radius.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Ruler {
    /// The ends in px; centre and rim for a circle.
    pub ends: [[f64; 2]; 2],
    /// Its length or radius.
    pub length: (Decimal, Unit),
    /// Whether it is a circle.
    pub circle: bool,
}

/// Metres a pixel spans.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Scale {
    /// In m/px.
    pub metres: f64,
    /// Its standard uncertainty in m/px.
    pub u: f64,
    /// How far the single scales lie apart, as a share; only with two or more.
    pub spread: Option<f64>,
    /// Whether they differ by more than their uncertainties explain.
    pub disagree: bool,
}

impl Ruler {
    /// Distance of the ends in px.
    pub fn pixels(&self) -> f64 {
        let [a, b] = self.ends;
        (b[0] - a[0]).hypot(b[1] - a[1])
    }

    /// Scale s = L/d and its standard uncertainty, in m/px.
    ///
    /// Each coordinate of an end is read to [`PIXEL`], a rectangular distribution (JCGM 100:2008, 4.3.7), so that
    /// u(d) = PIXEL·√(2/12); the length is known to its last digit; u(s)/s = √((u(L)/L)² + (u(d)/d)²).
    pub fn scale(&self) -> (f64, f64) {
        let (number, unit) = &self.length;
        let (long, pixels) = (number.value() * unit.size(), self.pixels());
        let u_long = number.last_digit() * unit.size() / 12f64.sqrt();
        let u_pixels = PIXEL * (2.0 / 12f64).sqrt();
        let scale = long / pixels;
        (scale, scale * (u_long / long).hypot(u_pixels / pixels))
    }
}

impl Scale {
    /// The scale in the middle of a rectangle that sets the picture right. `None` when its corners tell no plane.
    pub(super) fn of_plane(plane: &Plane) -> Option<Self> {
        let metres = plane.metres()?;
        Some(Self { metres, u: metres * plane.relative()?, spread: None, disagree: false })
    }

    /// Mean of several scales, weighted by 1/u²; its uncertainty is 1/√Σ(1/u²) (JCGM 100:2008, H.5, weighted mean).
    /// `None` without any.
    pub fn of(rulers: &[Ruler]) -> Option<Self> {
        let all: Vec<(f64, f64)> = rulers.iter().map(Ruler::scale).collect();
        let weight: f64 = all.iter().map(|(_, u)| 1.0 / (u * u)).sum();
        if all.is_empty() {
            return None;
        }
        let metres = all.iter().map(|(s, u)| s / (u * u)).sum::<f64>() / weight;
        let u = (1.0 / weight).sqrt();
        let (low, high) = all.iter().fold((f64::INFINITY, 0.0_f64), |(lo, hi), (s, _)| (lo.min(*s), hi.max(*s)));
        let spread = (all.len() > 1).then_some((high - low) / metres);
        // A difference beyond three of its standard uncertainties is no accident of reading.
        let apart = |a: &(f64, f64), b: &(f64, f64)| (a.0 - b.0).abs() > 3.0 * a.1.hypot(b.1);
        let disagree = all.iter().enumerate().any(|(i, a)| all[..i].iter().any(|b| apart(a, b)));
        Some(Self { metres, u, spread, disagree })
    }
}
