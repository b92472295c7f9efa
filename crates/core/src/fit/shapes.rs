//! Which shape: the same points with x or y replaced by its square, root, inverse or logarithm, and how straight each is.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF, FisherSnedecor, Normal, StudentsT};
use strum::{EnumString, IntoStaticStr, VariantArray};

use super::{Data, LineSums, fit_line, linear};
use derive_more::From;

use crate::fit::{FitError, Model};

/// What is put in the place of a quantity.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Transform {
    /// Itself.
    Same,
    /// Its square.
    Square,
    /// Its square root.
    Root,
    /// Its inverse.
    Inverse,
    /// The inverse of its square.
    InverseSquare,
    /// Its natural logarithm.
    Ln,
}

impl Transform {
    /// How much the value put in the place of `v` changes with it, without sign.
    fn steepness(self, v: f64) -> f64 {
        match self {
            Self::Same => 1.0,
            Self::Square => 2.0 * v.abs(),
            Self::Root => 0.5 / v.sqrt(),
            Self::Inverse => 1.0 / (v * v),
            Self::InverseSquare => 2.0 / (v * v * v).abs(),
            Self::Ln => 1.0 / v.abs(),
        }
    }

    /// The value put in the place of `v`; `None` where there is none.
    pub fn of(self, v: f64) -> Option<f64> {
        let value = match self {
            Self::Same => v,
            Self::Square => v * v,
            Self::Root if v >= 0.0 => v.sqrt(),
            Self::Inverse if v != 0.0 => 1.0 / v,
            Self::InverseSquare if v != 0.0 => 1.0 / (v * v),
            Self::Ln if v > 0.0 => v.ln(),
            Self::Root | Self::Inverse | Self::InverseSquare | Self::Ln => return None,
        };
        value.is_finite().then_some(value)
    }
}

/// A candidate: y against x, with one or both replaced.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString)]
#[serde(rename_all = "kebab-case")]
#[strum(serialize_all = "kebab-case")]
pub enum Shape {
    /// y against x.
    Straight,
    /// y against x².
    Square,
    /// y against √x.
    Root,
    /// y against 1/x.
    Inverse,
    /// y against 1/x².
    InverseSquare,
    /// y² against x.
    SquareUp,
    /// ln y against x.
    Exponential,
    /// ln y against ln x.
    Power,
}

impl Shape {
    /// All shapes in the order of the strip.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in forms and on the command line.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The shape of that name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }

    /// What goes across and what goes up.
    pub fn transforms(self) -> (Transform, Transform) {
        match self {
            Self::Straight => (Transform::Same, Transform::Same),
            Self::Square => (Transform::Square, Transform::Same),
            Self::Root => (Transform::Root, Transform::Same),
            Self::Inverse => (Transform::Inverse, Transform::Same),
            Self::InverseSquare => (Transform::InverseSquare, Transform::Same),
            Self::SquareUp => (Transform::Same, Transform::Square),
            Self::Exponential => (Transform::Same, Transform::Ln),
            Self::Power => (Transform::Ln, Transform::Ln),
        }
    }
}

/// Which way points bend away from a straight line.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Bend {
    /// No bend can be told from the scatter.
    None,
    /// Steeper and steeper: residuals + − +.
    Upward,
    /// Flatter and flatter: residuals − + −.
    Downward,
    /// Residuals keep one sign for long without being bent one way.
    Waving,
    /// The line leaves more than half of the scatter of y: there is no line to speak of.
    Loose,
    /// Too few points show no bend by themselves, but another shape leaves far less of the scatter.
    Outdone,
}

/// Share of the scatter of y from which on a line counts for nothing.
const LOOSE: f64 = 0.5;

