//! The pendulum: a brass bob on a light thread, released at rest.
//!
//! Full nonlinear equation of motion, without the small-angle approximation. With θ the angle from the
//! vertical, L the distance from pivot to the bob's centre:
//!
//! θ″·(1 + κ) = −(g/L)·sin θ − (ρ·c·A·L/2m)·|θ′|·θ′
//!
//! κ = (2/5)·(d/2L)² for a solid bob of diameter d, which turns with the thread (moment of inertia m·L² + 2/5·m·(d/2)²; Halliday,
//! Resnick, Walker, *Fundamentals of Physics*, 10th edition, 15-4 and table 10-2); 0 for a point.
//! Source: L. D. Landau, E. M. Lifshitz, *Mechanics*, 3rd edition, §5 (pendulum) and §11, problem 1 (its
//! period); drag ½·ρ·c·A·v² against the motion, with c = 0.47 for a sphere at Reynolds numbers of 10³ to
//! 10⁵ (S. F. Hoerner, *Fluid-Dynamic Drag*, 1965, 3-8) and air of ρ = 1.204 kg/m³ (20 °C, 101 325 Pa;
//! ISO 2533). The thread has no mass or drag; air resists the bob as a brass ball of its mass, whatever size is set.
//! Tension: F = m·g·cos θ + m·L·θ′².

use ode_solvers::SVector;

use super::contract::card::{arrow, unit};
use super::contract::channel::{Energetic, Recorder, energies, energies_of, place, recorder, specs};
use super::contract::flow::{Event, flow};
use super::contract::scene::at;
use super::contract::setting::{optional, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Pull, Rig, RigError, Run, Sampling, Scene,
    SceneShape, SettingKind, SettingSpec, Settings,
};

/// Density of brass, kg/m³ (CuZn37, EN 1652).
const BRASS: f64 = 8440.0;
/// Density of air at 20 °C, kg/m³.
const AIR: f64 = 1.204;
/// Longest time between two states that are looked at for a turning point, in s.
const CLOSE: f64 = 0.01;
/// Drag coefficient of a sphere.
const SPHERE: f64 = 0.47;

/// The pendulum rig.
pub(super) struct Pendulum;

/// The bob at a moment, in SI units and rad.
struct Bob {
    angle: f64,
    turning: f64,
    sin: f64,
    cos: f64,
    length: f64,
    mass: f64,
    gravity: f64,
    /// What turning adds to its inertia.
    share: f64,
}

impl Bob {
    fn v(&self) -> f64 {
        self.length * self.turning
    }

    fn tension(&self) -> f64 {
        self.mass * (self.gravity * self.cos + self.length * self.turning * self.turning)
    }
}

impl Energetic for Bob {
    fn energies(&self) -> [f64; 3] {
        let kinetic = 0.5 * self.mass * self.v() * self.v() * (1.0 + self.share);
        energies_of(kinetic, self.mass, self.gravity, -self.length * self.cos)
    }
}

fn recorders() -> Vec<Recorder<Bob>> {
    let angles = [
        recorder("angle", "θ", "rad", 0.001, |b: &Bob| b.angle),
        recorder("angular velocity", "ω", "rad/s", 0.001, |b| b.turning),
    ];
    let own = [
        recorder("tension", "F", "N", 0.01, Bob::tension),
        recorder("v_x", "v_x", "m/s", 0.001, |b: &Bob| b.v() * b.cos).called("velocity along x").seen(),
        recorder("v_y", "v_y", "m/s", 0.001, |b: &Bob| b.v() * b.sin).called("velocity along y").seen(),
        recorder("weight", "F_w", "N", 0.01, |b| -b.mass * b.gravity),
        recorder("tension x", "F_tx", "N", 0.01, |b| -b.tension() * b.sin),
        recorder("tension y", "F_ty", "N", 0.01, |b| b.tension() * b.cos),
    ];
    let at = place(0.001, |b: &Bob| b.length * b.sin, |b| -b.length * b.cos);
    angles.into_iter().chain(at).chain(own).chain(energies()).collect()
}

