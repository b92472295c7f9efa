//! The stage of a filmed lab: the film, what lies over it, trails and instruments.

use askama::Template;
use serde::Serialize;
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::Part;
use zeitmass_core::motion::{FilmWork, Plane, Sight, Tools};
use zeitmass_core::quantity::format::{bracketed, plain, with_unit};
use zeitmass_core::quantity::{Decimal, Dimension, Unit};

use super::Scene;
use super::words::Beside;

/// What the player needs to know of the film on the stage.
#[derive(Serialize)]
struct FilmData<'a> {
    /// Number of the film in the logbook.
    number: u32,
    key: &'a str,
    title: &'a str,
    width: u32,
    height: u32,
    times: &'a [f64],
    tools: &'a Tools,
    /// Metres a pixel spans.
    scale: Option<f64>,
    rulers: Vec<RulerData>,
    plane: Option<PlaneData>,
    axes: AxesData,
    trails: Vec<TrailData<'a>>,
}

#[derive(Serialize)]
struct RulerData {
    ends: [[f64; 2]; 2],
    text: String,
    circle: bool,
}

/// The rectangle that sets the picture right.
#[derive(Serialize)]
struct PlaneData {
    corners: [[f64; 2]; 4],
    /// Width and height.
    typed: [String; 2],
    /// The map from px to m to the right and down, row by row.
    flat: [[f64; 3]; 3],
}

#[derive(Serialize)]
struct AxesData {
    origin: [f64; 2],
    /// In degrees.
    angle: f64,
    flipped: bool,
}

#[derive(Serialize)]
struct TrailData<'a> {
    id: u32,
    name: &'a str,
    /// Frame, x and y in px, and whether the program placed it.
    marks: Vec<(u32, f64, f64, bool)>,
}

struct FilmChoice {
    key: String,
    label: String,
    chosen: bool,
}

struct RulerRow {
    index: usize,
    text: String,
    circle: bool,
    pixels: String,
    /// What it comes to on the plane that is set right.
    reads: String,
}

struct TrailRow {
    id: u32,
    name: String,
    marks: usize,
}

#[derive(Template)]
#[template(path = "bench/film_part.html")]
pub(super) struct FilmPart {
    beside: Beside,
    writable: bool,
    /// Heads of the conditions by which a film is picked.
    conditions: Vec<String>,
    films: Vec<FilmChoice>,
    own: bool,
    data: String,
    /// Name of the film on the stage.
    key: String,
    chosen: bool,
    length: String,
    scale: String,
    disagree: String,
    rulers: Vec<RulerRow>,
    /// Width and height of the rectangle that sets the picture right.
    plane: Option<[String; 2]>,
    angle: String,
    origin: [String; 2],
    flipped: bool,
    trails: Vec<TrailRow>,
    /// Tables that marks of any film fill.
    tables: Vec<(u32, String)>,
    caption: String,
}

fn sides(plane: &Plane) -> [String; 2] {
    plane.sides.each_ref().map(|(number, unit)| with_unit(&number.pretty(), unit))
}

fn data(number: u32, film: &FilmWork) -> String {
    let data = FilmData {
        number,
        key: &film.facts.key,
        title: &film.facts.title,
        width: film.facts.width,
        height: film.facts.height,
        times: &film.facts.times,
        tools: &film.tools,
        scale: film.scale().map(|s| s.metres),
        rulers: film
            .rulers
            .iter()
            .map(|r| RulerData { ends: r.ends, text: with_unit(&r.length.0.pretty(), &r.length.1), circle: r.circle })
            .collect(),
        plane: film
            .plane
            .as_ref()
            .and_then(|p| Some(PlaneData { corners: p.corners, typed: sides(p), flat: p.flat()?.rows() })),
        axes: AxesData { origin: film.axes.origin, angle: film.axes.angle.to_degrees(), flipped: film.axes.flipped },
        trails: film
            .trails
            .iter()
            .map(|t| TrailData {
                id: t.id,
                name: &t.name,
                marks: t.marks.iter().map(|(f, m)| (*f, m.at[0], m.at[1], m.followed)).collect(),
            })
            .collect(),
    };
    // All of it is numbers and texts, so it has a JSON form.
    serde_json::to_string(&data).unwrap_or_default()
}

