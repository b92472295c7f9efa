//! A formula made ready for many points: values and derivatives by the parameters, a block of points at a time.
//!
//! Forward-mode automatic differentiation (A. Griewank, A. Walther, *Evaluating Derivatives*, 2nd edition, chapter 3).
//! Which parameters a part depends on is known beforehand, so nothing is computed that is zero.

use super::ast::{Expr, Node, Operator};
use super::function::{Elementary, Function, Gather};
use super::units::fixed_exponent;
use super::{Formula, FormulaError, Problem};

/// Points worked on at a time; fits the fastest cache.
const BLOCK: usize = 128;
/// Most parameters of a tape.
pub const MOST_PARAMETERS: usize = 12;

#[derive(Clone, Copy, Debug)]
enum Op {
    Number(f64),
    Data(usize),
    Parameter(usize),
    /// Of what lies on top.
    One(One),
    /// Of the two that lie on top.
    Two(Two),
}

#[derive(Clone, Copy, Debug)]
enum One {
    Negative,
    /// To a power that is the same for all points.
    Raise(f64),
    Call(Elementary),
}

#[derive(Clone, Copy, Debug)]
enum Two {
    Join(Operator),
    Smaller,
    Larger,
}

/// A formula over data columns and parameters, in numbers without units.
#[derive(Clone, Debug)]
pub struct Tape {
    ops: Vec<Op>,
    /// Bit p of entry i: whether the result of step i depends on parameter p.
    depends: Vec<u32>,
    depth: usize,
    parameters: usize,
}

impl Tape {
    /// Makes a formula ready. Symbols are looked for among `data`, then among `parameters`.
    ///
    /// # Errors
    /// [`FormulaError`] for a symbol that is neither, and for functions that look at a whole column.
    pub fn new(formula: &Formula, data: &[&str], parameters: &[&str]) -> Result<Self, FormulaError> {
        if parameters.len() > MOST_PARAMETERS {
            return Err(FormulaError { problem: Problem::TooLong, span: formula.tree().span.clone() });
        }
        let mut maker = Maker { data, parameters, ops: Vec::new(), depends: Vec::new(), stack: Vec::new(), depth: 0 };
        maker.part(formula.tree())?;
        Ok(Self { ops: maker.ops, depends: maker.depends, depth: maker.depth, parameters: parameters.len() })
    }

    /// Number of parameters.
    pub fn parameters(&self) -> usize {
        self.parameters
    }

    /// Values for all points: `values[i]` from `data[k][i]` and the parameters. With `slopes`, column p of the
    /// derivatives goes to `slopes[p·n..(p+1)·n]`.
    pub fn evaluate(&self, data: &[&[f64]], parameters: &[f64], values: &mut [f64], mut slopes: Option<&mut [f64]>) {
        let n = values.len();
        let wide = if slopes.is_some() { 1 + self.parameters } else { 1 };
        let mut room = vec![0.0; self.depth * wide * BLOCK];
        let mut from = 0;
        while from < n {
            let count = BLOCK.min(n - from);
            self.block(data, parameters, from, count, wide, &mut room);
            values[from..from + count].copy_from_slice(&room[..count]);
            if let Some(slopes) = slopes.as_deref_mut() {
                let last = self.depends.last().copied().unwrap_or(0);
                for p in 0..self.parameters {
                    let to = &mut slopes[p * n + from..p * n + from + count];
                    if last >> p & 1 == 1 {
                        to.copy_from_slice(&room[(1 + p) * BLOCK..(1 + p) * BLOCK + count]);
                    } else {
                        to.fill(0.0);
                    }
                }
            }
            from += count;
        }
    }

    /// The value at one point.
    pub fn value(&self, data: &[f64], parameters: &[f64]) -> f64 {
        let columns: Vec<&[f64]> = data.iter().map(std::slice::from_ref).collect();
        let mut value = [0.0];
        self.evaluate(&columns, parameters, &mut value, None);
        value[0]
    }

    /// The derivatives by the parameters at one point.
    pub fn gradient(&self, data: &[f64], parameters: &[f64]) -> Vec<f64> {
        let columns: Vec<&[f64]> = data.iter().map(std::slice::from_ref).collect();
        let (mut value, mut slopes) = ([0.0], vec![0.0; self.parameters]);
        self.evaluate(&columns, parameters, &mut value, Some(&mut slopes));
        slopes
    }

