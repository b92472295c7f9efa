//! Films and their frames, in a database file of their own.

use rusqlite::{OptionalExtension, Row, params};
use zeitmass_core::motion::{FilmFacts, MOST_FRAMES};

use crate::database::now;
use crate::{Id, Store, StoreError};

/// What a film may have at most.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct FilmLimits {
    /// Frames; 10,000 whatever is set here.
    pub frames: usize,
    /// Bytes of all frames.
    pub bytes: u64,
}

impl Default for FilmLimits {
    fn default() -> Self {
        Self { frames: 3000, bytes: 400_000_000 }
    }
}
/// Most films of one teacher or one logbook.
const MOST_FILMS: i64 = 100;
/// Films of full size that a logbook's, a teacher's and a class's films may take the bytes of.
const FULL_OF_LOGBOOK: u64 = 5;
const FULL_OF_TEACHER: u64 = 50;
const FULL_OF_CLASS: u64 = 50;

/// Whose a film is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FilmOwner {
    /// A demo film, by its name.
    Demo(String),
    /// A teacher's, for lab sheets.
    Teacher(Id),
    /// A logbook's.
    Logbook(Id),
}

/// A film as stored.
#[derive(Clone, Debug)]
pub struct FilmRow {
    /// Its identity.
    pub id: Id,
    /// Whose it is.
    pub owner: FilmOwner,
    /// What is known of it. Its key is the demo film's name, or `film 12`.
    pub facts: FilmFacts,
    /// Whether all its frames are there.
    pub whole: bool,
    /// Frames that are there.
    pub arrived: usize,
}

const COLUMNS: &str = "id, name, teacher, logbook, title, length, width, height, times, whole,
    (SELECT count(*) FROM frames WHERE film = films.id)";

fn read(r: &Row<'_>) -> rusqlite::Result<(FilmRow, String)> {
    let id: Id = r.get(0)?;
    let (name, teacher, logbook): (Option<String>, Option<Id>, Option<Id>) = (r.get(1)?, r.get(2)?, r.get(3)?);
    let key = name.clone().unwrap_or_else(|| format!("film {id}"));
    let owner = match (name, teacher, logbook) {
        (Some(name), ..) => FilmOwner::Demo(name),
        (None, Some(teacher), _) => FilmOwner::Teacher(teacher),
        (None, None, logbook) => FilmOwner::Logbook(logbook.unwrap_or_default()),
    };
    let facts =
        FilmFacts { key, title: r.get(4)?, length: r.get(5)?, width: r.get(6)?, height: r.get(7)?, times: Vec::new() };
    let arrived: i64 = r.get(10)?;
    Ok((FilmRow { id, owner, facts, whole: r.get(9)?, arrived: arrived.unsigned_abs() as usize }, r.get(8)?))
}

fn with_times((mut row, times): (FilmRow, String)) -> Result<FilmRow, StoreError> {
    row.facts.times = serde_json::from_str(&times).map_err(|e| StoreError::Content(e.to_string()))?;
    Ok(row)
}

