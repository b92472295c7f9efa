//! Questions along the way: what is asked, answered, checked and held back.

use std::collections::BTreeSet;
use std::sync::Arc;

use proptest::prelude::*;
use zeitmass_core::inquiry::{Answer, Check, Fault, NumberFault, Pointer, Position, QuestionKind, Step, Verdict};
use zeitmass_core::lab::{LabSheet, Named, Number, Twin, Wrong};
use zeitmass_core::logbook::{
    Absent, AnswerEdit, AnswerRefusal, Edit, GraphEdit, Kept, Logbook, OfficeEdit, OfficeRefusal, Part, Refusal,
    RunEdit,
};
use zeitmass_core::quantity::Footage;

use crate::common::{IsTold, done, open, refused, typed, worked};

const PENDULUM: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");

/// The tower pendulum with a question of each kind.
fn sheet() -> String {
    let questions = r#"
[[questions]]
name = "guess"
at = "question"
ask = "What will a longer pendulum do?"
choices = ["+ swing more slowly", "- swing faster | Look at the clock in the tower."]
tries = 2
holds = true

[[questions]]
name = "why ten"
at = "measure"
ask = "Why ten swings?"
words = 4

[[questions]]
name = "longest"
at = "measure"
ask = "Which row has the longest time?"
point = "row"
largest = "t10"

[[questions]]
name = "swings"
at = "measure"
ask = "How long are ten swings of 1 m?"
number = { unit = "s", value = "20.06 s", within = "1 %" }

[[questions]]
name = "line"
at = "graph"
ask = "Fill in."
sentence = "For every metre T² {+ grows | - shrinks} by {slope}."
check = "after handing in"

[[questions]]
name = "Mila"
at = "constant"
ask = "Do you agree?"
pupil = "Mila"
argument = "A heavier bob swings faster."
position = "disagree"
check = "by the teacher"

[goal]"#;
    // Its own questions make room.
    let (front, rest) = PENDULUM.split_once("[[questions]]").unwrap();
    let own = format!("{front}{}", &rest[rest.find("[goal]").unwrap()..]);
    own.replacen("[goal]", questions, 1)
        .replacen("gravity = \"hidden", "gravity = \"hidden dealt 9 to 11 m/s^2\" # \"", 1)
        .replacen("accepted = \"9.81 m/s^2\"", "key = \"g\"\nunit = \"m/s^2\"", 1)
}

fn choose(question: &str, option: &str) -> Edit {
    Edit::Answer(AnswerEdit::Choose { question: question.into(), option: option.into(), on: true })
}

fn fill(question: &str, gap: usize, typed: &str) -> Edit {
    Edit::Answer(AnswerEdit::Fill { question: question.into(), gap, typed: typed.into() })
}

fn check(question: &str) -> Edit {
    Edit::Answer(AnswerEdit::Check { question: question.into() })
}

fn point(question: &str, at: Pointer) -> Edit {
    Edit::Answer(AnswerEdit::Point { question: question.into(), at })
}

fn write(question: &str, text: &str, was: &str) -> Edit {
    let (question, text, was) = (question.into(), text.into(), was.into());
    Edit::Answer(AnswerEdit::Write { question, text, was })
}

fn verdict(book: &Logbook, name: &str) -> Option<Verdict> {
    let stands = book.answers().into_iter().find(|a| a.question.name == name).unwrap();
    book.verdict(&stands, false)
}

