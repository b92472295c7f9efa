//! Films in a logbook: scale and axes, marks that fill rows, undo, moments, and whether the uncertainties tell the truth.

use std::io::Write;
use zeitmass_core::logbook::{
    ColumnText, Edit, FilmEdit, FilmRefusal, Flaw, FootageEdit, FootageRefusal, FromTrail, GraphEdit, Instrument,
    Logbook, MomentOf, OfficeEdit, OfficeRefusal, RecordEdit, RecordRefusal, Refusal, RowAt, RunEdit, RunRefusal, Seen,
};
use zeitmass_core::quantity::{Decimal, Footage, Unit};

use crate::common::{done, open, refused};
use proptest::prelude::*;
use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use zeitmass_core::fit::Model;
use zeitmass_core::formula::Problem;
use zeitmass_core::motion::{Ask, Axes, FilmFacts, Plane, Ruler, Scale, Tools, ask};
use zeitmass_core::record::{ColumnKind, Record};
use zeitmass_words::Words;

const THROWN: &str = include_str!("../../../../labs/4.1-thrown-ball.md");
const SLEDGE: &str = include_str!("../../../../labs/3.3-sledge-at-three-angles.md");

fn book(sheet: &str) -> Logbook {
    open(sheet, 3)
}

fn facts(key: &str, frames: usize) -> Edit {
    let times = (0..frames).map(|n| n as f64 / 60.0).collect();
    let facts = FilmFacts { key: key.into(), title: key.into(), width: 640, height: 360, times, length: String::new() };
    Edit::Film(FilmEdit::ChooseFilm { facts: Box::new(facts) })
}

fn ruler(film: &str, ends: [[f64; 2]; 2], typed: &str) -> Edit {
    Edit::Film(FilmEdit::PlaceRuler { film: film.into(), index: None, ends, typed: typed.into(), circle: false })
}

/// A film with scale (0.01 m/px), axes in the corner and a trail; gives the trail and its table.
fn begun(book: &mut Logbook, film: &str, frames: usize) -> (u32, u32) {
    done(book, facts(film, frames));
    done(book, ruler(film, [[28.0, 312.0], [28.0, 112.0]], "2.000 m"));
    done(
        book,
        Edit::Film(FilmEdit::PlaceAxes { film: film.into(), origin: [0.0, 360.0], angle: "0".into(), flipped: false }),
    );
    done(book, Edit::Film(FilmEdit::AddTrail { film: film.into(), name: "ball".into(), table: None }));
    let trail = book.state().film(film).unwrap().1.trails.last().unwrap();
    (trail.id, trail.table)
}

fn table(book: &Logbook, id: u32) -> &Record {
    book.state().table(id).unwrap()
}

/// Texts of a row of the table as shown.
fn row(book: &Logbook, id: u32, row: usize) -> Vec<String> {
    let analysis = book.analyse();
    let table = analysis.tables.iter().find(|t| t.record.id == id).unwrap();
    (0..table.columns.len()).map(|c| table.text(c, row)).collect()
}

