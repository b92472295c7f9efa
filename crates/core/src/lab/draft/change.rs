//! Changes of a draft: one place of the text at a time.

use toml_edit::{Array, ArrayOfTables, InlineTable, Item, Table, Value};

use super::fields::{Kind, kind_of};
use super::notation::{
    as_text, choice_with, heading_parts, heading_with, level_with, list_of, pairs_of, parted, section_path, whole,
};
use super::{AnsweredBy, Draft, DraftEdit, DraftRefusal, DraftRule, DraftSetting, FROM};
use crate::inquiry::Step;
use crate::lab::{Criterion, LARGEST, ReadFrom};
use crate::rigs::SettingKind;

/// Keys that belong to one way of answering only.
const OF_ANSWERS: [(&str, &[&str]); 6] = [
    ("choices", &["choices", "several"]),
    ("number", &["number", "tries"]),
    ("words", &["words"]),
    ("sentence", &["sentence"]),
    ("point", &["point", "largest", "smallest"]),
    ("argument", &["pupil", "argument", "position"]),
];

impl Draft {
    /// Makes a change. Nothing is changed where it is refused.
    ///
    /// # Errors
    /// [`DraftRefusal`], which says why it cannot be made.
    pub fn apply(&mut self, edit: &DraftEdit) -> Result<(), DraftRefusal> {
        let mut changed = self.clone();
        match edit {
            DraftEdit::Set { path, value } => changed.set(path, value)?,
            DraftEdit::Clear { path } => changed.clear(path)?,
            DraftEdit::Add { path, kind } => changed.add(path, kind)?,
            DraftEdit::Remove { path } => changed.remove(path)?,
            DraftEdit::Move { path, down } => changed.shift(path, *down)?,
        }
        let text = changed.text();
        if text.len() > LARGEST {
            return Err(DraftRefusal::TooLong);
        }
        // Places in the text are those of what was written, not of what was changed since.
        *self = Self::read(&text)?;
        Ok(())
    }

    fn set(&mut self, path: &str, value: &str) -> Result<(), DraftRefusal> {
        let value = value.replace("\r\n", "\n");
        if value.contains("\n+++") || value.starts_with("+++") {
            return Err(DraftRefusal::Fence);
        }
        if let Some((place, part)) = section_path(path) {
            return self.set_section(place, part, &value);
        }
        if let Some(question) = path.strip_prefix("questions.").and_then(|p| p.strip_suffix(".kind")) {
            return self.answer_by(place_in(question)?, &value);
        }
        let (path, part) = parted(path);
        let kind = kind_of(path).ok_or_else(|| DraftRefusal::NoField(path.to_owned()))?;
        let line = || value.split_whitespace().collect::<Vec<_>>().join(" ");
        let written: Option<Value> = match kind {
            Kind::Text => Some(value.trim()).filter(|v| !v.is_empty()).map(Value::from),
            Kind::Needed => Some(Value::from(value.trim())),
            Kind::Count => match value.trim() {
                "" => None,
                typed => Some(Value::from(whole(typed)?)),
            },
            Kind::Truth => (value == "true").then(|| Value::from(true)),
            Kind::Lines => Some(list_of(&value)).filter(|l| !l.is_empty()).map(Value::Array),
            Kind::Names => Some(Value::Array(list_of(&value))),
            Kind::Pairs => pairs_of(&value)?.map(Value::InlineTable),
            Kind::Setting => Some(Value::from(self.setting_with(path, part, &line())?)),
            Kind::Choice => Some(Value::from(choice_with(&self.text_at(path), part, &line())?)),
            Kind::Level => Some(Value::from(level_with(&self.text_at(path), part, &line())?)),
        };
        match written {
            Some(value) => self.write(path, value)?,
            None => self.take_out(path),
        }
        if path.starts_with("questions.") && path.ends_with(".at") {
            self.in_order()?;
        }
        Ok(())
    }

    fn text_at(&self, path: &str) -> String {
        self.item(path).map(as_text).unwrap_or_default()
    }

