//! Forces of a step model, and what is other in one than in the one before.

use zeitmass_core::logbook::{Called, Differs};
use zeitmass_core::step_model::{ForceName, Method};

use crate::Words;

impl Words for ForceName {
    fn words(&self) -> String {
        let words = match self {
            Self::Weight => "weight",
            Self::Buoyancy => "buoyancy",
            Self::Drag => "drag with v",
            Self::DragSquared => "drag with v²",
            Self::Push => "push for a time",
            Self::Spring => "spring",
            Self::Friction => "friction",
            Self::Own => "formula of your own",
        };
        words.to_owned()
    }
}

impl Words for Called {
    fn words(&self) -> String {
        self.name.clone().unwrap_or_else(|| self.kind.words())
    }
}

impl Words for Differs {
    fn words(&self) -> String {
        let shown = |typed: &str| if typed.is_empty() { "nothing".to_owned() } else { typed.replace(' ', "\u{A0}") };
        match self {
            Self::Added { force, on: true } => format!("{} added", force.words()),
            Self::Added { force, on: false } => format!("{} added, off", force.words()),
            Self::Switched { force, on } => format!("{} {}", force.words(), if *on { "on" } else { "off" }),
            Self::OfForce { force, field, typed } => format!("{}: {} = {}", force.words(), field.name(), shown(typed)),
            Self::Removed => "a force removed".to_owned(),
            Self::StartFromReadings => "start from the readings".to_owned(),
            Self::Value { field, typed } => format!("{} = {}", field.name(), shown(typed)),
            Self::Method(method) => format!("method: {}", Method::name(*method)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use zeitmass_core::step_model::{ForceField, ModelField};

    #[test]
    fn what_differs_is_told_with_the_names_people_see() {
        let called = |kind, name: Option<&str>| Called { kind, name: name.map(str::to_owned) };
        let told = [
            Differs::Added { force: called(ForceName::DragSquared, None), on: true },
            Differs::Switched { force: called(ForceName::Own, Some("wind")), on: false },
            Differs::OfForce {
                force: called(ForceName::DragSquared, None),
                field: ForceField::K,
                typed: "0.02 kg/m".into(),
            },
            Differs::Value { field: ModelField::Mass, typed: String::new() },
            Differs::Method(Method::Midpoint),
        ];
        let told = told.map(|d| d.words()).join("; ");
        assert_eq!(
            told,
            "drag with v² added; wind off; drag with v²: k = 0.02\u{A0}kg/m; mass = nothing; method: midpoint"
        );
        // No two forces go by one name.
        let mut names: Vec<String> = ForceName::ALL.iter().map(Words::words).collect();
        names.sort();
        assert!(names.windows(2).all(|w| w[0] != w[1]));
    }
}
