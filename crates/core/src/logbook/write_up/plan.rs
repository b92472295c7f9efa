//! Plans edits of the write-up.

use super::{Block, Shows, Taken, WriteUpChange, WriteUpEdit};
use crate::logbook::Logbook;
use crate::logbook::WriteUpRefusal;
use crate::logbook::change::Change;
use crate::logbook::planning::{Fresh, LONGEST_TEXT, Plan};
use crate::logbook::refusal::{Counted, Limit, LongText, Refusal, Thing};

/// Longest sentence that introduces a block, in characters.
const LONGEST_INTRO: usize = 2000;
/// Pictures of the stage at most: each is drawn anew for every reader.
pub(in crate::logbook) const MOST_PICTURES: usize = 12;
/// Texts of one's own at most.
const MOST_OWN: usize = 40;

impl Logbook {
    pub(in crate::logbook) fn plan_write_up(&self, edit: &WriteUpEdit, fresh: &mut Fresh) -> Plan {
        let now = self.blocks();
        let mut blocks = now.clone();
        let place = |blocks: &[Block], shows: &Shows| {
            blocks.iter().position(|b| b.shows == *shows).ok_or(Refusal::Gone(Thing::Block))
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
                    return Err(Refusal::Limit(Limit::Long { of: LongText::Block, most }));
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
                    return Err(Refusal::Limit(Limit::Many { of: Counted::OwnTexts, most: MOST_OWN }));
                }
                let at = before.as_ref().map_or(Ok(blocks.len()), |shows| place(&blocks, shows))?;
                blocks.insert(at, Block::of(Shows::Own(fresh.next())));
            }
            WriteUpEdit::TakePicture { of } => self.plan_picture(of, &mut blocks, fresh)?,
            WriteUpEdit::RemovePicture { picture } => {
                let at = place(&blocks, &Shows::Picture(*picture))?;
                blocks.remove(at);
            }
            WriteUpEdit::RemoveText { block } => {
                if !matches!(block, Shows::Own(_)) {
                    return Err(Refusal::from(WriteUpRefusal::NotYourOwn));
                }
                let at = place(&blocks, block)?;
                blocks.remove(at);
            }
        }
        Ok(if blocks == now { Vec::new() } else { vec![Change::WriteUp(WriteUpChange { blocks })] }.into())
    }

    /// Puts a picture of the stage among the blocks.
    fn plan_picture(&self, of: &Taken, blocks: &mut Vec<Block>, fresh: &mut Fresh) -> Result<(), Refusal> {
        self.can_be_taken(of)?;
        let there = |b: &Block| matches!(b.shows, Shows::Picture(_));
        if blocks.iter().filter(|b| there(b)).count() >= MOST_PICTURES {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Pictures, most: MOST_PICTURES }));
        }
        if blocks.iter().any(|b| b.taken.as_ref() == Some(of)) {
            return Err(Refusal::from(WriteUpRefusal::PictureThere));
        }
        // What the stage looked like comes before what was read off it.
        let held = || blocks.iter().position(|b| b.shows == Shows::Held);
        let last = blocks.iter().rposition(there).or_else(held);
        let at = last.map_or(blocks.len(), |i| i + 1);
        let picture = Block { taken: Some(of.clone()), ..Block::of(Shows::Picture(fresh.next())) };
        blocks.insert(at, picture);
        Ok(())
    }

    /// Whether there is such a thing to take a picture of.
    fn can_be_taken(&self, of: &Taken) -> Result<(), Refusal> {
        match of {
            Taken::Run { run, frame } => {
                let entry = self.state().run(*run).ok_or(Refusal::Gone(Thing::Run))?;
                let there = *frame < entry.made.frames;
                there.then_some(()).ok_or_else(|| Refusal::from(WriteUpRefusal::NoFrame))
            }
            Taken::Film { film, from, to, step, .. } => {
                let work =
                    self.state().film.films.iter().find(|f| f.facts.key == *film).ok_or(Refusal::Gone(Thing::Film))?;
                let there = from <= to && (*to as usize) < work.facts.times.len() && *step > 0;
                there.then_some(()).ok_or_else(|| Refusal::from(WriteUpRefusal::NoFrames))
            }
        }
    }
}
