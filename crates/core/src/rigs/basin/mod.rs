//! The deep basin: pressure gauges let down into a liquid.
//!
//! p = p₀ + ρ·g·d (hydrostatics, B. Pascal 1663; Halliday, Resnick, Walker, 10th edition, 14-2). A gauge is let down by hand to a tenth of
//! a division of the scale; how it hangs within that tenth is chance.

use super::contract::card::unit;
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::ending::Ending;
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::{choice, optional, quantity};
use super::{
    Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape, Settings,
    worlds,
};
use crate::chance::Chance;

/// Depth of the basin and half its width, in m.
const DEEP: f64 = 10.0;
const HALF: f64 = 3.0;
/// A tenth of a division of the scale, to which a gauge is let down, in m.
const TENTH: f64 = 0.01;
/// Time in which a gauge comes to show what it feels, and how long it is watched, in s.
const SETTLES: f64 = 0.1;
const WATCHED: f64 = 2.0;

/// Liquids at 20 °C and 101.3 kPa: name, density in kg/m³. Water 998.2, ethanol 789.3, brine with 26 % of salt 1197 (CRC Handbook of Chemistry
/// and Physics, 97th edition, 6-5, 15-13, 5-123); honey with 18 % of water 1417 (International Honey Commission, harmonised methods). All from
/// memory.
const LIQUIDS: [(&str, f64); 4] = [("water", 998.2), ("brine", 1197.0), ("spirit", 789.3), ("honey", 1417.0)];
const UNKNOWN: &str = "unknown";

/// Names of the settings, meters and channels of the four gauges.
const DEPTHS: [&str; 4] = ["depth 1", "depth 2", "depth 3", "depth 4"];
const PRESSURES: [&str; 4] = ["pressure 1", "pressure 2", "pressure 3", "pressure 4"];
const TIPS: [&str; 4] = ["y", "tip 2", "tip 3", "tip 4"];

/// The deep basin.
pub(super) struct Basin;

/// The gauges at a moment: heights of their tips in m and what they feel in Pa.
struct Gauges {
    tips: [f64; 4],
    pressures: [f64; 4],
}

fn recorders() -> Vec<Recorder<Gauges>> {
    let tip = |name, symbol, value: fn(&Gauges) -> f64| recorder(name, symbol, "m", 0.001, value);
    let pressure = |name, symbol, value: fn(&Gauges) -> f64| recorder(name, symbol, "kPa", 0.001, value);
    vec![
        recorder("x", "x", "m", 0.001, |_: &Gauges| across(0)).of(Role::PlaceX).called("position x"),
        tip(TIPS[0], "y", |g| g.tips[0]).of(Role::PlaceY).called("position y"),
        tip(TIPS[1], "y_2", |g| g.tips[1]),
        tip(TIPS[2], "y_3", |g| g.tips[2]),
        tip(TIPS[3], "y_4", |g| g.tips[3]),
        pressure(PRESSURES[0], "p_1", |g| g.pressures[0]),
        pressure(PRESSURES[1], "p_2", |g| g.pressures[1]),
        pressure(PRESSURES[2], "p_3", |g| g.pressures[2]),
        pressure(PRESSURES[3], "p_4", |g| g.pressures[3]),
    ]
}

/// Where a gauge hangs across the basin, in m.
fn across(gauge: usize) -> f64 {
    HALF * (0.4 * gauge as f64 - 0.4)
}

/// Density of the liquid, in kg/m³.
fn density(settings: &Settings) -> f64 {
    let chosen = settings.chosen("liquid");
    LIQUIDS.iter().find(|l| l.0 == chosen).map_or_else(|| settings.get("density"), |l| l.1)
}

