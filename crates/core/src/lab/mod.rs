//! Lab sheets: Markdown with a front matter that says what is on the bench.
//!
//! ```text
//! +++
//! number = "2.1"
//! title = "Tower pendulum"
//! unit = "Oscillations"
//! rig = "pendulum"
//! trials = 6               # and, if wanted, most_trials, table (the first table's name),
//! strip = "after attempt"  # the shape strip: "always", "after attempt" or "never"
//! read_out = "gaps"        # slope and intercept in words: "shown", or with "gaps" to fill
//!
//! [settings]
//! length = "free 0.80 m"
//! gravity = "hidden 9.81 m/s^2"   # or "dealt 1 to 2 m", "hidden dealt Mars | Io": own values for each logbook
//!
//! # tracks = ["x", "v"], record = ["t", "x"], arrows = ["velocity"], instruments = ["force"] before it: what may be
//! # drawn, recorded and read
//! # [forecast] hold = true, duration = "12 s", with [[forecast.curves]], [forecast.hypothesis], [forecast.prediction]
//!
//! # Instead of the rig: film = "tower-yard", or own_films = true, or several films by conditions:
//! # [[conditions]]
//! # name = "angle of the slope"
//! # symbol = "α"           # without a symbol the condition is in words
//! # unit = "deg"
//! # [[films]]
//! # film = "sledge-20"
//! # conditions = ["20.0 deg"]
//! # rulers = ["28,312; 28,112; 2.000 m"]   # ends in pixels, length; "… radius" for a circle
//! # axes = "28,312; -20 deg"               # origin in pixels, direction of x; "… flipped"
//!
//! [[columns]]
//! kind = "set"             # or "read", or "given" with values = ["0.20", "0.40"]
//! name = "length"
//! symbol = "L"
//! unit = "m"
//!
//! [goal]
//! symbol = "g"
//! name = "strength of gravity"
//! accepted = "9.81 m/s^2"         # or key = a formula over the settings' symbols, with unit and one_trial
//! source = "survey of the tower"
//! +++
//! ## Question
//! How strong is gravity …
//! ```
//!
//! [`LabSheet::parse`] reads and checks it all; every mistake has its line.

mod blank;
mod films;
mod goal;
mod inquiry;
mod settings;

use serde::Deserialize;
use thiserror::Error;

pub use films::{Condition, SheetFilm};
use films::{FrontCondition, FrontFilm, condition, sheet_film};
use goal::{FrontGoal, goal};
pub use goal::{Goal, Key};
pub use inquiry::{CurvePlan, ForecastPlan, HypothesisPlan, PredictionPlan};
use inquiry::{FrontForecast, forecast};
use settings::setting_rule;
pub use settings::{Deal, Freedom, SettingRule};

use crate::formula::is_symbol;
use crate::quantity::{Precision, PrecisionText, Reading, Unit, parse_quantity};
use crate::record::{ColumnKind, MOST_ROWS};
use crate::rigs::{Card, Rig, rig};

/// Largest sheet that is read, in bytes.
pub const LARGEST: usize = 100_000;

/// The fence above and below the front matter.
const FENCE: &str = "+++";

