//! What a few trials show of a curve, within their uncertainty: whether it rises, whether it bends, whether it turns.
//!
//! Rise and bend are contrasts of the values, Σ cᵢ·yᵢ, whose uncertainty follows from those of the points (JCGM 100:2008, 5.1.2): the slope of the
//! straight line and the second-order term of the parabola by least squares (orthogonal polynomials; Draper, Smith, *Applied Regression Analysis*,
//! 22.2). Both keep their sign for any curve that bends one way.

use statrs::distribution::{ContinuousCDF, StudentsT};

use super::CurvePick;
use super::shape::BENT;
use crate::fit::Seen;

/// Share of the largest value within which an effect stays the same.
const SAME: f64 = 0.03;
/// Points from which on their scatter about a cubic tells more than what they say of themselves.
const SCATTER_FROM: usize = 7;
/// Standard uncertainties that count as seen.
const TIMES: f64 = 2.0;

/// What trials show.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shown {
    /// Number of different values of the cause.
    pub values: usize,
    /// Rise of the straight line from the smallest cause to the largest.
    pub rise: f64,
    /// How much of it is seen only if it is larger: so many standard uncertainties as take in 95 %.
    pub u_rise: f64,
    /// How far the curve's mean lies below the middle of its chord; positive where it hangs through.
    pub bend: f64,
    /// As for the rise.
    pub u_bend: f64,
    /// Whether it turns between the ends by more than the uncertainties.
    pub turns: bool,
    /// Largest value, either way.
    pub largest: f64,
}

/// What trials show, x the cause and y the effect in any units; `None` with fewer than two values of the cause.
pub fn shown(points: &[Seen]) -> Option<Shown> {
    let mut points: Vec<Seen> = points.iter().copied().filter(|p| p.x.is_finite() && p.y.is_finite()).collect();
    points.sort_by(|a, b| a.x.total_cmp(&b.x));
    let (first, last) = (points.first()?.x, points.last()?.x);
    let span = last - first;
    let values = 1 + points.windows(2).filter(|w| w[1].x - w[0].x > 1e-9 * span.max(1e-300)).count();
    if span <= 1e-9 * first.abs().max(last.abs()) {
        return None;
    }
    let n = points.len() as f64;
    // From 0 to 1, so that powers stay tame.
    let t: Vec<f64> = points.iter().map(|p| (p.x - first) / span).collect();
    let y: Vec<f64> = points.iter().map(|p| p.y).collect();
    let columns = orthogonal(&t, 4);
    let coefficient = |k: usize| columns.get(k).map(|q| dot(q, &y) / dot(q, q));
    let rise = coefficient(1)?;
    let slope = rise / span;
    let own: Vec<f64> = points.iter().map(|p| p.uy.hypot(slope * p.ux)).collect();
    // What the points scatter beyond what they say of themselves.
    let fitted = |i: usize| (0..4).filter_map(|k| Some(coefficient(k)? * columns[k][i])).sum::<f64>();
    let freedom = n - 4.0;
    let (scatter, times) = if points.len() >= SCATTER_FROM {
        let rss: f64 = (0..points.len()).map(|i| (y[i] - fitted(i)).powi(2)).sum();
        let student = StudentsT::new(0.0, 1.0, freedom).map_or(TIMES, |d| d.inverse_cdf(0.977_25));
        ((rss / freedom).sqrt(), student)
    } else {
        (0.0, TIMES)
    };
    let mean_own = (own.iter().map(|u| u * u).sum::<f64>() / n).sqrt();
    let u = |i: usize| if scatter > mean_own { scatter * times } else { own[i] * TIMES };
    let reach = |q: &[f64]| q.iter().enumerate().map(|(i, c)| (c * u(i)).powi(2)).sum::<f64>().sqrt() / dot(q, q);
    // a·t² lies a/6 below the middle of its chord, in the mean.
    let (bend, u_bend) = match columns.get(2) {
        Some(q) if values > 2 => (coefficient(2)? / 6.0, reach(q) / 6.0),
        _ => (0.0, f64::INFINITY),
    };
    let beyond = |i: usize, k: usize| (y[i] - y[k]) / u(i).hypot(u(k));
    let end = points.len() - 1;
    let turns = (1..end).any(|i| {
        let (left, right) = (beyond(i, 0), beyond(i, end));
        // Twice over: among many points one is always off.
        left * right > 0.0 && left.abs().min(right.abs()) > 1.5
    });
    let largest = y.iter().fold(0.0_f64, |m, v| m.max(v.abs()));
    Some(Shown { values, rise, u_rise: reach(&columns[1]), bend, u_bend, turns, largest })
}

