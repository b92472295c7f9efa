//! How a car goes along a track that can only push, leaves it, flies, and comes down on it again.
//!
//! Along the track a = (−g·sin φ ∓ μ·N/m)/(1 + k) with N/m = v²·κ + g·cos φ (Halliday, Resnick, Walker, *Fundamentals of Physics*, 10th
//! edition, 6-3 for the circle, 11-2 for rolling with I = k·m·r²). The car leaves where N would turn negative. Where it comes down it loses the
//! part of its velocity across the track; a ball then slips until it rolls, which keeps its angular momentum about the place of contact.

use ode_solvers::SVector;

use super::track::{Point, Track, meet};
use crate::rigs::contract::flow::{Event, flow};
use crate::rigs::{Happening, RigError};

/// Pieces of a motion at most: whoever lands and leaves for ever has come to rest for all one can see.
const MOST_PIECES: usize = 4000;
/// Below the lowest place of the track it is gone, in m.
const GONE: f64 = 1.0;
/// A flight is clear of the track from so far on, in m.
const TOUCHES: f64 = 1e-11;
/// A car with less kinetic energy than this is about to turn, in J/kg.
const TURNING: f64 = 1e-5;
/// What comes down with less of its speed across the track than this share goes on along it.
const GRAZES: f64 = 1e-4;
/// Moments between two frames at which a flight is looked at.
const LOOKS: usize = 8;
/// So many times the time to the next joint at the speed it has is worked out at a time, and a speed for whatever is slower, in m/s.
const ENOUGH: f64 = 1.25;
const SLOW: f64 = 1.0;
/// Slower than this it stands, in m/s.
const STANDS: f64 = 1e-9;

/// What goes along the track.
#[derive(Clone, Copy, Debug)]
pub(super) struct Car {
    pub gravity: f64,
    /// Coefficient of friction; a ball rolls without losing anything.
    pub friction: f64,
    /// k in I = k·m·r²; zero for what slides.
    pub k: f64,
}

/// The car at a moment, per kilogram.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct State {
    /// The way along the track; in the air that of the place it left.
    pub s: f64,
    pub at: [f64; 2],
    pub v: [f64; 2],
    /// Acceleration.
    pub a: [f64; 2],
    /// Speed along the track, with sign, and the direction of the track or of the flight.
    pub along: f64,
    pub angle: f64,
    /// Acceleration along the track.
    pub pull: f64,
    /// Speed of the rim of what rolls.
    pub spin: f64,
    /// Force of the track, N/kg, and friction along the track.
    pub normal: f64,
    pub rub: f64,
    /// Energy that became warmth, J/kg.
    pub heat: f64,
}

/// How it ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum End {
    /// Its time was over.
    Time,
    /// Friction holds it.
    Rests,
    /// It fell past the end of the track.
    Falls,
}

/// A whole motion.
pub(super) struct Ride {
    /// One a frame.
    pub states: Vec<State>,
    pub happened: Vec<(f64, Happening)>,
    pub end: End,
}

/// On the track: way, speed, warmth; in the air: place and velocity.
type On = SVector<f64, 3>;

struct Rider<'a> {
    track: &'a Track,
    car: Car,
    /// Ways at which the track's formula changes.
    joints: Vec<f64>,
    every: f64,
    until: f64,
    low: f64,
    states: Vec<State>,
    happened: Vec<(f64, Happening)>,
}

/// What comes next.
enum Next {
    Track { t: f64, s: f64, v: f64, heat: f64 },
    Air { t: f64, s: f64, at: [f64; 2], v: [f64; 2], spin: f64, heat: f64 },
    Done(End),
}

impl Car {
    /// Force of the track per kilogram, at a place and a speed.
    fn normal(&self, p: &Point, v: f64) -> f64 {
        v * v * p.bend + self.gravity * p.tangent[0]
    }

    /// Acceleration along the track and friction per kilogram, for a car that goes in a direction.
    fn along(&self, p: &Point, v: f64, way: f64) -> (f64, f64) {
        let rub = -way * self.friction * self.normal(p, v).max(0.0);
        ((-self.gravity * p.tangent[1] + rub) / (1.0 + self.k), rub)
    }

    /// All its energy per kilogram, warmth included.
    fn energy(&self, p: &Point, v: f64, heat: f64) -> f64 {
        0.5 * (1.0 + self.k) * v * v + self.gravity * p.at[1] + heat
    }

