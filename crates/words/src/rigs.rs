//! Why a setting cannot be taken, and why a rig does not run.

use zeitmass_core::rigs::{LONGEST_PULL, NodePart, PathError, PullError, RigError, SettingError};

use crate::Words;

impl Words for RigError {
    fn words(&self) -> String {
        match self {
            Self::Integrator(why) => format!("The motion could not be computed: {why}."),
            Self::TooManyFrames { wanted, limit } => {
                format!("A run can have at most {limit} frames; this one would have {wanted}.")
            }
        }
    }
}

impl Words for SettingError {
    fn words(&self) -> String {
        match self {
            Self::Unknown { rig, name, known } => {
                format!("The {rig} has no setting “{name}”. It has: {}.", known.join(", "))
            }
            Self::NoSwitch { label, typed } => format!("The {label} can be on or off, not “{typed}”."),
            Self::NoOption { label, known, typed } => {
                format!("The {label} can be {}, not “{typed}”.", known.join(", "))
            }
            Self::NoQuantity { label } => format!("The {label} is no quantity."),
            Self::Quantity(why) => why.words(),
            Self::OtherUnit { label, wanted, typed } => {
                format!("The {label} is given in {}, not in {}.", wanted.in_words(), typed.in_words())
            }
            Self::Outside { label, range, value } => format!("The {label} can be {range}; {value} is outside."),
            Self::TooFine { label, step } => format!("The {label} can be set in steps of {step}."),
            Self::Path { label, error } => path(label, error),
        }
    }
}

impl Words for PullError {
    fn words(&self) -> String {
        match self {
            Self::Short => "Pull the shuttle for a moment at least.".to_owned(),
            Self::Long => format!("A pull lasts up to {LONGEST_PULL:.0} s and stays on the rail."),
        }
    }
}

/// What is wrong with the path of that name.
fn path(label: &str, error: &PathError) -> String {
    match error {
        PathError::Count { least, most, nodes } => {
            format!("The {label} has {least} to {most} nodes; these are {nodes}.")
        }
        PathError::Outside { part, number, range: [low, high], typed } => {
            let part = match part {
                NodePart::X => "place x",
                NodePart::Y => "height y",
                NodePart::Radius => "radius of the loop",
            };
            format!("The {part} of node {number} can be {low} to {high}, not “{typed}”.")
        }
        PathError::Unreadable { number, typed } => format!(
            "Node {number} is written as x and y, such as “2.0 0.5”, and a loop behind it as “2.0 0.5 loop 0.4”; not “{typed}”."
        ),
    }
}
