//! The hill railway: a sledge or a ball on a track that can be drawn, with loops, a free end, and gates.
//!
//! Equations and their sources: see `motion`. The track is a spline through its nodes, see `track`.

mod motion;
mod track;

use super::contract::card::{arrow, unit};
use super::contract::channel::{Recorder, place, recorder, specs};
use super::contract::ending::{Ending, Happening, coarse};
use super::contract::meter::{found, now};
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::{choice, path, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Follows, Handle, Node, Paint, PathLimits, Rig, RigError, Run, Sampling,
    Scene, SceneShape, Settings, worlds,
};
use motion::{Car, End, Ride, State, ride};
use track::Track;

/// What nodes a track takes, in m.
const LIMITS: PathLimits =
    PathLimits { count: [2, 24], x: [0.0, 40.0], y: [-10.0, 20.0], ring: [0.1, 5.0], step: 0.01 };
/// Most places of the track in the picture.
const DRAWN: usize = 400;
/// Most places of the track for a handle that goes along it.
const HELD: usize = 160;

/// The hill railway.
pub(super) struct Hills;

/// The car with its mass, in SI units, and the height from which potential energy counts.
struct Going {
    state: State,
    mass: f64,
    k: f64,
    gravity: f64,
    zero: f64,
    turn: f64,
}

impl Going {
    fn kinetic(&self) -> f64 {
        let [x, y] = self.state.v;
        0.5 * self.mass * (x * x + y * y + self.k * self.state.spin * self.state.spin)
    }
    fn potential(&self) -> f64 {
        self.mass * self.gravity * (self.state.at[1] - self.zero)
    }
    fn thermal(&self) -> f64 {
        self.mass * self.state.heat
    }
    /// Components of something along the track and of something across it.
    fn turned(&self, along: f64, across: f64) -> [f64; 2] {
        let (sin, cos) = self.state.angle.sin_cos();
        [self.mass * (along * cos - across * sin), self.mass * (along * sin + across * cos)]
    }
    /// Friction; on what rolls it is what turns it.
    fn rub(&self) -> [f64; 2] {
        let rolling = if self.state.normal > 0.0 { -self.k * self.state.pull } else { 0.0 };
        self.turned(if self.k > 0.0 { rolling } else { self.state.rub }, 0.0)
    }
}

fn recorders() -> Vec<Recorder<Going>> {
    let way = recorder("s", "s", "m", 0.001, |g: &Going| g.state.s).called("distance").seen();
    let at = place(0.001, |g: &Going| g.state.at[0], |g| g.state.at[1]);
    let own = [
        recorder("v", "v", "m/s", 0.001, |g: &Going| g.state.along).called("velocity").seen(),
        recorder("v_x", "v_x", "m/s", 0.001, |g: &Going| g.state.v[0]).called("velocity along x").seen(),
        recorder("v_y", "v_y", "m/s", 0.001, |g: &Going| g.state.v[1]).called("velocity along y").seen(),
        recorder("a", "a", "m/s^2", 0.01, |g: &Going| g.state.pull).called("acceleration"),
        recorder("a_x", "a_x", "m/s^2", 0.01, |g: &Going| g.state.a[0]).called("acceleration along x"),
        recorder("a_y", "a_y", "m/s^2", 0.01, |g: &Going| g.state.a[1]).called("acceleration along y"),
        recorder("normal", "F_n", "N", 0.001, |g| g.mass * g.state.normal),
        recorder("kinetic energy", "E_k", "J", 0.001, Going::kinetic),
        recorder("potential energy", "E_p", "J", 0.001, Going::potential),
        recorder("thermal energy", "E_t", "J", 0.001, Going::thermal),
        recorder("total energy", "E", "J", 0.001, |g| g.kinetic() + g.potential() + g.thermal()),
        recorder("weight", "F_w", "N", 0.001, |g| -g.mass * g.gravity),
        recorder("normal x", "F_nx", "N", 0.001, |g| g.turned(0.0, g.state.normal)[0]),
        recorder("normal y", "F_ny", "N", 0.001, |g| g.turned(0.0, g.state.normal)[1]),
        recorder("friction x", "F_fx", "N", 0.001, |g| g.rub()[0]),
        recorder("friction y", "F_fy", "N", 0.001, |g| g.rub()[1]),
        recorder("net x", "F_x", "N", 0.001, |g| g.mass * g.state.a[0]),
        recorder("net y", "F_y", "N", 0.001, |g| g.mass * g.state.a[1]),
        recorder("turn", "φ", "rad", 0.001, |g| g.turn),
    ];
    std::iter::once(way).chain(at).chain(own).collect()
}

