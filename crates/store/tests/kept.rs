//! A store written once is opened by every later program: kept as a fixture with every kind of edit in it, together with what its
//! logbooks held. `cargo test -p zeitmass-store --test kept -- --ignored` writes the fixture anew; do so only while nobody uses the
//! program in earnest.

#![allow(clippy::wildcard_enum_match_arm, reason = "a test asks for one kind, and for nothing of the others")]

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

use rusqlite::Connection;
use serde_json::Value;
use zeitmass_core::fit::{Model, Shape, Weighting};
use zeitmass_core::graph::Gap;
use zeitmass_core::inquiry::{CurvePick, Pointer, Position, Step, Supposed};
use zeitmass_core::logbook::{
    AnswerEdit, ClaimEdit, ColumnText, CurveText, Edit, FilmEdit, FootageEdit, ForecastEdit, FromTrail, GraphEdit,
    GraphShows, Instrument, Logbook, ModelEdit, MomentOf, OfficeEdit, PAGE_ROWS, Part, RecordEdit, Refusal, ResultEdit,
    ResultSource, RowAt, RunEdit, Shows, Snapshot, StopBy, Taken, TextField, WriteUpEdit, WritingEdit,
};
use zeitmass_core::motion::{Ask, FilmFacts, Tools};
use zeitmass_core::quantity::{Decimal, DrawnFrom, Footage, PrecisionBy, PrecisionText};
use zeitmass_core::record::ColumnKind;
use zeitmass_core::result::Term;
use zeitmass_core::rigs::HandMotion;
use zeitmass_core::step_model::{ForceField, ForceName, Method, ModelField};
use zeitmass_store::{Actor, Asked, Id, Store, StoreError};

const PENDULUM: &str = include_str!("../../../labs/2.1-tower-pendulum.md");
const STORIES: &str = include_str!("../../../labs/1.2-three-stories.md");
const MAIL: &str = include_str!("../../../labs/1.1-mail-shuttle.md");
const RANGE: &str = include_str!("../../../labs/4.5-range.md");
const BALL: &str = include_str!("../../../labs/4.1-thrown-ball.md");

const HILLS: &str = include_str!("../../../labs/8.1-hill-railway.md");
const PLANETS: &str = include_str!("../../../labs/9.1-years-of-the-planets.md");
const CABINS: &str = include_str!("../../../labs/3.4-cabins-at-the-mast.md");
const DISCS: &str = include_str!("../../../labs/10.1-half-of-them.md");

/// Stores written by programs of before, the newest last.
const STORES: [&str; 11] = [
    "store-1", "store-2", "store-3", "store-4", "store-5", "store-6", "store-7", "store-8", "store-9", "store-10",
    "store-11",
];

fn fixture(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures").join(name)
}

/// A class whose logbooks are filled one after the other.
struct Town {
    store: Store,
    teacher: Id,
    student: Id,
    class: Id,
    kinds: BTreeSet<String>,
}

impl Town {
    fn logbook(&mut self, key: &str, sheet: &str) -> (Id, Logbook) {
        self.store.load_shipped(key, sheet).unwrap();
        let id = self.store.sheets(self.teacher).unwrap().into_iter().find(|s| s.source == sheet).unwrap().id;
        self.store.assign(self.teacher, self.class, id).unwrap();
        let lab = self.store.assignments(self.class).unwrap().last().unwrap().id;
        let logbook = self.store.open_logbook(self.student, lab).unwrap();
        (logbook, self.store.load_logbook(logbook).unwrap().book)
    }

    fn act(&mut self, (id, book): &mut (Id, Logbook), edit: Edit) {
        let by = match &edit {
            Edit::Office(OfficeEdit::SendBack { .. } | OfficeEdit::Stamp { .. } | OfficeEdit::SayWord { .. }) => {
                Actor::Teacher(self.teacher)
            }
            _ => Actor::Student(self.student),
        };
        self.kinds.insert(kind(&edit));
        let token = format!("edit {} of {id}", book.seq() + 1);
        let asked = Asked { by, token: Some(&token), edit: &edit };
        self.store.carry_out(*id, book, asked).unwrap_or_else(|e| panic!("{edit:?}: {e}"));
    }
}

/// `record type_cell`, or `undo`.
fn kind(edit: &Edit) -> String {
    let edit = serde_json::to_value(edit).unwrap();
    let Some((subject, inner)) = edit.as_object().and_then(|o| o.iter().next()) else { return edit.to_string() };
    let name = inner.as_str().or_else(|| inner.as_object()?.keys().next().map(String::as_str));
    format!("{subject} {}", name.unwrap_or_default())
}

