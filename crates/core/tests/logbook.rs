//! The logbook as the sum of its edits: undo restores exactly, a stored list gives the same logbook again,
//! refusals change nothing; and one whole lab from the first run to the constant.

use std::sync::Arc;

use proptest::prelude::*;
use zeitmass_core::fit::{Model, Shape, Weighting};
use zeitmass_core::graph::Gap;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{
    ColumnText, Edit, HeldValue, Instrument, Logbook, Part, Refusal, State, StatedQuantity, TextField, Tools,
};
use zeitmass_core::record::{ColumnKind, Record};
use zeitmass_core::result::{Agreement, Term};

fn empty() -> Logbook {
    let sheet = LabSheet::parse(include_str!("../../../labs/2.1-tower-pendulum.md")).unwrap();
    Logbook::new(Arc::new(sheet), 7)
}

fn text(name: &str, symbol: &str, unit: &str, formula: &str) -> ColumnText {
    let (name, symbol, unit, formula) = (name.into(), symbol.into(), unit.into(), formula.into());
    ColumnText { name, symbol, unit, formula, ..ColumnText::default() }
}

fn worked(name: &str, symbol: &str, formula: &str) -> Edit {
    Edit::AddColumn { table: 1, kind: ColumnKind::Worked, text: text(name, symbol, "", formula) }
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
        (kinds, column.clone()).prop_map(|(kind, text)| Edit::AddColumn { table: 1, kind, text }),
        (any_id(), column).prop_map(|(column, text)| Edit::ChangeColumn { column, text }),
        any_id().prop_map(|column| Edit::DeleteColumn { column }),
        prop::option::of(any_id()).prop_map(|above| Edit::AddRow { table: 1, above }),
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
        (any_id(), any::<bool>()).prop_map(|(row, aside)| Edit::SetAside { row, aside, why: "jolt".into() }),
        (prop::option::of(any_id()), prop::option::of(any_id())).prop_map(|(x, y)| Edit::ChooseAxes { graph: 1, x, y }),
        prop::sample::select(vec![None, Some(Model::Line), Some(Model::Proportional)])
            .prop_map(|model| Edit::ChooseModel { graph: 1, model }),
        formulas().prop_map(|t| Edit::StateLaw { result: 1, term: Term::Slope, typed: t.into() }),
        words().prop_map(|t| Edit::StateAccepted { result: 1, typed: t.into() }),
        any_table_edit(),
        any_graph_edit(),
        (prop::sample::select(TextField::ALL.to_vec()), words()).prop_map(|(field, t)| Edit::Write {
            field,
            text: t.into(),
            was: String::new()
        }),
        Just(Edit::Undo),
        Just(Edit::Redo),
    ]
}

fn any_table_edit() -> impl Strategy<Value = Edit> {
    let words = || prop::sample::select(vec!["0,45", "4", "L", "t10", "", "3 s", "5 %"]).prop_map(str::to_owned);
    let blocks =
        prop::sample::select(vec!["L (m)\tt10/s\n0,4\t1\n\t2,5", "1;2\n3;4", "m [kg],L\n1,2\n", "x\n1\ny", ""]);
    let table = || prop_oneof![Just(1u32), 1001u32..1030];
    prop_oneof![
        words().prop_map(|name| Edit::AddTable { name }),
        (table(), words()).prop_map(|(table, name)| Edit::NameTable { table, name }),
        table().prop_map(|table| Edit::DeleteTable { table }),
        (table(), prop::option::of(any_id())).prop_map(|(table, column)| Edit::GroupBy { table, column }),
        (any_id(), -2i32..3).prop_map(|(column, by)| Edit::MoveColumn { column, by }),
        (any_id(), -2i32..3).prop_map(|(row, by)| Edit::MoveRow { row, by }),
        (any_id(), words(), words(), 0u32..6).prop_map(|(column, from, to, count)| Edit::FillColumn {
            column,
            from,
            to,
            count
        }),
        any_id().prop_map(|column| Edit::AddRun { column }),
        (any_id(), prop::option::of(words())).prop_map(|(column, why)| Edit::SetRunAside { column, why }),
        (words(), words()).prop_map(|(stem, value)| Edit::StopWhen { table: 1, stem, rule: "change".into(), value }),
        (prop::option::of(table()), prop::option::of(any_id()), prop::option::of(any_id()), blocks).prop_map(
            |(table, row, column, text)| Edit::Paste { table, name: "block".into(), row, column, text: text.into() }
        ),
        (words(), words()).prop_map(|(symbol, typed)| Edit::HoldQuantity { symbol, name: "held".into(), typed }),
        words().prop_map(|symbol| Edit::ReleaseQuantity { symbol }),
        (0.0f64..2.0, any::<bool>()).prop_map(|(at, aside)| Edit::SetBoxAside {
            graph: 1,
            range: [[at, at + 1.0], [9.0, 0.0]],
            aside
        }),
    ]
}

