//! The demo's people and work: Ankergang, a small clockmakers' town. All of it is made up.

use anyhow::{Result, anyhow};
use zeitmass_core::fit::Model;
use zeitmass_core::graph::FIRST_GRAPH;
use zeitmass_core::inquiry::Step as Spine;
use zeitmass_core::inquiry::{CurvePick, Supposed};
use zeitmass_core::logbook::{
    AnswerEdit, ClaimEdit, ColumnText, Edit, FilmEdit, FootageEdit, ForecastEdit, FromTrail, GraphEdit, GraphShows,
    Instrument, Logbook, OfficeEdit, Part, RecordEdit, ResultEdit, RowAt, RunEdit, TextField, WritingEdit,
};
use zeitmass_core::motion::Tools;
use zeitmass_core::quantity::Footage;
use zeitmass_core::record::{ColumnKind, FIRST_TABLE, Record};
use zeitmass_core::result::{FIRST_RESULT, Term};
use zeitmass_store::{Actor, Asked, Id, Store};
use zeitmass_web::{Guest, SHIPPED_SHEETS};
use zeitmass_words::Words;

const TEACHER: (&str, &str) = ("Ottilie Rast", "anchor and wheel");
const CLASS: &str = "10b, physics on Tuesdays";
const PIN: &str = "2718";
/// The students, and what each is doing.
const STUDENTS: [(&str, &str); 6] = [
    ("Minna Talhoff", "in the middle of the tower pendulum, with Jost; has marked a film as well"),
    ("Jost Brenner", "Minna's partner at the pendulum; has forecast the mail shuttle"),
    ("Alma Uhrich", "has handed the pendulum in; at the yard thrower now"),
    ("Veit Kettner", "has just started; several quantities of his trials changed at once"),
    ("Ruth Anselm", "asks her teacher for a stamp"),
    ("Bartholomäus Zeigerschmied-Federkern", "has had a word from his teacher; most labs are still ahead of him"),
];

/// Fills an empty store; leaves a filled one alone. Gives the people anybody may be; none of a folder that was filled before.
pub(crate) fn fill(store: &Store) -> Result<Vec<Guest>> {
    if store.has_teacher()? {
        return Ok(Vec::new());
    }
    for (key, source) in SHIPPED_SHEETS {
        store.load_shipped(key, source)?;
    }
    let teacher = store.create_first_teacher(TEACHER.0, TEACHER.1)?;
    let class = store.create_class(teacher, CLASS)?;
    let shipped = store.sheets(teacher)?;
    let pendulum = shipped.iter().find(|s| s.source.contains("rig = \"pendulum\""));
    let sheet = pendulum.map(|s| s.id).ok_or_else(|| anyhow!("no lab sheet is shipped"))?;
    store.assign(teacher, class, sheet)?;
    let lab = store.assignments(class)?.first().map(|a| a.id).ok_or_else(|| anyhow!("the lab was not assigned"))?;
    for other in shipped.iter().filter(|s| s.id != sheet) {
        store.assign(teacher, class, other.id)?;
    }
    let code = store.class(teacher, class)?.code;
    let people = STUDENTS.iter().map(|(name, _)| Ok(store.join(&code, name, PIN)?)).collect::<Result<Vec<Id>>>()?;

    // Minna and Jost are in the middle of it, Alma has handed in, Veit has just begun.
    let shared = store.open_logbook(people[0], lab)?;
    let now = jiff::Timestamp::now().as_second();
    store.join_logbook(people[1], &store.let_partner_in(shared, now)?.code, now)?;
    work(store, shared, people[0], &lab_of(&["0.3", "0.5", "0.75", "1.0", "1.25", "1.5"], Some(1)))?;
    let done = store.open_logbook(people[2], lab)?;
    work(store, done, people[2], &lab_of(&["0.25", "0.5", "0.8", "1.1", "1.4", "1.7", "2.0"], None))?;
    work(store, done, people[2], &conclusion())?;
    let begun = store.open_logbook(people[3], lab)?;
    work(store, begun, people[3], &[Step::Do(setting("length", "0.6")), Step::Do(Edit::Run(RunEdit::Run))])?;
    work(store, begun, people[3], &lab_of(&["0.4", "0.7", "1.0"], None)[..7])?;
    work(store, begun, people[3], &buffer_stop())?;

    forecast(store, class, people[1])?;
    thrown(store, class, people[2])?;
    filmed(store, class, people[0])?;
    on_the_way(store, (teacher, class), [people[4], people[5]])?;

    let guest = |(name, doing): (&str, &str), secret: &str, class: Option<&String>| Guest {
        name: name.to_owned(),
        doing: doing.to_owned(),
        secret: secret.to_owned(),
        class: class.cloned(),
    };
    let teacher = guest((TEACHER.0, "teaches class 10b: classes, sheets, rounds, marking"), TEACHER.1, None);
    Ok(std::iter::once(teacher).chain(STUDENTS.map(|s| guest(s, PIN, Some(&code)))).collect())
}

