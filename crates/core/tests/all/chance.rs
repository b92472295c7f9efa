//! The enamel discs, done as a careful student does it: thrown, recorded, thrown again, added up, until the rate of decay stands.

use crate::common::{done, open, refused, tell};
use zeitmass_core::fit::{Model, Weighting};
use zeitmass_core::logbook::{
    ColumnText, CurveText, Edit, ForecastEdit, GraphEdit, Logbook, RecordEdit, Refusal, ResultEdit, RunEdit, RunRefusal,
};
use zeitmass_core::record::{ColumnKind, FIRST_TABLE};
use zeitmass_core::result::Term;

const SHEETS: [(&str, f64, u32); 2] = [
    (include_str!("../../../../labs/10.1-half-of-them.md"), std::f64::consts::LN_2, 6),
    (include_str!("../../../../labs/10.2-one-in-six.md"), 0.182_321_556_793_955, 10),
];

fn thrown(book: &mut Logbook, throws: u32) {
    done(book, Edit::Run(RunEdit::Run));
    let channels = vec!["left".into(), "taken out".into()];
    let record = RunEdit::Record { channels, from: 1, to: throws, every: 1, into: Some(FIRST_TABLE) };
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
        let books: u32 = std::env::var("ZEITMASS_LOGBOOKS").ok().and_then(|n| n.parse().ok()).unwrap_or(60);
        let mut near = 0;
        let mut pulls = Vec::new();
        for seed in 0..u64::from(books) {
            let mut book = begun(sheet, seed);
            thrown(&mut book, throws);
            thrown(&mut book, throws);
            worked(&mut book, "S", "sum(M)");
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
            assert!((found - truth).abs() < 5.0 * u, "{found} ± {u}, wanted {truth}");
            pulls.push((found - truth) / u);
        }
        let within = pulls.iter().filter(|p: &&f64| p.abs() <= 1.0).count();
        tell(&format!("discs| {truth:.4} | {within} | {near} | {books} |"));
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
    assert_eq!(symbols, ["k", "N_1", "N_2", "N_3", "M_1", "M_2", "M_3"]);
    let column = |c: usize| -> Vec<f64> {
        table.rows.iter().filter_map(|r| Some(r.cells.get(&table.columns[c].id)?.number.value())).collect()
    };
    assert_eq!(column(0)[..3], [1.0, 2.0, 3.0]);
    // Three runs with the same settings, and none like the other.
    assert!(column(1) != column(2) && column(2) != column(3) && column(1) != column(3));
    for repeat in 1..4 {
        let (left, taken) = (column(repeat), column(repeat + 3));
        assert!((1..left.len()).all(|k| left[k - 1] - left[k] == taken[k]) && left[0] + taken[0] == 200.0);
    }
    // It is what the run shows again.
    let again = book.footage(1).unwrap().unwrap();
    assert_eq!(again.channel("left").unwrap()[1..6], column(1)[..]);
    // Other moments do not go into the same rows, and nor does what has no column there.
    let record = |from, every, channels: &[&str], into| {
        let channels = channels.iter().map(|c| (*c).to_owned()).collect();
        Edit::Run(RunEdit::Record { channels, from, to: 5, every, into: Some(into) })
    };
    let other = Refusal::Run(RunRefusal::OtherInstants { table: book.state().record.tables[0].name.clone() });
    assert_eq!(refused(&mut book, &record(0, 1, &["left"], FIRST_TABLE)), other);
    assert_eq!(refused(&mut book, &record(1, 2, &["left"], FIRST_TABLE)), other);
    refused(&mut book, &record(1, 1, &["out"], FIRST_TABLE));
    refused(&mut book, &record(1, 1, &["left"], 99));
}
