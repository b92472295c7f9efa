//! The spring stand: a load hangs on one of three known springs or on a specimen, at rest or swinging.
//!
//! A spring of stiffness k and own mass m_s, evenly spread, carries a load m (D. Halliday, R. Resnick, J. Walker,
//! *Fundamentals of Physics*, 10th edition, 15-1 and 15-5; for the spring's own mass E. E. Galloni, M. Kohen, *Influence of the
//! mass of the spring on its static and dynamic effects*, Am. J. Phys. 47 (1979) 1076):
//! * at rest it is longer by (m + m_s/2)·g/k;
//! * its slowest swing has ω = κ·√(k/m_s) with κ·tan κ = m_s/m, so that it swings like a light spring with a load k/ω² (about
//!   m + m_s/3, for a heavy load); faster swings, which a release at rest hardly wakes, are left out;
//! * damping b·v on the load: x″ + (b/m_e)·x′ + ω²·x = 0 with m_e = k/ω², solved exactly;
//! * the force at the hook above is (m + m_s)·g + k·u·κ/sin κ, with u how far the load is below its rest.

use super::contract::card::{arrow, unit};
use super::contract::channel::{Recorder, place, recorder, specs};
use super::contract::ending::Ending;
use super::contract::meter::{found, now};
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::{choice, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape,
    Settings,
};

/// Length of every spring when nothing pulls it, in m.
const LENGTH: f64 = 0.2;
/// No spring may be stretched by more, in m.
const LIMIT: f64 = 0.8;
/// Time a load at rest is recorded, in s.
const AT_REST: f64 = 2.0;
/// Stiffness in N/m and mass in kg of the known springs.
const SPRINGS: [(&str, f64, f64); 3] = [("A", 10.0, 0.012), ("B", 20.0, 0.03), ("C", 40.0, 0.06)];

/// The spring stand.
pub(super) struct SpringStand;

/// A loaded spring.
struct Hung {
    stiffness: f64,
    /// Of the spring itself, kg.
    own: f64,
    load: f64,
    gravity: f64,
    damping: f64,
    pull: f64,
    offset: f64,
}

impl Hung {
    fn new(s: &Settings) -> Self {
        let known = SPRINGS.iter().find(|(name, _, _)| *name == s.chosen("spring"));
        let (stiffness, own) = known.map_or_else(|| (s.get("stiffness"), s.get("spring mass")), |(_, k, m)| (*k, *m));
        Self {
            stiffness,
            own,
            load: s.get("load"),
            gravity: s.get("gravity"),
            damping: s.get("damping"),
            pull: s.get("pull"),
            offset: s.get("offset"),
        }
    }

    /// How much longer it is at rest, in m.
    fn stretched(&self) -> f64 {
        (self.load + self.own / 2.0) * self.gravity / self.stiffness
    }

    /// κ of the slowest swing; zero for a spring without mass.
    fn kappa(&self) -> f64 {
        if self.own == 0.0 {
            return 0.0;
        }
        let ratio = self.own / self.load;
        let (mut low, mut high) = (0.0, std::f64::consts::FRAC_PI_2);
        for _ in 0..80 {
            let mid = 0.5 * (low + high);
            if mid * mid.sin() < ratio * mid.cos() { low = mid } else { high = mid }
        }
        0.5 * (low + high)
    }

    /// ω of the slowest swing without damping, in rad/s.
    fn omega(&self) -> f64 {
        if self.own == 0.0 {
            return (self.stiffness / self.load).sqrt();
        }
        self.kappa() * (self.stiffness / self.own).sqrt()
    }

