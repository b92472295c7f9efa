//! What a teacher keeps in order: students' PINs and names, who has left, class codes, classes that are over, and other teachers.

use rusqlite::{OptionalExtension, Transaction, params};
use serde::Deserialize;

use crate::edits::Actor;
use crate::people::{free_name, password};
use crate::tries::forget;
use crate::{Id, Store, StoreError, secrets};

/// Seconds for which an invitation is good: two weeks.
const INVITATION_LIFE: i64 = 14 * 24 * 3600;

/// What becomes of the work of somebody who leaves.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Work {
    /// It stays under the name.
    Kept,
    /// Logbooks of one's own are erased with their films; in those of a group the name is.
    Erased,
}

/// Erases the logbooks in which a student is alone; gives their ids.
fn erase_own(t: &Transaction<'_>, student: Id) -> Result<Vec<Id>, StoreError> {
    let sql = "SELECT m.logbook FROM members m WHERE m.student = ?1 AND NOT EXISTS
        (SELECT 1 FROM members o WHERE o.logbook = m.logbook AND o.student <> ?1)";
    let mut query = t.prepare(sql)?;
    let own = query.query_map([student], |r| r.get(0))?.collect::<Result<Vec<Id>, _>>()?;
    own.iter().try_for_each(|logbook| erase_logbook(t, *logbook))?;
    Ok(own)
}

/// Erases a logbook; its films are in a file of their own.
pub(crate) fn erase_logbook(t: &Transaction<'_>, logbook: Id) -> Result<(), StoreError> {
    for table in ["edits", "snapshots", "standings", "partner_codes", "members", "marks", "growths"] {
        t.execute(&format!("DELETE FROM {table} WHERE logbook = ?"), [logbook])?;
    }
    t.execute("DELETE FROM forecasts WHERE ask IN (SELECT id FROM asks WHERE logbook = ?)", [logbook])?;
    t.execute("DELETE FROM asks WHERE logbook = ?", [logbook])?;
    t.execute("DELETE FROM logbooks WHERE id = ?", [logbook])?;
    Ok(())
}

/// The class of a student, if it is a teacher's.
fn class_of(t: &Transaction<'_>, owner: Id, student: Id) -> Result<Id, StoreError> {
    let sql = "SELECT s.class FROM students s JOIN classes c ON c.id = s.class
        WHERE s.id = ? AND c.teacher = ? AND s.left_at IS NULL";
    let class = t.query_row(sql, [student, owner], |r| r.get(0)).optional()?;
    class.ok_or(StoreError::NotFound("student"))
}

fn end_sessions(t: &Transaction<'_>, actor: Actor) -> Result<(), StoreError> {
    let (sql, id) = match actor {
        Actor::Student(id) => ("DELETE FROM sessions WHERE student = ?", id),
        Actor::Teacher(id) => ("DELETE FROM sessions WHERE teacher = ?", id),
    };
    t.execute(sql, [id])?;
    Ok(())
}

impl Store {
    /// Gives a student another PIN. Wrong tries and devices of before are forgotten, and whoever is signed in as the student is not any more.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for a student of another teacher; [`StoreError::Invalid`] for what is no PIN or a bad one.
    pub fn reset_pin(&self, owner: Id, student: Id, pin: &str) -> Result<(), StoreError> {
        crate::people::check_new_pin(pin)?;
        let hash = secrets::hash(pin)?;
        self.write(|t| {
            class_of(t, owner, student)?;
            t.execute("UPDATE students SET pin_hash = ? WHERE id = ?", params![hash, student])?;
            forget(t, Actor::Student(student))?;
            end_sessions(t, Actor::Student(student))
        })
    }

    /// Gives a student another name.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Invalid`], or [`StoreError::Taken`] when another of the class has a name like it.
    pub fn rename_student(&self, owner: Id, student: Id, name: &str) -> Result<(), StoreError> {
        self.write(|t| {
            let class = class_of(t, owner, student)?;
            let name = free_name(t, class, name, Some(student))?;
            t.execute("UPDATE students SET name = ? WHERE id = ?", params![name, student])?;
            Ok(())
        })
    }

