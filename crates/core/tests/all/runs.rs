//! Labs with rigs from the forecast to the record: what is committed to stays, runs keep their place, trials are comparable or not.

use crate::common::{done, open, refused};
use zeitmass_core::fit::Model;
use zeitmass_core::inquiry::{CurvePick, Supposed};
use zeitmass_core::lab::Advice;
use zeitmass_core::logbook::{
    Edit, Flaw, FootageRefusal, ForecastEdit, ForecastPart, GraphEdit, Heard, Instrument, Kept, Logbook, MomentOf,
    OfficeEdit, OfficeRefusal, RecordEdit, Refusal, RowAt, RunEdit, RunRefusal, TextField, ValueError, WritingEdit,
};
use zeitmass_core::motion::{Ask, ask};
use zeitmass_core::quantity::{NumberError, Origin};
use zeitmass_core::rigs::{Ending, HandMotion, PullError, SettingError};
use zeitmass_words::Words;

const STORIES: &str = include_str!("../../../../labs/1.2-three-stories.md");
const MAIL: &str = include_str!("../../../../labs/1.1-mail-shuttle.md");
const THROWER: &str = include_str!("../../../../labs/4.5-range.md");
const WORLDS: &str = include_str!("../../../../labs/5.3-worlds.md");
const STAYS: &str = include_str!("../../../../labs/7.1-what-stays.md");
const HILLS: &str = include_str!("../../../../labs/8.1-hill-railway.md");
const LOADS: &str = include_str!("../../../../labs/5.2-loads.md");

fn set(name: &str, typed: &str) -> Edit {
    Edit::Run(RunEdit::SetSetting { name: name.into(), typed: typed.into() })
}

fn sketch(channel: &str, points: &[[f64; 2]]) -> Edit {
    Edit::Forecast(ForecastEdit::Sketch { channel: channel.into(), points: points.to_vec() })
}

fn suppose(cause: &str, effect: &str) -> Edit {
    let (curve, reason) = (CurvePick::RisesFlatter, "it is thrown higher.".to_owned());
    let (cause, effect) = (cause.to_owned(), effect.to_owned());
    Edit::Forecast(ForecastEdit::Suppose { hypothesis: Supposed { cause, effect, curve, reason } })
}

/// Two partners drag nodes of one track at the same time: each says what the page showed, and neither loses what the other did.
#[test]
fn nodes_moved_by_two_at_once_are_all_kept() {
    let mut book = open(HILLS, 1);
    let ready = "0 3; 3 1; 6 2.3; 9 0.5; 12 1";
    let drag = |typed: &str, seen: &str| {
        let typed = [("nodes", typed), ("course", "own")].map(|(n, t)| (n.to_owned(), t.to_owned())).into();
        Edit::Run(RunEdit::SetSettings { typed, seen: [("nodes".to_owned(), seen.to_owned())].into() })
    };
    let nodes = |book: &Logbook| book.state().run.settings["nodes"].pretty();
    // The first takes over the ready-made track, and the second did not know it yet.
    done(&mut book, drag("0 3; 3 1.2; 6 2.3; 9 0.5; 12 1", ready));
    assert_eq!(nodes(&book), "0 3; 3 1.2; 6 2.3; 9 0.5; 12 1");
    done(&mut book, drag("0 3; 3 1; 6 2.3; 9 0.7; 12 1", ready));
    assert_eq!(nodes(&book), "0 3; 3 1.2; 6 2.3; 9 0.7; 12 1");
    // One puts in a node, the other takes another one away; at one place only the first of both counts, and that is said.
    let seen = nodes(&book);
    done(&mut book, drag("0 3; 3 1.2; 6 2.3; 9 0.7; 10.5 0.8; 12 1", &seen));
    done(&mut book, drag("0 3; 6 2.3; 9 0.7; 12 1", &seen));
    assert_eq!(nodes(&book), "0 3; 6 2.3; 9 0.7; 10.5 0.8; 12 1");
    let said = refused(&mut book, &drag("0 3; 3 1.2; 6 2.3; 9 0.9; 9.5 0.8; 12 1", &seen));
    assert_eq!(said, RunRefusal::TrackChanged.into());
    // Whoever says nothing of what the page showed sets all of it; nonsense is refused whole.
    done(&mut book, set("nodes", ready));
    assert_eq!(nodes(&book), ready);
    for bad in ["1", "0 3; 3 NaN", &"1 1;".repeat(400)] {
        refused(&mut book, &drag("0 3; 3 1.2; 6 2.3; 9 0.5; 12 1", bad));
    }
    assert_eq!(nodes(&book), ready);
}

