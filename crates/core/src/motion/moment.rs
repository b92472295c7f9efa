//! Asking a moment of a motion: time, position, velocity, and what follows from them for a given mass.

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};

use crate::quantity::format::{plain, plus_minus};
use crate::quantity::{Along, Dimension, Unit};

/// The state of motion at a moment, in SI units; `u` are standard uncertainties of the position.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Moment {
    /// Time in s.
    pub t: f64,
    /// Position in m.
    pub at: [f64; 2],
    /// Velocity in m/s.
    pub velocity: [f64; 2],
    /// Acceleration in m/s².
    pub acceleration: [f64; 2],
    /// Standard uncertainty of a coordinate in m.
    pub u_at: f64,
    /// Standard uncertainty of a component of the velocity in m/s.
    pub u_velocity: f64,
    /// Standard uncertainty of a component of the acceleration in m/s².
    pub u_acceleration: f64,
    /// What velocity and acceleration were got from.
    pub from: Derived,
}

/// What velocity and acceleration were got from.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Derived {
    /// A parabola through so many marks.
    Parabola(usize),
    /// The rig's recorders: the acceleration from the change of the velocity over some seconds.
    Recorders {
        /// How many, in s.
        seconds: f64,
        /// Whether the velocity was recorded too; if not, it is the change of the position over the same time.
        velocity: bool,
    },
}

/// What is known of the body.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Body {
    /// Mass in kg.
    pub mass: f64,
    /// Its standard uncertainty in kg.
    pub u_mass: f64,
    /// Strength of gravity in m/s², for the potential energy; height is y. None where it is not known.
    pub gravity: Option<f64>,
    /// The y from which height counts, in m.
    pub ground: f64,
}

/// What can be asked.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Ask {
    /// Time.
    Time,
    /// Position along x.
    X,
    /// Position along y.
    Y,
    /// Velocity along x.
    VelocityX,
    /// Velocity along y.
    VelocityY,
    /// Speed.
    Speed,
    /// Magnitude of the acceleration.
    Acceleration,
    /// Momentum.
    Momentum,
    /// Kinetic energy.
    Kinetic,
    /// Potential energy.
    Potential,
    /// Total mechanical energy.
    Total,
    /// Net force.
    Force,
}

/// An answer.
#[derive(Clone, Debug, PartialEq)]
pub struct Told {
    /// What was asked.
    pub ask: Ask,
    /// Value in SI units.
    pub value: f64,
    /// Standard uncertainty in SI units.
    pub u: f64,
    /// By how many times a relative change of all lengths this changes, relatively.
    pub by_scale: f64,
    /// How this changes with x or y of what the axes are laid at.
    pub by_place: Option<(Along, f64)>,
    /// Unit, coherent.
    pub unit: Unit,
    /// The formula and the numbers put in.
    pub formula: String,
}

impl Ask {
    /// All questions, in order.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in forms.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The name for people.
    pub fn title(self) -> &'static str {
        match self {
            Self::Time => "time",
            Self::X => "position x",
            Self::Y => "position y",
            Self::VelocityX => "velocity along x",
            Self::VelocityY => "velocity along y",
            Self::Speed => "speed",
            Self::Acceleration => "acceleration",
            Self::Momentum => "momentum",
            Self::Kinetic => "kinetic energy",
            Self::Potential => "potential energy",
            Self::Total => "total energy",
            Self::Force => "net force",
        }
    }

    /// The question of that name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }

    /// Whether a mass is needed.
    pub fn needs_mass(self) -> bool {
        matches!(self, Self::Momentum | Self::Kinetic | Self::Potential | Self::Total | Self::Force)
    }
}