    /// Signs a person out everywhere.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for a student of another teacher.
    pub fn sign_out_student(&self, owner: Id, student: Id) -> Result<(), StoreError> {
        self.write(|t| {
            class_of(t, owner, student)?;
            end_sessions(t, Actor::Student(student))
        })
    }

    /// Moves a student to another class of the same teacher. Logbooks of one's own for labs that are assigned there too, and not begun there, go
    /// along; others stay where they are, open to the student as before. Or all logbooks of one's own are erased; gives those.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for a student or class of another teacher, or a closed class; [`StoreError::Taken`] when somebody there has a
    /// name like it; [`StoreError::Invalid`] when that class is full.
    pub fn move_student(&self, owner: Id, student: Id, to: Id, work: Work) -> Result<Vec<Id>, StoreError> {
        if self.class(owner, to)?.closed {
            return Err(StoreError::NotFound("class"));
        }
        let erased = self.write(|t| {
            class_of(t, owner, student)?;
            let name: String = t.query_row("SELECT name FROM students WHERE id = ?", [student], |r| r.get(0))?;
            free_name(t, to, &name, Some(student))?;
            crate::people::check_not_full(t, to)?;
            let erased = match work {
                Work::Kept => Vec::new(),
                Work::Erased => erase_own(t, student)?,
            };
            let sql = "SELECT m.logbook, n.id FROM members m JOIN assignments a ON a.id = m.assignment
                JOIN assignments n ON n.class = ?2 AND n.sheet = a.sheet WHERE m.student = ?1 AND a.class <> ?2
                AND NOT EXISTS (SELECT 1 FROM members o WHERE o.logbook = m.logbook AND o.student <> ?1)
                AND NOT EXISTS (SELECT 1 FROM members o WHERE o.assignment = n.id AND o.student = ?1)";
            let mut query = t.prepare(sql)?;
            let own = query.query_map([student, to], |r| Ok((r.get(0)?, r.get(1)?)))?;
            let own = own.collect::<Result<Vec<(Id, Id)>, _>>()?;
            for (logbook, lab) in own {
                t.execute("UPDATE logbooks SET assignment = ? WHERE id = ?", [lab, logbook])?;
                t.execute("UPDATE members SET assignment = ? WHERE logbook = ?", [lab, logbook])?;
            }
            t.execute("UPDATE students SET class = ?, waits_since = NULL WHERE id = ?", [to, student])?;
            Ok(erased)
        })?;
        self.erase_films(&erased)?;
        Ok(erased)
    }

    /// Erases the films that were brought to logbooks.
    pub(crate) fn erase_films(&self, logbooks: &[Id]) -> Result<(), StoreError> {
        logbooks.iter().try_for_each(|logbook| {
            self.write_films(|t| {
                t.execute("DELETE FROM frames WHERE film IN (SELECT id FROM films WHERE logbook = ?)", [logbook])?;
                t.execute("DELETE FROM films WHERE logbook = ?", [logbook])?;
                Ok(())
            })
        })
    }

    /// Lets students in who wait for the teacher's nod: one, or all of a class.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's class.
    pub fn let_in(&self, owner: Id, class: Id, student: Option<Id>) -> Result<(), StoreError> {
        self.class(owner, class)?;
        self.write(|t| {
            let sql = "UPDATE students SET waits_since = NULL WHERE class = ?1 AND (?2 IS NULL OR id = ?2)";
            t.execute(sql, params![class, student])?;
            Ok(())
        })
    }

    /// Whether new names of a class wait for the teacher's nod.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's class.
    pub fn ask_for_names(&self, owner: Id, class: Id, asks: bool) -> Result<(), StoreError> {
        self.class(owner, class)?;
        self.write(|t| {
            t.execute("UPDATE classes SET asks = ? WHERE id = ?", params![asks, class])?;
            Ok(())
        })
    }

