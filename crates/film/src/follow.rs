//! Follows an object through a film: template matching with a peak between pixels.
//!
//! [`Follower::start`] takes a template around the first mark; [`Follower::step`] looks for it in the next frame, near
//! where the motion so far leads, and either places a mark or asks. The steps of a frame: predict, score every whole-pixel
//! place of the search region, refuse a poor or doubtful best one, refine it between the pixels, adapt the template.

use serde::Serialize;

use crate::Grey;

/// Smallest and largest side of the template, in pixels.
pub const BOX: std::ops::RangeInclusive<usize> = 8..=128;
/// A match below this is poor.
const POOR: f64 = 0.55;
/// A second place this close in score to the best one competes with it.
const RIVAL: f64 = 0.2;
/// A match that is this much worse than those before it is poor: something else is in the way.
const DROP: f64 = 0.15;
/// Score from which the first look of the object alone gives the place.
const TRUSTED: f64 = 0.85;
/// How much of a new look goes into the template.
const ADAPT: f32 = 0.06;
/// Steps of the refinement at most.
const STEPS: usize = 12;

/// Why nothing can be followed from here.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum FollowError {
    /// The box around the mark leaves the picture.
    #[error(
        "The box around the mark reaches beyond the picture. Take a smaller box, or mark the object farther inside."
    )]
    Outside,
    /// The template cannot be of this size.
    #[error("The box can be {least} to {most} pixels wide, not {_0}.", least = BOX.start(), most = BOX.end())]
    Size(usize),
    /// Nothing to tell it by.
    #[error("There is nothing in the box to tell the object by: it is evenly bright. Mark an edge or a spot of it.")]
    Plain,
}

/// What came of looking for the object in one frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[serde(tag = "outcome", rename_all = "snake_case")]
pub enum Found {
    /// It is here.
    Placed {
        /// x and y in px.
        at: [f64; 2],
        /// Correlation with the template, at most 1.
        score: f64,
    },
    /// A person has to say where it is.
    Asks {
        /// Why.
        why: Question,
        /// The best place all the same, in px.
        near: [f64; 2],
        /// Its correlation with the template.
        score: f64,
    },
}

/// Why following stops and asks.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Question {
    /// Nothing near looks enough like it.
    PoorMatch,
    /// It leaves the picture.
    Leaves,
    /// Two places look alike.
    TwoPlaces,
}

/// A square patch of brightness, sampled around a place between pixels.
#[derive(Clone, Debug)]
struct Patch {
    side: usize,
    values: Vec<f32>,
}

/// An object being followed.
#[derive(Clone, Debug)]
pub struct Follower {
    /// The first look, which does not drift.
    first: Patch,
    /// The look of late.
    look: Patch,
    /// Where it was: time in s, x and y in px. The last four at most.
    path: Vec<(f64, [f64; 2])>,
    /// How well it matched of late; 1 before the first match.
    usual: f64,
}

impl Follower {
    /// Begins at a mark: `at` in px, template `side` px wide, frame at `time` s.
    ///
    /// # Errors
    /// [`FollowError`] when no template can be taken there.
    pub fn start(frame: &Grey, at: [f64; 2], side: usize, time: f64) -> Result<Self, FollowError> {
        if !BOX.contains(&side) {
            return Err(FollowError::Size(side));
        }
        // An odd side has a middle pixel.
        let side = side | 1;
        let patch = Patch::sample(frame, at, side).ok_or(FollowError::Outside)?;
        if patch.spread() < 2.0 {
            return Err(FollowError::Plain);
        }
        Ok(Self { look: patch.clone(), first: patch, path: vec![(time, at)], usual: 1.0 })
    }

    /// Takes a mark made by hand: the motion so far and the recent look follow it.
    ///
    /// # Errors
    /// As for [`Self::start`]; the follower is as it was.
    pub fn correct(&mut self, frame: &Grey, at: [f64; 2], time: f64) -> Result<(), FollowError> {
        self.look = Patch::sample(frame, at, self.look.side).ok_or(FollowError::Outside)?;
        self.usual = 1.0;
        self.remember(time, at);
        Ok(())
    }