fn any_graph_edit() -> impl Strategy<Value = Edit> {
    let words = || prop::sample::select(vec!["0,45", "4", "2 m", "", "3 s", "a*L^2", "L"]).prop_map(str::to_owned);
    let graph = || prop_oneof![9 => Just(1u32), 1 => 1001u32..1030];
    let models =
        prop::sample::select(Model::OFFERED.map(|m| m.name()).into_iter().chain(["", "formula"]).collect::<Vec<_>>());
    prop_oneof![
        Just(Edit::AddGraph),
        graph().prop_map(|graph| Edit::DeleteGraph { graph }),
        (graph(), words()).prop_map(|(graph, t)| Edit::NameGraph { graph, title: t.clone(), across: t.clone(), up: t }),
        (graph(), any_id(), any_id()).prop_map(|(graph, x, y)| Edit::AddSeries { graph, x, y }),
        (graph(), 0usize..2).prop_map(|(graph, index)| Edit::RemoveSeries { graph, index }),
        (graph(), any::<bool>(), any::<bool>(), words(), words()).prop_map(|(graph, up, logarithmic, from, to)| {
            Edit::SetAxis { graph, up, logarithmic, zero: !up, from, to }
        }),
        (graph(), prop::option::of(-1.0f64..9.0))
            .prop_map(|(graph, at)| Edit::Zoom { graph, range: at.map(|a| [[a, a + 1.0], [a, 2.0]]) }),
        (graph(), prop::sample::select(vec!["bars", "residuals", "band", "groups", "bells"]), any::<bool>())
            .prop_map(|(graph, what, on)| Edit::ShowOnGraph { graph, what: what.into(), on }),
        (
            graph(),
            prop::option::weighted(0.2, any_id()),
            models,
            words(),
            prop::sample::select(Weighting::ALL.to_vec())
        )
            .prop_map(|(graph, stretch, model, formula, weighting)| Edit::ChooseFit {
                graph,
                stretch,
                model: model.into(),
                formula,
                start: String::new(),
                weighting
            }),
        (graph(), words(), words()).prop_map(|(graph, from, to)| Edit::AddStretch { graph, from, to }),
        (graph(), any_id()).prop_map(|(graph, stretch)| Edit::DeleteStretch { graph, stretch }),
        (graph(), any::<bool>(), words()).prop_map(|(graph, back, typed)| Edit::LookAhead {
            graph,
            back,
            typed,
            stretch: None
        }),
        (graph(), prop::sample::select(Shape::ALL.to_vec()))
            .prop_map(|(graph, shape)| Edit::ChooseShape { graph, shape }),
        (prop::sample::select(Gap::ALL.to_vec()), words()).prop_map(|(gap, typed)| Edit::FillGap {
            graph: 1,
            gap,
            typed
        }),
        words().prop_map(|name| Edit::AddResult { name }),
        any_id().prop_map(|result| Edit::DeleteResult { result }),
        prop::sample::select(vec!["curve:1::slope", "curve:1:1003:intercept", "column:1", "calibration:1:", "?"])
            .prop_map(|from| Edit::ChooseSource { result: 1, from: from.into() }),
        words().prop_map(|typed| Edit::StateReading { result: 1, typed }),
        (prop::sample::select(Term::ALL.to_vec()), words()).prop_map(|(term, typed)| Edit::StateLaw {
            result: 1,
            term,
            typed
        }),
    ]
}

/// The first table.
fn record(book: &Logbook) -> &Record {
    &book.state().tables[0]
}

