//! The lesson: the room as it works, labs of a class, and what the teacher decides in the end.

use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr};
use zeitmass_core::inquiry::Step;

use crate::edits::{STANDING, StoredStanding, standing_at};
use crate::{Id, Store, StoreError};

/// Characters of a date.
const LONGEST_DUE: usize = 10;

/// Whether students see the results of the whole class.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, EnumString, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum PoolOpen {
    /// Only the teacher does.
    Closed,
    /// Without the names of others.
    Nameless,
    /// With names.
    Named,
}

impl PoolOpen {
    fn name(self) -> &'static str {
        self.into()
    }
}

/// A lab of a class, as the teacher sees it.
#[derive(Clone, Debug)]
pub struct LabRow {
    /// The assignment.
    pub id: Id,
    /// The class.
    pub class: Id,
    /// The sheet.
    pub sheet: Id,
    /// Text of the sheet's newest version.
    pub source: String,
    /// By when it is due, as a date; none for no date.
    pub due: Option<String>,
    /// When it was taken back, in seconds since 1970 (UTC).
    pub taken_back: Option<i64>,
    /// When its marks were given out.
    pub marks_given: Option<i64>,
    /// Who sees the class pool.
    pub pool: PoolOpen,
}

/// Something a group did.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Beat {
    /// When, in seconds since 1970 (UTC).
    pub at: i64,
    /// The step it belongs to.
    pub step: Option<Step>,
    /// Whether it took something back.
    pub undo: bool,
    /// Whether the teacher did it.
    pub by_teacher: bool,
}

/// A group at work on a lab.
#[derive(Clone, Debug)]
pub struct Group {
    /// Its logbook.
    pub logbook: Id,
    /// Its members: id and name.
    pub members: Vec<(Id, String)>,
    /// How far it is; none while nothing was done.
    pub standing: Option<StoredStanding>,
    /// What it did since the moment asked for, in order.
    pub beats: Vec<Beat>,
}

impl Group {
    /// The names of its members, in the order in which they joined.
    pub fn names(&self) -> String {
        self.members.iter().map(|(_, name)| name.as_str()).collect::<Vec<_>>().join(", ")
    }
}

/// What the teacher decided about one criterion.
#[derive(Clone, Debug, PartialEq)]
pub struct Decided {
    /// The logbook.
    pub logbook: Id,
    /// Name of the criterion.
    pub criterion: String,
    /// Place of the level among the sheet's.
    pub level: u32,
    /// Its points when it was decided.
    pub points: f64,
}

impl Store {
    /// One lab of a teacher's class.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] also for another teacher's.
    pub fn lab(&self, teacher: Id, lab: Id) -> Result<LabRow, StoreError> {
        let sql = format!("{LABS} WHERE a.id = ?1 AND c.teacher = ?2");
        let found = self.read(|c| Ok(c.query_row(&sql, [lab, teacher], lab_at).optional()?))?;
        found.ok_or(StoreError::NotFound("lab"))
    }

    /// One lab of a class, with the name of the class.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] unless both are the teacher's and belong together.
    pub fn lab_of_class(&self, teacher: Id, class: Id, lab: Id) -> Result<(String, LabRow), StoreError> {
        let name = self.class(teacher, class)?.name;
        let row = self.lab(teacher, lab)?;
        if row.class == class { Ok((name, row)) } else { Err(StoreError::NotFound("lab")) }
    }

