//! The tree of a formula.

use std::ops::Range;

use super::constants::PhysicalConstant;
use crate::quantity::{Decimal, Unit};

/// A part of a formula and the place where it stands.
#[derive(Clone, Debug)]
pub struct Expr {
    /// What it is.
    pub node: Node,
    /// Bytes of the text it was read from.
    pub span: Range<usize>,
}

/// Two parts are equal when they mean the same, wherever they stand.
impl PartialEq for Expr {
    fn eq(&self, other: &Self) -> bool {
        self.node == other.node
    }
}

/// The kinds of parts.
#[derive(Clone, Debug, PartialEq)]
pub enum Node {
    /// A number, with a unit if one follows in square brackets.
    Number(Decimal, Unit),
    /// π.
    Pi,
    /// A named physical constant: `[G]`.
    Constant(&'static PhysicalConstant),
    /// The number of the row.
    Row,
    /// A column or a held quantity.
    Symbol(String),
    /// A sign change.
    Negative(Box<Expr>),
    /// Two parts joined by an operator.
    Binary(Operator, Box<Expr>, Box<Expr>),
    /// A function with its arguments.
    Call(Function, Vec<Expr>),
    /// A gathering function over these parts of the same row, even if only one of them is left.
    Across(Function, Vec<Expr>),
}

/// The operators of arithmetic.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Operator {
    /// `+`
    Add,
    /// `-`
    Subtract,
    /// `*`
    Multiply,
    /// `/`
    Divide,
    /// `^`
    Power,
}

impl Operator {
    /// The sign as typed.
    pub fn sign(self) -> char {
        match self {
            Self::Add => '+',
            Self::Subtract => '-',
            Self::Multiply => '*',
            Self::Divide => '/',
            Self::Power => '^',
        }
    }

    /// How tightly it binds; higher binds tighter.
    pub(super) fn strength(self) -> u8 {
        match self {
            Self::Add | Self::Subtract => 1,
            Self::Multiply | Self::Divide => 2,
            Self::Power => 4,
        }
    }
}

/// The functions.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Function {
    /// Square root.
    Sqrt,
    /// Absolute value.
    Abs,
    /// e to the power of.
    Exp,
    /// Natural logarithm.
    Ln,
    /// Decimal logarithm.
    Log10,
    /// Sine of an angle.
    Sin,
    /// Cosine of an angle.
    Cos,
    /// Tangent of an angle.
    Tan,
    /// Angle with this sine.
    Asin,
    /// Angle with this cosine.
    Acos,
    /// Angle with this tangent.
    Atan,
    /// Direction of a pair of components: angle from the first towards the second.
    Angle,
    /// Smallest value: of a whole column, or of several parts of one row.
    Min,
    /// Largest value, likewise.
    Max,
    /// Mean, likewise.
    Mean,
    /// Sum, likewise.
    Sum,
    /// Sample standard deviation, likewise.
    Spread,
    /// Number of values, likewise.
    Count,
    /// Difference to the row before.
    Change,
    /// Sum of this row and all rows above.
    RunSum,
    /// Slope of one column against another, from the rows around.
    Rate,
    /// Slope of that slope.
    Rate2,
}

impl Function {
    /// All functions.
    pub const ALL: [Self; 22] = [
        Self::Sqrt,
        Self::Abs,
        Self::Exp,
        Self::Ln,
        Self::Log10,
        Self::Sin,
        Self::Cos,
        Self::Tan,
        Self::Asin,
        Self::Acos,
        Self::Atan,
        Self::Angle,
        Self::Min,
        Self::Max,
        Self::Mean,
        Self::Sum,
        Self::Spread,
        Self::Count,
        Self::Change,
        Self::RunSum,
        Self::Rate,
        Self::Rate2,
    ];