impl Rig for Basin {
    fn card(&self) -> Card {
        let liquids: &[(&str, &str)] = &[
            ("water", "1: water"),
            ("brine", "2: brine"),
            ("spirit", "3: spirit"),
            ("honey", "4: honey"),
            (UNKNOWN, "5: unknown liquid"),
        ];
        let gauge = |name, label, symbol| optional(name, label, symbol, "m", [0.0, DEEP, TENTH], "not used");
        let pressure = |name, label, symbol| found(name, label, symbol, "kPa", [0.001, 0.01]).telling(&["density"]);
        Card {
            name: "basin",
            revision: 1,
            title: "Deep basin",
            leaves_out: "waves, warmth and salt that are not the same everywhere, and that liquids yield a little to pressure.",
            settings: vec![
                choice("liquid", "liquid", liquids),
                quantity("density", "density", "ρ", "kg/m^3", [500.0, 3000.0, 1.0, 1260.0]).with("liquid", UNKNOWN),
                quantity(DEPTHS[0], "depth of gauge 1", "d_1", "m", [0.0, DEEP, TENTH, 2.0]),
                gauge(DEPTHS[1], "depth of gauge 2", "d_2"),
                gauge(DEPTHS[2], "depth of gauge 3", "d_3"),
                gauge(DEPTHS[3], "depth of gauge 4", "d_4"),
                quantity("air", "air pressure", "p_0", "kPa", [0.0, 200.0, 0.1, 101.3]),
                choice("world", "world", worlds::OPTIONS),
                quantity(worlds::GRAVITY, "free-fall acceleration", "g", "m/s^2", [0.5, 30.0, 0.01, 9.81])
                    .with("world", UNKNOWN),
            ],
            channels: specs(&recorders()),
            meters: vec![
                pressure(PRESSURES[0], "pressure gauge 1", "p_1"),
                pressure(PRESSURES[1], "pressure gauge 2", "p_2"),
                pressure(PRESSURES[2], "pressure gauge 3", "p_3"),
                pressure(PRESSURES[3], "pressure gauge 4", "p_4"),
            ],
            arrows: Vec::new(),
            clock: Clock::by_hand(WATCHED),
            length: unit("m"),
            division: 0.1,
            tracks: &[PRESSURES[0]],
            by_hand: false,
            second: None,
        }
    }

