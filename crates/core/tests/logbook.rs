//! The logbook as the sum of its edits: undo restores exactly, a stored list gives the same logbook again,
//! refusals change nothing; and one whole lab from the first run to the constant.

use std::sync::Arc;

use proptest::prelude::*;
use zeitmass_core::fit::Model;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{ColumnText, Edit, HeldValue, Instrument, Logbook, Part, Refusal, TextField, Tools};
use zeitmass_core::record::ColumnKind;
use zeitmass_core::result::Agreement;

fn empty() -> Logbook {
    let sheet = LabSheet::parse(include_str!("../../../labs/2.1-tower-pendulum.md")).unwrap();
    Logbook::new(Arc::new(sheet), 7)
}

fn text(name: &str, symbol: &str, unit: &str, formula: &str) -> ColumnText {
    ColumnText { name: name.into(), symbol: symbol.into(), unit: unit.into(), formula: formula.into() }
}

fn worked(name: &str, symbol: &str, formula: &str) -> Edit {
    Edit::AddColumn { kind: ColumnKind::Worked, text: text(name, symbol, "", formula) }
}

fn typed(row: Option<u32>, column: u32, value: &str) -> Edit {
    Edit::TypeCell { row, column, typed: value.into(), was: String::new() }
}

#[track_caller]
fn done(book: &mut Logbook, edit: Edit) {
    book.apply(&edit).unwrap_or_else(|e| panic!("{edit:?}: {e}"));
}

#[track_caller]
fn refused(book: &mut Logbook, edit: &Edit) -> Refusal {
    let before = book.clone();
    let refusal = book.apply(edit).expect_err("refused");
    assert!(*book == before, "a refused edit changed the logbook: {edit:?}");
    refusal
}

/// Ids that edits may hit: the sheet's columns, and rows or columns made by the first edits.
fn any_id() -> impl Strategy<Value = u32> {
    prop_oneof![1u32..4, 1001u32..1030]
}

fn any_edit() -> impl Strategy<Value = Edit> {
    let words = || prop::sample::select(vec!["0,45", "1.50", "20.10", "x", "", "3 s", "80 cm", "-1"]);
    let symbols = || prop::sample::select(vec!["L", "t10", "T", "Tsq", "4", "pi"]);
    let formulas = || prop::sample::select(vec!["t10/10", "T^2", "L + t10", "Tsq*L", "sqrt(L)", "(", ""]);
    let units = prop::sample::select(vec!["", "m", "cm", "s", "kg", "?"]);
    let kinds = prop::sample::select(vec![ColumnKind::Set, ColumnKind::Read, ColumnKind::Worked]);
    let column = (symbols(), units, formulas()).prop_map(|(s, u, f)| text("name", s, u, f));
    let instrument = prop_oneof![
        (0u32..3, 0u32..4100, 0u32..4100).prop_map(|(run, start, end)| Instrument::Split { run, start, end }),
        (prop::option::of(0u8..11), -2.0f64..2.0).prop_map(|(tenths, y)| Instrument::Tape {
            run: 1,
            frame: 3,
            zero: [0.0, 0.0],
            reading: [0.1, y],
            tenths
        }),
        prop::sample::select(vec!["length", "gravity", "drag"]).prop_map(|n| Instrument::Setting { name: n.into() }),
    ];
    prop_oneof![
        (prop::sample::select(vec!["length", "angle", "gravity"]), words())
            .prop_map(|(n, t)| Edit::SetSetting { name: n.into(), typed: t.into() }),
        Just(Edit::Run),
        (0u32..4100, prop::option::of(0u32..4000)).prop_map(|(zero, start)| Edit::PlaceTools {
            tools: Tools { zero, start, end: None, tape: Some([[0.0, 0.0], [0.0, -1.0]]) }
        }),
        (kinds, column.clone()).prop_map(|(kind, text)| Edit::AddColumn { kind, text }),
        (any_id(), column).prop_map(|(column, text)| Edit::ChangeColumn { column, text }),
        any_id().prop_map(|column| Edit::DeleteColumn { column }),
        Just(Edit::AddRow),
        any_id().prop_map(|row| Edit::DeleteRow { row }),
        (prop::option::of(any_id()), any_id(), words()).prop_map(|(row, column, t)| Edit::TypeCell {
            row,
            column,
            typed: t.into(),
            was: String::new()
        }),
        (prop::option::of(any_id()), any_id(), instrument).prop_map(|(row, column, instrument)| Edit::LogReading {
            row,
            column,
            instrument
        }),
        (any_id(), any::<bool>()).prop_map(|(row, aside)| Edit::SetAside { row, aside }),
        (prop::option::of(any_id()), prop::option::of(any_id())).prop_map(|(x, y)| Edit::ChooseAxes { x, y }),
        prop::sample::select(vec![None, Some(Model::Line), Some(Model::Proportional)])
            .prop_map(|model| Edit::ChooseModel { model }),
        formulas().prop_map(|t| Edit::StateLaw { typed: t.into() }),
        words().prop_map(|t| Edit::StateAccepted { typed: t.into() }),
        (prop::sample::select(TextField::ALL.to_vec()), words()).prop_map(|(field, t)| Edit::Write {
            field,
            text: t.into(),
            was: String::new()
        }),
        Just(Edit::Undo),
        Just(Edit::Redo),
    ]
}

