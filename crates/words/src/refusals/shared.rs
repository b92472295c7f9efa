//! What all edits can be refused for.

use zeitmass_core::formula::FormulaError;
use zeitmass_core::logbook::{
    Absent, Counted, Holder, Kept, Limit, LongText, Named, Refusal, ShortText, Thing, ValueError,
};

use crate::{Title, Words};

impl Words for Refusal {
    fn words(&self) -> String {
        match self {
            Self::HandedIn => "This logbook is handed in. It can be changed again when it is sent back.".to_owned(),
            Self::NotHandedIn => "This logbook is not handed in, so it cannot be sent back.".to_owned(),
            Self::Unread => "This logbook holds work that this version of Zeitmass cannot read. It can be looked at as far as it can be read; nothing in it is changed.".to_owned(),
            Self::NothingToUndo => "There is nothing to undo.".to_owned(),
            Self::NothingToRedo => "There is nothing to redo.".to_owned(),
            Self::ForecastStands => "The forecast was made before the first run and stays as it was. Nothing was changed.".to_owned(),
            Self::ForecastFirst { missing } => format!("Forecast first: {}. The apparatus runs when this is complete.", missing.words()),
            Self::Closed { open } => format!("Your teacher opened only {} again. The rest stays as it was handed in.", open.words()),
            Self::StampFirst { step } => format!("First ask your teacher for the stamp at “{}”. Nothing was changed.", step.title()),
            Self::Gone(what) => format!("This {} is no longer in the logbook: it was deleted meanwhile. Nothing was changed.", thing(*what)),
            Self::Absent(why) => why.words(),
            Self::Changed { now } => format!("This cell was changed meanwhile{}. The newer value is kept; look, and type again if yours is right.", if now.is_empty() { " and is empty now".to_owned() } else { format!(" to {now}") }),
            Self::TextChanged { field } => format!("A partner changed the {field} meanwhile. Your words are still in the box, not yet saved: change them once more to save them over the other text."),
            Self::Value { wrong, kept } => format!("{} {}.", wrong.words(), kept_words(kept)),
            Self::WrongUnit { reading, symbol, column } => format!("A reading in {} does not fit the column {symbol}, which is in {}. Nothing was written.", reading.in_words(), column.in_words()),
            Self::Formula { text, error } => at_place(text, error),
            Self::Limit(why) => why.words(),
            Self::Name { of, most } => format!("The name of {} needs 1 to {most} characters. Nothing was changed.", named(*of)),
            Self::NoSuchDeal { deals } => if *deals == 1 { "This lab has one deal of numbers. Nothing was changed.".to_owned() } else { format!("This lab has {deals} deals of numbers. Nothing was changed.") },
            Self::Misfit(_) => "A change does not fit what the logbook holds. Nothing was changed.".to_owned(),
            Self::Rig(why) => format!("{} Nothing was changed.", why.words()),
            Self::Run(why) => why.words(),
            Self::Footage(why) => why.words(),
            Self::Film(why) => why.words(),
            Self::Forecast(why) => why.words(),
            Self::Record(why) => why.words(),
            Self::Graph(why) => why.words(),
            Self::Model(why) => why.words(),
            Self::Answer(why) => why.words(),
            Self::Claim(why) => why.words(),
            Self::WriteUp(why) => why.words(),
            Self::Office(why) => why.words(),
            Self::SheetsConstant => "This is the constant the sheet asks for; it stays.".to_owned(),
        }
    }
}

/// What is wrong with a value, a sentence of its own.
impl Words for ValueError {
    fn words(&self) -> String {
        match self {
            Self::Quantity(why) => why.words(),
            Self::Setting(why) => why.words(),
            Self::Precision(why) => why.words(),
            Self::Block(why) => why.words(),
            Self::Model(why) => why.words(),
            Self::Draw(why) => why.words(),
            Self::Mass(why) => why.words(),
            Self::Pull(why) => why.words(),
            Self::OtherUnit { symbol, column, typed } => {
                format!("The column {symbol} is in {}, not in {}.", column.in_words(), typed.in_words())
            }
            Self::TooLong => "This is too long for a number.".to_owned(),
            Self::Wide { block, there } => format!(
                "The block is {} wide, but from this cell on there {} only {there}. Choose another cell, add columns, or paste with a header row.",
                if *block == 1 { "1 column".to_owned() } else { format!("{block} columns") },
                if *there == 1 { "is" } else { "are" }
            ),
            Self::Covers { symbol } => {
                format!("The block would cover the column {symbol}, which cannot be written into. Choose another cell.")
            }
            Self::Cell { row, symbol, error } => format!("Row {row} of the block, {symbol}: {}", error.words()),
            Self::CellUnit { row, symbol, typed } => {
                format!("Row {row} of the block, {symbol}: “{typed}” is in another unit than the column.")
            }
            Self::Start { part } => format!("Write start values as A=5, b=0.1, not “{part}”."),
        }
    }
}

