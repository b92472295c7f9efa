//! `zeitmass fit`: a curve through columns of a CSV file.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::PathBuf;

use anyhow::{Context, Result, bail};
use clap::Args;
use serde_json::{Value, json};
use zeitmass_core::fit::{Data, FitError, Model, Typed, Weighting, fit};
use zeitmass_core::formula::Formula;
use zeitmass_core::quantity::{Decimal, Unit};
use zeitmass_words::Words;

use super::table::File;
use super::told;

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
    /// The curve: line, proportional, quadratic, root, inverse, inverse-square, power, exponential,
    /// exponential-offset, sine, damped-sine.
    #[arg(long, default_value = "line", conflicts_with = "formula")]
    model: String,
    /// A formula for y over symbols of columns and free parameters: "A*exp(-b*t)+C".
    #[arg(long)]
    formula: Option<String>,
    /// Start values of the parameters in coherent SI units: A=5,b=0.1. Missing ones are guessed.
    #[arg(long, value_delimiter = ',', requires = "formula")]
    start: Vec<String>,
    /// Standard uncertainty of y: a column, or one value for all in the unit of y.
    #[arg(long)]
    uy: Option<String>,
    /// Standard uncertainty of x: a column, or one value for all in the unit of x.
    #[arg(long)]
    ux: Option<String>,
    /// Rows to use, counted from 1: 3-9.
    #[arg(long)]
    rows: Option<String>,
    /// Rows to leave out, counted from 1: 4,7.
    #[arg(long, value_delimiter = ',')]
    aside: Vec<usize>,
}

impl FitArgs {
    pub(crate) fn run(self) -> Result<()> {
        let file = File::open(&self.file)?;
        let model = self.model(&file)?;
        let (data, units, y_unit) = self.data(&file, &model)?;
        let weighting = match (&self.uy, &self.ux) {
            (_, Some(_)) => Weighting::Both,
            (Some(_), None) => Weighting::Up,
            (None, None) => Weighting::Equal,
        };
        let mut report = json!({ "model": model.name(), "weighting": weighting.name(), "n": data.len() });
        if let Model::Typed(t) = &model {
            report["formula"] = t.formula.text().into();
        }
        match fit(&data, &model, weighting, (&units, &y_unit)) {
            Ok(fit) => {
                let parameters: Vec<Value> = fit
                    .parameters
                    .iter()
                    .map(|p| json!({ "symbol": p.symbol, "value": finite(p.value), "uncertainty": finite(p.u), "unit": p.unit.to_string() }))
                    .collect();
                let covariance: Vec<Vec<Value>> =
                    fit.covariance.iter().map(|row| row.iter().map(|v| finite(*v)).collect()).collect();
                report["outcome"] = "found".into();
                report["parameters"] = parameters.into();
                report["covariance"] = json!(covariance);
                report["dof"] = fit.dof.into();
                report["residual_sd"] = finite(fit.residual_sd);
                report["chi2_reduced"] = fit.chi2_reduced.map_or(Value::Null, finite);
                report["r2"] = finite(fit.r2);
                writeln!(std::io::stdout().lock(), "{report:#}")?;
                Ok(())
            }
            // A formula or a column that is wrong is a mistake in the command; points that give no curve are an outcome.
            Err(e @ (FitError::Formula(_) | FitError::NoUncertainty { .. })) => Err(told(e)),
            Err(e) => {
                let word = match e {
                    FitError::TooFewPoints { .. } => "too_few_points",
                    FitError::AllXEqual => "all_x_equal",
                    FitError::NotFinite => "not_finite",
                    FitError::NoValue { .. } => "no_value",
                    FitError::Undetermined { .. } => "undetermined",
                    FitError::NoWave => "no_wave",
                    FitError::NoConvergence { .. } | FitError::NoUncertainty { .. } | FitError::Formula(_) => {
                        "no_convergence"
                    }
                };
                report["outcome"] = word.into();
                report["parameters"] = json!([]);
                report["message"] = e.words().into();
                writeln!(std::io::stdout().lock(), "{report:#}")?;
                Err(told(e))
            }
        }
    }

