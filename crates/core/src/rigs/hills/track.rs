//! The track: a smooth curve through its nodes, with loops put in between.

use crate::rigs::Node;
use crate::rigs::contract::ending::{Ending, coarse};

/// Pieces of the track's table between two nodes.
const PIECES: usize = 96;
/// Pieces of a loop.
const ROUND: usize = 240;
/// Two nodes nearer than this are one, in m.
const APART: f64 = 1e-3;
/// A way is found to so many m.
const EXACT: f64 = 1e-15;
/// Where a way is found from a polynomial, it is off by this at most, in m.
const ROUNDING: f64 = 1e-13;
/// Smallest radius with which a track may bend, in m.
const TIGHTEST: f64 = 0.02;

/// A track from its first node to its last. Ways along it are in m, angles in rad.
#[derive(Clone, Debug)]
pub(super) struct Track {
    /// Places in order, each with the way to it, the direction and the curvature there (1/m, positive where it bends to the left).
    points: Vec<Point>,
    /// How fast the way grows with the parameter of the piece that leads to each of them. At a joint both pieces have the same rate.
    rates: Vec<f64>,
    /// The parameter over the way in the piece that leads to each of them, as a polynomial that is exact enough; none where it is not, and for loops.
    inverses: Vec<Option<[f64; 6]>>,
    /// The part that leads to each of them.
    owners: Vec<usize>,
    /// Pieces that are exactly round, and pieces of the curve through the nodes.
    parts: Vec<Part>,
}

/// A place of the track.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Point {
    /// The way to it from the start.
    pub s: f64,
    /// Where it is.
    pub at: [f64; 2],
    /// The direction in which the track goes on, as a unit vector.
    pub tangent: [f64; 2],
    /// How it bends.
    pub bend: f64,
}

impl Point {
    /// The direction as an angle from level, in rad.
    pub fn angle(&self) -> f64 {
        self.tangent[1].atan2(self.tangent[0])
    }
}

/// The track as it goes before a joint, by the formula that holds there.
pub(super) struct Before<'a> {
    track: &'a Track,
    joint: f64,
    way: f64,
    /// The last place before the joint.
    last: Point,
    /// The first and the last place of the table that belong to it; the same one twice for a loop.
    table: [usize; 2],
}

impl Before<'_> {
    /// Where it goes after a way. Beyond the joint it goes on as it bends there, so that no step of an integrator meets two formulas.
    pub fn at(&self, s: f64) -> Point {
        if self.way * (s - self.joint) < 0.0 {
            return self.on_it(s).map_or_else(|| self.track.at(s), |k| self.track.within(k, s));
        }
        let p = self.last;
        let by = s - p.s;
        // Half the turn, and from it the whole.
        let (sin, cos) = (0.5 * by * p.bend).sin_cos();
        let turned = |[x, y]: [f64; 2]| [x * cos - y * sin, x * sin + y * cos];
        let middle = turned(p.tangent);
        Point { s, at: [p.at[0] + by * middle[0], p.at[1] + by * middle[1]], tangent: turned(middle), bend: p.bend }
    }

    /// The first place of the table beyond a way, where it belongs to this stretch: ways lie about evenly in it, so the guess is off by few.
    fn on_it(&self, s: f64) -> Option<usize> {
        let points = &self.track.points;
        let [first, last] = self.table;
        if first == last || s < points[first].s || s >= points[last].s {
            return None;
        }
        let share = (s - points[first].s) / (points[last].s - points[first].s);
        let mut k = first + 1 + (share * (last - first - 1) as f64) as usize;
        while points[k].s <= s {
            k += 1;
        }
        while points[k - 1].s > s {
            k -= 1;
        }
        Some(k)
    }
}

/// A part of the track with one formula.
#[derive(Clone, Copy, Debug)]
enum Part {
    /// A cubic x(u), y(u) for u from 0 to `to`: coefficients from the constant on. `table` are the first and the last of its points.
    Cubic { x: [f64; 4], y: [f64; 4], to: f64, table: [usize; 2] },
    /// A full turn to the left from a lowest place, in a direction along the ground: 1 to the right, −1 to the left.
    Ring { s: f64, foot: [f64; 2], radius: f64 },
}

