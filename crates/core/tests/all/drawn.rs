//! Values that curves and results give to cells: how they follow, what they know of each other, and how often they are right.

use proptest::prelude::*;
use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use statrs::distribution::{ContinuousCDF, StudentsT};
use zeitmass_core::chance;
use zeitmass_core::fit::{Fit, Model};
use zeitmass_core::logbook::{
    DrawError, Edit, FilmEdit, Followed, GraphEdit, Heard, Instrument, Logbook, RecordEdit, RecordRefusal, Refusal,
    ResultEdit, RowAt, Turn, ValueError,
};
use zeitmass_core::motion::FilmFacts;
use zeitmass_core::quantity::format::with_unit;
use zeitmass_core::quantity::{DrawnFrom, Unit};
use zeitmass_core::record::ColumnKind;
use zeitmass_core::result::Term;
use zeitmass_words::Words;

use crate::common::{done, empty, open, refused, text};

fn slope(graph: u32) -> DrawnFrom {
    DrawnFrom::Parameter { graph, stretch: None, series: None, symbol: "slope".into(), of: None }
}

fn intercept(graph: u32) -> DrawnFrom {
    DrawnFrom::Parameter { graph, stretch: None, series: None, symbol: "intercept".into(), of: None }
}

fn enter(row: RowAt, column: u32, source: DrawnFrom) -> Edit {
    Edit::Record(RecordEdit::LogReading { row, column, instrument: Instrument::Curve { source } })
}

fn paste(book: &mut Logbook, name: &str, block: &str) -> u32 {
    let (name, text) = (name.to_owned(), block.to_owned());
    done(book, Edit::Record(RecordEdit::Paste { table: None, name, row: RowAt::Below, column: None, text }));
    book.state().record.tables.last().unwrap().id
}

fn column(book: &Logbook, table: u32, symbol: &str) -> u32 {
    book.state().table(table).unwrap().by_symbol(symbol).unwrap().id
}

fn add(book: &mut Logbook, table: u32, kind: ColumnKind, (symbol, unit, formula): (&str, &str, &str)) -> u32 {
    let text = text(symbol, symbol, unit, formula);
    done(book, Edit::Record(RecordEdit::AddColumn { table, kind, text }));
    column(book, table, symbol)
}

fn line(book: &mut Logbook, graph: u32, table: u32, [x, y]: [&str; 2]) {
    let [x, y] = [x, y].map(|symbol| Some(column(book, table, symbol)));
    done(book, Edit::Graph(GraphEdit::ChooseAxes { graph, x, y }));
    done(book, Edit::Graph(GraphEdit::ChooseModel { graph, model: Some(Model::Line) }));
}

fn fit(book: &Logbook, graph: u32) -> Fit {
    book.analyse().graph(graph).unwrap().first_fit().unwrap().clone()
}

/// A falling thing's places, a line through them, and a second table for its speed.
struct Fall {
    book: Logbook,
    places: u32,
    speeds: u32,
    v: u32,
    /// Second row of the table of speeds.
    row: u32,
}

fn fall() -> Fall {
    let mut book = empty();
    let places =
        paste(&mut book, "places", "t (s)\ty (m)\n0.0\t0.02\n1.0\t1.49\n2.0\t3.03\n3.0\t4.48\n4.0\t6.04\n5.0\t9.9");
    line(&mut book, 1, places, ["t", "y"]);
    let speeds = paste(&mut book, "speeds", "m (g)\n4.3\n6.8");
    let v = add(&mut book, speeds, ColumnKind::Read, ("v", "cm/s", ""));
    let row = book.state().table(speeds).unwrap().rows[1].id;
    Fall { book, places, speeds, v, row }
}

impl Fall {
    fn enter(&mut self, source: DrawnFrom) -> Vec<Heard> {
        done(&mut self.book, enter(RowAt::There(self.row), self.v, source))
    }

    fn aside(&mut self, place: usize, aside: bool) -> Vec<Heard> {
        let row = self.book.state().table(self.places).unwrap().rows[place].id;
        done(&mut self.book, Edit::Record(RecordEdit::SetAside { row, aside, why: String::new() }))
    }

    fn cell(&self) -> String {
        let analysis = self.book.analyse();
        let table = analysis.tables.iter().find(|t| t.record.id == self.speeds).unwrap();
        table.text(table.place(self.v).unwrap(), 1)
    }

    fn about(&self) -> String {
        self.book.state().table(self.speeds).unwrap().rows[1].cells[&self.v].words()
    }

