//! Least squares for curves that are not linear in their parameters, by the method of Levenberg and Marquardt
//! (J. J. Moré, in *Numerical Analysis*, Lecture Notes in Mathematics 630 (1978) 105).

use std::cell::RefCell;

use levenberg_marquardt::{LeastSquaresProblem, LevenbergMarquardt};
use nalgebra::storage::Owned;
use nalgebra::{DMatrix, DVector, Dyn};

use super::model::Ready;
use super::{Data, FitError, Model, Solved, start};

/// Evaluations allowed, for each parameter.
const PATIENCE: usize = 400;
/// Step bounds tried, in this order, until one leads to an end.
const BOUNDS: [f64; 3] = [100.0, 1.0, 0.1];

struct Problem<'a> {
    ready: &'a Ready,
    x: Vec<&'a [f64]>,
    y: &'a [f64],
    /// √w of the points; empty when all count the same.
    roots: &'a [f64],
    parameters: DVector<f64>,
    room: RefCell<Vec<f64>>,
}

impl LeastSquaresProblem<f64, Dyn, Dyn> for Problem<'_> {
    type ResidualStorage = Owned<f64, Dyn>;
    type JacobianStorage = Owned<f64, Dyn, Dyn>;
    type ParameterStorage = Owned<f64, Dyn>;

    fn set_params(&mut self, parameters: &DVector<f64>) {
        self.parameters.copy_from(parameters);
    }

    fn params(&self) -> DVector<f64> {
        self.parameters.clone()
    }

    fn residuals(&self) -> Option<DVector<f64>> {
        let mut values = DVector::zeros(self.y.len());
        self.ready.tape.evaluate(&self.x, self.parameters.as_slice(), values.as_mut_slice(), None);
        for (i, v) in values.iter_mut().enumerate() {
            *v = (*v - self.y[i]) * self.roots.get(i).copied().unwrap_or(1.0);
        }
        values.iter().all(|v| v.is_finite()).then_some(values)
    }

    fn jacobian(&self) -> Option<DMatrix<f64>> {
        let (n, p) = (self.y.len(), self.parameters.len());
        let mut slopes = DMatrix::zeros(n, p);
        let mut values = self.room.borrow_mut();
        values.resize(n, 0.0);
        self.ready.tape.evaluate(&self.x, self.parameters.as_slice(), &mut values, Some(slopes.as_mut_slice()));
        if !self.roots.is_empty() {
            for mut column in slopes.column_iter_mut() {
                column.iter_mut().zip(self.roots).for_each(|(d, w)| *d *= w);
            }
        }
        slopes.iter().all(|v| v.is_finite()).then_some(slopes)
    }
}

/// Data in the numbers the model's tape works in.
struct Scaled {
    x: Vec<Vec<f64>>,
    y: Vec<f64>,
    roots: Vec<f64>,
}

fn scaled(data: &Data, ready: &Ready, weights: &[f64]) -> Scaled {
    let x = data.x.iter().zip(&ready.x_sizes).map(|(c, s)| c.iter().map(|x| x * s).collect()).collect();
    let y = data.y.iter().map(|y| y * ready.y_size).collect();
    Scaled { x, y, roots: weights.iter().map(|w| w.sqrt() / ready.y_size).collect() }
}

pub(super) fn fit(data: &Data, model: &Model, ready: &Ready, weights: &[f64]) -> Result<Solved, FitError> {
    let all = scaled(data, ready, weights);
    let starts = start::values(&all.x, &all.y, model, ready)?;
    let mut best: Option<(f64, DVector<f64>)> = None;
    for first in starts {
        // An exact start from a typed value deserves all bounds, a list of guesses one each.
        for bound in BOUNDS {
            let Some((sum, found)) = descend(&all, ready, &first, bound) else { continue };
            if best.as_ref().is_none_or(|(b, _)| sum < *b) {
                best = Some((sum, found));
            }
            break;
        }
    }
    let (_, found) = best.ok_or_else(|| FitError::NoConvergence { model: model.title() })?;
    solved(&all, data, model, ready, start::tidy(model, found), weights)
}