/// Text of a cell of the first table, by places.
fn cell(book: &Logbook, column: usize, row: usize) -> String {
    book.analyse().tables[0].text(column, row)
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

/// What was seen was seen: undo takes a run back, not that there was one.
fn seen(state: State) -> State {
    State { has_run: true, ..state }
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(192) })]

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
                if seen(taken_back.state().clone()) == seen(state) { steps += 1; }
            }
        }
        let after = book.state().clone();
        let mut undone = 0;
        while seen(book.state().clone()) != seen(before.clone()) && undone <= steps {
            book.apply(&Edit::Undo).unwrap();
            undone += 1;
        }
        prop_assert_eq!(seen(book.state().clone()), seen(before));
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
        let row = record(&book).rows.last().unwrap().id;
        done(
            &mut book,
            Edit::LogReading { row: Some(row), column: 2, instrument: Instrument::Split { run, start, end } },
        );
    }
    done(&mut book, worked("period", "T", "t10/10"));
    done(&mut book, worked("squared", "Tsq", "Tsq = T^2"));
    let squared = record(&book).by_symbol("Tsq").unwrap().id;
    done(&mut book, Edit::ChooseAxes { graph: 1, x: Some(1), y: Some(squared) });
    done(&mut book, Edit::ChooseModel { graph: 1, model: Some(Model::Line) });
    done(&mut book, Edit::StateLaw { result: 1, term: Term::Slope, typed: "4*pi^2/g".into() });

    done(&mut book, Edit::StateLaw { result: 1, term: Term::Up, typed: "T^2".into() });
    done(&mut book, Edit::StateLaw { result: 1, term: Term::Across, typed: "T".into() });
    done(&mut book, Edit::StateLaw { result: 1, term: Term::Intercept, typed: "0 [s^2]".into() });

    let analysis = book.analyse();
    let graph = analysis.graph(1).unwrap();
    assert_eq!((graph.points().count(), graph.y.unit.pretty().as_str()), (6, "s²"));
    assert_eq!(analysis.tables[0].text(0, 1), "0.600");
    let outcome = analysis.outcome(1).unwrap();
    let said: Vec<(&str, bool)> = outcome.terms.iter().map(|(t, (right, _))| (*t, *right)).collect();
    assert_eq!(said, [("across", false), ("intercept", true), ("up", true)], "{:?}", outcome.terms);
    let constant = outcome.constant.clone().unwrap().unwrap();
    assert_eq!((constant.symbol.as_str(), constant.unit.pretty().as_str()), ("g", "m/s²"));
    let comparison = outcome.comparison.clone().unwrap().unwrap();
    assert_eq!(comparison.difference.agreement, Agreement::Within, "{constant:?}");
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
    let row = record(&book).rows[0].id;
    assert_eq!(record(&book).rows[0].cells[&1].number.as_str(), "0.450");

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
    assert_eq!(record(&book).rows[0].cells[&1].number.as_str(), "0.450");
}

#[test]
fn a_unit_changes_what_is_shown_and_never_what_was_read() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "45,3 cm"));
    assert_eq!((cell(&book, 0, 0).as_str(), record(&book).rows[0].cells[&1].number.as_str()), ("0.453", "45.3"));
    done(&mut book, worked("double", "D", "2*L"));
    done(&mut book, Edit::ChangeColumn { column: 1, text: text("thread", "h", "km", "") });
    assert_eq!(record(&book).by_symbol("D").unwrap().formula.as_ref().unwrap().text(), "2*h");
    assert_eq!(cell(&book, 0, 0), "0.000453");
    done(&mut book, Edit::ChangeColumn { column: 1, text: text("thread", "h", "cm", "") });
    assert_eq!((cell(&book, 0, 0), cell(&book, 2, 0)), ("45.3".into(), "90.6".into()));
    let wrong = refused(&mut book, &Edit::ChangeColumn { column: 1, text: text("thread", "h", "s", "") });
    assert!(matches!(wrong, Refusal::WrongUnit { .. }));
    // What a person saw is compared, not what is stored.
    let row = record(&book).rows[0].id;
    done(&mut book, Edit::TypeCell { row: Some(row), column: 1, typed: "50".into(), was: "45.3".into() });
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Undo);
    assert_eq!(cell(&book, 0, 0), "0.453");
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
    assert_eq!([cell(&book, 0, 0), cell(&book, 0, 1)], ["1.503", "1.5027"]);
}

#[test]
fn edits_stored_before_there_were_several_tables_are_still_understood() {
    let old = r#"[
        {"edit":"add_column","kind":"worked","text":{"name":"period","symbol":"T","unit":"","formula":"t10/10"}},
        {"edit":"add_row"},
        {"edit":"type_cell","row":1002,"column":2,"typed":"20.10","was":""},
        {"edit":"set_aside","row":1002,"aside":true},
        {"edit":"choose_axes","x":1,"y":1001},
        {"edit":"choose_model","model":"proportional"},
        {"edit":"state_law","typed":"4*pi^2/g"},
        {"edit":"state_accepted","typed":"9.8 m/s^2"}]"#;
    let mut book = empty();
    for edit in serde_json::from_str::<Vec<Edit>>(old).unwrap() {
        done(&mut book, edit);
    }
    assert_eq!(cell(&book, 2, 0), "2.010");
    assert!(record(&book).rows[0].aside);
    assert_eq!(book.state().graphs[0].fit.as_ref().unwrap().model, Model::Proportional);
    assert_eq!(book.state().results[0].accepted.as_ref().unwrap().0.as_str(), "9.8");
}

