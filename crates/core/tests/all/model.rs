//! The step model of a logbook: carried out on its three sheets, what a fitted parameter states, chance sequences of edits, and nonsense.

use proptest::prelude::*;
use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use statrs::distribution::{ContinuousCDF, StudentsT};
use zeitmass_core::chance;
use zeitmass_core::logbook::{
    Called, Counted, Differs, Edit, FilmEdit, Heard, Kept, Limit, Logbook, ModelEdit, ModelOutcome, ModelRefusal,
    OfficeEdit, RecordEdit, Refusal, ResultEdit, ResultSource, RunEdit, ShortText, State, Thing, Trace, ValueError,
};
use zeitmass_core::motion::FilmFacts;
use zeitmass_core::quantity::{NumberError, Unit};
use zeitmass_core::record::TableId;
use zeitmass_core::result::Term;
use zeitmass_core::step_model::{
    ForceField, ForceName, Method, ModelError, ModelField, Readings, Sought, StepModel, Typed, read_model,
};

use crate::common::{done, open, refused};

const DIAL: &str = include_str!("../../../../labs/4.9-weight-and-dial.md");
const SLEDGE: &str = include_str!("../../../../labs/3.5-the-braked-sledge.md");
const SPRING: &str = include_str!("../../../../labs/5.8-the-load-by-steps.md");

/// Standard gravity as it is typed.
const G: &str = "9.81 m/s^2";

fn model(book: &mut Logbook, edit: ModelEdit) {
    done(book, Edit::Model(edit));
}

fn typed(book: &mut Logbook, field: ModelField, typed: &str) {
    model(book, ModelEdit::Type { field, typed: typed.into() });
}

fn of_force(book: &mut Logbook, place: usize, field: ForceField, typed: &str) {
    model(book, ModelEdit::TypeForce { place, field, typed: typed.into() });
}

fn column(book: &Logbook, table: TableId, symbol: &str) -> u32 {
    book.state().table(table).unwrap().by_symbol(symbol).unwrap_or_else(|| panic!("no {symbol}")).id
}

fn newest(book: &Logbook) -> ModelOutcome {
    book.analyse().models.last().unwrap().clone()
}

/// Times the uncertainty of a single position that the newest model lies from the readings.
fn in_u(book: &Logbook) -> f64 {
    newest(book).worked.unwrap().agreement.unwrap().unwrap().in_uncertainties.unwrap()
}

/// A fall against quadratic drag from rest: s = (v²/g)·ln cosh(gt/v).
fn fallen(steady: f64, t: f64) -> f64 {
    if t <= 0.0 { 0.0 } else { steady * steady / 9.81 * (9.81 * t / steady).cosh().ln() }
}

/// A dial that sinks through a film of 60 frames a second, followed from frame to frame. 80 px are a metre.
fn sunk(seed: u64, drag: f64, scatter: f64) -> (Logbook, TableId) {
    let mut book = open(DIAL, seed);
    let times: Vec<f64> = (0..150).map(|i| f64::from(i) / 60.0).collect();
    let facts = FilmFacts {
        key: "weight-and-dial".into(),
        title: "A dial sinks".into(),
        width: 640,
        height: 360,
        times: times.clone(),
        length: String::new(),
    };
    done(&mut book, Edit::Film(FilmEdit::ChooseFilm { facts: Box::new(facts) }));
    let film = "weight-and-dial".to_owned();
    let (ends, ruler) = ([[500.0, 340.0], [500.0, 180.0]], "2.000 m".to_owned());
    done(
        &mut book,
        Edit::Film(FilmEdit::PlaceRuler { film: film.clone(), index: None, ends, typed: ruler, circle: false }),
    );
    done(&mut book, Edit::Film(FilmEdit::AddTrail { film, name: "dial".into(), table: None }));
    let trail = book.state().film("weight-and-dial").unwrap().1.trails[0].clone();
    let mut random = StdRng::seed_from_u64(seed);
    let steady = (0.0043 * 9.81 / drag).sqrt();
    let marks = times.iter().zip(0..).skip(6).map(|(t, i)| {
        let aside = 8.0 * (t * 6.6).sin();
        let mut normal = || chance::normal(random.random_range(f64::MIN_POSITIVE..1.0), random.random_range(0.0..1.0));
        let at = [300.0 + aside, 40.0 + 80.0 * fallen(steady, t - 0.1)].map(|v: f64| v + scatter * normal());
        (i, at)
    });
    let marks = marks.collect();
    done(&mut book, Edit::Film(FilmEdit::PlaceMarks { trail: trail.id, marks }));
    (book, trail.table)
}