/// How straight points are.
#[derive(Clone, Debug, PartialEq)]
pub struct Judgement {
    /// Which way they bend.
    pub bend: Bend,
    /// Signs of the residuals in the order of x: of each point, or of the sum over equal parts when there are many.
    pub signs: Vec<i8>,
    /// Probability of at least so much curvature from scatter alone; `NaN` with too few points.
    pub p_curvature: f64,
    /// Share of the scatter of y that the line does not take up: s(residuals)/s(y).
    pub rest: f64,
}

/// One picture of the strip.
#[derive(Clone, Debug, PartialEq)]
pub struct ShapeFit {
    /// Which shape.
    pub shape: Shape,
    /// The replaced points, in the order of the data.
    pub points: Vec<(f64, f64)>,
    /// The line through them.
    pub line: LineSums,
    /// How straight they are.
    pub judgement: Judgement,
}

/// A point with its standard uncertainties; zero where none is known.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Seen {
    /// Across.
    pub x: f64,
    /// Up.
    pub y: f64,
    /// Standard uncertainty of x.
    pub ux: f64,
    /// Standard uncertainty of y.
    pub uy: f64,
}

impl From<(f64, f64)> for Seen {
    fn from((x, y): (f64, f64)) -> Self {
        Self { x, y, ux: 0.0, uy: 0.0 }
    }
}

/// By what points scatter.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Scatter {
    /// By their own uncertainties.
    Stated,
    /// All by the same, which nobody knows.
    Equal,
    /// All by the same share of y.
    Relative,
}

/// Fewest points that can show a bend.
pub const FEWEST: usize = 4;
/// A probability below this counts as a bend.
const DOUBT: f64 = 0.03;
/// A probability below this counts as a wave, or as being outdone; smaller, since these are further looks at the same points.
const DOUBT_FURTHER: f64 = 0.005;
/// Changes of sign fewer by so many standard deviations than scatter gives count as a wave: half a percent.
const DOUBT_OF_SIGNS: f64 = -2.576;
/// Signs shown one by one up to this many points.
const MOST_SIGNS: usize = 8;
/// The best-known point counts for at most so many times the middle one, in uncertainties, and the worst-known for as little.
const REACH: f64 = 1e3;

/// Why a shape has no place for all points.
#[derive(Clone, Debug, PartialEq, From)]
pub enum ShapeError {
    /// A logarithm of what is zero or less.
    NotAboveZero,
    /// A root of what is less than zero.
    BelowZero,
    /// The inverse of zero.
    AtZero,
    /// No line goes through its points.
    #[from]
    Line(FitError),
}

/// The strip: every shape in which all points have a place, or why it has none.
///
/// Points are judged by what they are known to: their uncertainties, carried into each picture, where they have any; else a scatter that is the same
/// for all or the same share of y, whichever makes the best picture likelier. With few points the tests of a single picture are weak. So
/// the pictures are compared too: one that leaves more than the best one by a ratio that scatter gives in half a percent of cases is
/// outdone.
pub fn shapes(points: &[Seen]) -> Vec<(Shape, Result<ShapeFit, ShapeError>)> {
    let dof = points.len() as f64 - 2.0;
    let strip = |scatter: Scatter| {
        let all: Vec<_> = Shape::ALL.iter().copied().map(|shape| (shape, picture(shape, points, scatter))).collect();
        let best = all.iter().filter_map(|(_, fit)| Some(fit.as_ref().ok()?.1)).fold(f64::INFINITY, f64::min);
        (all, best)
    };
    let own = !points.is_empty() && points.iter().all(|p| p.ux.hypot(p.uy) > 0.0);
    // Points that scatter far more than they say, in the best of all pictures, are judged by their scatter.
    let explained = |best: f64| ChiSquared::new(dof).is_ok_and(|d| best <= d.inverse_cdf(0.999));
    let by_own = own.then(|| strip(Scatter::Stated)).filter(|(_, best)| explained(*best));
    let stated = by_own.is_some();
    let (mut all, best) = by_own.unwrap_or_else(|| strip(likelier(points)));
    let ratio = FisherSnedecor::new(dof, dof).map_or(f64::INFINITY, |d| d.inverse_cdf(1.0 - DOUBT_FURTHER));
    let chi2 = |p: f64| ChiSquared::new(dof).map_or(f64::INFINITY, |d| d.inverse_cdf(1.0 - p));
    for (_, fit) in &mut all {
        let Ok((ShapeFit { judgement: j, .. }, left)) = fit else { continue };
        // Rounding leaves a little of exact points in every picture.
        if j.bend == Bend::None && points.len() >= FEWEST && j.rest > 1e-9 {
            let told = stated && best <= chi2(DOUBT) && *left > chi2(DOUBT_FURTHER);
            if told || *left / best > ratio {
                j.bend = Bend::Outdone;
            }
        }
    }
    all.into_iter().map(|(shape, fit)| (shape, fit.map(|(fit, _)| fit))).collect()
}