#[test]
fn a_lab_with_questions_from_first_to_last() {
    let mut book = open(&sheet(), 3);
    assert_eq!(book.standing().questions, 6);
    // What comes after the first one waits for it; looking does not.
    for edit in [Edit::Run(RunEdit::Run), typed(None, 1, "1.00"), write("why ten", "a b c d", ""), check("swings")] {
        assert_eq!(refused(&mut book, &edit), AnswerRefusal::FirstAnswer { number: 1 }.into(), "{edit:?}");
    }
    assert_eq!(refused(&mut book, &check("guess")), AnswerRefusal::NoAnswer.into(), "nothing is chosen yet");
    done(&mut book, choose("guess", "swing faster"));
    done(&mut book, check("guess"));
    assert_eq!(
        verdict(&book, "guess"),
        Some(Verdict::Wrong(vec![Fault::Said("Look at the clock in the tower.".into())]))
    );
    assert_eq!(refused(&mut book, &check("guess")), AnswerRefusal::CheckedBefore.into());
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Redo);
    assert_eq!(book.answers()[0].left(), Some(1), "undo gives no try back");
    done(&mut book, choose("guess", "swing more slowly"));
    assert_eq!(verdict(&book, "guess"), None, "nothing is said before it is asked");
    done(&mut book, check("guess"));
    assert_eq!(verdict(&book, "guess"), Some(Verdict::Right { surplus: false }));
    assert_eq!(refused(&mut book, &choose("guess", "swing faster")), AnswerRefusal::Answered.into());
    // And now the rest.
    done(&mut book, Edit::Run(RunEdit::Run));
    for (length, time) in [("0.50", "14.19"), ("1.00", "20.06"), ("1.50", "24.57"), ("2.00", "28.37")] {
        done(&mut book, typed(None, 1, length));
        let row = book.state().record.tables[0].rows.last().unwrap().id;
        done(&mut book, typed(Some(row), 2, time));
    }
    done(&mut book, write("why ten", "One is", ""));
    assert_eq!(book.standing().answered, 1, "two words are no answer of four");
    done(&mut book, write("why ten", "One is hard to time.", "One is"));
    assert!(matches!(refused(&mut book, &write("why ten", "other", "not it")), Refusal::TextChanged { .. }));
    let rows: Vec<u32> = book.state().record.tables[0].rows.iter().map(|r| r.id).collect();
    done(&mut book, point("longest", Pointer::Row { row: rows[1] }));
    done(&mut book, check("longest"));
    assert!(matches!(verdict(&book, "longest"), Some(Verdict::Wrong(_))));
    done(&mut book, point("longest", Pointer::Row { row: rows[3] }));
    done(&mut book, check("longest"));
    assert_eq!(book.pointed_at(&Pointer::Row { row: rows[3] }).as_deref(), Some("row 4"));
    assert_eq!(
        book.pointed_at(&Pointer::Reading { row: rows[3], column: 2 }).as_deref(),
        Some("t10 = 28.37\u{A0}s in row 4")
    );
    for (at, word) in [
        (Pointer::Row { row: 999_999 }, "no such row"),
        (Pointer::Graph { graph: 1 }, "Click a row"),
        (Pointer::Moment { of: Footage::Run(1), frame: usize::MAX }, "Click a row"),
    ] {
        assert_eq!(refused(&mut book, &point("longest", at)), AnswerRefusal::Answered.into(), "{word}");
    }
    done(&mut book, fill("swings", 0, "20"));
    done(&mut book, check("swings"));
    assert_eq!(verdict(&book, "swings"), Some(Verdict::Wrong(vec![Fault::Number(NumberFault::NoUnit)])));
    done(&mut book, fill("swings", 0, "20 s"));
    done(&mut book, check("swings"));
    assert_eq!(verdict(&book, "swings"), Some(Verdict::Right { surplus: false }), "rounding is not wrong");
    // A sentence over the logbook's own line, judged after handing in.
    done(&mut book, worked("square", "T2", "(t10/10)^2"));
    let t2 = book.state().record.tables[0].by_symbol("T2").unwrap().id;
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: Some(t2) }));
    done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(zeitmass_core::fit::Model::Line) }));
    done(&mut book, fill("line", 0, "grows"));
    done(&mut book, fill("line", 1, "4.02 s^2/m"));
    assert_eq!(refused(&mut book, &check("line")), AnswerRefusal::NotAtOnce.into());
    assert_eq!(refused(&mut book, &fill("line", 0, "explodes")), Refusal::Absent(Absent::Option));
    assert_eq!(refused(&mut book, &fill("line", 2, "1 s")), AnswerRefusal::OtherWay.into());
    let kept = Kept::Field(Some("4.02 s^2/m".into()));
    assert!(matches!(refused(&mut book, &fill("line", 1, "steep")), Refusal::Value { kept: k, .. } if k == kept));
    assert_eq!(verdict(&book, "line"), None);
    // Somebody's argument: position, evidence, reason.
    done(&mut book, Edit::Answer(AnswerEdit::Take { question: "Mila".into(), position: Position::Disagree }));
    done(&mut book, point("Mila", Pointer::Graph { graph: 1 }));
    done(&mut book, point("Mila", Pointer::Row { row: rows[0] }));
    done(&mut book, Edit::Answer(AnswerEdit::Unpoint { question: "Mila".into(), at: Pointer::Row { row: rows[0] } }));
    done(&mut book, write("Mila", "We never changed the mass.", ""));
    let standing = book.standing();
    assert_eq!((standing.answered, standing.right), (6, 3));
    done(&mut book, Edit::Office(OfficeEdit::HandIn));
    assert!(matches!(verdict(&book, "line"), Some(Verdict::Right { .. })), "{:?}", verdict(&book, "line"));
    assert_eq!(verdict(&book, "Mila"), None, "that is for the teacher to say");
    assert_eq!(book.standing().right, 4);
    // Stored and read again it is the same.
    let state = serde_json::to_string(book.state()).unwrap();
    assert_eq!(&serde_json::from_str::<zeitmass_core::logbook::State>(&state).unwrap(), book.state());
}

