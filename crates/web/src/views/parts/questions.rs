//! The sheet at hand: the questions of every step, with what was answered and what is to be said about it.

use askama::Template;
use zeitmass_core::inquiry::{
    Answer, Check, Gap, Piece, Pointable, Pointer, Position, Question, QuestionKind, Step, Verdict,
};
use zeitmass_core::logbook::{Answered, Logbook, Part};
use zeitmass_words::Words;
use zeitmass_words::answers::{self, SURPLUS};

use super::Scene;
use super::words::{Beside, StampView};
use crate::notation::escape;
use crate::text::{inline_markdown, markdown};

/// An answer to choose from.
pub(super) struct OptionView {
    text: String,
    /// The same with its formulas typeset.
    html: String,
    chosen: bool,
    right: bool,
}

/// A piece of a sentence: words, or a gap.
pub(super) struct PieceView {
    words: String,
    /// Which gap it is, from 0; none for words.
    gap: Option<usize>,
    /// What there is to choose from; none for a number.
    options: Vec<OptionView>,
    filled: String,
}

/// Something an answer points at.
pub(super) struct PointedView {
    at: Pointer,
    words: String,
    gone: bool,
}

/// A position on an argument.
pub(super) struct PositionView {
    name: &'static str,
    words: &'static str,
    taken: bool,
    right: bool,
}

/// How a question is answered.
pub(super) enum AnswerView {
    Words { text: String, least: usize },
    One(Vec<OptionView>),
    Several(Vec<OptionView>),
    Number { typed: String, unit: String },
    Sentence(Vec<PieceView>),
    Pointing,
    Argument { pupil: String, argument: String, positions: Vec<PositionView>, reason: String },
}

/// A question on the page.
pub(super) struct QuestionView {
    number: usize,
    name: String,
    ask: String,
    answer: AnswerView,
    /// Ways of pointing: in the table, at the moment on the stage.
    in_table: Option<&'static str>,
    moment: bool,
    /// What can be pointed at by choosing.
    offers: Vec<(Pointer, String)>,
    pointed: Vec<PointedView>,
    checkable: bool,
    /// Whether the answer can be changed.
    open: bool,
    state: &'static str,
    said: Vec<String>,
    tries: String,
    later: bool,
    missing: String,
    holds: bool,
    /// For the teacher.
    model: String,
}

/// The questions of a step.
pub(super) struct StepView {
    step: Step,
    questions: Vec<QuestionView>,
    open: usize,
    total: usize,
    /// Questions that are not shown yet.
    waiting: usize,
    /// The stamp at its end, if there is one.
    stamp: Option<StampView>,
}

#[derive(Template)]
#[template(path = "bench/questions_part.html")]
pub(super) struct QuestionsPart {
    beside: Beside,
    writable: bool,
    teacher: bool,
    steps: Vec<StepView>,
}

impl Scene<'_> {
    pub(super) fn questions(&self) -> QuestionsPart {
        let book = self.book();
        let teacher = self.viewer.sees_key();
        let all = book.answers();
        let steps = Step::ALL.iter().copied().map(|step| {
            let own: Vec<&Answered<'_>> = all.iter().filter(|a| a.question.step == step).collect();
            let shown = own.iter().filter(|a| teacher || !a.waits).map(|a| self.question(a)).collect::<Vec<_>>();
            StepView {
                step,
                open: own.iter().filter(|a| !a.is_answered()).count(),
                total: own.len(),
                waiting: own.len() - shown.len(),
                stamp: self.stamp(step),
                questions: shown,
            }
        });
        QuestionsPart { beside: self.beside(Part::Questions), writable: self.open(), teacher, steps: steps.collect() }
    }

    fn question(&self, stands: &Answered<'_>) -> QuestionView {
        let (book, question, teacher) = (self.book(), stands.question, self.viewer.sees_key());
        let open = self.open_at(question.step) && !stands.settled;
        let pointed = stands.answer.map_or(&[][..], Answer::pointed);
        let kinds: &[Pointable] = match &question.kind {
            QuestionKind::Pointing { at, .. } => std::slice::from_ref(at),
            QuestionKind::Argument { .. } => {
                &[Pointable::Row, Pointable::Graph, Pointable::Stretch, Pointable::Moment, Pointable::Curve]
            }
            QuestionKind::Words { .. }
            | QuestionKind::Choice { .. }
            | QuestionKind::Number(_)
            | QuestionKind::Sentence(_) => &[],
        };
        let in_table = kinds.iter().find_map(|k| match k {
            Pointable::Row => Some("row"),
            Pointable::Reading => Some("reading"),
            Pointable::Graph | Pointable::Stretch | Pointable::Moment | Pointable::Curve => None,
        });
        let verdict = book.verdict(stands, teacher);
        let (said, right) = match &verdict {
            Some(Verdict::Right { surplus }) => (surplus.then(|| SURPLUS.to_owned()).into_iter().collect(), true),
            Some(Verdict::Wrong(faults)) => (faults.iter().map(Words::words).collect(), false),
            Some(Verdict::Open) | None => (Vec::new(), false),
        };
        let judged = matches!(verdict, Some(Verdict::Right { .. } | Verdict::Wrong(_)));
        let state = match (judged, right) {
            (true, true) => "right",
            (true, false) => "not-yet",
            (false, _) if stands.whole => "answered",
            (false, _) => "open",
        };
        let missing = stands.answer.and_then(|a| question.missing(a)).map_or_else(String::new, |m| m.words());
        QuestionView {
            number: stands.number,
            name: question.name.clone(),
            ask: markdown(&question.ask),
            answer: answer_view(question, stands, teacher),
            in_table: in_table.filter(|_| open),
            moment: open && kinds.contains(&Pointable::Moment),
            offers: if open { offers(book, kinds, pointed) } else { Vec::new() },
            pointed: pointed
                .iter()
                .map(|at| {
                    let words = book.pointed_at(at);
                    let gone = words.is_none();
                    let words = words.unwrap_or_else(|| "what was pointed at is gone".to_owned());
                    PointedView { at: at.clone(), words, gone }
                })
                .collect(),
            checkable: open && question.check == Check::AtOnce,
            open,
            state,
            said,
            tries: tries_words(stands),
            later: question.check == Check::AfterHandingIn && !book.state().office.handed_in,
            missing,
            holds: question.holds && !stands.is_answered(),
            model: if teacher { question.model.clone() } else { String::new() },
        }
    }
}

