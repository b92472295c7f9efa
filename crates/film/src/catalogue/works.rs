//! Films from the works, the slope and the cable way: carriages, a sledge, cabins, a cart, a pendulum.

use std::f64::consts::{PI, TAU};

use super::{BLUE, BRASS, CREAM, DARK, GRAVITY, GREEN, GROUND, RED, STONE, WALL};
use crate::camera::{Camera, Colour, Mover, Pose, Shoot, Silhouette};

/// A carriage that runs against a spring buffer: constant velocity before, half a swing while touching, constant after.
pub(super) fn buffer() -> Shoot {
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
    let mut shapes = vec![
        Silhouette::rectangle(-0.2, -0.05, 0.4, 0.12, BLUE),
        Silhouette::rectangle(-0.16, 0.07, 0.28, 0.03, CREAM),
    ];
    for x in [-0.13, 0.13] {
        shapes.push(Silhouette::Disc { centre: [x, -0.06], radius: 0.04, colour: DARK });
    }
    shapes.push(Silhouette::Disc { centre: [0.0, 0.01], radius: 0.03, colour: CREAM });
    let mut scenery =
        vec![Silhouette::rectangle(-1.3, -0.3, 2.6, 0.32, GROUND), Silhouette::rectangle(-1.3, 0.0, 2.6, 0.02, DARK)];
    scenery.push(Silhouette::rectangle(0.9, 0.02, 0.08, 0.3, DARK));
    scenery.push(Silhouette::rectangle(0.83, 0.09, 0.07, 0.06, BRASS));
    let mover = Mover { name: "carriage".to_owned(), shapes, path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames: 180 }
}

/// Sliding friction of the sledge.
pub const SLEDGE_FRICTION: f64 = 0.08;

/// A sledge let go on a slope of so many degrees: a = g(sin α − μ cos α).
pub(super) fn sledge(degrees: f64) -> Shoot {
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
        vec![Silhouette::rectangle(-0.4, -0.29, 0.8, 0.05, DARK), Silhouette::rectangle(-0.34, -0.12, 0.66, 0.06, RED)];
    for x in [-0.25, 0.2] {
        shapes.push(Silhouette::rectangle(x, -0.24, 0.05, 0.12, DARK));
    }
    shapes.push(Silhouette::Disc { centre: [0.0, 0.0], radius: 0.14, colour: BLUE });
    shapes.push(Silhouette::Disc { centre: [0.0, 0.0], radius: 0.06, colour: CREAM });
    let corner = |s: f64, up: f64| at(s, up);
    let hill = vec![corner(-2.0, 0.0), corner(12.0, 0.0), corner(12.0, -6.0), corner(-2.0, -6.0)];
    let camera = Camera { metres_a_pixel: 0.0135, aim: [-0.2 * cos, 0.4 * sin + 0.2], rate: 30.0, ..Camera::default() };
    let scenery = vec![Silhouette::Polygon { corners: hill, colour: [226, 228, 230] }];
    let mover = Mover { name: "sledge".to_owned(), shapes, path: Box::new(path) };
    Shoot { camera, scenery, movers: vec![mover], front: Vec::new(), frames }
}

