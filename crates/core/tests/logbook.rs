//! The logbook as the sum of its edits: undo restores exactly, a stored list gives the same logbook again,
//! refusals change nothing; and one whole lab from the first run to the constant.

mod common;

use common::{cell, done, empty, record, refused, text, typed, worked};
use proptest::prelude::*;
use zeitmass_core::fit::{Model, Shape, Weighting};
use zeitmass_core::graph::Gap;
use zeitmass_core::logbook::{Edit, HeldValue, Instrument, Logbook, Part, Refusal, State, TextField, Tools};
use zeitmass_core::record::ColumnKind;
use zeitmass_core::result::{Agreement, Term};

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
        {"edit":"state_accepted","typed":"9.8 m/s^2"},
        {"edit":"run"},
        {"edit":"log_reading","row":null,"column":2,"instrument":{"instrument":"moment","trail":null,"frame":150,"what":"time","mass":""}}]"#;
    let mut book = empty();
    for edit in serde_json::from_str::<Vec<Edit>>(old).unwrap() {
        done(&mut book, edit);
    }
    assert_eq!(cell(&book, 2, 0), "2.010");
    assert!(record(&book).rows[0].aside);
    assert_eq!(book.state().graphs[0].fit.as_ref().unwrap().model, Model::Proportional);
    assert_eq!(book.state().results[0].accepted.as_ref().unwrap().0.as_str(), "9.8");
    // A moment named neither its run nor its body.
    assert_eq!(record(&book).rows[1].cells[&2].si(), 1.5);
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