    /// Works on one block; the results stand at the bottom of `room`.
    fn block(&self, data: &[&[f64]], parameters: &[f64], from: usize, count: usize, wide: usize, room: &mut [f64]) {
        let size = wide * BLOCK;
        // Dependence of what lies on the stack, bottom to top.
        let mut depends = [0u32; 64];
        let mut top = 0;
        for (op, mask) in self.ops.iter().zip(&self.depends) {
            let mask = if wide > 1 { *mask } else { 0 };
            match op {
                Op::Number(v) => {
                    room[top * size..top * size + count].fill(*v);
                    top += 1;
                }
                Op::Data(k) => {
                    room[top * size..top * size + count].copy_from_slice(&data[*k][from..from + count]);
                    top += 1;
                }
                Op::Parameter(p) => {
                    room[top * size..top * size + count].fill(parameters[*p]);
                    if wide > 1 {
                        let at = top * size + (1 + p) * BLOCK;
                        room[at..at + count].fill(1.0);
                    }
                    top += 1;
                }
                Op::One(op) => {
                    unary(*op, &mut room[(top - 1) * size..top * size], mask, count);
                }
                Op::Two(op) => {
                    let (below, above) = room.split_at_mut((top - 1) * size);
                    let (a, b) = (&mut below[(top - 2) * size..], &mut above[..size]);
                    let masks = if wide > 1 { (depends[top - 2], depends[top - 1]) } else { (0, 0) };
                    join(*op, a, b, masks, count);
                    top -= 1;
                }
            }
            depends[top - 1] = mask;
        }
    }
}

fn bits(mask: u32) -> impl Iterator<Item = usize> {
    (0..MOST_PARAMETERS).filter(move |p| mask >> p & 1 == 1)
}

/// The derivatives by the parameters of `mask`, each as long as `count`.
fn slopes_of(slopes: &mut [f64], mask: u32, count: usize) -> impl Iterator<Item = &mut [f64]> {
    let blocks = slopes.chunks_mut(BLOCK).enumerate();
    blocks.filter(move |(p, _)| mask >> p & 1 == 1).map(move |(_, block)| &mut block[..count])
}

/// f(a) in place, with its derivatives. The frequent functions have loops of their own, which the processor can run on
/// several points at once.
fn unary(op: One, a: &mut [f64], mask: u32, count: usize) {
    let (values, slopes) = a.split_at_mut(BLOCK);
    let values = &mut values[..count];
    match op {
        One::Negative => {
            values.iter_mut().for_each(|v| *v = -*v);
            slopes_of(slopes, mask, count).for_each(|s| s.iter_mut().for_each(|d| *d = -*d));
        }
        One::Raise(2.0) => {
            slopes_of(slopes, mask, count).for_each(|s| s.iter_mut().zip(&*values).for_each(|(d, v)| *d *= 2.0 * v));
            values.iter_mut().for_each(|v| *v *= *v);
        }
        One::Call(Elementary::Exp) => {
            values.iter_mut().for_each(|v| *v = v.exp());
            slopes_of(slopes, mask, count).for_each(|s| s.iter_mut().zip(&*values).for_each(|(d, v)| *d *= v));
        }
        One::Raise(_) | One::Call(_) => {
            let mut factor = [0.0; BLOCK];
            for (v, f) in values.iter_mut().zip(&mut factor) {
                (*v, *f) = rare(op, *v);
            }
            slopes_of(slopes, mask, count).for_each(|s| s.iter_mut().zip(&factor).for_each(|(d, f)| *d *= f));
        }
    }
}

