//! The enamel discs, done as a careful student does it: thrown, recorded, thrown again, added up, until the rate of decay stands.

use crate::common::{done, open, refused};
use zeitmass_core::fit::{Model, Weighting};
use zeitmass_core::logbook::{ColumnText, CurveText, Edit, ForecastEdit, GraphEdit, Logbook, RecordEdit, ResultEdit, RunEdit};
use zeitmass_core::record::{ColumnKind, FIRST_TABLE};
use zeitmass_core::result::Term;

const SHEETS: [(&str, f64, u32); 2] = [
    (include_str!("../../../../labs/10.1-half-of-them.md"), std::f64::consts::LN_2, 6),
    (include_str!("../../../../labs/10.2-one-in-six.md"), 0.182_321_556_793_955, 15),
];

fn thrown(book: &mut Logbook, throws: u32) {
    done(book, Edit::Run(RunEdit::Run));
    let record =
        RunEdit::Record { channels: vec!["left".into()], from: 0, to: throws, every: 1, into: Some(FIRST_TABLE) };
    done(book, Edit::Run(record));
}

/// λ from the sum of all repeats with its uncertainty, by the logarithm weighted as counts are.
fn rate(book: &mut Logbook) -> (f64, f64) {
    let analysis = book.analyse();
    let found = analysis.outcome(1).unwrap().constant.clone().unwrap().unwrap();
    (found.value, found.u)
}

fn begun(sheet: &str, seed: u64) -> Logbook {
    let mut book = open(sheet, seed);
    let points = vec![[0.0, 200.0], [8.0, 10.0]];
    done(&mut book, Edit::Forecast(ForecastEdit::Sketch { channel: "left".into(), points }));
    book
}

fn worked(book: &mut Logbook, symbol: &str, formula: &str) {
    let [name, symbol, formula] = [symbol, symbol, formula].map(str::to_owned);
    let text = ColumnText { name, symbol, formula, ..ColumnText::default() };
    done(book, Edit::Record(RecordEdit::AddColumn { table: FIRST_TABLE, kind: ColumnKind::Worked, text }));
}

/// Eight repeats of two hundred discs, or fewer where one more changes λ by less than 4 %: how often the stated uncertainty covers ln 2 and
/// ln(6/5), and how near it comes.
#[test]
fn the_sum_of_repeats_comes_to_the_rate_of_decay() {
    for (sheet, truth, throws) in SHEETS {
        let books = 60;
        let mut near = 0;
        let mut pulls = Vec::new();
        for seed in 0..books {
            let mut book = begun(sheet, seed);
            thrown(&mut book, throws);
            thrown(&mut book, throws);
            worked(&mut book, "S", "sum(N)");
            worked(&mut book, "w", "ln(S)");
            let column = |book: &Logbook, symbol: &str| book.state().record.tables[0].by_symbol(symbol).unwrap().id;
            let (x, y) = (Some(column(&book, "k")), Some(column(&book, "w")));
            done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x, y }));
            let curve = CurveText::Offered(Model::Line);
            let fit = GraphEdit::ChooseFit { graph: 1, stretch: None, curve, weighting: Weighting::Up };
            done(&mut book, Edit::Graph(fit));
            done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: "-λ".into() }));
            let (mut last, _) = rate(&mut book);
            for _ in 2..8 {
                thrown(&mut book, throws);
                let (now, _) = rate(&mut book);
                if (now / last - 1.0).abs() < 0.04 {
                    break;
                }
                last = now;
            }
            let (found, u) = rate(&mut book);
            near += usize::from((found - truth).abs() <= 2.0 * u);
            assert!((found / truth - 1.0).abs() < 0.12, "{found} ± {u}, wanted {truth}");
            pulls.push((found - truth) / u);
        }
        println!("{near} of {books}, {:?}", pulls.iter().map(|p| p * p).sum::<f64>() / f64::from(books as u32));
        assert!(near * 100 >= books as usize * 85, "{near} of {books} within two standard uncertainties of {truth}");
    }
}

#[test]
fn a_recording_becomes_one_more_repeat_of_what_is_there() {
    let (sheet, _, _) = SHEETS[0];
    let mut book = begun(sheet, 5);
    for _ in 0..3 {
        thrown(&mut book, 5);
    }
    let table = &book.state().record.tables[0];
    let symbols: Vec<&str> = table.columns.iter().map(|c| c.symbol.as_str()).collect();
    assert_eq!(symbols, ["k", "N_1", "N_2", "N_3"]);
    assert_eq!(table.rows.len(), 6);
    let first = |column: usize| table.rows[1].cells[&table.columns[column].id].number.value();
    // Three runs with the same settings, and none like the other; the first rows are all the discs.
    assert!(first(1) != first(2) || first(2) != first(3));
    assert!((1..4).all(|c| table.rows[0].cells[&table.columns[c].id].number.value() == 200.0));
    // A run that is made again after undo has luck of its own; what is recorded stays what it is.
    let recorded: Vec<f64> = (0..6).map(|r| table.rows[r].cells[&table.columns[1].id].number.value()).collect();
    let again = book.footage(1).unwrap().unwrap();
    assert_eq!(again.channel("left").unwrap()[..6], recorded[..]);
    // Other moments do not go into the same rows, and nor does what has no column there.
    let record = |from, every, channels: &[&str]| {
        let channels = channels.iter().map(|c| (*c).to_owned()).collect();
        Edit::Run(RunEdit::Record { channels, from, to: 5, every, into: Some(FIRST_TABLE) })
    };
    assert!(refused(&mut book, &record(1, 1, &["left"])).to_string().contains("other moments"));
    assert!(refused(&mut book, &record(0, 2, &["left"])).to_string().contains("other moments"));
    refused(&mut book, &record(0, 1, &["out"]));
    refused(
        &mut book,
        &Edit::Run(RunEdit::Record { channels: vec!["left".into()], from: 0, to: 5, every: 1, into: Some(99) }),
    );
}
