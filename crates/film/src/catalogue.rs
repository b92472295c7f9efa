//! The demo films, from the small clockmakers' town: what stands before the camera, and how it moves.
//!
//! Each film is a [`FilmCard`]; [`FilmCard::shoot`] sets it up for a seed. Lengths to scale by are in the card.

use std::f64::consts::{PI, TAU};

use crate::camera::{Camera, Colour, Mover, Pose, Shape, Shoot};

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
pub static FILMS: [FilmCard; 15] = [
    FilmCard {
        name: "tower-yard",
        title: "A ball thrown across the tower yard",
        length: "The striped pole at the left is 2.000 m long.",
        make: |_| thrown(Throw::YARD),
    },
    FilmCard {
        name: "buffer",
        title: "A carriage meets a buffer",
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
];

/// The film of that name.
pub fn film(name: &str) -> Option<&'static FilmCard> {
    FILMS.iter().find(|f| f.name == name)
}

/// Strength of gravity in the demo films, in m/s².
pub const GRAVITY: f64 = 9.81;

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

/// A pole of red and white parts, standing on `foot`.
fn pole(foot: [f64; 2], length: f64, parts: usize) -> Vec<Shape> {
    let part = length / parts as f64;
    let colour = |i: usize| if i.is_multiple_of(2) { RED } else { CREAM };
    (0..parts).map(|i| Shape::rectangle(foot[0] - 0.03, foot[1] + i as f64 * part, 0.06, part, colour(i))).collect()
}

/// Courses of stone over a wall.
fn wall(left: f64, bottom: f64, width: f64, height: f64) -> Vec<Shape> {
    let mut shapes = vec![Shape::rectangle(left, bottom, width, height, WALL)];
    let (course, long) = (height / 9.0, width / 12.0);
    for row in 0..9 {
        for i in 0..12 {
            let shift = if row % 2 == 0 { 0.0 } else { long / 2.0 };
            if (row * 5 + i * 3) % 4 == 0 {
                let (x, y) = (left + shift + i as f64 * long, bottom + f64::from(row) * course);
                shapes.push(Shape::rectangle(x, y, 0.9 * long, 0.86 * course, STONE));
            }
        }
    }
    shapes
}

/// A ball with a spot that does not turn with it, so that its middle can be seen.
fn ball(radius: f64, colour: Colour) -> Vec<Shape> {
    let centre = [0.0, 0.0];
    vec![Shape::Disc { centre, radius, colour }, Shape::Disc { centre, radius: 0.45 * radius, colour: CREAM }]
}

/// A ball thrown in the tower yard.
pub fn thrown(throw: Throw) -> Shoot {
    let camera = Camera { metres_a_pixel: 0.01, aim: [0.0, 1.55], rate: 60.0, ..Camera::default() };
    let mut scenery = wall(-3.4, -0.1, 6.8, 3.6);
    scenery.push(Shape::rectangle(-4.0, -0.6, 8.0, 0.6, GROUND));
    scenery.extend(pole([-2.95, 0.0], 2.0, 8));
    let path = move |t: f64| (throw.at(t), 0.0);
    let mover = Mover { name: "ball".to_owned(), shapes: ball(0.1, DARK), path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 66 }
}

