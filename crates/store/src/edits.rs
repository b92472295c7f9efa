//! The edits of logbooks, their snapshots and standings.
//!
//! [`Store::carry_out`] is the one way in: it plans an edit, stores wish and deed with the standing in one transaction, and only then
//! does the deed in memory. [`Store::load_logbook`] does the stored deeds again and judges nothing.

use std::sync::Arc;

use rusqlite::{Connection, ErrorCode, OptionalExtension, Transaction, params};
use serde::Serialize;
use serde::de::DeserializeOwned;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{
    Deed, Edit, Heard, Holder, Limit, Logbook, MadeByEdit, Refusal, SlipKind, Snapshot, Standing, StandingResult,
    Start, Step, Touched,
};
use zeitmass_words::Words;

use crate::drafts::growths;
use crate::{Id, Store, StoreError};

/// Edits after which a snapshot is due.
const SNAPSHOT_EVERY: u64 = 200;
/// Bytes of deeds after which a snapshot is due however few they are.
const SNAPSHOT_BYTES: usize = 1 << 20;

/// Bytes that one edit may store: a table as large as tables get.
const MOST_EDIT: u64 = 16_000_000;
/// Bytes that a logbook may store, those of all logbooks of a student, and those of a class.
const MOST_LOGBOOK: u64 = 64_000_000;
const MOST_STUDENT: u64 = 256_000_000;
const MOST_CLASS: u64 = 2_000_000_000;
/// Small edits go on in a full logbook for so many bytes more, so that what is there can be set right and handed in.
const SMALL: u64 = 2_000;
const RESERVE: u64 = 4_000_000;
/// Sums over many logbooks are looked at, and said, each time a logbook has grown by so much.
const ASKED_EVERY: u64 = 1_000_000;

/// Who did something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Actor {
    /// A student.
    Student(Id),
    /// A teacher.
    Teacher(Id),
}

/// An edit as stored.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct StoredEdit {
    /// Its number in the logbook, from 1.
    pub seq: u64,
    /// When it was made, in seconds since 1970 (UTC).
    pub at: i64,
    /// Who made it.
    pub by: Actor,
}

/// What somebody asks for.
#[derive(Clone, Copy, Debug)]
pub struct Asked<'a> {
    /// Who.
    pub by: Actor,
    /// By what it is recognised when it is sent twice.
    pub token: Option<&'a str>,
    /// What.
    pub edit: &'a Edit,
}

/// What came of it.
#[derive(Clone, Debug, PartialEq)]
pub struct CarriedOut {
    /// The edit as stored.
    pub saved: StoredEdit,
    /// What the person should hear about it.
    pub heard: Vec<Heard>,
    /// What it is about.
    pub about: Option<Touched>,
    /// What it has made.
    pub made: MadeByEdit,
    /// Length of what was stored.
    pub bytes: usize,
}

/// An edit with who made it, for whoever looks back.
#[derive(Clone, Debug, PartialEq)]
pub struct Past {
    /// Number, time and person.
    pub saved: StoredEdit,
    /// The person's name as it is now.
    pub name: String,
    /// What was asked for, as JSON.
    pub wish: String,
    /// Of undo and redo what was done, where it can be read.
    pub turned: Option<Deed>,
}

/// One person's share in a logbook.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Share {
    /// The name as it is now.
    pub name: String,
    /// How many edits.
    pub edits: u64,
    /// When the first was made, in seconds since 1970 (UTC).
    pub first: i64,
    /// When the last was made.
    pub last: i64,
}

/// A logbook read from the store.
#[derive(Clone, Debug)]
pub struct Loaded {
    /// The logbook.
    pub book: Logbook,
    /// Its last edit.
    pub last: Option<StoredEdit>,
    /// Number of the edit its snapshot is of; 0 without one.
    pub snapshot: u64,
}

/// How far a logbook is, as stored.
#[derive(Clone, Debug, PartialEq)]
pub struct StoredStanding {
    /// Number of the last edit; 0 for none.
    pub seq: u64,
    /// When that was, in seconds since 1970 (UTC).
    pub at: i64,
    /// The furthest step in which something was done.
    pub step: Step,
    /// Runs and marks.
    pub runs: u32,
    /// Trials in the first table.
    pub trials: u32,
    /// Rows of all tables.
    pub rows: u32,
    /// When it was handed in, if the teacher has it.
    pub handed_in: Option<i64>,
    /// Questions of the sheet; those answered; those answered rightly, as far as the program can tell.
    pub questions: [u32; 3],
    /// The step whose stamp is asked for, and since when, in seconds since 1970 (UTC).
    pub asks: Option<(Step, i64)>,
    /// Results, as they were after edit number `results_seq`.
    pub results: Vec<StandingResult>,
    /// See `results`.
    pub results_seq: u64,
    /// Likely mistakes, as old as the results.
    pub slips: Vec<SlipKind>,
}

