//! Derives the unit of a formula and checks its dimensions.

use super::ast::{Expr, Node, Operator};
use super::function::{Along, Elementary, Function, Gather};
use super::{FormulaError, Problem};
use crate::quantity::{Exponent, Unit};

pub(super) fn derive(e: &Expr, unit_of: &dyn Fn(&str) -> Result<Unit, Problem>) -> Result<Unit, FormulaError> {
    let fail = |problem| FormulaError { problem, span: e.span.clone() };
    match &e.node {
        Node::Number(_, unit) => Ok(unit.clone()),
        Node::Pi | Node::Row => Ok(Unit::one()),
        Node::Constant(c) => Ok(Unit::coherent(&c.dimension)),
        Node::Symbol(s) => unit_of(s).map_err(fail),
        Node::Negative(a) => {
            let unit = derive(a, unit_of)?;
            // −5 °C is a temperature; the negative of one is none.
            if unit.is_celsius() && !matches!(a.node, Node::Number(..)) {
                Err(fail(Problem::Celsius))
            } else {
                Ok(unit)
            }
        }
        Node::Call(Function::Along(function @ (Along::Rate | Along::Rate2)), all) if all.len() >= 2 => {
            if let Some(rows) = all.get(2)
                && window(rows).is_none()
            {
                return Err(FormulaError { problem: Problem::Window, span: rows.span.clone() });
            }
            let (up, across) = (derive(&all[0], unit_of)?, derive(&all[1], unit_of)?);
            let once = up.per(&across);
            let whole = if *function == Along::Rate { once } else { once.and_then(|u| u.per(&across)) };
            whole.ok_or_else(|| fail(Problem::UnitTooLarge))
        }
        Node::Call(function, all) | Node::Across(function, all) => {
            let mut units = Vec::with_capacity(all.len());
            for a in all {
                units.push(derive(a, unit_of)?);
                let (first, last) = (&units[0], &units[units.len() - 1]);
                if !first.same_dimension(last) {
                    let problem = Problem::UnitClash { left: first.clone(), right: last.clone() };
                    return Err(FormulaError { problem, span: a.span.clone() });
                }
            }
            let inner = units.into_iter().next().unwrap_or_default();
            let span = all.first().map_or_else(|| e.span.clone(), |a| a.span.clone());
            call(*function, &inner).map_err(|problem| FormulaError { problem, span })
        }
        Node::Binary(Operator::Power, base, exponent) => {
            let inner = derive(base, unit_of)?;
            let over = derive(exponent, unit_of)?;
            if !over.dimension().is_none() {
                let problem = Problem::NeedsPureNumber { function: None, unit: over.clone() };
                return Err(FormulaError { problem, span: exponent.span.clone() });
            }
            if inner.is_one() {
                return Ok(Unit::one());
            }
            if inner.is_celsius() {
                return Err(fail(Problem::Celsius));
            }
            let power = fixed_exponent(exponent)
                .ok_or_else(|| FormulaError { problem: Problem::VariableExponent, span: exponent.span.clone() })?;
            inner.power(power).ok_or_else(|| fail(Problem::UnitTooLarge))
        }
        Node::Binary(operator, a, b) => {
            let (left, right) = (derive(a, unit_of)?, derive(b, unit_of)?);
            match operator {
                Operator::Multiply | Operator::Divide if left.is_celsius() || right.is_celsius() => {
                    Err(fail(Problem::Celsius))
                }
                Operator::Multiply => left.times(&right).ok_or_else(|| fail(Problem::UnitTooLarge)),
                Operator::Divide => left.per(&right).ok_or_else(|| fail(Problem::UnitTooLarge)),
                // The difference of two temperatures is in kelvins, and one of them moved by kelvins is one again.
                Operator::Subtract if left.is_celsius() && right.is_celsius() => Ok(left.of_differences()),
                Operator::Add | Operator::Subtract | Operator::Power => match (left.is_celsius(), right.is_celsius()) {
                    (true, true) => Err(fail(Problem::Celsius)),
                    (true, false) if right.same_dimension(&left.of_differences()) => Ok(left),
                    (false, true) if *operator == Operator::Add && left.same_dimension(&right.of_differences()) => {
                        Ok(right)
                    }
                    _ if left.same_dimension(&right) => Ok(left),
                    _ => Err(fail(Problem::UnitClash { left, right })),
                },
            }
        }
    }
}

fn call(function: Function, inner: &Unit) -> Result<Unit, Problem> {
    let angle = || Unit::parse("rad").map_err(Problem::BadUnit);
    let no_temperature = || if inner.is_celsius() { Err(Problem::Celsius) } else { Ok(inner.clone()) };
    let pure = || match no_temperature()?.dimension() {
        d if d.is_none() => Ok(Unit::one()),
        _ => Err(Problem::NeedsPureNumber { function: Some(function.name()), unit: inner.clone() }),
    };
    match function {
        Function::Of(Elementary::Sqrt) => no_temperature()?.power(Exponent::new(1, 2)).ok_or(Problem::UnitTooLarge),
        Function::Of(Elementary::Abs) | Function::Along(Along::RunSum) | Function::Gather(Gather::Sum) => {
            no_temperature()
        }
        Function::Of(Elementary::Asin | Elementary::Acos | Elementary::Atan) => pure().and_then(|_| angle()),
        Function::Of(
            Elementary::Exp | Elementary::Ln | Elementary::Log10 | Elementary::Sin | Elementary::Cos | Elementary::Tan,
        ) => pure(),
        Function::Angle => angle(),
        Function::Gather(Gather::Count) => Ok(Unit::one()),
        Function::Gather(Gather::Min | Gather::Max | Gather::Mean) => Ok(inner.clone()),
        Function::Gather(Gather::Spread) | Function::Along(Along::Change) => Ok(inner.of_differences()),
        Function::Along(Along::Rate | Along::Rate2) => {
            Err(Problem::WrongCount { function: function.name(), wanted: function.arity().0 })
        }
    }
}