    /// Tells where it was before the mark it starts from, oldest first, so that the motion is known.
    pub fn recall(&mut self, earlier: &[(f64, [f64; 2])]) {
        let last = self.path.pop();
        self.path = earlier.iter().rev().take(3).rev().copied().chain(last).collect();
    }

    /// Looks for the object in the next frame, at `time` s.
    pub fn step(&mut self, frame: &Grey, time: f64) -> Found {
        let expected = self.predict(time);
        let half = self.look.side / 2;
        let template = Plane::square(&self.look.bytes(), self.look.side);
        let (near, wide) = self.reach();
        let apart = 0.3 * self.look.side as f64;
        let mut best = None;
        for radius in [near, wide] {
            let Some(peak) = best_near(frame, &template, expected, radius, apart) else { break };
            best = Some(peak);
            if peak.score >= POOR {
                break;
            }
        }
        let margin = half as f64 + 1.0;
        let inside = |at: [f64; 2]| {
            let (w, h) = (frame.width as f64, frame.height as f64);
            at[0] >= margin && at[1] >= margin && at[0] <= w - margin && at[1] <= h - margin
        };
        let Some(peak) = best else { return Found::Asks { why: Question::Leaves, near: expected, score: 0.0 } };
        let ask = |why| Found::Asks { why, near: peak.at, score: peak.score };
        // The very first match tells what is usual: grain makes it worse than 1.
        let usual = if self.usual == 1.0 { POOR } else { self.usual - DROP };
        if peak.score < POOR.max(usual) {
            return ask(if inside(expected) { Question::PoorMatch } else { Question::Leaves });
        }
        if peak.rival {
            return ask(Question::TwoPlaces);
        }
        // The first look decides as long as it fits; the recent one drifts a little with every frame.
        let (at, score) = [&self.first, &self.look]
            .into_iter()
            .find_map(|look| look.refine(frame, peak.at).filter(|(_, score)| *score >= TRUSTED))
            .or_else(|| self.look.refine(frame, peak.at))
            .unwrap_or((peak.at, peak.score));
        if !inside(at) {
            return ask(Question::Leaves);
        }
        self.usual = if self.usual == 1.0 { peak.score } else { 0.9 * self.usual + 0.1 * peak.score };
        if let Some(seen) = Patch::sample(frame, at, self.look.side) {
            self.look.blend(&seen, ADAPT);
        }
        self.remember(time, at);
        Found::Placed { at, score }
    }

    fn remember(&mut self, time: f64, at: [f64; 2]) {
        self.path.retain(|(t, _)| *t < time);
        self.path.push((time, at));
        let extra = self.path.len().saturating_sub(4);
        self.path.drain(..extra);
    }

    /// Where the motion so far leads: straight on from two places, along a parabola from three or more.
    fn predict(&self, time: f64) -> [f64; 2] {
        let n = self.path.len();
        let used = &self.path[n.saturating_sub(3)..];
        // Lagrange's interpolation formula, carried on beyond the last place.
        let along = |axis: usize| {
            let terms = used.iter().enumerate().map(|(i, (ti, p))| {
                let others = used.iter().enumerate().filter(|(j, _)| *j != i);
                p[axis] * others.map(|(_, (tj, _))| (time - tj) / (ti - tj)).product::<f64>()
            });
            terms.sum::<f64>()
        };
        [along(0), along(1)]
    }

    /// How far from the expected place to look, in px: at first, and once more when nothing was found.
    fn reach(&self) -> (f64, f64) {
        let side = self.look.side as f64;
        let last = match self.path[..] {
            [.., (_, a), (_, b)] => (b[0] - a[0]).hypot(b[1] - a[1]),
            _ => side,
        };
        // Wide enough to notice a second object of the kind before the two overlap.
        let near = (0.5 * last + 6.0).max(0.75 * side).min(1.5 * side + 6.0);
        (near, (1.8 * last + 8.0).max(near + 0.5 * side).min(3.0 * side))
    }
}