/// Nodes of a course, with the radius of the loop behind each.
fn nodes(of: &[(f64, f64, f64)]) -> Vec<Node> {
    of.iter().map(|(x, y, r)| Node { at: [*x, *y], ring: (*r > 0.0).then_some(*r) }).collect()
}

/// The nodes of the course that is chosen.
fn course(settings: &Settings) -> Vec<Node> {
    match settings.chosen("course") {
        "valley" => nodes(&[(0.0, 3.0, 0.0), (2.0, 1.1, 0.0), (4.0, 0.3, 0.0), (6.0, 1.1, 0.0), (8.0, 3.0, 0.0)]),
        "hills" => nodes(&HILLS),
        "loop" => nodes(&[(0.0, 4.0, 0.0), (2.0, 1.2, 0.0), (5.0, 0.0, 0.8), (8.0, 0.0, 0.0)]),
        "jump" => nodes(&[
            (0.0, 5.0, 0.0),
            (2.5, 2.7, 0.0),
            (4.2, 2.6, 0.0),
            (5.4, 1.7, 0.0),
            (8.0, 0.3, 0.0),
            (11.0, 0.0, 0.0),
        ]),
        _ => settings.path("nodes").to_vec(),
    }
}

const HILLS: [(f64, f64, f64); 6] =
    [(0.0, 3.0, 0.0), (3.0, 1.4, 0.0), (6.0, 2.3, 0.0), (9.0, 1.3, 0.0), (12.0, 2.1, 0.0), (15.0, 1.2, 0.0)];

/// k in I = k·m·r².
fn inertia(settings: &Settings) -> f64 {
    if settings.chosen("body") == "ball" { 0.4 } else { 0.0 }
}

/// The car that is chosen.
fn car(settings: &Settings) -> Car {
    let k = inertia(settings);
    // A ball rolls without slipping, and friction takes nothing from it.
    let friction = if k > 0.0 { 0.0 } else { settings.get("friction") };
    Car { gravity: worlds::gravity(settings), friction, k }
}

/// Size of a car in a picture so large, in m.
fn size(nodes: &[Node]) -> f64 {
    let [left, right] = [f64::min, f64::max].map(|f| nodes.iter().map(|n| n.at[0]).reduce(f).unwrap_or(1.0));
    (0.016 * (right - left)).clamp(0.04, 0.4)
}

