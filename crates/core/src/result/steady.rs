//! A column that should be the same everywhere: a product or a sum that stays constant.

use statrs::distribution::{ContinuousCDF, StudentsT};

use super::effective;
use crate::fit::fit_line;
use crate::quantity::Uncertain;
use crate::record::Cell;

/// How steady a column is. Values in coherent SI units.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Steady {
    /// Number of values.
    pub n: usize,
    /// Mean.
    pub mean: f64,
    /// Standard uncertainty of the mean: from the scatter, s/√n (JCGM 100:2008, 4.2.3), from what the instrument cannot tell apart, and
    /// from what the values share.
    pub u: f64,
    /// Degrees of freedom of `u`.
    pub freedom: f64,
    /// Spread: sample standard deviation of the values.
    pub spread: f64,
    /// Root mean square of the values' own standard uncertainties.
    pub own: f64,
    /// Change from one row to the next from row to row, by a straight line.
    pub trend: f64,
    /// Probability of at least so much trend from scatter alone; `NaN` with fewer than three values.
    pub p_trend: f64,
}

impl Steady {
    /// Whether the values rise or fall from row to row by more than scatter explains.
    pub fn has_trend(&self) -> bool {
        self.p_trend < 0.05
    }

    /// Whether the values scatter more than their own uncertainties explain (twice as much and more).
    pub fn is_restless(&self) -> bool {
        self.own > 0.0 && self.spread > 2.0 * self.own
    }
}

/// Readings from which on more than two digits would be seen if they scattered by half of one.
const SEVERAL: usize = 8;
/// Harmonics of the rounding error that are summed.
const HARMONICS: i32 = 40;

/// Variance of the mean's rounding error where readings with this standard uncertainty of rounding, u = d/√12, scatter by σ before they are
/// rounded: d²/(2π²) Σ exp(−4π²k²σ²/d²)/k². Without scatter all are rounded alike, and it is u²; from half a digit on, nothing is left of it
/// (characteristic function of a quantised sum: B. Widrow, I. Kollár, *Quantization Noise*, 2008, chapter 4).
fn rounding(u: f64, scatter: f64) -> f64 {
    let d2 = 12.0 * u * u;
    let pi2 = std::f64::consts::PI.powi(2);
    let term = |k: i32| {
        let k2 = f64::from(k * k);
        (-4.0 * pi2 * k2 * scatter * scatter / d2).exp() / k2
    };
    // What the sum leaves out of Σ 1/k² = π²/6 matters without scatter only.
    if scatter == 0.0 { u * u } else { d2 / (2.0 * pi2) * (1..=HARMONICS).map(term).sum::<f64>() }
}

/// Mean, spread and trend of the cells that have values; `None` with fewer than two.
pub fn steady<'a>(cells: impl Iterator<Item = &'a Cell>) -> Option<Steady> {
    let all: Vec<&Uncertain> = cells.filter_map(Cell::value).collect();
    let values: Vec<(f64, f64)> = all.iter().map(|v| (v.value, v.u())).collect();
    let n = values.len();
    if n < 2 {
        return None;
    }
    let count = n as f64;
    let mean = values.iter().map(|v| v.0).sum::<f64>() / count;
    let spread = (values.iter().map(|v| (v.0 - mean).powi(2)).sum::<f64>() / (count - 1.0)).sqrt();
    let own = (values.iter().map(|v| v.1 * v.1).sum::<f64>() / count).sqrt();
    // What the readings share does not show in their scatter: the mean's variance beyond that of independent values.
    let together = Uncertain::combination(all.iter().map(|v| (1.0 / count, *v))).u().powi(2);
    let shared = (together - own * own / count).max(0.0);
    // Rounding is part of the scatter that is seen.
    let alone = (own * own - shared).max(0.0).sqrt();
    // Many readings that all show one of two neighbouring digits scatter little, and lie by chance where one digit ends.
    let (least, most) = values.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), v| (a.min(v.0), b.max(v.0)));
    let two_digits = n >= SEVERAL && most - least <= 1.01 * alone * 12f64.sqrt();
    let before = if two_digits { 0.0 } else { (spread * spread - alone * alone).max(0.0).sqrt() };
    let rounded = if alone > 0.0 { rounding(alone, before) } else { 0.0 };
    let by_scatter = spread / count.sqrt();
    let u = (by_scatter * by_scatter + rounded + shared).sqrt();
    // What rounding adds to the scatter is known beforehand; only the rest is told by few values.
    let freedom = effective(before / count.sqrt(), count - 1.0, u);
    let rows: Vec<f64> = (0..n).map(|i| i as f64).collect();
    let heights: Vec<f64> = values.iter().map(|v| v.0).collect();
    let (trend, p_trend) = match fit_line(&rows, &heights, false) {
        Ok(line) if n > 2 && line.u_slope > 1e-12 * mean.abs() => {
            let t = line.slope.abs() / line.u_slope;
            let p = StudentsT::new(0.0, 1.0, count - 2.0).map_or(f64::NAN, |d| 2.0 * (1.0 - d.cdf(t)));
            (line.slope, p)
        }
        Ok(line) if n > 2 => (line.slope, if line.slope.abs() > 1e-12 * mean.abs() { 0.0 } else { 1.0 }),
        Ok(line) => (line.slope, f64::NAN),
        Err(_) => (0.0, f64::NAN),
    };
    Some(Steady { n, mean, u, freedom, spread, own, trend, p_trend })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::{Source, Uncertain};

    fn cells(values: &[f64]) -> Vec<Cell> {
        values.iter().map(|v| Cell::Value(Uncertain::from_source(*v, 0.1, Source(1)))).collect()
    }

    #[test]
    fn a_steady_product_is_told_from_one_that_drifts() {
        let steady_one = steady(cells(&[5.1, 4.9, 5.0, 5.05, 4.95]).iter()).unwrap();
        assert!((steady_one.mean - 5.0).abs() < 1e-12 && !steady_one.has_trend() && !steady_one.is_restless());
        let drifting = steady(cells(&[4.0, 4.5, 5.02, 5.49, 6.0]).iter()).unwrap();
        assert!(drifting.has_trend() && drifting.is_restless() && (drifting.trend - 0.499).abs() < 1e-9);
        assert!(steady(cells(&[1.0]).iter()).is_none());
        assert!(!steady(cells(&[3.0, 3.0, 3.0]).iter()).unwrap().has_trend());
    }
}