    fn gravity_from(&self, settings: &Settings) -> Option<&'static str> {
        Some(worlds::decided_by(settings))
    }

    fn left_to_chance(&self) -> bool {
        true
    }

    fn run(&self, settings: &Settings, seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let pull = density(settings) * worlds::gravity(settings);
        let air = settings.get("air");
        let hang = |gauge: usize| {
            let set = settings.given(DEPTHS[gauge])?;
            let within = TENTH * (Chance::of(seed, DEPTHS[gauge], 0).even() - 0.5);
            Some((set + within).max(0.0))
        };
        let depths: [Option<f64>; 4] = std::array::from_fn(hang);
        let mut run = Run::record(&recorders(), sampling, sampling.frames()?, |i| {
            // Its needle goes from what the air does to what the liquid does.
            let share = 1.0 - (-sampling.time(i) / SETTLES).exp();
            let depths = depths.map(Option::unwrap_or_default);
            Gauges { tips: depths.map(|d| -d), pressures: depths.map(|d| air + share * pull * d) }
        });
        run.found = PRESSURES.into_iter().zip(depths).filter_map(|(name, d)| Some((name, air + pull * d?))).collect();
        if depths[0].is_some_and(|d| d < TENTH) {
            run.outcome = RunOutcome::told(Ending::GaugeAtSurface);
        }
        Ok(run)
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        vec![("ρ_l", density(settings))]
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let wall = |from: [f64; 2], to: [f64; 2]| SceneShape::Line {
            from: at(from[0], from[1]),
            to: at(to[0], to[1]),
            paint: Paint::Support,
        };
        let mut shapes = vec![
            wall([-HALF, 0.6], [-HALF, -DEEP - 0.3]),
            wall([-HALF, -DEEP - 0.3], [HALF, -DEEP - 0.3]),
            wall([HALF, -DEEP - 0.3], [HALF, 0.6]),
            SceneShape::Line { from: at(-HALF, 0.0), to: at(HALF, 0.0), paint: Paint::Thread },
            SceneShape::Line { from: at(-HALF, 1.3), to: at(HALF, 1.3), paint: Paint::Support },
            SceneShape::Scale { zero: [-HALF, 0.0], along: [0.0, -1.0], from: 0.0, length: DEEP, division: 0.1 },
        ];
        let mut handles = Vec::new();
        for (gauge, (depth, tip)) in DEPTHS.into_iter().zip(TIPS).enumerate() {
            let Some(set) = settings.given(depth) else { continue };
            let x = across(gauge);
            let end = [Coordinate::Fixed(x), Coordinate::Channel(tip)];
            let above = |plus| [Coordinate::Fixed(x), Coordinate::Moved { channel: tip, times: 1.0, plus }];
            shapes.extend([
                SceneShape::Line { from: at(x, 1.3), to: above(0.5), paint: Paint::Thread },
                SceneShape::Disc { centre: above(0.34), radius: 0.16, turn: None, paint: Paint::Body },
                SceneShape::Line { from: above(0.18), to: end, paint: Paint::Aid },
                SceneShape::Word { place: [x - 0.05, 1.5], text: format!("{}", gauge + 1) },
            ]);
            let by = [0.0, -1.0];
            handles.push(Handle::of(&format!("Gauge {}", gauge + 1), [x, -set], depth, Follows::Along { by }));
        }
        Scene {
            handles,
            held_still: true,
            loupe: Some([Coordinate::Fixed(across(0)), Coordinate::Channel(TIPS[0])]),
            ..Scene::of(Bounds { left: -HALF - 1.2, right: HALF + 0.6, bottom: -DEEP - 0.7, top: 2.1 }, shapes, [1, 0])
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn run(settings: &Settings, seed: u64) -> Run {
        Basin.run(settings, seed, Basin.clock(settings).sampling()).unwrap()
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(100) })]
        /// Δp = ρ·g·Δd between any two gauges, in any liquid on any world, whatever the air does.
        #[test]
        fn pressure_grows_with_depth_and_density(density in 500f64..3000.0, gravity in 0.5f64..30.0, air in 0f64..2e5, one in 0f64..10.0, two in 0f64..10.0, seed in 0u64..1000) {
            let mut s = Basin.card().defaults();
            for choice in ["liquid", "world"] {
                s.choose(choice, UNKNOWN);
            }
            let values = [("density", density), (worlds::GRAVITY, gravity), ("air", air), (DEPTHS[0], one), (DEPTHS[2], two)];
            values.iter().for_each(|(name, value)| s.set(name, *value));
            let r = run(&s, seed);
            let depth = |tip: &str| -r.channel(tip).unwrap().last().unwrap();
            let (d_1, d_3) = (depth(TIPS[0]), depth(TIPS[2]));
            prop_assert!((d_1 - one).abs() <= 0.5 * TENTH + 1e-12 && (d_3 - two).abs() <= 0.5 * TENTH + 1e-12);
            let (p_1, p_3) = (r.found(PRESSURES[0]).unwrap(), r.found(PRESSURES[2]).unwrap());
            prop_assert!((p_3 - p_1 - density * gravity * (d_3 - d_1)).abs() <= 1e-9 * p_1.max(p_3).max(1.0));
            prop_assert!((p_1 - air - density * gravity * d_1).abs() <= 1e-9 * p_1.max(1.0));
            // A gauge that is not in the basin shows nothing.
            prop_assert!(r.found(PRESSURES[1]).is_none());
        }
    }

    #[test]
    fn no_two_gauges_hang_alike_and_the_surface_is_the_air() {
        let mut s = Basin.card().defaults();
        s.set(DEPTHS[0], 0.0);
        s.set(DEPTHS[1], 3.0);
        let tips: Vec<f64> =
            (0..200).map(|seed| *run(&s, seed).channel(TIPS[1]).unwrap().last().unwrap() + 3.0).collect();
        let mean = tips.iter().sum::<f64>() / 200.0;
        // Even over the tenth: mean 0 and standard deviation TENTH/√12, each within four standard errors.
        let sd = (tips.iter().map(|t| (t - mean).powi(2)).sum::<f64>() / 199.0).sqrt();
        assert!(mean.abs() < 4.0 * TENTH / 12f64.sqrt() / 200f64.sqrt(), "{mean}");
        assert!((sd / (TENTH / 12f64.sqrt()) - 1.0).abs() < 0.2, "{sd}");
        assert_eq!(run(&s, 1).outcome.told, Some(Ending::GaugeAtSurface));
    }
}
