//! Simulated apparatus. Every rig keeps one contract, [`Rig`]; [`CATALOGUE`] lists them.
//!
//! In the order of use: the [`Card`] says what can be set, [`Card::check`] reads what a person typed,
//! [`Rig::run`] makes the motion, [`Rig::scene`] says how to draw it.

mod pendulum;
mod run;
mod scene;

use std::collections::BTreeMap;

use thiserror::Error;

use crate::quantity::format::with_unit;
use crate::quantity::{Decimal, Reading, Unit, parse_quantity};
pub use run::{Channel, Run, Sampling};
pub use scene::{Bounds, Coordinate, Paint, Scene, Shape};

/// All rigs, in the order of the catalogue.
pub static CATALOGUE: [&dyn Rig; 1] = [&pendulum::Pendulum];

/// The rig of that name.
pub fn rig(name: &str) -> Option<&'static dyn Rig> {
    CATALOGUE.iter().copied().find(|r| r.card().name == name)
}

/// What every simulated apparatus offers.
pub trait Rig: Sync {
    /// Name, settings and channels.
    fn card(&self) -> Card;

    /// Makes the motion. The same settings and seed give the same run.
    ///
    /// # Errors
    /// [`RigError`] when the motion cannot be computed.
    fn run(&self, settings: &Settings, seed: u64, sampling: Sampling) -> Result<Run, RigError>;

    /// A few shapes in metres, bound to channels.
    fn scene(&self, settings: &Settings) -> Scene;
}

/// Values of a rig's settings in coherent SI units, by name; a switch is 0 or 1.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Settings(BTreeMap<String, f64>);

impl Settings {
    /// Sets one value, in coherent SI units.
    pub fn set(&mut self, name: &str, si: f64) {
        self.0.insert(name.to_owned(), si);
    }

    /// One value in coherent SI units; zero when the setting does not exist.
    pub fn get(&self, name: &str) -> f64 {
        self.0.get(name).copied().unwrap_or_default()
    }
}

/// Why a rig did not run.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum RigError {
    /// The integrator gave up.
    #[error("The motion could not be computed: {0}. The settings are unchanged.")]
    Integrator(String),
    /// More frames than a run may have.
    #[error("A run can have at most {limit} frames; this one would have {wanted}.")]
    TooManyFrames {
        /// Frames asked for.
        wanted: u64,
        /// Frames allowed.
        limit: u64,
    },
}

/// What can be read off a rig's label: name, settings, channels.
#[derive(Clone, Debug)]
pub struct Card {
    /// Name in lab sheets and on the command line.
    pub name: &'static str,
    /// Name for people.
    pub title: &'static str,
    /// What can be set.
    pub settings: Vec<SettingSpec>,
    /// What a run records.
    pub channels: Vec<ChannelSpec>,
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
}

/// Kinds of settings.
#[derive(Clone, Debug)]
pub enum SettingKind {
    /// A number with unit.
    Quantity {
        /// Unit in which range and resolution are given and values shown.
        unit: Unit,
        /// Smallest value, as text in `unit`.
        min: f64,
        /// Largest value in `unit`.
        max: f64,
        /// Smallest step in `unit`.
        resolution: f64,
        /// Value at the start, in `unit`.
        default: f64,
    },
    /// On or off.
    Switch {
        /// State at the start.
        default: bool,
    },
}

/// One recorded quantity.
#[derive(Clone, Debug)]
pub struct ChannelSpec {
    /// Name, also the head of its column.
    pub name: &'static str,
    /// Unit of its values.
    pub unit: Unit,
}

impl Card {
    /// The setting of that name.
    pub fn setting(&self, name: &str) -> Option<&SettingSpec> {
        self.settings.iter().find(|s| s.name == name)
    }

    /// Every setting at its value for the start.
    pub fn defaults(&self) -> Settings {
        let mut all = Settings::default();
        for s in &self.settings {
            all.set(s.name, s.default_value().si());
        }
        all
    }

    /// Reads and checks a typed value of a setting.
    ///
    /// # Errors
    /// A sentence that names the setting, what is wrong and the range.
    pub fn check(&self, name: &str, typed: &str) -> Result<SettingValue, String> {
        let spec = self.setting(name).ok_or_else(|| {
            let names: Vec<&str> = self.settings.iter().map(|s| s.name).collect();
            format!("The {} has no setting “{name}”. It has: {}.", self.name, names.join(", "))
        })?;
        spec.check(typed)
    }
}

