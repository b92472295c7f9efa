//! Paths round one centre, in closed form.

use std::f64::consts::TAU;

use crate::rigs::Sampling;

/// Steps of Newton's method at most.
const MOST_STEPS: usize = 60;

/// A path round a centre at the origin.
#[derive(Clone, Copy, Debug)]
pub(super) struct Orbit {
    /// G·M, in m³/s².
    pull: f64,
    /// Start: place in m and velocity in m/s.
    at: [f64; 2],
    v: [f64; 2],
    r: f64,
    /// Half of r·v_r over √μ, in √m.
    outward: f64,
    /// 1/a, in 1/m: positive for ellipses, zero for a parabola, negative for hyperbolas.
    alpha: f64,
}

impl Orbit {
    /// A path from its start in SI units. A start at the centre counts as one next to it.
    pub fn new(pull: f64, at: [f64; 2], v: [f64; 2]) -> Self {
        let r = at[0].hypot(at[1]);
        let (at, r) = if r < 1.0 { ([1.0, 0.0], 1.0) } else { (at, r) };
        let outward = (at[0] * v[0] + at[1] * v[1]) / pull.sqrt();
        let alpha = 2.0 / r - (v[0] * v[0] + v[1] * v[1]) / pull;
        Self { pull, at, v, r, outward, alpha }
    }

    /// G·M, in m³/s².
    pub fn pull(&self) -> f64 {
        self.pull
    }

    /// Distance at the start, in m.
    pub fn start(&self) -> f64 {
        self.r
    }

    /// Time of one turn in s; none where it never comes back. T = 2π·√(a³/μ).
    pub fn period(&self) -> Option<f64> {
        // Within rounding of a parabola it takes longer than anything.
        (self.alpha * self.r > 1e-9).then(|| TAU / (self.alpha.powi(3) * self.pull).sqrt())
    }

    /// p = h²/μ and e, from e² = 1 − p/a.
    fn shape(&self) -> (f64, f64) {
        let turning = self.at[0] * self.v[1] - self.at[1] * self.v[0];
        let p = turning * turning / self.pull;
        (p, (1.0 - p * self.alpha).max(0.0).sqrt())
    }

    /// Nearest distance on the path that lies ahead, in m: p/(1 + e), unless it is on its way out for good.
    pub fn nearest(&self) -> f64 {
        let (p, e) = self.shape();
        if self.period().is_none() && self.outward >= 0.0 { self.r } else { p / (1.0 + e) }
    }

    /// Farthest distance in m; none where there is none.
    pub fn farthest(&self) -> Option<f64> {
        self.period().map(|_| (1.0 + self.shape().1) / self.alpha)
    }

    /// Frames before it is inside a radius in m, by halving, where it goes straight down or nearly so from a place outside; `None` where it
    /// is on its way out first.
    pub fn fall_frames(&self, sampling: Sampling, radius: f64) -> Option<usize> {
        if self.outward > 0.0 {
            return None;
        }
        let inside = |i: usize| {
            let [x, y] = self.at(sampling.time(i))[0];
            x.hypot(y) < radius
        };
        let last = sampling.frames().ok()?;
        (0..last).find(|i| inside(*i) || *i > 0 && self.outward_at(sampling.time(*i)) > 0.0)
    }

    /// r·v_r at a time, in m²/s.
    fn outward_at(&self, t: f64) -> f64 {
        let [[x, y], [u, v]] = self.at(t);
        x * u + y * v
    }

    /// Place in m and velocity in m/s at a time in s after the start.
    pub fn at(&self, t: f64) -> [[f64; 2]; 2] {
        let t = self.period().map_or(t, |period| t % period);
        let chi = self.anomaly(t);
        let z = self.alpha * chi * chi;
        let (c, s) = stumpff(z);
        let root = self.pull.sqrt();
        let f = 1.0 - chi * chi / self.r * c;
        let g = t - chi.powi(3) / root * s;
        let place = [f * self.at[0] + g * self.v[0], f * self.at[1] + g * self.v[1]];
        let r = place[0].hypot(place[1]).max(1.0);
        let f_dot = root / (r * self.r) * chi * (z * s - 1.0);
        let g_dot = 1.0 - chi * chi / r * c;
        [place, [f_dot * self.at[0] + g_dot * self.v[0], f_dot * self.at[1] + g_dot * self.v[1]]]
    }

    /// The universal anomaly χ at a time: √μ·t = χ³·S + (r·v_r/√μ)·χ²·C + r·χ·(1 − z·S), z = αχ². It grows with t, so that Newton's method
    /// is kept in a bracket.
    fn anomaly(&self, t: f64) -> f64 {
        let target = self.pull.sqrt() * t;
        if target <= 0.0 {
            return 0.0;
        }
        let time = |chi: f64| {
            let z = self.alpha * chi * chi;
            let (c, s) = stumpff(z);
            let time = chi.powi(3) * s + self.outward * chi * chi * c + self.r * chi * (1.0 - z * s);
            let rate = chi * chi * c + self.outward * chi * (1.0 - z * s) + self.r * (1.0 - z * c);
            (time, rate)
        };
        let mut low = 0.0;
        let mut high = (target * self.alpha.abs()).max(target / self.r).max(1e-3 * self.r.sqrt());
        while time(high).0 < target && high < 1e30 {
            low = high;
            high *= 2.0;
        }
        let (mut chi, mut before) = (0.5 * (low + high), high - low);
        for _ in 0..MOST_STEPS {
            let (now, rate) = time(chi);
            if now < target {
                low = chi;
            } else {
                high = chi;
            }
            let step = (target - now) / rate;
            // So short a step is the last one, for the next would be its square. It is looked at before the bracket, of which the place found is an end
            // by now: rounding lets it seem beyond, and halving would lead away from it.
            if step.abs() <= 1e-11 * chi.abs() {
                return chi + step;
            }
            // Halved where Newton's method would leave the bracket, and where its steps do not at least halve: it can go to and fro for ever
            // (W. H. Press et al., Numerical Recipes, 3rd edition, 9.4).
            let next = chi + step;
            let slow = 2.0 * step.abs() > before.abs();
            let next = if next > low && next < high && !slow { next } else { 0.5 * (low + high) };
            (before, chi) = (next - chi, next);
        }
        chi
    }
}

/// Stumpff's C and S of z; a series where the closed forms would cancel.
fn stumpff(z: f64) -> (f64, f64) {
    if z.abs() < 0.1 {
        let (mut c, mut s, mut term_c, mut term_s) = (0.0, 0.0, 0.5, 1.0 / 6.0);
        for k in 0..12 {
            c += term_c;
            s += term_s;
            let k = f64::from(2 * k);
            term_c *= -z / ((k + 3.0) * (k + 4.0));
            term_s *= -z / ((k + 4.0) * (k + 5.0));
        }
        return (c, s);
    }
    let root = z.abs().sqrt();
    if z > 0.0 {
        ((1.0 - root.cos()) / z, (root - root.sin()) / root.powi(3))
    } else {
        ((root.cosh() - 1.0) / -z, (root.sinh() - root) / root.powi(3))
    }
}
