//! Why a constant cannot be found or compared, and why a value cannot be entered from a curve or a result.

use zeitmass_core::logbook::DrawError;
use zeitmass_core::result::{CalibrationError, ConstantError, NotComparable};

use crate::Words;

impl Words for ConstantError {
    fn words(&self) -> String {
        match self {
            Self::NoLine(why) => why.words(),
            Self::Law(why) => why.words(),
            Self::NoSuchParameter { symbol } => {
                format!("The curve on the graph has no {symbol}. Choose another source.")
            }
            Self::NoModel => "This model was deleted. Choose another source.".to_owned(),
            Self::NothingFitted { number } => format!("In model {number} no parameter was fitted."),
            Self::Calibration(why) => why.words(),
        }
    }
}

impl Words for CalibrationError {
    fn words(&self) -> String {
        match self {
            Self::NoReading { symbol } => format!("The row of the unknown has no {symbol} yet."),
            Self::NoCurve => "There is no curve on the graph yet.".to_owned(),
            Self::OtherUnit => "The reading is not in a unit of the vertical axis.".to_owned(),
            Self::OutOfReach => "The curve does not reach this reading near the data.".to_owned(),
            Self::SeveralPlaces => "The curve has this height at more than one place.".to_owned(),
        }
    }
}

impl Words for NotComparable {
    fn words(&self) -> String {
        let (accepted, found) = (self.accepted.in_words(), self.found.in_words());
        format!(
            "The accepted value is in {accepted}, the result in {found}: they cannot be compared. Look at the law or at the accepted value."
        )
    }
}

impl Words for DrawError {
    fn words(&self) -> String {
        match self {
            Self::Gone { of } => format!("The {} it came from is gone.", <&str>::from(*of)),
            Self::Unsure { what } => {
                format!("The uncertainty of {what} cannot be determined from so few points. One more point would do.")
            }
            Self::NoParameter { symbol } => format!("The curve has no {symbol}."),
            Self::OutOfReach => "The curve no longer reaches this value.".to_owned(),
            Self::TooLarge { what } => format!("{what} is not a number that a cell can hold."),
            Self::Incomplete => "This result is not complete yet.".to_owned(),
            Self::OtherColumns => "The graph it came from now shows other columns.".to_owned(),
            Self::LeadsBack => "The curve is now drawn from this table.".to_owned(),
            Self::Look(why) => why.words(),
            Self::Fit(why) => why.words(),
            Self::Constant(why) => why.words(),
        }
    }
}
