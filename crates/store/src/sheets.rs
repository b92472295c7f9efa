//! Lab sheets: shipped ones, teachers' copies, and their versions.

use rusqlite::{Connection, OptionalExtension, params};
use zeitmass_core::lab::LabSheet;
use zeitmass_words::Words;

use crate::database::now;
use crate::registry::erase_logbook;
use crate::{Id, Store, StoreError};

/// A lab sheet with its newest text.
#[derive(Clone, Debug)]
pub struct SheetRow {
    /// Identity.
    pub id: Id,
    /// Whether it came with the program; a teacher edits a copy.
    pub shipped: bool,
    /// Text of the newest version.
    pub source: String,
}

const NEWEST: &str = "SELECT s.id, s.key IS NOT NULL,
    (SELECT source FROM sheet_versions v WHERE v.sheet = s.id AND v.trial = 0 ORDER BY v.id DESC LIMIT 1)
    FROM sheets s WHERE (s.owner IS NULL OR s.owner = ?1)";

fn row(r: &rusqlite::Row<'_>) -> rusqlite::Result<SheetRow> {
    Ok(SheetRow { id: r.get(0)?, shipped: r.get(1)?, source: r.get(2)? })
}

/// Refuses a sheet that is not a teacher's own.
pub(crate) fn own(t: &Connection, teacher: Id, sheet: Id) -> Result<(), StoreError> {
    let sql = "SELECT EXISTS (SELECT 1 FROM sheets WHERE id = ? AND owner = ?)";
    let own: bool = t.query_row(sql, [sheet, teacher], |r| r.get(0))?;
    if own { Ok(()) } else { Err(StoreError::NotFound("lab sheet of your own")) }
}

/// The text of a sheet that is in force, with the number of its version.
pub(crate) fn newest(c: &Connection, sheet: Id) -> Result<(Id, String), StoreError> {
    let sql = "SELECT id, source FROM sheet_versions WHERE sheet = ? AND trial = 0 ORDER BY id DESC LIMIT 1";
    let found = c.query_row(sql, [sheet], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
    found.ok_or(StoreError::NotFound("lab sheet"))
}

impl Store {
    /// Loads a sheet that comes with the program; a changed text becomes a new version.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when the sheet does not read.
    pub fn load_shipped(&self, key: &str, source: &str) -> Result<(), StoreError> {
        LabSheet::parse(source).map_err(|e| StoreError::Invalid(format!("{key}: {}", e.words())))?;
        self.write(|t| {
            t.execute("INSERT OR IGNORE INTO sheets (owner, key) VALUES (NULL, ?)", [key])?;
            let id: Id = t.query_row("SELECT id FROM sheets WHERE key = ?", [key], |r| r.get(0))?;
            if newest(t, id).ok().is_none_or(|(_, text)| text != source) {
                t.execute(
                    "INSERT INTO sheet_versions (sheet, source, created) VALUES (?, ?, ?)",
                    params![id, source, now()],
                )?;
            }
            Ok(())
        })
    }

    /// The sheets a teacher can use: shipped ones and the teacher's own.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn sheets(&self, teacher: Id) -> Result<Vec<SheetRow>, StoreError> {
        self.read(|c| {
            let sql = format!("{NEWEST} AND coalesce(s.key, '') NOT LIKE 'bench/%'");
            let mut query = c.prepare_cached(&sql)?;
            let rows = query.query_map([teacher], row)?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// One sheet a teacher can use.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] also for another teacher's sheet.
    pub fn sheet(&self, teacher: Id, sheet: Id) -> Result<SheetRow, StoreError> {
        let sql = format!("{NEWEST} AND s.id = ?2");
        let found = self.read(|c| Ok(c.query_row(&sql, [teacher, sheet], row).optional()?))?;
        found.ok_or(StoreError::NotFound("lab sheet"))
    }

    /// Copies a sheet for a teacher to edit.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the teacher cannot use the sheet.
    pub fn copy_sheet(&self, teacher: Id, sheet: Id) -> Result<Id, StoreError> {
        let source = self.sheet(teacher, sheet)?.source;
        self.new_sheet(teacher, &source)
    }

    /// Makes a sheet of the teacher's own.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when the teacher has very many.
    pub fn new_sheet(&self, teacher: Id, source: &str) -> Result<Id, StoreError> {
        self.write(|t| {
            let count: i64 = t.query_row("SELECT count(*) FROM sheets WHERE owner = ?", [teacher], |r| r.get(0))?;
            if count >= 500 {
                return Err(StoreError::Invalid(
                    "You have 500 lab sheets of your own; no more can be made.".to_owned(),
                ));
            }
            t.execute("INSERT INTO sheets (owner, key) VALUES (?, NULL)", [teacher])?;
            let id = t.last_insert_rowid();
            t.execute(
                "INSERT INTO sheet_versions (sheet, source, created) VALUES (?, ?, ?)",
                params![id, source, now()],
            )?;
            Ok(id)
        })
    }

    /// Saves a teacher's own sheet as a new version. Logbooks already begun keep theirs.
    ///
    /// # Errors
    /// [`StoreError::NotSaved`] when the sheet does not read, [`StoreError::NotFound`] when it is not the teacher's own.
    pub fn save_sheet(&self, teacher: Id, sheet: Id, source: &str) -> Result<(), StoreError> {
        LabSheet::parse(source).map_err(StoreError::NotSaved)?;
        self.write(|t| {
            own(t, teacher, sheet)?;
            t.execute(
                "INSERT INTO sheet_versions (sheet, source, created) VALUES (?, ?, ?)",
                params![sheet, source, now()],
            )?;
            Ok(())
        })
    }

    /// Where a teacher's sheets are assigned: the sheet and the name of the class.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn where_assigned(&self, teacher: Id) -> Result<Vec<(Id, String)>, StoreError> {
        let sql = "SELECT a.sheet, c.name FROM assignments a JOIN classes c ON c.id = a.class
            WHERE c.teacher = ? AND c.own = 0 AND a.taken_back IS NULL ORDER BY c.name";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([teacher], |r| Ok((r.get(0)?, r.get(1)?)))?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// Deletes a teacher's own sheet that was never assigned. Logbooks hold on to the text they were begun with.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when it was assigned, [`StoreError::NotFound`] when it is not the teacher's own.
    pub fn delete_sheet(&self, teacher: Id, sheet: Id) -> Result<(), StoreError> {
        self.write(|t| {
            own(t, teacher, sheet)?;
            let assigned: bool =
                t.query_row(
                    "SELECT EXISTS (SELECT 1 FROM assignments a JOIN classes c ON c.id = a.class WHERE a.sheet = ? AND c.own = 0)",
                    [sheet],
                    |r| r.get(0),
                )?;
            if assigned {
                let message = "This sheet was assigned to a class, and its logbooks hold on to it. It is kept; take the lab back instead.";
                return Err(StoreError::Invalid(message.to_owned()));
            }
            // What the teacher tried it with goes with it.
            let sql = "SELECT l.id FROM logbooks l JOIN assignments a ON a.id = l.assignment WHERE a.sheet = ?";
            let mut query = t.prepare(sql)?;
            let tried = query.query_map([sheet], |r| r.get(0))?.collect::<Result<Vec<Id>, _>>()?;
            tried.iter().try_for_each(|logbook| erase_logbook(t, *logbook))?;
            for table in ["assignments", "draft_steps", "drafts", "sheet_versions"] {
                t.execute(&format!("DELETE FROM {table} WHERE sheet = ?"), [sheet])?;
            }
            t.execute("DELETE FROM sheets WHERE id = ?", [sheet])?;
            Ok(())
        })
    }
}