#[test]
fn only_the_parts_an_edit_shows_in_are_refreshed() {
    let mut book = empty();
    done(&mut book, Edit::Write { field: TextField::Claim, text: "T grows".into(), was: String::new() });
    assert_eq!(book.parts_since(0), [Part::Header, Part::Texts]);
    done(&mut book, typed(None, 1, "1.0"));
    let shown = [Part::Header, Part::Forecast, Part::Record, Part::Graph, Part::Strip, Part::Constant];
    assert_eq!(book.parts_since(1), shown);
    assert!(book.parts_since(2).is_empty());
}

fn paste(table: Option<u32>, block: &str) -> Edit {
    Edit::Paste { table, name: "Second table".into(), row: None, column: None, text: block.into() }
}

#[test]
fn a_block_finds_its_columns_by_their_heads_and_makes_new_ones() {
    let mut book = empty();
    let word = book
        .apply(&paste(Some(1), "L/cm\tten swings (s)\tload (washers)\n80,0\t18,01\t3\n90,0\t\t4\n"))
        .unwrap()
        .unwrap();
    assert_eq!(word, "2 rows and 3 columns were pasted; 1 column new.");
    let table = &book.analyse().tables[0];
    assert_eq!([table.text(0, 0), table.text(1, 0), table.text(2, 1)], ["0.800", "18.01", "4"]);
    assert_eq!(table.columns[2].unit.as_ref().unwrap().pretty(), "washers");
    assert_eq!(table.text(1, 1), "", "an empty cell stays empty");

    // Without heads the block goes where the cursor stands.
    let row = record(&book).rows[1].id;
    done(
        &mut book,
        Edit::Paste {
            table: Some(1),
            name: String::new(),
            row: Some(row),
            column: Some(2),
            text: "19,10\t7\n20,2\t8".into(),
        },
    );
    assert_eq!([cell(&book, 1, 1), cell(&book, 2, 2)], ["19.10", "8"]);
    let wide = refused(
        &mut book,
        &Edit::Paste { table: Some(1), name: String::new(), row: None, column: Some(2), text: "1\t2\t3".into() },
    );
    assert!(wide.to_string().contains("3 columns wide") && wide.to_string().contains("Nothing was pasted"), "{wide}");
    let bad = refused(&mut book, &paste(Some(1), "L (m)\n0.5\nlong"));
    assert!(bad.to_string().contains("Row 2 of the block, L: “long”"), "{bad}");
    let unit = refused(&mut book, &paste(Some(1), "L (s)\n0.5"));
    assert!(matches!(unit, Refusal::WrongUnit { .. }));

    done(&mut book, paste(None, "h (m),t (s),set aside\n1.0,0.45,\n2.0,0.64,yes"));
    assert_eq!((book.state().tables.len(), book.state().tables[1].rows[1].aside), (2, true));
    refused(&mut book, &paste(None, "h (m)\n1.0"));
    // One step takes a whole block back.
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Undo);
    assert_eq!((book.state().tables.len(), cell(&book, 1, 1)), (1, String::new()));
}

#[test]
fn a_set_column_is_filled_with_equal_intervals_and_a_word_about_their_number() {
    let mut book = empty();
    done(&mut book, typed(None, 2, "18.0"));
    let fill = |count| Edit::FillColumn { column: 1, from: "0.2".into(), to: "200 cm".into(), count };
    assert_eq!(book.apply(&fill(7)).unwrap(), None);
    let texts: Vec<String> = (0..7).map(|i| cell(&book, 0, i)).collect();
    assert_eq!(texts, ["0.2", "0.5", "0.8", "1.1", "1.4", "1.7", "2.0"]);
    assert_eq!(cell(&book, 1, 0), "18.0", "rows that are there are filled first");
    done(&mut book, Edit::Undo);
    assert!(book.apply(&fill(3)).unwrap().unwrap().contains("at least 6"));
    done(&mut book, Edit::Undo);
    assert!(book.apply(&fill(30)).unwrap().unwrap().contains("6 to 15 suffice"));
    refused(&mut book, &Edit::FillColumn { column: 2, from: "1".into(), to: "2".into(), count: 4 });
    refused(&mut book, &Edit::FillColumn { column: 1, from: "1 s".into(), to: "2".into(), count: 4 });
}