    /// How far below its rest the load is, how fast it moves down, and how it is accelerated down, t after the release, with
    /// [`Self::omega`].
    fn swing(&self, omega: f64, t: f64) -> [f64; 3] {
        let gamma = self.damping * omega * omega / self.stiffness / 2.0;
        let root = omega * omega - gamma * gamma;
        // Solution that starts at 1 at rest: c + γ·s, where c and s hold e^(−γt) already, so that nothing overflows.
        let fade = (-gamma * t).exp();
        let (c, s) = if root > 1e-9 {
            let w = root.sqrt();
            (fade * (w * t).cos(), fade * (w * t).sin() / w)
        } else if root < -1e-9 {
            let w = (-root).sqrt();
            // The slow way back, γ − w without the loss of a difference, and the fast one.
            let (slow, fast) = ((-omega * omega / (gamma + w) * t).exp(), (-(gamma + w) * t).exp());
            (0.5 * (slow + fast), 0.5 * (slow - fast) / w)
        } else {
            (fade, fade * t)
        };
        let u = self.pull * (c + gamma * s);
        let v = -self.pull * omega * omega * s;
        [u, v, -2.0 * gamma * v - omega * omega * u]
    }

    /// What is wrong with these settings.
    fn trouble(&self) -> Option<Ending> {
        if self.stretched() + self.pull > LIMIT {
            Some(Ending::SpringTears)
        } else if self.pull > 0.0 && self.load == 0.0 {
            Some(Ending::SpringWithoutLoad)
        } else if self.pull * self.stiffness > self.load * self.gravity {
            Some(Ending::SpringSlack)
        } else {
            None
        }
    }
}

/// The load at a moment, in SI units, upward positive.
struct Bobbing {
    y: f64,
    v: f64,
    a: f64,
    /// What the stand carries.
    force: f64,
    net: f64,
    weight: f64,
    pointer: f64,
}

fn recorders() -> Vec<Recorder<Bobbing>> {
    let own = [
        recorder("v", "v", "m/s", 0.001, |b: &Bobbing| b.v).called("velocity").seen(),
        recorder("a", "a", "m/s^2", 0.01, |b: &Bobbing| b.a).called("acceleration"),
        recorder("force", "F", "N", 0.01, |b| b.force),
        recorder("spring force", "F_s", "N", 0.01, |b| b.net - b.weight),
        recorder("weight", "F_w", "N", 0.01, |b| b.weight),
        recorder("net force", "F_net", "N", 0.01, |b| b.net),
        recorder("pointer", "p", "m", 0.0001, |b| b.pointer),
    ];
    place(0.001, |_: &Bobbing| 0.0, |b| b.y).into_iter().chain(own).collect()
}

impl Rig for SpringStand {
    fn card(&self) -> Card {
        let springs: &[(&str, &str)] = &[
            ("A", "spring A, 10 N/m"),
            ("B", "spring B, 20 N/m"),
            ("C", "spring C, 40 N/m"),
            ("specimen", "unknown specimen"),
        ];
        let along = |name, label, letter, kind, channel, aside| {
            arrow(name, label, letter, kind, ["", channel]).beside([aside, -0.03])
        };
        Card {
            name: "spring",
            revision: 1,
            title: "Spring stand",
            leaves_out: "faster swings of the spring in itself, sideways motion, and stretching for good: every spring obeys Hooke's law to the end.",
            settings: vec![
                choice("spring", "spring", springs),
                quantity("load", "load", "m", "g", [0.0, 2000.0, 1.0, 100.0]),
                quantity("pull", "pulled down by", "A", "cm", [0.0, 20.0, 0.1, 0.0]),
                quantity("damping", "damping", "b", "kg/s", [0.0, 5.0, 0.001, 0.0]),
                quantity("gravity", "gravity", "g", "m/s^2", [0.1, 30.0, 0.01, 9.81]),
                quantity("offset", "scale reading without load", "s_0", "cm", [0.0, 10.0, 0.01, 2.4]),
                quantity("stiffness", "stiffness of the specimen", "k", "N/m", [2.0, 200.0, 0.01, 16.0]),
                quantity("spring mass", "mass of the specimen", "m_s", "g", [0.0, 200.0, 0.1, 25.0]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                now("force", "force gauge above the spring", "F", "N", [0.01, 0.005], "force").telling(&["load"]),
                found("mass", "balance, load", "m", "g", [0.1, 0.0]).telling(&["load"]),
            ],
            arrows: vec![
                along("velocity", "velocity", "v", ArrowKind::Velocity, "v", 0.06),
                along("acceleration", "acceleration", "a", ArrowKind::Acceleration, "a", -0.06),
                along("spring", "force of the spring", "F", ArrowKind::Force, "spring force", 0.0),
                along("weight", "weight", "W", ArrowKind::Force, "weight", 0.0),
                along("net", "net force", "ΣF", ArrowKind::Net, "net force", 0.03),
            ],
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["y"],
            by_hand: false,
            second: None,
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let hung = Hung::new(settings);
        let trouble = hung.trouble();
        let still = hung.pull == 0.0 || trouble.is_some();
        let lasts = if still { AT_REST.min(sampling.duration) } else { sampling.duration };
        let frames = Sampling { duration: lasts, ..sampling }.frames()?;
        let rest = if trouble.is_some() { hung.own / 2.0 * hung.gravity / hung.stiffness } else { hung.stretched() };
        let (kappa, omega) = (hung.kappa(), hung.omega());
        let at_hook = if kappa > 0.0 { kappa / kappa.sin() } else { 1.0 };
        let load = if trouble.is_some() { 0.0 } else { hung.load };
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let [u, v, a] = if still { [0.0; 3] } else { hung.swing(omega, sampling.time(i)) };
            // On the load: the spring pulls it up with what moves it and carries it.
            Bobbing {
                y: -LENGTH - rest - u,
                v: -v,
                a: -a,
                force: (load + hung.own) * hung.gravity + hung.stiffness * u * at_hook,
                net: -load * a,
                weight: -load * hung.gravity,
                pointer: hung.offset + rest - hung.unloaded() + u,
            }
        });
        run.found = vec![("mass", hung.load)];
        run.outcome = trouble.map_or_else(RunOutcome::default, RunOutcome::failed);
        Ok(run)
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        let hung = Hung::new(settings);
        vec![("k", hung.stiffness), ("m_s", hung.own)]
    }

