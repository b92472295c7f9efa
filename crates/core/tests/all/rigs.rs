//! Rigs against general-purpose libraries, and what must hold for every setting they permit. The values and the versions of the
//! libraries stand in `fixtures/rigs.json`, made by `tools/reference/rigs.py`.

use std::collections::BTreeMap;

use proptest::prelude::*;
use serde::Deserialize;
use serde_json::Value;
use zeitmass_core::chance::Chance;
use zeitmass_core::quantity::Decimal;
use zeitmass_core::rigs::{
    CATALOGUE, Card, Ending, Node, Run, RunOutcome, Sampling, SettingKind, SettingValue, Settings, rig,
};
use zeitmass_words::Words;

const STAGE: Sampling = Sampling { every: 0.01, duration: 60.0 };

fn reference<T: serde::de::DeserializeOwned>(part: &str) -> Vec<T> {
    let mut all: Value = serde_json::from_str(include_str!("../fixtures/rigs.json")).unwrap();
    serde_json::from_value(all[part].take()).unwrap()
}

/// A run with the card's defaults, some of them changed, in SI units.
fn run(name: &str, choices: &[(&str, &str)], change: &[(&str, f64)]) -> Run {
    let mut settings = rig(name).unwrap().card().defaults();
    choices.iter().for_each(|(n, option)| settings.choose(n, option));
    change.iter().for_each(|(n, value)| settings.set(n, *value));
    rig(name).unwrap().run(&settings, 1, STAGE).unwrap()
}

fn at(run: &Run, channel: &str, frame: usize) -> f64 {
    run.channel(channel).unwrap()[frame]
}

#[track_caller]
fn close(got: f64, expected: f64, allowed: f64, what: &str) {
    assert!((got - expected).abs() <= allowed, "{what}: {got} against {expected}");
}

#[derive(Deserialize)]
struct Flight {
    settings: BTreeMap<String, Value>,
    pushed: Option<Push>,
    samples: Vec<[f64; 5]>,
    landed: [f64; 2],
}

#[derive(Deserialize)]
struct Push {
    force: [f64; 2],
    from: f64,
    to: f64,
}

/// Both integrate with DOP853; the tolerance is that of a metre or a metre per second.
#[test]
fn flights_with_drag_agree_with_scipy_to_parts_in_a_thousand_million() {
    for (name, choice, part) in [("thrower", ("air", "on"), "throws"), ("shaft", ("drag", "air"), "falls")] {
        for (k, flight) in reference::<Flight>(part).into_iter().enumerate() {
            let mut change: Vec<(&str, f64)> =
                flight.settings.iter().filter_map(|(n, v)| Some((n.as_str(), v.as_f64()?))).collect();
            if let Some(p) = &flight.pushed {
                let [x, y] = p.force;
                change.extend([("push", x.hypot(y)), ("push direction", y.atan2(x))]);
                change.extend([("push start", p.from), ("push duration", p.to - p.from)]);
            }
            let made = run(name, &[choice], &change);
            for [t, wanted @ ..] in flight.samples {
                let frame = (t / STAGE.every).round() as usize;
                for (channel, wanted) in ["x", "y", "v_x", "v_y"].iter().zip(wanted) {
                    let what = format!("{name} {k}, {channel} at {t} s");
                    close(at(&made, channel, frame), wanted, 1e-9 * wanted.abs().max(1.0), &what);
                }
            }
            close(made.found("time").unwrap(), flight.landed[0], 1e-9 * flight.landed[0], "landing");
            if let Some(range) = made.found("range") {
                close(range, flight.landed[1], 1e-9 * flight.landed[1], "range");
            }
        }
    }
}

/// What `tools/reference/paths.py` made.
fn path<T: serde::de::DeserializeOwned>(part: &str) -> Vec<T> {
    let mut all: Value = serde_json::from_str(include_str!("../fixtures/paths.json")).unwrap();
    serde_json::from_value(all[part].take()).unwrap()
}

