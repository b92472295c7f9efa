//! Wrong tries at passwords, PINs and partner codes. A try is counted before the secret is looked at, so that many at once gain nothing,
//! and kept in the store, so that a restart forgives nothing.
//!
//! After [`FREE`] wrong tries comes a pause that doubles with each further one, up to [`LONGEST`]. A PIN of four digits is one of 10,000.
//! From all devices together that its owner never used, there are 5 tries, then 16 more until the pause is as long as it gets (1, 2, 4, ...,
//! 32,768 minutes are 46 days together), then 10 in the rest of a year: 31 tries. Devices its owner has used are judged apart, each alike, and
//! the newest [`DEVICES`] count: 124 tries a year at most, or 1.2 %. NIST SP 800-63B, 5.2.2, allows 100 in a row for each.

use rusqlite::{OptionalExtension, Transaction, params};
use sha2::{Digest, Sha256};

use crate::edits::Actor;
use crate::{Id, Store, StoreError, secrets};

/// Wrong tries without a pause.
const FREE: u32 = 5;
/// The longest pause, in seconds: 30 days.
const LONGEST: i64 = 30 * 24 * 3600;
/// Devices remembered for each person.
const DEVICES: i64 = 3;
/// Drawers for names that do not exist.
const DRAWERS: u16 = 4096;

/// Whose secret is tried.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Tried {
    /// A person's, from a device that person never used.
    Person(Actor),
    /// A person's, from a device of that person: its token.
    Device(Actor, String),
    /// That of somebody who does not exist: nobody shall see that from the pauses.
    Nobody(u16),
    /// A partner code, by a student.
    Partner(Id),
}

impl Tried {
    /// The drawer of a name that does not exist.
    pub fn nobody(name: &str) -> Self {
        let digest = Sha256::digest(name.to_lowercase().as_bytes());
        Self::Nobody(u16::from_be_bytes([digest[0], digest[1]]) % DRAWERS)
    }

    fn key(&self) -> String {
        let person = |actor: &Actor| match actor {
            Actor::Student(id) => format!("student {id}"),
            Actor::Teacher(id) => format!("teacher {id}"),
        };
        match self {
            Self::Person(actor) => person(actor),
            Self::Device(actor, token) => format!("{} device {}", person(actor), secrets::token_hash(token)),
            Self::Nobody(drawer) => format!("nobody {drawer}"),
            Self::Partner(id) => format!("partner {id}"),
        }
    }
}

/// Seconds to wait after so many wrong tries.
pub fn pause(wrong: u32) -> i64 {
    let beyond = wrong.checked_sub(FREE);
    beyond.map_or(0, |beyond| 60i64.saturating_mul(1 << beyond.min(40)).min(LONGEST))
}

impl Store {
    /// Counts a try as a wrong one. `now` is in seconds since 1970.
    ///
    /// # Errors
    /// [`StoreError::Wait`] while the pause after the last one lasts: then nothing is counted, and the secret is not to be looked at.
    pub fn begin_try(&self, tried: &Tried, now: i64) -> Result<(), StoreError> {
        self.write(|t| {
            let key = tried.key();
            let sql = "SELECT wrong, at FROM tries WHERE key = ?";
            let before: Option<(u32, i64)> = t.query_row(sql, [&key], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
            let (wrong, at) = before.unwrap_or((0, 0));
            // A clock that was set back does not make anybody wait for it.
            let wait = at.min(now) + pause(wrong) - now;
            if wait > 0 {
                return Err(StoreError::Wait(wait));
            }
            let sql = "INSERT INTO tries (key, wrong, at) VALUES (?1, ?2, ?3)
                ON CONFLICT (key) DO UPDATE SET wrong = ?2, at = ?3";
            t.execute(sql, params![key, wrong + 1, now])?;
            Ok(())
        })
    }

    /// Takes back so many of the tries that were counted: they turned out to be right, or to be of whoever was right then.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn forgive(&self, tried: &Tried, count: u32) -> Result<(), StoreError> {
        self.write(|t| {
            t.execute("UPDATE tries SET wrong = max(0, wrong - ?) WHERE key = ?", params![count, tried.key()])?;
            t.execute("DELETE FROM tries WHERE wrong = 0 AND key = ?", [tried.key()])?;
            Ok(())
        })
    }