/// A lab sheet, read and checked.
#[derive(Clone, Debug)]
pub struct LabSheet {
    /// Unit and place in it: 2.1.
    pub number: SheetNumber,
    /// Title.
    pub title: String,
    /// Name of the unit.
    pub unit: String,
    /// The apparatus; without settings when the motion is filmed.
    pub card: Card,
    /// The films of the lab; none when it has a rig.
    pub films: Vec<SheetFilm>,
    /// By what the films differ.
    pub conditions: Vec<Condition>,
    /// Whether the students may bring films of their own.
    pub own_films: bool,
    /// Rule and value of every setting of the rig, in the order of the card.
    pub settings: Vec<SettingRule>,
    /// Channels drawn against time beside the stage.
    pub tracks: Vec<&'static str>,
    /// Channels that may be recorded.
    pub recordable: Vec<&'static str>,
    /// Meters that lie on the bench.
    pub meters: Vec<&'static str>,
    /// Arrows that may be shown.
    pub arrows: Vec<&'static str>,
    /// What is to be forecast before the first run.
    pub forecast: Option<ForecastPlan>,
    /// Columns the record starts with.
    pub columns: Vec<StartColumn>,
    /// Trials wanted.
    pub trials: usize,
    /// Trials that are enough.
    pub most_trials: usize,
    /// Name of the first table.
    pub first_table: String,
    /// When the shape strip is shown.
    pub strip: StripRule,
    /// Whether the read-out has gaps for the student to fill.
    pub gaps: bool,
    /// The constant to be found.
    pub goal: Goal,
    /// Sections of the text in order, as Markdown; the first is the question.
    pub sections: Vec<Section>,
}

/// A sheet's number: unit and place in the unit.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct SheetNumber {
    /// Number of the unit.
    pub unit: u16,
    /// Place in the unit.
    pub place: u16,
}

impl std::fmt::Display for SheetNumber {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}.{}", self.unit, self.place)
    }
}

/// When the shape strip is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum StripRule {
    /// As soon as there is a graph.
    Always,
    /// Once the students have tried a worked column of their own.
    AfterAttempt,
    /// Not in this lab.
    Never,
}

/// A column the record starts with.
#[derive(Clone, Debug, PartialEq)]
pub struct StartColumn {
    /// Name of its table.
    pub table: String,
    /// How precisely its readings are known.
    pub precision: Precision,
    /// Values, if they are given.
    pub values: Vec<Reading>,
    /// Set, read or given.
    pub kind: ColumnKind,
    /// Name.
    pub name: String,
    /// Symbol.
    pub symbol: String,
    /// Unit.
    pub unit: Unit,
}

/// A part of the text under one heading.
#[derive(Clone, Debug, PartialEq)]
pub struct Section {
    /// The heading.
    pub heading: String,
    /// Markdown below it.
    pub text: String,
}

/// What is wrong with a sheet, and in which line of its text.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("Line {line}: {message}")]
pub struct SheetError {
    /// Line, from 1.
    pub line: usize,
    /// What is wrong, as a sentence.
    pub message: String,
}

/// The front matter as written.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Front {
    number: toml::Spanned<String>,
    title: String,
    unit: String,
    rig: Option<toml::Spanned<String>>,
    film: Option<toml::Spanned<String>>,
    #[serde(default)]
    films: Vec<toml::Spanned<FrontFilm>>,
    #[serde(default)]
    conditions: Vec<toml::Spanned<FrontCondition>>,
    #[serde(default)]
    own_films: bool,
    #[serde(default = "usual_trials")]
    trials: usize,
    most_trials: Option<usize>,
    table: Option<String>,
    strip: Option<toml::Spanned<String>>,
    read_out: Option<toml::Spanned<String>>,
    tracks: Option<Vec<String>>,
    record: Option<Vec<String>>,
    instruments: Option<Vec<String>>,
    arrows: Option<Vec<String>>,
    forecast: Option<toml::Spanned<FrontForecast>>,
    #[serde(default)]
    settings: toml::Table,
    #[serde(default)]
    columns: Vec<toml::Spanned<FrontColumn>>,
    goal: toml::Spanned<FrontGoal>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FrontColumn {
    kind: String,
    name: String,
    symbol: String,
    #[serde(default)]
    unit: String,
    table: Option<String>,
    /// Smallest division of a scale read by eye.
    division: Option<String>,
    /// Parts of a division that can be told apart.
    parts: Option<u8>,
    #[serde(default)]
    values: Vec<String>,
}

fn usual_trials() -> usize {
    6
}

