//! One parameter of a model by least squares.

use nalgebra::{DMatrix, DVector};

use super::{Agreement, ModelError, Readings, StepModel, agreement};
use crate::fit::Estimate;

/// Steps of the search for a parameter.
const SEARCH: usize = 60;
/// How often a step is halved until it brings the model nearer.
const HALVINGS: i32 = 20;
/// Directions in which the readings change by less than this share of the most are none.
const TIED: f64 = 1e-9;

/// What is sought.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sought {
    /// The parameter of which force.
    pub place: usize,
    /// Whether position and velocity at the start come from the same readings, and are sought along with it.
    pub start: bool,
    /// Standard uncertainty of the mass, in kg.
    pub mass_u: f64,
}

/// A model brought as near to readings as one parameter can.
#[derive(Clone, Debug, PartialEq)]
pub struct Fitted {
    /// The model.
    pub model: StepModel,
    /// The parameter, in coherent SI units.
    pub parameter: Estimate,
    /// Degrees of freedom of its uncertainty.
    pub freedom: f64,
    /// How near it comes.
    pub agreement: Agreement,
}

/// A number of the model that is sought.
#[derive(Clone, Copy)]
enum Unknown {
    Parameter(usize),
    Position(usize),
    Velocity(usize),
}

/// The model that comes nearest, with ∂(reading − model)/∂unknown there and what is left.
struct Nearest {
    model: StepModel,
    slopes: DMatrix<f64>,
    left: DVector<f64>,
}

impl StepModel {
    fn unknown(&mut self, which: Unknown) -> Option<&mut f64> {
        match which {
            Unknown::Parameter(place) => self.forces.get_mut(place).filter(|f| f.on)?.kind.parameter_mut(),
            Unknown::Position(axis) => self.position.get_mut(axis),
            Unknown::Velocity(axis) => self.velocity.get_mut(axis),
        }
    }

    /// The same with other numbers for what is sought.
    fn with(&self, unknowns: &[Unknown], values: &DVector<f64>) -> Self {
        let mut model = self.clone();
        for (which, value) in unknowns.iter().zip(values) {
            if let Some(place) = model.unknown(*which) {
                *place = *value;
            }
        }
        model
    }

    /// The parameter of a force by least squares: Gauss's and Newton's steps, each halved until it brings the model nearer. The covariance is
    /// s²·(JᵀJ)⁻¹ (Draper, Smith, *Applied Regression Analysis*, 24.2); what the readings share and the mass are added source by source
    /// (JCGM 100:2008, 5.1.2), degrees of freedom after Welch and Satterthwaite (G.4).
    ///
    /// # Errors
    /// [`ModelError`] when there is nothing to fit, too few readings, or no end is found.
    pub fn fitted(&self, sought: &Sought, readings: &Readings) -> Result<Fitted, ModelError> {
        let mut unknowns = vec![Unknown::Parameter(sought.place)];
        if self.clone().unknown(unknowns[0]).is_none() {
            return Err(ModelError::NothingToFit);
        }
        for (axis, read) in [(0, readings.x.is_some()), (1, readings.y.is_some())] {
            if sought.start && read {
                unknowns.extend([Unknown::Position(axis), Unknown::Velocity(axis)]);
            }
        }
        let n = readings.all().count();
        if n <= unknowns.len() {
            return Err(ModelError::FewReadings { start: sought.start, needed: unknowns.len() + 1, have: n });
        }
        let found = self.nearest(&unknowns, readings)?;
        let freedom = (n - unknowns.len()) as f64;
        let square = found.slopes.tr_mul(&found.slopes);
        let inverse = square.try_inverse().ok_or(ModelError::TiedToStart)?;
        let own = found.left.norm_squared() / freedom * inverse[(0, 0)];
        // What moves the readings by δ moves the parameter by −((JᵀJ)⁻¹Jᵀδ).
        let ledger = found.model.run()?;
        let mut shared = 0.0;
        for by in &readings.shared {
            // A start that was typed was read where the readings were, and moves with them.
            let start = if sought.start { found.model.clone() } else { found.model.moved_along(readings, by) };
            let other = start.run()?;
            let off: Option<Vec<f64>> = readings
                .all()
                .zip(by)
                .map(|((t, _, axis), [dt, along])| {
                    let (here, there) = (ledger.position_at(t)?[axis], other.position_at(t)?[axis]);
                    Some(along - dt * ledger.velocity_at(t)?[axis] - (there - here))
                })
                .collect();
            let off = off.ok_or(ModelError::NotAtAllTimes)?;
            shared += (&inverse * found.slopes.tr_mul(&DVector::from_vec(off)))[0].powi(2);
        }
        let value = *found.model.clone().unknown(unknowns[0]).ok_or(ModelError::NothingToFit)?;
        if sought.mass_u > 0.0 {
            let heavier = Self { mass: self.mass + sought.mass_u, ..found.model.clone() };
            let mut there = heavier.nearest(&unknowns, readings)?.model;
            shared += there.unknown(unknowns[0]).map_or(0.0, |v| *v - value).powi(2);
        }
        let u = (own + shared).sqrt();
        let freedom = if own > 0.0 { freedom * (u * u / own).powi(2) } else { f64::INFINITY };
        let agreement = agreement(&ledger, readings)?;
        Ok(Fitted { model: found.model, parameter: Estimate { value, u }, freedom, agreement })
    }