impl Store {
    /// Carries out an edit: plans it, does it, and stores it. One whose token is stored already was done before, and is not done
    /// again.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when it cannot be done; then `book` is as it was. After any other error memory and store may differ:
    /// load the logbook again.
    pub fn carry_out(&self, logbook: Id, book: &mut Logbook, asked: Asked<'_>) -> Result<CarriedOut, StoreError> {
        if let Some(before) = self.done_before(logbook, asked.token)? {
            return Ok(before);
        }
        let at = jiff::Timestamp::now().as_second();
        let intent = book.plan(asked.edit, at)?;
        let made = intent.deed.made();
        let (wish, deed) = (to_json(asked.edit)?, to_json(&intent.deed)?);
        let room = self.room(logbook, (wish.len() + deed.len()) as u64)?;
        let about = intent.about;
        let heard = intent.heard.into_iter().chain(room).collect();
        book.take(intent.deed).map_err(|e| StoreError::Content(format!("{e:?}")))?;
        let saved = StoredEdit { seq: book.seq(), at, by: asked.by };
        let standing = book.standing();
        let step = book.step_of(asked.edit).map(Step::name);
        self.write(|t| {
            append(t, logbook, saved, asked.token, (&wish, &deed, step))?;
            save_standing(t, logbook, saved, &standing, wish.len() + deed.len())
        })?;
        Ok(CarriedOut { saved, heard, about, made, bytes: deed.len() })
    }

    /// Whether there is room for so many bytes more; what is heard when it gets tight.
    ///
    /// # Errors
    /// [`StoreError::Refused`] when there is none.
    fn room(&self, logbook: Id, coming: u64) -> Result<Option<Heard>, StoreError> {
        let full = |holder: Holder, most: u64| {
            StoreError::Refused(Refusal::Limit(Limit::Space { holder, most: most / 1_000_000 }))
        };
        if coming > MOST_EDIT {
            return Err(full(Holder::Edit, MOST_EDIT));
        }
        self.read(|c| {
            let sql = "SELECT bytes FROM standings WHERE logbook = ?";
            let before: Option<i64> = c.prepare_cached(sql)?.query_row([logbook], |r| r.get(0)).optional()?;
            let before = before.unwrap_or_default().unsigned_abs();
            let after = before + coming;
            let spare = if coming <= SMALL { RESERVE } else { 0 };
            if after > MOST_LOGBOOK + spare {
                return Err(full(Holder::Logbook, MOST_LOGBOOK));
            }
            if before / ASKED_EVERY == after / ASKED_EVERY {
                return Ok(None);
            }
            let sum = |sql: &str| -> Result<u64, StoreError> {
                let sum: Option<i64> = c.prepare_cached(sql)?.query_row([logbook], |r| r.get(0))?;
                Ok(sum.unwrap_or_default().unsigned_abs() + coming)
            };
            let students = sum("SELECT max(total) FROM (SELECT sum(s.bytes) AS total FROM members o
                JOIN members m ON m.student = o.student JOIN standings s ON s.logbook = m.logbook
                WHERE o.logbook = ? GROUP BY o.student)")?;
            let class = sum("SELECT sum(s.bytes) FROM standings s JOIN logbooks l ON l.id = s.logbook
                JOIN assignments a ON a.id = l.assignment WHERE a.class =
                (SELECT a.class FROM logbooks l JOIN assignments a ON a.id = l.assignment WHERE l.id = ?)")?;
            let all = [
                (Holder::Logbook, after, MOST_LOGBOOK),
                (Holder::Student, students, MOST_STUDENT),
                (Holder::Class, class, MOST_CLASS),
            ];
            if let Some((holder, _, most)) = all.iter().find(|(_, bytes, most)| *bytes > most + spare) {
                return Err(full(*holder, *most));
            }
            let tight = all.iter().find(|(_, bytes, most)| bytes * 5 > most * 4);
            Ok(tight.map(|(holder, bytes, most)| {
                let [held, most] = [*bytes, *most].map(|b| b / 1_000_000);
                Heard::Tight { holder: *holder, held, most }
            }))
        })
    }

    /// The edit with this token, if it was carried out before.
    fn done_before(&self, logbook: Id, token: Option<&str>) -> Result<Option<CarriedOut>, StoreError> {
        let Some(token) = token else { return Ok(None) };
        self.read(|c| {
            let sql = "SELECT seq, at, student, teacher, deed FROM edits WHERE logbook = ? AND token = ?";
            let mut query = c.prepare_cached(sql)?;
            let found = query.query_row(params![logbook, token], |r| Ok((stored(r)?, r.get::<_, String>(4)?)));
            Ok(found.optional()?.map(|(saved, deed)| {
                // One that cannot be read was done all the same.
                let made = from_json::<Deed>(&deed).map(|d| d.made()).unwrap_or_default();
                CarriedOut { saved, heard: Vec::new(), about: None, made, bytes: 0 }
            }))
        })
    }

    /// Reads a logbook: what it started with or its newest snapshot, and the deeds since.
    ///
    /// From a deed that this program cannot read on, nothing is read, and the logbook is closed: nothing can be added to it.
    ///
    /// # Errors
    /// [`StoreError::Content`] when the sheet or the start cannot be read.
    pub fn load_logbook(&self, logbook: Id) -> Result<Loaded, StoreError> {
        self.read(|c| {
            let snapshot = newest_snapshot(c, logbook)?;
            replayed(c, logbook, snapshot, u64::MAX)
        })
    }

    /// A logbook as it was after an earlier edit; 0 for what it began with.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such edit, or it cannot be read; [`StoreError::Content`] as for [`Self::load_logbook`].
    pub fn logbook_at(&self, logbook: Id, seq: u64) -> Result<Logbook, StoreError> {
        let book = self.read(|c| replayed(c, logbook, None, seq))?.book;
        if book.seq() == seq { Ok(book) } else { Err(StoreError::NotFound("edit")) }
    }

    /// Whether a snapshot should be taken: so many edits after the last one.
    pub fn snapshot_is_due(edits: u64, bytes: usize) -> bool {
        edits >= SNAPSHOT_EVERY || bytes >= SNAPSHOT_BYTES
    }

    /// Stores a snapshot in place of an earlier one.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn save_snapshot(&self, logbook: Id, snapshot: &Snapshot) -> Result<(), StoreError> {
        let (seq, content) = (number(snapshot.seq())?, to_json(snapshot)?);
        self.write(|t| {
            let sql = "INSERT INTO snapshots (logbook, seq, content) VALUES (?1, ?2, ?3)
                ON CONFLICT (logbook) DO UPDATE SET seq = ?2, content = ?3 WHERE seq < ?2";
            t.execute(sql, params![logbook, seq, content])?;
            Ok(())
        })
    }

