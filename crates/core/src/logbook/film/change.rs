//! Changes of the films. A film's marks may be thousands: none of these changes carries them along but the one that brings a
//! whole film.

use std::mem::replace;

use serde::{Deserialize, Serialize};

use super::FilmState;
use crate::logbook::change::{Misfit, exchange, insert, remove};
use crate::motion::{Axes, FilmWork, Mark, Plane, Ruler, Tools, Trail, TrailId};

/// A change of the films.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FilmChange {
    /// A film comes; none takes the last one away.
    Film {
        /// Its number.
        place: usize,
        /// The film.
        film: Option<Box<FilmWork>>,
    },
    /// Another film on the stage.
    Shown {
        /// Its number.
        film: Option<u32>,
    },
    /// Rulers, rectangle and axes of a film lie elsewhere.
    Laid {
        /// Number of the film.
        film: u32,
        /// What the scale is taken from.
        rulers: Vec<Ruler>,
        /// Origin and direction.
        axes: Axes,
        /// What sets the picture right.
        #[serde(default)]
        plane: Option<Plane>,
    },
    /// The tools stand elsewhere; the tape in px.
    Tools {
        /// Number of the film.
        film: u32,
        /// All of them.
        tools: Tools,
    },
    /// A trail comes.
    InsertTrail {
        /// Number of the film.
        film: u32,
        /// Its place among the trails.
        place: usize,
        /// The trail.
        trail: Trail,
    },
    /// A trail goes.
    RemoveTrail {
        /// Number of the film.
        film: u32,
        /// Its place among the trails.
        place: usize,
    },
    /// Another name of a trail.
    NameTrail {
        /// Number of the film.
        film: u32,
        /// Its place among the trails.
        place: usize,
        /// The name.
        name: String,
    },
    /// A mark comes, moves or goes.
    Mark {
        /// Number of the film.
        film: u32,
        /// Which trail.
        trail: TrailId,
        /// Its frame.
        frame: u32,
        /// The mark.
        mark: Option<Mark>,
    },
}

impl FilmState {
    fn at(&mut self, film: u32) -> Result<&mut FilmWork, Misfit> {
        self.films.get_mut(film as usize).ok_or(Misfit)
    }

    pub(in crate::logbook) fn change(&mut self, change: FilmChange) -> Result<FilmChange, Misfit> {
        Ok(match change {
            FilmChange::Film { place, film } => {
                FilmChange::Film { place, film: exchange(&mut self.films, place, film.map(|f| *f))?.map(Box::new) }
            }
            FilmChange::Shown { film } => FilmChange::Shown { film: replace(&mut self.shown, film) },
            FilmChange::Laid { film, rulers, axes, plane } => {
                let work = self.at(film)?;
                let (rulers, axes) = (replace(&mut work.rulers, rulers), replace(&mut work.axes, axes));
                FilmChange::Laid { film, rulers, axes, plane: replace(&mut work.plane, plane) }
            }
            FilmChange::Tools { film, tools } => {
                FilmChange::Tools { film, tools: replace(&mut self.at(film)?.tools, tools) }
            }
            FilmChange::InsertTrail { film, place, trail } => {
                insert(&mut self.at(film)?.trails, place, trail)?;
                FilmChange::RemoveTrail { film, place }
            }
            FilmChange::RemoveTrail { film, place } => {
                FilmChange::InsertTrail { film, place, trail: remove(&mut self.at(film)?.trails, place)? }
            }
            FilmChange::NameTrail { film, place, name } => {
                let trail = self.at(film)?.trails.get_mut(place).ok_or(Misfit)?;
                FilmChange::NameTrail { film, place, name: replace(&mut trail.name, name) }
            }
            FilmChange::Mark { film, trail, frame, mark } => {
                let marks = &mut self.at(film)?.trails.iter_mut().find(|t| t.id == trail).ok_or(Misfit)?.marks;
                let mark = match mark {
                    Some(mark) => marks.insert(frame, mark),
                    None => marks.remove(&frame),
                };
                FilmChange::Mark { film, trail, frame, mark }
            }
        })
    }
}
