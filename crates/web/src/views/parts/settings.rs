//! What can be set on a rig, and what the sheet has fixed.

use zeitmass_core::lab::{Freedom, SettingRule};
use zeitmass_core::logbook::HeldValue;
use zeitmass_core::quantity::Decimal;
use zeitmass_core::rigs::{Node, SettingKind, SettingSpec, SettingValue};

use super::Scene;
use crate::notation::symbol_html;

impl Scene<'_> {
    /// What can be set, what the sheet has fixed, and the names of what it hides.
    pub(super) fn settings(&self) -> (Vec<SettingRow>, Vec<FixedSetting>, Vec<&'static str>) {
        let (book, card) = (self.book(), &self.book().sheet().card);
        let mut rows: Vec<SettingRow> = Vec::new();
        let (mut fixed, mut hidden) = (Vec::new(), Vec::new());
        for (rule, held) in book.rules().iter().zip(book.held()) {
            let Some(spec) = card.setting(rule.name) else { continue };
            if !book.counts(spec) {
                continue;
            }
            match rule.freedom {
                // A hidden value never reaches the page.
                Freedom::Hidden => hidden.push(spec.label),
                Freedom::Fixed if matches!(rule.value, SettingValue::Blank(_)) => {}
                Freedom::Fixed => fixed.push(FixedSetting {
                    label: spec.label,
                    symbol: symbol_html(spec.symbol),
                    value: spec.pretty(&rule.value),
                    dealt: rule.dealt.is_some(),
                    name: rule.name,
                    loggable: matches!(spec.kind, SettingKind::Quantity { .. }),
                }),
                Freedom::Free => rows.push(self.setting_row(rule, spec, &held.value)),
            }
        }
        (rows, fixed, hidden)
    }

    fn setting_row(&self, rule: &SettingRule, spec: &SettingSpec, held: &HeldValue) -> SettingRow {
        let state = self.book().state();
        let value = state.run.settings.get(rule.name).unwrap_or(&rule.value);
        let note = match held {
            HeldValue::Varied => "varied",
            HeldValue::Held(_) | HeldValue::Hidden if state.runs_kept().count() > 1 && spec.line.is_none() => "held",
            HeldValue::Held(_) | HeldValue::Hidden => "",
        };
        let options = match &spec.kind {
            SettingKind::Choice { options } => {
                options.iter().map(|(name, label)| (*name, *label, value.pretty() == *name)).collect()
            }
            SettingKind::Quantity { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. } => Vec::new(),
        };
        let nodes = match (&spec.kind, value) {
            (SettingKind::Path { unit, limits, .. }, SettingValue::Path(nodes)) => {
                let row = |n: &Node| [n.at[0], n.at[1]].map(|v| Decimal::rounded(v, limits.step).pretty());
                let ring = |n: &Node| n.ring.map_or_else(String::new, |r| Decimal::rounded(r, limits.step).pretty());
                Some(NodeTable {
                    unit: unit.pretty(),
                    nodes: nodes.iter().map(|n| (row(n), ring(n))).collect(),
                    least: limits.count[0],
                    most: limits.count[1],
                })
            }
            _ => None,
        };
        let (step, blank) = match &spec.kind {
            SettingKind::Quantity { resolution, blank, .. } => (resolution.to_string(), blank.unwrap_or_default()),
            SettingKind::Choice { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. } => (String::new(), ""),
        };
        SettingRow {
            name: rule.name,
            label: spec.label,
            symbol: symbol_html(spec.symbol),
            value: value.pretty(),
            blank,
            step,
            options,
            switch: matches!(spec.kind, SettingKind::Switch { .. }),
            on: *value == SettingValue::Switch(true),
            loggable: matches!(spec.kind, SettingKind::Quantity { .. }),
            range: spec.range(),
            nodes,
            note,
            line: spec.line,
        }
    }
}

/// Rows one by one; those of a stretch of the shuttle's motion together.
pub(super) fn lines(rows: Vec<SettingRow>) -> Vec<SettingLine> {
    let mut lines: Vec<SettingLine> = Vec::new();
    for row in rows {
        match lines.last_mut() {
            Some(last) if row.line.is_some() && last.line == row.line => last.rows.push(row),
            _ => lines.push(SettingLine { line: row.line, rows: vec![row] }),
        }
    }
    // Blank stretches behind the first blank one are not shown yet.
    let blank = |l: &SettingLine| l.line.is_some() && l.rows.iter().all(|r| r.value.is_empty());
    let first_blank = lines.iter().position(blank);
    if let Some(first) = first_blank {
        let mut k = 0;
        lines.retain(|l| {
            k += 1;
            k <= first + 1 || !blank(l)
        });
    }
    lines
}

pub(super) struct SettingLine {
    pub(super) line: Option<u8>,
    pub(super) rows: Vec<SettingRow>,
}

pub(super) struct SettingRow {
    pub(super) name: &'static str,
    pub(super) label: &'static str,
    pub(super) symbol: String,
    pub(super) value: String,
    pub(super) blank: &'static str,
    pub(super) step: String,
    pub(super) options: Vec<(&'static str, &'static str, bool)>,
    pub(super) switch: bool,
    pub(super) on: bool,
    pub(super) loggable: bool,
    pub(super) range: String,
    /// The nodes of a path.
    pub(super) nodes: Option<NodeTable>,
    pub(super) note: &'static str,
    pub(super) line: Option<u8>,
}

/// Nodes of a path, each with the radius of a loop behind it, as text.
pub(super) struct NodeTable {
    pub(super) unit: String,
    pub(super) nodes: Vec<([String; 2], String)>,
    pub(super) least: usize,
    pub(super) most: usize,
}

pub(super) struct FixedSetting {
    pub(super) label: &'static str,
    pub(super) symbol: String,
    pub(super) value: String,
    pub(super) dealt: bool,
    pub(super) name: &'static str,
    pub(super) loggable: bool,
}
