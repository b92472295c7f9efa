//! Rounds: the room, live. One rail for each group over the minutes of the lesson.

use std::fmt::Write;

use askama::Template;
use zeitmass_core::inquiry::Step;
use zeitmass_core::quantity::format::{bracketed, plain};
use zeitmass_store::{Beat, Group, Id};
use zeitmass_words::slips::few_words;

use crate::notation::escape;
use zeitmass_words::Title;

/// Seconds looked back at, at most: a double lesson.
pub(crate) const LOOKS_BACK: i64 = 100 * 60;
/// Seconds of a lesson that has only begun.
const SHORTEST: i64 = 20 * 60;
/// Seconds without a beat after which a group has not moved for a while.
const STILL: i64 = 5 * 60;
/// Beats among which those that take something back are counted, and how many are a circle.
const RECENT: usize = 10;
const CIRCLES: usize = 4;
/// Width and height of a rail, in px.
const WIDTH: f64 = 500.0;
const HEIGHT: f64 = 17.0;

/// What a group is in need of, the most urgent first.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Need {
    /// It asks for a stamp since so many minutes.
    Stamp { step: Step, minutes: i64 },
    /// It turns in circles; why one thinks so.
    Circles(String),
    /// It has not moved for so many minutes.
    Still(i64),
    /// Nothing.
    None,
}

/// A group on the page.
pub(crate) struct RailView {
    pub logbook: Id,
    pub names: String,
    /// The rail as SVG.
    pub rail: String,
    pub questions: String,
    pub trials: u32,
    pub constant: String,
    /// Likely mistakes, in words.
    pub slips: String,
    pub need: Need,
    pub handed_in: bool,
}

/// The rails of a lab.
#[derive(Template)]
#[template(path = "lesson/rounds_part.html")]
pub(crate) struct RoundsPart {
    pub class: Id,
    pub lab: Id,
    pub nameless: bool,
    /// Minutes written on the axis, with their places in px.
    pub minutes: Vec<(i64, f64)>,
    pub width: f64,
    pub groups: Vec<RailView>,
    /// Students of the class who have not begun.
    pub absent: Vec<String>,
    pub wanted: usize,
}

/// The page.
#[derive(Template)]
#[template(path = "lesson/rounds.html")]
pub(crate) struct RoundsPage {
    pub who: String,
    pub class_name: String,
    /// Labs to look at: number and title, and which is chosen.
    pub labs: Vec<(Id, String, bool)>,
    /// Parts a word can stand beside: names for forms and for people.
    pub parts: Vec<(&'static str, &'static str)>,
    pub part: RoundsPart,
}

/// The span of the lesson: its first and its last moment, in seconds since 1970 (UTC).
pub(crate) fn span(groups: &[Group], now: i64) -> (i64, i64) {
    let first = groups.iter().flat_map(|g| &g.beats).filter(|b| !b.by_teacher).map(|b| b.at).min();
    let start = first.unwrap_or(now).min(now).max(now - LOOKS_BACK);
    (start, (now + 60).max(start + SHORTEST))
}

/// A group's rail, and what it needs. `refused` is a refusal it met again and again.
pub(crate) fn rail(
    group: &Group,
    (start, end): (i64, i64),
    now: i64,
    refused: Option<(String, usize)>,
    names: String,
) -> RailView {
    let standing = group.standing.as_ref();
    let handed_in = standing.is_some_and(|s| s.handed_in.is_some());
    let own: Vec<&Beat> = group.beats.iter().filter(|b| !b.by_teacher).collect();
    let slips = standing.map(|s| s.slips.iter().map(|k| few_words(*k)).collect::<Vec<_>>().join(", "));
    let constant = standing.and_then(|s| s.results.first()).map(|r| {
        let value = r.u.map_or_else(|| plain(r.value), |u| bracketed(r.value, u));
        format!("{} = {value} {}", r.symbol, r.unit)
    });
    RailView {
        logbook: group.logbook,
        names,
        rail: drawn(&own, (start, end), now),
        questions: match standing.map_or([0; 3], |s| s.questions) {
            [0, ..] => String::new(),
            [all, answered, _] => format!("{answered}/{all}"),
        },
        trials: standing.map_or(0, |s| s.trials),
        constant: constant.unwrap_or_default(),
        slips: slips.unwrap_or_default(),
        need: if handed_in { Need::None } else { need(group, &own, now, refused) },
        handed_in,
    }
}

fn need(group: &Group, own: &[&Beat], now: i64, refused: Option<(String, usize)>) -> Need {
    if let Some((step, since)) = group.standing.as_ref().and_then(|s| s.asks) {
        return Need::Stamp { step, minutes: (now - since).max(0) / 60 };
    }
    if let Some((word, times)) = refused {
        return Need::Circles(format!("{times} times: {word}"));
    }
    let recent = &own[own.len().saturating_sub(RECENT)..];
    let undone = recent.iter().filter(|b| b.undo && now - b.at < STILL).count();
    if undone >= CIRCLES {
        return Need::Circles(format!("took back {undone} of the last {} steps", recent.len()));
    }
    match group.standing.as_ref().map(|s| now - s.at) {
        Some(rest) if rest >= STILL => Need::Still(rest / 60),
        Some(_) | None => Need::None,
    }
}

