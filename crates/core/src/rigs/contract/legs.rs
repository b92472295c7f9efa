//! Motions along a line made of legs of constant acceleration: exact, with x = x₀ + v₀·t + ½·a·t².

/// A part of the motion in which the acceleration does not change.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(in crate::rigs) struct Leg {
    /// When it begins, in s.
    pub from: f64,
    /// Position then, in m.
    pub x: f64,
    /// Velocity then, in m/s.
    pub v: f64,
    /// Acceleration, in m/s².
    pub a: f64,
}

impl Leg {
    /// Position and velocity at a time.
    pub fn at(&self, t: f64) -> (f64, f64) {
        let t = t - self.from;
        (self.x + self.v * t + 0.5 * self.a * t * t, self.v + self.a * t)
    }

    /// When it first comes to a position after it began.
    pub fn time_to(&self, x: f64) -> Option<f64> {
        let way = x - self.x;
        if way == 0.0 {
            return None;
        }
        if self.a == 0.0 {
            let t = way / self.v;
            return (t.is_finite() && t > 0.0).then_some(self.from + t);
        }
        let root = self.v * self.v + 2.0 * self.a * way;
        if root < 0.0 {
            return None;
        }
        // Without cancellation (Numerical Recipes, 5.6).
        let q = self.v + self.v.signum() * root.sqrt();
        let times = [-q / self.a, 2.0 * way / q];
        let first = times.into_iter().filter(|t| t.is_finite() && *t > 0.0).reduce(f64::min)?;
        Some(self.from + first)
    }

    /// When its velocity becomes zero.
    pub fn time_to_rest(&self) -> Option<f64> {
        let t = -self.v / self.a;
        (t.is_finite() && t > 0.0).then_some(self.from + t)
    }
}

/// Legs one after the other.
#[derive(Clone, Debug, PartialEq, Default)]
pub(in crate::rigs) struct Legs {
    legs: Vec<Leg>,
    /// When the last one ends, in s.
    pub end: f64,
}

impl Legs {
    /// Adds a leg that lasts until `end`.
    pub fn push(&mut self, leg: Leg, end: f64) {
        self.legs.push(leg);
        self.end = end;
    }

    /// Position, velocity and acceleration at a time; before the first leg and after the last one they are continued.
    pub fn at(&self, t: f64) -> [f64; 3] {
        let k = self.legs.partition_point(|l| l.from <= t + 1e-12).max(1) - 1;
        let Some(leg) = self.legs.get(k) else { return [0.0; 3] };
        let (x, v) = leg.at(t);
        [x, v, leg.a]
    }

    /// When the motion first comes to a position.
    pub fn time_at(&self, x: f64) -> Option<f64> {
        let ends = self.legs.iter().skip(1).map(|l| l.from).chain([self.end]);
        self.legs.iter().zip(ends).find_map(|(leg, end)| {
            let at = if leg.x == x { Some(leg.from) } else { leg.time_to(x) };
            at.filter(|t| *t <= end + 1e-12)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]
        #[test]
        fn the_time_to_a_position_is_the_first_one(v in -5f64..5.0, a in -5f64..5.0, way in -9f64..9.0) {
            let leg = Leg { from: 2.0, x: 1.0, v, a };
            match leg.time_to(1.0 + way) {
                Some(t) => {
                    prop_assert!(t > 2.0 && (leg.at(t).0 - 1.0 - way).abs() < 1e-6 * (1.0 + (t - 2.0).powi(2)));
                    for k in 1..50 {
                        let before = leg.at(2.0 + (t - 2.0) * f64::from(k) / 50.0).0 - 1.0;
                        prop_assert!(before * way.signum() < way.abs() * (1.0 + 1e-9), "it was there before");
                    }
                }
                None => for k in 1..200 {
                    let x = leg.at(2.0 + f64::from(k) * 0.05).0 - 1.0;
                    prop_assert!(x * way.signum() < way.abs() * (1.0 + 1e-9));
                }
            }
        }
    }
}
