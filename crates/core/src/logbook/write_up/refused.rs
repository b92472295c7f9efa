//! Why an edit of the write-up’s order was refused.

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum WriteUpRefusal {
    NotYourOwn,
    PictureThere,
    NoFrame,
    NoFrames,
}
