//! Opening the database, its migrations, one writer and a pool of readers.

use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::Instant;

use rusqlite::{Connection, OpenFlags, OptionalExtension, Transaction, TransactionBehavior};
use rusqlite_migration::{M, Migrations};

use crate::{FilmLimits, Id, StoreError, secrets};

/// Migrations in order; they only go forward.
static STEPS: [M<'static>; 6] = [
    M::up(include_str!("../migrations/1-start.sql")),
    M::up(include_str!("../migrations/2-trust.sql")),
    M::up(include_str!("../migrations/3-people.sql")),
    M::up(include_str!("../migrations/4-lesson.sql")),
    M::up(include_str!("../migrations/5-drafting.sql")),
    M::up(include_str!("../migrations/6-argument.sql")),
];
static MIGRATIONS: Migrations<'static> = Migrations::from_slice(&STEPS);

/// Names of the files.
pub(crate) const WORK: &str = "zeitmass.sqlite";
pub(crate) const FILMS: &str = "films.sqlite";

/// Idle reading connections kept.
const IDLE_READERS: usize = 4;

/// Migrations of the films' file.
static FILM_STEPS: [M<'static>; 2] =
    [M::up(include_str!("../migrations/films-1.sql")), M::up(include_str!("../migrations/films-2.sql"))];
static FILM_MIGRATIONS: Migrations<'static> = Migrations::from_slice(&FILM_STEPS);

/// The store of one data folder: one file for people and their work, one for films.
#[derive(Debug)]
pub struct Store {
    folder: PathBuf,
    work: Base,
    films: Base,
    limits: FilmLimits,
    deals_alike: bool,
    /// When it was opened, by the clock that never jumps and by the one that does, as far as that is believed.
    opened: (Instant, i64),
}

impl Store {
    /// Opens the data folder, making it if need be, and brings its databases up to date.
    ///
    /// # Errors
    /// [`StoreError`] when the folder cannot be used.
    pub fn open(folder: &Path) -> Result<Self, StoreError> {
        std::fs::create_dir_all(folder)?;
        let work = Base::open(folder.join(WORK), &MIGRATIONS)?;
        let films = Base::open(folder.join(FILMS), &FILM_MIGRATIONS)?;
        films.gives_space_back()?;
        let last = work.read(|c| Ok(c.query_row("SELECT at FROM clock", [], |r| r.get(0)).optional()?))?;
        let opened = (Instant::now(), believed(jiff::Timestamp::now().as_second(), last));
        Ok(Self { folder: folder.to_owned(), work, films, limits: FilmLimits::default(), deals_alike: false, opened })
    }

    /// Opens a data folder that is there already.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when it holds no data, else as [`Self::open`].
    pub fn open_there(folder: &Path) -> Result<Self, StoreError> {
        if !folder.join(WORK).exists() {
            return Err(StoreError::Invalid(format!("{} is no data folder of Zeitmass.", folder.display())));
        }
        Self::open(folder)
    }

    /// The same store with other limits for films.
    #[must_use]
    pub fn with_film_limits(self, limits: FilmLimits) -> Self {
        Self { limits, ..self }
    }

    /// The same store dealing every new logbook the values its lab and its place in the class always get, so that a demo can
    /// be told about and tried again. Students could look such values up; a class deals by chance.
    #[must_use]
    pub fn dealing_alike(self) -> Self {
        Self { deals_alike: true, ..self }
    }

    /// The seed of the next logbook of a lab.
    pub(crate) fn seed(&self, t: &Transaction, assignment: Id) -> Result<i64, StoreError> {
        if !self.deals_alike {
            return Ok(secrets::seed());
        }
        let sql = "SELECT count(*) FROM logbooks WHERE assignment = ?";
        let before: i64 = t.query_row(sql, [assignment], |r| r.get(0))?;
        Ok((assignment << 16) + before)
    }

    /// The moment for sessions, in seconds since 1970 (UTC): whatever happens to the clock of the machine, it goes on evenly.
    pub(crate) fn even_now(&self) -> i64 {
        let (instant, at) = self.opened;
        at.saturating_add_unsigned(instant.elapsed().as_secs())
    }

    /// A file without a name in the data folder, which is gone when it is closed: for what is too large to be held in memory.
    ///
    /// # Errors
    /// [`StoreError`] when the folder cannot be written.
    pub fn scratch(&self) -> Result<std::fs::File, StoreError> {
        Ok(tempfile::tempfile_in(&self.folder)?)
    }

    /// Bytes that are free on the disk of the data folder, if that can be told.
    pub fn free(&self) -> Option<u64> {
        free(&self.folder)
    }

    /// Gives space of what was deleted back to the disk, a little at a time, so that others come in between.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn give_space_back(&self) -> Result<(), StoreError> {
        while self.films.give_some_back()? {}
        Ok(())
    }

    /// What a film may have at most.
    pub fn film_limits(&self) -> FilmLimits {
        self.limits
    }

    /// Runs `work` in one writing transaction; an error takes everything back.
    pub(crate) fn write<T>(
        &self,
        work: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        self.work.write(work)
    }

    /// Runs `work` on a reading connection.
    pub(crate) fn read<T>(&self, work: impl FnOnce(&Connection) -> Result<T, StoreError>) -> Result<T, StoreError> {
        self.work.read(work)
    }

    /// As [`Self::write`], in the films' file.
    pub(crate) fn write_films<T>(
        &self,
        work: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        self.films.write(work)
    }

    /// As [`Self::read`], in the films' file.
    pub(crate) fn read_films<T>(
        &self,
        work: impl FnOnce(&Connection) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        self.films.read(work)
    }
}

