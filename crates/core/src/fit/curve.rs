//! A fitted curve: its height, its uncertainty and its steepness at any x.

use std::collections::BTreeMap;

use nalgebra::{DMatrix, DVector};
use statrs::distribution::{ContinuousCDF, FisherSnedecor};

use super::model::Ready;
use super::{Data, Typed, nonlinear};
use crate::quantity::Unit;

/// What readings do to the height of every point above a curve: (reading, u·(∂y − slope·∂x)).
pub(crate) type TermsOf<'a> = dyn Fn(&Curve) -> Vec<Vec<(u64, f64)>> + 'a;

/// Places looked at when a height is sought.
const LOOKS: usize = 400;

/// Steps of generalised least squares, at most.
const GENERALISED: usize = 30;
/// Eigenvalues of the correlation matrix below this share of the largest are exact ties between points.
const TIED: f64 = 1e-6;

/// Points up to which correlated scatter is judged by their whole covariance.
const COUNTED: usize = 300;
/// Residuals larger than their scatter from point to point explains in so large a share of cases drift.
const DRIFT: f64 = 0.99;

/// Effective degrees of freedom of the residuals of correlated points, tr(QV)²/tr(QVQV) with Q = 1 − XCXᵀ (F. E. Satterthwaite, *Biometrics* 2
/// (1946) 110). `by_reading` has Xᵀt for every reading.
fn freedom_of(
    terms: &[&[(u64, f64)]],
    by_reading: &BTreeMap<u64, (DVector<f64>, f64)>,
    c: &DMatrix<f64>,
    trace: f64,
) -> f64 {
    let most = (terms.len() - c.nrows()).max(1) as f64;
    let place: BTreeMap<u64, usize> = by_reading.keys().enumerate().map(|(k, r)| (*r, k)).collect();
    let m = place.len();
    let mut together = DMatrix::<f64>::zeros(m, m);
    for terms in terms {
        for (a, ta) in *terms {
            for (b, tb) in *terms {
                together[(place[a], place[b])] += ta * tb;
            }
        }
    }
    let scale = together.trace() / by_reading.values().map(|(_, q)| q).sum::<f64>();
    let moved: Vec<DVector<f64>> = by_reading.values().map(|(w, _)| c * w).collect();
    for (k, (w, _)) in by_reading.values().enumerate() {
        for (l, moved) in moved.iter().enumerate() {
            together[(k, l)] -= scale * w.dot(moved);
        }
    }
    let square: f64 = together.norm_squared();
    if square > 0.0 { ((scale * trace).powi(2) / square).clamp(1.0, most) } else { most }
}

/// Rows that make points of this covariance independent and of unit variance; fewer than points where some are tied. `None` where a point has no
/// uncertainty.
fn whitening(terms: &[Vec<(u64, f64)>]) -> Option<DMatrix<f64>> {
    let n = terms.len();
    let mut by_reading: BTreeMap<u64, Vec<(usize, f64)>> = BTreeMap::new();
    for (i, terms) in terms.iter().enumerate() {
        for (reading, t) in terms {
            by_reading.entry(*reading).or_default().push((i, *t));
        }
    }
    let mut covariance = DMatrix::<f64>::zeros(n, n);
    for touched in by_reading.values() {
        for (i, a) in touched {
            for (j, b) in touched {
                covariance[(*i, *j)] += a * b;
            }
        }
    }
    let u: Vec<f64> = covariance.diagonal().iter().map(|v| v.sqrt()).collect();
    if u.iter().any(|u| !u.is_finite() || *u <= 0.0) {
        return None;
    }
    let even = DMatrix::from_fn(n, n, |i, j| covariance[(i, j)] / (u[i] * u[j]));
    let eigen = even.symmetric_eigen();
    let most = eigen.eigenvalues.max();
    let kept: Vec<usize> = (0..n).filter(|k| eigen.eigenvalues[*k] > TIED * most).collect();
    Some(DMatrix::from_fn(kept.len(), n, |row, i| {
        let k = kept[row];
        eigen.eigenvectors[(i, k)] / (eigen.eigenvalues[k].sqrt() * u[i])
    }))
}

/// A curve with its parameters. x and y are in the units of the points.
#[derive(Clone, Debug)]
pub struct Curve {
    ready: Ready,
    parameters: Vec<f64>,
    covariance: DMatrix<f64>,
}

impl Curve {
    pub(super) fn new(ready: Ready, parameters: Vec<f64>, covariance: DMatrix<f64>) -> Self {
        Self { ready, parameters, covariance }
    }

    pub(super) fn variances(&self) -> Vec<f64> {
        self.covariance.diagonal().iter().copied().collect()
    }

    pub(super) fn covariance_matrix(&self) -> &DMatrix<f64> {
        &self.covariance
    }