#[test]
fn a_forecast_holds_the_run_back_and_stands_once_it_has_run() {
    let mut book = open(STORIES, 1);
    let missing = refused(&mut book, &Edit::Run(RunEdit::Run));
    let sketches = ["position", "velocity"].map(|curve| ForecastPart::Sketch { curve: curve.into() });
    assert_eq!(missing, Refusal::ForecastFirst { missing: sketches.to_vec() });
    done(&mut book, sketch("x", &[[0.0, 0.0], [4.0, 2.0], [7.0, 2.0], [9.0, -1.0]]));
    book.apply(&sketch("x", &[[0.0, 0.0], [4.0, 2.0], [7.0, 2.0], [9.0, 1.0]]), 20).unwrap();
    for bad in [
        &[[0.0, 0.0]][..],
        &[[2.0, 0.0], [1.0, 1.0]],
        &[[0.0, 0.0], [11.0, 1.0]],
        &[[0.0, 0.0], [1.0, 9.0]],
        &[[0.0, f64::NAN], [1.0, 0.0]],
    ] {
        refused(&mut book, &sketch("x", bad));
    }
    refused(&mut book, &sketch("a", &[[0.0, 0.0], [1.0, 0.0]]));
    let pull = Edit::Run(RunEdit::Pull { motion: HandMotion(vec![(0.0, 0.0), (1.0, 1.0)]) });
    assert_eq!(refused(&mut book, &pull), Refusal::ForecastFirst { missing: sketches[1..].to_vec() });
    done(&mut book, sketch("v", &[[0.0, 0.5], [9.0, -1.5]]));
    assert_eq!(book.forecast_missing(), []);
    done(&mut book, Edit::Run(RunEdit::Run));
    let kept = book.state().forecast.clone();
    assert_eq!((kept.sketches["x"].at, kept.sketches["x"].points.len()), (20, 4));
    for edit in [sketch("x", &[[0.0, 0.0], [1.0, 1.0]]), sketch("v", &[])] {
        assert!(matches!(refused(&mut book, &edit), Refusal::ForecastStands));
    }
    // The run can be undone, but what was seen was seen.
    done(&mut book, Edit::Undo);
    assert!(book.state().run.runs.is_empty());
    assert!(matches!(refused(&mut book, &Edit::Undo), Refusal::ForecastStands));
    refused(&mut book, &sketch("x", &[[0.0, 0.0], [1.0, 1.0]]));
    assert_eq!(book.state().forecast, kept);
}

/// The curves are sketched anew before each story; each sketch stays with the runs it was made for.
#[test]
fn a_forecast_in_rounds_is_made_before_each_run() {
    let mut book = open(STORIES, 1);
    let curves = |k: f64| [sketch("x", &[[0.0, 0.0], [9.0, k]]), sketch("v", &[[0.0, k / 2.0], [9.0, 0.0]])];
    let again = Edit::Forecast(ForecastEdit::SketchAgain);
    refused(&mut book, &again);
    for k in 1..=3 {
        assert!(!book.forecast_missing().is_empty());
        refused(&mut book, &Edit::Run(RunEdit::Run));
        for edit in curves(f64::from(k)) {
            done(&mut book, edit);
        }
        done(&mut book, Edit::Run(RunEdit::Run));
        refused(&mut book, &sketch("x", &[[0.0, 0.0], [1.0, 1.0]]));
        if k == 2 {
            // The run can be undone, but what was seen was seen: the second sketch stands.
            done(&mut book, Edit::Undo);
            assert!(matches!(refused(&mut book, &Edit::Undo), Refusal::ForecastStands));
            done(&mut book, Edit::Redo);
        }
        if k < 3 {
            done(&mut book, again.clone());
        }
    }
    refused(&mut book, &again);
    for run in 1..=3 {
        let sketches = book.state().forecast.sketches_for(run);
        assert_eq!(sketches["x"].points[1], [9.0, f64::from(run)]);
    }
    // A file brings the rounds back as they were, closed, and marks what nobody knows here.
    let file = serde_json::to_string(book.state()).unwrap();
    let mut other = open(STORIES, 2);
    done(&mut other, Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_str(&file).unwrap()) }));
    assert!(other.forecast_stands() && !other.may_sketch_again() && other.brought().forecast == 6);
    // One that was changed by hand opens no round again.
    let forged = file.replace(r#""rounds":2"#, r#""rounds":0"#);
    assert_ne!(forged, file);
    let mut other = open(STORIES, 2);
    done(&mut other, Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_str(&forged).unwrap()) }));
    assert!(other.forecast_stands());
    // Stories differ in everything on purpose, and can be compared.
    assert!(book.sheet().varied_together.contains(&"velocity 3"));
}

