//! The write-up: a document put together from blocks, for reading, printing and taking along.

use std::collections::BTreeMap;
use std::sync::Arc;

use askama::Template;
use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use zeitmass_core::logbook::{Laid, Shows, Sources, Taken, TextField};
use zeitmass_core::motion::FilmWork;
use zeitmass_core::quantity::format::with_unit;
use zeitmass_core::quantity::{Dimension, Unit};
use zeitmass_core::rigs::PLACE;
use zeitmass_store::{Id, LogbookInfo};
use zeitmass_words::{Title, Words};

use super::bench::people;
use super::parts::{
    AnswerWords, ClaimView, ColumnHead, Look, Marks, ResultView, RowView, Scene, Written, WrittenModel,
    answers_in_words, brought_words, heads_of, held_words, missing, rows_of, run_words, sentences,
};
use crate::desks::Sight;
use crate::draw::{self, Audience};
use crate::text::markdown;
use crate::viewer::Viewer;

/// Rows of a table that the write-up prints; longer tables go on in the file.
const MOST_PRINTED: usize = 300;

/// A table of the write-up.
pub(crate) struct WrittenTable {
    pub number: usize,
    pub id: u32,
    pub name: String,
    /// How its columns came about.
    pub sources: String,
    pub columns: Vec<ColumnHead>,
    pub rows: Vec<RowView>,
    pub left_out: usize,
}

/// A graph of the write-up.
pub(crate) struct Figure {
    pub number: usize,
    pub id: u32,
    pub svg: String,
    pub sentences: Vec<String>,
    /// What was written about the intercept; with the first graph only.
    pub intercept: String,
}

/// A picture of the stage.
pub(crate) struct WrittenPicture {
    pub number: usize,
    /// What it shows; nothing where that is gone.
    pub shown: Option<PictureShown>,
    pub caption: String,
}

/// How a picture is there.
pub(crate) enum PictureShown {
    /// A drawing, as SVG.
    Drawn(String),
    /// A photograph, as JPEG.
    Photo(Arc<Vec<u8>>),
}

impl WrittenPicture {
    /// The picture as HTML.
    pub(crate) fn html(&self) -> String {
        match &self.shown {
            None => String::new(),
            Some(PictureShown::Drawn(svg)) => svg.clone(),
            Some(PictureShown::Photo(jpeg)) => {
                format!(
                    r#"<img src="data:image/jpeg;base64,{}" alt="Picture of the film">"#,
                    BASE64_STANDARD.encode(jpeg.as_slice())
                )
            }
        }
    }
}

/// The write-up as a page, for reading and printing.
#[derive(Template)]
#[template(path = "write_up.html")]
pub(crate) struct WriteUpPage {
    pub w: WriteUp,
}

/// The write-up as a file that stands alone.
#[derive(Template)]
#[template(path = "write_up_file.html")]
pub(crate) struct WriteUpFile {
    pub w: WriteUp,
}

/// A block of the write-up.
pub(crate) struct WrittenBlock {
    /// The heading above it; empty where the block before has the same.
    pub heading: &'static str,
    /// The sentence that introduces it.
    pub intro: String,
    pub content: Content,
}

/// What a block holds.
pub(crate) enum Content {
    /// Prose as HTML.
    Prose(String),
    /// What was forecast and what came out.
    Forecast(Box<Written>),
    /// What was held.
    Held(String),
    Table(Box<WrittenTable>),
    Figure(Box<Figure>),
    Result(Box<ResultView>),
    Model(Box<WrittenModel>),
    Picture(Box<WrittenPicture>),
    Claim(Box<ClaimView>),
    /// As typed.
    Typed(String),
    Answers(Vec<AnswerWords>),
}

/// What the write-up gathers.
pub(crate) struct WriteUp {
    pub logbook: Id,
    pub number: String,
    pub title: String,
    pub people: String,
    pub class: String,
    pub handed_in: bool,
    /// What was brought from a file and could not be checked.
    pub brought: String,
    pub brought_cells: bool,
    pub blocks: Vec<WrittenBlock>,
    pub missing: Vec<String>,
}

