//! The orrery: planets on free paths round one sun.
//!
//! Both planets follow Kepler's laws and do not pull each other. The path is worked out in closed form with universal variables (R. R.
//! Bate, D. D. Mueller, J. E. White, *Fundamentals of Astrodynamics*, 1971, 4.3 to 4.5; Stumpff's functions: H. D. Curtis, *Orbital
//! Mechanics for Engineering Students*, 3.7), which holds for ellipses, parabolas and hyperbolas alike. Solar mass parameter and radius: IAU
//! 2015 resolution B3, nominal values; astronomical unit: IAU 2012 resolution B2.

mod kepler;

use std::f64::consts::TAU;

use super::contract::card::{SecondBody, arrow, even_step, unit};
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::ending::{Ending, coarse};
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::{choice, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Rig, RigError, Run, Sampling, Scene,
    SceneShape, Settings,
};
use crate::formula::GRAVITATION;
use kepler::Orbit;

/// G·M of the sun, in m³/s².
const SUN: f64 = 1.327_124_4e20;
/// Radius of a sun of one solar mass, in m; others go with the cube root of their mass.
const RADIUS: f64 = 6.957e8;
/// Astronomical unit and day, in m and s.
const AU: f64 = 149_597_870_700.0;
const DAY: f64 = 86_400.0;
/// Frames of an orbit, about.
const FRAMES: f64 = 720.0;
/// An orbit takes so long to watch, in s.
const WATCHED: f64 = 12.0;
/// Length of an arrow at the handle of the velocity, in au for a km/s at a distance of 1 au.
const ARROW: f64 = 0.02;

/// The orrery.
pub(super) struct Orrery;

/// The planets at a moment: places and velocities, in SI units.
struct Planets {
    t: f64,
    first: [[f64; 2]; 2],
    second: [[f64; 2]; 2],
    pull: f64,
}

impl Planets {
    fn r(&self) -> f64 {
        self.first[0][0].hypot(self.first[0][1])
    }
    fn speed(&self) -> f64 {
        self.first[1][0].hypot(self.first[1][1])
    }
    fn areal(&self) -> f64 {
        let [[x, y], [u, v]] = self.first;
        0.5 * (x * v - y * u)
    }
}

fn recorders() -> Vec<Recorder<Planets>> {
    vec![
        recorder("t", "t", "d", 0.01, |p: &Planets| p.t).of(Role::Time).called("time"),
        recorder("x", "x", "au", 0.001, |p: &Planets| p.first[0][0]).of(Role::PlaceX).called("position x"),
        recorder("y", "y", "au", 0.001, |p: &Planets| p.first[0][1]).of(Role::PlaceY).called("position y"),
        recorder("r", "r", "au", 0.001, Planets::r),
        recorder("speed", "v", "km/s", 0.01, Planets::speed).seen(),
        recorder("v_x", "v_x", "km/s", 0.01, |p: &Planets| p.first[1][0]).called("velocity along x").seen(),
        recorder("v_y", "v_y", "km/s", 0.01, |p: &Planets| p.first[1][1]).called("velocity along y").seen(),
        recorder("a_x", "a_x", "m/s^2", 1e-6, |p: &Planets| -p.pull * p.first[0][0] / p.r().powi(3))
            .called("acceleration along x"),
        recorder("a_y", "a_y", "m/s^2", 1e-6, |p: &Planets| -p.pull * p.first[0][1] / p.r().powi(3))
            .called("acceleration along y"),
        recorder("areal velocity", "w", "au^2/a", 0.001, Planets::areal),
        recorder("kinetic energy", "e_k", "MJ/kg", 0.1, |p| 0.5 * p.speed().powi(2)),
        recorder("potential energy", "e_p", "MJ/kg", 0.1, |p| -p.pull / p.r()),
        recorder("total energy", "e", "MJ/kg", 0.1, |p| 0.5 * p.speed().powi(2) - p.pull / p.r()),
        recorder("x second", "x_2", "au", 0.001, |p: &Planets| p.second[0][0]).called("position of the second"),
        recorder("y second", "y_2", "au", 0.001, |p| p.second[0][1]),
        recorder("v_x second", "v_x2", "km/s", 0.01, |p| p.second[1][0]),
        recorder("v_y second", "v_y2", "km/s", 0.01, |p| p.second[1][1]),
    ]
}

