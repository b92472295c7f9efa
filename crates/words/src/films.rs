//! Why following an object through a film stops and asks.

use zeitmass_film::follow::Question;

use crate::Words;

/// Inside a sentence.
impl Words for Question {
    fn words(&self) -> String {
        let said = match self {
            Self::PoorMatch => "nothing near looks enough like the object",
            Self::Leaves => "the object leaves the picture",
            Self::TwoPlaces => "two places look alike",
        };
        said.to_owned()
    }
}