/// Goes downhill from a start; `None` when no end is reached.
fn descend(all: &Scaled, ready: &Ready, first: &[f64], bound: f64) -> Option<(f64, DVector<f64>)> {
    let problem = Problem {
        ready,
        x: all.x.iter().map(Vec::as_slice).collect(),
        y: &all.y,
        roots: &all.roots,
        parameters: DVector::from_column_slice(first),
        room: RefCell::default(),
    };
    let method = LevenbergMarquardt::new().with_tol(1e-14).with_stepbound(bound).with_patience(PATIENCE);
    let (problem, report) = method.minimize(problem);
    let residuals = problem.residuals()?;
    let slopes = problem.jacobian()?;
    let sum = residuals.norm_squared();
    // At an end the residuals stand at right angles to every column; steps too small to matter prove nothing.
    let level = slopes.column_iter().all(|c| {
        let size = c.norm() * residuals.norm();
        size == 0.0 || c.dot(&residuals).abs() <= 1e-5 * size
    });
    let scale = DVector::from_column_slice(&all.y).norm() * 1e-12;
    (level || report.termination.was_successful() && residuals.norm() <= scale).then(|| (sum, problem.params()))
}

fn solved(
    all: &Scaled,
    data: &Data,
    model: &Model,
    ready: &Ready,
    found: DVector<f64>,
    weights: &[f64],
) -> Result<Solved, FitError> {
    let (n, p) = (data.len(), found.len());
    let x: Vec<&[f64]> = all.x.iter().map(Vec::as_slice).collect();
    let mut slopes = DMatrix::zeros(n, p);
    let mut values = vec![0.0; n];
    ready.tape.evaluate(&x, found.as_slice(), &mut values, Some(slopes.as_mut_slice()));
    for mut column in slopes.column_iter_mut() {
        for (i, d) in column.iter_mut().enumerate() {
            *d *= all.roots.get(i).copied().unwrap_or(1.0);
        }
    }
    let lengths: Vec<f64> = slopes.column_iter().map(|c| c.norm()).collect();
    let open = |k: usize| FitError::Undetermined { symbol: ready.symbols[k].clone() };
    if let Some(k) = lengths.iter().position(|l| *l == 0.0 || !l.is_finite()) {
        return Err(if lengths[k] == 0.0 { open(k) } else { FitError::NoConvergence { model: model.title() } });
    }
    for (mut column, length) in slopes.column_iter_mut().zip(&lengths) {
        column /= *length;
    }
    let (_, inverse) = super::linear::solve(&slopes, &DVector::zeros(n)).ok_or_else(|| {
        // The column most alike the others names the open parameter.
        open(p - 1)
    })?;
    // Residuals come in the numbers of the tape, the points' y in their own unit.
    let residuals = (0..n).map(|i| data.y[i] - values[i] / ready.y_size).collect();
    let unscaled = DMatrix::from_fn(p, p, |i, j| inverse[(i, j)] / (lengths[i] * lengths[j]));
    Ok(Solved { parameters: found.as_slice().to_vec(), unscaled, residuals, weights: weights.to_vec() })
}

/// Both x and y uncertain: each point gets the variance u(y)² + (dy/dx)²·u(x)² of the curve found so far, until nothing
/// changes (J. Orear, *Am. J. Phys.* 50 (1982) 912).
pub(super) fn both(data: &Data, model: &Model, ready: &Ready) -> Result<Solved, FitError> {
    let u2 = |all: &[f64], i: usize| all.get(i).filter(|u| u.is_finite() && **u > 0.0).map_or(0.0, |u| u * u);
    let mut weights: Vec<f64> = Vec::new();
    let mut before: Option<Vec<f64>> = None;
    for _ in 0..60 {
        let linear = model.is_linear() && !matches!(model, Model::Typed(_));
        let now = if linear { super::linear::fit(data, model, &weights)? } else { fit(data, model, ready, &weights)? };
        let steady = before.as_ref().is_some_and(|old| {
            old.iter().zip(&now.parameters).all(|(a, b)| (a - b).abs() <= 1e-10 * (a.abs() + b.abs()))
        });
        if steady {
            return Ok(now);
        }
        before = Some(now.parameters.clone());
        let value = |x: f64| {
            let point: Vec<f64> = ready.x_sizes.iter().map(|s| x * s).collect();
            ready.tape.value(&point, &now.parameters) / ready.y_size
        };
        weights = (0..data.len())
            .map(|i| {
                let x = data.x[0][i];
                let step = 1e-5 * x.abs().max(1e-6);
                let steep = (value(x + step) - value(x - step)) / (2.0 * step);
                1.0 / (u2(&data.uy, i) + steep * steep * u2(&data.ux, i))
            })
            .collect();
        if weights.iter().any(|w| !w.is_finite()) {
            break;
        }
    }
    Err(FitError::NoConvergence { model: model.title() })
}