#[test]
fn marks_fill_rows_in_the_order_of_frames_and_follow_scale_axes_and_zero() {
    let mut book = book(THROWN);
    let (trail, id) = begun(&mut book, "tower-yard", 66);
    for (frame, at) in [(12, [120.0, 160.0]), (6, [60.5, 260.0]), (18, [180.0, 100.0])] {
        done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame, at }));
    }
    assert_eq!(row(&book, id, 0), ["0.1000", "0.605", "1.000"]);
    assert_eq!(row(&book, id, 2), ["0.3000", "1.800", "2.600"]);
    // What a person typed into a marked row stays when the mark moves.
    let note = ColumnText { name: "note".into(), symbol: "n".into(), ..ColumnText::default() };
    done(&mut book, Edit::Record(RecordEdit::AddColumn { table: id, kind: ColumnKind::Read, text: note }));
    let (column, first) = (table(&book, id).by_symbol("n").unwrap().id, table(&book, id).rows[0].id);
    done(
        &mut book,
        Edit::Record(RecordEdit::TypeCell { row: RowAt::There(first), column, typed: "7".into(), was: None }),
    );
    done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame: 6, at: [70.0, 260.0] }));
    assert_eq!(row(&book, id, 0), ["0.1000", "0.700", "1.000", "7"]);
    // t = 0 elsewhere, the axes turned by a quarter, twice the scale: all rows follow.
    let tools = Tools { zero: 6, ..Tools::default() };
    done(&mut book, Edit::Footage(FootageEdit::PlaceTools { on: Footage::Film(0), tools }));
    assert_eq!(row(&book, id, 1)[0], "0.1000");
    let turn = Edit::Film(FilmEdit::PlaceAxes {
        film: "tower-yard".into(),
        origin: [0.0, 360.0],
        angle: "90°".into(),
        flipped: true,
    });
    done(&mut book, turn);
    assert_eq!(row(&book, id, 1)[..3], ["0.1000", "2.000", "1.200"]);
    let film = || "tower-yard".to_owned();
    let ends = [[28.0, 312.0], [28.0, 112.0]];
    done(
        &mut book,
        Edit::Film(FilmEdit::PlaceRuler { film: film(), index: Some(0), ends, typed: "400 cm".into(), circle: false }),
    );
    assert_eq!(row(&book, id, 1)[..3], ["0.1000", "4.000", "2.400"]);
    // Without any ruler the table is in pixels, and says so.
    done(&mut book, Edit::Film(FilmEdit::DeleteRuler { film: film(), index: 0 }));
    assert_eq!(row(&book, id, 1)[..3], ["0.1000", "200.0", "120.0"]);
    assert_eq!(table(&book, id).by_symbol("x").unwrap().unit.as_ref().unwrap().pretty(), "px");
    let before = book.state().clone();
    for _ in 0..12 {
        done(&mut book, Edit::Undo);
    }
    for _ in 0..12 {
        done(&mut book, Edit::Redo);
    }
    assert_eq!(*book.state(), before);
}

#[test]
fn what_cannot_be_done_with_a_film_is_refused_and_changes_nothing() {
    let mut book = book(THROWN);
    let (trail, id) = begun(&mut book, "tower-yard", 66);
    done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame: 3, at: [10.0, 20.0] }));
    let film = || "tower-yard".to_owned();
    assert_eq!(refused(&mut book, &Edit::Run(RunEdit::Run)), RunRefusal::Filmed.into());
    assert!(
        refused(&mut book, &Edit::Film(FilmEdit::PlaceMark { trail, frame: 66, at: [1.0, 1.0] }))
            == FilmRefusal::Outside.into()
    );
    refused(&mut book, &Edit::Film(FilmEdit::PlaceMark { trail, frame: 1, at: [f64::NAN, 1.0] }));
    refused(&mut book, &Edit::Film(FilmEdit::PlaceMarks { trail, marks: vec![(1, [1.0, 1.0]), (2, [900.0, 1.0])] }));
    refused(&mut book, &Edit::Film(FilmEdit::PlaceMark { trail: 5, frame: 1, at: [1.0, 1.0] }));
    let second = FilmRefusal::NoLength { typed: "2 s".into(), what: "length" };
    assert_eq!(refused(&mut book, &ruler("tower-yard", [[1.0, 1.0], [9.0, 9.0]], "2 s")), second.into());
    let close = ruler("tower-yard", [[1.0, 1.0], [2.0, 2.0]], "2 m");
    assert_eq!(refused(&mut book, &close), FilmRefusal::EndsTogether.into());
    refused(
        &mut book,
        &Edit::Film(FilmEdit::PlaceAxes { film: film(), origin: [0.0, 0.0], angle: "3 m".into(), flipped: false }),
    );
    refused(
        &mut book,
        &Edit::Footage(FootageEdit::PlaceTools { on: Footage::Film(0), tools: Tools { zero: 66, ..Tools::default() } }),
    );
    let delete = Edit::Record(RecordEdit::DeleteTable { table: id });
    assert!(matches!(refused(&mut book, &delete), Refusal::Record(RecordRefusal::TableOfMarks { .. })));
    let x = table(&book, id).by_symbol("x").unwrap().id;
    let first = table(&book, id).rows[0].id;
    let write = Edit::Record(RecordEdit::TypeCell {
        row: RowAt::There(first),
        column: x,
        typed: "3".into(),
        was: Decimal::parse("0.100").ok(),
    });
    assert!(matches!(refused(&mut book, &write), Refusal::Record(RecordRefusal::FilledByMarks { .. })));
    refused(&mut book, &Edit::Record(RecordEdit::DeleteColumn { column: x }));
    // Deleting a marked row takes its mark with it; deleting the trail takes all.
    done(&mut book, Edit::Record(RecordEdit::DeleteRow { row: first }));
    assert!(book.state().film.films[0].trails[0].marks.is_empty());
    done(&mut book, Edit::Film(FilmEdit::PlaceMarks { trail, marks: vec![(1, [1.0, 1.0]), (2, [9.0, 1.0])] }));
    done(&mut book, Edit::Film(FilmEdit::DeleteTrail { trail }));
    assert_eq!((table(&book, id).rows.len(), book.state().film.films[0].trails.len()), (0, 0));
    done(&mut book, Edit::Undo);
    assert_eq!((table(&book, id).rows.len(), book.state().film.films[0].trails[0].marks.len()), (2, 2));
}

