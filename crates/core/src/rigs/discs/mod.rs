//! Enamel discs: marked on one side, or dice-like on one of six; thrown again and again, and the marked ones taken out.
//!
//! Of n discs thrown each shows its mark with the chance 1/2 or 1/6, whatever it did before: what is left follows the binomial law, and on
//! average falls by the same share a throw, n·(1 − p)^k = n·e^(−λk) with λ = ln 2 or ln(6/5), and so does what each throw takes out. What is
//! left hangs on what was left before; what is taken out by one throw and by another are counts for themselves (W. Feller, *An Introduction to Probability
//! Theory*, volume 1, 3rd edition, VI.2).

use super::contract::card::unit;
use super::contract::channel::{Recorder, Role, recorder, specs};
use super::contract::ending::Ending;
use super::contract::meter::now;
use super::contract::run::RunOutcome;
use super::contract::scene::at;
use super::contract::setting::{choice, quantity};
use super::{Bounds, Card, Clock, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape, Settings};
use crate::chance::Chance;

/// Most throws of a run.
const MOST: f64 = 40.0;
/// Unit of throws.
const THROWS: &str = "\"throws\"";
/// Width of plate and tray, and their height, in m.
const WIDE: f64 = 0.5;
const HIGH: f64 = 0.4;

/// The discs.
pub(super) struct Discs;

/// How many throws there were, and how many discs are left and taken out.
struct Count {
    throw: f64,
    left: f64,
    out: f64,
    /// How many the last throw took out.
    taken: f64,
}

fn recorders() -> Vec<Recorder<Count>> {
    vec![
        recorder("throw", "k", THROWS, 1.0, |c: &Count| c.throw).of(Role::Time),
        recorder("left", "N", "\"discs\"", 1.0, |c| c.left),
        recorder("taken out", "M", "\"discs\"", 1.0, |c| c.taken),
        recorder("out", "O", "\"discs\"", 1.0, |c| c.out),
    ]
}

/// The chance of a disc to be taken out by a throw.
fn chance(settings: &Settings) -> f64 {
    let marked = if settings.chosen("sides") == "6" { 1.0 / 6.0 } else { 0.5 };
    if settings.chosen("rule") == "plain" { 1.0 - marked } else { marked }
}

impl Rig for Discs {
    fn card(&self) -> Card {
        let rules: &[(&str, &str)] =
            &[("marked", "take out those that show the mark"), ("plain", "take out those that do not")];
        Card {
            name: "discs",
            revision: 1,
            title: "Enamel discs",
            leaves_out: "nothing: the discs are fair, and none lies on its edge.",
            settings: vec![
                quantity("number", "number of discs", "N_0", "\"discs\"", [0.0, 1000.0, 1.0, 100.0]),
                choice("sides", "sides", &[("2", "two, one marked"), ("6", "six, one marked")]),
                choice("rule", "rule", rules),
            ],
            channels: specs(&recorders()),
            meters: vec![now("left", "discs left", "N", "\"discs\"", [1.0, 0.0], "left")],
            arrows: Vec::new(),
            // A frame a throw.
            clock: Clock { every: 1.0, lasts: MOST, frame: 0.7, unit: THROWS },
            length: unit("m"),
            division: 0.001,
            tracks: &["left"],
            by_hand: false,
            second: None,
        }
    }

    fn left_to_chance(&self) -> bool {
        true
    }

    fn run(&self, settings: &Settings, seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let (number, out) = (settings.get("number"), chance(settings));
        let mut left = vec![number];
        for throw in 1..sampling.frames()? {
            let now = left[throw - 1];
            if now == 0.0 {
                break;
            }
            let mut luck = Chance::of(seed, "throw", throw as u64);
            left.push((0..now as u32).filter(|_| luck.even() >= out).count() as f64);
        }
        let mut run = Run::record(&recorders(), sampling, left.len(), |i| Count {
            throw: i as f64,
            left: left[i],
            out: number - left[i],
            taken: if i == 0 { 0.0 } else { left[i - 1] - left[i] },
        });
        if number == 0.0 {
            run.outcome = RunOutcome::failed(Ending::NoDiscs);
        }
        Ok(run)
    }

    fn truths(&self, settings: &Settings) -> Vec<(&'static str, f64)> {
        // λ, by the name that keys use for what follows from a rig's choices.
        vec![("λ", -(1.0 - chance(settings)).ln())]
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let most = settings.get("number") as usize;
        let gap = 0.06;
        let mut shapes = vec![
            SceneShape::Word { place: [0.0, HIGH + 0.02], text: "thrown".to_owned() },
            SceneShape::Word { place: [WIDE + gap, HIGH + 0.02], text: "taken out".to_owned() },
        ];
        for left in [0.0, WIDE + gap] {
            let corners = [[left, 0.0], [left + WIDE, 0.0], [left + WIDE, HIGH], [left, HIGH], [left, 0.0]];
            for pair in corners.windows(2) {
                let [from, to] = [pair[0], pair[1]].map(|[x, y]| at(x, y));
                shapes.push(SceneShape::Line { from, to, paint: Paint::Thread });
            }
        }
        shapes.push(SceneShape::heap([0.0, WIDE, HIGH], most, "left", (true, Paint::Body)));
        shapes.push(SceneShape::heap([WIDE + gap, WIDE, HIGH], most, "out", (false, Paint::Other)));
        Scene::of(
            Bounds { left: -0.03, right: 2.0 * WIDE + gap + 0.03, bottom: -0.03, top: HIGH + 0.07 },
            shapes,
            [1, 0],
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn run(number: f64, sides: &str, seed: u64) -> Run {
        let mut s = Discs.card().defaults();
        s.set("number", number);
        s.choose("sides", sides);
        Discs.run(&s, seed, Discs.card().clock.sampling()).unwrap()
    }

    #[test]
    fn the_same_seed_throws_the_same_and_neighbours_do_not() {
        let left = |seed| run(200.0, "6", seed).channel("left").unwrap().to_vec();
        assert_eq!(left(5), left(5));
        let all: std::collections::BTreeSet<String> = (0..300).map(|seed| format!("{:?}", left(seed))).collect();
        assert_eq!(all.len(), 300);
        let one = run(100.0, "2", 3);
        let counts = one.channel("left").unwrap();
        assert!(counts.windows(2).all(|w| w[1] <= w[0]) && counts.last() == Some(&0.0), "{counts:?}");
        assert!(run(0.0, "2", 1).outcome.failed);
    }

    /// Half-lives of many throws: the mean of the first throw is n·(1 − p), its variance n·p·(1 − p).
    #[test]
    fn what_is_left_follows_the_binomial_law() {
        for (sides, p) in [("2", 0.5), ("6", 1.0 / 6.0)] {
            let runs = 10_000;
            for k in [1, 3] {
                let stays = f64::powi(1.0 - p, k);
                let left: Vec<f64> =
                    (0..runs).map(|seed| run(100.0, sides, seed).channel("left").unwrap()[k as usize]).collect();
                let mean = left.iter().sum::<f64>() / runs as f64;
                let variance = left.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / (runs - 1) as f64;
                let expected = 100.0 * stays * (1.0 - stays);
                // Four standard errors.
                assert!((mean - 100.0 * stays).abs() < 4.0 * (expected / runs as f64).sqrt(), "{mean}");
                assert!((variance / expected - 1.0).abs() < 4.0 * (2.0 / runs as f64).sqrt(), "{variance}");
            }
        }
    }
}
