//! The whirling table: a mass on a cord goes round at steady speed; a gauge in the axle shows the force of the cord.
//!
//! Uniform circular motion: a = v²/r towards the axle, F = m·v²/r (Halliday, Resnick, Walker, *Fundamentals of Physics*,
//! 10th edition, 4-5 and 6-3). Exact, no integrator. The table carries the weight, and friction is made up for by the drive.

use std::f64::consts::TAU;

use super::contract::card::{arrow, unit};
use super::contract::channel::{Recorder, place, recorder, specs};
use super::contract::ending::Ending;
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::{choice, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape,
    Settings,
};

/// What the cord bears, in N.
const BEARS: f64 = 100.0;

/// The whirling table.
pub(super) struct WhirlingTable;

fn speed(s: &Settings) -> f64 {
    if s.chosen("drive") == "turns" { s.get("turns") * s.get("radius") } else { s.get("speed") }
}

/// The body at a moment, in SI units: its angle, the radius, speed, acceleration and mass.
struct Whirled {
    sin: f64,
    cos: f64,
    r: f64,
    v: f64,
    a: f64,
    m: f64,
}

fn recorders() -> Vec<Recorder<Whirled>> {
    let own = [
        recorder("v_x", "v_x", "m/s", 0.01, |w: &Whirled| -w.v * w.sin).called("velocity along x").seen(),
        recorder("v_y", "v_y", "m/s", 0.01, |w: &Whirled| w.v * w.cos).called("velocity along y").seen(),
        recorder("a_x", "a_x", "m/s^2", 0.01, |w: &Whirled| -w.a * w.cos).called("acceleration along x"),
        recorder("a_y", "a_y", "m/s^2", 0.01, |w: &Whirled| -w.a * w.sin).called("acceleration along y"),
        recorder("force x", "F_x", "N", 0.01, |w| -w.m * w.a * w.cos),
        recorder("force y", "F_y", "N", 0.01, |w| -w.m * w.a * w.sin),
        recorder("force", "F", "N", 0.01, |w| w.m * w.a),
    ];
    place(0.001, |w: &Whirled| w.r * w.cos, |w| w.r * w.sin).into_iter().chain(own).collect()
}

