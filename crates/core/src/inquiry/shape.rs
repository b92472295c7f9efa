//! A sketch beside what was measured: do they start, rise, fall, rest and bend in the same places?
//!
//! The measured curve is parted where it turns, kinks or jumps; over each of these stretches both curves are described by their
//! sign, the sign of their slope and by whether they grow steeper, each on its own scale, and stretches are put in order of
//! steepness. Amounts are never compared: a sketch is about the shape.

/// Places at which both curves are looked at.
const PLACES: usize = 240;
/// Places over which a slope is taken.
const REACH: usize = 6;
/// Share of a curve's mean steepness (its range over its time) below which it counts as flat.
const FLAT: f64 = 0.12;
/// Share of the largest slope by which the slope must jump to be a kink.
const KINK: f64 = 0.3;
/// Share of the steeper side by which the slope must jump where a part comes to rest or sets off.
const HALTS: f64 = 0.6;
/// Share of its rise by which a stretch's mean is off its chord's middle when it bends; 1/6 for a parabola from its vertex.
pub(super) const BENT: f64 = 0.04;
/// How much steeper a stretch must be to be called so.
const STEEPER: f64 = 1.3;
/// Share of a stretch at either end that is not looked at.
const TRIM: f64 = 0.14;
/// Stretches shorter than this share of the time are not spoken of.
const SHORT: f64 = 0.05;

/// Share of its range by which a hand that draws a straight line is off it.
const TREMBLE: f64 = 0.06;
/// Share of the axis that a curve at least is taken to range over, so that a level one stays level.
const LEVEL: f64 = 0.2;

/// One thing in which sketch and measurement agree or differ.
#[derive(Clone, Debug, PartialEq)]
pub enum Remark {
    /// They share hardly any time.
    Apart,
    /// Where they start.
    Start {
        /// The measured curve.
        measured: Side,
        /// The sketch.
        sketched: Side,
    },
    /// How they run over a part.
    Run {
        /// The part.
        over: Span,
        /// The measured curve.
        measured: Manner,
        /// The sketch.
        sketched: Manner,
    },
    /// On which side of zero they lie all over a part; told where they differ.
    Lies {
        /// The part.
        over: Span,
        /// The measured curve.
        measured: Side,
        /// The sketch.
        sketched: Side,
    },
    /// Which of two parts is the steeper one of the measured curve.
    Steeper {
        /// The steeper part.
        over: Span,
        /// The other.
        than: Span,
        /// Whether it is so in the sketch.
        sketched: bool,
    },
}

impl Remark {
    /// Whether the two agree in this.
    pub fn agrees(&self) -> bool {
        match self {
            Self::Apart => false,
            Self::Start { measured, sketched } | Self::Lies { measured, sketched, .. } => measured == sketched,
            Self::Run { measured, sketched, .. } => measured == sketched,
            Self::Steeper { sketched, .. } => *sketched,
        }
    }
}

/// A part of a curve, from one time to another in s.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Span {
    /// Where it begins.
    pub from: f64,
    /// Where it ends.
    pub to: f64,
}

/// Which way a curve goes.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Way {
    /// Up.
    Rises,
    /// Down.
    Falls,
    /// Neither.
    Flat,
}

/// How its steepness changes.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Steepness {
    /// Not at all.
    Even,
    /// It grows.
    Grows,
    /// It shrinks.
    Shrinks,
}

/// Which way a curve goes, and how its steepness changes; of a flat one not at all.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Manner {
    /// Which way.
    pub way: Way,
    /// How its steepness changes.
    pub steepness: Steepness,
}

/// Where a curve lies.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Side {
    /// Above zero.
    Above,
    /// At zero.
    At,
    /// Below zero.
    Below,
}

