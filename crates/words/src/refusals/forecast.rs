//! Edits of the forecast.

use zeitmass_core::logbook::ForecastRefusal;

use crate::Words;

impl Words for ForecastRefusal {
    fn words(&self) -> String {
        match self {
            Self::NotAsked => "This lab asks for no forecast.".to_owned(),
            Self::NotYet => {
                "The next sketch comes after the next run, and as often as the sheet asks for it. Nothing was changed."
                    .to_owned()
            }
            Self::OtherCurve { channel } => format!("No curve of “{channel}” is asked for. Nothing was changed."),
            Self::OffAxes => "A sketch has one value at a time and stays on its axes. Nothing was changed.".to_owned(),
            Self::NoHypothesis => "This lab asks for no hypothesis. Nothing was changed.".to_owned(),
            Self::Incomplete => {
                "Choose what you raise and what follows from it, and give a reason. Nothing was changed.".to_owned()
            }
            Self::NoPrediction => "This lab asks for no predicted value. Nothing was changed.".to_owned(),
            Self::OtherUnit { wanted, typed } => {
                format!("The answer is in {}, not in {}. Nothing was changed.", wanted.in_words(), typed.in_words())
            }
        }
    }
}
