//! The slope: a sledge slides, or a ball, ring or cylinder rolls, down a straight slope and on along the flat.
//!
//! With the body's moment of inertia I = k·m·r² (sledge 0, ball 2/5, cylinder 1/2, ring 1; Halliday, Resnick, Walker,
//! *Fundamentals of Physics*, 10th edition, table 10-2):
//! * rolling without slipping a = g·sin α/(1 + k), while the grip suffices: μ ≥ tan α·k/(1 + k) (same, 11-2);
//! * sliding a = g·(sin α − μ·cos α), and a sliding round body is spun up with r·ω′ = μ·g·cos α/k;
//! * a sledge is held at rest where tan α ≤ μ_s, the coefficient of static friction, which is μ if none is set.
//!
//! On the flat the sledge slows down with μ·g, a round body rolls on for ever. The foot is rounded off: it keeps the speed.
//! Accelerations change only from leg to leg, so all is exact.

use super::contract::card::{arrow, unit};
use super::contract::channel::{Energetic, Recorder, energies, energies_of, place, recorder, specs};
use super::contract::ending::{Ending, coarse};
use super::contract::legs::{Leg, Legs};
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::{ALL_ALONG, at};
use super::contract::setting::{choice, optional, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Follows, Handle, Paint, Rig, RigError, Run, Sampling, Scene,
    SceneShape, Settings, worlds,
};

/// Length of the flat end, in m.
const FLAT: f64 = 3.0;
/// Width of the flag that darkens the gates, in m.
const FLAG: f64 = 0.05;

/// The slope.
pub(super) struct Slope;

/// k in I = k·m·r²; none for a body that slides.
fn inertia(settings: &Settings) -> Option<f64> {
    match settings.chosen("body") {
        "ball" => Some(0.4),
        "ring" => Some(1.0),
        "cylinder" => Some(0.5),
        _ => None,
    }
}

/// The body at a moment, in SI units and rad; s, v and a along the way.
struct Sliding {
    s: f64,
    v: f64,
    a: f64,
    x: f64,
    y: f64,
    tilt: f64,
    sin: f64,
    cos: f64,
    turn: f64,
    m: f64,
    g: f64,
    kinetic: f64,
}

impl Sliding {
    /// Its weight along the slope and into it, which the normal force balances.
    fn weight(&self) -> [f64; 2] {
        [self.m * self.g * self.sin, self.m * self.g * self.cos]
    }

    fn friction(&self) -> f64 {
        self.m * self.a - self.m * self.g * self.sin
    }
}

impl Energetic for Sliding {
    fn energies(&self) -> [f64; 3] {
        energies_of(self.kinetic, self.m, self.g, self.y)
    }
}

fn recorders() -> Vec<Recorder<Sliding>> {
    let along = [
        recorder("s", "s", "m", 0.001, |b: &Sliding| b.s).called("distance").seen(),
        recorder("v", "v", "m/s", 0.01, |b: &Sliding| b.v).called("velocity").seen(),
        recorder("a", "a", "m/s^2", 0.01, |b: &Sliding| b.a).called("acceleration"),
    ];
    let own = [
        recorder("tilt", "θ", "rad", 0.001, |b: &Sliding| b.tilt),
        recorder("turn", "φ", "rad", 0.01, |b| b.turn),
        recorder("v_x", "v_x", "m/s", 0.01, |b: &Sliding| b.v * b.cos).called("velocity along x").seen(),
        recorder("v_y", "v_y", "m/s", 0.01, |b: &Sliding| -b.v * b.sin).called("velocity along y").seen(),
        recorder("a_x", "a_x", "m/s^2", 0.01, |b: &Sliding| b.a * b.cos).called("acceleration along x"),
        recorder("a_y", "a_y", "m/s^2", 0.01, |b: &Sliding| -b.a * b.sin).called("acceleration along y"),
        recorder("weight", "F_w", "N", 0.01, |b| -b.m * b.g),
        recorder("normal x", "F_nx", "N", 0.01, |b| b.weight()[1] * b.sin),
        recorder("normal y", "F_ny", "N", 0.01, |b| b.weight()[1] * b.cos),
        recorder("friction x", "F_fx", "N", 0.01, |b| b.friction() * b.cos),
        recorder("friction y", "F_fy", "N", 0.01, |b| -b.friction() * b.sin),
        recorder("net x", "F_x", "N", 0.01, |b| b.m * b.a * b.cos),
        recorder("net y", "F_y", "N", 0.01, |b| -b.m * b.a * b.sin),
        recorder("down x", "F_dx", "N", 0.01, |b| b.weight()[0] * b.cos),
        recorder("down y", "F_dy", "N", 0.01, |b| -b.weight()[0] * b.sin),
        recorder("into x", "F_ix", "N", 0.01, |b| -b.weight()[1] * b.sin),
        recorder("into y", "F_iy", "N", 0.01, |b| -b.weight()[1] * b.cos),
    ];
    along.into_iter().chain(place(0.001, |b: &Sliding| b.x, |b| b.y)).chain(own).chain(energies()).collect()
}