/// Compares a sketch with a measured curve. Both are (t, value), ascending in t and in the same units; `axis` is the height of the
/// axes. Gives nothing for fewer than two points.
pub fn compare(sketch: &[[f64; 2]], measured: &[[f64; 2]], axis: f64) -> Vec<Remark> {
    let (Some(first), Some(last)) = (measured.first(), measured.last()) else { return Vec::new() };
    let (Some(drawn), Some(drawn_to)) = (sketch.first(), sketch.last()) else { return Vec::new() };
    let (from, to) = (first[0].max(drawn[0]), last[0].min(drawn_to[0]));
    let long = last[0] - first[0];
    if long <= 0.0 || to - from < 0.1 * long {
        return vec![Remark::Apart];
    }
    let a = Curve::new(measured, from, to, axis);
    let b = Curve::new(sketch, from, to, axis);
    let mut remarks = vec![Remark::Start { measured: a.side_at(0), sketched: b.side_at(0) }];
    let told = a.told();
    // A hand turns a little early or late, and a cut may be off by a place: the ends of a stretch are left out.
    let inner = |(i, j): (usize, usize)| {
        let trim = ((j - i) as f64 * TRIM) as usize;
        (i + trim, j - trim)
    };
    for &(i, j) in &told {
        let (from, to) = inner((i, j));
        let over = a.span(i, j);
        remarks.push(Remark::Run { over, measured: a.manner(from, to), sketched: b.manner(from, to) });
        // Above, at or below zero all the way: for a velocity that is forwards, at rest or back.
        if let (Some(measured), Some(sketched)) = (a.side(from, to), b.side(from, to))
            && measured != sketched
        {
            remarks.push(Remark::Lies { over, measured, sketched });
        }
    }
    for pair in told.windows(2) {
        let [p, q] = [pair[0], pair[1]];
        // Away from the cuts in both, or a place that belongs to the neighbour tips the scale.
        let [m1, m2, s1, s2] = [(&a, p), (&a, q), (&b, p), (&b, q)].map(|(c, part)| c.slope(inner(part)).abs());
        let order = |x: f64, y: f64, flat: f64| {
            if x < flat && y < flat || x.max(y) < STEEPER * x.min(y) {
                0
            } else if x > y {
                1
            } else {
                -1
            }
        };
        let (measured, sketched) = (order(m1, m2, a.flat()), order(s1, s2, b.flat()));
        if measured == 0 || m1 < a.flat() || m2 < a.flat() {
            continue;
        }
        let (steep, other) = if measured == 1 { (p, q) } else { (q, p) };
        let (over, than) = (a.span(steep.0, steep.1), a.span(other.0, other.1));
        remarks.push(Remark::Steeper { over, than, sketched: measured == sketched });
    }
    remarks
}

/// The shape of a sketch, one way after the other: flat, then falling. Sketches of the same shape have the same ways, whatever their heights
/// and times. `axis` is the height of the axes. Gives nothing for fewer than two points.
pub fn outline(sketch: &[[f64; 2]], axis: f64) -> Option<Vec<Way>> {
    let (first, last) = (sketch.first()?, sketch.last()?);
    if last[0] <= first[0] {
        return None;
    }
    let (low, high) = sketch.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), p| (a.min(p[1]), b.max(p[1])));
    let (long, range) = (last[0] - first[0], (high - low).max(LEVEL * axis));
    let mut ways: Vec<Way> = Vec::new();
    for corner in corners(sketch, TREMBLE * range).windows(2) {
        let (dt, dv) = (corner[1][0] - corner[0][0], corner[1][1] - corner[0][1]);
        // A corner is drawn round, and takes a moment.
        if dt < SHORT * long && dv.abs() < 2.0 * TREMBLE * range {
            continue;
        }
        let way = if dv.abs() < FLAT * range * dt / long || dv.abs() < TREMBLE * range {
            Way::Flat
        } else if dv > 0.0 {
            Way::Rises
        } else {
            Way::Falls
        };
        if ways.last() != Some(&way) {
            ways.push(way);
        }
    }
    (!ways.is_empty()).then_some(ways)
}