impl Rig for Pendulum {
    fn card(&self) -> Card {
        Card {
            name: "pendulum",
            revision: 1,
            title: "Pendulum",
            leaves_out: "the mass and the stretching of the thread, drag on the thread, and the bearing. The bob is a point unless a diameter is set; then it turns with the thread as a solid ball.",
            settings: vec![
                quantity("length", "length", "L", "m", [0.2, 2.0, 0.001, 0.8]),
                quantity("angle", "release angle", "θ0", "deg", [1.0, 80.0, 0.1, 10.0]),
                quantity("mass", "bob mass", "m", "kg", [0.05, 2.0, 0.01, 0.4]),
                quantity("gravity", "gravity", "g", "m/s^2", [0.1, 30.0, 0.001, 9.81]),
                optional("bob", "diameter of the bob", "d", "mm", [1.0, 300.0, 0.1], "a point"),
                SettingSpec {
                    name: "drag",
                    label: "air drag",
                    symbol: "drag",
                    kind: SettingKind::Switch { default: false },
                    line: None,
                    with: None,
                },
            ],
            channels: specs(&recorders()),
            meters: Vec::new(),
            arrows: vec![
                arrow("velocity", "velocity", "v", ArrowKind::Velocity, ["v_x", "v_y"]),
                arrow("weight", "weight", "W", ArrowKind::Force, ["", "weight"]),
                arrow("tension", "tension", "T", ArrowKind::Force, ["tension x", "tension y"]),
            ],
            // Ten swings of the longest pendulum with time to spare.
            clock: Clock::by_hand(40.0),
            length: unit("m"),
            division: 0.001,
            tracks: &[],
            by_hand: false,
            second: None,
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let frames = sampling.frames()?;
        // Turning points are noticed between two states, so these must be close.
        let fine = (sampling.every / CLOSE).ceil().max(1.0);
        let until = sampling.time(frames - 1);
        let states = Swing::new(settings).states(settings.get("angle"), until, sampling.every / fine)?;
        let states: Vec<_> = states.into_iter().step_by(fine as usize).collect();
        let length = settings.get("length");
        let (mass, gravity, share) = (settings.get("mass"), settings.get("gravity"), turning_share(settings));
        Ok(Run::record(&recorders(), sampling, frames, |i| {
            let (angle, turning) = (states[i][0], states[i][1]);
            let (sin, cos) = angle.sin_cos();
            Bob { angle, turning, sin, cos, length, mass, gravity, share }
        }))
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let length = settings.get("length");
        let radius = settings.given("bob").map_or_else(|| bob_radius(settings.get("mass")), |d| d / 2.0);
        let reach = (length * settings.get("angle").sin()).max(0.35 * length) + radius;
        let bob = [Coordinate::Channel("x"), Coordinate::Channel("y")];
        let (sin, cos) = settings.get("angle").sin_cos();
        let turn = || Handle::turn("Bob", [length * sin, -length * cos], "angle", [0.0; 2], 1.0);
        Scene {
            bounds: Bounds { left: -reach - 0.04, right: reach + 0.04, bottom: -length - radius - 0.06, top: 0.06 },
            shapes: vec![
                SceneShape::Line { from: at(-0.16, 0.0), to: at(0.16, 0.0), paint: Paint::Support },
                SceneShape::Line { from: at(0.0, 0.0), to: bob, paint: Paint::Thread },
                SceneShape::Disc { centre: bob, radius, turn: None, paint: Paint::Body },
            ],
            loupe: None,
            strobe: [10, 130],
            handles: vec![
                turn().and("length", Follows::Reach { from: [0.0; 2], by: 1.0 }),
                turn(),
                Handle {
                    pulls: vec![Pull { setting: "length", how: Follows::Reach { from: [0.0; 2], by: 1.0 } }],
                    ..turn()
                },
            ],
            ..Scene::default()
        }
    }
}

/// Radius of a brass sphere of the given mass in kg; metres.
fn bob_radius(mass: f64) -> f64 {
    (3.0 * mass / (4.0 * std::f64::consts::PI * BRASS)).cbrt()
}

/// κ: how much of its energy of motion along the circle the bob has besides, by turning.
fn turning_share(settings: &Settings) -> f64 {
    0.4 * (settings.get("bob") / 2.0 / settings.get("length")).powi(2)
}

/// The right-hand side of the equation of motion.
struct Swing {
    /// g/L/(1 + κ), in 1/s².
    restoring: f64,
    /// ρ·c·A·L/2m/(1 + κ), without unit.
    drag: f64,
}

impl Swing {
    fn new(settings: &Settings) -> Self {
        let (length, mass) = (settings.get("length"), settings.get("mass"));
        let area = std::f64::consts::PI * bob_radius(mass).powi(2);
        let inertia = 1.0 + turning_share(settings);
        let drag = settings.get("drag") * AIR * SPHERE * area * length / (2.0 * mass) / inertia;
        Self { restoring: settings.get("gravity") / length / inertia, drag }
    }