#[test]
fn hypothesis_and_prediction_are_checked_kept_and_held_against_the_outcome() {
    let mut book = open(THROWER, 1);
    refused(&mut book, &suppose("colour", "range"));
    done(&mut book, suppose("angle", "range"));
    let kept = book.state().forecast.hypothesis.clone().unwrap();
    assert_eq!((kept.cause.as_str(), kept.effect.as_str(), kept.curve), ("angle", "range", CurvePick::RisesFlatter));
    done(&mut book, Edit::Run(RunEdit::Run));
    refused(&mut book, &suppose("mass", "range"));

    let mut book = open(MAIL, 3);
    done(&mut book, sketch("x", &[[0.0, -2.0], [40.0, 3.0]]));
    let predict = |typed: &str| Edit::Forecast(ForecastEdit::Predict { typed: typed.into() });
    refused(&mut book, &predict("12 s"));
    done(&mut book, predict("4100 cm"));
    let unread = refused(&mut book, &Edit::Forecast(ForecastEdit::StateOutcome { typed: "x".into() }));
    let error = NumberError::NotANumber("x".into());
    assert_eq!(unread, Refusal::Value { wrong: error.into(), kept: Kept::NothingChanged });
    done(&mut book, Edit::Run(RunEdit::Run));
    refused(&mut book, &predict("38 m"));
    done(&mut book, Edit::Forecast(ForecastEdit::StateOutcome { typed: "37.2 m".into() }));
    done(
        &mut book,
        Edit::Writing(WritingEdit::Write {
            field: TextField::Difference,
            text: "We forgot the start.".into(),
            was: String::new(),
        }),
    );
    let forecast = &book.state().forecast;
    assert_eq!(forecast.prediction.as_ref().unwrap().number.pretty(), "4100");
    assert_eq!(forecast.outcome.as_ref().unwrap().0.pretty(), "37.2");
    // Recorded every five seconds, the way of a shuttle at 0.14 m/s has no scatter at all: the last digits tell the uncertainty.
    done(
        &mut book,
        Edit::Run(RunEdit::Record { channels: vec!["x".into()], from: 0, to: 4000, every: 500, into: None }),
    );
    let table = book.state().record.tables.last().unwrap().clone();
    let (x, y) = (Some(table.columns[0].id), Some(table.columns[1].id));
    assert_eq!((table.columns[0].name.as_str(), table.columns[1].name.as_str()), ("time", "position x"));
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x, y }));
    done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
    let analysis = book.analyse();
    let slope = analysis.graphs[0].1.as_ref().unwrap().first_fit().unwrap().slope().unwrap();
    assert!((0.08..0.14 + 1e-9).contains(&slope.value) && (5e-5..5e-4).contains(&slope.u), "{slope:?}");
    // All is fixed in this lab, so nothing is pulled either.
    let pull = Edit::Run(RunEdit::Pull { motion: HandMotion(vec![(0.0, 0.0), (1.0, 1.0)]) });
    assert_eq!(refused(&mut book, &pull), RunRefusal::NotByHand.into());
}

