//! What a sheet says about the settings of its rig: free, fixed, hidden, or dealt to each logbook.

use super::wrong::Wrong;
use crate::chance::Chance;
use crate::quantity::Decimal;
use crate::rigs::{Card, SettingKind, SettingSpec, SettingValue};

/// What a student may do with a setting.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Freedom {
    /// The student sets it.
    Free,
    /// It has the sheet's value, for all to see.
    Fixed,
    /// It has the sheet's value, which never leaves the server.
    Hidden,
}

/// The sheet's rule for one setting.
#[derive(Clone, Debug, PartialEq)]
pub struct SettingRule {
    /// Name of the setting.
    pub name: &'static str,
    /// What a student may do with it.
    pub freedom: Freedom,
    /// Its value: the first one if free, the only one if not. Of a dealt one this is the middle of its range until it is dealt.
    pub value: SettingValue,
    /// From what each logbook gets its own value.
    pub dealt: Option<Deal>,
}

/// From what values are dealt.
#[derive(Clone, Debug, PartialEq)]
pub enum Deal {
    /// From one value to another, in the steps of the setting.
    Range(Box<(SettingValue, SettingValue)>),
    /// One of these.
    Among(Vec<SettingValue>),
}

impl SettingRule {
    /// The rule with the value this logbook is dealt; the same seed deals the same value.
    pub(super) fn for_seed(&self, spec: &SettingSpec, seed: u64) -> Self {
        let mut chance = Chance::of(seed, self.name, 0);
        let value = match (&self.dealt, &spec.kind) {
            (Some(Deal::Among(values)), _) => {
                let k = (chance.even() * values.len() as f64) as usize;
                values.get(k).cloned().unwrap_or_else(|| self.value.clone())
            }
            (Some(Deal::Range(ends)), SettingKind::Quantity { unit, resolution, .. }) => {
                let end = |v: &SettingValue| (v.si().unwrap_or_default() / unit.size() / resolution).round();
                let (low, high) = (end(&ends.0), end(&ends.1));
                let steps = low + (chance.even() * (high - low + 1.0)).floor();
                SettingValue::Quantity(Decimal::rounded(steps * resolution, *resolution), unit.clone())
            }
            _ => self.value.clone(),
        };
        Self { value, ..self.clone() }
    }
}

/// Reads `free 0.80 m`, `fixed on`, `hidden 9.81 m/s^2`, `dealt 0.2 kg to 0.6 kg`, `hidden dealt Mars | Io | Titan`.
pub(super) fn setting_rule(
    card: &Card,
    name: &'static str,
    written: Option<&toml::Value>,
) -> Result<SettingRule, Wrong> {
    let spec = card.known_setting(name)?;
    let Some(written) = written else {
        return Ok(SettingRule { name, freedom: Freedom::Fixed, value: spec.default_value(), dealt: None });
    };
    let how = Wrong::NoRule { setting: name, range: spec.range() };
    let text = written.as_str().ok_or_else(|| how.clone())?.trim();
    let (word, value) = text.split_once(char::is_whitespace).unwrap_or((text, ""));
    let freedom = match word {
        "free" => Freedom::Free,
        "fixed" => Freedom::Fixed,
        "hidden" => Freedom::Hidden,
        "dealt" => return dealt(spec, Freedom::Fixed, value).ok_or(how)?,
        _ => return Err(how),
    };
    match value.trim().strip_prefix("dealt") {
        Some(range) if freedom == Freedom::Hidden => return dealt(spec, freedom, range).ok_or(how)?,
        Some(_) => return Err(how),
        None => {}
    }
    let value = if value.trim().is_empty() { spec.default_value() } else { spec.check(value)? };
    Ok(SettingRule { name, freedom, value, dealt: None })
}

/// A range or a list to deal from; `None` when it is neither.
fn dealt(spec: &SettingSpec, freedom: Freedom, text: &str) -> Option<Result<SettingRule, Wrong>> {
    let rule = |value, dealt| SettingRule { name: spec.name, freedom, value, dealt: Some(dealt) };
    if let Some((low, high)) = text.split_once(" to ") {
        return Some((|| {
            let (low, high) = (spec.check(low)?, spec.check(high)?);
            if low.si() >= high.si() || !matches!(spec.kind, SettingKind::Quantity { .. }) {
                return Err(Wrong::DealtOrder { label: spec.label });
            }
            Ok(rule(low.clone(), Deal::Range(Box::new((low, high)))))
        })());
    }
    if text.contains('|') {
        let values = text.split('|').map(|v| spec.check(v)).collect::<Result<Vec<_>, _>>();
        return Some(values.map_err(Wrong::from).map(|v| rule(v[0].clone(), Deal::Among(v))));
    }
    None
}
