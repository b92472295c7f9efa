//! Files to take along and to bring: tables as CSV, ODS and XLSX, the whole logbook as a zip.

mod docx;
mod package;
mod read;
mod spreadsheet;
mod tables;

pub(crate) use docx::docx;
pub(crate) use package::package;
pub use read::read_table;
pub(crate) use read::{Upload, read_upload};
pub(crate) use tables::{TableFormat, list_file, table_file};

/// A name that can be part of a file's name: letters and digits, everything else a hyphen.
pub(crate) fn file_name(text: &str) -> String {
    let plain: String =
        text.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
    let parts: Vec<&str> = plain.split('-').filter(|p| !p.is_empty()).collect();
    let joined: String = parts.join("-").chars().take(60).collect();
    if joined.is_empty() { "file".to_owned() } else { joined }
}
