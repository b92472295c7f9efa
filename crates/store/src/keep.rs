//! Keeping a data folder: a copy of it in one file while the server runs, the way back, and whether a folder is sound.
//!
//! A copy is a zip, not packed (films are packed already), of both databases as they were at one moment, each with its SHA-256.

use std::fs::File;
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};

use rusqlite::backup::{Backup, StepResult};
use rusqlite::{Connection, OpenFlags};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

use crate::database::{FILMS, WORK, now};
use crate::{Store, StoreError};

/// What a copy says of itself.
const CONTENTS: &str = "contents.json";
/// Pages copied at a time.
const STEP: i32 = 1000;

#[derive(Debug, Serialize, Deserialize)]
struct Contents {
    made: String,
    program: String,
    /// Names of the databases with their SHA-256.
    files: Vec<(String, String)>,
}

fn invalid(message: impl Into<String>) -> StoreError {
    StoreError::Invalid(message.into())
}

fn zipped(e: zip::result::ZipError) -> StoreError {
    StoreError::Content(e.to_string())
}

/// Copies a data folder into one file, while a server may be at work in it. The file appears whole or not at all.
///
/// # Errors
/// [`StoreError::Invalid`] when the folder holds no data or the file is there already; [`StoreError::Content`] when a copy is not sound.
pub fn backup(folder: &Path, to: &Path) -> Result<(), StoreError> {
    if to.exists() {
        return Err(invalid(format!("{} is there already. Nothing was written; choose another name.", to.display())));
    }
    let beside = to.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let copies = beside.join(format!(".zeitmass-copy-{}", std::process::id()));
    std::fs::create_dir(&copies)?;
    let outcome = copy(folder, &copies).and_then(|contents| pack(&copies, &contents, to));
    std::fs::remove_dir_all(&copies)?;
    outcome
}

/// Copies both databases as they are at one moment.
fn copy(folder: &Path, copies: &Path) -> Result<Contents, StoreError> {
    let open = |name: &str| -> Result<Connection, StoreError> {
        let path = folder.join(name);
        if !path.exists() {
            return Err(invalid(format!("There is no {name} in {}. Nothing was written.", folder.display())));
        }
        let connection = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_WRITE)?;
        connection.busy_timeout(std::time::Duration::from_secs(5))?;
        Ok(connection)
    };
    let (work, films) = (open(WORK)?, open(FILMS)?);
    // From its first look on, a transaction sees one moment. Films first: one that is added in between is not missed by any logbook.
    for source in [&films, &work] {
        source.execute_batch("BEGIN")?;
        source.query_row("SELECT count(*) FROM sqlite_schema", [], |r| r.get::<_, i64>(0))?;
    }
    let mut files = Vec::new();
    for (name, source) in [(WORK, &work), (FILMS, &films)] {
        let path = copies.join(name);
        let mut target = Connection::open(&path)?;
        {
            let backup = Backup::new(source, &mut target)?;
            while backup.step(STEP)? != StepResult::Done {}
        }
        target.pragma_update(None, "journal_mode", "delete")?;
        sound(&target, name)?;
        drop(target);
        files.push((name.to_owned(), digest(&mut File::open(&path)?)?));
    }
    Ok(Contents { made: now(), program: env!("CARGO_PKG_VERSION").to_owned(), files })
}

fn pack(copies: &Path, contents: &Contents, to: &Path) -> Result<(), StoreError> {
    let part = copies.join("part");
    let mut zip = ZipWriter::new(File::create(&part)?);
    let plain = SimpleFileOptions::default().compression_method(CompressionMethod::Stored).large_file(true);
    zip.start_file(CONTENTS, plain).map_err(zipped)?;
    zip.write_all(&serde_json::to_vec_pretty(contents).map_err(|e| StoreError::Content(e.to_string()))?)?;
    for (name, _) in &contents.files {
        zip.start_file(name.as_str(), plain).map_err(zipped)?;
        io::copy(&mut File::open(copies.join(name))?, &mut zip)?;
    }
    zip.finish().map_err(zipped)?.sync_all()?;
    std::fs::rename(part, to)?;
    Ok(())
}

