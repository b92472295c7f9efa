//! Strobe pictures: several instants of a motion in one picture.

use thiserror::Error;

use crate::Rgb;

/// How the pictures are laid over one another.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Blend {
    /// The brightest value of each pixel: for a bright object before a dark ground.
    Lighten,
    /// The darkest value of each pixel: for a dark object before a bright ground.
    Darken,
}

impl Blend {
    /// The word in requests.
    pub fn named(word: &str) -> Option<Self> {
        match word {
            "lighten" => Some(Self::Lighten),
            "darken" => Some(Self::Darken),
            _ => None,
        }
    }
}

/// The pictures are not all of one size.
#[derive(Debug, PartialEq, Eq, Error)]
#[error("The pictures of the film are not all of one size.")]
pub struct SizesDiffer;

/// Lays one more picture over those so far.
///
/// # Errors
/// [`SizesDiffer`]; the picture so far is as it was.
pub fn add(sum: &mut Rgb, next: &Rgb, blend: Blend) -> Result<(), SizesDiffer> {
    if (sum.width, sum.height) != (next.width, next.height) {
        return Err(SizesDiffer);
    }
    for (a, b) in sum.data.iter_mut().zip(&next.data) {
        *a = match blend {
            Blend::Lighten => (*a).max(*b),
            Blend::Darken => (*a).min(*b),
        };
    }
    Ok(())
}