#[test]
fn runs_are_taken_together_row_by_row_and_one_is_set_aside_with_a_reason() {
    let mut book = empty();
    done(&mut book, paste(Some(1), "L,t10\n0.5,14.1\n1.0,20.0"));
    assert!(book.apply(&Edit::AddRun { column: 2 }).unwrap().unwrap().contains("mean(t10)"));
    done(&mut book, Edit::AddRun { column: 2 });
    let runs: Vec<(u32, String)> = record(&book).runs("t10").map(|c| (c.id, c.symbol.clone())).collect();
    assert_eq!(runs.iter().map(|r| r.1.as_str()).collect::<Vec<_>>(), ["t10_1", "t10_2", "t10_3"]);
    done(&mut book, worked("mean of runs", "m", "mean(t10)"));
    done(&mut book, worked("sum of runs", "S", "sum(t10)"));
    done(&mut book, worked("running", "R", "runsum(sum(t10))"));
    let rows: Vec<u32> = record(&book).rows.iter().map(|r| r.id).collect();
    for (run, row, value) in [(1, 0, "14.3"), (1, 1, "20.2"), (2, 0, "19.9"), (2, 1, "29.9")] {
        done(&mut book, typed(Some(rows[row]), runs[run].0, value));
    }
    let texts = |book: &Logbook| [4, 5, 6].map(|c| [cell(book, c, 0), cell(book, c, 1)]);
    assert_eq!(texts(&book), [["16.10", "23.37"], ["48.3", "70.1"], ["48.3", "118.4"]]);
    let stop = |rule: &str, value: &str| Edit::StopWhen {
        table: 1,
        stem: "t10".into(),
        rule: rule.into(),
        value: value.into(),
    };
    done(&mut book, stop("change", "2 %"));
    let standing = book.analyse().tables[0].standing().unwrap();
    assert!(!standing.met && standing.change.unwrap().1 == 2, "{standing:?}");

    assert!(
        refused(&mut book, &Edit::SetRunAside { column: runs[2].0, why: Some(" ".into()) }).to_string().contains("why")
    );
    done(&mut book, Edit::SetRunAside { column: runs[2].0, why: Some("the stopwatch was late".into()) });
    assert_eq!(texts(&book), [["14.20", "20.10"], ["28.4", "40.2"], ["28.4", "68.6"]]);
    assert_eq!(cell(&book, 3, 0), "19.9", "still there");
    let standing = book.analyse().tables[0].standing().unwrap();
    assert!(
        standing.met && standing.runs == 2 && (standing.change.unwrap().0 - 0.1 / 14.15 * 100.0).abs() < 1e-9,
        "{standing:?}"
    );
    done(&mut book, stop("runs", "3"));
    assert!(!book.analyse().tables[0].standing().unwrap().met);
    done(&mut book, Edit::SetRunAside { column: runs[2].0, why: None });
    assert!(book.analyse().tables[0].standing().unwrap().met);
}

#[test]
fn groups_have_their_own_rates_and_their_own_series() {
    let mut book = empty();
    let block = "fluid\tx (m)\tt (s)\n1\t0,0\t0\n1\t1,0\t1\n2\t0,0\t0\n1\t2,0\t2\n2\t3,0\t1\n2\t6,0\t2";
    done(&mut book, paste(None, block));
    let table = &book.state().tables[1];
    let (id, fluid, x, t) = (table.id, table.columns[0].id, table.columns[1].id, table.columns[2].id);
    done(
        &mut book,
        Edit::AddColumn { table: id, kind: ColumnKind::Worked, text: text("velocity", "v", "", "rate(x, t)") },
    );
    done(&mut book, Edit::GroupBy { table: id, column: Some(fluid) });
    done(&mut book, Edit::ChooseAxes { graph: 1, x: Some(t), y: Some(x) });
    done(&mut book, Edit::ChooseModel { graph: 1, model: Some(Model::Line) });
    let analysis = book.analyse();
    let v = &analysis.tables[1].columns[3];
    let values: Vec<f64> = v.cells.iter().map(|c| c.value().unwrap().value).collect();
    assert_eq!(values, [1.0, 1.0, 3.0, 1.0, 3.0, 3.0]);
    let graph = analysis.graph(1).unwrap();
    assert_eq!(graph.series.iter().map(|s| s.label.as_str()).collect::<Vec<_>>(), ["fluid = 1", "fluid = 2"]);
    let slopes: Vec<f64> = graph.fits.iter().map(|f| f.outcome.as_ref().unwrap().slope().unwrap().value).collect();
    assert_eq!(slopes, [1.0, 3.0]);
    refused(&mut book, &Edit::ChooseAxes { graph: 1, x: Some(1), y: Some(x) });
}

/// x = 0.5 t up to 2 s, then 2 − 0.25 t: a carriage that meets a buffer.
fn impact() -> Logbook {
    let mut book = empty();
    let rows: Vec<String> = (0..=16)
        .map(|i| f64::from(i) * 0.25)
        .map(|t| format!("{t}\t{:.3}", if t <= 2.0 { 0.5 * t } else { 1.5 - 0.25 * t }))
        .collect();
    done(&mut book, paste(None, &format!("t (s)\tx (m)\n{}", rows.join("\n"))));
    let table = &book.state().tables[1];
    let (t, x) = (table.columns[0].id, table.columns[1].id);
    done(&mut book, Edit::ChooseAxes { graph: 1, x: Some(t), y: Some(x) });
    book
}

