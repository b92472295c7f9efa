//! Edits of the claim.

use zeitmass_core::logbook::ClaimRefusal;

use crate::Words;

impl Words for ClaimRefusal {
    fn words(&self) -> String {
        match self {
            Self::NoClaim => "State the claim first, then choose what shows it. Nothing was changed.".to_owned(),
            Self::TwoTables => "A claim is about two columns of one table. Nothing was changed.".to_owned(),
            Self::OneQuantity => "Choose two different quantities for a claim. Nothing was changed.".to_owned(),
            Self::OtherTable => "This row is in another table than the claim. Nothing was changed.".to_owned(),
        }
    }
}
