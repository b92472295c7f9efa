//! The driven trolley: thrust units push it along a level rail against rolling friction, until it meets the buffer.
//!
//! Newton's second law along the rail, m·a = ΣF − μ·m·g·sgn v, with m the trolley and all its loads; at rest the friction
//! takes any value up to μ·m·g (rolling resistance proportional to the normal force, e.g. Halliday, Resnick, Walker, 10th
//! edition, 6-1). Forces do not change while it moves one way, so the motion is made of exact legs.

use super::contract::card::{arrow, unit};
use super::contract::channel::{Recorder, place, recorder, specs};
use super::contract::ending::{Ending, coarse};
use super::contract::legs::{Leg, Legs};
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::{ALL_ALONG, at};
use super::contract::setting::quantity;
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape,
    Settings,
};

/// Names of the thrust units' forces.
const THRUSTS: [&str; 4] = ["thrust 1", "thrust 2", "thrust 3", "thrust 4"];

/// The driven trolley.
pub(super) struct Trolley;

/// The trolley at a moment, in SI units.
struct Driven {
    x: f64,
    v: f64,
    a: f64,
    thrust: f64,
    mass: f64,
}

fn recorders() -> Vec<Recorder<Driven>> {
    let own = [
        recorder("v", "v", "m/s", 0.01, |d: &Driven| d.v).called("velocity").seen(),
        recorder("a", "a", "m/s^2", 0.01, |d: &Driven| d.a).called("acceleration"),
        recorder("thrust", "F", "N", 0.01, |d| d.thrust),
        recorder("friction", "F_f", "N", 0.01, |d| d.mass * d.a - d.thrust),
        recorder("net force", "F_net", "N", 0.01, |d| d.mass * d.a),
    ];
    place(0.001, |d: &Driven| d.x, |_| 0.0).into_iter().chain(own).collect()
}

impl Rig for Trolley {
    fn card(&self) -> Card {
        let mut settings = vec![
            quantity("trolley mass", "trolley mass", "m_t", "kg", [0.2, 5.0, 0.01, 0.5]),
            quantity("load", "load", "m_l", "kg", [0.0, 5.0, 0.01, 0.0]),
        ];
        let start = [0.4, 0.0, 0.0, 0.0];
        for ((name, symbol), default) in THRUSTS.iter().zip(["F_1", "F_2", "F_3", "F_4"]).zip(start) {
            settings.push(quantity(name, name, symbol, "N", [-5.0, 5.0, 0.01, default]));
        }
        settings.extend([
            quantity("friction", "coefficient of rolling friction", "μ", "1", [0.0, 0.2, 0.001, 0.0]),
            quantity("gravity", "gravity", "g", "m/s^2", [0.1, 30.0, 0.01, 9.81]),
            quantity("start speed", "start velocity", "v_0", "m/s", [-3.0, 3.0, 0.01, 0.0]),
            quantity("rail", "distance to the buffer", "s", "m", [0.5, 20.0, 0.01, 5.0]),
        ]);
        let along =
            |name, label, letter, kind, channel, up| arrow(name, label, letter, kind, [channel, ""]).beside([0.0, up]);
        Card {
            name: "trolley",
            revision: 1,
            title: "Driven trolley",
            leaves_out: "the turning of the wheels, drag, and that friction at rest can be larger than when rolling: rolling resistance is μ times the normal force at any speed.",
            settings,
            channels: specs(&recorders()),
            meters: vec![
                found("time", "timer at the buffer", "t", "s", [0.001, 0.002]),
                found("speed", "speed at the buffer", "v", "m/s", [0.01, 0.005]),
                found("force", "force gauge, all thrust units", "F", "N", [0.01, 0.004]).telling(&THRUSTS),
                found("mass", "balance", "m", "kg", [0.001, 0.0]).telling(&["trolley mass"]),
            ],
            arrows: vec![
                along("velocity", "velocity", "v", ArrowKind::Velocity, "v", 0.42),
                along("acceleration", "acceleration", "a", ArrowKind::Acceleration, "a", 0.62),
                along("thrust", "thrust", "F", ArrowKind::Force, "thrust", 0.0),
                along("friction", "friction", "f", ArrowKind::Force, "friction", -0.16),
                along("net", "net force", "ΣF", ArrowKind::Net, "net force", 0.22),
            ],
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["x", "v"],
            by_hand: false,
            second: None,
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let get = |name| settings.get(name);
        let mass = get("trolley mass") + get("load");
        let thrust: f64 = THRUSTS.iter().map(|n| get(n)).sum();
        let most = get("friction") * mass * get("gravity");
        let (motion, outcome) = drive(get("start speed"), thrust, most, mass, get("rail"), sampling.duration);
        let frames = ((motion.end / sampling.every + 1e-9).floor() as usize + 1).min(sampling.frames()?);
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let [x, v, a] = motion.at(sampling.time(i));
            Driven { x, v, a, thrust, mass }
        });
        run.found = vec![("force", thrust), ("mass", mass)];
        if let Some(t) = motion.time_at(get("rail")) {
            run.found.extend([("time", t), ("speed", motion.at(t)[1])]);
        }
        run.outcome = outcome;
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let rail = settings.get("rail");
        let x = Coordinate::Channel("x");
        let behind = |by: f64| Coordinate::Moved { channel: "x", times: 1.0, plus: by };
        let mut shapes = vec![
            SceneShape::Line { from: at(-0.8, -0.2), to: at(rail + 0.1, -0.2), paint: Paint::Support },
            SceneShape::Scale { zero: [0.0, -0.2], along: [1.0, 0.0], from: 0.0, length: rail, division: 0.1 },
            SceneShape::Line { from: at(rail, -0.2), to: at(rail, 0.35), paint: Paint::Support },
            // The front of the trolley is what is measured.
            SceneShape::Box {
                centre: [behind(-0.3), Coordinate::Fixed(0.0)],
                size: [0.6, 0.22],
                turn: Coordinate::Fixed(0.0),
                paint: Paint::Body,
            },
            SceneShape::Line { from: [x, Coordinate::Fixed(-0.2)], to: [x, Coordinate::Fixed(0.2)], paint: Paint::Aid },
        ];
        for by in [-0.48, -0.12] {
            shapes.push(SceneShape::Disc {
                centre: [behind(by), Coordinate::Fixed(-0.14)],
                radius: 0.06,
                turn: None,
                paint: Paint::Support,
            });
        }
        if settings.get("load") > 0.0 {
            let height = 0.06 + 0.05 * settings.get("load");
            shapes.push(SceneShape::Box {
                centre: [behind(-0.3), Coordinate::Fixed(0.125 + height / 2.0)],
                size: [0.3, height],
                turn: Coordinate::Fixed(0.0),
                paint: Paint::Support,
            });
        }
        Scene {
            bounds: Bounds { left: -0.9, right: rail + 0.3, bottom: -0.6, top: 0.9 },
            shapes,
            loupe: None,
            strobe: ALL_ALONG,
            handles: vec![Handle::along("Buffer", [rail, 0.35], "rail", [1.0, 0.0])],
            ..Scene::default()
        }
    }
}