#[test]
fn the_dial_comes_to_its_drag_and_shows_what_changed() {
    let (mut book, table) = sunk(3, 0.0205, 0.1);
    // The trail's columns offer themselves.
    let compared = book.compared(&book.analyse()).unwrap();
    assert_eq!(compared.t, column(&book, table, "t"));
    assert!(compared.x.is_some() && compared.y.is_some());
    model(&mut book, ModelEdit::Compare { t: compared.t, x: None, y: compared.y });
    typed(&mut book, ModelField::Mass, "4.3 g");
    of_force(&mut book, 0, ForceField::G, G);
    model(&mut book, ModelEdit::StartFromData);
    model(&mut book, ModelEdit::Choose { method: Method::Midpoint });
    model(&mut book, ModelEdit::Run);
    assert!(in_u(&book) > 100.0, "without drag it is far off: {}", in_u(&book));
    model(&mut book, ModelEdit::AddForce { kind: ForceName::DragSquared });
    let heard = done(&mut book, Edit::Model(ModelEdit::Fit { place: 1 }));
    assert!(matches!(heard[..], [Heard::Fitted { field: ForceField::K, .. }]), "{heard:?}");
    let outcome = newest(&book);
    let force = Called { kind: ForceName::DragSquared, name: None };
    assert_eq!(outcome.changed.unwrap()[0], Differs::Added { force, on: true });
    let worked = outcome.worked.unwrap();
    let terminal = worked.terminal.unwrap();
    let p = book.state().model.runs[1].parameter().unwrap();
    assert!((p.value - 0.0205).abs() < 3.0 * p.u && p.u < 0.02 * p.value, "{} ± {}", p.value, p.u);
    // From m g = k v².
    assert!((terminal.speed - (0.0043 * 9.81 / p.value).sqrt()).abs() < 1e-4, "{terminal:?}");
    assert!(terminal.after.is_some_and(|t| (0.3..0.6).contains(&t)));
    assert!(worked.by_half.is_some_and(|by| by < 0.01));
    assert!((0.5..1.6).contains(&in_u(&book)), "{}", in_u(&book));
    // Its curve lies over the student's own graph too.
    let analysis = book.analyse();
    let held = book.compared(&analysis).unwrap();
    let figure = book.model_figure(&analysis, held, Trace::Y).unwrap();
    assert_eq!(figure.models.iter().map(|m| m.newest).collect::<Vec<_>>(), [false, true]);
    assert_eq!(figure.models[1].left.len(), worked.at.len());
    assert!(book.model_figure(&analysis, held, Trace::Vy).is_none());
    // Constant: the fitted parameter, with its uncertainty, until the model is deleted.
    let run = book.state().model.runs[1].id;
    done(&mut book, Edit::Result(ResultEdit::ChooseSource { result: 1, from: ResultSource::Model { run } }));
    let analysis = book.analyse();
    let constant = analysis.outcome(1).unwrap().constant.clone().unwrap().unwrap();
    assert_eq!((constant.value, constant.u), (p.value, p.u));
    let unfitted = ResultSource::Model { run: book.state().model.runs[0].id };
    refused(&mut book, &Edit::Result(ResultEdit::ChooseSource { result: 1, from: unfitted }));
    model(&mut book, ModelEdit::Delete { run });
    assert!(book.analyse().outcome(1).unwrap().constant.clone().unwrap().is_err());
    done(&mut book, Edit::Undo);
    assert!(book.analyse().outcome(1).unwrap().constant.clone().unwrap().is_ok());
    // With velocities in the record, they are drawn beside the model's.
    let text = crate::common::text("velocity", "v", "m/s", "rate(y, t)");
    let kind = zeitmass_core::record::ColumnKind::Worked;
    done(&mut book, Edit::Record(RecordEdit::AddColumn { table, kind, text }));
    let analysis = book.analyse();
    let figure = book.model_figure(&analysis, held, Trace::Vy).unwrap();
    assert!(figure.models[1].points.last().unwrap().1 < -1.3);
}

