//! The drop shaft: one body falls, with or without air, in oil, pushed or knocked.
//!
//! Equations and their sources: see `flight`. A push is a steady force with a direction, from a start for a duration; a knock
//! changes the velocity at once by J/m. The motion is integrated from one such change to the next.

use super::contract::card::{arrow, unit};
use super::contract::channel::{Energetic, Recorder, energies, energies_of, place, recorder, specs};
use super::contract::ending::{Ending, coarse};
use super::contract::flight::{Drag, Forces, State, ball};
use super::contract::meter::{found, now};
use super::contract::run::RunOutcome;
use super::contract::scene::{ALL_ALONG, at};
use super::contract::setting::{choice, optional, quantity};
use super::{
    ArrowKind, Bounds, Card, Clock, Coordinate, Handle, Paint, Rig, RigError, Run, Sampling, Scene, SceneShape,
    Settings,
};

/// How far beside the shaft and above its top a body may get, in m.
const AROUND: f64 = 200.0;
/// Share of gravity below which the speed counts as steady.
const STEADY: f64 = 1e-3;

/// The drop shaft.
pub(super) struct Shaft;

/// The body at a moment, in SI units.
struct Falling {
    at: [f64; 2],
    v: [f64; 2],
    a: [f64; 2],
    drag: [f64; 2],
    push: [f64; 2],
    lift: f64,
    mass: f64,
    gravity: f64,
}

impl Energetic for Falling {
    fn energies(&self) -> [f64; 3] {
        let [x, y] = self.v;
        energies_of(0.5 * self.mass * (x * x + y * y), self.mass, self.gravity, self.at[1])
    }
}

fn recorders() -> Vec<Recorder<Falling>> {
    let own = [
        recorder("v_x", "v_x", "m/s", 0.001, |b: &Falling| b.v[0]).called("velocity along x").seen(),
        recorder("v_y", "v_y", "m/s", 0.001, |b: &Falling| b.v[1]).called("velocity along y").seen(),
        recorder("speed", "v", "m/s", 0.001, |b: &Falling| b.v[0].hypot(b.v[1])).seen(),
        recorder("a_x", "a_x", "m/s^2", 0.01, |b: &Falling| b.a[0]).called("acceleration along x"),
        recorder("a_y", "a_y", "m/s^2", 0.01, |b: &Falling| b.a[1]).called("acceleration along y"),
        recorder("weight", "F_w", "N", 0.001, |b| -b.mass * b.gravity),
        recorder("buoyancy", "F_b", "N", 0.001, |b| b.lift),
        recorder("drag x", "F_dx", "N", 0.001, |b| b.drag[0]),
        recorder("drag y", "F_dy", "N", 0.001, |b| b.drag[1]),
        recorder("push x", "F_px", "N", 0.001, |b| b.push[0]),
        recorder("push y", "F_py", "N", 0.001, |b| b.push[1]),
        recorder("net x", "F_x", "N", 0.001, |b| b.mass * b.a[0]),
        recorder("net y", "F_y", "N", 0.001, |b| b.mass * b.a[1]),
    ];
    place(0.001, |b: &Falling| b.at[0], |b| b.at[1]).into_iter().chain(own).chain(energies()).collect()
}

