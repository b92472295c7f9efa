//! The claim: what it says, which rows carry it, and what is found of it.

use proptest::prelude::*;
use zeitmass_core::inquiry::{CurvePick, Supposed};
use zeitmass_core::lab::Sees;
use zeitmass_core::logbook::{
    ClaimEdit, ClaimRefusal, Edit, Finding, ForecastEdit, Instrument, Judged, Logbook, Noticed, RecordEdit, RowAt,
    RunEdit, TextField, WritingEdit,
};
use zeitmass_core::record::{ColumnKind, RowId};

use crate::common::{done, empty, open, refused, text};

const WORLDS: &str = include_str!("../../../../labs/5.3-worlds.md");

fn set(book: &mut Logbook, name: &str, typed: &str) {
    done(book, Edit::Run(RunEdit::SetSetting { name: name.into(), typed: typed.into() }));
}

fn column(book: &Logbook, symbol: &str) -> u32 {
    book.state().record.tables[0].by_symbol(symbol).unwrap().id
}

/// Runs once and logs a setting and the time to the foot into a row of its own.
fn trial(book: &mut Logbook, setting: &str, symbol: &str) -> RowId {
    done(book, Edit::Run(RunEdit::Run));
    let run = book.state().run.runs.len() as u32;
    let (x, t) = (column(book, symbol), column(book, "t"));
    let instrument = Instrument::Setting { name: setting.into() };
    done(book, Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: x, instrument }));
    let row = book.state().record.tables[0].rows.last().unwrap().id;
    let instrument = Instrument::Meter { run, name: "time".into(), frame: 0 };
    done(book, Edit::Record(RecordEdit::LogReading { row: RowAt::There(row), column: t, instrument }));
    row
}

fn worlds(curve: CurvePick) -> Logbook {
    let mut book = open(WORLDS, 5);
    let [cause, effect, reason] = ["angle of the slope", "time to the foot", "it is steeper"].map(str::to_owned);
    done(&mut book, Edit::Forecast(ForecastEdit::Suppose { hypothesis: Supposed { cause, effect, curve, reason } }));
    book
}

fn state(book: &mut Logbook, cause: &str, curve: CurvePick) {
    let (cause, effect) = (column(book, cause), column(book, "t"));
    done(book, Edit::Claim(ClaimEdit::State { cause, effect, curve }));
}

fn judged(book: &Logbook) -> Judged {
    book.judged_claim(&book.analyse()).unwrap()
}

fn level(book: &Logbook) -> (Option<usize>, Noticed) {
    let criterion = book.sheet().criteria.iter().find(|c| c.sees == Some(Sees::Claim)).unwrap();
    let proposal = book.proposal(criterion).unwrap();
    (proposal.level, proposal.why)
}

#[test]
fn an_overturned_hypothesis_with_a_claim_that_follows_the_data_gets_full_marks() {
    let mut book = worlds(CurvePick::FallsStraight);
    assert_eq!(level(&book).0, Some(3));
    let mut rows: Vec<RowId> = Vec::new();
    for angle in ["5 deg", "10 deg", "15 deg", "25 deg", "40 deg", "60 deg"] {
        set(&mut book, "angle", angle);
        rows.push(trial(&mut book, "angle", "α"));
    }
    // Believing the hypothesis against the data: the program says what they show.
    state(&mut book, "α", CurvePick::FallsStraight);
    assert_eq!(judged(&book).controlled.holds(), None);
    done(&mut book, Edit::Claim(ClaimEdit::AddEvidence { rows: rows.clone() }));
    let found = judged(&book);
    let shows = found.shows.clone().unwrap();
    assert_eq!(
        (shows.holds(), found.controlled.holds(), found.enough.holds()),
        (Some(false), Some(true), Some(true)),
        "{found:?}"
    );
    assert_eq!(shows, Finding::ShowsOther(CurvePick::FallsFlatter));
    assert_eq!(found.beside, Some(Finding::Repeated));
    assert_eq!(level(&book).0, Some(2));
    // What the data show; the rows stay chosen.
    state(&mut book, "α", CurvePick::FallsFlatter);
    let found = judged(&book);
    assert_eq!(found.names, ["angle", "time to the foot"]);
    let (numbers, varied) = ((1..=6).collect(), vec!["angle of the slope".to_owned()]);
    assert_eq!(found.controlled, Finding::Controlled { rows: numbers, varied });
    assert_eq!(found.shows, Some(Finding::Shown));
    let beside = found.beside.unwrap();
    assert!(beside.holds() == Some(true) && matches!(beside, Finding::Overturned(_)), "{beside:?}");
    let (best, why) = level(&book);
    assert_eq!(best, Some(0), "{why:?}");
    // A trial with another mass among them: nobody knows which of them did it.
    set(&mut book, "mass", "1.50 kg");
    set(&mut book, "angle", "30 deg");
    let heavy = trial(&mut book, "angle", "α");
    done(&mut book, Edit::Claim(ClaimEdit::AddEvidence { rows: vec![heavy] }));
    let found = judged(&book);
    let varied = ["angle of the slope", "mass"].map(str::to_owned).to_vec();
    assert_eq!(found.controlled, Finding::Uncontrolled { between: [1, 7], varied });
    assert_eq!(found.controlled.holds(), Some(false));
    assert_eq!(level(&book).0, Some(1));
    done(&mut book, Edit::Claim(ClaimEdit::RemoveEvidence { row: heavy }));
    assert_eq!(level(&book).0, Some(0));
    // A row that is set aside is no evidence.
    done(&mut book, Edit::Record(RecordEdit::SetAside { row: rows[2], aside: true, why: String::new() }));
    assert_eq!(judged(&book).controlled, Finding::Aside { row: 3 });
    done(&mut book, Edit::Undo);
    // Two rows tell where it goes, and no more.
    done(&mut book, Edit::Claim(ClaimEdit::Withdraw));
    assert!(book.judged_claim(&book.analyse()).is_none());
    state(&mut book, "α", CurvePick::FallsFlatter);
    done(&mut book, Edit::Claim(ClaimEdit::AddEvidence { rows: rows[..2].to_vec() }));
    let found = judged(&book);
    assert_eq!((found.shows, found.enough.holds()), (None, Some(false)));
}