/// All kinds there are: what serde says it expected, and what pages may not send.
fn all_kinds() -> BTreeSet<String> {
    let expected = |json: &str| {
        let told = serde_json::from_str::<Edit>(json).unwrap_err().to_string();
        told.split('`').skip(1).step_by(2).skip(1).map(str::to_owned).collect::<Vec<_>>()
    };
    let mut all: BTreeSet<String> = [
        "\"undo\"",
        "\"redo\"",
        "film choose_film",
        "film place_marks",
        "office send_back",
        "office restore",
        "office go_back",
        "office stamp",
        "office say_word",
    ]
    .map(str::to_owned)
    .into();
    for subject in expected(r#"{"?":0}"#).into_iter().filter(|s| !["undo", "redo"].contains(&s.as_str())) {
        let kinds = expected(&format!(r#"{{"{subject}":{{"?":0}}}}"#));
        // A subject with a single kind is told in another way.
        let kinds = match subject.as_str() {
            "footage" => vec!["place_tools".to_owned()],
            "writing" => vec!["write".to_owned()],
            _ => kinds,
        };
        all.extend(kinds.into_iter().map(|k| format!("{subject} {k}")));
    }
    all
}

fn text(name: &str, symbol: &str, unit: &str, formula: &str) -> ColumnText {
    let precision = PrecisionText { by: PrecisionBy::Resolution, ..PrecisionText::default() };
    let (name, symbol, unit, formula) = (name.into(), symbol.into(), unit.into(), formula.into());
    ColumnText { name, symbol, unit, formula, precision }
}

fn tables(t: &mut Town, book: &mut (Id, Logbook)) {
    use RecordEdit as R;
    let cell = |row, column, typed: &str, was: Option<&str>| R::TypeCell {
        row,
        column,
        typed: typed.into(),
        was: was.and_then(|w| Decimal::parse(w).ok()),
    };
    let begun = PAGE_ROWS + 77;
    let split = Instrument::Split { of: Footage::Run(1), start: 0, end: 1890 };
    let tape =
        Instrument::Tape { of: Footage::Run(1), frame: 3, zero: [0.0, 0.0], reading: [0.0, -0.9], tenths: Some(4) };
    let setting = Instrument::Setting { name: "length".into() };
    for edit in [
        cell(RowAt::Begun(begun), 1, "0,900", None),
        R::LogReading { row: RowAt::Begun(begun), column: 2, instrument: split },
        R::LogReading { row: RowAt::Below, column: 1, instrument: setting },
        R::LogReading { row: RowAt::Below, column: 1, instrument: tape },
        cell(RowAt::Begun(begun), 1, "90.0 cm", Some("0.900")),
        R::AddColumn { table: 1, kind: ColumnKind::Worked, text: text("period", "T", "", "t10/10") },
        R::AddColumn { table: 1, kind: ColumnKind::Set, text: text("mass", "m", "g", "") },
        R::AddTable { name: "second".into() },
        R::Paste {
            table: Some(1),
            name: String::new(),
            row: RowAt::Below,
            column: None,
            text: "L (m)\tt10 (s)\n1.2\t21.98\n1.5\t24.57\n1.8\t26.91".into(),
        },
        R::HoldQuantity { symbol: "q".into(), name: "charge".into(), typed: "3.0 g".into() },
        R::HoldQuantity { symbol: "r".into(), name: "radius".into(), typed: "2 cm".into() },
        R::ReleaseQuantity { symbol: "q".into() },
    ] {
        t.act(book, Edit::Record(edit));
    }
    let state = book.1.state().clone();
    let (first, second) = (&state.record.tables[0], state.record.tables[1].id);
    let of = |symbol: &str| first.by_symbol(symbol).unwrap().id;
    let (mass, period, rows) = (of("m"), of("T"), first.rows.iter().map(|r| r.id).collect::<Vec<_>>());
    for edit in [
        R::FillColumn { column: mass, from: "10".into(), to: "60".into(), count: 6 },
        R::ChangeColumn { column: mass, text: text("bob mass", "mb", "g", "") },
        R::MoveColumn { column: mass, by: -1 },
        R::GroupBy { table: 1, column: Some(mass) },
        R::GroupBy { table: 1, column: None },
        R::AddRow { table: 1, above: Some(rows[1]) },
        R::MoveRow { row: rows[2], by: 1 },
        R::SetAside { row: rows[2], aside: true, why: "it touched the wall".into() },
        R::DeleteRow { row: rows[1] },
        R::NameTable { table: second, name: "repeats".into() },
        R::AddColumn { table: second, kind: ColumnKind::Read, text: text("count", "n", "\"cogs\"", "") },
    ] {
        t.act(book, Edit::Record(edit));
    }
    let n = book.1.state().record.tables[1].columns[0].id;
    t.act(book, Edit::Record(R::AddRun { column: n }));
    let run = book.1.state().record.tables[1].columns[1].id;
    for edit in [
        R::SetRunAside { column: run, why: Some("the timer started late".into()) },
        R::StopWhen { table: second, stem: "n".into(), rule: StopBy::Change, value: "2 %".into() },
        R::DeleteColumn { column: mass },
        R::AddTable { name: "third".into() },
    ] {
        t.act(book, Edit::Record(edit));
    }
    let third = book.1.state().record.tables[2].id;
    t.act(book, Edit::Record(R::DeleteTable { table: third }));
    graphs(t, book, period);
}

fn graphs(t: &mut Town, book: &mut (Id, Logbook), period: u32) {
    use GraphEdit as G;
    for edit in [
        G::AddGraph,
        G::ChooseAxes { graph: 1, x: Some(1), y: Some(period) },
        G::NameGraph { graph: 1, title: "Tower".into(), across: String::new(), up: "period".into() },
        G::SetAxis { graph: 1, up: false, logarithmic: false, zero: true, from: String::new(), to: "2 m".into() },
        G::Zoom { graph: 1, range: Some([[0.1, 1.9], [0.5, 3.0]]) },
        G::ShowOnGraph { graph: 1, what: GraphShows::Residuals, on: true },
        G::ChooseModel { graph: 1, model: Some(Model::Line) },
    ] {
        t.act(book, Edit::Graph(edit));
    }
    let second = book.1.state().graph.graphs[1].id;
    let formula = CurveText::Formula { formula: "T = sqrt(k*L)".into(), start: "k=4 s^2/m".into() };
    for edit in [
        G::ChooseFit { graph: 1, stretch: None, curve: formula, weighting: Weighting::Up },
        G::ChooseFit { graph: 1, stretch: None, curve: CurveText::Offered(Model::Line), weighting: Weighting::Equal },
        G::AddStretch { graph: 1, from: "0.5 m".into(), to: "1.6 m".into() },
        G::LookAhead { graph: 1, back: false, typed: "3 m".into(), stretch: None },
        G::FillGap { graph: 1, gap: Gap::SlopeUnit, typed: "s/m".into() },
        G::ChooseAxes { graph: second, x: Some(1), y: Some(2) },
        G::ChooseAxis { graph: second, up: true, column: Some(1) },
        G::ChooseAxis { graph: second, up: true, column: Some(2) },
        G::AddSeries { graph: second, x: 1, y: period },
        G::RemoveSeries { graph: second, index: 0 },
        G::ChooseShape { graph: second, shape: Shape::SquareUp },
    ] {
        t.act(book, Edit::Graph(edit));
    }
    let stretch = book.1.state().graph.graphs[0].stretches[0].id;
    let change = G::ChangeStretch { graph: 1, stretch, from: "0.4 m".into(), to: "1.6 m".into() };
    t.act(book, Edit::Graph(change));
    t.act(
        book,
        Edit::Record(RecordEdit::SetBoxAside { graph: second, range: [[0.0, 1.0], [0.0, 500.0]], aside: true }),
    );
    use ResultEdit as E;
    t.act(book, Edit::Result(E::AddResult { name: "second".into() }));
    let own = book.1.state().result.results[1].id;
    let curve = ResultSource::Curve { graph: 1, stretch: Some(stretch), series: None, parameter: "slope".into() };
    for edit in [
        E::NameResult { result: own, name: "own".into() },
        E::ChooseSource { result: 1, from: curve },
        E::StateLaw { result: 1, term: Term::Slope, typed: "2*pi/sqrt(g)".into() },
        E::StateAccepted { result: 1, typed: "9.81 m/s^2".into() },
        E::StateSource { result: 1, typed: "a plate at the tower".into() },
        E::ChooseSource { result: own, from: ResultSource::Calibration { graph: second, stretch: None } },
        E::StateReading { result: own, typed: "484 s^2".into() },
        E::AddResult { name: "third".into() },
    ] {
        t.act(book, Edit::Result(edit));
    }
    let third = book.1.state().result.results[2].id;
    t.act(book, Edit::Result(E::DeleteResult { result: third }));
    t.act(book, Edit::Graph(G::DeleteStretch { graph: 1, stretch }));
    t.act(book, Edit::Graph(G::DeleteGraph { graph: second }));
}

fn rig(t: &mut Town, book: &mut (Id, Logbook)) {
    use RunEdit as R;
    let set = |name: &str, typed: &str| R::SetSetting { name: name.into(), typed: typed.into() };
    let both = [("length", "1.8"), ("angle", "9.0")].map(|(name, typed)| (name.to_owned(), typed.to_owned()));
    let dragged = R::SetSettings { typed: both.into(), seen: BTreeMap::new() };
    for edit in [set("length", "1.9"), R::Run, dragged, set("length", "1.7"), R::Run] {
        t.act(book, Edit::Run(edit));
    }
    let tools = Tools { zero: 4, start: Some(9), end: Some(300), tape: Some([[0.0, 0.0], [0.1, -0.9]]) };
    t.act(book, Edit::Footage(FootageEdit::PlaceTools { on: Footage::Run(2), tools }));
    for edit in [
        R::ChooseRun { run: 1 },
        R::NameRun { run: 1, name: "the long one".into() },
        R::ShowRun { run: 1, on: false },
        R::Run,
        R::DeleteRun { run: 3 },
        R::PlanTrials { name: "length".into(), from: "0.5".into(), to: "1.5".into(), count: 5, column: Some(1) },
        R::RunTrial,
        R::DropPlan,
    ] {
        t.act(book, Edit::Run(edit));
    }
}

fn answers(t: &mut Town, book: &mut (Id, Logbook)) {
    use AnswerEdit as A;
    let (rows, graph) = (&book.1.state().record.tables[0].rows, Pointer::Graph { graph: 1 });
    let row = Pointer::Row { row: rows[0].id };
    let choose =
        |question: &str, option: &str| A::Choose { question: question.into(), option: option.into(), on: true };
    for edit in [
        choose("guess", "keep time as before"),
        A::Check { question: "guess".into() },
        choose("held", "release angle"),
        A::Fill { question: "ten swings".into(), gap: 0, typed: "0.01 s".into() },
        A::Point { question: "slowest".into(), at: row.clone() },
        A::Write { question: "intercept".into(), text: "Yes, it does.".into(), was: String::new() },
        A::Take { question: "Matthis".into(), position: Position::Disagree },
        A::Point { question: "Matthis".into(), at: graph },
        A::Point { question: "Matthis".into(), at: row.clone() },
        A::Unpoint { question: "Matthis".into(), at: row },
    ] {
        t.act(book, Edit::Answer(edit));
    }
}

/// A lab with a stamp, and a word of the teacher.
fn lesson(t: &mut Town) {
    use OfficeEdit as O;
    let step = Step::Measure;
    let sheet = PENDULUM.replacen("number = \"2.1\"", "stamps = [\"measure\"]\nnumber = \"2.9\"", 1);
    let mut book = t.logbook("2.9-with-a-stamp.md", &sheet);
    for edit in [
        O::AskStamp { step, on: true },
        O::Stamp { step, given: false },
        O::SayWord { part: Part::Record, text: "Your second table is missing.".into() },
        O::TickOff { word: 0, done: true },
        O::AskStamp { step, on: true },
        O::Stamp { step, given: true },
    ] {
        t.act(&mut book, Edit::Office(edit));
    }
    t.act(&mut book, Edit::Graph(GraphEdit::AddGraph));
}

fn shuttle(t: &mut Town) {
    use ForecastEdit as F;
    let mut book = t.logbook("1.2-three-stories.md", STORIES);
    for channel in ["x", "v"] {
        let points = vec![[0.0, 0.1], [4.0, 0.2], [9.0, -0.5]];
        t.act(&mut book, Edit::Forecast(F::Sketch { channel: channel.into(), points }));
    }
    // The last parts of the motion are left open: it is stopped, changed and goes on; then it is pulled by hand.
    let set = |name: &str, typed: &str| RunEdit::SetSetting { name: name.into(), typed: typed.into() };
    for name in ["duration 2", "velocity 2", "duration 3", "velocity 3", "duration 1"] {
        t.act(&mut book, Edit::Run(set(name, "")));
    }
    for edit in [
        RunEdit::Run,
        RunEdit::StopHere { frame: 300 },
        set("velocity 2", "-1.2 m/s"),
        RunEdit::GoOn,
        RunEdit::Pull { motion: HandMotion((0..40).map(|i| (f64::from(i) * 0.05, 0.01 * f64::from(i))).collect()) },
        RunEdit::Record { channels: vec!["x".into()], from: 0, to: 40, every: 10, into: None },
    ] {
        t.act(&mut book, Edit::Run(edit));
    }
    t.act(&mut book, Edit::Forecast(F::SketchAgain));
    let mut book = t.logbook("4.5-range.md", RANGE);
    let (cause, effect) = ("angle".to_owned(), "range".to_owned());
    let (curve, reason) = (CurvePick::RisesFlatter, "it stays up longer".to_owned());
    t.act(&mut book, Edit::Forecast(F::Suppose { hypothesis: Supposed { cause, effect, curve, reason } }));
    t.act(&mut book, Edit::Run(RunEdit::Run));
    let of = MomentOf { run: Some(1), frame: 12, ..MomentOf::default() };
    let instrument = Instrument::Moment { of, what: Ask::Time, mass: String::new() };
    let meter = Instrument::Meter { run: 1, name: "range".into(), frame: 0 };
    t.act(&mut book, Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: 2, instrument: meter }));
    let _ = book.1.plan(&Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: 2, instrument }), 0);
    let mut book = t.logbook("1.1-mail-shuttle.md", MAIL);
    let points = vec![[0.0, 0.1], [40.0, 3.0]];
    for edit in [
        Edit::Forecast(F::Sketch { channel: "x".into(), points }),
        Edit::Forecast(F::Predict { typed: "12 m".into() }),
        Edit::Run(RunEdit::Run),
        Edit::Forecast(F::StateOutcome { typed: "11 m".into() }),
    ] {
        t.act(&mut book, edit);
    }
}