/// A setting's value as it is shown: digits and unit.
#[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum SettingValue {
    /// A number in the setting's unit.
    Quantity(Decimal, Unit),
    /// On or off.
    Switch(bool),
}

impl SettingValue {
    /// The value in coherent SI units; a switch is 0 or 1.
    pub fn si(&self) -> f64 {
        match self {
            Self::Quantity(number, unit) => number.value() * unit.size(),
            Self::Switch(on) => f64::from(u8::from(*on)),
        }
    }

    /// The value for people: `0.800 m`, `on`.
    pub fn pretty(&self) -> String {
        match self {
            Self::Quantity(number, unit) => with_unit(&number.pretty(), unit),
            Self::Switch(on) => if *on { "on" } else { "off" }.to_owned(),
        }
    }
}

impl SettingSpec {
    /// The value at the start.
    pub fn default_value(&self) -> SettingValue {
        match &self.kind {
            SettingKind::Quantity { unit, resolution, default, .. } => {
                SettingValue::Quantity(Decimal::rounded(*default, *resolution), unit.clone())
            }
            SettingKind::Switch { default } => SettingValue::Switch(*default),
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
        }
    }

    /// Reads and checks a typed value.
    ///
    /// # Errors
    /// A sentence that says what is wrong and names the range.
    pub fn check(&self, typed: &str) -> Result<SettingValue, String> {
        let label = self.label;
        match &self.kind {
            SettingKind::Switch { .. } => match typed.trim() {
                "on" | "1" | "true" => Ok(SettingValue::Switch(true)),
                "off" | "0" | "false" | "" => Ok(SettingValue::Switch(false)),
                other => {
                    Err(format!("The {label} can be on or off, not “{}”.", other.chars().take(20).collect::<String>()))
                }
            },
            SettingKind::Quantity { unit, min, max, resolution, .. } => {
                let (number, typed_unit) = parse_quantity(typed, unit)?;
                let reading = Reading::typed(number, typed_unit);
                let Some(shown) = reading.in_unit(unit) else {
                    return Err(format!(
                        "The {label} is given in {}, not in {}.",
                        unit.pretty(),
                        if reading.unit.is_one() { "a pure number".to_owned() } else { reading.unit.pretty() }
                    ));
                };
                // The exact value, not the one rounded for display.
                let value = reading.si() / unit.size();
                let tolerance = resolution * 1e-6;
                if value < min - tolerance || value > max + tolerance {
                    return Err(format!(
                        "The {label} can be {}; {} is outside.",
                        self.range(),
                        with_unit(&shown.number.pretty(), unit)
                    ));
                }
                let snapped = (value / resolution).round() * resolution;
                if (snapped - value).abs() > tolerance {
                    return Err(format!(
                        "The {label} can be set in steps of {}.",
                        with_unit(&resolution.to_string(), unit)
                    ));
                }
                Ok(SettingValue::Quantity(Decimal::rounded(snapped, *resolution), unit.clone()))
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn typed_settings_are_checked_and_kept_to_the_rigs_resolution() {
        let card = rig("pendulum").unwrap().card();
        let check = |name, typed| card.check(name, typed).map(|v| v.pretty());
        assert_eq!(check("length", "0,8"), Ok("0.800\u{A0}m".into()));
        assert_eq!(check("length", "80 cm"), Ok("0.800\u{A0}m".into()));
        assert_eq!(check("angle", "10°"), Ok("10.0°".into()));
        assert_eq!(check("angle", "0.5 rad"), Err("The release angle can be set in steps of 0.1°.".into()));
        assert_eq!(check("drag", "on"), Ok("on".into()));
        let outside = check("length", "2.5 m").unwrap_err();
        assert!(outside.contains("0.200\u{A0}m to 2.000\u{A0}m"), "{outside}");
        assert!(check("length", "3 s").unwrap_err().contains("given in m"));
        assert!(check("length", "NaN").is_err());
        assert!(check("colour", "3").unwrap_err().contains("length, angle"));
    }
}