    /// All labs of a class, those taken back too.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn labs(&self, class: Id) -> Result<Vec<LabRow>, StoreError> {
        // Who goes to the free bench does no lab.
        let sql = format!(
            "{LABS} JOIN sheets b ON b.id = a.sheet WHERE a.class = ? AND coalesce(b.key, '') NOT LIKE 'bench/%' ORDER BY a.id"
        );
        self.read(|c| {
            let mut query = c.prepare_cached(&sql)?;
            let rows = query.query_map([class], lab_at)?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// The labs of a class that are assigned now, in the order of assignment.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn assignments(&self, class: Id) -> Result<Vec<LabRow>, StoreError> {
        Ok(self.labs(class)?.into_iter().filter(|l| l.taken_back.is_none()).collect())
    }

    /// Sets by when a lab is due: a date such as `2026-12-01`, or nothing.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for what is no date.
    pub fn set_due(&self, teacher: Id, lab: Id, due: &str) -> Result<(), StoreError> {
        let due = due.trim();
        let date = due.is_empty() || due.len() == LONGEST_DUE && due.parse::<jiff::civil::Date>().is_ok();
        if !date {
            return Err(StoreError::Invalid("A date is written 2026-12-01. The lab is due as before.".to_owned()));
        }
        self.change_lab(teacher, lab, "due = nullif(?3, '')", &due)
    }

    /// Takes a lab back, or assigns it again. Logbooks that are begun stay as they are, and come back with it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's lab.
    pub fn take_back(&self, teacher: Id, lab: Id, back: bool) -> Result<(), StoreError> {
        self.change_lab(teacher, lab, "taken_back = ?3", &back.then(now_seconds))
    }

    /// Opens the class pool to the students, or closes it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's lab.
    pub fn open_pool(&self, teacher: Id, lab: Id, open: PoolOpen) -> Result<(), StoreError> {
        self.change_lab(teacher, lab, "pool = ?3", &open.name())
    }

    /// Gives the marks of a lab out to all, or takes them in again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's lab.
    pub fn give_marks(&self, teacher: Id, lab: Id, give: bool) -> Result<(), StoreError> {
        self.change_lab(teacher, lab, "marks_given = ?3", &give.then(now_seconds))
    }

    fn change_lab(
        &self,
        teacher: Id,
        lab: Id,
        set: &'static str,
        value: &dyn rusqlite::ToSql,
    ) -> Result<(), StoreError> {
        let own = "EXISTS (SELECT 1 FROM classes c WHERE c.id = assignments.class AND c.teacher = ?2)";
        let sql = format!("UPDATE assignments SET {set} WHERE id = ?1 AND {own}");
        self.write(|t| match t.execute(&sql, params![lab, teacher, value])? {
            0 => Err(StoreError::NotFound("lab")),
            _ => Ok(()),
        })
    }

    /// The groups at work on a lab, with what they did since a moment in seconds since 1970 (UTC).
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn groups(&self, lab: Id, since: i64) -> Result<Vec<Group>, StoreError> {
        self.read(|c| {
            let sql = format!(
                "SELECT l.id, st.id, st.name, {STANDING} FROM logbooks l JOIN members m ON m.logbook = l.id
                JOIN students st ON st.id = m.student LEFT JOIN standings s ON s.logbook = l.id
                WHERE l.assignment = ? ORDER BY l.id, m.rowid"
            );
            let mut query = c.prepare_cached(&sql)?;
            let mut rows = query.query([lab])?;
            let mut groups: Vec<Group> = Vec::new();
            while let Some(r) = rows.next()? {
                let (logbook, member) = (r.get(0)?, (r.get(1)?, r.get(2)?));
                match groups.last_mut().filter(|g| g.logbook == logbook) {
                    Some(group) => group.members.push(member),
                    None => {
                        let begun = r.get::<_, Option<i64>>(3)?.is_some();
                        let standing = if begun { Some(standing_at(r, 3)?) } else { None };
                        groups.push(Group { logbook, members: vec![member], standing, beats: Vec::new() });
                    }
                }
            }
            let sql = "SELECT e.logbook, e.at, e.step, e.wish = '\"undo\"', e.teacher IS NOT NULL FROM edits e
                JOIN logbooks l ON l.id = e.logbook WHERE l.assignment = ? AND e.at >= ? ORDER BY e.logbook, e.seq";
            let mut query = c.prepare_cached(sql)?;
            let mut rows = query.query([lab, since])?;
            while let Some(r) = rows.next()? {
                let logbook: Id = r.get(0)?;
                let step: Option<String> = r.get(2)?;
                let beat = Beat {
                    at: r.get(1)?,
                    step: step.and_then(|s| Step::named(&s)),
                    undo: r.get(3)?,
                    by_teacher: r.get(4)?,
                };
                if let Some(group) = groups.iter_mut().find(|g| g.logbook == logbook) {
                    group.beats.push(beat);
                }
            }
            Ok(groups)
        })
    }

    /// Decides about a criterion, or leaves it open again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for a logbook of another teacher's class.
    pub fn decide(&self, teacher: Id, decided: &Decided, open: bool) -> Result<(), StoreError> {
        let Decided { logbook, criterion, level, points } = decided;
        self.write(|t| {
            let sql = "SELECT EXISTS (SELECT 1 FROM logbooks l JOIN assignments a ON a.id = l.assignment
                JOIN classes c ON c.id = a.class WHERE l.id = ? AND c.teacher = ?)";
            if !t.query_row(sql, [logbook, &teacher], |r| r.get::<_, bool>(0))? {
                return Err(StoreError::NotFound("logbook"));
            }
            if open {
                t.execute("DELETE FROM marks WHERE logbook = ? AND criterion = ?", params![logbook, criterion])?;
            } else {
                let sql = "INSERT INTO marks (logbook, criterion, level, points, at) VALUES (?1, ?2, ?3, ?4, ?5)
                    ON CONFLICT (logbook, criterion) DO UPDATE SET level = ?3, points = ?4, at = ?5";
                t.execute(sql, params![logbook, criterion, level, points, now_seconds()])?;
            }
            Ok(())
        })
    }