#[test]
fn stretches_before_and_after_an_impact_have_slopes_of_their_own() {
    let mut book = impact();
    for (from, to) in [("0", "2"), ("4 s", "2100 ms")] {
        done(&mut book, Edit::AddStretch { graph: 1, from: from.into(), to: to.into() });
    }
    let analysis = book.analyse();
    let graph = analysis.graph(1).unwrap();
    let fits: Vec<_> = graph.fits.iter().map(|f| f.outcome.as_ref().unwrap()).collect();
    assert_eq!(fits.iter().map(|f| f.n).collect::<Vec<_>>(), [9, 8]);
    let (difference, unit) = zeitmass_core::result::compare_slopes(fits[0], fits[1]).unwrap();
    assert!((difference.value - 0.75).abs() < 1e-3 && unit.pretty() == "m/s", "{difference:?}");
    assert_eq!(difference.agreement, Agreement::Outside);
    refused(&mut book, &Edit::AddStretch { graph: 1, from: "1".into(), to: "1".into() });
    refused(&mut book, &Edit::AddStretch { graph: 1, from: "1 m".into(), to: "2".into() });
    // A box around two points of the first stretch.
    done(&mut book, Edit::SetBoxAside { graph: 1, range: [[0.9, 1.3], [0.0, 5.0]], aside: true });
    assert_eq!(book.analyse().graph(1).unwrap().fits[0].outcome.as_ref().unwrap().n, 7);
    let second = book.state().graphs[0].stretches[1].id;
    let stretch = Edit::ChooseSource { result: 1, from: format!("curve:1:{second}:slope") };
    done(&mut book, stretch);
    done(&mut book, Edit::StateLaw { result: 1, term: Term::Slope, typed: "v".into() });
    let found = book.analyse().outcome(1).unwrap().constant.clone().unwrap().unwrap();
    assert!((found.value + 0.25).abs() < 1e-3 && found.unit.pretty() == "m/s");
}

#[test]
fn a_curve_is_asked_forwards_and_backwards_and_says_how_far_out_it_is() {
    let mut book = impact();
    done(&mut book, Edit::AddStretch { graph: 1, from: "0".into(), to: "2".into() });
    done(&mut book, Edit::LookAhead { graph: 1, back: false, typed: "0,1 min".into(), stretch: None });
    let looked = book.analyse().graph(1).unwrap().look.clone().unwrap().unwrap();
    assert!((looked.found[0].0 - 3.0).abs() < 0.01 && (looked.outside - 2.0).abs() < 1e-9, "{looked:?}");
    done(&mut book, Edit::LookAhead { graph: 1, back: true, typed: "75 cm".into(), stretch: None });
    let looked = book.analyse().graph(1).unwrap().look.clone().unwrap().unwrap();
    assert!((looked.found[0].0 - 1.5).abs() < 0.01 && looked.outside == 0.0, "{looked:?}");
    refused(&mut book, &Edit::LookAhead { graph: 1, back: true, typed: "75 s".into(), stretch: None });
}

#[test]
fn a_shape_of_the_strip_makes_its_column_once_and_puts_it_on_the_axis() {
    let mut book = empty();
    let rows: Vec<String> =
        (4..12).map(|i| f64::from(i) * 0.1).map(|t| format!("{t:.1}\t{:.3}", 4.905 * t * t)).collect();
    done(&mut book, paste(None, &format!("t (s)\th (m)\n{}", rows.join("\n"))));
    let columns: Vec<u32> = book.state().tables[1].columns.iter().map(|c| c.id).collect();
    done(&mut book, Edit::ChooseAxes { graph: 1, x: Some(columns[0]), y: Some(columns[1]) });
    let choose = |shape| Edit::ChooseShape { graph: 1, shape };
    done(&mut book, choose(Shape::Square));
    let made = book.state().tables[1].columns.last().unwrap().clone();
    assert_eq!((made.symbol.as_str(), made.formula.as_ref().unwrap().text()), ("t_sq", "t^2"));
    let analysis = book.analyse();
    let strip = book.strip(&analysis, 1).unwrap();
    assert_eq!((strip.chosen, strip.symbols.0.as_str()), (Shape::Square, "t"));
    let slope = analysis.graph(1).unwrap().first_fit().unwrap().slope().unwrap().clone();
    assert!((slope.value - 4.905).abs() < 0.005 && slope.unit.pretty() == "m/s²");
    done(&mut book, choose(Shape::Power));
    assert_eq!(book.state().tables[1].columns.len(), 5, "two logarithms");
    let slope = book.analyse().graph(1).unwrap().first_fit().unwrap().slope().unwrap().clone();
    assert_eq!(zeitmass_core::result::simple_fraction(slope.value, slope.u).fraction, Some((2, 1)), "{slope:?}");
    done(&mut book, choose(Shape::Square));
    assert_eq!(book.state().tables[1].columns.len(), 5, "found again");
}