fn film(t: &mut Town) {
    use FilmEdit as F;
    let mut book = t.logbook("4.1-thrown-ball.md", BALL);
    let key = "tower-yard".to_owned();
    let times = (0..40).map(|n| f64::from(n) / 30.0).collect();
    let facts =
        FilmFacts { key: key.clone(), title: "Yard".into(), width: 640, height: 360, times, length: "a pole".into() };
    let ruler = |index| F::PlaceRuler {
        film: key.clone(),
        index,
        ends: [[9.0, 9.0], [9.0, 209.0]],
        typed: "2.000 m".into(),
        circle: false,
    };
    let plane = || F::PlacePlane {
        film: key.clone(),
        corners: [[50.0, 220.0], [250.0, 200.0], [250.0, 90.0], [50.0, 60.0]],
        typed: ["2.00 m".into(), "160 cm".into()],
    };
    for edit in [
        F::ChooseFilm { facts: Box::new(facts) },
        ruler(None),
        ruler(None),
        F::DeleteRuler { film: key.clone(), index: 1 },
        F::PlaceAxes { film: key.clone(), origin: [9.0, 209.0], angle: "-2°".into(), flipped: false },
        plane(),
        F::DeletePlane { film: key.clone() },
        plane(),
        F::AddTrail { film: key.clone(), name: "ball".into(), table: None },
    ] {
        t.act(&mut book, Edit::Film(edit));
    }
    let trail = book.1.state().film.films[0].trails[0].id;
    let marks = (5..20).map(|f| (f, [20.0 + f64::from(f) * 8.0, 200.0 - f64::from(f * f) * 0.3])).collect();
    for edit in [
        F::NameTrail { trail, name: "thrown ball".into() },
        F::PlaceMark { trail, frame: 3, at: [40.0, 190.0] },
        F::PlaceMarks { trail, marks },
        F::DeleteMarks { trail, from: 17, to: 18 },
        F::AddFromTrail { trail, what: FromTrail::Velocity, rows: Some(5) },
        F::AddTrail { film: key, name: "shadow".into(), table: None },
    ] {
        t.act(&mut book, Edit::Film(edit));
    }
    let shadow = book.1.state().film.films[0].trails[1].id;
    t.act(&mut book, Edit::Film(F::DeleteTrail { trail: shadow }));
    let tools = Tools { zero: 3, start: Some(3), end: Some(9), tape: Some([[1.0, 2.0], [50.0, 2.0]]) };
    t.act(&mut book, Edit::Footage(FootageEdit::PlaceTools { on: Footage::Film(0), tools }));
}

