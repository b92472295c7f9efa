//! Computes a formula for one row, with first-order uncertainty.
//!
//! Derivatives follow the rules of differentiation at each part (JCGM 100:2008, 5.1), so shared sources
//! stay correlated through the whole formula.

use super::ast::{Expr, Node, Operator};
use super::function::{Elementary, Function, Gather, Whole};
use super::units::fixed_exponent;
use super::{FormulaError, Outside, Problem};
use crate::quantity::{Source, Uncertain};

/// Sources of uncertainty at and above this number belong to physical constants, not to readings.
const CONSTANT_SOURCES: u64 = 1 << 63;

/// What a formula finds around it: symbols with values, its row, its columns as a whole.
pub trait Surroundings {
    /// Value of a symbol in coherent SI units.
    ///
    /// # Errors
    /// [`Problem::Nothing`] while there is no value yet; another [`Problem`] when there can be none.
    fn symbol(&self, symbol: &str) -> Result<Uncertain, Problem>;

    /// Number of the row, from 1.
    ///
    /// # Errors
    /// [`Problem::NeedsColumn`] outside a table.
    fn row(&self) -> Result<f64, Problem>;

    /// Value of a function that looks at other rows too, for this row. `part` is the whole call.
    ///
    /// # Errors
    /// As for [`Self::symbol`]; the error of an argument has the argument's place.
    fn whole(&self, function: Whole, part: &Expr) -> Result<Uncertain, FormulaError>;
}

/// Symbols only: a law, not a table.
pub(super) struct Bare<'a>(pub &'a dyn Fn(&str) -> Result<Uncertain, Problem>);

impl Surroundings for Bare<'_> {
    fn symbol(&self, symbol: &str) -> Result<Uncertain, Problem> {
        (self.0)(symbol)
    }

    fn row(&self) -> Result<f64, Problem> {
        Err(Problem::NeedsColumn("row"))
    }

    fn whole(&self, function: Whole, part: &Expr) -> Result<Uncertain, FormulaError> {
        Err(FormulaError { problem: Problem::NeedsColumn(function.name()), span: part.span.clone() })
    }
}

pub(super) fn evaluate(e: &Expr, around: &dyn Surroundings) -> Result<Uncertain, FormulaError> {
    let value = match &e.node {
        Node::Number(n, unit) => Ok(Uncertain::exact(n.value() * unit.size())),
        Node::Pi => Ok(Uncertain::exact(std::f64::consts::PI)),
        Node::Constant(c) => Ok(Uncertain::from_source(c.value, c.u, Source(CONSTANT_SOURCES + c.place()))),
        Node::Row => around.row().map(Uncertain::exact),
        Node::Symbol(s) => around.symbol(s),
        Node::Negative(a) => {
            let a = evaluate(a, around)?;
            Ok(a.map(-a.value, -1.0))
        }
        Node::Call(function, all) | Node::Across(function, all) => {
            if let (Node::Call(..), Some(whole)) = (&e.node, function.whole(all.len())) {
                return around.whole(whole, e);
            }
            match (function, all.as_slice()) {
                (Function::Gather(f), all) => {
                    let mut values = Vec::with_capacity(all.len());
                    for a in all {
                        match evaluate(a, around) {
                            Ok(v) => values.push(v),
                            // A run that is not finished yet does not count.
                            Err(FormulaError { problem: Problem::Nothing, .. }) => {}
                            Err(e) => return Err(e),
                        }
                    }
                    gather(*f, &values.iter().collect::<Vec<_>>())
                }
                (Function::Of(f), [a]) => call(*f, &evaluate(a, around)?),
                (Function::Angle, [x, y]) => direction(&evaluate(x, around)?, &evaluate(y, around)?),
                (Function::Along(_), _) => Err(Problem::NeedsColumn(function.name())),
                (Function::Of(_) | Function::Angle, _) => {
                    Err(Problem::WrongCount { function: function.name(), wanted: function.arity().0 })
                }
            }
        }
        Node::Binary(operator, a, b) => {
            let exact_power = fixed_exponent(b).map(|r| f64::from(*r.numer()) / f64::from(*r.denom()));
            let (a, b) = (evaluate(a, around)?, evaluate(b, around)?);
            binary(*operator, &a, &b, exact_power)
        }
    };
    let finite = |v: Uncertain| if v.value.is_finite() { Ok(v) } else { Err(Problem::Overflow) };
    value.and_then(finite).map_err(|problem| FormulaError { problem, span: e.span.clone() })
}