/// The number of rows a parabola is laid through: an odd number from 3 to 51.
pub(super) fn window(e: &Expr) -> Option<usize> {
    let Node::Number(n, unit) = &e.node else { return None };
    let whole = unit.is_one() && n.value().fract() == 0.0 && (3.0..=51.0).contains(&n.value());
    whole.then(|| n.value() as usize).filter(|n| n % 2 == 1)
}

/// An exponent that is the same in every row: `2`, `-1`, `0.5`, `(1/2)`.
pub(super) fn fixed_exponent(e: &Expr) -> Option<Exponent> {
    match &e.node {
        Node::Number(n, unit) if unit.is_one() => {
            let (text, value) = (n.as_str(), n.value());
            let decimals = text.split_once('.').map_or(0, |(_, d)| d.len() as u32);
            (value.abs() <= 48.0 && decimals <= 3)
                .then(|| Exponent::new((value * 10f64.powi(decimals as i32)).round() as i32, 10i32.pow(decimals)))
        }
        Node::Negative(a) => Some(-fixed_exponent(a)?),
        Node::Binary(Operator::Divide, a, b) => {
            let (n, d) = (fixed_exponent(a)?, fixed_exponent(b)?);
            (*d.numer() != 0 && n.is_integer() && d.is_integer()).then(|| n / d)
        }
        Node::Number(..)
        | Node::Pi
        | Node::Constant(_)
        | Node::Row
        | Node::Symbol(_)
        | Node::Binary(..)
        | Node::Call(..)
        | Node::Across(..) => None,
    }
}

#[cfg(test)]
mod tests {
    use super::super::Formula;
    use super::*;

    fn unit(formula: &str) -> Result<String, (Problem, std::ops::Range<usize>)> {
        let known = |s: &str| match s {
            "t10" | "T" => Ok(Unit::parse("s").unwrap()),
            "L" => Ok(Unit::parse("m").unwrap()),
            "d" => Ok(Unit::parse("cm").unwrap()),
            "θ" => Ok(Unit::parse("deg").unwrap()),
            "C" => Ok(Unit::parse("°C").unwrap()),
            other => Err(Problem::UnknownSymbol(other.to_owned())),
        };
        Formula::parse(formula).and_then(|f| f.unit(&known)).map(|u| u.to_string()).map_err(|e| (e.problem, e.span))
    }

    #[test]
    fn units_follow_from_the_formula() {
        for (formula, expected) in [
            ("t10/10", "s"),
            ("T^2", "s^2"),
            ("4*pi^2*L/T^2", "m/s^2"),
            ("sqrt(L)", "m^(1/2)"),
            ("L^(1/2)", "m^(1/2)"),
            ("L + d", "m"),
            ("L*d", "m^2"),
            ("9.81 [m/s^2]*T", "m/s"),
            ("sin(θ)", ""),
            ("L/L", ""),
            ("2^(L/L)/T", "1/s"),
            ("L*θ", "m"),
            ("C - C", "K"),
            ("C + 3 [K]", "°C"),
            ("3 [K] + C", "°C"),
            ("C - -273.15 [°C]", "K"),
            ("(C - 20 [degC])/T", "K/s"),
            ("rate(C, T)", "K/s"),
            ("change(C)/T", "K/s"),
            ("mean(C)", "°C"),
            ("spread(C)", "K"),
        ] {
            assert_eq!(unit(formula).as_deref(), Ok(expected), "{formula}");
        }
    }

    #[test]
    fn mistakes_point_at_their_place() {
        for (formula, place) in [
            ("L + T", "L + T"),
            ("sin(2*L)", "2*L"),
            ("2*L^T", "T"),
            ("t10/x", "x"),
            ("t10/", ""),
            ("4 pi", "p"),
            ("2*(L + 1", ""),
            ("L)", ")"),
            ("sqrt L", "sqrt"),
            ("cube(L)", "cube"),
            ("2 [furlong]*L", "furlong"),
            ("L # 2", "#"),
            ("T^θ", "θ"),
            ("2*C", "2*C"),
            ("C + C", "C + C"),
            ("C - 3 [K] + C", "C - 3 [K] + C"),
            ("3 [K] - C", "3 [K] - C"),
            ("sqrt(C)", "C"),
            ("sum(C)", "C"),
        ] {
            let (problem, span) = unit(formula).unwrap_err();
            assert_eq!(&formula[span], place, "{formula}: {problem:?}");
        }
    }
}
