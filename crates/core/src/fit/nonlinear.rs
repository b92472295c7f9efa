//! Least squares for curves that are not linear in their parameters, by the method of Levenberg and Marquardt
//! (J. J. Moré, in *Numerical Analysis*, Lecture Notes in Mathematics 630 (1978) 105).
//!
//! Most fits are easy: a short descent over the normal equations ends them in a few steps. What does not end there
//! goes to the library's method, which works on the Jacobian itself and bounds its steps.

use std::cell::RefCell;

use levenberg_marquardt::{LeastSquaresProblem, LevenbergMarquardt};
use nalgebra::storage::Owned;
use nalgebra::{DMatrix, DVector, Dyn};

use super::model::Ready;
use super::{Data, FitError, Model, Solved, Typed, start};

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
pub(super) struct Scaled {
    pub x: Vec<Vec<f64>>,
    pub y: Vec<f64>,
    roots: Vec<f64>,
}

impl Scaled {
    /// Points from this number on are thinned first, to about this share of them.
    const MANY: usize = 512;
    const KEPT: usize = 96;

    /// Every so many-th point of very many.
    fn thinned(&self) -> Option<Self> {
        let n = self.y.len();
        let every = n / Self::KEPT;
        let thin = |all: &[f64]| all.iter().step_by(every).copied().collect::<Vec<f64>>();
        (n >= Self::MANY).then(|| Self {
            x: self.x.iter().map(|c| thin(c)).collect(),
            y: thin(&self.y),
            roots: thin(&self.roots),
        })
    }
}

pub(super) fn scaled(data: &Data, ready: &Ready, weights: &[f64]) -> Scaled {
    let x = data.x.iter().zip(&ready.x_sizes).map(|(c, s)| c.iter().map(|x| x * s).collect()).collect();
    let y = data.y.iter().map(|y| y * ready.y_size).collect();
    Scaled { x, y, roots: weights.iter().map(|w| w.sqrt() / ready.y_size).collect() }
}

pub(super) fn fit(data: &Data, model: &Model, ready: &Ready, weights: &[f64]) -> Result<Solved, FitError> {
    let all = scaled(data, ready, weights);
    if let Some(solved) = at_once(&all, ready, weights) {
        return Ok(solved);
    }
    let starts = start::values(&all.x, &all.y, model, ready)?;
    // Starts that lead nowhere may still be of the right kind: others around them are tried next.
    let best = descend_all(&all, ready, &starts).or_else(|| {
        let around: Vec<Vec<f64>> =
            starts.iter().take(2).flat_map(|s| start::around(s, &all.x, &all.y, ready)).collect();
        descend_all(&all, ready, &around)
    });
    let end = best.ok_or_else(|| FitError::NoConvergence { model: model.clone() })?;
    // A tidied curve is the same curve; only its numbers have to be worked out again.
    let tidied = start::tidy(model, end.place.clone());
    let end = if tidied == end.place { end } else { End::at(&all, ready, tidied, model)? };
    solved(&all, model, ready, end, weights)
}

/// Points that tell whether a curve is linear in its parameters.
const TELLING: usize = 8;

/// Values with all parameters zero, and slopes, of a curve that is linear in its parameters: one that has the same slopes at two places far from
/// each other.
fn linear_slopes(x: &[&[f64]], ready: &Ready, n: usize) -> Option<(Vec<f64>, Vec<f64>)> {
    let p = ready.tape.parameters();
    let (mut values, mut slopes, mut others) = (vec![0.0; n], vec![0.0; n * p], vec![0.0; n * p]);
    let there: Vec<f64> = (0..p).map(|k| 0.37 * (k + 1) as f64).collect();
    ready.tape.evaluate(x, &there, &mut values, Some(&mut others));
    ready.tape.evaluate(x, &vec![0.0; p], &mut values, Some(&mut slopes));
    let same = slopes.iter().zip(&others).all(|(a, b)| (a - b).abs() <= 1e-13 * a.abs());
    (same && values.iter().chain(&slopes).all(|v| v.is_finite())).then_some((values, slopes))
}

