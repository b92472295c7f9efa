//! Films from the tower yard and the summer fair: things that are thrown and fall.

use std::f64::consts::{PI, TAU};

use super::{BLUE, BRASS, CREAM, DARK, GRAVITY, GREEN, GROUND, RED, STONE, ball, pole, wall};
use crate::camera::{Camera, Mover, Shoot, Silhouette};

/// A throw without air.
#[derive(Clone, Copy, Debug)]
pub struct Throw {
    /// Where it begins, in m.
    pub from: [f64; 2],
    /// Velocity at the start, in m/s.
    pub velocity: [f64; 2],
}

impl Throw {
    /// The throw of the demo film.
    pub const YARD: Self = Self { from: [-2.55, 0.55], velocity: [4.6, 5.3] };

    /// Place at a time: x = x₀ + vₓt, y = y₀ + v_y t − gt²/2.
    pub fn at(&self, t: f64) -> [f64; 2] {
        [self.from[0] + self.velocity[0] * t, self.from[1] + self.velocity[1] * t - 0.5 * GRAVITY * t * t]
    }
}

/// A ball thrown in the tower yard.
pub fn thrown(throw: Throw) -> Shoot {
    let camera = Camera { metres_a_pixel: 0.01, aim: [0.0, 1.55], rate: 60.0, ..Camera::default() };
    let mut scenery = wall(-3.4, -0.1, 6.8, 3.6);
    scenery.push(Silhouette::rectangle(-4.0, -0.6, 8.0, 0.6, GROUND));
    scenery.extend(pole([-2.95, 0.0], 2.0, 8));
    let path = move |t: f64| (throw.at(t), 0.0);
    let mover = Mover { name: "ball".to_owned(), shapes: ball(0.1, DARK), path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 66 }
}

/// Falls from rest against quadratic drag: v = v∞ tanh(gt/v∞), s = (v∞²/g) ln cosh(gt/v∞).
fn fallen(terminal: f64, t: f64) -> f64 {
    if t <= 0.0 { 0.0 } else { terminal * terminal / GRAVITY * (GRAVITY * t / terminal).cosh().ln() }
}

/// Mass of one washer and of an empty sunshade, in kg.
pub const WASHER: f64 = 0.0025;
/// See [`WASHER`].
pub const SUNSHADE: f64 = 0.0018;
/// Drag per speed squared of a sunshade, ½ρc_D A, in kg/m.
pub const SUNSHADE_DRAG: f64 = 0.0125;

/// Steady speed of a sunshade with so many washers, in m/s: v∞ = √(mg/(½ρc_D A)).
pub fn steady_speed(washers: usize) -> f64 {
    ((SUNSHADE + washers as f64 * WASHER) * GRAVITY / SUNSHADE_DRAG).sqrt()
}

/// Five sunshades let go together.
pub(super) fn sunshades() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0125, aim: [0.0, 2.0], rate: 60.0, ..Camera::default() };
    let colours = [RED, BLUE, GREEN, BRASS, DARK];
    let movers = (1..=5).zip(colours).map(|(washers, colour)| {
        let (x, terminal) = (-2.7 + 0.95 * washers as f64, steady_speed(washers));
        // It lands on its lowest washer and stays there.
        let path = move |t: f64| ([x, (3.85 - fallen(terminal, t - 0.1)).max(0.24)], 0.0);
        let mut shapes = vec![Silhouette::Polygon {
            corners: (0..=12)
                .map(|i| f64::from(i) / 12.0 * PI)
                .map(|a| [0.26 * a.cos(), 0.20 * a.sin() - 0.02])
                .collect(),
            colour,
        }];
        shapes.push(Silhouette::rectangle(-0.012, -0.2, 0.024, 0.2, DARK));
        for w in 0..washers {
            shapes.push(Silhouette::rectangle(-0.05, -0.22 + 0.035 * w as f64, 0.1, 0.022, CREAM));
        }
        Mover { name: format!("{washers} washers"), shapes, path: Box::new(path) }
    });
    let mut scenery = vec![Silhouette::rectangle(-4.0, -0.6, 8.0, 0.6, GROUND)];
    scenery.extend(pole([3.3, 0.0], 2.0, 8));
    Shoot { camera, movers: movers.collect(), scenery, front: Vec::new(), frames: 120 }
}

/// A body that falls against quadratic drag.
#[derive(Clone, Copy, Debug)]
pub struct Falling {
    /// Mass, in kg.
    pub mass: f64,
    /// Drag per speed squared, ½ρc_D A, in kg/m.
    pub drag: f64,
    /// Speed at which it is pushed off downwards, in m/s.
    pub pushed: f64,
}

impl Falling {
    /// A clock weight of brass, 6 cm across and 10 cm high: c_D ≈ 0.9.
    pub const WEIGHT: Self = Self { mass: 0.800, drag: 0.0015, pushed: 0.0 };
    /// A paper dial, 20 cm across: c_D ≈ 1.1.
    pub const DIAL: Self = Self { mass: 0.0043, drag: 0.0205, pushed: 0.0 };

    /// How far it has come down after a time, in m: s = (v∞²/g)·ln(cosh τ + (v₀/v∞)·sinh τ) with τ = gt/v∞, from v̇ = g − (k/m)v².
    pub fn fallen(&self, t: f64) -> f64 {
        if t <= 0.0 {
            return 0.0;
        }
        let steady = (self.mass * GRAVITY / self.drag).sqrt();
        let tau = GRAVITY * t / steady;
        steady * steady / GRAVITY * (tau.cosh() + self.pushed / steady * tau.sinh()).ln()
    }
}

/// When they are let go, in s.
pub const LET_GO: f64 = 0.1;
/// Height from which they are let go, in m.
const GALLERY: f64 = 3.80;

