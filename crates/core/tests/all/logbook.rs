//! The logbook as the sum of its edits: undo restores exactly, a stored list gives the same logbook again,
//! refusals change nothing; and one whole lab from the first run to the constant.

use std::collections::BTreeSet;

use crate::common::{cell, done, empty, record, refused, text, typed, worked};
use proptest::prelude::*;
use zeitmass_core::fit::{Model, Shape, Weighting};
use zeitmass_core::graph::Gap;
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::{
    CurveText, Edit, Flaw, FootageEdit, FootageRefusal, GraphEdit, GraphShows, HeldValue, Instrument, Kept, Kind,
    Logbook, OfficeEdit, OfficeRefusal, PAGE_ROWS, Part, RecordEdit, Refusal, ResultEdit, ResultSource, RowAt, RunEdit,
    RunState, State, StopBy, TermVerdict, TextField, ValueError, WritingEdit,
};
use zeitmass_core::motion::Tools;
use zeitmass_core::quantity::{Decimal, Footage};
use zeitmass_core::record::{ColumnKind, Stop};
use zeitmass_core::result::{Agreement, Term};
use zeitmass_core::rigs::SettingError;

/// Ids that edits may hit: the sheet's columns, and rows or columns made by the first edits.
fn any_id() -> impl Strategy<Value = u32> {
    prop_oneof![1u32..4, 1000u32..1025]
}

/// A row that is there or not, one begun on a page, or a new one.
fn any_row() -> impl Strategy<Value = RowAt> {
    prop_oneof![
        any_id().prop_map(RowAt::There),
        (0u32..6).prop_map(|k| RowAt::Begun(PAGE_ROWS - 1 + k)),
        Just(RowAt::Below)
    ]
}

fn any_edit() -> impl Strategy<Value = Edit> {
    let words = || prop::sample::select(vec!["0,45", "1.50", "20.10", "x", "", "3 s", "80 cm", "-1"]);
    let symbols = || prop::sample::select(vec!["L", "t10", "T", "Tsq", "4", "pi"]);
    let formulas = || prop::sample::select(vec!["t10/10", "T^2", "L + t10", "Tsq*L", "sqrt(L)", "(", ""]);
    let units = prop::sample::select(vec!["", "m", "cm", "s", "kg", "?"]);
    let kinds = prop::sample::select(vec![ColumnKind::Set, ColumnKind::Read, ColumnKind::Worked]);
    let column = (symbols(), units, formulas()).prop_map(|(s, u, f)| text("name", s, u, f));
    let instrument = prop_oneof![
        (0u32..3, 0u32..4100, 0u32..4100).prop_map(|(run, start, end)| Instrument::Split {
            of: Footage::Run(run),
            start,
            end
        }),
        (prop::option::of(0u8..11), -2.0f64..2.0).prop_map(|(tenths, y)| Instrument::Tape {
            of: Footage::Run(1),
            frame: 3,
            zero: [0.0, 0.0],
            reading: [0.1, y],
            tenths
        }),
        prop::sample::select(vec!["length", "gravity", "drag"]).prop_map(|n| Instrument::Setting { name: n.into() }),
    ];
    prop_oneof![
        (prop::sample::select(vec!["length", "angle", "gravity"]), words())
            .prop_map(|(n, t)| Edit::Run(RunEdit::SetSetting { name: n.into(), typed: t.into() })),
        Just(Edit::Run(RunEdit::Run)),
        (0u32..4100, prop::option::of(0u32..4000)).prop_map(|(zero, start)| Edit::Footage(FootageEdit::PlaceTools {
            on: Footage::Run(1),
            tools: Tools { zero, start, end: None, tape: Some([[0.0, 0.0], [0.0, -1.0]]) }
        })),
        (kinds, column.clone()).prop_map(|(kind, text)| Edit::Record(RecordEdit::AddColumn { table: 1, kind, text })),
        (any_id(), column).prop_map(|(column, text)| Edit::Record(RecordEdit::ChangeColumn { column, text })),
        any_id().prop_map(|column| Edit::Record(RecordEdit::DeleteColumn { column })),
        prop::option::of(any_id()).prop_map(|above| Edit::Record(RecordEdit::AddRow { table: 1, above })),
        any_id().prop_map(|row| Edit::Record(RecordEdit::DeleteRow { row })),
        (any_row(), any_id(), words()).prop_map(|(row, column, t)| Edit::Record(RecordEdit::TypeCell {
            row,
            column,
            typed: t.into(),
            was: None
        })),
        (any_row(), any_id(), instrument).prop_map(|(row, column, instrument)| Edit::Record(RecordEdit::LogReading {
            row,
            column,
            instrument
        })),
        (any_id(), any::<bool>()).prop_map(|(row, aside)| Edit::Record(RecordEdit::SetAside {
            row,
            aside,
            why: "jolt".into()
        })),
        (prop::option::of(any_id()), prop::option::of(any_id()))
            .prop_map(|(x, y)| Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x, y })),
        prop::sample::select(vec![None, Some(Model::Line), Some(Model::Proportional)])
            .prop_map(|model| Edit::Graph(GraphEdit::ChooseModel { graph: 1, model })),
        formulas().prop_map(|t| Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: t.into() })),
        words().prop_map(|t| Edit::Result(ResultEdit::StateAccepted { result: 1, typed: t.into() })),
        any_table_edit(),
        any_graph_edit(),
        (prop::sample::select(TextField::ALL.to_vec()), words())
            .prop_map(|(field, t)| Edit::Writing(WritingEdit::Write { field, text: t.into(), was: String::new() })),
        Just(Edit::Undo),
        Just(Edit::Redo),
    ]
}