fn tries_words(stands: &Answered<'_>) -> String {
    match (stands.question.check, stands.left()) {
        (Check::AfterHandingIn | Check::ByTeacher, _) => String::new(),
        (Check::AtOnce, _) if stands.right => match stands.tried {
            0 | 1 => String::new(),
            n => format!("at try {n}"),
        },
        (Check::AtOnce, None) => String::new(),
        (Check::AtOnce, Some(0)) => "No tries are left.".to_owned(),
        (Check::AtOnce, Some(1)) => "1 try is left.".to_owned(),
        (Check::AtOnce, Some(n)) => format!("{n} tries are left."),
    }
}

fn answer_view(question: &Question, stands: &Answered<'_>, teacher: bool) -> AnswerView {
    let words = || stands.answer.map_or_else(String::new, |a| a.words().to_owned());
    let filled = |gap: usize| stands.answer.and_then(|a| a.gaps().get(gap)).cloned().unwrap_or_default();
    match &question.kind {
        QuestionKind::Words { least } => AnswerView::Words { text: words(), least: *least },
        QuestionKind::Choice { options, several } => {
            let chosen = stands.answer.map_or(&[][..], Answer::chosen);
            let views = options.iter().map(|o| OptionView {
                text: o.text.clone(),
                html: inline_markdown(&o.text),
                chosen: chosen.contains(&o.text),
                right: teacher && o.right,
            });
            let views = views.collect();
            if *several { AnswerView::Several(views) } else { AnswerView::One(views) }
        }
        QuestionKind::Number(asked) => AnswerView::Number { typed: filled(0), unit: asked.unit.pretty() },
        QuestionKind::Sentence(pieces) => {
            let mut next = 0..;
            let views = pieces.iter().map(|piece| match piece {
                Piece::Words(words) => {
                    let words = markdown(words);
                    // A paragraph of its own would tear the sentence apart.
                    let words = words.trim().trim_start_matches("<p>").trim_end_matches("</p>").to_owned();
                    PieceView { words, gap: None, options: Vec::new(), filled: String::new() }
                }
                Piece::Choose(_) | Piece::Number(_) => {
                    let gap: usize = next.next().unwrap_or_default();
                    let filled = filled(gap);
                    let options = match question.gaps().get(gap) {
                        Some(Gap::Choose(options)) => options
                            .iter()
                            .map(|o| OptionView {
                                text: o.text.clone(),
                                html: String::new(),
                                chosen: o.text == filled,
                                right: teacher && o.right,
                            })
                            .collect(),
                        Some(Gap::Number(_)) | None => Vec::new(),
                    };
                    PieceView { words: String::new(), gap: Some(gap), options, filled }
                }
            });
            AnswerView::Sentence(views.collect())
        }
        QuestionKind::Pointing { .. } => AnswerView::Pointing,
        QuestionKind::Argument { pupil, argument, right } => {
            let taken = stands.answer.and_then(Answer::position);
            let positions = Position::ALL.iter().map(|p| PositionView {
                name: p.name(),
                words: answers::position(*p),
                taken: taken == Some(*p),
                right: teacher && *right == Some(*p),
            });
            AnswerView::Argument {
                pupil: pupil.clone(),
                argument: markdown(argument),
                positions: positions.collect(),
                reason: words(),
            }
        }
    }
}

