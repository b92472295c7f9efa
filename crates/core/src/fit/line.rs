//! Ordinary least squares for a straight line.

use nalgebra::DMatrix;

use super::{Data, FitError, Model, Solved};

/// A straight line through points, in the numbers it was given.
#[derive(Clone, Debug, PartialEq)]
pub struct LineSums {
    /// Slope.
    pub slope: f64,
    /// Intercept; zero for a line through the origin.
    pub intercept: f64,
    /// Standard uncertainty of the slope; `NaN` without degrees of freedom.
    pub u_slope: f64,
    /// Standard uncertainty of the intercept; `NaN` without degrees of freedom, zero through the origin.
    pub u_intercept: f64,
    /// Residual standard deviation; `NaN` without degrees of freedom.
    pub residual_sd: f64,
    /// Coefficient of determination.
    pub r2: f64,
    /// Mean of x and Σ(x−x̄)², or 0 and Σx² through the origin.
    pub mean_x: f64,
    /// See `mean_x`.
    pub sxx: f64,
}

/// Fits a line to the points (xᵢ, yᵢ) by ordinary least squares.
///
/// With centred sums Sxx = Σ(xᵢ−x̄)², Sxy = Σ(xᵢ−x̄)(yᵢ−ȳ): a = Sxy/Sxx, b = ȳ − a·x̄, s² = Σrᵢ²/(n−2),
/// u(a) = s/√Sxx, u(b) = s·√(1/n + x̄²/Sxx); through the origin a = Σxᵢyᵢ/Σxᵢ², s² = Σrᵢ²/(n−1),
/// u(a) = s/√Σxᵢ². Centring before multiplying keeps the digits.
/// Source: N. R. Draper, H. Smith, *Applied Regression Analysis*, 3rd edition, 1.2 to 1.4 and 2.5;
/// JCGM 100:2008, H.3.
///
/// # Errors
/// [`FitError`] when there are too few points, all x are equal, or a value is not finite.
pub fn fit_line(x: &[f64], y: &[f64], through_origin: bool) -> Result<LineSums, FitError> {
    let n = x.len().min(y.len());
    let (x, y) = (&x[..n], &y[..n]);
    let model = if through_origin { Model::Proportional } else { Model::Line };
    let parameters = if through_origin { 1 } else { 2 };
    if n < parameters {
        return Err(FitError::TooFewPoints { model: model.clone(), needed: parameters, have: n });
    }
    let count = n as f64;
    let mean = |all: &[f64]| {
        let first = sum(all, |v| v) / count;
        // A second pass takes out the rounding of the first.
        first + sum(all, |v| v - first) / count
    };
    let (mean_x, mean_y) = if through_origin { (0.0, 0.0) } else { (mean(x), mean(y)) };
    let sxx = sum(x, |v| (v - mean_x) * (v - mean_x));
    let syy = sum(y, |v| (v - mean_y) * (v - mean_y));
    let sxy = sum_pairs(x, y, |a, b| (a - mean_x) * (b - mean_y));
    if !(sxx + syy + sxy).is_finite() {
        return Err(FitError::NotFinite);
    }
    let largest = x.iter().fold(0.0_f64, |m, v| m.max(v.abs()));
    // Equal x leave nothing but rounding behind.
    if sxx <= count * (largest * 1e-14).powi(2) {
        return Err(FitError::AllXEqual);
    }
    let slope = sxy / sxx;
    let rss = sum_pairs(x, y, |a, b| {
        let r = (b - mean_y) - slope * (a - mean_x);
        r * r
    });
    let dof = n - parameters;
    let sd = if dof == 0 { f64::NAN } else { (rss / dof as f64).sqrt() };
    let spread = 1.0 / count + mean_x * mean_x / sxx;
    Ok(LineSums {
        slope,
        intercept: mean_y - slope * mean_x,
        u_slope: sd / sxx.sqrt(),
        u_intercept: if through_origin { 0.0 } else { sd * spread.sqrt() },
        residual_sd: sd,
        r2: if syy == 0.0 { 1.0 } else { 1.0 - rss / syy },
        mean_x,
        sxx,
    })
}

/// Independent sums side by side, which the processor adds at once; they also round less than one long sum.
const LANES: usize = 8;

