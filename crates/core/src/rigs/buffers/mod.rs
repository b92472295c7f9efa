//! The buffer rail: two carriages meet on a level rail without friction, from fully elastic to sticking together.
//!
//! At the meeting momentum is kept, and the speed of parting is e times that of approach (e from 1, elastic, to 0, sticking):
//! v₁′ = (m₁·v₁ + m₂·v₂ − m₂·e·(v₁ − v₂))/(m₁ + m₂), v₂′ alike (Newton's law of restitution; Halliday, Resnick, Walker,
//! *Fundamentals of Physics*, 10th edition, 9-6 and 9-7, for e = 0 and 1). The buffers take no time. Exact.

use super::contract::card::{SecondBody, arrow, unit};
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::ending::Ending;
use super::contract::legs::{Leg, Legs};
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::{ALL_ALONG, at};
use super::contract::setting::quantity;
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape,
    Settings,
};

/// Length of the rail, in m.
const RAIL: f64 = 5.0;
/// Length of a carriage, in m.
const CARRIAGE: f64 = 0.3;

/// The buffer rail.
pub(super) struct BufferRail;

/// Both carriages at a moment: places, velocities, momenta and kinetic energies, in SI units.
struct Both {
    x: [f64; 2],
    v: [f64; 2],
    p: [f64; 2],
    e: [f64; 2],
}

fn recorders() -> Vec<Recorder<Both>> {
    vec![
        recorder("x", "x_1", "m", 0.001, |b: &Both| b.x[0]).of(Role::PlaceX).called("position x"),
        recorder("y", "y", "m", 0.001, |_: &Both| 0.0).of(Role::PlaceY).called("position y"),
        recorder("x second", "x_2", "m", 0.001, |b: &Both| b.x[1]).called("position of the second"),
        recorder("v", "v_1", "m/s", 0.001, |b: &Both| b.v[0]).called("velocity").seen(),
        recorder("v second", "v_2", "m/s", 0.001, |b: &Both| b.v[1]).called("velocity of the second"),
        recorder("momentum", "p_1", "kg m/s", 0.001, |b| b.p[0]),
        recorder("momentum second", "p_2", "kg m/s", 0.001, |b: &Both| b.p[1]).called("momentum of the second"),
        recorder("momentum of both", "p", "kg m/s", 0.001, |b| b.p[0] + b.p[1]),
        recorder("energy", "E_1", "J", 0.001, |b| b.e[0]),
        recorder("energy second", "E_2", "J", 0.001, |b: &Both| b.e[1]).called("energy of the second"),
        recorder("energy of both", "E", "J", 0.001, |b| b.e[0] + b.e[1]),
    ]
}