fn any_table_edit() -> impl Strategy<Value = Edit> {
    let words = || prop::sample::select(vec!["0,45", "4", "L", "t10", "", "3 s", "5 %"]).prop_map(str::to_owned);
    let blocks =
        prop::sample::select(vec!["L (m)\tt10/s\n0,4\t1\n\t2,5", "1;2\n3;4", "m [kg],L\n1,2\n", "x\n1\ny", ""]);
    let table = || prop_oneof![Just(1u32), 1000u32..1025];
    prop_oneof![
        words().prop_map(|name| Edit::Record(RecordEdit::AddTable { name })),
        (table(), words()).prop_map(|(table, name)| Edit::Record(RecordEdit::NameTable { table, name })),
        table().prop_map(|table| Edit::Record(RecordEdit::DeleteTable { table })),
        (table(), prop::option::of(any_id()))
            .prop_map(|(table, column)| Edit::Record(RecordEdit::GroupBy { table, column })),
        (any_id(), -2i32..3).prop_map(|(column, by)| Edit::Record(RecordEdit::MoveColumn { column, by })),
        (any_id(), -2i32..3).prop_map(|(row, by)| Edit::Record(RecordEdit::MoveRow { row, by })),
        (any_id(), words(), words(), 0u32..6)
            .prop_map(|(column, from, to, count)| Edit::Record(RecordEdit::FillColumn { column, from, to, count })),
        any_id().prop_map(|column| Edit::Record(RecordEdit::AddRun { column })),
        (any_id(), prop::option::of(words()))
            .prop_map(|(column, why)| Edit::Record(RecordEdit::SetRunAside { column, why })),
        (words(), words(), prop::sample::select(vec![StopBy::Runs, StopBy::Change]))
            .prop_map(|(stem, value, rule)| Edit::Record(RecordEdit::StopWhen { table: 1, stem, rule, value })),
        (prop::option::of(table()), any_row(), prop::option::of(any_id()), blocks).prop_map(
            |(table, row, column, text)| Edit::Record(RecordEdit::Paste {
                table,
                name: "block".into(),
                row,
                column,
                text: text.into()
            })
        ),
        (words(), words()).prop_map(|(symbol, typed)| Edit::Record(RecordEdit::HoldQuantity {
            symbol,
            name: "held".into(),
            typed
        })),
        words().prop_map(|symbol| Edit::Record(RecordEdit::ReleaseQuantity { symbol })),
        (0.0f64..2.0, any::<bool>()).prop_map(|(at, aside)| Edit::Record(RecordEdit::SetBoxAside {
            graph: 1,
            range: [[at, at + 1.0], [9.0, 0.0]],
            aside
        })),
    ]
}