/// A file with answers: no try is gained, and nothing strange comes in.
#[test]
fn a_file_brings_answers_but_no_tries() {
    let mut book = open(&sheet(), 3);
    done(&mut book, choose("guess", "swing faster"));
    done(&mut book, check("guess"));
    let mut content = Box::new(book.state().clone());
    let given = content.answers.given.get_mut("guess").unwrap();
    given.tried[0].right = true;
    let stranger = given.clone();
    content.answers.given.insert("nobody asks".into(), stranger.clone());
    content.answers.given.insert("why ten".into(), stranger);
    done(&mut book, Edit::Office(OfficeEdit::Restore { content }));
    let answers = &book.state().answers.given;
    assert_eq!(answers.keys().collect::<Vec<_>>(), ["guess"]);
    assert!(!answers["guess"].tried[0].right && answers["guess"].tried.len() == 1);
    let mut other = open(&sheet(), 4);
    done(&mut other, Edit::Office(OfficeEdit::Restore { content: Box::new(book.state().clone()) }));
    assert!(other.state().answers.given["guess"].tried.is_empty(), "checked is what was checked here");
}

#[test]
fn mistakes_in_questions_name_their_line() {
    let text = sheet();
    let key = "value = \"20.06 s\", within = \"1 %\"";
    fn unknown(w: &Wrong, named: Named, word: &str) -> bool {
        matches!(w, Wrong::Unknown { of, given, .. } if *of == named && given == word)
    }
    let wrongs: [(&str, &str, IsTold); 14] = [
        ("at = \"measure\"", "at = \"lunch\"", |w| unknown(w, Named::Step, "lunch")),
        ("at = \"graph\"", "at = \"question\"", |w| {
            *w == Wrong::QuestionsOrder { step: Step::Question, before: Step::Measure }
        }),
        ("name = \"swings\"", "name = \"longest\"", |w| {
            *w == Wrong::Twice { of: Twin::Question, name: "longest".into() }
        }),
        ("words = 4", "words = 4\npoint = \"row\"", |w| *w == Wrong::OneWay),
        (
            "- swing faster |",
            "swing faster |",
            |w| matches!(w, Wrong::NeitherRightNorWrong(text) if text.starts_with("swing faster")),
        ),
        ("tries = 2", "tries = 0", |w| *w == Wrong::Range { of: Number::Tries, from: 1, to: 9 }),
        ("largest = \"t10\"", "largest = \"t10\"\nsmallest = \"t10\"", |w| *w == Wrong::TwoExtremes),
        ("within = \"1 %\"", "within = \"1 m\"", |w| *w == Wrong::HowNear("1 m".into())),
        (
            "unit = \"s\", value",
            "unit = \"m\", value",
            |w| matches!(w, Wrong::AnswerUnit { asked, answer } if asked.pretty() == "m" && answer.pretty() == "s"),
        ),
        ("{slope}", "{slope", |w| *w == Wrong::OpenGap),
        ("position = \"disagree\"", "position = \"maybe\"", |w| unknown(w, Named::Position, "maybe")),
        ("words = 4", "words = 4\ncheck = \"at once\"", |w| *w == Wrong::NobodyChecks),
        (
            key,
            "key = \"L_9\", within = \"1 %\"",
            |w| matches!(w, Wrong::NoSuchSymbol { symbol, .. } if symbol == "L_9"),
        ),
        (key, "key = \"L\"", |w| *w == Wrong::NoNear),
    ];
    for (from, to, is_told) in wrongs {
        assert!(text.contains(from), "{from}");
        let error = LabSheet::parse(&text.replacen(from, to, 1)).unwrap_err();
        assert!(is_told(&error.wrong) && error.line > 20, "{to}: {error:?}");
    }
    let sheet = LabSheet::parse(&text).unwrap();
    assert_eq!(sheet.questions[0].check, Check::AtOnce);
    assert_eq!(sheet.questions[5].step, Step::Constant);
}

