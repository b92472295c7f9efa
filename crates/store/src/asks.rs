//! Forecasts in front of the class: what a teacher asks at the free bench, and what everybody answers on a device of their own.

use rusqlite::{Connection, OptionalExtension, params};

use crate::{Id, Store, StoreError};

/// Longest answer that is stored, in bytes: a sketch of the most points there can be.
const LONGEST: usize = 40_000;

/// What is asked.
#[derive(Clone, Debug, PartialEq)]
pub struct Ask {
    /// Identity.
    pub id: Id,
    /// The class it is asked of.
    pub class: Id,
    /// The logbook at whose bench it is asked.
    pub logbook: Id,
    /// The channel that is forecast.
    pub channel: String,
    /// Ends of the axis, in the unit of the channel.
    pub ends: [f64; 2],
    /// End of the time axis, in s.
    pub duration: f64,
    /// Whether a shape is picked; else a curve is sketched.
    pub pick: bool,
    /// When it was asked, in seconds since 1970 (UTC).
    pub asked: i64,
    /// Since when nobody answers any more.
    pub closed: Option<i64>,
}

/// What one person answered.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Forecast {
    /// The student.
    pub student: Id,
    /// The student's name.
    pub name: String,
    /// Points of a sketch as JSON, or the name of a shape.
    pub answer: String,
}

fn ask_at(r: &rusqlite::Row<'_>) -> rusqlite::Result<Ask> {
    Ok(Ask {
        id: r.get(0)?,
        class: r.get(1)?,
        logbook: r.get(2)?,
        channel: r.get(3)?,
        ends: [r.get(4)?, r.get(5)?],
        duration: r.get(6)?,
        pick: r.get(7)?,
        asked: r.get(8)?,
        closed: r.get(9)?,
    })
}

const ASK: &str =
    "SELECT k.id, k.class, k.logbook, k.channel, k.low, k.high, k.duration, k.pick, k.asked, k.closed FROM asks k";

impl Store {
    /// Asks a class; what was asked of it before is closed. The id of `ask` is given by the store.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the class or the logbook is not the teacher's.
    pub fn ask(&self, teacher: Id, ask: &Ask) -> Result<Id, StoreError> {
        self.class(teacher, ask.class)?;
        let info = self.logbook_info(ask.logbook)?;
        if !info.own || info.teacher != teacher {
            return Err(StoreError::NotFound("logbook"));
        }
        self.write(|t| {
            t.execute("UPDATE asks SET closed = ? WHERE class = ? AND closed IS NULL", params![ask.asked, ask.class])?;
            let sql = "INSERT INTO asks (class, logbook, channel, low, high, duration, pick, asked) VALUES (?, ?, ?, ?, ?, ?, ?, ?)";
            let [low, high] = ask.ends;
            t.execute(sql, params![ask.class, ask.logbook, ask.channel, low, high, ask.duration, ask.pick, ask.asked])?;
            Ok(t.last_insert_rowid())
        })
    }

    /// What a teacher asked.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] also for another teacher's.
    pub fn asked(&self, teacher: Id, ask: Id) -> Result<Ask, StoreError> {
        let sql = format!("{ASK} JOIN classes c ON c.id = k.class WHERE k.id = ? AND c.teacher = ?");
        let found = self.read(|c| Ok(c.query_row(&sql, [ask, teacher], ask_at).optional()?))?;
        found.ok_or(StoreError::NotFound("question"))
    }

    /// What a class is asked now, if anything.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn open_ask(&self, class: Id) -> Result<Option<Ask>, StoreError> {
        self.read(|c| open_of(c, class))
    }

    /// Closes what was asked, or opens it again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's.
    pub fn close_ask(&self, teacher: Id, ask: Id, closed: Option<i64>) -> Result<(), StoreError> {
        let class = self.asked(teacher, ask)?.class;
        self.write(|t| {
            // A class is asked one thing at a time.
            if closed.is_none() {
                t.execute("UPDATE asks SET closed = asked WHERE class = ? AND closed IS NULL", [class])?;
            }
            t.execute("UPDATE asks SET closed = ? WHERE id = ?", params![closed, ask])?;
            Ok(())
        })
    }

    /// Keeps a student's answer; a later one takes its place.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when nothing is asked any more, or something else is; [`StoreError::NotFound`] for another class.
    pub fn forecast(&self, student: Id, ask: Id, answer: &str, at: i64) -> Result<(), StoreError> {
        if answer.len() > LONGEST {
            return Err(StoreError::Invalid("This is more than a sketch can hold. Nothing was sent.".to_owned()));
        }
        self.write(|t| {
            let sql = "SELECT k.closed IS NULL FROM asks k JOIN students s ON s.class = k.class
                WHERE k.id = ? AND s.id = ? AND s.left_at IS NULL AND s.waits_since IS NULL";
            let open: Option<bool> = t.query_row(sql, [ask, student], |r| r.get(0)).optional()?;
            if !open.ok_or(StoreError::NotFound("question"))? {
                let message = "Your teacher has closed this question. What you sent before it is kept.";
                return Err(StoreError::Invalid(message.to_owned()));
            }
            let sql = "INSERT OR REPLACE INTO forecasts (ask, student, answer, at) VALUES (?, ?, ?, ?)";
            t.execute(sql, params![ask, student, answer, at])?;
            Ok(())
        })
    }

    /// What everybody answered, by name.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn forecasts(&self, ask: Id) -> Result<Vec<Forecast>, StoreError> {
        let sql = "SELECT f.student, s.name, f.answer FROM forecasts f JOIN students s ON s.id = f.student WHERE f.ask = ? ORDER BY s.name";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows =
                query.query_map([ask], |r| Ok(Forecast { student: r.get(0)?, name: r.get(1)?, answer: r.get(2)? }))?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }
}

fn open_of(c: &Connection, class: Id) -> Result<Option<Ask>, StoreError> {
    let sql = format!("{ASK} WHERE k.class = ? AND k.closed IS NULL ORDER BY k.id DESC LIMIT 1");
    Ok(c.query_row(&sql, [class], ask_at).optional()?)
}
