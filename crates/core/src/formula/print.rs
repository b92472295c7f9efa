//! Writes a formula with as few brackets as its meaning needs.

use std::fmt;

use super::ast::{Expr, Node, Operator};

impl Expr {
    fn strength(&self) -> u8 {
        match &self.node {
            Node::Binary(o, ..) => o.strength(),
            Node::Negative(_) => 3,
            Node::Number(..)
            | Node::Pi
            | Node::Constant(_)
            | Node::Row
            | Node::Symbol(_)
            | Node::Call(..)
            | Node::Across(..) => 9,
        }
    }
}

impl fmt::Display for Expr {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let part = |f: &mut fmt::Formatter<'_>, e: &Self, needs: u8| {
            if e.strength() < needs { write!(f, "({e})") } else { write!(f, "{e}") }
        };
        match &self.node {
            Node::Number(n, unit) if unit.is_one() => f.write_str(n.as_str()),
            Node::Number(n, unit) => write!(f, "{} [{unit}]", n.as_str()),
            Node::Pi => f.write_str("pi"),
            Node::Constant(c) => write!(f, "[{}]", c.symbol),
            Node::Row => f.write_str("row"),
            Node::Symbol(s) => f.write_str(s),
            Node::Negative(a) => {
                f.write_str("-")?;
                part(f, a, 4)
            }
            Node::Call(function, all) | Node::Across(function, all) => {
                write!(f, "{}(", function.name())?;
                for (i, a) in all.iter().enumerate() {
                    write!(f, "{}{a}", if i == 0 { "" } else { ", " })?;
                }
                f.write_str(")")
            }
            Node::Binary(o, a, b) => {
                let s = o.strength();
                let (left, right) = if *o == Operator::Power { (s + 1, s) } else { (s, s + 1) };
                part(f, a, left)?;
                match o {
                    Operator::Add | Operator::Subtract => write!(f, " {} ", o.sign())?,
                    Operator::Multiply | Operator::Divide | Operator::Power => write!(f, "{}", o.sign())?,
                }
                // A sign right after an operator is bracketed for the reader's sake, save after ^.
                part(f, b, right)
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::{CONSTANTS, Function, parse::parse};
    use super::*;
    use crate::quantity::{Decimal, Unit};
    use proptest::prelude::*;

    fn any_expr() -> impl Strategy<Value = Expr> {
        let bare = |node| Expr { node, span: 0..0 };
        let leaf = prop_oneof![
            (0u32..10_000, 0usize..4).prop_map(move |(n, p)| {
                let text = format!("{:.*}", p, f64::from(n) / 100.0);
                bare(Node::Number(Decimal::parse(&text).unwrap(), Unit::one()))
            }),
            Just(bare(Node::Number(Decimal::parse("9.81").unwrap(), Unit::parse("m/s^2").unwrap()))),
            Just(bare(Node::Pi)),
            Just(bare(Node::Row)),
            prop::sample::select(CONSTANTS.iter().collect::<Vec<_>>()).prop_map(move |c| bare(Node::Constant(c))),
            prop::sample::select(vec!["L", "t10", "T_2", "θ", "h'"])
                .prop_map(move |s| bare(Node::Symbol(s.to_owned()))),
        ];
        leaf.prop_recursive(5, 40, 2, move |inner| {
            let operator = prop::sample::select(vec![
                Operator::Add,
                Operator::Subtract,
                Operator::Multiply,
                Operator::Divide,
                Operator::Power,
            ]);
            prop_oneof![
                inner.clone().prop_map(move |e| bare(Node::Negative(Box::new(e)))),
                (prop::sample::select(Function::all().collect::<Vec<_>>()), prop::collection::vec(inner.clone(), 2))
                    .prop_map(move |(f, mut all)| {
                        all.truncate(if f.arity().1 > 1 { 2 } else { 1 });
                        bare(Node::Call(f, all))
                    }),
                (operator, inner.clone(), inner).prop_map(move |(o, a, b)| bare(Node::Binary(
                    o,
                    Box::new(a),
                    Box::new(b)
                ))),
            ]
        })
    }

    proptest! {
        #[test]
        fn a_formula_printed_and_read_again_is_the_same(e in any_expr()) {
            let text = e.to_string();
            prop_assume!(text.len() <= 400);
            prop_assert_eq!(parse(&text).map_err(|x| format!("{text}: {x:?}")), Ok(e));
        }

        #[test]
        fn no_text_makes_the_formula_reader_panic(text in "[a-z0-9()\\[\\]^*/+., πµ-]{0,60}|\\PC{0,30}") {
            if let Err(e) = parse(&text) {
                prop_assert!(text.is_char_boundary(e.span.start) && text.is_char_boundary(e.span.end));
            }
        }
    }
}
