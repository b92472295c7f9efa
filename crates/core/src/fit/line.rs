//! Ordinary least squares for a straight line.

use super::{Estimate, FitError, LineFit, Model};

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
pub fn fit_line(points: &[(f64, f64)], model: Model) -> Result<LineFit, FitError> {
    let n = points.len();
    let parameters = if model == Model::Line { 2 } else { 1 };
    if n < parameters {
        return Err(FitError::TooFewPoints { model: model.title(), needed: parameters, have: n });
    }
    if points.iter().any(|(x, y)| !x.is_finite() || !y.is_finite()) {
        return Err(FitError::NotFinite);
    }
    let count = n as f64;
    let mean = |value: fn(&(f64, f64)) -> f64| {
        let first = points.iter().map(value).sum::<f64>() / count;
        // A second pass takes out the rounding of the first.
        first + points.iter().map(|p| value(p) - first).sum::<f64>() / count
    };
    let (mean_x, mean_y) = (mean(|p| p.0), mean(|p| p.1));
    let (centre_x, centre_y) = if model == Model::Line { (mean_x, mean_y) } else { (0.0, 0.0) };
    let (mut sxx, mut sxy, mut syy, mut largest) = (0.0, 0.0, 0.0, 0.0_f64);
    for (x, y) in points {
        let (dx, dy) = (x - centre_x, y - centre_y);
        sxx += dx * dx;
        sxy += dx * dy;
        syy += dy * dy;
        largest = largest.max(x.abs());
    }
    // Equal x leave nothing but rounding behind.
    if sxx <= count * (largest * 1e-14).powi(2) {
        return Err(FitError::AllXEqual);
    }
    let slope = sxy / sxx;
    let intercept = centre_y - slope * centre_x;
    let residuals: Vec<f64> = points.iter().map(|(x, y)| (y - centre_y) - slope * (x - centre_x)).collect();
    let rss: f64 = residuals.iter().map(|r| r * r).sum();
    let dof = n - parameters;
    let sd = if dof == 0 { f64::NAN } else { (rss / dof as f64).sqrt() };
    let span = points.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), (x, _)| (lo.min(*x), hi.max(*x)));
    Ok(LineFit {
        model,
        slope: Estimate { value: slope, u: sd / sxx.sqrt() },
        intercept: (model == Model::Line)
            .then(|| Estimate { value: intercept, u: sd * (1.0 / count + mean_x * mean_x / sxx).sqrt() }),
        n,
        dof,
        residual_sd: sd,
        r2: if syy == 0.0 { 1.0 } else { 1.0 - rss / syy },
        residuals,
        span,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn a_line_that_cannot_be_found_is_not_made_up() {
        assert!(matches!(fit_line(&[], Model::Line), Err(FitError::TooFewPoints { have: 0, .. })));
        assert!(matches!(fit_line(&[(1.0, 1.0)], Model::Line), Err(FitError::TooFewPoints { .. })));
        assert_eq!(fit_line(&[(0.1, 1.0), (0.1, 2.0), (0.1, 3.0)], Model::Line), Err(FitError::AllXEqual));
        assert_eq!(fit_line(&[(0.0, 1.0)], Model::Proportional), Err(FitError::AllXEqual));
        assert_eq!(fit_line(&[(0.0, f64::NAN), (1.0, 1.0)], Model::Line), Err(FitError::NotFinite));
        let two = fit_line(&[(0.0, 1.0), (1.0, 3.0)], Model::Line).unwrap();
        assert!(two.slope.u.is_nan() && two.slope.value == 2.0 && two.dof == 0);
    }

    proptest! {
        #[test]
        fn a_line_through_exact_points_is_found_to_rounding(
            a in -1e3f64..1e3, b in -1e3f64..1e3,
            xs in prop::collection::btree_set(-1000i32..1000, 3..40),
        ) {
            let points: Vec<_> = xs.iter().map(|&x| (f64::from(x), a * f64::from(x) + b)).collect();
            let fit = fit_line(&points, Model::Line).unwrap();
            let size = points.iter().map(|p| p.1.abs()).fold(1.0, f64::max);
            prop_assert!((fit.slope.value - a).abs() <= 1e-12 * size);
            prop_assert!((fit.intercept.unwrap().value - b).abs() <= 1e-11 * size);
            prop_assert!(fit.residual_sd <= 1e-12 * size);
        }

        #[test]
        fn the_order_of_points_does_not_matter(mut points in prop::collection::vec((-1e3f64..1e3, -1e3f64..1e3), 3..30)) {
            let one = fit_line(&points, Model::Line);
            points.reverse();
            let other = fit_line(&points, Model::Line);
            if let (Ok(a), Ok(b)) = (one, other) {
                prop_assert!((a.slope.value - b.slope.value).abs() <= 1e-9 * (1.0 + a.slope.value.abs()));
                prop_assert!((a.slope.u - b.slope.u).abs() <= 1e-9 * (1.0 + a.slope.u));
            }
        }
    }
}