/// Value and derivative of the less frequent functions.
fn rare(op: One, x: f64) -> (f64, f64) {
    match op {
        One::Raise(p) => (x.powf(p), if p == 0.0 { 0.0 } else { p * x.powf(p - 1.0) }),
        One::Negative => (-x, -1.0),
        One::Call(function) => match function {
            Elementary::Exp => (x.exp(), x.exp()),
            Elementary::Sqrt => (x.sqrt(), 0.5 / x.sqrt()),
            Elementary::Abs => (x.abs(), x.signum()),
            Elementary::Ln => (x.ln(), 1.0 / x),
            Elementary::Log10 => (x.log10(), 1.0 / (x * std::f64::consts::LN_10)),
            Elementary::Sin => x.sin_cos(),
            Elementary::Cos => {
                let (sin, cos) = x.sin_cos();
                (cos, -sin)
            }
            Elementary::Tan => {
                let tan = x.tan();
                (tan, 1.0 + tan * tan)
            }
            Elementary::Asin => (x.asin(), 1.0 / (1.0 - x * x).sqrt()),
            Elementary::Acos => (x.acos(), -1.0 / (1.0 - x * x).sqrt()),
            Elementary::Atan => (x.atan(), 1.0 / (1.0 + x * x)),
        },
    }
}

/// a ∘ b in the place of a, with its derivatives.
fn join(op: Two, a: &mut [f64], b: &[f64], (mask_a, mask_b): (u32, u32), count: usize) {
    let (mut by_a, mut by_b) = ([1.0; BLOCK], [1.0; BLOCK]);
    let (x, y) = (&mut a[..count], &b[..count]);
    match op {
        Two::Join(Operator::Add) => x.iter_mut().zip(y).for_each(|(x, y)| *x += y),
        Two::Join(Operator::Subtract) => {
            x.iter_mut().zip(y).for_each(|(x, y)| *x -= y);
            by_b = [-1.0; BLOCK];
        }
        Two::Join(Operator::Multiply) => {
            by_a[..count].copy_from_slice(y);
            by_b[..count].copy_from_slice(x);
            x.iter_mut().zip(y).for_each(|(x, y)| *x *= y);
        }
        Two::Join(Operator::Divide) => {
            for i in 0..count {
                by_a[i] = 1.0 / y[i];
                x[i] /= y[i];
                by_b[i] = -x[i] * by_a[i];
            }
        }
        Two::Join(Operator::Power) => {
            for i in 0..count {
                let (base, power) = (x[i], y[i]);
                x[i] = base.powf(power);
                if mask_a != 0 {
                    by_a[i] = power * base.powf(power - 1.0);
                }
                by_b[i] = if mask_b == 0 || base == 0.0 { 0.0 } else { x[i] * base.ln() };
            }
        }
        Two::Smaller | Two::Larger => {
            let smaller = matches!(op, Two::Smaller);
            for i in 0..count {
                let first = if smaller { x[i] <= y[i] } else { x[i] >= y[i] };
                (by_a[i], by_b[i]) = if first { (1.0, 0.0) } else { (0.0, 1.0) };
                x[i] = if first { x[i] } else { y[i] };
            }
        }
    }
    for p in bits(mask_a | mask_b) {
        let at = (1 + p) * BLOCK;
        let (to, other) = (&mut a[at..at + count], &b[at..at + count]);
        let (by_a, by_b) = (&by_a[..count], &by_b[..count]);
        match (mask_a >> p & 1 == 1, mask_b >> p & 1 == 1) {
            (true, true) => {
                for i in 0..count {
                    to[i] = to[i] * by_a[i] + other[i] * by_b[i];
                }
            }
            (true, false) => to.iter_mut().zip(by_a).for_each(|(d, f)| *d *= f),
            _ => {
                for i in 0..count {
                    to[i] = other[i] * by_b[i];
                }
            }
        }
    }
}

struct Maker<'a> {
    data: &'a [&'a str],
    parameters: &'a [&'a str],
    ops: Vec<Op>,
    depends: Vec<u32>,
    stack: Vec<u32>,
    depth: usize,
}

