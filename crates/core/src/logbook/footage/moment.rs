//! Asking a moment of a trail or a run, and writing one of its answers into the record.

use super::MomentOf;
use crate::lab::{Freedom, LabSheet};
use crate::logbook::FootageRefusal;
use crate::logbook::Logbook;
use crate::logbook::planning::nothing_changed;
use crate::logbook::refusal::{Refusal, Thing};
use crate::motion::{Ask, Body, Derived, Mark, Moment, Told, TrailId, ask, state_at};
use crate::quantity::format::step_for;
use crate::quantity::{Along, Decimal, Dimension, FilmShare, Origin, QuantityError, Reading, Unit, parse_quantity};
use crate::rigs::{Role, Run};
use derive_more::From;

/// Why what is typed is no mass.
#[derive(Clone, Debug, PartialEq, Eq, From)]
pub enum MassError {
    /// It cannot be read.
    #[from]
    Quantity(QuantityError),
    /// It is of another dimension, or not above zero.
    NoMass {
        /// As typed, shortened.
        typed: String,
    },
}

impl Logbook {
    pub(in crate::logbook) fn read_moment(&self, of: &MomentOf, asked: Ask, mass: &str) -> Result<Reading, Refusal> {
        let seen = self.moment(of)?;
        let body = self.body(mass, seen.run).map_err(nothing_changed)?;
        let told = ask(asked, &seen.moment, body).ok_or_else(|| {
            Refusal::from(if body.is_some() {
                FootageRefusal::NeedsGravity { asked: asked.title() }
            } else {
                FootageRefusal::NeedsMass { asked: asked.title() }
            })
        })?;
        let step = step_for(told.u);
        let number = Decimal::rounded(told.value, step);
        let scale = seen.share_of(&told, body);
        let origin = Origin::Moment {
            what: asked.title().to_owned(),
            of: seen.name,
            run: seen.run,
            frame: of.frame,
            formula: told.formula,
            scale,
        };
        let resolution = (told.u * 12f64.sqrt()).max(step * 1e-3);
        Ok(Reading { number, unit: told.unit, resolution, origin })
    }

    /// The mass as typed, and the strength of gravity for potential energies: that of the run, unless it is hidden, and the standard
    /// value (CGPM 1901) on films and on rigs where gravity does nothing.
    ///
    /// # Errors
    /// [`MassError`], by what is wrong with it.
    pub fn body(&self, mass: &str, run: Option<u32>) -> Result<Option<Body>, MassError> {
        if mass.trim().is_empty() {
            return Ok(None);
        }
        let kilogram = Unit::coherent(&Dimension::of([0, 1, 0, 0, 0, 0, 0]));
        let (number, unit) = parse_quantity(mass, &kilogram)?;
        let value = number.value() * unit.size();
        if !unit.same_dimension(&kilogram) || value <= 0.0 {
            return Err(MassError::NoMass { typed: mass.trim().chars().take(20).collect() });
        }
        let u_mass = number.last_digit() * unit.size() / 12f64.sqrt();
        let gravity = match run.and_then(|number| self.gravity_of(number)) {
            Some((gravity, shown)) => Some(gravity).filter(|_| shown),
            None => Some(9.806_65),
        };
        let ground = run.and_then(|number| Some(self.sheet.rig()?.ground(&self.run_settings(number)?)));
        Ok(Some(Body { mass: value, u_mass, gravity, ground: ground.unwrap_or_default() }))
    }

    /// The strength of gravity in a run, in m/s², and whether the page shows it too.
    fn gravity_of(&self, number: u32) -> Option<(f64, bool)> {
        let (rig, settings) = (self.sheet.rig()?, self.run_settings(number)?);
        let hidden = self.rule(rig.gravity_from(&settings)?).is_some_and(|r| r.freedom == Freedom::Hidden);
        Some((rig.gravity(&settings)?, !hidden))
    }

    /// The state of motion at a mark of a trail, or at a frame of a run.
    ///
    /// # Errors
    /// [`Refusal`] when there is no such trail, run, body or frame; at a mark, while there is no scale or there are fewer than
    /// three marks.
    pub fn moment(&self, of: &MomentOf) -> Result<Seen, Refusal> {
        match of.trail {
            Some(trail) => self.moment_of_trail(trail, of.frame),
            None => self.moment_of_run(of),
        }
    }