impl Rig for Hills {
    fn card(&self) -> Card {
        let courses: &[(&str, &str)] = &[
            ("valley", "a valley"),
            ("hills", "two hills"),
            ("loop", "a loop"),
            ("jump", "a ski jump"),
            ("own", "a track of my own"),
        ];
        let along = |name, label, letter, kind, along, up| arrow(name, label, letter, kind, along).beside([0.0, up]);
        let one = ArrowKind::Force;
        Card {
            name: "hills",
            revision: 1,
            title: "Hill railway",
            leaves_out: "drag, the size of the car, and slipping of the ball. The track can push, but not hold; a loop leads past its own foot, and where it begins the track bends all at once.",
            settings: vec![
                choice("course", "course", courses),
                path("nodes", "nodes of the track", "m", LIMITS, nodes(&HILLS)).with("course", "own"),
                choice("body", "body", &[("sledge", "sledge"), ("ball", "ball")]),
                quantity("mass", "mass", "m", "kg", [0.01, 100.0, 0.01, 0.5]),
                quantity("friction", "coefficient of friction", "μ", "1", [0.0, 0.5, 0.001, 0.0]),
                quantity("start", "start along the track", "s_0", "m", [0.0, 120.0, 0.01, 0.0]),
                quantity("speed", "start speed", "v_0", "m/s", [-20.0, 20.0, 0.01, 0.0]),
                quantity("zero", "line of zero height", "y_0", "m", [-10.0, 20.0, 0.01, 0.0]),
                choice("world", "world", worlds::OPTIONS),
                quantity("gravity", "gravity of the unknown world", "g", "m/s^2", [0.05, 30.0, 0.01, 5.0])
                    .with("world", "unknown"),
                quantity("gate 1", "first gate at", "s_1", "m", [0.0, 120.0, 0.01, 2.0]),
                quantity("gate 2", "second gate at", "s_2", "m", [0.0, 120.0, 0.01, 5.0]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("speed 1", "speed at the first gate", "v_1", "m/s", [0.001, 0.002]),
                found("speed 2", "speed at the second gate", "v_2", "m/s", [0.001, 0.002]),
                found("time", "timer from gate to gate", "t", "s", [0.001, 0.002]),
                found("height 1", "height of the first gate", "h_1", "m", [0.001, 0.001]),
                found("height 2", "height of the second gate", "h_2", "m", [0.001, 0.001]),
                found("drop", "drop from the start to the first gate", "h", "m", [0.001, 0.001]),
                found("highest", "highest point", "H", "m", [0.001, 0.001]),
                now("height", "height at this instant", "y", "m", [0.001, 0.001], "y"),
            ],
            arrows: vec![
                along("velocity", "velocity", "v", ArrowKind::Velocity, ["v_x", "v_y"], 0.2),
                along("acceleration", "acceleration", "a", ArrowKind::Acceleration, ["a_x", "a_y"], 0.3),
                along("weight", "weight", "W", one, ["", "weight"], 0.0),
                along("normal", "force of the track", "N", one, ["normal x", "normal y"], 0.0),
                along("friction", "friction", "f", one, ["friction x", "friction y"], 0.0),
                along("net", "net force", "ΣF", ArrowKind::Net, ["net x", "net y"], 0.1),
            ],
            clock: Clock { every: 0.02, lasts: 60.0, frame: 0.02, unit: "s" },
            length: unit("m"),
            division: 0.001,
            tracks: &["kinetic energy", "potential energy", "thermal energy", "total energy"],
            by_hand: false,
            second: None,
        }
    }

    fn gravity_from(&self, settings: &Settings) -> Option<&'static str> {
        Some(worlds::decided_by(settings))
    }

    fn ground(&self, settings: &Settings) -> f64 {
        settings.get("zero")
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        vec![("g", worlds::gravity(settings))]
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let car = car(settings);
        let (mass, zero) = (settings.get("mass"), settings.get("zero"));
        let radius = size(&course(settings));
        let going = |state: State| Going {
            state,
            mass,
            k: car.k,
            gravity: car.gravity,
            zero,
            turn: if car.k > 0.0 { -state.s / radius } else { state.angle },
        };
        sampling.frames()?;
        let none = |ending: Ending| {
            let rest = State { at: course(settings).first().map_or([0.0; 2], |n| n.at), ..STANDING };
            let mut run = Run::record(&recorders(), sampling, 2, |_| going(rest));
            run.outcome = RunOutcome::failed(ending);
            run
        };
        let track = match Track::new(&course(settings)) {
            Ok(track) => track,
            Err(ending) => return Ok(none(ending)),
        };
        let start = settings.get("start");
        if start > track.length() {
            return Ok(none(Ending::StartBeyondTrack { length: coarse(track.length(), 0.01) }));
        }
        let made = ride(&track, car, (start, settings.get("speed")), sampling.every, sampling.duration)?;
        let mut run = Run::record(&recorders(), sampling, made.states.len().max(1), |i| {
            going(made.states.get(i).copied().unwrap_or(STANDING))
        });
        run.found = meters(settings, &track, &made, sampling);
        run.marks = made
            .happened
            .iter()
            .filter_map(|(t, what)| Some((sampling.frame_from(*t).min(made.states.len().checked_sub(1)?), *what)))
            .collect();
        run.outcome = outcome(&made, run.frames());
        Ok(run)
    }

