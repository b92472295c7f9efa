//! A hypothesis beside the record: where did the effect go when the cause was raised, and how did the curve run?

use super::shape::BENT;
use super::{CurvePick, Hypothesis, Remark};

/// Share of its largest value within which an effect stays the same.
const SAME: f64 = 0.03;
/// Share of all ups and downs that must lead one way.
const ONE_WAY: f64 = 0.6;

/// The curve along which the effect goes, by (cause, effect) of the trials in any units: the rise from the smallest to the largest cause, and whether
/// the curve's mean lies on the middle of its chord, as for sketches. `None` for fewer than three values of the cause.
pub fn found(points: &[(f64, f64)]) -> Option<CurvePick> {
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
    if range <= SAME * largest {
        return Some(CurvePick::Level);
    }
    if rise.abs() < ONE_WAY * ups_and_downs {
        return Some(CurvePick::UpAndDown);
    }
    let area: f64 = means.windows(2).map(|w| 0.5 * (w[0].1 + w[1].1) * (w[1].0 - w[0].0)).sum();
    let off = (area / (last.0 - first.0) - 0.5 * (first.1 + last.1)) / rise;
    Some(match (rise > 0.0, off) {
        (true, off) if off < -BENT => CurvePick::RisesSteeper,
        (true, off) if off > BENT => CurvePick::RisesFlatter,
        (true, _) => CurvePick::RisesStraight,
        (false, off) if off < -BENT => CurvePick::FallsSteeper,
        (false, off) if off > BENT => CurvePick::FallsFlatter,
        (false, _) => CurvePick::FallsStraight,
    })
}

/// Holds a hypothesis against (cause, effect) of the trials. One that turned out wrong is told like one that turned out right.
pub fn outcome(hypothesis: &Hypothesis, points: &[(f64, f64)]) -> Option<Remark> {
    let curve = found(points)?;
    let (cause, effect) = (&hypothesis.cause, &hypothesis.effect);
    let agrees = curve == hypothesis.curve;
    let end = if agrees { "as stated" } else { "not as stated" };
    let text = format!("In the record the {effect} {} as the {cause} is raised, {end}.", curve.does());
    Some(Remark { agrees, text })
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
        let told = |curve, of: fn(f64) -> f64| {
            let (cause, effect, reason) = ("speed".to_owned(), "range".to_owned(), "so".to_owned());
            let h = Hypothesis { cause, effect, curve, reason, at: 0, brought: false };
            let points: Vec<(f64, f64)> = (1..=7).map(|i| (f64::from(i), of(f64::from(i)))).collect();
            outcome(&h, &points).unwrap()
        };
        use CurvePick::{FallsFlatter, FallsStraight, Level, RisesFlatter, RisesSteeper, RisesStraight, UpAndDown};
        assert!(told(RisesSteeper, |x| x * x).agrees);
        assert!(told(RisesFlatter, f64::sqrt).agrees && told(FallsFlatter, |x| 1.0 / x).agrees);
        assert!(told(RisesStraight, |x| 3.0 * x + 0.02 * (5.0 * x).sin()).agrees);
        assert!(told(Level, |x| 2.0 + 0.01 * x.sin()).agrees);
        let wrong = told(FallsStraight, |x| x * x);
        assert_eq!(
            wrong.text,
            "In the record the range rises ever more steeply as the speed is raised, not as stated."
        );
        assert!(!told(RisesStraight, |x| x * x).agrees && !wrong.agrees);
        assert!(told(UpAndDown, |x| (x * 0.45).sin()).agrees);
        assert_eq!(found(&[(1.0, 2.0), (1.0, 3.0), (2.0, 5.0), (f64::NAN, 1.0)]), None);
    }
}
