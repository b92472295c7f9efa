//! The torsion balance: two small balls on a bar that hangs on a wire, and two large ones brought near.
//!
//! F = G·m₁·m₂/r² between a large and a small ball (Newton; G: CODATA 2022, arXiv 2409.03787, table XXX). The bar turns as a damped
//! oscillator about where the wire's torque κ·θ holds 2·F·d, from rest at θ = 0 (H. Cavendish, Phil. Trans. 88 (1798) 469; for the damped
//! oscillator Halliday, Resnick, Walker, 10th edition, 15-5). A mirror on the bar turns a ray of light by 2θ. Exact.

use super::contract::card::unit;
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::ending::Ending;
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::quantity;
use super::{
    Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape, Settings,
};
use crate::formula::GRAVITATION;

/// Half the length of the bar, in m.
const HALF: f64 = 0.5;
/// Density of lead, in kg/m³ (CRC Handbook of Chemistry and Physics, 97th edition, 4-22; from memory).
const LEAD: f64 = 11_340.0;
/// Largest share of the gap between two balls by which they may come nearer, for the force to stay as it is.
const NEARER: f64 = 0.05;
/// Frames of a period, about.
const FRAMES: f64 = 240.0;

/// The torsion balance.
pub(super) struct Torsion;

/// The bar at a moment.
struct Turning {
    /// Angle of the bar, in rad.
    angle: f64,
    /// Place of the light spot on its scale, in m.
    spot: f64,
    /// Where the bar points, as drawn.
    drawn: [f64; 2],
}

fn recorders() -> Vec<Recorder<Turning>> {
    vec![
        recorder("angle", "θ", "rad", 1e-6, |b: &Turning| b.angle),
        recorder("spot", "s", "m", 0.0001, |b| b.spot),
        recorder("x", "x", "m", 0.001, |b: &Turning| b.drawn[0]).of(Role::PlaceX).called("position x"),
        recorder("y", "y", "m", 0.001, |b: &Turning| b.drawn[1]).of(Role::PlaceY).called("position y"),
    ]
}

/// Radius of a ball of lead of that mass in kg, in m.
fn radius(mass: f64) -> f64 {
    (3.0 * mass / (4.0 * std::f64::consts::PI * LEAD)).cbrt()
}

/// The balance with its balls.
struct Balance {
    /// Force between a large and a small ball, in N.
    force: f64,
    /// Angle at which it comes to rest, in rad.
    rest: f64,
    /// Angular frequency without air, in 1/s, and damping rate, in 1/s.
    omega: f64,
    damping: f64,
    /// Distance of the scale, in m.
    scale: f64,
    /// Radii of a large and a small ball, and distance of their centres, in m.
    radii: [f64; 2],
    apart: f64,
}

impl Balance {
    fn new(s: &Settings) -> Self {
        let (large, small, apart) = (s.get("large"), s.get("small"), s.get("distance"));
        let force = GRAVITATION * large * small / (apart * apart);
        let inertia = 2.0 * small * HALF * HALF;
        let omega = (s.get("wire") / inertia).sqrt();
        Self {
            force,
            rest: 2.0 * force * HALF / s.get("wire"),
            omega,
            damping: s.get("air") * omega,
            scale: s.get("scale"),
            radii: [radius(large), radius(small)],
            apart,
        }
    }

    /// Period of the swing, in s.
    fn period(&self) -> f64 {
        std::f64::consts::TAU / (self.omega * self.omega - self.damping * self.damping).sqrt()
    }

    /// The angle at a time in s, in rad.
    fn angle(&self, t: f64) -> f64 {
        let swing = (self.omega * self.omega - self.damping * self.damping).sqrt();
        let (sin, cos) = (swing * t).sin_cos();
        self.rest * (1.0 - (-self.damping * t).exp() * (cos + self.damping / swing * sin))
    }

    /// What does not work, with what to change.
    fn trouble(&self) -> Option<RunOutcome> {
        let gap = self.apart - self.radii[0] - self.radii[1];
        if gap <= 0.0 {
            return Some(RunOutcome::failed(Ending::BallsTouch {
                apart: (1e3 * (self.radii[0] + self.radii[1])).ceil(),
            }));
        }
        if 2.0 * self.rest * HALF > NEARER * gap {
            return Some(RunOutcome::failed(Ending::BallsComeNear));
        }
        None
    }
}