/// The best parameters of a formula that is linear in them, such as a polynomial: no start is needed, and no step. `None` for any other.
fn at_once(all: &Scaled, ready: &Ready, weights: &[f64]) -> Option<Solved> {
    let (n, p) = (all.y.len(), ready.tape.parameters());
    let x: Vec<&[f64]> = all.x.iter().map(Vec::as_slice).collect();
    // A few points tell that most curves are not; only of the others all are looked at.
    let few: Vec<&[f64]> = x.iter().map(|c| &c[..n.min(TELLING)]).collect();
    linear_slopes(&few, ready, n.min(TELLING))?;
    let (values, slopes) = linear_slopes(&x, ready, n)?;
    let root = |i: usize| all.roots.get(i).copied().unwrap_or(1.0);
    let mut design = DMatrix::from_fn(n, p, |i, k| slopes[k * n + i] * root(i));
    let lengths: Vec<f64> = design.column_iter().map(|c| c.norm()).collect();
    for (mut column, length) in design.column_iter_mut().zip(&lengths) {
        column /= *length;
    }
    let off = DVector::from_fn(n, |i, _| (all.y[i] - values[i]) * root(i));
    let (found, inverse) = super::linear::solve(&design, &off)?;
    let rest = off - &design * &found;
    Some(Solved {
        parameters: (0..p).map(|k| found[k] / lengths[k]).collect(),
        unscaled: DMatrix::from_fn(p, p, |i, j| inverse[(i, j)] / (lengths[i] * lengths[j])),
        residuals: rest.iter().enumerate().map(|(i, r)| r / (root(i) * ready.y_size)).collect(),
        weights: weights.to_vec(),
    })
}

/// Share of the sum of squares by which another end has to be lower to be worth a word.
const WORTH_A_WORD: f64 = 0.1;

/// Parameters from which a formula comes nearer to the points than from the start values that were typed, if the program knows any: it tries
/// its own, and those with a frequency that the points have.
pub(super) fn nearer(data: &Data, typed: &Typed, ready: &Ready, found: &[f64], weights: &[f64]) -> Option<Vec<f64>> {
    let all = scaled(data, ready, weights);
    // A few of many points tell where to look.
    let all = all.thinned().unwrap_or(all);
    let here = Normal::new(&all, ready).at(found)?.sum;
    let untold = Model::Typed(Box::new(Typed { start: std::collections::BTreeMap::new(), ..typed.clone() }));
    let mut starts = start::values(&all.x, &all.y, &untold, ready).ok()?;
    starts.extend(start::turning(&all.x[0], &all.y, found));
    let end = descend_all(&all, ready, &starts)?;
    (end.there.sum < (1.0 - WORTH_A_WORD) * here).then(|| end.place.as_slice().to_vec())
}

/// Where a descent ended: parameters, normal equations, and the points' distances y − f, weighted.
struct End {
    place: DVector<f64>,
    there: There,
    off: Vec<f64>,
}

impl End {
    fn at(all: &Scaled, ready: &Ready, place: DVector<f64>, model: &Model) -> Result<Self, FitError> {
        let mut normal = Normal::new(all, ready);
        let there = normal.at(place.as_slice()).ok_or_else(|| FitError::NoConvergence { model: model.clone() })?;
        Ok(Self { place, there, off: normal.values })
    }
}

/// The lowest end that any of the starts leads to.
fn descend_all(all: &Scaled, ready: &Ready, starts: &[Vec<f64>]) -> Option<End> {
    let ends = starts.iter().filter_map(|first| {
        let bounded = || BOUNDS.into_iter().find_map(|bound| descend(all, ready, first, bound));
        // With many points a few of them lead near the end at a fraction of the cost.
        let nearer = all.thinned().and_then(|few| Normal::new(&few, ready).descend(first)).map(|end| end.place);
        let short = |from: &[f64]| Normal::new(all, ready).descend(from);
        nearer.and_then(|near| short(near.as_slice())).or_else(|| short(first)).or_else(bounded)
    });
    ends.min_by(|a, b| a.there.sum.total_cmp(&b.there.sum))
}