    /// See [`super::Fit::correlate`]; `residual_sd` and `residuals` are in the unit of the
    /// points, σ² is at least `least`. `None` when nothing was changed, else
    /// whether it was `least` that counted, and the effective degrees of freedom of σ².
    pub(super) fn correlate(
        &mut self,
        xs: &[f64],
        terms: &[&[(u64, f64)]],
        (residual_sd, residuals): (f64, &[f64]),
        least: f64,
    ) -> Option<(bool, f64)> {
        let size = self.ready.y_size;
        let rss: f64 = residuals.iter().map(|r| r * r).sum();
        let c = &self.covariance / (residual_sd * size).powi(2);
        let mut by_reading: BTreeMap<u64, (DVector<f64>, f64)> = BTreeMap::new();
        for (x, terms) in xs.iter().zip(terms) {
            let gradient = DVector::from_vec(self.ready.tape.gradient(&self.point(*x), &self.parameters));
            for (reading, t) in *terms {
                let start = || (DVector::zeros(gradient.len()), 0.0);
                let (w, q) = by_reading.entry(*reading).or_insert_with(start);
                w.axpy(t * size, &gradient, 1.0);
                *q += (t * size).powi(2);
            }
        }
        let trace: f64 = by_reading.values().map(|(w, q)| q - w.dot(&(&c * w))).sum();
        let mut spread = DMatrix::zeros(c.nrows(), c.ncols());
        for (w, _) in by_reading.values() {
            let moved = &c * w;
            spread += &moved * moved.transpose();
        }
        let most = xs.len().saturating_sub(c.nrows()) as f64;
        let plain = rss * size * size / trace;
        let (scatter, freedom) = match self.scatter(xs, terms, residuals) {
            Some((scatter, freedom)) => {
                // Errors that drift, as those of a followed object do, are larger over many points than from one to the next.
                let own = freedom_of(terms, &by_reading, &c, trace);
                let limit = FisherSnedecor::new(own, freedom).map_or(f64::INFINITY, |d| d.inverse_cdf(DRIFT));
                if plain > limit * scatter { (plain, own) } else { (scatter, freedom) }
            }
            None => (plain, most),
        };
        let covariance = spread * scatter.max(least);
        let sound = trace > 0.0 && covariance.iter().all(|v| v.is_finite());
        if sound {
            self.covariance = covariance;
        }
        sound.then_some((scatter < least, freedom))
    }

    /// σ² of correlated points, χ² of generalised least squares over its degrees of freedom, and these: unlike the sum of squares it is
    /// independent of the parameters found. `None` with too many points, or where none is free.
    fn scatter(&self, xs: &[f64], terms: &[&[(u64, f64)]], residuals: &[f64]) -> Option<(f64, f64)> {
        if xs.len() > COUNTED {
            return None;
        }
        let white = whitening(&terms.iter().map(|t| t.to_vec()).collect::<Vec<_>>())?;
        let p = self.parameters.len();
        let free = white.nrows().checked_sub(p).filter(|free| *free > 0)?;
        let rest = &white * DVector::from_column_slice(residuals);
        let rows: Vec<Vec<f64>> =
            xs.iter().map(|x| self.ready.tape.gradient(&self.point(*x), &self.parameters)).collect();
        let slopes = &white * DMatrix::from_fn(xs.len(), p, |i, k| rows[i][k]);
        let q = slopes.qr().q();
        let told = (&rest - &q * (q.transpose() * &rest)).norm_squared() / free as f64;
        told.is_finite().then_some((told, free as f64))
    }

    /// Generalised least squares: makes (y − f)ᵀV⁺(y − f) least, with V = Σ t tᵀ over all readings, by steps of Gauss and Newton from where the
    /// curve is (A. C. Aitken, *Proc. R. Soc. Edinb.* 55 (1935) 42). `terms_of` gives u·(∂y − slope·∂x) of every point for a curve. What V cannot
    /// tell from exact, as where rates are tied to one another by the parabolas they come from, is left out (V⁺).
    ///
    /// Gives χ² and the rank of V; `None` when no end is found, and then nothing has changed.
    pub(super) fn generalise(&mut self, (xs, ys): (&[f64], &[f64]), terms_of: &TermsOf<'_>) -> Option<(f64, usize)> {
        let mut here = self.clone();
        let mut best: Option<(f64, usize)> = None;
        for _ in 0..GENERALISED {
            let white = whitening(&terms_of(&here))?;
            let off = |curve: &Self| {
                let height = curve.along(xs);
                &white * DVector::from_fn(xs.len(), |i, _| ys[i] - height[i])
            };
            let rows: Vec<Vec<f64>> =
                xs.iter().map(|x| here.ready.tape.gradient(&here.point(*x), &here.parameters)).collect();
            let p = here.parameters.len();
            let slopes = &white * DMatrix::from_fn(xs.len(), p, |i, k| rows[i][k] / here.ready.y_size);
            let rest = off(&here);
            let chi2 = rest.norm_squared();
            let lengths: Vec<f64> = slopes.column_iter().map(|c| c.norm()).collect();
            if lengths.iter().any(|l| *l == 0.0 || !l.is_finite()) || !chi2.is_finite() {
                return None;
            }
            let even = DMatrix::from_fn(slopes.nrows(), p, |i, k| slopes[(i, k)] / lengths[k]);
            let inverse = (even.transpose() * &even).cholesky()?.inverse();
            let step = &inverse * (even.transpose() * &rest);
            here.covariance = DMatrix::from_fn(p, p, |i, j| inverse[(i, j)] / (lengths[i] * lengths[j]));
            best = Some((chi2, white.nrows()));
            // In standard uncertainties: what is left moves nothing.
            if step.iter().enumerate().all(|(k, s)| s.abs() <= 1e-7 * inverse[(k, k)].sqrt()) {
                *self = here;
                return best;
            }
            let moved = |share: f64| {
                let by = |k: usize| here.parameters[k] + share * step[k] / lengths[k];
                Self { parameters: (0..p).map(by).collect(), ..here.clone() }
            };
            let next = (0..12).map(|k| moved(0.5f64.powi(k))).find(|next| off(next).norm_squared() <= chi2);
            match next {
                Some(next) => here = next,
                // Rounding is all that is left.
                None => break,
            }
        }
        best?;
        *self = here;
        best
    }