/// Cabins: a run with each of two deals of numbers, and a reading with the second.
fn deals(t: &mut Town) {
    let mut book = t.logbook("3.4-cabins-at-the-mast.md", CABINS);
    t.act(&mut book, Edit::Run(RunEdit::Run));
    t.act(&mut book, Edit::Run(RunEdit::TakeDeal { deal: 1 }));
    t.act(&mut book, Edit::Run(RunEdit::Run));
    let (row, column) = (RowAt::Below, book.1.state().record.tables[0].columns[0].id);
    let instrument = Instrument::Split { of: Footage::Run(2), start: 20, end: 140 };
    let beside = instrument.clone();
    t.act(&mut book, Edit::Record(RecordEdit::LogReading { row, column, instrument }));
    t.act(&mut book, Edit::Record(RecordEdit::LogBeside { row, column, instrument: beside }));
    t.act(&mut book, Edit::Run(RunEdit::TakeDeal { deal: 0 }));
}

/// Planets and discs: whole trials, a swept area, repeats that chance makes differ.
fn chance_and_orbits(t: &mut Town) {
    let mut book = t.logbook("9.1-years-of-the-planets.md", PLANETS);
    let typed = [("x", "1.5"), ("v_y", "15")].map(|(name, typed)| (name.to_owned(), typed.to_owned()));
    t.act(&mut book, Edit::Run(RunEdit::SetSettings { typed: typed.into(), seen: BTreeMap::new() }));
    t.act(&mut book, Edit::Run(RunEdit::Run));
    t.act(&mut book, Edit::Record(RecordEdit::LogTrial { table: 1, frame: 0 }));
    let area = ColumnText { name: "area".into(), symbol: "A".into(), unit: "au^2".into(), ..ColumnText::default() };
    t.act(&mut book, Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Read, text: area }));
    let (row, column) = (RowAt::Below, book.1.state().record.tables[0].columns.last().unwrap().id);
    let instrument = Instrument::Area { run: 1, start: 10, end: 60 };
    t.act(&mut book, Edit::Record(RecordEdit::LogReading { row, column, instrument }));
    let mut book = t.logbook("10.1-half-of-them.md", DISCS);
    let points = vec![[0.0, 200.0], [9.0, 3.0]];
    t.act(&mut book, Edit::Forecast(ForecastEdit::Sketch { channel: "left".into(), points }));
    for _ in 0..2 {
        t.act(&mut book, Edit::Run(RunEdit::Run));
        let channels = vec!["left".to_owned(), "taken out".to_owned()];
        t.act(&mut book, Edit::Run(RunEdit::Record { channels, from: 1, to: 4, every: 1, into: Some(1) }));
    }
}