/// Steps of the short descent, at most.
const SHORT: usize = 40;
/// The short descent ends with a step that takes less than this share off the sum of squares, for few points and for many:
/// with many it moves the parameters by less than a thousandth of their uncertainties, with few, where it costs little, by far less; and the
/// descent is much closer after it.
const NOTHING: (f64, f64) = (1e-16, 1e-10);
/// Pivots of the scaled normal equations below this leave too few digits: the Jacobian itself must be used.
const THIN: f64 = 1e-7;

/// The normal equations of a fit, with room to work in.
struct Normal<'a> {
    all: &'a Scaled,
    ready: &'a Ready,
    values: Vec<f64>,
    slopes: Vec<f64>,
    /// Distances of the points at the best place so far.
    best: Vec<f64>,
}

/// Sum of squares, JᵀJ and Jᵀr at a place.
struct There {
    sum: f64,
    gram: DMatrix<f64>,
    slope: DVector<f64>,
}

impl<'a> Normal<'a> {
    fn new(all: &'a Scaled, ready: &'a Ready) -> Self {
        let n = all.y.len();
        Self { all, ready, values: vec![0.0; n], slopes: vec![0.0; n * ready.tape.parameters()], best: vec![0.0; n] }
    }

    /// `None` where the curve has no value at a point.
    fn at(&mut self, parameters: &[f64]) -> Option<There> {
        let (n, p) = (self.all.y.len(), parameters.len());
        let x: Vec<&[f64]> = self.all.x.iter().map(Vec::as_slice).collect();
        self.ready.tape.evaluate(&x, parameters, &mut self.values, Some(&mut self.slopes));
        for (v, y) in self.values.iter_mut().zip(&self.all.y) {
            *v = y - *v;
        }
        if !self.all.roots.is_empty() {
            for column in std::iter::once(&mut self.values[..]).chain(self.slopes.chunks_mut(n)) {
                column.iter_mut().zip(&self.all.roots).for_each(|(v, w)| *v *= w);
            }
        }
        let column = |k: usize| &self.slopes[k * n..(k + 1) * n];
        let sum = dot(&self.values, &self.values);
        let mut gram = DMatrix::zeros(p, p);
        for i in 0..p {
            for j in i..p {
                let v = dot(column(i), column(j));
                (gram[(i, j)], gram[(j, i)]) = (v, v);
            }
        }
        let slope = DVector::from_fn(p, |i, _| dot(column(i), &self.values));
        let fine = sum.is_finite() && gram.iter().chain(slope.iter()).all(|v| v.is_finite());
        fine.then_some(There { sum, gram, slope })
    }

    /// Goes downhill; `None` when that leads nowhere in a few steps, or the equations have too few digits.
    fn descend(mut self, first: &[f64]) -> Option<End> {
        let nothing = (1e-28 * (self.all.y.len() as f64).powi(6)).clamp(NOTHING.0, NOTHING.1);
        let mut place = DVector::from_column_slice(first);
        let mut here = self.at(first)?;
        std::mem::swap(&mut self.best, &mut self.values);
        let mut damping = 1e-6;
        for _ in 0..SHORT {
            let scale: Vec<f64> = here.gram.diagonal().iter().map(|d| d.sqrt()).collect();
            if scale.contains(&0.0) {
                return None;
            }
            let p = scale.len();
            let even = DMatrix::from_fn(p, p, |i, j| {
                here.gram[(i, j)] / (scale[i] * scale[j]) + if i == j { damping } else { 0.0 }
            });
            let downhill = DVector::from_fn(p, |i, _| here.slope[i] / scale[i]);
            let solved = even.cholesky()?;
            if solved.l_dirty().diagonal().iter().any(|d| d * d < THIN) {
                return None;
            }
            let step = solved.solve(&downhill);
            // What a straight model promises to take off the sum of squares.
            let promise = step.dot(&downhill);
            let ended = promise <= nothing * here.sum || here.sum == 0.0;
            let next = DVector::from_fn(p, |i, _| place[i] + step[i] / scale[i]);
            if ended {
                // So near the end nothing but the parameters' last digits would change.
                return Some(End { place: next, there: here, off: std::mem::take(&mut self.best) });
            }
            match self.at(next.as_slice()) {
                Some(there) if there.sum <= here.sum => {
                    (place, here) = (next, there);
                    std::mem::swap(&mut self.best, &mut self.values);
                    damping *= 0.01;
                }
                // Rounding hides what is still to be gained.
                _ if promise <= NOTHING.1 * here.sum => {
                    return Some(End { place: next, there: here, off: std::mem::take(&mut self.best) });
                }
                _ => damping = (damping * 20.0).max(1e-4),
            }
            if damping > 1e6 {
                return None;
            }
        }
        None
    }
}