impl Rig for Shaft {
    fn card(&self) -> Card {
        let media: &[(&str, &str)] = &[("none", "nothing"), ("air", "air"), ("oil", "oil")];
        Card {
            name: "shaft",
            revision: 2,
            title: "Drop shaft",
            leaves_out: "the fluid that a body drags along, the walls, spin and wind; drag in oil is proportional to the speed, which holds for small bodies. Buoyancy is that of a ball of the set diameter, whatever its drag coefficient.",
            settings: vec![
                quantity("height", "height of the drop", "h", "m", [0.05, 2000.0, 0.01, 20.0]),
                quantity("mass", "mass", "m", "g", [0.001, 200_000.0, 0.001, 50.0]),
                optional("density", "density of the ball", "ρ_b", "kg/m^3", [100.0, 23_000.0, 1.0], "the mass counts"),
                quantity("diameter", "diameter", "d", "mm", [0.1, 3000.0, 0.01, 40.0]),
                quantity("shape", "drag coefficient", "c", "1", [0.0, 2.5, 0.01, 0.47]),
                choice("drag", "what it falls in", media),
                quantity("air density", "density of the air", "ρ", "kg/m^3", [0.0, 80.0, 0.001, 1.204]),
                quantity("viscosity", "viscosity of the oil", "η", "Pa s", [0.001, 20.0, 0.001, 0.95]),
                quantity("oil density", "density of the oil", "ρ_o", "kg/m^3", [500.0, 1500.0, 1.0, 960.0]),
                quantity("gravity", "gravity", "g", "m/s^2", [0.0, 30.0, 0.01, 9.81]),
                quantity("velocity x", "start velocity across", "v_0x", "m/s", [-50.0, 50.0, 0.01, 0.0]),
                quantity("velocity y", "start velocity up", "v_0y", "m/s", [-50.0, 50.0, 0.01, 0.0]),
                quantity("push", "constant push", "F", "N", [0.0, 500.0, 0.001, 0.0]),
                quantity("push direction", "direction of the push", "β", "deg", [-180.0, 180.0, 0.1, 0.0]),
                optional("push start", "push begins at", "t_p", "s", [0.0, 60.0, 0.01], "at once"),
                optional("push duration", "push lasts", "t_d", "s", [0.01, 60.0, 0.01], "to the end"),
                quantity("knock", "impulse", "J", "N s", [0.0, 100.0, 0.001, 0.0]),
                quantity("knock direction", "direction of the impulse", "γ", "deg", [-180.0, 180.0, 0.1, 0.0]),
                quantity("knock time", "impulse comes at", "t_k", "s", [0.0, 60.0, 0.01, 0.5]),
            ],
            channels: specs(&recorders()),
            meters: vec![
                found("time", "timer to the floor", "t", "s", [0.001, 0.002]),
                now("speed", "speedometer", "v", "m/s", [0.0001, 0.0002], "speed"),
                found("mass", "balance", "m", "g", [0.001, 0.0]).telling(&["mass", "density"]),
            ],
            arrows: vec![
                arrow("velocity", "velocity", "v", ArrowKind::Velocity, ["v_x", "v_y"]),
                arrow("across", "velocity across", "v_x", ArrowKind::VelocityComponent, ["v_x", ""]),
                arrow("up", "velocity up", "v_y", ArrowKind::VelocityComponent, ["", "v_y"]),
                arrow("acceleration", "acceleration", "a", ArrowKind::Acceleration, ["a_x", "a_y"]),
                arrow("weight", "weight", "W", ArrowKind::Force, ["", "weight"]),
                arrow("buoyancy", "buoyancy", "B", ArrowKind::Force, ["", "buoyancy"]),
                arrow("drag", "drag", "D", ArrowKind::Force, ["drag x", "drag y"]),
                arrow("push", "push", "F", ArrowKind::Force, ["push x", "push y"]),
                arrow("net", "net force", "ΣF", ArrowKind::Net, ["net x", "net y"]),
            ],
            clock: Clock::by_hand(60.0),
            length: unit("m"),
            division: 0.001,
            tracks: &["y", "speed"],
            by_hand: false,
            second: None,
        }
    }

    fn run(&self, settings: &Settings, _seed: u64, sampling: Sampling) -> Result<Run, RigError> {
        let fall = Fall::new(settings);
        let (states, landed, outcome) = fall.states(sampling)?;
        let mass = fall.forces.mass;
        let mut run = Run::record(&recorders(), sampling, states.len(), |i| {
            let (y, forces) = (&states[i], fall.forces_at(sampling.time(i)));
            let v = [y[2], y[3]];
            let (drag, a) = (forces.drag(v), forces.acceleration(v));
            let Forces { gravity, lift, push, .. } = forces;
            Falling { at: [y[0], y[1]], v, a, drag, push, lift, mass, gravity }
        });
        run.found = vec![("mass", mass)];
        run.found.extend(landed.map(|t| ("time", t)));
        run.outcome = outcome;
        Ok(run)
    }

    fn scene(&self, settings: &Settings, _run: &Run) -> Scene {
        let height = settings.get("height");
        let half = 0.09 * height;
        let (left, right) = (-half, half);
        let radius = (settings.get("diameter") / 2.0).max(0.008 * height);
        let bounds = Bounds { left, right, bottom: -0.03 * height, top: 1.06 * height };
        Scene {
            bounds,
            shapes: vec![
                SceneShape::Line { from: at(left, 0.0), to: at(right, 0.0), paint: Paint::Support },
                SceneShape::Scale { zero: [left, 0.0], along: [0.0, 1.0], from: 0.0, length: height, division: 0.1 },
                SceneShape::Disc {
                    centre: [Coordinate::Channel("x"), Coordinate::Channel("y")],
                    radius,
                    turn: None,
                    paint: Paint::Body,
                },
            ],
            loupe: None,
            strobe: ALL_ALONG,
            handles: vec![Handle::along("Height of the drop", [0.0, height], "height", [0.0, 1.0])],
            ..Scene::default()
        }
    }
}

