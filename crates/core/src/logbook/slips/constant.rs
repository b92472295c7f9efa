//! Slips that show in the constant: it is off by a factor that people forget, or in another dimension than it should be.

use std::collections::BTreeSet;
use std::f64::consts::PI;

use super::{AxisPower, Factor, Hint, Sign, Slip, SlipKind};
use crate::fit::Parameter;
use crate::formula::{Formula, Node, Operator};
use crate::logbook::part::Part;
use crate::logbook::{Analysis, Logbook};
use crate::quantity::Unit;
use crate::record::{Column, Table};
use crate::result::{FIRST_RESULT, ResultFrom, from_parameter};

/// Relative uncertainty from which on a factor cannot be told from chance.
const TOO_UNSURE: f64 = 0.12;

/// Factors that people forget, with what they mean.
fn factors() -> Vec<(f64, Factor)> {
    let mut all = vec![
        (2.0, Factor::Two),
        (4.0, Factor::Four),
        (PI, Factor::Pi),
        (PI * PI, Factor::PiSquared),
        (2.0 * PI, Factor::TwoPi),
        (60.0, Factor::Sixty),
        (3600.0, Factor::Sixty),
        (3.6, Factor::KilometresPerHour),
        (180.0 / PI, Factor::Degrees),
    ];
    all.extend((1..=9).map(|k| (10f64.powi(k), Factor::PowerOfTen)));
    all
}

impl Logbook {
    /// `with_value` says whether what is found may be compared with what is right, or only their units.
    pub(super) fn slips_of_constant(&self, analysis: &Analysis, with_value: bool) -> Vec<Slip> {
        let found = analysis.outcome(FIRST_RESULT).and_then(|o| o.constant.as_ref()?.as_ref().ok());
        let (Some(found), Some((wanted, tolerance, unit))) = (found, self.what_is_right()) else { return Vec::new() };
        if !found.unit.same_dimension(&unit) {
            return self.slips_of_dimension(analysis, &unit, with_value.then_some(wanted));
        }
        if !with_value {
            return Vec::new();
        }
        let (value, u) = (found.value * found.unit.size(), found.u * found.unit.size());
        let u = if u.is_finite() { u } else { 0.0 };
        let off = (value - wanted).abs();
        if off <= tolerance.hypot(2.0 * u) || value == 0.0 || wanted == 0.0 {
            return Vec::new();
        }
        let ratio = value / wanted;
        let unsure = (2.0 * u / value).hypot(tolerance / wanted).hypot(0.01);
        if unsure > TOO_UNSURE {
            return Vec::new();
        }
        let symbol = &found.symbol;
        let seen = self.formulas(analysis);
        if let Some(slip) = self.slip_of_sign(ratio, unsure, wanted, tolerance) {
            return vec![slip];
        }
        let misfit = |factor: f64| (ratio.abs().ln() - factor.ln()).abs();
        let mut fitting: Vec<(f64, Factor, bool)> = factors()
            .into_iter()
            .flat_map(|(f, factor)| [(f, factor, true), (1.0 / f, factor, false)])
            .filter(|(f, _, _)| misfit(*f) <= unsure)
            .collect();
        fitting.sort_by(|a, b| misfit(a.0).total_cmp(&misfit(b.0)));
        let Some((by, factor, large)) = fitting.into_iter().next() else { return Vec::new() };
        let times = if large { by } else { 1.0 / by };
        let slip = |kind: SlipKind, sure: bool, hint: Option<Hint>| Slip {
            kind,
            sure,
            sign: Sign::Times { symbol: symbol.clone(), times, large, factor, hint },
            part: Part::Constant,
            row: None,
        };
        let mut all = Vec::new();
        let named = |symbol: &str| symbol.to_owned();
        if matches!(factor, Factor::Two | Factor::Four) {
            if let Some(symbol) = seen.diameter().map(named) {
                all.push(slip(SlipKind::Radius, true, Some(Hint::Round { symbol })));
            }
            if seen.round() {
                all.push(slip(SlipKind::CrossSection, true, Some(Hint::PiAndSquare)));
            }
        }
        // The distance counts twice where it is squared.
        if matches!(factor, Factor::Two | Factor::Four) && seen.echo(self) {
            all.push(slip(SlipKind::RoundTrip, true, Some(Hint::ThereAndBack)));
        }
        if factor == Factor::Two
            && let Some(symbol) = seen.mean_velocity().map(named)
        {
            all.push(slip(SlipKind::MeanVelocity, true, Some(Hint::Mean { symbol })));
        }
        let sure = match factor {
            Factor::Pi | Factor::PiSquared | Factor::TwoPi => true,
            Factor::Degrees => seen.turns(),
            Factor::PowerOfTen | Factor::Sixty | Factor::KilometresPerHour => {
                seen.numbers_with_units() || seen.typed(analysis)
            }
            Factor::Two | Factor::Four => false,
        };
        all.push(slip(factor.kind(), sure, None));
        all.truncate(3);
        all
    }

