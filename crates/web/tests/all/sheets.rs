//! The shipped lab sheets: each reads, its motion runs with every value it may deal, and its key is found.

use std::collections::BTreeMap;
use std::sync::Arc;

use zeitmass_core::lab::{Freedom, LabSheet};
use zeitmass_core::logbook::Logbook;
use zeitmass_web::SHIPPED_SHEETS;

#[test]
fn every_shipped_sheet_is_whole_and_runs_for_every_logbook() {
    let mut numbers = Vec::new();
    let mut rigs = Vec::new();
    for (key, source) in SHIPPED_SHEETS {
        let sheet = Arc::new(LabSheet::parse(source).unwrap_or_else(|e| panic!("{key}: {e:?}")));
        assert!(key.starts_with(&format!("{}-", sheet.number)), "{key}");
        numbers.push(sheet.number);
        if sheet.is_filmed() {
            continue;
        }
        rigs.push(sheet.card.name);
        let headings: Vec<&str> = sheet.sections.iter().map(|s| s.heading.as_str()).collect();
        assert!(headings.contains(&"Background") && headings.contains(&"At the bench"), "{key}: {headings:?}");
        for seed in 0..40 {
            let book = Logbook::new(Arc::clone(&sheet), seed);
            let run = book.setup(&BTreeMap::new()).unwrap_or_else(|e| panic!("{key}: {e:?}")).run;
            assert!(!run.outcome.failed, "{key}, seed {seed}: {:?}", run.outcome);
            if sheet.goal.key.is_some() {
                let answer = book.key().unwrap_or_else(|| panic!("{key} has no key"));
                let tolerance = answer.tolerance.unwrap_or_else(|| panic!("{key} has no tolerance"));
                // As near as an instrument gets: neither nothing nor a third of the value.
                assert!(tolerance > 1e-4 * answer.value && tolerance < 0.3 * answer.value, "{key}: {answer:?}");
            } else {
                assert!(sheet.goal.accepted.is_some(), "{key}");
            }
        }
        let dealt = sheet.settings.iter().filter(|r| r.dealt.is_some());
        for rule in dealt {
            let values: Vec<String> = (0..40)
                .map(|seed| sheet.deal(seed).iter().find(|r| r.name == rule.name).unwrap().value.pretty())
                .collect();
            assert!(values.iter().any(|v| *v != values[0]), "{key}: every logbook gets the same {}", rule.name);
            assert!(rule.freedom != Freedom::Free);
        }
    }
    assert!(numbers.windows(2).all(|w| w[0] < w[1]), "{numbers:?}");
    for rig in zeitmass_core::rigs::CATALOGUE {
        assert!(rigs.contains(&rig.card().name), "no sheet for the {}", rig.card().title);
    }
}