/// Whether the same scatter for all or the same share of y makes the best picture likelier.
fn likelier(points: &[Seen]) -> Scatter {
    if points.iter().any(|p| p.y == 0.0) {
        return Scatter::Equal;
    }
    let n = points.len() as f64;
    // Of normal scatter, up to a constant: −n ln s − Σ ln h with the residuals counted in h.
    let likelihood = |scatter: Scatter| {
        let size: f64 = match scatter {
            Scatter::Relative => points.iter().map(|p| p.y.abs().ln()).sum(),
            Scatter::Equal | Scatter::Stated => 0.0,
        };
        let left =
            Shape::ALL.iter().copied().filter_map(|shape| Some(foretold(&replaced(shape, points, scatter).ok()?.0)));
        let least = left.fold(f64::INFINITY, f64::min);
        -0.5 * n * (least / n).max(1e-300).ln() - size
    };
    if likelihood(Scatter::Relative) > likelihood(Scatter::Equal) { Scatter::Relative } else { Scatter::Equal }
}

/// What lines through all other points leave of each, counted in its scatter (D. M. Allen, *Technometrics* 16 (1974) 125): a point far out cannot
/// make its own line.
fn foretold(seen: &[(f64, f64, f64)]) -> f64 {
    let Some((slope, height)) = weighted_line(seen) else { return f64::INFINITY };
    let w = weighted(seen, |_| 1.0);
    let mean = weighted(seen, |p| p.0) / w;
    let sxx = weighted(seen, |p| (p.0 - mean).powi(2));
    let one = |(x, y, u): &(f64, f64, f64)| {
        let pull = (1.0 / w + (x - mean).powi(2) / sxx) / (u * u);
        ((y - height - slope * x) / u / (1.0 - pull).max(1e-9)).powi(2)
    };
    seen.iter().map(one).sum()
}

/// The points of a picture with their scatter in it, and the line that is shown.
type Replaced = (Vec<(f64, f64, f64)>, LineSums);

fn replaced(shape: Shape, points: &[Seen], scatter: Scatter) -> Result<Replaced, ShapeError> {
    let (across, up) = shape.transforms();
    let replaced: Option<Vec<(f64, f64)>> = points.iter().map(|p| Some((across.of(p.x)?, up.of(p.y)?))).collect();
    let replaced = replaced.ok_or(match (across, up) {
        (Transform::Ln, _) | (_, Transform::Ln) => ShapeError::NotAboveZero,
        (Transform::Root, _) => ShapeError::BelowZero,
        _ => ShapeError::AtZero,
    })?;
    let (x, y): (Vec<f64>, Vec<f64>) = replaced.iter().copied().unzip();
    let line = fit_line(&x, &y, false)?;
    let mut slope = line.slope;
    let mut seen: Vec<(f64, f64, f64)> = Vec::new();
    // What an uncertain x does depends on the slope, which is known once the points are weighted.
    for _ in 0..2 {
        let u = points.iter().map(|p| match scatter {
            Scatter::Stated => (up.steepness(p.y) * p.uy).hypot(slope * across.steepness(p.x) * p.ux),
            Scatter::Equal => up.steepness(p.y),
            Scatter::Relative => up.steepness(p.y) * p.y.abs(),
        });
        let u = within_reach(u.collect());
        seen = replaced.iter().zip(u).map(|((x, y), u)| (*x, *y, u)).collect();
        slope = weighted_line(&seen).map_or(slope, |(slope, _)| slope);
    }
    Ok((seen, line))
}

