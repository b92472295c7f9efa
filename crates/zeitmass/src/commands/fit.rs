//! `zeitmass fit`: a line through two columns of a CSV file.

use std::io::Write;
use std::path::PathBuf;

use anyhow::{Context, Result, anyhow, bail};
use clap::Args;
use serde_json::{Value, json};
use zeitmass_core::fit::{Estimate, LineFit, Model, fit_line};
use zeitmass_core::quantity::{Decimal, Unit};

#[derive(Args)]
pub(crate) struct FitArgs {
    /// The CSV file; its first line names the columns, with units such as `L (m)`.
    file: PathBuf,
    /// Symbol of the column that goes across.
    #[arg(long)]
    x: String,
    /// Symbol of the column that goes up.
    #[arg(long)]
    y: String,
    /// The line: `line` or `proportional`.
    #[arg(long, default_value = "line")]
    model: String,
}

/// Points (x, y) with the units of x and of y.
type Columns = (Vec<(f64, f64)>, Unit, Unit);

impl FitArgs {
    pub(crate) fn run(self) -> Result<()> {
        let model = Model::named(&self.model).with_context(|| {
            let names = Model::ALL.map(Model::name).join(", ");
            format!("There is no model “{}”. There is: {names}.", self.model)
        })?;
        let (points, x_unit, y_unit) = self.points()?;
        let fit = fit_line(&points, model)?;
        let (slope_unit, factor) =
            LineFit::slope_unit(&x_unit, &y_unit).context("The slope has no unit that can be handled.")?;
        let estimate = |e: Estimate, unit: &Unit, factor: f64| json!({ "value": e.value * factor, "uncertainty": finite(e.u * factor), "unit": unit.to_string() });
        let mut parameters = json!({ "slope": estimate(fit.slope, &slope_unit, factor) });
        if let Some(b) = fit.intercept {
            parameters["intercept"] = estimate(b, &y_unit, 1.0);
        }
        let report = json!({
            "model": model.name(),
            "parameters": parameters,
            "n": fit.n,
            "dof": fit.dof,
            "residual_sd": finite(fit.residual_sd),
            "r2": finite(fit.r2),
        });
        writeln!(std::io::stdout().lock(), "{report:#}")?;
        Ok(())
    }

    /// The points and the units of x and y.
    fn points(&self) -> Result<Columns> {
        let name = self.file.display();
        let mut reader = csv::ReaderBuilder::new()
            .flexible(true)
            .from_path(&self.file)
            .with_context(|| format!("{name} cannot be opened"))?;
        let heads: Vec<(String, String)> = reader.headers()?.iter().map(head).collect();
        let find = |symbol: &str| {
            let names: Vec<&str> = heads.iter().map(|(s, _)| s.as_str()).collect();
            let place = heads.iter().position(|(s, _)| s == symbol);
            let place =
                place.with_context(|| format!("{name} has no column “{symbol}”. It has: {}.", names.join(", ")))?;
            let unit = Unit::parse(&heads[place].1).map_err(|e| anyhow!("{name}, column {symbol}: {e}"))?;
            anyhow::Ok((place, unit))
        };
        let ((ix, x_unit), (iy, y_unit)) = (find(&self.x)?, find(&self.y)?);
        let mut points = Vec::new();
        for (line, row) in (2..).zip(reader.records()) {
            let row = row.with_context(|| format!("{name}, line {line}"))?;
            let cell = |i: usize| row.get(i).unwrap_or("").trim();
            // A trial that is not finished has an empty cell.
            match (cell(ix), cell(iy)) {
                ("", _) | (_, "") => {}
                (x, y) => {
                    let number = |t: &str| Decimal::parse(t).map_err(|e| anyhow!("{name}, line {line}: {e}"));
                    points.push((number(x)?.value(), number(y)?.value()));
                }
            }
        }
        if points.is_empty() {
            bail!("{name} has no row with a value in both columns.");
        }
        Ok((points, x_unit, y_unit))
    }
}

/// A head such as `L (m)` as symbol and unit.
fn head(text: &str) -> (String, String) {
    let text = text.trim();
    match text.strip_suffix(')').and_then(|t| t.split_once('(')) {
        Some((symbol, unit)) => (symbol.trim().to_owned(), unit.trim().to_owned()),
        None => (text.to_owned(), String::new()),
    }
}

/// JSON knows no infinity: what is not known is null.
fn finite(value: f64) -> Value {
    if value.is_finite() { json!(value) } else { Value::Null }
}
