//! Why an edit of films, rulers, axes, trails and marks was refused.

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum FilmRefusal {
    AngleWanted,
    Frames { most: usize },
    Picture { most: u32 },
    Beyond,
    OtherTable,
    Outside,
    TableFull,
    NoLength { typed: String, what: &'static str },
    EndsTogether,
    NoRectangle,
}