/// A carriage that runs against a spring buffer: constant velocity before, half a swing while touching, constant after.
fn buffer() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0035, aim: [0.0, 0.35], rate: 60.0, ..Camera::default() };
    // Velocity before and after in m/s; it touches at this time and place for this long.
    let (before, after, touch, face, long) = (0.82, -0.61, 1.35, 0.62, 0.18);
    let path = move |t: f64| -> Pose {
        let x = if t < touch {
            face + before * (t - touch)
        } else if t < touch + long {
            // The velocity goes over smoothly: v = before + (after − before)(1 − cos πs)/2.
            let s = (t - touch) / long;
            face + long * (before * s + (after - before) * (s - (PI * s).sin() / PI) / 2.0)
        } else {
            face + long * (before + after) / 2.0 + after * (t - touch - long)
        };
        ([x, 0.12], 0.0)
    };
    let mut shapes =
        vec![Shape::rectangle(-0.2, -0.05, 0.4, 0.12, BLUE), Shape::rectangle(-0.16, 0.07, 0.28, 0.03, CREAM)];
    for x in [-0.13, 0.13] {
        shapes.push(Shape::Disc { centre: [x, -0.06], radius: 0.04, colour: DARK });
    }
    shapes.push(Shape::Disc { centre: [0.0, 0.01], radius: 0.03, colour: CREAM });
    let mut scenery =
        vec![Shape::rectangle(-1.3, -0.3, 2.6, 0.32, GROUND), Shape::rectangle(-1.3, 0.0, 2.6, 0.02, DARK)];
    scenery.push(Shape::rectangle(0.9, 0.02, 0.08, 0.3, DARK));
    scenery.push(Shape::rectangle(0.83, 0.09, 0.07, 0.06, BRASS));
    let mover = Mover { name: "carriage".to_owned(), shapes, path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 180 }
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
fn sunshades() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0125, aim: [0.0, 2.0], rate: 60.0, ..Camera::default() };
    let colours = [RED, BLUE, GREEN, BRASS, DARK];
    let movers = (1..=5).zip(colours).map(|(washers, colour)| {
        let (x, terminal) = (-2.7 + 0.95 * washers as f64, steady_speed(washers));
        // It lands on its lowest washer and stays there.
        let path = move |t: f64| ([x, (3.85 - fallen(terminal, t - 0.1)).max(0.24)], 0.0);
        let mut shapes = vec![Shape::Polygon {
            corners: (0..=12)
                .map(|i| f64::from(i) / 12.0 * PI)
                .map(|a| [0.26 * a.cos(), 0.20 * a.sin() - 0.02])
                .collect(),
            colour,
        }];
        shapes.push(Shape::rectangle(-0.012, -0.2, 0.024, 0.2, DARK));
        for w in 0..washers {
            shapes.push(Shape::rectangle(-0.05, -0.22 + 0.035 * w as f64, 0.1, 0.022, CREAM));
        }
        Mover { name: format!("{washers} washers"), shapes, path: Box::new(path) }
    });
    let mut scenery = vec![Shape::rectangle(-4.0, -0.6, 8.0, 0.6, GROUND)];
    scenery.extend(pole([3.3, 0.0], 2.0, 8));
    Shoot { camera, movers: movers.collect(), scenery, front: Vec::new(), frames: 120 }
}

/// Sliding friction of the sledge.
pub const SLEDGE_FRICTION: f64 = 0.08;

/// A sledge let go on a slope of so many degrees: a = g(sin α − μ cos α).
fn sledge(degrees: f64) -> Shoot {
    let slope = degrees * TAU / 360.0;
    let (sin, cos) = slope.sin_cos();
    let acceleration = GRAVITY * (sin - SLEDGE_FRICTION * cos);
    let top = [-3.6 * cos, 3.6 * sin];
    let at = move |s: f64, up: f64| [top[0] + s * cos + up * sin, top[1] - s * sin + up * cos];
    let length = 6.4;
    let frames = ((2.0 * length / acceleration).sqrt() * 30.0) as usize + 12;
    let path = move |t: f64| {
        let t = (t - 0.3).max(0.0);
        (at(0.5 * acceleration * t * t, 0.30), -slope)
    };
    // Measured from the rider's cap, which is what is marked.
    let mut shapes =
        vec![Shape::rectangle(-0.4, -0.29, 0.8, 0.05, DARK), Shape::rectangle(-0.34, -0.12, 0.66, 0.06, RED)];
    for x in [-0.25, 0.2] {
        shapes.push(Shape::rectangle(x, -0.24, 0.05, 0.12, DARK));
    }
    shapes.push(Shape::Disc { centre: [0.0, 0.0], radius: 0.14, colour: BLUE });
    shapes.push(Shape::Disc { centre: [0.0, 0.0], radius: 0.06, colour: CREAM });
    let corner = |s: f64, up: f64| at(s, up);
    let hill = vec![corner(-2.0, 0.0), corner(12.0, 0.0), corner(12.0, -6.0), corner(-2.0, -6.0)];
    let camera = Camera { metres_a_pixel: 0.0135, aim: [-0.2 * cos, 0.4 * sin + 0.2], rate: 30.0, ..Camera::default() };
    let scenery = vec![Shape::Polygon { corners: hill, colour: [226, 228, 230] }];
    let mover = Mover { name: "sledge".to_owned(), shapes, path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames }
}