    /// Speed and warmth brought back to where the sum of the energies is what it was: what the integrator lets drift (projection onto an
    /// invariant; E. Hairer, C. Lubich, G. Wanner, *Geometric Numerical Integration*, IV.4). Warmth never falls; a car about to turn stays as it is.
    fn kept(&self, energy: f64, p: &Point, (v, heat): (f64, f64), least: f64) -> (f64, f64) {
        let left = energy - self.gravity * p.at[1];
        if self.friction > 0.0 {
            return (v, (left - 0.5 * (1.0 + self.k) * v * v).max(least));
        }
        let kinetic = left - heat;
        if kinetic < TURNING { (v, heat) } else { ((2.0 * kinetic / (1.0 + self.k)).sqrt().copysign(v), heat) }
    }

    /// The direction in which it goes or begins to go; none where friction holds it.
    fn way(&self, p: &Point, v: f64) -> Option<f64> {
        if v.abs() > STANDS {
            return Some(v.signum());
        }
        let steep = -self.gravity * p.tangent[1];
        let holds = self.friction * self.gravity * p.tangent[0].max(0.0) + 1e-12;
        (steep.abs() > holds).then(|| steep.signum())
    }

    /// The state on the track.
    fn on(&self, p: &Point, v: f64, heat: f64) -> State {
        let [cos, sin] = p.tangent;
        let (pull, rub) = match self.way(p, v) {
            Some(way) => self.along(p, v, way),
            // Friction holds it: it takes up what pulls along the track.
            None => (0.0, self.gravity * sin),
        };
        let across = v * v * p.bend;
        State {
            s: p.s,
            at: p.at,
            v: [v * cos, v * sin],
            a: [pull * cos - across * sin, pull * sin + across * cos],
            along: v,
            angle: p.angle(),
            pull,
            spin: v,
            normal: self.normal(p, v).max(0.0),
            rub,
            heat,
        }
    }
}

/// The ride of a car from a way along the track and a speed, recorded every so many s up to a time.
pub(super) fn ride(track: &Track, car: Car, (s, v): (f64, f64), every: f64, until: f64) -> Result<Ride, RigError> {
    let low = track.points().iter().map(|p| p.at[1]).fold(f64::MAX, f64::min) - GONE;
    let joints = track.joints();
    let mut rider = Rider { track, car, joints, every, until, low, states: Vec::new(), happened: Vec::new() };
    let mut next = Next::Track { t: 0.0, s, v, heat: 0.0 };
    for _ in 0..MOST_PIECES {
        next = match next {
            Next::Track { t, s, v, heat } => rider.on_track(t, s, v, heat)?,
            Next::Air { t, s, at, v, spin, heat } => rider.in_air(t, s, (at, v), spin, heat),
            Next::Done(end) => return Ok(Ride { states: rider.states, happened: rider.happened, end }),
        };
    }
    Ok(Ride { states: rider.states, happened: rider.happened, end: End::Time })
}

