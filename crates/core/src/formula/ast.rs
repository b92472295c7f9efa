//! The tree of a formula.

use std::ops::Range;

use super::constants::PhysicalConstant;
use super::function::Function;
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