    /// What is decided about the logbooks of a lab.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn marks(&self, lab: Id) -> Result<Vec<Decided>, StoreError> {
        let sql = "SELECT m.logbook, m.criterion, m.level, m.points FROM marks m JOIN logbooks l ON l.id = m.logbook
            WHERE l.assignment = ? ORDER BY m.logbook, m.criterion";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([lab], |r| {
                Ok(Decided { logbook: r.get(0)?, criterion: r.get(1)?, level: r.get(2)?, points: r.get(3)? })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// When the marks of a logbook's lab were given out, and who sees its class pool.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn given_out(&self, logbook: Id) -> Result<(Option<i64>, PoolOpen), StoreError> {
        let sql =
            "SELECT a.marks_given, a.pool FROM logbooks l JOIN assignments a ON a.id = l.assignment WHERE l.id = ?";
        let found = self.read(|c| {
            Ok(c.query_row(sql, [logbook], |r| Ok((r.get(0)?, pool_of(&r.get::<_, String>(1)?)))).optional()?)
        })?;
        found.ok_or(StoreError::NotFound("logbook"))
    }
}

const LABS: &str = "SELECT a.id, a.class, a.sheet, (SELECT source FROM sheet_versions v WHERE v.sheet = a.sheet AND v.trial = 0 ORDER BY v.id DESC LIMIT 1),
    a.due, a.taken_back, a.marks_given, a.pool FROM assignments a JOIN classes c ON c.id = a.class";

fn lab_at(r: &rusqlite::Row<'_>) -> rusqlite::Result<LabRow> {
    Ok(LabRow {
        id: r.get(0)?,
        class: r.get(1)?,
        sheet: r.get(2)?,
        source: r.get(3)?,
        due: r.get(4)?,
        taken_back: r.get(5)?,
        marks_given: r.get(6)?,
        pool: pool_of(&r.get::<_, String>(7)?),
    })
}

/// What a newer program wrote and this one does not know is closed.
fn pool_of(name: &str) -> PoolOpen {
    name.parse().unwrap_or(PoolOpen::Closed)
}

fn now_seconds() -> i64 {
    jiff::Timestamp::now().as_second()
}
