//! A setting as it is filled in: a rule and up to two values.

use strum::{EnumString, IntoStaticStr, VariantArray};

use crate::rigs::{SettingKind, SettingSpec};

/// What a sheet does with a setting.
#[derive(Clone, Copy, Debug, PartialEq, Eq, VariantArray, IntoStaticStr, EnumString)]
#[strum(serialize_all = "kebab-case")]
pub enum DraftRule {
    /// Students set it.
    Free,
    /// It is so, for all to see.
    Fixed,
    /// It is so and nobody sees it.
    Hidden,
    /// Each logbook gets its own value from a range.
    Dealt,
    /// Each logbook gets one of some values.
    DealtAmong,
    /// Its own value from a range, and nobody sees it.
    HiddenDealt,
    /// One of some values, and nobody sees it.
    HiddenAmong,
}

impl DraftRule {
    /// All.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in forms.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The rule of that name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }

    /// Whether it has a second value.
    pub fn is_range(self) -> bool {
        matches!(self, Self::Dealt | Self::HiddenDealt)
    }

    /// Whether its value is a list.
    pub fn is_list(self) -> bool {
        matches!(self, Self::DealtAmong | Self::HiddenAmong)
    }

    fn word(self) -> &'static str {
        match self {
            Self::Free => "free",
            Self::Fixed => "fixed",
            Self::Hidden => "hidden",
            Self::Dealt | Self::DealtAmong => "dealt",
            Self::HiddenDealt | Self::HiddenAmong => "hidden dealt",
        }
    }
}

/// A setting as it stands in a draft.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DraftSetting {
    /// What the sheet does with it.
    pub rule: DraftRule,
    /// Its value, the smaller end of its range, or its list.
    pub first: String,
    /// The larger end of its range.
    pub second: String,
}

impl DraftSetting {
    /// Reads what stands in a sheet; blank for a setting that is left as it usually is.
    pub(super) fn read(text: &str) -> Self {
        let text = text.trim();
        let (word, rest) = text.split_once(char::is_whitespace).unwrap_or((text, ""));
        let (hidden, rest) = match (word, rest.trim().strip_prefix("dealt")) {
            ("hidden", Some(range)) => (true, Some(range)),
            ("dealt", _) => (false, Some(rest)),
            _ => (false, None),
        };
        let Some(range) = rest else {
            let rule = match word {
                "free" => DraftRule::Free,
                "hidden" => DraftRule::Hidden,
                _ => DraftRule::Fixed,
            };
            let value = text.split_once(char::is_whitespace).map_or("", |(_, v)| v.trim());
            return Self { rule, first: value.to_owned(), second: String::new() };
        };
        let range = range.trim();
        let ends = if range.contains('|') {
            None
        } else {
            range.split_once(" to ").or(range.strip_suffix(" to").map(|v| (v, "")))
        };
        match ends {
            Some((low, high)) => Self {
                rule: if hidden { DraftRule::HiddenDealt } else { DraftRule::Dealt },
                first: low.trim().to_owned(),
                second: high.trim().to_owned(),
            },
            None => Self {
                rule: if hidden { DraftRule::HiddenAmong } else { DraftRule::DealtAmong },
                first: range.to_owned(),
                second: String::new(),
            },
        }
    }

    /// As it stands in a sheet.
    pub(super) fn written(&self) -> String {
        let (word, first) = (self.rule.word(), self.first.trim());
        let text = if self.rule.is_range() {
            format!("{word} {first} to {}", self.second.trim())
        } else if self.rule.is_list() && !first.contains('|') {
            format!("{word} {first} |")
        } else {
            format!("{word} {first}")
        };
        text.trim_end().to_owned()
    }

    /// The same with another rule, and with values to start from.
    pub(super) fn ruled(self, rule: DraftRule, spec: Option<&SettingSpec>) -> Self {
        let low = self.first.split('|').next().unwrap_or_default().trim().to_owned();
        let Some(spec) = spec else { return Self { rule, first: low, second: self.second } };
        let ends = || {
            let range = spec.range().replace('\u{A0}', " ").replace('\u{2212}', "-");
            range.split_once(" to ").map_or((String::new(), String::new()), |(a, b)| (a.to_owned(), b.to_owned()))
        };
        if rule.is_range() {
            if self.rule.is_range() {
                return Self { rule, ..self };
            }
            let (first, second) = ends();
            let wider = spec.check(&low).ok().and_then(|v| v.si()) < spec.check(&second).ok().and_then(|v| v.si());
            return Self { rule, first: if wider && !low.is_empty() { low } else { first }, second };
        }
        if rule.is_list() {
            let first = match &spec.kind {
                _ if self.rule.is_list() => self.first,
                SettingKind::Choice { options } => {
                    options.iter().map(|(name, _)| *name).collect::<Vec<_>>().join(" | ")
                }
                SettingKind::Quantity { .. } if !low.is_empty() => format!("{low} | {}", ends().1),
                SettingKind::Quantity { .. } => format!("{} | {}", ends().0, ends().1),
                SettingKind::Switch { .. } => "on | off".to_owned(),
                SettingKind::Path { .. } => self.first,
            };
            return Self { rule, first, second: String::new() };
        }
        Self { rule, first: low, second: String::new() }
    }
}
