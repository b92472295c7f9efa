//! How precisely the readings of a column are known.

use serde::{Deserialize, Serialize};
use strum::IntoStaticStr;

use derive_more::From;

use super::{Decimal, QuantityError, Reading, Unit, parse_quantity};

/// Where the uncertainty of a column's readings comes from.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(tag = "by", rename_all = "snake_case")]
pub enum Precision {
    /// From the resolution of each reading.
    #[default]
    Resolution,
    /// The same standard uncertainty for all readings.
    Absolute {
        /// How much.
        amount: Decimal,
        /// Its unit.
        unit: Unit,
    },
    /// A share of each reading, in percent.
    Percent {
        /// How much.
        percent: Decimal,
    },
    /// A scale read by eye: its smallest division, and into how many parts the eye divides it.
    Scale {
        /// Smallest division.
        division: Decimal,
        /// Its unit.
        unit: Unit,
        /// Parts of a division that can be told apart: 1, 2, 5 or 10.
        parts: u8,
    },
    /// The root of each reading: it is a count of things that happen by chance.
    Counting,
    /// Another column holds the standard uncertainty of each reading.
    Column {
        /// Symbol of that column.
        symbol: String,
    },
}

/// A way to state how precisely readings are known; see [`Precision`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum PrecisionBy {
    /// From the resolution of each reading.
    #[default]
    Resolution,
    /// The same for all.
    Absolute,
    /// A share of each.
    Percent,
    /// A scale read by eye.
    Scale,
    /// The root of each.
    Counting,
    /// Another column holds it.
    Column,
}

impl PrecisionBy {
    /// The name in forms.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

/// A precision as typed into a column's form.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PrecisionText {
    /// In which way.
    pub by: PrecisionBy,
    /// Amount, percent, smallest division or symbol.
    pub value: String,
    /// Parts of a division, for a scale.
    pub parts: String,
}

/// Why a precision cannot be taken as it is typed.
#[derive(Clone, Debug, PartialEq, From)]
pub enum PrecisionError {
    /// Its amount cannot be read.
    #[from]
    Quantity(QuantityError),
    /// It is of another dimension than its column.
    OtherUnit {
        /// Unit of the column.
        column: Unit,
    },
    /// It is zero or less.
    NotAboveZero,
    /// Parts of a division nobody reads to.
    Parts,
    /// A percentage that is none.
    Percent,
    /// No column is named.
    NoColumn,
}

impl Precision {
    /// Reads a form. `unit` is that of the column.
    ///
    /// # Errors
    /// [`PrecisionError`], by what to write.
    pub fn read(text: &PrecisionText, unit: &Unit) -> Result<Self, PrecisionError> {
        let quantity = || -> Result<(Decimal, Unit), PrecisionError> {
            let (amount, typed) = parse_quantity(&text.value, unit)?;
            if !typed.same_dimension(unit) {
                return Err(PrecisionError::OtherUnit { column: unit.clone() });
            }
            if amount.value() <= 0.0 {
                return Err(PrecisionError::NotAboveZero);
            }
            Ok((amount, typed))
        };
        Ok(match text.by {
            PrecisionBy::Resolution => Self::Resolution,
            PrecisionBy::Absolute => {
                let (amount, unit) = quantity()?;
                Self::Absolute { amount, unit }
            }
            PrecisionBy::Scale => {
                let (division, unit) = quantity()?;
                let parts = text.parts.parse().ok().filter(|p| [1, 2, 5, 10].contains(p));
                Self::Scale { division, unit, parts: parts.ok_or(PrecisionError::Parts)? }
            }
            PrecisionBy::Percent => {
                let percent = Decimal::parse(text.value.trim().trim_end_matches('%').trim());
                let percent = percent.map_err(QuantityError::from)?;
                if !(percent.value() > 0.0 && percent.value() <= 100.0) {
                    return Err(PrecisionError::Percent);
                }
                Self::Percent { percent }
            }
            PrecisionBy::Counting => Self::Counting,
            PrecisionBy::Column => match text.value.trim() {
                "" => return Err(PrecisionError::NoColumn),
                symbol => Self::Column { symbol: symbol.to_owned() },
            },
        })
    }

    /// The form it was read from.
    pub fn text(&self) -> PrecisionText {
        let shown = |d: &Decimal, u: &Unit| format!("{} {u}", d.as_str()).trim_end().to_owned();
        let (by, value, parts) = match self {
            Self::Resolution => (PrecisionBy::Resolution, String::new(), String::new()),
            Self::Absolute { amount, unit } => (PrecisionBy::Absolute, shown(amount, unit), String::new()),
            Self::Percent { percent } => (PrecisionBy::Percent, percent.as_str().to_owned(), String::new()),
            Self::Scale { division, unit, parts } => (PrecisionBy::Scale, shown(division, unit), parts.to_string()),
            Self::Counting => (PrecisionBy::Counting, String::new(), String::new()),
            Self::Column { symbol } => (PrecisionBy::Column, symbol.clone(), String::new()),
        };
        PrecisionText { by, value, parts }
    }

    /// Standard uncertainty of a reading in coherent SI units; `None` when another column holds it.
    ///
    /// A resolution, and a scale's finest step, count as the full width of a rectangular distribution: u = width/√12
    /// (JCGM 100:2008, 4.3.7). A count of independent events has the standard deviation √n (Poisson's law). Absolute amounts and percentages are taken as standard uncertainties.
    pub fn u_si(&self, reading: &Reading) -> Option<f64> {
        Some(match self {
            Self::Resolution => reading.u_si(),
            Self::Absolute { amount, unit } => amount.value() * unit.size(),
            Self::Percent { percent } => reading.si().abs() * percent.value() / 100.0,
            Self::Scale { division, unit, parts } => division.value() * unit.size() / f64::from(*parts) / 12f64.sqrt(),
            // One where nothing was counted: it could as well have been one.
            Self::Counting => (reading.si().abs() / reading.unit.size()).max(1.0).sqrt() * reading.unit.size(),
            Self::Column { .. } => return None,
        })
    }

    /// Whether the readings of the column scatter evenly over a step (and not like a bell).
    pub fn is_rectangular(&self) -> bool {
        matches!(self, Self::Resolution | Self::Scale { .. })
    }
}