/// The sign-ins as the console shows them.
pub(crate) fn sign_ins(guests: &[Guest]) -> String {
    let (teachers, students): (Vec<&Guest>, Vec<&Guest>) = guests.iter().partition(|g| g.class.is_none());
    let mut lines: Vec<String> =
        teachers.iter().map(|t| format!("Teacher: name “{}”, password “{}”", t.name, t.secret)).collect();
    if let Some((code, pin)) = students.first().and_then(|s| Some((s.class.as_ref()?, &s.secret))) {
        let names: Vec<&str> = students.iter().map(|s| s.name.as_str()).collect();
        lines.push(format!("Students: class code {code}, PIN {pin}, names {}", names.join(", ")));
    } else {
        lines.push("This data folder was filled before; its sign-ins are as they were.".to_owned());
    }
    lines.join("\n")
}

/// A sheet of the teacher's own with a stamp: Ruth asks for it, Bartholomäus has been told something.
fn on_the_way(store: &Store, (teacher, class): (Id, Id), [ruth, bartholomaeus]: [Id; 2]) -> Result<()> {
    let shipped = store.sheets(teacher)?;
    let pendulum = shipped.iter().find(|s| s.source.contains("title = \"Tower pendulum\""));
    let source = pendulum.map(|s| s.source.clone()).ok_or_else(|| anyhow!("no pendulum is shipped"))?;
    let source = source.replacen("number = \"2.1\"", "number = \"2.9\"\nstamps = [\"measure\"]", 1).replacen(
        "title = \"Tower pendulum\"",
        "title = \"Tower pendulum, step by step\"",
        1,
    );
    let sheet = store.new_sheet(teacher, &source)?;
    store.assign(teacher, class, sheet)?;
    let title = "Tower pendulum, step by step";
    let mut first = open_lab(store, class, ruth, title)?;
    let choose =
        |option: &str| Edit::Answer(AnswerEdit::Choose { question: "guess".into(), option: option.into(), on: true });
    first.write(choose("lose time: each swing takes longer"))?;
    first.write(Edit::Answer(AnswerEdit::Check { question: "guess".into() }))?;
    let logbook = first.logbook;
    drop(first);
    work(store, logbook, ruth, &lab_of(&["0.3", "0.6", "0.9", "1.2", "1.5", "1.8"], None)[..10])?;
    let mut first = open_lab(store, class, ruth, title)?;
    first.write(Edit::Office(OfficeEdit::AskStamp { step: Spine::Measure, on: true }))?;
    let mut second = open_lab(store, class, bartholomaeus, title)?;
    second.write(choose("gain time: each swing takes less long"))?;
    second.write(Edit::Answer(AnswerEdit::Check { question: "guess".into() }))?;
    second.write(Edit::Run(RunEdit::Run))?;
    let word = Edit::Office(OfficeEdit::SayWord {
        part: Part::Record,
        text: "Time ten swings, not one: then your reaction counts a tenth.".into(),
    });
    let asked = Asked { by: Actor::Teacher(teacher), token: None, edit: &word };
    store.carry_out(second.logbook, &mut second.book, asked)?;
    Ok(())
}