    /// The same with its start moved as the readings are: what a source does to them is taken as a line over their values, as a scale does it.
    fn moved_along(&self, readings: &Readings, by: &[[f64; 2]]) -> Self {
        let mut model = self.clone();
        for axis in 0..2 {
            let own = readings.all().zip(by).filter(|((_, _, a), _)| *a == axis);
            let pairs: Vec<(f64, f64)> = own.map(|((_, value, _), [_, along])| (value, *along)).collect();
            let (level, slope) = line_through(&pairs);
            model.position[axis] += level + slope * self.position[axis];
            model.velocity[axis] += slope * self.velocity[axis];
        }
        model
    }

    fn nearest(&self, unknowns: &[Unknown], readings: &Readings) -> Result<Nearest, ModelError> {
        let mut start = self.clone();
        // From nothing, no share of it leads on.
        if let Some(parameter) = start.unknown(unknowns[0]).filter(|p| **p == 0.0) {
            *parameter = 1e-3;
        }
        let mut now = DVector::from_iterator(
            unknowns.len(),
            unknowns.iter().map(|which| start.unknown(*which).map_or(0.0, |v| *v)),
        );
        let off = |values: &DVector<f64>| -> Result<DVector<f64>, ModelError> {
            Ok(DVector::from_vec(readings.residuals(&start.with(unknowns, values).run()?)?))
        };
        let (low, high) = readings.all().fold((f64::MAX, f64::MIN), |(lo, hi), (_, v, _)| (lo.min(v), hi.max(v)));
        let wide = (high - low).max(1e-9);
        let steps: Vec<f64> = unknowns
            .iter()
            .map(|which| match which {
                Unknown::Parameter(_) => 0.0,
                Unknown::Position(_) => 1e-4 * wide,
                Unknown::Velocity(_) => 1e-4 * wide / (self.until - self.start),
            })
            .collect();
        let mut left = off(&now)?;
        let mut slopes = DMatrix::zeros(left.len(), unknowns.len());
        for _ in 0..SEARCH {
            for (k, step) in steps.iter().enumerate() {
                let small = if *step > 0.0 { *step } else { 1e-4 * now[k].abs().max(1e-9) };
                let beside = |by: f64| {
                    let mut there = now.clone();
                    there[k] += by;
                    off(&there)
                };
                slopes.set_column(k, &((beside(small)? - beside(-small)?) / (2.0 * small)));
            }
            // Columns of one length, so that units do not decide what counts as tied.
            let lengths: Vec<f64> = slopes.column_iter().map(|c| c.norm()).collect();
            if lengths.iter().any(|l| *l == 0.0 || !l.is_finite()) {
                return Err(ModelError::NoEffect);
            }
            let mut even = slopes.clone();
            even.column_iter_mut().zip(&lengths).for_each(|(mut c, l)| c /= *l);
            let parted = even.svd(true, true);
            if parted.rank(TIED) < unknowns.len() {
                return Err(ModelError::TiedToStart);
            }
            let mut by = parted.solve(&-&left, TIED).map_err(|_| ModelError::TiedToStart)?;
            by.iter_mut().zip(&lengths).for_each(|(b, l)| *b /= *l);
            let before = left.norm_squared();
            let better = (0..HALVINGS).map(|k| &now + &by * 0.5f64.powi(k)).find_map(|values| {
                let there = off(&values).ok()?;
                (there.norm_squared() <= before).then_some((values, there))
            });
            let Some((next, there)) = better else { break };
            let done =
                next.iter().zip(&now).zip(&steps).all(|((a, b), step)| (a - b).abs() <= 1e-9 * b.abs().max(*step));
            (now, left) = (next, there);
            if done {
                break;
            }
        }
        Ok(Nearest { model: start.with(unknowns, &now), slopes, left })
    }
}

/// Level and slope of the straight line through pairs by least squares; level alone where they have one place.
fn line_through(pairs: &[(f64, f64)]) -> (f64, f64) {
    let n = pairs.len().max(1) as f64;
    let (mx, my) = pairs.iter().fold((0.0, 0.0), |(a, b), (x, y)| (a + x / n, b + y / n));
    let (sxx, sxy) = pairs.iter().fold((0.0, 0.0), |(a, b), (x, y)| (a + (x - mx) * (x - mx), b + (x - mx) * (y - my)));
    let slope = if sxx > 0.0 { sxy / sxx } else { 0.0 };
    (my - slope * mx, slope)
}
