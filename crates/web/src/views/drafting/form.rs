//! The form, field by field, in the order of the lab.

use zeitmass_core::inquiry::{Check, Pointable, Position, Step};
use zeitmass_core::lab::{ANSWERED_BY, Draft, DraftRule, FROM, LabSheet, Mistake, Sees};
use zeitmass_core::rigs::{CATALOGUE, Card, SettingKind, SettingSpec, SettingValue};
use zeitmass_store::FilmRow;

use super::{Area, Control, Field, Item, Row, Ticks, named};
use crate::notation::escape;

/// Builds the form.
pub(super) struct Form<'a> {
    pub draft: &'a Draft,
    pub card: Card,
    pub wrong: &'a [Mistake],
    pub sheet: Option<LabSheet>,
    /// Films there are: name and words.
    pub films: Vec<(String, String)>,
}

/// Demo films, and the teacher's own.
pub(super) fn films(own: &[FilmRow]) -> Vec<(String, String)> {
    let demo = zeitmass_film::catalogue::FILMS.iter().map(|f| (f.name.to_owned(), f.title.to_owned()));
    let own = own.iter().map(|f| (f.facts.key.clone(), format!("{} (my own)", f.facts.title)));
    std::iter::once((String::new(), "choose".to_owned())).chain(own).chain(demo).collect()
}

fn picks(all: &[(&str, &str)]) -> Control {
    Control::Pick(all.iter().map(|(value, words)| ((*value).to_owned(), (*words).to_owned())).collect())
}

