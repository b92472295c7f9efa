//! Fits: a model, its parameters with uncertainties, and how well it describes the points.
//!
//! [`fit`] is the one way in. Models that are linear in their parameters are solved directly (`linear`), a line with
//! uncertain x and y by York's method (`york`), other curves with both by their distances (`odr`), the rest step by step
//! (`nonlinear`) from start values (`start`).

mod curve;
mod line;
mod linear;
mod model;
mod nonlinear;
mod odr;
mod shapes;
mod start;
mod york;

use derive_more::From;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF, FisherSnedecor, StudentsT};
use strum::{EnumString, IntoStaticStr, VariantArray};

use crate::formula::FormulaError;
use crate::quantity::{Source, Uncertain, Unit};
pub use curve::Curve;
pub(crate) use curve::TermsOf;
pub use line::{LineSums, fit_line};
pub use model::{Model, Typed};
pub use shapes::{Bend, FEWEST, Judgement, Seen, Shape, ShapeError, ShapeFit, Transform, shapes};

/// How much each point counts.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum Weighting {
    /// All the same: ordinary least squares.
    #[default]
    Equal,
    /// By the uncertainty of y.
    Up,
    /// By the uncertainties of both x and y.
    Both,
}

impl Weighting {
    /// All weightings.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in forms and on the command line.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The weighting of that name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }
}

/// The points to be fitted: one x (or more columns for a typed formula), y, and their standard uncertainties.
#[derive(Clone, Debug, Default)]
pub struct Data {
    /// Columns of x, all as long as y.
    pub x: Vec<Vec<f64>>,
    /// y.
    pub y: Vec<f64>,
    /// Standard uncertainty of the first x; empty when not known.
    pub ux: Vec<f64>,
    /// Standard uncertainty of y; empty when not known.
    pub uy: Vec<f64>,
}

impl Data {
    /// Points without uncertainties.
    pub fn of(points: &[(f64, f64)]) -> Self {
        Self {
            x: vec![points.iter().map(|p| p.0).collect()],
            y: points.iter().map(|p| p.1).collect(),
            ..Self::default()
        }
    }

    /// Number of points.
    pub fn len(&self) -> usize {
        self.y.len()
    }

    /// Whether there is no point.
    pub fn is_empty(&self) -> bool {
        self.y.is_empty()
    }
}

/// A fitted parameter of a curve, with its unit.
#[derive(Clone, Debug, PartialEq)]
pub struct Parameter {
    /// Its symbol in the model.
    pub symbol: String,
    /// Best estimate, in `unit`.
    pub value: f64,
    /// Standard uncertainty, in `unit`. `NaN` when there are no degrees of freedom to tell it.
    pub u: f64,
    /// Degrees of freedom that the uncertainty was found with; infinite where it follows from stated ones.
    pub freedom: f64,
    /// Its unit.
    pub unit: Unit,
}

/// A fitted value.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Estimate {
    /// Best estimate.
    pub value: f64,
    /// Standard uncertainty. `NaN` when there are no degrees of freedom to tell it.
    pub u: f64,
}

/// A fitted curve. x and y are in the units of the points it was given.
#[derive(Clone, Debug)]
pub struct Fit {
    /// Which curve.
    pub model: Model,
    /// How the points counted.
    pub weighting: Weighting,
    /// Its parameters, in the order of the model.
    pub parameters: Vec<Parameter>,
    /// Covariance of the parameters, in their units.
    pub covariance: Vec<Vec<f64>>,
    /// Number of points.
    pub n: usize,
    /// Degrees of freedom: points minus parameters.
    pub dof: usize,
    /// Residual standard deviation, in y; `NaN` without degrees of freedom.
    pub residual_sd: f64,
    /// χ² over degrees of freedom; `None` where points have no uncertainties or there are no degrees of freedom.
    pub chi2_reduced: Option<f64>,
    /// Coefficient of determination; about zero instead of the mean for curves without a free height.
    pub r2: f64,
    /// Observed minus fitted y, in the order of the points.
    pub residuals: Vec<f64>,
    /// Smallest and largest x of the points.
    pub span: (f64, f64),
    /// How many times as uncertain the worst-known point is as the best-known, where points count the same and their unlike
    /// uncertainties are in those of the parameters.
    pub uneven: Option<f64>,
    /// Start values from which the same formula comes nearer to the points, where those that were typed led elsewhere: symbol, value and unit.
    pub nearer: Option<Vec<(String, f64, Unit)>>,
    /// The curve itself.
    pub curve: Curve,
    /// What sources shared by all points do to the parameters, in their units; part of the covariance.
    pub(crate) shared: Vec<(u64, Vec<f64>)>,
}