/// Somebody at work in a logbook.
struct Pen<'a> {
    store: &'a Store,
    student: Id,
    logbook: Id,
    book: Logbook,
}

impl<'a> Pen<'a> {
    fn new(store: &'a Store, student: Id, logbook: Id) -> Result<Self> {
        Ok(Self { store, student, logbook, book: store.load_logbook(logbook)?.book })
    }

    fn write(&mut self, edit: Edit) -> Result<()> {
        let asked = Asked { by: Actor::Student(self.student), token: None, edit: &edit };
        self.store.carry_out(self.logbook, &mut self.book, asked)?;
        Ok(())
    }

    /// The first table.
    fn first(&self) -> &Record {
        &self.book.state().record.tables[0]
    }

    /// The last row of the first table.
    fn last_row(&self) -> RowAt {
        self.first().rows.last().map_or(RowAt::Below, |r| RowAt::There(r.id))
    }
}

/// A student at work in the lab with that title.
fn open_lab<'a>(store: &'a Store, class: Id, student: Id, title: &str) -> Result<Pen<'a>> {
    let labs = store.assignments(class)?;
    let lab = labs
        .iter()
        .find(|a| a.source.contains(&format!("title = \"{title}\"")))
        .ok_or_else(|| anyhow!("no lab {title}"))?;
    Pen::new(store, student, store.open_logbook(student, lab.id)?)
}

/// Jost has sketched the first story of the shuttle, missed that it waits, and run it.
fn forecast(store: &Store, class: Id, student: Id) -> Result<()> {
    let mut pen = open_lab(store, class, student, "Three stories of a shuttle")?;
    let sketch = |channel: &str, points: &[[f64; 2]]| {
        Edit::Forecast(ForecastEdit::Sketch { channel: channel.to_owned(), points: points.to_vec() })
    };
    let position = [[0.0, 0.0], [3.8, 2.1], [6.8, 2.1], [9.2, -1.4]];
    let velocity = [[0.0, 0.5], [6.6, 0.5], [6.9, -1.4], [9.2, -1.4]];
    for edit in [sketch("x", &position), sketch("v", &velocity), Edit::Run(RunEdit::Run)] {
        pen.write(edit)?;
    }
    Ok(())
}

/// Alma varies the angle of the throw, with and without air side by side.
fn thrown(store: &Store, class: Id, student: Id) -> Result<()> {
    let mut pen = open_lab(store, class, student, "Range of the yard thrower")?;
    let (cause, effect) = ("angle".to_owned(), "range".to_owned());
    let reason = "a steeper throw stays up longer".to_owned();
    let curve = CurvePick::RisesFlatter;
    let hypothesis = Supposed { cause, effect, curve, reason };
    let mut edits = vec![Edit::Forecast(ForecastEdit::Suppose { hypothesis }), setting("air", "both")];
    for (angle, run) in [("15", 1), ("25", 2), ("35", 3), ("45", 4), ("55", 5)] {
        edits.extend([setting("angle", angle), Edit::Run(RunEdit::Run)]);
        let instrument = Instrument::Setting { name: "angle".to_owned() };
        edits.push(Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: 1, instrument }));
        let instrument = Instrument::Meter { run, name: "range".to_owned(), frame: 0 };
        edits.push(Edit::Record(RecordEdit::LogReading { row: RowAt::Below, column: 2, instrument }));
    }
    edits.push(Edit::Claim(ClaimEdit::State { cause: 1, effect: 2, curve: CurvePick::UpAndDown }));
    for mut edit in edits {
        // The range goes beside its angle.
        if let Edit::Record(RecordEdit::LogReading { row, column: 2, .. }) = &mut edit {
            *row = pen.last_row();
        }
        pen.write(edit)?;
    }
    let rows = pen.first().rows.iter().map(|r| r.id).collect();
    pen.write(Edit::Claim(ClaimEdit::AddEvidence { rows }))?;
    Ok(())
}

