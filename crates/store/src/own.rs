//! Logbooks that are nobody's homework: a teacher tries a sheet as a student meets it, or opens the free bench.
//!
//! They stand in a class of the teacher's own that has no students and is in no list, so that all that is true of logbooks is true of them.

use rusqlite::{Connection, OptionalExtension, Transaction, params};
use zeitmass_core::lab::LabSheet;

use crate::database::now;
use crate::logbooks::{add_member, begin_logbook, member_logbook};
use crate::registry::erase_logbook;
use crate::sheets::newest;
use crate::{Id, Store, StoreError, secrets};

/// What keys of the sheets of the free bench begin with.
pub(crate) const BENCH: &str = "bench/";

impl Store {
    /// Loads the sheet of the free bench for a rig or the films; its key is its name.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when the sheet does not read.
    pub fn load_bench(&self, name: &str, source: &str) -> Result<(), StoreError> {
        self.load_shipped(&format!("{BENCH}{name}"), source)
    }

    /// A teacher's logbook for trying a text of a sheet as a student meets it. The one that is there goes on if it has the same text and
    /// `anew` is not asked for; else a new one is begun and the earlier one erased. Gives the logbook, and the erased ones.
    ///
    /// # Errors
    /// [`StoreError::NotTried`] when the text does not read, [`StoreError::NotFound`] when the teacher cannot use the sheet.
    pub fn try_sheet(&self, teacher: Id, sheet: Id, source: &str, anew: bool) -> Result<(Id, Vec<Id>), StoreError> {
        LabSheet::parse(source).map_err(StoreError::NotTried)?;
        self.sheet(teacher, sheet)?;
        let outcome = self.write(|t| {
            let lab = own_lab(t, teacher, sheet)?;
            let sql = "SELECT l.id, l.version, v.source FROM logbooks l JOIN sheet_versions v ON v.id = l.version
                WHERE l.assignment = ? ORDER BY l.id DESC";
            let mut query = t.prepare(sql)?;
            let rows = query.query_map([lab], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)))?;
            let there: Vec<(Id, Id, String)> = rows.collect::<Result<_, _>>()?;
            if let Some((logbook, _, _)) = there.first().filter(|(_, _, text)| text == source && !anew) {
                return Ok((*logbook, Vec::new()));
            }
            let (version, in_force) = newest(t, sheet)?;
            let version = if in_force == source {
                version
            } else {
                let sql = "INSERT INTO sheet_versions (sheet, source, created, trial) VALUES (?, ?, ?, 1)";
                t.execute(sql, params![sheet, source, now()])?;
                t.last_insert_rowid()
            };
            let logbook = begin_logbook(t, lab, version, source, secrets::seed())?;
            for (earlier, version, _) in &there {
                erase_logbook(t, *earlier)?;
                t.execute("DELETE FROM sheet_versions WHERE id = ? AND trial = 1", [version])?;
            }
            Ok((logbook, there.into_iter().map(|(id, _, _)| id).collect()))
        })?;
        self.erase_films(&outcome.1)?;
        Ok(outcome)
    }

    /// The free bench of a teacher for a rig or the films: the logbook that is there, or a new one. Gives it, and an erased one.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such rig.
    pub fn free_bench(&self, teacher: Id, name: &str, anew: bool) -> Result<(Id, Vec<Id>), StoreError> {
        let sheet = self.read(|c| bench_sheet(c, name))?;
        let (_, source) = self.read(|c| newest(c, sheet))?;
        self.try_sheet(teacher, sheet, &source, anew)
    }

    /// The free bench of a student for a rig or the films, where the class may go there.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such rig, or the class may not.
    pub fn free_bench_of_student(&self, student: Id, name: &str) -> Result<Id, StoreError> {
        let lab = self.write(|t| {
            let sql =
                "SELECT c.id FROM students s JOIN classes c ON c.id = s.class WHERE s.id = ? AND c.free_bench = 1";
            let class: Option<Id> = t.query_row(sql, [student], |r| r.get(0)).optional()?;
            let class = class.ok_or(StoreError::NotFound("free bench"))?;
            let sheet = bench_sheet(t, name)?;
            let lab = lab_in(t, class, sheet)?;
            if member_logbook(t, student, lab)?.is_none() {
                let (version, source) = newest(t, sheet)?;
                let logbook = begin_logbook(t, lab, version, &source, secrets::seed())?;
                add_member(t, lab, student, logbook)?;
            }
            Ok(lab)
        })?;
        self.logbook_of(student, lab)?.ok_or(StoreError::NotFound("logbook"))
    }

    /// Lets the students of a class go to the free bench, or not any more.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the class is not the teacher's.
    pub fn allow_free_bench(&self, teacher: Id, class: Id, allowed: bool) -> Result<(), StoreError> {
        self.class(teacher, class)?;
        self.write(|t| {
            t.execute("UPDATE classes SET free_bench = ? WHERE id = ?", params![allowed, class])?;
            Ok(())
        })
    }

    /// Whether the students of a class may go to the free bench.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn may_go_to_free_bench(&self, class: Id) -> Result<bool, StoreError> {
        let sql = "SELECT free_bench FROM classes WHERE id = ?";
        self.read(|c| Ok(c.query_row(sql, [class], |r| r.get(0)).optional()?.unwrap_or(false)))
    }
}

fn bench_sheet(c: &Connection, name: &str) -> Result<Id, StoreError> {
    let sql = "SELECT id FROM sheets WHERE key = ?";
    c.query_row(sql, [format!("{BENCH}{name}")], |r| r.get(0)).optional()?.ok_or(StoreError::NotFound("free bench"))
}

/// The lab of a sheet in the teacher's own class.
fn own_lab(t: &Transaction<'_>, teacher: Id, sheet: Id) -> Result<Id, StoreError> {
    let sql = "SELECT id FROM classes WHERE teacher = ? AND own = 1";
    let class = match t.query_row(sql, [teacher], |r| r.get(0)).optional()? {
        Some(class) => class,
        None => {
            // Its code is longer than any that can be typed at the door.
            let sql = "INSERT INTO classes (teacher, name, code, created, own) VALUES (?, 'Own bench', ?, ?, 1)";
            t.execute(sql, params![teacher, secrets::token(), now()])?;
            t.last_insert_rowid()
        }
    };
    lab_in(t, class, sheet)
}

fn lab_in(t: &Transaction<'_>, class: Id, sheet: Id) -> Result<Id, StoreError> {
    let sql = "INSERT OR IGNORE INTO assignments (class, sheet, created) VALUES (?, ?, ?)";
    t.execute(sql, params![class, sheet, now()])?;
    let sql = "SELECT id FROM assignments WHERE class = ? AND sheet = ?";
    Ok(t.query_row(sql, [class, sheet], |r| r.get(0))?)
}
