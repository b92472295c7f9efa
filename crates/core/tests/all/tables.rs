//! Tables, graphs and results of a logbook: what is pasted, filled, grouped, fitted, looked up and worked out.

use std::sync::Arc;
use zeitmass_core::logbook::{
    Edit, GraphEdit, Heard, Kept, Logbook, RecordEdit, RecordRefusal, Refusal, ResultEdit, ResultSource, RowAt,
    StatedQuantity, StopBy, ValueError,
};
use zeitmass_core::quantity::{Decimal, NumberError};

use crate::common::{cell, done, empty, record, refused, text, typed, worked};
use proptest::prelude::*;
use zeitmass_core::fit::{Model, Shape, Weighting};
use zeitmass_core::graph::Gap;
use zeitmass_core::lab::{Advice, LabSheet};
use zeitmass_core::record::ColumnKind;
use zeitmass_core::result::{Agreement, Feedback, Term};

fn paste(table: Option<u32>, block: &str) -> Edit {
    Edit::Record(RecordEdit::Paste {
        table,
        name: "Second table".into(),
        row: RowAt::Below,
        column: None,
        text: block.into(),
    })
}

#[test]
fn a_block_finds_its_columns_by_their_heads_and_makes_new_ones() {
    let mut book = empty();
    let block = "L/cm\tten swings (s)\tload (washers)\n80,0\t18,01\t3\n90,0\t\t4\n";
    let pasted = Heard::Pasted { rows: 2, columns: 3, new: 1, skipped: 0 };
    assert_eq!(done(&mut book, paste(Some(1), block)), [pasted]);
    let table = &book.analyse().tables[0];
    assert_eq!([table.text(0, 0), table.text(1, 0), table.text(2, 1)], ["0.800", "18.01", "4"]);
    assert_eq!(table.columns[2].unit.as_ref().unwrap().pretty(), "washers");
    assert_eq!(table.text(1, 1), "", "an empty cell stays empty");

    // Without heads the block goes where the cursor stands.
    let row = record(&book).rows[1].id;
    done(
        &mut book,
        Edit::Record(RecordEdit::Paste {
            table: Some(1),
            name: String::new(),
            row: RowAt::There(row),
            column: Some(2),
            text: "19,10\t7\n20,2\t8".into(),
        }),
    );
    assert_eq!([cell(&book, 1, 1), cell(&book, 2, 2)], ["19.10", "8"]);
    let wide = refused(
        &mut book,
        &Edit::Record(RecordEdit::Paste {
            table: Some(1),
            name: String::new(),
            row: RowAt::Below,
            column: Some(2),
            text: "1\t2\t3".into(),
        }),
    );
    let wrong = ValueError::Wide { block: 3, there: 2 };
    assert_eq!(wide, Refusal::Value { wrong, kept: Kept::NothingPasted });
    let bad = refused(&mut book, &paste(Some(1), "L (m)\n0.5\nlong"));
    let error = NumberError::NotANumber("long".into()).into();
    let wrong = ValueError::Cell { row: 2, symbol: "L".into(), error };
    assert_eq!(bad, Refusal::Value { wrong, kept: Kept::NothingPasted });
    let unit = refused(&mut book, &paste(Some(1), "L (s)\n0.5"));
    assert!(matches!(unit, Refusal::WrongUnit { .. }));

    done(&mut book, paste(None, "h (m),t (s),set aside\n1.0,0.45,\n2.0,0.64,yes"));
    assert_eq!((book.state().record.tables.len(), book.state().record.tables[1].rows[1].aside), (2, true));
    refused(&mut book, &paste(None, "h (m)\n1.0"));
    // One step takes a whole block back.
    done(&mut book, Edit::Undo);
    done(&mut book, Edit::Undo);
    assert_eq!((book.state().record.tables.len(), cell(&book, 1, 1)), (1, String::new()));
}

/// A row of thousands of cells is refused at once, with heads and without.
#[test]
fn a_block_of_thousands_of_columns_is_refused_before_names_are_looked_for() {
    let mut book = empty();
    for block in [
        format!("L (m)\tt10 (s)\n0.4{}", "\t12.4".repeat(4000)),
        format!("a{}\n1{}", "\ta".repeat(4000), "\t1".repeat(4000)),
    ] {
        for table in [Some(1), None] {
            let before = book.clone();
            assert!(book.apply(&paste(table, &block), 0).is_err());
            assert!(book == before);
        }
    }
}

