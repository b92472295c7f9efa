//! CSV files as the commands read them: heads `L (m)`, numbers with point or comma, any sign between the cells.

use std::path::Path;

use anyhow::{Context, Result, anyhow, bail};
use zeitmass_core::quantity::{Decimal, Unit};
use zeitmass_core::record::{Block, Head};
use zeitmass_words::Words;

/// A file's columns and its cells as texts.
pub(super) struct File {
    name: String,
    pub heads: Vec<Head>,
    pub rows: Vec<Vec<String>>,
}

impl File {
    pub(super) fn open(path: &Path) -> Result<Self> {
        let name = path.display().to_string();
        let bytes = std::fs::read(path).with_context(|| format!("{name} cannot be opened"))?;
        let text = String::from_utf8_lossy(&bytes);
        let block = Block::read_whole(&text).map_err(|e| anyhow!("{name}: {}", e.words()))?;
        let heads = block.heads.with_context(|| format!("{name} has no line that names the columns."))?;
        Ok(Self { name, heads, rows: block.rows })
    }

    /// Symbol by which a column is named; its name where it has none.
    pub(super) fn symbol(head: &Head) -> &str {
        if head.symbol.is_empty() { &head.name } else { &head.symbol }
    }

    pub(super) fn place(&self, symbol: &str) -> Option<usize> {
        self.heads.iter().position(|h| Self::symbol(h) == symbol || h.name == symbol)
    }

    /// Place and unit of a column.
    pub(super) fn column(&self, symbol: &str) -> Result<(usize, Unit)> {
        let names = || self.heads.iter().map(Self::symbol).collect::<Vec<_>>().join(", ");
        let place = self.place(symbol);
        let place = place.with_context(|| format!("{} has no column “{symbol}”. It has: {}.", self.name, names()))?;
        Ok((place, self.heads[place].unit.clone()))
    }

    /// The number in a cell; `None` when it is empty.
    pub(super) fn number(&self, row: usize, column: usize) -> Result<Option<f64>> {
        let text = self.rows[row][column].trim();
        if text.is_empty() {
            return Ok(None);
        }
        let number = Decimal::parse(text);
        number.map(|d| Some(d.value())).map_err(|e| anyhow!("{}, line {}: {}", self.name, row + 2, e.words()))
    }

    /// Rows `3-9` or all, without those set aside; rows are counted from 1.
    pub(super) fn chosen(&self, rows: Option<&str>, aside: &[usize]) -> Result<Vec<usize>> {
        let (from, to) = match rows {
            None => (1, self.rows.len()),
            Some(text) => {
                let (a, b) = text.split_once('-').unwrap_or((text, text));
                let number =
                    |t: &str| t.trim().parse::<usize>().map_err(|_| anyhow!("Write rows as 3-9, not “{text}”."));
                (number(a)?, number(b)?)
            }
        };
        if from == 0 || from > to || to > self.rows.len() {
            bail!("{} has the rows 1 to {}.", self.name, self.rows.len());
        }
        Ok((from..=to).filter(|r| !aside.contains(r)).map(|r| r - 1).collect())
    }

    pub(super) fn name(&self) -> &str {
        &self.name
    }
}
