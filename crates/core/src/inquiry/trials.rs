//! Which trials may be compared: those in which only one quantity changed.

use std::collections::BTreeMap;

use crate::rigs::SettingValue;

/// Settings of a trial's run, by name.
pub type Trial<'a> = &'a BTreeMap<String, SettingValue>;

/// For each trial that cannot be compared with the others: the settings that changed beside the one that is varied.
///
/// The varied setting is the one with most different values (the first such in name order of its first change); every other one
/// has the value it has in most trials, and a trial that departs from it is told. `trials` are (row, settings) in order. Settings that
/// are varied `together` on purpose count as one.
pub fn incomparable<'a>(trials: &[(u32, Trial<'a>)], together: &[&str]) -> BTreeMap<u32, Vec<&'a str>> {
    let Some((_, first)) = trials.first() else { return BTreeMap::new() };
    let values = |name: &str| -> Vec<&'a SettingValue> {
        let mut seen: Vec<&SettingValue> = Vec::new();
        for (_, settings) in trials {
            if let Some(v) = settings.get(name)
                && !seen.contains(&v)
            {
                seen.push(v);
            }
        }
        seen
    };
    // What changed first is what was meant to be varied, where two have as many values.
    let changed_at = |name: &str| trials.iter().position(|(_, s)| s.get(name) != first.get(name));
    let varied = first
        .keys()
        .filter(|name| values(name).len() > 1)
        .min_by_key(|name| (std::cmp::Reverse(values(name).len()), changed_at(name)));
    let Some(varied) = varied else { return BTreeMap::new() };
    let with_it = |name: &str| together.contains(&name) && together.contains(&varied.as_str());
    let mut found: BTreeMap<u32, Vec<&str>> = BTreeMap::new();
    for name in first.keys().filter(|name| *name != varied && !with_it(name)) {
        let usual = values(name)
            .into_iter()
            .rev()
            .max_by_key(|v| trials.iter().filter(|(_, s)| s.get(name) == Some(*v)).count());
        for (row, settings) in trials {
            if let (Some(value), Some(usual)) = (settings.get(name), usual)
                && value != usual
            {
                found.entry(*row).or_default().push(name.as_str());
            }
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    fn trial(values: &[(&str, bool, &str)]) -> BTreeMap<String, SettingValue> {
        values.iter().map(|(n, _, v)| ((*n).to_owned(), SettingValue::Choice((*v).to_owned()))).collect()
    }

    #[test]
    fn a_trial_in_which_two_quantities_changed_is_found() {
        let make = |l, m| trial(&[("length", true, l), ("mass", true, m)]);
        let all = [make("1", "a"), make("2", "a"), make("3", "b"), make("4", "a")];
        let trials: Vec<(u32, Trial)> = all.iter().zip(10..).map(|(t, row)| (row, t)).collect();
        assert_eq!(incomparable(&trials, &[]), BTreeMap::from([(12, vec!["mass"])]));
        assert!(incomparable(&trials, &["mass", "length"]).is_empty(), "both were meant to");
        assert_eq!(incomparable(&trials, &["mass", "angle"]).len(), 1);
        // Both changed at once in a table of two: the second one cannot be compared.
        let all = [make("1", "a"), make("2", "b")];
        let trials: Vec<(u32, Trial)> = all.iter().zip(10..).map(|(t, row)| (row, t)).collect();
        assert_eq!(incomparable(&trials, &[]).len(), 1);
        let all = [make("1", "a"), make("1", "a")];
        let trials: Vec<(u32, Trial)> = all.iter().zip(10..).map(|(t, row)| (row, t)).collect();
        assert!(incomparable(&trials, &[]).is_empty() && incomparable(&[], &[]).is_empty());
    }
}
