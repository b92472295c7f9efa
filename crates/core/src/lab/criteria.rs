//! Criteria by which a logbook is marked: each has levels in words and points, the best first.
//!
//! ```text
//! [[criteria]]
//! name = "Trials"
//! sees = "trials"       # what the program looks at to propose a level; left out where only the teacher can tell
//! levels = ["3 | six trials, one quantity varied", "1 | fewer", "0 | none"]
//! ```

use serde::Deserialize;
use strum::{IntoStaticStr, VariantArray};
use toml::Spanned;

use super::read::{Fault, Lines, Under, fits, one_named};
use super::wrong::{Named, Number, Several, SheetError, Text, Twin, Wrong};

/// Most criteria of a sheet, and most levels of a criterion.
const MOST_CRITERIA: usize = 12;
const MOST_LEVELS: u32 = 8;
/// Most points of a level.
const MOST_POINTS: u32 = 100;

/// Something that is marked.
#[derive(Clone, Debug, PartialEq)]
pub struct Criterion {
    /// Its name.
    pub name: String,
    /// What the program looks at to propose a level.
    pub sees: Option<Sees>,
    /// Its levels, the best first.
    pub levels: Vec<Level>,
}

/// A level of a criterion.
#[derive(Clone, Debug, PartialEq)]
pub struct Level {
    /// In words.
    pub words: String,
    /// Its points.
    pub points: f64,
}

/// What the program can look at.
#[derive(Clone, Copy, Debug, PartialEq, Eq, VariantArray, IntoStaticStr)]
#[strum(serialize_all = "lowercase")]
pub enum Sees {
    /// Whether there are trials enough in which one quantity was varied.
    Trials,
    /// Whether there is a graph with a line.
    Graph,
    /// Whether the constant is in order.
    Constant,
    /// How many questions are answered rightly.
    Questions,
    /// Whether the claim says what its evidence shows, from trials in which one quantity was varied.
    Claim,
    /// Whether claim, evidence and reasoning are written.
    Texts,
}

impl Sees {
    /// All.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// Its name in sheets.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

impl Criterion {
    /// The criteria of a sheet that states none.
    pub fn usual(questions: bool) -> Vec<Self> {
        let made = |name: &str, sees, levels: [(&str, f64); 4]| Self {
            name: name.to_owned(),
            sees: Some(sees),
            levels: levels.map(|(words, points)| Level { words: words.to_owned(), points }).into(),
        };
        let all = [
            made(
                "Trials",
                Sees::Trials,
                [
                    ("enough trials, one quantity varied", 3.0),
                    ("enough trials, but more than one quantity changed", 2.0),
                    ("some trials", 1.0),
                    ("none", 0.0),
                ],
            ),
            made(
                "Graph",
                Sees::Graph,
                [
                    ("axes chosen well, with a line that fits the law", 3.0),
                    ("a graph with a line", 2.0),
                    ("a graph", 1.0),
                    ("none", 0.0),
                ],
            ),
            made(
                "Constant",
                Sees::Constant,
                [
                    ("agrees with the key, with unit and uncertainty", 3.0),
                    ("a value, close", 2.0),
                    ("a value, far off", 1.0),
                    ("none", 0.0),
                ],
            ),
            made(
                "Questions",
                Sees::Questions,
                [("all right", 3.0), ("most right", 2.0), ("some right", 1.0), ("none", 0.0)],
            ),
            made(
                "Claim, evidence, reasoning",
                Sees::Claim,
                [
                    ("the claim says what the data show, and why", 3.0),
                    ("claim and evidence fit", 2.0),
                    ("something is written", 1.0),
                    ("nothing", 0.0),
                ],
            ),
        ];
        all.into_iter().filter(|c| questions || c.sees != Some(Sees::Questions)).collect()
    }

    /// The most points it can have.
    pub fn most(&self) -> f64 {
        self.levels.iter().map(|l| l.points).fold(0.0, f64::max)
    }

    /// The level that is nearest to a quality from 0 to 1.
    pub fn level_for(&self, quality: f64) -> usize {
        let most = self.most().max(f64::MIN_POSITIVE);
        let off = |level: &Level| (level.points / most - quality).abs();
        let nearest = self.levels.iter().enumerate().min_by(|(_, a), (_, b)| off(a).total_cmp(&off(b)));
        nearest.map_or(0, |(place, _)| place)
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontCriterion {
    name: String,
    sees: Option<String>,
    levels: Vec<String>,
}

pub(super) fn criteria(
    written: Vec<Spanned<FrontCriterion>>,
    questions: bool,
    lines: &Lines<'_>,
) -> Result<Vec<Criterion>, SheetError> {
    if written.is_empty() {
        return Ok(Criterion::usual(questions));
    }
    let mut all: Vec<Criterion> = Vec::new();
    for spanned in written {
        let at = lines.at(&spanned);
        let next = criterion(spanned.into_inner()).map_err(&at)?;
        if all.iter().any(|c| c.name == next.name) {
            return Err(at(Wrong::Twice { of: Twin::Criterion, name: next.name }.into()));
        }
        all.push(next);
        if all.len() > MOST_CRITERIA {
            return Err(at(Wrong::TooMany { of: Several::Criteria, most: MOST_CRITERIA }.into()));
        }
    }
    Ok(all)
}

fn criterion(front: FrontCriterion) -> Result<Criterion, Fault> {
    let name = front.name.trim().to_owned();
    fits(&name, Text::Criterion, 60).under("name")?;
    let sees = front.sees.map(|text| one_named(&text, Named::Seen));
    let level = |text: &String| {
        let (points, words) = text.split_once('|').ok_or_else(|| Wrong::NoLevel(text.clone()))?;
        let points = points.trim().replace(',', ".").parse::<f64>().ok();
        let points = points.filter(|p| (0.0..=f64::from(MOST_POINTS)).contains(p));
        let points = points.ok_or(Wrong::Range { of: Number::Points, from: 0, to: MOST_POINTS })?;
        let words = words.trim().to_owned();
        fits(&words, Text::Level, 200)?;
        Ok(Level { words, points })
    };
    let levels = front.levels.iter().map(level).collect::<Result<Vec<_>, Wrong>>().under("levels")?;
    if !(2..=MOST_LEVELS as usize).contains(&levels.len()) {
        return Err(Wrong::Range { of: Number::Levels, from: 2, to: MOST_LEVELS }).under("levels");
    }
    if levels.windows(2).any(|pair| pair[0].points <= pair[1].points) {
        return Err(Wrong::LevelsOrder).under("levels");
    }
    Ok(Criterion { name, sees: sees.transpose().under("sees")?, levels })
}