/// G·M of the set sun, in m³/s².
fn pull(s: &Settings) -> f64 {
    SUN * s.get("sun")
}

/// The orbit of the first or second planet.
fn orbit(s: &Settings, second: bool) -> Orbit {
    let get = |names: [&str; 2]| names.map(|n| s.get(n));
    let (at, v) =
        if second { (get(["x 2", "y 2"]), get(["v_x 2", "v_y 2"])) } else { (get(["x", "y"]), get(["v_x", "v_y"])) };
    Orbit::new(pull(s), at, v)
}

impl Rig for Orrery {
    fn card(&self) -> Card {
        let at = |name, label, symbol, default| quantity(name, label, symbol, "au", [-40.0, 40.0, 0.001, default]);
        let v = |name, label, symbol, default| quantity(name, label, symbol, "km/s", [-400.0, 400.0, 0.01, default]);
        let planets: &[(&str, &str)] = &[("one", "one"), ("two", "two")];
        Card {
            name: "orrery",
            revision: 1,
            title: "Orrery",
            leaves_out: "the planets' pull on each other and on the sun, their size, and the theory of relativity.",
            settings: vec![
                quantity("sun", "mass of the sun, in solar masses", "M", "1", [0.2, 5.0, 0.001, 1.0]),
                at("x", "start, across", "x_0", 1.0),
                at("y", "start, up", "y_0", 0.0),
                v("v_x", "start velocity across", "v_x0", 0.0),
                v("v_y", "start velocity up", "v_y0", 29.78),
                choice("planets", "planets", planets),
                at("x 2", "start of the second, across", "x_2", -1.5).with("planets", "two"),
                at("y 2", "start of the second, up", "y_2", 0.0).with("planets", "two"),
                v("v_x 2", "start velocity of the second across", "v_x2", 0.0).with("planets", "two"),
                v("v_y 2", "start velocity of the second up", "v_y2", -24.3).with("planets", "two"),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("period", "timer of one turn", "T", "d", [0.1, 0.0]).with_figures(5, 2e-4),
                found("nearest", "nearest distance", "r_p", "au", [0.001, 0.0]).with_figures(4, 5e-4),
                found("farthest", "farthest distance", "r_a", "au", [0.001, 0.0]).with_figures(4, 5e-4),
            ],
            arrows: vec![
                arrow("velocity", "velocity", "v", ArrowKind::Velocity, ["v_x", "v_y"]),
                arrow("acceleration", "acceleration", "a", ArrowKind::Acceleration, ["a_x", "a_y"]),
                arrow(
                    "velocity second",
                    "velocity of the second",
                    "v_2",
                    ArrowKind::Velocity,
                    ["v_x second", "v_y second"],
                )
                .footed(["x second", "y second"]),
            ],
            clock: Clock { every: 0.5 * DAY, lasts: 730.0 * DAY, frame: WATCHED / FRAMES, unit: "d" },
            length: unit("au"),
            division: 0.001,
            tracks: &["r", "speed"],
            by_hand: false,
            second: Some(SecondBody {
                labels: ["first planet", "second planet"],
                place: ["x second", "y second"],
                velocity: ["v_x second", "v_y second"],
                with: Some(("planets", "two")),
            }),
        }
    }

