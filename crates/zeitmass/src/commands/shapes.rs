//! `zeitmass shapes`: the shape strip as JSON.

use std::io::Write;
use std::path::PathBuf;

use anyhow::Result;
use clap::Args;
use serde_json::{Value, json};
use zeitmass_core::fit::{Bend, Seen, Shape, shapes};
use zeitmass_core::result::simple_fraction;
use zeitmass_words::Words;
use zeitmass_words::data::straightness;

use super::fit::finite;
use super::table::File;

#[derive(Args)]
pub(crate) struct ShapesArgs {
    /// The CSV file; its first line names the columns.
    file: PathBuf,
    /// Symbol of the column that goes across.
    #[arg(long)]
    x: String,
    /// Symbol of the column that goes up.
    #[arg(long)]
    y: String,
    /// Rows to use, counted from 1: 3-9.
    #[arg(long)]
    rows: Option<String>,
    /// Rows to leave out, counted from 1: 4,7.
    #[arg(long, value_delimiter = ',')]
    aside: Vec<usize>,
}

impl ShapesArgs {
    pub(crate) fn run(self) -> Result<()> {
        let file = File::open(&self.file)?;
        let ((ix, _), (iy, _)) = (file.column(&self.x)?, file.column(&self.y)?);
        let mut points = Vec::new();
        for row in file.chosen(self.rows.as_deref(), &self.aside)? {
            if let (Some(x), Some(y)) = (file.number(row, ix)?, file.number(row, iy)?) {
                points.push(Seen::from((x, y)));
            }
        }
        let strip: Vec<Value> = shapes(&points)
            .into_iter()
            .map(|(shape, outcome)| match outcome {
                Err(reason) => json!({ "shape": shape.name(), "outcome": "closed", "message": reason.words() }),
                Ok(fit) => {
                    let j = &fit.judgement;
                    let mut one = json!({
                        "shape": shape.name(),
                        "outcome": if j.bend == Bend::None { "straight" } else { "bent" },
                        "bend": j.bend,
                        "verdict": straightness(j, points.len()),
                        "signs": j.signs,
                        "p_curvature": finite(j.p_curvature),
                        "left_over": finite(j.rest),
                        "slope": finite(fit.line.slope),
                        "intercept": finite(fit.line.intercept),
                        "r2": finite(fit.line.r2),
                    });
                    if shape == Shape::Power {
                        let e = simple_fraction(fit.line.slope, fit.line.u_slope);
                        one["exponent"] = json!({
                            "value": finite(e.value), "uncertainty": finite(e.u),
                            "fraction": e.fraction.map(|(n, d)| if d == 1 { n.to_string() } else { format!("{n}/{d}") }),
                        });
                    }
                    one
                }
            })
            .collect();
        writeln!(std::io::stdout().lock(), "{:#}", json!({ "n": points.len(), "shapes": strip }))?;
        Ok(())
    }
}