/// The corners of a curve: its ends, and those of its points between which it stays within `off` of straight lines (D. H. Douglas and
/// T. K. Peucker, Cartographica 10, 112 (1973), with distances taken upright).
fn corners(points: &[[f64; 2]], off: f64) -> Vec<[f64; 2]> {
    let mut kept = vec![false; points.len()];
    let mut open = vec![(0, points.len() - 1)];
    while let Some((i, j)) = open.pop() {
        (kept[i], kept[j]) = (true, true);
        let (p, q) = (points[i], points[j]);
        let line = |t: f64| if q[0] > p[0] { p[1] + (q[1] - p[1]) * (t - p[0]) / (q[0] - p[0]) } else { p[1] };
        let away = |k: &usize| (points[*k][1] - line(points[*k][0])).abs();
        let farthest = (i + 1..j).max_by(|a, b| away(a).total_cmp(&away(b)));
        if let Some(k) = farthest.filter(|k| away(k) > off) {
            open.extend([(i, k), (k, j)]);
        }
    }
    points.iter().zip(kept).filter(|(_, kept)| *kept).map(|(p, _)| *p).collect()
}

/// A curve at [`PLACES`] + 1 places.
struct Curve {
    from: f64,
    step: f64,
    values: Vec<f64>,
    /// Its range, or a tenth of the axis if that is more.
    range: f64,
}

impl Curve {
    fn new(points: &[[f64; 2]], from: f64, to: f64, axis: f64) -> Self {
        let step = (to - from) / PLACES as f64;
        let at = |t: f64| {
            let k = points.partition_point(|p| p[0] <= t).clamp(1, points.len().max(2) - 1);
            let (p, q) = (points[k - 1], points[k.min(points.len() - 1)]);
            if q[0] <= p[0] { q[1] } else { p[1] + (q[1] - p[1]) * ((t - p[0]) / (q[0] - p[0])).clamp(0.0, 1.0) }
        };
        let values: Vec<f64> = (0..=PLACES).map(|i| at(from + step * i as f64)).collect();
        let fold = |f: fn(f64, f64) -> f64, start| values.iter().copied().fold(start, f);
        let range = (fold(f64::max, f64::NEG_INFINITY) - fold(f64::min, f64::INFINITY)).max(0.1 * axis);
        Self { from, step, values, range }
    }

    /// Steepness below which it counts as flat.
    fn flat(&self) -> f64 {
        FLAT * self.range / (self.step * PLACES as f64)
    }

    fn slope(&self, (i, j): (usize, usize)) -> f64 {
        (self.values[j] - self.values[i]) / (self.step * (j - i) as f64)
    }

    fn way(&self, slope: f64) -> Way {
        if slope.abs() < self.flat() {
            Way::Flat
        } else if slope > 0.0 {
            Way::Rises
        } else {
            Way::Falls
        }
    }

    /// Parts between turns and kinks, as places.
    fn stretches(&self) -> Vec<(usize, usize)> {
        let slope = |i: usize, j: usize| self.slope((i, j));
        let jump = |i: usize| (slope(i, i + REACH) - slope(i - REACH, i)).abs();
        let steepest = (0..PLACES - REACH).map(|i| slope(i, i + REACH).abs()).fold(self.flat(), f64::max);
        let mut cuts = vec![0];
        for i in REACH..=PLACES - REACH {
            let around =
                (i.saturating_sub(REACH).max(REACH)..=(i + REACH).min(PLACES - REACH)).map(jump).fold(0.0, f64::max);
            let (left, right) = (slope(i - REACH, i), slope(i, i + REACH));
            // A rest between two gentle parts counts, however steep the curve is elsewhere.
            let rests = jump(i) > 2.0 * self.flat() && jump(i) > HALTS * left.abs().max(right.abs());
            let kinks = (jump(i) > KINK * steepest || rests) && jump(i) >= around;
            let turns = left * right < 0.0
                && (self.values[i] - self.values[i - 1]) * (self.values[i + 1] - self.values[i]) <= 0.0;
            if (kinks || turns) && i - cuts[cuts.len() - 1] >= REACH {
                cuts.push(i);
            }
        }
        cuts.push(PLACES);
        cuts.windows(2).map(|w| (w[0], w[1])).collect()
    }