    /// Nothing here foretells where it flies to: the view widens as it goes.
    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let nodes = course(settings);
        let track = Track::new(&nodes).ok();
        let size = size(&nodes);
        let fold = |k: usize, f: fn(f64, f64) -> f64| nodes.iter().map(|n| n.at[k]).reduce(f).unwrap_or(0.0);
        let ring = nodes.iter().filter_map(|n| Some(n.at[1] + 2.0 * n.ring?)).fold(f64::MIN, f64::max);
        let (left, right) = (fold(0, f64::min), fold(0, f64::max));
        let (low, high) = (fold(1, f64::min), fold(1, f64::max).max(ring));
        let wide = (right - left).max(1.0);
        let ground = low - 0.05 * wide;
        let zero = settings.get("zero");
        let mut shapes = vec![
            SceneShape::Line {
                from: at(left - 0.2 * wide, ground),
                to: at(right + 0.3 * wide, ground),
                paint: Paint::Guide,
            },
            SceneShape::Line {
                from: at(left - 0.05 * wide, zero),
                to: at(right + 0.05 * wide, zero),
                paint: Paint::Aid,
            },
            SceneShape::Word { place: [left - 0.05 * wide, zero + 0.012 * wide], text: "zero height".to_owned() },
        ];
        // Posts under the nodes.
        for node in &nodes {
            let [x, y] = node.at;
            shapes.push(SceneShape::Line { from: at(x, ground), to: at(x, y - size), paint: Paint::Guide });
        }
        let mut handles = Vec::new();
        let own = settings.chosen("course") == "own";
        for (i, node) in nodes.iter().enumerate() {
            let how = Follows::Node { index: i, nodes: nodes.clone() };
            let handle = Handle::of(&format!("Node {}", i + 1), node.at, "nodes", how);
            handles.push(if own { handle } else { handle.and("course", Follows::Chosen { option: "own" }) });
        }
        if let Some(track) = &track {
            // The car's middle goes along the track; what carries it lies below by half its height.
            let points = track.points();
            let thin = |most: usize| {
                let step = points.len().div_ceil(most).max(1);
                let last = points.len() - 1;
                (0..=last).filter(move |i| i % step == 0 || *i == last).map(|i| points[i])
            };
            let under = |p: track::Point| [p.at[0] + size * p.tangent[1], p.at[1] - size * p.tangent[0]];
            shapes.push(SceneShape::Curve {
                points: thin(DRAWN).map(under).collect(),
                sways: Vec::new(),
                paint: Paint::Other,
            });
            let way =
                || Follows::Way { points: thin(HELD).map(|p| p.at).collect(), ways: thin(HELD).map(|p| p.s).collect() };
            for (gate, name) in [("gate 1", "1"), ("gate 2", "2")] {
                let p = track.at(settings.get(gate).min(track.length()));
                let up = |by: f64| [p.at[0] - by * size * p.tangent[1], p.at[1] + by * size * p.tangent[0]];
                let [[x, y], [u, v]] = [up(-1.0), up(3.4)];
                shapes.push(SceneShape::Line { from: at(x, y), to: at(u, v), paint: Paint::Aid });
                shapes.push(SceneShape::Word { place: up(4.2), text: name.to_owned() });
                handles.push(Handle::of(&format!("Gate {name}"), up(3.4), gate, way()));
            }
            let p = track.at(settings.get("start").min(track.length()));
            let above = [p.at[0] - 1.6 * size * p.tangent[1], p.at[1] + 1.6 * size * p.tangent[0]];
            handles.push(Handle::of("Start of the car", above, "start", way()));
        }
        handles.push(Handle::along("Line of zero height", [left - 0.08 * wide, zero], "zero", [0.0, 1.0]));
        let centre = [Coordinate::Channel("x"), Coordinate::Channel("y")];
        let turn = Coordinate::Channel("turn");
        shapes.push(if inertia(settings) > 0.0 {
            SceneShape::Disc { centre, radius: size, turn: Some(turn), paint: Paint::Body }
        } else {
            SceneShape::Box { centre, size: [3.2 * size, 1.7 * size], turn, paint: Paint::Body }
        });
        let bounds =
            Bounds { left: left - 0.1 * wide, right: right + 0.1 * wide, bottom: ground, top: high + 0.1 * wide };
        Scene { handles, ..Scene::of(bounds.with_margin(0.01), shapes, [5, usize::MAX >> 12]) }
    }
}

