//! Settings: what can be set on a rig, and how a typed value is read.

use derive_more::From;

use super::path::{Node, PathError, PathLimits, written};
use crate::quantity::format::{plain, with_unit};
use crate::quantity::{Decimal, QuantityError, Reading, Unit, parse_quantity};

/// Why a typed value of a setting cannot be taken.
#[derive(Clone, Debug, PartialEq, From)]
pub enum SettingError {
    /// The rig has no such setting.
    Unknown {
        /// Name of the rig.
        rig: &'static str,
        /// Name that was meant.
        name: String,
        /// Names of its settings.
        known: Vec<&'static str>,
    },
    /// Neither on nor off.
    NoSwitch {
        /// The setting, for people.
        label: &'static str,
        /// What was typed, shortened.
        typed: String,
    },
    /// None of its options.
    NoOption {
        /// The setting, for people.
        label: &'static str,
        /// Names of its options.
        known: Vec<&'static str>,
        /// What was typed, shortened.
        typed: String,
    },
    /// A quantity where none is wanted.
    NoQuantity {
        /// The setting, for people.
        label: &'static str,
    },
    /// It cannot be read.
    #[from]
    Quantity(QuantityError),
    /// It is of another dimension.
    OtherUnit {
        /// The setting, for people.
        label: &'static str,
        /// Unit of the setting.
        wanted: Unit,
        /// Unit that was typed.
        typed: Unit,
    },
    /// It lies outside the range.
    Outside {
        /// The setting, for people.
        label: &'static str,
        /// The range with its unit.
        range: String,
        /// What was typed, in the same unit.
        value: String,
    },
    /// It lies between two steps.
    TooFine {
        /// The setting, for people.
        label: &'static str,
        /// The step, with its unit.
        step: String,
    },
    /// A path that is none.
    Path {
        /// The setting, for people.
        label: &'static str,
        /// What is wrong with it.
        error: PathError,
    },
}

/// One setting of a rig.
#[derive(Clone, Debug)]
pub struct SettingSpec {
    /// Name in lab sheets and on the command line.
    pub name: &'static str,
    /// Name for people.
    pub label: &'static str,
    /// Symbol in formulas.
    pub symbol: &'static str,
    /// What kind of value it takes.
    pub kind: SettingKind,
    /// Settings with the same number are shown in one line: a stretch of the shuttle's motion.
    pub line: Option<u8>,
    /// The choice and its option with which it counts; always without.
    pub with: Option<(&'static str, &'static str)>,
}

/// Kinds of settings.
#[derive(Clone, Debug)]
pub enum SettingKind {
    /// A number with unit.
    Quantity {
        /// Unit in which range and resolution are given and values shown.
        unit: Unit,
        /// Smallest value in `unit`.
        min: f64,
        /// Largest value in `unit`.
        max: f64,
        /// Smallest step in `unit`.
        resolution: f64,
        /// Value at the start, in `unit`; none for one that starts blank.
        default: Option<f64>,
        /// What it means when it is left blank; none if it cannot be.
        blank: Option<&'static str>,
    },
    /// On or off.
    Switch {
        /// State at the start.
        default: bool,
    },
    /// One of several; the first is chosen at the start.
    Choice {
        /// Name and name for people.
        options: &'static [(&'static str, &'static str)],
    },
    /// A list of nodes.
    Path {
        /// Unit of the nodes.
        unit: Unit,
        /// What nodes it takes.
        limits: PathLimits,
        /// Nodes at the start.
        default: Vec<Node>,
    },
}

/// A quantity, with smallest and largest value, step and value at the start in the unit of that text.
pub(in crate::rigs) fn quantity(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    [min, max, resolution, default]: [f64; 4],
) -> SettingSpec {
    let kind = SettingKind::Quantity {
        unit: super::card::unit(unit),
        min,
        max,
        resolution,
        default: Some(default),
        blank: None,
    };
    SettingSpec { name, label, symbol, kind, line: None, with: None }
}

/// A quantity that starts blank, and what blank means.
pub(in crate::rigs) fn optional(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    [min, max, resolution]: [f64; 3],
    blank: &'static str,
) -> SettingSpec {
    let unit = super::card::unit(unit);
    let kind = SettingKind::Quantity { unit, min, max, resolution, default: None, blank: Some(blank) };
    SettingSpec { name, label, symbol, kind, line: None, with: None }
}