#[derive(Deserialize)]
struct Ride {
    nodes: Vec<[f64; 2]>,
    friction: f64,
    speed: f64,
    k: f64,
    samples: Vec<[f64; 4]>,
}

#[test]
fn cars_on_three_tracks_agree_with_scipy() {
    let hills = rig("hills").unwrap();
    for (n, ride) in path::<Ride>("tracks").into_iter().enumerate() {
        let mut settings = hills.card().defaults();
        settings.choose("course", "own");
        settings.choose("body", if ride.k > 0.0 { "ball" } else { "sledge" });
        let nodes = ride.nodes.iter().map(|at| Node { at: *at, ring: None }).collect();
        settings.put("nodes", &SettingValue::Path(nodes));
        settings.set("friction", ride.friction);
        settings.set("speed", ride.speed);
        let made = hills.run(&settings, 0, STAGE).unwrap();
        for [t, x, y, v] in ride.samples {
            let frame = (t / STAGE.every).round() as usize;
            for (channel, wanted) in [("x", x), ("y", y), ("v", v)] {
                close(at(&made, channel, frame), wanted, 2e-8, &format!("track {n}, {channel} at {t} s"));
            }
        }
    }
}

#[derive(Deserialize)]
struct Planet {
    sun: f64,
    at: [f64; 2],
    v: [f64; 2],
    samples: Vec<[f64; 5]>,
}

/// Ellipses and a hyperbola in closed form against the integrated equation of motion.
#[test]
fn planets_agree_with_scipy() {
    let (orrery, au, day) = (rig("orrery").unwrap(), 149_597_870_700.0, 86_400.0);
    for planet in path::<Planet>("planets") {
        let mut settings = orrery.card().defaults();
        let ([x, y], [u, v]) = (planet.at, planet.v);
        let all = [("sun", planet.sun), ("x", x * au), ("y", y * au), ("v_x", u * 1e3), ("v_y", v * 1e3)];
        all.iter().for_each(|(name, value)| settings.set(name, *value));
        let made = orrery.run(&settings, 0, Sampling { every: 5.0 * day, duration: 700.0 * day }).unwrap();
        for [t, wanted @ ..] in planet.samples {
            let frame = (t / 5.0).round() as usize;
            for ((channel, size), wanted) in [("x", au), ("y", au), ("v_x", 1e3), ("v_y", 1e3)].into_iter().zip(wanted)
            {
                let got = at(&made, channel, frame) / size;
                close(got, wanted, 1e-8 * wanted.abs().max(1.0), &format!("{channel} after {t} d"));
            }
        }
    }
}

/// The eight planets: semi-major axes in au and sidereal periods in days (NASA Space Science Data Coordinated Archive, Planetary Fact Sheet,
/// from memory). On circles of that size they take that long, to what rounding and the pull of the others make.
#[test]
fn the_planets_of_our_sun_take_their_years() {
    let known = [
        ("Mercury", 0.387_1, 87.969),
        ("Venus", 0.723_3, 224.701),
        ("Earth", 1.000_0, 365.256),
        ("Mars", 1.523_7, 686.980),
        ("Jupiter", 5.202_9, 4_332.59),
        ("Saturn", 9.537, 10_759.2),
        ("Uranus", 19.189, 30_688.5),
        ("Neptune", 30.070, 60_182.0),
    ];
    for (name, a, days) in known {
        let r: f64 = a * 149_597_870_700.0;
        let made = run("orrery", &[], &[("x", r), ("v_y", (1.327_124_4e20 / r).sqrt())]);
        close(made.found("period").unwrap() / 86_400.0, days, 0.004 * days, name);
    }
}

#[derive(Deserialize)]
struct Throws {
    number: f64,
    sides: u32,
    throws: usize,
    bins: Vec<(f64, f64, f64)>,
    bound: f64,
}

