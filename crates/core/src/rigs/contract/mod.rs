//! What all rigs share: the contract they keep, and what their motions are put together from.

pub(in crate::rigs) mod card;
pub(in crate::rigs) mod channel;
pub(in crate::rigs) mod ending;
pub(in crate::rigs) mod flight;
pub(in crate::rigs) mod flow;
pub(in crate::rigs) mod legs;
pub(in crate::rigs) mod meter;
pub(in crate::rigs) mod path;
pub(in crate::rigs) mod run;
pub(in crate::rigs) mod scene;
pub(in crate::rigs) mod setting;
pub mod worlds;

use std::collections::BTreeMap;

pub use card::{ArrowKind, ArrowSpec, Card, Clock, SecondBody};
pub use channel::{ChannelSpec, Role};
pub use ending::{Ending, Happening};
pub use meter::{Fineness, MeterSpec, Shows};
pub(crate) use path::merged;
pub use path::{Node, NodePart, PathError, PathLimits};
pub use run::{Channel, Run, RunOutcome, Sampling};
pub use scene::{Bounds, Coordinate, Follows, Handle, PLACE, Paint, Place, Pull, Rider, Scene, SceneShape, Sway};
pub use setting::{SettingError, SettingKind, SettingSpec, SettingValue};

/// What every simulated apparatus offers.
pub trait Rig: Sync {
    /// Name, settings, channels, meters.
    fn card(&self) -> Card;

    /// How finely and how long a motion with these settings is recorded.
    fn clock(&self, _settings: &Settings) -> Clock {
        self.card().clock
    }

    /// The setting that decides how strong gravity is in such a motion; none where gravity does nothing.
    fn gravity_from(&self, _settings: &Settings) -> Option<&'static str> {
        self.card().setting(worlds::GRAVITY).map(|s| s.name)
    }

    /// Strength of gravity in such a motion, in m/s²; none where gravity does nothing. Not for people's eyes where that setting is hidden.
    fn gravity(&self, settings: &Settings) -> Option<f64> {
        match self.gravity_from(settings)? {
            worlds::GRAVITY => settings.given(worlds::GRAVITY),
            _ => Some(worlds::gravity(settings)),
        }
    }

    /// The y from which potential energy counts in such a motion, in m.
    fn ground(&self, _settings: &Settings) -> f64 {
        0.0
    }

    /// Whether chance has a hand in its motion, so that two runs with the same settings differ.
    fn left_to_chance(&self) -> bool {
        false
    }

    /// Makes the motion. The same settings and the same seed give the same run; the seed says nothing where nothing is left to chance.
    ///
    /// # Errors
    /// [`RigError`] when the motion cannot be computed. A setting that leads nowhere is no error but an [`RunOutcome`].
    fn run(&self, settings: &Settings, seed: u64, sampling: Sampling) -> Result<Run, RigError>;

    /// What the rig knows beside its settings, by the symbol formulas of keys use; in coherent SI units. Not for people's eyes.
    fn truths(&self, _settings: &Settings) -> Vec<(&'static str, f64)> {
        Vec::new()
    }

    /// A few shapes in metres, bound to channels of that run.
    fn scene(&self, settings: &Settings, run: &Run) -> Scene;
}

/// Values of a rig's settings by name: numbers in coherent SI units, a switch as 0 or 1, choices by name.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Settings {
    numbers: BTreeMap<String, f64>,
    choices: BTreeMap<String, String>,
    paths: BTreeMap<String, Vec<Node>>,
}

impl Settings {
    /// Sets one value, in coherent SI units.
    pub fn set(&mut self, name: &str, si: f64) {
        self.numbers.insert(name.to_owned(), si);
    }

    /// Takes a value over. A blank takes away what was there.
    pub fn put(&mut self, name: &str, value: &SettingValue) {
        match (value, value.si()) {
            (SettingValue::Choice(option), _) => {
                self.choices.insert(name.to_owned(), option.clone());
            }
            (SettingValue::Path(nodes), _) => {
                self.paths.insert(name.to_owned(), nodes.clone());
            }
            (_, Some(si)) => self.set(name, si),
            (_, None) => {
                self.numbers.remove(name);
            }
        }
    }

    /// Chooses an option.
    pub fn choose(&mut self, name: &str, option: &str) {
        self.choices.insert(name.to_owned(), option.to_owned());
    }

    /// One value in coherent SI units; zero when it is blank or does not exist.
    pub fn get(&self, name: &str) -> f64 {
        self.given(name).unwrap_or_default()
    }

    /// One value in coherent SI units, unless it is blank.
    pub fn given(&self, name: &str) -> Option<f64> {
        #[cfg(test)]
        asked::note(name);
        self.numbers.get(name).copied()
    }

    /// The option chosen; empty when there is none.
    pub fn chosen(&self, name: &str) -> &str {
        #[cfg(test)]
        asked::note(name);
        self.choices.get(name).map_or("", String::as_str)
    }

    /// The nodes of a path, in the setting's unit; none where there is no such path.
    pub fn path(&self, name: &str) -> &[Node] {
        #[cfg(test)]
        asked::note(name);
        self.paths.get(name).map_or(&[], Vec::as_slice)
    }

    /// Whether a switch is on.
    pub fn on(&self, name: &str) -> bool {
        self.get(name) != 0.0
    }
}

/// Why a rig did not run.
#[derive(Clone, Debug, PartialEq)]
pub enum RigError {
    /// The integrator gave up.
    Integrator(String),
    /// More frames than a run may have.
    TooManyFrames {
        /// Frames asked for.
        wanted: u64,
        /// Frames allowed.
        limit: u64,
    },
}

#[cfg(test)]
pub(in crate::rigs) mod asked {
    //! Which settings a rig asks for.

    use std::cell::RefCell;
    use std::collections::BTreeSet;

    thread_local! {
        static ASKED: RefCell<BTreeSet<String>> = const { RefCell::new(BTreeSet::new()) };
    }

    pub fn note(name: &str) {
        ASKED.with_borrow_mut(|asked| asked.insert(name.to_owned()));
    }

    pub fn take() -> BTreeSet<String> {
        ASKED.take()
    }
}