/// A sheet that grew twice while a logbook was at work on it, with a draft, and a logbook of the teacher's own.
fn growth(t: &mut Town) {
    let sheet = t.store.new_sheet(t.teacher, PENDULUM).unwrap();
    t.store.assign(t.teacher, t.class, sheet).unwrap();
    let lab = t.store.assignments(t.class).unwrap().last().unwrap().id;
    let logbook = t.store.open_logbook(t.student, lab).unwrap();
    let question = |name: &str| {
        format!("[[questions]]\nname = \"{name}\"\nat = \"write-up\"\nask = \"And then?\"\nwords = 3\n\n[goal]")
    };
    for name in ["then", "after that"] {
        let later = PENDULUM.replacen("[goal]", &question(name), 1);
        t.store.change_draft(t.teacher, sheet, |_| Ok(later.clone())).unwrap();
        t.store.save_sheet(t.teacher, sheet, &later).unwrap();
        t.store.grow(logbook).unwrap();
        let mut book = (logbook, t.store.load_logbook(logbook).unwrap().book);
        let text = "It comes to rest.".to_owned();
        t.act(&mut book, Edit::Answer(AnswerEdit::Write { question: name.into(), text, was: String::new() }));
    }
    t.store.turn_draft(t.teacher, sheet, true).unwrap();
    let (own, _) = t.store.try_sheet(t.teacher, sheet, &PENDULUM.replace("Tower pendulum", "Tried"), false).unwrap();
    let mut book = t.store.load_logbook(own).unwrap().book;
    let asked = Asked { by: Actor::Teacher(t.teacher), token: None, edit: &Edit::Run(RunEdit::Run) };
    t.store.carry_out(own, &mut book, asked).unwrap();
    let channel = "x".to_owned();
    let ask = zeitmass_store::Ask {
        id: 0,
        class: t.class,
        logbook: own,
        channel,
        ends: [-1.0, 1.0],
        duration: 4.0,
        pick: false,
        asked: 1,
        closed: None,
    };
    let ask = t.store.ask(t.teacher, &ask).unwrap();
    t.store.forecast(t.student, ask, "[[0.0,0.5],[4.0,-0.5]]", 2).unwrap();
}