/// Graphs, stretches and sketches that can be pointed at, with their words.
fn offers(book: &Logbook, kinds: &[Pointable], pointed: &[Pointer]) -> Vec<(Pointer, String)> {
    let state = book.state();
    let graphs = &state.graph.graphs;
    let all = kinds.iter().flat_map(|kind| -> Vec<Pointer> {
        match kind {
            Pointable::Graph => {
                let drawn = graphs.iter().filter(|g| g.x.is_some() && g.y.is_some());
                drawn.map(|g| Pointer::Graph { graph: g.id }).collect()
            }
            Pointable::Stretch => graphs
                .iter()
                .flat_map(|g| g.stretches.iter().map(|s| Pointer::Stretch { graph: g.id, stretch: s.id }))
                .collect(),
            Pointable::Curve => {
                state.forecast.sketches.keys().map(|channel| Pointer::Curve { channel: channel.clone() }).collect()
            }
            Pointable::Row | Pointable::Reading | Pointable::Moment => Vec::new(),
        }
    });
    let fresh = all.filter(|at| !pointed.contains(at));
    fresh.filter_map(|at| book.pointed_at(&at).map(|words| (at, words))).collect()
}

/// A question with its answer, for the write-up.
pub(crate) struct AnswerWords {
    pub number: usize,
    pub ask: String,
    /// The argument that is judged; empty for none.
    pub argument: String,
    /// As HTML; lines as they were typed.
    pub answer: String,
    /// What it points at.
    pub evidence: Vec<String>,
}

/// All questions with their answers in words.
pub(crate) fn answers_in_words(book: &Logbook) -> Vec<AnswerWords> {
    let told = |stands: &Answered<'_>| {
        let question = stands.question;
        let pointed = |those: &[Pointer]| {
            let words = |at| book.pointed_at(at).unwrap_or_else(|| "what was pointed at is gone".to_owned());
            those.iter().map(words).collect::<Vec<_>>()
        };
        let (answer, evidence) = match stands.answer {
            None => (String::new(), Vec::new()),
            Some(Answer::Words { text }) => (escape(text), Vec::new()),
            // The sheet's own words may have formulas.
            Some(Answer::Choice { chosen }) => (inline_markdown(&chosen.join("; ")), Vec::new()),
            Some(Answer::Filled { gaps }) => (filled_sentence(question, gaps), Vec::new()),
            Some(Answer::Pointing { at }) => (String::new(), pointed(at)),
            Some(Answer::Argument { position, evidence, reason }) => {
                let position = position.map_or("", answers::position);
                let joined = if reason.trim().is_empty() {
                    position.to_owned()
                } else {
                    format!("{position}. {}", escape(reason))
                };
                (joined, pointed(evidence))
            }
        };
        let argument = match &question.kind {
            QuestionKind::Argument { pupil, argument, .. } => format!("{pupil}: {argument}"),
            QuestionKind::Words { .. }
            | QuestionKind::Choice { .. }
            | QuestionKind::Number(_)
            | QuestionKind::Sentence(_)
            | QuestionKind::Pointing { .. } => String::new(),
        };
        AnswerWords {
            number: stands.number,
            ask: markdown(&question.ask),
            argument: markdown(&argument),
            answer,
            evidence,
        }
    };
    book.answers().iter().filter(|a| !a.waits).map(told).collect()
}

/// A sentence with what stands in its gaps, as HTML.
fn filled_sentence(question: &Question, gaps: &[String]) -> String {
    let gap = |k: usize| gaps.get(k).filter(|g| !g.is_empty()).map_or("…", String::as_str);
    match &question.kind {
        QuestionKind::Sentence(pieces) => {
            let mut next = 0..;
            let words = pieces.iter().map(|p| match p {
                Piece::Words(words) => {
                    // What parts it from the gaps stays.
                    let space = |there: bool| if there { " " } else { "" };
                    let (before, after) =
                        (words.starts_with(char::is_whitespace), words.ends_with(char::is_whitespace));
                    format!("{}{}{}", space(before), inline_markdown(words.trim()), space(after))
                }
                Piece::Choose(_) | Piece::Number(_) => escape(gap(next.next().unwrap_or_default())),
            });
            words.collect()
        }
        QuestionKind::Words { .. }
        | QuestionKind::Choice { .. }
        | QuestionKind::Number(_)
        | QuestionKind::Pointing { .. }
        | QuestionKind::Argument { .. } => escape(gap(0)),
    }
}