    fn moment_of_trail(&self, id: TrailId, frame: u32) -> Result<Seen, Refusal> {
        let (number, film) = self.state.film_of(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let trail = film.trail(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let sight = film.sight();
        let scale = sight.share(number).ok_or_else(|| Refusal::from(FootageRefusal::NoScale))?;
        let mark = trail
            .marks
            .get(&frame)
            .ok_or_else(|| Refusal::from(FootageRefusal::NotMarked { trail: trail.name.clone() }))?;
        let point = |(f, m): (&u32, &Mark)| {
            let [x, y] = sight.place(m.at);
            (film.time(*f), x, y)
        };
        let points: Vec<_> = trail.marks.iter().map(point).collect();
        let u = sight.readings(number, id, frame, mark)[1].u_si();
        let moment = state_at(&points, film.time(frame), u).ok_or_else(|| Refusal::from(FootageRefusal::ThreeMarks))?;
        let name = format!("film {}, {}", number + 1, trail.name);
        let origin = sight.u_of_origin();
        let start = sight.u_of_start(mark).map(|u| (id, u));
        // With the rectangle a little elsewhere all points are.
        let moved = sight.moved().filter_map(|place| {
            let point = |(f, m): (&u32, &Mark)| {
                let [x, y] = place(m.at);
                (film.time(*f), x, y)
            };
            state_at(&trail.marks.iter().map(point).collect::<Vec<_>>(), film.time(frame), u)
        });
        let moved = moved.collect();
        Ok(Seen { moment, moved, name, run: None, scale: Some(scale), origin, start, moves: [true; 2] })
    }

    fn moment_of_run(&self, of: &MomentOf) -> Result<Seen, Refusal> {
        let number = of.run.or(self.state.run_on_stage()).ok_or(Refusal::Gone(Thing::Run))?;
        let run = self.footage(number).ok_or(Refusal::Gone(Thing::Run))?;
        let run = run?;
        let second = self.run_settings(number).and_then(|settings| self.sheet.card.second_body(&settings));
        let (along, place, body) = match (of.second, second) {
            (true, None) => return Err(Refusal::Gone(Thing::SecondBody)),
            (true, Some(second)) => (second.velocity, second.place, format!(", {}", second.labels[1])),
            (false, second) => {
                let card = &self.sheet.card;
                let place = [Role::PlaceX, Role::PlaceY].map(|role| card.channel_of(role).map_or("", |c| c.name));
                let body = second.map_or_else(String::new, |s| format!(", {}", s.labels[0]));
                (card.velocity().unwrap_or_default(), place, body)
            }
        };
        let moment = recorded(&run, &self.sheet, of.frame as usize, along, place)?;
        let moves = if along == ["", ""] { [true; 2] } else { along.map(|channel| !channel.is_empty()) };
        Ok(Seen {
            moment,
            moved: Vec::new(),
            name: format!("run {number}{body}"),
            run: Some(number),
            scale: None,
            origin: [0.0; 2],
            start: None,
            moves,
        })
    }
}

/// A moment of a motion, and whose it is.
#[derive(Clone, Debug, PartialEq)]
pub struct Seen {
    /// The state of motion.
    pub moment: Moment,
    /// The same with each uncertain thing of the film's rectangle moved by its standard uncertainty.
    pub moved: Vec<Moment>,
    /// Trail or run, and which body, for people.
    pub name: String,
    /// Whether it can move along x and along y.
    pub moves: [bool; 2],
    /// Number of the run, if it is one.
    pub run: Option<u32>,
    /// What it owes to a film's scale.
    pub scale: Option<FilmShare>,
    /// Standard uncertainties of what x and y are counted from, in m.
    pub origin: [f64; 2],
    /// The trail, and standard uncertainties of x and y that go back to the mark it was followed from, in m.
    pub start: Option<(TrailId, [f64; 2])>,
}

impl Seen {
    /// What an answer about this moment owes to the film's scale, rectangle and origin.
    pub fn share_of(&self, told: &Told, body: Option<Body>) -> Option<FilmShare> {
        let on = |[x, y]: [f64; 2], along| if along == Along::X { x } else { y };
        let place = told.by_place.map(|(along, by)| (along, by * on(self.origin, along)));
        let start = told.by_place.zip(self.start).map(|((along, by), (trail, u))| (trail, by * on(u, along)));
        let by = |moved: &Moment| ask(told.ask, moved, body).map_or(0.0, |there| there.value - told.value);
        let plane: Vec<f64> = self.moved.iter().map(by).collect();
        let share = self.scale.as_ref().map(|s| FilmShare {
            relative: s.relative * told.by_scale,
            place,
            start,
            plane: if plane.iter().all(|u| *u == 0.0) { Vec::new() } else { plane },
            ..*s
        });
        share.filter(|s| s.relative != 0.0 || s.place.is_some() || !s.plane.is_empty())
    }

    /// The standard uncertainty of an answer, with all it owes to the film, in coherent SI units.
    pub fn u_of(&self, told: &Told, body: Option<Body>) -> f64 {
        let Some(share) = self.share_of(told, body) else { return told.u };
        let (place, start) = (share.place.map_or(0.0, |(_, u)| u), share.start.map_or(0.0, |(_, u)| u));
        let laid = told.u.hypot(told.value * share.relative).hypot(place).hypot(start);
        share.plane.iter().fold(laid, |u, part| u.hypot(*part))
    }
}

/// Frames to either side over which a change is taken.
const REACH: usize = 5;

/// The state of motion at a frame as the recorders show it: nothing finer than their last digits goes in. Velocities are those of
/// the channels `along` where the sheet lets them be recorded or drawn, and else the change of the position, which the channels
/// `places` have, over a tenth of a second; accelerations are the change of the velocity over the same time.
fn recorded(
    run: &Run,
    sheet: &LabSheet,
    frame: usize,
    along: [&str; 2],
    places: [&str; 2],
) -> Result<Moment, FootageRefusal> {
    if frame >= run.frames() {
        return Err(FootageRefusal::NoInstant { frame });
    }
    let around = |i: usize| (i.saturating_sub(REACH), (i + REACH).min(run.frames() - 1));
    let (a, b) = around(frame);
    if a == b {
        return Err(FootageRefusal::ShortRun);
    }
    let read = |name: &str, i: usize| {
        let channel = run.channels.iter().find(|c| c.spec.name == name)?;
        let step = channel.spec.resolution * channel.spec.unit.size();
        Some(((channel.values[i] / step).round() * step, step / 12f64.sqrt()))
    };
    let open = |name: &str| name.is_empty() || sheet.tracks.contains(&name) || sheet.recordable.contains(&name);
    let recorded = along.iter().all(|name| open(name));
    let still = (0.0, 0.0);
    let place = |name: &str, i: usize| read(name, i).unwrap_or(still);
    let change = |now: (f64, f64), before: (f64, f64), from: usize, to: usize| {
        let seconds = run.sampling.time(to) - run.sampling.time(from);
        ((now.0 - before.0) / seconds, now.1 * 2f64.sqrt() / seconds)
    };
    let velocity = |i: usize| {
        [0, 1].map(|axis| {
            let (from, to) = around(i);
            if recorded {
                read(along[axis], i).unwrap_or(still)
            } else {
                change(place(places[axis], to), place(places[axis], from), from, to)
            }
        })
    };
    let (now, before, after) = (velocity(frame), velocity(a), velocity(b));
    let bend = [0, 1].map(|k| change(after[k], before[k], a, b));
    let at = places.map(|axis| place(axis, frame));
    let larger = |pair: [(f64, f64); 2]| pair[0].1.max(pair[1].1);
    Ok(Moment {
        t: run.sampling.time(frame),
        at: at.map(|p| p.0),
        velocity: now.map(|v| v.0),
        acceleration: bend.map(|a| a.0),
        u_at: larger(at),
        u_velocity: larger(now),
        u_acceleration: larger(bend),
        from: Derived::Recorders { seconds: run.sampling.time(b) - run.sampling.time(a), velocity: recorded },
    })
}