/// What stands as it was, without its full stop.
fn kept_words(kept: &Kept) -> String {
    match kept {
        Kept::NothingChanged => "Nothing was changed".to_owned(),
        Kept::NothingWritten => "Nothing was written".to_owned(),
        Kept::NothingPasted => "Nothing was pasted".to_owned(),
        Kept::Cell(Some(value)) => format!("The cell still holds {value}"),
        Kept::Cell(None) => "The cell is still empty".to_owned(),
        Kept::Field(Some(value)) => format!("The field still holds {value}"),
        Kept::Field(None) => "The field is still empty".to_owned(),
        Kept::Setting(value) => format!("The setting is still {value}"),
        Kept::Accepted(Some(value)) => format!("The accepted value is still {value}"),
        Kept::Accepted(None) => "There is still no accepted value".to_owned(),
    }
}

impl Words for Absent {
    fn words(&self) -> String {
        match self {
            Self::Question => "This lab has no such question. Nothing was changed.".to_owned(),
            Self::Option => "This answer is not there to be chosen. Nothing was changed.".to_owned(),
            Self::Pointed(kind) => format!("There is no such {kind}. Nothing was changed."),
            Self::Stamp => "This lab has no stamp at this step. Nothing was changed.".to_owned(),
            Self::Rig => "There is no rig in this lab.".to_owned(),
            Self::Run(run) => format!("Run {run} is no longer in this logbook. Nothing was written."),
        }
    }
}

impl Words for Limit {
    fn words(&self) -> String {
        match self {
            Self::Many { of, most } => {
                format!("{} can have {most} {}. Nothing was added.", counted(*of).0, counted(*of).1)
            }
            Self::Short { of, most } => format!("{} can have {most} characters. Nothing was changed.", short(*of)),
            Self::Long { of, most } => format!(
                "{} can have {most} characters. What was saved before is kept; shorten the text to save it.",
                long(*of)
            ),
            Self::Word(most) => format!("A word needs 1 to {most} characters. Nothing was sent."),
            Self::Note(most) => format!("A note can have {most} characters. The logbook is still handed in."),
            Self::Space { holder, most } => {
                format!("{} can hold {most} MB, and would hold more. Nothing was changed.", full(*holder))
            }
        }
    }
}

fn at_place(text: &str, error: &FormulaError) -> String {
    let problem = error.words();
    match text.get(error.span.clone()) {
        Some(part) if !part.is_empty() && part.len() < text.len() => {
            let place = text[..error.span.start].chars().count() + 1;
            format!("{problem} Look at “{part}”, character {place} of {text}. Nothing was changed.")
        }
        _ if error.span.start >= text.len() && !text.is_empty() => {
            format!("{problem} Look at the end of {text}. Nothing was changed.")
        }
        _ => format!("{problem} Nothing was changed."),
    }
}

/// What would be full.
fn full(of: Holder) -> &'static str {
    match of {
        Holder::Edit => "A single step",
        Holder::Logbook => "A logbook",
        Holder::Student => "One student’s logbooks",
        Holder::Class => "The logbooks of a class",
    }
}

/// What a partner may have deleted.
fn thing(of: Thing) -> &'static str {
    match of {
        Thing::Block => "block",
        Thing::Calibration => "calibration",
        Thing::Column => "column",
        Thing::Curve => "curve",
        Thing::Film => "film",
        Thing::Force => "force",
        Thing::Graph => "graph",
        Thing::Interval => "interval",
        Thing::Model => "model",
        Thing::Parameter => "parameter",
        Thing::Plan => "plan",
        Thing::Reading => "reading",
        Thing::Rectangle => "rectangle",
        Thing::Result => "result",
        Thing::Row => "row",
        Thing::Ruler => "ruler",
        Thing::Run => "run",
        Thing::SecondBody => "second body",
        Thing::Series => "series",
        Thing::Table => "table",
        Thing::Trail => "trail",
        Thing::Word => "word",
    }
}

/// What has a name.
fn named(of: Named) -> &'static str {
    match of {
        Named::Table => "a table",
        Named::Column => "a column",
        Named::Quantity => "a quantity",
        Named::Result => "a result",
        Named::Run => "a run",
        Named::Object => "an object",
    }
}