/// Velocity and acceleration at the moment nearest to `t`, from a parabola through the moments around it.
///
/// `points` are t, x, y in SI units, ascending in t; `u` is the standard uncertainty of a coordinate in m. The window has
/// five moments, or as many as there are from three on; the parabola is fitted by least squares (Savitzky and Golay,
/// Anal. Chem. 36 (1964) 1627, for any spacing). `None` with fewer than three moments.
pub fn state_at(points: &[(f64, f64, f64)], t: f64, u: f64) -> Option<Moment> {
    let near = |p: &(f64, f64, f64)| (p.0 - t).abs();
    let k = (0..points.len()).min_by(|a, b| near(&points[*a]).total_cmp(&near(&points[*b])))?;
    let window = points.len().min(5);
    if window < 3 {
        return None;
    }
    let from = k.saturating_sub(window / 2).min(points.len() - window);
    let part = &points[from..from + window];
    let times: Vec<f64> = part.iter().map(|p| p.0).collect();
    let (rate, bend) = crate::formula::local_quadratic(&times, points[k].0)?;
    let sum = |w: &[f64], of: fn(&(f64, f64, f64)) -> f64| w.iter().zip(part).map(|(w, p)| w * of(p)).sum::<f64>();
    let length = |w: &[f64]| w.iter().map(|w| w * w).sum::<f64>().sqrt();
    Some(Moment {
        t: points[k].0,
        at: [points[k].1, points[k].2],
        velocity: [sum(&rate, |p| p.1), sum(&rate, |p| p.2)],
        acceleration: [sum(&bend, |p| p.1), sum(&bend, |p| p.2)],
        u_at: u,
        u_velocity: u * length(&rate),
        u_acceleration: u * length(&bend),
        from: Derived::Parabola(window),
    })
}

impl Ask {
    /// The unit that has a name of its own.
    fn unit_of_its_own(self) -> Option<Unit> {
        match self {
            Self::Kinetic | Self::Potential | Self::Total => Unit::parse("J").ok(),
            Self::Force => Unit::parse("N").ok(),
            Self::Time
            | Self::X
            | Self::Y
            | Self::VelocityX
            | Self::VelocityY
            | Self::Speed
            | Self::Acceleration
            | Self::Momentum => None,
        }
    }

    /// By which power of the scale it goes.
    fn by_scale(self, kinetic: f64, potential: f64) -> f64 {
        match self {
            Self::Time => 0.0,
            Self::Kinetic => 2.0,
            Self::Total if kinetic + potential != 0.0 => (2.0 * kinetic + potential) / (kinetic + potential),
            // The share of a sum that vanishes is of no use to anybody; its size is.
            Self::Total => 0.0,
            Self::X
            | Self::Y
            | Self::VelocityX
            | Self::VelocityY
            | Self::Speed
            | Self::Acceleration
            | Self::Momentum
            | Self::Potential
            | Self::Force => 1.0,
        }
    }

    /// By how much it changes with the origin, and along which axis; `weight` in N.
    fn by_place(self, weight: f64) -> Option<(Along, f64)> {
        match self {
            Self::X => Some((Along::X, 1.0)),
            Self::Y => Some((Along::Y, 1.0)),
            Self::Potential | Self::Total => Some((Along::Y, weight)),
            Self::Time
            | Self::VelocityX
            | Self::VelocityY
            | Self::Speed
            | Self::Acceleration
            | Self::Momentum
            | Self::Kinetic
            | Self::Force => None,
        }
    }
}