/// A step model of a fall in a table, its forces, two that were run, and a result from the one that was fitted.
fn step_model(t: &mut Town) {
    let sheet =
        PENDULUM.replacen("Tower pendulum", "Step model", 1).replacen("trials =", "step_model = true\ntrials =", 1);
    let mut book = t.logbook("step-model.md", &sheet);
    let text = "t (s)\ty (m)\n0\t3.80\n0.1\t3.76\n0.2\t3.66\n0.3\t3.54\n0.4\t3.41\n0.5\t3.27".to_owned();
    let paste = RecordEdit::Paste { table: None, name: "fall".into(), row: RowAt::Below, column: None, text };
    t.act(&mut book, Edit::Record(paste));
    let columns: Vec<u32> = book.1.state().record.tables[1].columns.iter().map(|c| c.id).collect();
    use ModelEdit as M;
    for edit in [
        M::Compare { t: columns[0], x: None, y: Some(columns[1]) },
        M::Type { field: ModelField::Mass, typed: "4.3 g".into() },
        M::StartFromData,
        M::Choose { method: Method::Midpoint },
        M::Run,
        M::AddForce { kind: ForceName::DragSquared },
        M::AddForce { kind: ForceName::Own },
        M::TypeForce { place: 2, field: ForceField::Y, typed: "0 [N]".into() },
        M::Switch { place: 2, on: false },
        M::Fit { place: 1 },
        M::RemoveForce { place: 2 },
        M::Run,
    ] {
        t.act(&mut book, Edit::Model(edit));
    }
    let run = |book: &(Id, Logbook), place: usize| book.1.state().model.runs[place].id;
    let (fitted, last) = (run(&book, 1), run(&book, 2));
    t.act(&mut book, Edit::Model(M::Delete { run: last }));
    let from = ResultSource::Model { run: fitted };
    t.act(&mut book, Edit::Result(ResultEdit::ChooseSource { result: 1, from }));
}

/// What the data show: values of a curve in a second table, an unknown in a row, a claim with its evidence.
fn argument(t: &mut Town) {
    let sheet = PENDULUM.replacen("Tower pendulum", "Argument", 1);
    let mut book = t.logbook("argument.md", &sheet);
    let text = "L (m)\tt10 (s)\n0.5\t14.2\n1.0\t20.1\n1.5\t24.5\n2.0\t28.4".to_owned();
    let paste = RecordEdit::Paste { table: Some(1), name: String::new(), row: RowAt::Below, column: None, text };
    t.act(&mut book, Edit::Record(paste));
    t.act(&mut book, Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: Some(2) }));
    t.act(&mut book, Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
    t.act(&mut book, Edit::Record(RecordEdit::AddTable { name: "drawn".into() }));
    let table = book.1.state().record.tables[1].id;
    let slope = ColumnText { name: "slope".into(), symbol: "b".into(), unit: "s/m".into(), ..ColumnText::default() };
    t.act(&mut book, Edit::Record(RecordEdit::AddColumn { table, kind: ColumnKind::Read, text: slope }));
    let column = book.1.state().record.tables[1].columns[0].id;
    let source = |series| DrawnFrom::Parameter { graph: 1, stretch: None, series, symbol: "slope".into(), of: None };
    let instrument = Instrument::Curve { source: source(None) };
    t.act(&mut book, Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column, instrument }));
    t.act(&mut book, Edit::Record(RecordEdit::LogDrawn { column, like: source(None), all: true }));
    let rows: Vec<u32> = book.1.state().record.tables[0].rows.iter().map(|r| r.id).collect();
    // It follows, and then no longer.
    t.act(&mut book, Edit::Record(RecordEdit::SetAside { row: rows[3], aside: true, why: String::new() }));
    let row = book.1.state().record.tables[1].rows[0].id;
    t.act(&mut book, Edit::Record(RecordEdit::Freeze { row, column, frozen: true }));
    let from = ResultSource::Calibration { graph: 1, stretch: None };
    t.act(&mut book, Edit::Result(ResultEdit::ChooseSource { result: 1, from }));
    t.act(&mut book, Edit::Result(ResultEdit::ReadRow { result: 1, row: Some(rows[3]) }));
    for edit in [
        ClaimEdit::State { cause: 1, effect: 2, curve: CurvePick::RisesStraight },
        ClaimEdit::AddEvidence { rows: rows.clone() },
        ClaimEdit::RemoveEvidence { row: rows[3] },
        ClaimEdit::Withdraw,
        ClaimEdit::State { cause: 1, effect: 2, curve: CurvePick::RisesFlatter },
        ClaimEdit::AddEvidence { rows: rows[..3].to_vec() },
    ] {
        t.act(&mut book, Edit::Claim(edit));
    }
    use WriteUpEdit as W;
    let (table, graph) = (Shows::Table(1), Shows::Graph(1));
    for edit in [
        W::Step { block: graph, by: -1 },
        W::Move { block: table, before: None },
        W::Introduce { block: graph, text: "Figure 1 shows it.".into(), was: String::new() },
        W::Show { block: Shows::Question, on: false },
        W::AddText { before: Some(graph) },
        W::AddText { before: None },
    ] {
        t.act(&mut book, Edit::WriteUp(edit));
    }
    t.act(&mut book, Edit::Run(RunEdit::Run));
    for frame in [0, 12] {
        t.act(&mut book, Edit::WriteUp(W::TakePicture { of: Taken::Run { run: 1, frame } }));
    }
    let pictures: Vec<u32> = book
        .1
        .write_up()
        .iter()
        .filter_map(|l| if let Shows::Picture(n) = l.block.shows { Some(n) } else { None })
        .collect();
    t.act(&mut book, Edit::WriteUp(W::RemovePicture { picture: pictures[0] }));
    let own = book.1.write_up().last().unwrap().block.shows;
    t.act(&mut book, Edit::WriteUp(W::RemoveText { block: own }));
}

