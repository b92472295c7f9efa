//! A step model beside readings: how near it comes, as a figure.

use super::{Ledger, ModelError};

/// Readings of a motion, in coherent SI units.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Readings {
    /// Times.
    pub t: Vec<f64>,
    /// Positions along x, if they were read.
    pub x: Option<Vec<f64>>,
    /// Positions along y, if they were read.
    pub y: Option<Vec<f64>>,
    /// Standard uncertainty of a position, without what all share; none where nothing is known of it.
    pub u: Option<f64>,
    /// Standard uncertainty of a time, in s.
    pub u_t: f64,
    /// What readings share, such as the scale of a film: for each source, what one standard uncertainty of it does to the time and the position of
    /// each value, along x for all times, then along y.
    pub shared: Vec<Vec<[f64; 2]>>,
}

/// How near a model comes to readings.
#[derive(Clone, Debug, PartialEq)]
pub struct Agreement {
    /// Number of positions compared.
    pub n: usize,
    /// Root mean square of their distances, in m.
    pub rms: f64,
    /// The same in units of the readings' standard uncertainty: about one where the model is right.
    pub in_uncertainties: Option<f64>,
    /// Reading minus model, along x for all times, then along y, in m.
    pub residuals: Vec<f64>,
}

impl Readings {
    /// Reading minus model for each position.
    ///
    /// # Errors
    /// [`ModelError::NotAt`] when a reading lies outside the run.
    pub(super) fn residuals(&self, ledger: &Ledger) -> Result<Vec<f64>, ModelError> {
        let mut all = Vec::new();
        for (t, value, axis) in self.all() {
            let model = ledger.position_at(t);
            let model = model.ok_or(ModelError::NotAt { t })?;
            all.push(value - model[axis]);
        }
        Ok(all)
    }

    /// Those from one time to another.
    #[must_use]
    pub(crate) fn between(self, from: f64, to: f64) -> Self {
        // What was typed and what was read may differ by rounding.
        let near = 1e-9 * (to - from).abs();
        let inside: Vec<bool> = self.t.iter().map(|t| (from - near..=to + near).contains(t)).collect();
        if inside.iter().all(|i| *i) {
            return self;
        }
        fn kept<T>(values: Vec<T>, inside: impl Iterator<Item = bool>) -> Vec<T> {
            values.into_iter().zip(inside).filter(|(_, i)| *i).map(|(v, _)| v).collect()
        }
        let one = || inside.iter().copied();
        let axes = usize::from(self.x.is_some()) + usize::from(self.y.is_some());
        let shared = self.shared.into_iter().map(|by| kept(by, (0..axes).flat_map(|_| inside.iter().copied())));
        Self {
            shared: shared.collect(),
            t: kept(self.t, one()),
            x: self.x.map(|x| kept(x, one())),
            y: self.y.map(|y| kept(y, one())),
            ..self
        }
    }

    /// Time, position and axis of each value, along x and then along y.
    pub(crate) fn all(&self) -> impl Iterator<Item = (f64, f64, usize)> {
        let of = |values: &Option<Vec<f64>>, axis: usize| {
            let pairs = self.t.iter().zip(values.iter().flatten());
            pairs.map(|(t, v)| (*t, *v, axis)).collect::<Vec<_>>()
        };
        of(&self.x, 0).into_iter().chain(of(&self.y, 1))
    }
}

/// How near a run comes to readings.
///
/// # Errors
/// [`ModelError`] when there is nothing to compare, or a reading lies outside the run.
pub fn agreement(ledger: &Ledger, readings: &Readings) -> Result<Agreement, ModelError> {
    let residuals = readings.residuals(ledger)?;
    if residuals.is_empty() {
        return Err(ModelError::NoPosition);
    }
    let rms = (residuals.iter().map(|r| r * r).sum::<f64>() / residuals.len() as f64).sqrt();
    let in_uncertainties = readings.u.filter(|u| *u > 0.0).map(|u| {
        let share = |((t, _, axis), r): ((f64, f64, usize), &f64)| {
            let by_time = readings.u_t * ledger.velocity_at(t).map_or(0.0, |v| v[axis]);
            r * r / (u * u + by_time * by_time)
        };
        (readings.all().zip(&residuals).map(share).sum::<f64>() / residuals.len() as f64).sqrt()
    });
    Ok(Agreement { n: residuals.len(), rms, in_uncertainties, residuals })
}
