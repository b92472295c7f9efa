//! Further deals of numbers: each has its own values, readings and key, and none gets into another's way.

use std::collections::BTreeSet;
use std::sync::Arc;

use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{
    Edit, Flaw, Instrument, Logbook, OfficeEdit, OfficeRefusal, RecordEdit, Refusal, RowAt, RunEdit, Thing,
};
use zeitmass_core::quantity::Footage;
use zeitmass_core::record::ColumnId;

use crate::common::{done, open};

const CABINS: &str = include_str!("../../../../labs/3.4-cabins-at-the-mast.md");

fn take(book: &mut Logbook, deal: u32) {
    done(book, Edit::Run(RunEdit::TakeDeal { deal }));
}

fn si(book: &Logbook, name: &str) -> f64 {
    book.rule(name).unwrap().value.si().unwrap()
}

/// Runs once and logs both passings; gives u = L₁/t₁ ∓ L₂/t₂ as a careful student works it out.
fn passing(book: &mut Logbook) -> f64 {
    done(book, Edit::Run(RunEdit::Run));
    let (number, _) = book.state().runs_kept().next_back().unwrap();
    let run = book.footage(number).unwrap().unwrap();
    let columns: Vec<ColumnId> = book.state().record.tables[0].columns.iter().map(|c| c.id).collect();
    let (mut row, mut u, mut way) = (RowAt::Below, 0.0, 1.0);
    for ((x, length), column) in [("x", "length 1"), ("x second", "length 2")].into_iter().zip(columns) {
        let (x, length) = (run.channel(x).unwrap(), si(book, length));
        let sign = (x[1] - x[0]).signum();
        let past = |by: f64| x.iter().position(|x| sign * x >= by).unwrap() as u32;
        let instrument = Instrument::Split { of: Footage::Run(number), start: past(0.0), end: past(length) };
        u += way * sign * length / (0.01 * f64::from(past(length) - past(0.0)));
        way = -1.0;
        done(book, Edit::Record(RecordEdit::LogReading { row, column, instrument }));
        row = RowAt::There(book.state().record.tables[0].rows.last().unwrap().id);
    }
    u
}