    fn lost(&self) -> Option<DrawError> {
        let drawn =
            self.book.state().table(self.speeds).unwrap().rows[1].cells[&self.v].origin.drawn().unwrap().clone();
        self.book.lost(&self.book.analyse(), self.speeds, &drawn)
    }
}

#[test]
fn a_slope_in_a_cell_follows_its_points_until_it_is_frozen() {
    let mut it = fall();
    assert_eq!(it.enter(slope(1)), []);
    let found = fit(&it.book, 1).slope().unwrap().clone();
    let cell = it.book.state().table(it.speeds).unwrap().rows[1].cells[&it.v].clone();
    // In the unit of its column, and as uncertain as the slope.
    assert!(
        (cell.si() - found.value).abs() < 0.05 * found.u && (cell.u_si() / found.u - 1.0).abs() < 1e-9,
        "{cell:?} {found:?}"
    );
    let before = it.cell();
    // The last point belongs to the landing; without it the slope is another, and the person hears of it.
    let heard = it.aside(5, true);
    let now = with_unit(&it.cell(), &Unit::parse("cm/s").unwrap());
    assert_eq!(heard, [Heard::Followed(vec![Followed { symbol: "v".into(), row: 2, now }])]);
    assert_ne!(it.cell(), before);
    assert!(it.about().ends_with(&format!("slope of y against t; follows the curve, was {before}")), "{}", it.about());
    // One undo takes back the point and what followed from it.
    let followed = it.book.clone();
    done(&mut it.book, Edit::Undo);
    assert_eq!(it.cell(), before);
    done(&mut it.book, Edit::Redo);
    assert!(it.book.state() == followed.state());
    done(&mut it.book, Edit::Record(RecordEdit::Freeze { row: it.row, column: it.v, frozen: true }));
    let frozen = it.cell();
    assert_eq!(it.aside(5, false), []);
    assert_eq!((it.cell(), it.lost()), (frozen, None));
    // Let go, it follows at once.
    let freed = done(&mut it.book, Edit::Record(RecordEdit::Freeze { row: it.row, column: it.v, frozen: false }));
    assert!(matches!(freed[..], [Heard::Followed(_)]));
    assert_eq!(it.cell(), before);
    // Another curve on the same graph is not this one's.
    let speeds = it.speeds;
    let m = column(&it.book, speeds, "m");
    done(&mut it.book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(m), y: Some(m) }));
    assert_eq!(it.cell(), before);
    assert!(it.lost().is_some());
    line(&mut it.book, 1, it.places, ["t", "y"]);
    assert_eq!(it.lost(), None);
    // What is typed over it stays typed.
    let was = Some(it.book.state().table(speeds).unwrap().rows[1].cells[&it.v].number.clone());
    let typed = "149".to_owned();
    done(&mut it.book, Edit::Record(RecordEdit::TypeCell { row: RowAt::There(it.row), column: it.v, typed, was }));
    it.aside(5, true);
    assert_eq!((it.cell().as_str(), it.about().as_str()), ("149", "typed by hand; resolution 1\u{A0}cm/s"));
    let freeze = Edit::Record(RecordEdit::Freeze { row: it.row, column: it.v, frozen: true });
    assert_eq!(refused(&mut it.book, &freeze), RecordRefusal::FollowsNothing.into());
}

