//! Why a tool or an instrument of the stage was refused.

use crate::quantity::Footage;

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum FootageRefusal {
    #[error("The tools cannot stand outside what is on the stage. They are where they were.")]
    ToolsOutside,
    #[error("{} has no frame {frame}. Nothing was written.", match of { Footage::Run(run) => format!("Run {run}"), Footage::Film(_) => "This film".to_owned() })]
    NoFrame { of: Footage, frame: u32 },
    #[error("The tape lies outside the scene. Nothing was written.")]
    TapeOutside,
    #[error("Nothing sweeps an area in this lab. Nothing was changed.")]
    NoArea,
    #[error("“{name}” is not a setting that can be entered. Nothing was written.")]
    NotEntered { name: String },
    #[error("The {asked} needs the strength of gravity, which is hidden here. Nothing was changed.")]
    NeedsGravity { asked: &'static str },
    #[error("The {asked} needs a mass. Type one beside it. Nothing was changed.")]
    NeedsMass { asked: &'static str },
    #[error("There is no scale yet: lay a ruler on something of known length first.")]
    NoScale,
    #[error("“{trail}” is not marked in this frame. Mark it, or go to a mark.")]
    NotMarked { trail: String },
    #[error("A velocity needs three marks at least. Mark more frames.")]
    ThreeMarks,
}
