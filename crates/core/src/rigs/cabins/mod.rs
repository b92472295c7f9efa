//! Passing cabins: two cabins of a ropeway go past a mast, each at a steady speed.
//!
//! x = x₀ + v·t, nothing else. A cabin starts with its nose a fixed way before the mast, so that no place at the start tells a velocity.

use super::contract::card::{SecondBody, arrow, unit};
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::ending::{Ending, coarse};
use super::contract::run::RunOutcome;
use super::contract::scene::{ALL_ALONG, at};
use super::contract::setting::quantity;
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Paint, Rider, Rig, RigError, Run, Sampling, Scene, SceneShape, Settings,
};

/// Way from the noses to the mast at the start, in m.
const BEFORE: f64 = 8.0;
/// What is recorded once both tails are past the mast, in s.
const AFTER: f64 = 1.5;
/// Height of the ropes over and under the middle, in m.
const ROPE: f64 = 1.6;
/// Height of a cabin, in m.
const HIGH: f64 = 1.5;

/// The two cabins.
pub(super) struct Cabins;

/// Both cabins at a moment: where their noses are and how fast they go, in SI units.
struct Passing {
    x: [f64; 2],
    v: [f64; 2],
}

fn recorders() -> Vec<Recorder<Passing>> {
    vec![
        recorder("x", "x_1", "m", 0.001, |p: &Passing| p.x[0]).of(Role::PlaceX).called("position x"),
        recorder("y", "y", "m", 0.001, |_: &Passing| 0.0).of(Role::PlaceY).called("position y"),
        recorder("x second", "x_2", "m", 0.001, |p: &Passing| p.x[1]).called("position of the second"),
        recorder("v", "v_1", "m/s", 0.001, |p: &Passing| p.v[0]).called("velocity").seen(),
        recorder("v second", "v_2", "m/s", 0.001, |p: &Passing| p.v[1]).called("velocity of the second"),
    ]
}

/// Length of a cabin in m and its velocity in m/s.
fn cabin(settings: &Settings, number: usize) -> (f64, f64) {
    let names = [("length 1", "velocity 1"), ("length 2", "velocity 2")][number];
    (settings.get(names.0), settings.get(names.1))
}