fn any_graph_edit() -> impl Strategy<Value = Edit> {
    let words = || prop::sample::select(vec!["0,45", "4", "2 m", "", "3 s", "a*L^2", "L"]).prop_map(str::to_owned);
    let graph = || prop_oneof![9 => Just(1u32), 1 => 1000u32..1025];
    let formulas = words().prop_map(|formula| CurveText::Formula { formula, start: "a=2".into() });
    let curves = prop_oneof![
        Just(CurveText::None),
        prop::sample::select(Model::OFFERED.to_vec()).prop_map(CurveText::Offered),
        formulas,
    ];
    let shows = vec![GraphShows::Bars, GraphShows::Residuals, GraphShows::Band, GraphShows::Groups];
    let curve = |stretch| ResultSource::Curve { graph: 1, stretch, series: None, parameter: "slope".into() };
    let calibration = ResultSource::Calibration { graph: 1, stretch: None };
    let sources = vec![curve(None), curve(Some(1003)), ResultSource::Column { column: 1 }, calibration];
    prop_oneof![
        Just(Edit::Graph(GraphEdit::AddGraph)),
        graph().prop_map(|graph| Edit::Graph(GraphEdit::DeleteGraph { graph })),
        (graph(), words()).prop_map(|(graph, t)| Edit::Graph(GraphEdit::NameGraph {
            graph,
            title: t.clone(),
            across: t.clone(),
            up: t
        })),
        (graph(), any_id(), any_id()).prop_map(|(graph, x, y)| Edit::Graph(GraphEdit::AddSeries { graph, x, y })),
        (graph(), 0usize..2).prop_map(|(graph, index)| Edit::Graph(GraphEdit::RemoveSeries { graph, index })),
        (graph(), any::<bool>(), any::<bool>(), words(), words()).prop_map(|(graph, up, logarithmic, from, to)| {
            Edit::Graph(GraphEdit::SetAxis { graph, up, logarithmic, zero: !up, from, to })
        }),
        (graph(), prop::option::of(-1.0f64..9.0)).prop_map(|(graph, at)| Edit::Graph(GraphEdit::Zoom {
            graph,
            range: at.map(|a| [[a, a + 1.0], [a, 2.0]])
        })),
        (graph(), prop::sample::select(shows), any::<bool>())
            .prop_map(|(graph, what, on)| Edit::Graph(GraphEdit::ShowOnGraph { graph, what, on })),
        (graph(), prop::option::weighted(0.2, any_id()), curves, prop::sample::select(Weighting::ALL)).prop_map(
            |(graph, stretch, curve, weighting)| Edit::Graph(GraphEdit::ChooseFit { graph, stretch, curve, weighting })
        ),
        (graph(), words(), words()).prop_map(|(graph, from, to)| Edit::Graph(GraphEdit::AddStretch {
            graph,
            from,
            to
        })),
        (graph(), any_id()).prop_map(|(graph, stretch)| Edit::Graph(GraphEdit::DeleteStretch { graph, stretch })),
        (graph(), any::<bool>(), words()).prop_map(|(graph, back, typed)| Edit::Graph(GraphEdit::LookAhead {
            graph,
            back,
            typed,
            stretch: None
        })),
        (graph(), prop::sample::select(Shape::ALL))
            .prop_map(|(graph, shape)| Edit::Graph(GraphEdit::ChooseShape { graph, shape })),
        (prop::sample::select(Gap::ALL), words()).prop_map(|(gap, typed)| Edit::Graph(GraphEdit::FillGap {
            graph: 1,
            gap,
            typed
        })),
        words().prop_map(|name| Edit::Result(ResultEdit::AddResult { name })),
        any_id().prop_map(|result| Edit::Result(ResultEdit::DeleteResult { result })),
        prop::sample::select(sources).prop_map(|from| Edit::Result(ResultEdit::ChooseSource { result: 1, from })),
        words().prop_map(|typed| Edit::Result(ResultEdit::StateReading { result: 1, typed })),
        (prop::sample::select(Term::ALL), words()).prop_map(|(term, typed)| Edit::Result(ResultEdit::StateLaw {
            result: 1,
            term,
            typed
        })),
    ]
}