impl Rig for Slope {
    fn card(&self) -> Card {
        let bodies: &[(&str, &str)] =
            &[("sledge", "sledge"), ("ball", "solid ball"), ("ring", "ring"), ("cylinder", "solid cylinder")];
        let along = |name, label, letter, kind, along, up| arrow(name, label, letter, kind, along).beside([0.0, up]);
        let one = ArrowKind::Force;
        Card {
            name: "slope",
            revision: 1,
            title: "Slope",
            leaves_out: "drag, rolling resistance, the size of the gates, and the rounding of the foot. A body never leaves the slope.",
            settings: vec![
                choice("body", "body", bodies),
                quantity("angle", "angle of the slope", "α", "deg", [1.0, 60.0, 0.1, 20.0]),
                quantity("length", "length of the slope", "l", "m", [0.2, 20.0, 0.01, 2.0]),
                quantity("mass", "mass", "m", "kg", [0.05, 20.0, 0.01, 0.5]),
                quantity("friction", "coefficient of sliding friction", "μ", "1", [0.0, 1.5, 0.001, 0.05]),
                optional("static", "coefficient of static friction", "μ_s", "1", [0.0, 2.0, 0.001], "as sliding"),
                quantity("grip", "grip of round bodies", "μ_g", "1", [0.0, 1.5, 0.001, 0.8]),
                choice("world", "world", worlds::OPTIONS),
                quantity("gravity", "gravity of the unknown world", "g", "m/s^2", [0.05, 30.0, 0.01, 5.0])
                    .with("world", "unknown"),
                quantity("gate 1", "first gate at", "s_1", "m", [0.0, 23.0, 0.01, 0.0]),
                quantity("gate 2", "second gate at", "s_2", "m", [0.0, 23.0, 0.01, 2.0]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("time", "timer from gate to gate", "t", "s", [0.001, 0.002]),
                found("dark", "dark time of the second gate, flag 5.00 cm", "t_d", "s", [0.0001, 0.0002]),
                found("mass", "balance", "m", "kg", [0.001, 0.0]).telling(&["mass"]),
            ],
            arrows: vec![
                along("velocity", "velocity", "v", ArrowKind::Velocity, ["v_x", "v_y"], 0.35),
                along("acceleration", "acceleration", "a", ArrowKind::Acceleration, ["a_x", "a_y"], 0.5),
                along("weight", "weight", "W", one, ["", "weight"], 0.0),
                along("down", "weight along the slope", "W∥", ArrowKind::ForceComponent, ["down x", "down y"], 0.0),
                along("into", "weight into the slope", "W⊥", ArrowKind::ForceComponent, ["into x", "into y"], 0.0),
                along("normal", "normal force", "N", one, ["normal x", "normal y"], 0.0),
                along("friction", "friction", "f", one, ["friction x", "friction y"], 0.0),
                along("net", "net force", "ΣF", ArrowKind::Net, ["net x", "net y"], 0.2),
            ],
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["s", "v"],
            by_hand: false,
            second: None,
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let slide = Slide::new(settings);
        let (legs, outcome) = slide.motion(sampling.duration);
        let frames = ((legs.end / sampling.every + 1e-9).floor() as usize + 1).min(sampling.frames()?);
        let (m, g, alpha) = (settings.get("mass"), slide.gravity, slide.angle);
        let foot = legs.time_at(slide.length).unwrap_or(f64::INFINITY);
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let [s, v, a] = legs.at(sampling.time(i));
            // While it lies still nothing moves it down: friction takes up what gravity gives.
            let tilt = if s < slide.length { alpha } else { 0.0 };
            let (sin, cos) = tilt.sin_cos();
            let [x, y] = slide.place(s);
            let rim = slide.rim(sampling.time(i), foot, v);
            let kinetic = 0.5 * m * (v * v + slide.k.unwrap_or(0.0) * rim * rim);
            Sliding { s, v, a, x, y, tilt, sin, cos, turn: -slide.turned(s), m, g, kinetic }
        });
        run.found = vec![("mass", m)];
        let gates = [settings.get("gate 1"), settings.get("gate 2")].map(|s| legs.time_at(s));
        if let [Some(first), Some(second)] = gates
            && first != second
        {
            run.found.push(("time", (second - first).abs()));
        }
        // The flag's middle is on the body: half of it is before the gate when the light goes out.
        let flag = [-FLAG / 2.0, FLAG / 2.0].map(|by| legs.time_at((settings.get("gate 2") + by).max(0.0)));
        if let [Some(dark), Some(light)] = flag {
            run.found.push(("dark", light - dark));
        }
        run.outcome = outcome;
        Ok(run)
    }