#[test]
fn a_shuttle_is_stopped_changed_and_goes_on() {
    let mut book = open(STORIES, 1);
    done(&mut book, sketch("x", &[[0.0, 0.0], [9.0, 1.0]]));
    done(&mut book, sketch("v", &[[0.0, 0.5], [9.0, -1.5]]));
    for k in 2..=3 {
        done(&mut book, set(&format!("duration {k}"), ""));
        done(&mut book, set(&format!("velocity {k}"), ""));
    }
    done(&mut book, set("duration 1", ""));
    done(&mut book, Edit::Run(RunEdit::Run));
    assert!(!book.can_go_on());
    refused(&mut book, &Edit::Run(RunEdit::GoOn));
    done(&mut book, Edit::Run(RunEdit::StopHere { frame: 300 }));
    assert_eq!(book.state().run.settings["duration 1"].pretty(), "3.00\u{A0}s");
    done(&mut book, set("velocity 2", "-1.2 m/s"));
    done(&mut book, Edit::Run(RunEdit::GoOn));
    assert_eq!(book.state().run.runs.len(), 1, "it is the same run");
    let run = book.footage(1).unwrap().unwrap();
    let x = run.channel("x").unwrap();
    assert!((x[300] - 1.5).abs() < 1e-9 && (x[400] - 0.3).abs() < 1e-9);
    assert_eq!(run.outcome.told, Some(Ending::EndOfRail { right: false }));
    // What has run stays as it was.
    done(&mut book, Edit::Run(RunEdit::StopHere { frame: 500 }));
    assert!(book.can_go_on());
    done(&mut book, set("velocity 1", "0.70 m/s"));
    assert!(!book.can_go_on());
    assert_eq!(refused(&mut book, &Edit::Run(RunEdit::GoOn)), RunRefusal::CannotGoOn.into());
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Run(RunEdit::GoOn));
    // By hand: recorded as it was, and not to be continued.
    let pull = HandMotion((0..80).map(|i| (f64::from(i) * 0.03, (f64::from(i) * 0.11).sin())).collect());
    done(&mut book, Edit::Run(RunEdit::Pull { motion: pull }));
    assert_eq!(book.state().run.runs.len(), 2);
    refused(&mut book, &Edit::Run(RunEdit::GoOn));
    let short = refused(&mut book, &Edit::Run(RunEdit::Pull { motion: HandMotion(vec![(0.0, 0.0)]) }));
    assert_eq!(short, Refusal::Value { wrong: PullError::Short.into(), kept: Kept::NothingChanged });
    let again: Logbook = {
        let mut again = open(STORIES, 1);
        let file = serde_json::to_string(book.state()).unwrap();
        done(&mut again, Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_str(&file).unwrap()) }));
        again
    };
    assert_eq!(again.state().run.runs, book.state().run.runs);
}