impl Scene<'_> {
    pub(super) fn film_stage(&self) -> FilmPart {
        let (book, state) = (self.book(), self.book().state());
        let sheet = book.sheet();
        let shown = state.film_shown().map(|(_, f)| f);
        let key = shown.map_or("", |f| f.facts.key.as_str());
        let mut films: Vec<FilmChoice> = sheet
            .films
            .iter()
            .enumerate()
            .map(|(i, f)| FilmChoice {
                key: f.key.clone(),
                label: if f.conditions.is_empty() {
                    let demo = || zeitmass_film::catalogue::film(&f.key).map(|card| card.title.to_owned());
                    let known = state.film(&f.key).map(|(_, f)| f.facts.title.clone()).or_else(demo);
                    known.unwrap_or_else(|| format!("Film {}", i + 1))
                } else {
                    f.conditions.join(", ").replace(" deg", "°")
                },
                chosen: f.key == key,
            })
            .collect();
        for own in state.film.films.iter().filter(|f| !sheet.films.iter().any(|s| s.key == f.facts.key)) {
            let (key_of, title) = (own.facts.key.clone(), own.facts.title.clone());
            films.push(FilmChoice { chosen: key_of == key, key: key_of, label: title });
        }
        let scale = shown.and_then(FilmWork::scale);
        let right: Option<Sight<'_>> = shown.filter(|f| f.plane.is_some()).map(FilmWork::sight);
        let metre = Unit::coherent(&Dimension::of([1, 0, 0, 0, 0, 0, 0]));
        let filled = |id: u32| state.film.films.iter().flat_map(|f| &f.trails).any(|t| t.table == id);
        FilmPart {
            beside: self.beside(Part::Stage),
            writable: self.open_at(Step::Measure),
            conditions: sheet.conditions.iter().map(|c| c.name.clone()).collect(),
            films,
            own: sheet.own_films,
            data: state.film_shown().map(|(n, f)| data(n, f)).unwrap_or_default(),
            key: key.to_owned(),
            chosen: shown.is_some(),
            length: shown.map_or_else(String::new, |f| f.facts.length.clone()),
            scale: scale
                .map_or_else(String::new, |s| format!("{} per px", with_unit(&bracketed(s.metres, s.u), &metre))),
            disagree: scale.filter(|s| s.disagree).and_then(|s| s.spread).map_or_else(String::new, |s| {
                format!("The scales differ by {} %: was the camera held askew?", plain((1000.0 * s).round() / 10.0))
            }),
            rulers: shown
                .map_or(&[][..], |f| &f.rulers)
                .iter()
                .enumerate()
                .map(|(index, r)| RulerRow {
                    index,
                    text: with_unit(&r.length.0.pretty(), &r.length.1),
                    circle: r.circle,
                    pixels: plain((10.0 * r.pixels()).round() / 10.0),
                    reads: right.as_ref().map_or_else(String::new, |sight| {
                        let (long, pixel) = sight.distance(r.ends);
                        with_unit(&Decimal::rounded(long, pixel).pretty(), &metre)
                    }),
                })
                .collect(),
            plane: shown.and_then(|f| f.plane.as_ref()).map(sides),
            angle: shown
                .map_or_else(String::new, |f| format!("{}°", plain((10.0 * f.axes.angle.to_degrees()).round() / 10.0))),
            origin: shown.map_or_else(Default::default, |f| f.axes.origin.map(|v| plain((10.0 * v).round() / 10.0))),
            flipped: shown.is_some_and(|f| f.axes.flipped),
            trails: shown
                .map_or(&[][..], |f| &f.trails)
                .iter()
                .map(|t| TrailRow { id: t.id, name: t.name.clone(), marks: t.marks.len() })
                .collect(),
            tables: state.record.tables.iter().filter(|t| filled(t.id)).map(|t| (t.id, t.name.clone())).collect(),
            caption: shown.map_or_else(String::new, |f| f.facts.title.clone()),
        }
    }
}
