//! The thrower: a body thrown into the yard, with air, without, or both side by side.
//!
//! Equations and their sources: see `flight`. Both flights are integrated until they land.

use super::contract::card::{SecondBody, arrow, unit};
use super::contract::channel::{Energetic, Recorder, energies, energies_of, place, recorder, specs};
use super::contract::ending::Ending;
use super::contract::flight::{Drag, Forces, State, ball};
use super::contract::flow::Event;
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::{ALL_ALONG, at};
use super::contract::setting::{choice, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Rig, RigError, Run, Sampling, Scene,
    SceneShape, Settings,
};

/// The yard ends here, in m: behind the thrower and ahead.
const YARD: [f64; 2] = [-100.0, 500.0];

/// Length of the barrel in the picture, in m, and that of a handle for each m/s of the start speed.
const BARREL: f64 = 1.3;
const PER_SPEED: f64 = 0.15;

/// The thrower.
pub(super) struct Thrower;

/// One flight: its state at every frame, where it was highest, when and where it landed.
struct Flight {
    forces: Forces,
    states: Vec<State>,
    highest: f64,
    landed: Option<(f64, f64)>,
}

impl Flight {
    /// Its state at a frame; once it has landed it lies where it landed.
    fn at(&self, frame: usize) -> State {
        let rest = |(_, x)| State::new(x, 0.0, 0.0, 0.0);
        let last = || self.landed.map_or_else(|| self.states[self.states.len() - 1], rest);
        self.states.get(frame).copied().unwrap_or_else(last)
    }
}

/// The body at a moment, in SI units, and the one that flies without air beside it.
struct Thrown {
    at: [f64; 2],
    v: [f64; 2],
    a: [f64; 2],
    drag: [f64; 2],
    lift: f64,
    mass: f64,
    gravity: f64,
    /// Place and velocity without air.
    other: State,
}

impl Energetic for Thrown {
    fn energies(&self) -> [f64; 3] {
        let [x, y] = self.v;
        energies_of(0.5 * self.mass * (x * x + y * y), self.mass, self.gravity, self.at[1])
    }
}

fn recorders() -> Vec<Recorder<Thrown>> {
    let own = [
        recorder("v_x", "v_x", "m/s", 0.01, |b: &Thrown| b.v[0]).called("velocity along x").seen(),
        recorder("v_y", "v_y", "m/s", 0.01, |b: &Thrown| b.v[1]).called("velocity along y").seen(),
        recorder("a_x", "a_x", "m/s^2", 0.01, |b: &Thrown| b.a[0]).called("acceleration along x"),
        recorder("a_y", "a_y", "m/s^2", 0.01, |b: &Thrown| b.a[1]).called("acceleration along y"),
        recorder("x without air", "x_w", "m", 0.01, |b: &Thrown| b.other[0]).called("position x without air"),
        recorder("y without air", "y_w", "m", 0.01, |b: &Thrown| b.other[1]).called("position y without air"),
        recorder("v_x without air", "v_xw", "m/s", 0.01, |b: &Thrown| b.other[2])
            .called("velocity along x without air"),
        recorder("v_y without air", "v_yw", "m/s", 0.01, |b: &Thrown| b.other[3])
            .called("velocity along y without air"),
        recorder("weight", "F_w", "N", 0.001, |b| -b.mass * b.gravity),
        recorder("buoyancy", "F_b", "N", 0.001, |b| b.lift),
        recorder("drag x", "F_dx", "N", 0.001, |b| b.drag[0]),
        recorder("drag y", "F_dy", "N", 0.001, |b| b.drag[1]),
        recorder("net x", "F_x", "N", 0.001, |b| b.mass * b.a[0]),
        recorder("net y", "F_y", "N", 0.001, |b| b.mass * b.a[1]),
    ];
    place(0.01, |b: &Thrown| b.at[0], |b| b.at[1]).into_iter().chain(own).chain(energies()).collect()
}