/// A run of a rig, recorded into a table.
fn recorded(book: &mut Logbook, names: &[&str], every: u32) -> TableId {
    done(book, Edit::Run(RunEdit::Run));
    let names = names.iter().map(|n| (*n).to_owned()).collect();
    done(book, Edit::Run(RunEdit::Record { channels: names, from: 0, to: 600, every, into: None }));
    book.state().record.tables.last().unwrap().id
}

/// What comes out, in its standard uncertainties from the key; and the key accepts it.
fn against_key(book: &Logbook) -> f64 {
    let analysis = book.analyse();
    let found = analysis.outcome(1).unwrap().constant.clone().unwrap().unwrap();
    let key = book.key().unwrap();
    let [value, u] = [found.value, found.u].map(|v| v * found.unit.size() / key.unit.size());
    assert!(key.accepts(value, u), "{}: {value} ± {u}, wanted {}", book.sheet().number, key.value);
    assert!(u < 0.03 * key.value, "{value} ± {u}");
    (value - key.value) / u
}

#[test]
fn braked_sledge_and_load_come_to_their_keys() {
    for seed in 0..6 {
        let mut book = open(SLEDGE, seed);
        let table = recorded(&mut book, &["s", "v"], 5);
        let [t, s] = ["t", "s"].map(|symbol| column(&book, table, symbol));
        model(&mut book, ModelEdit::Compare { t, x: Some(s), y: None });
        let foot = {
            let analysis = book.analyse();
            let made = analysis.tables.iter().find(|w| w.record.id == table).unwrap();
            let ways = &made.columns[made.place(s).unwrap()].cells;
            let row = ways.iter().position(|c| c.value().unwrap().value > 2.0).unwrap();
            made.text(made.place(t).unwrap(), row)
        };
        // The readings of the slope come before its start.
        typed(&mut book, ModelField::T, &format!("{foot} s"));
        typed(&mut book, ModelField::Mass, "2.40 kg");
        typed(&mut book, ModelField::Step, "0.01 s");
        model(&mut book, ModelEdit::RemoveForce { place: 0 });
        model(&mut book, ModelEdit::AddForce { kind: ForceName::Friction });
        model(&mut book, ModelEdit::StartFromData);
        model(&mut book, ModelEdit::Choose { method: Method::Midpoint });
        model(&mut book, ModelEdit::Fit { place: 0 });
        let run = book.state().model.runs[0].id;
        done(&mut book, Edit::Result(ResultEdit::ChooseSource { result: 1, from: ResultSource::Model { run } }));
        done(&mut book, Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: "μ*m*g".into() }));
        done(
            &mut book,
            Edit::Record(RecordEdit::HoldQuantity { name: "gravity".into(), symbol: "g".into(), typed: G.into() }),
        );
        assert!(against_key(&book).abs() < 4.0, "sledge {seed}: {}", against_key(&book));

        let mut book = open(SPRING, seed);
        done(&mut book, Edit::Run(RunEdit::SetSetting { name: "pull".into(), typed: "0 cm".into() }));
        let rest = recorded(&mut book, &["y"], 50);
        let rest = {
            let y = column(&book, rest, "y");
            book.state().table(rest).unwrap().rows[0].cells[&y].number.as_str().to_owned()
        };
        done(&mut book, Edit::Run(RunEdit::SetSetting { name: "pull".into(), typed: "6.0 cm".into() }));
        let table = recorded(&mut book, &["y", "v"], 5);
        let [t, y] = ["t", "y"].map(|symbol| column(&book, table, symbol));
        model(&mut book, ModelEdit::Compare { t, x: None, y: Some(y) });
        typed(&mut book, ModelField::Mass, "300 g");
        typed(&mut book, ModelField::Step, "0.01 s");
        typed(&mut book, ModelField::Until, "2 s");
        model(&mut book, ModelEdit::RemoveForce { place: 0 });
        model(&mut book, ModelEdit::AddForce { kind: ForceName::Spring });
        of_force(&mut book, 0, ForceField::Y, &format!("{rest} m"));
        of_force(&mut book, 0, ForceField::K, "18 N/m");
        model(&mut book, ModelEdit::StartFromData);
        model(&mut book, ModelEdit::Run);
        // The old velocity makes the swings grow; the midpoint keeps them.
        let grown = |book: &Logbook| {
            let worked = newest(book).worked.unwrap();
            let swings = worked.curve.iter().map(|s| (s.t, (s.position[1] - rest.parse::<f64>().unwrap()).abs()));
            let most = |from: f64, to: f64| {
                swings.clone().filter(|(t, _)| (from..to).contains(t)).map(|s| s.1).fold(0.0, f64::max)
            };
            most(1.2, 2.1) / most(0.0, 0.9)
        };
        assert!(grown(&book) > 1.2, "{}", grown(&book));
        model(&mut book, ModelEdit::Choose { method: Method::Midpoint });
        model(&mut book, ModelEdit::Fit { place: 0 });
        assert!((grown(&book) - 1.0).abs() < 0.03, "{}", grown(&book));
        let run = book.state().model.runs[1].id;
        done(&mut book, Edit::Result(ResultEdit::ChooseSource { result: 1, from: ResultSource::Model { run } }));
        assert!(against_key(&book).abs() < 4.0, "spring {seed}: {}", against_key(&book));
    }
}