/// Applies what is accepted; gives back the accepted edits.
fn play(book: &mut Logbook, edits: Vec<Edit>) -> Vec<Edit> {
    edits
        .into_iter()
        .filter(|edit| {
            let before = book.clone();
            let accepted = book.apply(edit, 0).is_ok();
            assert!(accepted || *book == before, "a refused edit changed the logbook: {edit:?}");
            let _ = book.analyse();
            accepted
        })
        .collect()
}

/// What was seen was seen: undo takes a run back, not that there was one.
fn seen(state: State) -> State {
    State { run: RunState { seen: true, ..state.run }, ..state }
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
            if book.apply(&edit, 0).is_ok() && (*book.state() != state || book.clone().apply(&Edit::Undo, 0).is_ok()) {
                // Count the undo steps that this edit added.
                let mut taken_back = book.clone();
                taken_back.apply(&Edit::Undo, 0).unwrap();
                if seen(taken_back.state().clone()) == seen(state) { steps += 1; }
            }
        }
        let after = book.state().clone();
        let mut undone = 0;
        while seen(book.state().clone()) != seen(before.clone()) && undone <= steps {
            book.apply(&Edit::Undo, 0).unwrap();
            undone += 1;
        }
        prop_assert_eq!(seen(book.state().clone()), seen(before));
        for _ in 0..undone { book.apply(&Edit::Redo, 0).unwrap(); }
        prop_assert_eq!(book.state(), &after);
    }

    /// Opening a logbook does what was done and judges nothing: with every deed and snapshot gone through JSON, with or without a
    /// snapshot on the way, it equals the one that never left memory, undo and redo included.
    #[test]
    fn saved_and_loaded_equals_never_saved(
        edits in prop::collection::vec(any_edit(), 0..60),
        cut in 0usize..60,
    ) {
        let mut book = empty();
        let (sheet, seed) = (book.sheet().clone(), 7);
        let start = through_json(&Logbook::start(sheet.clone(), seed));
        let (mut deeds, mut snapshot) = (Vec::new(), through_json(&book.snapshot()));
        for edit in edits {
            if let Ok(intent) = book.apply(&edit, 0) {
                deeds.push(through_json(&intent.deed));
                if deeds.len() == cut { snapshot = through_json(&book.snapshot()); }
            }
        }
        let mut whole = Logbook::resume(sheet.clone(), seed, start.clone(), None);
        for deed in deeds.clone() { whole.take(deed).unwrap(); }
        prop_assert!(whole == book);
        let from = usize::try_from(snapshot.seq()).unwrap();
        let mut later = Logbook::resume(sheet, seed, start, Some(snapshot));
        for deed in deeds.into_iter().skip(from) { later.take(deed).unwrap(); }
        prop_assert!(later == book);
        // They go on alike.
        for book in [&mut whole, &mut later] {
            let _ = book.apply(&Edit::Undo, 0);
            let _ = book.apply(&Edit::Redo, 0);
        }
        prop_assert!(whole == later);
    }

    /// What a page may send is read back as it was written, by name and never by place.
    #[test]
    fn an_edit_keeps_its_spelling(edit in any_edit()) {
        prop_assert_eq!(through_json(&edit), edit);
    }

    /// A deed that does not fit is refused as a whole.
    #[test]
    fn a_deed_of_another_logbook_changes_nothing_or_all(
        edits in prop::collection::vec(any_edit(), 1..40),
        others in prop::collection::vec(any_edit(), 0..20),
    ) {
        let (mut book, mut other) = (empty(), empty());
        play(&mut other, others);
        for edit in edits {
            let Ok(intent) = book.apply(&edit, 0) else { continue };
            let before = other.clone();
            if other.take(intent.deed).is_err() { prop_assert!(other == before); }
        }
    }
}

