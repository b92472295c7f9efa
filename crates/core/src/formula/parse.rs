//! Reads a formula: precedence climbing over characters, so that every mistake has its place.
//!
//! `^` binds tightest and to the right, a sign binds between `^` and `*`: `-x^2` is `-(x^2)`.

use std::ops::Range;

use super::ast::{Expr, Node, Operator};
use super::constants::PhysicalConstant;
use super::function::{Elementary, Function};
use super::{FormulaError, MissingPart, Problem};
use crate::quantity::{Decimal, Unit, is_minus};

const LONGEST: usize = 400;
const DEEPEST: usize = 60;

pub(super) fn parse(text: &str) -> Result<Expr, FormulaError> {
    let mut reader = Reader { text, at: 0, depth: 0, commas: Commas::Decimal };
    if text.len() > LONGEST {
        return Err(reader.error(Problem::TooLong, 0..text.len()));
    }
    reader.skip_space();
    if reader.peek().is_none() {
        return Err(reader.error(Problem::Empty, 0..text.len()));
    }
    let tree = reader.sum(0)?;
    match reader.peek() {
        None => Ok(tree),
        Some(')') => Err(reader.error_here(Problem::Missing(MissingPart::OpeningBracket))),
        Some(c) if c.is_alphanumeric() || matches!(c, '(' | '[') => Err(reader.error_here(Problem::NoOperator)),
        Some(c) => Err(reader.error_here(Problem::Strange(c))),
    }
}

/// What a comma directly between two digits is.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Commas {
    /// A decimal comma.
    Decimal,
    /// It parts two arguments.
    Part,
    /// Nobody can tell.
    Open,
}

struct Reader<'a> {
    text: &'a str,
    at: usize,
    depth: usize,
    /// In the innermost bracket.
    commas: Commas,
}

/// The digit or minus sign that a raised one stands for.
fn lowered(c: char) -> Option<char> {
    let digit = "⁰¹²³⁴⁵⁶⁷⁸⁹".chars().position(|d| d == c);
    digit.and_then(|d| char::from_digit(d as u32, 10)).or((c == '⁻').then_some('-'))
}

