//! Plans handing in and back.

use crate::logbook::Heard;
use crate::logbook::OfficeRefusal;
use crate::logbook::refusal::{Absent, Counted, Limit, Refusal, Thing};
use std::collections::BTreeSet;

use super::{OfficeChange, OfficeEdit, OfficeState, Stamped, TeacherWord};
use crate::inquiry::Step;
use crate::logbook::Logbook;
use crate::logbook::change::Change;
use crate::logbook::deed::Turn;
use crate::logbook::planning::{Fresh, Planned};

/// Longest note of a teacher, in characters.
const LONGEST_NOTE: usize = 2000;
/// Longest word of a teacher on the way, in characters.
const LONGEST_WORD: usize = 500;
/// Words of a teacher in a logbook, at most.
const MOST_WORDS: usize = 50;

impl Logbook {
    pub(in crate::logbook) fn plan_office(
        &self,
        edit: &OfficeEdit,
        fresh: &mut Fresh,
        at: i64,
    ) -> Result<Planned, Refusal> {
        let place = |office: OfficeState| {
            let changes = vec![Change::Office(OfficeChange::Place { office })];
            Planned { turn: Turn::Office, ..changes.into() }
        };
        let own = || self.state.office.clone();
        match edit {
            OfficeEdit::HandIn => {
                let mut office = OfficeState { handed_in: true, note: None, reopened: BTreeSet::new(), ..own() };
                // Nobody waits any longer.
                office.stamps.values_mut().for_each(|s| s.asked = None);
                Ok(place(office))
            }
            OfficeEdit::AskStamp { step, on } => {
                let mut stamped = self.stamp_of(*step)?;
                if stamped.given.is_some() {
                    return Err(Refusal::from(OfficeRefusal::Stamped));
                }
                // Who asks again has asked since the first time.
                stamped.asked = on.then(|| stamped.asked.unwrap_or(at));
                let mut office = own();
                office.stamps.insert(*step, stamped);
                Ok(place(office))
            }
            OfficeEdit::Stamp { step, given } => {
                self.stamp_of(*step)?;
                let mut office = own();
                office.stamps.insert(*step, Stamped { asked: None, given: given.then_some(at) });
                Ok(place(office))
            }
            OfficeEdit::SayWord { part, text } => {
                let text = text.trim();
                if text.is_empty() || text.chars().count() > LONGEST_WORD {
                    return Err(Refusal::Limit(Limit::Word(LONGEST_WORD)));
                }
                let mut office = own();
                if office.words.len() >= MOST_WORDS {
                    return Err(Refusal::Limit(Limit::Many { of: Counted::Words, most: MOST_WORDS }));
                }
                office.words.push(TeacherWord { at, part: *part, text: text.to_owned(), done: false });
                Ok(place(office))
            }
            OfficeEdit::TickOff { word, done } => {
                let mut office = own();
                let there = office.words.get_mut(*word).ok_or(Refusal::Gone(Thing::Word))?;
                there.done = *done;
                Ok(place(office))
            }
            OfficeEdit::SendBack { note, steps } => {
                // Where it is back already with some steps closed, others can be opened.
                if !self.state.office.handed_in && self.state.office.reopened.is_empty() {
                    return Err(Refusal::NotHandedIn);
                }
                if note.chars().count() > LONGEST_NOTE {
                    return Err(Refusal::Limit(Limit::Note(LONGEST_NOTE)));
                }
                let note = Some(note.trim().to_owned()).filter(|n| !n.is_empty());
                // All of the lab's steps are none left out.
                let there = self.sheet.steps().filter(|step| steps.contains(step)).collect::<BTreeSet<_>>();
                let reopened = if there.len() == self.sheet.steps().count() { BTreeSet::new() } else { there };
                Ok(place(OfficeState { handed_in: false, note, reopened, ..own() }))
            }
            // It would change what is closed.
            OfficeEdit::Restore { .. } | OfficeEdit::GoBack { .. } if !self.state.office.reopened.is_empty() => {
                Err(self.closed_refusal())
            }
            OfficeEdit::GoBack { to, .. } if *to >= self.seq => Err(Refusal::from(OfficeRefusal::AsItIs)),
            OfficeEdit::GoBack { to, content } => {
                let changes = vec![Change::Office(OfficeChange::All { state: content.clone() })];
                Ok(Planned { heard: vec![Heard::BackTo { edit: *to }], ..changes.into() })
            }
            OfficeEdit::Restore { content } => self.plan_restore(content, fresh, at),
        }
    }

    /// Whether nothing in a step can be changed: the teacher has the logbook, or sent it back with other steps open again. A graph and its line
    /// are one thing, open with either of their steps.
    pub fn is_closed(&self, step: Step) -> bool {
        let OfficeState { handed_in, reopened, .. } = &self.state.office;
        let drawn = |s: &Step| matches!(s, Step::Graph | Step::Linearize);
        let open = |s: &Step| *s == step || drawn(s) && drawn(&step);
        *handed_in || !reopened.is_empty() && !reopened.iter().any(open)
    }

    /// Why nothing in a closed step can be changed.
    ///
    /// # Errors
    /// [`Refusal::HandedIn`] or [`Refusal::Closed`].
    pub fn check_open(&self, step: Step) -> Result<(), Refusal> {
        match (self.is_closed(step), self.state.office.handed_in) {
            (false, _) => Ok(()),
            (true, true) => Err(Refusal::HandedIn),
            (true, false) => Err(self.closed_refusal()),
        }
    }

    fn closed_refusal(&self) -> Refusal {
        Refusal::Closed { open: self.state.office.reopened.clone() }
    }

    /// The stamp of a step, as it stands.
    fn stamp_of(&self, step: Step) -> Result<Stamped, Refusal> {
        if !self.sheet.stamps.contains(&step) {
            return Err(Refusal::Absent(Absent::Stamp));
        }
        Ok(self.state.office.stamps.get(&step).copied().unwrap_or_default())
    }

    /// The step whose stamp a later step waits for.
    pub fn stamp_before(&self, step: Step) -> Option<Step> {
        let open = |s: &Step| self.state.office.stamps.get(s).is_none_or(|t| t.given.is_none());
        self.sheet.stamps.iter().copied().find(|s| *s < step && open(s))
    }

    /// The stamp that is asked for, and since when: the one waited for longest.
    pub fn stamp_asked(&self) -> Option<(Step, i64)> {
        let asked = self.state.office.stamps.iter().filter_map(|(step, s)| Some((*step, s.asked?)));
        asked.min_by_key(|(_, at)| *at)
    }
}