/// A body in the shaft: forces at the start, and when they change.
struct Fall {
    forces: Forces,
    start: State,
    push: [f64; 2],
    /// Begin and end of the push, in s.
    pushed: (f64, f64),
    /// Change of velocity by the knock, in m/s, and its time.
    knock: ([f64; 2], f64),
    /// Diameter in m over kinematic viscosity in m²/s, for the Reynolds number in oil.
    reynolds: Option<f64>,
}

impl Fall {
    fn new(s: &Settings) -> Self {
        let diameter = s.get("diameter");
        let (volume, gravity) = (ball(diameter), s.get("gravity"));
        let mass = s.given("density").map_or_else(|| s.get("mass"), |density| density * volume);
        let (drag, fluid) = match s.chosen("drag") {
            "air" => (Drag::air(s.get("air density"), diameter, s.get("shape")), s.get("air density")),
            "oil" => {
                let c = 3.0 * std::f64::consts::PI * s.get("viscosity") * diameter;
                (Drag::Linear(c), s.get("oil density"))
            }
            _ => (Drag::Quadratic(0.0), 0.0),
        };
        let lift = fluid * volume * gravity;
        let toward = |size: f64, angle: f64| [size * angle.cos(), size * angle.sin()];
        let begin = s.get("push start");
        Self {
            forces: Forces { mass, gravity, lift, drag, push: [0.0; 2] },
            start: State::new(0.0, s.get("height"), s.get("velocity x"), s.get("velocity y")),
            push: toward(s.get("push"), s.get("push direction")),
            pushed: (begin, s.given("push duration").map_or(f64::INFINITY, |d| begin + d)),
            knock: (toward(s.get("knock") / mass, s.get("knock direction")), s.get("knock time")),
            reynolds: matches!(drag, Drag::Linear(_)).then(|| diameter * s.get("oil density") / s.get("viscosity")),
        }
    }

    fn forces_at(&self, t: f64) -> Forces {
        let on = t >= self.pushed.0 - 1e-12 && t < self.pushed.1 - 1e-12;
        Forces { push: if on { self.push } else { [0.0; 2] }, ..self.forces }
    }

    /// The state at every frame, when it met the floor, and how it ended.
    fn states(&self, sampling: Sampling) -> Result<(Vec<State>, Option<f64>, RunOutcome), RigError> {
        if let Some(held) = self.forces.held_by_air(self.push) {
            return Ok((vec![self.start], None, held));
        }
        let longest = sampling.duration;
        let top = self.start[1] + AROUND;
        let floor = |y: &State| y[1];
        let above = |y: &State| top - y[1];
        let beside = |y: &State| AROUND - y[0].abs();
        let mut changes: Vec<f64> = [self.pushed.0, self.pushed.1, self.knock.1, longest].into();
        changes.retain(|t| *t <= longest);
        changes.sort_by(f64::total_cmp);
        let knocked = self.knock.0 != [0.0; 2];
        let (mut now, mut states) = ((0.0, self.start), Vec::new());
        let mut struck = !knocked;
        for until in changes {
            if until > now.0 {
                let forces = self.forces_at(now.0);
                let flown = forces.fly(now, until, sampling.every, &[&floor, &above, &beside])?;
                states.extend(flown.frames);
                now = flown.end;
                match flown.event {
                    Some(0) => return Ok((states, Some(now.0), self.verdict(&now.1, now.0))),
                    Some(_) => {
                        let rises = self.forces.downward() < 0.0;
                        let ending = if rises { Ending::RisesOutOfShaft } else { Ending::FliesOutOfShaft };
                        return Ok((states, None, RunOutcome::failed(ending)));
                    }
                    None => {}
                }
            }
            if !struck && until >= self.knock.1 {
                now.1[2] += self.knock.0[0];
                now.1[3] += self.knock.0[1];
                struck = true;
            }
        }
        states.push(now.1);
        let missed = RunOutcome::failed(Ending::MissesFloor { seconds: coarse(longest, 1.0) });
        let verdict = self.verdict(&now.1, now.0);
        // A fall of a minute at a steady speed is what some labs want.
        Ok((states, None, if verdict.is_told() { verdict } else { missed }))
    }

