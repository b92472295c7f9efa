//! Filmed motion: scale and axes of a film, marks and trails, and what follows from them at a moment.
//!
//! Places in a film are in pixels from the upper left corner, y down. [`FilmWork::sight`] turns them into metres along the
//! axes, once a [`Ruler`] lies on something of known length, or a [`Plane`] on a rectangle of known size.

mod axes;
mod film;
mod moment;
mod plane;
mod scale;
mod tools;
mod trail;

pub use axes::Axes;
pub use film::{FilmFacts, FilmWork, LONGEST_SIDE, MOST_FRAMES, PIXEL, Sight};
pub use moment::{Ask, Body, Derived, Moment, Told, ask, state_at};
pub use plane::{Flat, Plane};
pub use scale::{Ruler, Scale};
pub use tools::{FARTHEST, Tools};
pub use trail::{Mark, Trail, TrailId};