/// Computes a part of a formula.
///
/// # Errors
/// [`FormulaError`] for values outside a function's domain, with the place.
pub fn evaluate_part(part: &Expr, around: &dyn Surroundings) -> Result<Uncertain, FormulaError> {
    evaluate(part, around)
}

/// The angle of a pair of components.
fn direction(x: &Uncertain, y: &Uncertain) -> Result<Uncertain, Problem> {
    let square = x.value * x.value + y.value * y.value;
    if square == 0.0 {
        return Err(Problem::Domain(Outside::AngleOfZeros));
    }
    Ok(x.join(y, y.value.atan2(x.value), -y.value / square, x.value / square))
}

/// Smallest, largest, mean, sum, spread or number of several values.
///
/// The spread is the sample standard deviation √(Σ(xᵢ−x̄)²/(n−1)) (JCGM 100:2008, 4.2.2).
///
/// # Errors
/// [`Problem::Nothing`] when there are too few values.
pub fn gather(function: Gather, values: &[&Uncertain]) -> Result<Uncertain, Problem> {
    let n = values.len() as f64;
    let pick = |better: fn(f64, f64) -> bool| {
        let mut all = values.iter();
        let first = *all.next().ok_or(Problem::Nothing)?;
        Ok(all.fold(first, |best, v| if better(v.value, best.value) { v } else { best }).clone())
    };
    let combine = |weight: f64| Uncertain::combination(values.iter().map(|v| (weight, *v)));
    match function {
        Gather::Min => pick(|a, b| a < b),
        Gather::Max => pick(|a, b| a > b),
        Gather::Sum | Gather::Mean if values.is_empty() => Err(Problem::Nothing),
        Gather::Sum => Ok(combine(1.0)),
        Gather::Mean => Ok(combine(1.0 / n)),
        Gather::Spread if values.len() < 2 => Err(Problem::Nothing),
        Gather::Spread => {
            let mean = combine(1.0 / n).value;
            let spread = (values.iter().map(|v| (v.value - mean).powi(2)).sum::<f64>() / (n - 1.0)).sqrt();
            let slope = |v: &Uncertain| if spread == 0.0 { 0.0 } else { (v.value - mean) / ((n - 1.0) * spread) };
            let terms = Uncertain::combination(values.iter().map(|v| (slope(v), *v)));
            Ok(terms.with_value(spread))
        }
        Gather::Count => Ok(Uncertain::exact(n)),
    }
}

pub(super) fn binary(
    operator: Operator,
    a: &Uncertain,
    b: &Uncertain,
    exact_power: Option<f64>,
) -> Result<Uncertain, Problem> {
    let (x, y) = (a.value, b.value);
    Ok(match operator {
        Operator::Add => a.join(b, x + y, 1.0, 1.0),
        Operator::Subtract => a.join(b, x - y, 1.0, -1.0),
        Operator::Multiply => a.join(b, x * y, y, x),
        Operator::Divide if y == 0.0 => return Err(Problem::DivisionByZero),
        Operator::Divide => a.join(b, x / y, 1.0 / y, -x / (y * y)),
        Operator::Power => {
            if x == 0.0 && y < 0.0 {
                return Err(Problem::DivisionByZero);
            }
            let value = x.powf(y);
            if value.is_nan() {
                return Err(Problem::Domain(Outside::PowerOfNegative));
            }
            if exact_power.is_some() {
                let slope = if y == 0.0 { 0.0 } else { y * x.powf(y - 1.0) };
                return Ok(a.map(value, slope));
            }
            if x < 0.0 {
                return Err(Problem::Domain(Outside::VariablePower));
            }
            let by_exponent = if x == 0.0 { 0.0 } else { value * x.ln() };
            a.join(b, value, y * x.powf(y - 1.0), by_exponent)
        }
    })
}

