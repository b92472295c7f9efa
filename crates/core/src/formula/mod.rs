//! Formulas over column symbols: `4*pi^2*L/T^2`, `sqrt(h)`, `t10/10`, `9.81 [m/s^2] * t`, `[G]*M/r^2`, `rate(x, t)`.
//!
//! In the order of work: [`Formula::parse`] reads the text into a tree, [`Formula::unit`] derives the
//! unit and checks dimensions once for the whole column, [`Formula::evaluate`] computes one row with its
//! uncertainty, and [`Formula::solve`] turns a law around to its one unknown symbol.

mod ast;
mod constants;
mod evaluate;
mod function;
mod greek;
mod infer;
mod parse;
mod print;
mod solve;
mod tape;
mod units;

use std::ops::Range;

use serde::{Deserialize, Serialize};

pub use ast::{Expr, Node, Operator};
pub use constants::{CONSTANTS, GRAVITATION, LIGHT, PhysicalConstant, STANDARD_GRAVITY};
pub use evaluate::{Surroundings, evaluate_part, gather};
pub use function::{Along, Elementary, Function, Gather, Whole};
pub use infer::infer;
pub use solve::Solution;
pub use tape::Tape;

use crate::quantity::{Uncertain, Unit, UnitError};

/// What is wrong with a formula, and where.
#[derive(Clone, PartialEq, Debug)]
pub struct FormulaError {
    /// What is wrong.
    pub problem: Problem,
    /// Where, in bytes of the formula's text.
    pub span: Range<usize>,
}

/// The ways a formula can be wrong.
#[derive(Clone, PartialEq, Debug)]
pub enum Problem {
    /// Nothing was typed.
    Empty,
    /// Longer or deeper than is read.
    TooLong,
    /// A character that has no place in a formula.
    Strange(char),
    /// Something is missing at this place.
    Missing(MissingPart),
    /// A comma between digits that may be a decimal comma or part two arguments.
    CommaOpen(String),
    /// A logarithm of unknown base.
    WhichLog,
    /// Two things stand side by side.
    NoOperator,
    /// A function name without its bracket.
    BareFunction(String),
    /// A bracket after a name that is no function.
    UnknownFunction(String),
    /// A number that cannot be read.
    BadNumber(String),
    /// A name in square brackets that is no constant.
    UnknownConstant(String),
    /// Too few or too many arguments.
    WrongCount {
        /// The function.
        function: &'static str,
        /// Arguments it takes.
        wanted: usize,
    },
    /// The rows of a parabola are no odd number.
    Window,
    /// A function that looks at more rows than there are.
    FewRows(usize),
    /// A function over a whole column where there is no column.
    NeedsColumn(&'static str),
    /// No value yet: a cell is still empty.
    Nothing,
    /// The unit of an unknown does not follow from the formula.
    UnitOpen(String),
    /// No value of the unknown fits.
    NoRoot(String),
    /// Several values of the unknown fit.
    SeveralRoots {
        /// The unknown.
        symbol: String,
        /// The values, in coherent SI units.
        values: String,
    },
    /// A unit in square brackets that cannot be read.
    BadUnit(UnitError),
    /// A symbol no column has.
    UnknownSymbol(String),
    /// A column that depends on itself.
    Circular(String),
    /// A column whose own formula is wrong.
    Broken(String),
    /// Adding or subtracting different dimensions.
    UnitClash {
        /// Unit on the left.
        left: Unit,
        /// Unit on the right.
        right: Unit,
    },
    /// Two parts of a sum whose units differ, whatever the unknowns in them are.
    PartsClash {
        /// The unit by which they differ.
        by: Unit,
    },
    /// Reckoning with temperatures from the freezing point as if they counted from absolute zero.
    Celsius,
    /// A function or an exponent that wants a pure number.
    NeedsPureNumber {
        /// The function; none for an exponent.
        function: Option<&'static str>,
        /// The unit found.
        unit: Unit,
    },
    /// A power of a unit that depends on the row.
    VariableExponent,
    /// Unit exponents out of range.
    UnitTooLarge,
    /// Division by zero in a row.
    DivisionByZero,
    /// A function outside its domain in a row.
    Domain(Outside),
    /// A result too large to be a number.
    Overflow,
    /// The cell of another column is empty or in error.
    EmptyCell(String),
    /// No unknown symbol in a law.
    NothingUnknown,
    /// More than one unknown symbol in a law.
    SeveralUnknown(String),
}

/// What is missing at a place of a formula.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum MissingPart {
    /// A number, a symbol or a bracket with something in it.
    Value,
    /// The bracket that opens what this one closes.
    OpeningBracket,
    /// The bracket that closes.
    ClosingBracket,
    /// The one behind a unit or a constant.
    ClosingSquareBracket,
}

/// Where a function has no value.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Outside {
    /// The angle of (0, 0).
    AngleOfZeros,
    /// The square root of a negative number.
    RootOfNegative,
    /// A broken power of a negative number.
    PowerOfNegative,
    /// A power of a negative number that depends on the row.
    VariablePower,
    /// The logarithm of zero or less.
    Logarithm,
    /// asin of a number beyond 1.
    Asin,
    /// acos of a number beyond 1.
    Acos,
}

/// A formula as typed, together with its tree. Stored as its text.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Formula {
    text: String,
    tree: Expr,
}

impl Formula {
    /// Reads a formula.
    ///
    /// # Errors
    /// [`FormulaError`] with the place.
    pub fn parse(text: &str) -> Result<Self, FormulaError> {
        Ok(Self { text: text.to_owned(), tree: parse::parse(text)? })
    }