impl LabSheet {
    /// Reads a sheet.
    ///
    /// # Errors
    /// [`SheetError`] with the line and what to write there.
    pub fn parse(source: &str) -> Result<Self, SheetError> {
        if source.len() > LARGEST {
            return Err(SheetError { line: 1, message: format!("A lab sheet can have at most {LARGEST} characters.") });
        }
        let source = source.replace("\r\n", "\n");
        let (front_text, body, body_line) = split(&source)?;
        // The front matter starts in line 2, below its fence.
        let line_of = |offset: usize| 2 + front_text[..offset.min(front_text.len())].matches('\n').count();
        let front: Front = toml::from_str(front_text).map_err(|e| SheetError {
            line: e.span().map_or(2, |s| line_of(s.start)),
            message: sentence(e.message()),
        })?;
        let at = |line: usize| move |message: String| SheetError { line, message };
        let line_with = |word: &str| {
            let found = front_text
                .lines()
                .position(|l| l.split('=').next().is_some_and(|key| key.trim().trim_matches(['"', '\'']) == word));
            found.map_or(2, |i| i + 2)
        };

        let number = sheet_number(front.number.get_ref()).map_err(at(line_of(front.number.span().start)))?;
        let filmed = front.film.is_some() || !front.films.is_empty() || front.own_films;
        let card = match &front.rig {
            Some(name) if filmed => {
                let message = "The motion comes from a rig or from films, not from both.".to_owned();
                return Err(at(line_of(name.span().start))(message));
            }
            Some(name) => {
                let chosen = rig(name.get_ref()).ok_or_else(|| {
                    let known: Vec<&str> = crate::rigs::CATALOGUE.iter().map(|r| r.card().name).collect();
                    let message = format!("There is no rig “{}”. There is: {}.", name.get_ref(), known.join(", "));
                    at(line_of(name.span().start))(message)
                })?;
                chosen.card()
            }
            None if filmed => Card::of_films(),
            None => {
                let message =
                    "Say where the motion comes from: rig = \"…\", film = \"…\", [[films]] or own_films = true.";
                return Err(at(2)(message.to_owned()));
            }
        };
        if front.title.trim().is_empty() || front.title.chars().count() > 80 {
            return Err(at(line_with("title"))("The title needs 1 to 80 characters.".to_owned()));
        }
        if front.unit.trim().is_empty() || front.unit.chars().count() > 80 {
            return Err(at(line_with("unit"))("The unit's name needs 1 to 80 characters.".to_owned()));
        }
        if !(2..=200).contains(&front.trials) {
            return Err(at(line_with("trials"))("The number of trials can be 2 to 200.".to_owned()));
        }
        let most_trials = front.most_trials.unwrap_or_else(|| (2 * front.trials).max(15));
        if !(front.trials..=1000).contains(&most_trials) {
            return Err(at(line_with("most_trials"))("At most 1000 trials, and not fewer than trials.".to_owned()));
        }
        let first_table = front.table.unwrap_or_else(|| "Trials".to_owned());
        if first_table.trim().is_empty() || first_table.chars().count() > 40 {
            return Err(at(line_with("table"))("A table's name needs 1 to 40 characters.".to_owned()));
        }
        let strip = match front.strip.as_ref().map(|s| s.get_ref().as_str()) {
            None | Some("always") => StripRule::Always,
            Some("after attempt") => StripRule::AfterAttempt,
            Some("never") => StripRule::Never,
            Some(other) => {
                let message = format!("“{other}” says nothing about the strip. Write always, after attempt or never.");
                return Err(at(line_with("strip"))(message));
            }
        };
        let gaps = match front.read_out.as_ref().map(|s| s.get_ref().as_str()) {
            None | Some("shown") => false,
            Some("gaps") => true,
            Some(other) => {
                let message = format!("“{other}” says nothing about the read-out. Write shown or gaps.");
                return Err(at(line_with("read_out"))(message));
            }
        };
        for name in front.settings.keys() {
            if card.setting(name).is_none() {
                let message = card.check(name, "").err().unwrap_or_default();
                return Err(at(line_with(name))(message));
            }
        }
        let settings = card
            .settings
            .iter()
            .map(|spec| {
                let written = front.settings.get(spec.name);
                setting_rule(&card, spec.name, written).map_err(at(line_with(spec.name)))
            })
            .collect::<Result<Vec<_>, _>>()?;
        let channel = |name: &str| card.channel(name).map(|c| c.name);
        let known = card.channels.iter().map(|c| c.name).collect::<Vec<_>>().join(", ");
        let tracks = named("tracks", front.tracks, channel, &known).map_err(at(line_with("tracks")))?;
        let recordable = named("record", front.record, channel, &known).map_err(at(line_with("record")))?;
        let meter = |name: &str| card.meter(name).map(|m| m.name);
        let all_meters: Vec<&'static str> = card.meters.iter().map(|m| m.name).collect();
        let secret = |name: &str| settings.iter().any(|r| r.name == name && r.freedom == Freedom::Hidden);
        let meters = named("instruments", front.instruments, meter, &all_meters.join(", "))
            .map_err(at(line_with("instruments")))?
            .unwrap_or_else(|| {
                let open = card.meters.iter().filter(|m| !m.tells.iter().any(|name| secret(name)));
                open.map(|m| m.name).collect()
            });
        let arrow = |name: &str| card.arrows.iter().find(|a| a.name == name).map(|a| a.name);
        let drawn = card.arrows.iter().map(|a| a.name).collect::<Vec<_>>().join(", ");
        let arrows = named("arrows", front.arrows, arrow, &drawn).map_err(at(line_with("arrows")))?;
        // Lengths of arrows and recorded forces would give a hidden value away, so a sheet that hides one must name what it shows.
        let hides = settings.iter().any(|r| r.freedom == Freedom::Hidden);
        let moving = |names: Vec<&'static str>, few: &[&str]| -> Vec<&'static str> {
            names.into_iter().filter(|n| !hides || few.contains(n)).collect()
        };
        let tracks = tracks.unwrap_or_else(|| card.tracks.to_vec());
        let recordable = recordable.unwrap_or_else(|| {
            moving(card.channels.iter().map(|c| c.name).collect(), &["t", "s", "x", "y", "v", "speed", "v_x", "v_y"])
        });
        let arrows = arrows
            .unwrap_or_else(|| moving(card.arrows.iter().map(|a| a.name).collect(), &["velocity", "across", "up"]));
        let forecast = front.forecast.map(|f| {
            let line = line_of(f.span().start);
            forecast(f.into_inner(), &card).map_err(at(line))
        });
        let forecast = forecast.transpose()?;
        let mut columns: Vec<StartColumn> = Vec::new();
        for spanned in front.columns {
            let line = line_of(spanned.span().start);
            let column = start_column(spanned.into_inner(), &first_table).map_err(at(line))?;
            if columns.iter().any(|c| c.symbol == column.symbol && c.table == column.table) {
                return Err(at(line)(format!("Two columns have the symbol {}.", column.symbol)));
            }
            columns.push(column);
        }
        let mut conditions = Vec::new();
        for spanned in front.conditions {
            let line = line_of(spanned.span().start);
            conditions.push(condition(spanned.into_inner()).map_err(at(line))?);
        }
        let mut films: Vec<SheetFilm> = Vec::new();
        if let Some(one) = front.film {
            let key = one.into_inner();
            films.push(SheetFilm { key, conditions: Vec::new(), rulers: Vec::new(), axes: None });
        }
        for spanned in front.films {
            let line = line_of(spanned.span().start);
            let film = sheet_film(spanned.into_inner(), &conditions).map_err(at(line))?;
            if films.iter().any(|f| f.key == film.key || !conditions.is_empty() && f.conditions == film.conditions) {
                return Err(at(line)("Two films have the same name or the same conditions.".to_owned()));
            }
            films.push(film);
        }
        let goal_line = line_of(front.goal.span().start);
        let goal = goal(front.goal.into_inner(), &card).map_err(at(goal_line))?;
        let sections = sections(body, body_line)?;
        Ok(Self {
            number,
            title: front.title,
            unit: front.unit,
            card,
            films,
            conditions,
            own_films: front.own_films,
            settings,
            tracks,
            recordable,
            meters,
            arrows,
            forecast,
            columns,
            trials: front.trials,
            most_trials,
            first_table,
            strip,
            gaps,
            goal,
            sections,
        })
    }

