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

    /// What of a later text does not reach a logbook that was begun with this one.
    pub fn stays(&self, later: &Self) -> Vec<Stays> {
        let same_rig = self.card.name == later.card.name;
        let on_the_bench = |s: &Self| (s.tracks.clone(), s.meters.clone(), s.arrows.clone(), s.recordable.clone());
        let all = [
            (!same_rig || self.films != later.films, Stays::Apparatus),
            (same_rig && self.settings != later.settings, Stays::Settings),
            (on_the_bench(self) != on_the_bench(later), Stays::Bench),
            (self.columns != later.columns || self.first_table != later.first_table, Stays::Columns),
            (self.forecast != later.forecast, Stays::Forecast),
            (self.deals != later.deals, Stays::Deals),
            (self.gaps != later.gaps, Stays::ReadOut),
            (self.goal != later.goal, Stays::Goal),
        ];
        let differing = all.into_iter().filter(|(differs, _)| *differs).map(|(_, stays)| stays);
        let questions = self.questions.iter().zip(1..).filter_map(|(question, number)| {
            match later.questions.iter().find(|q| q.name == question.name) {
                None => Some(Stays::LeftOut { number }),
                Some(q) if !same_way(question, q) => Some(Stays::OtherWay { number }),
                Some(_) => None,
            }
        });
        differing.chain(questions).collect()
    }

    /// What of a later text is new to a logbook that was begun with this one.
    pub fn news(&self, later: &Self) -> News {
        let grown = self.grown(later).questions;
        let before = |heading: &str| self.sections.iter().find(|s| s.heading == heading);
        News {
            questions: grown.iter().filter(|q| self.questions.iter().all(|b| b.name != q.name)).count(),
            texts: later.sections.iter().filter(|s| before(&s.heading).is_none()).count(),
            changed: later.sections.iter().filter(|s| before(&s.heading).is_some_and(|b| b.text != s.text)).count(),
            reworded: grown != self.questions,
        }
    }
}

/// What stays as it was in a logbook whose sheet grows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Stays {
    /// The apparatus, or the films.
    Apparatus,
    /// Settings, and values that were dealt.
    Settings,
    /// Instruments, curves and arrows.
    Bench,
    /// Columns it started with.
    Columns,
    /// The forecast.
    Forecast,
    /// The number of deals.
    Deals,
    /// Whether slope and intercept are read out, or filled in.
    ReadOut,
    /// The constant and its key.
    Goal,
    /// A question that the later text leaves out: answers belong to it.
    LeftOut {
        /// Its number in the earlier text, from 1.
        number: usize,
    },
    /// A question that the later text has answered in another way.
    OtherWay {
        /// Its number in the earlier text, from 1.
        number: usize,
    },
}

/// What is new in a logbook whose sheet grew.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct News {
    /// How many questions are new.
    pub questions: usize,
    /// How many texts are new.
    pub texts: usize,
    /// How many texts were changed.
    pub changed: usize,
    /// Whether anything of the questions is new or changed.
    pub reworded: bool,
}

/// Whether an answer to the one can be an answer to the other.
fn same_way(a: &Question, b: &Question) -> bool {
    discriminant(&a.kind) == discriminant(&b.kind)
}

#[cfg(test)]
mod tests {
    use super::*;

    const SHEET: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");

    #[test]
    fn what_stays_and_what_is_new_is_told() {
        let begun = LabSheet::parse(SHEET).unwrap();
        let later = |from: &str, to: &str| LabSheet::parse(&SHEET.replacen(from, to, 1)).unwrap();
        let nothing = News { questions: 0, texts: 0, changed: 0, reworded: false };
        assert_eq!((begun.stays(&begun), begun.news(&begun)), (Vec::new(), nothing));
        let gravity = later("\"hidden 9.81 m/s^2\"", "\"fixed 9.81 m/s^2\"");
        // What is hidden no longer may be recorded.
        assert_eq!((begun.stays(&gravity), begun.news(&gravity)), (vec![Stays::Settings, Stays::Bench], nothing));
        let constant = later("symbol = \"g\"", "symbol = \"g_T\"");
        assert_eq!(begun.stays(&constant), [Stays::Goal]);
        let other_rig = LabSheet::parse(&LabSheet::blank("spring").unwrap()).unwrap();
        let stays = begun.stays(&other_rig);
        assert!(stays.contains(&Stays::Apparatus) && !stays.contains(&Stays::Settings), "{stays:?}");
        let left_out: Vec<Stays> = (1..=begun.questions.len()).map(|number| Stays::LeftOut { number }).collect();
        assert!(!left_out.is_empty() && stays.ends_with(&left_out), "{stays:?}");
        // Back again, every question is new, and one more text.
        let more = LabSheet::parse(&format!("{SHEET}\n## Beside it\nCount from zero.\n")).unwrap();
        let news = begun.news(&more);
        assert_eq!((news.questions, news.texts, news.reworded), (0, 1, false));
        assert_eq!(other_rig.grown(&begun).questions.len(), begun.questions.len());
    }
}
