//! Turns a law around: solves `formula = target` for the one symbol of unknown value.
//!
//! Where the unknown appears once, every operation between it and the root is undone in turn; where it appears more
//! often, its value is searched for. Of several roots a single positive one is meant, since a physical constant is sought.

use super::ast::{Expr, Node, Operator};
use super::function::{Elementary, Function, Gather};
use super::units::fixed_exponent;
use super::{Formula, FormulaError, Problem, evaluate, infer, units};
use crate::quantity::{Exponent, Source, Uncertain, Unit};

/// The unknown of a law, found.
#[derive(Clone, Debug, PartialEq)]
pub struct Solution {
    /// Its symbol.
    pub symbol: String,
    /// Its value and uncertainty in coherent SI units.
    pub value: Uncertain,
    /// Its unit, as it follows from the law.
    pub unit: Unit,
}

pub(super) fn solve(
    formula: &Formula,
    target: Uncertain,
    target_unit: Unit,
    known: &dyn Fn(&str) -> Option<(Uncertain, Unit)>,
) -> Result<Solution, FormulaError> {
    let law = formula.tree();
    let whole = |problem| FormulaError { problem, span: law.span.clone() };
    let mut unknown: Vec<&Expr> = Vec::new();
    law.walk(&mut |e| {
        if matches!(&e.node, Node::Symbol(s) if known(s).is_none()) && !unknown.contains(&e) {
            unknown.push(e);
        }
    });
    let symbol = match unknown.as_slice() {
        [] => return Err(whole(Problem::NothingUnknown)),
        [one] => one.to_string(),
        several => {
            let names: Vec<String> = several.iter().map(ToString::to_string).collect();
            return Err(whole(Problem::SeveralUnknown(names.join(", "))));
        }
    };
    if law.count(&symbol) > 1 {
        return search(formula, symbol, &target, &target_unit, known);
    }
    let (mut at, mut value, mut unit) = (law, target.clone(), target_unit.clone());
    let inside = Side { known, symbol: &symbol };
    loop {
        let fail = |problem| FormulaError { problem, span: at.span.clone() };
        let (next, v, u): (&Expr, _, _) = match &at.node {
            Node::Symbol(_) => return Ok(Solution { symbol, value, unit }),
            Node::Negative(a) => (a, value.map(-value.value, -1.0), unit),
            Node::Call(function, all) | Node::Across(function, all) => {
                let [a] = all.as_slice() else { return search(formula, symbol, &target, &target_unit, known) };
                let (v, u) = undo_call(*function, &value, &unit).map_err(fail)?;
                (a, v, u)
            }
            Node::Binary(operator, a, b) if inside.has(a) => {
                let (v, u) = undo_left(*operator, value, unit, b, &inside)?;
                (a, v, u)
            }
            Node::Binary(operator, a, b) => {
                let (v, u) = undo_right(*operator, value, unit, a, &inside, at)?;
                (b, v, u)
            }
            // The walk only enters parts that hold the unknown.
            Node::Number(..) | Node::Pi | Node::Constant(_) | Node::Row => return Err(fail(Problem::NothingUnknown)),
        };
        if !v.value.is_finite() || !v.u().is_finite() {
            return Err(FormulaError { problem: Problem::Overflow, span: at.span.clone() });
        }
        (at, value, unit) = (next, v, u);
    }
}

/// Magnitudes searched for the unknown, in coherent SI units: from 10^−30 to 10^30, this many steps a decade.
const STEPS: i32 = 24;