impl Fit {
    /// The curve's y at x.
    pub fn at(&self, x: f64) -> f64 {
        self.curve.at(x)
    }

    /// Standard uncertainty of the curve's y at x: √(gᵀCg) with the gradient g by the parameters (JCGM 100:2008, 5.2).
    pub fn u_at(&self, x: f64) -> f64 {
        self.curve.u_at(x)
    }

    /// Half the width of the 95 % confidence band at x: t₀.₉₇₅·u(y), with Student's t where the scatter of the points tells
    /// the uncertainty (Draper, Smith, *Applied Regression Analysis*, 3.1). `NaN` without degrees of freedom.
    pub fn band(&self, x: f64) -> f64 {
        student(self.freedom()) * self.u_at(x)
    }

    /// Degrees of freedom that the curve's uncertainty was found with: the fewest of any parameter.
    pub fn freedom(&self) -> f64 {
        self.parameters.iter().map(|p| p.freedom).fold(f64::INFINITY, f64::min)
    }

    /// Probability of a χ² as large or larger, where points have uncertainties of their own and the model is right.
    pub fn chi2_probability(&self) -> Option<f64> {
        let chi2 = self.chi2_reduced? * self.dof as f64;
        ChiSquared::new(self.dof as f64).ok().map(|d| d.sf(chi2))
    }

    /// The parameter with this symbol.
    pub fn parameter(&self, symbol: &str) -> Option<&Parameter> {
        self.parameters.iter().find(|p| p.symbol == symbol)
    }

    /// Slope of a straight line, in its own unit.
    pub fn slope(&self) -> Option<&Parameter> {
        self.model.is_straight().then(|| self.parameter("slope")).flatten()
    }

    /// Intercept of a straight line, in the unit of y.
    pub fn intercept(&self) -> Option<&Parameter> {
        self.parameter("intercept")
    }

    /// Places where the curve has this y, between x = `from` and x = `to`, ascending.
    pub fn where_it_is(&self, y: f64, (from, to): (f64, f64)) -> Vec<f64> {
        self.curve.where_it_is(y, (from, to))
    }

    /// x for a reading y₀ of standard uncertainty `u0`, near x: u(x) = √(u₀² + u(curve)²)/|dy/dx| (inverse prediction;
    /// Draper, Smith, *Applied Regression Analysis*, 3.2, for a line).
    pub fn u_of_x(&self, x: f64, u0: f64) -> f64 {
        u0.hypot(self.u_at(x)) / self.curve.steepness(x).abs()
    }