pub(super) fn call(function: Elementary, a: &Uncertain) -> Result<Uncertain, Problem> {
    let x = a.value;
    let domain = |ok: bool, what| if ok { Ok(()) } else { Err(Problem::Domain(what)) };
    let (value, derivative) = match function {
        Elementary::Sqrt => {
            domain(x >= 0.0, Outside::RootOfNegative)?;
            let root = x.sqrt();
            (root, if x == 0.0 && a.u() == 0.0 { 0.0 } else { 0.5 / root })
        }
        Elementary::Abs => (x.abs(), if x < 0.0 { -1.0 } else { 1.0 }),
        Elementary::Exp => (x.exp(), x.exp()),
        Elementary::Ln => {
            domain(x > 0.0, Outside::Logarithm)?;
            (x.ln(), 1.0 / x)
        }
        Elementary::Log10 => {
            domain(x > 0.0, Outside::Logarithm)?;
            (x.log10(), 1.0 / (x * std::f64::consts::LN_10))
        }
        Elementary::Sin => (x.sin(), x.cos()),
        Elementary::Cos => (x.cos(), -x.sin()),
        Elementary::Tan => (x.tan(), 1.0 + x.tan().powi(2)),
        Elementary::Asin => {
            domain(x.abs() <= 1.0, Outside::Asin)?;
            (x.asin(), 1.0 / (1.0 - x * x).sqrt())
        }
        Elementary::Acos => {
            domain(x.abs() <= 1.0, Outside::Acos)?;
            (x.acos(), -1.0 / (1.0 - x * x).sqrt())
        }
        Elementary::Atan => (x.atan(), 1.0 / (1.0 + x * x)),
    };
    Ok(a.map(value, derivative))
}

#[cfg(test)]
mod tests {
    use super::super::Formula;
    use super::*;
    use proptest::prelude::*;

    fn at(formula: &Formula, x: f64, y: f64, ux: f64, uy: f64) -> Result<Uncertain, FormulaError> {
        formula.evaluate(&|s| match s {
            "x" => Ok(Uncertain::from_source(x, ux, Source(1))),
            "y" => Ok(Uncertain::from_source(y, uy, Source(2))),
            other => Err(Problem::UnknownSymbol(other.to_owned())),
        })
    }

    #[test]
    fn rows_outside_a_domain_say_where() {
        for (formula, x, place) in [
            ("1 + sqrt(x)", -1.0, "sqrt(x)"),
            ("2/(x - x)", 1.0, "2/(x - x)"),
            ("ln(x)", 0.0, "ln(x)"),
            ("x^(1/2)", -4.0, "x^(1/2)"),
            ("exp(x)", 1e6, "exp(x)"),
            ("asin(x)", 2.0, "asin(x)"),
        ] {
            let error = at(&Formula::parse(formula).unwrap(), x, 1.0, 0.1, 0.1).unwrap_err();
            assert_eq!(&formula[error.span], place, "{formula}");
        }
    }

    proptest! {
        #[test]
        fn uncertainties_agree_with_finite_differences(
            x in 0.2f64..3.0, y in 0.2f64..3.0,
            formula in prop::sample::select(vec![
                "x*y^2/(1 + x)", "sqrt(x)*sin(y)", "exp(-x) + ln(y)", "x^y", "atan(x/y) - cos(x)", "4*pi^2*x/y^2",
                "abs(x - y)*log10(1 + x)", "tan(x/4)*asin(y/4)", "x^(1/3)*acos(y/4)", "(x + y)/(x*x)",
            ]),
        ) {
            prop_assume!((x - y).abs() > 1e-3);
            let formula = Formula::parse(formula).unwrap();
            let (ux, uy, h) = (0.01, 0.02, 1e-6);
            let value = |x, y| at(&formula, x, y, 0.0, 0.0).unwrap().value;
            let by_x = (value(x + h, y) - value(x - h, y)) / (2.0 * h);
            let by_y = (value(x, y + h) - value(x, y - h)) / (2.0 * h);
            let expected = ((by_x * ux).powi(2) + (by_y * uy).powi(2)).sqrt();
            let got = at(&formula, x, y, ux, uy).unwrap().u();
            prop_assert!((got - expected).abs() <= 1e-6 * (1.0 + expected), "{got} {expected}");
        }
    }
}