impl Patch {
    /// Brightness around a place; `None` where the patch leaves the picture.
    fn sample(frame: &Grey, at: [f64; 2], side: usize) -> Option<Self> {
        let mut values = vec![0.0; side * side];
        sample_into(frame, at, side, &mut values).then_some(Self { side, values })
    }

    fn spread(&self) -> f32 {
        let n = self.values.len() as f32;
        let mean = self.values.iter().sum::<f32>() / n;
        (self.values.iter().map(|v| (v - mean).powi(2)).sum::<f32>() / n).sqrt()
    }

    fn bytes(&self) -> Vec<u8> {
        self.values.iter().map(|v| v.round().clamp(0.0, 255.0) as u8).collect()
    }

    fn blend(&mut self, seen: &Self, share: f32) {
        for (old, new) in self.values.iter_mut().zip(&seen.values) {
            *old += share * (new - *old);
        }
    }

    /// The place near `from` where the patch fits best, up to a gain and an offset of brightness; with its correlation.
    ///
    /// Inverse compositional Gauss-Newton iteration (Baker and Matthews, Int. J. Comput. Vis. 56 (2004) 221) for a shift;
    /// `None` when it runs away.
    fn refine(&self, frame: &Grey, from: [f64; 2]) -> Option<([f64; 2], f64)> {
        let n = self.side;
        let template = smooth(&self.values, n);
        let mean_t = template.iter().sum::<f32>() / template.len() as f32;
        let inner = || (1..n - 1).flat_map(move |y| (1..n - 1).map(move |x| y * n + x));
        let gradient: Vec<(f32, f32)> = inner()
            .map(|i| ((template[i + 1] - template[i - 1]) / 2.0, (template[i + n] - template[i - n]) / 2.0))
            .collect();
        let (mut hxx, mut hxy, mut hyy) = (0f64, 0f64, 0f64);
        for (gx, gy) in &gradient {
            hxx += f64::from(gx * gx);
            hxy += f64::from(gx * gy);
            hyy += f64::from(gy * gy);
        }
        let determinant = hxx * hyy - hxy * hxy;
        if determinant <= 1e-6 * (hxx + hyy).powi(2) {
            return None;
        }
        let mut at = from;
        let mut score = 0.0;
        let mut seen = vec![0.0; n * n];
        for _ in 0..STEPS {
            if !sample_into(frame, at, n, &mut seen) {
                return None;
            }
            let seen = smooth(&seen, n);
            let mean_s = seen.iter().sum::<f32>() / seen.len() as f32;
            let (mut tt, mut ts, mut ss) = (0f64, 0f64, 0f64);
            for (t, s) in template.iter().zip(&seen) {
                let (t, s) = (f64::from(t - mean_t), f64::from(s - mean_s));
                tt += t * t;
                ts += t * s;
                ss += s * s;
            }
            if ss <= 0.0 || ts <= 0.0 {
                return None;
            }
            score = ts / (tt * ss).sqrt();
            let gain = (ts / tt) as f32;
            let (mut bx, mut by) = (0f64, 0f64);
            for (i, (gx, gy)) in inner().zip(&gradient) {
                let error = (seen[i] - mean_s) / gain - (template[i] - mean_t);
                bx += f64::from(gx * error);
                by += f64::from(gy * error);
            }
            let step = [(hyy * bx - hxy * by) / determinant, (hxx * by - hxy * bx) / determinant];
            at = [at[0] - step[0], at[1] - step[1]];
            if (at[0] - from[0]).hypot(at[1] - from[1]) > 2.5 {
                return None;
            }
            if step[0].hypot(step[1]) < 1e-3 {
                break;
            }
        }
        Some((at, score))
    }
}