#[test]
fn what_leads_back_or_cannot_be_told_is_not_entered() {
    let mut it = fall();
    let first = RowAt::There(it.book.state().table(it.places).unwrap().rows[0].id);
    let w = add(&mut it.book, it.places, ColumnKind::Read, ("w", "m/s", ""));
    let back = enter(first, w, slope(1));
    assert_eq!(refused(&mut it.book, &back), RecordRefusal::LeadsBack.into());
    // By way of a second table, too.
    it.enter(slope(1));
    let other = RowAt::There(it.book.state().table(it.speeds).unwrap().rows[0].id);
    done(&mut it.book, Edit::Record(RecordEdit::TypeCell { row: other, column: it.v, typed: "50".into(), was: None }));
    done(&mut it.book, Edit::Graph(GraphEdit::AddGraph));
    let second = it.book.state().graph.graphs[1].id;
    let speeds = it.speeds;
    let third = paste(&mut it.book, "third", "m (g)\tv (cm/s)\n1\t10\n2\t21\n3\t29");
    line(&mut it.book, second, third, ["m", "v"]);
    let r = add(&mut it.book, speeds, ColumnKind::Read, ("r", "cm/(s g)", ""));
    done(&mut it.book, enter(other, r, slope(second)));
    line(&mut it.book, second, speeds, ["m", "v"]);
    assert_eq!(refused(&mut it.book, &enter(first, w, intercept(second))), RecordRefusal::LeadsBack.into());
    // Its own cell in the table of speeds now comes from the table it stands in, and stays.
    let q = add(&mut it.book, speeds, ColumnKind::Worked, ("q", "", "v/m"));
    let m = column(&it.book, speeds, "m");
    done(&mut it.book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(m), y: Some(q) }));
    assert!(it.lost().is_some());
    // Units, two points, and nothing at all.
    line(&mut it.book, 1, it.places, ["t", "y"]);
    let row = RowAt::There(it.row);
    let m = column(&it.book, third, "m");
    let other = refused(&mut it.book, &enter(RowAt::Below, m, slope(1)));
    assert!(matches!(other, Refusal::WrongUnit { reading, .. } if reading.to_string() == "m/s"));
    for place in 0..4 {
        it.aside(place, true);
    }
    let unsure = refused(&mut it.book, &enter(row, it.v, slope(1)));
    let Refusal::Value { wrong: ValueError::Draw(wrong), .. } = unsure else { panic!("{unsure:?}") };
    assert!(matches!(*wrong, DrawError::Unsure { .. }));
    assert!(matches!(it.lost(), Some(DrawError::Unsure { .. })));
    let nowhere = [
        slope(77),
        DrawnFrom::Result { result: 1, group: None },
        DrawnFrom::Result { result: 9, group: Some("x".into()) },
    ];
    for source in nowhere {
        refused(&mut it.book, &enter(row, it.v, source));
    }
}

/// Σ of what is entered is known as well as the curve it came from: intercept + slope·x in cells is the height of the line.
#[test]
fn values_of_one_curve_are_known_together() {
    let mut it = fall();
    it.aside(5, true);
    let fit = fit(&it.book, 1);
    let [a, b] =
        [("a", "m"), ("b", "m/s")].map(|(s, unit)| add(&mut it.book, it.speeds, ColumnKind::Read, (s, unit, "")));
    let row = RowAt::There(it.row);
    done(&mut it.book, enter(row, a, intercept(1)));
    done(&mut it.book, enter(row, b, slope(1)));
    for (place, x) in [0.0, 2.0, 5.0].into_iter().enumerate() {
        let symbol = format!("h{place}");
        let h = add(&mut it.book, it.speeds, ColumnKind::Worked, (&symbol, "", &format!("a + b*{x} [s]")));
        let analysis = it.book.analyse();
        let table = analysis.tables.iter().find(|t| t.record.id == it.speeds).unwrap();
        let height = table.columns[table.place(h).unwrap()].cells[1].value().unwrap().clone();
        assert!((height.u() / fit.u_at(x) - 1.0).abs() < 1e-6, "{} for {}", height.u(), fit.u_at(x));
    }
    // A value looked up is the same height; looked up backwards it is the time.
    let look = |back, number: &str, unit: &str| DrawnFrom::Look {
        graph: 1,
        stretch: None,
        back,
        number: number.parse_decimal(),
        unit: Unit::parse(unit).unwrap(),
        place: 0,
        of: None,
    };
    let found = it.book.draw(&it.book.analyse(), &look(false, "5.0", "s")).unwrap();
    assert!((found.value.value - fit.at(5.0)).abs() < 1e-9 && (found.value.u() / fit.u_at(5.0) - 1.0).abs() < 1e-6);
    let found = it.book.draw(&it.book.analyse(), &look(true, "3.00", "m")).unwrap();
    let u0 = fit.residual_sd.hypot(0.01 / 12f64.sqrt());
    assert!((fit.at(found.value.value) - 3.0).abs() < 1e-9);
    assert!((found.value.u() / fit.u_of_x(found.value.value, u0) - 1.0).abs() < 1e-4, "{}", found.value.u());
}

trait ParseDecimal {
    fn parse_decimal(&self) -> zeitmass_core::quantity::Decimal;
}

impl ParseDecimal for str {
    fn parse_decimal(&self) -> zeitmass_core::quantity::Decimal {
        zeitmass_core::quantity::Decimal::parse(self).unwrap()
    }
}