#[test]
fn a_set_column_is_filled_with_equal_intervals_and_a_word_about_their_number() {
    let mut book = empty();
    done(&mut book, typed(None, 2, "18.0"));
    let fill =
        |count| Edit::Record(RecordEdit::FillColumn { column: 1, from: "0.2".into(), to: "200 cm".into(), count });
    assert_eq!(done(&mut book, fill(7)), []);
    let texts: Vec<String> = (0..7).map(|i| cell(&book, 0, i)).collect();
    assert_eq!(texts, ["0.2", "0.5", "0.8", "1.1", "1.4", "1.7", "2.0"]);
    assert_eq!(cell(&book, 1, 0), "18.0", "rows that are there are filled first");
    done(&mut book, Edit::Undo);
    assert_eq!(done(&mut book, fill(3)), [Heard::Trials(Advice::Few { trials: 3, least: 6 })]);
    done(&mut book, Edit::Undo);
    assert_eq!(done(&mut book, fill(30)), [Heard::Trials(Advice::Many { trials: 30, least: 6, most: 15 })]);
    refused(&mut book, &Edit::Record(RecordEdit::FillColumn { column: 2, from: "1".into(), to: "2".into(), count: 4 }));
    refused(
        &mut book,
        &Edit::Record(RecordEdit::FillColumn { column: 1, from: "1 s".into(), to: "2".into(), count: 4 }),
    );
}

#[test]
fn runs_are_taken_together_row_by_row_and_one_is_set_aside_with_a_reason() {
    let mut book = empty();
    done(&mut book, paste(Some(1), "L,t10\n0.5,14.1\n1.0,20.0"));
    let heard = done(&mut book, Edit::Record(RecordEdit::AddRun { column: 2 }));
    assert_eq!(heard, [Heard::FirstRepeat { stem: "t10".into(), first: "t10_1".into() }]);
    done(&mut book, Edit::Record(RecordEdit::AddRun { column: 2 }));
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
    let stop = |rule: StopBy, value: &str| {
        Edit::Record(RecordEdit::StopWhen { table: 1, stem: "t10".into(), rule, value: value.into() })
    };
    done(&mut book, stop(StopBy::Change, "2 %"));
    let standing = book.analyse().tables[0].standing().unwrap();
    assert!(!standing.met && standing.change.unwrap().1 == 2, "{standing:?}");

    let aside = Edit::Record(RecordEdit::SetRunAside { column: runs[2].0, why: Some(" ".into()) });
    assert_eq!(refused(&mut book, &aside), RecordRefusal::NoReason.into());
    done(
        &mut book,
        Edit::Record(RecordEdit::SetRunAside { column: runs[2].0, why: Some("the stopwatch was late".into()) }),
    );
    assert_eq!(texts(&book), [["14.20", "20.10"], ["28.4", "40.2"], ["28.4", "68.6"]]);
    assert_eq!(cell(&book, 3, 0), "19.9", "still there");
    let standing = book.analyse().tables[0].standing().unwrap();
    assert!(
        standing.met && standing.runs == 2 && (standing.change.unwrap().0 - 0.1 / 14.15 * 100.0).abs() < 1e-9,
        "{standing:?}"
    );
    done(&mut book, stop(StopBy::Runs, "3"));
    assert!(!book.analyse().tables[0].standing().unwrap().met);
    done(&mut book, Edit::Record(RecordEdit::SetRunAside { column: runs[2].0, why: None }));
    assert!(book.analyse().tables[0].standing().unwrap().met);
}

