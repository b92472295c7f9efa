//! Claims held against their evidence.

use zeitmass_core::inquiry::Hypothesis;
use zeitmass_core::logbook::{Finding, Judged, JudgedRow};

use crate::forecasts::{does, will};
use crate::{Words, list};

/// The claim itself.
impl Words for Judged {
    fn words(&self) -> String {
        let [cause, effect] = &self.names;
        format!("As the {cause} rises, the {effect} {}.", does(self.curve))
    }
}

/// What a row has of cause and effect.
impl Words for JudgedRow {
    fn words(&self) -> String {
        let one = |(symbol, value): &(String, Option<String>)| match value {
            Some(value) => format!("{symbol} = {value}"),
            None => format!("no {symbol}"),
        };
        self.held.each_ref().map(one).join(", ")
    }
}

/// A finding about a claim.
pub fn finding(judged: &Judged, finding: &Finding) -> String {
    let [cause, effect] = &judged.names;
    let expected = |h: &Hypothesis| format!("the {} {}", h.effect, will(h.curve));
    let the = |names: &[String]| list(&names.iter().map(|n| format!("the {n}")).collect::<Vec<_>>());
    match finding {
        Finding::FewRows => "Choose the rows that show it: at least two, better five.".to_owned(),
        Finding::Aside { row } => format!("Row {row} is set aside: take it back, or leave it out of the evidence."),
        Finding::NothingSaid => {
            "Nothing in the logbook says what was held the same in these rows. Say it in the evidence.".to_owned()
        }
        Finding::Controlled { rows, varied } => {
            let rows = rows.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ");
            let varied = if varied.is_empty() { "nothing else".to_owned() } else { the(varied) };
            format!("Among rows {rows} only {varied} changed; all else was held.")
        }
        Finding::Uncontrolled { between: [a, b], varied } => format!(
            "Between rows {a} and {b} {} changed, so the rows cannot show which of them made the difference. Choose rows in which one quantity alone differs.",
            the(varied)
        ),
        Finding::NoRow => format!("No row is chosen yet that has both {cause} and {effect}."),
        Finding::SameCause => format!("All rows have the same {cause}: nothing can be seen of what it does."),
        Finding::TwoValues => {
            "Two values show where it goes, not whether the curve is straight or bent: add a third, better a fifth."
                .to_owned()
        }
        Finding::FewForTurn { values, wanted } => {
            format!("{values} values are too few for a curve that turns: it needs {wanted} at least.")
        }
        Finding::JustEnough { values } => {
            format!("{values} values of the {cause} are just enough; five would be more convincing.")
        }
        Finding::Enough { values } => format!("{values} values of the {cause} are enough."),
        Finding::Shown => {
            format!("These rows show it: as the {cause} rises, the {effect} {}.", does(judged.curve))
        }
        Finding::ShowsOther(best) => {
            format!("These rows show something else: as the {cause} rises, the {effect} {}.", does(*best))
        }
        Finding::NotShown => {
            format!("Within their uncertainty these rows do not show that the {effect} {}.", does(judged.curve))
        }
        Finding::Overturned(hypothesis) => format!(
            "The hypothesis was that {}. The data contradict it, and the claim says what they show: that is what experiments are for.",
            expected(hypothesis)
        ),
        Finding::Stood => "The data support the hypothesis.".to_owned(),
        Finding::Repeated => "The claim repeats the hypothesis, and the data do not show it. A hypothesis may turn out wrong: claim what they show.".to_owned(),
        Finding::Neither(hypothesis) => format!(
            "The hypothesis was that {}; neither it nor the claim is what these rows show.",
            expected(hypothesis)
        ),
    }
}

/// What a claim leaves to think about, as a question.
pub fn question(judged: &Judged) -> Option<String> {
    let [cause, effect] = &judged.names;
    let ratios = &judged.asks.as_ref()?.ratios;
    let known = format!(
        "You call the curve exponential. Along an exponential curve equal steps of the {cause} multiply the {effect} by the same factor."
    );
    Some(if ratios.is_empty() {
        format!("{known} What are the ratios of neighbours in your table, at equal steps?")
    } else {
        format!("{known} Here the ratios of neighbours are {}: are they the same?", list(ratios))
    })
}

#[cfg(test)]
mod tests {
    use zeitmass_core::inquiry::CurvePick;
    use zeitmass_core::logbook::AskedRatios;

    use super::*;

    #[test]
    fn a_claim_its_rows_and_what_was_found_are_sentences() {
        let varied = vec!["angle of the slope".to_owned(), "mass".to_owned()];
        let judged = Judged {
            names: ["angle", "time to the foot"].map(str::to_owned),
            curve: CurvePick::FallsFlatter,
            rows: Vec::new(),
            controlled: Finding::Uncontrolled { between: [1, 7], varied },
            enough: Finding::JustEnough { values: 3 },
            shows: Some(Finding::Shown),
            beside: None,
            asks: Some(AskedRatios { ratios: ["4.00", "2.25"].map(str::to_owned).to_vec() }),
        };
        assert_eq!(judged.words(), "As the angle rises, the time to the foot falls ever less steeply.");
        let found = finding(&judged, &judged.controlled);
        assert!(found.starts_with("Between rows 1 and 7 the angle of the slope and the mass changed"), "{found}");
        let asked = question(&judged).unwrap();
        assert!(asked.ends_with("Here the ratios of neighbours are 4.00 and 2.25: are they the same?"), "{asked}");
        let held = [("α".into(), Some("5°".into())), ("t".into(), None)];
        assert_eq!(JudgedRow { id: 7, number: 1, held }.words(), "α = 5°, no t");
    }
}