impl Rig for Thrower {
    fn card(&self) -> Card {
        let air: &[(&str, &str)] = &[("off", "without air"), ("on", "with air"), ("both", "both side by side")];
        Card {
            name: "thrower",
            revision: 2,
            title: "Thrower",
            leaves_out: "spin, wind, and that air is thinner higher up; the drag coefficient stays the same at every speed. Buoyancy is that of a ball of the set diameter.",
            settings: vec![
                quantity("speed", "start speed", "v_0", "m/s", [0.0, 60.0, 0.1, 12.0]),
                quantity("angle", "angle of the throw", "α", "deg", [-90.0, 90.0, 0.1, 45.0]),
                quantity("height", "height of the throw", "h", "m", [0.0, 100.0, 0.01, 0.0]),
                quantity("diameter", "diameter", "d", "mm", [1.0, 1000.0, 0.1, 60.0]),
                quantity("mass", "mass", "m", "g", [0.1, 50_000.0, 0.1, 150.0]),
                quantity("shape", "drag coefficient", "c", "1", [0.0, 2.5, 0.01, 0.47]),
                choice("air", "air", air),
                quantity("air density", "density of the air", "ρ", "kg/m^3", [0.0, 80.0, 0.001, 1.204]),
                quantity("gravity", "gravity", "g", "m/s^2", [0.1, 30.0, 0.01, 9.81]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("range", "range", "R", "m", [0.01, 0.01]),
                found("time", "flight time", "t_f", "s", [0.001, 0.002]),
                found("highest", "highest point", "H", "m", [0.01, 0.01]),
                found("range without air", "range without air", "R_w", "m", [0.01, 0.01]),
            ],
            arrows: vec![
                arrow("velocity", "velocity", "v", ArrowKind::Velocity, ["v_x", "v_y"]),
                arrow("across", "velocity across", "v_x", ArrowKind::VelocityComponent, ["v_x", ""]),
                arrow("up", "velocity up", "v_y", ArrowKind::VelocityComponent, ["", "v_y"]),
                arrow("acceleration", "acceleration", "a", ArrowKind::Acceleration, ["a_x", "a_y"]),
                arrow("weight", "weight", "W", ArrowKind::Force, ["", "weight"]),
                arrow("buoyancy", "buoyancy", "B", ArrowKind::Force, ["", "buoyancy"]),
                arrow("drag", "drag", "D", ArrowKind::Force, ["drag x", "drag y"]),
                arrow("net", "net force", "ΣF", ArrowKind::Net, ["net x", "net y"]),
            ],
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.01,
            tracks: &[],
            by_hand: false,
            second: Some(SecondBody {
                labels: ["with air", "without air"],
                place: ["x without air", "y without air"],
                velocity: ["v_x without air", "v_y without air"],
                with: Some(("air", "both")),
            }),
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let without = throw(settings, 0.0, sampling)?;
        let with = match settings.chosen("air") {
            "off" => None,
            _ => Some(throw(settings, settings.get("air density"), sampling)?),
        };
        let body = with.as_ref().unwrap_or(&without);
        let both = settings.chosen("air") == "both";
        let frames = if both { body.states.len().max(without.states.len()) } else { body.states.len() };
        let mass = body.forces.mass;
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let (y, other) = (body.at(i), without.at(i));
            let v = [y[2], y[3]];
            let flying = i < body.states.len();
            let (a, drag) =
                if flying { (body.forces.acceleration(v), body.forces.drag(v)) } else { ([0.0; 2], [0.0; 2]) };
            let (gravity, lift) = (body.forces.gravity, body.forces.lift);
            Thrown { at: [y[0], y[1]], v, a, drag, lift, mass, gravity, other }
        });
        run.found.push(("highest", body.highest));
        if let Some((t, x)) = body.landed {
            run.found.extend([("range", x), ("time", t)]);
        }
        if let (true, Some((_, x))) = (both, without.landed) {
            run.found.push(("range without air", x));
        }
        run.outcome = if let Some(held) = body.forces.held_by_air([0.0; 2]) {
            held
        } else if body.landed.is_none() {
            RunOutcome::failed(Ending::OutOfYard { ends: YARD[1] })
        } else if body.landed.is_some_and(|(t, _)| t < 2.0 * sampling.every) {
            RunOutcome::failed(Ending::OnGroundAtOnce)
        } else {
            RunOutcome::default()
        };
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let height = settings.get("height");
        let both = settings.chosen("air") == "both";
        let (speed, (sin, cos)) = (settings.get("speed"), settings.get("angle").sin_cos());
        let ahead = |by: f64| [by * cos, height + by * sin];
        // Nothing here foretells the flight: the view widens as it goes.
        let high = height + 2.0;
        let radius = (settings.get("diameter") / 2.0).max(0.006 * high.max(16.0));
        let mut shapes = vec![
            SceneShape::Line { from: at(YARD[0], 0.0), to: at(YARD[1], 0.0), paint: Paint::Support },
            SceneShape::Line { from: at(0.0, 0.0), to: at(0.0, height), paint: Paint::Thread },
            SceneShape::Line {
                from: at(0.0, height),
                to: at(BARREL * cos, height + BARREL * sin),
                paint: Paint::Support,
            },
            SceneShape::Scale { zero: [0.0, 0.0], along: [1.0, 0.0], from: 0.0, length: YARD[1], division: 0.5 },
        ];
        if both {
            let centre = [Coordinate::Channel("x without air"), Coordinate::Channel("y without air")];
            shapes.push(SceneShape::Disc { centre, radius, turn: None, paint: Paint::Other });
        }
        let centre = [Coordinate::Channel("x"), Coordinate::Channel("y")];
        shapes.push(SceneShape::Disc { centre, radius, turn: None, paint: Paint::Body });
        let first = Bounds { left: -1.0, right: 16.0, bottom: -0.8, top: high.max(8.0) };
        Scene {
            bounds: first.with_margin(0.02),
            shapes,
            loupe: None,
            strobe: ALL_ALONG,
            handles: vec![
                Handle::turn("Barrel", ahead(BARREL), "angle", [0.0, height], 1.0),
                Handle::of(
                    "Start speed",
                    ahead(BARREL + PER_SPEED * speed),
                    "speed",
                    Follows::Reach { from: [0.0, height], by: 1.0 / PER_SPEED },
                )
                .led_from(ahead(BARREL)),
                Handle::along("Height of the throw", [-0.5, height], "height", [0.0, 1.0]),
            ],
            ..Scene::default()
        }
    }
}