impl Track {
    /// The curve through the nodes: a cubic spline in the length of the chords, whose second derivative does not jump and is zero at both ends
    /// (C. de Boor, *A Practical Guide to Splines*, IV). A node with a loop is level, and the curve begins anew behind it.
    ///
    /// # Errors
    /// [`Ending`], by what to change.
    pub fn new(nodes: &[Node]) -> Result<Self, Ending> {
        for (i, pair) in nodes.windows(2).enumerate() {
            let [dx, dy] = [pair[1].at[0] - pair[0].at[0], pair[1].at[1] - pair[0].at[1]];
            if dx.hypot(dy) < APART {
                return Err(Ending::NodesTogether { first: i + 1 });
            }
        }
        if nodes.len() < 2 {
            return Err(Ending::TwoNodesWanted);
        }
        let mut track =
            Self { points: Vec::new(), rates: Vec::new(), inverses: Vec::new(), owners: Vec::new(), parts: Vec::new() };
        let mut from = 0;
        for (i, node) in nodes.iter().enumerate() {
            let Some(radius) = node.ring else { continue };
            if i == nodes.len() - 1 {
                return Err(Ending::NoNodeBehindLoop);
            }
            track.spline(&nodes[from..=i], [from > 0, true]);
            track.ring(node.at, radius);
            from = i;
        }
        track.spline(&nodes[from..], [from > 0, false]);
        if let Some(tight) = track.points.iter().find(|p| p.bend.abs() > 1.0 / TIGHTEST) {
            return Err(Ending::BendsSharply { x: coarse(tight.at[0], 0.01) });
        }
        if let Some([x, y]) = track.crossing() {
            return Err(Ending::CrossesItself { x: coarse(x, 0.01), y: coarse(y, 0.01) });
        }
        Ok(track)
    }

    /// The spline through nodes, level at an end that is marked so.
    fn spline(&mut self, nodes: &[Node], level: [bool; 2]) {
        if nodes.len() < 2 {
            // A loop behind the first node begins at once.
            if self.points.is_empty() {
                self.points.push(Point { s: 0.0, at: nodes[0].at, tangent: [1.0, 0.0], bend: 0.0 });
                self.rates.push(1.0);
            }
            return;
        }
        let n = nodes.len() - 1;
        let h: Vec<f64> = nodes.windows(2).map(|w| (w[1].at[0] - w[0].at[0]).hypot(w[1].at[1] - w[0].at[1])).collect();
        let [x, y] = [0, 1].map(|k| {
            let values: Vec<f64> = nodes.iter().map(|node| node.at[k]).collect();
            // Along the ground with the speed of the parameter, one; or free of bending.
            let slope = |end: bool| end.then_some(if k == 0 { 1.0 } else { 0.0 });
            second_derivatives(&values, &h, [slope(level[0]), slope(level[1])])
        });
        for i in 0..n {
            let cubic = |k: usize, m: &[f64]| {
                let (a, b) = (nodes[i].at[k], nodes[i + 1].at[k]);
                let slope = (b - a) / h[i] - h[i] * (2.0 * m[i] + m[i + 1]) / 6.0;
                [a, slope, m[i] / 2.0, (m[i + 1] - m[i]) / (6.0 * h[i])]
            };
            self.cubic(cubic(0, &x), cubic(1, &y), h[i]);
        }
    }

    /// A piece of a spline, with its table of ways.
    fn cubic(&mut self, x: [f64; 4], y: [f64; 4], to: f64) {
        let first = self.points.len().saturating_sub(1);
        let step = to / PIECES as f64;
        let mut s = self.points.last().map_or(0.0, |p| p.s);
        if self.points.is_empty() {
            self.points.push(on_cubic(&x, &y, 0.0, 0.0));
            self.rates.push(rate(&x, &y, 0.0));
        }
        for k in 0..PIECES {
            let u = k as f64 * step;
            let long = way(&x, &y, u, u + step);
            s += long;
            self.points.push(on_cubic(&x, &y, u + step, s));
            self.rates.push(rate(&x, &y, u + step));
            self.inverses.resize(self.points.len() - 1, None);
            self.inverses.push(inverse(&x, &y, (u, step), long));
        }
        self.owners.resize(self.points.len(), self.parts.len());
        self.parts.push(Part::Cubic { x, y, to, table: [first, self.points.len() - 1] });
    }