    /// A sum where the law has a difference, or a constant with the other sign.
    fn slip_of_sign(&self, ratio: f64, unsure: f64, wanted: f64, tolerance: f64) -> Option<Slip> {
        let slip = |sign| Slip { kind: SlipKind::Sign, sure: true, sign, part: Part::Constant, row: None };
        if ratio < 0.0 && (ratio.abs() - 1.0).abs() <= unsure {
            return Some(slip(Sign::OtherSign));
        }
        // The mean of a sum or difference: the other one of them.
        let plan = self.state().result(FIRST_RESULT)?;
        let ResultFrom::Column { column } = plan.from else { return None };
        let record = self.state().record.tables.iter().find(|t| t.column(column).is_some())?;
        let old = record.column(column)?.clone();
        let formula = old.formula.as_ref()?;
        let Node::Binary(operator @ (Operator::Add | Operator::Subtract), left, right) = &formula.tree().node else {
            return None;
        };
        let other = if *operator == Operator::Add { '-' } else { '+' };
        let flipped = Formula::parse(&format!("({left}) {other} ({right})")).ok()?;
        let mut trial = (**record).clone();
        trial.columns.iter_mut().filter(|c| c.id == column).for_each(|c| c.formula = Some(flipped.clone()));
        let table = std::sync::Arc::new(trial).evaluate(&self.held_quantities());
        let cells = table.columns[table.place(column)?].cells.iter().zip(&table.rows).filter(|(_, r)| !r.aside);
        let found = crate::result::steady(cells.map(|(c, _)| c))?;
        let near = (found.mean.abs() - wanted.abs()).abs() <= tolerance.hypot(2.0 * found.u);
        near.then(|| slip(Sign::OtherOperator { symbol: old.symbol, operator: other }))
    }

