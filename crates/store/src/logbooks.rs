//! Logbooks and their members.

use std::sync::Arc;
use zeitmass_core::logbook::Logbook;
use zeitmass_words::Words;

use rusqlite::{Connection, OptionalExtension, params};
use zeitmass_core::lab::LabSheet;

use crate::database::now;
use crate::edits::to_json;
use crate::sheets::newest;
use crate::{Id, Store, StoreError, secrets};

/// Partners in one logbook, at most.
const MOST_PARTNERS: i64 = 4;
/// Letters in a partner code: 31⁸ of them cannot be tried out in the minutes it is good for.
const CODE_LENGTH: usize = 8;
/// Seconds for which a partner code is good.
const CODE_LIFE: i64 = 600;

/// A code by which one partner can join, for a while.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PartnerCode {
    /// The code.
    pub code: String,
    /// Until when, in seconds since 1970 (UTC).
    pub until: i64,
}

/// Who works in a logbook, and who may look at it.
#[derive(Clone, Debug)]
pub struct LogbookInfo {
    /// Identity.
    pub id: Id,
    /// The assignment.
    pub assignment: Id,
    /// The class.
    pub class: Id,
    /// The class's teacher.
    pub teacher: Id,
    /// Whether it stands in the teacher's own class: for trying a sheet, or at the free bench.
    pub own: bool,
    /// The sheet.
    pub sheet: Id,
    /// Whether it is the free bench.
    pub free: bool,
    /// The members: id and name.
    pub members: Vec<(Id, String)>,
}

impl Store {
    /// The logbook of a student for a lab, if it is begun.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn logbook_of(&self, student: Id, assignment: Id) -> Result<Option<Id>, StoreError> {
        self.read(|c| member_logbook(c, student, assignment))
    }

    /// The student's logbook for a lab of the own class; begun now if there is none.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the lab is not assigned to the student's class.
    pub fn open_logbook(&self, student: Id, assignment: Id) -> Result<Id, StoreError> {
        self.write(|t| {
            // One that is begun stays open to its members, also when the lab was taken back.
            if let Some(logbook) = member_logbook(t, student, assignment)? {
                return Ok(logbook);
            }
            let sheet = assigned_sheet(t, student, assignment)?;
            let (version, source) = newest(t, sheet)?;
            let logbook = begin_logbook(t, assignment, version, &source, self.seed(t, assignment)?)?;
            add_member(t, assignment, student, logbook)?;
            Ok(logbook)
        })
    }

    /// A code by which one partner can join a logbook in the next minutes: the one that is good still, or a new one.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn let_partner_in(&self, logbook: Id, now: i64) -> Result<PartnerCode, StoreError> {
        self.write(|t| {
            // Others' that are over would only be in the way.
            t.execute("DELETE FROM partner_codes WHERE until <= ?", [now])?;
            let sql = "SELECT code, until FROM partner_codes WHERE logbook = ?";
            let there = t.query_row(sql, [logbook], |r| Ok(PartnerCode { code: r.get(0)?, until: r.get(1)? }));
            if let Some(code) = there.optional()? {
                return Ok(code);
            }
            let made = PartnerCode { code: secrets::code(CODE_LENGTH), until: now + CODE_LIFE };
            let sql = "INSERT INTO partner_codes (logbook, code, until) VALUES (?, ?, ?)";
            t.execute(sql, params![logbook, made.code, made.until])?;
            Ok(made)
        })
    }

    /// Joins a partner's logbook by its code, which is used up by that. One's own logbook must not be begun.
    ///
    /// # Errors
    /// [`StoreError::WrongSecret`] for an unknown code; [`StoreError::Invalid`] for a full group, or when an own logbook has edits.
    pub fn join_logbook(&self, student: Id, code: &str, now: i64) -> Result<Id, StoreError> {
        let code = code.trim().to_uppercase().replace([' ', '-'], "");
        self.write(|t| {
            let sql = "SELECT l.id, l.assignment FROM partner_codes p JOIN logbooks l ON l.id = p.logbook
                LEFT JOIN standings s ON s.logbook = l.id
                WHERE p.code = ? AND p.until > ? AND s.handed_in IS NULL";
            let found = t.query_row(sql, params![code, now], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
            // A code of another class is as unknown as any.
            let found = found.filter(|(_, assignment)| assigned_sheet(t, student, *assignment).is_ok());
            let (logbook, assignment): (Id, Id) = found.ok_or(StoreError::WrongSecret(
                "No partner is letting anybody in with this code. A code is good for ten minutes; ask your partner for a new one.",
            ))?;
            if let Some(own) = member_logbook(t, student, assignment)? {
                if own == logbook {
                    return Ok(logbook);
                }
                // A film that only came onto the stage is no work.
                let sql = "SELECT EXISTS (SELECT 1 FROM edits WHERE logbook = ? AND wish NOT LIKE '{\"film\":{\"choose_film\":%')";
                let begun: bool = t.query_row(sql, [own], |r| r.get(0))?;
                if begun {
                    let message =
                        "You have started a logbook of your own for this lab. It is kept; let your partner join yours.";
                    return Err(StoreError::Invalid(message.to_owned()));
                }
                t.execute("DELETE FROM members WHERE assignment = ? AND student = ?", [assignment, student])?;
            }
            let members: i64 =
                t.query_row("SELECT count(*) FROM members WHERE logbook = ?", [logbook], |r| r.get(0))?;
            if members >= MOST_PARTNERS {
                return Err(StoreError::Invalid(format!("This group has {MOST_PARTNERS} partners already.")));
            }
            t.execute("DELETE FROM partner_codes WHERE logbook = ?", [logbook])?;
            add_member(t, assignment, student, logbook)?;
            Ok(logbook)
        })
    }

    /// All logbooks there are.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn logbook_ids(&self) -> Result<Vec<Id>, StoreError> {
        self.read(|c| {
            let mut query = c.prepare("SELECT id FROM logbooks ORDER BY id")?;
            let ids = query.query_map([], |r| r.get(0))?;
            Ok(ids.collect::<Result<_, _>>()?)
        })
    }

    /// Who works in a logbook.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn logbook_info(&self, logbook: Id) -> Result<LogbookInfo, StoreError> {
        let sql = "SELECT l.assignment, a.class, c.teacher, c.own, a.sheet, coalesce(b.key, '') LIKE 'bench/%' FROM logbooks l
            JOIN assignments a ON a.id = l.assignment JOIN classes c ON c.id = a.class JOIN sheets b ON b.id = a.sheet WHERE l.id = ?";
        self.read(|c| {
            let found = c.query_row(sql, [logbook], |r| {
                Ok(LogbookInfo {
                    id: logbook,
                    assignment: r.get(0)?,
                    class: r.get(1)?,
                    teacher: r.get(2)?,
                    own: r.get(3)?,
                    sheet: r.get(4)?,
                    free: r.get(5)?,
                    members: Vec::new(),
                })
            });
            let mut info = found.optional()?.ok_or(StoreError::NotFound("logbook"))?;
            let sql = "SELECT s.id, s.name FROM members m JOIN students s ON s.id = m.student WHERE m.logbook = ? ORDER BY m.rowid";
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([logbook], |r| Ok((r.get(0)?, r.get(1)?)))?;
            info.members = rows.collect::<Result<_, _>>()?;
            Ok(info)
        })
    }
}