/// A list of nodes in the unit of that text.
pub(in crate::rigs) fn path(
    name: &'static str,
    label: &'static str,
    unit: &str,
    limits: PathLimits,
    default: Vec<Node>,
) -> SettingSpec {
    let kind = SettingKind::Path { unit: super::card::unit(unit), limits, default };
    SettingSpec { name, label, symbol: "", kind, line: None, with: None }
}

/// One of several.
pub(in crate::rigs) fn choice(
    name: &'static str,
    label: &'static str,
    options: &'static [(&'static str, &'static str)],
) -> SettingSpec {
    SettingSpec { name, label, symbol: "", kind: SettingKind::Choice { options }, line: None, with: None }
}

/// A setting's value as it is shown: digits and unit.
#[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum SettingValue {
    /// A number in the setting's unit.
    Quantity(Decimal, Unit),
    /// On or off.
    Switch(bool),
    /// Name of the option chosen.
    Choice(String),
    /// Left blank, with what that means.
    Blank(String),
    /// Nodes, in the setting's unit.
    Path(Vec<Node>),
}

impl SettingValue {
    /// The value of a number in coherent SI units.
    pub fn si(&self) -> Option<f64> {
        match self {
            Self::Quantity(number, unit) => Some(number.value() * unit.size()),
            Self::Switch(on) => Some(f64::from(u8::from(*on))),
            Self::Choice(_) | Self::Blank(_) | Self::Path(_) => None,
        }
    }

    /// The value for people: `0.800 m`, `on`. Of a choice the option's own name; see [`SettingSpec::pretty`].
    pub fn pretty(&self) -> String {
        match self {
            Self::Quantity(number, unit) => with_unit(&number.pretty(), unit),
            Self::Switch(on) => if *on { "on" } else { "off" }.to_owned(),
            Self::Choice(name) => name.clone(),
            Self::Blank(_) => String::new(),
            Self::Path(nodes) => written(nodes),
        }
    }
}

impl SettingSpec {
    /// The same as one that counts only with an option of a choice.
    pub(in crate::rigs) fn with(self, choice: &'static str, option: &'static str) -> Self {
        Self { with: Some((choice, option)), ..self }
    }

    /// The value at the start.
    pub fn default_value(&self) -> SettingValue {
        match &self.kind {
            SettingKind::Quantity { default: None, blank, .. } => {
                SettingValue::Blank(blank.unwrap_or_default().to_owned())
            }
            SettingKind::Quantity { unit, resolution, default: Some(default), .. } => {
                SettingValue::Quantity(Decimal::rounded(*default, *resolution), unit.clone())
            }
            SettingKind::Switch { default } => SettingValue::Switch(*default),
            SettingKind::Choice { options } => {
                SettingValue::Choice(options.first().map_or("", |(name, _)| name).to_owned())
            }
            SettingKind::Path { default, .. } => SettingValue::Path(default.clone()),
        }
    }

    /// Whether it can be written down as a number: a quantity with its unit, an option by its place among the options, from 1.
    pub fn is_number(&self) -> bool {
        matches!(self.kind, SettingKind::Quantity { .. } | SettingKind::Choice { .. })
    }

    /// A value as such a number, if it is one.
    pub fn number(&self, value: &SettingValue) -> Option<(Decimal, Unit)> {
        match (value, &self.kind) {
            (SettingValue::Quantity(number, unit), _) => Some((number.clone(), unit.clone())),
            (SettingValue::Choice(name), SettingKind::Choice { options }) => {
                let place = options.iter().position(|(option, _)| option == name)?;
                Some((Decimal::rounded((place + 1) as f64, 1.0), Unit::one()))
            }
            _ => None,
        }
    }

