//! The bell wire: a wire shaken at one end, over a pulley a load that pulls it straight.
//!
//! The driven, damped string in closed form: μ·ÿ + μ·γ·ẏ = F·y″ with y = A·cos ωt at the driver and y = 0 at the pulley gives
//! y = Re(A·sin k(L − x)/sin kL · e^{iωt}) with k² = (ω² − iγω)·μ/F (P. M. Morse, K. U. Ingard, *Theoretical Acoustics* (1968), 4.4; from
//! memory). What has died away since the driver began is left out.

use nalgebra::Complex;
use std::f64::consts::TAU;

use super::contract::card::unit;
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::meter::found;
use super::contract::scene::at;
use super::contract::setting::{choice, quantity};
use super::{
    Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape, Settings,
    Sway,
};
use crate::formula::STANDARD_GRAVITY;

/// Amplitude of the driver, in m.
const DRIVER: f64 = 3e-4;
/// Damping rate of the wire in the air, in 1/s.
const DAMPING: f64 = 4.0;
/// Frames of a period, and periods that are recorded.
const FRAMES: f64 = 24.0;
const PERIODS: f64 = 4.0;
/// How many times larger than it is the wave is drawn.
const DRAWN: f64 = 20.0;
/// Places of the wire that are drawn.
const PLACES: u32 = 200;
/// Radius of the pulley, in m.
const PULLEY: f64 = 0.04;

/// Wires: name, name for people, mass per length in kg/m.
const WIRES: [(&str, &str, f64); 3] =
    [("steel", "steel wire", 1.54e-3), ("bronze", "bronze wire", 4.42e-3), ("cord", "twisted cord", 9.80e-3)];
const UNKNOWN: &str = "unknown";

/// The bell wire.
pub(super) struct Wire;

/// The wire at a moment.
struct Moment {
    /// Place of the amplitude meter, and displacement there, in m.
    probe: f64,
    displacement: f64,
    /// cos ωt and −sin ωt.
    phase: [f64; 2],
}

fn recorders() -> Vec<Recorder<Moment>> {
    vec![
        recorder("x", "x", "m", 0.001, |m: &Moment| m.probe).of(Role::PlaceX).called("position of the meter"),
        recorder("displacement", "y", "m", 1e-5, |m: &Moment| m.displacement).of(Role::PlaceY).called("displacement"),
        recorder("in phase", "p", "1", 0.001, |m: &Moment| m.phase[0]),
        recorder("quadrature", "q", "1", 0.001, |m: &Moment| m.phase[1]),
    ]
}

/// Mass of what hangs on the wire, in kg.
fn hanging(s: &Settings) -> f64 {
    if s.chosen("weight") == UNKNOWN { s.get("unknown weight") } else { s.get("load") }
}

/// The wire as it is stretched and shaken.
struct Stretched {
    length: f64,
    /// Tension in N, mass per length in kg/m.
    tension: f64,
    density: f64,
    omega: f64,
    /// Complex wave number, in 1/m.
    k: Complex<f64>,
}

impl Stretched {
    fn new(s: &Settings) -> Self {
        let load = hanging(s);
        let wire = s.chosen("wire");
        let density = WIRES.iter().find(|w| w.0 == wire).map_or_else(|| s.get("mass per length"), |w| w.2);
        let (tension, omega) = (load * STANDARD_GRAVITY, TAU * s.get("frequency"));
        let k = (Complex::new(omega * omega, -DAMPING * omega) * density / tension).sqrt();
        Self { length: s.get("length"), tension, density, omega, k }
    }

    /// Speed of waves without damping, in m/s.
    fn speed(&self) -> f64 {
        (self.tension / self.density).sqrt()
    }

    /// Complex amplitude at a place, in m.
    fn amplitude(&self, x: f64) -> Complex<f64> {
        DRIVER * (self.k * (self.length - x)).sin() / (self.k * self.length).sin()
    }
}