/// One flight of the body the settings describe, in air of a density in kg/m³.
fn throw(s: &Settings, air: f64, sampling: Sampling) -> Result<Flight, RigError> {
    let (mass, gravity, diameter) = (s.get("mass"), s.get("gravity"), s.get("diameter"));
    let (drag, lift) = (Drag::air(air, diameter, s.get("shape")), air * ball(diameter) * gravity);
    let forces = Forces { mass, gravity, lift, drag, push: [0.0; 2] };
    let (speed, angle) = (s.get("speed"), s.get("angle"));
    let start = State::new(0.0, s.get("height"), speed * angle.cos(), speed * angle.sin());
    if forces.held_by_air([0.0; 2]).is_some() {
        return Ok(Flight { forces, states: vec![start], highest: start[1], landed: None });
    }
    let floor = |y: &State| y[1];
    let far = |y: &State| (YARD[1] - y[0]).min(y[0] - YARD[0]);
    let top = |y: &State| y[3];
    let (mut states, mut highest, mut now) = (Vec::new(), start[1], (0.0, start));
    let mut out = false;
    if start[3] > 0.0 {
        let rising: [Event<'_, 4>; 2] = [&top, &far];
        let up = forces.fly(now, sampling.duration, sampling.every, &rising)?;
        states.extend(up.frames);
        now = up.end;
        highest = now.1[1];
        out = up.event != Some(0);
    }
    let mut landed = None;
    if now.1[1] <= 0.0 {
        landed = Some((now.0, now.1[0]));
        states.push(now.1);
    } else if !out {
        let falling: [Event<'_, 4>; 2] = [&floor, &far];
        let down = forces.fly(now, sampling.duration, sampling.every, &falling)?;
        states.extend(down.frames);
        if down.event == Some(0) {
            landed = Some((down.end.0, down.end.1[0]));
        }
    }
    if states.is_empty() {
        states.push(start);
    }
    Ok(Flight { forces, states, highest, landed })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn run(air: &str, change: &[(&str, f64)]) -> Run {
        let mut s = Thrower.card().defaults();
        s.choose("air", air);
        change.iter().for_each(|(name, value)| s.set(name, *value));
        Thrower.run(&s, 0, Sampling { every: 0.01, duration: 60.0 }).unwrap()
    }

    /// Common trade practice, no source: thrown level and dropped, two bodies are at the same height at the same time.
    #[test]
    fn thrown_level_and_dropped_are_at_the_same_height_at_the_same_time() {
        let thrown = run("off", &[("speed", 9.0), ("angle", 0.0), ("height", 15.0)]);
        let dropped = run("off", &[("speed", 0.0), ("angle", 0.0), ("height", 15.0)]);
        assert_eq!(thrown.frames(), dropped.frames());
        for (a, b) in thrown.channel("y").unwrap().iter().zip(dropped.channel("y").unwrap()) {
            assert!((a - b).abs() < 1e-10);
        }
        assert!((thrown.found("time").unwrap() - (30f64 / 9.81).sqrt()).abs() < 1e-10);
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(40) })]
        /// Range and height without air: v²·sin 2α/g and (v·sin α)²/2g (Halliday, Resnick, Walker, 10th edition, 4-4).
        #[test]
        fn throws_without_air_follow_the_parabola(v in 1f64..60.0, degrees in 5f64..85.0, g in 4f64..30.0) {
            let a = degrees.to_radians();
            let r = run("off", &[("speed", v), ("angle", a), ("gravity", g)]);
            let range = v * v * (2.0 * a).sin() / g;
            if range < 499.0 {
                prop_assert!((r.found("range").unwrap() / range - 1.0).abs() < 1e-9);
                prop_assert!((r.found("highest").unwrap() / ((v * a.sin()).powi(2) / 2.0 / g) - 1.0).abs() < 1e-9);
                prop_assert!((r.found("time").unwrap() / (2.0 * v * a.sin() / g) - 1.0).abs() < 1e-9);
            } else {
                prop_assert!(r.outcome.failed || range < 501.0);
            }
        }

        /// Air takes energy and range, and the body comes down steeper than it went up.
        #[test]
        fn air_takes_energy_at_every_moment(v in 5f64..50.0, degrees in 20f64..70.0, mass in 0.1f64..2.0, d in 0.01f64..0.2) {
            let r = run("both", &[("speed", v), ("angle", degrees.to_radians()), ("mass", mass), ("diameter", d)]);
            let [y, vx, vy] = ["y", "v_x", "v_y"].map(|c| r.channel(c).unwrap());
            // Weight and buoyancy keep energy between them.
            let down = 9.81 * (1.0 - 1.204 * ball(d) / mass);
            let energy: Vec<f64> = (0..r.frames()).map(|i| down * y[i] + 0.5 * (vx[i] * vx[i] + vy[i] * vy[i])).collect();
            prop_assert!(energy.windows(2).all(|w| w[1] <= w[0] * (1.0 + 1e-12)));
            prop_assert!(r.found("range").unwrap() < r.found("range without air").unwrap());
            // From the last frame of the flight on to the landing, which lies a fraction of a frame later.
            let last = (r.found("time").unwrap() / 0.01 - 1e-9) as usize;
            let left = r.found("time").unwrap() - r.sampling.time(last);
            let landing = [("v_x", "a_x"), ("v_y", "a_y")].map(|(v, a)| r.channel(v).unwrap()[last] + left * r.channel(a).unwrap()[last]);
            prop_assert!(-landing[1] / landing[0] >= vy[0] / vx[0] * (1.0 - 1e-4));
        }

        /// Scaling: lengths times k, times √k at the same gravity, and k times the mass for a k times the drag constant over length:
        /// m·a = m·g − c·v²: with d → d·k^½·k^(−½) unchanged and m → m·k the path is k times as large when v → v·√k, with a gravity that
        /// makes up for what buoyancy takes off it.
        #[test]
        fn paths_scale_with_speed_squared_over_gravity(v in 5f64..15.0, degrees in 20f64..70.0, k in 1f64..4.0) {
            let a = degrees.to_radians();
            let small = run("on", &[("speed", v), ("angle", a), ("mass", 0.1)]);
            let lifted = 1.204 * ball(0.06) / 0.1;
            let gravity = 9.81 * (1.0 - lifted) / (1.0 - lifted / k);
            let large = run("on", &[("speed", v * k.sqrt()), ("angle", a), ("mass", 0.1 * k), ("gravity", gravity)]);
            prop_assert!((large.found("range").unwrap() / small.found("range").unwrap() / k - 1.0).abs() < 1e-8);
            prop_assert!((large.found("time").unwrap() / small.found("time").unwrap() / k.sqrt() - 1.0).abs() < 1e-8);
        }
    }

    #[test]
    fn a_throw_out_of_the_yard_is_explained() {
        let far = run("off", &[("speed", 60.0), ("gravity", 1.0)]);
        assert!(far.outcome.failed && matches!(far.outcome.told, Some(Ending::OutOfYard { .. })));
        assert_eq!(run("off", &[("angle", -0.5), ("speed", 5.0)]).outcome.told, Some(Ending::OnGroundAtOnce));
    }
}