/// Minna has marked the thrown ball and looks at its velocity.
fn filmed(store: &Store, class: Id, student: Id) -> Result<()> {
    let labs = store.assignments(class)?;
    let lab =
        labs.iter().find(|a| a.source.contains("film = \"tower-yard\"")).ok_or_else(|| anyhow!("no filmed lab"))?;
    let logbook = store.open_logbook(student, lab.id)?;
    let facts = zeitmass_web::demo_film("tower-yard").ok_or_else(|| anyhow!("no demo film"))?;
    let shoot = zeitmass_film::catalogue::film("tower-yard").ok_or_else(|| anyhow!("no demo film"))?.shoot(1);
    let (film, pole) = (facts.key.clone(), shoot.camera.pixel([-2.95, 0.0]));
    let top = shoot.camera.pixel([-2.95, 2.0]);
    let mut pen = Pen::new(store, student, logbook)?;
    pen.write(Edit::Film(FilmEdit::ChooseFilm { facts: Box::new(facts) }))?;
    pen.write(Edit::Film(FilmEdit::PlaceRuler {
        film: film.clone(),
        index: None,
        ends: [pole, top],
        typed: "2.000 m".into(),
        circle: false,
    }))?;
    pen.write(Edit::Film(FilmEdit::PlaceAxes {
        film: film.clone(),
        origin: pole,
        angle: "0°".into(),
        flipped: false,
    }))?;
    pen.write(Edit::Film(FilmEdit::AddTrail { film, name: "ball".into(), table: None }))?;
    let trail = pen.book.state().film.films[0].trails[0].clone();
    for frame in (4..64).step_by(4) {
        // A hand is some tenths of a pixel off.
        let off = [0.3, -0.4, 0.1, 0.5, -0.2, -0.3, 0.2][frame % 7];
        let at = shoot.truth(frame)[0].1;
        pen.write(Edit::Film(FilmEdit::PlaceMark {
            trail: trail.id,
            frame: frame as u32,
            at: [at[0] + off, at[1] - 0.7 * off],
        }))?;
    }
    pen.write(Edit::Film(FilmEdit::AddFromTrail { trail: trail.id, what: FromTrail::Velocity, rows: Some(5) }))?;
    let table = pen.book.state().table(trail.table).ok_or_else(|| anyhow!("no table"))?;
    let up = table.by_symbol("vy").map(|c| c.id);
    pen.write(Edit::Graph(GraphEdit::ChooseAxes { graph: FIRST_GRAPH, x: Some(trail.columns[0]), y: up }))?;
    pen.write(Edit::Graph(GraphEdit::ChooseModel { graph: FIRST_GRAPH, model: Some(Model::Line) }))?;
    pen.write(Edit::Result(ResultEdit::StateLaw { result: FIRST_RESULT, term: Term::Slope, typed: "-g".into() }))?;
    Ok(())
}

/// A carriage of the hill railway that runs against the buffer of the lower station: positions along the rail, read on a
/// scale every quarter of a second.
fn buffer_stop() -> Vec<Step> {
    let rows: Vec<String> = (0..=20)
        .map(|i| {
            let t = f64::from(i) * 0.25;
            let x = if t <= 2.5 { 0.12 + 0.74 * t } else { 1.97 - 0.31 * (t - 2.5) };
            // A scale read by eye is a few millimetres off.
            let off = [0.003, -0.004, 0.001, 0.005, -0.002, -0.003, 0.002][i as usize % 7];
            format!("{t:.2}\t{:.3}", x + off)
        })
        .collect();
    let text = format!("time t (s)\tposition x (m)\n{}", rows.join("\n"));
    let do_graph = |edit: fn(u32) -> Edit| Step::Do(edit(FIRST_GRAPH));
    let stretch = |from: &str, to: &str| {
        Step::Do(Edit::Graph(GraphEdit::AddStretch { graph: FIRST_GRAPH, from: from.into(), to: to.into() }))
    };
    vec![
        Step::Do(Edit::Record(RecordEdit::Paste {
            table: None,
            name: "Carriage at the buffer".to_owned(),
            row: RowAt::Below,
            column: None,
            text,
        })),
        Step::Do(Edit::Record(RecordEdit::HoldQuantity {
            symbol: "m".into(),
            name: "mass of the carriage".into(),
            typed: "0.50 kg".into(),
        })),
        Step::Axes("t", "x"),
        stretch("0 s", "2.5 s"),
        stretch("2.6 s", "5 s"),
        do_graph(|graph| Edit::Graph(GraphEdit::ShowOnGraph { graph, what: GraphShows::Residuals, on: true })),
    ]
}