    /// Stores the results of a logbook and its likely mistakes as they are after edit number `seq`.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn save_results(
        &self,
        logbook: Id,
        seq: u64,
        (results, slips): (&[StandingResult], &[SlipKind]),
    ) -> Result<(), StoreError> {
        let (seq, results, slips) = (number(seq)?, to_json(results)?, to_json(slips)?);
        self.write(|t| {
            let sql = "UPDATE standings SET results = ?1, results_seq = ?2, slips = ?4 WHERE logbook = ?3 AND results_seq < ?2";
            t.execute(sql, params![results, seq, logbook, slips])?;
            Ok(())
        })
    }

    /// What was done in a logbook before edit number `before`, the newest first.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn history(&self, logbook: Id, before: Option<u64>, most: usize) -> Result<Vec<Past>, StoreError> {
        let before = number(before.unwrap_or(i64::MAX.unsigned_abs()))?;
        let sql = r#"SELECT e.seq, e.at, e.student, e.teacher, coalesce(s.name, t.name, ''), e.wish,
            CASE WHEN e.wish IN ('"undo"', '"redo"') THEN e.deed END FROM edits e
            LEFT JOIN students s ON s.id = e.student LEFT JOIN teachers t ON t.id = e.teacher
            WHERE e.logbook = ? AND e.seq < ? ORDER BY e.seq DESC LIMIT ?"#;
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map(params![logbook, before, most as i64], |r| {
                let deed: Option<String> = r.get(6)?;
                let turned = deed.and_then(|deed| from_json(&deed).ok());
                Ok(Past { saved: stored(r)?, name: r.get(4)?, wish: r.get(5)?, turned })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// How many edits each person made in a logbook, and when the first and the last, in seconds since 1970 (UTC).
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn shares(&self, logbook: Id) -> Result<Vec<Share>, StoreError> {
        let sql = "SELECT coalesce(s.name, t.name, ''), count(*), min(e.at), max(e.at) FROM edits e
            LEFT JOIN students s ON s.id = e.student LEFT JOIN teachers t ON t.id = e.teacher
            WHERE e.logbook = ? GROUP BY e.student, e.teacher ORDER BY count(*) DESC";
        self.read(|c| {
            let mut query = c.prepare_cached(sql)?;
            let rows = query.query_map([logbook], |r| {
                let edits: i64 = r.get(1)?;
                Ok(Share { name: r.get(0)?, edits: edits.unsigned_abs(), first: r.get(2)?, last: r.get(3)? })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// How far a logbook is; none while nothing was done in it.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub fn standing(&self, logbook: Id) -> Result<Option<StoredStanding>, StoreError> {
        self.read(|c| {
            let sql = format!("SELECT {STANDING} FROM standings s WHERE s.logbook = ?");
            let mut query = c.prepare_cached(&sql)?;
            Ok(query.query_row([logbook], |r| standing_at(r, 0)).optional()?)
        })
    }
}

/// Columns of a standing, for [`standing_at`].
pub(crate) const STANDING: &str =
    "s.seq, s.at, s.step, s.runs, s.trials, s.row_count, s.handed_in, s.results, s.results_seq,
    s.questions, s.answered, s.answered_right, s.stamp_step, s.stamp_asked, s.slips";

/// A standing whose columns begin at a place.
pub(crate) fn standing_at(r: &rusqlite::Row<'_>, from: usize) -> rusqlite::Result<StoredStanding> {
    // What a newer program wrote and this one does not know counts as nothing done, rather than to hide a whole class.
    let step: String = r.get(from + 2)?;
    let results: String = r.get(from + 7)?;
    let asks: Option<String> = r.get(from + 12)?;
    let slips: String = r.get(from + 14)?;
    Ok(StoredStanding {
        seq: r.get::<_, i64>(from)?.unsigned_abs(),
        at: r.get(from + 1)?,
        step: serde_json::from_str(&format!("\"{step}\"")).unwrap_or(Step::Question),
        runs: r.get(from + 3)?,
        trials: r.get(from + 4)?,
        rows: r.get(from + 5)?,
        handed_in: r.get(from + 6)?,
        results: serde_json::from_str(&results).unwrap_or_default(),
        results_seq: r.get::<_, i64>(from + 8)?.unsigned_abs(),
        questions: [r.get(from + 9)?, r.get(from + 10)?, r.get(from + 11)?],
        asks: asks.and_then(|name| Step::named(&name)).zip(r.get(from + 13)?),
        slips: serde_json::from_str(&slips).unwrap_or_default(),
    })
}

fn append(
    t: &Transaction<'_>,
    logbook: Id,
    saved: StoredEdit,
    token: Option<&str>,
    (wish, deed, step): (&str, &str, Option<&str>),
) -> Result<(), StoreError> {
    let seq = number(saved.seq)?;
    let sql = "SELECT coalesce(max(seq), 0) + 1 FROM edits WHERE logbook = ?";
    let next: i64 = t.prepare_cached(sql)?.query_row([logbook], |r| r.get(0))?;
    if next != seq {
        return Err(StoreError::OutOfStep);
    }
    let (student, teacher) = match saved.by {
        Actor::Student(id) => (Some(id), None),
        Actor::Teacher(id) => (None, Some(id)),
    };
    let sql = "INSERT INTO edits (logbook, seq, at, student, teacher, token, wish, deed, step) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)";
    let values = params![logbook, seq, saved.at, student, teacher, token, wish, deed, step];
    t.prepare_cached(sql)?.execute(values).map_err(|e| match e.sqlite_error_code() {
        Some(ErrorCode::ConstraintViolation) => StoreError::OutOfStep,
        _ => e.into(),
    })?;
    Ok(())
}

fn save_standing(
    t: &Transaction<'_>,
    logbook: Id,
    saved: StoredEdit,
    standing: &Standing,
    bytes: usize,
) -> Result<(), StoreError> {
    let sql = "INSERT INTO standings (logbook, seq, at, step, runs, trials, row_count, handed_in, bytes,
            questions, answered, answered_right, stamp_step, stamp_asked)
        VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, iif(?8, ?3, NULL), ?9, ?10, ?11, ?12, ?13, ?14)
        ON CONFLICT (logbook) DO UPDATE SET seq = ?2, at = ?3, step = ?4, runs = ?5, trials = ?6, row_count = ?7,
            handed_in = iif(?8, coalesce(handed_in, ?3), NULL), bytes = bytes + ?9,
            questions = ?10, answered = ?11, answered_right = ?12, stamp_step = ?13, stamp_asked = ?14";
    let step = serde_json::to_value(standing.step).map_err(|e| StoreError::Content(e.to_string()))?;
    let Standing { step: _, runs, trials, rows, handed_in, asks, questions, answered, right } = *standing;
    let asks = asks.map(|(step, at)| (step.name(), at));
    let values = params![
        logbook,
        number(saved.seq)?,
        saved.at,
        step.as_str(),
        runs as i64,
        trials as i64,
        rows as i64,
        handed_in,
        bytes as i64,
        questions as i64,
        answered as i64,
        right as i64,
        asks.map(|(step, _)| step),
        asks.map(|(_, at)| at)
    ];
    t.prepare_cached(sql)?.execute(values)?;
    Ok(())
}

/// Seq, at, student and teacher of a row.
fn stored(r: &rusqlite::Row<'_>) -> rusqlite::Result<StoredEdit> {
    let (student, teacher): (Option<Id>, Option<Id>) = (r.get(2)?, r.get(3)?);
    let by = match (student, teacher) {
        (Some(id), _) => Actor::Student(id),
        (None, id) => Actor::Teacher(id.unwrap_or_default()),
    };
    Ok(StoredEdit { seq: r.get::<_, i64>(0)?.unsigned_abs(), at: r.get(1)?, by })
}

/// What a logbook started with or a snapshot of it, and the deeds since, up to an edit.
fn replayed(c: &Connection, logbook: Id, snapshot: Option<Snapshot>, until: u64) -> Result<Loaded, StoreError> {
    let sql =
        "SELECT v.source, l.seed, l.start FROM logbooks l JOIN sheet_versions v ON v.id = l.version WHERE l.id = ?";
    let found =
        c.query_row(sql, [logbook], |r| Ok((r.get::<_, String>(0)?, r.get::<_, i64>(1)?, r.get::<_, String>(2)?)));
    let (source, seed, start) = found.optional()?.ok_or(StoreError::NotFound("logbook"))?;
    let read = |text: &str| LabSheet::parse_kept(text).map_err(|e| StoreError::Content(e.words()));
    let grown = growths(c, logbook)?;
    let sheet =
        grown.iter().try_fold(read(&source)?, |sheet, later| Ok::<_, StoreError>(sheet.grown(&read(later)?)))?;
    let start: Start = from_json(&start)?;
    let mut book = Logbook::resume(Arc::new(sheet), seed.unsigned_abs(), start, snapshot);
    let snapshot = book.seq();
    let mut last = None;
    let sql = "SELECT seq, at, student, teacher, deed FROM edits WHERE logbook = ? AND seq >= ? ORDER BY seq";
    let mut query = c.prepare_cached(sql)?;
    let mut rows = query.query(params![logbook, number(snapshot)?])?;
    while let Some(row) = rows.next()? {
        let saved = stored(row)?;
        if saved.seq > until {
            break;
        }
        last = Some(saved);
        // The snapshot's own edit only tells who was last.
        if saved.seq <= snapshot {
            continue;
        }
        let text: String = row.get(4)?;
        let taken = from_json::<Deed>(&text).is_ok_and(|deed| book.take(deed).is_ok());
        if !taken || saved.seq != book.seq() {
            tracing::warn!(logbook, seq = saved.seq, "a stored edit cannot be read; the logbook is closed there");
            book.close_unread();
            break;
        }
    }
    Ok(Loaded { book, last, snapshot })
}

/// The newest snapshot, if this program can read it.
fn newest_snapshot(c: &Connection, logbook: Id) -> Result<Option<Snapshot>, StoreError> {
    let mut query = c.prepare_cached("SELECT content FROM snapshots WHERE logbook = ?")?;
    let content: Option<String> = query.query_row([logbook], |r| r.get(0)).optional()?;
    Ok(content.and_then(|text| {
        let read = from_json(&text);
        read.inspect_err(|e| tracing::warn!(logbook, error = %e, "a snapshot cannot be read and is left out")).ok()
    }))
}

fn number(seq: u64) -> Result<i64, StoreError> {
    i64::try_from(seq).map_err(|e| StoreError::Content(e.to_string()))
}

pub(crate) fn to_json<T: Serialize + ?Sized>(value: &T) -> Result<String, StoreError> {
    serde_json::to_string(value).map_err(|e| StoreError::Content(e.to_string()))
}

fn from_json<T: DeserializeOwned>(text: &str) -> Result<T, StoreError> {
    serde_json::from_str(text).map_err(|e| StoreError::Content(e.to_string()))
}
