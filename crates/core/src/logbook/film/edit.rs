//! Edits of the films. An edit holds what the person typed or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::motion::{FilmFacts, TrailId};
use crate::record::TableId;

/// What a person can do to a film.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum FilmEdit {
    /// Puts a film on the stage.
    ///
    /// The server knows the film; a page only names it, in a request of its own.
    #[serde(skip_deserializing)]
    ChooseFilm {
        /// What is known of it.
        facts: Box<FilmFacts>,
    },
    /// Lays a ruler on something of known length, or moves one.
    PlaceRuler {
        /// Name of the film.
        film: String,
        /// Which ruler; a new one without.
        index: Option<u32>,
        /// Its ends in px; centre and rim of a circle.
        ends: [[f64; 2]; 2],
        /// Length or radius as typed.
        typed: String,
        /// Whether it is a circle.
        circle: bool,
    },
    /// Takes a ruler away.
    DeleteRuler {
        /// Name of the film.
        film: String,
        /// Which ruler.
        index: u32,
    },
    /// Lays a rectangle of known size in the plane of the motion, or moves it: it sets right what was filmed at a slant.
    PlacePlane {
        /// Name of the film.
        film: String,
        /// Its corners in px: lower left, lower right, upper right, upper left.
        corners: [[f64; 2]; 4],
        /// Its width and height as typed.
        typed: [String; 2],
    },
    /// Takes the rectangle away.
    DeletePlane {
        /// Name of the film.
        film: String,
    },
    /// Places the axes.
    PlaceAxes {
        /// Name of the film.
        film: String,
        /// Origin in px.
        origin: [f64; 2],
        /// Direction of +x as typed, such as `-20°`.
        angle: String,
        /// Whether +y points to the other side.
        flipped: bool,
    },
    /// Begins a trail, with a table of its own or in one there is.
    AddTrail {
        /// Name of the film.
        film: String,
        /// Name of the object.
        name: String,
        /// The table its marks go into; a new one without.
        table: Option<TableId>,
    },
    /// Renames a trail.
    NameTrail {
        /// Which trail.
        trail: TrailId,
        /// Name of the object.
        name: String,
    },
    /// Deletes a trail, its marks and their rows.
    DeleteTrail {
        /// Which trail.
        trail: TrailId,
    },
    /// Marks an object in a frame, or moves its mark.
    PlaceMark {
        /// Which trail.
        trail: TrailId,
        /// Number of the frame.
        frame: u32,
        /// Where, in px.
        at: [f64; 2],
    },
    /// Marks placed by the program.
    ///
    /// Asked for by the server while it follows an object, never by a page.
    #[serde(skip_deserializing)]
    PlaceMarks {
        /// Which trail.
        trail: TrailId,
        /// Frame and place in px.
        marks: Vec<(u32, [f64; 2])>,
    },
    /// Deletes the marks from one frame to another.
    DeleteMarks {
        /// Which trail.
        trail: TrailId,
        /// First frame.
        from: u32,
        /// Last frame.
        to: u32,
    },
    /// Adds columns worked out from a trail's marks.
    AddFromTrail {
        /// Which trail.
        trail: TrailId,
        /// What.
        what: FromTrail,
        /// Rows of the parabola; none for differences of the neighbours.
        rows: Option<u8>,
    },
}

/// What can be worked out from a trail's marks.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FromTrail {
    /// Both components of the velocity.
    Velocity,
    /// Both components of the acceleration.
    Acceleration,
    /// Distance from the origin.
    Distance,
    /// Angle from the x axis.
    Angle,
}