/// How far a dial swings to the side as it sinks, in m, and its tilt, in rad: it takes a while until it does.
fn swing(t: f64) -> (f64, f64) {
    if t <= 0.0 {
        return (0.0, 0.0);
    }
    let (grown, turn) = (1.0 - (-t / 0.6).exp(), TAU * t / 0.95);
    (0.11 * grown * turn.sin(), 0.42 * grown * turn.cos())
}

fn dial(falling: Falling, x: f64) -> Mover {
    let path = move |t: f64| {
        let (aside, tilt) = swing(t - LET_GO);
        let y = GALLERY - falling.fallen(t - LET_GO);
        // On the ground it lies flat, where it came down.
        if y > 0.06 { ([x + aside, y], tilt) } else { ([x, 0.06], 0.0) }
    };
    // Seen from the side, with the hub at its middle.
    let shapes = vec![
        Silhouette::rectangle(-0.1, -0.009, 0.2, 0.018, CREAM),
        Silhouette::Disc { centre: [0.0, 0.0], radius: 0.052, colour: DARK },
        Silhouette::Disc { centre: [0.0, 0.0], radius: 0.026, colour: BRASS },
    ];
    Mover { name: "dial".to_owned(), shapes, path: Box::new(path) }
}

/// A clock weight and a paper dial let go together, or a dial alone that is pushed off downwards.
pub(super) fn weight_and_dial(pushed: f64) -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0115, aim: [0.0, 1.95], rate: 60.0, ..Camera::default() };
    let mut scenery = wall(-3.4, -0.1, 6.8, 4.6);
    scenery.push(Silhouette::rectangle(-4.0, -0.6, 8.0, 0.6, GROUND));
    scenery.extend(pole([2.4, 0.0], 2.0, 8));
    let mut movers = vec![dial(Falling { pushed, ..Falling::DIAL }, 0.5)];
    if pushed == 0.0 {
        let path = |t: f64| ([-0.9, (GALLERY - Falling::WEIGHT.fallen(t - LET_GO)).max(0.05)], 0.0);
        let shapes = vec![
            Silhouette::rectangle(-0.045, -0.07, 0.09, 0.14, DARK),
            Silhouette::Disc { centre: [0.0, 0.0], radius: 0.03, colour: BRASS },
        ];
        movers.push(Mover { name: "weight".to_owned(), shapes, path: Box::new(path) });
    }
    Shoot { camera, scenery, movers, front: Vec::new(), frames: if pushed == 0.0 { 164 } else { 140 } }
}

/// Share of its energy that the ball keeps at each bounce.
pub const KEPT: f64 = 0.72;

/// Height of the bouncing ball's middle over its height at rest, in m: let go from 1.50 m, it keeps [`KEPT`] of m g h at each bounce.
pub fn bounced(t: f64) -> f64 {
    let mut height = 1.50;
    // It starts at its greatest height: half a flight is over.
    let mut since = t + (2.0 * height / GRAVITY).sqrt();
    loop {
        let flight = 2.0 * (2.0 * height / GRAVITY).sqrt();
        if since <= flight {
            return 0.5 * GRAVITY * since * (flight - since);
        }
        since -= flight;
        height *= KEPT;
        if height < 1e-4 {
            return 0.0;
        }
    }
}

pub(super) fn bounces() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0075, aim: [0.0, 0.95], rate: 60.0, ..Camera::default() };
    let mut scenery = wall(-2.6, -0.1, 5.2, 2.6);
    scenery.push(Silhouette::rectangle(-3.0, -0.6, 6.0, 0.6, GROUND));
    scenery.extend(pole([-2.15, 0.0], 2.0, 8));
    let path = |t: f64| ([-1.75 + 0.95 * t, 0.09 + bounced(t)], 0.0);
    let mover = Mover { name: "ball".to_owned(), shapes: ball(0.09, BLUE), path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 230 }
}

/// Corners of the frame in the plane of the throw, in m: lower left, lower right, upper right, upper left.
pub const FRAME: [[f64; 2]; 4] = [[-2.4, 0.1], [2.4, 0.1], [2.4, 2.3], [-2.4, 2.3]];

/// The throw of the tower yard, filmed at a slant, with a frame of known size in its plane.
pub(super) fn aslant() -> Shoot {
    let camera = Camera {
        metres_a_pixel: 0.01,
        aim: [-0.45, 1.35],
        slant: 35.0 * TAU / 360.0,
        distance: 7.0,
        rate: 60.0,
        ..Camera::default()
    };
    let mut scenery = vec![Silhouette::rectangle(-5.0, -3.0, 60.0, 3.0, GROUND)];
    scenery.extend(pole([-2.95, 0.0], 2.0, 8));
    let [[left, bottom], _, [right, top], _] = FRAME;
    for y in [bottom, top] {
        scenery.push(Silhouette::rectangle(left, y - 0.02, right - left, 0.04, STONE));
    }
    for x in [left, right] {
        scenery.push(Silhouette::rectangle(x - 0.02, bottom, 0.04, top - bottom, STONE));
    }
    for [x, y] in FRAME {
        // A plate of four fields: its middle is the corner.
        scenery.push(Silhouette::rectangle(x - 0.08, y - 0.08, 0.16, 0.16, BRASS));
        scenery.push(Silhouette::rectangle(x - 0.08, y, 0.08, 0.08, DARK));
        scenery.push(Silhouette::rectangle(x, y - 0.08, 0.08, 0.08, DARK));
    }
    let path = |t: f64| (Throw::YARD.at(t), 0.0);
    let mover = Mover { name: "ball".to_owned(), shapes: ball(0.1, RED), path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 66 }
}
