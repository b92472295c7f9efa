//! What must come out: the constant, its accepted value, and the key of a logbook with dealt values.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::read::{Fault, Under};
use super::settings::SettingRule;
use super::{LabSheet, Wrong};
use crate::formula::{Formula, Problem, is_symbol};
use crate::quantity::{Decimal, Reading, Source, Uncertain, Unit, parse_quantity};
use crate::rigs::{Card, Rig, SettingKind, SettingValue, Settings, Shows, rig};

/// The constant to be found.
#[derive(Clone, Debug, PartialEq)]
pub struct Goal {
    /// Its symbol.
    pub symbol: String,
    /// Its name.
    pub name: String,
    /// Accepted value and its unit; none where each logbook has its own.
    pub accepted: Option<(Decimal, Unit)>,
    /// Where the accepted value is from.
    pub source: String,
    /// Accepted values of groups of rows, by what the grouping column holds.
    pub beside: BTreeMap<String, (Decimal, Unit)>,
    /// The constant as a formula over the symbols of the rig's settings, hidden ones included.
    pub key: Option<Formula>,
    /// The constant from one trial, over symbols of settings, meters and `readings`; its uncertainty gives the key's tolerance.
    pub one_trial: Option<Formula>,
    /// Settings the constant is found with, where they are not those the logbook starts with: the unknown world, the specimen.
    pub with: Vec<(&'static str, SettingValue)>,
    /// Whether one motion alone gives the constant, by places read off it: there is nothing to be hidden in it.
    pub one_motion: bool,
    /// Unit of the key.
    pub unit: Unit,
    /// Typical readings taken with tape, split or scale; the last digit is the resolution.
    pub readings: BTreeMap<String, Reading>,
}

/// The right answer for one logbook. For the teacher only.
#[derive(Clone, Debug, PartialEq)]
pub struct Key {
    /// Symbol of the constant.
    pub symbol: String,
    /// Its value in `unit`.
    pub value: f64,
    /// [`COVERAGE`] times the standard uncertainty of a single careful trial, in `unit`; none where the sheet says nothing
    /// about it.
    pub tolerance: Option<f64>,
    /// Unit of both.
    pub unit: Unit,
}

/// Twice would turn away one careful result in twenty wherever one trial carries a line; three times one in four hundred.
const COVERAGE: f64 = 3.0;

impl Key {
    /// The standard uncertainty that one careful trial leaves, in `unit`.
    pub(crate) fn trial(&self) -> Option<f64> {
        self.tolerance.map(|t| t / COVERAGE)
    }