/// Two cable cabins pass a mast in opposite directions, each at its own steady speed.
pub(super) fn cabins() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.04, aim: [0.0, 4.0], rate: 30.0, ..Camera::default() };
    let cabin = |length: f64, colour: Colour| {
        let mut shapes = vec![Silhouette::rectangle(-length / 2.0, -1.0, length, 2.0, colour)];
        // A wide window, a door and a badge, so that no part of it looks like another.
        shapes.push(Silhouette::rectangle(-0.4 * length, 0.5, 0.6 * length, 0.35, CREAM));
        shapes.push(Silhouette::rectangle(0.25 * length, -0.9, 0.16 * length, 1.6, DARK));
        shapes.push(Silhouette::Disc { centre: [0.0, -0.05], radius: 0.38, colour: CREAM });
        shapes.push(Silhouette::Disc { centre: [0.0, -0.05], radius: 0.2, colour: DARK });
        shapes.push(Silhouette::rectangle(-0.06, 1.0, 0.12, 1.1, DARK));
        shapes
    };
    let moving = |name: &str, shapes, start: f64, velocity: f64, height: f64| Mover {
        name: name.to_owned(),
        shapes,
        path: Box::new(move |t: f64| ([start + velocity * t, height], 0.0)),
    };
    let mut scenery = vec![Silhouette::rectangle(-14.0, -4.0, 28.0, 1.6, GROUND)];
    for height in [4.1, 9.1] {
        scenery.push(Silhouette::rectangle(-14.0, height, 28.0, 0.06, DARK));
    }
    scenery.push(Silhouette::rectangle(-0.15, -2.5, 0.3, 13.0, DARK));
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
pub(super) fn cart(weight: f64) -> Shoot {
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
        Silhouette::rectangle(0.0, 0.0, 2.0, cord, DARK),
        Silhouette::rectangle(-0.15, -0.04, 0.30, 0.09, GREEN),
        Silhouette::rectangle(-0.12, 0.05, 0.24, 0.02, CREAM),
    ];
    for x in [-0.1, 0.1] {
        shapes.push(Silhouette::Disc { centre: [x, -0.05], radius: 0.035, colour: DARK });
    }
    for (radius, colour) in [(0.032, CREAM), (0.014, DARK)] {
        shapes.push(Silhouette::Disc { centre: [0.0, 0.005], radius, colour });
    }
    let weight = vec![
        Silhouette::rectangle(-cord / 2.0, 0.0, cord, 1.5, DARK),
        Silhouette::rectangle(-0.04, -0.10, 0.08, 0.10, BRASS),
        Silhouette::rectangle(-0.04, -0.06, 0.08, 0.025, DARK),
    ];
    let mut scenery = vec![
        Silhouette::rectangle(-1.6, -0.7, 3.2, 0.32, GROUND),
        Silhouette::rectangle(-1.45, top - 0.12, 2.4, 0.12, STONE),
        Silhouette::rectangle(-1.3, -0.38, 0.10, top + 0.26, STONE),
        Silhouette::rectangle(0.6, -0.38, 0.10, top + 0.26, STONE),
    ];
    scenery.extend([-0.9, 0.3].map(|x| Silhouette::rectangle(x - 0.008, top - 0.10, 0.016, 0.08, BRASS)));
    let sky = [203, 198, 184];
    let front = vec![
        Silhouette::rectangle(pulley[0], pulley[1], 2.0, 1.0, sky),
        Silhouette::Disc { centre: pulley, radius: 0.05, colour: DARK },
        Silhouette::Disc { centre: pulley, radius: 0.012, colour: BRASS },
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

/// The elliptic function sn of argument u and modulus k, and the quarter period K(k), by the arithmetic-geometric mean (Abramowitz and
/// Stegun, 16.4 and 17.6).
fn sine_amplitude(u: f64, k: f64) -> (f64, f64) {
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
    for i in (1..=n).rev() {
        phi = ((c[i] / a[i] * phi.sin()).asin() + phi) / 2.0;
    }
    (phi.sin(), PI / 2.0 / a[n])
}

/// Angle of a pendulum let go at rest at `most`, in rad: sin(θ/2) = k sn(K + √(g/L) t), k = sin(θ₀/2).
pub fn swung(length: f64, most: f64, t: f64) -> f64 {
    let k = (most / 2.0).sin();
    let (_, quarter) = sine_amplitude(0.0, k);
    let (sn, _) = sine_amplitude(quarter + (GRAVITY / length).sqrt() * t, k);
    2.0 * (k * sn).asin()
}

/// A pendulum beside a plumb line, filmed with the camera a little askew.
pub(super) fn askew() -> Shoot {
    let camera = Camera { metres_a_pixel: 0.0125, aim: [0.0, -1.55], tilt: TILT, rate: 60.0, ..Camera::default() };
    let (length, most) = PENDULUM;
    let bob = Mover {
        name: "bob".to_owned(),
        shapes: vec![
            Silhouette::rectangle(-0.015, 0.0, 0.03, length, DARK),
            Silhouette::Disc { centre: [0.0, 0.0], radius: 0.21, colour: RED },
            Silhouette::Disc { centre: [0.0, 0.0], radius: 0.09, colour: CREAM },
        ],
        path: Box::new(move |t| {
            let angle = swung(length, most, t);
            ([length * angle.sin(), -length * angle.cos()], angle)
        }),
    };
    let scenery = vec![
        Silhouette::rectangle(-6.0, -5.5, 12.0, 8.0, WALL),
        Silhouette::rectangle(-0.9, 0.0, 1.8, 0.25, DARK),
        // The plumb line, and a rail of known length.
        Silhouette::rectangle(-2.88, -3.25, 0.01, 3.75, DARK),
        Silhouette::Polygon { corners: vec![[-2.95, -3.25], [-2.80, -3.25], [-2.875, -3.55]], colour: BRASS },
        Silhouette::rectangle(2.92, -3.35, 0.15, 3.5, BRASS),
    ];
    Shoot { camera, scenery, movers: vec![bob], front: Vec::new(), frames: 230 }
}
