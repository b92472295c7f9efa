//! Of a sheet its questions, what is to be found, and how it is marked.

use zeitmass_core::inquiry::{Check, Pointable, Position, Step};
use zeitmass_core::lab::{AnsweredBy, Sees};
use zeitmass_words::{answers, drafts};

use super::form::{Form, picks};
use super::{Area, Control, Field, Item, Row};
use zeitmass_words::Title;

impl Form<'_> {
    pub(super) fn questions(&self) -> Area {
        let items = (0..self.draft.count("questions")).map(|place| self.question(place));
        let add = AnsweredBy::ALL.iter().map(|w| ("questions", w.name(), format!("Ask {}", drafts::answered_by(*w))));
        Area {
            about: "Questions come in the order of work, beside the bench while their step is worked on.".to_owned(),
            items: items.collect(),
            add: add.collect(),
            ..self.area("questions", "Questions")
        }
    }

    fn question(&self, place: usize) -> Item {
        let at = |key: &str| format!("questions.{place}.{key}");
        let steps: Vec<(&str, &str)> = Step::ALL
            .iter()
            .copied()
            .filter(|s| *s != Step::Forecast || self.draft.has("forecast"))
            .map(|s| (s.name(), s.title()))
            .collect();
        let way = self.draft.answered_by(place);
        let ways: Vec<(&str, &str)> = AnsweredBy::ALL.iter().map(|w| (w.name(), drafts::answered_by(*w))).collect();
        let mut fields = vec![
            self.field(at("at"), "At", picks(&steps)),
            Field { value: way.name().to_owned(), ..self.field(at("kind"), "Answered", picks(&ways)) },
            self.field(at("ask"), "Question", Control::Area),
        ];
        let (own, rows, list) = self.answered(place, way);
        fields.extend(own);
        let judged = way != AnsweredBy::Words;
        let mut checks = vec![("", "as soon as asked, if the sheet says what is right")];
        checks.extend(Check::ALL.iter().map(|c| (c.name(), c.name())));
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
    fn answered(&self, place: usize, way: AnsweredBy) -> (Vec<Field>, Vec<Row>, (String, &'static str)) {
        let at = |key: &str| format!("questions.{place}.{key}");
        let mut fields = Vec::new();
        let (mut rows, mut list) = (Vec::new(), (String::new(), ""));
        match way {
            AnsweredBy::Choices => {
                list = (at("choices"), "answer");
                rows = (0..self.draft.count(&at("choices")))
                    .map(|i| {
                        let choice = |part: &str| format!("{}.{i}.{part}", at("choices"));
                        Row {
                            path: format!("{}.{i}", at("choices")),
                            fields: vec![
                                self.field(choice("right"), "right", Control::Tick),
                                self.field(choice("text"), "Answer", Control::Line),
                                self.field(choice("word"), "Said to a student who chooses it", Control::Line),
                            ],
                        }
                    })
                    .collect();
                fields.push(self.field(at("several"), "Several are right", Control::Tick));
            }
            AnsweredBy::Number => {
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
            AnsweredBy::Sentence => fields.push(self.hinted(
                at("sentence"),
                "Sentence",
                Control::Area,
                "gaps in braces: {+ grows | - shrinks}, {slope}, {intercept}, {constant}, {= 2.0 s within 1 %}",
            )),
            AnsweredBy::Point => {
                let what: Vec<(&str, &str)> = Pointable::ALL.iter().map(|p| (p.name(), p.name())).collect();
                fields.push(self.field(at("point"), "Pointing at a", picks(&what)));
                fields.push(self.hinted(
                    at("largest"),
                    "Right where this is largest",
                    Control::Line,
                    "symbol of a column, or a channel",
                ));
                fields.push(self.field(at("smallest"), "or smallest", Control::Line));
            }
            AnsweredBy::Argument => {
                let mut positions = vec![("", "your judgement")];
                positions.extend(Position::ALL.iter().map(|p| (p.name(), answers::position(*p))));
                fields.push(self.field(at("pupil"), "Who argues", Control::Line));
                fields.push(self.field(at("argument"), "What they say", Control::Area));
                fields.push(self.field(at("position"), "Right is", picks(&positions)));
            }
            AnsweredBy::Words => {
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

    pub(super) fn goal(&self) -> Area {
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
                    format!("says how near is near enough; also {meters} and readings below"),
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

    pub(super) fn marks(&self) -> Area {
        let steps = Step::ALL
            .iter()
            .copied()
            .filter(|s| *s != Step::WriteUp && (*s != Step::Forecast || self.draft.has("forecast")));
        let stamps = self.ticks(
            "stamps",
            "Before they go on, students ask for your stamp at the end of",
            steps.map(|s| (s.name(), s.title())).collect(),
            &[],
        );
        let mut sees = vec![("", "nothing: you judge")];
        sees.extend(Sees::ALL.iter().map(|s| (s.name(), s.name())));
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