#[test]
fn held_quantities_serve_formulas_and_laws() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "0.450"));
    let hold = |symbol: &str, typed: &str| Edit::HoldQuantity {
        symbol: symbol.into(),
        name: "bob".into(),
        typed: typed.into(),
    };
    done(&mut book, hold("b", "40 cm"));
    done(&mut book, worked("whole length", "W", "L + b + row*1 [cm]"));
    assert_eq!(cell(&book, 2, 0), "0.86", "as precise as the 40 cm");
    assert!(matches!(book.state().held.as_slice(), [StatedQuantity { symbol, .. }] if symbol == "b"));
    refused(&mut book, &hold("L", "3 m"));
    refused(&mut book, &hold("c", "heavy"));
    refused(&mut book, &Edit::AddColumn { table: 1, kind: ColumnKind::Read, text: text("again", "b", "m", "") });
    done(&mut book, Edit::ReleaseQuantity { symbol: "b".into() });
    assert!(cell(&book, 2, 0).is_empty());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn a_logbook_brought_back_from_a_file_holds_the_same(
        edits in prop::collection::vec(any_edit(), 0..60), others in prop::collection::vec(any_edit(), 0..20),
    ) {
        let mut book = empty();
        play(&mut book, edits);
        let file = serde_json::to_string(book.state()).unwrap();
        let content: State = serde_json::from_str(&file).unwrap();
        let mut other = empty();
        play(&mut other, others);
        let before = other.state().clone();
        other.apply(&Edit::Restore { content: Box::new(content) }).unwrap();
        // Ids differ, nothing else does: the same tables, texts and graphs come out.
        let shown = |b: &Logbook| {
            let a = b.analyse();
            let tables: Vec<Vec<String>> = a.tables.iter().map(|t| (0..t.columns.len()).flat_map(|c| (0..t.rows.len()).map(move |r| (c, r))).map(|(c, r)| t.text(c, r)).collect()).collect();
            let points: Vec<Vec<(f64, f64)>> = a.graphs.iter().map(|(_, g)| g.iter().flat_map(|g| g.points().map(|p| (p.x, p.y)).collect::<Vec<_>>()).collect()).collect();
            (tables, points, b.state().texts.clone(), b.state().runs.clone(), a.results.len())
        };
        prop_assert_eq!(shown(&other), shown(&book));
        // And it is one step to go back to what was there.
        other.apply(&Edit::Undo).unwrap();
        prop_assert_eq!(seen(other.state().clone()), seen(before));
    }
}

#[test]
fn a_file_changed_by_hand_is_refused() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "0.450"));
    let good = serde_json::to_value(book.state()).unwrap();
    type Change = fn(&mut serde_json::Value);
    let changes: [(&str, Change); 6] = [
        ("not free", |v| v["settings"]["gravity"] = serde_json::json!({"quantity": ["9.0", "m/s^2"]})),
        ("symbol", |v| v["tables"][0]["columns"][0]["symbol"] = "4".into()),
        ("sheet asks for", |v| v["results"][0]["id"] = 7.into()),
        ("does not fit", |v| v["tables"][0]["rows"][0]["cells"]["1"]["unit"] = "kg".into()),
        ("not there", |v| v["graphs"][0]["x"] = 99.into()),
        ("too few", |v| v["tables"] = serde_json::json!([])),
    ];
    for (reason, change) in changes {
        let mut bad = good.clone();
        change(&mut bad);
        let content: State = serde_json::from_value(bad).unwrap();
        let refusal = refused(&mut empty(), &Edit::Restore { content: Box::new(content) }).to_string();
        assert!(refusal.contains(reason), "{reason}: {refusal}");
    }
}