    /// Angle and angular velocity at all frames up to `until`, from rest at an angle. In air the motion is put together from one
    /// turning point to the next: drag changes its sign there, and a step across would cost the integrator its accuracy.
    fn states(&self, angle: f64, until: f64, every: f64) -> Result<Vec<SVector<f64, 2>>, RigError> {
        let mut states = Vec::new();
        let mut now = (0.0, SVector::<f64, 2>::new(angle, 0.0));
        loop {
            let way = -now.1[0].signum();
            let rate = |y: &SVector<f64, 2>| self.rate(y, way);
            let turns = |y: &SVector<f64, 2>| way * y[1];
            let events: &[Event<'_, 2>] = if self.drag > 0.0 { &[&turns] } else { &[] };
            let piece = flow(&rate, now, until, every, events)?;
            states.extend(piece.frames);
            now = piece.end;
            if piece.event.is_none() {
                states.push(now.1);
                return Ok(states);
            }
            now.1[1] = 0.0;
        }
    }

    /// Rate of change of angle and angular velocity, while it moves one way.
    fn rate(&self, y: &SVector<f64, 2>, way: f64) -> SVector<f64, 2> {
        SVector::<f64, 2>::new(y[1], -self.restoring * y[0].sin() - self.drag * way * y[1] * y[1])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const STAGE: Sampling = Sampling { every: 0.01, duration: 40.0 };

    fn settings(length: f64, degrees: f64, drag: bool) -> Settings {
        let mut s = Pendulum.card().defaults();
        s.set("length", length);
        s.set("angle", degrees.to_radians());
        s.set("drag", f64::from(u8::from(drag)));
        s
    }

    /// Energy per m·L², from angle and angular velocity.
    fn energies(s: &Settings, run: &Run) -> Vec<f64> {
        let (angle, speed) = (run.channel("angle").unwrap(), run.channel("angular velocity").unwrap());
        let restoring = s.get("gravity") / s.get("length");
        angle.iter().zip(speed).map(|(a, w)| w * w / 2.0 + restoring * (1.0 - a.cos())).collect()
    }

    /// Period from the upward-going zero of the angular velocity, by cubic interpolation of dense frames.
    fn period(s: &Settings) -> f64 {
        let run = Pendulum.run(s, 0, Sampling { every: 1e-3, duration: 30.0 }).unwrap();
        let angle = run.channel("angle").unwrap();
        let crossings: Vec<f64> = (1..angle.len() - 2)
            .filter(|&i| angle[i] > 0.0 && angle[i + 1] <= 0.0)
            .map(|i| {
                // Newton's divided differences through four frames, root by bisection.
                let p: Vec<f64> = angle[i - 1..i + 3].to_vec();
                let at = |u: f64| {
                    let (a, b, c) = (p[1] - p[0], p[2] - 2.0 * p[1] + p[0], p[3] - 3.0 * p[2] + 3.0 * p[1] - p[0]);
                    p[0] + a * u + b * u * (u - 1.0) / 2.0 + c * u * (u - 1.0) * (u - 2.0) / 6.0
                };
                let (mut lo, mut hi) = (1.0, 2.0);
                for _ in 0..60 {
                    let mid = (lo + hi) / 2.0;
                    if at(mid) > 0.0 { lo = mid } else { hi = mid }
                }
                (i as f64 - 1.0 + lo) * 1e-3
            })
            .collect();
        (crossings[crossings.len() - 1] - crossings[0]) / (crossings.len() - 1) as f64
    }

    /// T/T₀ = (2/π)·K(sin²(θ₀/2)), K the complete elliptic integral of the first kind (Abramowitz and
    /// Stegun 17.3.1; NIST DLMF 19.2.8). Values by tools/reference/elliptic.py with SciPy 1.17.1.
    #[test]
    fn period_at_large_amplitude_follows_the_elliptic_integral() {
        for line in include_str!("../../../tests/fixtures/elliptic.csv").lines().skip(2) {
            let (degrees, ratio) = line.split_once(',').unwrap();
            let (degrees, ratio): (f64, f64) = (degrees.parse().unwrap(), ratio.parse().unwrap());
            let s = settings(1.0, degrees, false);
            let small = 2.0 * std::f64::consts::PI * (1.0 / s.get("gravity")).sqrt();
            let got = period(&s) / small;
            assert!((got / ratio - 1.0).abs() < 1e-6, "{degrees}°: {got} against {ratio}");
        }
    }

    /// T = T₀·√(1 + κ): a bob of 20 cm at 0.5 m swings 0.8 % slower than a point.
    #[test]
    fn a_large_bob_swings_slower() {
        let mut large = settings(0.5, 10.0, false);
        let small = period(&large);
        large.set("bob", 0.2);
        assert!((period(&large) / small - (1.0 + 0.4 * 0.04_f64).sqrt()).abs() < 1e-6);
        let run = Pendulum.run(&large, 0, STAGE).unwrap();
        let total = run.channel("total energy").unwrap();
        assert!(total.iter().all(|e| (e - total[0]).abs() < 1e-9));
    }

    #[test]
    fn drag_takes_energy_and_never_gives_any() {
        let s = settings(1.2, 60.0, true);
        let energy = energies(&s, &Pendulum.run(&s, 0, STAGE).unwrap());
        assert!(energy.windows(2).all(|w| w[1] <= w[0] * (1.0 + 1e-12)));
        assert!(energy[energy.len() - 1] < 0.99 * energy[0]);
    }

    #[test]
    fn a_run_starts_at_the_release_and_has_every_frame() {
        let s = settings(0.8, 10.0, false);
        let run = Pendulum.run(&s, 0, Sampling { every: 0.01, duration: 2.0 }).unwrap();
        assert_eq!(run.frames(), 201);
        assert_eq!(run.channel("angle").unwrap()[0], s.get("angle"));
        assert_eq!(Pendulum.run(&s, 0, Sampling { every: 0.01, duration: 0.0 }).unwrap().frames(), 1);
        assert!(Pendulum.run(&s, 0, Sampling { every: 1e-9, duration: 40.0 }).is_err());
        assert!(
            Pendulum
                .card()
                .settings
                .iter()
                .all(|x| matches!(&x.kind, SettingKind::Quantity { unit, .. } if !unit.is_one()) || x.name == "drag")
        );
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        #[test]
        fn energy_is_kept_for_a_minute_without_drag(length in 0.2f64..2.0, degrees in 1f64..80.0) {
            let s = settings(length, degrees, false);
            let run = Pendulum.run(&s, 0, Sampling { every: 0.01, duration: 60.0 }).unwrap();
            let energy = energies(&s, &run);
            let worst = energy.iter().map(|e| (e / energy[0] - 1.0).abs()).fold(0.0, f64::max);
            prop_assert!(worst < 1e-6, "{worst}");
        }

        #[test]
        fn the_thread_keeps_its_length_and_carries_the_weight_at_rest(length in 0.2f64..2.0, degrees in 1f64..80.0) {
            let s = settings(length, degrees, true);
            let run = Pendulum.run(&s, 0, Sampling { every: 0.05, duration: 5.0 }).unwrap();
            let (x, y, f) = (run.channel("x").unwrap(), run.channel("y").unwrap(), run.channel("tension").unwrap());
            for (x, y) in x.iter().zip(y) {
                prop_assert!((x.hypot(*y) / length - 1.0).abs() < 1e-12);
            }
            let weight = s.get("mass") * s.get("gravity") * degrees.to_radians().cos();
            prop_assert!((f[0] / weight - 1.0).abs() < 1e-12);
        }
    }
}
