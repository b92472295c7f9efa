//! A claim held against its evidence: whether one quantity alone was varied, whether the rows are enough, and whether they show it.

use std::collections::{BTreeMap, BTreeSet};

use crate::fit::Seen;
use crate::inquiry::{Claim, CurvePick, is_column, shown};
use crate::logbook::{Analysis, Logbook, TextField};
use crate::quantity::format::{to_step, with_unit};
use crate::quantity::{Origin, Uncertain};
use crate::record::{ColumnId, ColumnKind, ColumnSource, Record, Row, RowId, Table};
use crate::rigs::SettingValue;

/// Ratios of neighbours that are told.
const RATIOS: usize = 5;

/// Something that was found of a claim, as a sentence.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// Whether it speaks for the claim; `None` where it cannot be told.
    pub holds: Option<bool>,
    /// The sentence.
    pub text: String,
}

/// A claim held against its evidence.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Judged {
    /// The claim as a sentence.
    pub sentence: String,
    /// Its rows: id, number as shown, and what stands in them.
    pub rows: Vec<(RowId, usize, String)>,
    /// Whether one quantity alone was varied among them.
    pub controlled: Finding,
    /// Whether they are enough.
    pub enough: Finding,
    /// Whether they show what is claimed; none before there is evidence enough to look at.
    pub shows: Option<Finding>,
    /// How it stands to the hypothesis.
    pub beside: Option<Finding>,
    /// What to think about once more, as questions.
    pub questions: Vec<String>,
}

impl Logbook {
    /// The claim held against its evidence; `None` without a claim, or when its columns are gone.
    pub fn judged_claim(&self, analysis: &Analysis) -> Option<Judged> {
        let claim = self.state().claim.claim.as_ref()?;
        let table = analysis.tables.iter().find(|t| t.place(claim.cause).is_some())?;
        let (cause, effect) = (table.place(claim.cause)?, table.place(claim.effect)?);
        let names = [cause, effect].map(|place| table.columns[place].column.name.clone());
        let mut chosen: Vec<usize> =
            claim.evidence.iter().filter_map(|id| table.rows.iter().position(|r| r.id == *id)).collect();
        chosen.sort_unstable();
        let rows =
            chosen.iter().map(|i| (table.rows[*i].id, table.rows[*i].number, row_words(table, *i, [cause, effect])));
        let points: Vec<Seen> = chosen.iter().filter_map(|i| point(table, *i, [cause, effect])).collect();
        let seen = shown(&points);
        let enough = enough(claim.curve, seen.as_ref().map(|s| s.values), points.len(), &names);
        let shows = seen.filter(|s| s.values > 2).map(|seen| {
            let [cause, effect] = &names;
            match (seen.shows(claim.curve), seen.best()) {
                (Some(true), _) => Finding {
                    holds: Some(true),
                    text: format!("These rows show it: as the {cause} rises, the {effect} {}.", claim.curve.does()),
                },
                (_, Some(best)) if best != claim.curve => Finding {
                    holds: Some(false),
                    text: format!(
                        "These rows show something else: as the {cause} rises, the {effect} {}.",
                        best.does()
                    ),
                },
                _ => Finding {
                    holds: Some(false),
                    text: format!(
                        "Within their uncertainty these rows do not show that the {effect} {}.",
                        claim.curve.does()
                    ),
                },
            }
        });
        let beside = self.beside_hypothesis(claim, &names, shows.as_ref().and_then(|f| f.holds));
        let mut questions = Vec::new();
        questions.extend(self.asks_for_ratios(claim, table, &chosen, [cause, effect]));
        Some(Judged {
            sentence: format!("As the {} rises, the {} {}.", names[0], names[1], claim.curve.does()),
            rows: rows.collect(),
            controlled: self.controlled(&table.record, claim, &chosen),
            enough,
            shows,
            beside,
            questions,
        })
    }

