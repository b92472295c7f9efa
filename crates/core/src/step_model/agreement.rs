//! A step model beside readings: how near it comes, as a figure.

use super::Ledger;

/// Readings of a motion, in coherent SI units.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Readings {
    /// Times.
    pub t: Vec<f64>,
    /// Positions along x, if they were read.
    pub x: Option<Vec<f64>>,
    /// Positions along y, if they were read.
    pub y: Option<Vec<f64>>,
    /// Standard uncertainty of a position; none where nothing is known of it.
    pub u: Option<f64>,
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
    /// All positions, along x and then along y.
    pub(super) fn values(&self) -> Vec<f64> {
        self.x.iter().chain(&self.y).flatten().copied().collect()
    }

    /// Reading minus model for each position.
    ///
    /// # Errors
    /// A sentence when a reading lies outside the run.
    pub(super) fn residuals(&self, ledger: &Ledger) -> Result<Vec<f64>, String> {
        let mut all = Vec::new();
        for (values, axis) in [(&self.x, 0), (&self.y, 1)] {
            for (t, value) in self.t.iter().zip(values.iter().flatten()) {
                let model = ledger.position_at(*t);
                let model = model.ok_or_else(|| {
                    format!("The model does not run at t = {t} s. Let it start earlier or end later.")
                })?;
                all.push(value - model[axis]);
            }
        }
        Ok(all)
    }
}

/// How near a run comes to readings.
///
/// # Errors
/// A sentence when there is nothing to compare, or a reading lies outside the run.
pub fn agreement(ledger: &Ledger, readings: &Readings) -> Result<Agreement, String> {
    let residuals = readings.residuals(ledger)?;
    if residuals.is_empty() {
        return Err("There is no position to compare with: a column x or y is needed beside t.".to_owned());
    }
    let rms = (residuals.iter().map(|r| r * r).sum::<f64>() / residuals.len() as f64).sqrt();
    let in_uncertainties = readings.u.filter(|u| *u > 0.0).map(|u| rms / u);
    Ok(Agreement { n: residuals.len(), rms, in_uncertainties, residuals })
}