/// Samples a patch between pixels, bilinear; `false` where it leaves the picture.
fn sample_into(frame: &Grey, at: [f64; 2], side: usize, out: &mut [f32]) -> bool {
    let half = (side / 2) as f64;
    let (left, top) = (at[0] - 0.5 - half, at[1] - 0.5 - half);
    if !(left >= 0.0 && top >= 0.0) {
        return false;
    }
    let (x0, y0) = (left.floor() as usize, top.floor() as usize);
    if x0 + side + 1 > frame.width || y0 + side + 1 > frame.height {
        return false;
    }
    let (fx, fy) = (left.fract() as f32, top.fract() as f32);
    // On the last row or column the weight beyond is zero.
    let next = |i: usize, most: usize| (i + 1).min(most - 1);
    for (row, out) in out.chunks_exact_mut(side).enumerate() {
        let upper = &frame.data[(y0 + row) * frame.width..][..frame.width];
        let lower = &frame.data[next(y0 + row, frame.height) * frame.width..][..frame.width];
        for (column, value) in out.iter_mut().enumerate() {
            let (a, b) = (x0 + column, next(x0 + column, frame.width));
            let mix = |line: &[u8]| f32::from(line[a]) * (1.0 - fx) + f32::from(line[b]) * fx;
            *value = mix(upper) * (1.0 - fy) + mix(lower) * fy;
        }
    }
    true
}

/// A binomial 3 × 3 blur, which takes the grain off; the rim stays as it is.
fn smooth(values: &[f32], n: usize) -> Vec<f32> {
    let mut across = values.to_vec();
    for row in 0..n {
        for i in row * n + 1..row * n + n - 1 {
            across[i] = (values[i - 1] + 2.0 * values[i] + values[i + 1]) / 4.0;
        }
    }
    let mut both = across.clone();
    for i in n..n * (n - 1) {
        both[i] = (across[i - n] + 2.0 * across[i] + across[i + n]) / 4.0;
    }
    both
}

/// The best place of a search region.
#[derive(Clone, Copy, Debug)]
struct Peak {
    at: [f64; 2],
    score: f64,
    /// Whether a place apart from it is nearly as good.
    rival: bool,
}

/// Brightness as 16-bit numbers, whose products the processor adds in pairs.
#[derive(Clone, Debug)]
struct Plane {
    width: usize,
    height: usize,
    data: Vec<i16>,
}

impl Plane {
    fn cut(frame: &Grey, (left, top): (usize, usize), (width, height): (usize, usize)) -> Self {
        let lines = (top..top + height).flat_map(|y| &frame.data[y * frame.width + left..][..width]);
        Self { width, height, data: lines.map(|v| i16::from(*v)).collect() }
    }

    fn square(values: &[u8], side: usize) -> Self {
        Self { width: side, height: side, data: values.iter().map(|v| i16::from(*v)).collect() }
    }

    fn part(&self, (left, top): (usize, usize), (width, height): (usize, usize)) -> Self {
        let lines = (top..top + height).flat_map(|y| &self.data[y * self.width + left..][..width]);
        Self { width, height, data: lines.copied().collect() }
    }

    /// Half as large: sums of two by two pixels.
    fn halved(&self) -> Self {
        let (width, height) = (self.width / 2, self.height / 2);
        let mut data = Vec::with_capacity(width * height);
        for pair in self.data.chunks_exact(2 * self.width).take(height) {
            let (upper, lower) = pair.split_at(self.width);
            data.extend(upper.chunks_exact(2).zip(lower.chunks_exact(2)).map(|(a, b)| a[0] + a[1] + b[0] + b[1]));
        }
        Self { width, height, data }
    }
}

/// Correlation coefficient of a template with a picture at every whole-pixel place:
/// γ = Σ(T−T̄)(I−Ī)/√(Σ(T−T̄)²·Σ(I−Ī)²). A place without contrast scores 0.
struct Scores {
    columns: usize,
    rows: usize,
    values: Vec<f64>,
}

