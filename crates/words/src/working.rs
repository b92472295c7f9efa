//! A step in numbers: each force with its formula and what is put in, then the new velocity and the new position.

use zeitmass_core::quantity::format::to_step;
use zeitmass_core::step_model::{ForceKind, Method, Step, StepModel};

/// A line of the working.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Line {
    /// What is worked out: the force's name, or `net force`, `new velocity`, `new position`.
    pub name: String,
    /// Its formula.
    pub formula: String,
    /// The formula with the numbers put in; empty where the formula is one of one's own.
    pub numbers: String,
    /// What comes out, with unit.
    pub value: String,
}

/// To four figures.
fn four(value: f64) -> String {
    if value == 0.0 {
        return "0".to_owned();
    }
    to_step(value, 10f64.powf(value.abs().log10().floor() - 3.0))
}

/// A number as a factor or after a sign: what is negative stands in brackets.
fn inside(value: f64) -> String {
    if value < 0.0 { format!("({})", four(value)) } else { four(value) }
}

/// One step along an axis (0 for x, 1 for y) in numbers, from `step` to `next`.
pub fn working(model: &StepModel, step: &Step, next: &Step, axis: usize) -> Vec<Line> {
    let letter = ["x", "y"][axis];
    let on = model.forces.iter().filter(|f| f.on);
    let mut lines: Vec<Line> = on
        .zip(&step.forces)
        .map(|(force, value)| {
            let (formula, numbers) = put_in(model, &force.kind, step, axis);
            Line { name: force.name.clone(), formula, numbers, value: format!("{} N", four(value[axis])) }
        })
        .collect();
    let parts: Vec<String> = step.forces.iter().map(|f| inside(f[axis])).collect();
    lines.push(Line {
        name: "net force".to_owned(),
        formula: "sum of the forces".to_owned(),
        numbers: parts.join(" + "),
        value: format!("{} N", four(step.net[axis])),
    });
    let (v, r, h) = (step.velocity[axis], step.position[axis], model.step);
    let (force, speed) = match model.method {
        Method::OldVelocity => (step.net[axis], ("v", v)),
        Method::NewVelocity => (step.net[axis], ("v new", next.velocity[axis])),
        // The force in the middle of the step is what the new velocity came from.
        Method::Midpoint => {
            ((next.velocity[axis] - v) * model.mass / h, ("v in the middle", v + 0.5 * h * step.net[axis] / model.mass))
        }
    };
    let middle = if model.method == Method::Midpoint { " in the middle" } else { "" };
    lines.push(Line {
        name: "new velocity".to_owned(),
        formula: format!("v + F{middle}/m · Δt"),
        numbers: format!("{} + {}/{} · {}", four(v), inside(force), four(model.mass), four(h)),
        value: format!("{} m/s", four(next.velocity[axis])),
    });
    lines.push(Line {
        name: "new position".to_owned(),
        formula: format!("{letter} + {} · Δt", speed.0),
        numbers: format!("{} + {} · {}", four(r), inside(speed.1), four(h)),
        value: format!("{} m", four(next.position[axis])),
    });
    lines
}