/// The motion from the start at x = 0, and how it ended. `most` is the largest friction, in N.
fn drive(v0: f64, thrust: f64, most: f64, mass: f64, rail: f64, longest: f64) -> (Legs, RunOutcome) {
    let mut legs = Legs::default();
    let (mut t, mut x, mut v) = (0.0, 0.0, v0);
    // At most three legs: one way, rest, the other way.
    for _ in 0..3 {
        if v == 0.0 && thrust.abs() <= most {
            let rest = Leg { from: t, x, v: 0.0, a: 0.0 };
            legs.push(rest, (t + 1.0).min(longest));
            let ending = if t == 0.0 && thrust == 0.0 {
                Ending::NothingPushes
            } else if t == 0.0 {
                Ending::FrictionHoldsTrolley
            } else {
                Ending::RestsBeforeBuffer
            };
            return (legs, RunOutcome::failed(ending));
        }
        let way = if v == 0.0 { thrust.signum() } else { v.signum() };
        let leg = Leg { from: t, x, v, a: (thrust - way * most) / mass };
        let rest = leg.time_to_rest();
        let buffer = leg.time_to(rail).filter(|b| rest.is_none_or(|r| *b <= r));
        // Behind the start the rail ends too.
        let off = leg.time_to(-0.6).filter(|b| rest.is_none_or(|r| *b <= r));
        let end = [rest, buffer, off].into_iter().flatten().fold(longest, f64::min);
        legs.push(leg, end);
        if buffer == Some(end) {
            return (legs, RunOutcome::default());
        }
        if off == Some(end) {
            return (legs, RunOutcome::failed(Ending::RollsOffStart));
        }
        if end >= longest {
            return (legs, RunOutcome::failed(Ending::MissesBuffer { seconds: coarse(longest, 1.0) }));
        }
        (x, v, t) = (leg.at(end).0, 0.0, end);
    }
    (legs, RunOutcome::default())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn run(change: &[(&str, f64)]) -> Run {
        let mut s = Trolley.card().defaults();
        change.iter().for_each(|(name, value)| s.set(name, *value));
        Trolley.run(&s, 0, Sampling { every: 0.01, duration: 60.0 }).unwrap()
    }

    /// Common trade practice, no source: at 0.40 m/s² from rest, 10 m take 7.1 s and end at 2.83 m/s.
    #[test]
    fn ten_metres_at_two_fifths_of_a_metre_per_second_squared() {
        let run = run(&[("trolley mass", 1.0), ("thrust 1", 0.4), ("rail", 10.0)]);
        assert_eq!(format!("{:.1} {:.2}", run.found("time").unwrap(), run.found("speed").unwrap()), "7.1 2.83");
        assert_eq!(run.frames(), 708);
    }

    #[test]
    fn friction_holds_slows_and_turns() {
        let held = run(&[("friction", 0.1), ("thrust 1", 0.4)]);
        assert!(held.outcome == RunOutcome::failed(Ending::FrictionHoldsTrolley));
        let stops = run(&[("friction", 0.05), ("thrust 1", 0.0), ("start speed", 1.0)]);
        assert!(stops.outcome.told == Some(Ending::RestsBeforeBuffer) && stops.found("time").is_none());
        // v²/(2·μ·g) = 1.0194 m.
        assert!((stops.extent("x").unwrap().1 - 1.0194).abs() < 1e-4);
        let back = run(&[("thrust 1", -0.4), ("start speed", 1.0), ("friction", 0.01)]);
        assert_eq!(back.outcome.told, Some(Ending::RollsOffStart));
        assert_eq!(run(&[("thrust 1", 0.0)]).outcome.told, Some(Ending::NothingPushes));
    }
}