    /// Removes a student from a class. Gives the logbooks that were erased with that.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for a student of another teacher.
    pub fn remove_student(&self, owner: Id, student: Id, work: Work, now: i64) -> Result<Vec<Id>, StoreError> {
        let erased = self.write(|t| {
            class_of(t, owner, student)?;
            end_sessions(t, Actor::Student(student))?;
            forget(t, Actor::Student(student))?;
            t.execute("DELETE FROM tries WHERE key = ?", [format!("partner {student}")])?;
            let mut erased = Vec::new();
            let name: String = t.query_row("SELECT name FROM students WHERE id = ?", [student], |r| r.get(0))?;
            let name = match work {
                // Somebody else of that name may come.
                Work::Kept => format!("{name} (left, no. {student})"),
                Work::Erased => {
                    erased = erase_own(t, student)?;
                    t.execute("DELETE FROM members WHERE student = ?", [student])?;
                    t.execute("DELETE FROM forecasts WHERE student = ?", [student])?;
                    format!("Former student {student}")
                }
            };
            let sql = "UPDATE students SET name = ?, pin_hash = '', left_at = ? WHERE id = ?";
            t.execute(sql, params![name, now, student])?;
            Ok(erased)
        })?;
        self.erase_films(&erased)?;
        Ok(erased)
    }

    /// Everything that is stored about a student, as JSON: name, class, when they joined and left, sessions, and for each logbook the edits of
    /// the student with their times and what they held.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn everything_about(&self, student: Id) -> Result<String, StoreError> {
        self.read(|c| {
            let sql = "SELECT s.name, c.name, s.created, s.left_at FROM students s JOIN classes c ON c.id = s.class WHERE s.id = ?";
            let person = c.query_row(sql, [student], |r| {
                let (name, class, joined) = (r.get::<_, String>(0)?, r.get::<_, String>(1)?, r.get::<_, String>(2)?);
                Ok((name, class, joined, r.get::<_, Option<i64>>(3)?))
            });
            let (name, class, joined, left) = person.optional()?.ok_or(StoreError::NotFound("student"))?;
            let mut query = c.prepare("SELECT expires FROM sessions WHERE student = ?")?;
            let sessions = query.query_map([student], |r| r.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
            let mut query = c.prepare("SELECT m.logbook, m.assignment FROM members m WHERE m.student = ? ORDER BY m.logbook")?;
            let books = query.query_map([student], |r| Ok((r.get(0)?, r.get(1)?)))?.collect::<Result<Vec<(Id, Id)>, _>>()?;
            let mut query = c.prepare("SELECT seq, at, wish FROM edits WHERE logbook = ? AND student = ? ORDER BY seq")?;
            let mut logbooks = Vec::new();
            for (logbook, lab) in books {
                let edits = query.query_map([logbook, student], |r| {
                    // What cannot be read as JSON is given as it is.
                    let wish: String = r.get(2)?;
                    let wish = serde_json::from_str(&wish).unwrap_or(serde_json::Value::String(wish));
                    Ok(serde_json::json!({ "number": r.get::<_, i64>(0)?, "at": r.get::<_, i64>(1)?, "wish": wish }))
                })?;
                let edits = edits.collect::<Result<Vec<_>, _>>()?;
                logbooks.push(serde_json::json!({ "logbook": logbook, "lab": lab, "edits": edits }));
            }
            let mut query = c.prepare("SELECT ask, at, answer FROM forecasts WHERE student = ? ORDER BY ask")?;
            let forecasts = query.query_map([student], |r| {
                Ok(serde_json::json!({ "asked": r.get::<_, Id>(0)?, "at": r.get::<_, i64>(1)?, "answer": r.get::<_, String>(2)? }))
            })?;
            let forecasts = forecasts.collect::<Result<Vec<_>, _>>()?;
            let all = serde_json::json!({
                "forecasts": forecasts,
                "name": name, "class": class, "joined": joined, "left": left, "sessions_until": sessions, "logbooks": logbooks,
            });
            serde_json::to_string_pretty(&all).map_err(|e| StoreError::Content(e.to_string()))
        })
    }