    /// Whether its motion is filmed.
    pub fn is_filmed(&self) -> bool {
        !self.films.is_empty() || self.own_films
    }

    /// Whether the body may be pulled by hand: where the rig allows it and the sheet frees a stretch of its motion.
    pub fn by_hand(&self) -> bool {
        let mut stretches = self.settings.iter().zip(&self.card.settings).filter(|(_, spec)| spec.line.is_some());
        self.card.by_hand && stretches.any(|(rule, _)| rule.freedom == Freedom::Free)
    }

    /// The rig that stands on the bench.
    pub fn rig(&self) -> Option<&'static dyn Rig> {
        rig(self.card.name)
    }

    /// The measured conditions of a film, with their values as given readings; none for a film that has none.
    pub fn conditions_of(&self, film: &str) -> Vec<(&Condition, Reading)> {
        let Some(film) = self.films.iter().find(|f| f.key == film) else { return Vec::new() };
        let all = self.conditions.iter().zip(&film.conditions).filter(|(c, _)| c.measured);
        all.filter_map(|(c, text)| {
            let (number, unit) = parse_quantity(text, &c.unit).ok()?;
            Some((c, Reading::typed(number, unit)))
        })
        .collect()
    }

    /// The question's text, as Markdown.
    pub fn question(&self) -> &str {
        self.sections.first().map_or("", |s| s.text.as_str())
    }

    /// A word about a number of trials that is too small or too large for this lab.
    pub fn advice(&self, trials: usize) -> Option<String> {
        let (least, most) = (self.trials, self.most_trials);
        if trials < least {
            Some(format!("{trials} trials are few: this lab asks for at least {least}. Take smaller intervals."))
        } else if trials > most {
            Some(format!("{trials} trials take long: {least} to {most} suffice here. Take larger intervals."))
        } else {
            None
        }
    }

    /// The sheet's rule for a setting, as written: of a dealt one without the value any logbook has.
    pub fn rule(&self, name: &str) -> Option<&SettingRule> {
        self.settings.iter().find(|r| r.name == name)
    }

    /// The rules for one logbook: its own values where the sheet deals them.
    pub fn deal(&self, seed: u64) -> Vec<SettingRule> {
        let all = self.settings.iter().zip(&self.card.settings);
        all.map(|(rule, spec)| rule.for_seed(spec, seed)).collect()
    }
}