/// Two cable cabins pass a mast in opposite directions, each at its own steady speed.
fn cabins() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.04, aim: [0.0, 4.0], rate: 30.0, ..Camera::default() };
    let cabin = |length: f64, colour: Colour| {
        let mut shapes = vec![Shape::rectangle(-length / 2.0, -1.0, length, 2.0, colour)];
        // A wide window, a door and a badge, so that no part of it looks like another.
        shapes.push(Shape::rectangle(-0.4 * length, 0.5, 0.6 * length, 0.35, CREAM));
        shapes.push(Shape::rectangle(0.25 * length, -0.9, 0.16 * length, 1.6, DARK));
        shapes.push(Shape::Disc { centre: [0.0, -0.05], radius: 0.38, colour: CREAM });
        shapes.push(Shape::Disc { centre: [0.0, -0.05], radius: 0.2, colour: DARK });
        shapes.push(Shape::rectangle(-0.06, 1.0, 0.12, 1.1, DARK));
        shapes
    };
    let moving = |name: &str, shapes, start: f64, velocity: f64, height: f64| Mover {
        name: name.to_owned(),
        shapes,
        path: Box::new(move |t: f64| ([start + velocity * t, height], 0.0)),
    };
    let mut scenery = vec![Shape::rectangle(-14.0, -4.0, 28.0, 1.6, GROUND)];
    for height in [4.1, 9.1] {
        scenery.push(Shape::rectangle(-14.0, height, 28.0, 0.06, DARK));
    }
    scenery.push(Shape::rectangle(-0.15, -2.5, 0.3, 13.0, DARK));
    let movers = vec![
        moving("red cabin", cabin(4.2, RED), -9.0, 3.1, 7.0),
        moving("blue cabin", cabin(3.6, BLUE), 8.0, -2.4, 2.0),
    ];
    Shoot { camera, scenery, movers, front: Vec::new(), frames: 180 }
}

/// Mass of cart and weight together, in kg: weights are moved from the cart to the cord.
pub const CART_MASS: f64 = 0.600;
/// What holds the cart back, in N.
pub const CART_FRICTION: f64 = 0.030;
/// How far the weight falls before it lands, in m.
const FALL: f64 = 0.90;