/// Written and read again.
fn through_json<T: serde::Serialize + serde::de::DeserializeOwned>(value: &T) -> T {
    serde_json::from_str(&serde_json::to_string(value).unwrap()).unwrap()
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
    done(&mut book, Edit::Run(RunEdit::SetSetting { name: "angle".into(), typed: "2°".into() }));
    for length in ["0.3", "60 cm", "0,9", "1.2", "1.5", "1.8"] {
        done(&mut book, Edit::Run(RunEdit::SetSetting { name: "length".into(), typed: length.into() }));
        assert!(book.settings_are_new());
        done(&mut book, Edit::Run(RunEdit::Run));
        let run = book.state().run.runs.len() as u32;
        let (start, end) = ten_swings(&book, run);
        done(
            &mut book,
            Edit::Record(RecordEdit::LogReading {
                row: RowAt::Below,
                column: 1,
                instrument: Instrument::Setting { name: "length".into() },
            }),
        );
        let row = record(&book).rows.last().unwrap().id;
        done(
            &mut book,
            Edit::Record(RecordEdit::LogReading {
                row: RowAt::There(row),
                column: 2,
                instrument: Instrument::Split { of: Footage::Run(run), start, end },
            }),
        );
    }
    done(&mut book, worked("period", "T", "t10/10"));
    done(&mut book, worked("squared", "Tsq", "Tsq = T^2"));
    let squared = record(&book).by_symbol("Tsq").unwrap().id;
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: Some(squared) }));
    done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
    done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: "4*pi^2/g".into() }));

    done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Up, typed: "T^2".into() }));
    done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Across, typed: "T".into() }));
    done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Intercept, typed: "0 [s^2]".into() }));

    let analysis = book.analyse();
    let graph = analysis.graph(1).unwrap();
    assert_eq!((graph.points().count(), graph.y.unit.pretty().as_str()), (6, "s²"));
    assert_eq!(analysis.tables[0].text(0, 1), "0.600");
    let outcome = analysis.outcome(1).unwrap();
    let other = TermVerdict::NotOnAxis { axis: "L".into() };
    assert_eq!(outcome.terms[&Term::Up], TermVerdict::HeldByAxis { axis: "Tsq".into() }, "{:?}", outcome.terms);
    assert_eq!(
        (&outcome.terms[&Term::Across], &outcome.terms[&Term::Intercept]),
        (&other, &TermVerdict::InterceptAgrees)
    );
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
    assert_eq!(stale, Refusal::Changed { now: "0.450".into() });
    let wrong = Edit::Record(RecordEdit::TypeCell {
        row: RowAt::There(row),
        column: 1,
        typed: "0,4x".into(),
        was: Decimal::parse("0.450").ok(),
    });
    let kept = Kept::Cell(Some("0.450\u{A0}m".into()));
    assert!(
        matches!(refused(&mut book, &wrong), Refusal::Value { wrong: ValueError::Quantity(_), kept: k } if k == kept)
    );
    let range = refused(&mut book, &Edit::Run(RunEdit::SetSetting { name: "length".into(), typed: "3".into() }));
    let kept = Kept::Setting("0.800\u{A0}m".into());
    let (between, value) = ("0.200\u{A0}m to 2.000\u{A0}m".into(), "3\u{A0}m".into());
    let wrong = ValueError::Setting(SettingError::Outside { label: "length", range: between, value });
    assert_eq!(range, Refusal::Value { wrong, kept });
    refused(&mut book, &Edit::Run(RunEdit::SetSetting { name: "gravity".into(), typed: "9.0".into() }));
    let place = refused(&mut book, &worked("period", "T", "t10/(10 + x)"));
    assert!(matches!(place, Refusal::Formula { error, .. } if error.span == (10..11)));
    let unit = refused(
        &mut book,
        &Edit::Record(RecordEdit::LogReading {
            row: RowAt::Below,
            column: 2,
            instrument: Instrument::Setting { name: "length".into() },
        }),
    );
    assert!(matches!(unit, Refusal::WrongUnit { .. }));
    // Where nobody pointed at the cell it goes beside it, once; what fits nowhere is refused by the name of the cell.
    let beside = |row, name: &str| {
        let instrument = Instrument::Setting { name: name.into() };
        Edit::Record(RecordEdit::LogBeside { row, column: 2, instrument })
    };
    assert!(matches!(refused(&mut book, &beside(RowAt::Below, "angle")), Refusal::WrongUnit { .. }));
    done(&mut book, beside(RowAt::Below, "length"));
    let there = RowAt::There(record(&book).rows.last().unwrap().id);
    let last = record(&book).rows.len() - 1;
    assert_eq!((cell(&book, 0, last), cell(&book, 1, last)), ("0.800".into(), String::new()));
    assert!(matches!(refused(&mut book, &beside(there, "length")), Refusal::WrongUnit { .. }));
    done(&mut book, Edit::Undo);
    let hidden = Edit::Record(RecordEdit::LogReading {
        row: RowAt::Below,
        column: 1,
        instrument: Instrument::Setting { name: "gravity".into() },
    });
    let gravity = FootageRefusal::NotEntered { name: "gravity".into() };
    assert_eq!(refused(&mut book, &hidden), Refusal::Footage(gravity));

    done(&mut book, Edit::Record(RecordEdit::DeleteRow { row }));
    assert!(matches!(refused(&mut book, &typed(Some(row), 1, "0.5")), Refusal::Gone(_)));
    done(&mut book, Edit::Office(OfficeEdit::HandIn));
    assert_eq!(refused(&mut book, &Edit::Undo), Refusal::HandedIn);
    done(&mut book, Edit::Office(OfficeEdit::SendBack { note: "Time ten swings.".into(), steps: BTreeSet::new() }));
    done(&mut book, Edit::Undo);
    assert_eq!(record(&book).rows[0].cells[&1].number.as_str(), "0.450");
}