    /// The name as typed.
    pub fn name(self) -> &'static str {
        match self {
            Self::Sqrt => "sqrt",
            Self::Abs => "abs",
            Self::Exp => "exp",
            Self::Ln => "ln",
            Self::Log10 => "log10",
            Self::Sin => "sin",
            Self::Cos => "cos",
            Self::Tan => "tan",
            Self::Asin => "asin",
            Self::Acos => "acos",
            Self::Atan => "atan",
            Self::Angle => "angle",
            Self::Min => "min",
            Self::Max => "max",
            Self::Mean => "mean",
            Self::Sum => "sum",
            Self::Spread => "spread",
            Self::Count => "count",
            Self::Change => "change",
            Self::RunSum => "runsum",
            Self::Rate => "rate",
            Self::Rate2 => "rate2",
        }
    }

    /// Whether it gathers: one argument means the whole column, several mean these parts of one row.
    pub fn gathers(self) -> bool {
        matches!(self, Self::Min | Self::Max | Self::Mean | Self::Sum | Self::Spread | Self::Count)
    }

    /// Whether it looks at other rows when it has this many arguments.
    pub fn is_whole(self, arguments: usize) -> bool {
        matches!(self, Self::Change | Self::RunSum | Self::Rate | Self::Rate2) || self.gathers() && arguments == 1
    }

    /// Smallest and largest number of arguments.
    pub(super) fn arity(self) -> (usize, usize) {
        match self {
            Self::Rate | Self::Rate2 => (2, 3),
            Self::Angle => (2, 2),
            Self::Min | Self::Max | Self::Mean | Self::Sum | Self::Spread | Self::Count => (1, 40),
            Self::Sqrt
            | Self::Abs
            | Self::Exp
            | Self::Ln
            | Self::Log10
            | Self::Sin
            | Self::Cos
            | Self::Tan
            | Self::Asin
            | Self::Acos
            | Self::Atan
            | Self::Change
            | Self::RunSum => (1, 1),
        }
    }

    /// The function of that name.
    pub fn named(name: &str) -> Option<Self> {
        // Names people know them by, too.
        let name = match name {
            "arcsin" => "asin",
            "arccos" => "acos",
            "arctan" => "atan",
            other => other,
        };
        Self::ALL.into_iter().find(|f| f.name() == name)
    }
}

impl Expr {
    /// Calls `visit` for this part and all parts inside it.
    pub fn walk<'a>(&'a self, visit: &mut dyn FnMut(&'a Self)) {
        visit(self);
        match &self.node {
            Node::Negative(a) => a.walk(visit),
            Node::Call(_, all) | Node::Across(_, all) => all.iter().for_each(|a| a.walk(visit)),
            Node::Binary(_, a, b) => {
                a.walk(visit);
                b.walk(visit);
            }
            Node::Number(..) | Node::Pi | Node::Constant(_) | Node::Row | Node::Symbol(_) => {}
        }
    }

    pub(super) fn rename(&mut self, from: &str, to: &str) {
        match &mut self.node {
            Node::Symbol(s) if s == from => to.clone_into(s),
            Node::Negative(a) => a.rename(from, to),
            Node::Call(_, all) | Node::Across(_, all) => all.iter_mut().for_each(|a| a.rename(from, to)),
            Node::Binary(_, a, b) => {
                a.rename(from, to);
                b.rename(from, to);
            }
            Node::Number(..) | Node::Pi | Node::Constant(_) | Node::Row | Node::Symbol(_) => {}
        }
    }

    /// Puts the runs of a quantity in the place of its stem: with runs n1 and n2, `sum(n)` means `sum(n1, n2)`.
    pub(super) fn expand(&mut self, runs_of: &dyn Fn(&str) -> Option<Vec<String>>) {
        match &mut self.node {
            Node::Call(f, all) => {
                let stem = match all.as_slice() {
                    [Self { node: Node::Symbol(s), span }] if f.gathers() => {
                        runs_of(s).map(|runs| (runs, span.clone()))
                    }
                    _ => None,
                };
                if let Some((runs, span)) = stem {
                    let parts = runs.into_iter().map(|s| Self { node: Node::Symbol(s), span: span.clone() }).collect();
                    self.node = Node::Across(*f, parts);
                } else {
                    all.iter_mut().for_each(|a| a.expand(runs_of));
                }
            }
            Node::Across(_, all) => all.iter_mut().for_each(|a| a.expand(runs_of)),
            Node::Negative(a) => a.expand(runs_of),
            Node::Binary(_, a, b) => {
                a.expand(runs_of);
                b.expand(runs_of);
            }
            Node::Number(..) | Node::Pi | Node::Constant(_) | Node::Row | Node::Symbol(_) => {}
        }
    }

    /// How often a symbol appears.
    pub(super) fn count(&self, symbol: &str) -> usize {
        let mut n = 0;
        self.walk(&mut |e| n += usize::from(matches!(&e.node, Node::Symbol(s) if s == symbol)));
        n
    }
}
