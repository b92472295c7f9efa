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
mod forms;
mod notation;
mod routes;
mod session;
mod text;
mod views;

pub use app::App;
pub use routes::router;

/// The lab sheets that come with the program: file name and text.
pub const SHIPPED_SHEETS: [(&str, &str); 1] =
    [("2.1-tower-pendulum.md", include_str!("../../../labs/2.1-tower-pendulum.md"))];