    /// Start values from which its formula comes nearer to the points, if any are known: symbol, value and unit.
    pub(super) fn nearer(&self, data: &Data, typed: &Typed, weights: &[f64]) -> Option<Vec<(String, f64, Unit)>> {
        let place = nonlinear::nearer(data, typed, &self.ready, &self.parameters, weights)?;
        let values = place.into_iter().zip(&self.ready.factors).map(|(v, f)| v * f);
        let named = self.ready.symbols.iter().zip(values).zip(&self.ready.units);
        Some(named.map(|((symbol, value), unit)| (symbol.clone(), value, unit.clone())).collect())
    }

    /// What a parameter's number is multiplied with to be counted in its unit.
    pub(super) fn factors(&self) -> &[f64] {
        &self.ready.factors
    }

    pub(super) fn parameters(&self) -> &[f64] {
        &self.parameters
    }

    /// Adds the difference to a curve that was shifted by one standard uncertainty to the covariance.
    pub(super) fn widen(&mut self, shifted: &Self) {
        let by = DVector::from_vec(shifted.parameters.clone()) - DVector::from_vec(self.parameters.clone());
        self.covariance += &by * by.transpose();
    }

    fn point(&self, x: f64) -> Vec<f64> {
        // Further columns of a typed formula have no value along a curve.
        self.ready.x_sizes.iter().enumerate().map(|(k, s)| if k == 0 { x * s } else { f64::NAN }).collect()
    }

    /// y at x.
    pub fn at(&self, x: f64) -> f64 {
        self.ready.tape.value(&self.point(x), &self.parameters) / self.ready.y_size
    }

    /// Heights at many x.
    pub fn along(&self, xs: &[f64]) -> Vec<f64> {
        let mut columns = vec![xs.iter().map(|x| x * self.ready.x_sizes[0]).collect::<Vec<_>>()];
        columns.resize(self.ready.x_sizes.len(), vec![f64::NAN; xs.len()]);
        let columns: Vec<&[f64]> = columns.iter().map(Vec::as_slice).collect();
        let mut values = vec![0.0; xs.len()];
        self.ready.tape.evaluate(&columns, &self.parameters, &mut values, None);
        values.iter_mut().for_each(|v| *v /= self.ready.y_size);
        values
    }

    /// ∂y/∂pᵢ at x, with the parameters as the curve counts them.
    pub(super) fn gradient(&self, x: f64) -> Vec<f64> {
        let gradient = self.ready.tape.gradient(&self.point(x), &self.parameters);
        gradient.into_iter().map(|g| g / self.ready.y_size).collect()
    }

    /// Standard uncertainty of y at x; `NaN` when that of the parameters is not known.
    pub fn u_at(&self, x: f64) -> f64 {
        let gradient = DVector::from_vec(self.ready.tape.gradient(&self.point(x), &self.parameters));
        super::root(gradient.dot(&(&self.covariance * &gradient))) / self.ready.y_size
    }

    /// dy/dx at x, from a small step to both sides.
    pub fn steepness(&self, x: f64) -> f64 {
        let step = 1e-5 * x.abs().max(1e-3);
        (self.at(x + step) - self.at(x - step)) / (2.0 * step)
    }

    pub(super) fn where_it_is(&self, y: f64, (from, to): (f64, f64)) -> Vec<f64> {
        let xs: Vec<f64> = (0..=LOOKS).map(|i| from + (to - from) * i as f64 / LOOKS as f64).collect();
        let off: Vec<f64> = self.along(&xs).into_iter().map(|v| v - y).collect();
        let mut found = Vec::new();
        for i in 0..LOOKS {
            let (mut low, mut high) = (xs[i], xs[i + 1]);
            if off[i] == 0.0 {
                found.push(low);
                continue;
            }
            // Never true at a gap of the curve, where a side is not a number.
            if off[i] * off[i + 1] < 0.0 {
                for _ in 0..100 {
                    let middle = f64::midpoint(low, high);
                    if (self.at(middle) - y) * off[i] > 0.0 { low = middle } else { high = middle }
                }
                found.push(f64::midpoint(low, high));
            }
        }
        if off[LOOKS] == 0.0 {
            found.push(to);
        }
        found
    }
}
