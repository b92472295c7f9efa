//! Filmed labs done as a careful student does them, on the rendered films: marks by following, rulers and corners laid to half a pixel, the
//! constant within its stated uncertainty. And what a film taken at a slant is wrong by, before and after it is set right.

use std::sync::Arc;

use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use statrs::distribution::{ContinuousCDF, StudentsT};
use zeitmass_core::fit::Model;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{
    ColumnText, Edit, FilmEdit, FromTrail, GraphEdit, Instrument, Logbook, MomentOf, RecordEdit, ResultEdit, RowAt,
};
use zeitmass_core::motion::Ask;
use zeitmass_core::quantity::DrawnFrom;
use zeitmass_core::record::ColumnKind;
use zeitmass_core::result::Term;
use zeitmass_film::Grey;
use zeitmass_film::camera::Shoot;
use zeitmass_film::catalogue::{CART_FRICTION, CART_MASS, FRAME, GRAVITY, KEPT, TILT, film};
use zeitmass_film::follow::{Follower, Found};

/// Hands that lay rulers, for each film.
const HANDS: u64 = 40;

fn sheet(number: &str) -> &'static str {
    let named = format!("{number}-");
    zeitmass_web::SHIPPED_SHEETS.iter().find(|(name, _)| name.starts_with(&named)).unwrap().1
}

/// A film, and where the follower finds its first mover from the first frame on.
struct Followed {
    name: &'static str,
    shoot: Shoot,
    marks: Vec<(u32, [f64; 2])>,
}

fn followed(name: &'static str, side: usize, until: usize) -> Followed {
    let shoot = film(name).unwrap().shoot(1);
    let roll = shoot.roll(1).unwrap();
    let picture = |n| Grey::read(&shoot.jpeg(&roll, n).unwrap()).unwrap();
    // A hand that is half a pixel off, for one.
    let start = shoot.truth(0)[0].1.map(f64::round);
    let mut follower = Follower::start(&picture(0), start, side, 0.0).unwrap();
    let mut marks = vec![(0, start)];
    for n in 1..until.min(shoot.frames) {
        let Found::Placed { at, .. } = follower.step(&picture(n), shoot.camera.time(n)) else {
            panic!("{name} is lost in frame {n}")
        };
        marks.push((n as u32, at));
    }
    Followed { name, shoot, marks }
}

/// A logbook, and the hand that writes it.
struct Hand {
    book: Logbook,
    random: StdRng,
}

impl Hand {
    fn new(number: &str, seed: u64) -> Self {
        let book = Logbook::new(Arc::new(LabSheet::parse(sheet(number)).unwrap()), seed);
        Self { book, random: StdRng::seed_from_u64(seed) }
    }

    fn does(&mut self, edit: Edit) {
        self.book.apply(&edit, 0).unwrap_or_else(|e| panic!("{edit:?}: {e:?}"));
    }

    fn chooses(&mut self, film: &Followed) {
        self.does(Edit::Film(FilmEdit::ChooseFilm { facts: Box::new(zeitmass_web::demo_film(film.name).unwrap()) }));
    }

    /// A place of the scene, pointed at to half a pixel.
    fn points(&mut self, film: &Followed, at: [f64; 2]) -> [f64; 2] {
        film.shoot.camera.pixel(at).map(|v| v + self.random.random_range(-0.5..0.5))
    }

    fn lays_ruler(&mut self, film: &Followed, ends: [[f64; 2]; 2], typed: &str) {
        let ends = ends.map(|end| self.points(film, end));
        let (typed, index, circle) = (typed.to_owned(), None, false);
        self.does(Edit::Film(FilmEdit::PlaceRuler { film: film.name.into(), index, ends, typed, circle }));
    }

    fn turns_axes(&mut self, film: &Followed, origin: [f64; 2], angle: f64) {
        let origin = self.points(film, origin);
        let angle = format!("{:.1}°", angle.to_degrees());
        self.does(Edit::Film(FilmEdit::PlaceAxes { film: film.name.into(), origin, angle, flipped: false }));
    }