/// Two trails of one film: the ratio of their speeds owes nothing to the ruler, their sum all of it.
#[test]
fn speeds_of_one_film_share_its_ruler() {
    let mut book = open(include_str!("../../../../labs/4.2-steady-fall.md"), 1);
    let times = (0..60).map(|i| f64::from(i) / 30.0).collect();
    let facts = FilmFacts {
        key: "sunshades".into(),
        title: "A fall".into(),
        width: 800,
        height: 600,
        times,
        length: String::new(),
    };
    done(&mut book, Edit::Film(FilmEdit::ChooseFilm { facts: Box::new(facts) }));
    let ends = [[100.0, 100.0], [100.0, 500.0]];
    let (film, typed) = ("sunshades".to_owned(), "2.000 m".to_owned());
    done(&mut book, Edit::Film(FilmEdit::PlaceRuler { film: film.clone(), index: None, ends, typed, circle: false }));
    let mut random = StdRng::seed_from_u64(5);
    for (k, name) in ["first", "second"].into_iter().enumerate() {
        done(&mut book, Edit::Film(FilmEdit::AddTrail { film: film.clone(), name: name.into(), table: None }));
        let trail = book.state().film("sunshades").unwrap().1.trails[k].id;
        let marks = (0..60).map(|i| {
            (
                i,
                [
                    200.0 + 100.0 * k as f64,
                    100.0 + (k + 2) as f64 * 2.0 * f64::from(i) + random.random_range(-0.2..0.2),
                ],
            )
        });
        done(&mut book, Edit::Film(FilmEdit::PlaceMarks { trail, marks: marks.collect() }));
    }
    let trails: Vec<_> = book.state().film("sunshades").unwrap().1.trails.clone();
    let speeds = book.state().record.tables[0].id;
    let v = column(&book, speeds, "v");
    let heads: Vec<(u32, u32)> = trails
        .iter()
        .map(|t| {
            let columns = &book.state().table(t.table).unwrap().columns;
            let named = |s: &str| columns.iter().find(|c| c.symbol.starts_with(s)).unwrap().id;
            (named("t"), named("y"))
        })
        .collect();
    let (x, y) = (Some(heads[0].0), Some(heads[0].1));
    done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x, y }));
    done(&mut book, Edit::Graph(GraphEdit::AddSeries { graph: 1, x: heads[1].0, y: heads[1].1 }));
    done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
    // One action fills the column, trail after trail.
    done(&mut book, Edit::Record(RecordEdit::LogDrawn { column: v, like: slope(1), all: true }));
    let rows = |book: &Logbook| {
        book.state().record.tables[0]
            .rows
            .iter()
            .filter_map(|r| r.cells.get(&v).map(|c| c.number.value()))
            .collect::<Vec<_>>()
    };
    let found = rows(&book);
    assert_eq!(found.len(), 2, "{found:?}");
    // 2 px a frame and 3: 200 px are a metre, 30 frames a second.
    assert!((found[0].abs() - 0.6).abs() < 0.01 && (found[1].abs() - 0.9).abs() < 0.01, "{found:?}");
    // Again, it fills the same cells.
    done(&mut book, Edit::Record(RecordEdit::LogDrawn { column: v, like: slope(1), all: true }));
    assert_eq!(rows(&book), found);
    let ratio = add(&mut book, speeds, ColumnKind::Worked, ("q", "", "max(v)/min(v)"));
    let sum = add(&mut book, speeds, ColumnKind::Worked, ("s", "", "sum(v)"));
    let relative = |book: &Logbook, id: u32| {
        let analysis = book.analyse();
        let table = &analysis.tables[0];
        let value = table.columns[table.place(id).unwrap()].cells[0].value().unwrap().clone();
        value.u() / value.value.abs()
    };
    let share = relative(&book, sum);
    assert!(relative(&book, ratio) < 0.5 * share, "{} of {share}", relative(&book, ratio));
    // Half the length on the ruler: every speed follows, and their ratio stays.
    let typed = "1.000 m".to_owned();
    let heard = done(&mut book, Edit::Film(FilmEdit::PlaceRuler { film, index: Some(0), ends, typed, circle: false }));
    assert!(matches!(&heard[..], [Heard::Followed(cells)] if cells.len() == 2), "{heard:?}");
    let halved = rows(&book);
    assert!(found.iter().zip(&halved).all(|(a, b)| (2.0 * b / a - 1.0).abs() < 1e-3), "{found:?} {halved:?}");
}

