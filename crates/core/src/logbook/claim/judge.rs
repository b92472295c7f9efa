//! A claim held against its evidence: whether one quantity alone was varied, whether the rows are enough, and whether they show it.

use std::collections::{BTreeMap, BTreeSet};

use crate::fit::Seen;
use crate::inquiry::{Claim, CurvePick, Hypothesis, is_column, shown};
use crate::logbook::{Analysis, Logbook, TextField};
use crate::quantity::format::{to_step, with_unit};
use crate::quantity::{Origin, Uncertain};
use crate::record::{ColumnId, ColumnKind, ColumnSource, Record, Row, RowId, Table};
use crate::rigs::SettingValue;

/// Ratios of neighbours that are told.
const RATIOS: usize = 5;

/// Something that was found of a claim about a cause and an effect.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Finding {
    /// Too few rows are chosen to tell what was held.
    FewRows,
    /// A row among them is set aside.
    Aside {
        /// Its number as shown.
        row: usize,
    },
    /// Nothing in the logbook says what was held.
    NothingSaid,
    /// One quantity alone was varied, or some that belong together; none where nothing changed.
    Controlled {
        /// Numbers of the rows.
        rows: Vec<usize>,
        /// What was varied.
        varied: Vec<String>,
    },
    /// Several were.
    Uncontrolled {
        /// Numbers of the first two rows between which it can be seen.
        between: [usize; 2],
        /// What differs between them.
        varied: Vec<String>,
    },
    /// No row has both cause and effect.
    NoRow,
    /// All rows have the same cause.
    SameCause,
    /// Two values of the cause, which tell no curve.
    TwoValues,
    /// Too few values for a curve that turns.
    FewForTurn {
        /// Values there are.
        values: usize,
        /// Values that are needed.
        wanted: usize,
    },
    /// Just enough values.
    JustEnough {
        /// How many.
        values: usize,
    },
    /// Enough values.
    Enough {
        /// How many.
        values: usize,
    },
    /// The rows show it.
    Shown,
    /// They show another curve.
    ShowsOther(CurvePick),
    /// Within their uncertainty they do not show it.
    NotShown,
    /// The data overturned the hypothesis, and the claim says what they show.
    Overturned(Hypothesis),
    /// The hypothesis has stood the test.
    Stood,
    /// The claim repeats a hypothesis that the data do not show.
    Repeated,
    /// The data show neither.
    Neither(Hypothesis),
}

impl Finding {
    /// Whether it speaks for the claim; `None` where it cannot be told.
    pub fn holds(&self) -> Option<bool> {
        match self {
            Self::FewRows | Self::NothingSaid => None,
            Self::Controlled { .. }
            | Self::JustEnough { .. }
            | Self::Enough { .. }
            | Self::Shown
            | Self::Overturned(_)
            | Self::Stood => Some(true),
            Self::Aside { .. }
            | Self::Uncontrolled { .. }
            | Self::NoRow
            | Self::SameCause
            | Self::TwoValues
            | Self::FewForTurn { .. }
            | Self::ShowsOther(_)
            | Self::NotShown
            | Self::Repeated
            | Self::Neither(_) => Some(false),
        }
    }
}

/// What to think about once more where a bent curve is called exponential.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct AskedRatios {
    /// Ratios of neighbours, rounded, where the rows come at equal steps.
    pub ratios: Vec<String>,
}

/// A row among the evidence.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct JudgedRow {
    /// Which.
    pub id: RowId,
    /// Its number as shown.
    pub number: usize,
    /// Of cause and effect the symbol and what stands there, if anything.
    pub held: [(String, Option<String>); 2],
}