    /// A loop from a level place.
    fn ring(&mut self, foot: [f64; 2], radius: f64) {
        let s = self.points.last().map_or(0.0, |p| p.s);
        let part = Part::Ring { s, foot, radius };
        for k in 1..=ROUND {
            let way = std::f64::consts::TAU * radius * k as f64 / ROUND as f64;
            self.points.push(on_ring(s, foot, radius, s + way));
        }
        // Splines are level at a loop with the speed of the parameter, one.
        self.rates.resize(self.points.len(), 1.0);
        self.inverses.resize(self.points.len(), None);
        self.owners.resize(self.points.len(), self.parts.len());
        self.parts.push(part);
    }

    /// Length of the track, in m.
    pub fn length(&self) -> f64 {
        self.points.last().map_or(0.0, |p| p.s)
    }

    /// All places of its table.
    pub fn points(&self) -> &[Point] {
        &self.points
    }

    /// The first place of the table that lies beyond a way: from a guess, as places lie about evenly within a part.
    fn after(&self, s: f64) -> usize {
        let n = self.points.len();
        let beyond = |k: usize| self.points[k].s > s;
        let mut k = (s / self.length() * n as f64).clamp(0.0, (n - 1) as f64) as usize;
        let mut stride = 1;
        // Twice as far each time, until it lies in between.
        let (low, high) = if beyond(k) {
            let mut low = k;
            while low > 0 && beyond(low) {
                k = low;
                low = low.saturating_sub(stride);
                stride *= 2;
            }
            (low, k)
        } else {
            let mut high = k;
            while high < n && !beyond(high) {
                k = high;
                high = (high + stride).min(n);
                stride *= 2;
            }
            (k, high)
        };
        low + self.points[low..high].partition_point(|p| p.s <= s)
    }

    /// Where it goes after a way; beyond its ends it goes straight on.
    pub fn at(&self, s: f64) -> Point {
        let k = self.after(s);
        if k == 0 || k == self.points.len() {
            let end = if k == 0 { self.points[0] } else { self.points[k - 1] };
            let [cos, sin] = end.tangent;
            let by = s - end.s;
            return Point { s, at: [end.at[0] + by * cos, end.at[1] + by * sin], bend: 0.0, ..end };
        }
        self.within(k, s)
    }

    /// Where it goes after a way that lies between a place of the table and the one before it.
    fn within(&self, k: usize, s: f64) -> Point {
        let (a, b) = (&self.points[k - 1], &self.points[k]);
        match self.parts[self.owners[k]] {
            Part::Ring { s: from, foot, radius } => on_ring(from, foot, radius, s),
            Part::Cubic { x, y, to, table: [first, _] } => {
                // The parameter by the cubic that fits it and its rate at both ends of the table's piece (Hermite), and Newton's method,
                // whose error is about the square of its last step times the bend.
                let step = to / PIECES as f64;
                let u0 = (k - 1 - first) as f64 * step;
                let long = b.s - a.s;
                let share = (s - a.s) / long;
                if let Some([c0, c1, c2, c3, c4, c5]) = self.inverses[k] {
                    let u = c0 + share * (c1 + share * (c2 + share * (c3 + share * (c4 + share * c5))));
                    return on_cubic(&x, &y, u, s);
                }
                let [m, n] = [long / self.rates[k - 1], long / self.rates[k]];
                let (s2, s3) = (share * share, share * share * share);
                let mut u = u0 + (3.0 * s2 - 2.0 * s3) * step + (s3 - 2.0 * s2 + share) * m + (s3 - s2) * n;
                for _ in 0..2 {
                    let off = a.s + way(&x, &y, u0, u) - s;
                    u -= off / rate(&x, &y, u);
                    if off * off * (a.bend.abs() + b.bend.abs() + 1.0) < EXACT {
                        break;
                    }
                }
                on_cubic(&x, &y, u, s)
            }
        }
    }