    fn setting_with(&self, path: &str, part: &str, value: &str) -> Result<String, DraftRefusal> {
        let name = path.strip_prefix("settings.").unwrap_or_default();
        let card = self.card();
        let spec = card.setting(name);
        let usual = || {
            spec.map_or_else(String::new, |s| {
                s.default_value().pretty().replace('\u{A0}', " ").replace('\u{2212}', "-")
            })
        };
        let mut setting = self.setting(name).unwrap_or_else(|| DraftSetting {
            rule: DraftRule::Fixed,
            first: usual(),
            second: String::new(),
        });
        match part {
            "first" => value.clone_into(&mut setting.first),
            "second" => value.clone_into(&mut setting.second),
            _ => {
                let rule = DraftRule::named(value).ok_or_else(|| DraftRefusal::NoRule(value.to_owned()))?;
                if rule.is_range() && spec.is_none_or(|s| !matches!(s.kind, SettingKind::Quantity { .. })) {
                    return Err(DraftRefusal::NoRange);
                }
                setting = setting.ruled(rule, spec);
            }
        }
        Ok(setting.written())
    }

    fn set_section(&mut self, place: usize, part: &str, value: &str) -> Result<(), DraftRefusal> {
        let section = self.sections.get_mut(place).ok_or(DraftRefusal::Gone)?;
        let (heading, from) = heading_parts(&section.0);
        match part {
            "heading" => {
                let heading = value.split_whitespace().collect::<Vec<_>>().join(" ");
                section.0 = heading_with(&heading, from);
            }
            "from" => {
                let from = FROM.iter().find(|(_, name)| *name == value).ok_or(DraftRefusal::NoMoment)?.0;
                section.0 = heading_with(heading, from);
            }
            _ => {
                if value.starts_with("## ") || value.contains("\n## ") {
                    return Err(DraftRefusal::Heading);
                }
                section.1 = format!("\n{}\n\n", value.trim_matches('\n').trim_end());
            }
        }
        Ok(())
    }

    /// Makes a question one that is answered in another way.
    fn answer_by(&mut self, question: usize, kind: &str) -> Result<(), DraftRefusal> {
        let way: AnsweredBy = kind.parse().map_err(|_| DraftRefusal::NoWay(kind.to_owned()))?;
        if self.answered_by(question) == way {
            return Ok(());
        }
        let base = format!("questions.{question}");
        for (_, keys) in OF_ANSWERS {
            keys.iter().for_each(|key| self.take_out(&format!("{base}.{key}")));
        }
        self.start_answer(&base, way)
    }

    fn start_answer(&mut self, base: &str, way: AnsweredBy) -> Result<(), DraftRefusal> {
        let mut put = |key: &str, value: Value| self.write(&format!("{base}.{key}"), value);
        match way {
            AnsweredBy::Choices => {
                let mut all = Array::new();
                all.extend(["+ the right answer", "- a wrong answer"]);
                put("choices", Value::Array(all))
            }
            AnsweredBy::Number => {
                let mut number = InlineTable::new();
                number.insert("unit", Value::from(""));
                put("number", Value::InlineTable(number))
            }
            AnsweredBy::Sentence => put("sentence", Value::from("It {+ grows | - shrinks}.")),
            AnsweredBy::Point => put("point", Value::from("row")),
            AnsweredBy::Argument => {
                put("pupil", Value::from("Mila"))?;
                put("argument", Value::from("What somebody might think."))
            }
            AnsweredBy::Words => put("words", Value::from(10)),
        }
    }

    fn clear(&mut self, path: &str) -> Result<(), DraftRefusal> {
        match kind_of(path) {
            Some(Kind::Needed | Kind::Choice | Kind::Level) | None => Err(DraftRefusal::Needed(path.to_owned())),
            Some(Kind::Text | Kind::Count | Kind::Truth | Kind::Lines | Kind::Names | Kind::Pairs | Kind::Setting) => {
                self.take_out(path);
                Ok(())
            }
        }
    }