/// The formula of a force along an axis, and the same with the numbers put in.
fn put_in(model: &StepModel, kind: &ForceKind, step: &Step, axis: usize) -> (String, String) {
    let letter = ["x", "y"][axis];
    let (m, v, r) = (model.mass, step.velocity, step.position);
    let none = || ("none along this axis".to_owned(), String::new());
    match kind {
        ForceKind::Weight { .. } | ForceKind::Buoyancy { .. } if axis == 0 => none(),
        ForceKind::Weight { g } => ("−m · g".to_owned(), format!("−{} · {}", four(m), inside(*g))),
        ForceKind::Buoyancy { density, volume, g } => {
            ("ρ · V · g".to_owned(), format!("{} · {} · {}", four(*density), inside(*volume), inside(*g)))
        }
        ForceKind::Drag { k } => (format!("−k · v_{letter}"), format!("−{} · {}", inside(*k), inside(v[axis]))),
        ForceKind::DragSquared { k } => (
            format!("−k · |v| · v_{letter}"),
            format!("−{} · {} · {}", inside(*k), four(v[0].hypot(v[1])), inside(v[axis])),
        ),
        ForceKind::Push { force, from, to } => {
            let during = format!("from {} s to {} s", four(*from), four(*to));
            (format!("F_{letter} {during}"), format!("{} at {} s", four(force[axis]), four(step.t)))
        }
        ForceKind::Spring { k, rest } => (
            format!("−k · ({letter} − {letter}₀)"),
            format!("−{} · ({} − {})", inside(*k), four(r[axis]), inside(rest[axis])),
        ),
        ForceKind::Friction { force } => ("against the motion".to_owned(), format!("{} at most", four(*force))),
        ForceKind::Own { along, .. } => (along[axis].text().to_owned(), String::new()),
    }
}

#[cfg(test)]
mod tests {
    use zeitmass_core::step_model::Force;

    use super::*;

    fn model(method: Method, forces: Vec<ForceKind>) -> StepModel {
        let named = |kind| Force { name: "force".to_owned(), kind, on: true };
        StepModel {
            mass: 2.0,
            start: 0.0,
            position: [0.0, 5.0],
            velocity: [0.0, -1.0],
            step: 0.1,
            until: 0.2,
            method,
            forces: forces.into_iter().map(named).collect(),
        }
    }

    /// The lines of the first step along y, each as `name: formula = numbers = value`.
    fn told(model: &StepModel) -> Vec<String> {
        let steps = model.run().unwrap().steps;
        let lines = working(model, &steps[0], &steps[1], 1);
        lines.iter().map(|l| format!("{}: {} = {} = {}", l.name, l.formula, l.numbers, l.value)).collect()
    }

    /// Worked out by hand: −2·9.81 + 0.5·1 = −19.12 N, −1 − 19.12/2·0.1 = −1.956 m/s, and so on.
    #[test]
    fn a_step_is_worked_out_as_by_hand() {
        let fall = || vec![ForceKind::Weight { g: 9.81 }, ForceKind::Drag { k: 0.5 }];
        assert_eq!(
            told(&model(Method::NewVelocity, fall())),
            [
                "force: −m · g = −2.000 · 9.810 = −19.62 N",
                "force: −k · v_y = −0.5000 · (−1.000) = 0.5000 N",
                "net force: sum of the forces = (−19.62) + 0.5000 = −19.12 N",
                "new velocity: v + F/m · Δt = −1.000 + (−19.12)/2.000 · 0.1000 = −1.956 m/s",
                "new position: y + v new · Δt = 5.000 + (−1.956) · 0.1000 = 4.804 m",
            ]
        );
        let old = told(&model(Method::OldVelocity, fall()));
        assert_eq!(old[4], "new position: y + v · Δt = 5.000 + (−1.000) · 0.1000 = 4.900 m");
    }

    /// In the middle of the step the speed is −1 − 19.12/2·0.05 = −1.478 m/s, the force −19.62 + 0.5·1.478 = −18.881 N.
    #[test]
    fn the_middle_of_a_step_is_named() {
        let midpoint = model(Method::Midpoint, vec![ForceKind::Weight { g: 9.81 }, ForceKind::Drag { k: 0.5 }]);
        let lines = told(&midpoint);
        assert_eq!(
            lines[3..],
            [
                "new velocity: v + F in the middle/m · Δt = −1.000 + (−18.88)/2.000 · 0.1000 = −1.944 m/s",
                "new position: y + v in the middle · Δt = 5.000 + (−1.478) · 0.1000 = 4.852 m",
            ]
        );
        let across = working(&midpoint, &midpoint.run().unwrap().steps[0], &midpoint.run().unwrap().steps[1], 0);
        assert_eq!((across[0].formula.as_str(), across[0].numbers.as_str()), ("none along this axis", ""));
    }
}
