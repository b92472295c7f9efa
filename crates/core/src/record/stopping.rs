//! When a chance or repeated experiment has runs enough.

use serde::{Deserialize, Serialize};

use super::{Column, Table};
use crate::quantity::Decimal;

/// When a quantity has been measured often enough.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "rule", rename_all = "snake_case")]
pub enum StoppingRule {
    /// After this many runs.
    Runs {
        /// Stem of the runs.
        stem: String,
        /// How many.
        wanted: u16,
    },
    /// When one more run changes the mean of no row by this much.
    Change {
        /// Stem of the runs.
        stem: String,
        /// Largest percent difference between the mean of all runs and the mean before the last one.
        percent: Decimal,
    },
}

/// How a stopping rule stands.
#[derive(Clone, Debug, PartialEq)]
pub struct Standing {
    /// Runs that count.
    pub runs: usize,
    /// For a rule in percent: the largest percent difference over all rows, and the number of that row.
    pub change: Option<(f64, usize)>,
    /// Whether there are runs enough.
    pub met: bool,
}

impl StoppingRule {
    /// Stem of the runs it is about.
    pub fn stem(&self) -> &str {
        match self {
            Self::Runs { stem, .. } | Self::Change { stem, .. } => stem,
        }
    }
}

impl Table {
    /// How the table's stopping rule stands; `None` without a rule.
    ///
    /// The change of a row is the percent difference |m − m′|/((|m| + |m′|)/2)·100 between the mean m of all runs and the
    /// mean m′ without the last one (common practice).
    pub fn standing(&self) -> Option<Standing> {
        let rule = self.record.stopping.as_ref()?;
        let counts = |c: &Column| c.stem.as_deref() == Some(rule.stem()) && c.aside.is_none();
        let runs: Vec<usize> = (0..self.columns.len()).filter(|i| counts(&self.columns[*i].column)).collect();
        match rule {
            StoppingRule::Runs { wanted, .. } => {
                Some(Standing { runs: runs.len(), change: None, met: runs.len() >= usize::from(*wanted) })
            }
            StoppingRule::Change { percent, .. } => {
                let rows = self.rows.iter().enumerate().filter(|(_, r)| !r.aside);
                let changes = rows.filter_map(|(i, row)| {
                    let values: Vec<f64> =
                        runs.iter().filter_map(|c| Some(self.columns[*c].cells[i].value()?.value)).collect();
                    let (_, before) = values.split_last().filter(|(_, b)| !b.is_empty())?;
                    let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
                    let (now, then) = (mean(&values), mean(before));
                    let size = f64::midpoint(now.abs(), then.abs());
                    Some((if size == 0.0 { 0.0 } else { (now - then).abs() / size * 100.0 }, row.number))
                });
                let change = changes.max_by(|a, b| a.0.total_cmp(&b.0));
                let met = change.is_some_and(|(c, _)| c < percent.value());
                Some(Standing { runs: runs.len(), change, met })
            }
        }
    }
}