fn fill(folder: &Path) -> Town {
    let store = Store::open(folder).unwrap().dealing_alike();
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").unwrap();
    let class = store.create_class(teacher, "10b").unwrap();
    let student = store.join(&store.class(teacher, class).unwrap().code, "Minna Talhoff", "2718").unwrap();
    let mut t = Town { store, teacher, student, class, kinds: BTreeSet::new() };
    let mut book = t.logbook("2.1-tower-pendulum.md", PENDULUM);
    rig(&mut t, &mut book);
    tables(&mut t, &mut book);
    answers(&mut t, &mut book);
    let write = |text: &str, was: &str| {
        Edit::Writing(WritingEdit::Write { field: TextField::Claim, text: text.into(), was: was.into() })
    };
    t.act(&mut book, write("It is proportional.", ""));
    t.act(&mut book, write("T² is proportional to L.", "It is proportional."));
    for edit in [Edit::Undo, Edit::Undo, Edit::Redo, Edit::Office(OfficeEdit::HandIn)] {
        t.act(&mut book, edit);
    }
    t.act(
        &mut book,
        Edit::Office(OfficeEdit::SendBack { note: "Two more lengths, please.".into(), steps: BTreeSet::new() }),
    );
    let content = Box::new(book.1.state().clone());
    t.act(&mut book, Edit::Office(OfficeEdit::Restore { content }));
    t.act(&mut book, Edit::Undo);
    t.store.save_snapshot(book.0, &book.1.snapshot()).unwrap();
    // Work goes on after a snapshot.
    t.act(&mut book, Edit::Redo);
    t.act(&mut book, Edit::Run(RunEdit::Run));
    shuttle(&mut t);
    lesson(&mut t);
    chance_and_orbits(&mut t);
    deals(&mut t);
    film(&mut t);
    growth(&mut t);
    argument(&mut t);
    step_model(&mut t);
    sent_back_in_part(&mut t);
    t
}

/// Nodes of a track as a page showed them and as they were dragged; handed in and sent back with some steps open again.
fn sent_back_in_part(t: &mut Town) {
    let mut book = t.logbook("8.1-hill-railway.md", HILLS);
    let (seen, dragged) = ("0 3; 3 1; 6 2.3; 9 0.5; 12 1", "0 3; 3 1.2; 6 2.3; 9 0.5; 12 1");
    let typed = [("nodes", dragged), ("course", "own")].map(|(name, typed)| (name.to_owned(), typed.to_owned()));
    let seen = [("nodes".to_owned(), seen.to_owned())].into();
    t.act(&mut book, Edit::Run(RunEdit::SetSettings { typed: typed.into(), seen }));
    let content = Box::new(t.store.logbook_at(book.0, 0).unwrap().state().clone());
    t.act(&mut book, Edit::Office(OfficeEdit::GoBack { to: 0, content }));
    t.act(&mut book, Edit::Office(OfficeEdit::HandIn));
    let steps = [Step::Constant, Step::WriteUp].into();
    t.act(&mut book, Edit::Office(OfficeEdit::SendBack { note: "The result, please.".into(), steps }));
}

/// Snapshots of all logbooks of a store, by number.
fn states(store: &Store, path: &Path) -> Vec<(Id, Snapshot)> {
    let connection = Connection::open(path.join("zeitmass.sqlite")).unwrap();
    let mut query = connection.prepare("SELECT id FROM logbooks ORDER BY id").unwrap();
    let ids: Vec<Id> = query.query_map([], |r| r.get(0)).unwrap().map(Result::unwrap).collect();
    let loaded = ids.into_iter().map(|id| (id, store.load_logbook(id).unwrap().book));
    loaded
        .inspect(|(id, book)| assert!(book.unread().is_none(), "logbook {id}"))
        .map(|(id, b)| (id, b.snapshot()))
        .collect()
}