#[test]
fn groups_have_their_own_rates_and_their_own_series() {
    let mut book = empty();
    let block = "fluid\tx (m)\tt (s)\n1\t0,0\t0\n1\t1,0\t1\n2\t0,0\t0\n1\t2,0\t2\n2\t3,0\t1\n2\t6,0\t2";
    done(&mut book, paste(None, block));
    let table = &book.state().record.tables[1];
    let (id, fluid, x, t) = (table.id, table.columns[0].id, table.columns[1].id, table.columns[2].id);
    done(
        &mut book,
        Edit::Record(RecordEdit::AddColumn {
            table: id,
            kind: ColumnKind::Worked,
            text: text("velocity", "v", "", "rate(x, t)"),
        }),
    );
    done(&mut book, Edit::Record(RecordEdit::GroupBy { table: id, column: Some(fluid) }));
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(t), y: Some(x) }));
    done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
    let analysis = book.analyse();
    let v = &analysis.tables[1].columns[3];
    let values: Vec<f64> = v.cells.iter().map(|c| c.value().unwrap().value).collect();
    assert_eq!(values, [1.0, 1.0, 3.0, 1.0, 3.0, 3.0]);
    let graph = analysis.graph(1).unwrap();
    assert_eq!(graph.series.iter().map(|s| s.label.as_str()).collect::<Vec<_>>(), ["fluid = 1", "fluid = 2"]);
    let slopes: Vec<f64> = graph.fits.iter().map(|f| f.outcome.as_ref().unwrap().slope().unwrap().value).collect();
    assert_eq!(slopes, [1.0, 3.0]);
    // A result comes from the curve of any of the series.
    for (series, speed) in [(None, 1.0), (Some("fluid = 2"), 3.0), (Some("fluid = 1"), 1.0)] {
        let (series, parameter) = (series.map(str::to_owned), "slope".to_owned());
        let from = ResultSource::Curve { graph: 1, stretch: None, series, parameter };
        done(&mut book, Edit::Result(ResultEdit::ChooseSource { result: 1, from }));
        done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: "w".into() }));
        assert_eq!(book.analyse().outcome(1).unwrap().constant.clone().unwrap().unwrap().value, speed);
    }
    // From one table to another a single choice is enough: the axis that was left goes over to the column of its symbol.
    let mut again = paste(None, block);
    if let Edit::Record(RecordEdit::Paste { name, .. }) = &mut again {
        "Third table".clone_into(name);
    }
    done(&mut book, again);
    let other = &book.state().record.tables[2];
    let [x2, t2] = [1, 2].map(|place| other.columns[place].id);
    for (x, y, then) in [
        (Some(t2), Some(x), (Some(t2), Some(x2))),
        (Some(t2), Some(x), (Some(t), Some(x))),
        (Some(t), Some(x2), (Some(t2), Some(x2))),
        (Some(1), Some(x2), (Some(1), None)),
    ] {
        done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x, y }));
        let graph = &book.state().graph.graphs[0];
        assert_eq!((graph.x, graph.y), then);
    }
    refused(&mut book, &Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(t), y: Some(x2) }));
}

/// x = 0.5 t up to 2 s, then 2 − 0.25 t: a carriage that meets a buffer.
fn impact() -> Logbook {
    let mut book = empty();
    let rows: Vec<String> = (0..=16)
        .map(|i| f64::from(i) * 0.25)
        .map(|t| format!("{t}\t{:.3}", if t <= 2.0 { 0.5 * t } else { 1.5 - 0.25 * t }))
        .collect();
    done(&mut book, paste(None, &format!("t (s)\tx (m)\n{}", rows.join("\n"))));
    let table = &book.state().record.tables[1];
    let (t, x) = (table.columns[0].id, table.columns[1].id);
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(t), y: Some(x) }));
    book
}

#[test]
fn stretches_before_and_after_an_impact_have_slopes_of_their_own() {
    let mut book = impact();
    for (from, to) in [("0", "2"), ("4 s", "2100 ms")] {
        done(&mut book, Edit::Graph(GraphEdit::AddStretch { graph: 1, from: from.into(), to: to.into() }));
    }
    let analysis = book.analyse();
    let graph = analysis.graph(1).unwrap();
    let fits: Vec<_> = graph.fits.iter().map(|f| f.outcome.as_ref().unwrap()).collect();
    assert_eq!(fits.iter().map(|f| f.n).collect::<Vec<_>>(), [9, 8]);
    let (difference, unit) = zeitmass_core::result::compare_slopes(fits[0], fits[1]).unwrap();
    assert!((difference.value - 0.75).abs() < 1e-3 && unit.pretty() == "m/s", "{difference:?}");
    assert_eq!(difference.agreement, Agreement::Outside);
    refused(&mut book, &Edit::Graph(GraphEdit::AddStretch { graph: 1, from: "1".into(), to: "1".into() }));
    refused(&mut book, &Edit::Graph(GraphEdit::AddStretch { graph: 1, from: "1 m".into(), to: "2".into() }));
    // A box around two points of the first stretch.
    done(&mut book, Edit::Record(RecordEdit::SetBoxAside { graph: 1, range: [[0.9, 1.3], [0.0, 5.0]], aside: true }));
    assert_eq!(book.analyse().graph(1).unwrap().fits[0].outcome.as_ref().unwrap().n, 7);
    let second = book.state().graph.graphs[0].stretches[1].id;
    let from = ResultSource::Curve { graph: 1, stretch: Some(second), series: None, parameter: "slope".into() };
    let stretch = Edit::Result(ResultEdit::ChooseSource { result: 1, from });
    done(&mut book, stretch);
    done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: "v".into() }));
    let found = book.analyse().outcome(1).unwrap().constant.clone().unwrap().unwrap();
    assert!((found.value + 0.25).abs() < 1e-3 && found.unit.pretty() == "m/s");
}