/// Looks for the unknown where it cannot be isolated: sign changes over all magnitudes, then bisection. The uncertainty
/// follows from the implicit derivative, u(z) = u(target − law)/|∂law/∂z| (JCGM 100:2008, 5.1).
fn search(
    formula: &Formula,
    symbol: String,
    target: &Uncertain,
    target_unit: &Unit,
    known: &dyn Fn(&str) -> Option<(Uncertain, Unit)>,
) -> Result<Solution, FormulaError> {
    let law = formula.tree();
    let fail = |problem| FormulaError { problem, span: law.span.clone() };
    let dimensions = infer(formula, target_unit.dimension(), &|s| known(s).map(|(_, u)| u.dimension()))?;
    let unit = Unit::coherent(&dimensions.get(&symbol).copied().unwrap_or_default());
    // A source no reading and no constant has stands for the unknown itself.
    let own = Source(u64::MAX);
    let at = |z: Uncertain| {
        let value_of = |s: &str| {
            if s == symbol {
                return Ok(z.clone());
            }
            known(s).map(|(v, _)| v).ok_or_else(|| Problem::UnknownSymbol(s.to_owned()))
        };
        evaluate::evaluate(law, &evaluate::Bare(&value_of))
    };
    let off = |z: f64| at(Uncertain::exact(z)).map_or(f64::NAN, |v| v.value - target.value);
    let magnitudes = (-30 * STEPS..=30 * STEPS).map(|k| 10f64.powf(f64::from(k) / f64::from(STEPS)));
    let positive: Vec<f64> = magnitudes.collect();
    let line = positive.iter().rev().map(|m| -m).chain([0.0]).chain(positive.iter().copied());
    let (mut roots, mut before): (Vec<f64>, Option<(f64, f64)>) = (Vec::new(), None);
    for z in line {
        let d = off(z);
        if d == 0.0 && z != 0.0 {
            roots.push(z);
        } else if let Some((from, was)) = before
            && was * d < 0.0
            && let Some(root) = bisect(&off, from, z)
        {
            roots.push(root);
        }
        before = (d.is_finite() && d != 0.0).then_some((z, d));
    }
    roots.dedup_by(|a, b| (*a - *b).abs() <= 1e-9 * b.abs());
    if roots.iter().any(|z| *z > 0.0) {
        roots.retain(|z| *z > 0.0);
    }
    let z = match roots.as_slice() {
        [] => return Err(fail(Problem::NoRoot(symbol))),
        [one] => *one,
        several => {
            let values: Vec<String> = several.iter().map(|z| crate::quantity::format::plain(*z)).collect();
            return Err(fail(Problem::SeveralRoots { symbol, values: values.join(", ") }));
        }
    };
    let there = at(Uncertain::from_source(z, 1.0, own))?;
    let slope = there.terms().iter().find(|(s, _)| *s == own).map_or(0.0, |(_, t)| *t);
    let rest = Uncertain::combination([(1.0, &there), (-slope, &Uncertain::from_source(0.0, 1.0, own))].into_iter());
    let value = Uncertain::combination([(1.0 / slope, target), (-1.0 / slope, &rest)].into_iter()).with_value(z);
    if !value.u().is_finite() {
        return Err(fail(Problem::Overflow));
    }
    Ok(Solution { symbol, value, unit })
}

/// The root between `low` and `high`, where `off` has different signs; `None` if the sign changes at a pole.
fn bisect(off: &dyn Fn(f64) -> f64, mut low: f64, mut high: f64) -> Option<f64> {
    let sign = off(low).signum();
    let edge = off(low).abs().max(off(high).abs());
    for _ in 0..200 {
        let middle = f64::midpoint(low, high);
        if middle == low || middle == high {
            break;
        }
        if off(middle).signum() == sign {
            low = middle;
        } else {
            high = middle;
        }
    }
    let root = f64::midpoint(low, high);
    (off(root).abs() <= 1e-6 * edge).then_some(root)
}

/// The parts of the law whose value is known.
struct Side<'a> {
    known: &'a dyn Fn(&str) -> Option<(Uncertain, Unit)>,
    symbol: &'a str,
}

impl Side<'_> {
    fn has(&self, e: &Expr) -> bool {
        e.count(self.symbol) > 0
    }

    fn value(&self, e: &Expr) -> Result<Uncertain, FormulaError> {
        let value_of = |s: &str| (self.known)(s).map(|(v, _)| v).ok_or_else(|| Problem::UnknownSymbol(s.to_owned()));
        evaluate::evaluate(e, &evaluate::Bare(&value_of))
    }

    fn unit(&self, e: &Expr) -> Result<Unit, FormulaError> {
        units::derive(e, &|s| (self.known)(s).map(|(_, u)| u).ok_or_else(|| Problem::UnknownSymbol(s.to_owned())))
    }
}

fn same(mine: &Unit, theirs: &Unit) -> Result<(), Problem> {
    if mine.same_dimension(theirs) {
        return Ok(());
    }
    Err(Problem::UnitClash { left: mine.clone(), right: theirs.clone() })
}