    /// The constant is in another dimension: what on the axes would bring it right.
    fn slips_of_dimension(&self, analysis: &Analysis, wanted: &Unit, value: Option<f64>) -> Vec<Slip> {
        let Some(plan) = self.state().result(FIRST_RESULT) else { return Vec::new() };
        let (ResultFrom::Curve { graph, stretch, series, parameter }, Some(law)) = (&plan.from, &plan.law.slope) else {
            return Vec::new();
        };
        let graph = analysis.graph(*graph);
        let fitted = graph.and_then(|g| Some((g, g.fit_of(*stretch, series.as_deref())?.outcome.as_ref().ok()?)));
        let Some((graph, slope)) = fitted.and_then(|(g, fit)| Some((g, fit.parameter(parameter)?))) else {
            return Vec::new();
        };
        let held = self.held_quantities();
        let comes_to = |slope: Parameter| {
            let found = from_parameter(&slope, law, &|s| held.get(s).cloned()).ok()?;
            found.unit.same_dimension(wanted).then_some(found.value * found.unit.size())
        };
        let slip = |kind, sign| vec![Slip { kind, sure: true, sign, part: Part::Graph, row: None }];
        let (x, y) = (&graph.x, &graph.y);
        let inverted =
            Unit::one().per(&slope.unit).map(|unit| Parameter { value: 1.0 / slope.value, unit, ..slope.clone() });
        if let Some(found) = inverted.and_then(comes_to)
            && value.is_none_or(|value| (found / value - 1.0).abs() < 0.3)
        {
            let (up, across) = (x.symbol.clone(), y.symbol.clone());
            return slip(SlipKind::Inverted, Sign::SwappedAxes { up, across });
        }
        // A power of what stands on an axis: only its unit tells, for the line would be another.
        let powers = [AxisPower::Square, AxisPower::Inverse, AxisPower::Root];
        for (power, up) in powers.into_iter().flat_map(|power| [(power, true), (power, false)]) {
            let exponent = match power {
                AxisPower::Square => 2.into(),
                AxisPower::Inverse => (-1).into(),
                AxisPower::Root => crate::quantity::Exponent::new(1, 2),
            };
            let [uy, ux] = [(true, y), (false, x)]
                .map(|(is_up, axis)| if is_up == up { axis.unit.power(exponent) } else { Some(axis.unit.clone()) });
            let unit = uy.zip(ux).and_then(|(uy, ux)| uy.per(&ux));
            let meant = unit.map(|unit| Parameter { value: 1.0, u: 0.0, unit, ..slope.clone() });
            if meant.and_then(comes_to).is_some() {
                let symbol = if up { &y.symbol } else { &x.symbol }.clone();
                return slip(SlipKind::Square, Sign::AxisPower { symbol, power });
            }
        }
        // A quantity of the table or beside it that is in no formula behind the axes.
        let seen = self.formulas(analysis);
        let columns = analysis.tables.iter().flat_map(|t| &t.columns);
        let columns = columns.filter_map(|c| Some((c.column.symbol.clone(), c.unit.clone().ok()?)));
        let beside = held.iter().map(|(symbol, (_, unit))| (symbol.clone(), unit.clone()));
        let unused =
            |symbol: &str| !seen.used.contains(symbol) && !seen.formulas.iter().any(|f| f.symbols().contains(&symbol));
        for (symbol, unit) in columns.chain(beside).filter(|(symbol, unit)| unused(symbol) && !unit.is_one()) {
            for by in [slope.unit.per(&unit), slope.unit.times(&unit)] {
                let meant = by.map(|unit| Parameter { value: 1.0, u: 0.0, unit, ..slope.clone() });
                if meant.and_then(comes_to).is_some() {
                    return slip(SlipKind::Product, Sign::Unused { symbol, unit });
                }
            }
        }
        Vec::new()
    }

    /// What stands in the formulas behind the constant.
    fn formulas(&self, analysis: &Analysis) -> Formulas<'_> {
        let mut seen = Formulas::default();
        let Some(plan) = self.state().result(FIRST_RESULT) else { return seen };
        seen.formulas.extend(plan.law.slope.as_ref());
        let mut open: Vec<u32> = match &plan.from {
            ResultFrom::Curve { graph, .. } | ResultFrom::Calibration { graph, .. } => analysis
                .graph(*graph)
                .into_iter()
                .flat_map(|g| g.series.iter().flat_map(|s| [s.columns.0, s.columns.1]))
                .collect(),
            ResultFrom::Column { column } => vec![*column],
            ResultFrom::Model { .. } => Vec::new(),
        };
        let mut done = BTreeSet::new();
        while let Some(id) = open.pop() {
            let Some((table, column)) = self.state().table_of(id).and_then(|t| Some((t, t.column(id)?))) else {
                continue;
            };
            if !done.insert(id) {
                continue;
            }
            seen.columns.push(column);
            seen.used.insert(column.symbol.clone());
            if let Some(formula) = &column.formula {
                seen.formulas.push(formula);
                let symbols = formula.symbols();
                let meant = |c: &&Column| symbols.iter().any(|s| c.symbol == **s || c.stem.as_deref() == Some(*s));
                open.extend(table.columns.iter().filter(meant).map(|c| c.id));
            }
        }
        let held = self.held().into_iter().map(|h| (h.symbol.to_owned(), h.label.to_owned()));
        seen.names = held.chain(seen.columns.iter().map(|c| (c.symbol.clone(), c.name.clone()))).collect();
        seen
    }
}

