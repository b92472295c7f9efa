//! A fitted curve: its height, its uncertainty and its steepness at any x.

use std::collections::BTreeMap;

use nalgebra::{DMatrix, DVector};

use super::model::Ready;

/// Places looked at when a height is sought.
const LOOKS: usize = 400;

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

    /// See [`super::Fit::correlate`]; `residual_sd` and `rss` are in the unit of the
    /// points, σ² is at least `least`. `None` when nothing was changed, else
    /// whether it was `least` that counted.
    pub(super) fn correlate(
        &mut self,
        xs: &[f64],
        terms: &[&[(u64, f64)]],
        (residual_sd, rss): (f64, f64),
        least: f64,
    ) -> Option<bool> {
        let size = self.ready.y_size;
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
        let scatter = rss * size * size / trace;
        let covariance = spread * scatter.max(least);
        let sound = trace > 0.0 && covariance.iter().all(|v| v.is_finite());
        if sound {
            self.covariance = covariance;
        }
        sound.then_some(scatter < least)
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