/// What is stated of a fitted drag: at few and at many positions, with the start typed or taken from the same positions, with a scale that all share
/// and a mass read to 0.1 g, in positions of a film's pixels.
#[test]
fn a_fitted_parameter_takes_in_the_truth_with_all_it_rests_on() {
    let mut random = StdRng::seed_from_u64(8);
    let mut normal = || chance::normal(random.random_range(f64::MIN_POSITIVE..1.0), random.random_range(0.0..1.0));
    let labs: u32 = std::env::var("ZEITMASS_TRUTH_LABS").ok().and_then(|n| n.parse().ok()).unwrap_or(300);
    let text = |mass: f64, y: f64, k: f64| {
        let (model, _) = read_model(&format!(
            "mass = \"{mass} kg\"\nstep = \"0.02 s\"\nuntil = \"2 s\"\nmethod = \"midpoint\"\nstart = {{ y = \"{y} m\" }}\n[[forces]]\nkind = \"weight\"\ng = \"9.81 m/s^2\"\n[[forces]]\nkind = \"drag squared\"\nk = \"{k} kg/m\"\n"
        ))
        .unwrap();
        model
    };
    for (n, start) in [(4_u32, false), (40, false), (6, true), (40, true)] {
        let (mut one, mut two, mut all) = (0, 0, 0);
        for _ in 0..labs {
            let (m, k) = (0.0043 + 2e-5 * normal(), 0.0125);
            let truth = StepModel { step: 0.002, ..text(m, 3.8, k) }.run().unwrap();
            let scale = 0.01 * normal();
            // Positions to a tenth of a pixel of 12.5 mm, with a follower's scatter of 0.3 px.
            let place = |t: f64, by: f64| {
                ((truth.position_at(t).unwrap()[1] + 0.004 * by) / 0.00125).round() * 0.00125 * (1.0 + scale)
            };
            let t: Vec<f64> = (0..n).map(|i| 1.9 * f64::from(i) / f64::from(n - 1)).collect();
            let y: Vec<f64> = t.iter().map(|t| place(*t, normal())).collect();
            let shared = vec![y.iter().map(|y| [0.0, 0.01 * y]).collect()];
            let mass = (m * 1e4).round() / 1e4;
            let begun = if start { y[0] } else { 3.8 * (1.0 + scale) };
            let readings = Readings { t, y: Some(y), u: Some(0.004), shared, ..Readings::default() };
            let sought = Sought { place: 1, start, mass_u: 1e-4 / 12f64.sqrt() };
            let found = text(mass, begun, 0.02).fitted(&sought, &readings).unwrap();
            let student = |share: f64| {
                let freedom = found.freedom.min(1e6);
                StudentsT::new(0.0, 1.0, freedom).unwrap().inverse_cdf(0.5 + 0.5 * share)
            };
            let off = (found.parameter.value - k).abs() / found.parameter.u;
            one += u32::from(off <= student(0.6827));
            two += u32::from(off <= student(0.9545));
            all += 1;
        }
        let percent = |k: u32| 100.0 * f64::from(k) / f64::from(all);
        let chance = |p: f64| 300.0 * (p * (1.0 - p) / f64::from(all)).sqrt();
        crate::common::tell(&format!(
            "step model, {n} positions, start {start}: {:.1} {:.1}",
            percent(one),
            percent(two)
        ));
        assert!(
            (percent(one) - 68.27).abs() <= 3.0 + chance(0.68) && (percent(two) - 95.45).abs() <= 2.0 + chance(0.95),
            "{n} positions, start from the data {start}: {one} and {two} of {all}"
        );
    }
}