#[test]
fn a_plan_of_ten_trials_fills_the_record_and_a_second_change_is_told() {
    let mut book = open(LOADS, 5);
    let plan = |from: &str, to: &str, count| {
        Edit::Run(RunEdit::PlanTrials { name: "load".into(), from: from.into(), to: to.into(), count, column: Some(1) })
    };
    let outside = refused(&mut book, &plan("0 kg", "9 kg", 10));
    assert!(matches!(outside, Refusal::Value { wrong: ValueError::Setting(SettingError::Outside { .. }), .. }));
    let fine = refused(&mut book, &plan("0.10 kg", "0.12 kg", 10));
    assert!(matches!(fine, Refusal::Run(RunRefusal::TooFine { values: 3, .. })));
    let heard = done(&mut book, plan("0 kg", "0.9 kg", 30));
    assert!(matches!(heard[..], [Heard::Trials(Advice::Many { trials: 30, .. })]), "too many are told: {heard:?}");
    done(&mut book, plan("0 kg", "0.9 kg", 10));
    for trial in 0..10u32 {
        done(&mut book, Edit::Run(RunEdit::RunTrial));
        let row = book.state().record.tables[0].rows.last().unwrap().id;
        let instrument = Instrument::Meter { run: trial + 1, name: "time".into(), frame: 0 };
        done(&mut book, Edit::Record(RecordEdit::LogReading { row: RowAt::There(row), column: 2, instrument }));
    }
    assert_eq!(refused(&mut book, &Edit::Run(RunEdit::RunTrial)), RunRefusal::AllRun.into());
    let table = &book.state().record.tables[0];
    let loads: Vec<f64> = table.rows.iter().map(|r| r.cells[&1].si()).collect();
    assert!(loads.iter().enumerate().all(|(i, l)| (l - 0.1 * i as f64).abs() < 1e-9), "{loads:?}");
    let times: Vec<f64> = table.rows.iter().map(|r| r.cells[&2].si()).collect();
    assert!(times.windows(2).all(|w| w[1] > w[0]), "heavier is slower: {times:?}");
    // Each row remembers its run, and nothing but the load changed.
    for (i, row) in table.rows.iter().enumerate() {
        assert!(matches!(&row.cells[&2].origin, Origin::Meter { run, .. } if *run == i as u32 + 1));
    }
    assert!(book.incomparable(table).is_empty());

    // Two settings at once: angle and mass of the slope.
    let mut book = open(WORLDS, 5);
    done(&mut book, suppose("angle of the slope", "acceleration"));
    let mut trial = |angle: &str, mass: &str, run: u32| {
        done(&mut book, set("angle", angle));
        done(&mut book, set("mass", mass));
        done(&mut book, Edit::Run(RunEdit::Run));
        done(
            &mut book,
            Edit::Record(RecordEdit::LogReading {
                row: RowAt::Below,
                column: 1,
                instrument: Instrument::Setting { name: "angle".into() },
            }),
        );
        let row = book.state().record.tables[0].rows.last().unwrap().id;
        let instrument = Instrument::Meter { run, name: "time".into(), frame: 0 };
        done(&mut book, Edit::Record(RecordEdit::LogReading { row: RowAt::There(row), column: 2, instrument }));
        row
    };
    trial("10", "0.50 kg", 1);
    trial("20", "0.50 kg", 2);
    let odd = trial("30", "2.00 kg", 3);
    trial("40", "0.50 kg", 4);
    let told = book.incomparable(&book.state().record.tables[0]);
    assert_eq!(told.keys().copied().collect::<Vec<_>>(), [odd]);
}

#[test]
fn runs_keep_their_numbers_when_others_go() {
    let mut book = open(LOADS, 2);
    for load in ["0 kg", "0.5 kg", "1 kg"] {
        done(&mut book, set("load", load));
        done(&mut book, Edit::Run(RunEdit::Run));
    }
    done(
        &mut book,
        Edit::Record(RecordEdit::LogReading {
            row: RowAt::Below,
            column: 2,
            instrument: Instrument::Meter { run: 2, name: "time".into(), frame: 0 },
        }),
    );
    let read = |book: &Logbook| book.state().record.tables[0].rows[0].cells[&2].clone();
    let before = read(&book);
    done(&mut book, Edit::Run(RunEdit::DeleteRun { run: 2 }));
    assert_eq!(book.state().runs_kept().map(|(n, _)| n).collect::<Vec<_>>(), [1, 3]);
    assert_eq!(read(&book), before, "readings stay");
    refused(&mut book, &Edit::Run(RunEdit::ChooseRun { run: 2 }));
    done(&mut book, Edit::Run(RunEdit::Run));
    assert_eq!(book.state().run.runs.len(), 4);
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Undo);
    assert_eq!(book.state().runs_kept().count(), 3);
    done(&mut book, Edit::Run(RunEdit::ChooseRun { run: 1 }));
    assert_eq!(book.state().run.settings["load"].pretty(), "0.00\u{A0}kg", "its settings come with it");
    // The same meter of the same run shows the same; another run errs differently.
    let time = |book: &Logbook, run: u32| {
        book.meters(run, 0).unwrap().unwrap().into_iter().find(|(n, _)| *n == "time").unwrap().1.unwrap()
    };
    assert_eq!(time(&book, 1), time(&book, 1));
    let scattered: std::collections::BTreeSet<String> = (0..12)
        .map(|_| {
            done(&mut book, Edit::Run(RunEdit::Run));
            time(&book, book.state().run.runs.len() as u32)
        })
        .collect();
    assert!(scattered.len() > 3, "a stopwatch scatters from run to run: {scattered:?}");
}

