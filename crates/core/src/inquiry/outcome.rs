//! A hypothesis beside the record: where did the effect go when the cause was raised, and how did the curve run?

use super::shape::BENT;
use super::{CurveShape, Direction, Hypothesis, Remark};

/// Share of its largest value within which an effect stays the same.
const SAME: f64 = 0.03;
/// Share of all ups and downs that must lead one way.
const ONE_WAY: f64 = 0.6;

/// Holds a hypothesis against (cause, effect) of the trials, in any units. `None` for fewer than three values of the cause.
///
/// Judged are direction and shape alone: the rise from the smallest to the largest cause, and whether the curve's mean lies on the
/// middle of its chord, as for sketches. A hypothesis that turned out wrong is told like one that turned out right.
pub fn outcome(hypothesis: &Hypothesis, points: &[(f64, f64)]) -> Option<Remark> {
    let means = means(points);
    let (first, last) = (means.first()?, means.last()?);
    if means.len() < 3 {
        return None;
    }
    let largest = means.iter().map(|p| p.1.abs()).fold(0.0, f64::max);
    let fold = |f: fn(f64, f64) -> f64, start| means.iter().map(|p| p.1).fold(start, f);
    let range = fold(f64::max, f64::NEG_INFINITY) - fold(f64::min, f64::INFINITY);
    let rise = last.1 - first.1;
    let ups_and_downs: f64 = means.windows(2).map(|w| (w[1].1 - w[0].1).abs()).sum();
    let (cause, effect) = (&hypothesis.cause, &hypothesis.effect);
    let found = if range <= SAME * largest {
        Some((Direction::Stays, CurveShape::Straight))
    } else if rise.abs() < ONE_WAY * ups_and_downs {
        None
    } else {
        let area: f64 = means.windows(2).map(|w| 0.5 * (w[0].1 + w[1].1) * (w[1].0 - w[0].0)).sum();
        let off = (area / (last.0 - first.0) - 0.5 * (first.1 + last.1)) / rise;
        let shape = if off < -BENT {
            CurveShape::Steeper
        } else if off > BENT {
            CurveShape::Flatter
        } else {
            CurveShape::Straight
        };
        Some((if rise > 0.0 { Direction::Rises } else { Direction::Falls }, shape))
    };
    let Some((direction, shape)) = found else {
        let text = format!("In the record the {effect} goes up and down as the {cause} rises, not one way.");
        return Some(Remark { agrees: false, text });
    };
    let agrees = direction == hypothesis.direction && (direction == Direction::Stays || shape == hypothesis.shape);
    let way = match direction {
        Direction::Rises => "rises",
        Direction::Falls => "falls",
        Direction::Stays => "stays the same",
    };
    let how = match (direction, shape) {
        (Direction::Stays, _) => "",
        (_, CurveShape::Straight) => ", along a straight line",
        (_, CurveShape::Steeper) => ", ever more steeply",
        (_, CurveShape::Flatter) => ", ever less steeply",
    };
    let end = if agrees { ", as stated" } else { ", not as stated" };
    Some(Remark { agrees, text: format!("In the record the {effect} {way} when the {cause} is raised{how}{end}.") })
}

/// Points in order of the cause, those with the same cause as their mean.
fn means(points: &[(f64, f64)]) -> Vec<(f64, f64)> {
    let mut sorted: Vec<(f64, f64)> = points.iter().copied().filter(|p| p.0.is_finite() && p.1.is_finite()).collect();
    sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
    let groups = sorted.chunk_by(|a, b| (a.0 - b.0).abs() <= 1e-9 * a.0.abs());
    groups.map(|g| (g[0].0, g.iter().map(|p| p.1).sum::<f64>() / g.len() as f64)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn direction_and_shape_are_told_from_the_trials() {
        let told = |direction, shape, of: fn(f64) -> f64| {
            let (cause, effect, reason) = ("speed".to_owned(), "range".to_owned(), "so".to_owned());
            let h = Hypothesis { cause, effect, direction, shape, reason, at: 0, brought: false };
            let points: Vec<(f64, f64)> = (1..=7).map(|i| (f64::from(i), of(f64::from(i)))).collect();
            outcome(&h, &points).unwrap()
        };
        use CurveShape::{Flatter, Steeper, Straight};
        use Direction::{Falls, Rises, Stays};
        assert!(told(Rises, Steeper, |x| x * x).agrees);
        assert!(told(Rises, Flatter, f64::sqrt).agrees && told(Falls, Flatter, |x| 1.0 / x).agrees);
        assert!(told(Rises, Straight, |x| 3.0 * x + 0.02 * (5.0 * x).sin()).agrees);
        assert!(told(Stays, Steeper, |x| 2.0 + 0.01 * x.sin()).agrees);
        let wrong = told(Falls, Straight, |x| x * x);
        assert_eq!(
            wrong.text,
            "In the record the range rises when the speed is raised, ever more steeply, not as stated."
        );
        assert!(!told(Rises, Straight, |x| x * x).agrees && !wrong.agrees);
        assert!(told(Rises, Straight, |x| (x * 0.45).sin()).text.contains("up and down"));
        let h = Hypothesis {
            cause: String::new(),
            effect: String::new(),
            direction: Rises,
            shape: Straight,
            reason: String::new(),
            at: 0,
            brought: false,
        };
        assert_eq!(outcome(&h, &[(1.0, 2.0), (1.0, 3.0), (2.0, 5.0), (f64::NAN, 1.0)]), None);
    }
}
