//! Plans edits of the write-up.

use super::{Block, Shows, WriteUpChange, WriteUpEdit};
use crate::logbook::Logbook;
use crate::logbook::change::Change;
use crate::logbook::planning::{Fresh, LONGEST_TEXT, Plan, gone, nothing_changed};
use crate::logbook::refusal::Refusal;

/// Longest sentence that introduces a block, in characters.
const LONGEST_INTRO: usize = 2000;
/// Texts of one's own at most.
const MOST_OWN: usize = 40;

impl Logbook {
    pub(in crate::logbook) fn plan_write_up(&self, edit: &WriteUpEdit, fresh: &mut Fresh) -> Plan {
        let now = self.blocks();
        let mut blocks = now.clone();
        let place = |blocks: &[Block], shows: &Shows| {
            blocks.iter().position(|b| b.shows == *shows).ok_or_else(|| gone("block"))
        };
        match edit {
            WriteUpEdit::Move { block, before } => {
                let moved = blocks.remove(place(&blocks, block)?);
                let at = match before {
                    Some(shows) if shows == block => return Ok(Vec::new().into()),
                    Some(shows) => place(&blocks, shows)?,
                    None => blocks.len(),
                };
                blocks.insert(at, moved);
            }
            WriteUpEdit::Step { block, by } => {
                let from = place(&blocks, block)?;
                let to = (from as i64 + i64::from(*by)).clamp(0, blocks.len() as i64 - 1) as usize;
                let moved = blocks.remove(from);
                blocks.insert(to, moved);
            }
            WriteUpEdit::Introduce { block, text, was } => {
                let own = matches!(block, Shows::Own(_));
                let most = if own { LONGEST_TEXT } else { LONGEST_INTRO };
                let text = text.replace("\r\n", "\n");
                if text.chars().count() > most {
                    return Err(Refusal::Limit(format!(
                        "This text can have {most} characters. What was saved before is kept; shorten it to save it."
                    )));
                }
                let at = place(&blocks, block)?;
                let there = &mut blocks[at].intro;
                if *there != was.replace("\r\n", "\n") && *there != text {
                    return Err(Refusal::TextChanged { field: "text" });
                }
                *there = text;
            }
            WriteUpEdit::Show { block, on } => {
                let at = place(&blocks, block)?;
                blocks[at].hidden = !on;
            }
            WriteUpEdit::AddText { before } => {
                if blocks.iter().filter(|b| matches!(b.shows, Shows::Own(_))).count() >= MOST_OWN {
                    return Err(Refusal::Limit(format!(
                        "A write-up can have {MOST_OWN} texts of your own. Delete one first."
                    )));
                }
                let at = before.as_ref().map_or(Ok(blocks.len()), |shows| place(&blocks, shows))?;
                blocks.insert(at, Block { shows: Shows::Own(fresh.next()), intro: String::new(), hidden: false });
            }
            WriteUpEdit::RemoveText { block } => {
                if !matches!(block, Shows::Own(_)) {
                    return Err(nothing_changed(
                        "Only a text of your own can be deleted. Leave this block out instead.".to_owned(),
                    ));
                }
                let at = place(&blocks, block)?;
                blocks.remove(at);
            }
        }
        Ok(if blocks == now { Vec::new() } else { vec![Change::WriteUp(WriteUpChange { blocks })] }.into())
    }
}
