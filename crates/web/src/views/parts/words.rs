//! What the teacher says on the way: words beside the parts they are about, and stamps.

use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::Part;
use zeitmass_words::Words;

use super::{Scene, moment};

/// A word of the teacher.
pub(super) struct WordView {
    pub place: usize,
    pub at: String,
    pub text: String,
    pub done: bool,
}

/// The words beside a part, and what can be done about them.
pub(super) struct Beside {
    pub part: &'static str,
    pub words: Vec<WordView>,
    /// Whether the visitor ticks words off.
    pub ticks: bool,
    /// Whether the visitor says them.
    pub says: bool,
    /// The steps that are open again, where this part is not.
    pub closed: String,
}

/// The stamp of a step, as it stands.
pub(super) struct StampView {
    pub step: Step,
    /// As edits name it.
    pub name: String,
    pub asked: String,
    pub given: String,
}

impl StampView {
    /// How the spine shows it.
    pub fn state(&self) -> &'static str {
        match (self.given.is_empty(), self.asked.is_empty()) {
            (false, _) => "given",
            (true, false) => "asked",
            (true, true) => "open",
        }
    }
}

/// The step whose part says that it is closed: the tables stand beside the stage and leave that to it.
fn step_of(part: Part) -> Option<Step> {
    match part {
        Part::Header | Part::Questions | Part::Record => None,
        Part::Forecast => Some(Step::Forecast),
        Part::Stage => Some(Step::Measure),
        Part::Graph | Part::Strip => Some(Step::Graph),
        Part::Model => Some(Step::Model),
        Part::Constant => Some(Step::Constant),
        Part::Texts => Some(Step::WriteUp),
    }
}

/// The name of a part in addresses and forms.
pub(crate) fn part_name(part: Part) -> &'static str {
    match part {
        Part::Header => "header",
        Part::Forecast => "forecast",
        Part::Stage => "stage",
        Part::Record => "record",
        Part::Graph => "graph",
        Part::Strip => "strip",
        Part::Model => "model",
        Part::Constant => "constant",
        Part::Texts => "texts",
        Part::Questions => "questions",
    }
}

impl Scene<'_> {
    /// The words beside a part.
    pub(super) fn beside(&self, part: Part) -> Beside {
        let all = self.book().state().office.words.iter().enumerate();
        let own = all.filter(|(_, w)| w.part == part).map(|(place, w)| WordView {
            place,
            at: moment(w.at),
            text: w.text.clone(),
            done: w.done,
        });
        let closed = step_of(part).is_some_and(|step| self.book().is_closed(step)) && self.viewer.may_write();
        Beside {
            // Handed in as a whole, it says so in one place.
            closed: if closed { self.book().state().office.reopened.words() } else { String::new() },
            part: part_name(part),
            words: own.collect(),
            ticks: self.viewer.may_write() && self.book().unread().is_none(),
            says: self.viewer.may_say() && self.book().unread().is_none(),
        }
    }

    /// Words that are not ticked off.
    pub(super) fn open_words(&self) -> usize {
        self.book().state().office.words.iter().filter(|w| !w.done).count()
    }

    /// The stamp of a step, if the sheet wants one there.
    pub(super) fn stamp(&self, step: Step) -> Option<StampView> {
        if !self.book().sheet().stamps.contains(&step) {
            return None;
        }
        let stands = self.book().state().office.stamps.get(&step).copied().unwrap_or_default();
        let at = |time: Option<i64>| time.map(moment).unwrap_or_default();
        Some(StampView { step, name: step.name().replace('-', "_"), asked: at(stands.asked), given: at(stands.given) })
    }
}