    /// How a try of a person from a device is to be counted.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn tried(&self, actor: Actor, device: Option<&str>) -> Result<Tried, StoreError> {
        let Some(token) = device else { return Ok(Tried::Person(actor)) };
        let (column, id) = column_of(actor);
        let sql = format!("SELECT EXISTS (SELECT 1 FROM devices WHERE {column} = ? AND token_hash = ?)");
        let known = self.read(|c| Ok(c.query_row(&sql, params![id, secrets::token_hash(token)], |r| r.get(0))?))?;
        Ok(if known { Tried::Device(actor, token.to_owned()) } else { Tried::Person(actor) })
    }

    /// Remembers a device from which somebody signed in; the oldest are forgotten.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn remember_device(&self, actor: Actor, token: &str, now: i64) -> Result<(), StoreError> {
        let (column, id) = column_of(actor);
        self.write(|t| {
            let hash = secrets::token_hash(token);
            t.execute(&format!("DELETE FROM devices WHERE {column} = ? AND token_hash = ?"), params![id, hash])?;
            t.execute(
                &format!("INSERT INTO devices (token_hash, {column}, seen) VALUES (?, ?, ?)"),
                params![hash, id, now],
            )?;
            let sql = format!(
                "DELETE FROM devices WHERE {column} = ?1 AND rowid NOT IN
                    (SELECT rowid FROM devices WHERE {column} = ?1 ORDER BY seen DESC, rowid DESC LIMIT ?2)"
            );
            t.execute(&sql, params![id, DEVICES])?;
            Ok(())
        })
    }
}

/// Forgets tries and devices of a person: the secret is another one now.
pub(crate) fn forget(t: &Transaction<'_>, actor: Actor) -> Result<(), StoreError> {
    let (column, id) = column_of(actor);
    t.execute(&format!("DELETE FROM devices WHERE {column} = ?"), [id])?;
    let key = Tried::Person(actor).key();
    t.execute("DELETE FROM tries WHERE key = ?1 OR key LIKE ?1 || ' device %'", [key])?;
    Ok(())
}

fn column_of(actor: Actor) -> (&'static str, Id) {
    match actor {
        Actor::Student(id) => ("student", id),
        Actor::Teacher(id) => ("teacher", id),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_school_year_is_too_short_for_a_pin() {
        // Whoever tries the moment it is allowed, from everywhere at once, and from three devices of the owner.
        let store = Store::open(tempfile::tempdir().unwrap().path()).unwrap();
        let year = 365 * 24 * 3600;
        let tried = Tried::Person(Actor::Student(7));
        let (mut now, mut tries) = (1_800_000_000, 0);
        let end = now + year;
        while now < end {
            match store.begin_try(&tried, now) {
                Ok(()) => tries += 1,
                Err(StoreError::Wait(seconds)) => now += seconds,
                Err(e) => panic!("{e}"),
            }
        }
        assert_eq!(tries, 31);
        assert!(f64::from(tries * (1 + DEVICES as u32)) / 10_000.0 < 0.013);
    }

    #[test]
    fn a_clock_that_is_set_back_locks_nobody_out() {
        let store = Store::open(tempfile::tempdir().unwrap().path()).unwrap();
        let tried = Tried::Partner(1);
        (0..5).for_each(|_| store.begin_try(&tried, 2_000_000_000).unwrap());
        assert!(matches!(store.begin_try(&tried, 1_000_000_000), Err(StoreError::Wait(60))));
    }
}