#[test]
fn sent_back_with_one_step_open_the_rest_stays_as_handed_in() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "45.3 cm"));
    let write = |text: &str, was: &str| {
        Edit::Writing(WritingEdit::Write { field: TextField::Claim, text: text.into(), was: was.into() })
    };
    done(&mut book, write("It is so.", ""));
    let back = |steps: &[Step]| {
        let steps = steps.iter().copied().collect();
        Edit::Office(OfficeEdit::SendBack { note: "The claim.".into(), steps })
    };
    done(&mut book, Edit::Office(OfficeEdit::HandIn));
    let handed = book.state().clone();
    done(&mut book, back(&[Step::WriteUp]));
    // Neither work nor undo nor a file changes what is closed; what is open changes and is undone as ever.
    let said = refused(&mut book, &typed(None, 1, "50.1 cm"));
    assert_eq!(said, Refusal::Closed { open: [Step::WriteUp].into() });
    for edit in [Edit::Run(RunEdit::Run), Edit::Graph(GraphEdit::AddGraph), Edit::Undo, Edit::Redo] {
        refused(&mut book, &edit);
    }
    let content = Box::new(handed.clone());
    assert!(matches!(refused(&mut book, &Edit::Office(OfficeEdit::Restore { content })), Refusal::Closed { .. }));
    done(&mut book, write("It is not so.", "It is so."));
    done(&mut book, Edit::Undo);
    assert_eq!(refused(&mut book, &Edit::Undo), Refusal::NothingToUndo);
    assert_eq!((&book.state().record, &book.state().writing), (&handed.record, &handed.writing));
    // Other steps can be opened without handing it in once more; a graph is open with its line; then nothing of before is undone.
    done(&mut book, Edit::Redo);
    done(&mut book, back(&[Step::Linearize]));
    done(&mut book, Edit::Graph(GraphEdit::AddGraph));
    refused(&mut book, &write("x", "It is not so."));
    done(&mut book, Edit::Undo);
    assert_eq!(refused(&mut book, &Edit::Undo), Refusal::NothingToUndo);
    // Every step of the lab, or none that it has: all of it is open.
    done(&mut book, back(Step::ALL));
    done(&mut book, typed(None, 1, "50.1 cm"));
    assert_eq!(refused(&mut book, &back(&[])), Refusal::NotHandedIn);
    for steps in [&[Step::Model][..], &[]] {
        done(&mut book, Edit::Office(OfficeEdit::HandIn));
        done(&mut book, back(steps));
        done(&mut book, typed(None, 1, "52.1 cm"));
    }
}

