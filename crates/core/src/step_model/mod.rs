//! The step model: a motion worked out step after step from the forces, as one would by hand.
//!
//! Each step: the forces where the body is, their sum over the mass, a new velocity, a new position. [`StepModel::run`] keeps every step with every
//! force ([`Ledger`]); [`agreement`] holds it against readings, [`StepModel::fitted`] looks for the one parameter that brings it nearest, and
//! [`StepModel::terminal_speed`] tells where it leads. One body, in a plane; all values in coherent SI units.

mod agreement;
mod fitted;
mod force;
mod method;
mod text;
mod wrong;

pub use agreement::{Agreement, Readings, agreement};
pub use fitted::{Fitted, Sought};
pub use force::{Force, ForceKind};
pub use method::Method;
pub use text::{
    ForceField, ForceName, ForceText, HeldValues, MOST_FORCES, ModelField, ModelText, StartText, Takes, Typed,
    quantity, read_model,
};
pub use wrong::ModelError;

/// Most steps of a run.
pub const MOST_STEPS: usize = 200_000;
/// Share of the terminal speed from which on it counts as reached.
const REACHED: f64 = 0.99;

/// A step model.
#[derive(Clone, Debug, PartialEq)]
pub struct StepModel {
    /// Mass, in kg.
    pub mass: f64,
    /// Time at the start, in s.
    pub start: f64,
    /// Position at the start, in m.
    pub position: [f64; 2],
    /// Velocity at the start, in m/s.
    pub velocity: [f64; 2],
    /// Time step, in s.
    pub step: f64,
    /// End, in s.
    pub until: f64,
    /// How a step is made.
    pub method: Method,
    /// The forces, each on or off.
    pub forces: Vec<Force>,
}

/// A step: what was there before it, and the forces then.
#[derive(Clone, Debug, PartialEq)]
pub struct Step {
    /// Time, in s.
    pub t: f64,
    /// Position, in m.
    pub position: [f64; 2],
    /// Velocity, in m/s.
    pub velocity: [f64; 2],
    /// Each force that is on, in N, in the order of the model.
    pub forces: Vec<[f64; 2]>,
    /// Their sum, in N.
    pub net: [f64; 2],
}

/// All steps of a run, the last one with what is there at the end.
#[derive(Clone, Debug, PartialEq)]
pub struct Ledger {
    /// The steps, ascending in time.
    pub steps: Vec<Step>,
}

/// Where a fall leads.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Terminal {
    /// The speed at which the forces cancel, in m/s.
    pub speed: f64,
    /// When 99 % of it are reached, in s since the start; none within the run.
    pub after: Option<f64>,
}

impl StepModel {
    /// Refuses what no run can be made of.
    ///
    /// # Errors
    /// [`ModelError`], by what to change.
    pub fn check(&self) -> Result<(), ModelError> {
        if !(self.mass.is_finite() && self.mass > 0.0) {
            return Err(ModelError::Mass);
        }
        if !(self.step.is_finite() && self.step > 0.0) {
            return Err(ModelError::TimeStep);
        }
        let long = self.until - self.start;
        if !(long.is_finite() && long > 0.0) {
            return Err(ModelError::End);
        }
        if long / self.step > MOST_STEPS as f64 {
            return Err(ModelError::TooManySteps { most: MOST_STEPS });
        }
        let all = self.position.iter().chain(&self.velocity);
        if !all.clone().all(|v| v.is_finite()) {
            return Err(ModelError::Start);
        }
        Ok(())
    }

    /// The run, step after step.
    ///
    /// # Errors
    /// [`ModelError`] when the model cannot run or its numbers grow beyond all bounds.
    pub fn run(&self) -> Result<Ledger, ModelError> {
        self.check()?;
        // So many equal steps as reach the end, the last one not cut short.
        let count = ((self.until - self.start) / self.step - 1e-9).ceil() as usize;
        let (mut position, mut velocity) = (self.position, self.velocity);
        let mut steps = Vec::with_capacity(count + 1);
        for i in 0..=count {
            let t = self.start + i as f64 * self.step;
            let forces = self.forces_at(t, position, velocity)?;
            let net = sum(&forces);
            steps.push(Step { t, position, velocity, forces, net });
            (position, velocity) = method::next(self, (t, position, velocity), net)?;
            if !position.iter().chain(&velocity).all(|v| v.abs() < 1e12) {
                return Err(ModelError::Diverges { steps: i });
            }
        }
        Ok(Ledger { steps })
    }