/// A car that does not move.
const STANDING: State = State {
    s: 0.0,
    at: [0.0; 2],
    v: [0.0; 2],
    a: [0.0; 2],
    along: 0.0,
    angle: 0.0,
    pull: 0.0,
    spin: 0.0,
    normal: 0.0,
    rub: 0.0,
    heat: 0.0,
};

/// What the meters show of a ride: at each gate the first time it comes by, between two frames by the motion in between.
fn meters(settings: &Settings, track: &Track, made: &Ride, sampling: Sampling) -> Vec<(&'static str, f64)> {
    let mut found = Vec::new();
    let start = track.at(settings.get("start")).at[1];
    let mut times = Vec::new();
    for (gate, speed, height) in [("gate 1", "speed 1", "height 1"), ("gate 2", "speed 2", "height 2")] {
        let s = settings.get(gate);
        if s > track.length() {
            continue;
        }
        let y = track.at(s).at[1];
        found.push((height, y));
        if gate == "gate 1" {
            found.push(("drop", start - y));
        }
        let passing = made.states.windows(2).enumerate().find(|(_, w)| {
            let on = w[0].normal > 0.0 && w[1].normal > 0.0;
            on && (w[0].s - s) * (w[1].s - s) <= 0.0 && w[0].s != w[1].s
        });
        if let Some((i, w)) = passing {
            let (share, v) = passage(w, s, sampling.every);
            found.push((speed, v.abs()));
            times.push((i as f64 + share) * sampling.every);
        }
    }
    if let [first, second] = times[..] {
        found.push(("time", (second - first).abs()));
    }
    if let Some(highest) = made.states.iter().map(|s| s.at[1]).reduce(f64::max) {
        found.push(("highest", highest));
    }
    found
}

/// When between two frames a way is passed, as a share of the time between them, and how fast: the cubic that fits places and speeds of both
/// (Hermite).
fn passage(w: &[State], s: f64, every: f64) -> (f64, f64) {
    let (a, b) = (w[0].s, w[1].s);
    let (u, v) = (w[0].along * every, w[1].along * every);
    let place = |x: f64| {
        let (x2, x3) = (x * x, x * x * x);
        (2.0 * x3 - 3.0 * x2 + 1.0) * a + (x3 - 2.0 * x2 + x) * u + (3.0 * x2 - 2.0 * x3) * b + (x3 - x2) * v
    };
    let slope = |x: f64| {
        let x2 = x * x;
        (6.0 * x2 - 6.0 * x) * (a - b) + (3.0 * x2 - 4.0 * x + 1.0) * u + (3.0 * x2 - 2.0 * x) * v
    };
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..50 {
        let mid = 0.5 * (low + high);
        if (place(mid) - s) * (a - s) > 0.0 {
            low = mid;
        } else {
            high = mid;
        }
    }
    let share = 0.5 * (low + high);
    (share, slope(share) / every)
}

/// What is to be said of a ride.
fn outcome(made: &Ride, frames: usize) -> RunOutcome {
    let left = made.happened.iter().any(|(_, what)| *what == Happening::Leaves);
    let ended = made.happened.iter().any(|(_, what)| *what == Happening::Ends);
    match made.end {
        End::Rests if made.states.iter().all(|s| s.along == 0.0) => RunOutcome::failed(Ending::StaysOnTrack),
        _ if frames < 5 => RunOutcome::failed(Ending::OffTrackAtOnce),
        End::Rests => RunOutcome::told(Ending::ComesToRest),
        End::Falls if left && !ended => RunOutcome::told(Ending::LeavesAndFalls),
        End::Falls => RunOutcome::told(Ending::PastEndOfTrack),
        End::Time if left => RunOutcome::told(Ending::LeavesTrack),
        End::Time => RunOutcome::default(),
    }
}

#[cfg(test)]
mod tests;