    /// Ways at which its formula changes, in order, with both ends: a step of the integrator across one would cost accuracy, since the third
    /// derivative jumps there, and where loops begin and end the second.
    pub fn joints(&self) -> Vec<f64> {
        let ends = self.parts.iter().map(|part| match *part {
            Part::Ring { s, radius, .. } => s + std::f64::consts::TAU * radius,
            Part::Cubic { table: [_, last], .. } => self.points[last].s,
        });
        std::iter::once(0.0).chain(ends).collect()
    }

    /// The stretch that lies before a joint for somebody who comes to it in a direction, 1 or −1.
    pub fn before(&self, joint: f64, way: f64) -> Before<'_> {
        let last = self.at(joint - way * 1e-9);
        let k = self.after(last.s).min(self.points.len() - 1);
        let table = match self.parts[self.owners[k]] {
            Part::Cubic { table, .. } => table,
            Part::Ring { .. } => [0, 0],
        };
        Before { track: self, joint, way, last, table }
    }

    /// Where the track crosses itself outside its loops.
    fn crossing(&self) -> Option<[f64; 2]> {
        let ring = |s: f64| {
            self.parts.iter().any(|p| match *p {
                Part::Ring { s: from, radius, .. } => {
                    s > from - 1e-9 && s < from + std::f64::consts::TAU * radius + 1e-9
                }
                Part::Cubic { .. } => false,
            })
        };
        // Every fourth place: a crossing takes more room than that.
        let thin: Vec<&Point> = self.points.iter().step_by(4).filter(|p| !ring(p.s)).collect();
        for i in 0..thin.len().saturating_sub(1) {
            for j in i + 2..thin.len() - 1 {
                let [a, b, c, d] = [thin[i], thin[i + 1], thin[j], thin[j + 1]];
                // Places on both sides of a loop are no neighbours.
                if b.s - a.s > 1.0 || d.s - c.s > 1.0 {
                    continue;
                }
                if let Some(at) = meet([a.at, b.at], [c.at, d.at]) {
                    return Some(at);
                }
            }
        }
        None
    }
}

/// Where two straight pieces cross.
pub(super) fn meet([a, b]: [[f64; 2]; 2], [c, d]: [[f64; 2]; 2]) -> Option<[f64; 2]> {
    // Most lie far from one another, and that is seen at once.
    let apart = |k: usize| a[k].max(b[k]) < c[k].min(d[k]) || c[k].max(d[k]) < a[k].min(b[k]);
    if apart(0) || apart(1) {
        return None;
    }
    let (r, s) = ([b[0] - a[0], b[1] - a[1]], [d[0] - c[0], d[1] - c[1]]);
    let across = r[0] * s[1] - r[1] * s[0];
    if across.abs() < 1e-15 {
        return None;
    }
    let (dx, dy) = (c[0] - a[0], c[1] - a[1]);
    let (t, u) = ((dx * s[1] - dy * s[0]) / across, (dx * r[1] - dy * r[0]) / across);
    ((0.0..=1.0).contains(&t) && (0.0..=1.0).contains(&u)).then(|| [a[0] + t * r[0], a[1] + t * r[1]])
}

/// How fast the way grows with the parameter of a cubic piece.
fn rate(x: &[f64; 4], y: &[f64; 4], u: f64) -> f64 {
    let first = |c: &[f64; 4]| c[1] + u * (2.0 * c[2] + 3.0 * u * c[3]);
    (first(x).powi(2) + first(y).powi(2)).sqrt().max(1e-9)
}