    fn scene(&self, settings: &Settings, run: &Run) -> Scene {
        let hung = Hung::new(settings);
        let low = if run.outcome.failed { -LENGTH } else { -LENGTH - hung.stretched() - hung.pull };
        let y = Coordinate::Channel("y");
        let below = |by: f64| Coordinate::Moved { channel: "y", times: 1.0, plus: -by };
        let side = 0.03 + 0.03 * hung.load.cbrt();
        let zero = -LENGTH - hung.unloaded() + hung.offset;
        let mut shapes = vec![
            SceneShape::Line { from: at(-0.16, 0.0), to: at(0.16, 0.0), paint: Paint::Support },
            SceneShape::Scale {
                zero: [0.09, zero],
                along: [0.0, -1.0],
                from: 0.0,
                length: LIMIT + 0.12,
                division: 0.001,
            },
            SceneShape::Coil { from: at(0.0, 0.0), to: [Coordinate::Fixed(0.0), y], width: 0.028 },
            // The pointer plays along the scale.
            SceneShape::Line { from: [Coordinate::Fixed(0.0), y], to: [Coordinate::Fixed(0.09), y], paint: Paint::Aid },
        ];
        if hung.load > 0.0 && !run.outcome.failed {
            let centre = [Coordinate::Fixed(0.0), below(0.012 + side / 2.0)];
            shapes.push(SceneShape::Line {
                from: [Coordinate::Fixed(0.0), y],
                to: [Coordinate::Fixed(0.0), below(0.012)],
                paint: Paint::Thread,
            });
            shapes.push(SceneShape::Box {
                centre,
                size: [side, side],
                turn: Coordinate::Fixed(0.0),
                paint: Paint::Body,
            });
        }
        let bottom = (low - side - 0.05).min(-0.5);
        Scene {
            bounds: Bounds { left: -0.22, right: 0.3, bottom, top: 0.04 },
            shapes,
            loupe: Some([Coordinate::Fixed(0.09), y]),
            strobe: [10, 0],
            // Centimetres downwards.
            handles: vec![Handle::along("Load", [0.0, low], "pull", [0.0, -100.0])],
            ..Scene::default()
        }
    }
}