    fn gravity_from(&self, settings: &Settings) -> Option<&'static str> {
        Some(worlds::decided_by(settings))
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        vec![("g", worlds::gravity(settings))]
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let slide = Slide::new(settings);
        let [left, top] = slide.place(0.0);
        let place = [Coordinate::Channel("x"), Coordinate::Channel("y")];
        let size = (0.04 * slide.length).clamp(0.05, 0.4);
        // The way is that of the body's middle; what it rests on lies below by half its height, at right angles.
        let under = if slide.k.is_some() { size } else { size / 2.0 };
        let (sin, cos) = slide.angle.sin_cos();
        let corner = -under * (slide.angle / 2.0).tan();
        let mut shapes = vec![
            SceneShape::Line {
                from: at(left - under * sin, top - under * cos),
                to: at(corner, -under),
                paint: Paint::Support,
            },
            SceneShape::Line { from: at(corner, -under), to: at(FLAT + 0.4, -under), paint: Paint::Support },
            SceneShape::Line { from: at(left - under * sin, -under), to: at(corner, -under), paint: Paint::Thread },
        ];
        let turn = || Handle::turn("Top of the slope", [left, top], "angle", [0.0; 2], -1.0);
        let reach = Follows::Reach { from: [0.0; 2], by: 1.0 };
        let mut handles = vec![turn().and("length", reach), turn()];
        for (gate, name) in [("gate 1", "1"), ("gate 2", "2")] {
            let s = settings.get(gate);
            let [x, y] = slide.place(s);
            let tilt = if s < slide.length { slide.angle } else { 0.0 };
            let (up_x, up_y) = (tilt.sin() * 3.2 * size, tilt.cos() * 3.2 * size);
            let foot = at(x - under * tilt.sin(), y - under * tilt.cos());
            shapes.push(SceneShape::Line { from: foot, to: at(x + up_x, y + up_y), paint: Paint::Aid });
            shapes.push(SceneShape::Word { place: [x + 1.2 * up_x, y + 1.2 * up_y], text: name.to_owned() });
            let way = Follows::Way {
                points: vec![[left, top], [0.0, 0.0], [FLAT, 0.0]],
                ways: vec![0.0, slide.length, slide.length + FLAT],
            };
            handles.push(Handle::of(&format!("Gate {name}"), [x + up_x, y + up_y], gate, way));
        }
        shapes.push(if slide.k.is_some() {
            // A ring is hollow.
            let paint = if settings.chosen("body") == "ring" { Paint::Other } else { Paint::Body };
            SceneShape::Disc { centre: place, radius: size, turn: Some(Coordinate::Channel("turn")), paint }
        } else {
            let turn = Coordinate::Moved { channel: "tilt", times: -1.0, plus: 0.0 };
            SceneShape::Box { centre: place, size: [3.0 * size, size], turn, paint: Paint::Body }
        });
        let bounds = Bounds { left, right: 0.25 * slide.length, bottom: -under - 0.1, top: top + 4.0 * size };
        Scene { bounds: bounds.with_margin(0.03), shapes, loupe: None, strobe: ALL_ALONG, handles, ..Scene::default() }
    }
}