/// A cart on a level track, pulled by a cord with a falling weight of that mass in kg: a = (m g − R)/M until the weight lands,
/// and −R/(M − m) from then on.
fn cart(weight: f64) -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0045, aim: [-0.1, 0.36], rate: 30.0, ..Camera::default() };
    let pull = (weight * GRAVITY - CART_FRICTION) / CART_MASS;
    let slowing = CART_FRICTION / (CART_MASS - weight);
    let landing = (2.0 * FALL / pull).sqrt();
    let gone = move |t: f64| {
        let (t, late) = (t - 0.2, t - 0.2 - landing);
        if t < 0.0 {
            0.0
        } else if late < 0.0 {
            0.5 * pull * t * t
        } else {
            FALL + pull * landing * late - 0.5 * slowing * late * late
        }
    };
    // The track's top, the pulley's middle, and where the cord hangs down behind it.
    let (top, pulley, cord) = (0.70, [0.95, 0.74], 0.006);
    let right = pulley[0] + 0.05;
    // Cords reach farther than they can be seen: what stands in front hides the rest.
    let mut shapes = vec![
        Shape::rectangle(0.0, 0.0, 2.0, cord, DARK),
        Shape::rectangle(-0.15, -0.04, 0.30, 0.09, GREEN),
        Shape::rectangle(-0.12, 0.05, 0.24, 0.02, CREAM),
    ];
    for x in [-0.1, 0.1] {
        shapes.push(Shape::Disc { centre: [x, -0.05], radius: 0.035, colour: DARK });
    }
    for (radius, colour) in [(0.032, CREAM), (0.014, DARK)] {
        shapes.push(Shape::Disc { centre: [0.0, 0.005], radius, colour });
    }
    let weight = vec![
        Shape::rectangle(-cord / 2.0, 0.0, cord, 1.5, DARK),
        Shape::rectangle(-0.04, -0.10, 0.08, 0.10, BRASS),
        Shape::rectangle(-0.04, -0.06, 0.08, 0.025, DARK),
    ];
    let mut scenery = vec![
        Shape::rectangle(-1.6, -0.7, 3.2, 0.32, GROUND),
        Shape::rectangle(-1.45, top - 0.12, 2.4, 0.12, STONE),
        Shape::rectangle(-1.3, -0.38, 0.10, top + 0.26, STONE),
        Shape::rectangle(0.6, -0.38, 0.10, top + 0.26, STONE),
    ];
    scenery.extend([-0.9, 0.3].map(|x| Shape::rectangle(x - 0.008, top - 0.10, 0.016, 0.08, BRASS)));
    let sky = [203, 198, 184];
    let front = vec![
        Shape::rectangle(pulley[0], pulley[1], 2.0, 1.0, sky),
        Shape::Disc { centre: pulley, radius: 0.05, colour: DARK },
        Shape::Disc { centre: pulley, radius: 0.012, colour: BRASS },
    ];
    let middle = pulley[1] + 0.05 - cord;
    let movers = vec![
        Mover { name: "cart".to_owned(), shapes, path: Box::new(move |t| ([-0.9 + gone(t), middle], 0.0)) },
        Mover {
            name: "weight".to_owned(),
            shapes: weight,
            path: Box::new(move |t| ([right - cord / 2.0, 0.62 - gone(t).min(FALL)], 0.0)),
        },
    ];
    let frames = ((landing + 0.2) * 30.0) as usize + 5;
    Shoot { camera, scenery, movers, front, frames }
}

/// Length of the workshop's pendulum, in m, and the angle it is let go at, in rad.
pub const PENDULUM: (f64, f64) = (3.000, 0.80);
/// How far the camera is tilted before the pendulum, in rad: 5°.
pub const TILT: f64 = 5.0 * TAU / 360.0;

/// The elliptic functions sn and dn of argument u and modulus k by the arithmetic-geometric mean (Abramowitz and Stegun, 16.4), with
/// K(k).
fn elliptic(u: f64, k: f64) -> (f64, f64, f64) {
    let (mut a, mut c) = (vec![1.0], vec![k]);
    let mut b = (1.0 - k * k).sqrt();
    while c[c.len() - 1].abs() > 1e-15 && a.len() < 12 {
        let last = a[a.len() - 1];
        a.push((last + b) / 2.0);
        c.push((last - b) / 2.0);
        b = (last * b).sqrt();
    }
    let n = a.len() - 1;
    let mut phi = 2f64.powi(n as i32) * a[n] * u;
    let mut before = phi;
    for i in (1..=n).rev() {
        before = phi;
        phi = ((c[i] / a[i] * phi.sin()).asin() + phi) / 2.0;
    }
    (phi.sin(), phi.cos() / (before - phi).cos(), PI / 2.0 / a[n])
}

/// Angle of a pendulum let go at rest at `most`, in rad: sin(θ/2) = k sn(K + √(g/L) t), k = sin(θ₀/2).
pub fn swung(length: f64, most: f64, t: f64) -> f64 {
    let k = (most / 2.0).sin();
    let (_, _, quarter) = elliptic(0.0, k);
    let (sn, _, _) = elliptic(quarter + (GRAVITY / length).sqrt() * t, k);
    2.0 * (k * sn).asin()
}