impl Scores {
    /// All places at which the template lies within the picture. The sums are whole numbers, so they are exact.
    fn of(picture: &Plane, template: &Plane) -> Self {
        let (side, n) = (template.width, template.data.len() as f64);
        let (columns, rows) = (picture.width + 1 - side, picture.height + 1 - template.height);
        let (mut sum_t, mut square_t) = (0i64, 0i64);
        for v in &template.data {
            sum_t += i64::from(*v);
            square_t += i64::from(*v) * i64::from(*v);
        }
        let spread_t = square_t as f64 - (sum_t as f64).powi(2) / n;
        let sums = Sums::of(&picture.data, picture.width);
        let mut values = Vec::with_capacity(columns * rows);
        for row in 0..rows {
            for column in 0..columns {
                let mut product = 0i64;
                for (y, line) in template.data.chunks_exact(side).enumerate() {
                    product += i64::from(dot(line, &picture.data[(row + y) * picture.width + column..][..side]));
                }
                let (sum, square) = sums.window(column, row, side);
                let spread = square as f64 - (sum as f64).powi(2) / n;
                let together = product as f64 - sum_t as f64 * sum as f64 / n;
                let scale = (spread_t * spread).sqrt();
                values.push(if scale > 1e-6 { together / scale } else { 0.0 });
            }
        }
        Self { columns, rows, values }
    }

    fn score(&self, column: usize, row: usize) -> f64 {
        self.values[row * self.columns + column]
    }

    /// Column, row and height of the summit.
    fn best(&self) -> (usize, usize, f64) {
        let start = (0, f64::NEG_INFINITY);
        let (i, score) = self.values.iter().enumerate().fold(start, |b, (i, v)| if *v > b.1 { (i, *v) } else { b });
        (i % self.columns, i / self.columns, score)
    }

    /// Vertex of the parabola through a score and its two neighbours along an axis, in px from the middle one.
    fn vertex(&self, column: usize, row: usize, axis: usize) -> f64 {
        let (i, most) = if axis == 0 { (column, self.columns) } else { (row, self.rows) };
        if i == 0 || i + 1 >= most {
            return 0.0;
        }
        let at = |i: usize| if axis == 0 { self.score(i, row) } else { self.score(column, i) };
        let (a, b, c) = (at(i - 1), at(i), at(i + 1));
        let bend = a - 2.0 * b + c;
        if bend >= 0.0 { 0.0 } else { (0.5 * (a - c) / bend).clamp(-0.5, 0.5) }
    }

    /// Whether a second summit, farther than `apart` px from the best, is nearly as high.
    fn rival(&self, apart: f64) -> bool {
        let (best_column, best_row, best) = self.best();
        let enough = (best - RIVAL).max(POOR);
        (0..self.values.len()).any(|i| {
            let (column, row) = (i % self.columns, i / self.columns);
            let far = (column as f64 - best_column as f64).hypot(row as f64 - best_row as f64) > apart;
            if !far || self.values[i] < enough {
                return false;
            }
            let mut neighbours = (row.saturating_sub(1)..(row + 2).min(self.rows))
                .flat_map(|r| (column.saturating_sub(1)..(column + 2).min(self.columns)).map(move |c| (c, r)));
            neighbours.all(|(c, r)| self.score(c, r) <= self.values[i])
        })
    }
}

/// Smallest template that is first looked for at half size, in px.
const HALVED: usize = 16;
/// Places around the best one at half size that are then looked at in full, in each direction.
const AROUND: usize = 3;

/// The best place of the template in a region: column, row and score, the scores around it, and whether it has a rival
/// farther than `apart` px away. Large templates are first looked for at half size.
fn search(region: &Plane, template: &Plane, apart: f64) -> (usize, usize, f64, Scores, (usize, usize), bool) {
    let side = template.width;
    if side < HALVED {
        let scores = Scores::of(region, template);
        let (column, row, score) = scores.best();
        let rival = scores.rival(apart);
        return (column, row, score, scores, (0, 0), rival);
    }
    let coarse = Scores::of(&region.halved(), &template.halved());
    let (column, row, _) = coarse.best();
    let span = |middle: usize, most: usize| {
        let low = (2 * middle).saturating_sub(AROUND).min(most);
        (low, (2 * middle + AROUND + 1).min(most))
    };
    let (left, right) = span(column, region.width - side);
    let (top, bottom) = span(row, region.height - side);
    let part = region.part((left, top), (right - left + side, bottom - top + side));
    let fine = Scores::of(&part, template);
    let (column, row, score) = fine.best();
    let rival = coarse.rival(apart / 2.0);
    (column, row, score, fine, (left, top), rival)
}