#[test]
fn trails_of_several_films_share_a_table_with_their_condition() {
    let mut book = book(SLEDGE);
    let (first, id) = begun(&mut book, "sledge-10", 60);
    done(&mut book, facts("sledge-30", 40));
    done(&mut book, ruler("sledge-30", [[10.0, 10.0], [10.0, 60.0]], "0.800 m"));
    done(
        &mut book,
        Edit::Film(FilmEdit::AddTrail { film: "sledge-30".into(), name: "sledge".into(), table: Some(id) }),
    );
    let second = book.state().film("sledge-30").unwrap().1.trails[0].id;
    for frame in 0..4u32 {
        let at = f64::from(frame) * 10.0;
        done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail: second, frame, at: [at, 90.0] }));
        done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail: first, frame, at: [at, 100.0] }));
    }
    let shown: Vec<Vec<String>> = (0..8).map(|r| row(&book, id, r)).collect();
    assert_eq!(shown.iter().map(|r| r[0].as_str()).collect::<Vec<_>>(), [["30.0"; 4], ["10.0"; 4]].concat());
    // Rates do not reach from one film into the other.
    done(&mut book, Edit::Film(FilmEdit::AddFromTrail { trail: first, what: FromTrail::Velocity, rows: None }));
    let at = table(&book, id).columns.iter().position(|c| c.symbol == "vx").unwrap();
    let speeds: Vec<f64> = (0..8).map(|r| row(&book, id, r)[at].parse().unwrap()).collect();
    assert!(speeds[..4].iter().all(|v| (v - 9.6).abs() < 0.5), "{speeds:?}");
    assert!(speeds[4..].iter().all(|v| (v - 6.0).abs() < 0.5), "{speeds:?}");
    // Taken along and brought back, it is the same.
    let content = serde_json::to_value(book.state()).unwrap();
    let mut other = self::book(SLEDGE);
    done(&mut other, Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_value(content).unwrap()) }));
    assert_eq!((0..8).map(|r| row(&other, other.state().film.films[0].trails[0].table, r)).collect::<Vec<_>>(), {
        (0..8).map(|r| row(&book, id, r)).collect::<Vec<_>>()
    });
}