/// Columns and formulas behind a constant.
#[derive(Default)]
struct Formulas<'a> {
    formulas: Vec<&'a Formula>,
    columns: Vec<&'a Column>,
    /// Symbols of these columns.
    used: BTreeSet<String>,
    /// Symbols and names of what the formulas may use.
    names: Vec<(String, String)>,
}

impl Formulas<'_> {
    fn any(&self, is: &dyn Fn(&Node) -> bool) -> bool {
        let mut found = false;
        for formula in &self.formulas {
            formula.tree().walk(&mut |e| found |= is(&e.node));
        }
        found
    }

    /// A radius or a diameter that the formulas use.
    fn diameter(&self) -> Option<&str> {
        let round = |name: &str| ["diameter", "radius", "bore"].iter().any(|word| name.to_lowercase().contains(word));
        let used =
            |symbol: &str| self.used.contains(symbol) || self.formulas.iter().any(|f| f.symbols().contains(&symbol));
        self.names.iter().find(|(symbol, name)| round(name) && used(symbol)).map(|(symbol, _)| symbol.as_str())
    }

    /// Whether a formula has π beside a square.
    fn round(&self) -> bool {
        self.formulas.iter().any(|f| {
            let (mut pi, mut square) = (false, false);
            f.tree().walk(&mut |e| {
                pi |= matches!(e.node, Node::Pi);
                square |=
                    matches!(&e.node, Node::Binary(Operator::Power, base, _) if matches!(base.node, Node::Symbol(_)));
            });
            pi && square
        })
    }

    /// Whether something is measured by a signal that comes back.
    fn echo(&self, book: &Logbook) -> bool {
        let word = |text: &str| ["echo", "pulse", "there and back"].iter().any(|w| text.to_lowercase().contains(w));
        self.columns.iter().any(|c| word(&c.name)) || book.sheet().sections.iter().any(|s| word(&s.text))
    }

    /// A column that is a distance over a time.
    fn mean_velocity(&self) -> Option<&str> {
        let quotient = |c: &&&Column| {
            let formula = c.formula.as_ref();
            formula.is_some_and(|f| matches!(&f.tree().node, Node::Binary(Operator::Divide, _, by) if !matches!(by.node, Node::Binary(Operator::Power, ..))))
        };
        let speed = Unit::parse("m/s").ok()?;
        let fits = |c: &&&Column| c.unit.as_ref().is_none_or(|u| u.same_dimension(&speed));
        self.columns.iter().filter(quotient).find(fits).map(|c| c.symbol.as_str())
    }

    /// Whether a formula has a function of an angle.
    fn turns(&self) -> bool {
        self.any(&|node| matches!(node, Node::Call(..)))
            || self.any(&|node| matches!(node, Node::Number(_, unit) if unit.pretty().contains('°')))
    }

    fn numbers_with_units(&self) -> bool {
        self.any(&|node| matches!(node, Node::Number(_, unit) if !unit.is_one()))
    }

    /// Whether a column behind the constant was typed by hand.
    fn typed(&self, analysis: &Analysis) -> bool {
        let is_typed = |table: &Table, id: u32| {
            table
                .record
                .rows
                .iter()
                .filter_map(|r| r.cells.get(&id))
                .any(|r| matches!(r.origin, crate::quantity::Origin::Typed))
        };
        self.columns.iter().any(|c| analysis.tables.iter().any(|t| t.place(c.id).is_some() && is_typed(t, c.id)))
    }
}