impl Hung {
    /// How much longer its own weight makes the spring, in m.
    fn unloaded(&self) -> f64 {
        self.own / 2.0 * self.gravity / self.stiffness
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn settings(change: &[(&str, f64)]) -> Settings {
        let mut s = SpringStand.card().defaults();
        s.choose("spring", "specimen");
        change.iter().for_each(|(name, value)| s.set(name, *value));
        s
    }

    fn run(change: &[(&str, f64)]) -> Run {
        SpringStand.run(&settings(change), 0, Sampling { every: 0.01, duration: 60.0 }).unwrap()
    }

    #[test]
    fn at_rest_the_scale_shows_offset_and_extension() {
        let r = run(&[("load", 0.3)]);
        let pointer = r.channel("pointer").unwrap()[0];
        assert!((pointer - (0.024 + 0.3 * 9.81 / 16.0)).abs() < 1e-12);
        assert!((r.channel("force").unwrap()[0] - (0.3 + 0.025) * 9.81).abs() < 1e-12);
        assert_eq!(run(&[("load", 1.9)]).outcome.told, Some(Ending::SpringTears));
        assert_eq!(run(&[("load", 0.1), ("pull", 0.1)]).outcome.told, Some(Ending::SpringSlack));
        assert_eq!(run(&[("load", 0.0), ("pull", 0.01)]).outcome.told, Some(Ending::SpringWithoutLoad));
    }

    /// T² against m: slope 4π²/k, intercept that of a third of the spring's mass for a heavy load (Galloni and Kohen).
    #[test]
    fn the_springs_own_mass_shows_in_the_period() {
        let effective = |load: f64, own: f64| {
            let h = Hung::new(&settings(&[("load", load), ("spring mass", own)]));
            h.stiffness / h.omega().powi(2)
        };
        assert!((effective(1.0, 0.02) - (1.0 + 0.02 / 3.0)).abs() < 1e-5);
        assert!((effective(0.5, 0.0) - 0.5).abs() < 1e-12);
        // A bare spring: κ = π/2, effective mass 4/π² of its own.
        assert!((effective(1e-12, 0.1) - 0.1 * 4.0 / std::f64::consts::PI.powi(2)).abs() < 1e-9);
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(60) })]
        /// Without damping the energy of the swing stays; with damping it falls by what b·v² takes.
        #[test]
        fn energy_is_kept_or_damped(load in 0.05f64..0.8, k in 10f64..60.0, own in 0f64..0.1, b in 0f64..6.0) {
            let pull = 0.5 * load * 9.81 / k;
            let change = [("load", load), ("stiffness", k), ("spring mass", own), ("damping", b), ("pull", pull.min(0.05))];
            let h = Hung::new(&settings(&change));
            prop_assume!(h.trouble().is_none());
            let omega = h.omega();
            let m = k / omega.powi(2);
            let energy = |t: f64| { let [u, v, _] = h.swing(omega, t); 0.5 * k * u * u + 0.5 * m * v * v };
            let (mut lost, n) = (0.0, 4000);
            let dt = 2.0 / f64::from(n);
            for i in 0..n {
                let v = h.swing(omega, (f64::from(i) + 0.5) * dt)[1];
                lost += b * v * v * dt;
            }
            let start = energy(0.0);
            prop_assert!((energy(2.0) + lost - start).abs() < 2e-4 * start, "{} {} {}", energy(2.0), lost, start);
            if b == 0.0 {
                prop_assert!((energy(37.0) / start - 1.0).abs() < 1e-9);
            }
            // Velocity and acceleration are the slopes of what they belong to.
            let slope = (h.swing(omega, 0.7 + 1e-5)[0] - h.swing(omega, 0.7 - 1e-5)[0]) / 2e-5;
            prop_assert!((slope - h.swing(omega, 0.7)[1]).abs() < 1e-6);
            let bend = (h.swing(omega, 0.7 + 1e-5)[1] - h.swing(omega, 0.7 - 1e-5)[1]) / 2e-5;
            prop_assert!((bend - h.swing(omega, 0.7)[2]).abs() < 1e-4 * (1.0 + bend.abs()));
        }
    }
}
