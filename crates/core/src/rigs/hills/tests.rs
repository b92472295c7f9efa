use super::*;
use proptest::prelude::*;

const STAGE: Sampling = Sampling { every: 0.02, duration: 60.0 };

fn run_on(course: &str, track: Option<Vec<Node>>, change: &[(&str, f64)], body: &str) -> Run {
    let mut s = Hills.card().defaults();
    s.choose("course", course);
    s.choose("body", body);
    if let Some(nodes) = track {
        s.put("nodes", &crate::rigs::SettingValue::Path(nodes));
    }
    change.iter().for_each(|(name, value)| s.set(name, *value));
    Hills.run(&s, 0, STAGE).unwrap()
}

/// A round hill of radius R that begins level: an arc by a few nodes is not round, so its own formula is used.
#[test]
fn a_sledge_leaves_a_round_hill_at_two_thirds_of_its_height() {
    // The inner side of a loop, upside down: from rest near the top of a ball, cos θ = 2/3 (Halliday, Resnick, Walker, 10th edition, 8-86).
    let radius = 2.0;
    let arc = |theta: f64| [radius * theta.sin(), radius * theta.cos() - radius];
    let nodes: Vec<Node> = (0..24).map(|k| Node { at: arc(f64::from(k) * 0.055), ring: None }).collect();
    let made = run_on("own", Some(nodes), &[("speed", 0.02)], "sledge");
    let (frame, what) = made.marks[0];
    assert_eq!(what, Happening::Leaves);
    // Between the frame before and this one.
    let cos = |f: usize| 1.0 + made.channel("y").unwrap()[f] / radius;
    assert!(cos(frame - 1) > 2.0 / 3.0 - 0.002 && cos(frame) < 2.0 / 3.0 + 0.002, "{} {}", cos(frame - 1), cos(frame));
}

/// Least height over the foot of a loop of radius R: 5/2·R for a sledge, 27/10·R for a rolling ball (Halliday, Resnick, Walker, 10th
/// edition, problems 8-6 and 11-8).
#[test]
fn a_loop_wants_five_halves_of_its_radius_or_twenty_seven_tenths() {
    for (body, share) in [("sledge", 2.5), ("ball", 2.7)] {
        for (above, round) in [(0.002, true), (-0.002, false)] {
            let radius = 0.8;
            let height = share * radius * (1.0 + above);
            let nodes = nodes(&[(0.0, height, 0.0), (2.5, 1.0, 0.0), (6.0, 0.0, radius), (9.0, 0.0, 0.0)]);
            let made = run_on("own", Some(nodes), &[], body);
            let leaves = made.marks.iter().any(|(_, what)| *what == Happening::Leaves);
            assert_eq!(!leaves, round, "{body} from {height}: {:?}", made.marks);
        }
    }
}

/// On a straight slope warmth is μ·m·g·cos α·l.
#[test]
fn warmth_on_a_straight_slope_is_friction_times_way() {
    let nodes = nodes(&[(0.0, 3.0, 0.0), (4.0, 0.0, 0.0)]);
    let made = run_on("own", Some(nodes), &[("friction", 0.2), ("mass", 0.5)], "sledge");
    let (s, heat) = (made.channel("s").unwrap(), made.channel("thermal energy").unwrap());
    let last = s.iter().rposition(|s| *s < 4.99).unwrap();
    for f in [last / 3, last] {
        assert!((heat[f] - 0.2 * 0.5 * 9.81 * 0.8 * s[f]).abs() < 1e-9, "{} {}", heat[f], s[f]);
    }
    assert!(
        run_on("own", Some(super::nodes(&[(0.0, 1.0, 0.0), (4.0, 0.0, 0.0)])), &[("friction", 0.3)], "sledge")
            .outcome
            .failed
    );
}