impl Maker<'_> {
    fn push(&mut self, op: Op, takes: usize, own: u32) {
        let mut mask = own;
        for _ in 0..takes {
            mask |= self.stack.pop().unwrap_or(0);
        }
        // All derivatives of a parameter's own step are written as a whole block, so a mask says enough.
        self.ops.push(op);
        self.depends.push(mask);
        self.stack.push(mask);
        self.depth = self.depth.max(self.stack.len());
    }

    fn part(&mut self, e: &Expr) -> Result<(), FormulaError> {
        let fail = |problem| FormulaError { problem, span: e.span.clone() };
        // The blocks on the stack are counted in a fixed array.
        if self.stack.len() > 60 {
            return Err(fail(Problem::TooLong));
        }
        match &e.node {
            Node::Number(n, unit) => self.push(Op::Number(n.value() * unit.size()), 0, 0),
            Node::Pi => self.push(Op::Number(std::f64::consts::PI), 0, 0),
            Node::Constant(c) => self.push(Op::Number(c.value), 0, 0),
            Node::Row => return Err(fail(Problem::NeedsColumn("row"))),
            Node::Symbol(s) => {
                if let Some(k) = self.data.iter().position(|d| d == s) {
                    self.push(Op::Data(k), 0, 0);
                } else if let Some(p) = self.parameters.iter().position(|d| d == s) {
                    self.push(Op::Parameter(p), 0, 1 << p);
                } else {
                    return Err(fail(Problem::UnknownSymbol(s.clone())));
                }
            }
            Node::Negative(a) => {
                self.part(a)?;
                self.push(Op::One(One::Negative), 1, 0);
            }
            Node::Binary(operator, a, b) => {
                self.part(a)?;
                if let (Operator::Power, Some(r)) = (operator, fixed_exponent(b)) {
                    let power = f64::from(*r.numer()) / f64::from(*r.denom());
                    self.push(Op::One(One::Raise(power)), 1, 0);
                } else {
                    self.part(b)?;
                    self.push(Op::Two(Two::Join(*operator)), 2, 0);
                }
            }
            Node::Call(f, all) | Node::Across(f, all) => match (f, all.as_slice()) {
                (Function::Gather(pick @ (Gather::Min | Gather::Max)), [first, rest @ ..]) if !rest.is_empty() => {
                    let op = if *pick == Gather::Min { Two::Smaller } else { Two::Larger };
                    self.part(first)?;
                    for a in rest {
                        self.part(a)?;
                        self.push(Op::Two(op), 2, 0);
                    }
                }
                (Function::Of(f), [a]) => {
                    self.part(a)?;
                    self.push(Op::One(One::Call(*f)), 1, 0);
                }
                _ => return Err(fail(Problem::NeedsColumn(f.name()))),
            },
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn slopes_agree_with_finite_differences_for_every_point_of_every_block(
            a in 0.3f64..2.0, b in 0.3f64..2.0, n in 1usize..300,
            formula in prop::sample::select(vec![
                "a*exp(-b*x) + 1", "a*x^b", "a*sin(b*x + a)/(1 + b^2)", "sqrt(a + b*x) - atan(x/a)", "a^b^x",
                "max(a*x, b)*ln(1 + a*x)", "(a - x)*(b - x)/(a*b + x)", "min(a, x, b) + log10(a)*tan(x/9)", "2^a - acos(x/9)*b",
            ]),
        ) {
            let formula = Formula::parse(formula).unwrap();
            let tape = Tape::new(&formula, &["x"], &["a", "b"]).unwrap();
            let xs: Vec<f64> = (0..n).map(|i| 0.1 + 2.0 * i as f64 / n as f64).collect();
            let (mut values, mut slopes) = (vec![0.0; n], vec![0.0; 2 * n]);
            tape.evaluate(&[&xs], &[a, b], &mut values, Some(&mut slopes));
            let at = |i: usize, a: f64, b: f64| tape.value(&[xs[i]], &[a, b]);
            let h = 1e-6;
            for i in (0..n).step_by(41).chain([n - 1]) {
                prop_assert_eq!(values[i], at(i, a, b));
                // Where the smaller of two changes over, there is no slope.
                prop_assume!([a - xs[i], b - xs[i], a - b, a * xs[i] - b].iter().all(|d| d.abs() > 1e-4));
                for (p, numeric) in [(0, (at(i, a + h, b) - at(i, a - h, b)) / (2.0 * h)), (1, (at(i, a, b + h) - at(i, a, b - h)) / (2.0 * h))] {
                    prop_assert!((slopes[p * n + i] - numeric).abs() <= 1e-6 * (1.0 + numeric.abs()), "{} {}", slopes[p * n + i], numeric);
                }
            }
        }
    }
}