    fn verdict(&self, y: &State, t: f64) -> RunOutcome {
        let v = [y[2], y[3]];
        if let Some(reynolds) = self.reynolds.map(|r| r * v[0].hypot(v[1]))
            && reynolds > 1.0
        {
            return RunOutcome::told(Ending::FastForOil);
        }
        let a = self.forces_at(t).acceleration(v);
        let steady = a[0].hypot(a[1]) < STEADY * self.forces.downward().abs();
        RunOutcome { told: steady.then_some(Ending::SteadySpeed), failed: false }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn run(drag: &str, change: &[(&str, f64)]) -> Run {
        let mut s = Shaft.card().defaults();
        s.choose("drag", drag);
        change.iter().for_each(|(name, value)| s.set(name, *value));
        Shaft.run(&s, 0, Sampling { every: 0.01, duration: 60.0 }).unwrap()
    }

    /// Closed form of the fall from rest with quadratic drag: v = v_t·tanh(g·t/v_t), y = h − (v_t²/g)·ln cosh(g·t/v_t)
    /// (e.g. L. N. Long, H. Weiss, *The velocity dependence of aerodynamic drag*, Am. Math. Monthly 106 (1999) 127).
    #[test]
    fn a_fall_in_air_follows_its_closed_form() {
        let r = run("air", &[("height", 1500.0)]);
        let c = 0.5 * 1.204 * 0.47 * std::f64::consts::PI * 0.02 * 0.02;
        let g = 9.81 * (1.0 - 1.204 * ball(0.04) / 0.05);
        let limit = (0.05 * g / c).sqrt();
        let (v, y) = (r.channel("speed").unwrap(), r.channel("y").unwrap());
        for i in (0..r.frames()).step_by(100) {
            let u = g * i as f64 * 0.01 / limit;
            assert!((v[i] - limit * u.tanh()).abs() < 1e-8 * limit, "{i}");
            assert!((1500.0 - y[i] - limit * limit / g * u.cosh().ln()).abs() < 1e-6);
        }
        assert_eq!(r.outcome.told, Some(Ending::SteadySpeed));
        let exact = limit / g * ((1500.0 * g / limit / limit).exp()).acosh();
        assert!((r.found("time").unwrap() - exact).abs() < 1e-8);
    }

    #[test]
    fn pushes_and_knocks_come_when_they_are_told() {
        let r = run(
            "none",
            &[
                ("push", 1.0),
                ("push start", 0.105),
                ("push duration", 0.5),
                ("knock", 0.1),
                ("knock direction", std::f64::consts::FRAC_PI_2),
                ("knock time", 0.3),
            ],
        );
        let (vx, vy, x) = (r.channel("v_x").unwrap(), r.channel("v_y").unwrap(), r.channel("x").unwrap());
        assert!(vx[10] == 0.0 && (vx[40] - 20.0 * 0.295).abs() < 1e-9 && (vx[100] - 10.0).abs() < 1e-9);
        assert!((vy[31] - (2.0 - 9.81 * 0.31)).abs() < 1e-9 && (vy[29] + 9.81 * 0.29).abs() < 1e-9);
        assert!((x[100] - (0.5 * 20.0 * 0.25 + 10.0 * 0.395)).abs() < 1e-9);
        assert!((run("none", &[]).found("time").unwrap() - (40f64 / 9.81).sqrt()).abs() < 1e-10);
        assert!(run("none", &[("push", 100.0), ("push direction", 1.5)]).outcome.failed);
        // A balloon of a metre with 400 g rises: the air it displaces has 630 g.
        let up = run("air", &[("diameter", 1.0), ("mass", 0.4)]);
        assert!(up.channel("y").unwrap().last().unwrap() > &150.0);
    }

    #[test]
    fn a_small_ball_sinks_in_oil_at_stokes_speed() {
        // Steel, 2 mm, in oil: v = (ρ − ρ_o)·g·d²/(18·η).
        let mass = 7800.0 * std::f64::consts::PI * 8e-9 / 6.0;
        let r = run("oil", &[("mass", mass), ("diameter", 0.002), ("height", 0.4)]);
        let v = (7800.0 - 960.0) * 9.81 * 4e-6 / 18.0 / 0.95;
        assert!((r.channel("speed").unwrap().last().unwrap() / v - 1.0).abs() < 1e-9);
        assert_eq!(r.outcome.told, Some(Ending::SteadySpeed));
        // Weight, buoyancy and drag are in balance, and the weight is m·g.
        let last = |name: &str| *r.channel(name).unwrap().last().unwrap();
        assert!((last("weight") + mass * 9.81).abs() < 1e-12);
        assert!((last("buoyancy") * 7800.0 / 960.0 + last("weight")).abs() < 1e-12);
        assert!((last("weight") + last("buoyancy") + last("drag y")).abs() < 1e-9 * mass);
        let fast = run("oil", &[("mass", 0.5), ("diameter", 0.05), ("height", 2.0)]);
        assert_eq!(fast.outcome.told, Some(Ending::FastForOil));
    }
}
