//! Sketches beside measured curves: the judgement is about shape alone, whatever is drawn.

use proptest::prelude::*;
use zeitmass_core::inquiry::{Remark, compare};
use zeitmass_words::Words;

/// Height of the axes.
const AXIS: f64 = 8.0;

/// A curve of straight stretches: each a duration in s and a velocity in m/s, from a start in m.
fn story(start: f64, stretches: &[(f64, f64)]) -> Vec<[f64; 2]> {
    let (mut t, mut x, mut all) = (0.0, start, vec![[0.0, start]]);
    for (lasts, v) in stretches {
        for k in 1..=100 {
            all.push([t + lasts * f64::from(k) / 100.0, x + v * lasts * f64::from(k) / 100.0]);
        }
        (t, x) = (t + lasts, x + v * lasts);
    }
    all
}

fn changed(curve: &[[f64; 2]], change: impl Fn(f64) -> f64) -> Vec<[f64; 2]> {
    curve.iter().map(|[t, x]| [*t, change(*x)]).collect()
}

fn differs(remarks: &[Remark]) -> Vec<&Remark> {
    remarks.iter().filter(|r| !r.agrees()).collect()
}

/// Two to five stretches of which no two that follow each other are alike.
fn stretches() -> impl Strategy<Value = Vec<(f64, f64)>> {
    let speeds = [-1.5, -0.5, 0.0, 0.4, 1.2];
    prop::collection::vec((1.5f64..4.0, 0usize..4), 2..6).prop_map(move |steps| {
        let mut last = 9;
        let next = |(lasts, k): (f64, usize)| {
            // One of the four others.
            let which = if last < 5 { (last + 1 + k) % 5 } else { k };
            last = which;
            (lasts, speeds[which])
        };
        steps.into_iter().map(next).collect()
    })
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(200) })]

    /// The very curve agrees in everything; so it does drawn larger or smaller from the same zero, for amounts are not judged.
    #[test]
    fn the_curve_itself_agrees_at_every_size(stretches in stretches(), start in -1f64..1.0, times in 1f64..2.0) {
        let measured = story(start, &stretches);
        let same = compare(&measured, &measured, AXIS);
        prop_assert!(!same.is_empty() && differs(&same).is_empty(), "{same:#?}");
        // From zero, so that its start is on the same side; what is no tenth of the axes high has no shape to the eye.
        let from_zero = story(0.0, &stretches);
        let ends = from_zero.iter().fold((0f64, 0f64), |(lo, hi), p| (lo.min(p[1]), hi.max(p[1])));
        prop_assume!(ends.1 - ends.0 > 0.1 * AXIS);
        let scaled = compare(&changed(&from_zero, |x| times * x), &from_zero, AXIS);
        prop_assert!(differs(&scaled).is_empty(), "{scaled:#?}");
    }

    /// Upside down it differs wherever the curve is not level.
    #[test]
    fn the_curve_upside_down_differs(stretches in stretches()) {
        let measured = story(0.0, &stretches);
        let turned = compare(&changed(&measured, |x| -x), &measured, AXIS);
        let moving = stretches.iter().filter(|(_, v)| *v != 0.0).count();
        prop_assert!(differs(&turned).len() >= moving.min(1), "{turned:#?}");
    }

    /// Whatever a hand draws, something can be said, and never a number about how right it is.
    #[test]
    fn any_scribble_is_told_in_words(
        stretches in stretches(), mut points in prop::collection::vec((0f64..30.0, -8f64..8.0), 2..40),
    ) {
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        points.dedup_by(|a, b| a.0 == b.0);
        prop_assume!(points.len() > 1);
        let sketch: Vec<[f64; 2]> = points.into_iter().map(|(t, x)| [t, x]).collect();
        let remarks = compare(&sketch, &story(0.0, &stretches), AXIS);
        prop_assert!(!remarks.is_empty());
        let plain = |text: String| !text.contains('%') && !text.contains("NaN") && text.ends_with('.');
        prop_assert!(remarks.iter().all(|r| plain(r.words())), "{remarks:#?}");
    }
}