    /// Whether one quantity alone was varied among these rows, by what their runs were set to and by what stands in the columns that are varied by
    /// hand or given.
    fn controlled(&self, table: &Record, claim: &Claim, chosen: &[usize]) -> Finding {
        let rows: Vec<(usize, &Row)> = chosen.iter().map(|i| (i + 1, &table.rows[*i])).collect();
        let number = |rows: &[(usize, &Row)]| rows.iter().map(|(n, _)| n.to_string()).collect::<Vec<_>>().join(", ");
        if rows.len() < 2 {
            return Finding {
                holds: None,
                text: "Choose the rows that show it: two at least, better five.".to_owned(),
            };
        }
        if let Some((n, _)) = rows.iter().find(|(_, r)| r.aside) {
            return Finding {
                holds: Some(false),
                text: format!("Row {n} is set aside: take it back, or leave it out of the evidence."),
            };
        }
        let levers = Levers::of(table, claim.cause, &rows);
        let varied = self.varied(table, &rows, claim.effect);
        if varied.is_empty()
            && rows.iter().all(|(_, r)| self.run_settings_of(r).is_none())
            && !has_set_columns(table, claim)
        {
            return Finding {
                holds: None,
                text: "Nothing in the logbook says what was held the same in these rows. Say it in the evidence."
                    .to_owned(),
            };
        }
        let together = &self.sheet().varied_together;
        let is_lever = |v: &Varied| match v {
            Varied::Setting { name, .. } => {
                levers.settings.contains(*name)
                    || together.contains(name) && levers.settings.iter().any(|s| together.contains(&s.as_str()))
            }
            Varied::Column { id, .. } => levers.columns.contains(id),
        };
        let (own, mut others): (Vec<&Varied>, Vec<&Varied>) = varied.iter().partition(|v| is_lever(v));
        // What is only measured is varied by something else: by one quantity, or by some that belong together.
        if own.is_empty() && levers.is_empty() {
            let all_together =
                others.iter().all(|v| matches!(v, Varied::Setting { name, .. } if together.contains(name)));
            if others.len() == 1 || all_together {
                others.clear();
            }
        }
        let label = |v: &&Varied| match v {
            Varied::Setting { label, .. } | Varied::Column { label, .. } => label.clone(),
        };
        if others.is_empty() {
            let names: Vec<String> = if own.is_empty() {
                varied.iter().map(|v| label(&v)).collect()
            } else {
                own.iter().map(label).collect()
            };
            let names = if names.is_empty() { vec!["nothing else".to_owned()] } else { names };
            let text = format!("Among rows {} only {} changed; all else was held.", number(&rows), list(&names));
            return Finding { holds: Some(true), text };
        }
        // The first two rows between which it can be seen.
        let first = others.iter().map(|v| v.seen_at()).min().unwrap_or(1);
        let (a, b) = (rows[0].0, rows[first.min(rows.len() - 1)].0);
        let mut names: Vec<String> = own.iter().filter(|v| v.seen_at() <= first).map(label).collect();
        names.extend(others.iter().map(label));
        let text = format!(
            "Between rows {a} and {b} {} changed: nobody can say which of them did it. Choose rows in which one quantity alone differs.",
            list(&names)
        );
        Finding { holds: Some(false), text }
    }

    fn run_settings_of(&self, row: &Row) -> Option<&BTreeMap<String, SettingValue>> {
        let run = row.cells.values().find_map(|r| r.origin.run())?;
        self.state().run.runs.get((run as usize).checked_sub(1)?).map(|r| &r.settings)
    }

    /// What differs among rows, beside what was read in them.
    fn varied(&self, table: &Record, rows: &[(usize, &Row)], effect: ColumnId) -> Vec<Varied> {
        let mut all = Vec::new();
        let settings: Vec<_> =
            rows.iter().enumerate().filter_map(|(i, (_, r))| Some((i, self.run_settings_of(r)?))).collect();
        for spec in &self.sheet().card.settings {
            let first = settings.first().and_then(|(_, s)| s.get(spec.name));
            if let Some((at, _)) = settings.iter().find(|(_, s)| s.get(spec.name) != first) {
                all.push(Varied::Setting { name: spec.name, label: format!("the {}", spec.label), at: *at });
            }
        }
        // A column that only repeats a setting says nothing new where all rows have runs.
        let told = |c: &crate::record::Column| {
            settings.len() == rows.len() && matches!(c.source.as_deref(), Some(ColumnSource::Setting(_)))
        };
        let by_hand = table.columns.iter().filter(|c| {
            let set = matches!(c.kind, ColumnKind::Set | ColumnKind::Given);
            set && c.id != effect && !told(c)
        });
        for column in by_hand {
            let value = |r: &Row| {
                r.cells
                    .get(&column.id)
                    .filter(|c| !matches!(c.origin, Origin::Setting { .. }) || settings.len() < rows.len())
                    .map(|c| c.si())
            };
            let first = value(rows[0].1);
            let differs = |a: Option<f64>, b: Option<f64>| match (a, b) {
                (Some(a), Some(b)) => (a - b).abs() > 1e-9 * a.abs().max(b.abs()),
                (a, b) => a.is_some() != b.is_some(),
            };
            if let Some(at) = rows.iter().position(|(_, r)| differs(value(r), first)) {
                all.push(Varied::Column { id: column.id, label: format!("the {}", column.name), at });
            }
        }
        all
    }

