//! A straight line when x and y are both uncertain.

use nalgebra::DMatrix;

use super::{Data, FitError, LineSums, Solved, fit_line};

const STEPS: usize = 200;

/// Best line by the unified equations of D. York, N. M. Evensen, M. López Martínez and J. De Basabe Delgado,
/// *Am. J. Phys.* 72 (2004) 367, for errors that are not correlated; their equations (13a) to (13d).
pub(super) fn fit(data: &Data) -> Result<Solved, FitError> {
    let (x, y, n) = (&data.x[0], &data.y, data.len());
    let u2 = |all: &[f64], i: usize| all.get(i).filter(|u| u.is_finite() && **u > 0.0).map_or(0.0, |u| u * u);
    let LineSums { mut slope, .. } = fit_line(x, y, false)?;
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
        settled = (next - slope).abs() <= 1e-15 * next.abs().max(1e-300);
        let last = (next - slope).abs() / next.abs().max(1e-300);
        slope = next;
        if settled || last < 4.0 * f64::EPSILON {
            settled = true;
            break;
        }
    }
    if !settled {
        return Err(FitError::NoConvergence { model: "straight line".to_owned() });
    }
    let intercept = means.1 - slope * means.0;
    let total: f64 = weights.iter().sum();
    // Uncertainties from the adjusted points, equation (13d).
    let mean = adjusted.iter().zip(&weights).map(|(b, w)| (b + means.0) * w).sum::<f64>() / total;
    let spread: f64 = adjusted.iter().zip(&weights).map(|(b, w)| w * (b + means.0 - mean).powi(2)).sum();
    if spread <= 0.0 {
        return Err(FitError::AllXEqual);
    }
    let (uu, c) = (1.0 / spread, -mean / spread);
    let unscaled = DMatrix::from_row_slice(2, 2, &[uu, c, c, 1.0 / total + mean * mean * uu]);
    let residuals = (0..n).map(|i| y[i] - intercept - slope * x[i]).collect();
    Ok(Solved { parameters: vec![slope, intercept], unscaled, residuals, weights })
}
