//! Numbers, units and uncertainties as they are typed, and where readings come from.

use zeitmass_core::quantity::format::{GAP, plain, with_unit};
use zeitmass_core::quantity::{
    Drawn, Footage, NumberError, Origin, Precision, PrecisionError, QuantityError, Reading, UnitError,
};

use crate::Words;

impl Words for NumberError {
    fn words(&self) -> String {
        match self {
            Self::NotANumber(text) => format!("“{text}” is not a number."),
            Self::TooLong(text) => format!("“{text}” is longer than a reading can be."),
        }
    }
}

impl Words for UnitError {
    fn words(&self) -> String {
        match self {
            Self::Unreadable(name) => {
                format!("“{name}” cannot be read as a unit. Write units like m/s^2, kg m/s^2 or N/m.")
            }
            Self::Unknown(name) => format!(
                "“{name}” is not a unit known here. Known are SI units with prefixes, min, h, d, deg, rev, °C, Wh, L, bar and au; put counted things in quotes: \"washers\"."
            ),
            Self::TooLarge => "the exponents of this unit are too large".to_owned(),
        }
    }
}

impl Words for QuantityError {
    fn words(&self) -> String {
        match self {
            Self::Number(why) => why.words(),
            Self::Unit(why) => why.words(),
        }
    }
}

impl Words for PrecisionError {
    fn words(&self) -> String {
        match self {
            Self::Quantity(why) => why.words(),
            Self::OtherUnit { column } => {
                format!("The uncertainty must be in a unit that fits {}.", column.in_words())
            }
            Self::NotAboveZero => "An uncertainty is more than zero.".to_owned(),
            Self::Parts => "A division can be read to 1, 2, 5 or 10 parts.".to_owned(),
            Self::Percent => "A percentage is more than 0 and at most 100.".to_owned(),
            Self::NoColumn => "Name the column that holds the uncertainties by its symbol.".to_owned(),
        }
    }
}

/// In words: `± 0.05 s`.
impl Words for Precision {
    fn words(&self) -> String {
        match self {
            Self::Resolution => "from the digits of each reading".to_owned(),
            Self::Absolute { amount, unit } => format!("± {}", with_unit(&amount.pretty(), unit)),
            Self::Percent { percent } => format!("± {}\u{A0}%", percent.pretty()),
            Self::Scale { division, unit, parts: 1 } => format!("scale of {}", with_unit(&division.pretty(), unit)),
            Self::Scale { division, unit, parts } => {
                format!("scale of {}, read to 1/{parts}", with_unit(&division.pretty(), unit))
            }
            Self::Counting => "± √n, a count".to_owned(),
            Self::Column { symbol } => format!("± {symbol}"),
        }
    }
}

/// Where a reading came from.
impl Words for Origin {
    fn words(&self) -> String {
        match self {
            Self::Typed => "typed by hand".to_owned(),
            Self::Split { of, start, end } => format!("split, {of}, frames {start} to {end}"),
            Self::Area { run, start, end } => format!("area, run {run}, frames {start} to {end}"),
            Self::Tape { of, frame, .. } => format!("tape, {of}, frame {frame}"),
            Self::Mark { film, frame, followed, .. } => {
                let film = Footage::Film(*film);
                format!("{} in {film}, frame {frame}", if *followed { "followed" } else { "marked" })
            }
            Self::Moment { what, of, frame, formula, .. } => format!("{what} at frame {frame} of {of}: {formula}"),
            Self::Meter { name, run, frame: None } => format!("{name}, run {run}"),
            Self::Meter { name, run, frame: Some(frame) } => format!("{name}, run {run}, frame {frame}"),
            Self::Recorded { run, frame } => format!("recorded, run {run}, frame {frame}"),
            Self::Setting { name, run: Some(run) } => format!("setting “{name}”, run {run}"),
            Self::Setting { name, run: None } => format!("setting “{name}”"),
            Self::Curve { drawn } => drawn.words(),
            Self::Brought { there } => format!("imported from a file, not checked; there: {}", there.words()),
        }
    }
}

/// Where it comes from and whether it follows.
impl Words for Drawn {
    fn words(&self) -> String {
        let state = if self.frozen { "frozen" } else { "follows the curve" };
        let before = self.before.as_ref().map(|b| format!(", was {}", b.pretty())).unwrap_or_default();
        format!("{}; {state}{before}", self.said)
    }
}

/// Where it came from and how finely it was read, for the person who points at it.
impl Words for Reading {
    fn words(&self) -> String {
        if self.origin.drawn().is_some() {
            return self.origin.words();
        }
        let unit = self.unit.pretty();
        let unit = if unit.is_empty() { unit } else { format!("{GAP}{unit}") };
        format!("{}; resolution {}{unit}", self.origin.words(), plain(self.resolution))
    }
}