/// A body on a slope.
struct Slide {
    angle: f64,
    length: f64,
    gravity: f64,
    /// Coefficient of sliding friction; the grip of a round body.
    friction: f64,
    /// Coefficient of static friction, never below that of sliding.
    holds: f64,
    /// k in I = k·m·r²; none for a body that slides.
    k: Option<f64>,
}

impl Slide {
    fn new(settings: &Settings) -> Self {
        let k = inertia(settings);
        let friction = settings.get(if k.is_some() { "grip" } else { "friction" });
        Self {
            angle: settings.get("angle"),
            length: settings.get("length"),
            gravity: worlds::gravity(settings),
            friction,
            holds: settings.get("static").max(friction),
            k,
        }
    }

    /// Where the body is after a way s; the foot of the slope is the origin.
    fn place(&self, s: f64) -> [f64; 2] {
        let (sin, cos) = self.angle.sin_cos();
        let up = (self.length - s).max(0.0);
        [if s < self.length { -up * cos } else { s - self.length }, up * sin]
    }

    /// Angle a body drawn with radius 0.04·l has turned by, without slipping.
    fn turned(&self, s: f64) -> f64 {
        s / (0.04 * self.length).clamp(0.05, 0.4)
    }

    /// Speed of a round body's rim about its middle at a time, in m/s: friction spins it up, r·ω′ = f/(k·m), until it rolls with
    /// the speed `v`. Zero for a body that slides.
    fn rim(&self, t: f64, foot: f64, v: f64) -> f64 {
        let Some(k) = self.k else { return 0.0 };
        let (sin, cos) = self.angle.sin_cos();
        let grip = self.friction * self.gravity;
        // What spins it up on the slope is at most what rolling without slipping takes.
        let on_slope = (grip * cos / k).min(self.gravity * sin / (1.0 + k));
        (on_slope * t.min(foot) + grip / k * (t - foot).max(0.0)).min(v)
    }

