//! What Zeitmass says, in English: the sentences for the reasons, verdicts and outcomes that `zeitmass-core` tells as values.
//! There is one file for each subject, so that another language is another set of these files.

pub mod answers;
pub mod claims;
pub mod data;
pub mod drafts;
mod films;
pub mod fits;
pub mod forecasts;
mod formulas;
mod heard;
mod models;
mod proposals;
mod quantities;
mod refusals;
mod results;
pub mod rigs;
mod runs;
mod sheets;
pub mod slips;
mod steps;
mod tables;
pub mod working;

/// Words one after the other, with “and” before the last.
pub fn list<T: AsRef<str>>(all: &[T]) -> String {
    match all {
        [] => String::new(),
        [one] => one.as_ref().to_owned(),
        [first @ .., last] => {
            let first: Vec<&str> = first.iter().map(AsRef::as_ref).collect();
            format!("{} and {}", first.join(", "), last.as_ref())
        }
    }
}

pub use steps::Title;

/// What is told to people in a sentence.
pub trait Words {
    /// The sentence, or the sentences.
    fn words(&self) -> String;
}