/// A step of somebody's work.
enum Step {
    /// An edit as it stands.
    Do(Edit),
    /// Times ten swings of the last run and logs length and time; the frames are as far off as a hand is.
    TimeTenSwings { off: i64 },
    /// Sets the row of this number aside.
    SetAside(usize),
    /// Puts two columns on the graph.
    Axes(&'static str, &'static str),
}

fn setting(name: &str, typed: &str) -> Edit {
    Edit::Run(RunEdit::SetSetting { name: name.to_owned(), typed: typed.to_owned() })
}

fn lab_of(lengths: &[&str], mistimed: Option<usize>) -> Vec<Step> {
    let worked = |name: &str, symbol: &str, formula: &str| {
        let text =
            ColumnText { name: name.into(), symbol: symbol.into(), formula: formula.into(), ..ColumnText::default() };
        Step::Do(Edit::Record(RecordEdit::AddColumn { table: FIRST_TABLE, kind: ColumnKind::Worked, text }))
    };
    let mut steps = vec![Step::Do(setting("angle", "4"))];
    for (i, length) in lengths.iter().enumerate() {
        steps.push(Step::Do(setting("length", length)));
        steps.push(Step::Do(Edit::Run(RunEdit::Run)));
        // A hand is a few frames off; one trial was counted to nine.
        let off = if mistimed == Some(i) { -100 } else { [2, -3, 1, -1, 3, -2, 0][i % 7] };
        steps.push(Step::TimeTenSwings { off });
    }
    steps.push(worked("period", "T", "t10/10"));
    steps.push(worked("period squared", "Tsq", "T^2"));
    steps.push(Step::Axes("L", "Tsq"));
    if let Some(row) = mistimed {
        steps.push(Step::SetAside(row));
    }
    steps.push(Step::Do(Edit::Graph(GraphEdit::ChooseModel { graph: FIRST_GRAPH, model: Some(Model::Line) })));
    for (term, typed) in
        [(Term::Up, "T^2"), (Term::Across, "L"), (Term::Slope, "4*pi^2/g"), (Term::Intercept, "0 [s^2]")]
    {
        steps.push(Step::Do(Edit::Result(ResultEdit::StateLaw {
            result: FIRST_RESULT,
            term,
            typed: typed.to_owned(),
        })));
    }
    steps
}

fn conclusion() -> Vec<Step> {
    let write = |field, text: &str| {
        Step::Do(Edit::Writing(WritingEdit::Write { field, text: text.to_owned(), was: String::new() }))
    };
    vec![
        write(TextField::Claim, "The square of the period is proportional to the length of the pendulum."),
        write(
            TextField::Evidence,
            "Seven lengths from 0.25 m to 2.00 m lie on a straight line whose intercept is zero within its uncertainty. Release angle and bob mass were the same in all trials.",
        ),
        write(
            TextField::Reasoning,
            "For small angles the law says that T² is 4π²/g times L. The slope is therefore 4π²/g, and g follows from it.",
        ),
        Step::Do(Edit::Office(OfficeEdit::HandIn)),
    ]
}