/// A claim held against its evidence.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Judged {
    /// Names of cause and effect.
    pub names: [String; 2],
    /// The curve that is claimed.
    pub curve: CurvePick,
    /// Its rows.
    pub rows: Vec<JudgedRow>,
    /// Whether one quantity alone was varied among them.
    pub controlled: Finding,
    /// Whether they are enough.
    pub enough: Finding,
    /// Whether they show what is claimed; none before there is evidence enough to look at.
    pub shows: Option<Finding>,
    /// How it stands to the hypothesis.
    pub beside: Option<Finding>,
    /// What to think about once more.
    pub asks: Option<AskedRatios>,
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
        let rows = chosen.iter().map(|i| {
            let (id, number) = (table.rows[*i].id, table.rows[*i].number);
            JudgedRow { id, number, held: held_by(table, *i, [cause, effect]) }
        });
        let points: Vec<Seen> = chosen.iter().filter_map(|i| point(table, *i, [cause, effect])).collect();
        let seen = shown(&points);
        let enough = enough(claim.curve, seen.as_ref().map(|s| s.values), points.len());
        let shows = seen.filter(|s| s.values > 2).map(|seen| match (seen.shows(claim.curve), seen.best()) {
            (Some(true), _) => Finding::Shown,
            (_, Some(best)) if best != claim.curve => Finding::ShowsOther(best),
            _ => Finding::NotShown,
        });
        let beside = self.beside_hypothesis(claim, &names, shows.as_ref().and_then(Finding::holds));
        let asks = self.asks_for_ratios(claim, table, &chosen, [cause, effect]);
        Some(Judged {
            names,
            curve: claim.curve,
            rows: rows.collect(),
            controlled: self.controlled(&table.record, claim, &chosen),
            enough,
            shows,
            beside,
            asks,
        })
    }

    /// Whether one quantity alone was varied among these rows, by what their runs were set to and by what stands in the columns that are varied by
    /// hand or given.
    fn controlled(&self, table: &Record, claim: &Claim, chosen: &[usize]) -> Finding {
        let rows: Vec<(usize, &Row)> = chosen.iter().map(|i| (i + 1, &table.rows[*i])).collect();
        if rows.len() < 2 {
            return Finding::FewRows;
        }
        if let Some((n, _)) = rows.iter().find(|(_, r)| r.aside) {
            return Finding::Aside { row: *n };
        }
        let levers = Levers::of(table, claim.cause, &rows);
        let varied = self.varied(table, &rows, claim.effect);
        if varied.is_empty()
            && rows.iter().all(|(_, r)| self.run_settings_of(r).is_none())
            && !has_set_columns(table, claim)
        {
            return Finding::NothingSaid;
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
            let varied = if own.is_empty() {
                varied.iter().map(|v| label(&v)).collect()
            } else {
                own.iter().map(label).collect()
            };
            return Finding::Controlled { rows: rows.iter().map(|(n, _)| *n).collect(), varied };
        }
        // The first two rows between which it can be seen.
        let first = others.iter().map(|v| v.seen_at()).min().unwrap_or(1);
        let (a, b) = (rows[0].0, rows[first.min(rows.len() - 1)].0);
        let mut names: Vec<String> = own.iter().filter(|v| v.seen_at() <= first).map(label).collect();
        names.extend(others.iter().map(label));
        Finding::Uncontrolled { between: [a, b], varied: names }
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
                all.push(Varied::Setting { name: spec.name, label: spec.label.to_owned(), at: *at });
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
                all.push(Varied::Column { id: column.id, label: column.name.clone(), at });
            }
        }
        all
    }

    fn beside_hypothesis(&self, claim: &Claim, names: &[String; 2], shows: Option<bool>) -> Option<Finding> {
        let hypothesis = self.state().forecast.hypothesis.as_ref()?;
        if !is_column(&hypothesis.cause, &names[0]) || !is_column(&hypothesis.effect, &names[1]) {
            return None;
        }
        Some(match (hypothesis.curve == claim.curve, shows?) {
            (false, true) => Finding::Overturned(hypothesis.clone()),
            (true, true) => Finding::Stood,
            (true, false) => Finding::Repeated,
            (false, false) => Finding::Neither(hypothesis.clone()),
        })
    }

    /// Where a bent curve is called exponential in words: what the ratio of neighbours would be.
    fn asks_for_ratios(
        &self,
        claim: &Claim,
        table: &Table,
        chosen: &[usize],
        places: [usize; 2],
    ) -> Option<AskedRatios> {
        let texts = [TextField::Claim, TextField::Evidence, TextField::Reasoning];
        let written = texts.iter().filter_map(|f| self.state().writing.texts.get(f));
        let reason = self.state().forecast.hypothesis.as_ref().map(|h| &h.reason);
        let says = written.chain(reason).any(|text| text.to_lowercase().contains("exponential"));
        if !says || !claim.curve.is_bent() {
            return None;
        }
        let mut points: Vec<Seen> = chosen.iter().filter_map(|i| point(table, *i, places)).collect();
        points.sort_by(|a, b| a.x.total_cmp(&b.x));
        // Truly so: the logarithm is straight.
        let log: Vec<Seen> =
            points.iter().filter(|p| p.y > 0.0).map(|p| Seen { y: p.y.ln(), uy: p.uy / p.y, ..*p }).collect();
        if log.len() == points.len() && shown(&log).is_some_and(|s| s.values > 3 && s.bend.abs() <= s.u_bend) {
            return None;
        }
        let even = points.windows(3).all(|w| ((w[2].x - w[1].x) / (w[1].x - w[0].x) - 1.0).abs() < 0.02);
        let ratios: Vec<String> = points.windows(2).take(RATIOS).map(|w| to_step(w[1].y / w[0].y, 0.01)).collect();
        Some(AskedRatios { ratios: if even && ratios.len() > 1 { ratios } else { Vec::new() } })
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

/// The symbols of columns, and what a row has in them.
fn held_by(table: &Table, row: usize, places: [usize; 2]) -> [(String, Option<String>); 2] {
    places.map(|place| {
        let column = &table.columns[place];
        let text = table.text(place, row);
        let unit = column.unit.clone().unwrap_or_default();
        (column.column.symbol.clone(), (!text.is_empty()).then(|| with_unit(&text, &unit)))
    })
}

/// Whether there are rows enough for what is claimed.
fn enough(curve: CurvePick, values: Option<usize>, points: usize) -> Finding {
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
    match values {
        0 => Finding::NoRow,
        1 => Finding::SameCause,
        2 if wanted == 3 => Finding::TwoValues,
        values if values < wanted => Finding::FewForTurn { values, wanted },
        values if values < 5 => Finding::JustEnough { values },
        values => Finding::Enough { values },
    }
}
