//! The demo films, from the small clockmakers' town: what stands before the camera, and how it moves.
//!
//! Each film is a [`FilmCard`]; [`FilmCard::shoot`] sets it up for a seed. Lengths to scale by are in the card.

mod works;
mod yard;

use crate::camera::{Colour, Shoot, Silhouette};
pub use works::{CART_FRICTION, CART_MASS, PENDULUM, SLEDGE_FRICTION, TILT, swung};
use works::{askew, buffer, cabins, cart, sledge};
pub use yard::{FRAME, Falling, KEPT, LET_GO, SUNSHADE, SUNSHADE_DRAG, Throw, WASHER, bounced, steady_speed, thrown};
use yard::{aslant, bounces, sunshades, weight_and_dial};

const WALL: Colour = [186, 178, 160];
const STONE: Colour = [168, 160, 143];
const GROUND: Colour = [120, 112, 98];
const DARK: Colour = [52, 50, 48];
const BRASS: Colour = [196, 148, 52];
const RED: Colour = [176, 58, 44];
const CREAM: Colour = [238, 230, 208];
const BLUE: Colour = [56, 84, 130];
const GREEN: Colour = [60, 104, 78];

/// What can be read off a film's label.
#[derive(Clone, Copy, Debug)]
pub struct FilmCard {
    /// Name in lab sheets and on the command line.
    pub name: &'static str,
    /// Name for people.
    pub title: &'static str,
    /// What is in it that has a known length.
    pub length: &'static str,
    make: fn(u64) -> Shoot,
}

impl FilmCard {
    /// Sets up the film. The seed decides what is left to chance.
    pub fn shoot(&self, seed: u64) -> Shoot {
        (self.make)(seed)
    }
}

/// All demo films.
pub static FILMS: [FilmCard; 17] = [
    FilmCard {
        name: "tower-yard",
        title: "A ball thrown across the tower yard",
        length: "The striped pole at the left is 2.000 m long.",
        make: |_| thrown(Throw::YARD),
    },
    FilmCard {
        name: "buffer",
        title: "A carriage hits a buffer",
        length: "The carriage is 0.400 m long from end plate to end plate.",
        make: |_| buffer(),
    },
    FilmCard {
        name: "sunshades",
        title: "Five paper sunshades with one to five washers",
        length: "The striped pole at the right is 2.000 m long.",
        make: |_| sunshades(),
    },
    FilmCard {
        name: "sledge-10",
        title: "A sledge on a slope of 10°",
        length: "The sledge's runner is 0.800 m long.",
        make: |_| sledge(10.0),
    },
    FilmCard {
        name: "sledge-20",
        title: "A sledge on a slope of 20°",
        length: "The sledge's runner is 0.800 m long.",
        make: |_| sledge(20.0),
    },
    FilmCard {
        name: "sledge-30",
        title: "A sledge on a slope of 30°",
        length: "The sledge's runner is 0.800 m long.",
        make: |_| sledge(30.0),
    },
    FilmCard {
        name: "cabins",
        title: "Two cable cabins pass a mast",
        length: "The red cabin is 4.20 m long, the blue one 3.60 m.",
        make: |_| cabins(),
    },
    FilmCard {
        name: "cart-20",
        title: "A cart pulled by a weight of 20 g",
        length: "The two brass pegs on the track are 1.200 m apart.",
        make: |_| cart(0.020),
    },
    FilmCard {
        name: "cart-40",
        title: "A cart pulled by a weight of 40 g",
        length: "The two brass pegs on the track are 1.200 m apart.",
        make: |_| cart(0.040),
    },
    FilmCard {
        name: "cart-60",
        title: "A cart pulled by a weight of 60 g",
        length: "The two brass pegs on the track are 1.200 m apart.",
        make: |_| cart(0.060),
    },
    FilmCard {
        name: "cart-80",
        title: "A cart pulled by a weight of 80 g",
        length: "The two brass pegs on the track are 1.200 m apart.",
        make: |_| cart(0.080),
    },
    FilmCard {
        name: "cart-100",
        title: "A cart pulled by a weight of 100 g",
        length: "The two brass pegs on the track are 1.200 m apart.",
        make: |_| cart(0.100),
    },
    FilmCard {
        name: "workshop-pendulum",
        title: "A pendulum in the workshop, the camera a little askew",
        length: "The brass rail at the right is 3.500 m long.",
        make: |_| askew(),
    },
    FilmCard {
        name: "bounces",
        title: "A ball that bounces along the yard",
        length: "The striped pole at the left is 2.000 m long.",
        make: |_| bounces(),
    },
    FilmCard {
        name: "yard-aslant",
        title: "The throw across the tower yard, filmed from the gate",
        length: "The brass plates sit on the corners of a frame 4.800 m wide and 2.200 m high; the striped pole is 2.000 m long.",
        make: |_| aslant(),
    },
    FilmCard {
        name: "weight-and-dial",
        title: "A clock weight and a paper dial let go from the tower",
        length: "The striped pole at the right is 2.000 m long.",
        make: |_| weight_and_dial(0.0),
    },
    FilmCard {
        name: "dial-pushed",
        title: "A paper dial pushed off downwards from the tower",
        length: "The striped pole at the right is 2.000 m long.",
        make: |_| weight_and_dial(PUSHED),
    },
];

/// The film of that name.
pub fn film(name: &str) -> Option<&'static FilmCard> {
    FILMS.iter().find(|f| f.name == name)
}

/// Speed at which the dial of the second film is pushed off, in m/s.
pub const PUSHED: f64 = 3.6;

/// Strength of gravity in the demo films, in m/s².
pub const GRAVITY: f64 = 9.81;

/// A pole of red and white parts, standing on `foot`.
fn pole(foot: [f64; 2], length: f64, parts: usize) -> Vec<Silhouette> {
    let part = length / parts as f64;
    let colour = |i: usize| if i.is_multiple_of(2) { RED } else { CREAM };
    (0..parts)
        .map(|i| Silhouette::rectangle(foot[0] - 0.03, foot[1] + i as f64 * part, 0.06, part, colour(i)))
        .collect()
}

/// Courses of stone over a wall.
fn wall(left: f64, bottom: f64, width: f64, height: f64) -> Vec<Silhouette> {
    let mut shapes = vec![Silhouette::rectangle(left, bottom, width, height, WALL)];
    let (course, long) = (height / 9.0, width / 12.0);
    for row in 0..9 {
        for i in 0..12 {
            let shift = if row % 2 == 0 { 0.0 } else { long / 2.0 };
            if (row * 5 + i * 3) % 4 == 0 {
                let (x, y) = (left + shift + i as f64 * long, bottom + f64::from(row) * course);
                shapes.push(Silhouette::rectangle(x, y, 0.9 * long, 0.86 * course, STONE));
            }
        }
    }
    shapes
}

/// A ball with a spot that does not turn with it, so that its middle can be seen.
fn ball(radius: f64, colour: Colour) -> Vec<Silhouette> {
    let centre = [0.0, 0.0];
    vec![Silhouette::Disc { centre, radius, colour }, Silhouette::Disc { centre, radius: 0.45 * radius, colour: CREAM }]
}
