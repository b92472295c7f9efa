//! Least squares for models that are linear in their parameters, by QR decomposition of the scaled design matrix
//! (G. H. Golub, C. F. Van Loan, *Matrix Computations*, 4th edition, 5.3).

use nalgebra::{DMatrix, DVector};

use super::{Data, FitError, Model, Solved};

pub(super) fn fit(data: &Data, model: &Model, weights: &[f64]) -> Result<Solved, FitError> {
    let (x, n) = (&data.x[0], data.len());
    let p = model.parameters().len();
    let root = |i: usize| weights.get(i).map_or(1.0, |w| w.sqrt());
    let mut design = DMatrix::from_row_iterator(
        n,
        p,
        x.iter().enumerate().flat_map(|(i, x)| {
            let w = root(i);
            model.basis(*x).into_iter().map(move |b| b * w)
        }),
    );
    let rhs = DVector::from_iterator(n, data.y.iter().enumerate().map(|(i, y)| y * root(i)));
    // Columns of equal length: x² of large x would drown the others.
    let lengths: Vec<f64> = design.column_iter().map(|c| c.norm()).collect();
    if lengths.iter().any(|l| *l == 0.0 || !l.is_finite()) {
        return Err(FitError::AllXEqual);
    }
    for (mut column, length) in design.column_iter_mut().zip(&lengths) {
        column /= *length;
    }
    let (found, inverse) = solve(&design, &rhs).ok_or(FitError::AllXEqual)?;
    let residuals: Vec<f64> = (0..n)
        .map(|i| data.y[i] - model.basis(x[i]).iter().enumerate().map(|(k, b)| b * found[k] / lengths[k]).sum::<f64>())
        .collect();
    let unscaled = DMatrix::from_fn(p, p, |i, j| inverse[(i, j)] / (lengths[i] * lengths[j]));
    Ok(Solved {
        parameters: (0..p).map(|k| found[k] / lengths[k]).collect(),
        unscaled,
        residuals,
        weights: weights.to_vec(),
    })
}

/// Best solution of `design`·b = `rhs` and (`design`ᵀ`design`)⁻¹. `None` when columns depend on each other.
pub(super) fn solve(design: &DMatrix<f64>, rhs: &DVector<f64>) -> Option<(DVector<f64>, DMatrix<f64>)> {
    let qr = design.clone().qr();
    let r = qr.r();
    let largest = r.diagonal().amax();
    if r.diagonal().iter().any(|d| d.abs() <= 1e-13 * largest) {
        return None;
    }
    let q = qr.q();
    let mut found = r.solve_upper_triangular(&q.tr_mul(rhs))?;
    // One step of refinement wins back what the decomposition rounded away.
    let rest = rhs - design * &found;
    found += r.solve_upper_triangular(&q.tr_mul(&rest))?;
    let back = r.clone().try_inverse()?;
    Some((found, &back * back.transpose()))
}