#[test]
fn a_unit_changes_what_is_shown_and_never_what_was_read() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "45,3 cm"));
    assert_eq!((cell(&book, 0, 0).as_str(), record(&book).rows[0].cells[&1].number.as_str()), ("0.453", "45.3"));
    done(&mut book, worked("double", "D", "2*L"));
    done(&mut book, Edit::Record(RecordEdit::ChangeColumn { column: 1, text: text("thread", "h", "km", "") }));
    assert_eq!(record(&book).by_symbol("D").unwrap().formula.as_ref().unwrap().text(), "2*h");
    assert_eq!(cell(&book, 0, 0), "0.000453");
    done(&mut book, Edit::Record(RecordEdit::ChangeColumn { column: 1, text: text("thread", "h", "cm", "") }));
    assert_eq!((cell(&book, 0, 0), cell(&book, 2, 0)), ("45.3".into(), "90.6".into()));
    let wrong =
        refused(&mut book, &Edit::Record(RecordEdit::ChangeColumn { column: 1, text: text("thread", "h", "s", "") }));
    assert!(matches!(wrong, Refusal::WrongUnit { .. }));
    // What a person saw is compared, not what is stored.
    let row = record(&book).rows[0].id;
    done(
        &mut book,
        Edit::Record(RecordEdit::TypeCell {
            row: RowAt::There(row),
            column: 1,
            typed: "50".into(),
            was: Decimal::parse("45.3").ok(),
        }),
    );
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Undo);
    assert_eq!(cell(&book, 0, 0), "0.453");
}

#[test]
fn the_tape_is_read_to_a_millimetre_or_a_tenth_by_eye() {
    let mut book = empty();
    done(&mut book, Edit::Run(RunEdit::Run));
    let tape = |tenths| {
        Edit::Record(RecordEdit::LogReading {
            row: RowAt::Below,
            column: 1,
            instrument: Instrument::Tape {
                of: Footage::Run(1),
                frame: 0,
                zero: [0.0, 0.0],
                reading: [0.0, -1.5027],
                tenths,
            },
        })
    };
    done(&mut book, tape(None));
    done(&mut book, tape(Some(7)));
    assert_eq!([cell(&book, 0, 0), cell(&book, 0, 1)], ["1.503", "1.5027"]);
}

