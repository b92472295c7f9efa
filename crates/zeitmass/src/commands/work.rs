//! `zeitmass work`: appends a worked column to a CSV file.

use std::sync::Arc;

use std::collections::BTreeMap;
use std::io::Write;
use std::path::PathBuf;

use anyhow::{Context, Result, anyhow, bail};
use clap::Args;
use zeitmass_core::formula::{Formula, FormulaError, is_symbol};
use zeitmass_core::quantity::{Decimal, Precision, Reading};
use zeitmass_core::record::{Cell, Column, ColumnKind, Held, Record, Row};
use zeitmass_words::Words;

use super::table::File;
use super::told;

/// Rows without a value that are named one by one.
const NAMED_ROWS: usize = 10;

#[derive(Args)]
pub(crate) struct WorkArgs {
    /// The CSV file; its first line names the columns, with units such as `L (m)`.
    file: PathBuf,
    /// The column to append: "v = rate(x, t)".
    formula: String,
    /// Append a column with its standard uncertainty too.
    #[arg(long)]
    uncertainty: bool,
}

impl WorkArgs {
    pub(crate) fn run(self) -> Result<()> {
        let file = File::open(&self.file)?;
        let (symbol, text) = self.formula.split_once('=').context("Write the column as v = rate(x, t).")?;
        let (symbol, text) = (symbol.trim(), text.trim());
        if !is_symbol(symbol) || file.place(symbol).is_some() {
            bail!("“{symbol}” cannot be the symbol of a new column.");
        }
        let at_place = |e: FormulaError| {
            let part = text.get(e.span.clone()).unwrap_or("");
            if part.is_empty() { told(e.problem) } else { anyhow!("{} Look at “{part}”.", e.problem.words()) }
        };
        let formula = Formula::parse(text).map_err(at_place)?.spelled_as(file.heads.iter().map(File::symbol));
        let mut columns: Vec<Column> = (1..)
            .zip(&file.heads)
            .map(|(id, head)| {
                let (name, symbol) = (head.name.clone(), File::symbol(head).to_owned());
                // A column u(v) beside the column v holds its standard uncertainties.
                let stated = file.heads.iter().find(|h| h.uncertainty_of() == Some(symbol.as_str()));
                let precision =
                    stated.map_or_else(Precision::default, |h| Precision::Column { symbol: h.name.clone() });
                Column { precision, ..Column::of_readings(id, ColumnKind::Read, name, symbol, head.unit.clone()) }
            })
            .collect();
        let own = columns.len() as u32 + 1;
        columns.push(Column::worked(own, symbol.to_owned(), symbol.to_owned(), Some(formula.clone())));
        let rows = file.rows.iter().zip(1..).map(|(cells, id)| {
            let readings = cells.iter().zip(1..).zip(&file.heads).filter_map(|((text, c), head)| {
                // A column of words, such as a remark, has no readings.
                let number = Decimal::parse(text).ok()?;
                Some((c, Reading::typed(number, head.unit.clone())))
            });
            Row { id, cells: readings.map(|(c, r)| (c, Box::new(r))).collect(), ..Row::default() }
        });
        let record = Record { columns, rows: rows.collect(), ..Record::default() };
        let held = Held::new();
        record.check_formula(symbol, &formula, &held).map_err(at_place)?;
        let table = Arc::new(record).evaluate(&held);
        let place = table.place(own).context("the column was not worked out")?;
        let column = &table.columns[place];
        let unit = column.unit.as_ref().map_err(|e| at_place(e.clone()))?;
        let titled = |s: &str| if unit.is_one() { s.to_owned() } else { format!("{s} ({unit})") };
        let mut out = csv::Writer::from_writer(std::io::stdout().lock());
        let old_heads = file.heads.iter().map(|h| {
            let s = File::symbol(h);
            if h.unit.is_one() { s.to_owned() } else { format!("{s} ({})", h.unit) }
        });
        let new_heads =
            std::iter::once(titled(symbol)).chain(self.uncertainty.then(|| titled(&format!("u({symbol})"))));
        out.write_record(old_heads.chain(new_heads))?;
        let mut troubles: BTreeMap<String, Vec<usize>> = BTreeMap::new();
        for (row, (cells, worked)) in (1..).zip(file.rows.iter().zip(column.cells.iter())) {
            let (value, u) = match worked {
                Cell::Value(v) => (number(v.value / unit.size()), number(v.u() / unit.size())),
                Cell::Empty => (String::new(), String::new()),
                Cell::Trouble(e) => {
                    troubles.entry(at_place(FormulaError::clone(e)).to_string()).or_default().push(row);
                    (String::new(), String::new())
                }
            };
            let old = cells.iter().map(|c| c.trim().replace(',', "."));
            out.write_record(old.chain([value]).chain(self.uncertainty.then_some(u)))?;
        }
        out.flush()?;
        let mut said = std::io::stderr().lock();
        for (why, rows) in troubles {
            let first: Vec<String> = rows.iter().take(NAMED_ROWS).map(usize::to_string).collect();
            let more = if rows.len() > NAMED_ROWS { ", …" } else { "" };
            let (count, which) = (rows.len(), if rows.len() == 1 { "row has" } else { "rows have" });
            writeln!(said, "{count} {which} no value ({}{more}): {why}", first.join(", "))?;
        }
        Ok(())
    }
}

/// As many digits as a number has, in a form that is short enough to be read again: rounding is left to whoever reads the file.
fn number(value: f64) -> String {
    if value == 0.0 || (1e-4..1e15).contains(&value.abs()) { format!("{value}") } else { format!("{value:e}") }
}