/// `x ∘ b = value`, solved for x.
fn undo_left(
    o: Operator,
    value: Uncertain,
    unit: Unit,
    b: &Expr,
    side: &Side<'_>,
) -> Result<(Uncertain, Unit), FormulaError> {
    let fail = |problem| FormulaError { problem, span: b.span.clone() };
    let (by, by_unit) = (side.value(b)?, side.unit(b)?);
    let too_large = || fail(Problem::UnitTooLarge);
    let inverse = match o {
        Operator::Add | Operator::Subtract => {
            same(&unit, &by_unit).map_err(fail)?;
            let back = if o == Operator::Add { Operator::Subtract } else { Operator::Add };
            return Ok((evaluate::binary(back, &value, &by, None).map_err(fail)?, unit));
        }
        Operator::Multiply => (Operator::Divide, unit.per(&by_unit).ok_or_else(too_large)?),
        Operator::Divide => (Operator::Multiply, unit.times(&by_unit).ok_or_else(too_large)?),
        Operator::Power => {
            let power = fixed_exponent(b).filter(|p| *p.numer() != 0).ok_or_else(|| fail(Problem::VariableExponent))?;
            let root = Exponent::new(1, 1) / power;
            let exponent = f64::from(*root.numer()) / f64::from(*root.denom());
            let v =
                evaluate::binary(Operator::Power, &value, &Uncertain::exact(exponent), Some(exponent)).map_err(fail)?;
            return Ok((v, unit.power(root).ok_or_else(too_large)?));
        }
    };
    Ok((evaluate::binary(inverse.0, &value, &by, None).map_err(fail)?, inverse.1))
}

/// `a ∘ x = value`, solved for x.
fn undo_right(
    o: Operator,
    value: Uncertain,
    unit: Unit,
    a: &Expr,
    side: &Side<'_>,
    at: &Expr,
) -> Result<(Uncertain, Unit), FormulaError> {
    let fail = |problem| FormulaError { problem, span: at.span.clone() };
    let (from, from_unit) = (side.value(a)?, side.unit(a)?);
    let compute = |o, l: &Uncertain, r: &Uncertain| evaluate::binary(o, l, r, None).map_err(fail);
    let too_large = || fail(Problem::UnitTooLarge);
    match o {
        Operator::Add | Operator::Subtract => {
            same(&unit, &from_unit).map_err(fail)?;
            let v = if o == Operator::Add {
                compute(Operator::Subtract, &value, &from)?
            } else {
                compute(Operator::Subtract, &from, &value)?
            };
            Ok((v, unit))
        }
        Operator::Multiply => {
            Ok((compute(Operator::Divide, &value, &from)?, unit.per(&from_unit).ok_or_else(too_large)?))
        }
        Operator::Divide => {
            Ok((compute(Operator::Divide, &from, &value)?, from_unit.per(&unit).ok_or_else(too_large)?))
        }
        Operator::Power => {
            same(&unit, &Unit::one()).map_err(fail)?;
            let (top, base) = (
                evaluate::call(Elementary::Ln, &value).map_err(fail)?,
                evaluate::call(Elementary::Ln, &from).map_err(fail)?,
            );
            Ok((compute(Operator::Divide, &top, &base)?, Unit::one()))
        }
    }
}

fn undo_call(function: Function, value: &Uncertain, unit: &Unit) -> Result<(Uncertain, Unit), Problem> {
    match function {
        Function::Of(f) => undo_elementary(f, value, unit),
        // Gathering functions of one part are that part.
        Function::Gather(Gather::Min | Gather::Max | Gather::Mean | Gather::Sum) => Ok((value.clone(), unit.clone())),
        Function::Gather(Gather::Spread | Gather::Count) | Function::Angle | Function::Along(_) => {
            Err(Problem::NeedsColumn(function.name()))
        }
    }
}

fn undo_elementary(f: Elementary, value: &Uncertain, unit: &Unit) -> Result<(Uncertain, Unit), Problem> {
    let (v, power_of_ten) = (value.value, std::f64::consts::LN_10);
    let pure = |undone: Result<Uncertain, Problem>| {
        same(unit, &Unit::one())?;
        Ok((undone?, Unit::one()))
    };
    match f {
        Elementary::Sqrt => Ok((value.map(v * v, 2.0 * v), unit.power(2.into()).ok_or(Problem::UnitTooLarge)?)),
        Elementary::Abs => Ok((value.clone(), unit.clone())),
        Elementary::Exp => pure(evaluate::call(Elementary::Ln, value)),
        Elementary::Ln => pure(evaluate::call(Elementary::Exp, value)),
        Elementary::Log10 => pure(Ok(value.map(10f64.powf(v), 10f64.powf(v) * power_of_ten))),
        Elementary::Sin => pure(evaluate::call(Elementary::Asin, value)),
        Elementary::Cos => pure(evaluate::call(Elementary::Acos, value)),
        Elementary::Tan => pure(evaluate::call(Elementary::Atan, value)),
        Elementary::Asin => pure(evaluate::call(Elementary::Sin, value)),
        Elementary::Acos => pure(evaluate::call(Elementary::Cos, value)),
        Elementary::Atan => pure(evaluate::call(Elementary::Tan, value)),
    }
}