/// Time against the sine of the angle, which the student works out: the lever behind it is the angle.
#[test]
fn what_is_worked_out_from_a_setting_is_varied_by_it() {
    let mut book = worlds(CurvePick::FallsFlatter);
    let mut rows = Vec::new();
    for angle in ["10 deg", "20 deg", "40 deg"] {
        set(&mut book, "angle", angle);
        rows.push(trial(&mut book, "angle", "α"));
    }
    let text = text("steepness", "s", "", "sin(α)");
    done(&mut book, Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Worked, text }));
    state(&mut book, "s", CurvePick::FallsFlatter);
    done(&mut book, Edit::Claim(ClaimEdit::AddEvidence { rows }));
    let found = judged(&book);
    assert_eq!((found.controlled.holds(), found.shows.and_then(|f| f.holds())), (Some(true), Some(true)));
}

#[test]
fn a_bent_curve_that_is_called_exponential_is_asked_for_its_ratios() {
    let mut book = empty();
    let block = |of: &dyn Fn(f64) -> f64| {
        (1..=6).map(|i| format!("{i}\t{:.3}", of(f64::from(i)))).collect::<Vec<_>>().join("\n")
    };
    let table = |book: &mut Logbook, name: &str, block: &str| {
        let (name, text) = (name.to_owned(), format!("x (m)\ty (m)\n{block}"));
        done(book, Edit::Record(RecordEdit::Paste { table: None, name, row: RowAt::Below, column: None, text }));
        let table = book.state().record.tables.last().unwrap();
        (
            table.by_symbol("x").unwrap().id,
            table.by_symbol("y").unwrap().id,
            table.rows.iter().map(|r| r.id).collect::<Vec<_>>(),
        )
    };
    let (text, was) = ("The curve is Exponential, as one sees.".to_owned(), String::new());
    done(&mut book, Edit::Writing(WritingEdit::Write { field: TextField::Reasoning, text, was }));
    let (cause, effect, rows) = table(&mut book, "square", &block(&|x| 0.5 * x * x));
    done(&mut book, Edit::Claim(ClaimEdit::State { cause, effect, curve: CurvePick::RisesSteeper }));
    done(&mut book, Edit::Claim(ClaimEdit::AddEvidence { rows }));
    let asked = judged(&book).asks.unwrap();
    assert_eq!(asked.ratios, ["4.00", "2.25", "1.78", "1.56", "1.44"]);
    // One that is exponential, or straight, is not asked about.
    let (cause, effect, rows) = table(&mut book, "doubling", &block(&|x| 0.3 * 2f64.powf(x)));
    done(&mut book, Edit::Claim(ClaimEdit::State { cause, effect, curve: CurvePick::RisesSteeper }));
    done(&mut book, Edit::Claim(ClaimEdit::AddEvidence { rows }));
    assert_eq!(judged(&book).asks, None);
    done(&mut book, Edit::Claim(ClaimEdit::State { cause, effect, curve: CurvePick::RisesStraight }));
    assert_eq!(judged(&book).asks, None);
}

