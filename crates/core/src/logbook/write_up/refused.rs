//! Why an edit of the write-up’s order was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum WriteUpRefusal {
    #[error("Only a text of your own can be deleted. Leave this block out instead. Nothing was changed.")]
    NotYourOwn,
    #[error("This picture is in the write-up already. Nothing was changed.")]
    PictureThere,
    #[error("This run has no such frame. No picture was taken.")]
    NoFrame,
    #[error("This film has no such frames. No picture was taken.")]
    NoFrames,
}
