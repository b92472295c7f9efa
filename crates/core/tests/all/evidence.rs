//! What a logbook brought from a file says it measured: recomputed where that can be done, marked where it cannot.

use serde_json::{Value, json};
use zeitmass_core::inquiry::{CurvePick, Supposed};
use zeitmass_core::logbook::{
    BroughtParts, Edit, ForecastEdit, Instrument, Logbook, OfficeEdit, RecordEdit, RowAt, RunEdit,
};
use zeitmass_core::quantity::{Footage, Origin};
use zeitmass_words::Words;

use crate::common::{done, open, typed};

const BOBBING: &str = include_str!("../../../../labs/5.6-bobbing-load.md");
const THRUST: &str = include_str!("../../../../labs/5.1-thrust.md");

/// A logbook with a reading of every kind a rig has, and a forecast.
fn honest(seed: u64) -> Logbook {
    let mut book = open(THRUST, seed);
    let hypothesis = Supposed {
        cause: "force".into(),
        effect: "acceleration".into(),
        curve: CurvePick::RisesStraight,
        reason: "it pulls more".into(),
    };
    done(&mut book, Edit::Forecast(ForecastEdit::Suppose { hypothesis }));
    done(&mut book, Edit::Run(RunEdit::Run));
    let log = |book: &mut Logbook, row, column, instrument| {
        done(book, Edit::Record(RecordEdit::LogReading { row, column, instrument }));
        RowAt::There(book.state().record.tables[0].rows.last().unwrap().id)
    };
    let row = log(&mut book, RowAt::Below, 1, Instrument::Meter { run: 1, name: "force".into(), frame: 0 });
    log(&mut book, row, 2, Instrument::Meter { run: 1, name: "time".into(), frame: 0 });
    log(&mut book, RowAt::Below, 2, Instrument::Split { of: Footage::Run(1), start: 12, end: 210 });
    done(&mut book, typed(None, 2, "2.31"));
    book
}

fn brought_into(mut other: Logbook, file: Value) -> Logbook {
    let content = Box::new(serde_json::from_value(file).unwrap());
    other.apply(&Edit::Office(OfficeEdit::Restore { content }), 1_800_000_000).unwrap();
    other
}

fn file_of(book: &Logbook) -> Value {
    serde_json::to_value(book.state()).unwrap()
}

fn doubted(book: &Logbook) -> Vec<String> {
    let rows = book.state().record.tables.iter().flat_map(|t| &t.rows).flat_map(|r| r.cells.values());
    rows.filter(|r| matches!(r.origin, Origin::Brought { .. })).map(|r| r.words()).collect()
}

#[test]
fn what_comes_out_again_is_believed() {
    let book = honest(5);
    // The same instruments in an empty logbook of the same seed: only when the hypothesis was made, nobody can know.
    let again = brought_into(open(THRUST, 5), file_of(&book));
    assert_eq!(doubted(&again), Vec::<String>::new());
    assert_eq!(again.brought(), BroughtParts { forecast: 1, ..BroughtParts::default() });
    let hypothesis = again.state().forecast.hypothesis.clone().unwrap();
    assert!(hypothesis.brought && hypothesis.at == 1_800_000_000);
    // In the logbook it came from, nothing is in doubt.
    assert_eq!(brought_into(book.clone(), file_of(&book)).brought(), BroughtParts::default());
    // Somebody else's meters err otherwise, so that theirs cannot be checked; a split is a split.
    let stranger = brought_into(open(THRUST, 6), file_of(&book));
    assert_eq!(doubted(&stranger).len(), 2, "{:?}", doubted(&stranger));
    assert!(doubted(&stranger)[0].contains("imported from a file"));
    // What is doubted once stays doubted, wherever it is brought next.
    assert_eq!(brought_into(open(THRUST, 5), file_of(&stranger)).brought().readings, 2);
}