impl Rider<'_> {
    fn frame(&self, k: usize) -> f64 {
        k as f64 * self.every
    }

    fn on_track(&mut self, t: f64, s: f64, v: f64, heat: f64) -> Result<Next, RigError> {
        let (car, track) = (self.car, self.track);
        let here = track.at(s);
        if t >= self.until - 1e-9 {
            return Ok(self.closed(t, &car.on(&here, v, heat), End::Time));
        }
        let Some(way) = car.way(&here, v) else {
            // It stays for a while that one can see.
            let end = (t + 1.0).min(self.until);
            self.fill(t, end, |_| car.on(&here, 0.0, heat));
            return Ok(self.closed(end, &car.on(&here, 0.0, heat), End::Rests));
        };
        if way > 0.0 && s >= track.length() - 1e-12 || way < 0.0 && s <= 1e-12 {
            return Ok(self.leave(t, s, v, heat, Happening::Ends));
        }
        // By the formula of the piece that lies ahead.
        if car.normal(&track.at(s + way * 1e-9), v) < 0.0 {
            return Ok(self.leave(t, s, v, heat, Happening::Leaves));
        }
        let joint = if way > 0.0 {
            self.joints.iter().copied().find(|j| *j > s + 1e-9)
        } else {
            self.joints.iter().rev().copied().find(|j| *j < s - 1e-9)
        };
        let joint = joint.unwrap_or(if way > 0.0 { track.length() } else { 0.0 });
        let before = track.before(joint, way);
        let rate = |y: &On| {
            let p = before.at(y[0]);
            let (pull, rub) = car.along(&p, y[1], way);
            On::new(y[1], pull, (rub * y[1]).abs())
        };
        let leaves = |y: &On| car.normal(&before.at(y[0]), y[1]);
        let turns = |y: &On| way * y[1];
        let joins = |y: &On| way * (joint - y[0]);
        let events: [Event<'_, 3>; 3] = [&leaves, &turns, &joins];
        // No farther than it takes to the joint, as far as one can tell: what lies behind would be worked out in vain.
        let about = ENOUGH * (joint - s).abs() / v.abs().max(SLOW) + 2.0 * self.every;
        let until = (((t + about) / self.every).ceil() * self.every).min(self.until);
        let flown = flow(&rate, (t, On::new(s, v, heat)), until, self.every, &events)?;
        let energy = car.energy(&here, v, heat);
        let mut least = heat;
        for y in flown.frames {
            let p = before.at(y[0]);
            let (v, heat) = car.kept(energy, &p, (y[1], y[2]), least);
            least = heat;
            self.put(car.on(&p, v, heat));
        }
        let (t, y) = flown.end;
        let (v, heat) = car.kept(energy, &before.at(y[0]), (y[1], y[2]), least);
        let y = On::new(y[0], v, heat);
        Ok(match flown.event {
            Some(0) => self.leave(t, y[0], y[1], y[2], Happening::Leaves),
            Some(1) => Next::Track { t, s: y[0], v: 0.0, heat: y[2] },
            Some(_) => Next::Track { t, s: joint, v: y[1], heat: y[2] },
            None if until < self.until => Next::Track { t, s: y[0], v: y[1], heat: y[2] },
            None => self.closed(t, &car.on(&track.at(y[0]), y[1], y[2]), End::Time),
        })
    }

    fn leave(&mut self, t: f64, s: f64, v: f64, heat: f64, how: Happening) -> Next {
        let p = self.track.at(s);
        let [cos, sin] = p.tangent;
        self.happened.push((t, how));
        Next::Air { t, s, at: p.at, v: [v * cos, v * sin], spin: v, heat }
    }

    /// The parabola from a place, until it meets the track or is gone.
    fn in_air(&mut self, t: f64, s: f64, (at, v): ([f64; 2], [f64; 2]), spin: f64, heat: f64) -> Next {
        let g = self.car.gravity;
        let place = |t: f64| [at[0] + v[0] * t, at[1] + v[1] * t - 0.5 * g * t * t];
        let speed = |t: f64| [v[0], v[1] - g * t];
        // When it is gone: y = low.
        let gone = t + (v[1] + (v[1] * v[1] + 2.0 * g * (at[1] - self.low).max(0.0)).sqrt()) / g;
        let end = gone.min(self.until);
        let flying = |now: f64| {
            let (p, u) = (place(now - t), speed(now - t));
            let along = u[0].hypot(u[1]);
            let angle = u[1].atan2(u[0]);
            State { s, at: p, v: u, a: [0.0, -g], along, angle, pull: 0.0, spin, normal: 0.0, rub: 0.0, heat }
        };
        if let Some((meets, p)) = self.meets(place, s, end - t) {
            let now = t + meets;
            self.fill(t, now, flying);
            let u = speed(meets);
            let [cos, sin] = p.tangent;
            let (along, across) = (u[0] * cos + u[1] * sin, u[1] * cos - u[0] * sin);
            let k = self.car.k;
            if across > 0.0 {
                // From below: it is stopped across the track and falls.
                self.happened.push((now, Happening::Strikes));
                let below = [p.at[0] + 1e-9 * sin, p.at[1] - 1e-9 * cos];
                let lost = 0.5 * across * across;
                return Next::Air { t: now, s, at: below, v: [along * cos, along * sin], spin, heat: heat + lost };
            }
            // A hop that nobody could see is none.
            match self.happened.last() {
                Some((left, Happening::Leaves)) if now - left < self.every => drop(self.happened.pop()),
                _ => self.happened.push((now, Happening::Lands)),
            }
            let rolls = (along + k * spin) / (1.0 + k);
            let before = 0.5 * (u[0] * u[0] + u[1] * u[1] + k * spin * spin);
            if across.abs() < GRAZES * along.abs() {
                // It goes on along the track, and nothing is lost: the little by which it is set onto the track counts too.
                let energy = before + g * (place(meets)[1] - p.at[1]);
                let goes = (2.0 * energy.max(0.0) / (1.0 + k)).sqrt().copysign(rolls);
                return Next::Track { t: now, s: p.s, v: goes, heat };
            }
            return Next::Track { t: now, s: p.s, v: rolls, heat: heat + before - 0.5 * (1.0 + k) * rolls * rolls };
        }
        self.fill(t, end, flying);
        self.closed(end, &flying(end), if gone < self.until { End::Falls } else { End::Time })
    }

    /// When a flight from a place of the track first meets it, and where.
    fn meets(&self, place: impl Fn(f64) -> [f64; 2], left: f64, longest: f64) -> Option<(f64, Point)> {
        let points = self.track.points();
        let steps = (longest / self.every).ceil().max(1.0) as usize;
        let step = longest / steps as f64;
        for i in 0..steps {
            let (from, to) = (i as f64 * step, (i + 1) as f64 * step);
            let (a, b) = (place(from), place(to));
            let (west, east) = (a[0].min(b[0]), a[0].max(b[0]));
            let (low, high) = (a[1].min(b[1]), a[1].max(b[1]));
            // Where it has just left the track it is near whatever its table says.
            let mut first = if i == 0 { self.exactly(&place, (from, to), left, true) } else { None };
            for pair in points.windows(2) {
                let (p, q) = (pair[0].at, pair[1].at);
                let beside = p[0].max(q[0]) < west || p[0].min(q[0]) > east;
                if beside || p[1].max(q[1]) < low || p[1].min(q[1]) > high || meet([a, b], [p, q]).is_none() {
                    continue;
                }
                let found = self.exactly(&place, (from, to), pair[0].s, false);
                first = match (first, found) {
                    (Some(one), Some(other)) => Some(if other.0 < one.0 { other } else { one }),
                    (one, other) => one.or(other),
                };
            }
            if first.is_some() {
                return first;
            }
        }
        None
    }

    /// When a flight comes from one side of the track to the other near a way along it: bracketed by a few moments in between, then halved.
    fn exactly(
        &self,
        place: &impl Fn(f64) -> [f64; 2],
        (from, to): (f64, f64),
        s: f64,
        just_left: bool,
    ) -> Option<(f64, Point)> {
        let part = (to - from) / LOOKS as f64;
        let (mut s, mut before) = self.beside(place(from), s)?;
        let mut earlier = from;
        for k in 1..=LOOKS {
            let now = from + k as f64 * part;
            let (next, side) = self.beside(place(now), s)?;
            // It never got clear of the track: it goes on along it.
            if just_left && k == 1 && side < -TOUCHES {
                return self.on(next).map(|p| (now, p));
            }
            let lands = before > TOUCHES && side <= 0.0;
            let strikes = before < -TOUCHES && side >= 0.0;
            if lands || strikes {
                let (mut low, mut high) = (earlier, now);
                for _ in 0..60 {
                    let middle = 0.5 * (low + high);
                    let (near, side) = self.beside(place(middle), next)?;
                    s = near;
                    if (side > 0.0) == lands {
                        low = middle;
                    } else {
                        high = middle;
                    }
                }
                return self.on(s).map(|p| (0.5 * (low + high), p));
            }
            (s, before, earlier) = (next, side, now);
        }
        None
    }

    /// A place of the track, if the way lies on it.
    fn on(&self, s: f64) -> Option<Point> {
        (s >= 0.0 && s <= self.track.length()).then(|| self.track.at(s))
    }

    /// The way along the track to the place next to a point, and how far to the left of it that lies, in m: Newton's method from a place nearby.
    fn beside(&self, q: [f64; 2], s: f64) -> Option<(f64, f64)> {
        let mut s = s;
        for _ in 0..40 {
            let p = self.track.at(s);
            let [cos, sin] = p.tangent;
            let (dx, dy) = (q[0] - p.at[0], q[1] - p.at[1]);
            let (along, side) = (dx * cos + dy * sin, dy * cos - dx * sin);
            let by = along / (1.0 - p.bend * side).max(0.3);
            if by.abs() < 1e-13 {
                return Some((s, side));
            }
            s += by.clamp(-0.2, 0.2);
        }
        None
    }

    /// States at the frames from a time up to, not including, another.
    fn fill(&mut self, from: f64, to: f64, state: impl Fn(f64) -> State) {
        let mut k = (from / self.every - 1e-9).ceil().max(0.0) as usize;
        while self.frame(k) < to - 1e-12 {
            self.put(state(self.frame(k)));
            k += 1;
        }
    }

    fn put(&mut self, state: State) {
        self.states.push(state);
    }

    /// The last frame, if one falls on the end.
    fn closed(&mut self, t: f64, state: &State, end: End) -> Next {
        if (self.frame(self.states.len()) - t).abs() < 1e-9 || self.states.is_empty() {
            self.put(*state);
        }
        Next::Done(end)
    }
}