    /// The forces that are on, for a body there.
    fn forces_at(&self, t: f64, position: [f64; 2], velocity: [f64; 2]) -> Result<Vec<[f64; 2]>, ModelError> {
        let on = self.forces.iter().filter(|f| f.on);
        let mut all: Vec<[f64; 2]> = Vec::new();
        for force in on.clone() {
            all.push(force.kind.at(self.mass, t, position, velocity)?);
        }
        // Friction works against what moves, and of what rests only against as much as pulls.
        let driving = sum(&all);
        for (value, force) in all.iter_mut().zip(on) {
            if let ForceKind::Friction { force } = force.kind {
                *value = force::friction(force, velocity, driving);
            }
        }
        Ok(all)
    }

    /// The same with half the time step.
    #[must_use]
    pub fn halved(&self) -> Self {
        Self { step: 0.5 * self.step, ..self.clone() }
    }

    /// How far positions at the steps lie from those of a run with half the step, at most, in m.
    ///
    /// # Errors
    /// As [`Self::run`].
    pub fn effect_of_step(&self) -> Result<f64, ModelError> {
        let (whole, half) = (self.run()?, self.halved().run()?);
        let apart = whole.steps.iter().enumerate().filter_map(|(i, a)| {
            let b = half.steps.get(2 * i)?;
            Some((a.position[0] - b.position[0]).hypot(a.position[1] - b.position[1]))
        });
        Ok(apart.fold(0.0, f64::max))
    }

    /// The speed of a fall straight down at which the forces cancel; none where they never do.
    ///
    /// # Errors
    /// As [`Self::run`].
    pub fn terminal_speed(&self) -> Result<Option<Terminal>, ModelError> {
        // What drives it from rest, and against it at growing speed; forces that depend on place or time have no such speed.
        let changes = |f: &&Force| f.on && f.kind.depends_on_place_or_time();
        if self.forces.iter().any(|f| changes(&f)) {
            return Ok(None);
        }
        let along = |speed: f64| -> Result<f64, ModelError> {
            Ok(sum(&self.forces_at(self.start, self.position, [0.0, -speed])?)[1])
        };
        let pulls = along(0.0)?;
        let (mut low, mut high) = (0.0, 1.0);
        while along(high)? < 0.0 {
            high *= 2.0;
            if high > 1e6 {
                return Ok(None);
            }
        }
        if pulls >= 0.0 {
            return Ok(None);
        }
        for _ in 0..200 {
            let middle = f64::midpoint(low, high);
            if along(middle)? < 0.0 { low = middle } else { high = middle }
        }
        let speed = f64::midpoint(low, high);
        let ledger = self.run()?;
        let reached = ledger.steps.iter().find(|s| s.velocity[0].hypot(s.velocity[1]) >= REACHED * speed);
        Ok(Some(Terminal { speed, after: reached.map(|s| s.t - self.start) }))
    }
}

impl Ledger {
    /// A time that misses an end of the run by rounding alone is that end: the last step is a sum of many.
    fn inside(&self, t: f64) -> f64 {
        let (Some(first), Some(last)) = (self.steps.first(), self.steps.last()) else { return t };
        let near = 1e-9 * (last.t - first.t).max(1e-3);
        let missed = |end: f64| (t - end).abs() <= near;
        if t < first.t && missed(first.t) {
            first.t
        } else if t > last.t && missed(last.t) {
            last.t
        } else {
            t
        }
    }

    /// Velocity at a time, linear between two steps; none outside the run.
    pub fn velocity_at(&self, t: f64) -> Option<[f64; 2]> {
        let t = self.inside(t);
        let next = self.steps.partition_point(|s| s.t < t);
        let b = self.steps.get(next)?;
        let a = &self.steps[next.saturating_sub(1)];
        let share = if b.t > a.t { (t - a.t) / (b.t - a.t) } else { 1.0 };
        let one = |k: usize| a.velocity[k] + share * (b.velocity[k] - a.velocity[k]);
        Some([one(0), one(1)])
    }

    /// Position at a time: between two steps the cubic that has their positions and velocities (Hermite's interpolation). None outside the run.
    pub fn position_at(&self, t: f64) -> Option<[f64; 2]> {
        let t = self.inside(t);
        let next = self.steps.partition_point(|s| s.t < t);
        let b = self.steps.get(next)?;
        if next == 0 {
            return (b.t == t).then_some(b.position);
        }
        let a = &self.steps[next - 1];
        let (h, s) = (b.t - a.t, (t - a.t) / (b.t - a.t));
        let (s2, s3) = (s * s, s * s * s);
        let one = |k: usize| {
            (2.0 * s3 - 3.0 * s2 + 1.0) * a.position[k]
                + (s3 - 2.0 * s2 + s) * h * a.velocity[k]
                + (3.0 * s2 - 2.0 * s3) * b.position[k]
                + (s3 - s2) * h * b.velocity[k]
        };
        Some([one(0), one(1)])
    }
}

fn sum(forces: &[[f64; 2]]) -> [f64; 2] {
    forces.iter().fold([0.0, 0.0], |[x, y], [fx, fy]| [x + fx, y + fy])
}