impl WriteUp {
    pub(crate) fn of(
        sight: &Sight,
        info: &LogbookInfo,
        class: String,
        mut photos: BTreeMap<u32, Arc<Vec<u8>>>,
    ) -> Self {
        let book = &sight.book;
        // A write-up is read by students too, whoever asks for it.
        let scene = Scene { sight, viewer: Viewer::Member, look: Look::default() };
        let mut before = "";
        let shown = book.write_up().into_iter().filter(|laid| !laid.block.hidden);
        let blocks = shown.filter_map(|laid| {
            let (name, content) = scene.content(&laid, &mut photos)?;
            let heading = if name == before { "" } else { name };
            before = if name.is_empty() { before } else { name };
            let intro = if matches!(laid.block.shows, Shows::Own(_)) { String::new() } else { laid.block.intro };
            Some(WrittenBlock { heading, intro, content })
        });
        let blocks = blocks.collect();
        Self {
            logbook: info.id,
            number: book.sheet().number.to_string(),
            title: book.sheet().title.clone(),
            people: people(info),
            class,
            handed_in: book.state().office.handed_in,
            brought: brought_words(book.brought()),
            brought_cells: book.brought().readings > 0,
            blocks,
            missing: missing(book, &sight.analysis),
        }
    }

    /// The tables in it.
    pub(crate) fn tables(&self) -> impl Iterator<Item = &WrittenTable> {
        self.blocks.iter().filter_map(|b| if let Content::Table(table) = &b.content { Some(&**table) } else { None })
    }

    /// The graphs in it.
    pub(crate) fn figures(&self) -> impl Iterator<Item = &Figure> {
        self.blocks.iter().filter_map(|b| if let Content::Figure(figure) = &b.content { Some(&**figure) } else { None })
    }
}

impl Scene<'_> {
    /// The heading of a block and what it holds; nothing where there is nothing to show.
    fn content(&self, laid: &Laid, photos: &mut BTreeMap<u32, Arc<Vec<u8>>>) -> Option<(&'static str, Content)> {
        let (book, analysis) = (&self.sight.book, &self.sight.analysis);
        let state = book.state();
        let text = |field| state.writing.texts.get(&field).cloned().unwrap_or_default();
        Some(match laid.block.shows {
            Shows::Question => ("Question", Content::Prose(markdown(book.sheet().question()))),
            Shows::Forecast => ("Forecast", Content::Forecast(Box::new(self.forecast_of_all_rounds()?))),
            Shows::Held => {
                let stated = state.record.held.iter();
                let stated =
                    stated.map(|h| format!("{} {} = {}", h.name, h.symbol, with_unit(&h.number.pretty(), &h.unit)));
                let held = held_words(book);
                let all: Vec<String> = std::iter::once(held).filter(|h| !h.is_empty()).chain(stated).collect();
                if all.is_empty() {
                    return None;
                }
                ("Data", Content::Held(all.join(" · ")))
            }
            Shows::Table(id) => {
                let t = analysis.tables.iter().find(|t| t.record.id == id)?;
                let table = WrittenTable {
                    number: laid.number.unwrap_or_default(),
                    id,
                    name: t.record.name.clone(),
                    sources: Sources::of(&t.record).words(),
                    columns: heads_of(t),
                    rows: rows_of(t, 0, MOST_PRINTED, false, &Marks::of(book, analysis, t)),
                    left_out: t.rows.len().saturating_sub(MOST_PRINTED),
                };
                ("Data", Content::Table(Box::new(table)))
            }
            Shows::Graph(id) => {
                let g = analysis.graph(id)?;
                let expected =
                    g.expected.iter().map(|_| "The line of dashes and dots is what was expected.".to_owned());
                let figure = Figure {
                    number: laid.number.unwrap_or_default(),
                    id,
                    svg: draw::svg(g, Audience::Reader),
                    sentences: sentences(g).into_iter().chain(expected).collect(),
                    intercept: text(TextField::Intercept),
                };
                ("Graph", Content::Figure(Box::new(figure)))
            }
            Shows::Result(id) => {
                ("Result", Content::Result(Box::new(self.results().into_iter().find(|r| r.id == id)?)))
            }
            Shows::Model => {
                let model = self.written_model(laid.number.unwrap_or_default())?;
                ("Step model", Content::Model(Box::new(model)))
            }
            Shows::Picture(id) => {
                let (shown, caption) = self.pictured(laid.block.taken.as_ref()?, photos.remove(&id));
                let picture = WrittenPicture { number: laid.number.unwrap_or_default(), shown, caption };
                ("Apparatus", Content::Picture(Box::new(picture)))
            }
            Shows::Claim => ("Claim", Content::Claim(Box::new(self.claim()))),
            Shows::Text(field) => (field.title(), Content::Typed(text(field))),
            Shows::Own(_) => ("", Content::Typed(laid.block.intro.clone())),
            Shows::Answers => {
                let answers = answers_in_words(book);
                if answers.is_empty() {
                    return None;
                }
                ("Questions", Content::Answers(answers))
            }
        })
    }

    /// A picture of the stage with its caption.
    fn pictured(&self, taken: &Taken, photo: Option<Arc<Vec<u8>>>) -> (Option<PictureShown>, String) {
        match taken {
            Taken::Run { run, frame } => match run_picture(self.sight, *run, *frame) {
                Some((svg, caption)) => (Some(PictureShown::Drawn(svg)), caption),
                None => (None, format!("Run {run} can't be shown: it was deleted, or belongs to another deal.")),
            },
            Taken::Film { film, .. } => {
                let works = &self.sight.book.state().film.films;
                let work = works.iter().find(|w| w.facts.key == *film);
                let caption = match (work, &photo) {
                    (Some(work), Some(_)) => film_words(work, taken),
                    (None, _) | (_, None) => "This picture can't be shown: the film is not here.".to_owned(),
                };
                (photo.map(PictureShown::Photo), caption)
            }
        }
    }
}

