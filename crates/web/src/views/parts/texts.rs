//! The texts of the write-up.

use askama::Template;
use zeitmass_core::logbook::{Part, TextField};

use super::Scene;
use super::words::Beside;

impl Scene<'_> {
    pub(super) fn texts(&self) -> TextsPart {
        let state = self.book().state();
        let prompt = |field| match field {
            TextField::Claim => "What do your data show? One or two sentences, in your quantities.",
            TextField::Evidence => "Which trials, which graph, which numbers show it?",
            TextField::Reasoning => "Why do they show it? Use the law from the background.",
            TextField::Intercept | TextField::Difference => "",
        };
        let field = |f: TextField| {
            let text = state.writing.texts.get(&f).cloned().unwrap_or_default();
            TextView { name: f.name(), title: f.title(), prompt: prompt(f), text }
        };
        TextsPart { beside: self.beside(Part::Texts), writable: self.open(), texts: TextField::ALL.map(field).into() }
    }
}

struct TextView {
    name: &'static str,
    title: &'static str,
    prompt: &'static str,
    text: String,
}

#[derive(Template)]
#[template(path = "bench/texts_part.html")]
pub(super) struct TextsPart {
    beside: Beside,
    writable: bool,
    texts: Vec<TextView>,
}
