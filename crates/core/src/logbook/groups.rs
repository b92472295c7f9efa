//! Where rows are grouped: what the curve of each group gives, beside the accepted value the sheet has for it.

use super::Logbook;
use super::analysis::{Analysis, compare};
use crate::quantity::{Decimal, Unit};
use crate::record::{ColumnSource, Held};
use crate::result::{Comparison, Constant, ConstantError, NotComparable, ResultFrom, ResultSpec, from_parameter};
use crate::rigs::SettingKind;

/// What the curve of one group of rows gives.
#[derive(Clone, Debug)]
pub struct GroupOutcome {
    /// Name of the group for people.
    pub label: String,
    /// Label of its series on the graph.
    pub series: String,
    /// The value, or why there is none.
    pub constant: Result<Constant, ConstantError>,
    /// The accepted value the sheet has for the group.
    pub accepted: Option<(Decimal, Unit)>,
    /// Comparison with it; an error when their units differ.
    pub comparison: Option<Result<Comparison, NotComparable>>,
}

impl Logbook {
    /// The same parameter of every group's curve, through the same law.
    pub(super) fn group_outcomes(&self, plan: &ResultSpec, analysis: &Analysis, held: &Held) -> Vec<GroupOutcome> {
        let ResultFrom::Curve { graph, stretch: None, parameter, .. } = &plan.from else { return Vec::new() };
        let (Some(graph), Some(law)) = (analysis.graph(*graph), &plan.law.slope) else { return Vec::new() };
        let table = graph.series.first().and_then(|s| self.state().table_of(s.columns.1));
        let column = table.and_then(|t| t.column(t.group?));
        let (true, Some(column)) = (graph.series.len() > 1, column) else { return Vec::new() };
        let goal = &self.sheet().goal;
        let asked = goal.accepted.as_ref().map_or(&goal.unit, |(_, unit)| unit);
        // An option of the rig's choice by its own name.
        let options = column.source.as_deref().and_then(|source| match source {
            ColumnSource::Setting(name) => match &self.sheet().card.setting(name)?.kind {
                SettingKind::Choice { options } => Some(*options),
                SettingKind::Quantity { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. } => None,
            },
            ColumnSource::Meter(_) => None,
        });
        let whole = graph.fits.iter().filter(|f| f.stretch.is_none());
        whole
            .filter_map(|fitted| {
                let label = &graph.series.get(fitted.series)?.label;
                let value = label.split_once(" = ").map_or("", |(_, value)| value);
                let place = value.parse::<usize>().ok().and_then(|n| n.checked_sub(1));
                let named = place.and_then(|place| options?.get(place)).map(|(_, people)| (*people).to_owned());
                let constant = match &fitted.outcome {
                    Ok(fit) => from_parameter(fit.parameter(parameter)?, law, &|s| held.get(s).cloned()),
                    Err(e) => Err(e.clone().into()),
                };
                let accepted = goal.beside.get(value).cloned();
                let unit = accepted.as_ref().map_or(asked, |(_, unit)| unit);
                let constant = constant.map(|c| c.in_unit(unit));
                let comparison = constant.as_ref().ok().zip(accepted.as_ref()).map(|(c, (n, u))| compare(c, n, u));
                Some(GroupOutcome {
                    label: named.unwrap_or_else(|| label.clone()),
                    series: label.clone(),
                    constant,
                    accepted,
                    comparison,
                })
            })
            .collect()
    }
}