    fn beside_hypothesis(&self, claim: &Claim, names: &[String; 2], shows: Option<bool>) -> Option<Finding> {
        let hypothesis = self.state().forecast.hypothesis.as_ref()?;
        if !is_column(&hypothesis.cause, &names[0]) || !is_column(&hypothesis.effect, &names[1]) {
            return None;
        }
        let expected = format!("the {} {}", hypothesis.effect, hypothesis.curve.will());
        Some(match (hypothesis.curve == claim.curve, shows?) {
            (false, true) => Finding {
                holds: Some(true),
                text: format!(
                    "The hypothesis was that {expected}. The data overturned it, and the claim says what they show: that is what experiments are for."
                ),
            },
            (true, true) => Finding { holds: Some(true), text: "The hypothesis has stood the test.".to_owned() },
            (true, false) => Finding {
                holds: Some(false),
                text: "The claim repeats the hypothesis, and the data do not show it. A hypothesis may turn out wrong: claim what they show.".to_owned(),
            },
            (false, false) => Finding {
                holds: Some(false),
                text: format!("The hypothesis was that {expected}; neither it nor the claim is what these rows show."),
            },
        })
    }

    /// Where a bent curve is called exponential in words: what the ratio of neighbours would be.
    fn asks_for_ratios(&self, claim: &Claim, table: &Table, chosen: &[usize], places: [usize; 2]) -> Option<String> {
        let texts = [TextField::Claim, TextField::Evidence, TextField::Reasoning];
        let written = texts.iter().filter_map(|f| self.state().writing.texts.get(f));
        let reason = self.state().forecast.hypothesis.as_ref().map(|h| &h.reason);
        let says = written.chain(reason).any(|text| text.to_lowercase().contains("exponential"));
        if !says || !claim.curve.is_bent() {
            return None;
        }
        let [cause, effect] = places;
        let mut points: Vec<Seen> = chosen.iter().filter_map(|i| point(table, *i, places)).collect();
        points.sort_by(|a, b| a.x.total_cmp(&b.x));
        let names = [cause, effect].map(|p| table.columns[p].column.name.as_str());
        let question = format!(
            "You call the curve exponential. Along an exponential curve equal steps of the {} multiply the {} by the same factor.",
            names[0], names[1]
        );
        // Truly so: the logarithm is straight.
        let log: Vec<Seen> =
            points.iter().filter(|p| p.y > 0.0).map(|p| Seen { y: p.y.ln(), uy: p.uy / p.y, ..*p }).collect();
        if log.len() == points.len() && shown(&log).is_some_and(|s| s.values > 3 && s.bend.abs() <= s.u_bend) {
            return None;
        }
        let even = points.windows(3).all(|w| ((w[2].x - w[1].x) / (w[1].x - w[0].x) - 1.0).abs() < 0.02);
        let ratios: Vec<String> = points.windows(2).take(RATIOS).map(|w| to_step(w[1].y / w[0].y, 0.01)).collect();
        Some(if even && ratios.len() > 1 {
            format!("{question} Here the ratios of neighbours are {}: are they the same?", list(&ratios))
        } else {
            format!("{question} What are the ratios of neighbours in your table, at equal steps?")
        })
    }
}