    /// A trail with all marks of the film; gives it and its table.
    fn marks(&mut self, film: &Followed) -> (u32, u32) {
        self.does(Edit::Film(FilmEdit::AddTrail { film: film.name.into(), name: "it".into(), table: None }));
        let trail = self.book.state().film(film.name).unwrap().1.trails[0].clone();
        self.does(Edit::Film(FilmEdit::PlaceMarks { trail: trail.id, marks: film.marks.clone() }));
        (trail.id, trail.table)
    }

    /// Velocities by central differences, which the page offers first.
    fn velocities(&mut self, trail: u32) {
        self.does(Edit::Film(FilmEdit::AddFromTrail { trail, what: FromTrail::Velocity, rows: None }));
    }

    fn works_out(&mut self, table: u32, symbol: &str, formula: &str) {
        let [name, symbol, formula] = [symbol, symbol, formula].map(str::to_owned);
        let text = ColumnText { name, symbol, formula, ..ColumnText::default() };
        self.does(Edit::Record(RecordEdit::AddColumn { table, kind: ColumnKind::Worked, text }));
    }

    fn column(&self, table: u32, symbol: &str) -> u32 {
        self.book.state().table(table).unwrap().by_symbol(symbol).unwrap().id
    }

    fn draws(&mut self, table: u32, [x, y]: [&str; 2], model: Model) {
        let [x, y] = [x, y].map(|symbol| Some(self.column(table, symbol)));
        self.does(Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x, y }));
        self.does(Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(model) }));
    }

    /// Slope and its uncertainty of the first stretch there is, from one x to another.
    fn slope_between(&mut self, from: f64, to: f64) -> Measured {
        let [from, to] = [from, to].map(|v| format!("{v:.4}"));
        self.does(Edit::Graph(GraphEdit::AddStretch { graph: 1, from, to }));
        let analysis = self.book.analyse();
        let fit = analysis.graph(1).unwrap().fits.last().unwrap().outcome.as_ref().unwrap().clone();
        let stretch = self.book.state().graph.graphs[0].stretches.last().unwrap().id;
        self.does(Edit::Graph(GraphEdit::DeleteStretch { graph: 1, stretch }));
        let slope = fit.slope().unwrap();
        Measured { value: slope.value, u: slope.u, freedom: slope.freedom }
    }

    /// What comes out by this law, with its uncertainty.
    fn finds(&mut self, slope: &str) -> Measured {
        self.does(Edit::Result(ResultEdit::StateLaw { result: 1, term: Term::Slope, typed: slope.into() }));
        let analysis = self.book.analyse();
        let found = analysis.outcome(1).unwrap().constant.clone().unwrap().unwrap();
        let size = found.unit.size();
        Measured { value: found.value * size, u: found.u * size, freedom: found.freedom }
    }

    fn types(&mut self, row: RowAt, column: u32, typed: String) {
        self.does(Edit::Record(RecordEdit::TypeCell { row, column, typed, was: None }));
    }
}

/// A value that came out, with its standard uncertainty and the freedom of that.
#[derive(Debug)]
struct Measured {
    value: f64,
    u: f64,
    freedom: f64,
}

/// What came out, by many hands: near the truth in each, and in nearly all within Student's t for 95.45 % times its uncertainty.
fn near(what: &str, all: &[Measured], truth: f64, bound: f64) {
    let within = |o: &&Measured| {
        let times =
            if o.freedom > 1e6 { 2.0 } else { StudentsT::new(0.0, 1.0, o.freedom).unwrap().inverse_cdf(0.977_25) };
        (o.value - truth).abs() <= times * o.u
    };
    let (within, count) = (all.iter().filter(within).count(), all.len());
    let worst = all.iter().map(|o| (o.value / truth - 1.0).abs()).fold(0.0, f64::max);
    let told = format!("{what}: {within} of {count} taken in, {worst:.4} off at most, {:?}", all[0]);
    assert!(worst < bound && 10 * within >= 9 * count, "{told}");
}