/// A picture, and what its line leaves of the points, counted in their scatter.
fn picture(shape: Shape, points: &[Seen], scatter: Scatter) -> Result<(ShapeFit, f64), ShapeError> {
    let (seen, line) = replaced(shape, points, scatter)?;
    let (judgement, left) = judge(&seen, scatter == Scatter::Stated);
    let points = seen.iter().map(|(x, y, _)| (*x, *y)).collect();
    Ok((ShapeFit { shape, points, line, judgement }, left))
}

/// Uncertainties without those that would let a point count for all or for nothing.
fn within_reach(u: Vec<f64>) -> Vec<f64> {
    let mut sorted: Vec<f64> = u.iter().copied().filter(|u| u.is_finite() && *u > 0.0).collect();
    sorted.sort_by(f64::total_cmp);
    let middle = sorted.get(sorted.len() / 2).copied().unwrap_or(1.0);
    u.into_iter().map(|u| if u.is_nan() { middle } else { u.clamp(middle / REACH, middle * REACH) }).collect()
}

/// Sum over weighted points.
fn weighted(seen: &[(f64, f64, f64)], of: impl Fn(&(f64, f64, f64)) -> f64) -> f64 {
    seen.iter().map(|p| of(p) / (p.2 * p.2)).sum()
}

/// Slope and height of the line through weighted points.
fn weighted_line(seen: &[(f64, f64, f64)]) -> Option<(f64, f64)> {
    let w = weighted(seen, |_| 1.0);
    let (mx, my) = (weighted(seen, |p| p.0) / w, weighted(seen, |p| p.1) / w);
    let (sxy, sxx) = (weighted(seen, |p| (p.0 - mx) * (p.1 - my)), weighted(seen, |p| (p.0 - mx).powi(2)));
    let slope = sxy / sxx;
    slope.is_finite().then_some((slope, my - slope * mx))
}

/// Judges how straight points are about their line; each is x, y and its uncertainty or scatter, which is `stated` or known up to a
/// factor. Gives what the line leaves of them too, counted in it.
///
/// Three tests: a bend one way, a bend back and forth, and the pattern of signs.
/// A parabola is fitted; its quadratic term against its own standard uncertainty follows Student's t with n − 3 degrees
/// of freedom if the points are straight (Draper, Smith, *Applied Regression Analysis*, 3rd edition, 12.1), or the normal distribution where their
/// uncertainties are stated and explain their scatter. From six points on a cubic is tried against the line by the F-test for two further
/// terms (same work, 6.1). With ten points or more the number of changes of sign is tested too (A. Wald, J. Wolfowitz, *Ann. Math.
/// Stat.* 11 (1940) 147).
fn judge(seen: &[(f64, f64, f64)], stated: bool) -> (Judgement, f64) {
    let mut sorted = seen.to_vec();
    sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (slope, height) = weighted_line(&sorted).unwrap_or((0.0, 0.0));
    let residuals: Vec<f64> = sorted.iter().map(|(x, y, _)| y - height - slope * x).collect();
    let n = residuals.len();
    let size = sorted.iter().map(|p| p.1.abs()).fold(0.0, f64::max);
    // Residuals of exact points are rounding; they have no sign.
    let nothing = 1e-11 * size;
    let sign = |v: f64| {
        if v > nothing {
            1
        } else if v < -nothing {
            -1
        } else {
            0
        }
    };
    let parts = if n <= MOST_SIGNS { n } else { 6 };
    let signs = (0..parts).map(|k| {
        let (from, to) = (k * n / parts, (k + 1) * n / parts);
        sign(residuals[from..to].iter().sum::<f64>() / (to - from) as f64)
    });
    let signs: Vec<i8> = signs.collect();
    let mean = sorted.iter().map(|p| p.1).sum::<f64>() / n.max(1) as f64;
    let syy: f64 = sorted.iter().map(|p| (p.1 - mean).powi(2)).sum();
    let rss: f64 = residuals.iter().map(|r| r * r).sum();
    let rest = if syy == 0.0 { 0.0 } else { (rss / syy).sqrt() };
    let left: f64 = residuals.iter().zip(&sorted).map(|(r, p)| (r / p.2).powi(2)).sum();
    let exact = residuals.iter().all(|r| sign(*r) == 0);
    if exact || n < FEWEST {
        let p_curvature = if exact { 1.0 } else { f64::NAN };
        return (Judgement { bend: Bend::None, signs, p_curvature, rest }, left);
    }
    let (curvature, p_curvature) = curvature(&sorted, stated);
    let bend = if p_curvature < DOUBT {
        if curvature > 0.0 { Bend::Upward } else { Bend::Downward }
    } else if n >= 10 && too_few_changes(&residuals) || n >= 6 && p_wave(&sorted, left, stated) < DOUBT_FURTHER {
        Bend::Waving
    } else if rest > LOOSE {
        Bend::Loose
    } else {
        Bend::None
    };
    (Judgement { bend, signs, p_curvature, rest }, left)
}

