//! Changes of the rig and its runs.

use std::mem::replace;

use serde::{Deserialize, Serialize};

use super::{RunEntry, RunState, TrialPlan};
use crate::logbook::change::{Misfit, exchange};
use crate::logbook::part::Part;
use crate::motion::Tools;
use crate::rigs::SettingValue;

/// A change of the rig and its runs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum RunChange {
    /// Another value of a setting.
    Setting {
        /// Its name.
        name: String,
        /// The value.
        value: SettingValue,
    },
    /// A run by its place; none takes the last one away.
    Run {
        /// Its place, from 0.
        place: usize,
        /// The run.
        entry: Option<Box<RunEntry>>,
    },
    /// Another run on the stage.
    OnStage {
        /// Its number.
        run: Option<u32>,
    },
    /// Another plan of trials.
    Plan {
        /// The plan.
        plan: Option<TrialPlan>,
    },
    /// The tools stand elsewhere.
    Tools {
        /// All of them.
        tools: Tools,
    },
    /// The rig has run. Nothing takes that back.
    Seen,
    /// The rig has run after a forecast was begun anew. Nothing takes that back.
    SeenAgain {
        /// How many times it had been.
        rounds: u32,
    },
}

impl RunChange {
    pub(in crate::logbook) fn parts(&self) -> &'static [Part] {
        match self {
            // A setting held is a quantity that formulas and laws may use.
            Self::Setting { .. } => &[Part::Stage, Part::Record, Part::Graph, Part::Strip, Part::Constant],
            Self::Run { .. } => &[Part::Stage, Part::Forecast, Part::Record, Part::Graph, Part::Strip, Part::Constant],
            Self::OnStage { .. } | Self::Seen | Self::SeenAgain { .. } => &[Part::Stage, Part::Forecast],
            Self::Plan { .. } | Self::Tools { .. } => &[Part::Stage],
        }
    }
}

impl RunState {
    pub(in crate::logbook) fn change(&mut self, change: RunChange) -> Result<RunChange, Misfit> {
        Ok(match change {
            RunChange::Setting { name, value } => {
                let old = self.settings.insert(name.clone(), value.clone());
                RunChange::Setting { name, value: old.unwrap_or(value) }
            }
            RunChange::Run { place, entry } => {
                RunChange::Run { place, entry: exchange(&mut self.runs, place, entry.map(|e| *e))?.map(Box::new) }
            }
            RunChange::OnStage { run } => RunChange::OnStage { run: replace(&mut self.on_stage, run) },
            RunChange::Plan { plan } => RunChange::Plan { plan: replace(&mut self.plan, plan) },
            RunChange::Tools { tools } => RunChange::Tools { tools: replace(&mut self.tools, tools) },
            RunChange::Seen => {
                self.seen = true;
                RunChange::Seen
            }
            RunChange::SeenAgain { rounds } => {
                self.rounds = self.rounds.max(rounds);
                RunChange::SeenAgain { rounds }
            }
        })
    }
}