#[test]
fn a_moment_tells_energies_and_forces_with_their_formulas() {
    let mut book = book(THROWN);
    let (trail, _) = begun(&mut book, "tower-yard", 66);
    let of = |frame| MomentOf { trail: Some(trail), frame, ..MomentOf::default() };
    let missing = book.moment(&of(0)).unwrap_err();
    assert!(matches!(missing, Refusal::Footage(FootageRefusal::NotMarked { .. })));
    // x = 3 m/s · t, y = 1 m + 4 m/s · t − 4.905 m/s² · t².
    for frame in 0..20u32 {
        let t = f64::from(frame) / 60.0;
        let (x, y) = (3.0 * t, 1.0 + 4.0 * t - 4.905 * t * t);
        done(
            &mut book,
            Edit::Film(FilmEdit::PlaceMarks { trail, marks: vec![(frame, [100.0 * x, 360.0 - 100.0 * y])] }),
        );
    }
    let Seen { moment, name, .. } = book.moment(&of(10)).unwrap();
    let body = book.body("150 g", None).unwrap();
    let value = |what| ask(what, &moment, body).unwrap().value;
    let (t, vy) = (10.0 / 60.0, 4.0 - 9.81 / 6.0);
    assert!(name.contains("ball"));
    for (what, wanted) in [
        (Ask::X, 0.5),
        (Ask::VelocityX, 3.0),
        (Ask::VelocityY, vy),
        (Ask::Acceleration, 9.81),
        (Ask::Momentum, 0.15 * 3f64.hypot(vy)),
        (Ask::Kinetic, 0.075 * (9.0 + vy * vy)),
        (Ask::Potential, 0.15 * 9.80665 * (1.0 + 4.0 * t - 4.905 * t * t)),
        (Ask::Force, 0.15 * 9.81),
    ] {
        assert!((value(what) - wanted).abs() < 2e-3 * wanted.abs(), "{what:?}: {} {wanted}", value(what));
    }
    assert!((value(Ask::Total) - value(Ask::Kinetic) - value(Ask::Potential)).abs() < 1e-12);
    assert_eq!(ask(Ask::Kinetic, &moment, None), None);
    assert!(book.body("3 s", None).is_err() && book.body("-1 kg", None).is_err() && book.body("heavy", None).is_err());
    // One action logs it, with the formula as its origin.
    let text =
        ColumnText { name: "kinetic energy".into(), symbol: "Ek".into(), unit: "J".into(), ..ColumnText::default() };
    let id = book.state().record.tables[0].id;
    done(&mut book, Edit::Record(RecordEdit::AddColumn { table: id, kind: ColumnKind::Read, text }));
    let column = table(&book, id).by_symbol("Ek").unwrap().id;
    let instrument = Instrument::Moment { of: of(10), what: Ask::Kinetic, mass: "0.150 kg".into() };
    done(&mut book, Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column, instrument }));
    let reading = table(&book, id).rows.last().unwrap().cells[&column].clone();
    assert!((reading.si() - value(Ask::Kinetic)).abs() < reading.u_si());
    assert!(reading.words().contains("½ m v²"), "{}", reading.words());
}

/// Derivatives beside SciPy's savgol_filter (version in the fixture, made by tools/reference/films.py).
#[test]
fn local_parabolas_agree_with_scipy() {
    let fixture: serde_json::Value = serde_json::from_str(include_str!("../fixtures/savgol.json")).unwrap();
    let numbers =
        |v: &serde_json::Value| -> Vec<f64> { v.as_array().unwrap().iter().map(|n| n.as_f64().unwrap()).collect() };
    let (every, x) = (fixture["every"].as_f64().unwrap(), numbers(&fixture["x"]));
    let sheet = include_str!("../../../../labs/2.1-tower-pendulum.md");
    let rows: Vec<String> = x.iter().enumerate().map(|(i, x)| format!("{:.12}\t{x:.4}", i as f64 * every)).collect();
    for case in fixture["cases"].as_array().unwrap() {
        let mut book = book(sheet);
        let text = format!("t (s)\tx (m)\n{}", rows.join("\n"));
        done(
            &mut book,
            Edit::Record(RecordEdit::Paste {
                table: None,
                name: "marks".into(),
                row: RowAt::Below,
                column: None,
                text,
            }),
        );
        let id = book.state().record.tables.last().unwrap().id;
        for (symbol, function) in [("v", "rate"), ("a", "rate2")] {
            let formula = format!("{function}(x, t, {})", case["rows"]);
            let text = ColumnText { name: symbol.into(), symbol: symbol.into(), formula, ..ColumnText::default() };
            done(&mut book, Edit::Record(RecordEdit::AddColumn { table: id, kind: ColumnKind::Worked, text }));
        }
        let analysis = book.analyse();
        let table = analysis.tables.iter().find(|t| t.record.id == id).unwrap();
        for (column, name, size) in [(2, "rate", 5.0), (3, "rate2", 10.0)] {
            for (i, wanted) in numbers(&case[name]).into_iter().enumerate() {
                let got = table.columns[column].cells[i].value().unwrap().value;
                assert!((got - wanted).abs() < 1e-6 * size, "{name} over {}, row {i}: {got} {wanted}", case["rows"]);
            }
        }
    }
    // An even number of rows has no middle.
    let mut book = book(sheet);
    let text =
        ColumnText { name: "v".into(), symbol: "v".into(), formula: "rate(L, t10, 4)".into(), ..ColumnText::default() };
    let edit = Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Worked, text });
    assert!(matches!(refused(&mut book, &edit), Refusal::Formula { error, .. } if error.problem == Problem::Window));
}

