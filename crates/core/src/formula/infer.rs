//! Finds the dimensions of unknown symbols from the dimensions of the known ones.
//!
//! Every part of a formula gets a form: a known dimension times powers of the unknown ones. A sum wants equal
//! forms, an exponential a pure number, and so on; what is wanted is a set of linear equations for the
//! exponents, solved by elimination in whole fractions.

use std::collections::BTreeMap;

use num_traits::{One, Zero};

use super::ast::{Expr, Node, Operator};
use super::function::{Elementary, Function, Gather};
use super::units::fixed_exponent;
use super::{FormulaError, Problem};
use crate::quantity::{Dimension, Exponent, Unit};

/// A known dimension times the unknown ones, each to a power.
#[derive(Clone)]
struct Form {
    known: Dimension,
    powers: BTreeMap<String, Exponent>,
}

impl Form {
    fn of(known: Dimension) -> Self {
        Self { known, powers: BTreeMap::new() }
    }

    fn power(&self, e: Exponent) -> Result<Self, Problem> {
        let known = self.known.power(e).ok_or(Problem::UnitTooLarge)?;
        Ok(Self { known, powers: self.powers.iter().map(|(s, p)| (s.clone(), p * e)).collect() })
    }

    fn times(&self, other: &Self) -> Result<Self, Problem> {
        let mut out = self.clone();
        out.known = out.known.times(&other.known).ok_or(Problem::UnitTooLarge)?;
        for (s, p) in &other.powers {
            *out.powers.entry(s.clone()).or_insert_with(Exponent::zero) += p;
        }
        out.powers.retain(|_, p| !p.is_zero());
        Ok(out)
    }

    fn per(&self, other: &Self) -> Result<Self, Problem> {
        self.times(&other.power(-Exponent::one())?)
    }
}

/// Dimensions of the symbols that `known` does not know, given that the formula as a whole has the dimension `whole`.
/// A symbol the formula leaves free counts as a pure number.
///
/// # Errors
/// [`FormulaError`] where dimensions clash; [`Problem::VariableExponent`] for a quantity with a unit to an unknown
/// power.
pub fn infer(
    formula: &super::Formula,
    whole: Dimension,
    known: &dyn Fn(&str) -> Option<Dimension>,
) -> Result<BTreeMap<String, Dimension>, FormulaError> {
    let tree = formula.tree();
    let mut wanted = Wanted { known, pure: Vec::new() };
    let form = wanted.form(tree)?;
    let end = form.per(&Form::of(whole)).map_err(|problem| FormulaError { problem, span: tree.span.clone() })?;
    wanted.pure.push((end, tree.span.clone()));
    let unknown = formula.symbols().into_iter().filter(|s| known(s).is_none());
    let mut found: BTreeMap<String, Dimension> = unknown.map(|s| (s.to_owned(), Dimension::none())).collect();
    found.extend(eliminate(wanted.pure)?);
    Ok(found)
}

type Wish = (Form, std::ops::Range<usize>);

struct Wanted<'a> {
    known: &'a dyn Fn(&str) -> Option<Dimension>,
    /// Forms that must be pure numbers, and where that is demanded.
    pure: Vec<Wish>,
}