    /// The text as typed.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The tree.
    pub fn tree(&self) -> &Expr {
        &self.tree
    }

    /// The symbols it uses, each once, in order of appearance.
    pub fn symbols(&self) -> Vec<&str> {
        let mut found = Vec::new();
        self.tree.walk(&mut |e| {
            if let Node::Symbol(s) = &e.node
                && !found.contains(&s.as_str())
            {
                found.push(s.as_str());
            }
        });
        found
    }

    /// The same formula with one symbol renamed.
    pub fn renamed(&self, from: &str, to: &str) -> Self {
        let mut tree = self.tree.clone();
        tree.rename(from, to);
        let text = tree.to_string();
        // Spans refer to the text, so the printed form is read again.
        Self::parse(&text).unwrap_or(Self { text, tree })
    }

    /// The same formula with the runs of a quantity in the place of its stem, inside gathering functions: with
    /// runs n1 and n2, `sum(n)` means `sum(n1, n2)`.
    pub fn expanded(&self, runs_of: &dyn Fn(&str) -> Option<Vec<String>>) -> Self {
        let mut tree = self.tree.clone();
        tree.expand(runs_of);
        Self { text: self.text.clone(), tree }
    }

    /// Derives the unit, given the units of the symbols.
    ///
    /// # Errors
    /// [`FormulaError`] for unknown symbols and clashing dimensions, with the place.
    pub fn unit(&self, unit_of: &dyn Fn(&str) -> Result<Unit, Problem>) -> Result<Unit, FormulaError> {
        units::derive(&self.tree, unit_of)
    }

    /// Computes the value in coherent SI units with its first-order uncertainty, given those of the symbols.
    ///
    /// # Errors
    /// [`FormulaError`] for values outside a function's domain, with the place.
    pub fn evaluate(&self, value_of: &dyn Fn(&str) -> Result<Uncertain, Problem>) -> Result<Uncertain, FormulaError> {
        evaluate::evaluate(&self.tree, &evaluate::Bare(value_of))
    }

    /// Computes the value for one row of a table, which also knows the row's number and its columns as a whole.
    ///
    /// # Errors
    /// [`FormulaError`] for values outside a function's domain, with the place.
    pub fn evaluate_in(&self, row: &dyn Surroundings) -> Result<Uncertain, FormulaError> {
        evaluate::evaluate(&self.tree, row)
    }

    /// Solves `self = target` for the one symbol of unknown value.
    ///
    /// # Errors
    /// [`FormulaError`] when no symbol or several are unknown, or no single value fits.
    pub fn solve(
        &self,
        target: Uncertain,
        target_unit: Unit,
        known: &dyn Fn(&str) -> Option<(Uncertain, Unit)>,
    ) -> Result<Solution, FormulaError> {
        solve::solve(self, target, target_unit, known)
    }
}

impl From<Formula> for String {
    fn from(f: Formula) -> Self {
        f.text
    }
}

impl TryFrom<String> for Formula {
    type Error = String;
    fn try_from(text: String) -> Result<Self, String> {
        Self::parse(&text).map_err(|e| format!("{e:?}"))
    }
}

/// Number of rows of the parabola in `rate(x, t, n)` and `rate2(x, t, n)`; `None` for anything but an odd number.
pub(crate) fn window_of(part: &Expr) -> Option<usize> {
    units::window(part)
}

/// Weights that give the slope and the second derivative, at `at`, of the parabola through values at these places.
///
/// With τᵢ = tᵢ − at, x = a + bτ + cτ² is fitted by least squares; b = Σ wᵢxᵢ and 2c = Σ w'ᵢxᵢ with rows of
/// (VᵀV)⁻¹Vᵀ (Savitzky and Golay, Anal. Chem. 36 (1964) 1627, for any spacing). `None` with fewer than three different
/// places.
pub(crate) fn local_quadratic(places: &[f64], at: f64) -> Option<(Vec<f64>, Vec<f64>)> {
    // Counted in the widest distance, so that the sums are of one size.
    let wide = places.iter().map(|t| (t - at).abs()).fold(0.0, f64::max);
    let tau: Vec<f64> = places.iter().map(|t| (t - at) / wide).collect();
    let power = |k: i32| tau.iter().map(|t| t.powi(k)).sum::<f64>();
    let (s0, s1, s2, s3, s4) = (power(0), power(1), power(2), power(3), power(4));
    let normal = nalgebra::Matrix3::new(s0, s1, s2, s1, s2, s3, s2, s3, s4);
    let inverse = normal.try_inverse().filter(|m| m.iter().all(|v| v.is_finite() && v.abs() < 1e12))?;
    let row = |k: usize, factor: f64| {
        tau.iter().map(|t| factor * (inverse[(k, 0)] + inverse[(k, 1)] * t + inverse[(k, 2)] * t * t)).collect()
    };
    Some((row(1, 1.0 / wide), row(2, 2.0 / (wide * wide))))
}

/// Whether a text can be a column's symbol: a letter, then letters, digits, `_` or `'`; no function name.
pub fn is_symbol(text: &str) -> bool {
    let mut chars = text.chars();
    chars.next().is_some_and(char::is_alphabetic)
        && chars.all(|c| c.is_alphanumeric() || c == '_' || c == '\'')
        && text.chars().count() <= 12
        && Function::named(text).is_none()
        && !matches!(text, "pi" | "π" | "row")
}