#[test]
fn the_density_of_each_liquid_goes_into_its_row() {
    let mut book = empty();
    let lines = [(1, 0.0), (1, 1.0), (1, 2.0), (3, 0.0), (3, 1.0), (3, 2.1), (2, 0.0), (2, 1.0), (2, 2.0)];
    let block = lines.map(|(g, x)| format!("{g}\t{x}\t{:.2}", f64::from(g) * x + 0.01 * x * x)).join("\n");
    let table = paste(&mut book, "depths", &format!("k\td (m)\tp (Pa)\n{block}"));
    let k = column(&book, table, "k");
    done(&mut book, Edit::Record(RecordEdit::GroupBy { table, column: Some(k) }));
    line(&mut book, 1, table, ["d", "p"]);
    done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: "2*w".into() }));
    let liquids = paste(&mut book, "liquids", "k\n1\n2\n3");
    let w = add(&mut book, liquids, ColumnKind::Read, ("w", "Pa/m", ""));
    done(
        &mut book,
        Edit::Record(RecordEdit::LogDrawn { column: w, like: DrawnFrom::Result { result: 1, group: None }, all: true }),
    );
    let halves: Vec<f64> =
        book.state().table(liquids).unwrap().rows.iter().map(|r| r.cells[&w].number.value()).collect();
    assert!(halves.iter().zip([0.5, 1.0, 1.5]).all(|(found, wanted)| (found - wanted).abs() < 0.02), "{halves:?}");
    // A value typed there is not written over: the next free row takes what has none.
    let typed = book.state().table(liquids).unwrap().rows[0].id;
    let was = Some(book.state().table(liquids).unwrap().rows[0].cells[&w].number.clone());
    done(&mut book, Edit::Record(RecordEdit::TypeCell { row: RowAt::There(typed), column: w, typed: "7".into(), was }));
    done(
        &mut book,
        Edit::Record(RecordEdit::LogDrawn { column: w, like: DrawnFrom::Result { result: 1, group: None }, all: true }),
    );
    let rows = &book.state().table(liquids).unwrap().rows;
    assert_eq!((rows.len(), rows[0].cells[&w].number.as_str()), (4, "7"));
}

/// What is worked out from the two cells of a line takes in the truth as often as it says, from the first row to the last, with four points and with forty.
#[test]
fn what_is_worked_out_from_entered_values_takes_in_the_truth() {
    let mut random = StdRng::seed_from_u64(11);
    let mut normal = || chance::normal(random.random_range(f64::MIN_POSITIVE..1.0), random.random_range(0.0..1.0));
    for n in [4_u32, 40] {
        let student = |share: f64| StudentsT::new(0.0, 1.0, f64::from(n - 2)).unwrap().inverse_cdf(0.5 + 0.5 * share);
        let ends = [0.0, f64::from(n - 1)];
        let mut within = [[0_u32; 2]; 2];
        const LABS: u32 = 1000;
        for _ in 0..LABS {
            let mut book = empty();
            let block: Vec<String> =
                (0..n).map(|i| format!("{i}\t{:.5}", 2.0 + 0.7 * f64::from(i) + 0.1 * normal())).collect();
            let table = paste(&mut book, "points", &format!("x\ty\n{}", block.join("\n")));
            line(&mut book, 1, table, ["x", "y"]);
            let cells = paste(&mut book, "cells", "a\tb\tx\n\t\t0\n");
            let [a, b] = ["a", "b"].map(|s| column(&book, cells, s));
            let row = RowAt::There(book.state().table(cells).unwrap().rows[0].id);
            done(&mut book, enter(row, a, intercept(1)));
            done(&mut book, enter(row, b, slope(1)));
            for (k, x) in ends.into_iter().enumerate() {
                let h = add(&mut book, cells, ColumnKind::Worked, (&format!("h{k}"), "", &format!("a + b*{x}")));
                let analysis = book.analyse();
                let seen = analysis.tables.last().unwrap();
                let height = seen.columns[seen.place(h).unwrap()].cells[0].value().unwrap();
                let off = (height.value - 2.0 - 0.7 * x).abs() / height.u();
                within[k][0] += u32::from(off <= student(0.6827));
                within[k][1] += u32::from(off <= student(0.9545));
            }
        }
        for [one, two] in within {
            let percent = |n: u32| 100.0 * f64::from(n) / f64::from(LABS);
            assert!(
                (percent(one) - 68.27).abs() <= 4.5 && (percent(two) - 95.45).abs() <= 2.5,
                "{n} points: {within:?}"
            );
        }
    }
}

