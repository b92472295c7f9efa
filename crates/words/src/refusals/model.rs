//! Edits of the step model.

use zeitmass_core::logbook::ModelRefusal;

use crate::Words;

impl Words for ModelRefusal {
    fn words(&self) -> String {
        match self {
            Self::NoModel => "This lab has no step model. Nothing was changed.".to_owned(),
            Self::NoField { force, field } => format!("The force “{force}” has no {field}. Nothing was changed."),
            Self::NoPositions => "Choose a column of positions, along x or along y. Nothing was changed.".to_owned(),
            Self::OneColumn => "Choose two different columns for x and y. Nothing was changed.".to_owned(),
            Self::TwoTables => "Time and position have to be in one table. Nothing was changed.".to_owned(),
            Self::NotHeldAgainst => "A model is held against a column of times and columns of lengths. Nothing was changed.".to_owned(),
            Self::NoStart => "There is nothing to take the start from: times and positions in one table are needed. Nothing was changed.".to_owned(),
            Self::JustSo { number } => format!("Model {number} is set just so. Change something, then run it again. Nothing was changed."),
            Self::NothingToFit { force } => format!("The force “{force}” has no parameter that can be fitted. Nothing was changed."),
            Self::NoReadings => "A fit needs readings: times and positions in one table. Nothing was changed.".to_owned(),
            Self::NothingFitted { number } => format!("In model {number} no parameter was fitted. Nothing was changed."),
            Self::NotDetermined => "The readings do not determine this parameter. Nothing was changed.".to_owned(),
        }
    }
}
