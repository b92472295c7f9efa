//! Of a sheet its texts, what is forecast, and the columns to begin with.

use zeitmass_core::lab::FROM;
use zeitmass_words::drafts;

use super::form::{Form, picks};
use super::{Area, Control, Item, named};

impl Form<'_> {
    pub(super) fn texts(&self) -> Area {
        let from: Vec<(&str, &str)> = FROM.iter().map(|(from, name)| (*name, drafts::from(*from))).collect();
        let items = (0..self.draft.count("sections")).map(|place| {
            let at = |key: &str| format!("sections.{place}.{key}");
            let text = self.hinted(
                at("text"),
                "Text",
                Control::Area,
                "formulas between dollar signs, $T^2$; a list begins with 1. or -",
            );
            if place == 0 {
                return Item { fixed: true, ..self.item("sections", 0, "Question".to_owned(), vec![text], Vec::new()) };
            }
            let fields = vec![
                self.field(at("heading"), "Heading", Control::Line),
                self.field(at("from"), "Read", picks(&from)),
                text,
            ];
            let item = self.item("sections", place, self.draft.value(&at("heading")), fields, Vec::new());
            Item { up: place > 1, ..item }
        });
        Area {
            items: items.collect(),
            add: vec![("sections", "", "Add a text".to_owned())],
            wrong: self.wrong_at("sections"),
            ..self.area("texts", "What students read")
        }
    }

    pub(super) fn forecast(&self) -> Area {
        let area = self.area("forecast", "Forecast");
        if !self.draft.has("forecast") {
            return Area {
                about: "Nothing is forecast before the first run.".to_owned(),
                add: vec![("forecast", "", "Ask for a forecast".to_owned())],
                ..area
            };
        }
        let channels: Vec<(&str, &str)> = self.card.channels.iter().map(|c| (c.name, c.label)).collect();
        let mut fields = vec![
            self.field("forecast.hold", "The apparatus waits for it", Control::Tick),
            self.hinted("forecast.duration", "How long it covers", Control::Line, "such as 4 s"),
            self.hinted("forecast.rounds", "Rounds", Control::Line, "how often the curves are sketched; once if blank"),
        ];
        let mut add = vec![("forecast.curves", "", "Add a curve to sketch".to_owned())];
        if self.draft.has("forecast.hypothesis") {
            fields.push(self.hinted(
                "forecast.hypothesis.causes",
                "Hypothesis: causes to choose from",
                Control::Area,
                "one a line",
            ));
            fields.push(self.hinted("forecast.hypothesis.effects", "and effects", Control::Area, "one a line"));
        } else {
            add.push(("forecast.hypothesis", "", "Ask for a hypothesis".to_owned()));
        }
        if self.draft.has("forecast.prediction") {
            fields.push(self.field("forecast.prediction.question", "Value to predict", Control::Line));
            fields.push(self.field("forecast.prediction.unit", "in", Control::Line));
        } else {
            add.push(("forecast.prediction", "", "Ask for a value".to_owned()));
        }
        let items = (0..self.draft.count("forecast.curves")).map(|place| {
            let at = |key: &str| format!("forecast.curves.{place}.{key}");
            let fields = vec![
                self.field(at("channel"), "Quantity", picks(&channels)),
                self.field(at("name"), "Name on the axis", Control::Line),
                self.field(at("from"), "Axis from", Control::Line),
                self.field(at("to"), "to", Control::Line),
            ];
            self.item("forecast.curves", place, format!("Curve {}", place + 1), fields, Vec::new())
        });
        Area {
            items: items.collect(),
            fields,
            add,
            without: Some(("forecast", "No forecast")),
            wrong: self.wrong_at("forecast"),
            ..area
        }
    }

    pub(super) fn columns(&self) -> Area {
        let mut sources = vec![(String::new(), "by hand".to_owned())];
        let settings = self.card.settings.iter().filter(|s| s.is_number());
        sources.extend(settings.map(|s| (format!("setting {}", s.name), format!("setting: {}", s.label))));
        sources
            .extend(self.card.meters.iter().map(|m| (format!("meter {}", m.name), format!("instrument: {}", m.label))));
        let items = (0..self.draft.count("columns")).map(|place| {
            let at = |key: &str| format!("columns.{place}.{key}");
            let kinds =
                [("set", "set: what is varied"), ("read", "read: what is measured"), ("given", "given by the sheet")];
            let mut fields = vec![
                self.field(at("kind"), "Kind", picks(&kinds)),
                self.field(at("name"), "Name", Control::Line),
                self.field(at("symbol"), "Symbol", Control::Line),
                self.field(at("unit"), "Unit", Control::Line),
            ];
            if self.draft.value(&at("kind")) == "given" {
                fields.push(self.hinted(at("values"), "Values", Control::Area, "one a line"));
            } else {
                fields.push(self.field(at("from"), "Entered", Control::Pick(sources.clone())));
            }
            let more = vec![
                self.hinted(
                    at("division"),
                    "Scale read by eye: division",
                    Control::Line,
                    "such as 1 mm; blank for an instrument",
                ),
                self.hinted(at("parts"), "parts of a division that can be told apart", Control::Line, ""),
                self.field(at("groups"), "Rows with the same value belong together", Control::Tick),
                self.field(at("counts"), "Counts of what happens by chance", Control::Tick),
                self.hinted(at("table"), "Table", Control::Line, "name of its table; the first one if blank"),
            ];
            let (name, symbol) = (self.draft.value(&at("name")), self.draft.value(&at("symbol")));
            Item { head: named(&name, &symbol), ..self.item("columns", place, name, fields, more) }
        });
        let names: Vec<(&str, &str)> = self.card.settings.iter().map(|s| (s.name, s.label)).collect();
        let mut ticks = Vec::new();
        if !names.is_empty() {
            ticks.push(self.ticks("varied_together", "Varied together on purpose", names, &[]));
        }
        Area {
            fields: vec![
                self.hinted("trials", "Trials wanted", Control::Line, ""),
                self.hinted("most_trials", "Too many from", Control::Line, "blank: twice as many"),
            ],
            items: items.collect(),
            more: vec![
                self.hinted("table", "Name of the first table", Control::Line, "Trials if blank"),
                self.hinted(
                    "deals",
                    "Deals of numbers",
                    Control::Line,
                    "how often a logbook gets numbers; once if blank",
                ),
                self.field(
                    "strip",
                    "Strip of shapes",
                    picks(&[("", "always"), ("after attempt", "after an attempt"), ("never", "never")]),
                ),
                self.field(
                    "slips",
                    "Likely mistakes",
                    picks(&[("", "shown to you alone"), ("asked", "students are asked about them")]),
                ),
                self.field(
                    "read_out",
                    "Slope and intercept in words",
                    picks(&[("", "shown"), ("gaps", "with gaps to fill")]),
                ),
                self.field("step_model", "A step model beside the data", Control::Tick),
            ],
            ticks,
            add: vec![("columns", "", "Add a column".to_owned())],
            ..self.area("columns", "Record")
        }
    }
}