/// A run up to a frame as a drawing, and what it shows in words.
pub(crate) fn run_picture(sight: &Sight, number: u32, frame: u32) -> Option<(String, String)> {
    let book = &sight.book;
    let entry = book.state().run(number)?;
    let run = book.footage(number)?.ok()?;
    let settings = book.run_settings(number)?;
    let rig = book.sheet().rig()?;
    let scene = rig.scene(&settings, &run).rounded(PLACE);
    let (svg, rings) = draw::stage(&scene, &run, &book.sheet().card.length, frame as usize);
    let clock = rig.clock(&settings);
    let (every, _, unit) = clock.written();
    let every = every * run.sampling.every / clock.every;
    let places = clock.places();
    let time = |frames: f64| with_unit(&format!("{:.places$}", frames * every).replace('-', "\u{2212}"), &unit);
    let named = run_words(book, number, entry).replacen("run", "Run", 1);
    let mut words = vec![named];
    words.push(format!("at t = {}", time(f64::from(frame) - f64::from(book.state().run.tools.zero))));
    if let Some(step) = rings {
        words.push(format!("a ring every {}", time(step as f64)));
    }
    Some((svg, format!("{}.", words.join("; "))))
}

/// What a picture of a film shows.
fn film_words(work: &FilmWork, taken: &Taken) -> String {
    let Taken::Film { from, to, step, .. } = taken else { return String::new() };
    let facts = &work.facts;
    let second = Unit::coherent(&Dimension::of([0, 0, 1, 0, 0, 0, 0]));
    let zero = facts.times.get(work.tools.zero as usize).copied().unwrap_or_default();
    let time = |frame: u32| {
        let t = facts.times.get(frame as usize).copied().unwrap_or_default() - zero;
        with_unit(&format!("{t:.3}").replace('-', "\u{2212}"), &second)
    };
    if from == to {
        return format!("{}; at t = {}.", facts.title, time(*from));
    }
    let every = if *step == 1 { "every frame".to_owned() } else { format!("every {step} frames") };
    format!("{}; {every} from t = {} to {} in one picture.", facts.title, time(*from), time(*to))
}