/// Names of a list in the front matter, each found on the rig's card.
fn named(
    what: &str,
    written: Option<Vec<String>>,
    find: impl Fn(&str) -> Option<&'static str>,
    known: &str,
) -> Result<Option<Vec<&'static str>>, String> {
    let Some(written) = written else { return Ok(None) };
    let found = written
        .iter()
        .map(|name| find(name).ok_or_else(|| format!("“{name}” cannot stand under {what}. There is: {known}.")));
    found.collect::<Result<Vec<_>, String>>().map(Some)
}

fn sentence(text: &str) -> String {
    let mut chars = text.trim().chars();
    let first = chars.next().map(char::to_uppercase).into_iter().flatten();
    let joined = first.chain(chars).collect::<String>().replace('\n', ", ");
    if joined.ends_with('.') { joined } else { joined + "." }
}

/// Front matter, body, and the body's first line number.
fn split(source: &str) -> Result<(&str, &str, usize), SheetError> {
    let missing = |line, message: &str| SheetError { line, message: message.to_owned() };
    let rest = source
        .strip_prefix(FENCE)
        .and_then(|r| r.strip_prefix('\n'))
        .ok_or_else(|| missing(1, "A lab sheet starts with a line +++ and its front matter."))?;
    let end = if rest.starts_with(FENCE) { Some(0) } else { rest.find("\n+++").map(|i| i + 1) };
    let end = end.ok_or_else(|| missing(1, "The front matter has no closing line +++."))?;
    let front = &rest[..end];
    let after = &rest[end + FENCE.len()..];
    let body = after.split_once('\n').map_or("", |(_, b)| b);
    Ok((front, body, front.matches('\n').count() + 3))
}

