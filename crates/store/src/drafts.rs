//! Sheets that are being put together: every change is kept, and can be taken back.

use rusqlite::{Connection, OptionalExtension, Transaction, params};

use crate::sheets::{newest, own};
use crate::{Id, Store, StoreError};

/// Changes that can be taken back.
const MOST_STEPS: i64 = 60;

/// A sheet as it is being put together.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DraftRow {
    /// Its text.
    pub source: String,
    /// Number of the change it is at; 0 while there is none.
    pub step: i64,
    /// Whether a change can be taken back.
    pub back: bool,
    /// Whether one that was taken back can be made again.
    pub forth: bool,
    /// Whether the text is the one that is in force.
    pub saved: bool,
}

/// A logbook that was begun with an earlier text of a sheet.
#[derive(Clone, Debug)]
pub struct Begun {
    /// The logbook.
    pub logbook: Id,
    /// The text it was begun with.
    pub source: String,
    /// Texts of what it was grown by, in order.
    pub grown: Vec<String>,
    /// Whether it is handed in.
    pub handed_in: bool,
}

impl Store {
    /// The logbooks of a teacher's classes that were begun with a sheet, those for trying it left out.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it is not the teacher's own.
    pub fn begun_with(&self, teacher: Id, sheet: Id) -> Result<Vec<Begun>, StoreError> {
        let sql = "SELECT l.id, v.source, s.handed_in IS NOT NULL FROM logbooks l
            JOIN assignments a ON a.id = l.assignment JOIN classes c ON c.id = a.class JOIN sheet_versions v ON v.id = l.version
            LEFT JOIN standings s ON s.logbook = l.id
            WHERE a.sheet = ? AND c.teacher = ? AND c.own = 0 ORDER BY l.id";
        self.read(|c| {
            own(c, teacher, sheet)?;
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([sheet, teacher], |r| {
                Ok(Begun { logbook: r.get(0)?, source: r.get(1)?, grown: Vec::new(), handed_in: r.get(2)? })
            })?;
            let mut all: Vec<Begun> = rows.collect::<Result<_, _>>()?;
            all.iter_mut().try_for_each(|book| {
                book.grown = growths(c, book.logbook)?;
                Ok::<_, StoreError>(())
            })?;
            Ok(all)
        })
    }

    /// Grows a logbook by the text of its sheet that is in force.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn grow(&self, logbook: Id) -> Result<String, StoreError> {
        self.write(|t| {
            let sql = "SELECT a.sheet FROM logbooks l JOIN assignments a ON a.id = l.assignment WHERE l.id = ?";
            let sheet: Option<Id> = t.query_row(sql, [logbook], |r| r.get(0)).optional()?;
            let (version, source) = newest(t, sheet.ok_or(StoreError::NotFound("logbook"))?)?;
            t.execute("INSERT OR IGNORE INTO growths (logbook, version) VALUES (?, ?)", [logbook, version])?;
            Ok(source)
        })
    }

    /// A teacher's own sheet as it is being put together; while nothing was changed, as it was saved.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it is not the teacher's own.
    pub fn draft(&self, teacher: Id, sheet: Id) -> Result<DraftRow, StoreError> {
        self.read(|c| {
            own(c, teacher, sheet)?;
            draft_row(c, sheet)
        })
    }

    /// The teacher's own sheets with changes that are not saved.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn drafted(&self, teacher: Id) -> Result<Vec<Id>, StoreError> {
        let sql = "SELECT s.id FROM sheets s JOIN drafts d ON d.sheet = s.id
            JOIN draft_steps p ON p.sheet = d.sheet AND p.step = d.step WHERE s.owner = ? AND p.source <>
            (SELECT v.source FROM sheet_versions v WHERE v.sheet = s.id AND v.trial = 0 ORDER BY v.id DESC LIMIT 1)";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([teacher], |r| r.get(0))?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// Changes it: what `change` makes of the text is the next step, and what was taken back before is given up.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it is not the teacher's own, or what `change` says; then nothing has changed.
    pub fn change_draft(
        &self,
        teacher: Id,
        sheet: Id,
        change: impl FnOnce(&DraftRow) -> Result<String, StoreError>,
    ) -> Result<DraftRow, StoreError> {
        self.write(|t| {
            own(t, teacher, sheet)?;
            let before = draft_row(t, sheet)?;
            let source = change(&before)?;
            if source == before.source {
                return Ok(before);
            }
            if before.step == 0 {
                put_step(t, sheet, 0, &before.source)?;
            }
            t.execute("DELETE FROM draft_steps WHERE sheet = ? AND step > ?", [sheet, before.step])?;
            put_step(t, sheet, before.step + 1, &source)?;
            t.execute("DELETE FROM draft_steps WHERE sheet = ? AND step < ?", [sheet, before.step + 1 - MOST_STEPS])?;
            stand_at(t, sheet, before.step + 1)?;
            draft_row(t, sheet)
        })
    }

    /// Takes a change back, or makes it again; at the end of what is kept nothing happens.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it is not the teacher's own.
    pub fn turn_draft(&self, teacher: Id, sheet: Id, back: bool) -> Result<DraftRow, StoreError> {
        self.write(|t| {
            own(t, teacher, sheet)?;
            let row = draft_row(t, sheet)?;
            if if back { row.back } else { row.forth } {
                stand_at(t, sheet, if back { row.step - 1 } else { row.step + 1 })?;
            }
            draft_row(t, sheet)
        })
    }
}

/// Texts by which a logbook was grown, in order.
pub(crate) fn growths(c: &Connection, logbook: Id) -> Result<Vec<String>, StoreError> {
    let sql = "SELECT v.source FROM growths g JOIN sheet_versions v ON v.id = g.version WHERE g.logbook = ? ORDER BY g.version";
    let mut query = c.prepare_cached(sql)?;
    let rows = query.query_map([logbook], |r| r.get(0))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

fn put_step(t: &Transaction<'_>, sheet: Id, step: i64, source: &str) -> Result<(), StoreError> {
    let sql = "INSERT OR REPLACE INTO draft_steps (sheet, step, source) VALUES (?, ?, ?)";
    t.execute(sql, params![sheet, step, source])?;
    Ok(())
}

fn stand_at(t: &Transaction<'_>, sheet: Id, step: i64) -> Result<(), StoreError> {
    t.execute("INSERT OR REPLACE INTO drafts (sheet, step) VALUES (?, ?)", [sheet, step])?;
    Ok(())
}

fn draft_row(c: &Connection, sheet: Id) -> Result<DraftRow, StoreError> {
    let (_, in_force) = newest(c, sheet)?;
    let sql =
        "SELECT d.step, s.source, EXISTS (SELECT 1 FROM draft_steps b WHERE b.sheet = d.sheet AND b.step = d.step - 1),
        EXISTS (SELECT 1 FROM draft_steps f WHERE f.sheet = d.sheet AND f.step = d.step + 1)
        FROM drafts d JOIN draft_steps s ON s.sheet = d.sheet AND s.step = d.step WHERE d.sheet = ?";
    let found = c.query_row(sql, [sheet], |r| {
        Ok(DraftRow { step: r.get(0)?, source: r.get(1)?, back: r.get(2)?, forth: r.get(3)?, saved: false })
    });
    Ok(match found.optional()? {
        Some(row) => DraftRow { saved: row.source == in_force, ..row },
        None => DraftRow { source: in_force, step: 0, back: false, forth: false, saved: true },
    })
}
