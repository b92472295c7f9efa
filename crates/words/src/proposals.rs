//! What the program saw in a logbook that is marked.

use zeitmass_core::logbook::{Fits, Lined, Noticed, TextField};
use zeitmass_core::quantity::format::percent;

use crate::{Words, claims};

impl Words for Noticed {
    fn words(&self) -> String {
        match self {
            Self::Trials { recorded, wanted, odd } => trials(*recorded, *wanted, *odd),
            Self::Graph { y, x, line } => {
                let line = match line {
                    Lined::Straight => "with a straight line",
                    Lined::Curve => "with a curve",
                    Lined::Not => "without a line",
                };
                format!("{y} is drawn against {x}, {line}.")
            }
            Self::NoGraph => "There is no graph.".to_owned(),
            Self::NoConstant { symbol } => format!("There is no value of {symbol}."),
            Self::ConstantOpen { symbol } => {
                format!("There is a value of {symbol}, and the sheet does not say what is right.")
            }
            Self::ConstantUnit { symbol, found, wanted } => {
                format!("The value of {symbol} is in {}, not in {}.", found.in_words(), wanted.in_words())
            }
            Self::Constant { symbol, off, fits } => {
                let off = percent(*off);
                match fits {
                    Fits::Explained => format!("{symbol} agrees with the key: it is {off}\u{A0}% off."),
                    Fits::Beyond => {
                        format!(
                            "{symbol} does not agree with the key: it is {off}\u{A0}% off, more than its uncertainty and the instruments explain."
                        )
                    }
                    Fits::Far => format!("{symbol} is {off}\u{A0}% off the key."),
                }
            }
            Self::Questions { checked, right, to_read, open } => {
                let are = |n: usize| if n == 1 { "is" } else { "are" };
                let mut said = format!("{right} of {checked} answers that can be checked are right");
                if *to_read > 0 {
                    said += &format!("; {to_read} {} for you to read", are(*to_read));
                }
                if *open > 0 {
                    said += &format!("; {open} {} not answered", are(*open));
                }
                said + "."
            }
            Self::Claim(judged) => {
                let all =
                    [judged.shows.as_ref(), judged.beside.as_ref(), Some(&judged.controlled), Some(&judged.enough)];
                let all = all.into_iter().flatten().map(|f| claims::finding(judged, f));
                format!("{} {}", judged.words(), all.collect::<Vec<_>>().join(" "))
            }
            Self::NoClaim => "Nothing is claimed.".to_owned(),
            Self::Texts { empty } if empty.is_empty() => {
                "Claim, evidence and reasoning are written: for you to read.".to_owned()
            }
            Self::Texts { empty } if empty.len() == TextField::ALL.len() => "Nothing is written.".to_owned(),
            Self::Texts { empty } => {
                let empty: Vec<&str> = empty.iter().map(|f| f.name()).collect();
                format!("Not written: {}. The rest is for you to read.", empty.join(", "))
            }
        }
    }
}

fn trials(recorded: usize, wanted: usize, odd: usize) -> String {
    let are = if recorded == 1 { "trial is" } else { "trials are" };
    let counted = format!("{recorded} {are} recorded; the sheet asks for {wanted}.");
    match (recorded, odd) {
        (0, _) => "No trial is recorded.".to_owned(),
        (n, _) if n < wanted => counted,
        (_, 0) => format!("{counted} In none did more than one quantity change."),
        (_, n) => format!("{counted} In {n} of them more than one quantity changed."),
    }
}
