//! A sheet that grows while logbooks are at work on it: they get its new questions, texts and criteria, and keep what they were begun with.

use std::mem::discriminant;

use super::{LabSheet, has_step};
use crate::inquiry::Question;

impl LabSheet {
    /// This sheet, with which a logbook was begun, grown by a later text of it. Questions, texts, criteria, stamps, and how many trials are wanted
    /// come from the later one; apparatus, settings, columns, forecast and constant stay, and so does a question that was left out or is
    /// answered in another way now, since answers belong to it.
    #[must_use]
    pub fn grown(&self, later: &Self) -> Self {
        let mut questions: Vec<Question> = Vec::new();
        for question in &later.questions {
            let begun = self.questions.iter().find(|q| q.name == question.name);
            // Keys of a later text may speak of what this apparatus does not have.
            let foreign = later.card.name != self.card.name;
            match begun {
                Some(begun) if !same_way(begun, question) || foreign => questions.push(begun.clone()),
                _ => questions.push(question.clone()),
            }
        }
        let missing = self.questions.iter().filter(|q| later.questions.iter().all(|l| l.name != q.name));
        questions.extend(missing.cloned());
        let step_model = self.step_model || later.step_model;
        let there = |step| has_step(step, self.forecast.is_some(), step_model);
        questions.retain(|q| there(q.step));
        questions.sort_by_key(|q| q.step);
        let mut stamps = later.stamps.clone();
        stamps.retain(|s| there(*s));
        Self {
            number: later.number,
            title: later.title.clone(),
            unit: later.unit.clone(),
            sections: later.sections.clone(),
            criteria: later.criteria.clone(),
            stamps,
            questions,
            trials: later.trials,
            most_trials: later.most_trials,
            strip: later.strip,
            ask_slips: later.ask_slips,
            step_model,
            expected: if self.goal == later.goal { later.expected.clone() } else { self.expected.clone() },
            ..self.clone()
        }
    }

    /// What of a later text does not reach a logbook that was begun with this one, as sentences.
    pub fn stays(&self, later: &Self) -> Vec<String> {
        let mut all = Vec::new();
        let mut say = |differs: bool, words: &str| {
            if differs {
                all.push(words.to_owned());
            }
        };
        say(
            self.card.name != later.card.name || self.films != later.films,
            "The apparatus or films stay as they were at the start.",
        );
        say(
            self.card.name == later.card.name && self.settings != later.settings,
            "Settings, and values that were dealt, stay as they were at the start.",
        );
        say(
            self.tracks != later.tracks
                || self.meters != later.meters
                || self.arrows != later.arrows
                || self.recordable != later.recordable,
            "Instruments, curves and arrows stay as they were at the start.",
        );
        say(
            self.columns != later.columns || self.first_table != later.first_table,
            "Columns stay as they were at the start.",
        );
        say(self.forecast != later.forecast, "The forecast stays as it was at the start.");
        say(self.deals != later.deals, "The number of deals stays as it was at the start.");
        say(self.gaps != later.gaps, "The read-out of slope and intercept stays as it was at the start.");
        say(self.goal != later.goal, "The constant to be found and its key stay as they were at the start.");
        for (question, number) in self.questions.iter().zip(1..) {
            match later.questions.iter().find(|q| q.name == question.name) {
                None => all.push(format!("Question {number} of the earlier text stays, since answers belong to it.")),
                Some(q) if !same_way(question, q) => {
                    all.push(format!("Question {number} of the earlier text stays as it was asked, since it is answered in another way now."));
                }
                Some(_) => {}
            }
        }
        all
    }

    /// What of a later text is new to a logbook that was begun with this one, in words for students; blank when nothing is.
    pub fn news(&self, later: &Self) -> String {
        let new =
            self.grown(later).questions.iter().filter(|q| self.questions.iter().all(|b| b.name != q.name)).count();
        let heads = later.sections.iter().filter(|s| self.sections.iter().all(|b| b.heading != s.heading)).count();
        let texts = later
            .sections
            .iter()
            .filter(|s| self.sections.iter().any(|b| b.heading == s.heading && b.text != s.text))
            .count();
        let count = |n: usize, one: &str, more: &str| match n {
            0 => None,
            1 => Some(format!("one {one}")),
            n => Some(format!("{n} {more}")),
        };
        let parts = [
            count(new, "new question", "new questions"),
            count(heads, "new text", "new texts"),
            count(texts, "text that was changed", "texts that were changed"),
        ];
        let parts: Vec<String> = parts.into_iter().flatten().collect();
        match &parts[..] {
            [] if self.grown(later).questions == self.questions => String::new(),
            [] => "Your teacher has changed questions of this sheet.".to_owned(),
            all => format!("Your teacher has added to this sheet: {}.", all.join(", ")),
        }
    }
}

/// Whether an answer to the one can be an answer to the other.
fn same_way(a: &Question, b: &Question) -> bool {
    discriminant(&a.kind) == discriminant(&b.kind)
}