impl Rig for BufferRail {
    fn card(&self) -> Card {
        let along = |name, label, letter, kind, channel, foot| {
            arrow(name, label, letter, kind, [channel, ""]).footed([foot, "y"]).beside([0.0, 0.35])
        };
        let meter = |name, label, symbol| found(name, label, symbol, "m/s", [0.001, 0.002]);
        Card {
            name: "buffers",
            revision: 2,
            title: "Buffer rail",
            leaves_out: "friction, drag, and the time the buffers take: the collision is over at once.",
            settings: vec![
                quantity("mass 1", "mass of the first", "m_1", "kg", [0.1, 5.0, 0.01, 0.5]),
                quantity("mass 2", "mass of the second", "m_2", "kg", [0.1, 5.0, 0.01, 0.5]),
                quantity("velocity 1", "velocity of the first", "u_1", "m/s", [-3.0, 3.0, 0.01, 0.6]),
                quantity("velocity 2", "velocity of the second", "u_2", "m/s", [-3.0, 3.0, 0.01, 0.0]),
                quantity("bounce", "coefficient of restitution", "e", "1", [0.0, 1.0, 0.01, 1.0]),
                quantity("start 1", "front of the first at", "x_1", "m", [0.4, 3.0, 0.01, 1.0]),
                quantity("start 2", "front of the second at", "x_2", "m", [1.0, 4.6, 0.01, 2.5]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                meter("before 1", "speed gate, first before", "u_1"),
                meter("before 2", "speed gate, second before", "u_2"),
                meter("after 1", "speed gate, first after", "v_1"),
                meter("after 2", "speed gate, second after", "v_2"),
                found("mass 1", "balance, first", "m_1", "kg", [0.001, 0.0]).telling(&["mass 1"]),
                found("mass 2", "balance, second", "m_2", "kg", [0.001, 0.0]).telling(&["mass 2"]),
            ],
            arrows: vec![
                along("velocity", "velocity of the first", "v_1", ArrowKind::Velocity, "v", "x"),
                along("velocity second", "velocity of the second", "v_2", ArrowKind::Velocity, "v second", "x second"),
            ],
            clock: Clock::by_hand(20.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["x", "x second"],
            by_hand: false,
            second: Some(SecondBody {
                labels: ["first carriage", "second carriage"],
                place: ["x second", "y"],
                velocity: ["v second", ""],
                with: None,
            }),
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let get = |name| settings.get(name);
        let (m1, m2, u1, u2) = (get("mass 1"), get("mass 2"), get("velocity 1"), get("velocity 2"));
        let starts = [get("start 1"), get("start 2")];
        let meeting = (starts[1] - starts[0]) / (u1 - u2);
        let meets = starts[1] > starts[0] && meeting > 0.0 && meeting.is_finite();
        let common = (m1 * u1 + m2 * u2) / (m1 + m2);
        let parting = get("bounce") * (u1 - u2) / (m1 + m2);
        let after = [common - m2 * parting, common + m1 * parting];
        let mut ways = [Legs::default(), Legs::default()];
        let mut ends: Vec<f64> = vec![sampling.duration];
        for (k, way) in ways.iter_mut().enumerate() {
            let first = Leg { from: 0.0, x: starts[k], v: [u1, u2][k], a: 0.0 };
            // Carriages that never meet go on to the ends of the rail.
            way.push(first, if meets { meeting.min(sampling.duration) } else { sampling.duration });
            if meets {
                way.push(Leg { from: meeting, x: first.at(meeting).0, v: after[k], a: 0.0 }, sampling.duration);
            }
            // The first carriage's back end and the second one's far end stop the recording.
            let stop = if k == 0 { CARRIAGE } else { RAIL - CARRIAGE };
            ends.extend(way.time_at(stop).filter(|t| *t > 1e-9));
            ends.extend(way.time_at(if k == 0 { RAIL } else { 0.0 }));
        }
        let end = ends.into_iter().fold(f64::INFINITY, f64::min);
        let frames = ((end / sampling.every + 1e-9).floor() as usize + 1).min(sampling.frames()?);
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let ([x1, v1, _], [x2, v2, _]) = (ways[0].at(sampling.time(i)), ways[1].at(sampling.time(i)));
            let (p, q) = (m1 * v1, m2 * v2);
            Both { x: [x1, x2], v: [v1, v2], p: [p, q], e: [0.5 * p * v1, 0.5 * q * v2] }
        });
        run.found = vec![("mass 1", m1), ("mass 2", m2), ("before 1", u1), ("before 2", u2)];
        if meets && meeting < end {
            run.found.extend([("after 1", after[0]), ("after 2", after[1])]);
        } else {
            run.outcome = RunOutcome::failed(Ending::NeverMeet);
        }
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _: &Run) -> Scene {
        // All alike: a mass can be what is to be found, and is not to be seen.
        let carriage = |channel, side: f64, paint| {
            let height = 0.2;
            SceneShape::Box {
                centre: [
                    Coordinate::Moved { channel, times: 1.0, plus: side * CARRIAGE / 2.0 },
                    Coordinate::Fixed(height / 2.0 - 0.1),
                ],
                size: [CARRIAGE, height],
                turn: Coordinate::Fixed(0.0),
                paint,
            }
        };
        Scene {
            bounds: Bounds { left: -0.15, right: RAIL + 0.15, bottom: -0.45, top: 0.75 },
            shapes: vec![
                SceneShape::Line { from: at(0.0, -0.12), to: at(RAIL, -0.12), paint: Paint::Support },
                SceneShape::Scale { zero: [0.0, -0.12], along: [1.0, 0.0], from: 0.0, length: RAIL, division: 0.05 },
                SceneShape::Line { from: at(0.0, -0.12), to: at(0.0, 0.2), paint: Paint::Support },
                SceneShape::Line { from: at(RAIL, -0.12), to: at(RAIL, 0.2), paint: Paint::Support },
                carriage("x", -1.0, Paint::Body),
                carriage("x second", 1.0, Paint::Other),
            ],
            loupe: None,
            strobe: ALL_ALONG,
            handles: vec![
                Handle::along("Start of the first carriage", [settings.get("start 1"), 0.1], "start 1", [1.0, 0.0]),
                Handle::along("Start of the second carriage", [settings.get("start 2"), 0.1], "start 2", [1.0, 0.0]),
            ],
            ..Scene::default()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn run(change: &[(&str, f64)]) -> Run {
        let mut s = BufferRail.card().defaults();
        change.iter().for_each(|(name, value)| s.set(name, *value));
        BufferRail.run(&s, 0, Sampling { every: 0.01, duration: 20.0 }).unwrap()
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(80) })]
        #[test]
        fn momentum_is_kept_and_energy_as_the_bounce_says(m1 in 0.1f64..5.0, m2 in 0.1f64..5.0, u1 in 0.2f64..3.0,
            slower in 0.1f64..2.0, e in 0f64..1.0) {
            let r = run(&[("mass 1", m1), ("mass 2", m2), ("velocity 1", u1), ("velocity 2", u1 - slower), ("bounce", e)]);
            prop_assume!(!r.outcome.failed);
            let p = r.channel("momentum of both").unwrap();
            prop_assert!(p.iter().all(|v| (v - p[0]).abs() < 1e-12 * (m1 + m2) * 3.0 + 1e-12));
            let energy = r.channel("energy of both").unwrap();
            // Lost: ½·μ·(1 − e²)·Δv² with the reduced mass μ.
            let lost = 0.5 * m1 * m2 / (m1 + m2) * (1.0 - e * e) * slower * slower;
            let after = 0.5 * m1 * r.found("after 1").unwrap().powi(2) + 0.5 * m2 * r.found("after 2").unwrap().powi(2);
            prop_assert!((energy[0] - lost - after).abs() < 1e-9 * (1.0 + energy[0]));
            let (x1, x2) = (r.channel("x").unwrap(), r.channel("x second").unwrap());
            prop_assert!(x1.iter().zip(x2).all(|(a, b)| *a <= b + 1e-9), "no carriage goes through the other");
        }
    }

    #[test]
    fn carriages_that_never_meet_are_explained() {
        assert!(run(&[("velocity 1", 0.2), ("velocity 2", 0.3)]).outcome.failed);
        assert!(run(&[("start 1", 3.0), ("start 2", 2.0)]).outcome.failed);
        // Nor does either of them leave the rail, which is 5 m long; the second starts at 2.5 m, 2.2 m before its end.
        let apart = run(&[("velocity 1", 0.2), ("velocity 2", 1.0)]);
        let second = apart.channel("x second").unwrap();
        assert!((second.last().unwrap() - 4.7).abs() < 0.011 && apart.frames() == 221, "{}", apart.frames());
        // Elastic with equal masses: they swap their velocities.
        let r = run(&[]);
        assert!(r.found("after 1").unwrap().abs() < 1e-12 && (r.found("after 2").unwrap() - 0.6).abs() < 1e-12);
    }
}