/// Answers a question; `None` when it needs a mass or the strength of gravity and there is none.
pub fn ask(what: Ask, m: &Moment, body: Option<Body>) -> Option<Told> {
    let [x, y] = m.at;
    let ([vx, vy], [ax, ay]) = (m.velocity, m.acceleration);
    let (v, a) = (vx.hypot(vy), ax.hypot(ay));
    let (mass, u_mass, g, ground) = match body {
        Some(Body { gravity: None, .. }) if matches!(what, Ask::Potential | Ask::Total) => return None,
        Some(b) => (b.mass, b.u_mass, b.gravity.unwrap_or_default(), b.ground),
        None if what.needs_mass() => return None,
        None => (0.0, 0.0, 0.0, 0.0),
    };
    let n = |v: f64| plain(round_to(v, 4));
    let (place, bend) = match m.from {
        Derived::Parabola(window) => ("from the mark, scale and axes", format!("parabola through {window} instants")),
        Derived::Recorders { seconds, .. } => ("as recorded", format!("change of velocity over {seconds:.2} s")),
    };
    let rate = |axis: char| match m.from {
        Derived::Parabola(_) => format!("v_{axis} = d{axis}/dt, {bend}"),
        Derived::Recorders { velocity: true, .. } => format!("v_{axis} as recorded"),
        Derived::Recorders { seconds, .. } => format!("change of {axis} over {seconds:.2} s"),
    };
    let height = y - ground;
    let (kinetic, potential) = (0.5 * mass * v * v, mass * g * height);
    let u_kinetic = (mass * v * m.u_velocity).hypot(0.5 * v * v * u_mass);
    let u_potential = (mass * g * m.u_at).hypot(g * height * u_mass);
    let (value, u, dimension, formula) = match what {
        Ask::Time => (m.t, 1e-4 / 12f64.sqrt(), [0, 0, 1], "time of the frame, from t = 0".to_owned()),
        Ask::X => (x, m.u_at, [1, 0, 0], place.to_owned()),
        Ask::Y => (y, m.u_at, [1, 0, 0], place.to_owned()),
        Ask::VelocityX => (vx, m.u_velocity, [1, 0, -1], rate('x')),
        Ask::VelocityY => (vy, m.u_velocity, [1, 0, -1], rate('y')),
        Ask::Speed => (v, m.u_velocity, [1, 0, -1], format!("v = √(v_x² + v_y²) = √({}² + {}²)", n(vx), n(vy))),
        Ask::Acceleration => {
            let formula = format!("a = √(a_x² + a_y²) = √({}² + {}²), {bend}", n(ax), n(ay));
            (a, m.u_acceleration, [1, 0, -2], formula)
        }
        Ask::Momentum => {
            let u = (mass * m.u_velocity).hypot(v * u_mass);
            (mass * v, u, [1, 1, -1], format!("p = m v = {} kg × {} m/s", n(mass), n(v)))
        }
        Ask::Kinetic => {
            (kinetic, u_kinetic, [2, 1, -2], format!("E_k = ½ m v² = ½ × {} kg × ({} m/s)²", n(mass), n(v)))
        }
        Ask::Potential => {
            let formula = if ground == 0.0 {
                format!("E_p = m g y = {} kg × {} m/s² × {} m", n(mass), n(g), n(y))
            } else {
                let from = format!("({} m − {} m)", n(y), n(ground));
                format!("E_p = m g (y − y₀) = {} kg × {} m/s² × {from}", n(mass), n(g))
            };
            (potential, u_potential, [2, 1, -2], formula)
        }
        Ask::Total => {
            // Both energies share the mass.
            let by_mass = (0.5 * v * v + g * height) * u_mass;
            let u = (mass * v * m.u_velocity).hypot(mass * g * m.u_at).hypot(by_mass);
            (kinetic + potential, u, [2, 1, -2], format!("E = E_k + E_p = {} J + {} J", n(kinetic), n(potential)))
        }
        Ask::Force => {
            let u = (mass * m.u_acceleration).hypot(a * u_mass);
            (mass * a, u, [1, 1, -2], format!("F = m a = {} kg × {} m/s²", n(mass), n(a)))
        }
    };
    let weight = body.and_then(|b| Some(b.mass * b.gravity?)).unwrap_or_default();
    let (by_scale, by_place) = (what.by_scale(kinetic, potential), what.by_place(weight));
    let unit = what.unit_of_its_own().unwrap_or_else(|| {
        let [length, mass, time] = dimension;
        Unit::coherent(&Dimension::of([length, mass, time, 0, 0, 0, 0]))
    });
    Some(Told { ask: what, value, u, by_scale, by_place, unit, formula })
}

impl Told {
    /// Value and uncertainty for people, without the unit.
    pub fn pretty(&self) -> String {
        plus_minus(self.value, self.u)
    }
}

/// A value to so many significant figures.
fn round_to(value: f64, figures: i32) -> f64 {
    if value == 0.0 {
        return 0.0;
    }
    let step = 10f64.powi(figures - 1 - value.abs().log10().floor() as i32);
    (value * step).round() / step
}
