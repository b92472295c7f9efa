//! Edits of tools and instruments of the stage.

use zeitmass_core::logbook::{FootageRefusal, MassError};
use zeitmass_core::quantity::Footage;

use crate::Words;

impl Words for FootageRefusal {
    fn words(&self) -> String {
        match self {
            Self::ToolsOutside => {
                "The tools cannot stand outside what is on the stage. They are where they were.".to_owned()
            }
            Self::NoFrame { of, frame } => format!(
                "{} has no frame {frame}. Nothing was written.",
                match of {
                    Footage::Run(run) => format!("Run {run}"),
                    Footage::Film(_) => "This film".to_owned(),
                }
            ),
            Self::TapeOutside => "The tape lies outside the scene. Nothing was written.".to_owned(),
            Self::NoArea => "Nothing sweeps an area in this lab. Nothing was changed.".to_owned(),
            Self::NotEntered { name } => format!("“{name}” is not a setting that can be entered. Nothing was written."),
            Self::NeedsGravity { asked } => {
                format!("The {asked} needs the strength of gravity, which is hidden here. Nothing was changed.")
            }
            Self::NeedsMass { asked } => format!("The {asked} needs a mass. Type one beside it. Nothing was changed."),
            Self::NoScale => "There is no scale yet: lay a ruler on something of known length first.".to_owned(),
            Self::NotMarked { trail } => format!("“{trail}” is not marked in this frame. Mark it, or go to a mark."),
            Self::NoInstant { frame } => format!("The run has no frame {frame}. Nothing was changed."),
            Self::ShortRun => "The run is too short. Nothing was changed.".to_owned(),
            Self::ThreeMarks => "A velocity needs three marks at least. Mark more frames.".to_owned(),
        }
    }
}

impl Words for MassError {
    fn words(&self) -> String {
        match self {
            Self::Quantity(why) => why.words(),
            Self::NoMass { typed } => format!("“{typed}” is not a mass."),
        }
    }
}
