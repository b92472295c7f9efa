//! Counting by weight: cogs on the tray of a balance.
//!
//! The mass on the balance is that of the tray and of each cog; cogs are as alike as the maker's tolerance says, each with a mass of its own
//! (normal about the mean with that tolerance as standard deviation).

use super::contract::card::unit;
use super::contract::channel::{Recorder, recorder, specs};
use super::contract::ending::Ending;
use super::contract::meter::found;
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::quantity;
use super::{Bounds, Card, Clock, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape, Settings};
use crate::chance::Chance;

/// Most cogs on the tray.
const MOST: f64 = 200.0;
/// Width and height of the tray and of the sack beside it, in m.
const WIDE: f64 = 0.5;
const HIGH: f64 = 0.3;
/// Frames in which the balance comes to rest once the last cog is on it.
const REST: usize = 20;
const COGS: &str = "\"cogs\"";

/// Counting by weight.
pub(super) struct Scales;

/// The balance at a moment.
struct Moment {
    /// Cogs on the tray and in the sack.
    on: f64,
    left: f64,
    /// What lies on the balance, in kg.
    mass: f64,
}

fn recorders() -> Vec<Recorder<Moment>> {
    vec![
        recorder("cogs", "n", COGS, 1.0, |m: &Moment| m.on).called("cogs on the tray").seen(),
        recorder("mass", "m", "g", 0.1, |m| m.mass),
        recorder("sack", "s", COGS, 1.0, |m: &Moment| m.left).called("cogs in the sack"),
    ]
}

impl Rig for Scales {
    fn card(&self) -> Card {
        Card {
            name: "scales",
            revision: 1,
            title: "Counting by weight",
            leaves_out: "draughts, dust, and the air that carries a little of what lies on the balance.",
            settings: vec![
                quantity("number", "number of cogs", "n", COGS, [0.0, MOST, 1.0, 20.0]),
                quantity("cog", "mass of a cog", "m_c", "g", [0.5, 20.0, 0.01, 4.0]),
                quantity("tolerance", "tolerance of a cog", "δ", "1", [0.0, 0.2, 0.001, 0.02]),
                quantity("tray", "mass of the tray", "m_t", "g", [0.0, 100.0, 0.1, 24.0]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("mass", "fine balance", "m", "g", [0.1, 0.05]).telling(&["tray"]),
                found("coarse", "kitchen balance", "m_k", "g", [1.0, 0.4]).telling(&["tray"]),
            ],
            arrows: Vec::new(),
            clock: Clock { every: 0.05, lasts: 0.05 * (MOST + REST as f64), frame: 0.05, unit: "s" },
            length: unit("m"),
            division: 0.001,
            tracks: &[],
            by_hand: false,
            second: None,
        }
    }

    fn left_to_chance(&self) -> bool {
        true
    }

    fn run(&self, settings: &Settings, seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let (number, cog, tolerance) = (settings.get("number"), settings.get("cog"), settings.get("tolerance"));
        let mut masses = vec![settings.get("tray")];
        for k in 0..number as usize {
            let own = cog * (1.0 + tolerance * Chance::of(seed, "cog", k as u64).normal());
            masses.push(masses[k] + own.max(0.0));
        }
        let frames = (number as usize + REST).min(sampling.frames()?);
        let mut run = Run::record(&recorders(), sampling, frames, |i| {
            let on = i.min(number as usize);
            Moment { on: on as f64, left: number - on as f64, mass: masses[on] }
        });
        let all = masses[number as usize];
        run.found = vec![("mass", all), ("coarse", all)];
        if number == 0.0 {
            run.outcome = RunOutcome::told(Ending::EmptyTray);
        }
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let most = settings.get("number") as usize;
        let gap = 0.25;
        let sack = WIDE + gap;
        let line = |from: [f64; 2], to: [f64; 2], paint| SceneShape::Line {
            from: at(from[0], from[1]),
            to: at(to[0], to[1]),
            paint,
        };
        let mut shapes = vec![
            // The balance under the tray.
            line([0.12, -0.12], [WIDE - 0.12, -0.12], Paint::Support),
            line([0.12, -0.12], [0.06, -0.3], Paint::Support),
            line([WIDE - 0.12, -0.12], [WIDE - 0.06, -0.3], Paint::Support),
            line([0.02, -0.3], [WIDE - 0.02, -0.3], Paint::Support),
            line([0.5 * WIDE, -0.12], [0.5 * WIDE, -0.02], Paint::Support),
            line([-0.03, -0.02], [WIDE + 0.03, -0.02], Paint::Support),
        ];
        for left in [0.0, sack] {
            shapes.push(line([left, HIGH], [left, 0.0], Paint::Thread));
            shapes.push(line([left, 0.0], [left + WIDE, 0.0], Paint::Thread));
            shapes.push(line([left + WIDE, 0.0], [left + WIDE, HIGH], Paint::Thread));
        }
        let words = [(0.0, "tray on the balance"), (sack, "still in the sack")];
        shapes.extend(words.map(|(x, text)| SceneShape::Word { place: [x, HIGH + 0.04], text: text.to_owned() }));
        shapes.push(SceneShape::heap([0.0, WIDE, HIGH], most, "cogs", (true, Paint::Body)));
        shapes.push(SceneShape::heap([sack, WIDE, HIGH], most, "sack", (false, Paint::Other)));
        Scene::of(Bounds { left: -0.06, right: sack + WIDE + 0.06, bottom: -0.36, top: HIGH + 0.1 }, shapes, [1, 0])
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn run(number: f64, seed: u64) -> Run {
        let mut s = Scales.card().defaults();
        s.set("number", number);
        Scales.run(&s, seed, Scales.clock(&s).sampling()).unwrap()
    }

    /// n cogs weigh n·m on average, with a standard deviation of √n·δ·m; a tray without any weighs the tray.
    #[test]
    fn cogs_add_up_with_their_tolerance() {
        for n in [1.0, 25.0, 100.0] {
            let masses: Vec<f64> = (0..4000).map(|seed| run(n, seed).found("mass").unwrap() - 0.024).collect();
            let mean = masses.iter().sum::<f64>() / 4000.0;
            let sd = (masses.iter().map(|m| (m - mean).powi(2)).sum::<f64>() / 3999.0).sqrt();
            let expected = n.sqrt() * 0.02 * 0.004;
            // Four standard errors.
            assert!((mean - 0.004 * n).abs() < 4.0 * expected / 4000f64.sqrt(), "{mean}");
            assert!((sd / expected - 1.0).abs() < 4.0 / 8000f64.sqrt(), "{sd} for {expected}");
        }
        let empty = run(0.0, 3);
        assert!(empty.found("mass") == Some(0.024) && empty.outcome.told == Some(Ending::EmptyTray));
        // The same seed weighs the same cogs; others weigh others.
        assert_eq!(run(30.0, 5).found("mass"), run(30.0, 5).found("mass"));
        assert_ne!(run(30.0, 5).found("mass"), run(30.0, 6).found("mass"));
        // They are laid on one by one, and what lies on the balance grows with each.
        let one = run(200.0, 1);
        let mass = one.channel("mass").unwrap();
        assert!(mass.windows(2).take(200).all(|w| w[1] > w[0]) && one.frames() == 220);
    }
}
