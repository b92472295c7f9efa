//! Edits as they stand on a page: the types of the core, as JSON in an attribute.

use serde::Serialize;
use zeitmass_core::logbook::{Edit, RecordEdit};

/// An edit of the tables for a single-quoted attribute.
pub(crate) fn wish(edit: RecordEdit) -> String {
    json(&Edit::Record(edit)).replace('&', "&amp;").replace('\'', "&#39;")
}

/// A value as JSON; nothing that is sent to a page fails to be written.
pub(crate) fn json<T: Serialize>(value: &T) -> String {
    serde_json::to_string(value).unwrap_or_default()
}