#[test]
fn a_pendulum_filmed_askew_comes_to_gravity_once_the_axes_are_turned() {
    let film = followed("workshop-pendulum", 28, 230);
    let mut found = Vec::new();
    for seed in 0..HANDS {
        let mut hand = Hand::new("2.2", seed);
        hand.chooses(&film);
        hand.lays_ruler(&film, [[2.995, -3.35], [2.995, 0.15]], "3.500 m");
        let (trail, table) = hand.marks(&film);
        hand.velocities(trail);
        hand.works_out(table, "q", "vx^2 + vy^2");
        hand.draws(table, ["y", "q"], Model::Line);
        let scatter = |hand: &Hand| hand.book.analyse().graph(1).unwrap().first_fit().unwrap().residual_sd;
        let before = scatter(&hand);
        // The camera leans to the left, so that the picture leans to the right.
        hand.turns_axes(&film, [0.0, -3.0], -TILT);
        let after = scatter(&hand);
        assert!(after < 0.1 * before, "askew {before}, turned {after}");
        found.push(hand.finds("-2*g"));
    }
    near("g of the pendulum", &found, GRAVITY, 0.02);
}

#[test]
fn a_bouncing_ball_keeps_the_share_it_was_made_with() {
    let film = followed("bounces", 28, 225);
    let camera = &film.shoot.camera;
    let (mut found, mut gravity) = (Vec::new(), Vec::new());
    for seed in 0..HANDS {
        let mut hand = Hand::new("4.7", seed);
        hand.chooses(&film);
        hand.lays_ruler(&film, [[-2.15, 0.0], [-2.15, 2.0]], "2.000 m");
        hand.turns_axes(&film, [-1.75, 0.09], 0.0);
        let (trail, table) = hand.marks(&film);
        let y = |frame: u32| -film.marks[frame as usize].1[1];
        // The tops: no neighbour is higher, and one is lower.
        let inner = 1..film.marks.len() as u32 - 1;
        let mut tops = vec![0];
        tops.extend(inner.filter(|f| y(*f) > y(f - 1) && y(*f) >= y(f + 1) && y(*f) > -camera.pixel([0.0, 0.2])[1]));
        for (n, frame) in tops.iter().take(5).enumerate() {
            let [count, height] = ["n", "h"].map(|s| hand.column(1, s));
            hand.types(RowAt::Below, count, n.to_string());
            let row = RowAt::There(hand.book.state().record.tables[0].rows.last().unwrap().id);
            let of = MomentOf { trail: Some(trail), frame: *frame, ..MomentOf::default() };
            let instrument = Instrument::Moment { of, what: Ask::Y, mass: String::new() };
            hand.does(Edit::Record(RecordEdit::LogReading { row, column: height, instrument }));
        }
        hand.works_out(1, "l", "ln(h/(1 [m]))");
        hand.draws(1, ["n", "l"], Model::Line);
        found.push(hand.finds("ln(q)"));
        // Between two bounces the velocity falls evenly: from the second bounce to the third.
        hand.velocities(trail);
        hand.draws(table, ["t", "vy"], Model::Line);
        let low = |a: u32, b: u32| (a..b).min_by(|i, j| y(*i).total_cmp(&y(*j))).unwrap();
        let (from, to) = (low(tops[1], tops[2]), low(tops[2], tops[3]));
        gravity.push(hand.slope_between(camera.time(from as usize + 4), camera.time(to as usize - 4)));
    }
    near("share of energy kept", &found, KEPT, 0.02);
    near("slope between two bounces", &gravity, -GRAVITY, 0.02);
}