/// Σ aᵢ·bᵢ in several sums side by side.
fn dot(a: &[f64], b: &[f64]) -> f64 {
    let mut lanes = [0.0; 8];
    let ((chunks_a, rest_a), (chunks_b, rest_b)) = (a.as_chunks::<8>(), b.as_chunks::<8>());
    for (ca, cb) in chunks_a.iter().zip(chunks_b) {
        for i in 0..8 {
            lanes[i] += ca[i] * cb[i];
        }
    }
    lanes.iter().sum::<f64>() + rest_a.iter().zip(rest_b).map(|(x, y)| x * y).sum::<f64>()
}

/// Goes downhill from a start; `None` when no end is reached.
fn descend(all: &Scaled, ready: &Ready, first: &[f64], bound: f64) -> Option<End> {
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
    // At an end the residuals stand at right angles to every column; steps too small to matter prove nothing.
    let level = slopes.column_iter().all(|c| {
        let size = c.norm() * residuals.norm();
        size == 0.0 || c.dot(&residuals).abs() <= 1e-5 * size
    });
    let scale = DVector::from_column_slice(&all.y).norm() * 1e-12;
    if !(level || report.termination.was_successful() && residuals.norm() <= scale) {
        return None;
    }
    let mut normal = Normal::new(all, ready);
    let there = normal.at(problem.parameters.as_slice())?;
    Some(End { place: problem.parameters, there, off: normal.values })
}

fn solved(all: &Scaled, model: &Model, ready: &Ready, end: End, weights: &[f64]) -> Result<Solved, FitError> {
    let (n, p) = (all.y.len(), end.place.len());
    let There { gram, .. } = &end.there;
    let lengths: Vec<f64> = gram.diagonal().iter().map(|d| d.sqrt()).collect();
    let open = |k: usize| FitError::Undetermined { symbol: ready.symbols[k].clone() };
    if let Some(k) = lengths.iter().position(|l| *l == 0.0) {
        return Err(open(k));
    }
    let even = DMatrix::from_fn(p, p, |i, j| gram[(i, j)] / (lengths[i] * lengths[j]));
    let firm = even.cholesky().filter(|c| c.l_dirty().diagonal().iter().all(|d| d * d >= THIN));
    let inverse = match firm {
        Some(cholesky) => cholesky.inverse(),
        None => {
            let mut normal = Normal::new(all, ready);
            normal.at(end.place.as_slice()).ok_or_else(|| FitError::NoConvergence { model: model.clone() })?;
            let design = DMatrix::from_fn(n, p, |i, k| normal.slopes[k * n + i] / lengths[k]);
            // The last column names the open parameter; it is the one the others explain.
            super::linear::solve(&design, &DVector::zeros(n)).ok_or_else(|| open(p - 1))?.1
        }
    };
    // Residuals come in the numbers of the tape, the points' y in their own unit.
    let root = |i: usize| all.roots.get(i).copied().unwrap_or(1.0) * ready.y_size;
    let residuals = end.off.iter().enumerate().map(|(i, r)| r / root(i)).collect();
    let unscaled = DMatrix::from_fn(p, p, |i, j| inverse[(i, j)] / (lengths[i] * lengths[j]));
    Ok(Solved { parameters: end.place.as_slice().to_vec(), unscaled, residuals, weights: weights.to_vec() })
}