/// χ² of ten thousand runs against SciPy's binomial law; it exceeds its bound once in a thousand seeds, and these are fixed.
#[test]
fn thrown_discs_follow_the_binomial_law() {
    let discs = rig("discs").unwrap();
    for law in path::<Throws>("discs") {
        let mut settings = discs.card().defaults();
        settings.set("number", law.number);
        settings.choose("sides", &law.sides.to_string());
        let mut seen = vec![0.0; law.bins.len()];
        for seed in 0..10_000 {
            let made = discs.run(&settings, seed, Sampling { every: 1.0, duration: law.throws as f64 }).unwrap();
            let left = made.channel("left").unwrap().get(law.throws).copied().unwrap_or_default();
            seen[law.bins.iter().position(|(low, high, _)| left >= *low && left <= *high).unwrap()] += 1.0;
        }
        let chi: f64 = seen.iter().zip(&law.bins).map(|(s, (_, _, e))| (s - e).powi(2) / e).sum();
        assert!(chi < law.bound, "{} discs, {} throws: {chi} over {}", law.number, law.throws, law.bound);
    }
}

#[derive(Deserialize)]
struct Swing {
    length: f64,
    angle: f64,
    mass: f64,
    samples: Vec<[f64; 2]>,
}

#[test]
fn swings_with_drag_agree_with_scipy() {
    for s in reference::<Swing>("swings") {
        let made = run("pendulum", &[], &[("length", s.length), ("angle", s.angle), ("mass", s.mass), ("drag", 1.0)]);
        for [t, angle] in s.samples {
            close(at(&made, "angle", (t / STAGE.every).round() as usize), angle, 1e-9, "angle");
        }
    }
}

#[derive(Deserialize)]
struct Sphere {
    diameter: f64,
    density: f64,
    speed: f64,
    reynolds: f64,
    #[serde(default)]
    shape: f64,
    #[serde(default)]
    viscosity: f64,
    #[serde(rename = "oil density", default)]
    oil_density: f64,
}

/// The package's own strength of gravity: the standard value.
const STANDARD: f64 = 9.806_65;

#[derive(Deserialize)]
struct Bob {
    settings: BTreeMap<String, f64>,
    samples: Vec<[f64; 3]>,
}

/// A spring with mass as a chain of many, and damping below, at and above the critical.
#[test]
fn loads_on_springs_agree_with_a_chain_of_masses_and_scipy() {
    for bob in reference::<Bob>("bobs") {
        let change: Vec<(&str, f64)> = bob.settings.iter().map(|(name, value)| (name.as_str(), *value)).collect();
        let run = run("spring", &[("spring", "specimen")], &change);
        assert!(!run.outcome.failed, "{:?}", run.outcome);
        for [t, below, down] in bob.samples {
            let frame = STAGE.frame_from(t);
            let what = format!("{:?} at {t} s", bob.settings);
            close(bob.settings["pull"] + at(&run, "y", 0) - at(&run, "y", frame), below, 1e-9, &what);
            close(-at(&run, "v", frame), down, 1e-8, &what);
        }
    }
}

/// At the drag coefficient that belongs to the final Reynolds number both have the same terminal speed. The fixed coefficient of
/// the rig's ball is within 0.07 of the correlation in the regime it is for, Reynolds numbers of 10³ to 10⁵.
#[test]
fn spheres_in_air_reach_the_terminal_speed_of_the_drag_correlation() {
    let ball = rig("shaft").unwrap().card().defaults().get("shape");
    for s in reference::<Sphere>("in air") {
        assert!((1e3..1e5).contains(&s.reynolds));
        close(ball, s.shape, 0.07, "drag coefficient");
        let made = run(
            "shaft",
            &[("drag", "air")],
            &[
                ("height", 2000.0),
                ("diameter", s.diameter),
                ("density", s.density),
                ("shape", s.shape),
                ("gravity", STANDARD),
            ],
        );
        assert_eq!(made.outcome.told, Some(Ending::SteadySpeed));
        close(*made.channel("speed").unwrap().last().unwrap(), s.speed, 1e-5 * s.speed, "terminal speed");
    }
}

