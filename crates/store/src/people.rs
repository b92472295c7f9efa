//! Teachers, students, and who is signed in.

use rusqlite::{Connection, OptionalExtension, params};

use crate::database::now;
use crate::edits::Actor;
use crate::{Id, Store, StoreError, secrets};

/// Days after which one has to sign in again.
const DAYS_SIGNED_IN: i64 = 30;

/// A teacher.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Teacher {
    /// Identity.
    pub id: Id,
    /// Name.
    pub name: String,
}

/// A student, who belongs to one class.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Student {
    /// Identity.
    pub id: Id,
    /// Name, unique in the class.
    pub name: String,
    /// The class.
    pub class: Id,
}

/// Who is signed in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Who {
    /// A teacher.
    Teacher(Teacher),
    /// A student.
    Student(Student),
}

impl Store {
    /// The name of whoever did something.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn name_of(&self, actor: Actor) -> Result<String, StoreError> {
        let (sql, id) = match actor {
            Actor::Student(id) => ("SELECT name FROM students WHERE id = ?", id),
            Actor::Teacher(id) => ("SELECT name FROM teachers WHERE id = ?", id),
        };
        let name = self.read(|c| Ok(c.prepare_cached(sql)?.query_row([id], |r| r.get(0)).optional()?))?;
        name.ok_or(StoreError::NotFound("person"))
    }

    /// Whether there is a teacher yet.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn has_teacher(&self) -> Result<bool, StoreError> {
        self.read(|c| Ok(c.query_row("SELECT EXISTS (SELECT 1 FROM teachers)", [], |r| r.get(0))?))
    }

    /// Makes the first teacher's account; refused when there is one already.
    ///
    /// # Errors
    /// [`StoreError::Taken`], or [`StoreError::Invalid`] for a name or password that is too short or too long.
    pub fn create_first_teacher(&self, name: &str, password: &str) -> Result<Id, StoreError> {
        let name = person(name)?;
        if !(10..=200).contains(&password.chars().count()) {
            return Err(StoreError::Invalid("A password needs 10 to 200 characters.".to_owned()));
        }
        let hash = secrets::hash(password)?;
        self.write(|t| {
            let taken: bool = t.query_row("SELECT EXISTS (SELECT 1 FROM teachers)", [], |r| r.get(0))?;
            if taken {
                return Err(StoreError::Taken("There is a teacher account already. Sign in with it.".to_owned()));
            }
            t.execute(
                "INSERT INTO teachers (name, password_hash, created) VALUES (?, ?, ?)",
                params![name, hash, now()],
            )?;
            Ok(t.last_insert_rowid())
        })
    }

    /// Checks a teacher's name and password.
    ///
    /// # Errors
    /// [`StoreError::WrongSecret`], which does not tell which of the two was wrong.
    pub fn check_teacher(&self, name: &str, password: &str) -> Result<Id, StoreError> {
        let found: Option<(Id, String)> = self.read(|c| {
            let sql = "SELECT id, password_hash FROM teachers WHERE name = ?";
            Ok(c.query_row(sql, [name.trim()], |r| Ok((r.get(0)?, r.get(1)?))).optional()?)
        })?;
        found
            .filter(|(_, hash)| secrets::matches(password, hash))
            .map(|(id, _)| id)
            .ok_or(StoreError::WrongSecret("Name and password do not belong together. Try again."))
    }

    /// Lets a student into a class: a new name joins, a known name comes back with its PIN.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for an unknown code, [`StoreError::WrongSecret`] for a known name with another PIN,
    /// [`StoreError::Invalid`] for a name or PIN that cannot be taken.
    pub fn join(&self, code: &str, name: &str, pin: &str) -> Result<Id, StoreError> {
        let name = person(name)?;
        if !(4..=8).contains(&pin.len()) || !pin.bytes().all(|b| b.is_ascii_digit()) {
            return Err(StoreError::Invalid("A PIN has 4 to 8 digits.".to_owned()));
        }
        let code = code.trim().to_uppercase().replace([' ', '-'], "");
        let class: Id = self
            .read(|c| Ok(c.query_row("SELECT id FROM classes WHERE code = ?", [code], |r| r.get(0)).optional()?))?
            .ok_or_else(|| {
                StoreError::Invalid("There is no class with this code. Look at the board again.".to_owned())
            })?;
        let find = |c: &Connection| -> Result<Option<(Id, String)>, StoreError> {
            let sql = "SELECT id, pin_hash FROM students WHERE class = ? AND name = ?";
            Ok(c.query_row(sql, params![class, name], |r| Ok((r.get(0)?, r.get(1)?))).optional()?)
        };
        // Hashing takes long on purpose, so it is done outside the writing transaction.
        let known = match self.read(find)? {
            Some(known) => known,
            None => {
                let hash = secrets::hash(pin)?;
                let new = self.write(|t| {
                    let count: i64 =
                        t.query_row("SELECT count(*) FROM students WHERE class = ?", [class], |r| r.get(0))?;
                    if count >= 200 {
                        return Err(StoreError::Invalid("This class is full. Ask your teacher.".to_owned()));
                    }
                    let sql = "INSERT OR IGNORE INTO students (class, name, pin_hash, created) VALUES (?, ?, ?, ?)";
                    let added = t.execute(sql, params![class, name, hash, now()])?;
                    Ok((added == 1).then(|| t.last_insert_rowid()))
                })?;
                match new {
                    Some(id) => return Ok(id),
                    // Somebody with the same name was a moment faster.
                    None => self.read(find)?.ok_or(StoreError::NotFound("student"))?,
                }
            }
        };
        if secrets::matches(pin, &known.1) {
            return Ok(known.0);
        }
        Err(StoreError::WrongSecret(
            "Somebody of this name has joined with another PIN. Use your PIN, or choose another name if you are new.",
        ))
    }

    /// Begins a session; gives the token for the cookie.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn begin_session(&self, teacher: Option<Id>, student: Option<Id>) -> Result<String, StoreError> {
        let token = secrets::token();
        let expires = jiff::Timestamp::now() + jiff::SignedDuration::from_hours(24 * DAYS_SIGNED_IN);
        let expires = expires.strftime("%Y-%m-%dT%H:%M:%SZ").to_string();
        self.write(|t| {
            t.execute("DELETE FROM sessions WHERE expires < ?", [now()])?;
            t.execute(
                "INSERT INTO sessions (token_hash, teacher, student, expires) VALUES (?, ?, ?, ?)",
                params![secrets::token_hash(&token), teacher, student, expires],
            )?;
            Ok(())
        })?;
        Ok(token)
    }

    /// Ends a session.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn end_session(&self, token: &str) -> Result<(), StoreError> {
        self.write(|t| {
            t.execute("DELETE FROM sessions WHERE token_hash = ?", [secrets::token_hash(token)])?;
            Ok(())
        })
    }

    /// Who a cookie's token belongs to.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn who(&self, token: &str) -> Result<Option<Who>, StoreError> {
        let sql = "SELECT t.id, t.name, s.id, s.name, s.class FROM sessions x
            LEFT JOIN teachers t ON t.id = x.teacher LEFT JOIN students s ON s.id = x.student
            WHERE x.token_hash = ? AND x.expires > ?";
        self.read(|c| {
            let found = c.query_row(sql, params![secrets::token_hash(token), now()], |r| {
                Ok(match r.get::<_, Option<Id>>(0)? {
                    Some(id) => Who::Teacher(Teacher { id, name: r.get(1)? }),
                    None => Who::Student(Student { id: r.get(2)?, name: r.get(3)?, class: r.get(4)? }),
                })
            });
            Ok(found.optional()?)
        })
    }
}

/// A person's name with its spaces tidied.
fn person(name: &str) -> Result<String, StoreError> {
    let tidy = name.split_whitespace().collect::<Vec<_>>().join(" ");
    if tidy.is_empty() || tidy.chars().count() > 40 || tidy.chars().any(char::is_control) {
        return Err(StoreError::Invalid("A name needs 1 to 40 characters.".to_owned()));
    }
    Ok(tidy)
}
