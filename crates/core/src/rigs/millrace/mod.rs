//! The mill race: a pipe that narrows and climbs between three stations.
//!
//! Ideal flow: A·v = Q everywhere, and p + ½·ρ·v² + ρ·g·h is the same along the pipe (D. Bernoulli, *Hydrodynamica* (1738); Halliday,
//! Resnick, Walker, 10th edition, 14-6 and 14-7). The pipe is level and as wide as at the stations there, and smooth between them. Exact.

use std::f64::consts::PI;

use super::contract::card::{even_step, unit};
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::ending::{Ending, coarse};
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::{choice, quantity};
use super::{
    Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape, Settings,
};

/// Length of the pipe and places of its stations, in m.
const LONG: f64 = 6.0;
const STATIONS: [f64; 3] = [1.0, 3.0, 5.0];
/// How far from a station the pipe is as it is there, in m.
const LEVEL: f64 = 0.3;
/// Parts into which the pipe is cut to find how long a drop takes, and to draw it.
const PARTS: usize = 600;
/// Frames of a drop's way through the pipe, about.
const FRAMES: f64 = 300.0;
/// Strength of gravity, in m/s².
const GRAVITY: f64 = 9.81;
/// Liquids at 20 °C: name, density in kg/m³, vapour pressure in Pa. Water 998.2 and 2339, rape oil 915 and next to none (CRC Handbook of
/// Chemistry and Physics, 97th edition, 6-5 and 6-8; from memory).
const LIQUIDS: [(&str, f64, f64); 2] = [("water", 998.2, 2_339.0), ("oil", 915.0, 1.0)];
const UNKNOWN: &str = "unknown";
const DIAMETERS: [&str; 3] = ["diameter 1", "diameter 2", "diameter 3"];
const HEIGHTS: [&str; 3] = ["height 1", "height 2", "height 3"];

/// The mill race.
pub(super) struct MillRace;

/// The pipe with what flows in it, in SI units.
struct Pipe {
    density: f64,
    vapour: f64,
    flow: f64,
    diameters: [f64; 3],
    heights: [f64; 3],
    /// p + ½·ρ·v² + ρ·g·h, in Pa.
    sum: f64,
}

/// What is at a place of the pipe, in SI units.
struct There {
    diameter: f64,
    height: f64,
    speed: f64,
    pressure: f64,
}

impl Pipe {
    fn new(s: &Settings) -> Self {
        let chosen = s.chosen("liquid");
        let liquid = LIQUIDS.iter().find(|l| l.0 == chosen);
        let (density, vapour) = liquid.map_or_else(|| (s.get("density"), 1.0), |l| (l.1, l.2));
        let mut pipe = Self {
            density,
            vapour,
            flow: s.get("flow"),
            diameters: DIAMETERS.map(|name| s.get(name)),
            heights: HEIGHTS.map(|name| s.get(name)),
            sum: 0.0,
        };
        let first = pipe.at(STATIONS[0]);
        pipe.sum = s.get("pressure 1") - first.pressure;
        pipe
    }

    fn at(&self, x: f64) -> There {
        let between = |values: &[f64; 3]| {
            let mut value = values[0];
            for pair in 0..2 {
                let (from, to) = (STATIONS[pair] + LEVEL, STATIONS[pair + 1] - LEVEL);
                let share = ((x - from) / (to - from)).clamp(0.0, 1.0);
                value += (values[pair + 1] - values[pair]) * share * share * (3.0 - 2.0 * share);
            }
            value
        };
        let (diameter, height) = (between(&self.diameters), between(&self.heights));
        let speed = self.flow / (0.25 * PI * diameter * diameter);
        let pressure = self.sum - self.density * (0.5 * speed * speed + GRAVITY * height);
        There { diameter, height, speed, pressure }
    }

    /// Times at which a drop passes the ends of the parts, in s.
    fn passes(&self) -> Vec<f64> {
        let part = LONG / PARTS as f64;
        let mut times = vec![0.0];
        for i in 0..PARTS {
            // The speed in the middle of a part.
            times.push(times[i] + part / self.at((i as f64 + 0.5) * part).speed);
        }
        times
    }

