//! What is known of the rig: how it is set, and its runs.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::motion::Tools;
use crate::record::ColumnId;
use crate::rigs::{HandMotion, RunOutcome, SettingValue};

/// The rig of a logbook.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct RunState {
    /// Free settings as they stand, by name.
    pub settings: BTreeMap<String, SettingValue>,
    /// Runs in order; run 1 comes first. Deleted ones keep their place, so that no number is used twice.
    pub runs: Vec<RunEntry>,
    /// Number of the run on the stage.
    pub on_stage: Option<u32>,
    /// Trials that are planned.
    pub plan: Option<TrialPlan>,
    /// Tools on the stage; the tape in m.
    pub tools: Tools,
    /// Whether the rig has ever run. Undo does not take that back: what was seen was seen.
    #[serde(default)]
    pub seen: bool,
    /// How many times the forecast had been begun anew when the rig last ran. Undo does not take that back either.
    #[serde(default, skip_serializing_if = "crate::logbook::run::state::is_none_yet")]
    pub rounds: u32,
}

/// Whether a forecast was never begun anew; whether a run is of the first deal.
#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde passes a reference")]
pub(super) fn is_none_yet(rounds: &u32) -> bool {
    *rounds == 0
}

/// One run of the rig.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct RunEntry {
    /// Free settings it was run with, by name.
    pub settings: BTreeMap<String, SettingValue>,
    /// What it is called; its number if empty.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub name: String,
    /// Whether its path is shown faintly under others.
    #[serde(default)]
    pub faint: bool,
    /// Whether it was deleted.
    #[serde(default)]
    pub gone: bool,
    /// The pull, if it was made by hand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pull: Option<HandMotion>,
    /// Number of the edit that made it, of which its chance is dealt: a run that is made anew after undo errs anew. 0 for runs of a time when
    /// that was not kept.
    #[serde(default)]
    pub born: u64,
    /// The deal of numbers it was run with.
    #[serde(default, skip_serializing_if = "is_none_yet")]
    pub deal: u32,
    /// What the rig made of it, at the time.
    pub made: Made,
}

/// What is known of a run since it was made.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Made {
    /// Number of its frames.
    pub frames: u32,
    /// How it ended.
    pub outcome: RunOutcome,
    /// Revision of the rig that made it.
    pub revision: u32,
}

/// Trials with equal intervals of one setting.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TrialPlan {
    /// Name of the setting.
    pub setting: String,
    /// Its values in order.
    pub values: Vec<SettingValue>,
    /// How many have been run.
    pub done: usize,
    /// Column that gets the value of each trial.
    pub column: Option<ColumnId>,
}