#[test]
fn small_spheres_in_oil_sink_as_stokes_law_says() {
    for s in reference::<Sphere>("in oil") {
        assert!(s.reynolds < 0.01);
        let change = [
            ("height", 0.5),
            ("diameter", s.diameter),
            ("density", s.density),
            ("viscosity", s.viscosity),
            ("oil density", s.oil_density),
            ("gravity", STANDARD),
        ];
        let made = run("shaft", &[("drag", "oil")], &change);
        close(*made.channel("speed").unwrap().last().unwrap(), s.speed, 1e-6 * s.speed, "terminal speed");
    }
}

/// A value of every setting, on the grid a person can type: at an end, anywhere, or blank where that is allowed.
fn anything(card: &Card, seed: u64) -> Settings {
    let mut settings = Settings::default();
    for spec in &card.settings {
        let mut chance = Chance::of(seed, spec.name, 1);
        let draw = chance.even();
        let value = match &spec.kind {
            SettingKind::Switch { .. } => SettingValue::Switch(draw < 0.5),
            SettingKind::Choice { options } => {
                SettingValue::Choice(options[(draw * options.len() as f64) as usize].0.to_owned())
            }
            // Nodes anywhere, near each other, on top of one another; loops of any size.
            SettingKind::Path { limits, .. } => {
                let [least, most] = limits.count;
                let count = least + (draw * draw * (most + 1 - least) as f64) as usize;
                let mut on = |[low, high]: [f64; 2]| {
                    let place = if chance.even() < 0.2 { 0.0 } else { chance.even() };
                    ((low + (high - low) * place) / limits.step).round() / limits.step.recip().round()
                };
                let nodes = (0..count).map(|_| {
                    let at = [on(limits.x), on(limits.y)];
                    Node { at, ring: (at[0] < 0.5 * limits.x[1]).then(|| on(limits.ring)).filter(|r| *r < 1.0) }
                });
                let mut nodes: Vec<Node> = nodes.collect();
                // Mostly from left to right, as a track is.
                if draw < 0.8 {
                    nodes.sort_by(|a, b| a.at[0].total_cmp(&b.at[0]));
                }
                SettingValue::Path(nodes)
            }
            SettingKind::Quantity { blank: Some(meaning), .. } if draw < 0.4 => SettingValue::Blank((*meaning).into()),
            SettingKind::Quantity { unit, min, max, resolution, .. } => {
                let place = chance.even();
                let steps = match (draw * 10.0) as u32 {
                    4 => min / resolution,
                    5 => max / resolution,
                    // Near the smaller end, where ranges span powers of ten.
                    6 | 7 => (min + (max - min) * place.powi(6)) / resolution,
                    _ => (min + (max - min) * place) / resolution,
                };
                SettingValue::Quantity(Decimal::rounded(steps.round() * resolution, *resolution), unit.clone())
            }
        };
        assert!(spec.check(&value.pretty().replace('\u{A0}', " ")).is_ok(), "{}: {}", spec.name, value.pretty());
        settings.put(spec.name, &value);
    }
    settings
}

/// Most significant figures after the point of any number in it.
fn finest(written: &Value) -> usize {
    match written {
        Value::Number(n) => {
            n.to_string().split_once('.').map_or(0, |(_, decimals)| decimals.trim_end_matches('0').len())
        }
        Value::Object(all) => all.values().map(finest).max().unwrap_or(0),
        Value::Array(all) => all.iter().map(finest).max().unwrap_or(0),
        Value::Null | Value::Bool(_) | Value::String(_) => 0,
    }
}