    fn add(&mut self, path: &str, kind: &str) -> Result<(), DraftRefusal> {
        let start = |pairs: &[(&str, &str)]| {
            let mut table = Table::new();
            for (key, value) in pairs {
                table.insert(key, Item::Value(Value::from(*value)));
            }
            table
        };
        match path {
            "sections" => {
                if let Some((_, text)) = self.sections.last_mut() {
                    *text = format!("{}\n\n", text.trim_end_matches('\n'));
                }
                self.sections.push((heading_with("Hints", ReadFrom::Start), "\n…\n".to_owned()));
                Ok(())
            }
            "questions" => {
                let name = self.free_name();
                self.push(path, start(&[("name", &name), ("at", "measure"), ("ask", "What is asked?")]))?;
                let base = format!("questions.{}", self.count(path) - 1);
                let way = if kind.is_empty() { Ok(AnsweredBy::Choices) } else { kind.parse() };
                self.start_answer(&base, way.map_err(|_| DraftRefusal::NoWay(kind.to_owned()))?)?;
                *self = Self::read(&self.text())?;
                self.in_order()
            }
            "columns" => {
                let symbol = self.free_symbol();
                self.push(path, start(&[("kind", "read"), ("name", "new column"), ("symbol", &symbol), ("unit", "")]))
            }
            "criteria" if self.count(path) == 0 => {
                for criterion in Criterion::usual(self.count("questions") > 0) {
                    let mut table = start(&[("name", &criterion.name)]);
                    if let Some(sees) = criterion.sees {
                        table.insert("sees", Item::Value(Value::from(sees.name())));
                    }
                    let levels = criterion.levels.iter().map(|l| format!("{} | {}", l.points, l.words));
                    table.insert("levels", Item::Value(Value::Array(levels.collect())));
                    self.push(path, table)?;
                }
                Ok(())
            }
            "criteria" => {
                let mut table = start(&[("name", "New criterion")]);
                let levels: Array = ["2 | fully", "1 | partly", "0 | not"].into_iter().collect();
                table.insert("levels", Item::Value(Value::Array(levels)));
                self.push(path, table)
            }
            "conditions" => self.push(path, start(&[("name", "condition"), ("symbol", "c"), ("unit", "")])),
            "films" => self.push(path, start(&[("film", "")])),
            "expected" => self.push(path, start(&[("x", "x"), ("across", ""), ("up", ""), ("curve", "x")])),
            "forecast" => self.write("forecast.hold", Value::from(true)).and_then(|()| self.add("forecast.curves", "")),
            "forecast.curves" => {
                let card = self.card();
                let curve = card.tracks.first().and_then(|name| card.channel(name)).or(card.channels.first());
                let curve = curve.ok_or(DraftRefusal::NothingToSketch)?;
                let unit = curve.unit.to_string();
                let (from, to) = (format!("-1 {unit}"), format!("1 {unit}"));
                self.push(path, start(&[("channel", curve.name), ("name", curve.label), ("from", &from), ("to", &to)]))
            }
            "forecast.hypothesis" => {
                self.write("forecast.hypothesis.causes", Value::Array(Array::new()))?;
                self.write("forecast.hypothesis.effects", Value::Array(Array::new()))
            }
            "forecast.prediction" => {
                self.write("forecast.prediction.question", Value::from("What value do you expect?"))
            }
            _ => {
                let new = match path.rsplit('.').next() {
                    Some("choices") if self.has(path) => "- a wrong answer",
                    Some("levels") if self.has(path) => "0 | …",
                    _ => return Err(DraftRefusal::NoList(path.to_owned())),
                };
                let list = self.array(path)?;
                list.push(new);
                Ok(())
            }
        }
    }

    /// A name that no question of the sheet has, by which answers will find it.
    fn free_name(&self) -> String {
        let taken =
            |name: &str| (0..self.count("questions")).any(|i| self.text_at(&format!("questions.{i}.name")) == name);
        (1..).map(|n| format!("question {n}")).find(|name| !taken(name)).unwrap_or_default()
    }

    /// A symbol that no column of the sheet has.
    fn free_symbol(&self) -> String {
        let taken =
            |name: &str| (0..self.count("columns")).any(|i| self.text_at(&format!("columns.{i}.symbol")) == name);
        let letters = ('a'..='z').map(String::from);
        letters.chain((1..).map(|n| format!("x_{n}"))).find(|name| !taken(name)).unwrap_or_default()
    }

