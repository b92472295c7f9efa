//! Curves when x and y are both uncertain: orthogonal distance regression.
//!
//! Σ (y − f(x + δ))²/u(y)² + δ²/u(x)² is made least over the parameters and the δ of every point (P. T. Boggs, R. H. Byrd,
//! R. B. Schnabel, *SIAM J. Sci. Stat. Comput.* 8 (1987) 1052). For given parameters each δ is found by itself; what is left is
//! Σ a²/V with a = y − f(x + δ) + f′δ and V = u(y)² + f′²u(x)², over which Levenberg and Marquardt descend. No u is divided by, so that one
//! of the two may be zero.

use nalgebra::{DMatrix, DVector};

use super::nonlinear::scaled;
use super::{Data, FitError, Model, Solved, linear, nonlinear, start, weights};
use crate::fit::Weighting;
use crate::fit::model::Ready;

/// Steps of a descent, and of the search for the δ of the points, at most.
const STEPS: usize = 200;
const INNER: usize = 30;
/// A step this small, in standard uncertainties of the parameters, is the last one.
const SMALL: f64 = 1e-6;

struct Problem<'a> {
    ready: &'a Ready,
    x: Vec<Vec<f64>>,
    y: Vec<f64>,
    ux2: Vec<f64>,
    uy2: Vec<f64>,
    /// Half a step for f′ at every point: small beside what the curve is drawn over, and never past zero.
    half: Vec<f64>,
}

/// Parameters, and what follows from them.
#[derive(Clone)]
struct There {
    parameters: DVector<f64>,
    delta: Vec<f64>,
    off: Vec<f64>,
    variance: Vec<f64>,
    sum: f64,
}

pub(super) fn fit(data: &Data, model: &Model, ready: &Ready) -> Result<Solved, FitError> {
    let lost = || FitError::NoConvergence { model: model.clone() };
    let ordinary = |w: &[f64]| {
        if model.is_linear() { linear::fit(data, model, w) } else { nonlinear::fit(data, model, ready, w) }
    };
    let mut starts: Vec<Vec<f64>> = ordinary(&[]).map(|s| s.parameters).into_iter().collect();
    let known = (0..data.len()).all(|i| data.uy.get(i).is_some_and(|u| *u > 0.0));
    if known && let Ok(weighted) = ordinary(&weights(data, Weighting::Up)) {
        starts.push(weighted.parameters);
    }
    let problem = Problem::new(data, ready);
    let ends = starts.iter().filter_map(|first| problem.descend(first));
    let end = ends.min_by(|a, b| a.sum.total_cmp(&b.sum)).ok_or_else(lost)?;
    let tidied = start::tidy(model, end.parameters.clone());
    let end = if tidied == end.parameters { end } else { problem.at(tidied, &end.delta).ok_or_else(lost)? };
    let (gram, _) = problem.normal(&end).ok_or_else(lost)?;
    let lengths: Vec<f64> = gram.diagonal().iter().map(|d| d.sqrt()).collect();
    let p = lengths.len();
    let open = |k: usize| FitError::Undetermined { symbol: ready.symbols[k].clone() };
    if let Some(k) = lengths.iter().position(|l| *l == 0.0) {
        return Err(open(k));
    }
    let even = DMatrix::from_fn(p, p, |i, j| gram[(i, j)] / (lengths[i] * lengths[j]));
    let inverse = even.cholesky().ok_or_else(|| open(p - 1))?.inverse();
    let size = ready.y_size;
    Ok(Solved {
        unscaled: DMatrix::from_fn(p, p, |i, j| inverse[(i, j)] / (lengths[i] * lengths[j])),
        parameters: end.parameters.as_slice().to_vec(),
        residuals: end.off.iter().map(|a| a / size).collect(),
        weights: end.variance.iter().map(|v| size * size / v).collect(),
    })
}