    /// Some seven hundred frames an orbit, and a quarter more than one; on an open path those of a circle at the start. Even steps, so that the
    /// clock does not tell the period.
    fn clock(&self, settings: &Settings) -> Clock {
        let orbit = orbit(settings, false);
        let period = orbit.period().unwrap_or_else(|| TAU * (orbit.start().powi(3) / orbit.pull()).sqrt());
        let longest = 6.0 * TAU * (orbit.start().powi(3) / orbit.pull()).sqrt();
        let every = even_step(period.clamp(0.02 * longest, 40.0 * longest) / FRAMES / DAY) * DAY;
        let unit = if every > 20.0 * DAY { "a" } else { "d" };
        let frames = (1.25 * period.clamp(0.02 * longest, 40.0 * longest) / every).ceil();
        Clock { every, lasts: frames * every, frame: WATCHED / FRAMES, unit }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let (first, second) = (orbit(settings, false), orbit(settings, true));
        let radius = RADIUS * settings.get("sun").cbrt();
        let two = settings.chosen("planets") == "two";
        let falls = first.nearest() < radius;
        let inside = first.start() < radius || two && second.start() < radius;
        let mut frames = sampling.frames()?;
        if inside {
            frames = 2.min(frames);
        } else if falls {
            // To the last frame in which it is still outside.
            let down = |i: &usize| first.at(sampling.time(*i))[0].iter().map(|c| c * c).sum::<f64>().sqrt() < radius;
            frames = first
                .fall_frames(sampling, radius)
                .unwrap_or_else(|| (0..frames).find(down).unwrap_or(frames))
                .clamp(2.min(frames), frames);
        }
        let still = |o: &Orbit, t: f64| if inside { o.at(0.0) } else { o.at(t) };
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let t = sampling.time(i);
            let first = still(&first, t);
            let second = if two { still(&second, t) } else { [[0.0; 2]; 2] };
            Planets { t, first, second, pull: pull(settings) }
        });
        // The speed that keeps it on a circle, in km/s.
        let circle = coarse((pull(settings) / first.start()).sqrt() / 1e3, 0.1);
        run.outcome = if inside {
            RunOutcome::failed(Ending::StartsInSun)
        } else if falls {
            RunOutcome::failed(Ending::FallsIntoSun { circle })
        } else if first.period().is_none() {
            RunOutcome::told(Ending::Escapes { circle })
        } else {
            RunOutcome::default()
        };
        if !inside && !falls {
            run.found.push(("nearest", first.nearest()));
            if let (Some(period), Some(farthest)) = (first.period(), first.farthest()) {
                run.found.extend([("period", period), ("farthest", farthest)]);
            }
        }
        Ok(run)
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        vec![("M_sun", pull(settings) / GRAVITATION)]
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let two = settings.chosen("planets") == "two";
        let first = orbit(settings, false);
        let far = (first.start() / AU).max(if two { orbit(settings, true).start() / AU } else { 0.0 });
        let size = 1.25 * far;
        let planet = |channels: [&'static str; 2], paint| SceneShape::Disc {
            centre: channels.map(Coordinate::Channel),
            radius: 0.02 * far,
            turn: None,
            paint,
        };
        let mut shapes = vec![
            // The sun's own size could not be seen.
            SceneShape::Disc { centre: at(0.0, 0.0), radius: 0.03 * far, turn: None, paint: Paint::Support },
            SceneShape::Line { from: at(-size, 0.0), to: at(size, 0.0), paint: Paint::Guide },
            SceneShape::Line { from: at(0.0, -size), to: at(0.0, size), paint: Paint::Guide },
        ];
        if two {
            shapes.push(planet(["x second", "y second"], Paint::Other));
        }
        shapes.push(planet(["x", "y"], Paint::Body));
        let mut handles = Vec::new();
        for (name, names, second) in
            [("Planet", ["x", "y", "v_x", "v_y"], false), ("Second planet", ["x 2", "y 2", "v_x 2", "v_y 2"], true)]
        {
            if second && !two {
                continue;
            }
            let place = [settings.get(names[0]) / AU, settings.get(names[1]) / AU];
            let v = [settings.get(names[2]) / 1e3, settings.get(names[3]) / 1e3];
            let by = [[1.0, 0.0], [0.0, 1.0]].map(|by| Follows::Along { by });
            handles.push(Handle::of(name, place, names[0], by[0].clone()).and(names[1], by[1].clone()));
            let scale = ARROW * far;
            let tip = [place[0] + scale * v[0], place[1] + scale * v[1]];
            let by = [[1.0 / scale, 0.0], [0.0, 1.0 / scale]].map(|by| Follows::Along { by });
            let arrow = Handle::of(&format!("Velocity, {}", name.to_lowercase()), tip, names[2], by[0].clone());
            handles.push(arrow.and(names[3], by[1].clone()).led_from(place));
        }
        Scene {
            handles,
            focus: Some([0.0; 2]),
            ..Scene::of(Bounds { left: -size, right: size, bottom: -size, top: size }, shapes, [18, 720])
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn run(change: &[(&str, f64)]) -> (Settings, Run) {
        let mut s = Orrery.card().defaults();
        change.iter().for_each(|(name, value)| s.set(name, *value));
        let run = Orrery.run(&s, 0, Orrery.clock(&s).sampling()).unwrap();
        (s, run)
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(80) })]
        /// T² = a³/M in years, au and solar masses; equal areas in equal times; ellipse by its energy and its turn; energy is kept.
        #[test]
        fn planets_keep_keplers_laws(sun in 0.2f64..5.0, r in 0.3f64..30.0, share in 0.4f64..1.3, slope in -0.5f64..0.5) {
            let circle = (SUN * sun / (r * AU)).sqrt();
            let v = share * circle;
            let (s, made) = run(&[("sun", sun), ("x", r * AU), ("v_x", v * slope.sin()), ("v_y", v * slope.cos())]);
            prop_assert!(!made.outcome.failed, "{:?}", made.outcome);
            // a from the energy: v²/2 − μ/r = −μ/2a.
            let a = 1.0 / (2.0 / r - v * v * AU / (SUN * sun));
            let e = (1.0 - (r * v * slope.cos()).powi(2) * AU / (SUN * sun * a)).max(0.0).sqrt();
            let years = made.found("period").unwrap() / (365.256_898_3 * DAY);
            prop_assert!((years.powi(2) * sun / a.powi(3) - 1.0).abs() < 1e-7, "{}", years.powi(2) * sun / a.powi(3));
            prop_assert!((made.found("nearest").unwrap() / AU / (a * (1.0 - e)) - 1.0).abs() < 1e-9 * (1.0 + 1.0 / (1.0 - e)));
            prop_assert!((made.found("farthest").unwrap() / AU / (a * (1.0 + e)) - 1.0).abs() < 1e-9);
            for (name, within) in [("areal velocity", 1e-9), ("total energy", 1e-9)] {
                let values = made.channel(name).unwrap();
                let size = if name == "total energy" { made.channel("kinetic energy").unwrap().iter().copied().fold(0.0, f64::max) } else { values[0].abs() };
                prop_assert!(values.iter().all(|w| (w - values[0]).abs() <= within * size), "{name}");
            }
            // After a turn it is back where it was.
            let orbit = orbit(&s, false);
            let [back, _] = orbit.at(made.found("period").unwrap());
            prop_assert!((back[0] / AU - r).abs() < 1e-8 * r && (back[1] / AU).abs() < 1e-8 * r);
            prop_assert!(serde_json::to_string(&made.frames()).is_ok() && made.frames() < 2300, "{}", made.frames());
        }
    }

    /// Newton's method once went to and fro at one of its moments.
    #[test]
    fn no_frame_of_an_ellipse_strays() {
        let (sun, r, share, slope) =
            (3.236_134_954_966_509_3, 1.683_857_983_834_759_6, 1.276_400_841_422_395_5, 0.235_847_765_693_383_5);
        let v = share * (SUN * sun / (r * AU)).sqrt();
        let (_, made) = run(&[("sun", sun), ("x", r * AU), ("v_x", v * f64::sin(slope)), ("v_y", v * f64::cos(slope))]);
        let areal = made.channel("areal velocity").unwrap();
        let off = areal.iter().map(|w| (w / areal[0] - 1.0).abs()).fold(0.0, f64::max);
        assert!(off < 1e-12, "{off}");
    }

    #[test]
    fn escapes_and_falls_are_explained_with_the_speeds_that_matter() {
        let (_, away) = run(&[("v_y", 45e3)]);
        assert!(
            matches!(away.outcome, RunOutcome { told: Some(Ending::Escapes { circle }), failed: false } if (circle - 29.8).abs() < 0.05)
        );
        let r = away.channel("r").unwrap();
        assert!(r.windows(2).all(|w| w[1] > w[0]) && away.found("period").is_none());
        for change in [[("v_x", 0.0), ("v_y", 0.0)], [("v_x", -20e3), ("v_y", 1e3)], [("v_x", 10e3), ("v_y", 0.0)]] {
            let (_, down) = run(&change);
            assert!(matches!(down.outcome, RunOutcome { told: Some(Ending::FallsIntoSun { .. }), failed: true }));
            assert!(down.channels.iter().all(|c| c.values.iter().all(|v| v.is_finite())) && down.frames() > 10);
        }
        let (_, inside) = run(&[("x", 0.001 * AU), ("y", 0.0)]);
        assert_eq!(inside.outcome.told, Some(Ending::StartsInSun));
    }
}