/// What runs told before their endings had names is told as it was.
#[test]
fn the_words_of_earlier_runs_are_kept() {
    let kept: RunOutcome = serde_json::from_str(r#"{"said":"The cord would tear.","failed":true}"#).unwrap();
    assert_eq!((kept.told.clone(), kept.failed), (Some(Ending::Said("The cord would tear.".into())), true));
    assert_eq!(kept.words(), "The cord would tear.");
    let quiet: RunOutcome = serde_json::from_str(r#"{"said":"","failed":false}"#).unwrap();
    assert_eq!(quiet, RunOutcome::default());
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(400) })]

    /// Whatever is set, there is a run of finite numbers that the scene can draw, or a sentence on what to change.
    #[test]
    fn no_permitted_setting_ends_in_anything_but_a_run_or_a_hint(seed in any::<u64>(), number in 0..CATALOGUE.len()) {
        let rig = CATALOGUE[number];
        let card = rig.card();
        let settings = anything(&card, seed);
        let made = rig.run(&settings, seed, rig.clock(&settings).sampling());
        let made = made.unwrap_or_else(|e| panic!("{}: {e:?}\n{settings:?}", card.name));
        prop_assert!(made.frames() >= 1, "{}: nothing\n{settings:?}", card.name);
        let said = made.outcome.words();
        prop_assert!(!made.outcome.failed || said.ends_with('.'), "{}", card.name);
        // It is stored and travels with files: as it is written it tells no number finer than its sentence does.
        let written = serde_json::to_value(&made.outcome).unwrap();
        prop_assert!(finest(&written) < 4, "{}: {written}", card.name);
        let again: RunOutcome = serde_json::from_value(written).unwrap();
        prop_assert_eq!(again.words(), said, "{}", card.name);
        for c in &made.channels {
            prop_assert!(c.values.iter().all(|v| v.is_finite()), "{}: {}\n{settings:?}", card.name, c.spec.name);
            prop_assert_eq!(c.values.len(), made.frames());
        }
        prop_assert!(made.found.iter().all(|(_, v)| v.is_finite()), "{}: {:?}\n{settings:?}", card.name, made.found);
        let scene = rig.scene(&settings, &made);
        let b = scene.bounds;
        prop_assert!(b.right > b.left && b.top > b.bottom && (b.right - b.left + b.top - b.bottom).is_finite(), "{}", card.name);
        prop_assert!(scene.channels().iter().all(|name| made.channel(name).is_some()));
        let text = serde_json::to_string(&scene).unwrap();
        prop_assert!(!text.contains("null") || scene.loupe.is_none() || !text.contains("[null"), "{}: {text}", card.name);
    }

    /// Without friction a motion runs backwards when its velocities are turned: a fall under gravity and a push leads back to its
    /// start. Lengths in m, times in s.
    #[test]
    fn a_fall_without_air_runs_backwards(vx in -20f64..20.0, vy in -10f64..30.0, push in 0f64..3.0, angle in 0f64..6.2, frame in 20usize..200) {
        let push = [("push", push), ("push direction", angle), ("mass", 0.4)];
        let there = run("shaft", &[("drag", "none")], &[&push[..], &[("height", 800.0), ("velocity x", vx), ("velocity y", vy)]].concat());
        prop_assume!(frame < there.frames());
        let turned = [("height", at(&there, "y", frame)), ("velocity x", -at(&there, "v_x", frame)), ("velocity y", -at(&there, "v_y", frame))];
        let back = run("shaft", &[("drag", "none")], &[&push[..], &turned].concat());
        for k in [frame / 3, frame] {
            prop_assert!((at(&there, "x", frame) + at(&back, "x", k) - at(&there, "x", frame - k)).abs() < 1e-8);
            prop_assert!((at(&back, "y", k) - at(&there, "y", frame - k)).abs() < 1e-8);
            prop_assert!((at(&back, "v_y", k) + at(&there, "v_y", frame - k)).abs() < 1e-8);
        }
    }

    /// An elastic meeting run backwards gives the velocities before it.
    #[test]
    fn an_elastic_meeting_runs_backwards(m1 in 0.1f64..5.0, m2 in 0.1f64..5.0, u1 in 0.5f64..2.0, slower in 0.3f64..2.0) {
        let masses = [("mass 1", m1), ("mass 2", m2), ("bounce", 1.0)];
        let there = run("buffers", &[], &[&masses[..], &[("velocity 1", u1), ("velocity 2", u1 - slower)]].concat());
        prop_assume!(!there.outcome.failed);
        let after = ["after 1", "after 2"].map(|n| there.found(n).unwrap());
        let back = run("buffers", &[], &[&masses[..], &[("velocity 1", -after[0]), ("velocity 2", -after[1])]].concat());
        if let (Some(v1), Some(v2)) = (back.found("after 1"), back.found("after 2")) {
            prop_assert!((v1 + u1).abs() < 1e-9 && (v2 + u1 - slower).abs() < 1e-9);
        }
    }

    /// A frictionless swing and a frictionless spring pass the same places on the way back, mirrored in time about a turning point.
    #[test]
    fn swings_without_friction_are_mirrored_in_time(length in 0.3f64..2.0, degrees in 2f64..80.0, load in 0.2f64..0.6) {
        let swing = run("pendulum", &[], &[("length", length), ("angle", degrees.to_radians())]);
        let bob = run("spring", &[("spring", "specimen")], &[("load", load), ("pull", 0.04), ("stiffness", 25.0)]);
        for (made, channel) in [(swing, "angle"), (bob, "pointer")] {
            let values = made.channel(channel).unwrap();
            // The first return to the side of the release, between frames by a parabola through three of them.
            let k = (2..values.len() - 1).find(|&k| values[k] > values[k - 1] && values[k] >= values[k + 1]).unwrap();
            let (a, b) = (values[k + 1] - values[k - 1], values[k + 1] - 2.0 * values[k] + values[k - 1]);
            let turn = k as f64 - 0.5 * a / b;
            let place = |f: f64| {
                let (i, u) = (f.floor() as usize, f.fract());
                let p = &values[i - 1..i + 3];
                let cubic = [p[1], p[1] - p[0], p[2] - 2.0 * p[1] + p[0], p[3] - 3.0 * p[2] + 3.0 * p[1] - p[0]];
                let v = u + 1.0;
                p[0] + cubic[1] * v + cubic[2] * v * (v - 1.0) / 2.0 + cubic[3] * v * (v - 1.0) * (v - 2.0) / 6.0
            };
            let size = values[0].abs().max(0.04);
            for by in [5.5, 11.25, 20.0] {
                prop_assert!((place(turn + by) - place(turn - by)).abs() < 2e-4 * size, "{channel}");
            }
        }
    }

    /// Scaling: times on a slope go with √(l/g) for every body, and periods of a pendulum too, at any angle.
    #[test]
    fn times_scale_with_the_root_of_length_over_gravity(body in 0usize..4, degrees in 10f64..60.0, k in 0.25f64..3.0) {
        let body = [("body", ["sledge", "ball", "ring", "cylinder"][body]), ("world", "unknown")];
        let time = |length: f64, gravity: f64| {
            let change = [("angle", degrees.to_radians()), ("friction", 0.1), ("length", length), ("gate 2", length), ("gravity", gravity)];
            run("slope", &body, &change).found("time").unwrap()
        };
        prop_assert!((time(2.0 * k, 5.0) / time(2.0, 5.0) / k.sqrt() - 1.0).abs() < 1e-9);
        prop_assert!((time(2.0, 5.0) / time(2.0, 5.0 * k) / k.sqrt() - 1.0).abs() < 1e-9);
        // Four times the length: the same swing at half the pace, frame by frame.
        let short = run("pendulum", &[], &[("length", 0.4), ("angle", degrees.to_radians())]);
        let long = run("pendulum", &[], &[("length", 1.6), ("angle", degrees.to_radians())]);
        for f in [37, 500, 1900] {
            prop_assert!((at(&short, "angle", f) - at(&long, "angle", 2 * f)).abs() < 1e-8);
        }
    }
}