#[test]
fn what_the_sheet_gives_stays_and_its_gaps_and_strip_open_in_their_time() {
    let source = include_str!("../../../labs/2.1-tower-pendulum.md");
    let rules = "strip = \"after attempt\"\nread_out = \"gaps\"\ntrials = 6";
    let given = "[[columns]]\nkind = \"given\"\nname = \"bob\"\nsymbol = \"m\"\nunit = \"g\"\nvalues = [\"50\", \"100\"]\n\n[goal]";
    let sheet = LabSheet::parse(&source.replacen("trials = 6", rules, 1).replacen("[goal]", given, 1)).unwrap();
    let mut book = Logbook::new(Arc::new(sheet), 1);
    assert_eq!((record(&book).rows.len(), cell(&book, 2, 1).as_str(), record(&book).trials()), (2, "100", 0));
    let row = record(&book).rows[0].id;
    let write = Edit::TypeCell { row: Some(row), column: 3, typed: "60".into(), was: "50".into() };
    assert!(refused(&mut book, &write).to_string().contains("given by the sheet"));
    refused(&mut book, &Edit::DeleteColumn { column: 3 });
    refused(&mut book, &Edit::DeleteRow { row });

    done(&mut book, paste(Some(1), "L (m)\tt10 (s)\n0.4\t12.7\n0.8\t17.9\n1.2\t22.0\n1.6\t25.4"));
    done(&mut book, Edit::ChooseAxes { graph: 1, x: Some(1), y: Some(2) });
    assert!(!book.strip_is_open());
    refused(&mut book, &Edit::ChooseShape { graph: 1, shape: Shape::SquareUp });
    done(&mut book, worked("square", "Q", "(t10/10)^2"));
    let square = record(&book).by_symbol("Q").unwrap().id;
    done(&mut book, Edit::ChooseAxes { graph: 1, x: Some(1), y: Some(square) });
    done(&mut book, Edit::ChooseModel { graph: 1, model: Some(Model::Line) });
    assert!(book.strip_is_open());
    for (gap, typed) in [(Gap::Across, "L"), (Gap::Up, "L"), (Gap::Slope, "40.4"), (Gap::SlopeUnit, "s^2")] {
        done(&mut book, Edit::FillGap { graph: 1, gap, typed: typed.into() });
    }
    let analysis = book.analyse();
    let graph = analysis.graph(1).unwrap();
    let out =
        zeitmass_core::result::read_out(graph.first_fit().unwrap(), &graph.x, &graph.y, &book.state().graphs[0].gaps)
            .unwrap();
    let said: Vec<&str> = out.gaps.values().map(|(_, f)| f.words()).filter(|w| !w.is_empty()).collect();
    assert_eq!(
        said,
        [
            "agrees with the line",
            "this quantity is on the other axis",
            "the digits agree, the decimal point does not",
            "agrees with the line"
        ]
    );
}

#[test]
fn draws_agree_with_derivatives_where_a_formula_is_nearly_straight() {
    let mut book = empty();
    done(&mut book, paste(Some(1), "L,t10\n0.500,14.10\n1.000,20.00\n1.500,24.50"));
    done(&mut book, worked("gravity", "G", "4*pi^2*L/(t10/10)^2"));
    let id = record(&book).by_symbol("G").unwrap().id;
    let held = book.held_quantities();
    let drawn = zeitmass_core::record::simulate(record(&book), &held, id, 1).unwrap();
    let analysis = book.analyse();
    let cells = &analysis.tables[0].columns[2].cells;
    assert_eq!(drawn.len(), 3);
    for (s, cell) in drawn.iter().zip(cells.iter()) {
        let v = cell.value().unwrap();
        assert!((s.u / v.u() - 1.0).abs() < 0.03 && (s.mean - v.value).abs() < 0.05 * v.u(), "{s:?} {v:?}");
        assert!(s.interval.0 < v.value && v.value < s.interval.1 && s.draws == 20_000);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn a_fit_does_not_care_for_units_or_the_order_of_rows(
        points in prop::collection::vec((0.1f64..5.0, -3.0f64..3.0), 6..20), a in -2.0f64..2.0, turn in 0usize..20,
        name in prop::sample::select(vec!["line", "proportional", "quadratic", "root", "inverse"]),
    ) {
        use zeitmass_core::fit::{Data, fit};
        use zeitmass_core::quantity::Unit;
        prop_assume!(points.iter().any(|p| (p.0 - points[0].0).abs() > 0.5));
        let model = Model::named(name).unwrap();
        let unit = |u: &str| Unit::parse(u).unwrap();
        let points: Vec<(f64, f64)> = points.into_iter().map(|(x, e)| (x, 3.0 + a * x + e)).collect();
        let once = fit(&Data::of(&points), &model, Weighting::Equal, (&[unit("m")], &unit("s"))).unwrap();
        let mut other: Vec<(f64, f64)> = points.iter().map(|(x, y)| (x * 100.0, y * 1000.0)).collect();
        let middle = turn % other.len();
        other.rotate_left(middle);
        let twice = fit(&Data::of(&other), &model, Weighting::Equal, (&[unit("cm")], &unit("ms"))).unwrap();
        for (p, q) in once.parameters.iter().zip(&twice.parameters) {
            let (v, w) = (p.value * p.unit.size(), q.value * q.unit.size());
            let scale = p.u * p.unit.size() + v.abs();
            prop_assert!((v - w).abs() <= 1e-7 * scale, "{} {v} {w}", p.symbol);
            prop_assert!((p.u * p.unit.size() - q.u * q.unit.size()).abs() <= 1e-7 * scale);
            prop_assert!(p.unit.same_dimension(&q.unit));
        }
        prop_assert!((once.r2 - twice.r2).abs() < 1e-9);
    }
}
