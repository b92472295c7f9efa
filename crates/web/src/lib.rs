//! The pages of Zeitmass: routes, templates, assets, live updates.
//!
//! A request becomes an edit ([`forms`]), the edit goes to the open logbook ([`desks`]) and the store, and the parts of
//! the bench that changed come back as fragments ([`views`]).

mod app;
mod assets;
mod desks;
mod draw;
mod error;
mod files;
mod follow;
mod forms;
mod notation;
mod routes;
mod session;
mod text;
mod views;

pub use app::App;
pub use routes::router;
use zeitmass_core::motion::FilmFacts;

/// The lab sheets that come with the program: file name and text.
pub const SHIPPED_SHEETS: [(&str, &str); 6] = [
    ("2.1-tower-pendulum.md", include_str!("../../../labs/2.1-tower-pendulum.md")),
    ("3.1-passing-cabins.md", include_str!("../../../labs/3.1-passing-cabins.md")),
    ("3.2-meeting-a-buffer.md", include_str!("../../../labs/3.2-meeting-a-buffer.md")),
    ("3.3-sledge-at-three-angles.md", include_str!("../../../labs/3.3-sledge-at-three-angles.md")),
    ("4.1-thrown-ball.md", include_str!("../../../labs/4.1-thrown-ball.md")),
    ("4.2-steady-fall.md", include_str!("../../../labs/4.2-steady-fall.md")),
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