    fn model(&self, file: &File) -> Result<Model> {
        let Some(text) = &self.formula else {
            return Model::named(&self.model).with_context(|| {
                let names = Model::OFFERED.map(|m| m.name()).join(", ");
                format!("There is no model “{}”. Known are: {names}.", self.model)
            });
        };
        // `h = a*t^2` may be typed whole.
        let right = text.split_once('=').filter(|(left, _)| left.trim() == self.y).map_or(text.as_str(), |(_, r)| r);
        let formula = Formula::parse(right.trim()).map_err(told)?;
        // Symbols that are columns stand for them; x may also be called so.
        let mut data = vec![self.x.clone()];
        for symbol in formula.symbols() {
            if symbol != self.x && file.place(symbol).is_some() {
                data.push(symbol.to_owned());
            }
        }
        if !formula.symbols().contains(&self.x.as_str()) && formula.symbols().contains(&"x") {
            data[0] = "x".to_owned();
        }
        let mut start = BTreeMap::new();
        for part in &self.start {
            let (symbol, value) =
                part.split_once('=').with_context(|| format!("Write start values as A=5,b=0.1, not “{part}”."))?;
            start.insert(symbol.trim().to_owned(), Decimal::parse(value).map_err(told)?.value());
        }
        let typed = Typed { formula, data, start };
        let parameters = typed.parameters();
        if let Some(unknown) = typed.start.keys().find(|s| !parameters.contains(s)) {
            bail!("The start value {unknown} belongs to no parameter. The parameters are: {}.", parameters.join(", "));
        }
        Ok(Model::Typed(Box::new(typed)))
    }

    fn data(&self, file: &File, model: &Model) -> Result<(Data, Vec<Unit>, Unit)> {
        let mut symbols = vec![self.x.clone()];
        if let Model::Typed(t) = model {
            symbols.extend(t.data.iter().skip(1).cloned());
        }
        let xs = symbols.iter().map(|s| file.column(s)).collect::<Result<Vec<_>>>()?;
        let (iy, y_unit) = file.column(&self.y)?;
        // A column with its factor to the unit of its quantity, or one value for all.
        let uncertainty = |text: &Option<String>, unit: &Unit| -> Result<Option<Result<(usize, f64), f64>>> {
            let Some(text) = text else { return Ok(None) };
            if let Some(place) = file.place(text) {
                let own = &file.heads[place].unit;
                if !own.is_one() && !own.same_dimension(unit) {
                    bail!("The uncertainty {text} is in {own}, the column in {unit}.");
                }
                let factor = if own.is_one() { 1.0 } else { own.size() / unit.size() };
                return Ok(Some(Ok((place, factor))));
            }
            let value = Decimal::parse(text)
                .map_err(told)
                .with_context(|| format!("“{text}” is neither a column nor a number"))?;
            Ok(Some(Err(value.value())))
        };
        let (uy, ux) = (uncertainty(&self.uy, &y_unit)?, uncertainty(&self.ux, &xs[0].1)?);
        let mut data = Data { x: vec![Vec::new(); xs.len()], ..Data::default() };
        for row in file.chosen(self.rows.as_deref(), &self.aside)? {
            let values = xs.iter().map(|(i, _)| file.number(row, *i)).collect::<Result<Vec<_>>>()?;
            // A trial that is not finished has an empty cell.
            let (Some(values), Some(y)) = (values.into_iter().collect::<Option<Vec<f64>>>(), file.number(row, iy)?)
            else {
                continue;
            };
            for (column, v) in data.x.iter_mut().zip(values) {
                column.push(v);
            }
            data.y.push(y);
            for (to, from) in [(&mut data.uy, &uy), (&mut data.ux, &ux)] {
                match from {
                    Some(Ok((place, factor))) => to.push(file.number(row, *place)?.map_or(f64::NAN, |u| u * factor)),
                    Some(Err(value)) => to.push(*value),
                    None => {}
                }
            }
        }
        if data.is_empty() {
            bail!("{} has no row with a value in both columns.", file.name());
        }
        Ok((data, xs.into_iter().map(|(_, u)| u).collect(), y_unit))
    }
}

/// JSON knows no infinity: what is not known is null.
pub(super) fn finite(value: f64) -> Value {
    if value.is_finite() { json!(value) } else { Value::Null }
}