    /// Gives a class another code; the old one lets nobody in any more.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's class.
    pub fn new_class_code(&self, owner: Id, class: Id) -> Result<(), StoreError> {
        self.class(owner, class)?;
        self.write(|t| {
            for _ in 0..3 {
                let sql = "UPDATE OR IGNORE classes SET code = ? WHERE id = ?";
                if t.execute(sql, params![secrets::code(crate::classes::CODE_LENGTH), class])? == 1 {
                    return Ok(());
                }
            }
            Err(StoreError::Taken("No free join code was found. Try again.".to_owned()))
        })
    }

    /// Closes a class at the end of its year, or opens it again. While it is closed nobody comes in, and its work is kept.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for another teacher's class.
    pub fn close_class(&self, owner: Id, class: Id, closed_at: Option<i64>) -> Result<(), StoreError> {
        self.class(owner, class)?;
        self.write(|t| {
            t.execute("UPDATE classes SET closed_at = ? WHERE id = ?", params![closed_at, class])?;
            if closed_at.is_some() {
                let sql = "DELETE FROM sessions WHERE student IN (SELECT id FROM students WHERE class = ?)";
                t.execute(sql, [class])?;
            }
            Ok(())
        })
    }

    /// Gives a teacher another password; all sessions end, and devices are forgotten.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for a password that is too short or too long.
    pub fn change_password(&self, teacher: Id, new: &str) -> Result<(), StoreError> {
        let hash = password(new)?;
        self.write(|t| {
            let changed = t.execute("UPDATE teachers SET password_hash = ? WHERE id = ?", params![hash, teacher])?;
            if changed == 0 {
                return Err(StoreError::NotFound("teacher"));
            }
            forget(t, Actor::Teacher(teacher))?;
            end_sessions(t, Actor::Teacher(teacher))
        })
    }

    /// A token with which another teacher can make an account, once.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn invite(&self, by: Id, now: i64) -> Result<String, StoreError> {
        let token = secrets::token();
        self.write(|t| {
            t.execute("DELETE FROM invitations WHERE until <= ?", [now])?;
            let sql = "INSERT INTO invitations (token_hash, by, until) VALUES (?, ?, ?)";
            t.execute(sql, params![secrets::token_hash(&token), by, now + INVITATION_LIFE])?;
            Ok(())
        })?;
        Ok(token)
    }

    /// Whether an invitation is good.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn is_invited(&self, token: &str, now: i64) -> Result<bool, StoreError> {
        let sql = "SELECT EXISTS (SELECT 1 FROM invitations WHERE token_hash = ? AND until > ?)";
        self.read(|c| Ok(c.query_row(sql, params![secrets::token_hash(token), now], |r| r.get(0))?))
    }

    /// Makes the account of a teacher who was invited; the invitation is used up.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for an invitation that is not good, or for a name or password that cannot be taken; [`StoreError::Taken`].
    pub fn accept_invitation(&self, token: &str, name: &str, new: &str, now: i64) -> Result<Id, StoreError> {
        let (name, hash) = (crate::people::person(name)?, password(new)?);
        self.write(|t| {
            let sql = "DELETE FROM invitations WHERE token_hash = ? AND until > ?";
            if t.execute(sql, params![secrets::token_hash(token), now])? == 0 {
                let message = "This invitation was used before or is over. Ask for a new one.";
                return Err(StoreError::Invalid(message.to_owned()));
            }
            let sql = "INSERT OR IGNORE INTO teachers (name, password_hash, created) VALUES (?, ?, ?)";
            if t.execute(sql, params![name, hash, crate::database::now()])? == 0 {
                return Err(StoreError::Taken("There is a teacher of this name already. Choose another.".to_owned()));
            }
            Ok(t.last_insert_rowid())
        })
    }
}
