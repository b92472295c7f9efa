//! Edits of the write-up’s order.

use zeitmass_core::logbook::WriteUpRefusal;

use crate::Words;

impl Words for WriteUpRefusal {
    fn words(&self) -> String {
        match self {
            Self::NotYourOwn => {
                "Only a text of your own can be deleted. Leave this block out instead. Nothing was changed.".to_owned()
            }
            Self::PictureThere => "This picture is in the write-up already. Nothing was changed.".to_owned(),
            Self::NoFrame => "This run has no such frame. No picture was taken.".to_owned(),
            Self::NoFrames => "This film has no such frames. No picture was taken.".to_owned(),
        }
    }
}