/// Any track a hand might draw, from a start above all other nodes.
fn drawn() -> impl Strategy<Value = Vec<Node>> {
    (prop::collection::vec((0.6f64..2.5, 0f64..3.0), 3..10), 0.2f64..3.0).prop_map(|(steps, above)| {
        let mut x = 0.0;
        let mut all = vec![Node { at: [0.0, 3.0 + above], ring: None }];
        for (dx, y) in steps {
            x += dx;
            all.push(Node { at: [x, y], ring: None });
        }
        all
    })
}

/// The sum of the energies stays within 1e-8 of the largest kinetic energy, warmth never shrinks, and without friction
/// v² = v₀² + 2·g·Δh as long as it is on the track.
fn adds_up(nodes: Vec<Node>, mu: f64, speed: f64, body: &str) -> Result<(), TestCaseError> {
    let made = run_on("own", Some(nodes), &[("friction", mu), ("speed", speed), ("mass", 1.0)], body);
    prop_assume!(!made.outcome.failed);
    let [total, heat, v, y, normal] =
        ["total energy", "thermal energy", "v", "y", "normal"].map(|c| made.channel(c).unwrap());
    let within = 1e-8;
    let scale = made.channel("kinetic energy").unwrap().iter().copied().fold(1.0, f64::max);
    for f in 0..made.frames() {
        prop_assert!((total[f] - total[0]).abs() < within * scale, "frame {}: {} {}", f, total[f], total[0]);
    }
    prop_assert!(heat.windows(2).all(|w| w[1] >= w[0] - 1e-12));
    prop_assert!(normal.iter().all(|n| *n >= 0.0), "the track can only push");
    let first = made.marks.first().map_or(made.frames(), |(f, _)| *f);
    if mu == 0.0 {
        let share = if body == "ball" { 1.4 } else { 1.0 };
        // A hop shorter than a frame has no mark, but loses what goes across.
        for f in (0..first.saturating_sub(1)).filter(|f| heat[*f] == 0.0 && normal[*f] > 0.0) {
            let gained = share * (v[f] * v[f] - v[0] * v[0]) / 2.0 - 9.81 * (y[0] - y[f]);
            prop_assert!(gained.abs() < within * scale, "frame {}: {}", f, gained);
        }
    }
    let all: Vec<Happening> = made.marks.iter().map(|(_, what)| *what).collect();
    prop_assert!(all.windows(2).all(|pair| pair != [Happening::Lands; 2]), "{:?}", all);
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(120) })]
    /// Bends down to some centimetres, gone through at metres a second.
    #[test]
    fn energies_add_up_on_any_track(nodes in drawn(), mu in 0f64..0.3, speed in 0f64..3.0, ball in any::<bool>(), rubs in any::<bool>()) {
        adds_up(nodes, if rubs { mu } else { 0.0 }, speed, if ball { "ball" } else { "sledge" })?;
    }
}

#[test]
fn a_ski_jump_leaves_and_lands_and_loses_what_goes_across() {
    let made = run_on("jump", None, &[], "sledge");
    let all: Vec<Happening> = made.marks.iter().map(|(_, what)| *what).collect();
    assert_eq!(all[..2], [Happening::Leaves, Happening::Lands], "{all:?}");
    let heat = made.channel("thermal energy").unwrap();
    assert!(heat[made.marks[1].0 - 1] == 0.0 && heat[made.marks[1].0 + 1] > 0.001);
    for course in ["valley", "hills", "loop", "jump"] {
        assert!(!run_on(course, None, &[], "sledge").outcome.failed, "{course}");
        assert!(!run_on(course, None, &[], "ball").outcome.failed, "{course}");
    }
    // The line of zero height moves the potential energy, and the sum with it, and nothing else.
    let (low, high) = (run_on("hills", None, &[], "sledge"), run_on("hills", None, &[("zero", 3.0)], "sledge"));
    assert_eq!(low.channel("kinetic energy"), high.channel("kinetic energy"));
    assert!(high.channel("potential energy").unwrap().iter().skip(1).all(|e| *e < 0.0));
}