/// Applies what is accepted; gives back the accepted edits.
fn play(book: &mut Logbook, edits: Vec<Edit>) -> Vec<Edit> {
    edits
        .into_iter()
        .filter(|edit| {
            let before = book.clone();
            let accepted = book.apply(edit).is_ok();
            assert!(accepted || *book == before, "a refused edit changed the logbook: {edit:?}");
            let _ = book.analyse();
            accepted
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

    #[test]
    fn undo_restores_exactly_and_redo_does_it_again(
        first in prop::collection::vec(any_edit(), 0..40),
        second in prop::collection::vec(any_edit().prop_filter("plain", |e| !matches!(e, Edit::Undo | Edit::Redo)), 1..20),
    ) {
        let mut book = empty();
        play(&mut book, first);
        let before = book.state().clone();
        let mut steps = 0;
        for edit in second {
            let state = book.state().clone();
            if book.apply(&edit).is_ok() && (*book.state() != state || book.clone().apply(&Edit::Undo).is_ok()) {
                // Count the undo steps that this edit added.
                let mut taken_back = book.clone();
                taken_back.apply(&Edit::Undo).unwrap();
                if *taken_back.state() == state { steps += 1; }
            }
        }
        let after = book.state().clone();
        let mut undone = 0;
        while *book.state() != before && undone <= steps {
            book.apply(&Edit::Undo).unwrap();
            undone += 1;
        }
        prop_assert_eq!(book.state(), &before);
        for _ in 0..undone { book.apply(&Edit::Redo).unwrap(); }
        prop_assert_eq!(book.state(), &after);
    }

    #[test]
    fn a_stored_list_of_edits_gives_the_same_logbook_twice(edits in prop::collection::vec(any_edit(), 0..60)) {
        let mut book = empty();
        let stored = serde_json::to_string(&play(&mut book, edits)).unwrap();
        for _ in 0..2 {
            let mut again = empty();
            for edit in serde_json::from_str::<Vec<Edit>>(&stored).unwrap() {
                again.apply(&edit).unwrap();
            }
            prop_assert!(again == book);
        }
    }
}

/// Ten swings, timed as a careful student would: from the first frame to the turning point ten swings on.
fn ten_swings(book: &Logbook, run: u32) -> (u32, u32) {
    let footage = book.footage(run).unwrap().unwrap();
    let angle = footage.channel("angle").unwrap();
    let tops: Vec<usize> =
        (1..angle.len() - 1).filter(|&i| angle[i] > angle[i - 1] && angle[i] >= angle[i + 1]).collect();
    (0, tops[9] as u32)
}

#[test]
fn a_whole_lab_leads_from_runs_to_the_strength_of_gravity() {
    let mut book = empty();
    done(&mut book, Edit::SetSetting { name: "angle".into(), typed: "2°".into() });
    for length in ["0.3", "60 cm", "0,9", "1.2", "1.5", "1.8"] {
        done(&mut book, Edit::SetSetting { name: "length".into(), typed: length.into() });
        assert!(book.settings_are_new());
        done(&mut book, Edit::Run);
        let run = book.state().runs.len() as u32;
        let (start, end) = ten_swings(&book, run);
        done(
            &mut book,
            Edit::LogReading { row: None, column: 1, instrument: Instrument::Setting { name: "length".into() } },
        );
        let row = book.state().record.rows.last().unwrap().id;
        done(
            &mut book,
            Edit::LogReading { row: Some(row), column: 2, instrument: Instrument::Split { run, start, end } },
        );
    }
    done(&mut book, worked("period", "T", "t10/10"));
    done(&mut book, worked("squared", "Tsq", "Tsq = T^2"));
    let squared = book.state().record.by_symbol("Tsq").unwrap().id;
    done(&mut book, Edit::ChooseAxes { x: Some(1), y: Some(squared) });
    done(&mut book, Edit::ChooseModel { model: Some(Model::Line) });
    done(&mut book, Edit::StateLaw { typed: "4*pi^2/g".into() });

    let analysis = book.analyse();
    let graph = analysis.graph.unwrap();
    assert_eq!((graph.points.len(), graph.y.unit.pretty().as_str()), (6, "s²"));
    assert_eq!(analysis.table.rows[1].cells[0].text(), "0.600");
    let constant = analysis.constant.unwrap().unwrap();
    assert_eq!((constant.symbol.as_str(), constant.unit.pretty().as_str()), ("g", "m/s²"));
    let comparison = analysis.comparison.unwrap().unwrap();
    assert_eq!(comparison.agreement, Agreement::Within, "{constant:?}");
    assert!(comparison.percent_error.unwrap() < 0.2, "{constant:?}");
    assert!((0.0005..0.02).contains(&constant.u), "{constant:?}");

    let held: Vec<_> = book.held().into_iter().map(|h| (h.symbol, h.value)).collect();
    assert_eq!(held[0].1, HeldValue::Varied);
    assert!(matches!(held[2].1, HeldValue::Held(_)));
    assert_eq!(held[3], ("g", HeldValue::Hidden));
}

#[test]
fn stale_and_wrong_edits_are_refused_with_a_reason_and_change_nothing() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "0,450"));
    let row = book.state().record.rows[0].id;
    assert_eq!(book.state().record.rows[0].cells[&1].number.as_str(), "0.450");

    let stale = refused(&mut book, &typed(Some(row), 1, "0.5"));
    assert!(stale.to_string().contains("0.450"), "{stale}");
    let wrong = Edit::TypeCell { row: Some(row), column: 1, typed: "0,4x".into(), was: "0.450".into() };
    assert!(refused(&mut book, &wrong).to_string().contains("The cell still holds 0.450\u{A0}m"));
    let range = refused(&mut book, &Edit::SetSetting { name: "length".into(), typed: "3".into() }).to_string();
    assert!(range.contains("0.200\u{A0}m to 2.000\u{A0}m") && range.contains("still 0.800\u{A0}m"), "{range}");
    refused(&mut book, &Edit::SetSetting { name: "gravity".into(), typed: "9.0".into() });
    let place = refused(&mut book, &worked("period", "T", "t10/(10 + x)")).to_string();
    assert!(place.contains("“x”, character 11"), "{place}");
    let unit = refused(
        &mut book,
        &Edit::LogReading { row: None, column: 2, instrument: Instrument::Setting { name: "length".into() } },
    );
    assert!(matches!(unit, Refusal::WrongUnit { .. }));
    let hidden = Edit::LogReading { row: None, column: 1, instrument: Instrument::Setting { name: "gravity".into() } };
    assert!(matches!(refused(&mut book, &hidden), Refusal::Invalid(_)));

    done(&mut book, Edit::DeleteRow { row });
    assert!(matches!(refused(&mut book, &typed(Some(row), 1, "0.5")), Refusal::Gone(_)));
    done(&mut book, Edit::HandIn);
    assert_eq!(refused(&mut book, &Edit::Undo), Refusal::HandedIn);
    done(&mut book, Edit::SendBack { note: "Time ten swings.".into() });
    done(&mut book, Edit::Undo);
    assert_eq!(book.state().record.rows[0].cells[&1].number.as_str(), "0.450");
}