#[test]
fn only_the_parts_an_edit_shows_in_are_refreshed() {
    let mut book = empty();
    done(
        &mut book,
        Edit::Writing(WritingEdit::Write { field: TextField::Claim, text: "T grows".into(), was: String::new() }),
    );
    assert_eq!(book.parts_since(0), [Part::Header, Part::Texts]);
    done(&mut book, typed(None, 1, "1.0"));
    // A claim is held against the record, and the write-up shows the tables there are.
    let shown = [
        Part::Header,
        Part::Forecast,
        Part::Record,
        Part::Graph,
        Part::Strip,
        Part::Model,
        Part::Constant,
        Part::Texts,
    ];
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
        other.apply(&Edit::Office(OfficeEdit::Restore { content: Box::new(content) }), 0).unwrap();
        // Ids differ, nothing else does: the same tables, texts and graphs come out.
        let shown = |b: &Logbook| {
            let a = b.analyse();
            let tables: Vec<Vec<String>> = a.tables.iter().map(|t| (0..t.columns.len()).flat_map(|c| (0..t.rows.len()).map(move |r| (c, r))).map(|(c, r)| t.text(c, r)).collect()).collect();
            let points: Vec<Vec<(f64, f64)>> = a.graphs.iter().map(|(_, g)| g.iter().flat_map(|g| g.points().map(|p| (p.x, p.y)).collect::<Vec<_>>()).collect()).collect();
            (tables, points, b.state().writing.texts.clone(), b.state().run.runs.clone(), a.results.len())
        };
        prop_assert_eq!(shown(&other), shown(&book));
        // And it is one step to go back to what was there.
        other.apply(&Edit::Undo, 0).unwrap();
        prop_assert_eq!(seen(other.state().clone()), seen(before));
    }
}

#[test]
fn a_file_changed_by_hand_is_refused() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "0.450"));
    let good = serde_json::to_value(book.state()).unwrap();
    type Change = fn(&mut serde_json::Value);
    let table = &book.state().record.tables[0];
    let first = table.columns[0].symbol.clone();
    let changes: [(Flaw, Change); 6] = [
        (Flaw::NotFree { name: "gravity".into() }, |v| {
            v["run"]["settings"]["gravity"] = serde_json::json!({"quantity": ["9.0", "m/s^2"]});
        }),
        (Flaw::Symbol { symbol: "4".into() }, |v| v["record"]["tables"][0]["columns"][0]["symbol"] = "4".into()),
        (Flaw::NoConstant, |v| v["result"]["results"][0]["id"] = 7.into()),
        (Flaw::Reading { symbol: first }, |v| v["record"]["tables"][0]["rows"][0]["cells"]["1"]["unit"] = "kg".into()),
        (Flaw::GraphOfNothing, |v| v["graph"]["graphs"][0]["x"] = 99.into()),
        (Flaw::Number(Kind::Table), |v| v["record"]["tables"] = serde_json::json!([])),
    ];
    for (reason, change) in changes {
        let mut bad = good.clone();
        change(&mut bad);
        let content: State = serde_json::from_value(bad).unwrap();
        let refusal = refused(&mut empty(), &Edit::Office(OfficeEdit::Restore { content: Box::new(content) }));
        assert_eq!(refusal, OfficeRefusal::NotBrought(reason).into());
    }
}

/// Work that is given up leaves nothing behind: whoever asks next gets the whole of it.
#[test]
fn an_analysis_that_is_given_up_is_begun_anew() {
    let mut book = empty();
    let block: String = (0..400).map(|k| format!("{}\t{}\n", f64::from(k) * 0.1, k * k % 17)).collect();
    let (table, name, text) = (Some(1), String::new(), format!("L (m)\tt10 (s)\n{block}"));
    done(&mut book, Edit::Record(RecordEdit::Paste { table, name, row: RowAt::Below, column: None, text }));
    done(&mut book, worked("rate", "r", "rate(L, t10, 51)"));
    let shown = |b: &Logbook| {
        let t = &b.analyse().tables[0];
        (0..t.rows.len()).map(|r| t.text(2, r)).collect::<Vec<_>>()
    };
    let given_up = Stop::default();
    given_up.set();
    assert!(book.analyse_until(&given_up).is_none());
    let whole = shown(&book);
    assert!(whole[200].parse::<f64>().is_ok(), "{}", whole[200]);
    book.forget_analysis();
    assert_eq!(shown(&book), whole);
    assert!(book.analyse_until(&given_up).is_some(), "what is known needs no work");
}