#[cfg(test)]
mod tests {
    use super::super::Formula;
    use super::*;
    use crate::quantity::Source;
    use approx::assert_relative_eq;

    fn known(symbol: &str) -> Option<(Uncertain, Unit)> {
        (symbol == "m").then(|| (Uncertain::exact(0.4), Unit::parse("kg").unwrap()))
    }

    fn solve(law: &str, slope: f64, u: f64, unit: &str) -> Result<Solution, FormulaError> {
        Formula::parse(law)?.solve(Uncertain::from_source(slope, u, Source(0)), Unit::parse(unit).unwrap(), &known)
    }

    #[test]
    fn the_slope_of_a_pendulum_gives_the_strength_of_gravity() {
        let g = solve("4*pi^2/g", 4.03, 0.01, "s^2/m").unwrap();
        let exact = 4.0 * std::f64::consts::PI.powi(2) / 4.03;
        assert_relative_eq!(g.value.value, exact, max_relative = 1e-14);
        assert_relative_eq!(g.value.u(), exact * 0.01 / 4.03, max_relative = 1e-12);
        assert_eq!((g.symbol.as_str(), g.unit.to_string().as_str()), ("g", "m/s^2"));
    }

    #[test]
    fn every_operation_can_be_undone() {
        // Each law put to work with k = 2.5 must give 2.5 back.
        for (law, slope, unit) in [
            ("4*pi^2*m/k", 4.0 * std::f64::consts::PI.powi(2) * 0.4 / 2.5, "s^2"),
            ("-k/m", -2.5 / 0.4, "N/(m kg)"),
            ("sqrt(k/m)", (2.5f64 / 0.4).sqrt(), "1/s"),
            ("(k/2)^2", 1.5625, "m^2"),
            ("k^(1/2) + 1 [s]", 2.5f64.sqrt() + 1.0, "s"),
            ("3 - k", 0.5, ""),
            ("exp(k)*2", 2.0 * 2.5f64.exp(), ""),
            ("2^k", 2f64.powf(2.5), ""),
            ("ln(k) + log10(100)", 2.5f64.ln() + 2.0, ""),
        ] {
            let k = solve(law, slope, 0.0, unit).map_err(|e| format!("{law}: {e:?}")).unwrap();
            assert_relative_eq!(k.value.value, 2.5, max_relative = 1e-12);
        }
    }

    #[test]
    fn laws_that_cannot_be_solved_say_why() {
        assert_eq!(solve("4*pi^2", 1.0, 0.0, "").unwrap_err().problem, Problem::NothingUnknown);
        assert_eq!(solve("a*b", 1.0, 0.0, "").unwrap_err().problem, Problem::SeveralUnknown("a, b".into()));
        assert_eq!(solve("g + 1/g", 1.0, 0.0, "").unwrap_err().problem, Problem::NoRoot("g".into()));
        assert!(matches!(solve("g + 1/g", 4.0, 0.0, "").unwrap_err().problem, Problem::SeveralRoots { .. }));
        assert_eq!(solve("1/g", 0.0, 0.0, "s").unwrap_err().problem, Problem::DivisionByZero);
        assert!(matches!(solve("g + m", 1.0, 0.0, "s").unwrap_err().problem, Problem::UnitClash { .. }));
    }

    #[test]
    fn an_unknown_that_appears_twice_is_searched_for() {
        // Two masses over a pulley: a = g·(M − m)/(M + m) with m = 0.4 kg, solved for M.
        let a = |big: f64| 9.806_65 * (big - 0.4) / (big + 0.4);
        let found = solve("[g_n]*(M - m)/(M + m)", a(0.55), 0.01, "m/s^2").unwrap();
        assert_relative_eq!(found.value.value, 0.55, max_relative = 1e-9);
        assert_eq!(found.unit.to_string(), "kg");
        let numeric = 0.01 / ((a(0.5501) - a(0.5499)) / 0.0002);
        assert_relative_eq!(found.value.u(), numeric, max_relative = 1e-5);
    }
}