#[test]
fn a_curve_is_asked_forwards_and_backwards_and_says_how_far_out_it_is() {
    let mut book = impact();
    done(&mut book, Edit::Graph(GraphEdit::AddStretch { graph: 1, from: "0".into(), to: "2".into() }));
    done(
        &mut book,
        Edit::Graph(GraphEdit::LookAhead { graph: 1, back: false, typed: "0,1 min".into(), stretch: None }),
    );
    let looked = book.analyse().graph(1).unwrap().look.clone().unwrap().unwrap();
    assert!((looked.found[0].0 - 3.0).abs() < 0.01 && (looked.outside - 2.0).abs() < 1e-9, "{looked:?}");
    done(&mut book, Edit::Graph(GraphEdit::LookAhead { graph: 1, back: true, typed: "75 cm".into(), stretch: None }));
    let looked = book.analyse().graph(1).unwrap().look.clone().unwrap().unwrap();
    assert!((looked.found[0].0 - 1.5).abs() < 0.01 && looked.outside == 0.0, "{looked:?}");
    refused(
        &mut book,
        &Edit::Graph(GraphEdit::LookAhead { graph: 1, back: true, typed: "75 s".into(), stretch: None }),
    );
}

#[test]
fn a_shape_of_the_strip_makes_its_column_once_and_puts_it_on_the_axis() {
    let mut book = empty();
    let rows: Vec<String> =
        (4..12).map(|i| f64::from(i) * 0.1).map(|t| format!("{t:.1}\t{:.3}", 4.905 * t * t)).collect();
    done(&mut book, paste(None, &format!("t (s)\th (m)\n{}", rows.join("\n"))));
    let columns: Vec<u32> = book.state().record.tables[1].columns.iter().map(|c| c.id).collect();
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(columns[0]), y: Some(columns[1]) }));
    let choose = |shape| Edit::Graph(GraphEdit::ChooseShape { graph: 1, shape });
    done(&mut book, choose(Shape::Square));
    let made = book.state().record.tables[1].columns.last().unwrap().clone();
    assert_eq!((made.symbol.as_str(), made.formula.as_ref().unwrap().text()), ("t_sq", "t^2"));
    let analysis = book.analyse();
    let strip = book.strip(1).unwrap();
    assert_eq!((strip.chosen, strip.symbols.0.as_str()), (Shape::Square, "t"));
    let slope = analysis.graph(1).unwrap().first_fit().unwrap().slope().unwrap().clone();
    assert!((slope.value - 4.905).abs() < 0.005 && slope.unit.pretty() == "m/s²");
    done(&mut book, choose(Shape::Power));
    assert_eq!(book.state().record.tables[1].columns.len(), 5, "two logarithms");
    let slope = book.analyse().graph(1).unwrap().first_fit().unwrap().slope().unwrap().clone();
    assert_eq!(zeitmass_core::result::simple_fraction(slope.value, slope.u).fraction, Some((2, 1)), "{slope:?}");
    done(&mut book, choose(Shape::Square));
    assert_eq!(book.state().record.tables[1].columns.len(), 5, "found again");
}

