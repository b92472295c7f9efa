//! How exactly a meter reads, why a setting cannot be taken, and why a rig does not run.

use zeitmass_core::quantity::format::{plain, with_unit};
use zeitmass_core::rigs::{Fineness, LONGEST_PULL, MeterSpec, NodePart, PathError, PullError, RigError, SettingError};

use crate::Words;

/// How exactly it reads: `last digit 0.01 N, standard deviation 0.02 N`.
pub fn precision(meter: &MeterSpec) -> String {
    let shown = |v: f64| with_unit(&v.to_string(), &meter.unit);
    let (said, scatter, how_much) = match meter.fineness {
        Fineness::Digit { digit, scatter } => (format!("last digit {}", shown(digit)), scatter, shown(scatter)),
        Fineness::Figures { figures, scatter } => {
            (format!("{figures} significant figures"), scatter, format!("{}\u{A0}%", plain(100.0 * scatter)))
        }
    };
    if scatter > 0.0 { format!("{said}, standard deviation {how_much}") } else { said }
}

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
            Self::NoQuantity { label } => format!("The {label} is not a quantity."),
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

#[cfg(test)]
mod tests {
    use zeitmass_core::rigs::rig;

    use super::*;

    #[test]
    fn a_meter_says_how_exactly_it_reads() {
        for (name, meter, said) in [
            ("whirl", "force", "last digit 0.01\u{A0}N, standard deviation 0.01\u{A0}N"),
            ("whirl", "mass", "last digit 0.001\u{A0}kg"),
            ("torsion", "force", "4 significant figures, standard deviation 0.05\u{A0}%"),
        ] {
            let card = rig(name).unwrap().card();
            assert_eq!(precision(card.meter(meter).unwrap()), said, "{name} {meter}");
        }
    }
}
