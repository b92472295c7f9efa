//! How what is filled in is written in the text of a sheet, and read from it.

use toml_edit::{Array, InlineTable, Item, Value};

use super::fields::{Kind, kind_of};
use super::{DraftRefusal, FROM};
use crate::lab::ReadFrom;
use crate::lab::read::LATER;

/// Place and part of a section's path.
pub(super) fn section_path(path: &str) -> Option<(usize, &str)> {
    let (place, part) = path.strip_prefix("sections.")?.split_once('.')?;
    matches!(part, "heading" | "text" | "from").then_some(())?;
    Some((place.parse().ok()?, part))
}

/// A path without the part of a value it may end in: `rule`, `first` and `second` of a setting, `text` of a choice.
pub(super) fn parted(path: &str) -> (&str, &str) {
    match path.rsplit_once('.') {
        Some((whole, part))
            if matches!(kind_of(whole), Some(Kind::Setting | Kind::Choice | Kind::Level))
                && kind_of(path).is_none() =>
        {
            (whole, part)
        }
        _ => (path, ""),
    }
}

pub(super) fn from_name(from: ReadFrom) -> &'static str {
    FROM.iter().find(|(f, _)| *f == from).map_or("", |(_, name)| name)
}

pub(super) fn heading_parts(heading: &str) -> (&str, ReadFrom) {
    let heading = heading.trim();
    let later = LATER.iter().find_map(|(suffix, from)| Some((heading.strip_suffix(suffix)?.trim(), *from)));
    later.unwrap_or((heading, ReadFrom::Start))
}

pub(super) fn heading_with(heading: &str, from: ReadFrom) -> String {
    let suffix = LATER.iter().find(|(_, f)| *f == from).map_or("", |(suffix, _)| suffix);
    format!("{}\n", format!("{heading} {suffix}").trim_end())
}

/// What stands in a place of the front matter, as a form shows it.
pub(super) fn as_text(item: &Item) -> String {
    let one = |value: &Value| match value {
        Value::String(text) => text.value().clone(),
        Value::Boolean(truth) => if *truth.value() { "true" } else { "" }.to_owned(),
        Value::Integer(n) => n.value().to_string(),
        Value::Float(x) => x.value().to_string(),
        Value::Datetime(d) => d.value().to_string(),
        Value::Array(_) | Value::InlineTable(_) => String::new(),
    };
    let pairs = |table: &dyn toml_edit::TableLike| {
        let all = table.iter().filter_map(|(k, v)| Some(format!("{k} = {}", one(v.as_value()?))));
        all.collect::<Vec<_>>().join("\n")
    };
    match item {
        Item::Value(Value::Array(all)) => all.iter().map(one).collect::<Vec<_>>().join("\n"),
        Item::Value(Value::InlineTable(table)) => pairs(table),
        Item::Value(value) => one(value),
        Item::Table(table) => pairs(table),
        Item::None | Item::ArrayOfTables(_) => String::new(),
    }
}

pub(super) fn list_of(value: &str) -> Array {
    value.lines().map(str::trim).filter(|l| !l.is_empty()).collect()
}

pub(super) fn pairs_of(value: &str) -> Result<Option<InlineTable>, DraftRefusal> {
    let mut table = InlineTable::new();
    for line in value.lines().map(str::trim).filter(|l| !l.is_empty()) {
        let (key, value) = line.split_once('=').ok_or_else(|| DraftRefusal::NoPair(line.to_owned()))?;
        table.insert(key.trim(), Value::from(value.trim()));
    }
    Ok((!table.is_empty()).then_some(table))
}

pub(super) fn whole(typed: &str) -> Result<i64, DraftRefusal> {
    let number = typed.parse::<u32>().map_err(|_| DraftRefusal::NoWhole(typed.to_owned()))?;
    Ok(i64::from(number))
}

pub(super) fn choice_part(text: &str, part: &str) -> String {
    let rest = text.trim();
    let right = rest.starts_with('+');
    let (words, word) =
        rest.get(1..).unwrap_or_default().split_once('|').unwrap_or((rest.get(1..).unwrap_or_default(), ""));
    match part {
        "right" => if right { "true" } else { "" }.to_owned(),
        "word" => word.trim().to_owned(),
        _ => words.trim().to_owned(),
    }
}

pub(super) fn choice_with(text: &str, part: &str, value: &str) -> Result<String, DraftRefusal> {
    if part == "text" && value.contains('|') {
        return Err(DraftRefusal::BarInAnswer);
    }
    let now = |name: &str| if part == name { value.to_owned() } else { choice_part(text, name) };
    let (right, words, word) = (now("right") == "true", now("text"), now("word"));
    let bar = if word.is_empty() { String::new() } else { format!(" | {word}") };
    Ok(format!("{} {words}{bar}", if right { '+' } else { '-' }))
}

pub(super) fn level_part(text: &str, part: &str) -> String {
    let (points, words) = text.split_once('|').unwrap_or(("", text));
    if part == "points" { points } else { words }.trim().to_owned()
}

pub(super) fn level_with(text: &str, part: &str, value: &str) -> Result<String, DraftRefusal> {
    if part == "points" && value.contains('|') {
        return Err(DraftRefusal::BarInPoints);
    }
    let now = |name: &str| if part == name { value.to_owned() } else { level_part(text, name) };
    Ok(format!("{} | {}", now("points"), now("words")))
}