/// A pendulum beside a plumb line, filmed with the camera a little askew.
fn askew() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0125, aim: [0.0, -1.55], tilt: TILT, rate: 60.0, ..Camera::default() };
    let (length, most) = PENDULUM;
    let bob = Mover {
        name: "bob".to_owned(),
        shapes: vec![
            Shape::rectangle(-0.015, 0.0, 0.03, length, DARK),
            Shape::Disc { centre: [0.0, 0.0], radius: 0.21, colour: RED },
            Shape::Disc { centre: [0.0, 0.0], radius: 0.09, colour: CREAM },
        ],
        path: Box::new(move |t| {
            let angle = swung(length, most, t);
            ([length * angle.sin(), -length * angle.cos()], angle)
        }),
    };
    let scenery = vec![
        Shape::rectangle(-6.0, -5.5, 12.0, 8.0, WALL),
        Shape::rectangle(-0.9, 0.0, 1.8, 0.25, DARK),
        // The plumb line, and a rail of known length.
        Shape::rectangle(-2.88, -3.25, 0.01, 3.75, DARK),
        Shape::Polygon { corners: vec![[-2.95, -3.25], [-2.80, -3.25], [-2.875, -3.55]], colour: BRASS },
        Shape::rectangle(2.92, -3.35, 0.15, 3.5, BRASS),
    ];
    Shoot { camera, scenery, movers: vec![bob], front: Vec::new(), frames: 230 }
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

fn bounces() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0075, aim: [0.0, 0.95], rate: 60.0, ..Camera::default() };
    let mut scenery = wall(-2.6, -0.1, 5.2, 2.6);
    scenery.push(Shape::rectangle(-3.0, -0.6, 6.0, 0.6, GROUND));
    scenery.extend(pole([-2.15, 0.0], 2.0, 8));
    let path = |t: f64| ([-1.75 + 0.95 * t, 0.09 + bounced(t)], 0.0);
    let mover = Mover { name: "ball".to_owned(), shapes: ball(0.09, BLUE), path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 230 }
}

/// Corners of the frame in the plane of the throw, in m: lower left, lower right, upper right, upper left.
pub const FRAME: [[f64; 2]; 4] = [[-2.4, 0.1], [2.4, 0.1], [2.4, 2.3], [-2.4, 2.3]];

/// The throw of the tower yard, filmed at a slant, with a frame of known size in its plane.
fn aslant() -> Shoot {
    let camera = Camera {
        metres_a_pixel: 0.01,
        aim: [-0.45, 1.35],
        slant: 35.0 * TAU / 360.0,
        distance: 7.0,
        rate: 60.0,
        ..Camera::default()
    };
    let mut scenery = vec![Shape::rectangle(-5.0, -3.0, 60.0, 3.0, GROUND)];
    scenery.extend(pole([-2.95, 0.0], 2.0, 8));
    let [[left, bottom], _, [right, top], _] = FRAME;
    for y in [bottom, top] {
        scenery.push(Shape::rectangle(left, y - 0.02, right - left, 0.04, STONE));
    }
    for x in [left, right] {
        scenery.push(Shape::rectangle(x - 0.02, bottom, 0.04, top - bottom, STONE));
    }
    for [x, y] in FRAME {
        // A plate of four fields: its middle is the corner.
        scenery.push(Shape::rectangle(x - 0.08, y - 0.08, 0.16, 0.16, BRASS));
        scenery.push(Shape::rectangle(x - 0.08, y, 0.08, 0.08, DARK));
        scenery.push(Shape::rectangle(x, y - 0.08, 0.08, 0.08, DARK));
    }
    let path = |t: f64| (Throw::YARD.at(t), 0.0);
    let mover = Mover { name: "ball".to_owned(), shapes: ball(0.1, RED), path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 66 }
}
