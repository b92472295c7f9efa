//! `zeitmass step`: a step model, beside readings if there are some.

use std::io::Write;
use std::path::PathBuf;

use anyhow::{Context, Result, anyhow};
use clap::Args;
use serde_json::{Value, json};
use zeitmass_core::step_model::{Ledger, Readings, Sought, StepModel, agreement, read_model};
use zeitmass_words::Words;

use super::fit::finite;
use super::table::File;
use super::told;

#[derive(Args)]
pub(crate) struct StepArgs {
    /// The model as TOML: mass, step, until, method, start, held and forces.
    file: PathBuf,
    /// A CSV file with columns t and x or y, such as `t (s)`, to hold it against.
    #[arg(long)]
    data: Option<PathBuf>,
    /// Standard uncertainty of a position, in the unit of its column.
    #[arg(long)]
    u: Option<f64>,
}

/// Positions of a file in coherent SI units, from rows that have a time and every position.
fn readings(args: &StepArgs) -> Result<Option<Readings>> {
    let Some(path) = &args.data else { return Ok(None) };
    let file = File::open(path)?;
    let (t, t_unit) = file.column("t")?;
    let axes: Vec<(usize, f64)> = ["x", "y"]
        .into_iter()
        .filter(|axis| file.place(axis).is_some())
        .map(|axis| file.column(axis).map(|(place, unit)| (place, unit.size())))
        .collect::<Result<_>>()?;
    let mut found = Readings { u: args.u.map(|u| u * axes.first().map_or(1.0, |a| a.1)), ..Readings::default() };
    let mut positions: Vec<Vec<f64>> = vec![Vec::new(); axes.len()];
    for row in 0..file.rows.len() {
        let Some(time) = file.number(row, t)? else { continue };
        let values = axes.iter().map(|(place, _)| file.number(row, *place)).collect::<Result<Option<Vec<f64>>>>()?;
        let Some(values) = values else { continue };
        found.t.push(time * t_unit.size());
        positions.iter_mut().zip(values).zip(&axes).for_each(|((all, v), (_, size))| all.push(v * size));
    }
    let mut positions = positions.into_iter();
    found.x = file.place("x").and_then(|_| positions.next());
    found.y = file.place("y").and_then(|_| positions.next());
    Ok(Some(found))
}

impl StepArgs {
    pub(crate) fn run(self) -> Result<()> {
        let text =
            std::fs::read_to_string(&self.file).with_context(|| format!("{} cannot be read", self.file.display()))?;
        let (mut model, place) = read_model(&text).map_err(|e| anyhow!("{}: {}", self.file.display(), e.words()))?;
        let readings = readings(&self)?;
        let mut report = json!({ "method": model.method.name(), "step": model.step });
        if let (Some(place), Some(readings)) = (place, &readings) {
            let sought = Sought { place, start: false, mass_u: 0.0 };
            let fitted = model.fitted(&sought, readings).map_err(told)?;
            report["fitted"] = json!({
                "force": model.forces[place].name,
                "value": finite(fitted.parameter.value),
                "uncertainty": finite(fitted.parameter.u),
            });
            model = fitted.model;
        }
        let ledger = model.run().map_err(told)?;
        columns(&mut report, &model, &ledger);
        if let Some(readings) = &readings {
            let found = agreement(&ledger, readings).map_err(told)?;
            report["agreement"] = json!({
                "n": found.n,
                "rms": finite(found.rms),
                "in_uncertainties": found.in_uncertainties.map_or(Value::Null, finite),
                "residuals": found.residuals,
            });
        }
        report["half_step_moves_by"] = finite(model.effect_of_step().map_err(told)?);
        if let Some(terminal) = model.terminal_speed().map_err(told)? {
            report["terminal_speed"] =
                json!({ "speed": finite(terminal.speed), "reached_after": terminal.after.map_or(Value::Null, finite) });
        }
        writeln!(std::io::stdout().lock(), "{report:#}")?;
        Ok(())
    }
}

/// Times, positions, velocities and forces, a list each.
fn columns(report: &mut Value, model: &StepModel, ledger: &Ledger) {
    let steps = &ledger.steps;
    report["t"] = json!(steps.iter().map(|s| s.t).collect::<Vec<_>>());
    for (k, axis) in ["x", "y"].into_iter().enumerate() {
        report[axis] = json!(steps.iter().map(|s| s.position[k]).collect::<Vec<_>>());
        report[format!("v_{axis}")] = json!(steps.iter().map(|s| s.velocity[k]).collect::<Vec<_>>());
    }
    let on = model.forces.iter().filter(|f| f.on).enumerate();
    let forces: Vec<Value> = on
        .map(|(i, f)| json!({ "name": f.name, "force": steps.iter().map(|s| s.forces[i]).collect::<Vec<_>>() }))
        .collect();
    report["forces"] = forces.into();
}