/// Brings a data folder back from a copy. The folder has to be empty; it is filled whole or not at all.
///
/// # Errors
/// [`StoreError::Invalid`] for a folder that holds something or a file that is no copy; [`StoreError::Content`] for a damaged one.
pub fn restore(from: &Path, folder: &Path) -> Result<(), StoreError> {
    let mut zip = ZipArchive::new(File::open(from)?)
        .map_err(|e| invalid(format!("{} is no copy of a data folder ({e}). Nothing was written.", from.display())))?;
    let mut text = String::new();
    zip.by_name(CONTENTS).map_err(zipped)?.take(100_000).read_to_string(&mut text)?;
    let contents: Contents = serde_json::from_str(&text).map_err(|e| StoreError::Content(e.to_string()))?;
    let names: Vec<&str> = contents.files.iter().map(|(name, _)| name.as_str()).collect();
    if names != [WORK, FILMS] {
        return Err(invalid("This copy does not hold both databases. Nothing was written."));
    }
    std::fs::create_dir_all(folder)?;
    if std::fs::read_dir(folder)?.filter_map(Result::ok).any(|entry| entry.file_name() != "zeitmass.lock") {
        return Err(invalid(format!("{} is not empty. Nothing was written; choose another folder.", folder.display())));
    }
    let part = |name: &str| folder.join(format!("{name}.part"));
    let unpack = |zip: &mut ZipArchive<File>| -> Result<(), StoreError> {
        for (name, hash) in &contents.files {
            let mut file = File::create(part(name))?;
            io::copy(&mut zip.by_name(name).map_err(zipped)?, &mut file)?;
            file.sync_all()?;
            if digest(&mut File::open(part(name))?)? != *hash {
                return Err(StoreError::Content(format!("{name} in the copy is damaged. Nothing was brought back")));
            }
            sound(&Connection::open(part(name))?, name)?;
        }
        Ok(())
    };
    if let Err(e) = unpack(&mut zip) {
        for name in names {
            let _ = std::fs::remove_file(part(name));
        }
        return Err(e);
    }
    for name in names {
        std::fs::rename(part(name), folder.join(name))?;
    }
    Ok(())
}

/// What was found in a data folder.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Checked {
    /// Logbooks, and how many of them can be read to their last edit.
    pub logbooks: (usize, usize),
    /// Bytes that are free on the disk, if that can be told.
    pub free: Option<u64>,
    /// Bytes of the databases.
    pub bytes: u64,
    /// What is wrong, in sentences.
    pub faults: Vec<String>,
}

/// Looks through a data folder: whether both databases are sound, every logbook can be read, and there is room on the disk.
///
/// # Errors
/// [`StoreError`] when the folder cannot be read at all.
pub fn check(folder: &Path) -> Result<Checked, StoreError> {
    let mut found = Checked::default();
    let paths: Vec<PathBuf> = [WORK, FILMS].iter().map(|name| folder.join(name)).collect();
    for path in &paths {
        if !path.exists() {
            return Err(invalid(format!("There is no {}. Is this the data folder?", path.display())));
        }
        found.bytes += path.metadata()?.len();
        let connection = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
        if let Err(e) = sound(&connection, &path.display().to_string()) {
            found.faults.push(e.to_string());
        }
    }
    if found.faults.is_empty() {
        let store = Store::open(folder)?;
        for id in store.logbook_ids()? {
            found.logbooks.0 += 1;
            match store.load_logbook(id) {
                Ok(loaded) => match loaded.book.unread() {
                    None => found.logbooks.1 += 1,
                    Some(seq) => found.faults.push(format!("Logbook {id} can be read up to edit {} only.", seq - 1)),
                },
                Err(e) => found.faults.push(format!("Logbook {id} cannot be read: {e}")),
            }
        }
    }
    found.free = crate::database::free(folder);
    // A copy of the folder has to fit beside it.
    if let Some(free) = found.free.filter(|free| *free < found.bytes.max(LEAST_FREE)) {
        found.faults.push(format!("Only {} MB are free on the disk.", free / 1_000_000));
    }
    Ok(found)
}

/// Bytes that have to be free on the disk in any case.
pub(crate) const LEAST_FREE: u64 = 500_000_000;

fn sound(connection: &Connection, name: &str) -> Result<(), StoreError> {
    let said: String = connection.query_row("PRAGMA integrity_check(1)", [], |r| r.get(0))?;
    if said == "ok" { Ok(()) } else { Err(StoreError::Content(format!("{name} is damaged: {said}"))) }
}

fn digest(file: &mut File) -> Result<String, StoreError> {
    let mut sum = Sha256::new();
    let mut buffer = vec![0; 1 << 16];
    loop {
        match file.read(&mut buffer)? {
            0 => return Ok(hex::encode(sum.finalize())),
            n => sum.update(&buffer[..n]),
        }
    }
}