impl Rig for WhirlingTable {
    fn card(&self) -> Card {
        let drives: &[(&str, &str)] = &[("speed", "by speed"), ("turns", "by turns a minute")];
        Card {
            name: "whirl",
            revision: 1,
            title: "Whirling table",
            leaves_out: "the size of the body, the mass and the stretching of the cord, friction on the table, and drag: the drive makes up for both.",
            settings: vec![
                quantity("mass", "mass", "m", "kg", [0.01, 2.0, 0.001, 0.2]),
                quantity("radius", "radius", "r", "m", [0.05, 1.5, 0.001, 0.5]),
                choice("drive", "drive set", drives),
                quantity("speed", "speed", "v", "m/s", [0.1, 15.0, 0.01, 2.0]).with("drive", "speed"),
                quantity("turns", "turns", "f", "rev/min", [1.0, 300.0, 0.1, 60.0]).with("drive", "turns"),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("force", "force gauge in the axle", "F", "N", [0.01, 0.01]),
                found("ten turns", "timer of ten turns", "t_10", "s", [0.01, 0.01]),
                found("mass", "balance", "m", "kg", [0.001, 0.0]).telling(&["mass"]),
            ],
            arrows: vec![
                arrow("velocity", "velocity", "v", ArrowKind::Velocity, ["v_x", "v_y"]),
                arrow("across", "velocity along x", "v_x", ArrowKind::VelocityComponent, ["v_x", ""]),
                arrow("up", "velocity along y", "v_y", ArrowKind::VelocityComponent, ["", "v_y"]),
                arrow("acceleration", "acceleration", "a", ArrowKind::Acceleration, ["a_x", "a_y"]),
                arrow("force", "force of the cord", "F", ArrowKind::Force, ["force x", "force y"]),
                arrow("force across", "force along x", "F_x", ArrowKind::ForceComponent, ["force x", ""]),
                arrow("force up", "force along y", "F_y", ArrowKind::ForceComponent, ["", "force y"]),
            ],
            clock: Clock::by_hand(30.0),
            length: unit("m"),
            division: 0.001,
            tracks: &[],
            by_hand: false,
            second: None,
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let (m, r, v) = (settings.get("mass"), settings.get("radius"), speed(settings));
        let force = m * v * v / r;
        let torn = force > BEARS;
        let frames = if torn { 1.max((1.0 / sampling.every) as usize) } else { sampling.frames()? };
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let (sin, cos) = (if torn { 0.0 } else { v / r * sampling.time(i) }).sin_cos();
            let (v, a) = if torn { (0.0, 0.0) } else { (v, v * v / r) };
            Whirled { sin, cos, r, v, a, m }
        });
        run.found = vec![("mass", m)];
        if torn {
            run.outcome = RunOutcome::failed(Ending::CordTears { bears: BEARS });
        } else {
            run.found.extend([("force", force), ("ten turns", 10.0 * TAU * r / v)]);
        }
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let r = settings.get("radius");
        let size = 0.03 + 0.05 * settings.get("mass").cbrt();
        // Seen from the edge, below: height does not change.
        let edge = -r - 3.4 * size - 0.06;
        let (x, y) = (Coordinate::Channel("x"), Coordinate::Channel("y"));
        let rim = SceneShape::Disc { centre: at(0.0, 0.0), radius: r, turn: None, paint: Paint::Thread };
        Scene {
            bounds: Bounds {
                left: -r - 2.0 * size - 0.3,
                right: r + 2.0 * size + 0.3,
                bottom: edge - 2.4 * size - 0.05,
                top: r + 2.0 * size,
            },
            shapes: vec![
                rim,
                SceneShape::Disc { centre: at(0.0, 0.0), radius: 0.02, turn: None, paint: Paint::Support },
                SceneShape::Line { from: at(0.0, 0.0), to: [x, y], paint: Paint::Thread },
                SceneShape::Disc { centre: [x, y], radius: size / 2.0, turn: None, paint: Paint::Body },
                SceneShape::Line {
                    from: at(-r - size, edge - size),
                    to: at(r + size, edge - size),
                    paint: Paint::Support,
                },
                SceneShape::Line { from: at(0.0, edge - 2.0 * size), to: at(0.0, edge), paint: Paint::Support },
                SceneShape::Line { from: at(0.0, edge), to: [x, Coordinate::Fixed(edge)], paint: Paint::Thread },
                SceneShape::Disc {
                    centre: [x, Coordinate::Fixed(edge)],
                    radius: size / 2.0,
                    turn: None,
                    paint: Paint::Other,
                },
                SceneShape::Word { place: [-r - 2.0 * size - 0.26, r], text: "from above".to_owned() },
                SceneShape::Word {
                    place: [-r - 2.0 * size - 0.26, edge + 1.2 * size],
                    text: "from the edge".to_owned(),
                },
            ],
            loupe: None,
            strobe: [5, 0],
            handles: vec![Handle::along("Radius of the cord", [r, 0.0], "radius", [1.0, 0.0])],
            ..Scene::default()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn force_follows_mass_speed_and_radius() {
        let force = |change: &[(&str, f64)]| {
            let mut s = WhirlingTable.card().defaults();
            change.iter().for_each(|(name, value)| s.set(name, *value));
            let run = WhirlingTable.run(&s, 0, Sampling { every: 0.01, duration: 30.0 }).unwrap();
            let (ax, ay) = (run.channel("a_x").unwrap(), run.channel("a_y").unwrap());
            let (x, y) = (run.channel("x").unwrap(), run.channel("y").unwrap());
            // The acceleration points to the axle and is v²/r, also as the second difference of the path.
            for i in (1..run.frames() - 1).step_by(97) {
                let second = [x, y].map(|c| (c[i + 1] - 2.0 * c[i] + c[i - 1]) / 1e-4);
                assert!((second[0] - ax[i]).hypot(second[1] - ay[i]) < 1e-3 * ax[i].hypot(ay[i]));
            }
            run.found("force").unwrap()
        };
        let first = force(&[]);
        assert!((first - 0.2 * 4.0 / 0.5).abs() < 1e-12);
        assert!((force(&[("speed", 4.0)]) / first - 4.0).abs() < 1e-12);
        assert!((force(&[("radius", 1.0)]) / first - 0.5).abs() < 1e-12);
        let mut s = WhirlingTable.card().defaults();
        s.choose("drive", "turns");
        s.set("turns", TAU);
        let sampling = Sampling { every: 0.01, duration: 30.0 };
        let run = WhirlingTable.run(&s, 0, sampling).unwrap();
        assert!((run.found("ten turns").unwrap() - 10.0).abs() < 1e-12);
        s.set("turns", 5.0 * TAU);
        s.set("radius", 1.5);
        let torn = WhirlingTable.run(&s, 0, sampling).unwrap().outcome.told;
        assert_eq!(torn, Some(Ending::CordTears { bears: BEARS }));
    }
}