/// Held against one trail, then against the other, as one does without thinking: by choosing its times.
#[test]
fn another_table_is_chosen_by_its_times() {
    let (mut book, dial) = sunk(5, 0.0205, 0.1);
    let film = "weight-and-dial".to_owned();
    done(&mut book, Edit::Film(FilmEdit::AddTrail { film, name: "weight".into(), table: None }));
    let weight = book.state().film.films[0].trails[1].clone();
    let marks = (0..40).map(|i| (i, [200.0, 40.0 + 0.1 * f64::from(i * i)])).collect();
    done(&mut book, Edit::Film(FilmEdit::PlaceMarks { trail: weight.id, marks }));
    let of = |book: &Logbook, table: TableId| ["t", "x", "y"].map(|symbol| column(book, table, symbol));
    let ([t, _, y], [t2, x2, y2]) = (of(&book, dial), of(&book, weight.table));
    model(&mut book, ModelEdit::Compare { t, x: None, y: Some(y) });
    model(&mut book, ModelEdit::Compare { t: t2, x: None, y: Some(y) });
    let compared = book.compared(&book.analyse()).unwrap();
    assert_eq!((compared.t, compared.x, compared.y), (t2, Some(x2), Some(y2)));
    // A model stays with the readings it was run beside; the list of one body knows nothing of the other.
    typed(&mut book, ModelField::Mass, "800 g");
    model(&mut book, ModelEdit::StartFromData);
    model(&mut book, ModelEdit::Run);
    let of_weight = in_u(&book);
    model(&mut book, ModelEdit::Compare { t, x: None, y: Some(y) });
    assert_eq!(in_u(&book), of_weight);
    let analysis = book.analyse();
    let held = book.compared(&analysis).unwrap();
    assert!(
        analysis.models_of(held).is_empty() && book.model_figure(&analysis, held, Trace::Y).unwrap().models.is_empty()
    );
    model(&mut book, ModelEdit::StartFromData);
    model(&mut book, ModelEdit::Run);
    let analysis = book.analyse();
    assert!(analysis.models.iter().all(|m| m.changed.is_none()) && analysis.models_of(held).len() == 1);
    // What was fitted is known as little as readings when it comes from a file with another number in it.
    model(&mut book, ModelEdit::AddForce { kind: ForceName::DragSquared });
    model(&mut book, ModelEdit::Fit { place: 1 });
    let mut content = book.state().clone();
    let restore = |book: &mut Logbook, content: &State| {
        let content = Box::new(content.clone());
        done(book, Edit::Office(OfficeEdit::Restore { content }));
        book.brought().models
    };
    assert_eq!(restore(&mut book, &content), 0);
    content.model.runs[2].fitted.as_mut().unwrap().value = 0.0205;
    assert_eq!(restore(&mut book, &content), 1);
    // Within one table what does not go together is refused as before.
    let [t, x, y] = of(&book, book.state().film.films[0].trails[1].table);
    let other = of(&book, book.state().film.films[0].trails[0].table)[2];
    assert_ne!(y, other);
    refused(&mut book, &Edit::Model(ModelEdit::Compare { t, x: Some(x), y: Some(other) }));
}

