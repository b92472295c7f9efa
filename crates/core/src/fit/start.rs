//! Start values for curves that are fitted step by step.

use nalgebra::{DMatrix, DVector};

use super::model::Ready;
use super::{FitError, Model, Typed, fit_line};

/// Starts that are worth trying, most likely first, in the numbers of the tape.
pub(super) fn values(x: &[Vec<f64>], y: &[f64], model: &Model, ready: &Ready) -> Result<Vec<Vec<f64>>, FitError> {
    let first = &x[0];
    Ok(match model {
        Model::Power => {
            let sign = if y.iter().sum::<f64>() < 0.0 { -1.0 } else { 1.0 };
            let points: Vec<(f64, f64)> = first
                .iter()
                .zip(y)
                .filter(|(x, y)| **x > 0.0 && *y * sign > 0.0)
                .map(|(x, y)| (x.ln(), (y * sign).ln()))
                .collect();
            let (n, a) = straight(&points).map_or((1.0, sign), |(s, i)| (s, sign * i.exp()));
            vec![vec![a, n], vec![y.iter().sum::<f64>() / y.len() as f64, 0.0]]
        }
        Model::Exponential => {
            let sign = if y.iter().sum::<f64>() < 0.0 { -1.0 } else { 1.0 };
            let points: Vec<(f64, f64)> =
                first.iter().zip(y).filter(|(_, y)| *y * sign > 0.0).map(|(x, y)| (*x, (y * sign).ln())).collect();
            let (b, a) = straight(&points).map_or((0.0, sign), |(s, i)| (s, sign * i.exp()));
            vec![vec![a, b]]
        }
        Model::ExponentialOffset => exponential_with_offset(first, y),
        Model::Sine => waves(first, y, &[0.0]).into_iter().map(|(_, v)| vec![v[0], v[2], v[3], v[4]]).collect(),
        Model::DampedSine => {
            let reach = reach(first);
            let dampings = [0.0, 0.3, 1.0, 2.0, 4.0].map(|d| d / reach);
            waves(first, y, &dampings).into_iter().map(|(_, v)| v.to_vec()).collect()
        }
        Model::Typed(typed) => typed_starts(typed, x, y, ready),
        Model::Line | Model::Proportional | Model::Quadratic | Model::Inverse | Model::InverseSquare | Model::Root => {
            Vec::new()
        }
    })
}

fn reach(x: &[f64]) -> f64 {
    let (lo, hi) = x.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), x| (lo.min(*x), hi.max(*x)));
    if hi > lo { hi - lo } else { 1.0 }
}

fn straight(points: &[(f64, f64)]) -> Option<(f64, f64)> {
    let (x, y): (Vec<f64>, Vec<f64>) = points.iter().copied().unzip();
    fit_line(&x, &y, false).ok().map(|l| (l.slope, l.intercept))
}

/// For a given rate, a and c follow directly; the best of a range of rates to both sides starts the descent.
fn exponential_with_offset(x: &[f64], y: &[f64]) -> Vec<Vec<f64>> {
    let reach = reach(x);
    let middle = x.iter().sum::<f64>() / x.len() as f64;
    let rates = (-12..=10).map(|k| 2f64.powf(f64::from(k) / 2.0) / reach);
    let mut tried: Vec<(f64, Vec<f64>)> = rates
        .flat_map(|r| [r, -r])
        .filter_map(|b| {
            // Counted from the middle, so that large x do not overflow.
            let u: Vec<f64> = x.iter().map(|x| (b * (x - middle)).exp()).collect();
            let line = fit_line(&u, y, false).ok()?;
            let rss = u.iter().zip(y).map(|(u, y)| (y - line.slope * u - line.intercept).powi(2)).sum::<f64>();
            let a = line.slope * (-b * middle).exp();
            a.is_finite().then(|| (rss, vec![a, b, line.intercept]))
        })
        .collect();
    tried.sort_by(|a, b| a.0.total_cmp(&b.0));
    tried.into_iter().take(2).map(|(_, v)| v).collect()
}

/// For given ω and damping, a wave is linear in the rest: the best of a fine grid of ω start the descent. Gives
/// (rss, [A, k, ω, φ, C]).
fn waves(x: &[f64], y: &[f64], dampings: &[f64]) -> Vec<(f64, [f64; 5])> {
    let (n, reach) = (x.len(), reach(x));
    let from = x.iter().copied().fold(f64::INFINITY, f64::min);
    // From a quarter of a turn over the whole range up to half a turn from point to point.
    let fastest = std::f64::consts::PI * (n.max(2) - 1) as f64 / reach;
    let step = 0.5 / reach;
    let count = ((fastest / step) as usize).clamp(8, 4000);
    let rhs = DVector::from_column_slice(y);
    let mut tried: Vec<(f64, [f64; 5])> = Vec::new();
    for k in dampings {
        for i in 1..=count {
            let w = (std::f64::consts::FRAC_PI_2 / reach) + step * (i - 1) as f64;
            let design = DMatrix::from_fn(n, 3, |row, column| {
                let fade = (-k * (x[row] - from)).exp();
                match column {
                    0 => fade * (w * x[row]).sin(),
                    1 => fade * (w * x[row]).cos(),
                    _ => 1.0,
                }
            });
            let gram = design.tr_mul(&design);
            let Some(found) = gram.lu().solve(&design.tr_mul(&rhs)) else { continue };
            let rss = (&rhs - &design * &found).norm_squared();
            let (s, c) = (found[0], found[1]);
            let a = s.hypot(c) * (k * from).exp();
            if rss.is_finite() && a.is_finite() {
                tried.push((rss, [a, *k, w, c.atan2(s), found[2]]));
            }
        }
    }
    tried.sort_by(|a, b| a.0.total_cmp(&b.0));
    // Neighbours on the grid lead to the same end.
    let mut kept: Vec<(f64, [f64; 5])> = Vec::new();
    for one in tried {
        if kept.len() < 4 && kept.iter().all(|k| (k.1[2] - one.1[2]).abs() > 4.0 * step) {
            kept.push(one);
        }
    }
    kept
}