/// A quantity that differs among rows, and the first of them in which it is seen.
enum Varied {
    Setting { name: &'static str, label: String, at: usize },
    Column { id: ColumnId, label: String, at: usize },
}

impl Varied {
    fn seen_at(&self) -> usize {
        match self {
            Self::Setting { at, .. } | Self::Column { at, .. } => *at,
        }
    }
}

/// What one turns to change a cause: settings, and columns that are varied by hand.
#[derive(Default)]
struct Levers {
    settings: BTreeSet<String>,
    columns: BTreeSet<ColumnId>,
}

impl Levers {
    fn of(table: &Record, cause: ColumnId, rows: &[(usize, &Row)]) -> Self {
        let mut levers = Self::default();
        let mut open = vec![cause];
        let mut seen = BTreeSet::new();
        while let Some(column) = open.pop().and_then(|id| table.column(id)) {
            if !seen.insert(column.id) {
                continue;
            }
            if let Some(formula) = &column.formula {
                let symbols = formula.symbols();
                let meant = |c: &&crate::record::Column| {
                    symbols.iter().any(|s| c.symbol == **s || c.stem.as_deref() == Some(*s))
                };
                open.extend(table.columns.iter().filter(meant).map(|c| c.id));
                continue;
            }
            if let Some(ColumnSource::Setting(name)) = column.source.as_deref() {
                levers.settings.insert(name.clone());
            }
            for (_, row) in rows {
                if let Some(Origin::Setting { name, .. }) = row.cells.get(&column.id).map(|r| &r.origin) {
                    levers.settings.insert(name.clone());
                }
            }
            if matches!(column.kind, ColumnKind::Set | ColumnKind::Given) {
                levers.columns.insert(column.id);
            }
        }
        levers
    }

    fn is_empty(&self) -> bool {
        self.settings.is_empty() && self.columns.is_empty()
    }
}

fn has_set_columns(table: &Record, claim: &Claim) -> bool {
    table.columns.iter().any(|c| matches!(c.kind, ColumnKind::Set | ColumnKind::Given) && c.id != claim.effect)
}

fn value(table: &Table, place: usize, row: usize) -> Option<&Uncertain> {
    table.columns[place].cells[row].value()
}

fn point(table: &Table, row: usize, [cause, effect]: [usize; 2]) -> Option<Seen> {
    let (x, y) = (value(table, cause, row)?, value(table, effect, row)?);
    // What all rows share moves them together, and bends nothing.
    Some(Seen { x: x.value, y: y.value, ux: x.own_and_shared().0, uy: y.own_and_shared().0 })
}

fn row_words(table: &Table, row: usize, places: [usize; 2]) -> String {
    let one = |place: usize| {
        let column = &table.columns[place];
        let text = table.text(place, row);
        if text.is_empty() {
            return format!("no {}", column.column.symbol);
        }
        let unit = column.unit.clone().unwrap_or_default();
        format!("{} = {}", column.column.symbol, with_unit(&text, &unit))
    };
    places.map(one).join(", ")
}

/// Whether there are rows enough for what is claimed.
fn enough(curve: CurvePick, values: Option<usize>, points: usize, [cause, effect]: &[String; 2]) -> Finding {
    let values = values.unwrap_or(usize::from(points > 0));
    let wanted = match curve {
        CurvePick::UpAndDown => 4,
        CurvePick::Level
        | CurvePick::RisesStraight
        | CurvePick::RisesSteeper
        | CurvePick::RisesFlatter
        | CurvePick::FallsStraight
        | CurvePick::FallsSteeper
        | CurvePick::FallsFlatter => 3,
    };
    let text = match values {
        0 => format!("No row is chosen yet that has both {cause} and {effect}."),
        1 => format!("All rows have the same {cause}: nothing can be seen of what it does."),
        2 if wanted == 3 => {
            "Two values tell where it goes, not whether the curve is straight or bent: add a third, better a fifth."
                .to_owned()
        }
        n if n < wanted => format!("{n} values are too few for a curve that turns: it needs {wanted} at least."),
        n if n < 5 => format!("{n} values of the {cause} are just enough; five would be more convincing."),
        n => format!("{n} values of the {cause} are enough."),
    };
    Finding { holds: Some(values >= wanted), text }
}

fn list(names: &[String]) -> String {
    match names {
        [] => String::new(),
        [one] => one.clone(),
        [all @ .., last] => format!("{} and {last}", all.join(", ")),
    }
}