#[test]
fn what_cannot_be_is_said_and_nothing_changes() {
    let mut other = crate::common::empty();
    assert_eq!(refused(&mut other, &Edit::Model(ModelEdit::Run)), ModelRefusal::NoModel.into());
    let (mut book, table) = sunk(1, 0.0205, 0.1);
    let [t, y] = ["t", "y"].map(|symbol| column(&book, table, symbol));
    let model_error = |wrong| Refusal::Value { wrong: ValueError::from(wrong), kept: Kept::NothingChanged };
    let said = |book: &mut Logbook, edit: ModelEdit, why: Refusal| {
        assert_eq!(refused(book, &Edit::Model(edit)), why);
    };
    said(&mut book, ModelEdit::Run, model_error(ModelError::ValueWanted { field: ModelField::Mass }));
    typed(&mut book, ModelField::Mass, "4.3 g");
    let (mass, unit) = (Typed::Model(ModelField::Mass), |text| Unit::parse(text).unwrap());
    let in_seconds = ModelError::OtherUnit { what: mass, wanted: unit("kg"), typed: unit("s") };
    let error = NumberError::NotANumber("a lot".into()).into();
    for (field, text, why) in [
        (ModelField::Mass, "4.3 s", model_error(in_seconds)),
        (ModelField::Mass, "a lot", model_error(ModelError::Quantity { what: mass, error })),
        (ModelField::Step, &"9".repeat(500), Refusal::Limit(Limit::Short { of: ShortText::Typed, most: 400 })),
    ] {
        said(&mut book, ModelEdit::Type { field, typed: text.into() }, why);
    }
    typed(&mut book, ModelField::Step, "1e-9 s");
    said(&mut book, ModelEdit::Run, model_error(ModelError::TooManySteps { most: 5000 }));
    typed(&mut book, ModelField::Step, "0.02 s");
    said(&mut book, ModelEdit::Fit { place: 7 }, Refusal::Gone(Thing::Force));
    said(&mut book, ModelEdit::Compare { t, x: None, y: None }, ModelRefusal::NoPositions.into());
    said(&mut book, ModelEdit::Compare { t: y, x: None, y: Some(t) }, ModelRefusal::NotHeldAgainst.into());
    said(&mut book, ModelEdit::Compare { t: 999_999, x: None, y: Some(y) }, Refusal::Gone(Thing::Column));
    let no_field = ModelRefusal::NoField { force: ForceName::Weight.name(), field: ForceField::K.name() };
    said(&mut book, ModelEdit::TypeForce { place: 0, field: ForceField::K, typed: "1 kg/m".into() }, no_field.into());
    model(&mut book, ModelEdit::AddForce { kind: ForceName::Own });
    let own = |typed: &str| Edit::Model(ModelEdit::TypeForce { place: 1, field: ForceField::Y, typed: typed.into() });
    let no_force = ModelError::NoForce { text: "m*x".into(), unit: unit("kg m") };
    assert_eq!(refused(&mut book, &own("m*x")), model_error(no_force));
    for text in ["q*x", "sin("] {
        let why = refused(&mut book, &own(text));
        let Refusal::Value { wrong: ValueError::Model(wrong), .. } = why else { panic!("{why:?}") };
        assert!(matches!(*wrong, ModelError::Formula { .. }), "{wrong:?}");
    }
    said(&mut book, ModelEdit::Fit { place: 1 }, ModelRefusal::NothingToFit { force: ForceName::Own.name() }.into());
    // Twice the same is one model, and there is an end to how many stay.
    model(&mut book, ModelEdit::Run);
    said(&mut book, ModelEdit::Run, ModelRefusal::JustSo { number: 1 }.into());
    for k in 0..11 {
        typed(&mut book, ModelField::Step, &format!("0.0{k}5 s"));
        model(&mut book, ModelEdit::Run);
    }
    typed(&mut book, ModelField::Step, "0.2 s");
    said(&mut book, ModelEdit::Run, Refusal::Limit(Limit::Many { of: Counted::Models, most: 12 }));
    // A force that reads nothing off the record, and readings that are gone: said, not panicked.
    let columns = book.state().table(table).unwrap().columns.len();
    assert!(columns > 2);
    let trail = book.state().film.films[0].trails[0].id;
    done(&mut book, Edit::Film(FilmEdit::DeleteTrail { trail }));
    let no_end = ModelError::ValueWanted { field: ModelField::Until };
    assert!(book.analyse().models.iter().all(|m| m.worked.as_ref().is_err_and(|e| *e == no_end)));
}