    /// Whether a value, with its standard uncertainty and in this unit, is in order: as near as one careful trial gets.
    pub fn accepts(&self, value: f64, u: f64) -> bool {
        let u = if u.is_finite() { u } else { 0.0 };
        // A result is never judged finer than what it says of itself, twice over: one in twenty honest ones is off by more than that.
        (value - self.value).abs() <= self.tolerance.unwrap_or(0.02 * self.value.abs()).hypot(2.0 * u)
    }
}

/// A formula over the symbols of a rig's settings, of what follows from them, and of some more.
pub(super) fn formula_over(text: &str, card: &Card, more: &[&str]) -> Result<Formula, Wrong> {
    let formula = Formula::parse(text).map_err(|e| e.problem)?;
    // Beside its settings: gravity of the chosen world, stiffness of the chosen spring.
    let truths = rig(card.name).map_or_else(Vec::new, |rig| rig.truths(&card.defaults()));
    let settings = || card.settings.iter().map(|s| s.symbol).filter(|s| !s.is_empty());
    for symbol in formula.symbols() {
        let known = settings().any(|s| s == symbol) || truths.iter().any(|(t, _)| *t == symbol);
        if !known && !more.contains(&symbol) {
            let known = settings().chain(more.iter().copied()).map(str::to_owned).collect();
            return Err(Wrong::NoSuchSymbol { symbol: symbol.to_owned(), known });
        }
    }
    Ok(formula)
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontGoal {
    symbol: String,
    name: String,
    accepted: Option<String>,
    #[serde(default)]
    source: String,
    key: Option<String>,
    #[serde(default)]
    unit: String,
    one_trial: Option<String>,
    #[serde(default)]
    one_motion: bool,
    #[serde(default)]
    beside: BTreeMap<String, String>,
    #[serde(default)]
    with: BTreeMap<String, String>,
    #[serde(default)]
    readings: BTreeMap<String, String>,
}

pub(super) fn goal(front: FrontGoal, card: &Card) -> Result<Goal, Fault> {
    if !is_symbol(&front.symbol) {
        return Err(Wrong::NotTheConstant(front.symbol)).under("symbol");
    }
    let accepted = front.accepted.map(|a| parse_quantity(&a, &Unit::one())).transpose().under("accepted")?;
    let unit = Unit::parse(&front.unit).under("unit")?;
    let readings = front.readings.into_iter().map(|(symbol, typed)| {
        let (number, unit) = parse_quantity(&typed, &Unit::one())?;
        Ok((symbol, Reading::typed(number, unit)))
    });
    let readings = readings.collect::<Result<BTreeMap<_, _>, Wrong>>().under("readings")?;
    let beside = front.beside.into_iter().map(|(group, typed)| Ok((group, parse_quantity(&typed, &Unit::one())?)));
    let beside = beside.collect::<Result<BTreeMap<_, _>, Wrong>>().under("beside")?;
    let with = front.with.iter().map(|(name, typed)| {
        let value = card.check(name, typed)?;
        // It was found by its name just now.
        Ok((card.setting(name).map_or("", |s| s.name), value))
    });
    let with = with.collect::<Result<Vec<_>, Wrong>>().under("with")?;
    let meters = || card.meters.iter().map(|m| m.symbol);
    let beside_settings: Vec<&str> = readings.keys().map(String::as_str).chain(meters()).collect();
    let key = front.key.map(|text| formula_over(&text, card, &[])).transpose().under("key")?;
    let one_trial =
        front.one_trial.map(|text| formula_over(&text, card, &beside_settings)).transpose().under("one_trial")?;
    if accepted.is_none() && key.is_none() {
        return Err(Wrong::NoAccepted).under("accepted");
    }
    let (symbol, name, source, one_motion) = (front.symbol, front.name, front.source, front.one_motion);
    Ok(Goal { symbol, name, accepted, source, beside, key, one_trial, one_motion, readings, with, unit })
}

impl LabSheet {
    /// The right answer for a logbook with these rules. `None` when the sheet has no key for each logbook.
    pub(crate) fn key(&self, rules: &[SettingRule]) -> Option<Key> {
        let settings = self.key_settings(rules);
        let rig = self.rig()?;
        let known = self.known(rig, &settings);
        let value = worked(self.goal.key.as_ref()?, &known)?.value;
        let unit = self.goal.accepted.as_ref().map_or_else(|| self.goal.unit.clone(), |(_, unit)| unit.clone());
        let tolerance = self.goal.one_trial.as_ref().and_then(|f| self.tolerance(f, rig, &settings, known));
        let size = unit.size();
        Some(Key {
            symbol: self.goal.symbol.clone(),
            value: value / size,
            tolerance: tolerance.map(|t| t / size),
            unit,
        })
    }

    /// The right answer in the key's unit if one setting, given in SI units, were another.
    pub(crate) fn key_with(&self, rules: &[SettingRule], name: &str, si: f64) -> Option<f64> {
        let mut settings = self.key_settings(rules);
        settings.set(name, si);
        let value = worked(self.goal.key.as_ref()?, &self.known(self.rig()?, &settings))?.value;
        let unit = self.goal.accepted.as_ref().map_or(&self.goal.unit, |(_, unit)| unit);
        Some(value / unit.size())
    }

    /// What a formula over the settings comes to with these rules, in coherent SI units.
    pub(crate) fn worked_key(&self, formula: &Formula, rules: &[SettingRule]) -> Option<f64> {
        Some(worked(formula, &self.known(self.rig()?, &self.key_settings(rules)))?.value)
    }

    /// What formulas of keys may use in a logbook with these rules, by symbol, in coherent SI units.
    pub(crate) fn known_of(&self, rules: &[SettingRule]) -> Option<BTreeMap<String, Uncertain>> {
        Some(self.known(self.rig()?, &self.key_settings(rules)))
    }

    /// The settings the constant is found with.
    fn key_settings(&self, rules: &[SettingRule]) -> Settings {
        let mut settings = Settings::default();
        rules.iter().for_each(|r| settings.put(r.name, &r.value));
        self.goal.with.iter().for_each(|(name, value)| settings.put(name, value));
        settings
    }

    /// What formulas of keys may use, by symbol, in SI units.
    fn known(&self, rig: &dyn Rig, settings: &Settings) -> BTreeMap<String, Uncertain> {
        let mut known: BTreeMap<String, Uncertain> = BTreeMap::new();
        for spec in &self.card.settings {
            if let (SettingKind::Quantity { .. }, Some(si)) = (&spec.kind, settings.given(spec.name)) {
                known.insert(spec.symbol.to_owned(), Uncertain::exact(si));
            }
        }
        for (symbol, si) in rig.truths(settings) {
            known.insert(symbol.to_owned(), Uncertain::exact(si));
        }
        known
    }

    /// [`COVERAGE`] times the standard uncertainty of the constant from one trial, in SI units.
    fn tolerance(
        &self,
        formula: &Formula,
        rig: &dyn Rig,
        settings: &Settings,
        mut known: BTreeMap<String, Uncertain>,
    ) -> Option<f64> {
        let run = rig.run(settings, 0, rig.clock(settings).sampling()).ok()?;
        let mut source = 0;
        let mut uncertain = |value: f64, u: f64| {
            source += 1;
            Uncertain::from_source(value, u, Source(source))
        };
        for meter in &self.card.meters {
            let value = match meter.shows {
                Shows::Run => run.found(meter.name),
                Shows::Now(channel) => run.channel(channel).and_then(|c| c.last().copied()),
            };
            if let Some(value) = value {
                known.insert(
                    meter.symbol.to_owned(),
                    uncertain(value, meter.width(value / meter.unit.size()) * meter.unit.size() / 12f64.sqrt()),
                );
            }
        }
        for (symbol, reading) in &self.goal.readings {
            known.insert(symbol.clone(), uncertain(reading.si(), reading.u_si()));
        }
        let u = worked(formula, &known)?.u();
        (u.is_finite() && u > 0.0).then_some(COVERAGE * u)
    }
}

fn worked(formula: &Formula, known: &BTreeMap<String, Uncertain>) -> Option<Uncertain> {
    let value =
        formula.evaluate(&|s| known.get(s).cloned().ok_or_else(|| Problem::UnknownSymbol(s.to_owned()))).ok()?;
    value.value.is_finite().then_some(value)
}
