//! Reading a sheet: the front matter as written, checked against the rig's card line by line, and the text below it.

use serde::Deserialize;
use strum::VariantArray;
use toml::Spanned;

use super::criteria::{FrontCriterion, criteria};
use super::expected::{FrontExpected, expected};
use super::films::{FrontCondition, FrontFilm, condition, sheet_film};
use super::goal::{FrontGoal, goal};
use super::inquiry::{FrontForecast, forecast};
use super::questions::{FrontQuestion, questions};
use super::settings::setting_rule;
use super::wrong::{Named, Number, Several, SheetError, Text, Twin, Wrong};
use super::{
    Condition, Freedom, LARGEST, LabSheet, ReadFrom, Section, SettingRule, SheetFilm, SheetNumber, StartColumn,
    StripRule,
};
use crate::formula::is_symbol;
use crate::inquiry::Step;
use crate::quantity::{Precision, PrecisionBy, PrecisionText, Reading, Unit, parse_quantity};
use crate::record::{ColumnKind, ColumnSource, MOST_ROWS};
use crate::rigs::{CATALOGUE, Card, SettingSpec, rig};

/// Most deals of numbers for one logbook.
const MOST_DEALS: u32 = 9;
/// Longest name of a table, a column, a condition or a pupil, in characters.
pub(super) const LONGEST_NAME: usize = 40;

/// The fence above and below the front matter.
pub(super) const FENCE: &str = "+++";

/// Behind the heading of a section that is not shown from the start.
pub(super) const LATER: [(&str, ReadFrom); 2] =
    [("(after the forecast)", ReadFrom::FirstRun), ("(after handing in)", ReadFrom::HandIn)];

/// The front matter as written.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Front {
    number: Spanned<String>,
    title: String,
    unit: String,
    rig: Option<Spanned<String>>,
    film: Option<Spanned<String>>,
    #[serde(default)]
    films: Vec<Spanned<FrontFilm>>,
    #[serde(default)]
    conditions: Vec<Spanned<FrontCondition>>,
    #[serde(default)]
    own_films: bool,
    #[serde(default = "usual_trials")]
    trials: usize,
    most_trials: Option<usize>,
    deals: Option<u32>,
    table: Option<String>,
    strip: Option<String>,
    read_out: Option<String>,
    slips: Option<String>,
    #[serde(default)]
    step_model: bool,
    tracks: Option<Vec<String>>,
    record: Option<Vec<String>>,
    instruments: Option<Vec<String>>,
    arrows: Option<Vec<String>>,
    varied_together: Option<Vec<String>>,
    stamps: Option<Vec<String>>,
    forecast: Option<Spanned<FrontForecast>>,
    #[serde(default)]
    settings: toml::Table,
    #[serde(default)]
    columns: Vec<Spanned<FrontColumn>>,
    #[serde(default)]
    questions: Vec<Spanned<FrontQuestion>>,
    #[serde(default)]
    criteria: Vec<Spanned<FrontCriterion>>,
    goal: Spanned<FrontGoal>,
    #[serde(default)]
    expected: Vec<Spanned<FrontExpected>>,
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
    /// Whether its values part the rows into groups.
    #[serde(default)]
    groups: bool,
    /// Setting or meter it is logged from with the rest of a trial: `meter period`.
    from: Option<String>,
    /// Whether its readings are counts of what happens by chance.
    #[serde(default)]
    counts: bool,
}

fn usual_trials() -> usize {
    6
}

/// Where things stand in the text of the front matter, which starts in line 2, below its fence.
pub(super) struct Lines<'a>(&'a str);