    /// Uncertainties of the parameters when the y of several points were worked out from the same readings, so that they do
    /// not scatter on their own, or when some points scatter much more than others. `terms` are (reading, u·(∂y − slope·∂x))
    /// of every point; σ² is at least `least`.
    ///
    /// The parameters stay those of ordinary least squares, p = C Xᵀ y with C = (XᵀX)⁻¹; their covariance is
    /// σ² C XᵀVX C with V = Σ t tᵀ over all readings, and σ² = rss/tr((1 − XCXᵀ)V) (Aitken's model with a known V up to a
    /// factor; Seber and Lee, Linear Regression Analysis, 3.10). With few points σ² is instead χ² of generalised least squares
    /// over its degrees of freedom, which is independent of p where p is best.
    pub(crate) fn correlate(&mut self, xs: &[f64], terms: &[&[(u64, f64)]], least: f64) {
        if self.dof == 0 || self.residual_sd <= 0.0 || terms.iter().any(|t| t.is_empty()) {
            return;
        }
        let before: Vec<f64> = self.curve.variances();
        let correlated = self.curve.correlate(xs, terms, (self.residual_sd, &self.residuals), least);
        let Some((by_readings, freedom)) = correlated else { return };
        self.parameters.iter_mut().for_each(|p| p.freedom = if by_readings { f64::INFINITY } else { freedom });
        let now = self.curve.covariance_matrix();
        let factor = |i: usize| self.parameters[i].u / before[i].sqrt();
        let factors: Vec<f64> = (0..self.parameters.len()).map(factor).collect();
        for (i, row) in self.covariance.iter_mut().enumerate() {
            for (j, c) in row.iter_mut().enumerate() {
                *c = now[(i, j)] * factors[i] * factors[j];
            }
        }
        for (i, p) in self.parameters.iter_mut().enumerate() {
            p.u = self.covariance[i][i].sqrt();
        }
    }

    /// Weights points by all that is known of them where several owe to the same readings: generalised least squares with their
    /// covariance. `terms_of` gives (reading, u·(∂y − slope·∂x)) of every point for a curve. Where no end is found the fit stays as it is.
    pub(crate) fn generalise(&mut self, (xs, ys): (&[f64], &[f64]), terms_of: &TermsOf<'_>) {
        let Some((chi2, rank)) = self.curve.generalise((xs, ys), terms_of) else { return };
        let (factors, c) = (self.curve.factors(), self.curve.covariance_matrix());
        for (i, row) in self.covariance.iter_mut().enumerate() {
            for (j, v) in row.iter_mut().enumerate() {
                *v = c[(i, j)] * factors[i] * factors[j];
            }
        }
        for (i, p) in self.parameters.iter_mut().enumerate() {
            p.value = self.curve.parameters()[i] * factors[i];
            p.u = root(self.covariance[i][i]);
        }
        let height = self.curve.along(xs);
        self.residuals = ys.iter().zip(height).map(|(y, f)| y - f).collect();
        let told = rank.saturating_sub(self.parameters.len());
        self.chi2_reduced = (told > 0).then(|| chi2 / told as f64);
        self.dof = told;
    }

    /// Adds what a source shared by all points does to the parameters: `shifted` is the same fit with all points moved by
    /// one standard uncertainty of that source (JCGM 100:2008, 5.2, correlated input quantities).
    pub(crate) fn widen(&mut self, source: u64, shifted: &Self) {
        let by: Vec<f64> = self.parameters.iter().zip(&shifted.parameters).map(|(a, b)| b.value - a.value).collect();
        for (i, row) in self.covariance.iter_mut().enumerate() {
            for (j, c) in row.iter_mut().enumerate() {
                *c += by[i] * by[j];
            }
        }
        for (p, d) in self.parameters.iter_mut().zip(&by) {
            let before = p.u;
            p.u = p.u.hypot(*d);
            // Welch and Satterthwaite (JCGM 100:2008, G.4): what is added has no freedom to lack.
            p.freedom = if before > 0.0 { p.freedom * (p.u / before).powi(4) } else { f64::INFINITY };
        }
        self.curve.widen(&shifted.curve);
        self.shared.push((source, by));
    }