    /// The stretches that are spoken of. A jump, which takes hardly any time, parts those beside it at its own place.
    fn told(&self) -> Vec<(usize, usize)> {
        let stretches = self.stretches();
        let long = |(i, j): (usize, usize)| (j - i) as f64 >= SHORT * PLACES as f64;
        let mut told: Vec<(usize, usize)> = Vec::new();
        let mut jump = None;
        for (i, j) in stretches {
            if long((i, j)) {
                told.push((jump.take().unwrap_or(i), j));
                continue;
            }
            let steep = |k: &usize| (self.values[k + 1] - self.values[*k]).abs();
            let (from, to) = (i.saturating_sub(REACH), (j + REACH).min(PLACES));
            if let Some(at) = (from..to).max_by(|p, q| steep(p).total_cmp(&steep(q))) {
                if let Some(before) = told.last_mut().filter(|b| b.0 < at) {
                    before.1 = at;
                }
                jump = Some(at + 1);
            }
        }
        told
    }

    /// Where it lies at a place.
    fn side_at(&self, i: usize) -> Side {
        let small = 0.06 * self.range;
        match self.values[i] {
            v if v > small => Side::Above,
            v if v < -small => Side::Below,
            _ => Side::At,
        }
    }

    /// Where it lies between two places, if all the way on the same side.
    fn side(&self, i: usize, j: usize) -> Option<Side> {
        let first = self.side_at(i);
        (i..=j).all(|k| self.side_at(k) == first).then_some(first)
    }

    /// Which way it goes between two places, and how it bends.
    fn manner(&self, i: usize, j: usize) -> Manner {
        let way = self.way(self.slope((i, j)));
        if way == Way::Flat {
            return Manner { way, steepness: Steepness::Even };
        }
        let rise = self.values[j] - self.values[i];
        let mean = self.values[i..=j].iter().sum::<f64>() / (j - i + 1) as f64;
        // Below the chord on the way up, above it on the way down: ever steeper.
        let off = (mean - 0.5 * (self.values[i] + self.values[j])) / rise;
        let steepness = if off < -BENT {
            Steepness::Grows
        } else if off > BENT {
            Steepness::Shrinks
        } else {
            Steepness::Even
        };
        Manner { way, steepness }
    }