#[test]
fn moments_and_recordings_are_no_finer_than_the_recorders() {
    let mut book = open(THROWER, 1);
    done(&mut book, suppose("angle", "range"));
    done(&mut book, Edit::Run(RunEdit::Run));
    let at = |frame| MomentOf { run: Some(1), frame, ..MomentOf::default() };
    let m = book.moment(&at(40)).unwrap().moment;
    let whole = |v: f64, step: f64| ((v / step).round() * step - v).abs() < 1e-9;
    assert!(m.at.iter().chain(&m.velocity).all(|v| whole(*v, 0.01)), "{m:?}");
    // 12 m/s at 45°: v_y = 8.485 − 9.81·0.4.
    assert!((m.velocity[1] - 4.561).abs() < 0.006 && (m.acceleration[1] + 9.81).abs() < 0.11, "{m:?}");
    assert!((m.u_acceleration - 0.0408).abs() < 1e-3);
    let asked = |what: Ask, mass: &str| {
        let instrument = Instrument::Moment { of: at(40), what, mass: mass.into() };
        Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: 2, instrument })
    };
    let massless = refused(&mut book, &asked(Ask::Kinetic, ""));
    assert!(matches!(massless, Refusal::Footage(FootageRefusal::NeedsMass { .. })));
    let joules = refused(&mut book, &asked(Ask::Total, "150 g"));
    assert!(matches!(joules, Refusal::WrongUnit { .. }), "metres are wanted in this column");
    done(&mut book, asked(Ask::X, ""));
    assert_eq!(book.state().record.tables[0].rows[0].cells[&2].number.pretty(), "3.39");

    // A potential energy would tell the gravity of the unknown world.
    let mut book = open(WORLDS, 5);
    done(&mut book, suppose("angle of the slope", "acceleration"));
    done(&mut book, Edit::Run(RunEdit::Run));
    assert!(book.body("0.5 kg", Some(1)).unwrap().unwrap().gravity.is_some_and(|g| (g - 9.81).abs() < 1e-12));
    done(&mut book, set("world", "unknown"));
    done(&mut book, Edit::Run(RunEdit::Run));
    assert_eq!(book.body("0.5 kg", Some(2)).unwrap().unwrap().gravity, None);
    let (what, mass) = (Ask::Potential, "0.5 kg".to_owned());
    let of = MomentOf { run: Some(2), frame: 9, ..MomentOf::default() };
    let instrument = Instrument::Moment { of, what, mass };
    let told = refused(&mut book, &Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: 2, instrument }));
    assert!(matches!(told, Refusal::Footage(FootageRefusal::NeedsGravity { .. })));
}

/// What the first carriage loses the second gains, asked at a moment before and one after they meet.
#[test]
fn moments_of_both_carriages_keep_the_momentum() {
    let mut book = open(STAYS, 3);
    done(&mut book, sketch("momentum of both", &[[0.0, 0.1], [4.0, 0.1]]));
    done(&mut book, sketch("energy of both", &[[0.0, 0.3], [4.0, 0.2]]));
    done(&mut book, Edit::Run(RunEdit::Run));
    let settings = book.run_settings(1).unwrap();
    let mass = ["mass 1", "mass 2"].map(|m| format!("{:.4} kg", settings.get(m)));
    let of = |second, frame| MomentOf { run: Some(1), second, frame, ..MomentOf::default() };
    let momentum = |second: bool, frame| {
        let seen = book.moment(&of(second, frame)).unwrap();
        assert_eq!(seen.name, if second { "run 1, second carriage" } else { "run 1, first carriage" });
        let body = book.body(&mass[usize::from(second)], Some(1)).unwrap();
        // The moment tells the magnitude; the carriages move along x alone.
        let told = ask(Ask::Momentum, &seen.moment, body).unwrap();
        (told.value * seen.moment.velocity[0].signum(), told.u)
    };
    let last = book.footage(1).unwrap().unwrap().frames() as u32 - 1;
    let [[(b1, ub1), (b2, ub2)], [(a1, ua1), (a2, ua2)]] =
        [5, last - 5].map(|f| [momentum(false, f), momentum(true, f)]);
    assert!((a1 - b1).abs() > 0.1, "they meet: {b1} {a1}");
    let u = ub1.hypot(ub2).hypot(ua1.hypot(ua2));
    assert!((b1 + b2 - a1 - a2).abs() < 3.0 * u && u < 0.01, "{b1} {b2} {a1} {a2} ± {u}");

    let instrument = Instrument::Moment { of: of(true, 5), what: Ask::VelocityX, mass: String::new() };
    done(&mut book, Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: 2, instrument }));
    let reading = book.state().record.tables[0].rows[0].cells[&2].clone();
    assert!((reading.si() - settings.get("velocity 2")).abs() < 0.001);
    assert!(reading.words().contains("run 1, second carriage"), "{}", reading.words());

    let mut book = open(THROWER, 1);
    done(&mut book, suppose("angle", "range"));
    done(&mut book, Edit::Run(RunEdit::Run));
    assert!(book.moment(&of(true, 5)).is_err(), "without both paths there is one body");
}

