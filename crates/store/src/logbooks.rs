//! Logbooks and their members.

use std::sync::Arc;
use zeitmass_core::logbook::Logbook;

use rusqlite::{Connection, OptionalExtension, params};
use zeitmass_core::lab::LabSheet;

use crate::database::now;
use crate::edits::to_json;
use crate::{Id, Store, StoreError, secrets};

/// Partners in one logbook, at most.
const MOST_PARTNERS: i64 = 4;
/// Letters in a partner code.
const CODE_LENGTH: usize = 4;

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
    /// Code by which a partner joins.
    pub partner_code: String,
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
            let sheet = assigned_sheet(t, student, assignment)?;
            if let Some(logbook) = member_logbook(t, student, assignment)? {
                return Ok(logbook);
            }
            let sql = "SELECT id, source FROM sheet_versions WHERE sheet = ? ORDER BY id DESC LIMIT 1";
            let (version, source): (Id, String) = t.query_row(sql, [sheet], |r| Ok((r.get(0)?, r.get(1)?)))?;
            let seed = self.seed(t, assignment)?;
            let sheet = LabSheet::parse(&source).map_err(|e| StoreError::Content(e.to_string()))?;
            let start = to_json(&Logbook::start(Arc::new(sheet), seed.unsigned_abs()))?;
            for _ in 0..5 {
                let sql = "INSERT OR IGNORE INTO logbooks (assignment, version, seed, start, partner_code, created) VALUES (?, ?, ?, ?, ?, ?)";
                let values = params![assignment, version, seed, start, secrets::code(CODE_LENGTH), now()];
                if t.execute(sql, values)? == 1 {
                    let logbook = t.last_insert_rowid();
                    add_member(t, assignment, student, logbook)?;
                    return Ok(logbook);
                }
            }
            Err(StoreError::Taken("No free partner code was found. Try again.".to_owned()))
        })
    }

    /// Joins a partner's logbook by its code. One's own logbook must not be begun.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for an unknown code, a full group, or when an own logbook has edits.
    pub fn join_logbook(&self, student: Id, assignment: Id, code: &str) -> Result<Id, StoreError> {
        let code = code.trim().to_uppercase();
        self.write(|t| {
            assigned_sheet(t, student, assignment)?;
            let sql = "SELECT id FROM logbooks l LEFT JOIN standings s ON s.logbook = l.id
                WHERE l.assignment = ? AND l.partner_code = ? AND s.handed_in IS NULL";
            let found: Option<Id> = t.query_row(sql, params![assignment, code], |r| r.get(0)).optional()?;
            let logbook = found.ok_or_else(|| {
                StoreError::Invalid(
                    "No open logbook of this lab has that partner code. Your own is as it was.".to_owned(),
                )
            })?;
            if let Some(own) = member_logbook(t, student, assignment)? {
                if own == logbook {
                    return Ok(logbook);
                }
                let begun: bool =
                    t.query_row("SELECT EXISTS (SELECT 1 FROM edits WHERE logbook = ?)", [own], |r| r.get(0))?;
                if begun {
                    let message =
                        "You have begun a logbook of your own for this lab. It is kept; let your partner join yours.";
                    return Err(StoreError::Invalid(message.to_owned()));
                }
                t.execute("DELETE FROM members WHERE assignment = ? AND student = ?", [assignment, student])?;
            }
            let members: i64 =
                t.query_row("SELECT count(*) FROM members WHERE logbook = ?", [logbook], |r| r.get(0))?;
            if members >= MOST_PARTNERS {
                return Err(StoreError::Invalid(format!("This group has {MOST_PARTNERS} partners already.")));
            }
            add_member(t, assignment, student, logbook)?;
            Ok(logbook)
        })
    }

    /// Who works in a logbook.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn logbook_info(&self, logbook: Id) -> Result<LogbookInfo, StoreError> {
        let sql = "SELECT l.assignment, a.class, c.teacher, l.partner_code FROM logbooks l
            JOIN assignments a ON a.id = l.assignment JOIN classes c ON c.id = a.class WHERE l.id = ?";
        self.read(|c| {
            let found = c.query_row(sql, [logbook], |r| {
                Ok(LogbookInfo {
                    id: logbook,
                    assignment: r.get(0)?,
                    class: r.get(1)?,
                    teacher: r.get(2)?,
                    partner_code: r.get(3)?,
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

fn member_logbook(c: &Connection, student: Id, assignment: Id) -> Result<Option<Id>, StoreError> {
    let sql = "SELECT logbook FROM members WHERE assignment = ? AND student = ?";
    Ok(c.query_row(sql, [assignment, student], |r| r.get(0)).optional()?)
}

fn add_member(c: &Connection, assignment: Id, student: Id, logbook: Id) -> Result<(), StoreError> {
    c.execute("INSERT INTO members (assignment, student, logbook) VALUES (?, ?, ?)", [assignment, student, logbook])?;
    Ok(())
}

/// The sheet of a lab assigned to the student's own class.
fn assigned_sheet(c: &Connection, student: Id, assignment: Id) -> Result<Id, StoreError> {
    let sql = "SELECT a.sheet FROM assignments a JOIN students s ON s.class = a.class WHERE a.id = ? AND s.id = ?";
    c.query_row(sql, [assignment, student], |r| r.get(0)).optional()?.ok_or(StoreError::NotFound("lab"))
}
