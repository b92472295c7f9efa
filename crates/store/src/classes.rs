//! Classes, their students, and the labs assigned to them.

use rusqlite::{OptionalExtension, params};

use crate::database::now;
use crate::edits::{STANDING, StoredStanding, standing_at};
use crate::{Id, Store, StoreError, secrets};

/// Letters in a join code.
pub(crate) const CODE_LENGTH: usize = 6;

/// A class.
#[derive(Clone, Debug)]
pub struct ClassRow {
    /// Identity.
    pub id: Id,
    /// Name.
    pub name: String,
    /// Join code.
    pub code: String,
    /// Number of students.
    pub students: i64,
    /// Number of assigned labs.
    pub labs: i64,
    /// Whether its year is over.
    pub closed: bool,
    /// Whether new names wait for the teacher's nod.
    pub asks: bool,
    /// Whether its students may go to the free bench.
    pub free_bench: bool,
}

/// A student in a class's list.
#[derive(Clone, Debug)]
pub struct StudentRow {
    /// Identity.
    pub id: Id,
    /// Name.
    pub name: String,
    /// Whether the teacher has not let the name in yet.
    pub waits: bool,
    /// Whether the student has left the class.
    pub left: bool,
}

/// A logbook of a student.
#[derive(Clone, Debug)]
pub struct OwnLogbook {
    /// The logbook.
    pub logbook: Id,
    /// The lab.
    pub assignment: Id,
    /// The class it belongs to, which a student may have left for another.
    pub class: Id,
    /// That class's name.
    pub class_name: String,
    /// Text of its sheet.
    pub source: String,
    /// When it was handed in, in seconds since 1970 (UTC).
    pub handed_in: Option<i64>,
}

/// How far a student is with a lab.
#[derive(Clone, Debug)]
pub struct Progress {
    /// The student.
    pub student: Id,
    /// The lab.
    pub assignment: Id,
    /// The logbook.
    pub logbook: Id,
    /// How far; none while nothing was done.
    pub standing: Option<StoredStanding>,
}

impl Store {
    /// Makes a class with a join code.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for an empty or overlong name, or too many classes.
    pub fn create_class(&self, teacher: Id, name: &str) -> Result<Id, StoreError> {
        let name = name.split_whitespace().collect::<Vec<_>>().join(" ");
        if name.is_empty() || name.chars().count() > 60 {
            return Err(StoreError::Invalid("A class's name needs 1 to 60 characters. No class was made.".to_owned()));
        }
        self.write(|t| {
            let count: i64 =
                t.query_row("SELECT count(*) FROM classes WHERE teacher = ? AND own = 0", [teacher], |r| r.get(0))?;
            if count >= 100 {
                return Err(StoreError::Invalid("You have 100 classes; no more can be made.".to_owned()));
            }
            // Six letters of thirty-one: a clash is rare, three in a row do not happen.
            for _ in 0..3 {
                let sql = "INSERT OR IGNORE INTO classes (teacher, name, code, created) VALUES (?, ?, ?, ?)";
                if t.execute(sql, params![teacher, name, secrets::code(CODE_LENGTH), now()])? == 1 {
                    return Ok(t.last_insert_rowid());
                }
            }
            Err(StoreError::Taken("No free join code was found. Try again.".to_owned()))
        })
    }

    /// A teacher's classes, newest first.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn classes(&self, teacher: Id) -> Result<Vec<ClassRow>, StoreError> {
        let sql =
            "SELECT c.id, c.name, c.code, (SELECT count(*) FROM students s WHERE s.class = c.id AND s.left_at IS NULL),
            (SELECT count(*) FROM assignments a JOIN sheets b ON b.id = a.sheet WHERE a.class = c.id AND coalesce(b.key, '') NOT LIKE 'bench/%'),
            c.closed_at IS NOT NULL, c.asks, c.free_bench
            FROM classes c WHERE c.teacher = ? AND c.own = 0 ORDER BY c.closed_at IS NOT NULL, c.id DESC";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([teacher], |r| {
                Ok(ClassRow {
                    id: r.get(0)?,
                    name: r.get(1)?,
                    code: r.get(2)?,
                    students: r.get(3)?,
                    labs: r.get(4)?,
                    closed: r.get(5)?,
                    asks: r.get(6)?,
                    free_bench: r.get(7)?,
                })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// One of a teacher's classes.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] also for another teacher's class.
    pub fn class(&self, teacher: Id, class: Id) -> Result<ClassRow, StoreError> {
        let all = self.classes(teacher)?;
        all.into_iter().find(|c| c.id == class).ok_or(StoreError::NotFound("class"))
    }