impl Rig for Wire {
    fn card(&self) -> Card {
        let wires: &[(&str, &str)] =
            &[("steel", "steel wire"), ("bronze", "bronze wire"), ("cord", "twisted cord"), (UNKNOWN, "unknown wire")];
        let weights: &[(&str, &str)] = &[("known", "the load that is set"), (UNKNOWN, "an unknown weight")];
        Card {
            name: "wire",
            revision: 1,
            title: "Bell wire",
            leaves_out: "that a wire is a little stiff and gets longer as it swings, and the wave that dies away after the driver has begun.",
            settings: vec![
                choice("wire", "wire", wires),
                quantity("mass per length", "mass per length", "μ", "g/m", [0.2, 50.0, 0.01, 5.0])
                    .with("wire", UNKNOWN),
                choice("weight", "weight on the wire", weights),
                quantity("load", "load", "m", "g", [50.0, 2000.0, 1.0, 500.0]).with("weight", "known"),
                quantity("unknown weight", "unknown weight", "m_u", "g", [50.0, 2000.0, 1.0, 700.0])
                    .with("weight", UNKNOWN),
                quantity("length", "length of the wire", "L", "m", [0.5, 1.5, 0.001, 1.2]),
                quantity("frequency", "frequency", "f", "Hz", [1.0, 200.0, 0.1, 20.0]),
                quantity("probe", "place of the amplitude meter", "x_a", "m", [0.0, 1.5, 0.005, 0.3]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("amplitude", "amplitude meter", "A", "mm", [0.01, 0.01]),
                found("tension", "force gauge", "F", "N", [0.01, 0.01]).telling(&["load", "unknown weight"]),
                found("mass", "balance", "m", "g", [1.0, 0.4]).telling(&["load", "unknown weight"]),
            ],
            arrows: Vec::new(),
            clock: Clock::by_hand(1.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["displacement"],
            by_hand: false,
            second: None,
        }
    }

    /// Frames follow the driver, so that the wave is seen in slow motion: three periods in two seconds. Who tunes waits for each of
    /// them.
    fn clock(&self, settings: &Settings) -> Clock {
        let every = 1.0 / (FRAMES * settings.get("frequency"));
        Clock { every, lasts: PERIODS * FRAMES * every, frame: 2.0 / (3.0 * FRAMES), unit: "ms" }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let wire = Stretched::new(settings);
        let probe = settings.get("probe").min(wire.length);
        let there = wire.amplitude(probe);
        let mut run = Run::record(&recorders(), sampling, sampling.frames()?, |i| {
            let (sin, cos) = (wire.omega * sampling.time(i)).sin_cos();
            Moment { probe, displacement: there.re * cos - there.im * sin, phase: [cos, -sin] }
        });
        run.found = vec![("amplitude", there.norm()), ("tension", wire.tension), ("mass", hanging(settings))];
        Ok(run)
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        let wire = Stretched::new(settings);
        vec![("c", wire.speed()), ("μ_w", wire.density)]
    }

    fn scene(&self, settings: &Settings, run: &Run) -> Scene {
        let wire = Stretched::new(settings);
        let length = wire.length;
        let xs: Vec<f64> = (0..=PLACES).map(|i| length * f64::from(i) / f64::from(PLACES)).collect();
        let shape: Vec<Complex<f64>> = xs.iter().map(|x| DRAWN * wire.amplitude(*x)).collect();
        let sway = |channel, part: fn(&Complex<f64>) -> f64| Sway {
            channel,
            along: [0.0, 1.0],
            weights: shape.iter().map(part).collect(),
        };
        let most = shape.iter().map(|a| a.norm()).fold(0.05, f64::max);
        let still = |points, paint| SceneShape::Curve { points, sways: Vec::new(), paint };
        let side = |sign: f64| xs.iter().zip(&shape).map(|(x, a)| [*x, sign * a.norm()]).collect();
        let probe = run.channel("x").map_or(0.0, |x| x[0]);
        let below = -most - 0.1;
        // Its size says nothing about what it weighs where nobody is to know.
        let size = if settings.chosen("weight") == UNKNOWN { 0.09 } else { 0.1 * settings.get("load").cbrt() };
        let hangs = -PULLEY - 0.12;
        let shapes = vec![
            SceneShape::Line { from: at(-0.14, below), to: at(length + 0.02, below), paint: Paint::Support },
            SceneShape::Line { from: at(length, below), to: at(length, -PULLEY), paint: Paint::Support },
            SceneShape::Line { from: at(-0.06, below), to: at(-0.06, 0.0), paint: Paint::Support },
            SceneShape::Box {
                centre: at(-0.06, 0.0),
                size: [0.09, 0.06],
                turn: Coordinate::Fixed(0.0),
                paint: Paint::Other,
            },
            still(side(1.0), Paint::Guide),
            still(side(-1.0), Paint::Guide),
            SceneShape::Disc { centre: at(length, -PULLEY), radius: PULLEY, turn: None, paint: Paint::Support },
            SceneShape::Line {
                from: at(length + PULLEY, -PULLEY),
                to: at(length + PULLEY, hangs),
                paint: Paint::Thread,
            },
            SceneShape::Box {
                centre: at(length + PULLEY, hangs - 0.5 * size),
                size: [size, size],
                turn: Coordinate::Fixed(0.0),
                paint: Paint::Body,
            },
            SceneShape::Curve {
                points: xs.iter().map(|x| [*x, 0.0]).collect(),
                sways: vec![sway("in phase", |a| a.re), sway("quadrature", |a| a.im)],
                paint: Paint::Thread,
            },
            SceneShape::Disc {
                centre: [
                    Coordinate::Channel("x"),
                    Coordinate::Moved { channel: "displacement", times: DRAWN, plus: 0.0 },
                ],
                radius: 0.008,
                turn: None,
                paint: Paint::Aid,
            },
            SceneShape::Line { from: at(probe, below), to: at(probe, below + 0.05), paint: Paint::Aid },
            SceneShape::Word { place: [0.0, most + 0.05], text: format!("displacement drawn {DRAWN} times as large") },
        ];
        Scene {
            handles: vec![
                Handle::along("Amplitude meter", [probe, below], "probe", [1.0, 0.0]),
                Handle::of("Pulley", [length, -PULLEY], "length", Follows::Along { by: [1.0, 0.0] }),
            ],
            held_still: true,
            loupe: Some(at(0.5 * length, 0.0)),
            ..Scene::of(
                Bounds { left: -0.2, right: length + 0.2, bottom: below.min(hangs - size) - 0.08, top: most + 0.12 },
                shapes,
                [1, 0],
            )
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn run(change: &[(&str, f64)]) -> (Settings, Run) {
        let mut s = Wire.card().defaults();
        s.choose("wire", UNKNOWN);
        change.iter().for_each(|(name, value)| s.set(name, *value));
        let run = Wire.run(&s, 0, Wire.clock(&s).sampling()).unwrap();
        (s, run)
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(100) })]
        /// Tuned in tenths of a hertz, the wire swings widest within 0.1 Hz of n/(2L)·√(F/μ), and there it stands still every half wave from the
        /// pulley.
        #[test]
        fn a_wire_answers_at_whole_numbers_of_loops(load in 0.2f64..2.0, density in 1e-3f64..10e-3, length in 0.5f64..1.5, loops in 1u32..6) {
            let set = |f: f64, probe: f64| {
                run(&[("load", load), ("mass per length", density), ("length", length), ("frequency", f), ("probe", probe)])
            };
            let expected = f64::from(loops) / (2.0 * length) * (load * STANDARD_GRAVITY / density).sqrt();
            prop_assume!(expected > 5.0 && expected < 190.0);
            // A quarter of a wave from the pulley it swings widest.
            let belly = length * (1.0 - 0.5 / f64::from(loops));
            let answer = |tenths: i32| set((expected * 10.0).round() / 10.0 + f64::from(tenths) / 10.0, belly).1.found("amplitude").unwrap();
            let best = (-20..=20).max_by(|a, b| answer(*a).total_cmp(&answer(*b))).unwrap();
            prop_assert!(best.abs() <= 1, "{best} tenths off {expected}");
            prop_assert!(answer(best) > 2.0 * DRIVER);
            for node in 1..loops {
                let there = set(expected, length * (1.0 - f64::from(node) / f64::from(loops))).1.found("amplitude").unwrap();
                prop_assert!(there < 0.35 * answer(best), "node {node}: {there} of {}", answer(best));
            }
        }
    }

    #[test]
    fn the_wave_is_drawn_as_it_moves_and_the_ends_are_where_they_are_held() {
        let (s, made) = run(&[("frequency", 47.3), ("probe", 0.4)]);
        let wire = Stretched::new(&s);
        assert!((wire.amplitude(0.0) - Complex::new(DRIVER, 0.0)).norm() < 1e-15);
        assert!(wire.amplitude(wire.length).norm() < 1e-15);
        let scene = Wire.scene(&s, &made);
        let curve = scene.shapes.iter().find_map(|shape| {
            let SceneShape::Curve { points, sways, .. } = shape else { return None };
            (!sways.is_empty()).then_some((points, sways))
        });
        let (points, sways) = curve.unwrap();
        let k = points.iter().position(|p| p[0] >= 0.4).unwrap();
        for frame in [0, 5, 17, 90] {
            let moved: f64 = sways.iter().map(|s| s.weights[k] * made.channel(s.channel).unwrap()[frame]).sum();
            let there = wire.amplitude(points[k][0]) * Complex::from_polar(1.0, wire.omega * made.sampling.time(frame));
            assert!((moved - DRAWN * there.re).abs() < 1e-12, "{moved}");
        }
        // A period of the driver later it is the same.
        let y = made.channel("displacement").unwrap();
        assert!((0..24).all(|i| (y[i] - y[i + 24]).abs() < 1e-9));
        // The meter at the pulley's end, beyond a wire that was shortened.
        let (_, short) = run(&[("length", 0.5), ("probe", 1.5)]);
        assert!(short.found("amplitude").unwrap() < 1e-15);
    }
    /// Finite differences by SciPy: `tools/reference/waves.py`.
    #[test]
    fn the_shape_is_what_finite_differences_give() {
        let reference: serde_json::Value =
            serde_json::from_str(include_str!("../../../tests/fixtures/waves.json")).unwrap();
        for case in reference["wires"].as_array().unwrap() {
            let number = |name: &str| case[name].as_f64().unwrap();
            let set = [("load", number("load")), ("mass per length", number("density")), ("length", number("length"))];
            let (s, _) = run(&[&set[..], &[("frequency", number("frequency"))]].concat());
            let wire = Stretched::new(&s);
            for at in case["at"].as_array().unwrap() {
                let [x, re, im] = [0, 1, 2].map(|i| at[i].as_f64().unwrap());
                let there = wire.amplitude(x * wire.length);
                let expected = Complex::new(re, im);
                assert!((there - expected).norm() < 1e-5 * (DRIVER + expected.norm()), "{case}: {there} at {x}");
            }
        }
    }
}
