//! The shuttle: a light carriage on a straight level rail that does what it is told, stretch by stretch.
//!
//! In each stretch the acceleration is constant: x = x₀ + v₀·t + ½·a·t², v = v₀ + a·t (uniformly accelerated motion; any
//! textbook, e.g. D. Halliday, R. Resnick, J. Walker, *Fundamentals of Physics*, 10th edition, 2-4). A stretch may begin with a
//! velocity of its own: the drive changes it at once. Exact, no integrator.

mod hand;

pub use hand::{HandMotion, LONGEST_PULL, PullError};

use super::contract::card::{arrow, unit};
use super::contract::channel::{Recorder, place, recorder, specs};
use super::contract::ending::Ending;
use super::contract::legs::{Leg, Legs};
use super::contract::meter::now;
use super::contract::run::RunOutcome;
use super::contract::scene::{ALL_ALONG, at};
use super::contract::setting::{optional, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape,
    SettingKind, Settings,
};

/// The rail reaches from here to there, in m.
pub(super) const RAIL: [f64; 2] = [-10.0, 10.0];

const UNTIL_STOPPED: &str = "until stopped";
const AS_BEFORE: &str = "as before";
const EVEN: &str = "none";

/// Names of the settings of a stretch: duration, velocity, acceleration.
const STRETCHES: [[&str; 3]; 6] = [
    ["duration 1", "velocity 1", "acceleration 1"],
    ["duration 2", "velocity 2", "acceleration 2"],
    ["duration 3", "velocity 3", "acceleration 3"],
    ["duration 4", "velocity 4", "acceleration 4"],
    ["duration 5", "velocity 5", "acceleration 5"],
    ["duration 6", "velocity 6", "acceleration 6"],
];
const SYMBOLS: [[&str; 3]; 6] = [
    ["t_1", "v_1", "a_1"],
    ["t_2", "v_2", "a_2"],
    ["t_3", "v_3", "a_3"],
    ["t_4", "v_4", "a_4"],
    ["t_5", "v_5", "a_5"],
    ["t_6", "v_6", "a_6"],
];

/// The shuttle.
pub(super) struct Shuttle;

/// What it records, from position, velocity and acceleration.
pub(super) fn recorders() -> Vec<Recorder<[f64; 3]>> {
    let own = [
        recorder("v", "v", "m/s", 0.01, |[_, v, _]: &[f64; 3]| *v).called("velocity").seen(),
        recorder("a", "a", "m/s^2", 0.01, |[_, _, a]: &[f64; 3]| *a).called("acceleration"),
    ];
    place(0.01, |[x, _, _]: &[f64; 3]| *x, |_| 0.0).into_iter().chain(own).collect()
}