/// g from a thrown ball, marked and scaled by a hand that is off by up to half a pixel, within its own uncertainty of the g put in: about
/// 68 in 100. By v against t, whose points share marks, and by a parabola through y against t.
#[test]
fn two_thirds_of_a_hundred_throws_agree_within_one_uncertainty() {
    let (mut by_velocity, mut by_parabola) = (0, 0);
    for seed in 0..100 {
        let mut random = StdRng::seed_from_u64(seed);
        let mut book = book(THROWN);
        let (trail, id) = begun(&mut book, "tower-yard", 66);
        // The ends of the ruler are off as well: 200 px are 2 m.
        let mut off = || random.random_range(-0.5..0.5);
        let ends = [[28.0 + off(), 312.0 + off()], [28.0 + off(), 112.0 + off()]];
        let place = |ends| {
            Edit::Film(FilmEdit::PlaceRuler {
                film: "tower-yard".into(),
                index: Some(0),
                ends,
                typed: "2.000 m".into(),
                circle: false,
            })
        };
        done(&mut book, place(ends));
        let (vx, vy): (f64, f64) = (random.random_range(4.0..5.0), random.random_range(4.5..5.5));
        let marks = (0..60).step_by(3).map(|frame: u32| {
            let t = f64::from(frame) / 60.0;
            let mut off = || random.random_range(-0.5..0.5);
            let at = [20.0 + 100.0 * vx * t + off(), 300.0 - 100.0 * (vy * t - 4.905 * t * t) + off()];
            (frame, at)
        });
        let marks = marks.collect();
        done(&mut book, Edit::Film(FilmEdit::PlaceMarks { trail, marks }));
        done(&mut book, Edit::Film(FilmEdit::AddFromTrail { trail, what: FromTrail::Velocity, rows: Some(5) }));
        let symbol = |s: &str| table(&book, id).by_symbol(s).map(|c| c.id);
        let (t, y, v) = (symbol("t"), symbol("y"), symbol("vy"));
        for (up, model, factor) in [(v, Model::Line, 1.0), (y, Model::Quadratic, 2.0)] {
            done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: t, y: up }));
            done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(model) }));
            let analysis = book.analyse();
            let fit = analysis.graph(1).unwrap().first_fit().unwrap();
            let p = &fit.parameters[0];
            let agrees = (factor * p.value + 9.81).abs() <= factor * p.u;
            if up == v { by_velocity += i32::from(agrees) } else { by_parabola += i32::from(agrees) }
        }
    }
    let figures = format!("{by_velocity} by velocity, {by_parabola} by parabola");
    writeln!(std::io::stdout(), "within one standard uncertainty: {figures}").unwrap();
    // 68 ± 3·√(100·0.68·0.32).
    assert!((54..=82).contains(&by_velocity), "{by_velocity} of 100 by velocity");
    assert!((54..=82).contains(&by_parabola), "{by_parabola} of 100 by parabola");
}

#[derive(serde::Deserialize)]
struct Projected {
    corners: [[f64; 2]; 4],
    sides: [f64; 2],
    at: Vec<[f64; 2]>,
    on: Vec<[f64; 2]>,
}

#[derive(serde::Deserialize)]
struct Planes {
    planes: Vec<Projected>,
}

fn plane(corners: [[f64; 2]; 4], [width, height]: [f64; 2]) -> Plane {
    Plane { corners, sides: [metres(&format!("{width:.3}")), metres(&format!("{height:.3}"))] }
}

/// Projective maps by OpenCV (version in the fixture, made by tools/reference/films.py), which works in single precision.
#[test]
fn planes_agree_with_opencv() {
    let all: Planes = serde_json::from_str(include_str!("../fixtures/planes.json")).unwrap();
    for case in all.planes {
        let flat = plane(case.corners, case.sides).flat().unwrap();
        for (at, [x, y]) in case.at.iter().zip(&case.on) {
            let [right, down] = flat.of(*at);
            let off = (right - x).hypot(down - y);
            assert!(off < 1e-4 * (1.0 + x.hypot(*y)), "{at:?}: {right} {down} instead of {x} {y}");
        }
    }
}

