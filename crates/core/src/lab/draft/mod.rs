//! A sheet as it is put together: its text, of which every part that can be filled in is found by a path.
//!
//! The text is the sheet. A [`DraftEdit`] changes one place of it and leaves every other as it was written, comments and all, so that a
//! sheet can be worked on as a form and as a text in turn. Paths name the keys of the front matter, with places in lists from 0:
//! `questions.2.ask`, `settings.spring mass.rule`; `sections.1.text` is the text under a heading.

mod change;
mod fields;
mod mistakes;
mod notation;
mod refused;
mod setting;

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};
use toml_edit::{DocumentMut, Item, Value};

use fields::{Kind, kind_of};
pub use mistakes::{Mistake, looked_over, mistakes};
use notation::{as_text, choice_part, from_name, heading_parts, level_part, parted, section_path};
pub use refused::DraftRefusal;
pub use setting::{DraftRule, DraftSetting};

use super::read::{FENCE, split};
use super::{ReadFrom, SheetError, Wrong};
use crate::rigs::{Card, rig};

/// A sheet that is being put together.
#[derive(Clone, Debug)]
pub struct Draft {
    front: DocumentMut,
    /// What stands above the first heading, and the sections: heading and text.
    above: String,
    sections: Vec<(String, String)>,
}

/// Something that is filled in, added, taken out or moved.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum DraftEdit {
    /// Fills in a field.
    Set {
        /// Its path.
        path: String,
        /// What stands in it now: of a list one entry a line, of a yes or no `true` or nothing.
        value: String,
    },
    /// Leaves a field out, so that it is as it usually is.
    Clear {
        /// Its path.
        path: String,
    },
    /// Adds one to a list, or a part such as the forecast.
    Add {
        /// Path of the list or part.
        path: String,
        /// What kind: how a question is answered.
        #[serde(default)]
        kind: String,
    },
    /// Takes one out of a list, or a part out of the sheet.
    Remove {
        /// Its path.
        path: String,
    },
    /// Moves one in its list.
    Move {
        /// Its path.
        path: String,
        /// Whether towards the end.
        down: bool,
    },
}

/// From when on a section is read, with names for forms.
pub const FROM: [(ReadFrom, &str); 3] =
    [(ReadFrom::Start, "start"), (ReadFrom::FirstRun, "forecast"), (ReadFrom::HandIn, "handing-in")];

/// How a question can be answered.
#[derive(Clone, Copy, Debug, PartialEq, Eq, VariantArray, IntoStaticStr, EnumString)]
#[strum(serialize_all = "lowercase")]
pub enum AnsweredBy {
    /// One of several, or several of them.
    Choices,
    /// A number with its unit.
    Number,
    /// A text.
    Words,
    /// A sentence with gaps.
    Sentence,
    /// Pointing at something.
    Point,
    /// A judgement of what somebody says.
    Argument,
}

impl AnsweredBy {
    /// All ways.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in forms, which is its key in a sheet.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

impl Draft {
    /// Reads a text whose front matter is sound as a notation; what it says may be wrong.
    ///
    /// # Errors
    /// [`SheetError`] where it is no such text: then it can only be worked on as a text.
    pub fn read(source: &str) -> Result<Self, SheetError> {
        let source = source.replace("\r\n", "\n");
        let (front, body, _) = split(&source)?;
        let front: DocumentMut = front.parse().map_err(|e: toml_edit::TomlError| SheetError {
            line: e.span().map_or(2, |s| 2 + front[..s.start.min(front.len())].matches('\n').count()),
            wrong: Wrong::Notation(e.message().to_owned()),
        })?;
        let (mut above, mut sections) = (String::new(), Vec::<(String, String)>::new());
        for line in body.split_inclusive('\n') {
            match (line.strip_prefix("## "), sections.last_mut()) {
                (Some(heading), _) => sections.push((heading.to_owned(), String::new())),
                (None, Some((_, text))) => text.push_str(line),
                (None, None) => above.push_str(line),
            }
        }
        Ok(Self { front, above, sections })
    }

    /// The text.
    pub fn text(&self) -> String {
        let mut text = format!("{FENCE}\n{}{FENCE}\n{}", self.front, self.above);
        for (heading, below) in &self.sections {
            text.push_str("## ");
            text.push_str(heading);
            text.push_str(below);
        }
        text
    }

    /// The card of what moves.
    pub fn card(&self) -> Card {
        rig(&self.value("rig")).map_or_else(Card::of_films, crate::rigs::Rig::card)
    }

    /// What stands in a field; blank where it is left out.
    pub fn value(&self, path: &str) -> String {
        if let Some((place, part)) = section_path(path) {
            let Some((heading, text)) = self.sections.get(place) else { return String::new() };
            return match part {
                "heading" => heading_parts(heading).0.to_owned(),
                "from" => from_name(heading_parts(heading).1).to_owned(),
                _ => text.trim_matches('\n').to_owned(),
            };
        }
        let (path, part) = parted(path);
        let Some(item) = self.item(path) else { return String::new() };
        let text = as_text(item);
        match kind_of(path) {
            Some(Kind::Setting) => {
                let setting = DraftSetting::read(&text);
                match part {
                    "first" => setting.first,
                    "second" => setting.second,
                    _ => setting.rule.name().to_owned(),
                }
            }
            Some(Kind::Choice) => choice_part(&text, part),
            Some(Kind::Level) => level_part(&text, part),
            _ => text,
        }
    }

    /// A setting as it stands; none where it is left as it usually is.
    pub fn setting(&self, name: &str) -> Option<DraftSetting> {
        self.item(&format!("settings.{name}")).map(|item| DraftSetting::read(&as_text(item)))
    }

    /// Whether anything stands at a path.
    pub fn has(&self, path: &str) -> bool {
        self.item(path).is_some()
    }

    /// How many there are in a list.
    pub fn count(&self, path: &str) -> usize {
        match (path, self.item(path)) {
            ("sections", _) => self.sections.len(),
            (_, Some(Item::ArrayOfTables(all))) => all.len(),
            (_, Some(Item::Value(Value::Array(all)))) => all.len(),
            (_, Some(Item::None | Item::Value(_) | Item::Table(_)) | None) => 0,
        }
    }

    /// How a question is answered, as far as can be told: in words without any key of its own.
    pub fn answered_by(&self, question: usize) -> AnsweredBy {
        let has = |way: &&AnsweredBy| self.has(&format!("questions.{question}.{}", way.name()));
        AnsweredBy::ALL.iter().find(has).copied().unwrap_or(AnsweredBy::Words)
    }

    fn item(&self, path: &str) -> Option<&Item> {
        let mut item = self.front.as_item();
        for step in path.split('.') {
            item = match (step.parse::<usize>(), item) {
                (Ok(place), Item::Value(Value::Array(_)) | Item::ArrayOfTables(_)) => item.get(place)?,
                _ => item.get(step)?,
            };
        }
        (!item.is_none()).then_some(item)
    }
}