/// Points counted from the middle of their range, so that the columns of a fit are not alike.
fn centred(sorted: &[(f64, f64, f64)]) -> (Data, Vec<f64>) {
    let (lo, hi) = (sorted[0].0, sorted[sorted.len() - 1].0);
    let (middle, half) = (f64::midpoint(lo, hi), (hi - lo) / 2.0);
    let points: Vec<(f64, f64)> = sorted.iter().map(|(x, y, _)| ((x - middle) / half, *y)).collect();
    (Data::of(&points), sorted.iter().map(|p| 1.0 / (p.2 * p.2)).collect())
}

/// The quadratic term, and the probability of one as large from scatter alone.
fn curvature(sorted: &[(f64, f64, f64)], stated: bool) -> (f64, f64) {
    let (data, weights) = centred(sorted);
    let Ok(parabola) = linear::fit(&data, &Model::Quadratic, &weights) else { return (0.0, f64::NAN) };
    let dof = (sorted.len() - 3) as f64;
    let chi2: f64 = parabola.residuals.iter().zip(&weights).map(|(r, w)| w * r * r).sum();
    let term = parabola.parameters[0];
    let scale = chi2 / dof;
    let known = stated && scale <= 1.0;
    let u = (if known { 1.0 } else { scale } * parabola.unscaled[(0, 0)]).sqrt();
    if u == 0.0 {
        return (term, if term == 0.0 { 1.0 } else { 0.0 });
    }
    let t = term.abs() / u;
    let beyond =
        if known { Normal::standard().sf(t) } else { StudentsT::new(0.0, 1.0, dof).map_or(f64::NAN, |d| d.sf(t)) };
    (term, 2.0 * beyond)
}

/// Probability that scatter alone lets a cubic take up so much more than the line, which leaves `left`.
fn p_wave(sorted: &[(f64, f64, f64)], left: f64, stated: bool) -> f64 {
    let (data, weights) = centred(sorted);
    let n = sorted.len();
    let root = |i: usize| weights[i].sqrt();
    let powers = nalgebra::DMatrix::from_fn(n, 4, |i, k| root(i) * data.x[0][i].powi(k as i32));
    let heights = nalgebra::DVector::from_fn(n, |i, _| root(i) * data.y[i]);
    let Some((found, _)) = linear::solve(&powers, &heights) else { return f64::NAN };
    let by_cubic = (&heights - &powers * found).norm_squared();
    let dof = (n - 4) as f64;
    if stated && by_cubic <= dof {
        return ChiSquared::new(2.0).map_or(f64::NAN, |d| d.sf(left - by_cubic));
    }
    let f = (left - by_cubic) / 2.0 / (by_cubic / dof);
    FisherSnedecor::new(2.0, dof).map_or(f64::NAN, |d| d.sf(f))
}