impl Rig for Torsion {
    fn card(&self) -> Card {
        Card {
            name: "torsion",
            revision: 1,
            title: "Torsion balance",
            leaves_out: "the pull of each large ball on the far small one, the mass of the bar, draughts, and that the force grows a little as the balls come nearer.",
            settings: vec![
                quantity("large", "large mass", "m_1", "kg", [1.0, 200.0, 0.1, 100.0]),
                quantity("small", "small mass", "m_2", "g", [5.0, 1000.0, 1.0, 500.0]),
                quantity("distance", "distance of the centres", "r", "mm", [30.0, 1000.0, 1.0, 300.0]),
                quantity("wire", "stiffness of the wire", "κ", "μN m/rad", [0.1, 1000.0, 0.1, 40.0]),
                quantity("air", "damping by the air", "ζ", "1", [0.0, 0.9, 0.01, 0.15]),
                quantity("scale", "distance of the scale", "D", "m", [1.0, 20.0, 0.01, 5.0]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("force", "force gauge", "F", "N", [1e-12, 0.0]).with_figures(4, 5e-4),
                found("period", "timer of one swing", "T", "s", [0.1, 0.1]),
            ],
            arrows: Vec::new(),
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["spot"],
            by_hand: false,
            second: None,
        }
    }

    /// Some two hundred frames a swing, in whole steps of the clock, and twelve swings; a swing takes six seconds to watch.
    fn clock(&self, settings: &Settings) -> Clock {
        let period = Balance::new(settings).period();
        let every = super::contract::card::even_step(period / FRAMES);
        Clock { every, lasts: (12.0 * period / every).ceil() * every, frame: 6.0 / FRAMES, unit: "s" }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let balance = Balance::new(settings);
        let trouble = balance.trouble();
        let frames = if trouble.is_some() { 20.min(sampling.frames()?) } else { sampling.frames()? };
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let angle = if trouble.is_some() { 0.0 } else { balance.angle(sampling.time(i)) };
            let (sin, cos) = angle.sin_cos();
            Turning { angle, spot: balance.scale * (2.0 * angle).tan(), drawn: [HALF * cos, HALF * sin] }
        });
        if let Some(outcome) = trouble {
            run.outcome = outcome;
        } else {
            run.found = vec![("force", balance.force), ("period", balance.period())];
        }
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let balance = Balance::new(settings);
        let [large, small] = balance.radii;
        let (x, y) = (Coordinate::Channel("x"), Coordinate::Channel("y"));
        let mirrored = |channel| Coordinate::Moved { channel, times: -1.0, plus: 0.0 };
        // The scale hangs above the picture of the balance; it is as far away as it is set, whatever is drawn.
        let (low, high) = (-HALF - large.max(balance.apart), HALF + large.max(balance.apart));
        let above = high + 0.25;
        let spot = Coordinate::Channel("spot");
        let mut shapes = vec![
            SceneShape::Scale { zero: [0.0, above], along: [1.0, 0.0], from: -0.6, length: 0.6, division: 0.001 },
            SceneShape::Line { from: at(-0.6, above), to: at(0.6, above), paint: Paint::Thread },
            SceneShape::Line {
                from: [spot, Coordinate::Fixed(above)],
                to: [spot, Coordinate::Fixed(above + 0.08)],
                paint: Paint::Aid,
            },
            SceneShape::Word { place: [0.66, above - 0.02], text: "light spot".to_owned() },
            // The bar with the small balls and its mirror, seen from above.
            SceneShape::Line { from: [mirrored("x"), mirrored("y")], to: [x, y], paint: Paint::Thread },
            SceneShape::Disc { centre: at(0.0, 0.0), radius: 0.02, turn: None, paint: Paint::Support },
            SceneShape::Disc { centre: [mirrored("x"), mirrored("y")], radius: small, turn: None, paint: Paint::Body },
            SceneShape::Disc { centre: [x, y], radius: small, turn: None, paint: Paint::Body },
        ];
        for side in [1.0, -1.0] {
            let centre = at(side * HALF, side * balance.apart);
            shapes.push(SceneShape::Disc { centre, radius: large, turn: None, paint: Paint::Other });
        }
        let by = [0.0, 1e3];
        Scene {
            loupe: Some([spot, Coordinate::Fixed(above)]),
            held_still: true,
            handles: vec![Handle::of("Large ball", [HALF, balance.apart], "distance", Follows::Along { by })],
            ..Scene::of(
                Bounds { left: -HALF - large - 0.2, right: HALF + large + 0.2, bottom: low - 0.1, top: above + 0.34 },
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
        let mut s = Torsion.card().defaults();
        change.iter().for_each(|(name, value)| s.set(name, *value));
        let run = Torsion.run(&s, 0, Torsion.clock(&s).sampling()).unwrap();
        (s, run)
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(60) })]
        /// F·r²/(m₁·m₂) is G, by the gauge and by the spot with κ from the period alike.
        #[test]
        fn both_ways_of_reading_give_the_same_constant(large in 10f64..200.0, small in 50f64..1000.0, apart in 300f64..1000.0, air in 0f64..0.5) {
            let (s, r) = run(&[("large", large), ("small", small / 1e3), ("distance", apart / 1e3), ("air", air), ("wire", 2e-4)]);
            prop_assume!(!r.outcome.failed);
            let masses = large * small / 1e3 / (apart / 1e3).powi(2);
            prop_assert!((r.found("force").unwrap() / masses / 6.674_30e-11 - 1.0).abs() < 1e-12);
            // κ = I·(ω₀² of the damped period), at rest 2·F·d = κ·θ.
            let damped = std::f64::consts::TAU / r.found("period").unwrap();
            let stiffness = 2.0 * small / 1e3 * 0.25 * damped * damped / (1.0 - air * air);
            prop_assert!((stiffness / 2e-4 - 1.0).abs() < 1e-9);
            let spot = r.channel("spot").unwrap();
            if air > 0.3 {
                let rest = (spot.last().unwrap() / s.get("scale")).atan() / 2.0;
                prop_assert!((stiffness * rest / masses / 6.674_30e-11 - 1.0).abs() < 1e-3);
            }
            // Turning points lie about the rest in a geometric series.
            let first = spot.iter().copied().fold(0.0, f64::max);
            let over = (-std::f64::consts::PI * air / (1.0 - air * air).sqrt()).exp();
            let rest = 2.0 * s.get("scale") * 2.0 * r.found("force").unwrap() * 0.5 / 2e-4;
            prop_assert!((first / rest / (1.0 + over) - 1.0).abs() < 1e-3, "{} {}", first / rest, over);
        }
    }

    /// A hundred readings of the force gauge, and as many of the light spot at rest to a tenth of a millimetre with the stiffness of the wire from the
    /// timer: both cover G as often as two standard uncertainties should, and each other.
    #[test]
    fn gauge_and_light_spot_agree_within_their_uncertainties() {
        let card = Torsion.card();
        let (gauge, timer) = (card.meter("force").unwrap(), card.meter("period").unwrap());
        let (mut by_gauge, mut by_spot, mut both) = (0, 0, 0);
        for seed in 0..100u64 {
            let mut chance = crate::chance::Chance::of(seed, "trial", 0);
            let mut of =
                |low: f64, high: f64, step: f64| (((low + (high - low) * chance.even()) / step).round() * step, step);
            let ((large, _), (small, _), (apart, _)) =
                (of(60.0, 160.0, 0.1), of(0.2, 0.9, 0.001), of(0.25, 0.6, 0.001));
            let (s, r) = run(&[("large", large), ("small", small), ("distance", apart), ("wire", 4e-5)]);
            assert!(!r.outcome.failed, "{:?}", r.outcome);
            let masses = large * small / (apart * apart);
            let force = gauge.read(&r, 0, seed).unwrap();
            let (one, u_one) = (force / masses, gauge.width(force) / 12f64.sqrt() / masses);
            // At rest: the scale is read wherever the true spot lies between two of its tenths.
            let balance = Balance::new(&s);
            let spot = (balance.scale * (2.0 * balance.rest).tan() * 1e4).round() / 1e4;
            let period = timer.read(&r, 0, seed).unwrap();
            let stiffness =
                2.0 * small * HALF * HALF * (std::f64::consts::TAU / period).powi(2) / (1.0 - s.get("air").powi(2));
            let two = stiffness * (spot / balance.scale).atan() / 2.0 / (2.0 * HALF * masses);
            let u_two = two * (1e-4 / 12f64.sqrt() / spot).hypot(2.0 * timer.width(period) / 12f64.sqrt() / period);
            by_gauge += u32::from((one - GRAVITATION).abs() <= 2.0 * u_one);
            by_spot += u32::from((two - GRAVITATION).abs() <= 2.0 * u_two);
            both += u32::from((one - two).abs() <= 2.0 * u_one.hypot(u_two));
        }
        assert!([by_gauge, by_spot, both].iter().all(|n| *n >= 89), "{by_gauge} {by_spot} {both}");
    }

    #[test]
    fn balls_that_overlap_and_wires_too_soft_are_explained() {
        let (_, touch) = run(&[("large", 200.0), ("distance", 0.03)]);
        assert!(matches!(touch.outcome, RunOutcome { told: Some(Ending::BallsTouch { .. }), failed: true }));
        let (_, soft) = run(&[("wire", 1e-7), ("distance", 0.2)]);
        assert_eq!(soft.outcome, RunOutcome::failed(Ending::BallsComeNear));
        // Four significant figures, whatever the power of ten.
        let card = Torsion.card();
        let gauge = card.meter("force").unwrap();
        for (change, power) in
            [([("large", 158.0), ("distance", 0.23)], -9), ([("large", 1.0), ("distance", 1.0)], -12)]
        {
            let (_, r) = run(&[change[0], change[1], ("small", 0.005), ("wire", 1e-4)]);
            let shown = gauge.shown(gauge.read(&r, 0, 7).unwrap());
            let exact = r.found("force").unwrap();
            assert!((shown.value() / exact - 1.0).abs() < 4e-3, "{}", shown.as_str());
            let digits = shown.as_str().split('e').next().unwrap().replace('.', "").len();
            assert!(digits == 4 && shown.value().log10().floor() as i32 - power <= 1, "{}", shown.as_str());
        }
    }
}