fn place_plane(corners: [[f64; 2]; 4], typed: [&str; 2]) -> Edit {
    let typed = typed.map(str::to_owned);
    Edit::Film(FilmEdit::PlacePlane { film: "tower-yard".into(), corners, typed })
}

/// Laid, moved and taken away again, all rows follow; what makes no plane, or leaves a mark beyond its horizon, changes nothing.
#[test]
fn a_rectangle_sets_rows_right_and_nonsense_is_refused() {
    let mut book = book(THROWN);
    let (trail, id) = begun(&mut book, "tower-yard", 66);
    for (frame, at) in [(0, [120.0, 260.0]), (6, [400.0, 160.0])] {
        done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame, at }));
    }
    let before = [row(&book, id, 0), row(&book, id, 1)];
    // Seen squarely, 300 px by 200 px are 3 m by 2 m: as with the ruler, wherever it lies.
    let square = [[100.0, 300.0], [400.0, 300.0], [400.0, 100.0], [100.0, 100.0]];
    done(&mut book, place_plane(square, ["3.000 m", "200.0 cm"]));
    assert_eq!([row(&book, id, 0), row(&book, id, 1)], before);
    // The right side half as high. The middle of the rectangle is where its diagonals meet: not half-way on the picture.
    let slant = [[100.0, 300.0], [400.0, 250.0], [400.0, 150.0], [100.0, 100.0]];
    done(&mut book, place_plane(slant, ["3.000 m", "2.000 m"]));
    let axes = |origin, angle: &str| {
        Edit::Film(FilmEdit::PlaceAxes { film: "tower-yard".into(), origin, angle: angle.into(), flipped: false })
    };
    done(&mut book, axes([100.0, 300.0], "0"));
    done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame: 6, at: [300.0, 200.0] }));
    assert_eq!(row(&book, id, 1)[1..3], ["1.500", "1.000"]);
    done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame: 6, at: [400.0, 150.0] }));
    assert_eq!(row(&book, id, 1)[1..3], ["3.000", "2.000"]);
    let stood = book.clone();
    let beyond = [[0.0, 340.0], [100.0, 250.0], [100.0, 150.0], [0.0, 60.0]];
    assert_eq!(refused(&mut book, &place_plane(beyond, ["3 m", "2 m"])), FilmRefusal::Beyond.into());
    let [a, b, c, d] = slant;
    let nan = [f64::NAN, 0.0];
    for corners in [[b, a, d, c], [a, c, b, d], [a, b, b, d], [a, b, c, nan], [a, b, c, [1e300, 0.0]], [a; 4]] {
        let refusal = refused(&mut book, &place_plane(corners, ["3 m", "2 m"]));
        assert_eq!(refusal, FilmRefusal::NoRectangle.into(), "{corners:?}");
    }
    for typed in [["3 s", "2 m"], ["3 m", "-2 m"], ["", "2 m"], ["3 m", "wide"]] {
        refused(&mut book, &place_plane(slant, typed));
    }
    assert_eq!(refused(&mut book, &axes([720.0, 200.0], "0")), FilmRefusal::Beyond.into());
    assert!(book == stood);
    // Taken along and brought back it is the same; forged, it is not let in.
    let content = serde_json::to_value(book.state()).unwrap();
    let mut other = self::book(THROWN);
    done(
        &mut other,
        Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_value(content.clone()).unwrap()) }),
    );
    let table = other.state().film.films[0].trails[0].table;
    assert_eq!(row(&other, table, 1), row(&book, id, 1));
    let mut forged = content;
    forged["film"]["films"][0]["plane"]["corners"][2] = serde_json::json!([100.0, 300.0]);
    let forged = Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_value(forged).unwrap()) });
    assert_eq!(refused(&mut other, &forged), OfficeRefusal::NotBrought(Flaw::OverFilm).into());
    done(&mut book, Edit::Film(FilmEdit::DeletePlane { film: "tower-yard".into() }));
    done(&mut book, axes([0.0, 360.0], "0"));
    done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame: 6, at: [400.0, 160.0] }));
    assert_eq!([row(&book, id, 0), row(&book, id, 1)], before);
    refused(&mut book, &Edit::Film(FilmEdit::DeletePlane { film: "tower-yard".into() }));
    for _ in 0..3 {
        done(&mut book, Edit::Undo);
    }
    assert_eq!(book.state().film, stood.state().film);
}