    /// Where the pressure is least, with that pressure.
    fn least(&self) -> (f64, f64) {
        let all = (0..=PARTS).map(|i| LONG * i as f64 / PARTS as f64).map(|x| (x, self.at(x).pressure));
        all.min_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0.0, self.sum))
    }

    fn trouble(&self) -> Option<RunOutcome> {
        let (x, pressure) = self.least();
        (pressure < self.vapour).then(|| {
            RunOutcome::failed(Ending::LiquidBoils { x: coarse(x, 0.1), kilopascals: coarse(self.vapour / 1e3, 0.1) })
        })
    }
}

fn recorders() -> Vec<Recorder<[f64; 3]>> {
    vec![
        recorder("x", "x", "m", 0.001, |m: &[f64; 3]| m[0]).of(Role::PlaceX).called("position x"),
        recorder("y", "y", "m", 0.001, |m: &[f64; 3]| m[1]).of(Role::PlaceY).called("position y"),
        recorder("speed", "v", "m/s", 0.001, |m| m[2]),
    ]
}

impl Rig for MillRace {
    fn card(&self) -> Card {
        let liquids: &[(&str, &str)] = &[("water", "water"), ("oil", "rape oil"), (UNKNOWN, "unknown liquid")];
        let wide = |name, label, symbol, usual| quantity(name, label, symbol, "mm", [20.0, 400.0, 1.0, usual]);
        let high = |name, label, symbol, usual| quantity(name, label, symbol, "m", [-5.0, 5.0, 0.01, usual]);
        Card {
            name: "millrace",
            revision: 1,
            title: "Mill race",
            leaves_out: "friction: the flow is ideal, as fast at the wall as in the middle, and loses no energy on its way.",
            settings: vec![
                choice("liquid", "liquid", liquids),
                quantity("density", "density", "ρ", "kg/m^3", [500.0, 2000.0, 1.0, 1100.0]).with("liquid", UNKNOWN),
                quantity("flow", "flow", "Q", "L/s", [0.1, 200.0, 0.1, 20.0]),
                wide(DIAMETERS[0], "diameter at station 1", "d_1", 120.0),
                wide(DIAMETERS[1], "diameter at station 2", "d_2", 80.0),
                wide(DIAMETERS[2], "diameter at station 3", "d_3", 100.0),
                high(HEIGHTS[0], "height of station 1", "h_1", -0.6),
                high(HEIGHTS[1], "height of station 2", "h_2", 0.5),
                high(HEIGHTS[2], "height of station 3", "h_3", 1.4),
                quantity("pressure 1", "pressure at station 1", "p_1", "kPa", [1.0, 1000.0, 0.1, 180.0]),
                quantity("place", "place of the gauges", "x_g", "m", [0.0, LONG, 0.01, STATIONS[0]]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("speed", "flow-speed gauge", "v", "m/s", [0.01, 0.01]).telling(&["flow"]),
                found("pressure", "pressure gauge", "p", "kPa", [0.1, 0.1]),
                found("height", "height of the gauges", "h", "m", [0.01, 0.0]),
                found("width", "width of the pipe", "d", "mm", [1.0, 0.0]),
                found("flow", "ring: flow through it", "Q", "L/s", [0.1, 0.05]).telling(&["flow"]),
                found("flux", "ring: flow per area", "q", "L/(m^2 s)", [10.0, 10.0]).telling(&["flow"]),
            ],
            arrows: Vec::new(),
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["speed"],
            by_hand: false,
            second: None,
        }
    }

    /// Some three hundred frames for a drop's way, which takes four seconds to watch.
    fn clock(&self, settings: &Settings) -> Clock {
        let pipe = Pipe::new(settings);
        // A frame time from the flow would tell a hidden one; from what a pipe of usual width carries it tells its order alone.
        let way = pipe.passes().last().copied().unwrap_or(1.0);
        let every = even_step(10f64.powf(way.log10().ceil()) / FRAMES / 2.0);
        Clock { every, lasts: (4.0 * FRAMES).min((way / every).ceil()) * every, frame: 4.0 / FRAMES, unit: "s" }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let pipe = Pipe::new(settings);
        let trouble = pipe.trouble();
        let passes = pipe.passes();
        let frames = if trouble.is_some() { 2.min(sampling.frames()?) } else { sampling.frames()? };
        let mut part = 0;
        let places: Vec<f64> = (0..frames)
            .map(|i| {
                let t = sampling.time(i);
                while part + 1 < PARTS && passes[part + 1] < t {
                    part += 1;
                }
                let share = ((t - passes[part]) / (passes[part + 1] - passes[part])).clamp(0.0, 1.0);
                (part as f64 + share) * LONG / PARTS as f64
            })
            .collect();
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let there = pipe.at(places[i]);
            [places[i], there.height, there.speed]
        });
        if let Some(outcome) = trouble {
            run.outcome = outcome;
        } else {
            let there = pipe.at(settings.get("place"));
            run.found = vec![
                ("speed", there.speed),
                ("pressure", there.pressure),
                ("height", there.height),
                ("width", there.diameter),
                ("flow", pipe.flow),
                ("flux", there.speed),
            ];
        }
        Ok(run)
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        vec![("ρ_l", Pipe::new(settings).density)]
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let pipe = Pipe::new(settings);
        let xs: Vec<f64> = (0..=120).map(|i| LONG * f64::from(i) / 120.0).collect();
        let edge = |side: f64| {
            let points = xs.iter().map(|x| (*x, pipe.at(*x))).map(|(x, t)| [x, t.height + side * 0.5 * t.diameter]);
            SceneShape::Curve { points: points.collect(), sways: Vec::new(), paint: Paint::Thread }
        };
        let low = pipe.heights.iter().copied().fold(0.0, f64::min) - 0.4;
        let high = pipe.heights.iter().copied().fold(0.0, f64::max) + 0.4;
        let place = settings.get("place");
        let there = pipe.at(place);
        let [bottom, top] = [-0.5, 0.5].map(|side| there.height + side * there.diameter);
        let mut shapes = vec![
            SceneShape::Line { from: at(-0.3, 0.0), to: at(LONG + 0.3, 0.0), paint: Paint::Guide },
            SceneShape::Word { place: [LONG - 0.3, 0.06], text: "ground".to_owned() },
            edge(1.0),
            edge(-1.0),
            SceneShape::Line { from: at(place, bottom), to: at(place, top), paint: Paint::Aid },
            SceneShape::Line { from: at(place, top), to: at(place, top + 0.25), paint: Paint::Aid },
            SceneShape::Scale { zero: [-0.35, 0.0], along: [0.0, 1.0], from: low, length: high, division: 0.1 },
        ];
        let mut handles = vec![Handle::along("Gauges", [place, top + 0.25], "place", [1.0, 0.0])];
        for (number, x) in STATIONS.into_iter().enumerate() {
            let there = pipe.at(x);
            let under = there.height - 0.5 * there.diameter;
            shapes.push(SceneShape::Word { place: [x - 0.03, under - 0.35], text: format!("{}", number + 1) });
            let name = format!("Station {}", number + 1);
            let by = [0.0, 1.0];
            handles.push(Handle::of(&name, [x, there.height], HEIGHTS[number], Follows::Along { by }));
        }
        shapes.push(SceneShape::Disc {
            centre: [Coordinate::Channel("x"), Coordinate::Channel("y")],
            radius: 0.018,
            turn: None,
            paint: Paint::Body,
        });
        Scene {
            handles,
            held_still: true,
            loupe: Some(at(place, top)),
            ..Scene::of(
                Bounds { left: -0.7, right: LONG + 0.4, bottom: low - 0.3, top: high + 0.3 },
                shapes,
                [15, usize::MAX >> 12],
            )
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn run(change: &[(&str, f64)]) -> Run {
        let mut s = MillRace.card().defaults();
        change.iter().for_each(|(name, value)| s.set(name, *value));
        MillRace.run(&s, 0, MillRace.clock(&s).sampling()).unwrap()
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(100) })]
        /// A·v and p + ½ρv² + ρgh are the same at any two places.
        #[test]
        fn flow_and_energy_are_kept_along_the_pipe(flow in 1e-3f64..0.03, d_1 in 0.08f64..0.4, d_2 in 0.08f64..0.4, d_3 in 0.08f64..0.4, h_2 in -5f64..5.0, h_3 in -5f64..5.0, one in 0f64..6.0, two in 0f64..6.0) {
            let set = |place: f64| {
                let sizes = [("flow", flow), ("diameter 1", d_1), ("diameter 2", d_2), ("diameter 3", d_3), ("height 2", h_2), ("height 3", h_3)];
                let made = run(&[&sizes[..], &[("pressure 1", 4e5), ("place", place)]].concat());
                ["speed", "pressure", "height", "width"].map(|name| made.found(name).unwrap())
            };
            let (a, b) = (set(one), set(two));
            let flows = [a, b].map(|[v, _, _, d]| 0.25 * PI * d * d * v);
            prop_assert!((flows[0] / flow - 1.0).abs() < 1e-12 && (flows[1] / flow - 1.0).abs() < 1e-12);
            let sums = [a, b].map(|[v, p, h, _]| p + 998.2 * (0.5 * v * v + 9.81 * h));
            prop_assert!((sums[0] / sums[1] - 1.0).abs() < 1e-12, "{sums:?}");
            let [v, p, ..] = set(STATIONS[0]);
            prop_assert!((p - 4e5).abs() < 1e-6 && (v / (flow / (0.25 * PI * d_1 * d_1)) - 1.0).abs() < 1e-12);
        }
    }

    /// A worked example: 0.40 m³/min through 80 mm and then 40 mm, 2.0 m lower; the figures follow by hand from A·v and Bernoulli's sum.
    #[test]
    fn a_drop_goes_as_the_gauges_say_and_boiling_is_explained() {
        let made = run(&[]);
        let (x, speed) = (made.channel("x").unwrap(), made.channel("speed").unwrap());
        let every = made.sampling.every;
        for i in (1..made.frames() - 1).step_by(7) {
            let v = (x[i + 1] - x[i - 1]) / (2.0 * every);
            assert!((v / speed[i] - 1.0).abs() < 0.01, "{v} at {}", x[i]);
        }
        assert!((x.last().unwrap() - LONG).abs() < 0.1, "{:?}", x.last());
        let boils = run(&[("flow", 0.2), ("diameter 2", 0.03)]);
        let told = matches!(boils.outcome.told, Some(Ending::LiquidBoils { kilopascals, .. }) if (kilopascals - 2.3).abs() < 0.05);
        assert!(boils.outcome.failed && told, "{:?}", boils.outcome);
        assert!(boils.found.is_empty() && boils.frames() == 2);
        // Down two metres and from 80 to 40 mm: Q = 0.4/60 m³/s, v = 1.326 and 5.305 m/s, p = 200 + 0.878 − 14.047 + 19.585 kPa.
        let fall = [
            ("flow", 0.4 / 60.0),
            ("diameter 1", 0.08),
            ("diameter 2", 0.04),
            ("height 1", 2.0),
            ("height 2", 0.0),
            ("pressure 1", 2e5),
            ("place", 3.0),
        ];
        let down = run(&fall);
        assert!((down.found("speed").unwrap() - 5.305).abs() < 1e-3);
        assert!((down.found("pressure").unwrap() / 1e3 - 206.41).abs() < 0.02, "{:?}", down.found("pressure"));
        assert_eq!(down.found("flux"), down.found("speed"), "a flux in L/(m² s) is a speed in mm/s");
    }
}
