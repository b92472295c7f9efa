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
//! step_model = true       # a step model beside the data
//! slips = "asked"         # whether students are asked about likely mistakes, or "teacher" alone sees them
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
//! # [[questions]] along the way: see the module `questions`
//!
//! [goal]
//! symbol = "g"
//! name = "free-fall acceleration"
//! accepted = "9.81 m/s^2"         # or key = a formula over the settings' symbols, with unit and one_trial
//! source = "survey of the tower"
//!
//! [[expected]]             # a curve that is drawn once the logbook is handed in, or beside the marks
//! x = "L"
//! across = "m"             # for graphs of a length across
//! up = "s^2"               # and the square of a time up
//! curve = "4*pi^2*L/g"     # of x and the constant
//! +++
//! ## Question
//! How strong is gravity …
//! ```
//!
//! [`LabSheet::parse`] reads and checks it all; every mistake has its line.

mod bench;
mod blank;
mod criteria;
mod draft;
mod expected;
mod films;
mod goal;
mod growth;
mod inquiry;
mod questions;
mod read;
mod settings;
mod wrong;

pub use criteria::{Criterion, Level, Sees};
pub use draft::{
    AnsweredBy, Draft, DraftEdit, DraftRefusal, DraftRule, DraftSetting, FROM, Mistake, looked_over, mistakes,
};
pub use expected::Expected;
pub use films::{Condition, SheetFilm};
pub use goal::{Goal, Key};
pub use growth::{News, Stays};
pub use inquiry::{CurveAsked, ForecastAsked, HypothesisAsked, PredictionAsked};
pub use questions::MOST_QUESTIONS;
pub use settings::{Deal, Freedom, SettingRule};
pub use wrong::{Named, Number, Several, SheetError, Text, Twin, Wrong};

use crate::chance::Chance;
use crate::inquiry::{Question, Step};
use crate::quantity::{Precision, Reading, Unit, parse_quantity};
use crate::record::{ColumnKind, ColumnSource};
use crate::rigs::{Card, Rig, rig};

/// Largest sheet that is read, in bytes.
pub const LARGEST: usize = 100_000;

/// Whether a sheet with or without a forecast and a step model has a step.
fn has_step(step: Step, forecast: bool, step_model: bool) -> bool {
    match step {
        Step::Forecast => forecast,
        Step::Model => step_model,
        Step::Question | Step::Measure | Step::Graph | Step::Linearize | Step::Constant | Step::WriteUp => true,
    }
}

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
    /// Settings that are varied together on purpose, so that trials stay comparable.
    pub varied_together: Vec<&'static str>,
    /// Arrows that may be shown.
    pub arrows: Vec<&'static str>,
    /// What is to be forecast before the first run.
    pub forecast: Option<ForecastAsked>,
    /// Columns the record starts with.
    pub columns: Vec<StartColumn>,
    /// Trials wanted.
    pub trials: usize,
    /// Trials that are enough.
    pub most_trials: usize,
    /// Deals of numbers a logbook may have, the first one included.
    pub deals: u32,
    /// Name of the first table.
    pub first_table: String,
    /// When the shape strip is shown.
    pub strip: StripRule,
    /// Whether the read-out has gaps for the student to fill.
    pub gaps: bool,
    /// Whether students are asked about likely mistakes; teachers see them in any case.
    pub ask_slips: bool,
    /// Whether the bench has a step model.
    pub step_model: bool,
    /// The constant to be found.
    pub goal: Goal,
    /// What graphs should have looked like.
    pub expected: Vec<Expected>,
    /// Questions along the way, in the order of work.
    pub questions: Vec<Question>,
    /// Criteria by which a logbook is marked.
    pub criteria: Vec<Criterion>,
    /// Steps at which the teacher signs off before the work goes on.
    pub stamps: Vec<Step>,
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
    /// Whether its values part the rows into groups.
    pub groups: bool,
    /// What it is logged from with the rest of a trial.
    pub source: Option<ColumnSource>,
    /// Set, read or given.
    pub kind: ColumnKind,
    /// Name.
    pub name: String,
    /// Symbol.
    pub symbol: String,
    /// Unit.
    pub unit: Unit,
}

/// From when on students read a section. The teacher always does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ReadFrom {
    /// From the start.
    Start,
    /// Once the first run was made: it would answer what is to be forecast.
    FirstRun,
    /// Once the logbook is handed in: it says what should have come out.
    HandIn,
}

/// A number of trials that does not suit a lab.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Advice {
    /// It is small.
    Few {
        /// The number.
        trials: usize,
        /// What the lab asks for at least.
        least: usize,
    },
    /// It is large.
    Many {
        /// The number.
        trials: usize,
        /// What the lab asks for at least.
        least: usize,
        /// What is enough.
        most: usize,
    },
}

/// A part of the text under one heading.
#[derive(Clone, Debug, PartialEq)]
pub struct Section {
    /// The heading.
    pub heading: String,
    /// Markdown below it.
    pub text: String,
    /// From when on students read it.
    pub from: ReadFrom,
}

