//! Meters: what an instrument of a rig shows, and how finely.

use super::Run;
use crate::chance::Chance;
use crate::quantity::{Decimal, Unit};

/// Something that can be read off an instrument.
#[derive(Clone, Debug)]
pub struct MeterSpec {
    /// Name in forms.
    pub name: &'static str,
    /// Name for people.
    pub label: &'static str,
    /// Symbol in the formulas of keys.
    pub symbol: &'static str,
    /// Unit it shows.
    pub unit: Unit,
    /// How finely it reads.
    pub fineness: Fineness,
    /// Where its value is from.
    pub shows: Shows,
    /// Settings it tells straight away: a sheet that hides one leaves the meter off the bench unless it names it.
    pub tells: &'static [&'static str],
}

/// How finely a meter reads.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Fineness {
    /// Always to the same digit.
    Digit {
        /// Its last digit, in its unit.
        digit: f64,
        /// Standard deviation of its chance errors, in its unit; zero where a real one has none worth the name.
        scatter: f64,
    },
    /// To so many significant figures, whatever the power of ten.
    Figures {
        /// How many.
        figures: u8,
        /// Standard deviation of its chance errors as a share of the value.
        scatter: f64,
    },
}

/// The last digit of a meter with significant figures that shows nothing at all, in its unit.
const NOTHING: f64 = 1e-15;

/// Where a meter's value is from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shows {
    /// Of a run as a whole, among [`Run::found`].
    Run,
    /// The value of a channel at the moment on the stage.
    Now(&'static str),
}

/// A meter of the run as a whole.
pub(in crate::rigs) fn found(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    [resolution, scatter]: [f64; 2],
) -> MeterSpec {
    let fineness = Fineness::Digit { digit: resolution, scatter };
    MeterSpec { name, label, symbol, unit: super::card::unit(unit), fineness, shows: Shows::Run, tells: &[] }
}

/// A meter of a channel at the moment on the stage.
pub(in crate::rigs) fn now(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    precision: [f64; 2],
    channel: &'static str,
) -> MeterSpec {
    MeterSpec { shows: Shows::Now(channel), ..found(name, label, symbol, unit, precision) }
}

impl MeterSpec {
    /// The same telling these settings straight away.
    pub(in crate::rigs) fn telling(self, tells: &'static [&'static str]) -> Self {
        Self { tells, ..self }
    }

    /// What the meter shows of a run at a frame: the value with its chance error, to the last digit, in its unit. The same run
    /// and frame show the same. `None` when there is nothing to show.
    pub fn read(&self, run: &Run, frame: usize, seed: u64) -> Option<f64> {
        let (exact, at) = match self.shows {
            Shows::Run => (run.found(self.name)?, 0),
            // The motion as it was seen may have ended a frame later.
            Shows::Now(channel) => {
                let values = run.channel(channel)?;
                (*values.get(frame).or(values.last())?, frame)
            }
        };
        let exact = exact / self.unit.size();
        let scatter = self.scatter(exact);
        let error = if scatter > 0.0 { scatter * Chance::of(seed, self.name, at as u64).normal() } else { 0.0 };
        let digit = self.digit(exact + error);
        Some(((exact + error) / digit).round() * digit)
    }

    /// The same to so many significant figures, with chance errors of this share of the value.
    pub(in crate::rigs) fn with_figures(self, figures: u8, scatter: f64) -> Self {
        Self { fineness: Fineness::Figures { figures, scatter }, ..self }
    }

    /// Its last digit where it shows that value; both in its unit.
    pub fn digit(&self, value: f64) -> f64 {
        match self.fineness {
            Fineness::Digit { digit, .. } => digit,
            Fineness::Figures { .. } if value == 0.0 || !value.is_finite() => NOTHING,
            Fineness::Figures { figures, .. } => {
                10f64.powi(value.abs().log10().floor() as i32 + 1 - i32::from(figures)).max(NOTHING * 1e-9)
            }
        }
    }

    /// Standard deviation of its chance errors at that value; both in its unit.
    pub fn scatter(&self, value: f64) -> f64 {
        match self.fineness {
            Fineness::Digit { scatter, .. } => scatter,
            Fineness::Figures { scatter, .. } => scatter * value.abs(),
        }
    }

    /// Width of an even distribution with the same standard uncertainty as the meter at that value, both in its unit: its last digit and its
    /// scatter.
    pub fn width(&self, value: f64) -> f64 {
        self.digit(value).hypot(self.scatter(value) * 12f64.sqrt())
    }

    /// What it shows as a number with all its digits, in its unit.
    pub fn shown(&self, value: f64) -> Decimal {
        Decimal::rounded(value, self.digit(value))
    }
}