fn sheet_number(text: &str) -> Result<SheetNumber, String> {
    text.split_once('.')
        .and_then(|(u, p)| Some(SheetNumber { unit: u.parse().ok()?, place: p.parse().ok()? }))
        .ok_or_else(|| format!("“{text}” is not a sheet number. Write unit and place, such as 2.1."))
}

fn start_column(front: FrontColumn, first_table: &str) -> Result<StartColumn, String> {
    let kind = ColumnKind::named(&front.kind)
        .filter(|k| *k != ColumnKind::Worked)
        .ok_or_else(|| format!("“{}” is not a kind of column to start with. Write set, read or given.", front.kind))?;
    if !is_symbol(&front.symbol) {
        return Err(format!("“{}” cannot be a symbol. Write a letter, then letters or digits.", front.symbol));
    }
    if front.name.trim().is_empty() || front.name.chars().count() > 40 {
        return Err("A column's name needs 1 to 40 characters.".to_owned());
    }
    let unit = Unit::parse(&front.unit).map_err(|e| sentence(&e.to_string()))?;
    if (kind == ColumnKind::Given) == front.values.is_empty() {
        return Err("A given column has values, and only a given one: values = [\"0.20\", \"0.40\"].".to_owned());
    }
    if front.values.len() > MOST_ROWS {
        return Err(format!("A column can have {MOST_ROWS} values."));
    }
    let values = front.values.iter().map(|text| {
        let (number, typed) = parse_quantity(text, &unit)?;
        if !typed.same_dimension(&unit) {
            return Err(format!("“{text}” is not in a unit of this column."));
        }
        Ok(Reading::typed(number, typed))
    });
    let values = values.collect::<Result<Vec<_>, String>>()?;
    let precision = match front.division {
        None => Precision::Resolution,
        Some(value) => {
            let parts = front.parts.unwrap_or(1).to_string();
            Precision::read(&PrecisionText { by: "scale".to_owned(), value, parts }, &unit)?
        }
    };
    let table = front.table.unwrap_or_else(|| first_table.to_owned());
    if table.trim().is_empty() || table.chars().count() > 40 {
        return Err("A table's name needs 1 to 40 characters.".to_owned());
    }
    Ok(StartColumn { table, precision, values, kind, name: front.name, symbol: front.symbol, unit })
}

