//! Teachers, students, and who is signed in.

use rusqlite::{OptionalExtension, Transaction, params};
use unicode_normalization::UnicodeNormalization;
use unicode_security::skeleton;

use crate::database::{now, written};
use crate::edits::Actor;
use crate::{Id, Store, StoreError, secrets};

/// Days after which one has to sign in again.
pub const DAYS_SIGNED_IN: i64 = 30;

/// Students of a class.
const MOST_STUDENTS: i64 = 200;
/// Longest text in which a class code is looked for, in bytes.
const LONGEST_CODE: usize = 40;
/// What is said to a known name with another PIN.
pub const WRONG_PIN: &str =
    "Somebody of this name has joined with another PIN. Use your PIN, or choose another name if you are new.";

/// Who wants to come in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Applicant {
    /// The class.
    pub class: Id,
    /// The name, its spaces tidied.
    pub name: String,
    /// The student of that name, if there is one.
    pub known: Option<Id>,
}

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
    /// Whether the teacher has not let the name in yet.
    pub waits: bool,
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
        let (name, hash) = (person(name)?, self::password(password)?);
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

    /// The teacher of this name.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for what is no name, [`StoreError::Database`].
    pub fn teacher_named(&self, name: &str) -> Result<Option<Id>, StoreError> {
        let name = person(name)?;
        let sql = "SELECT id FROM teachers WHERE name = ?";
        self.read(|c| Ok(c.query_row(sql, [name], |r| r.get(0)).optional()?))
    }

    /// Whether a password is a teacher's. Without a teacher it takes as long to say no.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn is_password(&self, teacher: Option<Id>, password: &str) -> Result<bool, StoreError> {
        let hash = match teacher {
            Some(id) => {
                let sql = "SELECT password_hash FROM teachers WHERE id = ?";
                self.read(|c| Ok(c.query_row(sql, [id], |r| r.get(0)).optional()?))?
            }
            None => None,
        };
        Ok(secrets::matches(password, hash.as_ref()))
    }

    /// Who wants to come in with a class code and a name.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for an unknown code, or for what is no name or no PIN.
    pub fn applicant(&self, code: &str, name: &str, pin: &str) -> Result<Applicant, StoreError> {
        let name = person(name)?;
        check_pin(pin)?;
        let unknown = || StoreError::Invalid("There is no class with this code. Look at the board again.".to_owned());
        if code.len() > LONGEST_CODE {
            return Err(unknown());
        }
        let code = code.trim().to_uppercase().replace([' ', '-'], "");
        self.read(|c| {
            let sql = "SELECT id, closed_at IS NOT NULL FROM classes WHERE code = ?";
            let found = c.query_row(sql, [code], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
            let (class, closed): (Id, bool) = found.ok_or_else(unknown)?;
            if closed {
                return Err(StoreError::Invalid(
                    "This class is closed. Your work is kept; ask your teacher.".to_owned(),
                ));
            }
            let sql = "SELECT id FROM students WHERE class = ? AND name = ? AND left_at IS NULL";
            let known = c.query_row(sql, params![class, name], |r| r.get(0)).optional()?;
            Ok(Applicant { class, name, known })
        })
    }

    /// Whether a PIN is a student's.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn is_pin(&self, student: Id, pin: &str) -> Result<bool, StoreError> {
        let sql = "SELECT pin_hash FROM students WHERE id = ?";
        let hash: Option<String> = self.read(|c| Ok(c.query_row(sql, [student], |r| r.get(0)).optional()?))?;
        Ok(secrets::matches(pin, hash.as_ref()))
    }

    /// Adds a student to a class.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for a PIN that everybody tries first, or when the class is full; [`StoreError::Taken`] when somebody of
    /// that name was a moment faster.
    pub fn add_student(&self, class: Id, name: &str, pin: &str) -> Result<Id, StoreError> {
        check_new_pin(pin)?;
        // Hashing takes long on purpose, so it is done outside the writing transaction.
        let hash = secrets::hash(pin)?;
        self.write(|t| {
            let name = free_name(t, class, name, None)?;
            check_not_full(t, class)?;
            let sql = "INSERT OR IGNORE INTO students (class, name, pin_hash, created, waits_since)
                SELECT id, ?2, ?3, ?4, iif(asks, unixepoch(), NULL) FROM classes WHERE id = ?1";
            if t.execute(sql, params![class, name, hash, now()])? == 0 {
                let message = "Somebody of this name has just joined. If it was you, enter your PIN again.";
                return Err(StoreError::Taken(message.to_owned()));
            }
            Ok(t.last_insert_rowid())
        })
    }

    /// Lets a student into a class: a new name joins, a known name comes back with its PIN. Tries are not counted; whoever asks from
    /// outside has to.
    ///
    /// # Errors
    /// As [`Self::applicant`] and [`Self::add_student`]; [`StoreError::WrongSecret`] for a known name with another PIN.
    pub fn join(&self, code: &str, name: &str, pin: &str) -> Result<Id, StoreError> {
        let asks = self.applicant(code, name, pin)?;
        match asks.known {
            None => self.add_student(asks.class, &asks.name, pin),
            Some(id) if self.is_pin(id, pin)? => Ok(id),
            Some(_) => Err(StoreError::WrongSecret(WRONG_PIN)),
        }
    }

    /// Begins a session; gives the token for the cookie.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn begin_session(&self, actor: Actor) -> Result<String, StoreError> {
        self.begin_session_in(actor, "")
    }

    /// Begins a session in a browser, which is told in words; gives the token for the cookie.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn begin_session_in(&self, actor: Actor, browser: &str) -> Result<String, StoreError> {
        let (teacher, student) = match actor {
            Actor::Teacher(id) => (Some(id), None),
            Actor::Student(id) => (None, Some(id)),
        };
        let token = secrets::token();
        let moment = self.even_now();
        let expires = written(moment + DAYS_SIGNED_IN * 24 * 3600);
        self.write(|t| {
            t.execute("DELETE FROM sessions WHERE expires < ?", [written(moment)])?;
            let sql = "INSERT INTO clock (only, at) VALUES (1, ?1) ON CONFLICT (only) DO UPDATE SET at = max(at, ?1)";
            t.execute(sql, [moment])?;
            t.execute(
                "INSERT INTO sessions (token_hash, teacher, student, expires, begun, browser) VALUES (?, ?, ?, ?, unixepoch(), ?)",
                params![secrets::token_hash(&token), teacher, student, expires, browser],
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
        let sql = "SELECT t.id, t.name, s.id, s.name, s.class, s.waits_since IS NOT NULL FROM sessions x
            LEFT JOIN teachers t ON t.id = x.teacher LEFT JOIN students s ON s.id = x.student
            WHERE x.token_hash = ? AND x.expires > ?";
        self.read(|c| {
            let found = c.query_row(sql, params![secrets::token_hash(token), written(self.even_now())], |r| {
                Ok(match r.get::<_, Option<Id>>(0)? {
                    Some(id) => Who::Teacher(Teacher { id, name: r.get(1)? }),
                    None => {
                        Who::Student(Student { id: r.get(2)?, name: r.get(3)?, class: r.get(4)?, waits: r.get(5)? })
                    }
                })
            });
            Ok(found.optional()?)
        })
    }
}

/// A session that is open, for whoever may end it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SessionRow {
    /// Its number.
    pub id: Id,
    /// The hash of its token.
    pub hash: String,
    /// When it was begun, in seconds since 1970 (UTC); none for one of a time when that was not kept.
    pub begun: Option<i64>,
    /// In what browser, in words.
    pub browser: String,
}