fn sum(all: &[f64], term: impl Fn(f64) -> f64) -> f64 {
    let mut lanes = [0.0; LANES];
    let (chunks, rest) = all.as_chunks::<LANES>();
    for chunk in chunks {
        for (lane, v) in lanes.iter_mut().zip(chunk) {
            *lane += term(*v);
        }
    }
    lanes.iter().sum::<f64>() + rest.iter().map(|v| term(*v)).sum::<f64>()
}

fn sum_pairs(a: &[f64], b: &[f64], term: impl Fn(f64, f64) -> f64) -> f64 {
    let mut lanes = [0.0; LANES];
    let ((chunks_a, rest_a), (chunks_b, rest_b)) = (a.as_chunks::<LANES>(), b.as_chunks::<LANES>());
    for (ca, cb) in chunks_a.iter().zip(chunks_b) {
        for i in 0..LANES {
            lanes[i] += term(ca[i], cb[i]);
        }
    }
    lanes.iter().sum::<f64>() + rest_a.iter().zip(rest_b).map(|(x, y)| term(*x, *y)).sum::<f64>()
}

/// The line as a solution of the general kind.
pub(super) fn solve(data: &Data, model: &Model) -> Result<Solved, FitError> {
    let x = &data.x[0];
    let origin = *model == Model::Proportional;
    let line = fit_line(x, &data.y, origin)?;
    // Residuals about the centre keep the digits that the intercept would cost.
    let mean_y = if origin { 0.0 } else { line.intercept + line.slope * line.mean_x };
    let residuals = x.iter().zip(&data.y).map(|(x, y)| (y - mean_y) - line.slope * (x - line.mean_x)).collect();
    let (n, sxx, m) = (data.len() as f64, line.sxx, line.mean_x);
    let (parameters, unscaled) = if origin {
        (vec![line.slope], DMatrix::from_element(1, 1, 1.0 / sxx))
    } else {
        let c = -m / sxx;
        (vec![line.slope, line.intercept], DMatrix::from_row_slice(2, 2, &[1.0 / sxx, c, c, 1.0 / n + m * m / sxx]))
    };
    Ok(Solved { parameters, unscaled, residuals, weights: Vec::new() })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn split(points: &[(f64, f64)]) -> (Vec<f64>, Vec<f64>) {
        points.iter().copied().unzip()
    }

    fn line(points: &[(f64, f64)]) -> Result<LineSums, FitError> {
        let (x, y) = split(points);
        fit_line(&x, &y, false)
    }

    #[test]
    fn a_line_that_cannot_be_found_is_not_made_up() {
        assert!(matches!(line(&[]), Err(FitError::TooFewPoints { have: 0, .. })));
        assert!(matches!(line(&[(1.0, 1.0)]), Err(FitError::TooFewPoints { .. })));
        assert_eq!(line(&[(0.1, 1.0), (0.1, 2.0), (0.1, 3.0)]), Err(FitError::AllXEqual));
        assert_eq!(fit_line(&[0.0], &[1.0], true), Err(FitError::AllXEqual));
        assert_eq!(line(&[(0.0, f64::NAN), (1.0, 1.0)]), Err(FitError::NotFinite));
        let two = line(&[(0.0, 1.0), (1.0, 3.0)]).unwrap();
        assert!(two.u_slope.is_nan() && two.slope == 2.0 && two.residual_sd.is_nan());
    }

    proptest! {
        #[test]
        fn a_line_through_exact_points_is_found_to_rounding(
            a in -1e3f64..1e3, b in -1e3f64..1e3,
            xs in prop::collection::btree_set(-1000i32..1000, 3..40),
        ) {
            let points: Vec<_> = xs.iter().map(|&x| (f64::from(x), a * f64::from(x) + b)).collect();
            let fit = line(&points).unwrap();
            let size = points.iter().map(|p| p.1.abs()).fold(1.0, f64::max);
            prop_assert!((fit.slope - a).abs() <= 1e-12 * size);
            prop_assert!((fit.intercept - b).abs() <= 1e-11 * size);
            prop_assert!(fit.residual_sd <= 1e-12 * size);
        }
    }
}