/// Every shipped sheet asks three to eight questions, of several kinds, at several steps; each can be answered and none gives itself away.
#[test]
fn every_sheet_asks_its_questions() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../labs");
    let mut all = 0;
    for entry in std::fs::read_dir(folder).unwrap() {
        let source = std::fs::read_to_string(entry.unwrap().path()).unwrap();
        let sheet = LabSheet::parse(&source).unwrap_or_else(|e| panic!("{}\n{e:?}", &source[..60]));
        let number = sheet.number;
        let questions = &sheet.questions;
        assert!((3..=8).contains(&questions.len()), "{number} asks {}", questions.len());
        let kinds: BTreeSet<_> =
            questions.iter().map(|q| std::mem::discriminant(&q.kind)).map(|d| format!("{d:?}")).collect();
        let steps: BTreeSet<Step> = questions.iter().map(|q| q.step).collect();
        assert!(kinds.len() >= 3 && steps.len() >= 3, "{number}: {} kinds at {} steps", kinds.len(), steps.len());
        for question in questions {
            if let QuestionKind::Choice { options, .. } = &question.kind {
                assert!(
                    options.iter().any(|o| o.right) && options.iter().any(|o| !o.right),
                    "{number} {}",
                    question.name
                );
            }
        }
        assert!(!source.contains("## Prompts"), "{number}");
        all += questions.len();
    }
    assert!(all > 240, "{all}");
}

/// A sheet that asks for its own constant.
fn asking() -> String {
    let question = "[[questions]]\nname = \"g\"\nat = \"constant\"\nask = \"What is it?\"\nnumber = { unit = \"m/s^2\", of = \"constant\" }\n\n[goal]";
    sheet().replacen("[goal]", question, 1).replacen("holds = true", "", 1).replacen(
        "unit = \"m/s^2\"\n+++",
        "unit = \"m/s^2\"\none_trial = \"4*pi^2*L/(t_r/10)^2\"\nreadings = { t_r = \"20.06 s\" }\n+++",
        1,
    )
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(60) })]
    /// What was dealt to a neighbour is never right, and a logbook's own value always is, however it is rounded. What is asked about a hidden
    /// value is tried three times and no more.
    #[test]
    fn a_neighbours_key_is_never_right(one in 0u64..500, other in 0u64..500, digits in 3usize..6) {
        let sheet = Arc::new(LabSheet::parse(&asking()).unwrap());
        let mut book = Logbook::new(Arc::clone(&sheet), one);
        let theirs = Logbook::new(sheet, other).key().unwrap();
        let own = book.key().unwrap();
        let tolerance = own.tolerance.unwrap_or(0.02 * own.value);
        prop_assume!((theirs.value - own.value).abs() > 1.01 * tolerance + 0.005);
        done(&mut book, fill("g", 0, &format!("{:.4} m/s^2", theirs.value)));
        done(&mut book, check("g"));
        prop_assert!(matches!(verdict(&book, "g"), Some(Verdict::Wrong(_))));
        done(&mut book, fill("g", 0, &format!("{:.4} m/s^2", theirs.value + 0.0002)));
        done(&mut book, check("g"));
        done(&mut book, fill("g", 0, &format!("{:.*} m/s^2", digits - 1, own.value)));
        done(&mut book, check("g"));
        prop_assert!(matches!(verdict(&book, "g"), Some(Verdict::Right { .. })), "{:?}", own);
        let mut book = Logbook::new(Arc::clone(book.sheet()), one);
        for k in 0..3 {
            done(&mut book, fill("g", 0, &format!("{} m/s^2", 90 + k)));
            done(&mut book, check("g"));
        }
        refused(&mut book, &fill("g", 0, &format!("{} m/s^2", own.value)));
        refused(&mut book, &check("g"));
    }

    /// Any edit of answers at any moment is done or refused, and undoing all of it leaves only what was checked.
    #[test]
    fn any_answers_in_any_order(steps in prop::collection::vec((0usize..9, 0usize..7, 0usize..5), 1..40)) {
        let names = ["guess", "why ten", "longest", "swings", "line", "Mila", "nobody asks"];
        let typed = ["", "20.06 s", "grows", "swing faster", "swing more slowly"];
        let mut book = open(&sheet().replacen("holds = true", "", 1), 5);
        for (what, name, value) in steps {
            let (question, text) = (names[name].to_owned(), typed[value].to_owned());
            let at = [Pointer::Graph { graph: 1 }, Pointer::Row { row: 1 }, Pointer::Moment { of: Footage::Run(1), frame: value }][value % 3].clone();
            let edit = match what {
                0 => AnswerEdit::Write { question, text, was: String::new() },
                1 => AnswerEdit::Choose { question, option: text, on: value % 2 == 0 },
                2 => AnswerEdit::Fill { question, gap: value % 3, typed: text },
                3 => AnswerEdit::Take { question, position: Position::Partly },
                4 => AnswerEdit::Point { question, at },
                5 => AnswerEdit::Unpoint { question, at },
                _ => AnswerEdit::Check { question },
            };
            let before = book.clone();
            if book.apply(&Edit::Answer(edit), 0).is_err() {
                prop_assert!(book == before);
            }
            for stands in book.answers() {
                prop_assert!(stands.question.tries.is_none_or(|n| stands.tried <= n as usize));
                if let Some(answer) = stands.answer {
                    prop_assert!(stands.question.takes(answer));
                }
            }
        }
        while book.can_undo_redo().0 {
            done(&mut book, Edit::Undo);
        }
        prop_assert!(book.state().answers.given.values().all(|g| g.answer.is_none()));
    }
}