/// Whether residuals change their sign more seldom than scatter explains.
fn too_few_changes(residuals: &[f64]) -> bool {
    let above = residuals.iter().filter(|r| **r > 0.0).count() as f64;
    let below = residuals.len() as f64 - above;
    let n = above + below;
    let runs = 1 + residuals.windows(2).filter(|w| (w[0] > 0.0) != (w[1] > 0.0)).count();
    let mean = 2.0 * above * below / n + 1.0;
    let variance = (mean - 1.0) * (mean - 2.0) / (n - 1.0);
    variance > 0.0 && (runs as f64 - mean) / variance.sqrt() < DOUBT_OF_SIGNS
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn seen(points: &[(f64, f64)]) -> Vec<Seen> {
        points.iter().map(|p| Seen::from(*p)).collect()
    }

    fn judged(shape: Shape, points: &[(f64, f64)]) -> Judgement {
        shapes(&seen(points)).into_iter().find(|(s, _)| *s == shape).unwrap().1.unwrap().judgement
    }

    #[test]
    fn a_bent_curve_is_not_taken_for_straight_although_r_squared_is_high() {
        // Free fall from rest, read to a millimetre: R² of the straight line is 0.95 and more.
        let fall: Vec<(f64, f64)> =
            (4..12).map(|i| f64::from(i) * 0.05).map(|t| (t, (4.905 * t * t * 1000.0).round() / 1000.0)).collect();
        let straight = shapes(&seen(&fall))[0].1.clone().unwrap();
        assert!(straight.line.r2 > 0.95);
        assert_eq!(
            (straight.judgement.bend, &straight.judgement.signs[..]),
            (Bend::Upward, &[1, 1, -1, -1, -1, -1, 1, 1][..])
        );
        assert_eq!(judged(Shape::Square, &fall).bend, Bend::None);
        assert_eq!(judged(Shape::Exponential, &fall).bend, Bend::Downward);
        let power = shapes(&seen(&fall)).pop().unwrap().1.unwrap();
        assert!((power.line.slope - 2.0).abs() < 0.01);
        assert_eq!(shapes(&seen(&[(0.0, 1.0), (1.0, 2.0), (2.0, 3.0)]))[3].1.as_ref().err(), Some(&ShapeError::AtZero));
    }

    proptest! {
        #[test]
        fn exact_points_are_straight_in_their_own_shape_only(a in 0.5f64..5.0, n in 6usize..20) {
            let xs: Vec<f64> = (1..=n).map(|i| 0.3 * i as f64).collect();
            for (shape, y) in [
                (Shape::Square, (|a, x| a * x * x) as fn(f64, f64) -> f64),
                (Shape::Root, |a, x| a * x.sqrt()),
                (Shape::Inverse, |a, x| a / x),
                (Shape::InverseSquare, |a, x| a / (x * x)),
                (Shape::Exponential, |a, x| a * x.exp()),
            ] {
                let points: Vec<_> = xs.iter().map(|x| (*x, y(a, *x))).collect();
                for (other, fit) in shapes(&seen(&points)) {
                    let fit = fit.unwrap();
                    // A power law is straight in the double logarithm too, and y² undoes a root.
                    let also = other == shape || other == Shape::Power && shape != Shape::Exponential
                        || shape == Shape::Root && other == Shape::SquareUp;
                    prop_assert_eq!(fit.judgement.bend == Bend::None, also, "{:?} in {:?}: {:?}", shape, other, fit.judgement);
                }
            }
        }
    }
}
