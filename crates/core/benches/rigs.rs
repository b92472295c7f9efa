//! Times of runs, as lines `name seconds` (median of several runs). `benches/rigs` sets them beside SciPy's DOP853 and their bounds.

use std::hint::black_box;
use std::io::Write;
use std::time::Instant;

use zeitmass_core::rigs::{CATALOGUE, Node, Sampling, SettingValue, Settings, rig};

fn median(runs: usize, mut work: impl FnMut()) -> f64 {
    work();
    let mut times: Vec<f64> = (0..runs)
        .map(|_| {
            let begun = Instant::now();
            work();
            begun.elapsed().as_secs_f64()
        })
        .collect();
    times.sort_by(f64::total_cmp);
    times[runs / 2]
}

/// Every rig's motion of a minute, or as long as it lasts; for those with an integrator the settings that last longest.
fn minute(name: &str) -> Settings {
    let mut s = rig(name).expect("a rig").card().defaults();
    match name {
        "pendulum" => {
            s.set("length", 0.2);
            s.set("angle", 80f64.to_radians());
            s.set("drag", 1.0);
        }
        "shaft" => {
            s.choose("drag", "air");
            for (setting, value) in [("height", 2000.0), ("mass", 0.05), ("diameter", 0.1), ("velocity x", 20.0)] {
                s.set(setting, value);
            }
        }
        "thrower" => {
            s.choose("air", "both");
            for (setting, value) in [("speed", 60.0), ("angle", 88f64.to_radians()), ("gravity", 2.2)] {
                s.set(setting, value);
            }
        }
        "spring" => {
            s.set("pull", 0.05);
            s.set("damping", 0.02);
        }
        "shuttle" => s.set("velocity 1", 0.15),
        "trolley" => {
            s.set("thrust 1", 0.006);
            s.set("rail", 20.0);
        }
        "slope" => {
            s.set("friction", 0.0);
            s.set("angle", 1f64.to_radians());
            s.set("length", 20.0);
            s.choose("world", "Pluto");
        }
        "hills" => {
            // As many nodes as there can be, and up and down for ever.
            s.choose("course", "own");
            let node = |k: u32| {
                let x = f64::from(k) * 1.6;
                let wave = 0.25 * (1.0 - (f64::from(k) * 0.9).cos());
                Node { at: [x, 0.012 * (x - 18.4).powi(2) + wave], ring: None }
            };
            s.put("nodes", &SettingValue::Path((0..24).map(node).collect()));
            s.set("start", 1.0);
        }
        "orrery" => s.set("v_y", 20e3),
        _ => {}
    }
    s
}

fn main() -> std::io::Result<()> {
    let mut out = std::io::stdout().lock();
    for rig in CATALOGUE {
        let name = rig.card().name;
        let settings = minute(name);
        let clock = rig.clock(&settings);
        let hand = clock.unit == "s" && clock.every < 0.1;
        let sampling = if hand { Sampling { duration: 60.0, ..clock.sampling() } } else { clock.sampling() };
        let frames = rig.run(&settings, 1, sampling).map_or(0, |r| r.frames());
        let took = median(41, || {
            let _ = black_box(rig.run(black_box(&settings), 1, sampling));
        });
        writeln!(out, "run_{name} {took:e}")?;
        writeln!(out, "frames_{name} {frames}")?;
    }
    // The yardstick: one flight in air and one swing, with a state every hundredth of a second.
    let mut flight = minute("thrower");
    flight.choose("air", "on");
    for (setting, value) in [("speed", 45.0), ("angle", 70f64.to_radians()), ("gravity", 9.81)] {
        flight.set(setting, value);
    }
    let sampling = Sampling { every: 0.01, duration: 60.0 };
    let thrower = rig("thrower").expect("a rig");
    writeln!(out, "flight {:e}", median(101, || drop(black_box(thrower.run(&flight, 1, sampling)))))?;
    for (name, of) in [("ride", "hills"), ("orbit", "orrery")] {
        let (made, settings) = (rig(of).expect("a rig"), minute(of));
        let sampling = Sampling { duration: 60.0, ..made.clock(&settings).sampling() };
        let sampling = if of == "orrery" { made.clock(&settings).sampling() } else { sampling };
        writeln!(out, "{name} {:e}", median(41, || drop(black_box(made.run(&settings, 1, sampling)))))?;
    }
    let pendulum = rig("pendulum").expect("a rig");
    let swing = minute("pendulum");
    writeln!(out, "swing {:e}", median(41, || drop(black_box(pendulum.run(&swing, 1, sampling)))))
}