/// Begins a logbook with a text of its sheet.
pub(crate) fn begin_logbook(
    t: &Connection,
    assignment: Id,
    version: Id,
    source: &str,
    seed: i64,
) -> Result<Id, StoreError> {
    let sheet = LabSheet::parse(source).map_err(|e| StoreError::Content(e.words()))?;
    let start = to_json(&Logbook::start(Arc::new(sheet), seed.unsigned_abs()))?;
    // The column once held a code that was good for ever; it has to hold something that no two logbooks have.
    let sql =
        "INSERT INTO logbooks (assignment, version, seed, start, partner_code, created) VALUES (?, ?, ?, ?, ?, ?)";
    t.execute(sql, params![assignment, version, seed, start, secrets::token(), now()])?;
    Ok(t.last_insert_rowid())
}

pub(crate) fn member_logbook(c: &Connection, student: Id, assignment: Id) -> Result<Option<Id>, StoreError> {
    let sql = "SELECT logbook FROM members WHERE assignment = ? AND student = ?";
    Ok(c.query_row(sql, [assignment, student], |r| r.get(0)).optional()?)
}

pub(crate) fn add_member(c: &Connection, assignment: Id, student: Id, logbook: Id) -> Result<(), StoreError> {
    c.execute("INSERT INTO members (assignment, student, logbook) VALUES (?, ?, ?)", [assignment, student, logbook])?;
    Ok(())
}

/// The sheet of a lab assigned to the student's own class. The free bench is one only while the class may go there.
fn assigned_sheet(c: &Connection, student: Id, assignment: Id) -> Result<Id, StoreError> {
    let sql = "SELECT a.sheet FROM assignments a JOIN students s ON s.class = a.class JOIN classes k ON k.id = a.class
        JOIN sheets b ON b.id = a.sheet WHERE a.id = ? AND s.id = ? AND a.taken_back IS NULL
        AND (k.free_bench = 1 OR coalesce(b.key, '') NOT LIKE 'bench/%')";
    c.query_row(sql, [assignment, student], |r| r.get(0)).optional()?.ok_or(StoreError::NotFound("lab"))
}
