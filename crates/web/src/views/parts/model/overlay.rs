//! The paths of the models over the stage, with the forces of the newest one.

use serde::Serialize;
use zeitmass_core::logbook::{Called, Worked};
use zeitmass_core::motion::{FilmWork, Sight};
use zeitmass_core::record::ColumnId;
use zeitmass_core::step_model::Step;
use zeitmass_words::Words;

use super::super::Scene;
use crate::wish::json;

/// Places of a path that are laid over the stage, at most.
const LAID: usize = 200;
/// What lies over the stage, in its coordinates: px of the picture, or metres of the scene, y downwards.
#[derive(Serialize)]
struct Overlay {
    curves: Vec<OverlayCurve>,
    /// Times of the newest one, in s.
    t: Vec<f64>,
    forces: Vec<OverlayForce>,
    /// The largest force, in N.
    largest: f64,
}

#[derive(Serialize)]
struct OverlayCurve {
    number: u32,
    newest: bool,
    at: Vec<[f64; 2]>,
}

#[derive(Serialize)]
struct OverlayForce {
    name: String,
    along: Vec<[f64; 2]>,
}

fn rounded(value: f64, places: i32) -> f64 {
    let by = 10f64.powi(places);
    (value * by).round() / by
}

impl Scene<'_> {
    /// What is laid over the stage; blank where nothing is.
    pub(super) fn overlay(&self) -> String {
        let Some(with) = self.book().compared(self.analysis()) else { return String::new() };
        let models = self.analysis().models_of(with);
        let Some(newest) = models.last().and_then(|m| m.worked.as_ref().ok()) else { return String::new() };
        let Some(place) = self.placing(newest) else { return String::new() };
        let thinned = |worked: &Worked| -> Vec<Step> {
            let every = worked.curve.len().div_ceil(LAID).max(1);
            let mut all: Vec<Step> = worked.curve.iter().step_by(every).cloned().collect();
            if !(worked.curve.len().max(1) - 1).is_multiple_of(every) {
                all.extend(worked.curve.last().cloned());
            }
            all
        };
        let at = |step: &Step| place.at(step.position);
        let curves = models.iter().enumerate().filter_map(|(i, m)| {
            let worked = m.worked.as_ref().ok()?;
            let at = thinned(worked).iter().map(at).collect();
            Some(OverlayCurve { number: m.number, newest: i + 1 == models.len(), at })
        });
        let steps = thinned(newest);
        let state = &self.book().state().model;
        let run = models.last().and_then(|m| state.run(m.id));
        let on = run.into_iter().flat_map(|r| r.plan.text.forces.iter().filter(|f| f.on));
        let forces = on.enumerate().map(|(i, force)| OverlayForce {
            name: Called::from(force).words(),
            along: steps.iter().map(|s| place.turned(s.forces.get(i).copied().unwrap_or_default())).collect(),
        });
        let lengths = steps.iter().flat_map(|s| s.forces.iter().map(|f| f[0].hypot(f[1])));
        json(&Overlay {
            curves: curves.collect(),
            t: steps.iter().map(|s| rounded(s.t, 5)).collect(),
            forces: forces.collect(),
            largest: lengths.fold(0.0, f64::max),
        })
    }

    /// How places of the model come to lie over the stage.
    fn placing(&self, newest: &Worked) -> Option<Placing<'_>> {
        let book = self.book();
        if book.sheet().is_filmed() {
            let (_, film) = book.state().film_shown()?;
            film.scale()?;
            let sight = film.sight();
            let aside = self.beside_path(film, &sight);
            return Some(Placing::Film { sight: Box::new(sight), origin: film.axes.origin, aside });
        }
        let number = book.state().run_on_stage()?;
        let run = book.footage(number)?.ok()?;
        let foot = book.sheet().card.arrows.first()?.foot;
        let first = newest.curve.first()?;
        let frame = (first.t / book.clock(number)?.frame).round().max(0.0) as usize;
        let body = foot.map(|channel| run.channel(channel).and_then(|v| v.get(frame)).copied());
        let [Some(x), Some(y)] = body else { return None };
        Some(Placing::Scene([x - first.position[0], y - first.position[1]]))
    }

    /// Where along an axis that is not compared the path lies over a film: in the middle of the trail it is held against.
    fn beside_path(&self, film: &FilmWork, sight: &Sight<'_>) -> [f64; 2] {
        let none = [0.0, 0.0];
        let Some(compared) = self.book().compared(self.analysis()) else { return none };
        let along = [compared.x, compared.y];
        let own = |id: &ColumnId| along.contains(&Some(*id));
        let Some(trail) = film.trails.iter().find(|t| t.columns.iter().any(own)) else { return none };
        let count = trail.marks.len().max(1) as f64;
        let mean = |axis: usize| trail.marks.values().map(|m| sight.place(m.at)[axis]).sum::<f64>() / count;
        [0, 1].map(|axis| if along[axis].is_some() { 0.0 } else { mean(axis) })
    }
}

/// How places and directions of a model are laid over the stage.
enum Placing<'a> {
    /// Over a film with a scale, by the axes as the person laid them.
    Film {
        sight: Box<Sight<'a>>,
        /// Origin of the axes in px.
        origin: [f64; 2],
        /// So far along an axis that is not compared.
        aside: [f64; 2],
    },
    /// Over the scene of a rig, so far from where the model is.
    Scene([f64; 2]),
}

impl Placing<'_> {
    fn at(&self, r: [f64; 2]) -> [f64; 2] {
        match self {
            Self::Film { sight, aside, .. } => {
                sight.picture_of([r[0] + aside[0], r[1] + aside[1]]).map(|v| rounded(v, 1))
            }
            Self::Scene(off) => [r[0] + off[0], -(r[1] + off[1])].map(|v| rounded(v, 5)),
        }
    }

    /// A direction as it is seen, its length kept.
    fn turned(&self, f: [f64; 2]) -> [f64; 2] {
        let long = f[0].hypot(f[1]);
        if long == 0.0 {
            return [0.0, 0.0];
        }
        let seen = match self {
            Self::Film { sight, origin, .. } => {
                let to = sight.picture_of(f.map(|v| 1e-3 * v / long));
                let (dx, dy) = (to[0] - origin[0], to[1] - origin[1]);
                let seen = dx.hypot(dy).max(1e-12);
                [dx / seen * long, dy / seen * long]
            }
            Self::Scene(_) => [f[0], -f[1]],
        };
        seen.map(|v| rounded(v, 6))
    }
}