/// Polynomials of rising degree at these places, each orthogonal to those before it; fewer where places repeat.
fn orthogonal(t: &[f64], most: usize) -> Vec<Vec<f64>> {
    let mut all: Vec<Vec<f64>> = Vec::new();
    for degree in 0..most {
        let mut q: Vec<f64> = t.iter().map(|t| t.powi(degree as i32)).collect();
        // Twice, so that rounding leaves nothing over.
        for before in all.iter().chain(&all.clone()) {
            let share = dot(&q, before) / dot(before, before);
            q.iter_mut().zip(before).for_each(|(q, b)| *q -= share * b);
        }
        if dot(&q, &q) < 1e-18 {
            break;
        }
        all.push(q);
    }
    all
}

fn dot(a: &[f64], b: &[f64]) -> f64 {
    a.iter().zip(b).map(|(a, b)| a * b).sum()
}

impl Shown {
    fn is_level(&self) -> bool {
        self.rise.abs() <= self.u_rise.max(SAME * self.largest)
    }

    fn is_straight(&self) -> bool {
        self.bend.abs() <= self.u_bend.max(BENT * self.rise.abs())
    }

    /// The curve that describes them best; `None` where they are too few to tell.
    pub fn best(&self) -> Option<CurvePick> {
        if self.values < 3 {
            return None;
        }
        if self.turns {
            return Some(CurvePick::UpAndDown);
        }
        if self.is_level() {
            return Some(CurvePick::Level);
        }
        let hangs = self.bend > 0.0;
        Some(match (self.rise > 0.0, self.is_straight(), hangs) {
            (true, true, _) => CurvePick::RisesStraight,
            (true, false, true) => CurvePick::RisesSteeper,
            (true, false, false) => CurvePick::RisesFlatter,
            (false, true, _) => CurvePick::FallsStraight,
            (false, false, true) => CurvePick::FallsFlatter,
            (false, false, false) => CurvePick::FallsSteeper,
        })
    }