#[test]
fn held_quantities_serve_formulas_and_laws() {
    let mut book = empty();
    done(&mut book, typed(None, 1, "0.450"));
    let hold = |symbol: &str, typed: &str| {
        Edit::Record(RecordEdit::HoldQuantity { symbol: symbol.into(), name: "bob".into(), typed: typed.into() })
    };
    done(&mut book, hold("b", "40 cm"));
    done(&mut book, worked("whole length", "W", "L + b + row*1 [cm]"));
    assert_eq!(cell(&book, 2, 0), "0.86", "as precise as the 40 cm");
    assert!(matches!(book.state().record.held.as_slice(), [StatedQuantity { symbol, .. }] if symbol == "b"));
    refused(&mut book, &hold("L", "3 m"));
    refused(&mut book, &hold("c", "heavy"));
    refused(
        &mut book,
        &Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Read, text: text("again", "b", "m", "") }),
    );
    done(&mut book, Edit::Record(RecordEdit::ReleaseQuantity { symbol: "b".into() }));
    assert!(cell(&book, 2, 0).is_empty());
}

#[test]
fn what_the_sheet_gives_stays_and_its_gaps_and_strip_open_in_their_time() {
    let source = include_str!("../../../../labs/2.1-tower-pendulum.md");
    let rules = "strip = \"after attempt\"\nread_out = \"gaps\"\ntrials = 6";
    let given = "[[columns]]\nkind = \"given\"\nname = \"bob\"\nsymbol = \"m\"\nunit = \"g\"\nvalues = [\"50\", \"100\"]\n\n[goal]";
    let sheet = LabSheet::parse(&source.replacen("trials = 6", rules, 1).replacen("[goal]", given, 1)).unwrap();
    let mut book = Logbook::new(Arc::new(sheet), 1);
    assert_eq!((record(&book).rows.len(), cell(&book, 2, 1).as_str(), record(&book).trials()), (2, "100", 0));
    let row = record(&book).rows[0].id;
    let write = Edit::Record(RecordEdit::TypeCell {
        row: RowAt::There(row),
        column: 3,
        typed: "60".into(),
        was: Decimal::parse("50").ok(),
    });
    assert!(matches!(refused(&mut book, &write), Refusal::Record(RecordRefusal::Given { .. })));
    refused(&mut book, &Edit::Record(RecordEdit::DeleteColumn { column: 3 }));
    refused(&mut book, &Edit::Record(RecordEdit::DeleteRow { row }));

    done(&mut book, paste(Some(1), "L (m)\tt10 (s)\n0.4\t12.7\n0.8\t17.9\n1.2\t22.0\n1.6\t25.4"));
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: Some(2) }));
    assert!(!book.strip_is_open());
    refused(&mut book, &Edit::Graph(GraphEdit::ChooseShape { graph: 1, shape: Shape::SquareUp }));
    done(&mut book, worked("square", "Q", "(t10/10)^2"));
    let square = record(&book).by_symbol("Q").unwrap().id;
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: Some(square) }));
    done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
    assert!(book.strip_is_open());
    for (gap, typed) in [(Gap::Across, "L"), (Gap::Up, "L"), (Gap::Slope, "40.4"), (Gap::SlopeUnit, "s^2")] {
        done(&mut book, Edit::Graph(GraphEdit::FillGap { graph: 1, gap, typed: typed.into() }));
    }
    let analysis = book.analyse();
    let graph = analysis.graph(1).unwrap();
    let out = zeitmass_core::result::read_out(
        graph.first_fit().unwrap(),
        &graph.x,
        &graph.y,
        &book.state().graph.graphs[0].gaps,
    )
    .unwrap();
    let said: Vec<Feedback> = out.gaps.values().map(|(_, f)| *f).filter(|f| *f != Feedback::Empty).collect();
    assert_eq!(said, [Feedback::Right, Feedback::OtherAxis, Feedback::Decade, Feedback::Right]);
}

#[test]
fn draws_agree_with_derivatives_where_a_formula_is_nearly_straight() {
    let mut book = empty();
    done(&mut book, paste(Some(1), "L,t10\n0.500,14.10\n1.000,20.00\n1.500,24.50"));
    done(&mut book, worked("gravity", "G", "4*pi^2*L/(t10/10)^2"));
    let id = record(&book).by_symbol("G").unwrap().id;
    let held = book.held_quantities();
    let drawn = zeitmass_core::record::simulate(&book.state().record.tables[0], &held, id, 1).unwrap();
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
