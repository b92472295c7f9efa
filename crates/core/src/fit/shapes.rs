//! Which shape: the same points with x or y replaced by its square, root, inverse or logarithm, and how straight each is.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, FisherSnedecor, StudentsT};

use super::{Data, LineSums, fit_line, linear};
use crate::fit::Model;

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
    /// The value put in the place of `v`; `None` where there is none.
    pub fn of(self, v: f64) -> Option<f64> {
        let value = match self {
            Self::Same => v,
            Self::Square => v * v,
            Self::Root if v >= 0.0 => v.sqrt(),
            Self::Inverse if v != 0.0 => 1.0 / v,
            Self::InverseSquare if v != 0.0 => 1.0 / (v * v),
            Self::Ln if v > 0.0 => v.ln(),
            _ => return None,
        };
        value.is_finite().then_some(value)
    }
}

/// A candidate: y against x, with one or both replaced.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
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
    pub const ALL: [Self; 8] = [
        Self::Straight,
        Self::Square,
        Self::Root,
        Self::Inverse,
        Self::InverseSquare,
        Self::SquareUp,
        Self::Exponential,
        Self::Power,
    ];

    /// The name in forms and on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::Straight => "straight",
            Self::Square => "square",
            Self::Root => "root",
            Self::Inverse => "inverse",
            Self::InverseSquare => "inverse-square",
            Self::SquareUp => "square-up",
            Self::Exponential => "exponential",
            Self::Power => "power",
        }
    }

    /// The shape of that name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|s| s.name() == name)
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

    /// What a straight line in this picture says about y and x.
    pub fn meaning(self) -> &'static str {
        match self {
            Self::Straight => "y changes in proportion to the change of x",
            Self::Square => "y grows with the square of x",
            Self::Root => "y grows with the square root of x",
            Self::Inverse => "y goes with one over x",
            Self::InverseSquare => "y goes with one over the square of x",
            Self::SquareUp => "the square of y changes in proportion to the change of x",
            Self::Exponential => "equal steps of x multiply y by equal factors: exponential, not merely bent",
            Self::Power => "y goes with a power of x; the slope is the exponent",
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

/// Fewest points that can show a bend.
const FEWEST: usize = 4;
/// A probability below this counts as a bend.
const DOUBT: f64 = 0.05;
/// A probability below this counts as a wave; smaller, since it is a second look at the same points.
const DOUBT_OF_A_WAVE: f64 = 0.01;
/// Signs shown one by one up to this many points.
const MOST_SIGNS: usize = 8;

/// The strip: every shape in which all points have a place, or why it has none.
///
/// With few points the tests of a single picture are weak. So the pictures are compared too: one that leaves more than the
/// best one by an F-ratio that scatter gives once in a hundred times is outdone.
pub fn shapes(points: &[(f64, f64)]) -> Vec<(Shape, Result<ShapeFit, String>)> {
    let mut all: Vec<_> = Shape::ALL.into_iter().map(|shape| (shape, picture(shape, points))).collect();
    let rests = all.iter().filter_map(|(_, fit)| Some(fit.as_ref().ok()?.judgement.rest));
    let best = rests.fold(f64::INFINITY, f64::min);
    let dof = points.len() as f64 - 2.0;
    let limit = FisherSnedecor::new(dof, dof).map_or(f64::INFINITY, |d| d.inverse_cdf(0.99));
    for (_, fit) in &mut all {
        if let Ok(ShapeFit { judgement: j, .. }) = fit
            && j.bend == Bend::None
            && points.len() >= FEWEST
            // Rounding leaves a little of exact points in every picture.
            && j.rest > 1e-9
            && (j.rest / best).powi(2) > limit
        {
            j.bend = Bend::Outdone;
        }
    }
    all
}

fn picture(shape: Shape, points: &[(f64, f64)]) -> Result<ShapeFit, String> {
    let (across, up) = shape.transforms();
    let replaced: Option<Vec<(f64, f64)>> = points.iter().map(|(x, y)| Some((across.of(*x)?, up.of(*y)?))).collect();
    let points = replaced.ok_or_else(|| {
        match (across, up) {
            (Transform::Ln, _) | (_, Transform::Ln) => "needs values above zero",
            (Transform::Root, _) => "needs values from zero up",
            _ => "has no value where x is zero",
        }
        .to_owned()
    })?;
    let (x, y): (Vec<f64>, Vec<f64>) = points.iter().copied().unzip();
    let line = fit_line(&x, &y, false).map_err(|e| e.to_string())?;
    let judgement = judge(&points, &line);
    Ok(ShapeFit { shape, points, line, judgement })
}

/// Judges how straight points are about their line.
///
/// Three tests: a bend one way, a bend back and forth, and the pattern of signs.
/// A parabola is fitted; its quadratic term against its own standard uncertainty follows Student's t with n − 3 degrees
/// of freedom if the points are straight (Draper, Smith, *Applied Regression Analysis*, 3rd edition, 12.1). From six points on a
/// cubic is tried against the line by the F-test for two further terms (same work, 6.1). With ten points
/// or more the number of changes of sign is tested too (A. Wald, J. Wolfowitz, *Ann. Math. Stat.* 11 (1940) 147).
pub fn judge(points: &[(f64, f64)], line: &LineSums) -> Judgement {
    let mut sorted = points.to_vec();
    sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
    let residuals: Vec<f64> = sorted.iter().map(|(x, y)| y - line.intercept - line.slope * x).collect();
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
    let spread = |all: &mut dyn Iterator<Item = f64>| {
        let all: Vec<f64> = all.collect();
        let mean = all.iter().sum::<f64>() / all.len().max(1) as f64;
        all.iter().map(|v| (v - mean).powi(2)).sum::<f64>()
    };
    let syy = spread(&mut sorted.iter().map(|p| p.1));
    let rss: f64 = residuals.iter().map(|r| r * r).sum();
    let rest = if syy == 0.0 { 0.0 } else { (rss / syy).sqrt() };
    let exact = residuals.iter().all(|r| sign(*r) == 0);
    if exact || n < FEWEST {
        return Judgement { bend: Bend::None, signs, p_curvature: if exact { 1.0 } else { f64::NAN }, rest };
    }
    let (curvature, p_curvature) = curvature(&sorted);
    let bend = if p_curvature < DOUBT {
        if curvature > 0.0 { Bend::Upward } else { Bend::Downward }
    } else if n >= 10 && too_few_changes(&residuals) || n >= 6 && p_wave(&sorted, rss) < DOUBT_OF_A_WAVE {
        Bend::Waving
    } else if rest > LOOSE {
        Bend::Loose
    } else {
        Bend::None
    };
    Judgement { bend, signs, p_curvature, rest }
}

/// The quadratic term, and the probability of one as large from scatter alone.
fn curvature(sorted: &[(f64, f64)]) -> (f64, f64) {
    // Counted from the middle of the range, so that the columns of the fit are not alike.
    let (lo, hi) = (sorted[0].0, sorted[sorted.len() - 1].0);
    let (middle, half) = (f64::midpoint(lo, hi), (hi - lo) / 2.0);
    let points: Vec<(f64, f64)> = sorted.iter().map(|(x, y)| ((x - middle) / half, *y)).collect();
    let Ok(parabola) = linear::fit(&Data::of(&points), &Model::Quadratic, &[]) else { return (0.0, f64::NAN) };
    let dof = (points.len() - 3) as f64;
    let rss: f64 = parabola.residuals.iter().map(|r| r * r).sum();
    let term = parabola.parameters[0];
    let u = (rss / dof * parabola.unscaled[(0, 0)]).sqrt();
    if u == 0.0 {
        return (term, if term == 0.0 { 1.0 } else { 0.0 });
    }
    let t = term.abs() / u;
    (term, StudentsT::new(0.0, 1.0, dof).map_or(f64::NAN, |d| 2.0 * (1.0 - d.cdf(t))))
}

/// Probability that scatter alone lets a cubic take up so much more than the line.
fn p_wave(sorted: &[(f64, f64)], rss: f64) -> f64 {
    let (lo, hi) = (sorted[0].0, sorted[sorted.len() - 1].0);
    let (middle, half) = (f64::midpoint(lo, hi), (hi - lo) / 2.0);
    let n = sorted.len();
    let powers = nalgebra::DMatrix::from_fn(n, 4, |i, k| ((sorted[i].0 - middle) / half).powi(k as i32));
    let heights = nalgebra::DVector::from_iterator(n, sorted.iter().map(|p| p.1));
    let Some((found, _)) = linear::solve(&powers, &heights) else { return f64::NAN };
    let left = (&heights - &powers * found).norm_squared();
    let dof = (n - 4) as f64;
    let f = (rss - left) / 2.0 / (left / dof);
    FisherSnedecor::new(2.0, dof).map_or(f64::NAN, |d| 1.0 - d.cdf(f))
}

/// Whether residuals change their sign so seldom that scatter explains it in less than one of twenty cases.
fn too_few_changes(residuals: &[f64]) -> bool {
    let above = residuals.iter().filter(|r| **r > 0.0).count() as f64;
    let below = residuals.len() as f64 - above;
    let n = above + below;
    let runs = 1 + residuals.windows(2).filter(|w| (w[0] > 0.0) != (w[1] > 0.0)).count();
    let mean = 2.0 * above * below / n + 1.0;
    let variance = (mean - 1.0) * (mean - 2.0) / (n - 1.0);
    variance > 0.0 && (runs as f64 - mean) / variance.sqrt() < -1.645
}

impl Judgement {
    /// In words: `bends upward: residuals + − − +`.
    pub fn words(&self, n: usize) -> String {
        let signs: Vec<&str> = self
            .signs
            .iter()
            .map(|s| match s {
                1 => "+",
                -1 => "−",
                _ => "0",
            })
            .collect();
        let signs = signs.join(" ");
        match self.bend {
            _ if n < FEWEST => "too few points to tell".to_owned(),
            Bend::None if self.signs.iter().all(|s| *s == 0) => "straight to the last digit".to_owned(),
            Bend::None => format!("no bend: residuals {signs}"),
            Bend::Upward => format!("bends upward: residuals {signs}"),
            Bend::Downward => format!("bends downward: residuals {signs}"),
            Bend::Outdone => format!("another shape is far straighter: residuals {signs}"),
            Bend::Loose => format!("hardly follows a line: residuals {signs}"),
            Bend::Waving => format!("waves about the line: residuals {signs}"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn judged(shape: Shape, points: &[(f64, f64)]) -> Judgement {
        shapes(points).into_iter().find(|(s, _)| *s == shape).unwrap().1.unwrap().judgement
    }

    #[test]
    fn a_bent_curve_is_not_taken_for_straight_although_r_squared_is_high() {
        // Free fall from rest, read to a millimetre: R² of the straight line is 0.95 and more.
        let fall: Vec<(f64, f64)> =
            (4..12).map(|i| f64::from(i) * 0.05).map(|t| (t, (4.905 * t * t * 1000.0).round() / 1000.0)).collect();
        let straight = shapes(&fall)[0].1.clone().unwrap();
        assert!(straight.line.r2 > 0.95);
        assert_eq!(straight.judgement.words(8), "bends upward: residuals + + − − − − + +");
        assert_eq!(judged(Shape::Square, &fall).bend, Bend::None);
        assert_eq!(judged(Shape::Exponential, &fall).bend, Bend::Downward);
        let power = shapes(&fall).pop().unwrap().1.unwrap();
        assert!((power.line.slope - 2.0).abs() < 0.01);
        assert_eq!(
            shapes(&[(0.0, 1.0), (1.0, 2.0), (2.0, 3.0)])[3].1.as_ref().unwrap_err(),
            "has no value where x is zero"
        );
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
                for (other, fit) in shapes(&points) {
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