impl Reader<'_> {
    fn peek(&self) -> Option<char> {
        self.text[self.at..].chars().next()
    }

    fn skip_space(&mut self) {
        while let Some(c) = self.peek().filter(|c| c.is_whitespace()) {
            self.at += c.len_utf8();
        }
    }

    fn take(&mut self, c: char) -> bool {
        let found = self.peek() == Some(c);
        if found {
            self.at += c.len_utf8();
            self.skip_space();
        }
        found
    }

    fn take_while(&mut self, wanted: impl Fn(char) -> bool) -> Range<usize> {
        let start = self.at;
        while let Some(c) = self.peek().filter(|c| wanted(*c)) {
            self.at += c.len_utf8();
        }
        start..self.at
    }

    fn error(&self, problem: Problem, span: Range<usize>) -> FormulaError {
        FormulaError { problem, span }
    }

    fn error_here(&self, problem: Problem) -> FormulaError {
        let width = self.peek().map_or(0, char::len_utf8);
        self.error(problem, self.at..self.at + width)
    }

    fn operator(&self) -> Option<(Operator, usize)> {
        let c = self.peek()?;
        let operator = match c {
            '+' => Operator::Add,
            c if is_minus(c) => Operator::Subtract,
            '*' if self.text[self.at..].starts_with("**") => return Some((Operator::Power, 2)),
            '*' | '·' | '×' | '⋅' => Operator::Multiply,
            '/' | '÷' => Operator::Divide,
            '^' => Operator::Power,
            _ => return None,
        };
        Some((operator, c.len_utf8()))
    }

    /// A chain of operators that bind tighter than `floor`.
    fn sum(&mut self, floor: u8) -> Result<Expr, FormulaError> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err(self.error_here(Problem::TooLong));
        }
        let mut left = self.signed()?;
        while let Some((operator, width)) = self.operator().filter(|(o, _)| o.strength() > floor) {
            self.at += width;
            self.skip_space();
            // Powers group to the right: a^b^c is a^(b^c).
            let floor = operator.strength() - u8::from(operator == Operator::Power);
            let right = self.sum(floor)?;
            let span = left.span.start..right.span.end;
            left = Expr { node: Node::Binary(operator, Box::new(left), Box::new(right)), span };
        }
        self.depth -= 1;
        Ok(left)
    }

    fn signed(&mut self) -> Result<Expr, FormulaError> {
        let start = self.at;
        if let Some(minus) = self.peek().filter(|c| is_minus(*c)) {
            self.take(minus);
            let inner = self.sum(3)?;
            let span = start..inner.span.end;
            return Ok(Expr { node: Node::Negative(Box::new(inner)), span });
        }
        let base = self.atom()?;
        let raised = self.take_while(|c| lowered(c).is_some());
        if raised.is_empty() {
            return Ok(base);
        }
        let digits: String = self.text[raised.clone()].chars().filter_map(lowered).collect();
        let number = Decimal::parse(&digits)
            .map_err(|_| self.error(Problem::BadNumber(self.text[raised.clone()].to_owned()), raised.clone()))?;
        self.skip_space();
        let power = Expr { node: Node::Number(number, Unit::one()), span: raised.clone() };
        let span = base.span.start..raised.end;
        Ok(Expr { node: Node::Binary(Operator::Power, Box::new(base), Box::new(power)), span })
    }

    fn atom(&mut self) -> Result<Expr, FormulaError> {
        let start = self.at;
        let node = match self.peek() {
            Some('(') => {
                self.take('(');
                let around = std::mem::replace(&mut self.commas, Commas::Decimal);
                let inner = self.sum(0)?;
                self.commas = around;
                self.closing_bracket()?;
                let span = start..self.at;
                self.skip_space();
                return Ok(Expr { span, ..inner });
            }
            Some(c) if c.is_ascii_digit() || c == '.' => self.number()?,
            Some(c) if c.is_alphabetic() => self.name()?,
            Some('[') => self.constant()?,
            Some('√') => {
                self.take('√');
                Node::Call(Function::Of(Elementary::Sqrt), vec![self.atom()?])
            }
            Some(c) if self.operator().is_some() || matches!(c, ')' | ']') => {
                return Err(self.error_here(Problem::Missing(MissingPart::Value)));
            }
            Some(c) => return Err(self.error_here(Problem::Strange(c))),
            None => return Err(self.error_here(Problem::Missing(MissingPart::Value))),
        };
        let span = start..self.at;
        self.skip_space();
        Ok(Expr { node, span })
    }

    fn closing_bracket(&mut self) -> Result<(), FormulaError> {
        match self.peek() {
            Some(')') => {
                self.at += 1;
                Ok(())
            }
            Some(c) if c.is_alphanumeric() || matches!(c, '(' | '[') => Err(self.error_here(Problem::NoOperator)),
            _ => Err(self.error_here(Problem::Missing(MissingPart::ClosingBracket))),
        }
    }

    fn number(&mut self) -> Result<Node, FormulaError> {
        let start = self.at;
        self.take_while(|c| c.is_ascii_digit() || c == '.');
        // A comma directly between digits is a decimal comma, except between the arguments of a function that takes several.
        let rest = &self.text[self.at..];
        if rest.strip_prefix(',').is_some_and(|r| r.starts_with(|c: char| c.is_ascii_digit())) {
            match self.commas {
                Commas::Decimal => {
                    self.at += 1;
                    self.take_while(|c| c.is_ascii_digit());
                }
                Commas::Part => {}
                Commas::Open => {
                    let begun = self.at;
                    self.at += 1;
                    self.take_while(|c| c.is_ascii_digit());
                    let pair = self.text[start..self.at].to_owned();
                    return Err(self.error(Problem::CommaOpen(pair), begun..begun + 1));
                }
            }
        }
        let rest = &self.text[self.at..];
        if let Some(power) = rest.strip_prefix(['e', 'E']) {
            let sign = usize::from(power.starts_with(['-', '+']));
            if power[sign..].starts_with(|c: char| c.is_ascii_digit()) {
                self.at += 1 + sign;
                self.take_while(|c| c.is_ascii_digit());
            }
        }
        let span = start..self.at;
        let number = Decimal::parse(&self.text[span.clone()])
            .map_err(|_| self.error(Problem::BadNumber(self.text[span.clone()].to_owned()), span.clone()))?;
        let before_space = self.at;
        self.skip_space();
        for (sign, unit) in [('°', "deg"), ('%', "%")] {
            if self.peek() == Some(sign) {
                let unit = Unit::parse(unit).map_err(|e| self.error(Problem::BadUnit(e), self.at..self.at))?;
                self.at += sign.len_utf8();
                return Ok(Node::Number(number, unit));
            }
        }
        if self.peek() != Some('[') {
            self.at = before_space;
            return Ok(Node::Number(number, Unit::one()));
        }
        let inside = self.at + 1;
        let Some(length) = self.text[inside..].find(']') else {
            return Err(self.error(Problem::Missing(MissingPart::ClosingSquareBracket), self.at..self.text.len()));
        };
        let unit = Unit::parse(&self.text[inside..inside + length])
            .map_err(|e| self.error(Problem::BadUnit(e), inside..inside + length))?;
        self.at = inside + length + 1;
        Ok(Node::Number(number, unit))
    }

    /// What commas between digits are in the bracket that was just opened: with semicolons there, decimal commas; alike all of them, partings;
    /// beside commas with a space, nobody can tell.
    fn commas_ahead(&self) -> Commas {
        let (mut deep, mut tight, mut loose) = (0, false, false);
        let rest = &self.text.as_bytes()[self.at..];
        for (i, c) in rest.iter().enumerate() {
            match c {
                b'(' | b'[' => deep += 1,
                b')' | b']' if deep == 0 => break,
                b')' | b']' => deep -= 1,
                b';' if deep == 0 => return Commas::Decimal,
                b',' if deep == 0 => {
                    let digit = |at: Option<&u8>| at.is_some_and(u8::is_ascii_digit);
                    let between = i > 0 && digit(rest.get(i - 1)) && digit(rest.get(i + 1));
                    (tight, loose) = (tight || between, loose || !between);
                }
                _ => {}
            }
        }
        if tight && loose { Commas::Open } else { Commas::Part }
    }

    /// A bracket that follows no number names a physical constant.
    fn constant(&mut self) -> Result<Node, FormulaError> {
        let inside = self.at + 1;
        let Some(length) = self.text[inside..].find(']') else {
            return Err(self.error(Problem::Missing(MissingPart::ClosingSquareBracket), self.at..self.text.len()));
        };
        let name = self.text[inside..inside + length].trim();
        let found = PhysicalConstant::named(name)
            .ok_or_else(|| self.error(Problem::UnknownConstant(name.to_owned()), inside..inside + length))?;
        self.at = inside + length + 1;
        Ok(Node::Constant(found))
    }

    fn name(&mut self) -> Result<Node, FormulaError> {
        let span = self.take_while(|c| (c.is_alphanumeric() || c == '_' || c == '\'') && lowered(c).is_none());
        let name = &self.text[span.clone()];
        if matches!(name, "pi" | "π") {
            return Ok(Node::Pi);
        }
        if name == "row" {
            return Ok(Node::Row);
        }
        let end = self.at;
        self.skip_space();
        let opens = self.peek() == Some('(');
        match Function::named(name) {
            Some(function) if opens => {
                self.take('(');
                let (least, most) = function.arity();
                let commas = if most > 1 { self.commas_ahead() } else { Commas::Decimal };
                let around = std::mem::replace(&mut self.commas, commas);
                let mut arguments = vec![self.sum(0)?];
                while self.take(',') || self.take(';') {
                    arguments.push(self.sum(0)?);
                }
                self.commas = around;
                self.closing_bracket()?;
                if !(least..=most).contains(&arguments.len()) {
                    let problem = Problem::WrongCount { function: function.name(), wanted: least };
                    return Err(self.error(problem, span.start..self.at));
                }
                Ok(Node::Call(function, arguments))
            }
            Some(_) => Err(self.error(Problem::BareFunction(name.to_owned()), span)),
            None if opens && matches!(name, "log" | "Log") => Err(self.error(Problem::WhichLog, span)),
            None if opens => Err(self.error(Problem::UnknownFunction(name.to_owned()), span)),
            None => {
                self.at = end;
                Ok(Node::Symbol(name.to_owned()))
            }
        }
    }
}