impl LabSheet {
    /// The steps of the work in this lab.
    pub fn steps(&self) -> impl Iterator<Item = Step> + use<'_> {
        Step::ALL.iter().copied().filter(|step| has_step(*step, self.forecast.is_some(), self.step_model))
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

    /// What is to be said of a number of trials that is too small or too large for this lab.
    pub fn advice(&self, trials: usize) -> Option<Advice> {
        let (least, most) = (self.trials, self.most_trials);
        if trials < least {
            Some(Advice::Few { trials, least })
        } else if trials > most {
            Some(Advice::Many { trials, least, most })
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
        self.deal_again(seed, 0)
    }

    /// The same with the numbers of a further deal; 0 is the first one.
    pub fn deal_again(&self, seed: u64, number: u32) -> Vec<SettingRule> {
        let seed = if number == 0 { seed } else { Chance::of(seed, "deal", u64::from(number)).deal() };
        let all = self.settings.iter().zip(&self.card.settings);
        all.map(|(rule, spec)| rule.for_seed(spec, seed)).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rigs::SettingError;

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
        assert_eq!(sheet.advice(4), Some(Advice::Few { trials: 4, least: 6 }));
        assert_eq!(sheet.advice(12), Some(Advice::Many { trials: 12, least: 6, most: 9 }));
        assert_eq!(sheet.advice(7), None);
        let given = &sheet.columns[2];
        assert_eq!((given.table.as_str(), given.values.len(), given.unit.pretty().as_str()), ("Loads", 2, "washers"));
        assert!(
            matches!(&sheet.columns[3].precision, Precision::Scale { division, unit, parts: 5 } if division.value() == 1.0 && unit.pretty() == "mm")
        );
        let unknown = |key, given: &str, known: &[&'static str]| Wrong::Unknown {
            of: Named::Word(key),
            given: given.to_owned(),
            known: known.to_vec(),
        };
        for (from, to, wrong) in [
            (
                "trials = 6",
                "trials = 6\nstrip = \"sometimes\"",
                unknown("strip", "sometimes", &["always", "after attempt", "never"]),
            ),
            ("trials = 6", "trials = 6\nread_out = \"loud\"", unknown("read_out", "loud", &["shown", "gaps"])),
            ("trials = 6", "trials = 6\nmost_trials = 3", Wrong::MostTrials),
            ("kind = \"set\"", "kind = \"given\"", Wrong::GivenValues),
        ] {
            let error = LabSheet::parse(&SHEET.replacen(from, to, 1)).unwrap_err();
            assert_eq!(error.wrong, wrong, "{to}");
        }
    }

    #[test]
    fn mistakes_name_their_line() {
        let line_of = |needle: &str| SHEET.lines().position(|l| l.contains(needle)).unwrap() + 1;
        let title = Wrong::Length { of: Text::Title, most: 80 };
        type Told<'a> = &'a dyn Fn(&Wrong) -> bool;
        let wrongs: [(&str, &str, usize, Told<'_>); 9] = [
            ("number = \"2.1\"", "number = \"two\"", line_of("number ="), &|w| *w == Wrong::NoNumber("two".into())),
            (
                "rig = \"pendulum\"",
                "rig = \"anvil\"",
                line_of("rig ="),
                &|w| matches!(w, Wrong::Unknown { of: Named::Rig, given, known } if given == "anvil" && known.contains(&"pendulum")),
            ),
            ("\"hidden 9.81 m/s^2\"", "\"hidden 90 m/s^2\"", line_of("gravity ="), &|w| {
                matches!(w, Wrong::Setting(SettingError::Outside { .. }))
            }),
            ("\"hidden 9.81 m/s^2\"", "\"secret 9.81 m/s^2\"", line_of("gravity ="), &|w| {
                matches!(w, Wrong::NoRule { setting: "gravity", .. })
            }),
            (
                "trials = 6",
                "trials = 6\nwhisker = 3",
                line_of("trials =") + 1,
                &|w| matches!(w, Wrong::Notation(remark) if remark.contains("whisker")),
            ),
            ("trials = 6", "trials = ", line_of("trials ="), &|w| matches!(w, Wrong::Notation(_))),
            ("title = \"Tower pendulum\"", "title = \"\"", line_of("title ="), &|w| *w == title),
            ("## Question", "Question", line_of("## Question"), &|w| *w == Wrong::NoHeading),
            ("symbol = \"L\"", "symbol = \"4\"", line_of("symbol = \"L\""), &|w| *w == Wrong::NotASymbol("4".into())),
        ];
        for (from, to, line, is_told) in wrongs {
            let error = LabSheet::parse(&SHEET.replacen(from, to, 1)).unwrap_err();
            assert!(error.line == line && is_told(&error.wrong), "{to}: {error:?}");
        }
        let wrong = |text: &str| LabSheet::parse(text).unwrap_err().wrong;
        assert_eq!((wrong(""), wrong("+++\ntitle = \"x\"\n")), (Wrong::NoFence, Wrong::Unclosed));
        assert!(matches!(wrong("+++\n+++"), Wrong::Notation(remark) if remark.contains("missing field")));
        assert_eq!(wrong(&"x".repeat(LARGEST + 1)), Wrong::TooLong);
    }
}