    /// Σ gᵢ·pᵢ as a value whose uncertainty stays known by its sources: those that all points share, and as many of the curve's own as it has
    /// parameters, numbered from `first`. C = L Lᵀ + Σ s sᵀ with the lower triangle L of Cholesky's decomposition, so the terms of the curve's own
    /// sources are gᵀL (JCGM 100:2008, 5.2.2; JCGM 102:2011, 3.21). `gradient` has ∂value/∂pᵢ with the parameters in their units. `None` where the
    /// uncertainty cannot be told.
    pub(crate) fn with_sources(&self, value: f64, gradient: &[f64], first: u64) -> Option<Uncertain> {
        let n = self.parameters.len();
        if self.parameters.iter().any(|p| p.u.is_nan()) || gradient.iter().any(|g| !g.is_finite()) {
            return None;
        }
        let alone = |i: usize, j: usize| -> f64 {
            self.covariance[i][j] - self.shared.iter().map(|(_, by)| by[i] * by[j]).sum::<f64>()
        };
        let mut lower = vec![vec![0.0; n]; n];
        for i in 0..n {
            for j in 0..=i {
                let rest = alone(i, j) - (0..j).map(|k| lower[i][k] * lower[j][k]).sum::<f64>();
                // A parameter that is tied to others, or known exactly, has no source of its own.
                lower[i][j] = match i == j {
                    true if rest > 1e-14 * alone(i, i) => rest.sqrt(),
                    false if lower[j][j] > 0.0 => rest / lower[j][j],
                    _ => 0.0,
                };
            }
        }
        let own = (0..n).map(|k| (first + k as u64, (k..n).map(|i| gradient[i] * lower[i][k]).sum::<f64>()));
        let together = self.shared.iter().map(|(s, by)| (*s, gradient.iter().zip(by).map(|(g, b)| g * b).sum::<f64>()));
        let all = own.chain(together).map(|(s, t)| Uncertain::from_source(0.0, t, Source(s)));
        Some(all.fold(Uncertain::exact(value), |sum, part| sum.plus(&part)))
    }

    /// ∂y/∂pᵢ at x, with the parameters in their units and y in that of the points.
    pub(crate) fn gradient(&self, x: f64) -> Vec<f64> {
        let raw = self.curve.gradient(x);
        raw.iter().zip(self.curve.factors()).map(|(g, f)| g / f).collect()
    }

    /// Scatter of a single reading about the curve, in y: from the residuals.
    pub fn scatter(&self) -> f64 {
        self.residual_sd
    }
}

/// The root of a variance, which rounding may have brought below zero. What cannot be told stays so.
fn root(variance: f64) -> f64 {
    if variance < 0.0 { 0.0 } else { variance.sqrt() }
}

/// Coverage factor of a 95 % interval: Student's t for so many degrees of freedom, the normal distribution's for infinitely many (JCGM 100:2008,
/// G.3). `NaN` without any.
pub fn student(freedom: f64) -> f64 {
    if freedom > 1e6 {
        return 1.959_963_984_540_054;
    }
    StudentsT::new(0.0, 1.0, freedom).map_or(f64::NAN, |t| t.inverse_cdf(0.975))
}

/// Why there is no fit.
#[derive(Clone, Debug, PartialEq, From)]
pub enum FitError {
    /// Fewer points than parameters.
    TooFewPoints {
        /// The model.
        model: Model,
        /// Points needed.
        needed: usize,
        /// Points there are.
        have: usize,
    },
    /// All points above one another.
    AllXEqual,
    /// Infinite or missing values.
    NotFinite,
    /// A point where the model has no value.
    NoValue {
        /// The model.
        model: Model,
        /// Where.
        x: String,
    },
    /// A weighted fit without uncertainties.
    NoUncertainty {
        /// Number of the point among those fitted, from 1.
        point: usize,
    },
    /// No end was found.
    NoConvergence {
        /// The model.
        model: Model,
    },
    /// No wave is told by these points.
    NoWave,
    /// The points leave a parameter open.
    Undetermined {
        /// Symbol of a parameter that is open.
        symbol: String,
    },
    /// The typed formula is wrong.
    #[from]
    Formula(FormulaError),
}

