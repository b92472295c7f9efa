//! What is heard about an edit that was done.

use zeitmass_core::lab::Advice;
use zeitmass_core::logbook::{Followed, Heard, Holder, Touched};
use zeitmass_core::quantity::format::percent;

use crate::Words;

/// All that is heard about one edit; empty for nothing.
impl Words for [Heard] {
    fn words(&self) -> String {
        self.iter().map(Words::words).collect::<Vec<_>>().join(" ")
    }
}

impl Words for Heard {
    fn words(&self) -> String {
        match self {
            Self::Undone(touched) => format!("Undone: {}.", touched.words()),
            Self::DoneAgain(touched) => format!("Done again: {}.", touched.words()),
            Self::Followed(cells) => followed(cells),
            Self::Run(outcome) => outcome.words(),
            Self::Trials(advice) => advice.words(),
            Self::Entered { symbol, rows, table } => {
                let numbers: Vec<String> = rows.iter().map(ToString::to_string).collect();
                let what = if rows.len() == 1 { "row" } else { "rows" };
                format!("Entered as {symbol} in {what} {} of “{table}”.", numbers.join(", "))
            }
            Self::Pasted { rows, columns, new, skipped } => {
                let mut said = format!("{} and {} were pasted", count(*rows, "row"), count(*columns, "column"));
                if *new > 0 {
                    said += &format!("; {} new", count(*new, "column"));
                }
                if *skipped > 0 {
                    said += &format!("; {} left out, since the table works them out itself", count(*skipped, "column"));
                }
                said + "."
            }
            Self::FirstRepeat { stem, first } => format!(
                "{stem} is now {first}, its first repeat. Formulas take all repeats together as mean({stem}), sum({stem}) or spread({stem})."
            ),
            Self::Repeat { number } => format!("This is repeat {number}."),
            Self::Recorded { instants, table } => format!("Recorded {instants} instants into the table “{table}”."),
            Self::RecordedAsRepeat { table } => format!("Recorded as a further repeat in the table “{table}”."),
            Self::Fitted { field, value } => format!("{} = {value}, fitted.", field.name()),
            Self::ScalesDiffer { spread } => format!(
                "These scales differ by {} %, more than reading them explains. Was the camera held askew, or are the rulers at different distances from it?",
                percent(*spread)
            ),
            Self::Brought { unchecked } => {
                let held = "The logbook now holds what the file held. Undo brings back what was here before.";
                match unchecked {
                    0 => held.to_owned(),
                    1 => format!("{held} One value could not be checked and is marked as imported from a file."),
                    n => format!("{held} {n} values could not be checked and are marked as imported from a file."),
                }
            }
            Self::BackTo { edit: 0 } => {
                "The logbook is as it was at the start. Undo brings back what was here before.".to_owned()
            }
            Self::BackTo { edit } => {
                format!("The logbook is as it was after edit {edit}. Undo brings back what was here before.")
            }
            Self::Tight { holder, held, most } => {
                let who = match holder {
                    Holder::Edit => "This step holds",
                    Holder::Logbook => "This logbook holds",
                    Holder::Student => "One student’s logbooks hold",
                    Holder::Class => "The logbooks of a class hold",
                };
                format!("{who} {held} of at most {most} MB.")
            }
        }
    }
}

fn followed(cells: &[Followed]) -> String {
    let one = |cell: &Followed| format!("{} in row {} is now {}", cell.symbol, cell.row, cell.now);
    match cells {
        [] => String::new(),
        [cell] => format!("It follows the curve: {}.", one(cell)),
        [first, last] => format!("They follow the curve: {}, {}.", one(first), one(last)),
        [first, ..] => format!("{} cells follow their curves: {}, and others.", cells.len(), one(first)),
    }
}

fn count(n: usize, thing: &str) -> String {
    format!("{n} {thing}{}", if n == 1 { "" } else { "s" })
}

impl Words for Advice {
    fn words(&self) -> String {
        match self {
            Self::Few { trials, least } => {
                format!("{trials} trials are few: this lab asks for at least {least}. Take smaller intervals.")
            }
            Self::Many { trials, least, most } => {
                format!("{trials} trials take long: {least} to {most} are enough here. Take larger intervals.")
            }
        }
    }
}

/// What an edit is about, inside a sentence.
impl Words for Touched {
    fn words(&self) -> String {
        match self {
            // Of what is gone since nobody knows the name.
            Self::Cell(symbol, row) if symbol.is_empty() => format!("a cell in row {row}"),
            Self::Column(symbol) if symbol.is_empty() => "a column".to_owned(),
            Self::Table(name) if name.is_empty() => "a table".to_owned(),
            Self::Trail(name) if name.is_empty() => "a trail".to_owned(),
            Self::Cell(symbol, row) => format!("{symbol} in row {row}"),
            Self::Cells(n) => format!("{n} cells"),
            Self::Row(row) => format!("row {row}"),
            Self::Rows(n) => format!("{n} rows"),
            Self::Column(symbol) => format!("column {symbol}"),
            Self::Table(name) => format!("table “{name}”"),
            Self::Aside(row) => format!("row {row} set aside or back"),
            Self::Held => "a controlled variable".to_owned(),
            Self::Graph => "the graph".to_owned(),
            Self::Model => "the step model".to_owned(),
            Self::Result => "a result".to_owned(),
            Self::Setting(name) => format!("setting {name}"),
            Self::Run(number) => format!("run {number}"),
            Self::OnStage => "what is on the stage".to_owned(),
            Self::Plan => "the plan of trials".to_owned(),
            Self::Tools => "split, tape or t = 0".to_owned(),
            Self::Laid => "ruler or axes".to_owned(),
            Self::Trail(name) => format!("trail “{name}”"),
            Self::Marks(1) => "one mark".to_owned(),
            Self::Marks(n) => format!("{n} marks"),
            Self::Forecast => "the forecast".to_owned(),
            Self::Text => "a text".to_owned(),
            Self::Answer => "an answer".to_owned(),
            Self::Claim => "the claim".to_owned(),
            Self::WriteUp => "the order of the write-up".to_owned(),
            Self::Deal => "the deal of numbers".to_owned(),
            Self::All => "the whole logbook".to_owned(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn all_that_is_heard_of_an_edit_is_one_line() {
        let cell = |row, now: &str| Followed { symbol: "v".into(), row, now: now.into() };
        let pasted = Heard::Pasted { rows: 1, columns: 3, new: 1, skipped: 2 };
        let both = [pasted, Heard::Followed(vec![cell(2, "1.50\u{A0}m/s"), cell(4, "1.61\u{A0}m/s")])];
        assert_eq!(
            both.words(),
            "1 row and 3 columns were pasted; 1 column new; 2 columns left out, since the table works them out itself. They follow the curve: v in row 2 is now 1.50\u{A0}m/s, v in row 4 is now 1.61\u{A0}m/s."
        );
        assert_eq!([Heard::Undone(Touched::Marks(1))].words(), "Undone: one mark.");
        assert_eq!([Heard::Undone(Touched::Cell(String::new(), 3))].words(), "Undone: a cell in row 3.");
        assert_eq!(
            [Heard::Brought { unchecked: 1 }].words(),
            "The logbook now holds what the file held. Undo brings back what was here before. One value could not be checked and is marked as imported from a file."
        );
        let tight = Heard::Tight { holder: Holder::Student, held: 161, most: 200 };
        assert_eq!([tight].words(), "One student’s logbooks hold 161 of at most 200 MB.");
        let nothing: [Heard; 0] = [];
        assert_eq!(nothing.words(), "");
    }
}
