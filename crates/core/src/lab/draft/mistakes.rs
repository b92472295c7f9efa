//! What is wrong on a sheet, at the field where it is.

use toml_edit::{Document, Item, Value};

use super::super::{LabSheet, SheetError};
use super::change::is_list;
use super::{Draft, DraftEdit};
use crate::lab::read::split;

/// Most mistakes that are told at once.
const MOST: usize = 8;

/// Something wrong.
#[derive(Clone, Debug, PartialEq)]
pub struct Mistake {
    /// Path of the field, or of what it stands in; empty where it has none.
    pub path: String,
    /// What, and where in the text.
    pub error: SheetError,
}

/// What is wrong in a text, in the order of its lines, as far as each can be told beside the others.
pub fn mistakes(source: &str) -> Vec<Mistake> {
    looked_over(source).0
}

/// What is wrong in a text, and the sheet as far as it is sound: without what is wrong. None where too little is.
pub fn looked_over(source: &str) -> (Vec<Mistake>, Option<LabSheet>) {
    let mut all: Vec<Mistake> = Vec::new();
    let mut rest = source.to_owned();
    let sound = loop {
        let error = match LabSheet::parse(&rest) {
            Ok(sheet) => break Some(sheet),
            Err(error) => error,
        };
        let path = path_at(&rest, error.line);
        // What is wrong is left out of a copy, so that what else is wrong comes to light.
        let left_out = without(&rest, &path);
        // Lines are those of the whole text, also when something was left out of the copy.
        let line = if all.is_empty() { error.line } else { line_of(source, &path).unwrap_or(error.line) };
        all.push(Mistake { path, error: SheetError { line, ..error } });
        match left_out {
            Some(next) if all.len() < MOST && next != rest => rest = next,
            _ => break None,
        }
    };
    all.sort_by_key(|m| m.error.line);
    (all, sound)
}

/// Paths with the lines they begin in.
fn places(source: &str) -> Vec<(usize, String)> {
    fn walk(item: &Item, path: &str, line: &dyn Fn(usize) -> usize, found: &mut Vec<(usize, String)>) {
        let below = |key: &str| if path.is_empty() { key.to_owned() } else { format!("{path}.{key}") };
        if let Some(table) = item.as_table_like() {
            for (key, item) in table.iter() {
                let place = table.key(key).and_then(toml_edit::Key::span).or_else(|| item.span());
                let inline = path.contains('.') && matches!(item, Item::Value(Value::InlineTable(_)));
                if let Some(place) = place {
                    found.push((line(place.start), below(key)));
                }
                if !inline {
                    walk(item, &below(key), line, found);
                }
            }
        }
        if let Item::ArrayOfTables(all) = item {
            for (i, table) in all.iter().enumerate() {
                let own = below(&i.to_string());
                if let Some(place) = table.span() {
                    found.push((line(place.start), own.clone()));
                }
                walk(&Item::Table(table.clone()), &own, line, found);
            }
        }
    }
    let Ok((front, _, _)) = split(source) else { return Vec::new() };
    let Ok(read) = Document::parse(front.to_owned()) else { return Vec::new() };
    let line = |offset: usize| 2 + front[..offset.min(front.len())].matches('\n').count();
    let mut found = Vec::new();
    walk(read.as_item(), "", &line, &mut found);
    found.sort_by(|a, b| a.0.cmp(&b.0).then(a.1.len().cmp(&b.1.len())));
    found
}

/// The path of what stands in a line: the innermost that begins in it, or the last that began before it.
fn path_at(source: &str, line: usize) -> String {
    let Ok((_, _, body)) = split(source) else { return String::new() };
    if line >= body {
        let place = source.lines().take(line).skip(body - 1).filter(|l| l.starts_with("## ")).count();
        return format!("sections.{}.text", place.saturating_sub(1));
    }
    let all = places(source);
    all.iter().rfind(|(l, _)| *l <= line).map_or_else(String::new, |(_, path)| path.clone())
}

fn line_of(source: &str, path: &str) -> Option<usize> {
    places(source).into_iter().find(|(_, p)| p == path).map(|(line, _)| line)
}

/// The text without what is wrong at a path; none where nothing else can be told.
fn without(source: &str, path: &str) -> Option<String> {
    let mut draft = Draft::read(source).ok()?;
    let set = |path: &str, value: &str| DraftEdit::Set { path: path.to_owned(), value: value.to_owned() };
    let edit = match path.split('.').collect::<Vec<_>>()[..] {
        ["number"] => set("number", "1.1"),
        ["title" | "unit"] => set(path, "…"),
        ["trials"] => set(path, "6"),
        ["rig" | "film" | "own_films" | "sections", ..] => return None,
        ["goal", ..] => {
            // The whole of it is replaced by one that is sound.
            draft.take_out("goal");
            draft.apply(&set("goal.symbol", "c")).ok()?;
            draft.apply(&set("goal.name", "constant")).ok()?;
            set("goal.accepted", "1")
        }
        [list, place, ..] if is_list(list) => DraftEdit::Remove { path: format!("{list}.{place}") },
        ["forecast", ..] => DraftEdit::Remove { path: "forecast".to_owned() },
        ["settings", name] => DraftEdit::Clear { path: format!("settings.{name}") },
        [key, ..] if !key.is_empty() => {
            draft.take_out(key);
            return Some(draft.text());
        }
        _ => return None,
    };
    draft.apply(&edit).ok()?;
    Some(draft.text())
}