#[test]
fn forged_evidence_is_marked() {
    let book = honest(5);
    let good = file_of(&book);
    let cells = |v: &mut Value, row: usize, column: &str, change: &dyn Fn(&mut Value)| {
        change(&mut v["record"]["tables"][0]["rows"][row]["cells"][column]);
    };
    type Forge = Box<dyn Fn(&mut Value)>;
    let forged: Vec<(&str, Forge)> = vec![
        (
            "a split of two minutes from two seconds",
            Box::new(move |v| cells(v, 1, "2", &|c| c["number"] = "123.456".into())),
        ),
        ("a split finer than frames", Box::new(move |v| cells(v, 1, "2", &|c| c["resolution"] = json!(1e-6)))),
        (
            "frames that the run does not have",
            Box::new(move |v| cells(v, 1, "2", &|c| c["origin"]["end"] = json!(900_000))),
        ),
        ("a run that is not there", Box::new(move |v| cells(v, 1, "2", &|c| c["origin"]["of"] = json!({ "run": 7 })))),
        ("a meter that shows something else", Box::new(move |v| cells(v, 0, "1", &|c| c["number"] = "0.99".into()))),
        (
            "a meter that is not on the bench",
            Box::new(move |v| cells(v, 0, "1", &|c| c["origin"]["name"] = "mass".into())),
        ),
        (
            "a recording out of the air",
            Box::new(move |v| cells(v, 2, "2", &|c| c["origin"] = json!({ "from": "recorded", "run": 1, "frame": 3 }))),
        ),
        (
            "a moment out of the air",
            Box::new(move |v| {
                cells(v, 2, "2", &|c| {
                    c["origin"] = json!({ "from": "moment", "what": "t", "of": "run 1", "run": 1, "frame": 3, "formula": "", "scale": null });
                });
            }),
        ),
        (
            "a mark in a film nobody has",
            Box::new(move |v| {
                cells(v, 2, "2", &|c| {
                    c["origin"] =
                        json!({ "from": "mark", "film": 0, "trail": 1, "frame": 3, "followed": true, "scale": null });
                });
            }),
        ),
    ];
    for (what, forge) in forged {
        let mut file = good.clone();
        forge(&mut file);
        let again = brought_into(open(THRUST, 5), file.clone());
        assert_eq!(doubted(&again).len(), 1, "{what}: {:?}", doubted(&again));
        // In one's own logbook too, and undo takes it all back.
        let mut own = brought_into(book.clone(), file);
        assert_eq!(own.brought().readings, 1, "{what}");
        done(&mut own, Edit::Undo);
        assert_eq!(own.state(), book.state(), "{what}");
    }
    let mut early = good;
    early["forecast"]["hypothesis"]["at"] = json!(-3);
    // Where the rig was seen running, what was said before stands; elsewhere nobody knows when it was said.
    assert_eq!(brought_into(book.clone(), early.clone()).state().forecast, book.state().forecast);
    let own = brought_into(open(THRUST, 5), early);
    assert_eq!(own.brought(), BroughtParts { forecast: 1, ..BroughtParts::default() });
    assert_eq!(own.state().forecast.hypothesis.as_ref().unwrap().at, 1_800_000_000);
}

/// The motion of a run with something hidden in it differs from run to run, and comes back as it was; meters read the apparatus itself.
#[test]
fn hidden_values_stray_in_motions_and_nowhere_else() {
    let run = |book: &mut Logbook| {
        done(book, Edit::Run(RunEdit::Run));
        let number = book.state().run.runs.len() as u32;
        book.footage(number).unwrap().unwrap()
    };
    let mut book = open(BOBBING, 5);
    let points = vec![[0.0, -0.3], [4.0, -0.3]];
    done(&mut book, Edit::Forecast(ForecastEdit::Sketch { channel: "y".into(), points }));
    let (one, two) = (run(&mut book), run(&mut book));
    let end = |r: &zeitmass_core::rigs::Run| r.channel("y").unwrap()[700];
    assert!(end(&one) != end(&two) && (end(&one) - end(&two)).abs() < 0.02, "{} {}", end(&one), end(&two));
    let file = file_of(&book);
    let again = brought_into(open(BOBBING, 5), file);
    assert_eq!(end(&again.footage(1).unwrap().unwrap()), end(&one));
    // Where nothing is dealt in secret, the same settings give the same motion.
    let mut tower = crate::common::empty();
    let (one, two) = (run(&mut tower), run(&mut tower));
    assert_eq!(one.channel("x"), two.channel("x"));
}