impl Lines<'_> {
    /// The line an offset lies in.
    fn of(&self, offset: usize) -> usize {
        2 + self.0[..offset.min(self.0.len())].matches('\n').count()
    }

    /// A mistake in what was written there: in the line of its key, if it is said which and the key has a line of its own.
    pub(super) fn at<T>(&self, place: &Spanned<T>) -> impl Fn(Fault) -> SheetError + use<'_, T> {
        let line = self.of(place.span().start);
        move |Fault { key, wrong }| {
            let mut below = self.0.lines().skip(line - 1).take_while(|l| !l.trim_start().starts_with('['));
            let down = below.position(|l| !key.is_empty() && is_key(l, key)).map_or(0, |i| i + 1);
            SheetError { line: line + down, wrong }
        }
    }

    /// A mistake in the line of a key.
    fn with<W: Into<Wrong>>(&self, key: &str) -> impl Fn(W) -> SheetError + use<W> {
        let line = self.0.lines().position(|l| is_key(l, key)).map_or(2, |i| i + 2);
        move |wrong| SheetError { line, wrong: wrong.into() }
    }
}

/// One of a few words; the first holds where none is written.
fn word<T: Copy>(
    key: &'static str,
    written: Option<&str>,
    known: &[(&'static str, T)],
    lines: &Lines<'_>,
) -> Result<T, SheetError> {
    let Some(written) = written else { return Ok(known[0].1) };
    one_of(known, written, Named::Word(key)).map_err(lines.with(key))
}

fn is_key(line: &str, key: &str) -> bool {
    line.split('=').next().is_some_and(|k| k.trim().trim_matches(['"', '\'']) == key)
}

/// What is wrong in a table of the front matter, and under which of its keys; the key is empty where it is the table as a whole.
pub(super) struct Fault {
    key: &'static str,
    wrong: Wrong,
}

impl From<Wrong> for Fault {
    fn from(wrong: Wrong) -> Self {
        Self { key: "", wrong }
    }
}

/// Says under which key something is wrong.
pub(super) trait Under<T> {
    fn under(self, key: &'static str) -> Result<T, Fault>;
}

impl<T, W: Into<Wrong>> Under<T> for Result<T, W> {
    fn under(self, key: &'static str) -> Result<T, Fault> {
        self.map_err(|wrong| Fault { key, wrong: wrong.into() })
    }
}

/// What a name means, among those known.
pub(super) fn one_of<T: Copy>(known: &[(&'static str, T)], given: &str, of: Named) -> Result<T, Wrong> {
    known.iter().find(|(name, _)| *name == given).map(|(_, means)| *means).ok_or_else(|| Wrong::Unknown {
        of,
        given: given.to_owned(),
        known: known.iter().map(|(name, _)| *name).collect(),
    })
}

/// The kind of that name, or that there is none.
pub(super) fn one_named<T>(given: &str, of: Named) -> Result<T, Wrong>
where
    T: VariantArray + Copy + Into<&'static str>,
{
    let known: Vec<(&'static str, T)> = T::VARIANTS.iter().map(|kind| ((*kind).into(), *kind)).collect();
    one_of(&known, given, of)
}

/// Nothing, or that a text is empty or too long.
pub(super) fn fits(text: &str, of: Text, most: usize) -> Result<(), Wrong> {
    let fit = !text.trim().is_empty() && text.chars().count() <= most;
    if fit { Ok(()) } else { Err(Wrong::Length { of, most }) }
}

/// Nothing, or what is wrong under a key.
pub(super) fn unless(amiss: bool, key: &'static str, wrong: Wrong) -> Result<(), Fault> {
    if amiss { Err(Fault { key, wrong }) } else { Ok(()) }
}

impl LabSheet {
    /// Reads a sheet.
    ///
    /// # Errors
    /// [`SheetError`] with the line and what to write there.
    pub fn parse(source: &str) -> Result<Self, SheetError> {
        Self::read(source, std::convert::identity)
    }

    /// Reads a sheet that was checked when it was written, perhaps by an earlier program: a value that lay in the range of its setting then
    /// is taken as it is. A logbook that was begun with it has its own values stored.
    ///
    /// # Errors
    /// [`SheetError`] when it names something that is no longer there.
    pub fn parse_kept(source: &str) -> Result<Self, SheetError> {
        Self::read(source, Card::widened)
    }

    fn read(source: &str, checked_by: fn(Card) -> Card) -> Result<Self, SheetError> {
        if source.len() > LARGEST {
            return Err(SheetError { line: 1, wrong: Wrong::TooLong });
        }
        let source = source.replace("\r\n", "\n");
        let (front_text, body, body_line) = split(&source)?;
        let lines = Lines(front_text);
        let front: Front = toml::from_str(front_text).map_err(|e| SheetError {
            line: e.span().map_or(2, |s| lines.of(s.start)),
            wrong: Wrong::Notation(e.message().to_owned()),
        })?;

        let number = sheet_number(front.number.get_ref()).map_err(Fault::from).map_err(lines.at(&front.number))?;
        let own_card = front.card(&lines)?;
        let card = checked_by(own_card.clone());
        let most_trials = front.check_head(&lines)?;
        let first_table = front.table.clone().unwrap_or_else(|| "Trials".to_owned());
        let strip = word(
            "strip",
            front.strip.as_deref(),
            &[("always", StripRule::Always), ("after attempt", StripRule::AfterAttempt), ("never", StripRule::Never)],
            &lines,
        )?;
        let gaps = word("read_out", front.read_out.as_deref(), &[("shown", false), ("gaps", true)], &lines)?;
        let ask_slips = word("slips", front.slips.as_deref(), &[("teacher", false), ("asked", true)], &lines)?;
        let settings = front.rules(&card, &lines)?;
        front.check_deals(&settings, &lines)?;
        let bench = front.bench(&card, &settings, &lines)?;
        let meters = bench.meters.clone();
        let (conditions, films) = filmed(front.film, front.conditions, front.films, &lines)?;
        let forecast = front.forecast.map(|f| {
            let at = lines.at(&f);
            forecast(f.into_inner(), &card).map_err(Fault::from).map_err(at)
        });
        let goal_at = lines.at(&front.goal);
        let goal = goal(front.goal.into_inner(), &card).map_err(goal_at)?;
        let curves = front.expected.into_iter().map(|e| {
            let at = lines.at(&e);
            expected(e.into_inner(), &goal, (&card, &settings)).map_err(Fault::from).map_err(at)
        });
        let expected = curves.collect::<Result<_, _>>()?;
        let forecast = forecast.transpose()?;
        let (with_forecast, with_model) = (forecast.is_some(), front.step_model);
        let has_step = |step| super::has_step(step, with_forecast, with_model);
        let stamps = stamps(front.stamps.as_deref().unwrap_or_default(), &has_step).map_err(lines.with("stamps"))?;
        let questions = questions(front.questions, (&card, &goal, &has_step), &lines)?;
        Ok(Self {
            criteria: criteria(front.criteria, !questions.is_empty(), &lines)?,
            questions,
            stamps,
            number,
            title: front.title,
            unit: front.unit,
            films,
            conditions,
            own_films: front.own_films,
            settings,
            tracks: bench.tracks,
            recordable: bench.recordable,
            meters: bench.meters,
            varied_together: bench.varied_together,
            arrows: bench.arrows,
            forecast,
            columns: start_columns(front.columns, &first_table, (&card, &meters), &lines)?,
            trials: front.trials,
            most_trials,
            deals: front.deals.unwrap_or(1),
            first_table,
            strip,
            gaps,
            ask_slips,
            step_model: front.step_model,
            goal,
            expected,
            sections: sections(body, body_line)?,
            card: own_card,
        })
    }
}

/// What lies on the bench, by the names on the card.
struct Bench {
    tracks: Vec<&'static str>,
    recordable: Vec<&'static str>,
    meters: Vec<&'static str>,
    arrows: Vec<&'static str>,
    varied_together: Vec<&'static str>,
}

impl Front {
    /// The card of what moves.
    fn card(&self, lines: &Lines<'_>) -> Result<Card, SheetError> {
        let filmed = self.film.is_some() || !self.films.is_empty() || self.own_films;
        match &self.rig {
            Some(name) if filmed => Err(lines.at(name)(Wrong::TwoMotions.into())),
            Some(name) => {
                let chosen = rig(name.get_ref()).ok_or_else(|| {
                    let known = CATALOGUE.iter().map(|r| r.card().name).collect();
                    let wrong = Wrong::Unknown { of: Named::Rig, given: name.get_ref().clone(), known };
                    lines.at(name)(wrong.into())
                })?;
                Ok(chosen.card())
            }
            None if filmed => Ok(Card::of_films()),
            None => Err(SheetError { line: 2, wrong: Wrong::NoMotion }),
        }
    }

    /// Checks names and numbers of trials; gives the most trials.
    fn check_head(&self, lines: &Lines<'_>) -> Result<usize, SheetError> {
        let most_trials = self.most_trials.unwrap_or_else(|| self.trials.saturating_mul(2).max(15));
        fits(&self.title, Text::Title, 80).map_err(lines.with("title"))?;
        fits(&self.unit, Text::Unit, 80).map_err(lines.with("unit"))?;
        if !(2..=200).contains(&self.trials) {
            return Err(lines.with("trials")(Wrong::Range { of: Number::Trials, from: 2, to: 200 }));
        }
        if !(self.trials..=1000).contains(&most_trials) {
            return Err(lines.with("most_trials")(Wrong::MostTrials));
        }
        let table = self.table.as_ref().map_or(Ok(()), |t| fits(t, Text::Table, LONGEST_NAME));
        table.map_err(lines.with("table"))?;
        Ok(most_trials)
    }

    /// Further deals need something that is dealt.
    fn check_deals(&self, settings: &[SettingRule], lines: &Lines<'_>) -> Result<(), SheetError> {
        let Some(deals) = self.deals else { return Ok(()) };
        let wrong = |wrong: Wrong| Err(lines.with("deals")(wrong));
        if !(1..=MOST_DEALS).contains(&deals) {
            return wrong(Wrong::Range { of: Number::Deals, from: 1, to: MOST_DEALS });
        }
        if deals > 1 && settings.iter().all(|r| r.dealt.is_none()) {
            return wrong(Wrong::NothingDealt);
        }
        Ok(())
    }

    /// The rule of every setting on the card.
    fn rules(&self, card: &Card, lines: &Lines<'_>) -> Result<Vec<SettingRule>, SheetError> {
        for name in self.settings.keys() {
            card.known_setting(name).map_err(lines.with(name))?;
        }
        let rule = |spec: &SettingSpec| {
            setting_rule(card, spec.name, self.settings.get(spec.name)).map_err(lines.with(spec.name))
        };
        card.settings.iter().map(rule).collect()
    }

    /// Curves, recorders, instruments and arrows. Lengths of arrows and recorded forces would give a hidden value away, and so
    /// would a balance beside a hidden mass: a sheet that hides a setting must name those it shows.
    fn bench(&self, card: &Card, settings: &[SettingRule], lines: &Lines<'_>) -> Result<Bench, SheetError> {
        let channels: Vec<&'static str> = card.channels.iter().map(|c| c.name).collect();
        let meters: Vec<&'static str> = card.meters.iter().map(|m| m.name).collect();
        let arrows: Vec<&'static str> = card.arrows.iter().map(|a| a.name).collect();
        let names: Vec<&'static str> = card.settings.iter().map(|s| s.name).collect();
        let written = |key: &'static str, list: &Option<Vec<String>>, known: &[&'static str]| {
            named(key, list.as_deref(), known).map_err(lines.with(key))
        };
        let secret = |name: &str| settings.iter().any(|r| r.name == name && r.freedom == Freedom::Hidden);
        let hides = settings.iter().any(|r| r.freedom == Freedom::Hidden);
        let telling = |m: &&crate::rigs::MeterSpec| !m.tells.iter().any(|name| secret(name));
        Ok(Bench {
            tracks: written("tracks", &self.tracks, &channels)?.unwrap_or_else(|| card.tracks.to_vec()),
            recordable: written("record", &self.record, &channels)?
                .unwrap_or_else(|| card.channels.iter().filter(|c| !hides || c.seen).map(|c| c.name).collect()),
            meters: written("instruments", &self.instruments, &meters)?
                .unwrap_or_else(|| card.meters.iter().filter(telling).map(|m| m.name).collect()),
            arrows: written("arrows", &self.arrows, &arrows)?.unwrap_or_else(|| {
                card.arrows.iter().filter(|a| !hides || a.kind.is_velocity()).map(|a| a.name).collect()
            }),
            varied_together: written("varied_together", &self.varied_together, &names)?.unwrap_or_default(),
        })
    }
}

/// Conditions and films; no two films may be taken for each other.
fn filmed(
    one: Option<Spanned<String>>,
    conditions: Vec<Spanned<FrontCondition>>,
    films: Vec<Spanned<FrontFilm>>,
    lines: &Lines<'_>,
) -> Result<(Vec<Condition>, Vec<SheetFilm>), SheetError> {
    let read = |spanned: Spanned<FrontCondition>| {
        let at = lines.at(&spanned);
        condition(spanned.into_inner()).map_err(Fault::from).map_err(at)
    };
    let conditions = conditions.into_iter().map(read).collect::<Result<Vec<_>, _>>()?;
    let alone = |key| SheetFilm { key, conditions: Vec::new(), rulers: Vec::new(), axes: None };
    let mut all: Vec<SheetFilm> = one.map(|film| alone(film.into_inner())).into_iter().collect();
    for spanned in films {
        let at = lines.at(&spanned);
        let film = sheet_film(spanned.into_inner(), &conditions).map_err(Fault::from).map_err(&at)?;
        if all.iter().any(|f| f.key == film.key || !conditions.is_empty() && f.conditions == film.conditions) {
            return Err(at(Wrong::FilmTwice.into()));
        }
        all.push(film);
    }
    Ok((conditions, all))
}

fn start_columns(
    written: Vec<Spanned<FrontColumn>>,
    first_table: &str,
    rig: (&Card, &[&'static str]),
    lines: &Lines<'_>,
) -> Result<Vec<StartColumn>, SheetError> {
    let mut columns: Vec<StartColumn> = Vec::new();
    for spanned in written {
        let at = lines.at(&spanned);
        let column = start_column(spanned.into_inner(), first_table, rig).map_err(&at)?;
        if columns.iter().any(|c| c.symbol == column.symbol && c.table == column.table) {
            let wrong = Wrong::Twice { of: Twin::Column, name: column.symbol };
            return Err(at(Fault { key: "symbol", wrong }));
        }
        columns.push(column);
    }
    Ok(columns)
}

/// Names of a list in the front matter, each among those known; `None` where there is no list.
fn named(
    key: &'static str,
    written: Option<&[String]>,
    known: &[&'static str],
) -> Result<Option<Vec<&'static str>>, Wrong> {
    let known: Vec<(&'static str, &'static str)> = known.iter().map(|name| (*name, *name)).collect();
    let find = |name: &String| one_of(&known, name, Named::Entry(key));
    written.map(|list| list.iter().map(find).collect()).transpose()
}

/// The steps at which the teacher signs off, in the order of work.
fn stamps(written: &[String], has_step: &dyn Fn(Step) -> bool) -> Result<Vec<Step>, Wrong> {
    let step = |name: &String| {
        let known = Step::named(name).filter(|s| *s != Step::WriteUp && has_step(*s));
        known.ok_or_else(|| Wrong::NoStamp(name.clone()))
    };
    let mut all = written.iter().map(step).collect::<Result<Vec<_>, _>>()?;
    all.sort_unstable();
    all.dedup();
    Ok(all)
}

/// Front matter, body, and the body's first line number.
pub(super) fn split(source: &str) -> Result<(&str, &str, usize), SheetError> {
    let missing = |wrong| SheetError { line: 1, wrong };
    let rest = source.strip_prefix(FENCE).and_then(|r| r.strip_prefix('\n')).ok_or_else(|| missing(Wrong::NoFence))?;
    let end = if rest.starts_with(FENCE) { Some(0) } else { rest.find("\n+++").map(|i| i + 1) };
    let end = end.ok_or_else(|| missing(Wrong::Unclosed))?;
    let front = &rest[..end];
    let after = &rest[end + FENCE.len()..];
    let body = after.split_once('\n').map_or("", |(_, b)| b);
    Ok((front, body, front.matches('\n').count() + 3))
}

fn sheet_number(text: &str) -> Result<SheetNumber, Wrong> {
    text.split_once('.')
        .and_then(|(u, p)| Some(SheetNumber { unit: u.parse().ok()?, place: p.parse().ok()? }))
        .ok_or_else(|| Wrong::NoNumber(text.to_owned()))
}

fn start_column(
    front: FrontColumn,
    first_table: &str,
    (card, meters): (&Card, &[&'static str]),
) -> Result<StartColumn, Fault> {
    let kind = ColumnKind::named(&front.kind)
        .filter(|k| *k != ColumnKind::Worked)
        .ok_or_else(|| Wrong::NoColumnKind(front.kind.clone()))
        .under("kind")?;
    if !is_symbol(&front.symbol) {
        return Err(Wrong::NotASymbol(front.symbol)).under("symbol");
    }
    fits(&front.name, Text::Column, LONGEST_NAME).under("name")?;
    let unit = Unit::parse(&front.unit).under("unit")?;
    let amiss = (kind == ColumnKind::Given) == front.values.is_empty();
    unless(amiss, "values", Wrong::GivenValues)?;
    unless(front.values.len() > MOST_ROWS, "values", Wrong::TooMany { of: Several::Values, most: MOST_ROWS })?;
    let values = front.values.iter().map(|text| {
        let (number, typed) = parse_quantity(text, &unit)?;
        if !typed.same_dimension(&unit) {
            return Err(Wrong::NotOfColumn(text.clone()));
        }
        Ok(Reading::typed(number, typed))
    });
    let values = values.collect::<Result<Vec<_>, Wrong>>().under("values")?;
    let source = match front.from.as_deref().map(|from| from.split_once(' ').unwrap_or((from, ""))) {
        None => None,
        Some(("setting", name)) if card.setting(name).is_some_and(SettingSpec::is_number) => {
            Some(ColumnSource::Setting(name.to_owned()))
        }
        Some(("meter", name)) if meters.contains(&name) => Some(ColumnSource::Meter(name.to_owned())),
        Some(_) => {
            return Err(Wrong::NoSource { meters: meters.to_vec() }).under("from");
        }
    };
    let precision = match front.division {
        None if front.counts => Precision::Counting,
        None => Precision::Resolution,
        Some(value) => {
            let parts = front.parts.unwrap_or(1).to_string();
            Precision::read(&PrecisionText { by: PrecisionBy::Scale, value, parts }, &unit).under("division")?
        }
    };
    let table = front.table.unwrap_or_else(|| first_table.to_owned());
    fits(&table, Text::Table, LONGEST_NAME).under("table")?;
    Ok(StartColumn {
        table,
        precision,
        values,
        source,
        groups: front.groups,
        kind,
        name: front.name,
        symbol: front.symbol,
        unit,
    })
}

fn sections(body: &str, first_line: usize) -> Result<Vec<Section>, SheetError> {
    let mut sections: Vec<Section> = Vec::new();
    for (i, line) in body.lines().enumerate() {
        match (line.strip_prefix("## "), sections.last_mut()) {
            (Some(heading), _) => {
                let heading = heading.trim();
                let later = LATER.iter().find_map(|(suffix, from)| Some((heading.strip_suffix(suffix)?, *from)));
                let (heading, from) = later.unwrap_or((heading, ReadFrom::Start));
                sections.push(Section { heading: heading.trim().to_owned(), text: String::new(), from });
            }
            (None, Some(section)) => {
                section.text.push_str(line);
                section.text.push('\n');
            }
            (None, None) if line.trim().is_empty() => {}
            (None, None) => {
                return Err(SheetError { line: first_line + i, wrong: Wrong::NoHeading });
            }
        }
    }
    match sections.first() {
        Some(first) if first.heading == "Question" && !first.text.trim().is_empty() => Ok(sections),
        _ => Err(SheetError { line: first_line, wrong: Wrong::NoQuestion }),
    }
}