impl Store {
    /// The sessions of a person that are open, the newest first.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn sessions_of(&self, actor: Actor) -> Result<Vec<SessionRow>, StoreError> {
        let (column, id) = match actor {
            Actor::Student(id) => ("student", id),
            Actor::Teacher(id) => ("teacher", id),
        };
        let sql = format!(
            "SELECT rowid, token_hash, begun, browser FROM sessions WHERE {column} = ? AND expires > ? ORDER BY rowid DESC"
        );
        self.read(|c| {
            let mut query = c.prepare_cached(&sql)?;
            let rows = query.query_map(params![id, written(self.even_now())], |r| {
                Ok(SessionRow { id: r.get(0)?, hash: r.get(1)?, begun: r.get(2)?, browser: r.get(3)? })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// Ends one session of a person.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it is nobody's or somebody else's.
    pub fn end_one_session(&self, actor: Actor, session: Id) -> Result<(), StoreError> {
        let (column, id) = match actor {
            Actor::Student(id) => ("student", id),
            Actor::Teacher(id) => ("teacher", id),
        };
        let sql = format!("DELETE FROM sessions WHERE rowid = ? AND {column} = ?");
        self.write(|t| match t.execute(&sql, [session, id])? {
            0 => Err(StoreError::NotFound("session")),
            _ => Ok(()),
        })
    }
}

/// A person's name as it is kept: its spaces tidied, accents composed, nothing invisible in it.
pub(crate) fn person(name: &str) -> Result<String, StoreError> {
    let tidy = name.nfc().collect::<String>().split_whitespace().collect::<Vec<_>>().join(" ");
    if tidy.is_empty() || tidy.chars().count() > 40 {
        return Err(StoreError::Invalid("A name needs 1 to 40 characters.".to_owned()));
    }
    if tidy.chars().any(is_unseen) {
        return Err(StoreError::Invalid(
            "There is a character in this name that cannot be seen. Type it again.".to_owned(),
        ));
    }
    Ok(tidy)
}

/// Whether a character shows nothing, or turns around what stands beside it (Unicode 17: controls, format characters, fillers, variation
/// selectors).
fn is_unseen(c: char) -> bool {
    c.is_control()
        || matches!(
            c,
            '\u{AD}' | '\u{34F}' | '\u{61C}' | '\u{115F}' | '\u{1160}' | '\u{17B4}' | '\u{17B5}' | '\u{180B}'
                ..='\u{180F}'
        )
        || matches!(c, '\u{200B}'..='\u{200F}' | '\u{202A}'..='\u{202E}' | '\u{2060}'..='\u{206F}' | '\u{2800}' | '\u{3164}')
        || matches!(c, '\u{FE00}'..='\u{FE0F}' | '\u{FEFF}' | '\u{FFA0}' | '\u{FFF0}'..='\u{FFFB}' | '\u{E0000}'..='\u{E0FFF}')
}

/// A name that nobody else of a class has, nor one that looks like it (Unicode Technical Standard #39, skeletons).
pub(crate) fn free_name(t: &Transaction<'_>, class: Id, name: &str, own: Option<Id>) -> Result<String, StoreError> {
    let name = person(name)?;
    // A capital letter may look like one of another script where the small one does not, and the other way round.
    let looks = |name: &str| {
        let shape = |text: &str| skeleton(text).collect::<String>();
        (shape(name).to_lowercase(), shape(&name.to_lowercase()))
    };
    let own_looks = looks(&name);
    let alike = |other: &String| {
        let looks = looks(other);
        looks.0 == own_looks.0 || looks.1 == own_looks.1
    };
    let mut query = t.prepare_cached("SELECT name FROM students WHERE class = ? AND id IS NOT ?")?;
    let others = query.query_map(params![class, own], |r| r.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
    if others.iter().any(alike) {
        let message =
            format!("Somebody in this class has the name “{name}”, or one that looks like it. Choose another.");
        return Err(StoreError::Taken(message));
    }
    Ok(name)
}

/// Refuses one more student for a class that is full.
pub(crate) fn check_not_full(t: &Transaction<'_>, class: Id) -> Result<(), StoreError> {
    let sql = "SELECT count(*) FROM students WHERE class = ? AND left_at IS NULL";
    let count: i64 = t.query_row(sql, [class], |r| r.get(0))?;
    if count >= MOST_STUDENTS {
        return Err(StoreError::Invalid("This class is full. Ask your teacher.".to_owned()));
    }
    Ok(())
}

/// The hash of a new password.
pub(crate) fn password(new: &str) -> Result<String, StoreError> {
    if (12..=200).contains(&new.chars().count()) {
        return secrets::hash(new);
    }
    Err(StoreError::Invalid("A password needs 12 to 200 characters.".to_owned()))
}

fn check_pin(pin: &str) -> Result<(), StoreError> {
    if (4..=8).contains(&pin.len()) && pin.bytes().all(|b| b.is_ascii_digit()) {
        return Ok(());
    }
    Err(StoreError::Invalid("A PIN has 4 to 8 digits.".to_owned()))
}

/// Whether a PIN can be a new one: not one of the first that anybody tries, all digits alike or in a row up or down.
pub(crate) fn check_new_pin(pin: &str) -> Result<(), StoreError> {
    check_pin(pin)?;
    let steps: Vec<i16> = pin.as_bytes().windows(2).map(|w| i16::from(w[1]) - i16::from(w[0])).collect();
    if [0, 1, -1].iter().any(|step| steps.iter().all(|s| s == step)) {
        let message = "Everybody would try this PIN first. Choose digits that are not in a row and not all the same.";
        return Err(StoreError::Invalid(message.to_owned()));
    }
    Ok(())
}