fn metres(typed: &str) -> (Decimal, Unit) {
    (Decimal::parse(typed).unwrap(), Unit::parse("m").unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn axes_turn_there_and_back_and_keep_lengths(
        origin in prop::array::uniform2(-500f64..500.0), angle in -7f64..7.0, flipped: bool,
        a in prop::array::uniform2(0f64..700.0), b in prop::array::uniform2(0f64..700.0),
    ) {
        let axes = Axes { origin, angle, flipped };
        let (pa, pb) = (axes.along(a), axes.along(b));
        let back = axes.back(pa);
        prop_assert!((back[0] - a[0]).hypot(back[1] - a[1]) < 1e-9);
        let long = |p: [f64; 2], q: [f64; 2]| (p[0] - q[0]).hypot(p[1] - q[1]);
        prop_assert!((long(pa, pb) - long(a, b)).abs() < 1e-9);
        // Flipped, y changes its sign and x does not.
        let other = Axes { flipped: !flipped, ..axes }.along(a);
        prop_assert!((other[0] - pa[0]).abs() < 1e-12 && (other[1] + pa[1]).abs() < 1e-12);
    }

    /// Corners go to the corners of the rectangle, and every place goes there and back.
    #[test]
    fn planes_map_there_and_back(
        off in prop::array::uniform8(-60f64..60.0), width in 0.1f64..9.0, height in 0.1f64..9.0,
        at in prop::array::uniform2(0f64..1.0),
    ) {
        let square = [[150.0, 300.0], [480.0, 300.0], [480.0, 80.0], [150.0, 80.0]];
        let corners = std::array::from_fn(|i| [square[i][0] + off[2 * i], square[i][1] + off[2 * i + 1]]);
        let plane = plane(corners, [width, height]);
        let flat = plane.flat().unwrap();
        let [w, h] = plane.sides.each_ref().map(|(n, _)| n.value());
        for (corner, [x, y]) in corners.into_iter().zip([[0.0, 0.0], [w, 0.0], [w, -h], [0.0, -h]]) {
            let [right, down] = flat.of(corner);
            prop_assert!((right - x).hypot(down - y) < 1e-9 * (w + h));
            prop_assert!(flat.sees(corner));
        }
        let place = [at[0] * w, -at[1] * h];
        let px = flat.back(place);
        let again = flat.of(px);
        prop_assert!((again[0] - place[0]).hypot(again[1] - place[1]) < 1e-9 * (w + h));
        // Its slope is that of its differences.
        let [[a, b], [c, d]] = flat.slope(px);
        let by = |dx: f64, dy: f64| {
            let [x, y] = flat.of([px[0] + dx, px[1] + dy]);
            [(x - again[0]) * 1e4, (y - again[1]) * 1e4]
        };
        let ([e, g], [f, i]) = (by(1e-4, 0.0), by(0.0, 1e-4));
        let size = a.hypot(b).max(c.hypot(d));
        for (one, other) in [(a, e), (b, f), (c, g), (d, i)] {
            prop_assert!((one - other).abs() < 1e-4 * size, "{} {}", one, other);
        }
    }

    #[test]
    fn the_scale_is_length_over_pixels_and_so_is_its_uncertainty(
        x in 0f64..300.0, y in 0f64..200.0, long in 40f64..400.0, turn in 0f64..6.3, millimetres in 50u32..9000,
    ) {
        let length = metres(&format!("{:.3}", f64::from(millimetres) / 1000.0));
        let ends = [[x, y], [x + long * turn.cos(), y + long * turn.sin()]];
        let one = Ruler { ends, length: length.clone(), circle: false };
        let (scale, u) = one.scale();
        prop_assert!((scale * long - length.0.value()).abs() < 1e-9);
        // By differences: an end moved along the ruler by its uncertainty, the length by that of its last digit.
        let step = (2.0f64 / 12.0).sqrt();
        let by_pixels = length.0.value() / long - length.0.value() / (long + step);
        let by_length = 0.001 / 12f64.sqrt() / long;
        prop_assert!((u - by_pixels.hypot(by_length)).abs() < 0.02 * u);
        // Two rulers that say the same are better than one by √2, and do not disagree.
        let both = Scale::of(&[one.clone(), one.clone()]).unwrap();
        prop_assert!((both.metres - scale).abs() < 1e-12 && (both.u * 2f64.sqrt() - u).abs() < 1e-9 && !both.disagree);
        let askew = Ruler { length: metres(&format!("{:.3}", 1.5 * length.0.value())), ..one.clone() };
        prop_assert!(Scale::of(&[one, askew]).unwrap().disagree);
    }

    /// The scale's uncertainty is carried to the slope as a share, not washed out by many marks.
    #[test]
    fn many_marks_do_not_wash_out_the_scale(marks in 10u32..60) {
        let mut book = book(THROWN);
        let (trail, id) = begun(&mut book, "tower-yard", 66);
        let all = (0..marks).map(|f| (f, [5.0 + 9.0 * f64::from(f), 100.0])).collect();
        done(&mut book, Edit::Film(FilmEdit::PlaceMarks { trail, marks: all }));
        let symbol = |s: &str| table(&book, id).by_symbol(s).map(|c| c.id);
        let (t, x) = (symbol("t"), symbol("x"));
        done(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: t, y: x }));
        done(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
        let analysis = book.analyse();
        let slope = analysis.graph(1).unwrap().first_fit().unwrap().slope().unwrap().clone();
        let scale = book.state().film.films[0].scale().unwrap();
        prop_assert!((slope.value - 5.4).abs() < 1e-2);
        let share = scale.u / scale.metres;
        prop_assert!((slope.u / slope.value - share).abs() < 0.05 * share, "{} {}", slope.u / slope.value, share);
    }
}