/// Fits a model to points. `units` are those of x (one a column) and y.
///
/// Without weights the uncertainties follow from the scatter of the points, u² = s²·(JᵀJ)⁻¹; with weights from the points'
/// own uncertainties, (JᵀWJ)⁻¹, not scaled by χ² (D. York et al., *Am. J. Phys.* 72 (2004) 367; JCGM 100:2008, H.3).
///
/// # Errors
/// [`FitError`] when there is no honest answer.
pub fn fit(data: &Data, model: &Model, weighting: Weighting, units: (&[Unit], &Unit)) -> Result<Fit, FitError> {
    let parameters = model.parameters();
    if data.len() < parameters.len() {
        return Err(FitError::TooFewPoints { model: model.clone(), needed: parameters.len(), have: data.len() });
    }
    if data.x.iter().flatten().chain(&data.y).any(|v| !v.is_finite()) {
        return Err(FitError::NotFinite);
    }
    check_uncertainties(data, weighting)?;
    let first = data.x.first().map_or(&[][..], Vec::as_slice);
    if first.iter().all(|x| Some(x) == first.first()) && parameters.len() > 1 {
        return Err(FitError::AllXEqual);
    }
    let model_at = model.ready(data, units)?;
    let solved = match (model, weighting) {
        (Model::Line, Weighting::Both) => york::fit(data)?,
        (Model::Line | Model::Proportional, Weighting::Equal) => line::solve(data, model)?,
        (_, Weighting::Both) => odr::fit(data, model, &model_at)?,
        _ if model.is_linear() => linear::fit(data, model, &weights(data, weighting))?,
        _ => nonlinear::fit(data, model, &model_at, &weights(data, weighting))?,
    };
    if matches!(model, Model::Sine | Model::DampedSine) && !tells_a_wave(data, &solved) {
        return Err(FitError::NoWave);
    }
    let fit = solved.finish(data, model, weighting, model_at);
    let nearer = match (model, weighting) {
        // A curve that leaves next to nothing has no better one beside it.
        (Model::Typed(typed), Weighting::Equal | Weighting::Up) if !typed.start.is_empty() && fit.r2 < 0.99 => {
            fit.curve.nearer(data, typed, &weights(data, weighting))
        }
        _ => None,
    };
    Ok(Fit { nearer, ..fit })
}

/// Probability from which on scatter is taken for the cause of a wave.
const CHANCE: f64 = 0.05;

/// Whether a wave takes up so much more than a straight line that scatter does not explain it, the frequency having been looked for among
/// about half as many as there are points (F-test for further terms, Draper, Smith, *Applied Regression Analysis*, 6.1; independent frequencies
/// after J. D. Scargle, *Astrophys. J.* 263 (1982) 835). Without freedom nothing can be told against it.
fn tells_a_wave(data: &Data, wave: &Solved) -> bool {
    let (n, p) = (data.len(), wave.parameters.len());
    let Ok(line) = linear::fit(data, &Model::Line, &wave.weights) else { return true };
    let sum = |residuals: &[f64]| -> f64 {
        let one = |(i, r): (usize, &f64)| wave.weights.get(i).copied().unwrap_or(1.0) * r * r;
        residuals.iter().enumerate().map(one).sum()
    };
    let size = sum(&data.y);
    let (by_line, by_wave) = (sum(&line.residuals), sum(&wave.residuals));
    // Points on a line to their last digit.
    if by_line <= 1e-24 * size {
        return false;
    }
    let free = n - p;
    if free == 0 {
        return true;
    }
    let more = (p - 2) as f64;
    let f = ((by_line - by_wave) / more) / (by_wave / free as f64);
    if f.is_nan() || f <= 0.0 {
        return false;
    }
    let once = FisherSnedecor::new(more, free as f64).map_or(1.0, |d| d.sf(f));
    let tries = (n as f64 / 2.0).max(1.0);
    // The chance that none of so many tries does it, written so that small chances keep their digits.
    -(tries * (-once).ln_1p()).exp_m1() < CHANCE
}