/// The best place within `radius` of `around`; `None` when the region is off the picture.
fn best_near(frame: &Grey, template: &Plane, around: [f64; 2], radius: f64, apart: f64) -> Option<Peak> {
    let side = template.width;
    let half = (side / 2) as f64;
    let end = |middle: f64, most: usize| {
        let last = most.checked_sub(side)? as f64;
        let (low, high) = (middle - 0.5 - half - radius, middle - 0.5 - half + radius);
        (high >= 0.0 && low <= last).then(|| (low.max(0.0).round() as usize, high.min(last).round() as usize))
    };
    let ((left, right), (top, bottom)) = (end(around[0], frame.width)?, end(around[1], frame.height)?);
    let region = Plane::cut(frame, (left, top), (right - left + side, bottom - top + side));
    let (column, row, score, scores, (dx, dy), rival) = search(&region, template, apart);
    let at = [
        (left + dx + column) as f64 + half + 0.5 + scores.vertex(column, row, 0),
        (top + dy + row) as f64 + half + 0.5 + scores.vertex(column, row, 1),
    ];
    Some(Peak { at, score, rival })
}

/// Σaᵢbᵢ.
#[inline(never)]
fn dot(a: &[i16], b: &[i16]) -> i32 {
    a.iter().zip(b).map(|(a, b)| i32::from(*a) * i32::from(*b)).sum()
}

/// Sums of brightness and of its square over any window, from running sums.
struct Sums {
    stride: usize,
    plain: Vec<i64>,
    square: Vec<i64>,
}

impl Sums {
    fn of(region: &[i16], wide: usize) -> Self {
        let stride = wide + 1;
        let rows = region.len() / wide;
        let (mut plain, mut square) = (vec![0; stride * (rows + 1)], vec![0; stride * (rows + 1)]);
        for (y, line) in region.chunks_exact(wide).enumerate() {
            let (mut run, mut run_square) = (0i64, 0i64);
            for (x, v) in line.iter().enumerate() {
                run += i64::from(*v);
                run_square += i64::from(*v) * i64::from(*v);
                plain[(y + 1) * stride + x + 1] = plain[y * stride + x + 1] + run;
                square[(y + 1) * stride + x + 1] = square[y * stride + x + 1] + run_square;
            }
        }
        Self { stride, plain, square }
    }

    fn window(&self, x: usize, y: usize, side: usize) -> (i64, i64) {
        let (a, b) = (y * self.stride + x, (y + side) * self.stride + x);
        let over = |s: &[i64]| s[b + side] - s[b] - s[a + side] + s[a];
        (over(&self.plain), over(&self.square))
    }
}

/// The highest correlation of a template with a picture, at whole-pixel places whose upper left corner is in a region of
/// `places` from `corner` on. Gives that corner and the score; for comparison with other programs.
pub fn match_template(
    frame: &Grey,
    template: &Grey,
    corner: (usize, usize),
    places: (usize, usize),
) -> Option<((usize, usize), f64)> {
    let side = template.width;
    let fits = template.height == side
        && corner.0 + places.0 + side <= frame.width + 1
        && corner.1 + places.1 + side <= frame.height + 1
        && places.0 > 0
        && places.1 > 0;
    if !fits {
        return None;
    }
    let region = Plane::cut(frame, corner, (places.0 + side - 1, places.1 + side - 1));
    let (column, row, score, _, (dx, dy), _) = search(&region, &Plane::square(&template.data, side), f64::INFINITY);
    Some(((corner.0 + dx + column, corner.1 + dy + row), score))
}
