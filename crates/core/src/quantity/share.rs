//! What all readings of a film have in common: its scale, or the rectangle that sets it right, its origin, and the mark a trail was followed from.

use serde::{Deserialize, Serialize};

use super::{SHARED, Source, Uncertain};

/// Sources from here up, within those that are shared, are the origins of films: two for each. Below them are the films' scales.
const ORIGINS: u64 = SHARED + (1 << 20);

/// Sources from here up are what is uncertain in the rectangles that set films right: ten for each, and room.
const PLANES: u64 = SHARED + (1 << 21);

/// Sources from here up are the marks by hand that trails were followed from: two for each.
const STARTS: u64 = SHARED + (1 << 40);

/// What a reading owes to the scale of its film and to where its axes lie: the same for all readings of that film.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct FilmShare {
    /// Number of the film in the logbook.
    pub film: u32,
    /// What the uncertainty of the scale does to the reading, relative.
    pub relative: f64,
    /// What the uncertainty of the place of the origin does to it: along which axis, and how much, in coherent SI units.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<(Along, f64)>,
    /// What the error of the mark by hand does to it from which the program went on: of which trail, and how much, in coherent SI units.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub start: Option<(u32, f64)>,
    /// What the uncertainties of the rectangle that sets the film right do to it, one after the other, in coherent SI units: the
    /// eight coordinates of its corners, its width and its height. Empty for a film with a scale.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub plane: Vec<f64>,
}

/// One of the two axes laid over a film.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Along {
    /// The x axis.
    X,
    /// The y axis.
    Y,
}

impl FilmShare {
    /// The uncertainty that a reading of this value, in coherent SI units, has in common with others, each part from its source; its value
    /// is zero.
    pub fn of(&self, si: f64) -> Uncertain {
        let film = u64::from(self.film);
        let scale = Uncertain::from_source(0.0, si * self.relative, Source(SHARED + film));
        let axis = self.place.map(|(along, u)| (u64::from(along == Along::Y), u));
        let origin = axis.map(|(axis, u)| (u, ORIGINS + 2 * film + axis));
        let start = axis.zip(self.start).map(|((axis, _), (trail, u))| (u, STARTS + 2 * u64::from(trail) + axis));
        let plane = self.plane.iter().zip(0..).map(|(u, k)| (*u, PLANES + 16 * film + k));
        let parts = origin.into_iter().chain(start).chain(plane);
        parts.fold(scale, |all, (u, source)| all.plus(&Uncertain::from_source(0.0, u, Source(source))))
    }

    /// The same as it was written before origins and first marks were counted as uncertain.
    pub fn of_scale_alone(&self) -> Self {
        Self { place: None, start: None, ..self.clone() }
    }
}