fn check_uncertainties(data: &Data, weighting: Weighting) -> Result<(), FitError> {
    let missing = |all: &[f64], i: usize| all.get(i).is_none_or(|u| !u.is_finite() || *u <= 0.0);
    let bad = match weighting {
        Weighting::Equal => None,
        Weighting::Up => (0..data.len()).find(|i| missing(&data.uy, *i)),
        // One of the two may be known exactly.
        Weighting::Both => (0..data.len()).find(|i| missing(&data.uy, *i) && missing(&data.ux, *i)),
    };
    bad.map_or(Ok(()), |i| Err(FitError::NoUncertainty { point: i + 1 }))
}

/// Weights 1/u² of the points, or none.
fn weights(data: &Data, weighting: Weighting) -> Vec<f64> {
    match weighting {
        Weighting::Equal => Vec::new(),
        Weighting::Up | Weighting::Both => data.uy.iter().map(|u| 1.0 / (u * u)).collect(),
    }
}

/// Parameters found, before they get their units.
struct Solved {
    parameters: Vec<f64>,
    /// (JᵀWJ)⁻¹ in the numbers the model works in; not yet scaled by the scatter.
    unscaled: nalgebra::DMatrix<f64>,
    /// Observed minus fitted y, in the unit of y; where x is uncertain too, along the tangent where the point belongs.
    residuals: Vec<f64>,
    /// Weights of the points in y, if they are weighted.
    weights: Vec<f64>,
}

impl Solved {
    fn finish(self, data: &Data, model: &Model, weighting: Weighting, ready: model::Ready) -> Fit {
        let (n, p) = (data.len(), self.parameters.len());
        let dof = n - p;
        let rss: f64 = self.residuals.iter().map(|r| r * r).sum();
        let residual_sd = if dof == 0 { f64::NAN } else { (rss / dof as f64).sqrt() };
        let weighted = !self.weights.is_empty();
        let w = |i: usize| if weighted { self.weights[i] } else { 1.0 };
        let chi2: f64 = self.residuals.iter().enumerate().map(|(i, r)| w(i) * r * r).sum();
        let total: f64 = (0..n).map(w).sum();
        let centre = if model.has_height() { (0..n).map(|i| w(i) * data.y[i]).sum::<f64>() / total } else { 0.0 };
        let syy: f64 = (0..n).map(|i| w(i) * (data.y[i] - centre).powi(2)).sum();
        // The model may count y in another unit than the points have.
        let scale = if weighted { 1.0 } else { residual_sd * ready.y_size };
        let covariance = self.unscaled * (scale * scale);
        let factors = &ready.factors;
        let parameters = (0..p).map(|i| Parameter {
            symbol: ready.symbols[i].clone(),
            value: self.parameters[i] * factors[i],
            u: root(covariance[(i, i)]) * factors[i].abs(),
            freedom: if weighted { f64::INFINITY } else { dof as f64 },
            unit: ready.units[i].clone(),
        });
        let first = data.x.first().map_or(&[][..], Vec::as_slice);
        let span = first.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), x| (lo.min(*x), hi.max(*x)));
        Fit {
            model: model.clone(),
            weighting,
            parameters: parameters.collect(),
            covariance: (0..p)
                .map(|i| (0..p).map(|j| covariance[(i, j)] * factors[i] * factors[j]).collect())
                .collect(),
            n,
            dof,
            residual_sd,
            chi2_reduced: (weighted && dof > 0).then(|| chi2 / dof as f64),
            r2: if syy == 0.0 { 1.0 } else { 1.0 - chi2 / syy },
            residuals: self.residuals,
            span,
            uneven: None,
            nearer: None,
            shared: Vec::new(),
            curve: Curve::new(ready, self.parameters, covariance),
        }
    }
}