#[test]
fn what_is_pointed_at_may_go_and_is_then_told_so() {
    let mut book = open(&sheet().replacen("holds = true", "", 1), 5);
    done(&mut book, Edit::Run(RunEdit::Run));
    done(&mut book, point("Mila", Pointer::Moment { of: Footage::Run(1), frame: 123 }));
    assert_eq!(
        book.pointed_at(&Pointer::Moment { of: Footage::Run(1), frame: 123 }).as_deref(),
        Some("run 1 at 1.23\u{A0}s")
    );
    done(&mut book, Edit::Run(RunEdit::DeleteRun { run: 1 }));
    assert_eq!(book.pointed_at(&Pointer::Moment { of: Footage::Run(1), frame: 123 }), None);
    let Some(Answer::Argument { evidence, .. }) = &book.state().answers.given["Mila"].answer else { panic!() };
    assert_eq!(evidence.len(), 1, "the answer keeps what was said");
}

/// A stamp holds back what comes after its step until the teacher gives it; asking is not undone, and words are ticked off.
#[test]
fn a_stamp_and_a_word_on_the_way() {
    let sheet = PENDULUM.replacen("trials = 6", "trials = 6\nstamps = [\"measure\"]", 1);
    let mut book = open(&sheet, 1);
    let office = Edit::Office;
    let ask = |on| office(OfficeEdit::AskStamp { step: Step::Measure, on });
    let stamp = |given| office(OfficeEdit::Stamp { step: Step::Measure, given });
    done(&mut book, Edit::Run(RunEdit::Run));
    assert_eq!(refused(&mut book, &Edit::Graph(GraphEdit::AddGraph)), Refusal::StampFirst { step: Step::Measure });
    book.apply(&ask(true), 100).unwrap();
    book.apply(&ask(true), 200).unwrap();
    assert_eq!(book.standing().asks, Some((Step::Measure, 100)), "since the first time");
    done(&mut book, Edit::Undo);
    assert!(book.state().run.runs.is_empty() && book.standing().asks.is_some(), "undo takes the work back");
    done(&mut book, stamp(false));
    done(&mut book, office(OfficeEdit::SayWord { part: Part::Record, text: " Two more lengths. ".into() }));
    assert_eq!(book.standing().asks, None);
    done(&mut book, office(OfficeEdit::TickOff { word: 0, done: true }));
    assert!(book.state().office.words[0].done && book.state().office.words[0].text == "Two more lengths.");
    refused(&mut book, &office(OfficeEdit::TickOff { word: 1, done: true }));
    refused(&mut book, &office(OfficeEdit::AskStamp { step: Step::Graph, on: true }));
    refused(&mut book, &office(OfficeEdit::SayWord { part: Part::Record, text: "x".repeat(501) }));
    book.apply(&ask(true), 300).unwrap();
    book.apply(&stamp(true), 400).unwrap();
    done(&mut book, Edit::Graph(GraphEdit::AddGraph));
    assert_eq!(refused(&mut book, &ask(true)), OfficeRefusal::Stamped.into());
    // Handing in keeps both, and the teacher goes on speaking.
    done(&mut book, office(OfficeEdit::HandIn));
    done(&mut book, office(OfficeEdit::SayWord { part: Part::Graph, text: "Well seen.".into() }));
    done(&mut book, office(OfficeEdit::TickOff { word: 1, done: true }));
    done(&mut book, office(OfficeEdit::SendBack { note: "More.".into(), steps: BTreeSet::new() }));
    let state = &book.state().office;
    assert_eq!((state.words.len(), state.stamps[&Step::Measure].given), (2, Some(400)));
    // A page can neither stamp nor speak.
    for forged in [
        r#"{"office":{"stamp":{"step":"measure","given":true}}}"#,
        r#"{"office":{"say_word":{"part":"record","text":"x"}}}"#,
    ] {
        assert!(serde_json::from_str::<Edit>(forged).is_err());
    }
}