#[test]
fn each_deal_keeps_its_numbers_readings_and_key_apart() {
    let mut book = open(CABINS, 8);
    let mut found = Vec::new();
    for deal in 0..3 {
        take(&mut book, deal);
        let tables = &book.state().record.tables;
        assert!(tables[0].rows.is_empty() && book.state().run_on_stage().is_none(), "deal {deal} begins empty");
        let us: Vec<f64> = (0..4).map(|_| passing(&mut book)).collect();
        let key = book.key().unwrap();
        let mean = us.iter().sum::<f64>() / 4.0;
        let u = (us.iter().map(|u| (u - mean).powi(2)).sum::<f64>() / 12.0).sqrt();
        assert!(key.accepts(mean, u), "deal {deal}: {us:?}, {mean} ± {u} for {}", key.value);
        found.push((key.value, book.state().record.clone()));
    }
    assert!(found[0].0 != found[1].0 && found[1].0 != found[2].0, "{found:?}");
    // Back to each of them: everything is as it was left, and runs of another deal are out of reach.
    for deal in [1, 0, 2] {
        take(&mut book, deal);
        assert_eq!(
            (book.key().unwrap().value, &book.state().record),
            (found[deal as usize].0, &found[deal as usize].1)
        );
        assert_eq!(book.state().runs_kept().count(), 4);
        let foreign = book.apply(&Edit::Run(RunEdit::ChooseRun { run: 4 * ((deal + 1) % 3) + 1 }), 0);
        assert!(foreign.is_err());
    }
    // What is typed for a table that has gone out of sight meanwhile finds nothing to overwrite.
    let column = found[0].1.tables[0].columns[0].id;
    let late = Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column, typed: "1.20".into(), was: None });
    assert_eq!(book.apply(&late, 0).unwrap_err(), Refusal::Gone(Thing::Column));
    let refused = book.apply(&Edit::Run(RunEdit::TakeDeal { deal: 3 }), 0).unwrap_err();
    assert_eq!(refused, Refusal::NoSuchDeal { deals: 3 });
    assert!(book.apply(&Edit::Run(RunEdit::TakeDeal { deal: u32::MAX }), 0).is_err());
    // All the way back and forth.
    let (end, start) = (book.state().clone(), open(CABINS, 8));
    while book.can_undo_redo().0 {
        done(&mut book, Edit::Undo);
    }
    assert_eq!(book.state().record, start.state().record);
    assert_eq!(book.state().deals, start.state().deals);
    while book.can_undo_redo().1 {
        done(&mut book, Edit::Redo);
    }
    assert_eq!(book.state(), &end);

    // From its file, in an empty logbook of the same seed: every reading is taken again with the numbers of its deal.
    let file = serde_json::to_value(&end).unwrap();
    let brought = |file: serde_json::Value| {
        let mut other = open(CABINS, 8);
        let content = Box::new(serde_json::from_value(file).unwrap());
        other.apply(&Edit::Office(OfficeEdit::Restore { content }), 1_800_000_000).map(|_| other)
    };
    let mut again = brought(file.clone()).unwrap();
    assert_eq!(again.brought().readings, 0);
    take(&mut again, 1);
    let numbers = |record: &zeitmass_core::logbook::RecordState| -> Vec<String> {
        let cells = record.tables[0].rows.iter().flat_map(|r| r.cells.values());
        cells.map(|c| c.number.pretty()).collect()
    };
    assert_eq!(numbers(&again.state().record), numbers(&found[1].1));
    // Forged: a reading on the shelf, a deal the lab does not have, a deal twice.
    let mut forged = file.clone();
    let shelf = forged["deals"]["shelf"]["0"]["record"]["tables"][0]["rows"][0]["cells"].as_object_mut().unwrap();
    shelf.values_mut().next().unwrap()["number"] = "9.99".into();
    assert_eq!(brought(forged).unwrap().brought().readings, 1);
    for change in [
        |f: &mut serde_json::Value| f["deals"]["number"] = 7.into(),
        |f: &mut serde_json::Value| f["deals"]["number"] = 0.into(),
        |f: &mut serde_json::Value| f["run"]["runs"][0]["deal"] = 5.into(),
    ] {
        let mut forged = file.clone();
        change(&mut forged);
        assert_eq!(brought(forged).unwrap_err(), OfficeRefusal::NotBrought(Flaw::NoSuchDeal).into());
    }
}

/// The numbers of a thousand deals lie in their ranges, differ, and make the key the sheet says.
#[test]
fn keys_of_a_thousand_deals_are_consistent() {
    let sheet = Arc::new(LabSheet::parse(CABINS).unwrap());
    let mut keys = BTreeSet::new();
    for seed in 0..334 {
        let mut book = Logbook::new(Arc::clone(&sheet), seed);
        let start = serde_json::to_value(Logbook::start(Arc::clone(&sheet), seed)).unwrap();
        for deal in 0..3 {
            take(&mut book, deal);
            let [one, two] = ["length 1", "length 2"].map(|n| si(&book, n));
            let [v_1, v_2] = ["velocity 1", "velocity 2"].map(|n| si(&book, n));
            assert!((3.6..=5.4).contains(&one) && (2.8..=4.4).contains(&two) && (2.0..=4.0).contains(&v_1));
            let key = book.key().unwrap().value;
            assert!((key - (v_1 - v_2)).abs() < 1e-9, "{key} for {v_1} and {v_2}");
            keys.insert(format!("{one} {two} {v_1} {v_2}"));
        }
        // Begun again from what is stored, it has the same numbers, whatever is dealt then.
        let again = Logbook::resume(
            Arc::clone(&sheet),
            seed + 1,
            serde_json::from_value(start).unwrap(),
            Some(book.snapshot()),
        );
        assert_eq!(again.key(), book.key());
    }
    assert!(keys.len() >= 1000, "{} different ones", keys.len());
}
