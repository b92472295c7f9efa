//! Why a tool or an instrument of the stage was refused.

use crate::quantity::Footage;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum FootageRefusal {
    ToolsOutside,
    NoFrame { of: Footage, frame: u32 },
    TapeOutside,
    NoArea,
    NotEntered { name: String },
    NeedsGravity { asked: &'static str },
    NeedsMass { asked: &'static str },
    NoScale,
    NotMarked { trail: String },
    ThreeMarks,
    NoInstant { frame: usize },
    ShortRun,
}
