//! Why an edit of films, rulers, axes, trails and marks was refused.

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum FilmRefusal {
    #[error("The direction of the x axis is an angle, such as −20°. Nothing was changed.")]
    AngleWanted,
    #[error("{0}")]
    Facts(String),
    #[error("This place lies at or beyond the horizon of the plane that the rectangle tells. Nothing was changed.")]
    Beyond,
    #[error("Marks of another trail have to be in that table. Nothing was added.")]
    OtherTable,
    #[error("A mark lies within the film's frames and picture. Nothing was marked.")]
    Outside,
    #[error("The table of this trail is full. Nothing was marked.")]
    TableFull,
    #[error("“{typed}” is no {what}. Write it with its unit, such as 2.000 m. Nothing was changed.")]
    NoLength { typed: String, what: &'static str },
    #[error("The ends of the ruler lie too close together to give a scale. Nothing was changed.")]
    EndsTogether,
    #[error(
        "These corners make no rectangle seen from the side: lower left, lower right, upper right and upper left lie round it in this order. Nothing was changed."
    )]
    NoRectangle,
}
