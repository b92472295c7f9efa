//! A body under gravity and drag in a plane: what drop shaft and thrower share.
//!
//! m·a = m·g + F_drag + F_buoyancy + F_push, with x to the right and y up.
//! * Air: F_drag = −½·ρ·c·A·|v|·v, A = π·d²/4 (S. F. Hoerner, *Fluid-Dynamic Drag*, 1965, 1-9). Integrated.
//! * Oil, for small bodies: F_drag = −3π·η·d·v (G. G. Stokes, 1851; L. D. Landau, E. M. Lifshitz, *Fluid Mechanics*, 2nd edition,
//!   §20), good up to Reynolds numbers ρ·v·d/η of about 1. Exact: velocities approach their limit with e^(−t/τ), τ = m/(3π·η·d).
//! * Buoyancy: ρ·V·g upward, that of a ball of diameter d (Archimedes; Halliday, Resnick, Walker, *Fundamentals of Physics*, 10th
//!   edition, 14-5). Neither the fluid that moves along nor the walls are counted.

use std::f64::consts::PI;

use ode_solvers::SVector;

use super::RigError;
use super::ending::Ending;
use super::flow::{Event, Instant, flow};
use super::run::RunOutcome;

/// Fastest pace in 1/s at which air may bring a body to its steady speed, 2·√(a·k) with a the acceleration without air and k the drag
/// constant over the mass. At 500/s on the Earth the steady speed is 4 cm/s: a feather falls faster.
const FASTEST_PACE: f64 = 500.0;

/// x, y, v_x, v_y in m and m/s.
pub(in crate::rigs) type State = SVector<f64, 4>;

/// What resists the motion.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(in crate::rigs) enum Drag {
    /// ½·ρ·c·A in kg/m; zero without air.
    Quadratic(f64),
    /// 3π·η·d in kg/s.
    Linear(f64),
}

impl Drag {
    /// In air of density ρ, kg/m³, for a body of diameter d, m, and drag coefficient c.
    pub fn air(density: f64, diameter: f64, shape: f64) -> Self {
        Self::Quadratic(0.5 * density * shape * PI * diameter * diameter / 4.0)
    }
}

/// Volume of a ball of diameter d, m; in m³.
pub(in crate::rigs) fn ball(diameter: f64) -> f64 {
    PI * diameter.powi(3) / 6.0
}

/// Mass in kg and forces on the body.
#[derive(Clone, Copy, Debug)]
pub(in crate::rigs) struct Forces {
    pub mass: f64,
    /// Gravity, in m/s².
    pub gravity: f64,
    /// Buoyancy, upward, in N.
    pub lift: f64,
    pub drag: Drag,
    /// In N.
    pub push: [f64; 2],
}

impl Forces {
    /// Weight and buoyancy together per mass, downward, in m/s².
    pub fn downward(&self) -> f64 {
        self.gravity - self.lift / self.mass
    }

    /// The force of drag at a velocity, in N.
    pub fn drag(&self, v: [f64; 2]) -> [f64; 2] {
        let factor = match self.drag {
            Drag::Quadratic(c) => c * v[0].hypot(v[1]),
            Drag::Linear(c) => c,
        };
        [-factor * v[0], -factor * v[1]]
    }

    /// The acceleration at a velocity, in m/s².
    pub fn acceleration(&self, v: [f64; 2]) -> [f64; 2] {
        let drag = self.drag(v);
        [(drag[0] + self.push[0]) / self.mass, (drag[1] + self.push[1]) / self.mass - self.downward()]
    }

    /// Why a body cannot fly at all, as the outcome of its run: air would stop it before anything could be seen.
    pub fn held_by_air(&self, push: [f64; 2]) -> Option<RunOutcome> {
        let Drag::Quadratic(c) = self.drag else { return None };
        let without = (push[0] / self.mass).hypot(push[1] / self.mass) + self.downward().abs();
        (2.0 * (without * c / self.mass).sqrt() > FASTEST_PACE).then(|| RunOutcome::failed(Ending::HeldByAir))
    }

    /// Flies from an instant until an event or `until`.
    ///
    /// # Errors
    /// [`RigError::Integrator`] when the integrator gives up.
    pub fn fly(
        &self,
        start: Instant<4>,
        until: f64,
        every: f64,
        events: &[Event<'_, 4>],
    ) -> Result<super::flow::Flown<4>, RigError> {
        match self.drag {
            Drag::Quadratic(_) => {
                let rate = |y: &State| {
                    let [ax, ay] = self.acceleration([y[2], y[3]]);
                    State::new(y[2], y[3], ax, ay)
                };
                flow(&rate, start, until, every, events)
            }
            Drag::Linear(c) => Ok(self.sink(c, start, until, every, events)),
        }
    }

    /// The state after a time with linear drag.
    fn sunk(&self, c: f64, y: &State, t: f64) -> State {
        let tau = self.mass / c;
        let limit = [self.push[0] / c, (self.push[1] - self.mass * self.downward()) / c];
        // 1 − e^(−t/τ), without loss for small t.
        let gone = -(-t / tau).exp_m1();
        let after = |x: f64, v: f64, limit: f64| (x + limit * t + (v - limit) * tau * gone, v + (limit - v) * gone);
        let (x, vx) = after(y[0], y[2], limit[0]);
        let (h, vy) = after(y[1], y[3], limit[1]);
        State::new(x, h, vx, vy)
    }

    fn sink(
        &self,
        c: f64,
        start: Instant<4>,
        until: f64,
        every: f64,
        events: &[Event<'_, 4>],
    ) -> super::flow::Flown<4> {
        let mut frames = Vec::new();
        let mut frame = (start.0 / every - 1e-9).ceil().max(0.0);
        let at = |t: f64| self.sunk(c, &start.1, t - start.0);
        let mut before = start;
        loop {
            let t = (frame * every).min(until);
            let after = (t, at(t));
            for (k, event) in events.iter().enumerate() {
                if event(&before.1) > 0.0 && event(&after.1) <= 0.0 {
                    let (mut a, mut b) = (before.0, t);
                    for _ in 0..60 {
                        let mid = 0.5 * (a + b);
                        if event(&at(mid)) > 0.0 { a = mid } else { b = mid }
                    }
                    return super::flow::Flown { frames, end: (b, at(b)), event: Some(k) };
                }
            }
            if frame * every >= until - 1e-12 {
                return super::flow::Flown { frames, end: (until, at(until)), event: None };
            }
            frames.push(after.1);
            before = after;
            frame += 1.0;
        }
    }
}