    /// Whether they show this curve: that it is not excluded, and what it says beyond a level or a straight line is seen. `None` where they are too few.
    pub fn shows(&self, curve: CurvePick) -> Option<bool> {
        let best = self.best()?;
        let bent = self.bend.abs() > self.u_bend && self.bend.abs() > 0.5 * BENT * self.rise.abs();
        let rises = !self.turns && self.rise > self.u_rise;
        let falls = !self.turns && -self.rise > self.u_rise;
        Some(match curve {
            CurvePick::Level => !self.turns && self.is_level(),
            CurvePick::RisesStraight => rises && self.is_straight(),
            CurvePick::FallsStraight => falls && self.is_straight(),
            CurvePick::RisesSteeper => rises && bent && self.bend > 0.0,
            CurvePick::RisesFlatter => rises && bent && self.bend < 0.0,
            CurvePick::FallsFlatter => falls && bent && self.bend > 0.0,
            CurvePick::FallsSteeper => falls && bent && self.bend < 0.0,
            CurvePick::UpAndDown => best == CurvePick::UpAndDown,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::chance::normal;
    use proptest::prelude::*;
    use rand::rngs::StdRng;
    use rand::{RngExt, SeedableRng};

    fn points(n: usize, u: f64, of: &dyn Fn(f64) -> f64, r: &mut StdRng) -> Vec<Seen> {
        let mut normal = || normal(r.random_range(f64::MIN_POSITIVE..1.0), r.random_range(0.0..1.0));
        let x = |i: usize| 1.0 + 9.0 * i as f64 / (n - 1) as f64;
        (0..n).map(|i| Seen { x: x(i), y: of(x(i)) + u * normal(), ux: 0.0, uy: u }).collect()
    }

    /// Clear curves are seen, with three points and with forty.
    #[test]
    fn every_curve_is_seen_where_it_is_clear() {
        let mut r = StdRng::seed_from_u64(3);
        let all: [(CurvePick, &dyn Fn(f64) -> f64); 8] = [
            (CurvePick::Level, &|_| 5.0),
            (CurvePick::RisesStraight, &|x| 2.0 + 3.0 * x),
            (CurvePick::RisesSteeper, &|x| 0.3 * x * x),
            (CurvePick::RisesFlatter, &|x| 10.0 * x.sqrt()),
            (CurvePick::FallsStraight, &|x| 40.0 - 3.0 * x),
            (CurvePick::FallsSteeper, &|x| 40.0 - 0.3 * x * x),
            (CurvePick::FallsFlatter, &|x| 30.0 / x),
            (CurvePick::UpAndDown, &|x| 30.0 * (x / 3.2).sin()),
        ];
        for (curve, of) in all {
            for n in [4, 6, 7, 12, 40] {
                let seen = shown(&points(n, 0.05, of, &mut r)).unwrap();
                assert_eq!((seen.best(), seen.shows(curve)), (Some(curve), Some(true)), "{n} points: {seen:?}");
                let others = CurvePick::ALL.iter().filter(|other| **other != curve);
                let also: Vec<_> = others.filter(|other| seen.shows(**other) == Some(true)).collect();
                assert!(also.is_empty(), "{n} points of {curve:?} also show {also:?}");
            }
        }
        assert_eq!(shown(&points(2, 0.05, &|x| x, &mut r)).unwrap().best(), None);
    }

    /// What a straight line's scatter shows of a bend, and a level one's of a rise, it shows in five of a hundred at most.
    #[test]
    fn scatter_alone_shows_nothing() {
        let mut r = StdRng::seed_from_u64(4);
        for n in [3, 4, 7, 12, 40] {
            let (mut bends, mut rises, mut turns) = (0, 0, 0);
            const LABS: u32 = 1000;
            for _ in 0..LABS {
                // Scatter that drowns the bend: 0.1 of a rise of 0.9.
                let seen = shown(&points(n, 0.1, &|x| 0.1 * x, &mut r)).unwrap();
                bends += u32::from(seen.bend.abs() > seen.u_bend);
                let seen = shown(&points(n, 0.1, &|_| 1.0, &mut r)).unwrap();
                rises += u32::from(seen.rise.abs() > seen.u_rise);
                turns += u32::from(seen.turns);
            }
            assert!(bends <= 70 && rises <= 70, "{n} points: {bends} bends and {rises} rises of {LABS}");
            assert!(n > 12 || turns <= 70, "{n} points: {turns} turns of {LABS}");
        }
    }

    proptest! {
        /// Neither units nor the order of rows change what is shown.
        #[test]
        fn units_and_order_do_not_matter(ys in prop::collection::vec(-9.0f64..9.0, 3..12), kx in 1e-3f64..1e3, ky in 1e-3f64..1e3, turn in 0usize..12) {
            let all: Vec<Seen> = ys.iter().enumerate().map(|(i, y)| Seen { x: i as f64 + 1.0, y: *y, ux: 0.01, uy: 0.2 }).collect();
            let mut other: Vec<Seen> = all.iter().map(|p| Seen { x: p.x * kx, y: p.y * ky, ux: p.ux * kx, uy: p.uy * ky }).collect();
            other.rotate_left(turn % ys.len());
            let (a, b) = (shown(&all).unwrap(), shown(&other).unwrap());
            prop_assert_eq!(a.best(), b.best());
            for curve in CurvePick::ALL.iter().copied() {
                prop_assert_eq!(a.shows(curve), b.shows(curve));
            }
        }
    }
}
