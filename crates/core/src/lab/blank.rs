//! A sheet to start from: everything the rig can be set to, free and at its usual value.

use std::fmt::Write;

use super::LabSheet;
use crate::rigs::{SettingKind, rig};

impl LabSheet {
    /// The text of a new sheet for a rig: it reads, it runs, and its words wait to be replaced. `None` when there is no such rig.
    pub fn blank(name: &str) -> Option<String> {
        let card = rig(name)?.card();
        let mut out =
            String::from("+++\n# Every sheet has a number of its own: unit and place in it.\nnumber = \"20.1\"\n");
        let _ = writeln!(
            out,
            "title = \"A lab with the {}\"\nunit = \"My labs\"\nrig = \"{name}\"",
            card.title.to_lowercase()
        );
        out.push_str("trials = 6\n\n# free, fixed, hidden or dealt; a line taken out fixes the setting at this value.\n[settings]\n");
        for spec in &card.settings {
            let value = spec.default_value().pretty().replace('\u{A0}', " ").replace('\u{2212}', "-");
            let key = if spec.name.contains(' ') { format!("\"{}\"", spec.name) } else { spec.name.to_owned() };
            let line = format!("{key} = \"{}\"", format!("free {value}").trim_end());
            let about = match &spec.kind {
                SettingKind::Quantity { blank: Some(meaning), .. } => format!("{}; blank: {meaning}", spec.range()),
                SettingKind::Quantity { blank: None, .. }
                | SettingKind::Switch { .. }
                | SettingKind::Choice { .. }
                | SettingKind::Path { .. } => spec.range(),
            };
            let _ = writeln!(out, "{line}  # {}, {about}", spec.label);
        }
        let set = card.settings.iter().find(|s| matches!(s.kind, SettingKind::Quantity { default: Some(_), .. }))?;
        let SettingKind::Quantity { unit, .. } = &set.kind else { return None };
        let text = |name: &str, symbol: &str, unit: &str, kind: &str| {
            format!("\n[[columns]]\nkind = \"{kind}\"\nname = \"{name}\"\nsymbol = \"{symbol}\"\nunit = '{unit}'\n")
        };
        out.push_str(&text(set.label, set.symbol, &unit.to_string(), "set"));
        out.push_str(&text("time", "t", "s", "read"));
        out.push_str("\n[goal]\nsymbol = \"c\"\nname = \"constant to be found\"\naccepted = \"1.00\"\nsource = \"where its value is from\"\n+++\n");
        out.push_str("## Question\n\n**What is to be found out?**\n\n## Background\n\nThe law, such as $y = m\\,x + b$.\n\n## At the bench\n\n1. What is done first?\n");
        Some(out)
    }
}

#[cfg(test)]
mod tests {
    use crate::logbook::{Edit, Logbook, RunEdit};
    use std::sync::Arc;

    use super::*;
    use crate::lab::Freedom;
    use crate::rigs::CATALOGUE;

    #[test]
    fn a_blank_sheet_of_every_rig_reads_and_runs_as_the_rig_does() {
        for rig in CATALOGUE {
            let card = rig.card();
            let text = LabSheet::blank(card.name).unwrap();
            let sheet = LabSheet::parse(&text).unwrap_or_else(|e| panic!("{e:?}\n{text}"));
            assert!(sheet.settings.iter().all(|r| r.freedom == Freedom::Free), "{text}");
            for (rule, spec) in sheet.settings.iter().zip(&card.settings) {
                assert_eq!(rule.value, spec.default_value(), "{} of the {}", spec.name, card.name);
            }
            let mut book = Logbook::new(Arc::new(sheet), 1);
            book.apply(&Edit::Run(RunEdit::Run), 0).unwrap();
        }
        assert_eq!(LabSheet::blank("carousel"), None);
    }

    #[test]
    fn the_sheet_in_the_guide_reads() {
        let guide = include_str!("../../../../docs/lab-sheets.md");
        let (_, after) = guide.split_once("```sheet\n").unwrap();
        let (example, _) = after.split_once("```").unwrap();
        let sheet = LabSheet::parse(example).unwrap();
        assert_eq!(sheet.meters, ["time", "speed", "force"], "a balance would tell the hidden mass");
        let named = example.replace("trials = 6", "trials = 6\ninstruments = [\"time\", \"mass\"]");
        assert_eq!(LabSheet::parse(&named).unwrap().meters, ["time", "mass"], "the teacher knows why it is there");
        let book = Logbook::new(Arc::new(sheet), 4);
        assert!(book.key().unwrap().tolerance.is_some());
        // Every line of the front matter it speaks of is one a sheet may have.
        for line in
            guide.lines().filter(|l| l.starts_with("| `") && l.split('`').nth(1).is_some_and(|n| n.contains(" = ")))
        {
            let name = line[3..].split_once(" =").unwrap().0;
            let known = [
                "number",
                "rig",
                "film",
                "own_films",
                "trials",
                "deals",
                "table",
                "strip",
                "read_out",
                "slips",
                "step_model",
                "tracks",
                "record",
                "instruments",
                "arrows",
                "varied_together",
                "stamps",
                "words",
                "tries",
                "holds",
            ];
            assert!(known.contains(&name), "{line}");
        }
    }
}