/// What an edit did is read again as it was, whatever it holds: maps with numbers as keys are no exception.
#[test]
fn a_restored_logbook_with_marks_survives_being_stored() {
    let mut book = book(THROWN);
    let (trail, _) = begun(&mut book, "tower-yard", 66);
    done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame: 12, at: [120.0, 160.0] }));
    let edit = Edit::Office(OfficeEdit::Restore { content: Box::new(book.state().clone()) });
    let deed = book.apply(&edit, 0).unwrap().deed;
    let stored = serde_json::to_string(&deed).unwrap();
    assert_eq!(serde_json::from_str::<zeitmass_core::logbook::Deed>(&stored).unwrap(), deed);
}

/// A file from before origins and first marks were counted as uncertain is believed as it was; one with a scale better than its ruler is not.
#[test]
fn marks_of_an_earlier_file_are_borne_out_and_forged_ones_are_not() {
    let mut book = book(THROWN);
    let (trail, _) = begun(&mut book, "tower-yard", 66);
    done(&mut book, Edit::Film(FilmEdit::PlaceMark { trail, frame: 12, at: [120.0, 160.0] }));
    done(&mut book, Edit::Film(FilmEdit::PlaceMarks { trail, marks: vec![(13, [126.0, 150.0])] }));
    let brought = |change: &dyn Fn(&mut serde_json::Map<String, serde_json::Value>)| {
        let mut content = serde_json::to_value(book.state()).unwrap();
        each_scale(&mut content, change);
        let mut other = book.clone();
        let edit = Edit::Office(OfficeEdit::Restore { content: Box::new(serde_json::from_value(content).unwrap()) });
        other.apply(&edit, 0).unwrap();
        other.brought().readings
    };
    assert_eq!(brought(&|_| ()), 0);
    assert_eq!(brought(&|scale| scale.retain(|key, _| !["place", "start"].contains(&key.as_str()))), 0);
    // Two marks with x and y each.
    assert_eq!(brought(&|scale| drop(scale.insert("relative".into(), 1e-9.into()))), 4);
    assert_eq!(brought(&|scale| drop(scale.insert("place".into(), serde_json::json!(["x", 1e-9])))), 4);
}

/// Does something to all that readings of films have in common, wherever it stands.
fn each_scale(value: &mut serde_json::Value, change: &dyn Fn(&mut serde_json::Map<String, serde_json::Value>)) {
    match value {
        serde_json::Value::Object(all) if all.contains_key("relative") => change(all),
        serde_json::Value::Object(all) => all.values_mut().for_each(|v| each_scale(v, change)),
        serde_json::Value::Array(all) => all.iter_mut().for_each(|v| each_scale(v, change)),
        _ => (),
    }
}