/// Bytes that are free on a disk, if that can be told.
pub(crate) fn free(folder: &Path) -> Option<u64> {
    rustix::fs::statvfs(folder).ok().map(|s| s.f_bavail.saturating_mul(s.f_frsize))
}

/// Seconds that a server may have been switched off for before its clock is thought to have jumped: 400 days.
const LONGEST_BREAK: i64 = 400 * 24 * 3600;

/// The moment, by a clock that may have jumped since it was last looked at.
fn believed(clock: i64, last: Option<i64>) -> i64 {
    match last {
        Some(last) if clock < last || clock - last > LONGEST_BREAK => last,
        Some(_) | None => clock,
    }
}

/// Pages given back at a time: 4 MB.
const GIVEN_BACK: i64 = 1000;

/// One database file: one writer and a pool of readers.
#[derive(Debug)]
struct Base {
    path: PathBuf,
    writer: Mutex<Connection>,
    readers: Mutex<Vec<Connection>>,
}

impl Base {
    fn open(path: PathBuf, migrations: &Migrations<'_>) -> Result<Self, StoreError> {
        let mut writer = Connection::open(&path)?;
        writer.pragma_update(None, "journal_mode", "wal")?;
        // An acknowledged edit survives a power cut.
        writer.pragma_update(None, "synchronous", "full")?;
        writer.pragma_update(None, "foreign_keys", true)?;
        writer.busy_timeout(std::time::Duration::from_secs(5))?;
        migrations.to_latest(&mut writer)?;
        Ok(Self { path, writer: Mutex::new(writer), readers: Mutex::default() })
    }

    /// Lets the file shrink when something is deleted. One of a time before that is written anew once.
    fn gives_space_back(&self) -> Result<(), StoreError> {
        let writer = lock(&self.writer);
        let now: i64 = writer.query_row("PRAGMA auto_vacuum", [], |r| r.get(0))?;
        // 2 is incremental.
        if now != 2 {
            writer.pragma_update(None, "auto_vacuum", 2)?;
            writer.execute_batch("VACUUM")?;
        }
        Ok(())
    }

    /// Gives some free pages back; whether there are more.
    fn give_some_back(&self) -> Result<bool, StoreError> {
        let writer = lock(&self.writer);
        {
            let mut step = writer.prepare(&format!("PRAGMA incremental_vacuum({GIVEN_BACK})"))?;
            let mut pages = step.query([])?;
            while pages.next()?.is_some() {}
        }
        let left: i64 = writer.query_row("PRAGMA freelist_count", [], |r| r.get(0))?;
        if left == 0 {
            // What the file gave back is given to the disk when the log is written into it.
            writer.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()))?;
        }
        Ok(left > 0)
    }

    fn write<T>(&self, work: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError>) -> Result<T, StoreError> {
        let mut writer = lock(&self.writer);
        let transaction = writer.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let value = work(&transaction)?;
        transaction.commit()?;
        Ok(value)
    }

    fn read<T>(&self, work: impl FnOnce(&Connection) -> Result<T, StoreError>) -> Result<T, StoreError> {
        let idle = lock(&self.readers).pop();
        let reader = match idle {
            Some(reader) => reader,
            None => {
                let reader = Connection::open_with_flags(&self.path, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
                reader.busy_timeout(std::time::Duration::from_secs(5))?;
                reader
            }
        };
        let value = work(&reader);
        let mut readers = lock(&self.readers);
        if readers.len() < IDLE_READERS {
            readers.push(reader);
        }
        value
    }
}

/// A thread that panicked held no half-done transaction: SQLite rolled it back.
fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

/// The moment, as stored.
pub(crate) fn now() -> String {
    written(jiff::Timestamp::now().as_second())
}

/// A moment in seconds since 1970 (UTC), as stored.
pub(crate) fn written(at: i64) -> String {
    let at = jiff::Timestamp::from_second(at).unwrap_or_default();
    at.strftime("%Y-%m-%dT%H:%M:%SZ").to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn migrations_are_sound_from_every_earlier_version() {
        MIGRATIONS.validate().unwrap();
        FILM_MIGRATIONS.validate().unwrap();
        for version in 0..=STEPS.len() {
            let mut connection = Connection::open_in_memory().unwrap();
            MIGRATIONS.to_version(&mut connection, version).unwrap();
            MIGRATIONS.to_latest(&mut connection).unwrap();
        }
    }
}