/// Letters of a step on a rail.
fn letter(step: Step) -> &'static str {
    match step {
        Step::Question => "Q",
        Step::Forecast => "F",
        Step::Measure => "M",
        Step::Graph => "G",
        Step::Linearize => "L",
        Step::Model => "S",
        Step::Constant => "C",
        Step::WriteUp => "W",
    }
}

fn drawn(beats: &[&Beat], (start, end): (i64, i64), now: i64) -> String {
    let x = |at: i64| WIDTH * (at - start) as f64 / (end - start) as f64;
    let (mut ticks, mut back, mut letters) = (String::new(), String::new(), String::new());
    let (mut last_tick, mut last_letter, mut step) = (f64::NEG_INFINITY, f64::NEG_INFINITY, None);
    for beat in beats.iter().filter(|b| b.at >= start) {
        let at = x(beat.at);
        if beat.undo {
            let _ = write!(back, "M{at:.1} 11v6");
        } else if at - last_tick >= 1.0 {
            let _ = write!(ticks, "M{at:.1} 9v8");
            last_tick = at;
        }
        if let Some(now_at) = beat.step.filter(|s| Some(*s) != step) {
            step = Some(now_at);
            if at - last_letter >= 9.0 {
                let _ = write!(letters, "<text x=\"{:.1}\" y=\"8\">{}</text>", at.max(0.0), letter(now_at));
                last_letter = at;
            }
        }
    }
    format!(
        "<svg class=\"room-rail\" viewBox=\"0 0 {WIDTH} {HEIGHT}\" width=\"{WIDTH}\" height=\"{HEIGHT}\" role=\"img\" aria-label=\"{}\"><path class=\"bed\" d=\"M0 {HEIGHT}H{WIDTH}\"/><path class=\"ticks\" d=\"{ticks}\"/><path class=\"back\" d=\"{back}\"/>{letters}<path class=\"now\" d=\"M{:.1} 0V{HEIGHT}\"/></svg>",
        escape(&words(beats, step)),
        x(now)
    )
}

/// A rail in words.
fn words(beats: &[&Beat], step: Option<Step>) -> String {
    let at = step.map_or_else(String::new, |s| format!(", now at {}", s.title()));
    format!("{} edits{at}", beats.len())
}

impl RoundsPart {
    /// The axis in whole tens of minutes.
    pub(crate) fn axis((start, end): (i64, i64)) -> Vec<(i64, f64)> {
        let every = if end - start > 60 * 60 { 10 } else { 5 };
        let all = (0..).map(|k| k * every).take_while(|m| start + m * 60 < end - 60);
        all.map(|m| (m, WIDTH * (m * 60) as f64 / (end - start) as f64)).collect()
    }

    pub(crate) const WIDTH: f64 = WIDTH;
}

#[cfg(test)]
mod tests {
    use super::*;

    fn beat(at: i64, undo: bool) -> Beat {
        Beat { at, step: Some(Step::Measure), undo, by_teacher: false }
    }

    fn standing(at: i64, asks: Option<(Step, i64)>) -> zeitmass_store::StoredStanding {
        zeitmass_store::StoredStanding {
            seq: 1,
            at,
            step: Step::Measure,
            runs: 1,
            trials: 2,
            rows: 2,
            handed_in: None,
            questions: [5, 2, 1],
            asks,
            results: Vec::new(),
            results_seq: 0,
            slips: Vec::new(),
        }
    }

    #[test]
    fn whoever_waits_circles_or_rests_is_seen() {
        let group = |beats: Vec<Beat>, at, asks| Group {
            logbook: 1,
            members: Vec::new(),
            standing: Some(standing(at, asks)),
            beats,
        };
        let now = 10_000;
        let need = |g: &Group, refused| rail(g, span(std::slice::from_ref(g), now), now, refused, String::new()).need;
        let busy: Vec<Beat> = (0..20).map(|k| beat(now - 200 + k * 10, false)).collect();
        assert_eq!(need(&group(busy.clone(), now - 10, None), None), Need::None);
        assert_eq!(
            need(&group(busy.clone(), now, Some((Step::Measure, now - 130))), None),
            Need::Stamp { step: Step::Measure, minutes: 2 }
        );
        assert_eq!(need(&group(busy.clone(), now - 7 * 60, None), None), Need::Still(7));
        let circling: Vec<Beat> = (0..20).map(|k| beat(now - 200 + k * 10, k % 2 == 0)).collect();
        assert!(matches!(need(&group(circling, now, None), None), Need::Circles(_)));
        assert!(matches!(need(&group(busy.clone(), now, None), Some(("No.".into(), 3))), Need::Circles(_)));
        let mut done = group(busy, now - 3600, None);
        done.standing.as_mut().unwrap().handed_in = Some(now);
        assert_eq!(need(&done, None), Need::None);
    }

    #[test]
    fn a_rail_holds_no_more_ticks_than_pixels() {
        let beats: Vec<Beat> = (0..30_000).map(|k| beat(k / 6, false)).collect();
        let group = Group { logbook: 1, members: Vec::new(), standing: None, beats };
        let seen = rail(&group, (0, 5000), 5000, None, String::new());
        assert!(seen.rail.matches('M').count() < 600, "{}", seen.rail.len());
        assert_eq!(
            RoundsPart::axis((0, 90 * 60)).iter().map(|(m, _)| *m).collect::<Vec<_>>(),
            [0, 10, 20, 30, 40, 50, 60, 70, 80]
        );
    }
}