fn sections(body: &str, first_line: usize) -> Result<Vec<Section>, SheetError> {
    let mut sections: Vec<Section> = Vec::new();
    for (i, line) in body.lines().enumerate() {
        match (line.strip_prefix("## "), sections.last_mut()) {
            (Some(heading), _) => sections.push(Section { heading: heading.trim().to_owned(), text: String::new() }),
            (None, Some(section)) => {
                section.text.push_str(line);
                section.text.push('\n');
            }
            (None, None) if line.trim().is_empty() => {}
            (None, None) => {
                return Err(SheetError {
                    line: first_line + i,
                    message: "Text starts under a heading: write ## Question first.".to_owned(),
                });
            }
        }
    }
    match sections.first() {
        Some(first) if first.heading == "Question" && !first.text.trim().is_empty() => Ok(sections),
        _ => Err(SheetError {
            line: first_line,
            message: "The text starts with the heading ## Question and the question below it.".to_owned(),
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const SHEET: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");

    #[test]
    fn the_shipped_sheet_reads() {
        let sheet = LabSheet::parse(SHEET).unwrap();
        assert_eq!((sheet.number.to_string().as_str(), sheet.title.as_str()), ("2.1", "Tower pendulum"));
        assert_eq!(sheet.rule("gravity").unwrap().freedom, Freedom::Hidden);
    }

    #[test]
    fn a_sheet_gives_values_scales_and_rules() {
        let more = "strip = \"after attempt\"\nread_out = \"gaps\"\nmost_trials = 9\ntrials = 6";
        let columns = "[[columns]]\nkind = \"given\"\nname = \"load\"\nsymbol = \"n\"\nunit = '\"washers\"'\nvalues = [\"1\", \"2\"]\ntable = \"Loads\"\n\n[[columns]]\nkind = \"read\"\nname = \"mark\"\nsymbol = \"s\"\nunit = \"cm\"\ndivision = \"1 mm\"\nparts = 5\ntable = \"Loads\"\n\n[goal]";
        let sheet = LabSheet::parse(&SHEET.replacen("trials = 6", more, 1).replacen("[goal]", columns, 1)).unwrap();
        assert_eq!((sheet.strip, sheet.gaps, sheet.most_trials), (StripRule::AfterAttempt, true, 9));
        assert!(sheet.advice(4).unwrap().contains("few") && sheet.advice(12).unwrap().contains("6 to 9"));
        assert_eq!(sheet.advice(7), None);
        let given = &sheet.columns[2];
        assert_eq!((given.table.as_str(), given.values.len(), given.unit.pretty().as_str()), ("Loads", 2, "washers"));
        assert_eq!(sheet.columns[3].precision.describe(), "scale of 1\u{A0}mm, read to 1/5");
        for (from, to, word) in [
            ("trials = 6", "trials = 6\nstrip = \"sometimes\"", "after attempt"),
            ("trials = 6", "trials = 6\nread_out = \"loud\"", "gaps"),
            ("trials = 6", "trials = 6\nmost_trials = 3", "not fewer"),
            ("kind = \"set\"", "kind = \"given\"", "values"),
        ] {
            let error = LabSheet::parse(&SHEET.replacen(from, to, 1)).unwrap_err();
            assert!(error.message.contains(word), "{to}: {error}");
        }
    }

    #[test]
    fn mistakes_name_their_line() {
        let line_of = |needle: &str| SHEET.lines().position(|l| l.contains(needle)).unwrap() + 1;
        for (from, to, line, word) in [
            ("number = \"2.1\"", "number = \"two\"", line_of("number ="), "2.1"),
            ("rig = \"pendulum\"", "rig = \"anvil\"", line_of("rig ="), "pendulum"),
            ("\"hidden 9.81 m/s^2\"", "\"hidden 90 m/s^2\"", line_of("gravity ="), "outside"),
            ("\"hidden 9.81 m/s^2\"", "\"secret 9.81 m/s^2\"", line_of("gravity ="), "hidden"),
            ("trials = 6", "trials = 6\nwhisker = 3", line_of("trials =") + 1, "whisker"),
            ("trials = 6", "trials = ", line_of("trials ="), ""),
            ("title = \"Tower pendulum\"", "title = \"\"", line_of("title ="), "80"),
            ("## Question", "Question", line_of("## Question"), "heading"),
            ("symbol = \"L\"", "symbol = \"4\"", line_of("[[columns]]"), "letter"),
        ] {
            let error = LabSheet::parse(&SHEET.replacen(from, to, 1)).unwrap_err();
            assert_eq!(error.line, line, "{to}: {error}");
            assert!(error.message.contains(word), "{to}: {error}");
        }
        assert!(LabSheet::parse("").is_err());
        assert!(LabSheet::parse("+++\n+++").is_err());
    }
}