    /// A value for people, an option by its name for people, a blank by what it means.
    pub fn pretty(&self, value: &SettingValue) -> String {
        match (value, &self.kind) {
            (SettingValue::Choice(name), SettingKind::Choice { options }) => {
                options.iter().find(|(n, _)| n == name).map_or_else(|| name.clone(), |(_, label)| (*label).to_owned())
            }
            (SettingValue::Blank(meaning), _) => meaning.clone(),
            (SettingValue::Path(nodes), _) => {
                let rings = match nodes.iter().filter(|n| n.ring.is_some()).count() {
                    0 => String::new(),
                    1 => ", a loop".to_owned(),
                    k => format!(", {k} loops"),
                };
                format!("{}{rings}", nodes.len())
            }
            _ => value.pretty(),
        }
    }

    /// The allowed range in words: `0.200 m to 2.000 m`.
    pub fn range(&self) -> String {
        match &self.kind {
            SettingKind::Quantity { unit, min, max, resolution, .. } => {
                let show = |v: f64| with_unit(&Decimal::rounded(v, *resolution).pretty(), unit);
                format!("{} to {}", show(*min), show(*max))
            }
            SettingKind::Switch { .. } => "on or off".to_owned(),
            SettingKind::Choice { options } => options.iter().map(|(name, _)| *name).collect::<Vec<_>>().join(", "),
            SettingKind::Path { unit, limits, .. } => format!(
                "{} to {} nodes, x from {} to {}, y from {} to {}",
                limits.count[0],
                limits.count[1],
                limits.x[0],
                with_unit(&limits.x[1].to_string(), unit),
                plain(limits.y[0]),
                with_unit(&limits.y[1].to_string(), unit)
            ),
        }
    }

    /// Reads and checks a typed value.
    ///
    /// # Errors
    /// [`SettingError`] with what was typed and what can be.
    pub fn check(&self, typed: &str) -> Result<SettingValue, SettingError> {
        let label = self.label;
        let shortened = |text: &str| text.chars().take(20).collect::<String>();
        match &self.kind {
            SettingKind::Switch { .. } => match typed.trim() {
                "on" | "1" | "true" => Ok(SettingValue::Switch(true)),
                "off" | "0" | "false" | "" => Ok(SettingValue::Switch(false)),
                other => Err(SettingError::NoSwitch { label, typed: shortened(other) }),
            },
            SettingKind::Choice { options } => {
                let typed = typed.trim();
                let found = options.iter().find(|(name, people)| *name == typed || *people == typed);
                let known = || options.iter().map(|(name, _)| *name).collect();
                found.map(|(name, _)| SettingValue::Choice((*name).to_owned())).ok_or_else(|| SettingError::NoOption {
                    label,
                    known: known(),
                    typed: shortened(typed),
                })
            }
            SettingKind::Quantity { blank: Some(meaning), .. } if matches!(typed.trim(), "" | "–" | "-") => {
                Ok(SettingValue::Blank((*meaning).to_owned()))
            }
            SettingKind::Quantity { .. } => self.check_quantity(typed),
            SettingKind::Path { limits, .. } => {
                limits.read(typed).map(SettingValue::Path).map_err(|error| SettingError::Path { label, error })
            }
        }
    }

    fn check_quantity(&self, typed: &str) -> Result<SettingValue, SettingError> {
        let label = self.label;
        let SettingKind::Quantity { unit, min, max, resolution, .. } = &self.kind else {
            return Err(SettingError::NoQuantity { label });
        };
        let (number, typed_unit) = parse_quantity(typed, unit)?;
        let reading = Reading::typed(number, typed_unit);
        let Some(shown) = reading.in_unit(unit) else {
            return Err(SettingError::OtherUnit { label, wanted: unit.clone(), typed: reading.unit });
        };
        // The exact value, not the one rounded for display.
        let value = reading.si() / unit.size();
        let tolerance = resolution * 1e-6;
        // A later program may want less.
        let max = if crate::other_rules::on() { &(min + 0.4 * (max - min)) } else { max };
        if value < min - tolerance || value > max + tolerance {
            return Err(SettingError::Outside {
                label,
                range: self.range(),
                value: with_unit(&shown.number.pretty(), unit),
            });
        }
        let snapped = (value / resolution).round() * resolution;
        if (snapped - value).abs() > tolerance {
            return Err(SettingError::TooFine { label, step: with_unit(&resolution.to_string(), unit) });
        }
        Ok(SettingValue::Quantity(Decimal::rounded(snapped, *resolution), unit.clone()))
    }
}