fn any_model_edit() -> impl Strategy<Value = ModelEdit> {
    let words = || {
        prop::sample::select(vec!["4.3 g", "0.05 s", "1 m", "2 m/s", "-0.3 N", "0.02 kg/m", "", "x", "-k*x", "3"])
            .prop_map(str::to_owned)
    };
    let fields = prop::sample::select(ModelField::ALL);
    let values = prop::sample::select(vec![
        ForceField::G,
        ForceField::K,
        ForceField::X,
        ForceField::Y,
        ForceField::To,
        ForceField::Force,
    ]);
    let kinds = prop::sample::select(ForceName::ALL);
    let methods = prop::sample::select(Method::ALL);
    prop_oneof![
        (fields, words()).prop_map(|(field, typed)| ModelEdit::Type { field, typed }),
        methods.prop_map(|method| ModelEdit::Choose { method }),
        Just(ModelEdit::StartFromData),
        kinds.prop_map(|kind| ModelEdit::AddForce { kind }),
        (0usize..4).prop_map(|place| ModelEdit::RemoveForce { place }),
        (0usize..4, any::<bool>()).prop_map(|(place, on)| ModelEdit::Switch { place, on }),
        (0usize..4, values, words()).prop_map(|(place, field, typed)| ModelEdit::TypeForce { place, field, typed }),
        Just(ModelEdit::Run),
        (0usize..3).prop_map(|place| ModelEdit::Fit { place }),
        (1000u32..1030).prop_map(|run| ModelEdit::Delete { run }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    /// Whatever is asked for, in whatever order: a refusal changes nothing, undo leads back to the start, and what is stored reads the same again.
    #[test]
    fn chance_sequences_come_back_by_undo_and_from_what_is_stored(edits in prop::collection::vec(any_model_edit(), 1..25)) {
        let (mut book, _) = sunk(2, 0.0205, 0.1);
        let begun = book.state().model.clone();
        let mut did = 0;
        for edit in edits {
            let text = serde_json::to_string(&Edit::Model(edit.clone())).unwrap();
            prop_assert_eq!(serde_json::from_str::<Edit>(&text).unwrap(), Edit::Model(edit.clone()));
            let before = book.clone();
            match book.apply(&Edit::Model(edit), 0) {
                Ok(intent) => did += u32::from(!intent.deed.changes.is_empty()),
                Err(_) => prop_assert!(book == before),
            }
            let _ = book.analyse();
        }
        let held = serde_json::to_string(book.state()).unwrap();
        let again: State = serde_json::from_str(&held).unwrap();
        prop_assert_eq!(&again, book.state());
        for _ in 0..did {
            book.apply(&Edit::Undo, 0).unwrap();
        }
        prop_assert_eq!(&book.state().model, &begun);
    }
}
