//! Edits of settings, runs and plans of trials. An edit holds what the person typed or pointed at; the plan reads and checks it.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::record::{ColumnId, TableId};
use crate::rigs::HandMotion;

/// What a person can do to the rig.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum RunEdit {
    /// Sets a free setting of the rig.
    SetSetting {
        /// Name of the setting.
        name: String,
        /// Value as typed.
        typed: String,
    },
    /// Sets several free settings at once, as a handle on the stage moves them.
    SetSettings {
        /// Values as typed, by name of the setting.
        typed: BTreeMap<String, String>,
        /// The nodes of paths as the person saw them: somebody else's changes to other nodes stay.
        #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
        seen: BTreeMap<String, String>,
    },
    /// Takes up another deal of numbers: one that was begun, or a new one.
    TakeDeal {
        /// Its number; 0 is the first one.
        deal: u32,
    },
    /// Runs the rig with the settings as they stand.
    Run,
    /// Goes on with the run on the stage: its settings as they stand now, in the place of that run.
    GoOn,
    /// Ends the stretch that lasts until it is stopped at a frame.
    StopHere {
        /// The frame.
        frame: u32,
    },
    /// A run pulled by hand.
    Pull {
        /// Times in s from 0 and positions in m.
        motion: HandMotion,
    },
    /// Puts an earlier run on the stage.
    ChooseRun {
        /// Its number.
        run: u32,
    },
    /// Names a run; an empty name takes the name away.
    NameRun {
        /// Its number.
        run: u32,
        /// What it is called.
        name: String,
    },
    /// Shows the path of a run faintly, or no longer.
    ShowRun {
        /// Its number.
        run: u32,
        /// Shown or not.
        on: bool,
    },
    /// Deletes a run. Readings taken from it stay.
    DeleteRun {
        /// Its number.
        run: u32,
    },
    /// Plans trials with equal intervals of one setting.
    PlanTrials {
        /// Name of the setting.
        name: String,
        /// First value as typed.
        from: String,
        /// Last value as typed.
        to: String,
        /// Number of values.
        count: u32,
        /// Column that gets the value of each trial.
        column: Option<ColumnId>,
    },
    /// Runs the next trial of the plan.
    RunTrial,
    /// Drops the plan; what was run stays.
    DropPlan,
    /// Records channels of the run on the stage as a table.
    Record {
        /// Names of the channels beside time.
        channels: Vec<String>,
        /// First frame.
        from: u32,
        /// Last frame.
        to: u32,
        /// Frames from one reading to the next.
        every: u32,
        /// The table whose columns get a further repeat each; a new table without.
        #[serde(default)]
        into: Option<TableId>,
    },
}
