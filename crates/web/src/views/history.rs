//! Who did what in a logbook.

use askama::Template;
use serde_json::Value;
use zeitmass_core::logbook::Logbook;
use zeitmass_store::{Id, LogbookInfo, Past, Share};

use super::moment;

/// Longest text of an edit that is shown, in characters.
const LONGEST: usize = 120;

/// One edit.
pub(crate) struct PastView {
    pub seq: u64,
    pub at: String,
    pub name: String,
    /// On which part of the work.
    pub subject: String,
    /// What was done.
    pub what: String,
    /// With what.
    pub with: String,
}

/// One person's share.
pub(crate) struct ShareView {
    pub name: String,
    pub edits: u64,
    pub first: String,
    pub last: String,
}

/// The page.
#[derive(Template)]
#[template(path = "history.html")]
pub(crate) struct HistoryPage {
    /// Who looks.
    pub who: String,
    /// Whether that is a teacher.
    pub teaches: bool,
    /// Whether who looks can go back.
    pub goes_back: bool,
    /// Number of the last edit.
    pub now: u64,
    pub logbook: Id,
    pub class: Id,
    pub class_name: String,
    pub title: String,
    pub shares: Vec<ShareView>,
    pub past: Vec<PastView>,
    /// Number of the edit before which more are to be seen.
    pub earlier: Option<u64>,
}

impl HistoryPage {
    pub(crate) fn of(
        (who, class_name): (String, String),
        (teaches, goes_back): (bool, bool),
        info: &LogbookInfo,
        book: &Logbook,
        (past, shares): (Vec<Past>, Vec<Share>),
    ) -> Self {
        let earlier = past.last().map(|p| p.saved.seq).filter(|seq| *seq > 1);
        let past = past.into_iter().map(|p| {
            let (subject, what, with) = words(&p.wish);
            PastView { seq: p.saved.seq, at: moment(p.saved.at), name: p.name, subject, what, with }
        });
        let shares = shares.into_iter().map(|s| ShareView {
            name: s.name,
            edits: s.edits,
            first: moment(s.first),
            last: moment(s.last),
        });
        Self {
            who,
            teaches,
            logbook: info.id,
            class: info.class,
            class_name,
            title: format!("{} {}", book.sheet().number, book.sheet().title),
            goes_back,
            now: book.seq(),
            shares: shares.collect(),
            past: past.collect(),
            earlier,
        }
    }
}

/// An edit in words: by the names it is stored under, so that one of a newer program is told too.
fn words(wish: &str) -> (String, String, String) {
    let spaced = |name: &str| name.replace('_', " ");
    let Ok(wish) = serde_json::from_str::<Value>(wish) else { return Default::default() };
    let Some((subject, edit)) = tagged(&wish) else { return Default::default() };
    // The table is called data where people see it.
    let subject = if subject == "record" { "data" } else { subject };
    let Some((what, of)) = edit.and_then(tagged) else { return (String::new(), spaced(subject), String::new()) };
    // A file that was brought is not spelled out.
    let with = if what == "restore" { String::new() } else { of.map(details).unwrap_or_default() };
    (spaced(subject), spaced(what), with)
}

/// The one name in `{"name": content}` or `"name"`.
fn tagged(value: &Value) -> Option<(&str, Option<&Value>)> {
    match value {
        Value::String(name) => Some((name, None)),
        Value::Object(one) => one.iter().next().map(|(name, content)| (name.as_str(), Some(content))),
        Value::Null | Value::Bool(_) | Value::Number(_) | Value::Array(_) => None,
    }
}

/// What was typed or chosen: texts and numbers, without places and ids.
fn details(value: &Value) -> String {
    let mut parts = Vec::new();
    gather(value, "", &mut parts);
    let all = parts.join(" · ");
    let cut: String = all.chars().take(LONGEST).collect();
    if cut.len() < all.len() { format!("{cut} …") } else { cut }
}

fn gather(value: &Value, name: &str, parts: &mut Vec<String>) {
    match value {
        Value::String(text) if !matches!(name, "was" | "row") && !text.trim().is_empty() => parts.push(text.clone()),
        Value::Object(all) => all.iter().for_each(|(name, value)| gather(value, name, parts)),
        Value::Number(n) if matches!(name, "run" | "from" | "to" | "every" | "frame" | "start" | "end" | "count") => {
            parts.push(format!("{name} {n}"));
        }
        Value::String(_) | Value::Number(_) | Value::Null | Value::Bool(_) | Value::Array(_) => {}
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn edits_are_told_by_their_names_and_what_was_typed() {
        let told = |wish: &str| {
            let (subject, what, with) = words(wish);
            format!("{subject} | {what} | {with}")
        };
        let typed = r#"{"record":{"type_cell":{"row":{"there":7},"column":2,"typed":"0.450","was":"0.4"}}}"#;
        assert_eq!(told(typed), "data | type cell | 0.450");
        assert_eq!(told(r#"{"run":"run"}"#), "run | run | ");
        assert_eq!(told("\"undo\""), " | undo | ");
        assert_eq!(told(r#"{"run":{"choose_run":{"run":3}}}"#), "run | choose run | run 3");
        assert_eq!(told(r#"{"office":{"restore":{"content":{"a":"secret"}}}}"#), "office | restore | ");
        assert_eq!(told("no JSON"), " |  | ");
        assert!(told(&format!(r#"{{"writing":{{"write":{{"text":"{}"}}}}}}"#, "x".repeat(500))).ends_with(" …"));
    }
}