#[test]
fn a_cart_on_a_cord_tells_the_mass_that_moves() {
    let weights = [20, 40, 60, 80, 100];
    let names = ["cart-20", "cart-40", "cart-60", "cart-80", "cart-100"];
    let films = names.map(|name| followed(name, 24, 200));
    let (mut found, mut friction) = (Vec::new(), Vec::new());
    for seed in 0..HANDS {
        let mut hand = Hand::new("5.7", seed);
        for (k, film) in films.iter().enumerate() {
            hand.chooses(film);
            hand.lays_ruler(film, [[-0.9, 0.65], [0.3, 0.65]], "1.200 m");
            let (trail, table) = hand.marks(film);
            hand.velocities(trail);
            hand.draws(table, ["t", "vx"], Model::Line);
            // From the release on, and until the weight lands: 0.9 m on.
            let x = |m: &(u32, [f64; 2])| (m.1[0] - film.marks[0].1[0]) * film.shoot.camera.metres_a_pixel;
            let last = film.marks.iter().rposition(|m| x(m) < 0.9).unwrap() - 3;
            let [from, to] = [0.3, film.shoot.camera.time(last)].map(|v| format!("{v:.4}"));
            hand.does(Edit::Graph(GraphEdit::AddStretch { graph: 1, from, to }));
            let stretch = hand.book.state().graph.graphs[0].stretches.last().unwrap().id;
            let column = hand.column(1, "a");
            let row = RowAt::There(hand.book.state().record.tables[0].rows[k].id);
            let source = DrawnFrom::Parameter {
                graph: 1,
                stretch: Some(stretch),
                series: None,
                symbol: "slope".into(),
                of: None,
            };
            let instrument = Instrument::Curve { source };
            hand.does(Edit::Record(RecordEdit::LogReading { row, column, instrument }));
            let a = hand.book.state().record.tables[0].rows[k].cells[&column].clone();
            let pull = f64::from(weights[k]) * 1e-3 * GRAVITY;
            let wanted = (pull - CART_FRICTION) / CART_MASS;
            let (found, u) = (a.si(), a.u_si());
            assert!(
                (found - wanted).abs() < 4.0 * u + 0.01 * wanted,
                "{}: {found} ± {u} instead of {wanted}",
                film.name
            );
            // The next film comes onto the same graph; what was entered stays.
            hand.does(Edit::Graph(GraphEdit::DeleteStretch { graph: 1, stretch }));
        }
        hand.works_out(1, "F", "m*9.81 [m/s^2]");
        hand.draws(1, ["F", "a"], Model::Line);
        found.push(hand.finds("1/M"));
        let analysis = hand.book.analyse();
        let fit = analysis.graph(1).unwrap().first_fit().unwrap();
        let (slope, intercept) = (fit.slope().unwrap(), fit.intercept().unwrap());
        // Where the line meets a = 0; the pulls stand in g m/s².
        let (value, u) = (-1e-3 * intercept.value / slope.value, 1e-3 * intercept.u / slope.value);
        friction.push(Measured { value, u, freedom: intercept.freedom });
    }
    near("mass that moves", &found, CART_MASS, 0.03);
    near("friction", &friction, CART_FRICTION, 0.2);
}

/// Seen at a slant, what one scale makes of it is far off; four corners of a frame set it right.
#[test]
fn four_corners_set_right_what_was_filmed_at_a_slant() {
    let film = followed("yard-aslant", 24, 60);
    let (mut before, mut found, mut bent) = (Vec::new(), Vec::new(), Vec::new());
    for seed in 0..HANDS {
        let mut hand = Hand::new("4.8", seed);
        hand.chooses(&film);
        hand.lays_ruler(&film, [[-2.95, 0.0], [-2.95, 2.0]], "2.000 m");
        let (trail, table) = hand.marks(&film);
        hand.velocities(trail);
        hand.draws(table, ["t", "vy"], Model::Line);
        before.push(hand.finds("-g").value);
        let bend = |hand: &mut Hand| {
            hand.draws(table, ["t", "x"], Model::Quadratic);
            let analysis = hand.book.analyse();
            analysis.graph(1).unwrap().first_fit().unwrap().parameters[0].value
        };
        let bend_before = bend(&mut hand);
        let corners = FRAME.map(|corner| hand.points(&film, corner));
        let typed = ["4.800 m", "2.200 m"].map(str::to_owned);
        hand.does(Edit::Film(FilmEdit::PlacePlane { film: film.name.into(), corners, typed }));
        // The x axis lies along the frame's width by itself.
        bent.push((bend_before, bend(&mut hand)));
        hand.draws(table, ["t", "vy"], Model::Line);
        found.push(hand.finds("-g"));
    }
    let off = |g: f64| (g / GRAVITY - 1.0).abs();
    let least = before.iter().map(|g| off(*g)).fold(f64::INFINITY, f64::min);
    let most = found.iter().map(|g| off(g.value)).fold(0.0, f64::max);
    assert!(least > 0.15 && most < 0.005, "g is off by {least} at least before, by {most} at most after");
    assert!(bent.iter().all(|(before, after)| after.abs() < 0.05 * before.abs()), "{bent:?}");
    near("g at a slant", &found, GRAVITY, 0.02);
}
