//! Edits of films, rulers, axes, trails and marks.

use zeitmass_core::logbook::FilmRefusal;

use crate::Words;

impl Words for FilmRefusal {
    fn words(&self) -> String {
        match self {
            Self::AngleWanted => "The direction of the x axis is an angle, such as −20°. Nothing was changed.".to_owned(),
            Self::Frames { most } => {
                format!("A film has 2 to {most} frames, one after the other in time. It was not taken into the logbook.")
            }
            Self::Picture { most } => format!("A film’s picture is 1 to {most} pixels wide and high. It was not taken into the logbook."),
            Self::Beyond => "This place lies at or beyond the horizon of the plane of the rectangle. Nothing was changed.".to_owned(),
            Self::OtherTable => "Marks of another trail have to be in that table. Nothing was added.".to_owned(),
            Self::Outside => "A mark lies within the film's frames and picture. Nothing was marked.".to_owned(),
            Self::TableFull => "The table of this trail is full. Nothing was marked.".to_owned(),
            Self::NoLength { typed, what } => format!("“{typed}” is not a {what}. Write it with its unit, such as 2.000 m. Nothing was changed."),
            Self::EndsTogether => "The ends of the ruler lie too close together to give a scale. Nothing was changed.".to_owned(),
            Self::NoRectangle => "These corners do not go round a rectangle: they are lower left, lower right, upper right, upper left, in this order. Nothing was changed.".to_owned(),
        }
    }
}
