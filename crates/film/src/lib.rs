//! Pixels: following an object through a film, strobe pictures, films from files of stills, and the simulated camera
//! that renders the demo films.
//!
//! Positions are in pixels from the upper left corner of the picture, x to the right, y down; the centre of the first pixel
//! is (0.5, 0.5).

pub mod camera;
pub mod catalogue;
pub mod follow;
mod picture;
pub mod stills;
pub mod strobe;

pub use picture::{Grey, MOST_PIXELS, PictureError, Rgb, jpeg};