impl Rig for Shuttle {
    fn card(&self) -> Card {
        let mut settings = vec![quantity("position", "start position", "x_0", "m", [-9.5, 9.5, 0.01, 0.0])];
        for ((names, symbols), line) in STRETCHES.iter().zip(SYMBOLS).zip(1..) {
            let blank = if line == 1 { "at rest" } else { AS_BEFORE };
            let mut three = [
                optional(names[0], names[0], symbols[0], "s", [0.1, 60.0, 0.01], UNTIL_STOPPED),
                optional(names[1], names[1], symbols[1], "m/s", [-5.0, 5.0, 0.01], blank),
                optional(names[2], names[2], symbols[2], "m/s^2", [-5.0, 5.0, 0.01], EVEN),
            ];
            if let (1, SettingKind::Quantity { default, .. }) = (line, &mut three[1].kind) {
                *default = Some(0.5);
            }
            settings.extend(three.into_iter().map(|s| super::SettingSpec { line: Some(line), ..s }));
        }
        let along_rail =
            |name, label, letter, kind, channel| arrow(name, label, letter, kind, [channel, ""]).beside([0.0, 0.55]);
        Card {
            name: "shuttle",
            revision: 1,
            title: "Shuttle on a rail",
            leaves_out: "everything that would slow it down or hold it back: the drive does what is set, and changes velocities at once.",
            settings,
            channels: specs(&recorders()),
            meters: vec![now("speed", "speedometer", "v", "m/s", [0.01, 0.0], "v").telling(&[
                "velocity 1",
                "velocity 2",
                "velocity 3",
                "velocity 4",
                "velocity 5",
                "velocity 6",
            ])],
            arrows: vec![
                along_rail("velocity", "velocity", "v", ArrowKind::Velocity, "v"),
                along_rail("acceleration", "acceleration", "a", ArrowKind::Acceleration, "a"),
            ],
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.01,
            tracks: &["x", "v"],
            by_hand: true,
            second: None,
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let longest = sampling.duration;
        let (mut legs, mut outcome) = (Legs::default(), RunOutcome::default());
        let (mut t, mut x, mut v) = (0.0, settings.get("position"), 0.0);
        for names in STRETCHES {
            let [duration, velocity, acceleration] = names.map(|n| settings.given(n));
            if duration.is_none() && velocity.is_none() && acceleration.is_none() {
                break;
            }
            let leg = Leg { from: t, x, v: velocity.unwrap_or(v), a: acceleration.unwrap_or(0.0) };
            let end = duration.map_or(longest, |d| (t + d).min(longest));
            let at_stop = RAIL.into_iter().filter_map(|stop| leg.time_to(stop)).reduce(f64::min).filter(|s| *s < end);
            let until = at_stop.unwrap_or(end);
            legs.push(leg, until);
            (x, v) = leg.at(until);
            t = until;
            if at_stop.is_some() {
                outcome = RunOutcome::told(Ending::EndOfRail { right: x > 0.0 });
                break;
            }
            if duration.is_none() || t >= longest {
                break;
            }
        }
        if legs == Legs::default() {
            legs.push(Leg { from: 0.0, x, v: 0.0, a: 0.0 }, 2.0_f64.min(longest));
            outcome = RunOutcome::failed(Ending::NoVelocity);
        }
        let frames = ((legs.end / sampling.every + 1e-9).floor() as usize + 1).min(sampling.frames()?);
        let mut run = Run::record(&recorders(), sampling, frames, |i| legs.at(sampling.time(i)));
        run.outcome = outcome;
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let start = settings.get("position");
        let [left, right] = RAIL;
        let mut shapes = vec![
            SceneShape::Line { from: at(left, -0.28), to: at(right, -0.28), paint: Paint::Thread },
            SceneShape::Scale { zero: [0.0, -0.28], along: [1.0, 0.0], from: left, length: right, division: 0.1 },
        ];
        for end in RAIL {
            shapes.push(SceneShape::Line { from: at(end, -0.4), to: at(end, 0.4), paint: Paint::Support });
        }
        shapes.push(SceneShape::Box {
            centre: [Coordinate::Channel("x"), Coordinate::Fixed(0.0)],
            size: [0.7, 0.4],
            turn: Coordinate::Fixed(0.0),
            paint: Paint::Body,
        });
        Scene {
            bounds: Bounds {
                left: (start - 3.0).max(left - 0.5),
                right: (start + 6.0).min(right + 0.5),
                bottom: -0.9,
                top: 1.1,
            },
            shapes,
            loupe: None,
            strobe: ALL_ALONG,
            handles: vec![Handle::along("Start of the shuttle", [start, 0.2], "position", [1.0, 0.0])],
            ..Scene::default()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn stretches_follow_each_other_and_the_motion_ends_with_the_last() {
        let mut s = Settings::default();
        s.set("position", 1.0);
        for (name, value) in [
            ("duration 1", 4.0),
            ("velocity 1", 0.5),
            ("duration 2", 2.0),
            ("velocity 2", 0.0),
            ("duration 3", 1.0),
            ("velocity 3", -1.5),
            ("duration 4", 2.0),
            ("acceleration 4", 1.5),
        ] {
            s.set(name, value);
        }
        let run = Shuttle.run(&s, 0, Sampling { every: 0.01, duration: 60.0 }).unwrap();
        let (x, v) = (run.channel("x").unwrap(), run.channel("v").unwrap());
        assert_eq!(run.frames(), 901);
        for (frame, at, speed) in [(0, 1.0, 0.5), (400, 3.0, 0.0), (600, 3.0, -1.5), (700, 1.5, -1.5), (900, 1.5, 1.5)]
        {
            assert!(
                (x[frame] - at).abs() < 1e-9 && (v[frame] - speed).abs() < 1e-9,
                "{frame}: {} {}",
                x[frame],
                v[frame]
            );
        }
        s.set("velocity 1", 5.0);
        let run = Shuttle.run(&s, 0, Sampling { every: 0.01, duration: 60.0 }).unwrap();
        assert_eq!(run.frames(), 181, "nine metres to the end of the rail at 5 m/s");
        assert_eq!(run.outcome, RunOutcome::told(Ending::EndOfRail { right: true }));
    }
}
