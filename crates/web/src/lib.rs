//! The pages of Zeitmass: routes, templates, assets, live updates.
//!
//! A page sends an edit as JSON, in the types of the core; it goes to the open logbook and the store ([`desks`]), and what came of it
//! goes back as data, with the parts of the bench that changed as fragments ([`views`]).

mod app;
mod assets;
mod desks;
mod draw;
mod error;
mod files;
mod follow;
mod gate;
mod notation;
mod routes;
mod session;
mod text;
mod uploads;
mod viewer;
mod views;
mod wish;

pub use app::{App, Guest};
pub use files::read_table;
pub use gate::Network;
pub use routes::router;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::motion::FilmFacts;

/// The lab sheets that come with the program: file name and text.
pub const SHIPPED_SHEETS: [(&str, &str); 43] = [
    ("1.1-mail-shuttle.md", include_str!("../../../labs/1.1-mail-shuttle.md")),
    ("1.2-three-stories.md", include_str!("../../../labs/1.2-three-stories.md")),
    ("2.1-tower-pendulum.md", include_str!("../../../labs/2.1-tower-pendulum.md")),
    ("2.2-the-workshops-pendulum.md", include_str!("../../../labs/2.2-the-workshops-pendulum.md")),
    ("3.1-passing-cabins.md", include_str!("../../../labs/3.1-passing-cabins.md")),
    ("3.2-collision-with-a-buffer.md", include_str!("../../../labs/3.2-collision-with-a-buffer.md")),
    ("3.3-sledge-at-three-angles.md", include_str!("../../../labs/3.3-sledge-at-three-angles.md")),
    ("3.4-cabins-at-the-mast.md", include_str!("../../../labs/3.4-cabins-at-the-mast.md")),
    ("3.5-the-braked-sledge.md", include_str!("../../../labs/3.5-the-braked-sledge.md")),
    ("4.1-thrown-ball.md", include_str!("../../../labs/4.1-thrown-ball.md")),
    ("4.2-steady-fall.md", include_str!("../../../labs/4.2-steady-fall.md")),
    ("4.3-two-falls.md", include_str!("../../../labs/4.3-two-falls.md")),
    ("4.4-terminal-speed.md", include_str!("../../../labs/4.4-terminal-speed.md")),
    ("4.5-range.md", include_str!("../../../labs/4.5-range.md")),
    ("4.6-two-directions.md", include_str!("../../../labs/4.6-two-directions.md")),
    ("4.7-bounce-after-bounce.md", include_str!("../../../labs/4.7-bounce-after-bounce.md")),
    ("4.8-from-the-gate.md", include_str!("../../../labs/4.8-from-the-gate.md")),
    ("4.9-weight-and-dial.md", include_str!("../../../labs/4.9-weight-and-dial.md")),
    ("5.1-thrust.md", include_str!("../../../labs/5.1-thrust.md")),
    ("5.2-loads.md", include_str!("../../../labs/5.2-loads.md")),
    ("5.3-worlds.md", include_str!("../../../labs/5.3-worlds.md")),
    ("5.4-spring-balance.md", include_str!("../../../labs/5.4-spring-balance.md")),
    ("5.5-rolling.md", include_str!("../../../labs/5.5-rolling.md")),
    ("5.6-bobbing-load.md", include_str!("../../../labs/5.6-bobbing-load.md")),
    ("5.7-a-cart-on-a-cord.md", include_str!("../../../labs/5.7-a-cart-on-a-cord.md")),
    ("5.8-the-load-by-steps.md", include_str!("../../../labs/5.8-the-load-by-steps.md")),
    ("6.1-whirling-table.md", include_str!("../../../labs/6.1-whirling-table.md")),
    ("7.1-what-stays.md", include_str!("../../../labs/7.1-what-stays.md")),
    ("7.2-two-carriages.md", include_str!("../../../labs/7.2-two-carriages.md")),
    ("8.1-hill-railway.md", include_str!("../../../labs/8.1-hill-railway.md")),
    ("8.2-round-the-loop.md", include_str!("../../../labs/8.2-round-the-loop.md")),
    ("9.1-years-of-the-planets.md", include_str!("../../../labs/9.1-years-of-the-planets.md")),
    ("9.2-the-pull-of-lead.md", include_str!("../../../labs/9.2-the-pull-of-lead.md")),
    ("9.3-nights-with-the-moon.md", include_str!("../../../labs/9.3-nights-with-the-moon.md")),
    ("10.1-half-of-them.md", include_str!("../../../labs/10.1-half-of-them.md")),
    ("10.2-one-in-six.md", include_str!("../../../labs/10.2-one-in-six.md")),
    ("11.1-the-bell-wire.md", include_str!("../../../labs/11.1-the-bell-wire.md")),
    ("11.2-pulled-tighter.md", include_str!("../../../labs/11.2-pulled-tighter.md")),
    ("11.3-the-unknown-weight.md", include_str!("../../../labs/11.3-the-unknown-weight.md")),
    ("12.1-the-deep-basin.md", include_str!("../../../labs/12.1-the-deep-basin.md")),
    ("12.2-narrow-and-wide.md", include_str!("../../../labs/12.2-narrow-and-wide.md")),
    ("12.3-down-to-the-saw.md", include_str!("../../../labs/12.3-down-to-the-saw.md")),
    ("13.1-a-hundred-cogs.md", include_str!("../../../labs/13.1-a-hundred-cogs.md")),
];

/// What is known of a demo film of that name, made for a seed of one.
pub fn demo_film(name: &str) -> Option<FilmFacts> {
    let card = zeitmass_film::catalogue::film(name)?;
    let shoot = card.shoot(1);
    Some(FilmFacts {
        key: card.name.to_owned(),
        title: card.title.to_owned(),
        length: card.length.to_owned(),
        width: shoot.camera.width as u32,
        height: shoot.camera.height as u32,
        times: (0..shoot.frames).map(|n| shoot.camera.time(n)).collect(),
    })
}

/// The sheets of the free bench: the name of the rig, or `films`, and the text.
fn benches() -> impl Iterator<Item = (String, String)> {
    let films: Vec<&str> = zeitmass_film::catalogue::FILMS.iter().map(|f| f.name).collect();
    let of_films = LabSheet::free_bench_of_films(&films);
    let names = zeitmass_core::rigs::CATALOGUE.iter().map(|rig| rig.card().name);
    let of_rigs = names.filter_map(|name| Some((name.to_owned(), LabSheet::free_bench(name)?)));
    of_rigs.chain([("films".to_owned(), of_films)])
}