/// Nothing in a file is trusted: what a sheet fixes or hides, what the rig cannot do, and what does not hang together.
#[test]
fn runs_of_a_file_changed_by_hand_are_refused() {
    let mut book = open(LOADS, 5);
    let (name, column) = ("load".to_owned(), Some(1));
    done(
        &mut book,
        Edit::Run(RunEdit::PlanTrials { name, from: "0 kg".into(), to: "0.9 kg".into(), count: 10, column }),
    );
    done(&mut book, Edit::Run(RunEdit::RunTrial));
    done(&mut book, Edit::Run(RunEdit::RunTrial));
    let good = serde_json::to_value(book.state()).unwrap();
    type Change = fn(&mut serde_json::Value);
    let not_free = || Flaw::NotFree { name: "thrust 1".into() };
    let (range, value) = ("0.00\u{A0}kg to 5.00\u{A0}kg".into(), "7.00\u{A0}kg".into());
    let heavy = Flaw::Setting(SettingError::Outside { label: "load", range, value });
    let changes: [(Flaw, Change); 8] = [
        (not_free(), |v| {
            v["run"]["runs"][0]["settings"]["thrust 1"] = serde_json::json!({ "quantity": ["3.00", "N"] });
        }),
        (not_free(), |v| v["run"]["plan"]["setting"] = "thrust 1".into()),
        (heavy, |v| v["run"]["runs"][1]["settings"]["load"] = serde_json::json!({ "quantity": ["7.00", "kg"] })),
        (Flaw::OtherSetting { name: "load".into() }, |v| {
            v["run"]["runs"][1]["settings"]["load"] = serde_json::json!({ "quantity": ["0.1", "kg"] });
        }),
        (Flaw::Runs, |v| v["run"]["on_stage"] = 9.into()),
        (Flaw::Runs, |v| v["run"]["runs"][0]["name"] = "x".repeat(500).into()),
        (Flaw::Runs, |v| v["run"]["runs"][0]["pull"] = serde_json::json!([[0.0, 0.0], [1.0, 1.0]])),
        (Flaw::PlanOrForecast, |v| v["run"]["plan"]["done"] = 40.into()),
    ];
    for (reason, change) in changes {
        let mut bad = good.clone();
        change(&mut bad);
        let content = Box::new(serde_json::from_value(bad).unwrap());
        let told = refused(&mut open(LOADS, 5), &Edit::Office(OfficeEdit::Restore { content }));
        assert_eq!(told, OfficeRefusal::NotBrought(reason).into());
    }
    // After the first run a file cannot bring another forecast.
    let mut book = open(STORIES, 1);
    let both = |book: &mut Logbook, height: f64| {
        done(book, sketch("x", &[[0.0, 0.0], [9.0, height]]));
        done(book, sketch("v", &[[0.0, 0.5], [9.0, 0.5]]));
    };
    both(&mut book, 2.0);
    done(&mut book, Edit::Run(RunEdit::Run));
    let mut wiser = open(STORIES, 1);
    both(&mut wiser, -1.0);
    done(&mut wiser, Edit::Run(RunEdit::Run));
    done(&mut book, Edit::Office(OfficeEdit::Restore { content: Box::new(wiser.state().clone()) }));
    assert_eq!(
        book.state().forecast.sketches["x"].points[1],
        [9.0, 2.0],
        "the sketch is the one that was committed to"
    );
}