    fn remove(&mut self, path: &str) -> Result<(), DraftRefusal> {
        if let Some(place) = path.strip_prefix("sections.") {
            let place = place_in(place)?;
            if place == 0 || place >= self.sections.len() {
                return Err(DraftRefusal::KeepsQuestion);
            }
            self.sections.remove(place);
            return Ok(());
        }
        match path {
            "forecast" | "forecast.hypothesis" | "forecast.prediction" | "criteria" => {
                self.take_out(path);
                return Ok(());
            }
            _ => {}
        }
        let (list, place) = path.rsplit_once('.').ok_or_else(|| DraftRefusal::Needed(path.to_owned()))?;
        let place = place_in(place)?;
        if place >= self.count(list) || !is_list(list) {
            return Err(DraftRefusal::Gone);
        }
        if self.count(list) == 1 {
            self.take_out(list);
            return Ok(());
        }
        match self.item_mut(list) {
            Some(Item::ArrayOfTables(all)) => {
                all.remove(place);
            }
            Some(Item::Value(Value::Array(all))) => {
                all.remove(place);
            }
            Some(Item::None | Item::Value(_) | Item::Table(_)) | None => {}
        }
        Ok(())
    }

    fn shift(&mut self, path: &str, down: bool) -> Result<(), DraftRefusal> {
        let (list, place) = path.rsplit_once('.').ok_or_else(|| DraftRefusal::NoList(path.to_owned()))?;
        let place = place_in(place)?;
        let other = if down { place.checked_add(1) } else { place.checked_sub(1) };
        let count = self.count(list);
        let Some(other) = other.filter(|o| *o < count && place < count && is_list(list)) else {
            return Err(DraftRefusal::AtTheEnd);
        };
        if list == "sections" {
            if place == 0 || other == 0 {
                return Err(DraftRefusal::QuestionFirst);
            }
            // The last one may end without an empty line.
            self.sections.iter_mut().for_each(|(_, text)| *text = format!("{}\n\n", text.trim_end_matches('\n')));
            self.sections.swap(place, other);
            return Ok(());
        }
        if list == "questions" {
            let step = |i: usize| Step::named(&self.text_at(&format!("questions.{i}.at")));
            if step(place) != step(other) {
                return Err(DraftRefusal::OrderOfWork);
            }
        }
        match self.item_mut(list) {
            Some(Item::ArrayOfTables(all)) => reordered(all, |order| order.swap(place, other)),
            Some(Item::Value(Value::Array(all))) => {
                let value = all.remove(place);
                all.insert_formatted(other, value);
            }
            Some(Item::None | Item::Value(_) | Item::Table(_)) | None => {}
        }
        Ok(())
    }

    /// Brings the questions into the order of work.
    fn in_order(&mut self) -> Result<(), DraftRefusal> {
        let steps: Vec<Option<Step>> =
            (0..self.count("questions")).map(|i| Step::named(&self.text_at(&format!("questions.{i}.at")))).collect();
        match self.item_mut("questions") {
            Some(Item::ArrayOfTables(all)) => reordered(all, |order| order.sort_by_key(|i| steps[*i])),
            Some(Item::None | Item::Value(_) | Item::Table(_)) | None => {}
        }
        Ok(())
    }

    fn item_mut(&mut self, path: &str) -> Option<&mut Item> {
        // Looking for what is not there would make a place for it.
        self.item(path)?;
        let mut item = self.front.as_item_mut();
        for step in path.split('.') {
            item = match (step.parse::<usize>(), &*item) {
                (Ok(place), Item::Value(Value::Array(_)) | Item::ArrayOfTables(_)) => item.get_mut(place)?,
                _ => item.get_mut(step)?,
            };
        }
        Some(item)
    }

    fn array(&mut self, path: &str) -> Result<&mut Array, DraftRefusal> {
        self.item_mut(path).and_then(Item::as_array_mut).ok_or_else(|| DraftRefusal::NoList(path.to_owned()))
    }