impl Form<'_> {
    /// What is wrong at a path, and not within one that has a place of its own.
    fn wrong_at(&self, path: &str) -> String {
        let told: Vec<&str> = self.wrong.iter().filter(|m| m.path == path).map(|m| m.error.message.as_str()).collect();
        told.join(" ")
    }

    fn field(&self, path: impl Into<String>, label: &str, control: Control) -> Field {
        let path = path.into();
        Field {
            label: label.to_owned(),
            value: self.draft.value(&path),
            hint: String::new(),
            wrong: self.wrong_at(&path),
            control,
            path,
        }
    }

    fn hinted(&self, path: impl Into<String>, label: &str, control: Control, hint: impl Into<String>) -> Field {
        Field { hint: hint.into(), ..self.field(path, label, control) }
    }

    fn area(&self, id: &'static str, title: &'static str) -> Area {
        Area {
            id,
            title,
            about: String::new(),
            fields: Vec::new(),
            ticks: Vec::new(),
            settings: Vec::new(),
            items: Vec::new(),
            more: Vec::new(),
            add: Vec::new(),
            without: None,
            wrong: String::new(),
        }
    }

    fn item(&self, list: &str, place: usize, title: String, fields: Vec<Field>, more: Vec<Field>) -> Item {
        let path = format!("{list}.{place}");
        let count = self.draft.count(list);
        let shown = |path: &str| fields.iter().chain(&more).any(|f| f.path == path);
        // What is wrong somewhere in it, and has no field of its own to stand at.
        let wrong: Vec<&str> = self
            .wrong
            .iter()
            .filter(|m| m.path == path || m.path.starts_with(&format!("{path}.")) && !shown(&m.path))
            .map(|m| m.error.message.as_str())
            .collect();
        let wrong = wrong.join(" ");
        Item {
            head: escape(&title),
            title,
            fields,
            more,
            rows: Vec::new(),
            list: (String::new(), ""),
            wrong,
            up: place > 0,
            down: place + 1 < count,
            fixed: false,
            path,
        }
    }

    pub(super) fn areas(&self) -> Vec<Area> {
        let mut all = vec![self.head(), self.motion()];
        if !self.card.settings.is_empty() {
            all.push(self.settings());
            all.push(self.bench());
        }
        all.extend([self.texts(), self.forecast(), self.columns(), self.questions(), self.goal(), self.marks()]);
        all
    }

    fn head(&self) -> Area {
        Area {
            fields: vec![
                self.hinted("number", "Number", Control::Line, "unit.place, such as 4.2"),
                self.field("title", "Title", Control::Line),
                self.field("unit", "Unit", Control::Line),
            ],
            ..self.area("sheet", "The sheet")
        }
    }

    fn motion(&self) -> Area {
        let mut rigs = vec![(String::new(), "filmed motion".to_owned())];
        rigs.extend(CATALOGUE.iter().map(|rig| rig.card()).map(|c| (c.name.to_owned(), c.title.to_lowercase())));
        let mut fields = vec![self.field("rig", "What moves", Control::Pick(rigs))];
        let mut area = self.area("motion", "Motion");
        if self.draft.value("rig").is_empty() {
            fields.push(self.field("film", "One film", Control::Pick(self.films.clone())));
            fields.push(self.field("own_films", "Students bring films of their own", Control::Tick));
            for place in 0..self.draft.count("conditions") {
                let at = |key: &str| format!("conditions.{place}.{key}");
                let fields = vec![
                    self.field(at("name"), "Name", Control::Line),
                    self.hinted(at("symbol"), "Symbol", Control::Line, "blank for one in words"),
                    self.field(at("unit"), "Unit", Control::Line),
                ];
                area.items.push(self.item("conditions", place, format!("Condition {}", place + 1), fields, Vec::new()));
            }
            for place in 0..self.draft.count("films") {
                let at = |key: &str| format!("films.{place}.{key}");
                let fields = vec![
                    self.field(at("film"), "Film", Control::Pick(self.films.clone())),
                    self.hinted(at("conditions"), "Its conditions", Control::Area, "one a line"),
                ];
                let more = vec![
                    self.hinted(
                        at("rulers"),
                        "Rulers",
                        Control::Area,
                        "two ends in pixels and a length: 28,312; 28,112; 2.000 m",
                    ),
                    self.hinted(at("axes"), "Axes", Control::Line, "origin in pixels and an angle: 28,312; -10 deg"),
                ];
                area.items.push(self.item("films", place, format!("Film {}", place + 1), fields, more));
            }
            area.add = vec![
                ("films", "", "Add a film".to_owned()),
                ("conditions", "", "Add a condition by which films differ".to_owned()),
            ];
        } else if let Some(left_out) = Some(self.card.leaves_out).filter(|t| !t.is_empty()) {
            area.about = format!("It leaves out {left_out}");
        }
        Area { fields, ..area }
    }

    fn settings(&self) -> Area {
        let rows = self.card.settings.iter().map(|spec| self.setting(spec));
        Area {
            about: "What students set, what is fixed for all to see, what nobody sees, and what each logbook gets its own value of.".to_owned(),
            settings: rows.collect(),
            ..self.area("settings", "Settings")
        }
    }

    fn setting(&self, spec: &SettingSpec) -> Item {
        let path = format!("settings.{}", spec.name);
        let quantity = matches!(spec.kind, SettingKind::Quantity { .. });
        let now = self.draft.setting(spec.name);
        let rule = now.as_ref().map_or(DraftRule::Fixed, |s| s.rule);
        let rules = DraftRule::ALL.iter().filter(|(r, _, _)| quantity || !r.is_range());
        let rules = Control::Pick(rules.map(|(_, name, words)| ((*name).to_owned(), (*words).to_owned())).collect());
        let usual = spec.default_value().pretty();
        let typed = |value: String| value.replace('\u{A0}', " ").replace('\u{2212}', "-");
        let value = match (&spec.kind, rule.is_list()) {
            (SettingKind::Choice { options }, false) => picks(options),
            (SettingKind::Switch { .. }, false) => picks(&[("off", "off"), ("on", "on")]),
            (SettingKind::Path { .. }, _) => Control::Area,
            (SettingKind::Quantity { .. } | SettingKind::Choice { .. } | SettingKind::Switch { .. }, _) => {
                Control::Line
            }
        };
        let first = now.as_ref().map_or_else(|| typed(usual.clone()), |s| s.first.clone());
        let first = if first.is_empty() && !rule.is_list() { typed(usual) } else { first };
        let label = if rule.is_range() {
            "from"
        } else if rule.is_list() {
            "one of, parted by |"
        } else {
            "value"
        };
        let mut fields = vec![
            Field {
                value: DraftRule::ALL.iter().find(|(r, _, _)| *r == rule).map_or("", |(_, n, _)| *n).to_owned(),
                ..self.field(format!("{path}.rule"), "rule", rules)
            },
            Field { value: first, ..self.field(format!("{path}.first"), label, value) },
        ];
        if rule.is_range() {
            fields.push(self.field(format!("{path}.second"), "to", Control::Line));
        }
        let range = match &spec.kind {
            SettingKind::Quantity { .. } if rule.is_list() => format!("parted by |, {}", spec.range()),
            SettingKind::Quantity { blank: Some(meaning), .. } => format!("{}; blank: {meaning}", spec.range()),
            SettingKind::Quantity { .. } | SettingKind::Path { .. } => spec.range(),
            SettingKind::Choice { .. } if rule.is_list() => format!("parted by |: {}", spec.range()),
            SettingKind::Choice { .. } | SettingKind::Switch { .. } => String::new(),
        };
        // One that counts only with an option would be set in vain with another.
        let range = match spec.with.and_then(|(choice, option)| Some((self.card.setting(choice)?, option))) {
            Some((choice, option)) => {
                let words = choice.pretty(&SettingValue::Choice(option.to_owned()));
                [range, format!("counts with {}: {words}", choice.label)].join("; ")
            }
            None => range,
        };
        Item {
            title: spec.label.to_owned(),
            head: named(spec.label, spec.symbol),
            fields,
            more: Vec::new(),
            rows: Vec::new(),
            list: (range, ""),
            wrong: self.wrong_at(&path),
            up: false,
            down: false,
            fixed: true,
            path,
        }
    }

    fn ticks(&self, path: &'static str, label: &'static str, all: Vec<(&str, &str)>, usual: &[&str]) -> Ticks {
        let said = self.draft.has(path);
        let value = self.draft.value(path);
        let chosen: Vec<&str> = if said { value.lines().collect() } else { usual.to_vec() };
        let names = all.into_iter().map(|(name, words)| (name.to_owned(), words.to_owned(), chosen.contains(&name)));
        Ticks { path, label, names: names.collect(), said, wrong: self.wrong_at(path) }
    }

    fn bench(&self) -> Area {
        let card = &self.card;
        let channels: Vec<(&str, &str)> = card.channels.iter().map(|c| (c.name, c.label)).collect();
        let usual = |of: fn(&LabSheet) -> &Vec<&'static str>| self.sheet.as_ref().map(of).cloned().unwrap_or_default();
        Area {
            about: "Without a word from you a sheet that hides a value lays out nothing that would tell it.".to_owned(),
            ticks: vec![
                self.ticks(
                    "instruments",
                    "Instruments beside tape and split",
                    card.meters.iter().map(|m| (m.name, m.label)).collect(),
                    &usual(|s| &s.meters),
                ),
                self.ticks("tracks", "Curves beside the stage", channels.clone(), &usual(|s| &s.tracks)),
                self.ticks(
                    "arrows",
                    "Arrows",
                    card.arrows.iter().map(|a| (a.name, a.label)).collect(),
                    &usual(|s| &s.arrows),
                ),
                self.ticks("record", "Can be recorded as a table", channels, &usual(|s| &s.recordable)),
            ],
            ..self.area("bench", "On the bench")
        }
    }

    fn texts(&self) -> Area {
        let from: Vec<(&str, &str)> = FROM.iter().map(|(_, name, words)| (*name, *words)).collect();
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

    fn forecast(&self) -> Area {
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

    fn columns(&self) -> Area {
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
                self.hinted(
                    at("table"),
                    "Table",
                    Control::Line,
                    "name of the table it stands in; the first one if blank",
                ),
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
                    "how often a logbook can deal anew; once if blank",
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

    fn questions(&self) -> Area {
        let items = (0..self.draft.count("questions")).map(|place| self.question(place));
        let add = ANSWERED_BY.iter().map(|(kind, words)| ("questions", *kind, format!("Ask {words}")));
        Area {
            about: "Questions stand in the order of work, beside the bench while their step is worked on.".to_owned(),
            items: items.collect(),
            add: add.collect(),
            ..self.area("questions", "Questions")
        }
    }

    fn question(&self, place: usize) -> Item {
        let at = |key: &str| format!("questions.{place}.{key}");
        let steps: Vec<(&str, &str)> = Step::ALL
            .into_iter()
            .filter(|s| *s != Step::Forecast || self.draft.has("forecast"))
            .map(|s| (s.name(), s.title()))
            .collect();
        let kind = self.draft.answered_by(place);
        let mut fields = vec![
            self.field(at("at"), "At", picks(&steps)),
            Field { value: kind.to_owned(), ..self.field(at("kind"), "Answered", picks(&ANSWERED_BY)) },
            self.field(at("ask"), "Question", Control::Area),
        ];
        let (own, rows, list) = self.answered(place, kind);
        fields.extend(own);
        let judged = kind != "words";
        let mut checks = vec![("", "as soon as asked, if the sheet says what is right")];
        checks.extend(Check::ALL.iter().map(|(_, name)| (*name, *name)));
        let mut more = vec![
            self.field(at("holds"), "What comes after it waits", Control::Tick),
            self.field(at("answer"), "Good answer, for you", Control::Area),
        ];
        if judged {
            more.insert(0, self.field(at("check"), "Checked", picks(&checks)));
            more.insert(
                1,
                self.hinted(
                    at("tries"),
                    "Tries",
                    Control::Line,
                    "any number if blank; three for what is hidden or dealt",
                ),
            );
        }
        let item = self.item("questions", place, format!("Question {}", place + 1), fields, more);
        let step = |i: usize| self.draft.value(&format!("questions.{i}.at"));
        let (up, down) = (item.up && step(place - 1) == step(place), item.down && step(place + 1) == step(place));
        Item { rows, list, up, down, ..item }
    }

    /// What a question has by the way it is answered: its fields, its rows, and the list that rows are added to.
    fn answered(&self, place: usize, kind: &str) -> (Vec<Field>, Vec<Row>, (String, &'static str)) {
        let at = |key: &str| format!("questions.{place}.{key}");
        let mut fields = Vec::new();
        let (mut rows, mut list) = (Vec::new(), (String::new(), ""));
        match kind {
            "choices" => {
                list = (at("choices"), "answer");
                rows = (0..self.draft.count(&at("choices")))
                    .map(|i| {
                        let choice = |part: &str| format!("{}.{i}.{part}", at("choices"));
                        Row {
                            path: format!("{}.{i}", at("choices")),
                            fields: vec![
                                self.field(choice("right"), "right", Control::Tick),
                                self.field(choice("text"), "Answer", Control::Line),
                                self.field(choice("word"), "Said to whoever chooses it", Control::Line),
                            ],
                        }
                    })
                    .collect();
                fields.push(self.field(at("several"), "Several are right", Control::Tick));
            }
            "number" => {
                let of = [
                    ("", "as filled in here"),
                    ("constant", "the constant of this sheet"),
                    ("slope", "the slope of a line"),
                    ("intercept", "the intercept of a line"),
                ];
                fields.push(self.field(at("number.unit"), "In", Control::Line));
                fields.push(self.field(at("number.of"), "Right is", picks(&of)));
                fields.push(self.hinted(at("number.value"), "this value", Control::Line, "such as 9.81 m/s^2"));
                fields.push(self.hinted(at("number.key"), "or what this formula gives", Control::Line, self.symbols()));
                fields.push(self.hinted(at("number.within"), "within", Control::Line, "such as 3 %"));
            }
            "sentence" => fields.push(self.hinted(
                at("sentence"),
                "Sentence",
                Control::Area,
                "gaps in braces: {+ grows | - shrinks}, {slope}, {intercept}, {constant}, {= 2.0 s within 1 %}",
            )),
            "point" => {
                let what: Vec<(&str, &str)> = Pointable::ALL.iter().map(|(_, name)| (*name, *name)).collect();
                fields.push(self.field(at("point"), "Pointing at a", picks(&what)));
                fields.push(self.hinted(
                    at("largest"),
                    "Right where this is largest",
                    Control::Line,
                    "symbol of a column, or a channel",
                ));
                fields.push(self.field(at("smallest"), "or smallest", Control::Line));
            }
            "argument" => {
                let mut positions = vec![("", "your judgement")];
                positions.extend(Position::ALL.iter().map(|(_, name, words)| (*name, *words)));
                fields.push(self.field(at("pupil"), "Who argues", Control::Line));
                fields.push(self.field(at("argument"), "What they say", Control::Area));
                fields.push(self.field(at("position"), "Right is", picks(&positions)));
            }
            _ => {
                fields.push(self.hinted(at("words"), "Words, at least", Control::Line, ""));
            }
        }
        (fields, rows, list)
    }

    /// What formulas of keys can use.
    fn symbols(&self) -> String {
        let all =
            self.card.settings.iter().filter(|s| !s.symbol.is_empty()).map(|s| format!("{} {}", s.symbol, s.label));
        let all = all.collect::<Vec<_>>().join(", ");
        if all.is_empty() { String::new() } else { format!("of {all}") }
    }

    fn goal(&self) -> Area {
        let meters =
            self.card.meters.iter().map(|m| format!("{} {}", m.symbol, m.label)).collect::<Vec<_>>().join(", ");
        let mut area = Area {
            fields: vec![
                self.field("goal.name", "Constant to be found", Control::Line),
                self.field("goal.symbol", "Symbol", Control::Line),
                self.hinted(
                    "goal.accepted",
                    "Accepted value",
                    Control::Line,
                    "such as 9.81 m/s^2; blank where each logbook has its own",
                ),
                self.field("goal.source", "Where it is from", Control::Line),
                self.hinted("goal.key", "Key: what comes out, as a formula", Control::Line, self.symbols()),
                self.hinted("goal.unit", "Unit of the key", Control::Line, ""),
                self.hinted(
                    "goal.one_trial",
                    "The constant from one trial, as a formula",
                    Control::Line,
                    format!("tells how near is near enough; also {meters} and readings below"),
                ),
            ],
            more: vec![
                self.hinted(
                    "goal.readings",
                    "Readings by tape, split or scale",
                    Control::Area,
                    "symbol and value, one a line: t_r = 30.00 s",
                ),
                self.hinted(
                    "goal.with",
                    "Settings it is found with",
                    Control::Area,
                    "where they are not those at the start: world = unknown",
                ),
                self.hinted(
                    "goal.beside",
                    "Accepted values of groups",
                    Control::Area,
                    "what the grouping column holds, and the value: 1 = 998.2 kg/m^3",
                ),
                self.field("goal.one_motion", "One motion alone gives it", Control::Tick),
            ],
            add: vec![("expected", "", "Add the curve it should have looked like".to_owned())],
            wrong: self.wrong_at("goal"),
            ..self.area("goal", "What must come out")
        };
        for place in 0..self.draft.count("expected") {
            let at = |key: &str| format!("expected.{place}.{key}");
            let fields = vec![
                self.hinted(at("across"), "Across, in", Control::Line, "a unit of the axis"),
                self.field(at("x"), "called", Control::Line),
                self.field(at("up"), "Up, in", Control::Line),
                self.hinted(at("curve"), "Curve", Control::Line, "a formula of it and the constant"),
            ];
            area.items.push(self.item("expected", place, "After handing in".to_owned(), fields, Vec::new()));
        }
        area
    }

    fn marks(&self) -> Area {
        let steps = Step::ALL
            .into_iter()
            .filter(|s| *s != Step::WriteUp && (*s != Step::Forecast || self.draft.has("forecast")));
        let stamps = self.ticks(
            "stamps",
            "Before they go on, students ask for your stamp at the end of",
            steps.map(|s| (s.name(), s.title())).collect(),
            &[],
        );
        let mut sees = vec![("", "nothing: you judge")];
        sees.extend(Sees::ALL.iter().map(|(_, name)| (*name, *name)));
        let items = (0..self.draft.count("criteria")).map(|place| {
            let at = |key: &str| format!("criteria.{place}.{key}");
            let fields = vec![
                self.field(at("name"), "Name", Control::Line),
                self.field(at("sees"), "Proposed from", picks(&sees)),
            ];
            let rows = (0..self.draft.count(&at("levels"))).map(|i| {
                let level = |part: &str| format!("{}.{i}.{part}", at("levels"));
                Row {
                    path: format!("{}.{i}", at("levels")),
                    fields: vec![
                        self.field(level("points"), "Points", Control::Line),
                        self.field(level("words"), "Level", Control::Line),
                    ],
                }
            });
            let (rows, list) = (rows.collect(), (at("levels"), "level"));
            Item { rows, list, ..self.item("criteria", place, self.draft.value(&at("name")), fields, Vec::new()) }
        });
        let items: Vec<Item> = items.collect();
        let usual = items.is_empty();
        Area {
            about: if usual {
                "Marked by the usual criteria: trials, graph, constant, questions, and claim with evidence and reasoning.".to_owned()
            } else {
                String::new()
            },
            add: vec![(
                "criteria",
                "",
                if usual { "Change the criteria".to_owned() } else { "Add a criterion".to_owned() },
            )],
            without: (!usual).then_some(("criteria", "The usual criteria")),
            ticks: vec![stamps],
            items,
            ..self.area("marks", "Stamps and marks")
        }
    }
}