/// A copy of the fixture's store that a test may write to.
fn copied(name: &str) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    std::fs::copy(fixture(name).join("zeitmass.sqlite"), folder.path().join("zeitmass.sqlite")).unwrap();
    folder
}

fn kept(name: &str) -> Vec<(Id, Snapshot)> {
    serde_json::from_slice(&std::fs::read(fixture(name).join("states.json")).unwrap()).unwrap()
}

#[test]
#[ignore = "writes the fixture anew"]
fn write_the_fixture() {
    let folder = tempfile::tempdir().unwrap();
    let fixture = fixture(STORES[STORES.len() - 1]);
    let t = fill(folder.path());
    let all = states(&t.store, folder.path());
    drop(t);
    std::fs::create_dir_all(&fixture).unwrap();
    let connection = Connection::open(folder.path().join("zeitmass.sqlite")).unwrap();
    let _: Value = connection.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(Value::Null)).unwrap();
    let target = fixture.join("zeitmass.sqlite");
    let _ = std::fs::remove_file(&target);
    connection.execute("VACUUM INTO ?", [target.to_str().unwrap()]).unwrap();
    std::fs::write(fixture.join("states.json"), serde_json::to_string_pretty(&all).unwrap() + "\n").unwrap();
}

#[test]
fn every_kind_of_edit_is_carried_out_and_read_again() {
    let folder = tempfile::tempdir().unwrap();
    let t = fill(folder.path());
    let missing: Vec<_> = all_kinds().difference(&t.kinds).cloned().collect();
    assert!(missing.is_empty(), "{missing:?}");
    assert!(t.kinds.len() > 75, "{}", t.kinds.len());
    // What every logbook holds, wherever it is read from.
    let with_snapshot = states(&t.store, folder.path());
    Connection::open(folder.path().join("zeitmass.sqlite")).unwrap().execute("DELETE FROM snapshots", []).unwrap();
    assert!(states(&Store::open(folder.path()).unwrap(), folder.path()) == with_snapshot);
}

#[test]
fn stores_from_before_open_as_they_were() {
    for name in STORES {
        opens_as_it_was(name);
    }
}

fn opens_as_it_was(name: &str) {
    let folder = copied(name);
    let store = Store::open(folder.path()).unwrap();
    let (now, then) = (states(&store, folder.path()), kept(name));
    for ((id, now), (_, then)) in now.iter().zip(&then) {
        assert!(now == then, "{name}: logbook {id} is not what it was");
    }
    assert_eq!(now.len(), then.len());
    // Work goes on in it.
    let (teacher, class) = (1, 1);
    let code = store.class(teacher, class).unwrap().code;
    let minna = store.join(&code, "Minna Talhoff", "2718").unwrap();
    let mut book = store.load_logbook(1).unwrap().book;
    let add = Edit::Record(RecordEdit::AddRow { table: book.state().record.tables[0].id, above: None });
    store.carry_out(1, &mut book, Asked { by: Actor::Student(minna), token: None, edit: &add }).unwrap();
}

/// An entry this program cannot read closes the logbook there: what comes before is shown, and nothing is written over what follows.
#[test]
fn an_entry_of_a_newer_program_closes_the_logbook_and_is_kept() {
    let folder = copied(STORES[0]);
    let connection = Connection::open(folder.path().join("zeitmass.sqlite")).unwrap();
    connection.execute("DELETE FROM snapshots", []).unwrap();
    let newer = r#"{"turn":"work","changes":[{"hologram":{"turned":true}}],"next_id":1}"#;
    connection.execute("UPDATE edits SET deed = ? WHERE logbook = 1 AND seq = 9", [newer]).unwrap();
    let store = Store::open(folder.path()).unwrap();
    let mut book = store.load_logbook(1).unwrap().book;
    assert_eq!((book.unread(), book.seq()), (Some(9), 8));
    assert!(!book.state().run.runs.is_empty(), "what comes before is there");
    let count = || connection.query_row("SELECT count(*) FROM edits", [], |r| r.get::<_, i64>(0)).unwrap();
    let before = count();
    for edit in [Edit::Undo, Edit::Run(RunEdit::Run), Edit::Office(OfficeEdit::HandIn)] {
        let asked = Asked { by: Actor::Student(1), token: None, edit: &edit };
        let refused = store.carry_out(1, &mut book, asked).unwrap_err();
        assert!(matches!(refused, StoreError::Refused(Refusal::Unread)), "{refused}");
    }
    assert_eq!(count(), before);
    // One that can be read but does not fit is met in the same way.
    let misfit = r#"{"turn":"work","changes":[{"record":{"remove_row":{"table":1,"place":999}}}],"next_id":1}"#;
    connection.execute("UPDATE edits SET deed = ? WHERE logbook = 1 AND seq = 9", [misfit]).unwrap();
    assert_eq!(store.load_logbook(1).unwrap().book.unread(), Some(9));
}
