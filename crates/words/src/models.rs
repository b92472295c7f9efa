//! Forces of a step model, what is other in one than in the one before, and why one does not run.

use zeitmass_core::logbook::{Called, Differs};
use zeitmass_core::step_model::{ForceName, Method, ModelError};

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

impl Words for ModelError {
    fn words(&self) -> String {
        match self {
            Self::Unreadable(why) => format!("The text cannot be read: {why}"),
            Self::TooManyForces { most } => format!("A model can have {most} forces."),
            Self::NoField { force, field } => format!("The force “{}” has no {}.", force.name(), field.name()),
            Self::FieldWanted { force, field } => {
                format!("The force “{}” needs {} = \"…\".", force.name(), field.name())
            }
            Self::NoParameter { force } => format!("The force “{}” has no parameter that can be fitted.", force.name()),
            Self::ValueWanted { field } => format!("The model needs a value for {}.", field.name()),
            Self::Held { symbol, error } => format!("{symbol}: {}", error.words()),
            Self::Quantity { what, error } => format!("{}: {}", what.name(), error.words()),
            Self::OtherUnit { what, wanted, typed } => {
                format!("{} is in {}, not in {}.", what.name(), wanted.pretty(), typed.pretty())
            }
            Self::Formula { text, error } => format!("“{text}”: {}", error.words()),
            Self::NoForce { text, unit } => format!("“{text}” is in {}, and a force is in N.", unit.pretty()),
            Self::TwoFitted => "Only one parameter can be fitted.".to_owned(),
            Self::Mass => "The mass has to be more than zero.".to_owned(),
            Self::TimeStep => "The time step has to be more than zero.".to_owned(),
            Self::End => "The end has to be later than the start.".to_owned(),
            Self::TooManySteps { most } => {
                format!("These are more than {most} steps. Take a longer time step or an earlier end.")
            }
            Self::Start => "Position and velocity at the start have to be numbers.".to_owned(),
            Self::Diverges { steps } => {
                format!("After {steps} steps the numbers grow beyond all bounds. Take a shorter time step.")
            }
            Self::NotAt { t } => format!("The model does not run at t = {t} s. Let it start earlier or end later."),
            Self::NotAtAllTimes => "The model does not run at all times of the readings.".to_owned(),
            Self::NoPosition => "There is no position to compare with: a column x or y is needed beside t.".to_owned(),
            Self::NothingToFit => "This force is off, or has no parameter that can be fitted.".to_owned(),
            Self::FewReadings { start, needed, have } => format!(
                "To fit this{}, {needed} positions are needed at least; there are {have}.",
                if *start { " and the start" } else { "" }
            ),
            Self::NoEffect => "The readings do not depend on this parameter.".to_owned(),
            Self::TiedToStart => "The readings do not determine this parameter from the start.".to_owned(),
            Self::GivenUp => "There was no time to work this out.".to_owned(),
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