impl Rig for Cabins {
    fn card(&self) -> Card {
        let along = |name, label, letter, channel, foot, up| {
            arrow(name, label, letter, ArrowKind::Velocity, [channel, ""]).footed([foot, "y"]).beside([0.0, up])
        };
        Card {
            name: "cabins",
            revision: 1,
            title: "Passing cabins",
            leaves_out: "swinging, wind, and the sag of the ropes: the cabins go straight and at a constant speed.",
            settings: vec![
                quantity("length 1", "length of the first", "L_1", "m", [0.5, 12.0, 0.01, 4.2]),
                quantity("length 2", "length of the second", "L_2", "m", [0.5, 12.0, 0.01, 3.6]),
                quantity("velocity 1", "velocity of the first", "v_1", "m/s", [-8.0, 8.0, 0.01, 2.5]),
                quantity("velocity 2", "velocity of the second", "v_2", "m/s", [-8.0, 8.0, 0.01, -3.0]),
            ],
            channels: specs(&recorders()),
            meters: Vec::new(),
            arrows: vec![
                along("velocity", "velocity of the first", "v_1", "v", "x", ROPE + 0.4),
                along("velocity second", "velocity of the second", "v_2", "v second", "x second", 0.4 - ROPE),
            ],
            clock: Clock::by_hand(120.0),
            length: unit("m"),
            division: 0.01,
            tracks: &[],
            by_hand: false,
            second: Some(SecondBody {
                labels: ["first cabin", "second cabin"],
                place: ["x second", "y"],
                velocity: ["v second", ""],
                with: None,
            }),
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let both = [cabin(settings, 0), cabin(settings, 1)];
        let passes = both.iter().map(|(length, v)| (BEFORE + length) / v.abs()).fold(0.0, f64::max);
        let end = (passes + AFTER).min(sampling.duration);
        let frames = ((end / sampling.every + 1e-9).floor() as usize + 1).min(sampling.frames()?);
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let t = sampling.time(i);
            let nose = |(_, v): (f64, f64)| v * t - BEFORE * v.signum();
            Passing { x: both.map(nose), v: both.map(|(_, v)| v) }
        });
        if passes > sampling.duration {
            run.outcome = RunOutcome::failed(Ending::NotPastMast { seconds: coarse(sampling.duration, 1.0) });
        }
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let mut shapes = vec![
            SceneShape::Line { from: at(0.0, -ROPE - 2.6), to: at(0.0, ROPE + 1.2), paint: Paint::Support },
            SceneShape::Line { from: at(-0.7, ROPE + 0.4), to: at(0.7, ROPE + 0.4), paint: Paint::Support },
            SceneShape::Line { from: at(-0.7, 0.4 - ROPE), to: at(0.7, 0.4 - ROPE), paint: Paint::Support },
        ];
        for (number, (channel, rope, paint)) in
            [("x", ROPE, Paint::Body), ("x second", -ROPE, Paint::Other)].into_iter().enumerate()
        {
            let (length, v) = cabin(settings, number);
            // The rope, the hanger and the cabin, whose nose is where the channel says.
            let behind = |by: f64| Coordinate::Moved { channel, times: 1.0, plus: -by * v.signum() };
            let rope_at = rope + 0.4;
            shapes.push(SceneShape::Line { from: at(-60.0, rope_at), to: at(60.0, rope_at), paint: Paint::Guide });
            shapes.push(SceneShape::Line {
                from: [behind(length / 2.0), Coordinate::Fixed(rope_at)],
                to: [behind(length / 2.0), Coordinate::Fixed(rope - 0.1)],
                paint: Paint::Thread,
            });
            shapes.push(SceneShape::Box {
                centre: [behind(length / 2.0), Coordinate::Fixed(rope - 0.1 - HIGH / 2.0)],
                size: [length, HIGH],
                turn: Coordinate::Fixed(0.0),
                paint,
            });
        }
        let rider = |label, channel| Rider { label, along: [Coordinate::Channel(channel), Coordinate::Fixed(0.0)] };
        Scene {
            riders: vec![rider("the first cabin", "x"), rider("the second cabin", "x second")],
            ..Scene::of(Bounds { left: -13.0, right: 13.0, bottom: -ROPE - 2.8, top: ROPE + 1.4 }, shapes, ALL_ALONG)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(60) })]
        /// A cabin takes L/|v| from nose to tail at the mast, and a rider sees the mast come with the opposite velocity.
        #[test]
        fn a_cabin_takes_its_length_over_its_speed(l1 in 1f64..8.0, l2 in 1f64..8.0, v1 in 0.5f64..8.0, v2 in -8f64..-0.5) {
            let mut s = Cabins.card().defaults();
            for (name, value) in [("length 1", l1), ("length 2", l2), ("velocity 1", v1), ("velocity 2", v2)] {
                s.set(name, value);
            }
            let run = Cabins.run(&s, 0, Sampling { every: 0.001, duration: 120.0 }).unwrap();
            prop_assert!(!run.outcome.failed);
            for (channel, length, v) in [("x", l1, v1), ("x second", l2, v2)] {
                let nose = run.channel(channel).unwrap();
                let passed = |by: f64| nose.iter().position(|x| v.signum() * x >= by).unwrap() as f64 * 0.001;
                prop_assert!((passed(length) - passed(0.0) - length / v.abs()).abs() <= 0.002);
            }
        }
    }

    #[test]
    fn a_cabin_that_stands_is_explained() {
        let mut s = Cabins.card().defaults();
        for v in [0.0, 0.05] {
            s.set("velocity 2", v);
            let run = Cabins.run(&s, 0, Sampling { every: 0.01, duration: 120.0 }).unwrap();
            assert!(run.outcome.failed && run.frames() > 100, "{:?}", run.outcome);
        }
    }
}