    /// The way s along slope and flat.
    fn motion(&self, longest: f64) -> (Legs, RunOutcome) {
        let (g, mu) = (self.gravity, self.friction);
        let (sin, cos) = self.angle.sin_cos();
        let mut legs = Legs::default();
        let grips = self.k.is_some_and(|k| mu * cos * (1.0 + k) >= k * sin);
        let down = match self.k {
            Some(k) if grips => g * sin / (1.0 + k),
            _ => g * (sin - mu * cos),
        };
        if down <= 0.0 || (self.k.is_none() && sin <= self.holds * cos) {
            legs.push(Leg { from: 0.0, x: 0.0, v: 0.0, a: 0.0 }, 2.0_f64.min(longest));
            return (legs, RunOutcome::failed(Ending::FrictionHoldsSledge));
        }
        let slope = Leg { from: 0.0, x: 0.0, v: 0.0, a: down };
        let Some(foot) = slope.time_to(self.length).filter(|t| *t < longest) else {
            legs.push(slope, longest);
            return (legs, RunOutcome::failed(Ending::MissesFoot { seconds: coarse(longest, 1.0) }));
        };
        legs.push(slope, foot);
        let end = self.length + FLAT;
        let mut leg = Leg { from: foot, x: self.length, v: slope.at(foot).1, a: 0.0 };
        match self.k {
            // A round body that slipped is faster than it turns: friction on the flat evens this out.
            Some(k) if !grips && mu > 0.0 => {
                let rim = mu * g * cos / k * foot;
                leg.a = -mu * g;
                let even = foot + (leg.v - rim) / (mu * g * (1.0 + 1.0 / k));
                if leg.time_to(end).is_none_or(|t| t > even) && even < longest {
                    legs.push(leg, even);
                    let (x, v) = leg.at(even);
                    leg = Leg { from: even, x, v, a: 0.0 };
                }
            }
            Some(_) => {}
            None => leg.a = -mu * g,
        }
        let rest = leg.time_to_rest();
        let stop = leg.time_to(end).filter(|t| rest.is_none_or(|r| *t <= r));
        legs.push(leg, [rest, stop].into_iter().flatten().fold(longest, f64::min));
        let told = (self.k.is_some() && !grips).then_some(Ending::Slips);
        (legs, RunOutcome { told, failed: false })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn run(body: &str, change: &[(&str, f64)]) -> Run {
        let mut s = Slope.card().defaults();
        s.choose("body", body);
        change.iter().for_each(|(name, value)| s.set(name, *value));
        Slope.run(&s, 0, Sampling { every: 0.01, duration: 60.0 }).unwrap()
    }

    /// Rolling bodies: 5/7, 1/2, 2/3 of g·sin α (Halliday, Resnick, Walker, 10th edition, 11-2).
    #[test]
    fn round_bodies_roll_with_their_share_of_the_slope() {
        let g_sin = 9.81 * 20f64.to_radians().sin();
        for (body, share) in [("ball", 5.0 / 7.0), ("ring", 0.5), ("cylinder", 2.0 / 3.0), ("sledge", 1.0)] {
            let r = run(body, &[("friction", 0.0)]);
            assert!((r.channel("a").unwrap()[0] / g_sin - share).abs() < 1e-12, "{body}");
            let wanted = (2.0 * 2.0 / (share * g_sin)).sqrt();
            assert!((r.found("time").unwrap() - wanted).abs() < 1e-9);
        }
        let slips = run("ring", &[("grip", 0.05)]);
        assert_eq!(slips.outcome.told, Some(Ending::Slips));
        assert!((slips.channel("a").unwrap()[0] - (g_sin - 0.05 * 9.81 * 20f64.to_radians().cos())).abs() < 1e-12);
        assert!(run("sledge", &[("friction", 0.4)]).outcome.failed);
        let edge = 20f64.to_radians().tan();
        assert!(!run("sledge", &[("friction", edge - 0.001)]).outcome.failed);
        // What holds it may be more than what slows it down once it slides.
        let sticks = |held: f64| run("sledge", &[("friction", 0.1), ("static", held)]);
        assert!(sticks(edge + 0.001).outcome.failed && !sticks(edge - 0.001).outcome.failed);
        assert_eq!(sticks(edge - 0.001).channel("s"), run("sledge", &[("friction", 0.1)]).channel("s"));
        // The speed at the second gate by its dark time, on the flat.
        let flat = run("ball", &[("gate 2", 3.0)]);
        let v = flat.channel("v").unwrap().last().unwrap();
        assert!((0.05 / flat.found("dark").unwrap() / v - 1.0).abs() < 1e-9);
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(60) })]
        /// Work of gravity is kinetic energy, that of turning included, and heat; heat never shrinks, and there is none while a
        /// body rolls without slipping or nothing rubs.
        #[test]
        fn energy_is_accounted_for(body in 0usize..4, degrees in 1f64..60.0, mu in 0f64..1.2, length in 0.5f64..10.0) {
            let body = ["sledge", "ball", "ring", "cylinder"][body];
            let mu = if mu < 0.1 { 0.0 } else { mu };
            let r = run(body, &[("angle", degrees.to_radians()), ("friction", mu), ("grip", mu), ("length", length)]);
            let k = inertia(&{ let mut s = Settings::default(); s.choose("body", body); s }).unwrap_or(0.0);
            let grips = body != "sledge" && mu * (1.0 + k) >= k * degrees.to_radians().tan();
            let [e_k, e_p, e] = ["kinetic energy", "potential energy", "total energy"].map(|n| r.channel(n).unwrap());
            let least = 1e-9 * (1.0 + e[0]);
            let heat: Vec<f64> = e.iter().map(|now| e[0] - now).collect();
            if grips || mu == 0.0 {
                prop_assert!(heat.iter().all(|h| h.abs() < least), "{heat:?}");
            } else {
                prop_assert!(heat.windows(2).all(|w| w[1] >= w[0] - least), "{heat:?}");
            }
            prop_assert!((0..e.len()).all(|i| (e_k[i] + e_p[i] - e[i]).abs() < least && e_k[i] >= 0.0));
            prop_assert!(r.channels.iter().all(|c| c.values.iter().all(|v| v.is_finite())));
        }
    }
}