fn work(store: &Store, id: Id, student: Id, steps: &[Step]) -> Result<()> {
    let mut pen = Pen::new(store, student, id)?;
    for step in steps {
        match step {
            Step::Do(edit) => pen.write(edit.clone())?,
            Step::SetAside(row) => {
                let (row, why) = (pen.first().rows[*row].id, "counted only nine swings".to_owned());
                pen.write(Edit::Record(RecordEdit::SetAside { row, aside: true, why }))?;
            }
            Step::Axes(x, y) => {
                let tables = &pen.book.state().record.tables;
                let id = |symbol| tables.iter().rev().find_map(|t| t.by_symbol(symbol)).map(|c| c.id);
                let (x, y) = (id(x), id(y));
                pen.write(Edit::Graph(GraphEdit::ChooseAxes { graph: FIRST_GRAPH, x, y }))?;
            }
            Step::TimeTenSwings { off } => ten_swings(&mut pen, *off)?,
        }
    }
    Ok(())
}

/// Lays the split over ten swings, and logs length and split side by side.
fn ten_swings(pen: &mut Pen<'_>, off: i64) -> Result<()> {
    let run = pen.book.state().run.runs.len() as u32;
    let footage =
        pen.book.footage(run).ok_or_else(|| anyhow!("there is no run {run}"))?.map_err(|e| anyhow!(e.words()))?;
    let angle = footage.channel("angle").ok_or_else(|| anyhow!("the run has no angle"))?;
    let tops: Vec<usize> =
        (1..angle.len() - 1).filter(|&i| angle[i] > angle[i - 1] && angle[i] >= angle[i + 1]).collect();
    // Ten swings from the first turning point after the release to the eleventh.
    let (start, end) = (tops[0] as u32, u32::try_from(tops[10] as i64 + off)?);
    let column = |symbol: &str| {
        pen.first().by_symbol(symbol).map(|c| c.id).ok_or_else(|| anyhow!("there is no column {symbol}"))
    };
    let (length, time) = (column("L")?, column("t10")?);
    let tools = Tools { start: Some(start), end: Some(end), ..pen.book.state().run.tools.clone() };
    pen.write(Edit::Footage(FootageEdit::PlaceTools { on: Footage::Run(run), tools }))?;
    let log = |row, column, instrument| Edit::Record(RecordEdit::LogReading { row, column, instrument });
    pen.write(log(RowAt::Below, length, Instrument::Setting { name: "length".to_owned() }))?;
    let row = pen.last_row();
    pen.write(log(row, time, Instrument::Split { of: Footage::Run(run), start, end }))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_demo_fills_an_empty_folder_once() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).unwrap();
        let guests = fill(&store).unwrap();
        assert!(sign_ins(&guests).contains(TEACHER.0) && guests.len() == 7);
        for guest in &guests {
            let Some(code) = &guest.class else { continue };
            store.join(code, &guest.name, &guest.secret).unwrap();
        }
        let again = fill(&store).unwrap();
        assert!(again.is_empty() && sign_ins(&again).contains("filled before"));
        let teacher = store.teacher_named(TEACHER.0).unwrap().unwrap();
        let class = store.classes(teacher).unwrap()[0].id;
        let progress = store.progress(class).unwrap();
        assert_eq!(progress.len(), 9);
        let handed_in: Vec<_> =
            progress.iter().filter(|p| p.standing.as_ref().is_some_and(|s| s.handed_in.is_some())).collect();
        let has_films = |l: &Id| !store.load_logbook(*l).unwrap().book.state().film.films.is_empty();
        let filmed = progress.iter().map(|p| p.logbook).find(has_films).unwrap();
        for logbook in [handed_in[0].logbook, filmed] {
            let book = store.load_logbook(logbook).unwrap().book;
            let g = book.analyse().outcome(FIRST_RESULT).unwrap().constant.clone().unwrap().unwrap();
            assert!((g.value - 9.81).abs() < 0.1, "{g:?}");
        }
    }
}