    fn span(&self, i: usize, j: usize) -> Span {
        let time = |i: usize| self.from + self.step * i as f64;
        Span { from: time(i), to: time(j) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const LEVEL_ON: Manner = Manner { way: Way::Flat, steepness: Steepness::Even };
    const EVENLY_UP: Manner = Manner { way: Way::Rises, steepness: Steepness::Even };
    const EVENLY_DOWN: Manner = Manner { way: Way::Falls, steepness: Steepness::Even };

    /// As it is told, to a tenth of a second.
    fn near(span: Span, [from, to]: [f64; 2]) -> bool {
        (span.from - from).abs() < 0.05 && (span.to - to).abs() < 0.05
    }

    /// How the measured curve runs, part after part.
    fn ways(remarks: &[Remark]) -> Vec<Manner> {
        let one = |r: &Remark| match r {
            Remark::Run { measured, .. } => Some(*measured),
            Remark::Apart | Remark::Start { .. } | Remark::Lies { .. } | Remark::Steeper { .. } => None,
        };
        remarks.iter().filter_map(one).collect()
    }

    fn curve(of: impl Fn(f64) -> f64, to: f64) -> Vec<[f64; 2]> {
        (0..=300).map(|i| f64::from(i) / 300.0 * to).map(|t| [t, of(t)]).collect()
    }

    /// Three stretches: 0.5 m/s for 4 s, rest for 2 s, back at 1.5 m/s for 2 s.
    fn story(t: f64) -> f64 {
        if t < 4.0 {
            0.5 * t
        } else if t < 6.0 {
            2.0
        } else {
            2.0 - 1.5 * (t - 6.0)
        }
    }

    #[test]
    fn a_sketch_that_has_the_shape_agrees_whatever_its_size() {
        // Drawn twice as high, with a wiggle of the hand.
        let sketch = curve(|t| 2.0 * story(t) + 0.03 * (9.0 * t).sin(), 8.0);
        let remarks = compare(&sketch, &curve(story, 8.0), 6.0);
        assert!(remarks.iter().all(Remark::agrees), "{remarks:#?}");
        assert_eq!(remarks.len(), 1 + 3, "start and three stretches: {remarks:#?}");
        assert_eq!(ways(&remarks[1..]), [EVENLY_UP, LEVEL_ON, EVENLY_DOWN]);
        assert!(matches!(remarks[2], Remark::Run { over, .. } if near(over, [4.0, 6.0])), "{:?}", remarks[2]);
    }

    #[test]
    fn a_hand_that_turns_a_little_early_still_agrees() {
        let early = curve(
            |t| {
                if t < 3.8 {
                    0.5 * t
                } else if t < 5.8 {
                    1.9
                } else {
                    1.9 - 1.4 * (t - 5.8)
                }
            },
            8.0,
        );
        let remarks = compare(&early, &curve(story, 8.0), 6.0);
        assert!(remarks.iter().all(Remark::agrees), "{remarks:#?}");
    }

    /// The velocity of the story: forwards, at rest, back three times as fast.
    #[test]
    fn a_level_on_the_wrong_side_is_told_and_jumps_part_where_they_are() {
        let velocity = curve(
            |t| {
                if t < 4.0 {
                    0.5
                } else if t < 6.0 {
                    0.0
                } else {
                    -1.5
                }
            },
            8.0,
        );
        let remarks = compare(&velocity, &velocity, 4.0);
        assert!(remarks.iter().all(Remark::agrees), "{remarks:#?}");
        assert!(matches!(remarks[2], Remark::Run { over, measured: LEVEL_ON, .. } if near(over, [4.0, 6.0])));
        let on = curve(|t| if t < 6.0 { 0.5 } else { 1.5 }, 8.0);
        let wrong: Vec<Remark> = compare(&on, &velocity, 4.0).into_iter().filter(|r| !r.agrees()).collect();
        let told = wrong.iter().map(|r| {
            let Remark::Lies { over, measured, sketched } = r else { panic!("{r:?}") };
            (near(*over, [4.0, 6.0]), *measured, *sketched)
        });
        let told: Vec<_> = told.collect();
        assert_eq!(told, [(true, Side::At, Side::Above), (false, Side::Below, Side::Above)]);
    }

    #[test]
    fn where_the_shapes_differ_it_is_said() {
        // Went on instead of resting.
        let sketch = curve(|t| if t < 6.0 { 0.5 * t } else { 3.0 - 1.5 * (t - 6.0) }, 8.0);
        let wrong: Vec<_> = compare(&sketch, &curve(story, 8.0), 6.0).into_iter().filter(|r| !r.agrees()).collect();
        assert_eq!(wrong.len(), 1, "{wrong:#?}");
        assert!(matches!(wrong[0], Remark::Run { measured: LEVEL_ON, sketched: EVENLY_UP, .. }));
        // A straight line for a uniformly accelerated motion.
        let fall = curve(|t| 0.5 * t * t, 4.0);
        let remarks = compare(&curve(|t| 2.0 * t, 4.0), &fall, 10.0);
        let steeper = Manner { way: Way::Rises, steepness: Steepness::Grows };
        let told = |r: &Remark| matches!(r, Remark::Run { measured, sketched: EVENLY_UP, .. } if *measured == steeper);
        assert!(remarks.iter().any(told), "{remarks:#?}");
        assert!(compare(&curve(|t| 0.3 * t * t, 4.0), &fall, 10.0).iter().all(Remark::agrees));
        // Up and down again is told from up alone.
        let throw = curve(|t| 5.0 * t - 2.5 * t * t, 2.0);
        let remarks = compare(&curve(|t| 2.0 * t, 2.0), &throw, 4.0);
        let flatter = Manner { way: Way::Rises, steepness: Steepness::Shrinks };
        assert_eq!(ways(&remarks[1..3]), [flatter, Manner { way: Way::Falls, steepness: Steepness::Grows }]);
        // Steepness in order: slow then fast, sketched fast then slow.
        let two = |a: f64, b: f64| curve(move |t| if t < 3.0 { a * t } else { 3.0 * a + b * (t - 3.0) }, 6.0);
        let remarks = compare(&two(1.5, 0.5), &two(0.5, 1.5), 6.0);
        let told = |r: &Remark| matches!(r, Remark::Steeper { over, sketched: false, .. } if near(*over, [3.0, 6.0]));
        assert!(remarks.iter().any(told), "{remarks:#?}");
        // A level curve: a sketch that starts on the other side.
        let remarks = compare(&curve(|_| -1.0, 5.0), &curve(|_| 0.5, 5.0), 4.0);
        assert_eq!(remarks[0], Remark::Start { measured: Side::Above, sketched: Side::Below });
        assert!(remarks[1].agrees());
        assert!(compare(&[], &fall, 1.0).is_empty());
        assert!(!compare(&[[5.0, 0.0], [6.0, 1.0]], &fall, 1.0)[0].agrees());
    }

    /// Shapes drawn by an unsteady hand, at any height and speed, are told as what they are.
    #[test]
    fn the_outline_of_a_sketch_does_not_depend_on_who_drew_it() {
        use rand::{RngExt, SeedableRng};
        let mut rng = rand::rngs::StdRng::seed_from_u64(8);
        use Way::{Falls, Flat, Rises};
        let shapes: [(Vec<Way>, &[[f64; 2]]); 8] = [
            (vec![Flat], &[[0.0, 0.4], [1.0, 0.4]]),
            (vec![Rises], &[[0.0, 0.1], [1.0, 0.9]]),
            (vec![Falls], &[[0.0, 0.9], [1.0, 0.1]]),
            (vec![Flat, Falls], &[[0.0, 0.8], [0.5, 0.8], [1.0, 0.1]]),
            (vec![Rises, Falls], &[[0.0, 0.1], [0.5, 0.9], [1.0, 0.1]]),
            (vec![Rises, Flat], &[[0.0, 0.1], [0.4, 0.8], [1.0, 0.8]]),
            (vec![Falls, Flat, Rises], &[[0.0, 0.9], [0.33, 0.2], [0.67, 0.2], [1.0, 0.9]]),
            (vec![Rises, Flat, Falls], &[[0.0, 0.1], [0.3, 0.8], [0.7, 0.8], [1.0, 0.1]]),
        ];
        let mut wrong = 0;
        for (ways, corners) in shapes {
            for _ in 0..100 {
                let (long, low, high) =
                    (rng.random_range(0.5..60.0), rng.random_range(-5.0..0.0), rng.random_range(1.0..50.0));
                let shake = 0.004;
                let points: Vec<[f64; 2]> = (0..=120)
                    .map(|k| {
                        let t = f64::from(k) / 120.0;
                        let n = corners.partition_point(|p| p[0] <= t).clamp(1, corners.len() - 1);
                        let (p, q) = (corners[n - 1], corners[n]);
                        let v = p[1] + (q[1] - p[1]) * (t - p[0]) / (q[0] - p[0]) + shake * rng.random_range(-1.0..1.0);
                        [t * long, low + (high - low) * v]
                    })
                    .collect();
                wrong += u32::from(outline(&points, high - low).as_ref() != Some(&ways));
            }
        }
        assert!(wrong <= 16, "{wrong} of 800");
        assert_eq!(outline(&[], 1.0), None);
        assert_eq!(outline(&[[1.0, 2.0]], 1.0), None);
    }
}