impl Store {
    /// Begins a film whose frames are still to come. The facts' key is not used.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when it has too few or too many frames, or times that do not rise.
    pub fn begin_film(&self, owner: &FilmOwner, facts: &FilmFacts) -> Result<Id, StoreError> {
        let frames = facts.times.len();
        let most = self.film_limits().frames.min(MOST_FRAMES);
        if !(2..=most).contains(&frames) {
            return Err(StoreError::Invalid(format!(
                "A film has 2 to {most} frames; this one would have {frames}. Take a shorter part, or every second frame."
            )));
        }
        let rising = facts.times.windows(2).all(|w| w[1] > w[0]) && facts.times.iter().all(|t| t.abs() < 1e6);
        let size = 1..=4096;
        if !rising || !size.contains(&facts.width) || !size.contains(&facts.height) {
            return Err(StoreError::Invalid(
                "The film's times or the size of its picture cannot be those of a film. Nothing was added.".to_owned(),
            ));
        }
        let title: String = facts.title.trim().chars().take(80).collect();
        let title = if title.is_empty() { "Film".to_owned() } else { title };
        let times = serde_json::to_string(&facts.times).map_err(|e| StoreError::Content(e.to_string()))?;
        let (name, teacher, logbook) = match owner {
            FilmOwner::Demo(name) => (Some(name), None, None),
            FilmOwner::Teacher(id) => (None, Some(*id), None),
            FilmOwner::Logbook(id) => (None, None, Some(*id)),
        };
        self.film_room(owner)?;
        self.write_films(|t| {
            let sql = "SELECT count(*) FROM films WHERE teacher = ?1 OR logbook = ?2";
            let have: i64 = t.query_row(sql, params![teacher, logbook], |r| r.get(0))?;
            if have >= MOST_FILMS {
                return Err(StoreError::Invalid(format!("There are {MOST_FILMS} films already. Delete one first.")));
            }
            let sql = "UPDATE last_film SET id = id + 1 RETURNING id";
            let id: Id = t.query_row(sql, [], |r| r.get(0))?;
            let sql =
                "INSERT INTO films (id, name, teacher, logbook, title, length, width, height, times, frames, created)
                VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)";
            let values = params![
                id,
                name,
                teacher,
                logbook,
                title,
                facts.length,
                facts.width,
                facts.height,
                times,
                frames as i64,
                now()
            ];
            t.execute(sql, values)?;
            Ok(id)
        })
    }

    /// Bytes that an owner's films take, and may take.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when nothing more fits: of the owner's, of the class's, or on the disk.
    pub fn film_room(&self, owner: &FilmOwner) -> Result<(u64, u64), StoreError> {
        let film = self.film_limits().bytes;
        // A film that has just begun may become as large as films get.
        if self.free().is_some_and(|free| free < crate::keep::LEAST_FREE.saturating_add(film)) {
            return Err(StoreError::Invalid(
                "The disk of the server is nearly full: no film can be added now. Tell your teacher.".to_owned(),
            ));
        }
        let sum = |whose: &str| -> Result<u64, StoreError> {
            let sql = format!("SELECT coalesce(sum(bytes), 0) FROM films WHERE {whose}");
            let bytes: i64 = self.read_films(|c| Ok(c.query_row(&sql, [], |r| r.get(0))?))?;
            Ok(bytes.unsigned_abs())
        };
        let (used, most) = match owner {
            FilmOwner::Demo(_) => return Ok((0, film)),
            FilmOwner::Teacher(id) => (sum(&format!("teacher = {id}"))?, FULL_OF_TEACHER.saturating_mul(film)),
            FilmOwner::Logbook(id) => {
                let class: Vec<String> = self.read(|c| {
                    let sql = "SELECT l.id FROM logbooks l JOIN assignments a ON a.id = l.assignment WHERE a.class =
                        (SELECT a.class FROM logbooks l JOIN assignments a ON a.id = l.assignment WHERE l.id = ?)";
                    let mut query = c.prepare_cached(sql)?;
                    let ids = query.query_map([id], |r| r.get::<_, Id>(0))?;
                    Ok(ids.map(|id| id.map(|id| id.to_string())).collect::<Result<_, _>>()?)
                })?;
                let most = FULL_OF_CLASS.saturating_mul(film);
                if sum(&format!("logbook IN ({})", class.join(", ")))? >= most {
                    return Err(full("The films of this class", most));
                }
                (sum(&format!("logbook = {id}"))?, FULL_OF_LOGBOOK.saturating_mul(film))
            }
        };
        if used >= most { Err(full("The films here", most)) } else { Ok((used, most)) }
    }

    /// Keeps frames by number; one that comes again replaces itself. Gives how many have arrived.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for a number the film does not have, a film that is whole, or too many bytes.
    pub fn put_frames(&self, film: Id, frames: &[(u32, Vec<u8>)]) -> Result<usize, StoreError> {
        if self.free().is_some_and(|free| free < crate::keep::LEAST_FREE) {
            return Err(StoreError::Invalid(
                "The disk of the server is nearly full. What came before is kept; tell your teacher.".to_owned(),
            ));
        }
        self.write_films(|t| {
            let sql = "SELECT frames, whole FROM films WHERE id = ?";
            let found: Option<(u32, bool)> = t.query_row(sql, [film], |r| Ok((r.get(0)?, r.get(1)?))).optional()?;
            let (wanted, whole) = found.ok_or(StoreError::NotFound("film"))?;
            if whole {
                return Err(StoreError::Invalid("This film is whole already. Nothing was changed.".to_owned()));
            }
            for (number, jpeg) in frames {
                if *number >= wanted {
                    return Err(StoreError::Invalid(format!("This film has no frame {number}.")));
                }
                t.execute(
                    "INSERT OR REPLACE INTO frames (film, number, jpeg) VALUES (?, ?, ?)",
                    params![film, number, jpeg],
                )?;
            }
            let sql = "SELECT count(*), coalesce(sum(length(jpeg)), 0) FROM frames WHERE film = ?";
            let (arrived, bytes): (i64, i64) = t.query_row(sql, [film], |r| Ok((r.get(0)?, r.get(1)?)))?;
            t.execute("UPDATE films SET bytes = ? WHERE id = ?", params![bytes, film])?;
            let most = self.film_limits().bytes;
            if bytes.unsigned_abs() > most {
                let most = most / 1_000_000;
                return Err(StoreError::Invalid(format!(
                    "The frames of a film can take {most} MB. What came before is kept; choose a smaller size."
                )));
            }
            Ok(arrived.unsigned_abs() as usize)
        })
    }

    /// Numbers of the frames that have not arrived.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn missing_frames(&self, film: Id) -> Result<Vec<u32>, StoreError> {
        let row = self.film(film)?;
        let there: Vec<u32> = self.read_films(|c| {
            let mut query = c.prepare_cached("SELECT number FROM frames WHERE film = ? ORDER BY number")?;
            let rows = query.query_map([film], |r| r.get(0))?;
            Ok(rows.collect::<Result<_, _>>()?)
        })?;
        let there: std::collections::BTreeSet<u32> = there.into_iter().collect();
        Ok((0..row.facts.times.len() as u32).filter(|n| !there.contains(n)).collect())
    }

    /// Declares a film whole.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] while frames are missing.
    pub fn finish_film(&self, film: Id) -> Result<(), StoreError> {
        let missing = self.missing_frames(film)?.len();
        if missing > 0 {
            return Err(StoreError::Invalid(format!("{missing} frames of this film have not arrived yet.")));
        }
        self.write_films(|t| {
            t.execute("UPDATE films SET whole = 1 WHERE id = ?", [film])?;
            Ok(())
        })
    }

    /// A film by its identity.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn film(&self, film: Id) -> Result<FilmRow, StoreError> {
        let sql = format!("SELECT {COLUMNS} FROM films WHERE id = ?");
        let found = self.read_films(|c| Ok(c.query_row(&sql, [film], read).optional()?))?;
        with_times(found.ok_or(StoreError::NotFound("film"))?)
    }

    /// A demo film by its name, if it has been rendered.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn demo_film(&self, name: &str) -> Result<Option<FilmRow>, StoreError> {
        let sql = format!("SELECT {COLUMNS} FROM films WHERE name = ?");
        self.read_films(|c| Ok(c.query_row(&sql, [name], read).optional()?))?.map(with_times).transpose()
    }

    /// The films of a teacher or of a logbook, the newest first.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn films_of(&self, owner: &FilmOwner) -> Result<Vec<FilmRow>, StoreError> {
        let (column, id) = match owner {
            FilmOwner::Demo(name) => return Ok(self.demo_film(name)?.into_iter().collect()),
            FilmOwner::Teacher(id) => ("teacher", id),
            FilmOwner::Logbook(id) => ("logbook", id),
        };
        let sql = format!("SELECT {COLUMNS} FROM films WHERE {column} = ? ORDER BY id DESC");
        let rows: Vec<_> = self.read_films(|c| {
            let mut query = c.prepare_cached(&sql)?;
            let rows = query.query_map([id], read)?;
            Ok(rows.collect::<Result<_, _>>()?)
        })?;
        rows.into_iter().map(with_times).collect()
    }

    /// One frame as JPEG.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn frame(&self, film: Id, number: u32) -> Result<Vec<u8>, StoreError> {
        let sql = "SELECT jpeg FROM frames WHERE film = ? AND number = ?";
        let found = self.read_films(|c| {
            let mut query = c.prepare_cached(sql)?;
            Ok(query.query_row(params![film, number], |r| r.get(0)).optional()?)
        })?;
        found.ok_or(StoreError::NotFound("frame"))
    }

    /// Deletes a film with its frames.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn delete_film(&self, film: Id) -> Result<(), StoreError> {
        self.write_films(|t| {
            t.execute("DELETE FROM films WHERE id = ?", [film])?;
            Ok(())
        })
    }
}

fn full(what: &str, most: u64) -> StoreError {
    let most = most / 1_000_000;
    StoreError::Invalid(format!("{what} take {most} MB, which is as much as they can. Delete one first."))
}
