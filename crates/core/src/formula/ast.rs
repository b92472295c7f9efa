//! The tree of a formula.

use std::ops::Range;

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
    /// A column or a held quantity.
    Symbol(String),
    /// A sign change.
    Negative(Box<Expr>),
    /// Two parts joined by an operator.
    Binary(Operator, Box<Expr>, Box<Expr>),
    /// A function of one argument.
    Call(Function, Box<Expr>),
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

/// The functions of one argument.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
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
}

impl Function {
    /// All functions.
    pub const ALL: [Self; 11] = [
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
        }
    }

    /// The function of that name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|f| f.name() == name)
    }
}

impl Expr {
    /// Calls `visit` for this part and all parts inside it.
    pub fn walk<'a>(&'a self, visit: &mut dyn FnMut(&'a Self)) {
        visit(self);
        match &self.node {
            Node::Negative(a) | Node::Call(_, a) => a.walk(visit),
            Node::Binary(_, a, b) => {
                a.walk(visit);
                b.walk(visit);
            }
            Node::Number(..) | Node::Pi | Node::Symbol(_) => {}
        }
    }

    pub(super) fn rename(&mut self, from: &str, to: &str) {
        match &mut self.node {
            Node::Symbol(s) if s == from => to.clone_into(s),
            Node::Negative(a) | Node::Call(_, a) => a.rename(from, to),
            Node::Binary(_, a, b) => {
                a.rename(from, to);
                b.rename(from, to);
            }
            Node::Number(..) | Node::Pi | Node::Symbol(_) => {}
        }
    }

    /// How often a symbol appears.
    pub(super) fn count(&self, symbol: &str) -> usize {
        let mut n = 0;
        self.walk(&mut |e| n += usize::from(matches!(&e.node, Node::Symbol(s) if s == symbol)));
        n
    }
}