    /// A class's students by name.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn students(&self, class: Id) -> Result<Vec<StudentRow>, StoreError> {
        Ok(self.everybody(class)?.into_iter().filter(|s| !s.left).collect())
    }

    /// A class's students by name, those who have left last.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn everybody(&self, class: Id) -> Result<Vec<StudentRow>, StoreError> {
        let sql = "SELECT id, name, waits_since IS NOT NULL, left_at IS NOT NULL FROM students
            WHERE class = ? ORDER BY left_at IS NOT NULL, name";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([class], |r| {
                Ok(StudentRow { id: r.get(0)?, name: r.get(1)?, waits: r.get(2)?, left: r.get(3)? })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// The logbooks of a student: number of the logbook, name of the class it belongs to, text of its sheet, when it was handed in.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn logbooks_of(&self, student: Id) -> Result<Vec<OwnLogbook>, StoreError> {
        let sql = "SELECT l.id, a.id, c.id, c.name, v.source, s.handed_in FROM members m JOIN logbooks l ON l.id = m.logbook
            JOIN sheet_versions v ON v.id = l.version JOIN assignments a ON a.id = l.assignment
            JOIN classes c ON c.id = a.class LEFT JOIN standings s ON s.logbook = l.id WHERE m.student = ? ORDER BY l.id";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([student], |r| {
                Ok(OwnLogbook {
                    logbook: r.get(0)?,
                    assignment: r.get(1)?,
                    class: r.get(2)?,
                    class_name: r.get(3)?,
                    source: r.get(4)?,
                    handed_in: r.get(5)?,
                })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// Assigns a sheet to a class; assigning it twice changes nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the sheet is another teacher's.
    pub fn assign(&self, teacher: Id, class: Id, sheet: Id) -> Result<(), StoreError> {
        self.class(teacher, class)?;
        self.sheet(teacher, sheet)?;
        self.write(|t| {
            // One that was taken back comes back with the logbooks it had.
            let sql = "INSERT INTO assignments (class, sheet, created) VALUES (?, ?, ?)
                ON CONFLICT (class, sheet) DO UPDATE SET taken_back = NULL";
            t.execute(sql, params![class, sheet, now()])?;
            Ok(())
        })
    }

    /// How far every student of a class is.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn progress(&self, class: Id) -> Result<Vec<Progress>, StoreError> {
        self.standings("a.class", class)
    }

    /// How far a student is in each lab that was begun.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn progress_of(&self, student: Id) -> Result<Vec<Progress>, StoreError> {
        self.standings("m.student", student)
    }

    fn standings(&self, whose: &'static str, id: Id) -> Result<Vec<Progress>, StoreError> {
        let sql = format!(
            "SELECT m.student, m.assignment, m.logbook, {STANDING} FROM assignments a
            JOIN members m ON m.assignment = a.id LEFT JOIN standings s ON s.logbook = m.logbook WHERE {whose} = ?"
        );
        self.read(|c| {
            let mut query = c.prepare_cached(&sql)?;
            let rows = query.query_map([id], |r| {
                let begun = r.get::<_, Option<i64>>(3)?.is_some();
                Ok(Progress {
                    student: r.get(0)?,
                    assignment: r.get(1)?,
                    logbook: r.get(2)?,
                    standing: if begun { Some(standing_at(r, 3)?) } else { None },
                })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// A class's name, for its students.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn class_name(&self, class: Id) -> Result<String, StoreError> {
        let name = self
            .read(|c| Ok(c.query_row("SELECT name FROM classes WHERE id = ?", [class], |r| r.get(0)).optional()?))?;
        name.ok_or(StoreError::NotFound("class"))
    }
}