#[derive(Clone, Debug)]
enum Did {
    Aside(usize, bool),
    Type(usize, i32),
    Enter(bool, usize),
    Freeze(usize, bool),
    Axes(bool),
    Model(bool),
    DeleteRow(usize),
    Undo,
    Redo,
}

fn deeds() -> impl Strategy<Value = Vec<Did>> {
    let one = prop_oneof![
        (0usize..6, any::<bool>()).prop_map(|(row, aside)| Did::Aside(row, aside)),
        (0usize..6, -99i32..99).prop_map(|(row, value)| Did::Type(row, value)),
        (any::<bool>(), 0usize..2).prop_map(|(slope, row)| Did::Enter(slope, row)),
        (0usize..2, any::<bool>()).prop_map(|(row, frozen)| Did::Freeze(row, frozen)),
        any::<bool>().prop_map(Did::Axes),
        any::<bool>().prop_map(Did::Model),
        (0usize..6).prop_map(Did::DeleteRow),
        Just(Did::Undo),
        Just(Did::Redo),
    ];
    prop::collection::vec(one, 1..40)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]
    /// Whatever is done: a cell that follows stands as its curve gives it, or says why it cannot; and taking the stored deeds again leads to the same.
    #[test]
    fn every_cell_that_follows_is_where_its_curve_is(all in deeds()) {
        let mut it = fall();
        let a = add(&mut it.book, it.speeds, ColumnKind::Read, ("a", "m", ""));
        let mut again = it.book.clone();
        // What was there before is not undone.
        let mut depth = 0;
        for did in all {
            let rows: Vec<u32> = it.book.state().table(it.places).unwrap().rows.iter().map(|r| r.id).collect();
            let speeds: Vec<u32> = it.book.state().table(it.speeds).unwrap().rows.iter().map(|r| r.id).collect();
            let Some(row) = rows.first().copied() else { break };
            let y = column(&it.book, it.places, "y");
            let edit = match did {
                Did::Aside(n, aside) => Edit::Record(RecordEdit::SetAside { row: *rows.get(n).unwrap_or(&row), aside, why: String::new() }),
                Did::Type(n, value) => {
                    let row = *rows.get(n).unwrap_or(&row);
                    let was = it.book.state().table(it.places).unwrap().row(row).unwrap().1.cells.get(&y).map(|r| r.number.clone());
                    let typed = format!("{:.2}", f64::from(value) / 10.0);
                    Edit::Record(RecordEdit::TypeCell { row: RowAt::There(row), column: y, typed, was })
                }
                Did::Enter(true, n) => enter(RowAt::There(speeds[n % speeds.len()]), it.v, slope(1)),
                Did::Enter(false, n) => enter(RowAt::There(speeds[n % speeds.len()]), a, intercept(1)),
                Did::Freeze(n, frozen) => Edit::Record(RecordEdit::Freeze { row: speeds[n % speeds.len()], column: it.v, frozen }),
                Did::Axes(right) => {
                    let x = column(&it.book, it.places, if right { "t" } else { "y" });
                    Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(x), y: Some(y) })
                }
                Did::Model(line) => Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(if line { Model::Line } else { Model::Quadratic }) }),
                Did::DeleteRow(n) => Edit::Record(RecordEdit::DeleteRow { row: *rows.get(n).unwrap_or(&row) }),
                Did::Undo if depth == 0 => continue,
                Did::Undo => Edit::Undo,
                Did::Redo => Edit::Redo,
            };
            let Ok(intent) = it.book.apply(&edit, 0) else { continue };
            match intent.deed.turn {
                Turn::Work if intent.deed.changes.is_empty() => {}
                Turn::Work | Turn::Redo => depth += 1,
                Turn::Undo => depth -= 1,
                Turn::Office => {}
            }
            again.take(intent.deed).unwrap();
            prop_assert!(again == it.book);
            let analysis = it.book.analyse();
            for row in &it.book.state().table(it.speeds).unwrap().rows {
                for reading in row.cells.values() {
                    let Some(drawn) = reading.origin.drawn().filter(|d| !d.frozen) else { continue };
                    match it.book.draw(&analysis, &drawn.source) {
                        Ok(found) => {
                            let off = (found.value.value - reading.si()).abs();
                            prop_assert!(off <= 0.3 * found.value.u() + 1e-9 * reading.si().abs(), "{found:?} {reading:?}");
                        }
                        Err(_) => prop_assert!(it.book.lost(&analysis, it.speeds, drawn).is_some()),
                    }
                }
            }
        }
    }
}