#[test]
fn renaming_a_symbol_or_unit_carries_formulas_and_readings_along() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "0.450"));
    done(&mut book, worked("double", "D", "2*L"));
    done(&mut book, Edit::ChangeColumn { column: 1, text: text("thread", "h", "cm", "") });
    assert_eq!(book.state().record.by_symbol("D").unwrap().formula.as_ref().unwrap().text(), "2*h");
    assert_eq!(book.state().record.rows[0].cells[&1].number.as_str(), "45.0");
    assert_eq!(book.analyse().table.rows[0].cells[2].text(), "90.0");
    done(&mut book, Edit::Undo);
    assert_eq!(book.state().record.rows[0].cells[&1].number.as_str(), "0.450");
}

#[test]
fn the_tape_is_read_to_a_millimetre_or_a_tenth_by_eye() {
    let mut book = empty();
    done(&mut book, Edit::Run);
    let tape = |tenths| Edit::LogReading {
        row: None,
        column: 1,
        instrument: Instrument::Tape { run: 1, frame: 0, zero: [0.0, 0.0], reading: [0.0, -1.5027], tenths },
    };
    done(&mut book, tape(None));
    done(&mut book, tape(Some(7)));
    let texts: Vec<_> = book.analyse().table.rows.iter().map(|r| r.cells[0].text().to_owned()).collect();
    assert_eq!(texts, ["1.503", "1.5027"]);
}

#[test]
fn only_the_parts_an_edit_shows_in_are_refreshed() {
    let mut book = empty();
    done(&mut book, Edit::Write { field: TextField::Claim, text: "T grows".into(), was: String::new() });
    assert_eq!(book.parts_since(0), [Part::Header, Part::Texts]);
    done(&mut book, typed(None, 1, "1.0"));
    assert_eq!(book.parts_since(1), [Part::Header, Part::Record, Part::Graph, Part::Constant]);
    assert!(book.parts_since(2).is_empty());
}
