//! Plans edits of texts.

use super::TextField;
use super::{WritingChange, WritingEdit};
use crate::logbook::Logbook;
use crate::logbook::change::Change;
use crate::logbook::planning::{LONGEST_TEXT, Plan};
use crate::logbook::refusal::{Limit, LongText, Refusal};

impl Logbook {
    pub(in crate::logbook) fn plan_writing(&self, edit: &WritingEdit) -> Plan {
        let WritingEdit::Write { field, text, was } = edit;
        let text = text.replace("\r\n", "\n");
        if text.chars().count() > LONGEST_TEXT {
            return Err(Refusal::Limit(Limit::Long { of: long(*field), most: LONGEST_TEXT }));
        }
        let current = self.state.writing.texts.get(field).map_or("", String::as_str);
        if current != was.replace("\r\n", "\n") && current != text {
            return Err(Refusal::TextChanged { field: field.name() });
        }
        if current == text {
            return Ok(Vec::new().into());
        }
        Ok(vec![Change::Writing(WritingChange { field: *field, text })].into())
    }
}

/// The text that is too long.
fn long(field: TextField) -> LongText {
    match field {
        TextField::Claim => LongText::Claim,
        TextField::Evidence => LongText::Evidence,
        TextField::Reasoning => LongText::Reasoning,
        TextField::Intercept => LongText::Intercept,
        TextField::Difference => LongText::Difference,
    }
}