#[test]
fn nonsense_is_refused_and_what_is_gone_is_said() {
    let mut book = worlds(CurvePick::Level);
    set(&mut book, "angle", "10 deg");
    let row = trial(&mut book, "angle", "α");
    let (cause, effect) = (column(&book, "α"), column(&book, "t"));
    let add = |rows: Vec<RowId>| Edit::Claim(ClaimEdit::AddEvidence { rows });
    assert_eq!(refused(&mut book, &add(vec![row])), ClaimRefusal::NoClaim.into());
    for (cause, effect) in [(cause, cause), (cause, 4711), (4711, effect)] {
        refused(&mut book, &Edit::Claim(ClaimEdit::State { cause, effect, curve: CurvePick::Level }));
    }
    let (name, text) = ("other".to_owned(), "q (m)\n1".to_owned());
    done(&mut book, Edit::Record(RecordEdit::Paste { table: None, name, row: RowAt::Below, column: None, text }));
    let other = book.state().record.tables[1].clone();
    let far = Edit::Claim(ClaimEdit::State { cause, effect: other.columns[0].id, curve: CurvePick::Level });
    assert_eq!(refused(&mut book, &far), ClaimRefusal::TwoTables.into());
    done(&mut book, Edit::Claim(ClaimEdit::State { cause, effect, curve: CurvePick::Level }));
    for rows in [vec![other.rows[0].id], vec![row, 4711], vec![u32::MAX; 300]] {
        refused(&mut book, &add(rows));
    }
    // The same row, sent twice and twice again, is there once.
    done(&mut book, add(vec![row, row]));
    done(&mut book, add(vec![row]));
    assert_eq!(judged(&book).rows.len(), 1);
    // A row that is deleted leaves the evidence; a column that is deleted leaves no claim to judge.
    done(&mut book, Edit::Record(RecordEdit::DeleteRow { row }));
    assert!(judged(&book).rows.is_empty());
    done(&mut book, Edit::Undo);
    assert_eq!(judged(&book).rows.len(), 1);
    done(&mut book, Edit::Record(RecordEdit::DeleteColumn { column: effect }));
    assert!(book.judged_claim(&book.analyse()).is_none());
    assert!(level(&book).0.is_some());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    /// Rows are called controlled only where one setting alone differs, whatever was run, in whatever order, and whichever rows are chosen.
    #[test]
    fn two_settings_that_differ_are_never_controlled(
        trials in prop::collection::vec((0usize..3, 0usize..3, any::<bool>()), 2..6),
        picked in prop::collection::vec(0usize..6, 1..6),
        cause in any::<bool>(),
    ) {
        let mut book = worlds(CurvePick::Level);
        let text = text("mass", "m", "kg", "");
        done(&mut book, Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Set, text }));
        let (angles, masses) = (["10 deg", "20 deg", "30 deg"], ["0.50 kg", "1.00 kg", "2.00 kg"]);
        let (symbol, setting) = if cause { ("α", "angle") } else { ("m", "mass") };
        let mut rows = Vec::new();
        for (angle, mass, earth) in &trials {
            set(&mut book, "angle", angles[*angle]);
            set(&mut book, "mass", masses[*mass]);
            set(&mut book, "world", if *earth { "Earth" } else { "unknown" });
            rows.push(trial(&mut book, setting, symbol));
        }
        state(&mut book, symbol, CurvePick::Level);
        let picked: Vec<usize> = picked.into_iter().filter(|i| *i < rows.len()).collect();
        done(&mut book, Edit::Claim(ClaimEdit::AddEvidence { rows: picked.iter().map(|i| rows[*i]).collect() }));
        let chosen: Vec<_> = picked.iter().map(|i| trials[*i]).collect();
        let differs = |of: &dyn Fn(&(usize, usize, bool)) -> usize| chosen.windows(2).any(|w| of(&w[0]) != of(&w[1]));
        let (angle, mass, world) = (differs(&|t| t.0), differs(&|t| t.1), differs(&|t| usize::from(t.2)));
        let others = [if cause { mass } else { angle }, world].into_iter().filter(|d| *d).count();
        let found = judged(&book).controlled;
        let distinct = picked.iter().collect::<std::collections::BTreeSet<_>>().len();
        if distinct < 2 {
            prop_assert_eq!(found.holds(), None);
        } else {
            prop_assert_eq!(found.holds(), Some(others == 0), "{:?} of {:?}: {:?}", picked, trials, found);
        }
    }
}