    /// Writes a value where it belongs; what surrounds it stays as it was.
    fn write(&mut self, path: &str, value: Value) -> Result<(), DraftRefusal> {
        if let Some(Item::Value(old)) = self.item_mut(path) {
            let decor = old.decor().clone();
            *old = value;
            *old.decor_mut() = decor;
            return Ok(());
        }
        let (parent, key) = path.rsplit_once('.').unwrap_or(("", path));
        if parent.is_empty() {
            self.front.insert(key, Item::Value(value));
            return Ok(());
        }
        if self.item_mut(parent).is_none() {
            // Only whole parts are made; what is one of a list has to be there.
            let part = parent.split('.').next().unwrap_or_default();
            if !matches!(part, "settings" | "goal" | "forecast") {
                return Err(DraftRefusal::Gone);
            }
            let mut so_far = String::new();
            for step in parent.split('.') {
                so_far = if so_far.is_empty() { step.to_owned() } else { format!("{so_far}.{step}") };
                if self.item_mut(&so_far).is_none() {
                    let (above, name) = so_far.rsplit_once('.').unwrap_or(("", &so_far));
                    let above = if above.is_empty() { Some(self.front.as_item_mut()) } else { self.item_mut(above) };
                    let above = above.and_then(Item::as_table_like_mut).ok_or(DraftRefusal::Gone)?;
                    above.insert(name, Item::Table(Table::new()));
                }
            }
        }
        match self.item_mut(parent) {
            Some(Item::Value(Value::Array(_)) | Item::ArrayOfTables(_) | Item::None) | None => Err(DraftRefusal::Gone),
            Some(item) => {
                item.as_table_like_mut().ok_or(DraftRefusal::Gone)?.insert(key, Item::Value(value));
                Ok(())
            }
        }
    }

    pub(super) fn take_out(&mut self, path: &str) {
        match path.rsplit_once('.') {
            None => {
                self.front.remove(path);
            }
            Some((parent, key)) => {
                if let Some(table) = self.item_mut(parent).and_then(Item::as_table_like_mut) {
                    table.remove(key);
                }
            }
        }
    }

    /// Adds a table to a list of tables.
    fn push(&mut self, path: &str, mut table: Table) -> Result<(), DraftRefusal> {
        if let Some(Item::ArrayOfTables(all)) = self.item_mut(path) {
            // As the others stand: an empty line above.
            table.decor_mut().set_prefix("\n");
            all.push(table);
            return Ok(());
        }
        let (parent, key) = path.rsplit_once('.').unwrap_or(("", path));
        let above = if parent.is_empty() { Some(self.front.as_item_mut()) } else { self.item_mut(parent) };
        let above = above.and_then(Item::as_table_like_mut).ok_or(DraftRefusal::Gone)?;
        let mut all = match above.remove(key).map(Item::into_array_of_tables) {
            Some(Ok(all)) => all,
            Some(Err(_)) => return Err(DraftRefusal::NoList(path.to_owned())),
            None => ArrayOfTables::new(),
        };
        table.decor_mut().set_prefix("\n");
        all.push(table);
        above.insert(key, Item::ArrayOfTables(all));
        Ok(())
    }
}

/// Puts tables into another order, where the text has them.
fn reordered(all: &mut ArrayOfTables, sort: impl FnOnce(&mut Vec<usize>)) {
    let mut order: Vec<usize> = (0..all.len()).collect();
    sort(&mut order);
    let places: Vec<Option<isize>> = all.iter().map(Table::position).collect();
    let mut tables: Vec<Table> = order.iter().filter_map(|i| all.get(*i).cloned()).collect();
    for (table, place) in tables.iter_mut().zip(places) {
        // A table inside would stay where it stood, under another one's heading.
        let inside: Vec<String> = table.iter().filter(|(_, i)| !i.is_value()).map(|(k, _)| k.to_owned()).collect();
        for key in inside {
            if let Some(item) = table.get_mut(&key) {
                item.make_value();
            }
        }
        table.set_position(place);
    }
    *all = tables.into_iter().collect();
}

/// Lists of which one can be taken out or moved.
pub(super) fn is_list(path: &str) -> bool {
    let (list, last) = (path.split('.').next().unwrap_or_default(), path.rsplit('.').next().unwrap_or_default());
    matches!(
        path,
        "questions" | "columns" | "criteria" | "conditions" | "films" | "expected" | "sections" | "forecast.curves"
    ) || list == "questions" && last == "choices"
        || list == "criteria" && last == "levels"
}

fn place_in(text: &str) -> Result<usize, DraftRefusal> {
    text.parse().map_err(|_| DraftRefusal::Gone)
}