impl<'a> Problem<'a> {
    fn new(data: &Data, ready: &'a Ready) -> Self {
        let all = scaled(data, ready, &[]);
        let u2 = |u: &[f64], size: f64| -> Vec<f64> {
            let one = |i: usize| u.get(i).filter(|u| u.is_finite() && **u > 0.0).map_or(0.0, |u| (u * size).powi(2));
            (0..data.len()).map(one).collect()
        };
        let (lo, hi) = all.x[0].iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), x| (a.min(*x), b.max(*x)));
        let half = |x: &f64| {
            let wide = 1e-4 * (hi - lo);
            if *x == 0.0 { wide } else { wide.min(1e-3 * x.abs()) }
        };
        Self {
            ready,
            ux2: u2(&data.ux, ready.x_sizes[0]),
            uy2: u2(&data.uy, ready.y_size),
            half: all.x[0].iter().map(half).collect(),
            x: all.x,
            y: all.y,
        }
    }

    fn heights(&self, x: &[f64], parameters: &DVector<f64>) -> Vec<f64> {
        let mut columns: Vec<&[f64]> = self.x.iter().map(Vec::as_slice).collect();
        columns[0] = x;
        let mut values = vec![0.0; x.len()];
        self.ready.tape.evaluate(&columns, parameters.as_slice(), &mut values, None);
        values
    }

    /// f and f′ at x + δ.
    fn curve(&self, delta: &[f64], parameters: &DVector<f64>) -> (Vec<f64>, Vec<f64>) {
        let moved = |by: f64| -> Vec<f64> {
            let one = |i: usize| self.x[0][i] + delta[i] + by * self.half[i];
            (0..delta.len()).map(one).collect()
        };
        let here = self.heights(&moved(0.0), parameters);
        let (above, below) = (self.heights(&moved(1.0), parameters), self.heights(&moved(-1.0), parameters));
        let slope = (0..delta.len()).map(|i| (above[i] - below[i]) / (2.0 * self.half[i])).collect();
        (here, slope)
    }

    /// What a point contributes to the sum.
    fn share(&self, i: usize, f: f64, slope: f64, delta: f64) -> f64 {
        if self.uy2[i] > 0.0 {
            let by_x = if self.ux2[i] > 0.0 { delta * delta / self.ux2[i] } else { 0.0 };
            return (self.y[i] - f).powi(2) / self.uy2[i] + by_x;
        }
        // y is exact: what counts is how far x has to go for it.
        (self.y[i] - f + slope * delta).powi(2) / (slope * slope * self.ux2[i])
    }

    /// The δ of every point for these parameters, from where they were; `None` where the curve has no value.
    fn at(&self, parameters: DVector<f64>, from: &[f64]) -> Option<There> {
        let n = self.y.len();
        let mut delta = from.to_vec();
        let (mut f, mut slope) = self.curve(&delta, &parameters);
        let mut shares: Vec<f64> = (0..n).map(|i| self.share(i, f[i], slope[i], delta[i])).collect();
        if shares.iter().any(|s| !s.is_finite()) {
            return None;
        }
        // Each point goes its own way downhill; where the curve bends much, in shorter steps.
        let mut stride = vec![1.0; n];
        for _ in 0..INNER {
            let step = |i: usize| {
                let variance = self.uy2[i] + slope[i] * slope[i] * self.ux2[i];
                if variance > 0.0 {
                    slope[i] * self.ux2[i] * (self.y[i] - f[i] + slope[i] * delta[i]) / variance - delta[i]
                } else {
                    0.0
                }
            };
            let steps: Vec<f64> = (0..n).map(step).collect();
            if (0..n).all(|i| steps[i].powi(2) <= 1e-16 * self.ux2[i]) {
                break;
            }
            let tried: Vec<f64> = (0..n).map(|i| delta[i] + stride[i] * steps[i]).collect();
            let (tried_f, tried_slope) = self.curve(&tried, &parameters);
            for i in 0..n {
                let next = self.share(i, tried_f[i], tried_slope[i], tried[i]);
                if next <= shares[i] || self.uy2[i] == 0.0 && next.is_finite() {
                    (delta[i], f[i], slope[i], shares[i]) = (tried[i], tried_f[i], tried_slope[i], next);
                    stride[i] = (2.0 * stride[i]).min(1.0);
                } else {
                    stride[i] *= 0.4;
                }
            }
        }
        let variance = (0..n).map(|i| self.uy2[i] + slope[i] * slope[i] * self.ux2[i]).collect();
        let off = (0..n).map(|i| self.y[i] - f[i] + slope[i] * delta[i]).collect();
        Some(There { parameters, delta, off, variance, sum: shares.iter().sum() })
    }

    /// JᵀV⁻¹J and JᵀV⁻¹a.
    fn normal(&self, there: &There) -> Option<(DMatrix<f64>, DVector<f64>)> {
        let (n, p) = (self.y.len(), there.parameters.len());
        let at: Vec<f64> = self.x[0].iter().zip(&there.delta).map(|(x, d)| x + d).collect();
        let mut columns: Vec<&[f64]> = self.x.iter().map(Vec::as_slice).collect();
        columns[0] = &at;
        let (mut values, mut slopes) = (vec![0.0; n], vec![0.0; n * p]);
        self.ready.tape.evaluate(&columns, there.parameters.as_slice(), &mut values, Some(&mut slopes));
        let roots: Vec<f64> = there.variance.iter().map(|v| v.sqrt()).collect();
        let j = DMatrix::from_fn(n, p, |i, k| slopes[k * n + i] / roots[i]);
        let a = DVector::from_fn(n, |i, _| there.off[i] / roots[i]);
        let fine = j.iter().chain(a.iter()).all(|v| v.is_finite());
        fine.then(|| (j.tr_mul(&j), j.tr_mul(&a)))
    }

    fn descend(&self, first: &[f64]) -> Option<There> {
        let mut here = self.at(DVector::from_column_slice(first), &vec![0.0; self.y.len()])?;
        let mut damping = 1e-4;
        for _ in 0..STEPS {
            let (gram, downhill) = self.normal(&here)?;
            let lengths: Vec<f64> = gram.diagonal().iter().map(|d| d.sqrt()).collect();
            let p = lengths.len();
            if lengths.iter().any(|l| *l == 0.0 || !l.is_finite()) {
                return None;
            }
            let even = |damping: f64| {
                DMatrix::from_fn(p, p, |i, j| {
                    gram[(i, j)] / (lengths[i] * lengths[j]) + if i == j { damping } else { 0.0 }
                })
            };
            let slope = DVector::from_fn(p, |i, _| downhill[i] / lengths[i]);
            // How far the bottom of the straight model is, in standard uncertainties.
            let whole = even(1e-14).cholesky()?;
            let (inverse, full) = (whole.inverse(), whole.solve(&slope));
            if (0..p).all(|k| full[k].abs() <= SMALL * inverse[(k, k)].sqrt()) {
                return Some(here);
            }
            let step = even(damping).cholesky()?.solve(&slope);
            let next = DVector::from_fn(p, |i, _| here.parameters[i] + step[i] / lengths[i]);
            match self.at(next, &here.delta) {
                Some(there) if there.sum <= here.sum * (1.0 + 1e-14) => {
                    here = there;
                    damping = (damping * 0.1).max(1e-12);
                }
                Some(_) | None => {
                    damping = (damping * 10.0).max(1e-6);
                    // Not even the smallest step leads down: rounding is all that is left.
                    if damping > 1e12 {
                        let near = (0..p).all(|k| full[k].abs() <= 1e-3 * inverse[(k, k)].sqrt());
                        return near.then_some(here);
                    }
                }
            }
        }
        None
    }
}