/// What can have how many of it.
fn counted(of: Counted) -> (&'static str, &'static str) {
    match of {
        Counted::Tables => ("A logbook", "tables"),
        Counted::Rows => ("A table", "rows"),
        Counted::Columns => ("A table", "columns"),
        Counted::Graphs => ("A logbook", "graphs"),
        Counted::Series => ("A graph", "series"),
        Counted::Intervals => ("A graph", "intervals"),
        Counted::Results => ("A logbook", "results"),
        Counted::Runs => ("A logbook", "runs"),
        Counted::Films => ("A logbook", "films"),
        Counted::Rulers => ("A film", "rulers"),
        Counted::Trails => ("A film", "trails"),
        Counted::Pictures => ("A write-up", "pictures of the stage"),
        Counted::OwnTexts => ("A write-up", "texts of your own"),
        Counted::Forces => ("A model", "forces"),
        Counted::Models => ("A logbook", "models"),
        Counted::Held => ("A logbook", "controlled variables"),
        Counted::Evidence => ("A claim", "rows as evidence"),
        Counted::Words => ("A logbook", "words of its teacher"),
        Counted::Pointed => ("An answer", "things it points at"),
    }
}

/// A text of one line.
fn short(of: ShortText) -> &'static str {
    match of {
        ShortText::Title => "A title",
        ShortText::Gap => "A gap",
        ShortText::Reason => "A reason",
        ShortText::Source => "A source",
        ShortText::Typed => "This",
    }
}

/// A text of many lines.
fn long(of: LongText) -> &'static str {
    match of {
        LongText::Answer => "An answer",
        LongText::Block => "This text",
        LongText::Claim => "The claim",
        LongText::Evidence => "The evidence",
        LongText::Reasoning => "The reasoning",
        LongText::Intercept => "The intercept",
        LongText::Difference => "The difference",
    }
}

#[cfg(test)]
mod tests {
    use zeitmass_core::formula::Formula;
    use zeitmass_core::inquiry::Step;
    use zeitmass_core::logbook::{Flaw, ForecastPart, Kind, OfficeRefusal, RecordRefusal};
    use zeitmass_core::quantity::{NumberError, Unit};

    use super::*;

    /// What happened, and what was kept: the whole sentence, as somebody reads it.
    #[test]
    fn a_refusal_says_what_happened_and_what_was_kept() {
        let unit = |text: &str| Unit::parse(text).unwrap();
        let not_a_number = || NumberError::NotANumber("0,4x".into());
        let cells = |kept| Refusal::Value { wrong: not_a_number().into(), kept };
        let sketch = ForecastPart::Sketch { curve: "position".into() };
        for (refusal, said) in [
            (
                cells(Kept::Cell(Some("0.450\u{A0}m".into()))),
                "“0,4x” is not a number. The cell still holds 0.450\u{A0}m.",
            ),
            (cells(Kept::Field(None)), "“0,4x” is not a number. The field is still empty."),
            (cells(Kept::Accepted(None)), "“0,4x” is not a number. There is still no accepted value."),
            (
                Refusal::Changed { now: String::new() },
                "This cell was changed meanwhile and is empty now. The newer value is kept; look, and type again if yours is right.",
            ),
            (
                Refusal::Gone(Thing::Row),
                "This row is no longer in the logbook: it was deleted meanwhile. Nothing was changed.",
            ),
            (
                Refusal::ForecastFirst { missing: vec![sketch, ForecastPart::Prediction] },
                "Forecast first: the sketch of the position and the prediction. The apparatus runs when this is complete.",
            ),
            (
                Refusal::Closed { open: [Step::Measure, Step::WriteUp].into() },
                "Your teacher opened only Measure and Write-up again. The rest stays as it was handed in.",
            ),
            (
                Refusal::Limit(Limit::Many { of: Counted::Graphs, most: 8 }),
                "A logbook can have 8 graphs. Nothing was added.",
            ),
            (
                Refusal::Limit(Limit::Long { of: LongText::Claim, most: 4000 }),
                "The claim can have 4000 characters. What was saved before is kept; shorten the text to save it.",
            ),
            (
                Refusal::Name { of: Named::Table, most: 40 },
                "The name of a table needs 1 to 40 characters. Nothing was changed.",
            ),
            (
                RecordRefusal::FormulaGives { derived: unit("m/s"), wanted: Unit::one() }.into(),
                "The formula gives m/s, which cannot be shown in pure numbers. Nothing was changed.",
            ),
            (
                OfficeRefusal::NotBrought(Flaw::Twice(Kind::Row)).into(),
                "This file cannot be restored: it has the same row twice. The logbook is as it was.",
            ),
        ] {
            assert_eq!(refusal.words(), said, "{refusal:?}");
        }
    }

    /// A mistake in a formula is shown where it stands, counted in characters and not in bytes.
    #[test]
    fn a_formula_is_refused_at_its_place() {
        let told =
            |text: &str| Refusal::Formula { text: text.into(), error: Formula::parse(text).unwrap_err() }.words();
        let inside = told("α*2 + m m");
        assert!(inside.contains("Look at “m”, character 9 of α*2 + m m. Nothing was changed."), "{inside}");
        let end = told("2*(a+b");
        assert!(end.contains("Look at the end of 2*(a+b. Nothing was changed."), "{end}");
    }
}
