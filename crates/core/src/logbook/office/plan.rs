//! Plans handing in and back.

use super::{OfficeChange, OfficeEdit, OfficeState};
use crate::logbook::Logbook;
use crate::logbook::change::Change;
use crate::logbook::deed::Turn;
use crate::logbook::planning::{Fresh, Planned};
use crate::logbook::refusal::Refusal;

/// Longest note of a teacher, in characters.
const LONGEST_NOTE: usize = 2000;

impl Logbook {
    pub(in crate::logbook) fn plan_office(
        &self,
        edit: &OfficeEdit,
        fresh: &mut Fresh,
        at: i64,
    ) -> Result<Planned, Refusal> {
        let place = |handed_in, note| {
            let changes = vec![Change::Office(OfficeChange::Place { office: OfficeState { handed_in, note } })];
            Planned { turn: Turn::Office, ..changes.into() }
        };
        match edit {
            OfficeEdit::HandIn => Ok(place(true, None)),
            OfficeEdit::SendBack { note } => {
                if !self.state.office.handed_in {
                    return Err(Refusal::NotHandedIn);
                }
                if note.chars().count() > LONGEST_NOTE {
                    return Err(Refusal::Limit(format!(
                        "A note can have {LONGEST_NOTE} characters. The logbook is still handed in."
                    )));
                }
                Ok(place(false, Some(note.trim().to_owned()).filter(|n| !n.is_empty())))
            }
            OfficeEdit::Restore { content } => self.plan_restore(content, fresh, at),
        }
    }
}