/// Typed start values as they are; those missing are tried at several magnitudes.
fn typed_starts(typed: &Typed, x: &[Vec<f64>], y: &[f64], ready: &Ready) -> Vec<Vec<f64>> {
    let fixed: Vec<Option<f64>> = ready.symbols.iter().map(|s| typed.start.get(s).copied()).collect();
    if fixed.iter().all(Option::is_some) {
        return vec![fixed.into_iter().flatten().collect()];
    }
    let size = y.iter().map(|v| v.abs()).fold(0.0, f64::max).max(f64::MIN_POSITIVE);
    let reach = reach(&x[0]);
    let per_x = 1.0 / reach;
    // Likely magnitudes: of one, of y, of x, of 1/x, of y/x; with both signs.
    let guesses: Vec<f64> = [1.0, size, reach, per_x, size * per_x, size * per_x * per_x]
        .into_iter()
        .flat_map(|g| [g, -g, 0.3 * g])
        .collect();
    let free = fixed.iter().filter(|f| f.is_none()).count();
    let columns: Vec<&[f64]> = x.iter().map(Vec::as_slice).collect();
    let mut values = vec![0.0; y.len()];
    let mut tried: Vec<(f64, Vec<f64>)> = Vec::new();
    // All combinations while they are few; else a spread of them.
    let all = guesses.len().saturating_pow(free as u32);
    let most = 3000.min(all);
    for k in 0..most {
        let mut code = if all <= 3000 { k } else { k.wrapping_mul(2_654_435_761) % all };
        let start: Vec<f64> = fixed
            .iter()
            .map(|f| {
                f.unwrap_or_else(|| {
                    let g = guesses[code % guesses.len()];
                    code /= guesses.len();
                    g
                })
            })
            .collect();
        ready.tape.evaluate(&columns, &start, &mut values, None);
        let rss: f64 = values.iter().zip(y).map(|(v, y)| (v - y) * (v - y)).sum();
        if rss.is_finite() {
            tried.push((rss, start));
        }
    }
    tried.sort_by(|a, b| a.0.total_cmp(&b.0));
    tried.into_iter().take(6).map(|(_, v)| v).collect()
}

/// Starts with one parameter after the other as one of the frequencies that the points have.
pub(super) fn turning(x: &[f64], y: &[f64], place: &[f64]) -> Vec<Vec<f64>> {
    let frequencies: Vec<f64> = waves(x, y, &[0.0]).into_iter().take(2).map(|(_, v)| v[2]).collect();
    let with = |k: usize, w: f64| place.iter().enumerate().map(|(i, v)| if i == k { w } else { *v }).collect();
    (0..place.len()).flat_map(|k| frequencies.iter().map(move |w| with(k, *w))).collect()
}

/// Starts of other magnitudes around one: the few with the smallest sum of squares.
pub(super) fn around(start: &[f64], x: &[Vec<f64>], y: &[f64], ready: &Ready) -> Vec<Vec<f64>> {
    const FACTORS: [f64; 7] = [1.0, 3.0, 0.3, 10.0, 0.1, 100.0, 0.01];
    let columns: Vec<&[f64]> = x.iter().map(Vec::as_slice).collect();
    let mut values = vec![0.0; y.len()];
    let all = FACTORS.len().saturating_pow(start.len() as u32);
    let mut tried: Vec<(f64, Vec<f64>)> = Vec::new();
    for k in 0..all.min(3000) {
        let mut code = if all <= 3000 { k } else { k.wrapping_mul(2_654_435_761) % all };
        let scaled = start.iter().map(|v| {
            let factor = FACTORS[code % FACTORS.len()];
            code /= FACTORS.len();
            v * factor
        });
        let scaled: Vec<f64> = scaled.collect();
        ready.tape.evaluate(&columns, &scaled, &mut values, None);
        let rss: f64 = values.iter().zip(y).map(|(v, y)| (v - y) * (v - y)).sum();
        if rss.is_finite() {
            tried.push((rss, scaled));
        }
    }
    tried.sort_by(|a, b| a.0.total_cmp(&b.0));
    tried.into_iter().take(8).map(|(_, v)| v).collect()
}

/// The same curve with the parameters people expect: a positive amplitude, and a phase between −π and π.
pub(super) fn tidy(model: &Model, mut found: DVector<f64>) -> DVector<f64> {
    let (amplitude, frequency, phase) = match model {
        Model::Sine => (0, 1, 2),
        Model::DampedSine => (0, 2, 3),
        Model::Line
        | Model::Proportional
        | Model::Quadratic
        | Model::Power
        | Model::Exponential
        | Model::ExponentialOffset
        | Model::Inverse
        | Model::InverseSquare
        | Model::Root
        | Model::Typed(_) => return found,
    };
    let pi = std::f64::consts::PI;
    if found[frequency] < 0.0 {
        found[frequency] = -found[frequency];
        found[phase] = pi - found[phase];
    }
    if found[amplitude] < 0.0 {
        found[amplitude] = -found[amplitude];
        found[phase] += pi;
    }
    found[phase] = (found[phase] + pi).rem_euclid(2.0 * pi) - pi;
    found
}
