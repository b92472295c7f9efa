//! A straight line when x and y are both uncertain.

use nalgebra::DMatrix;

use super::{Data, FitError, LineSums, Model, Solved, fit_line};

const STEPS: usize = 200;
/// A step this small, in standard uncertainties of the slope, is the last one.
const SMALL: f64 = 1e-8;

/// Best line by the unified equations of D. York, N. M. Evensen, M. López Martínez and J. De Basabe Delgado,
/// *Am. J. Phys.* 72 (2004) 367, for errors that are not correlated; their equations (13a) to (13d).
pub(super) fn fit(data: &Data) -> Result<Solved, FitError> {
    let n = data.len();
    // Counted from the middle, so that years since the year 0 keep their digits.
    let middle = |all: &[f64]| all.iter().sum::<f64>() / n as f64;
    let centre = (middle(&data.x[0]), middle(&data.y));
    let x: Vec<f64> = data.x[0].iter().map(|x| x - centre.0).collect();
    let y: Vec<f64> = data.y.iter().map(|y| y - centre.1).collect();
    let u2 = |all: &[f64], i: usize| all.get(i).filter(|u| u.is_finite() && **u > 0.0).map_or(0.0, |u| u * u);
    let LineSums { mut slope, .. } = fit_line(&x, &y, false)?;
    let mut weights = vec![0.0; n];
    let mut means = (0.0, 0.0);
    let mut adjusted = vec![0.0; n];
    let mut settled = false;
    for _ in 0..STEPS {
        for (i, w) in weights.iter_mut().enumerate() {
            *w = 1.0 / (u2(&data.uy, i) + slope * slope * u2(&data.ux, i));
        }
        let total: f64 = weights.iter().sum();
        means = (
            x.iter().zip(&weights).map(|(x, w)| x * w).sum::<f64>() / total,
            y.iter().zip(&weights).map(|(y, w)| y * w).sum::<f64>() / total,
        );
        let (mut over, mut under) = (0.0, 0.0);
        for i in 0..n {
            let (dx, dy) = (x[i] - means.0, y[i] - means.1);
            let beta = weights[i] * (dx * u2(&data.uy, i) + slope * dy * u2(&data.ux, i));
            adjusted[i] = beta;
            over += weights[i] * beta * dy;
            under += weights[i] * beta * dx;
        }
        let next = over / under;
        if !next.is_finite() {
            break;
        }
        // Far below what the slope is known to, and above what rounding moves it by.
        let u = under.abs().sqrt().recip();
        settled = (next - slope).abs() <= SMALL * u.max(next.abs() * 1e-6);
        slope = next;
        if settled {
            break;
        }
    }
    if !settled {
        return Err(FitError::NoConvergence { model: Model::Line });
    }
    let intercept = means.1 + centre.1 - slope * (means.0 + centre.0);
    let total: f64 = weights.iter().sum();
    // Uncertainties from the adjusted points, equation (13d).
    let mean = adjusted.iter().zip(&weights).map(|(b, w)| (b + means.0) * w).sum::<f64>() / total;
    let spread: f64 = adjusted.iter().zip(&weights).map(|(b, w)| w * (b + means.0 - mean).powi(2)).sum();
    if spread <= 0.0 {
        return Err(FitError::AllXEqual);
    }
    let mean = mean + centre.0;
    let (uu, c) = (1.0 / spread, -mean / spread);
    let unscaled = DMatrix::from_row_slice(2, 2, &[uu, c, c, 1.0 / total + mean * mean * uu]);
    let residuals = (0..n).map(|i| (y[i] - means.1) - slope * (x[i] - means.0)).collect();
    Ok(Solved { parameters: vec![slope, intercept], unscaled, residuals, weights })
}