/// Way between two parameters of a cubic piece that lie within one piece of the table, by Gauss's rule with five places (Abramowitz and Stegun,
/// table 25.4).
fn way(x: &[f64; 4], y: &[f64; 4], from: f64, to: f64) -> f64 {
    const GAUSS: [(f64, f64); 5] = [
        (0.0, 0.568_888_888_888_888_9),
        (0.538_469_310_105_683_1, 0.478_628_670_499_366_47),
        (-0.538_469_310_105_683_1, 0.478_628_670_499_366_47),
        (0.906_179_845_938_664, 0.236_926_885_056_189_08),
        (-0.906_179_845_938_664, 0.236_926_885_056_189_08),
    ];
    let (middle, half) = (0.5 * (from + to), 0.5 * (to - from));
    half * GAUSS.iter().map(|(place, weight)| weight * rate(x, y, middle + half * place)).sum::<f64>()
}

/// The parameter over the share of the way through a piece of the table: the polynomial of degree five with its values, slopes and bends at both ends
/// (Hermite's interpolation), where it is off by no more than rounding is.
fn inverse(x: &[f64; 4], y: &[f64; 4], (u0, step): (f64, f64), long: f64) -> Option<[f64; 6]> {
    // Slope 1/r and bend −r′/r³ of the parameter over the way, r the rate.
    let ends = [u0, u0 + step].map(|u| {
        let [first, second] =
            [[x, y].map(|c| c[1] + u * (2.0 * c[2] + 3.0 * u * c[3])), [x, y].map(|c| 2.0 * c[2] + 6.0 * u * c[3])];
        let r = rate(x, y, u);
        let slower = (first[0] * second[0] + first[1] * second[1]) / r;
        (long / r, -slower / r.powi(3) * long * long)
    });
    let [(m, b), (n, c)] = ends;
    let all = [
        u0,
        m,
        0.5 * b,
        10.0 * step - 6.0 * m - 4.0 * n - 1.5 * b + 0.5 * c,
        -15.0 * step + 8.0 * m + 7.0 * n + 1.5 * b - c,
        6.0 * step - 3.0 * m - 3.0 * n - 0.5 * b + 0.5 * c,
    ];
    let exact = [0.25, 0.5, 0.75].iter().all(|share| {
        let u = all.iter().rev().fold(0.0, |sum, c| sum * share + c);
        (way(x, y, u0, u) - share * long).abs() < ROUNDING
    });
    exact.then_some(all)
}

/// A place on a cubic piece.
fn on_cubic(x: &[f64; 4], y: &[f64; 4], u: f64, s: f64) -> Point {
    let value = |c: &[f64; 4]| c[0] + u * (c[1] + u * (c[2] + u * c[3]));
    let first = |c: &[f64; 4]| c[1] + u * (2.0 * c[2] + 3.0 * u * c[3]);
    let second = |c: &[f64; 4]| 2.0 * c[2] + 6.0 * u * c[3];
    let (dx, dy) = (first(x), first(y));
    let per = 1.0 / (dx * dx + dy * dy).sqrt().max(1e-9);
    let bend = (dx * second(y) - dy * second(x)) * (per * per * per);
    Point { s, at: [value(x), value(y)], tangent: [dx * per, dy * per], bend }
}

/// A place on a loop.
fn on_ring(from: f64, foot: [f64; 2], radius: f64, s: f64) -> Point {
    let angle = (s - from) / radius;
    let (sin, cos) = angle.sin_cos();
    let at = [foot[0] + radius * sin, foot[1] + radius * (1.0 - cos)];
    Point { s, at, tangent: [cos, sin], bend: 1.0 / radius }
}

