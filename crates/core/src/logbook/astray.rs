//! What a run shows of hidden values.
//!
//! Whoever has the places of a body at a thousand moments fits a hidden value to six digits, long before the sheet's instruments know three.
//! So the apparatus is never quite what it was a run ago: in the motion of each run every hidden value strays by chance, about as far as
//! one careful trial leaves it open. Whatever is worked out from one motion, by whatever arithmetic, knows it no better. Meters read the
//! apparatus as it is and err by themselves.

use super::Logbook;
use super::run::RunEntry;
use crate::chance::Chance;
use crate::lab::{Freedom, SettingRule};
use crate::rigs::{RigError, Run, SettingValue, Settings};
use std::sync::Arc;

/// How far hidden values stray, in standard uncertainties of one careful trial: a little more than one, so that not even a motion and a
/// meter together know more than the meters do.
const TRIALS_APART: f64 = 1.2;

/// A hidden setting and the standard deviation it strays by, in SI units.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Astray {
    name: &'static str,
    by: f64,
}

impl Logbook {
    /// The chance of a run, from the logbook's seed, the edit that made it, and what it was set to: a run that is made anew errs anew, and what
    /// is learnt about the errors of one setting says nothing about another.
    pub(super) fn chance_of(&self, number: u32, entry: &RunEntry) -> u64 {
        let born = if entry.born == 0 { u64::from(number) } else { entry.born };
        let set = entry.settings.iter().flat_map(|(name, value)| [name.clone(), value.pretty()]);
        let set: String = set.collect::<Vec<_>>().join("\n");
        Chance::of(self.seed, &set, born).deal()
    }

    /// The settings a run shows: hidden ones strayed. A set-up that nobody ran strays the same way each time it is looked at, so that looking
    /// at many tells no more than looking at one.
    pub(super) fn pictured(&self, entry: &RunEntry) -> Settings {
        let mut settings = self.effective(entry);
        let deal = (entry.deal as usize).min(self.astray.len() - 1);
        let astray = self.astray[deal].get_or_init(|| self.stray(self.rules_of(entry.deal)));
        if !astray.is_empty() {
            let seed = Chance::of(self.seed, "motion", entry.born).deal();
            for Astray { name, by } in astray {
                if let Some(value) = settings.given(name) {
                    settings.set(name, value + by * Chance::of(seed, name, 0).normal());
                }
            }
        }
        settings
    }

    /// The motion with the settings as they are, which meters read.
    pub(super) fn exact(&self, entry: &RunEntry) -> Option<Result<Arc<Run>, RigError>> {
        self.motion(&self.effective(entry), entry)
    }

    /// How far hidden settings stray: as far as moves the key by what one careful trial leaves open; those the key does not depend on, by
    /// the same share of themselves. None where the constant is known to everybody, or where it is read off one motion and nothing else.
    fn stray(&self, rules: &[SettingRule]) -> Vec<Astray> {
        if self.sheet.goal.one_motion {
            return Vec::new();
        }
        let Some(key) = self.sheet.key(rules) else { return Vec::new() };
        let (Some(apart), size) = (key.trial(), key.unit.size()) else { return Vec::new() };
        let share = apart / key.value.abs();
        let hidden = rules.iter().filter(|r| r.freedom == Freedom::Hidden);
        let astray = hidden.filter_map(|rule| {
            let SettingValue::Quantity(number, unit) = &rule.value else { return None };
            let value = number.value() * unit.size();
            let [low, high] =
                [1.0 - 1e-4, 1.0 + 1e-4].map(|times| self.sheet.key_with(rules, rule.name, value * times));
            let steepness = (high? - low?) * size / (2e-4 * value);
            let by = if steepness.abs() * value.abs() > 1e-6 * key.value.abs() * size {
                apart * size / steepness.abs()
            } else {
                share * value.abs()
            };
            by.is_finite().then_some(Astray { name: rule.name, by: TRIALS_APART * by })
        });
        astray.collect()
    }
}
