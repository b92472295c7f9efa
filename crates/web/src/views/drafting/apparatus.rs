//! Of a sheet what moves, what can be set, and what lies on the bench.

use zeitmass_core::lab::{DraftRule, LabSheet};
use zeitmass_core::rigs::{CATALOGUE, SettingKind, SettingSpec, SettingValue};
use zeitmass_words::drafts;

use super::form::{Form, picks};
use super::{Area, Control, Field, Item, named};

impl Form<'_> {
    pub(super) fn motion(&self) -> Area {
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

    pub(super) fn settings(&self) -> Area {
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
        let rules = DraftRule::ALL.iter().filter(|r| quantity || !r.is_range());
        let rules = Control::Pick(rules.map(|r| (r.name().to_owned(), drafts::rule(*r).to_owned())).collect());
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
            "one of, separated by |"
        } else {
            "value"
        };
        let mut fields = vec![
            Field { value: rule.name().to_owned(), ..self.field(format!("{path}.rule"), "rule", rules) },
            Field { value: first, ..self.field(format!("{path}.first"), label, value) },
        ];
        if rule.is_range() {
            fields.push(self.field(format!("{path}.second"), "to", Control::Line));
        }
        let range = match &spec.kind {
            SettingKind::Quantity { .. } if rule.is_list() => format!("separated by |, {}", spec.range()),
            SettingKind::Quantity { blank: Some(meaning), .. } => format!("{}; blank: {meaning}", spec.range()),
            SettingKind::Quantity { .. } | SettingKind::Path { .. } => spec.range(),
            SettingKind::Choice { .. } if rule.is_list() => format!("separated by |: {}", spec.range()),
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

    pub(super) fn bench(&self) -> Area {
        let card = &self.card;
        let channels: Vec<(&str, &str)> = card.channels.iter().map(|c| (c.name, c.label)).collect();
        let usual = |of: fn(&LabSheet) -> &Vec<&'static str>| self.sheet.as_ref().map(of).cloned().unwrap_or_default();
        Area {
            about: "Without a word from you a sheet that hides a value lays out nothing that would reveal it."
                .to_owned(),
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
}