/// Second derivatives of a cubic spline at its knots, by the equations for continuous second derivatives; an end has a slope or none, and
/// then it is free.
fn second_derivatives(values: &[f64], h: &[f64], ends: [Option<f64>; 2]) -> Vec<f64> {
    let n = values.len();
    let (mut low, mut mid, mut high, mut right) = (vec![0.0; n], vec![1.0; n], vec![0.0; n], vec![0.0; n]);
    let rise = |i: usize| (values[i + 1] - values[i]) / h[i];
    for i in 1..n - 1 {
        (low[i], mid[i], high[i]) = (h[i - 1], 2.0 * (h[i - 1] + h[i]), h[i]);
        right[i] = 6.0 * (rise(i) - rise(i - 1));
    }
    if let Some(slope) = ends[0] {
        (mid[0], high[0], right[0]) = (2.0 * h[0], h[0], 6.0 * (rise(0) - slope));
    }
    if let Some(slope) = ends[1] {
        (low[n - 1], mid[n - 1], right[n - 1]) = (h[n - 2], 2.0 * h[n - 2], 6.0 * (slope - rise(n - 2)));
    }
    // Thomas' algorithm.
    for i in 1..n {
        let by = low[i] / mid[i - 1];
        mid[i] -= by * high[i - 1];
        right[i] -= by * right[i - 1];
    }
    let mut found = vec![0.0; n];
    for i in (0..n).rev() {
        let next = if i + 1 < n { high[i] * found[i + 1] } else { 0.0 };
        found[i] = (right[i] - next) / mid[i];
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    fn track(nodes: &[(f64, f64, Option<f64>)]) -> Result<Track, Ending> {
        let nodes: Vec<Node> = nodes.iter().map(|(x, y, ring)| Node { at: [*x, *y], ring: *ring }).collect();
        Track::new(&nodes)
    }

    #[test]
    fn a_track_goes_through_its_nodes_and_bends_without_a_jump() {
        let nodes = [(0.0, 3.0, None), (2.0, 0.5, None), (4.0, 2.0, None), (7.0, 0.0, None)];
        let t = track(&nodes).unwrap();
        for (x, y, _) in nodes {
            let near = t.points().iter().map(|p| (p.at[0] - x).hypot(p.at[1] - y)).fold(f64::MAX, f64::min);
            assert!(near < 1e-9);
        }
        // The way is the length of the curve: places a little apart lie as far from each other as their ways say.
        let fine = 1e-5;
        for k in 1..200 {
            let s = t.length() * f64::from(k) / 200.0;
            let (a, b) = (t.at(s - fine), t.at(s + fine));
            let long = (b.at[0] - a.at[0]).hypot(b.at[1] - a.at[1]);
            assert!((long / (2.0 * fine) - 1.0).abs() < 1e-7, "at {s}: {long}");
            assert!((b.angle() - a.angle() - 2.0 * fine * t.at(s).bend).abs() < 1e-8, "at {s}");
            assert!((a.bend - b.bend).abs() < 0.02, "at {s}: {} {}", a.bend, b.bend);
        }
    }

    #[test]
    fn a_loop_is_round_and_leads_back_to_its_foot() {
        let t = track(&[(0.0, 2.0, None), (3.0, 0.0, Some(0.5)), (6.0, 0.0, None)]).unwrap();
        let foot = t.points().iter().find(|p| (p.at[0] - 3.0).abs() < 1e-9).unwrap();
        assert!(foot.angle().abs() < 1e-9 && foot.at[1].abs() < 1e-9);
        let top = t.at(foot.s + std::f64::consts::PI * 0.5);
        assert!((top.at[1] - 1.0).abs() < 1e-12 && (top.at[0] - 3.0).abs() < 1e-12 && (top.bend - 2.0).abs() < 1e-12);
        let out = t.at(foot.s + std::f64::consts::TAU * 0.5 + 1e-9);
        assert!((out.at[0] - 3.0).abs() < 1e-6 && out.at[1].abs() < 1e-6);
    }

    #[test]
    fn what_is_no_track_is_explained() {
        let crossed = [(0.0, 0.0, None), (4.0, 0.0, None), (4.0, 3.0, None), (2.0, 3.0, None), (2.0, -2.0, None)];
        assert_eq!(track(&[(0.0, 1.0, None); 2]).err(), Some(Ending::NodesTogether { first: 1 }));
        assert_eq!(track(&[(0.0, 1.0, None), (1.0, 0.0, Some(0.3))]).err(), Some(Ending::NoNodeBehindLoop));
        assert!(matches!(track(&crossed), Err(Ending::CrossesItself { .. })));
    }
}