impl Wanted<'_> {
    fn form(&mut self, e: &Expr) -> Result<Form, FormulaError> {
        let fail = |problem| FormulaError { problem, span: e.span.clone() };
        match &e.node {
            Node::Number(_, unit) => Ok(Form::of(unit.dimension())),
            Node::Pi | Node::Row => Ok(Form::of(Dimension::none())),
            Node::Constant(c) => Ok(Form::of(c.dimension)),
            Node::Symbol(s) => Ok(match (self.known)(s) {
                Some(d) => Form::of(d),
                None => Form { known: Dimension::none(), powers: [(s.clone(), Exponent::one())].into() },
            }),
            Node::Negative(a) => self.form(a),
            Node::Binary(Operator::Power, base, exponent) => {
                let (inner, over) = (self.form(base)?, self.form(exponent)?);
                self.pure.push((over, exponent.span.clone()));
                match fixed_exponent(exponent) {
                    Some(power) => inner.power(power).map_err(fail),
                    None if inner.powers.is_empty() && !inner.known.is_none() => {
                        Err(FormulaError { problem: Problem::VariableExponent, span: exponent.span.clone() })
                    }
                    None => {
                        self.pure.push((inner, base.span.clone()));
                        Ok(Form::of(Dimension::none()))
                    }
                }
            }
            Node::Binary(operator, a, b) => {
                let (left, right) = (self.form(a)?, self.form(b)?);
                match operator {
                    Operator::Multiply => left.times(&right).map_err(fail),
                    Operator::Divide => left.per(&right).map_err(fail),
                    Operator::Add | Operator::Subtract | Operator::Power => {
                        self.pure.push((left.per(&right).map_err(fail)?, e.span.clone()));
                        // The side that says more speaks for the sum.
                        Ok(if left.powers.is_empty() { left } else { right })
                    }
                }
            }
            Node::Call(function, all) | Node::Across(function, all) => {
                if function.whole(all.len()).is_some() {
                    return Err(fail(Problem::NeedsColumn(function.name())));
                }
                let forms = all.iter().map(|a| self.form(a)).collect::<Result<Vec<_>, _>>()?;
                let Some(first) = forms.first().cloned() else { return Ok(Form::of(Dimension::none())) };
                match function {
                    Function::Of(Elementary::Sqrt) => first.power(Exponent::new(1, 2)).map_err(fail),
                    Function::Of(Elementary::Abs) => Ok(first),
                    Function::Gather(Gather::Count) => Ok(Form::of(Dimension::none())),
                    Function::Gather(_) => {
                        for (form, a) in forms.iter().zip(all) {
                            self.pure.push((form.per(&first).map_err(fail)?, a.span.clone()));
                        }
                        Ok(first)
                    }
                    Function::Of(_) | Function::Angle | Function::Along(_) => {
                        let place = all.first().map_or_else(|| e.span.clone(), |a| a.span.clone());
                        self.pure.push((first, place));
                        Ok(Form::of(Dimension::none()))
                    }
                }
            }
        }
    }
}

/// Solves that all forms are pure numbers.
fn eliminate(mut open: Vec<Wish>) -> Result<BTreeMap<String, Dimension>, FormulaError> {
    let mut solved: Vec<(String, Form)> = Vec::new();
    while let Some((form, span)) = open.pop() {
        let fail = |problem| FormulaError { problem, span: span.clone() };
        let Some((symbol, power)) = form.powers.iter().next().map(|(s, p)| (s.clone(), *p)) else {
            if form.known.is_none() {
                continue;
            }
            let unit = Unit::coherent(&form.known);
            return Err(fail(Problem::PartsClash { by: unit }));
        };
        // symbol^power · rest = 1, so symbol = rest^(−1/power).
        let mut rest = form;
        rest.powers.remove(&symbol);
        let value = rest.power(-Exponent::one() / power).map_err(fail)?;
        let put = |into: &Form| -> Result<Form, Problem> {
            let Some(p) = into.powers.get(&symbol).copied() else { return Ok(into.clone()) };
            let mut without = into.clone();
            without.powers.remove(&symbol);
            without.times(&value.power(p)?)
        };
        for (other, span) in &mut open {
            *other = put(other).map_err(|problem| FormulaError { problem, span: span.clone() })?;
        }
        for (_, other) in &mut solved {
            *other = put(other).map_err(fail)?;
        }
        solved.push((symbol, value));
    }
    // What is still free counts as a pure number.
    Ok(solved.into_iter().map(|(s, form)| (s, form.known)).collect())
}

#[cfg(test)]
mod tests {
    use super::super::Formula;
    use super::*;

    fn found(formula: &str, whole: &str) -> Result<Vec<String>, Problem> {
        let dimension = |u: &str| Unit::parse(u).unwrap().dimension();
        let known = |s: &str| match s {
            "t" => Some(dimension("s")),
            "x" | "L" => Some(dimension("m")),
            _ => None,
        };
        infer(&Formula::parse(formula).unwrap(), dimension(whole), &known)
            .map(|all| all.into_iter().map(|(s, d)| format!("{s}:{d}")).collect())
            .map_err(|e| e.problem)
    }

    #[test]
    fn parameters_take_the_units_the_formula_demands() {
        for (formula, whole, expected) in [
            ("A*exp(-b*t) + C", "m", "A:m C:m b:s^-1"),
            ("A*sin(w*t + p)", "cm", "A:m p:1 w:s^-1"),
            ("x/(1 + k*x)", "m", "k:m^-1"),
            ("4*pi^2*L/g", "s^2", "g:m s^-2"),
            ("sqrt(a^2 + b*x)", "s", "a:s b:m^-1 s^2"),
            ("m1*g_/(m1 + m2)", "m/s^2", "g_:m s^-2 m1:1 m2:1"),
            ("c*[G]/x^2", "N/kg", "c:kg"),
        ] {
            assert_eq!(found(formula, whole).unwrap().join(" "), expected, "{formula}");
        }
        assert_eq!(found("A*x^n", "m"), Err(Problem::VariableExponent));
        assert!(matches!(found("x + t*A + A", "m"), Err(Problem::PartsClash { .. })));
    }
}
