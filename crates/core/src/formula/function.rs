//! The functions of formulas, by what they look at.

use strum::{IntoStaticStr, VariantArray};

/// A function.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Function {
    /// Of one number.
    Of(Elementary),
    /// Direction of a pair of components: angle from the first towards the second.
    Angle,
    /// Of several values: one argument means the whole column, several mean these parts of one row.
    Gather(Gather),
    /// Of a column and the rows around.
    Along(Along),
}

/// A function of one number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, VariantArray, IntoStaticStr)]
#[strum(serialize_all = "lowercase")]
pub enum Elementary {
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

/// What is made of several values.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, VariantArray, IntoStaticStr)]
#[strum(serialize_all = "lowercase")]
pub enum Gather {
    /// Smallest value.
    Min,
    /// Largest value.
    Max,
    /// Mean.
    Mean,
    /// Sum.
    Sum,
    /// Sample standard deviation.
    Spread,
    /// Number of values.
    Count,
}

/// What is made of a column from row to row.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, VariantArray, IntoStaticStr)]
#[strum(serialize_all = "lowercase")]
pub enum Along {
    /// Difference to the row before.
    Change,
    /// Sum of this row and all rows above.
    RunSum,
    /// Slope of one column against another, from the rows around.
    Rate,
    /// Slope of that slope.
    Rate2,
}

/// A function that looks at other rows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Whole {
    /// Of the whole column.
    Column(Gather),
    /// Of the rows around.
    Rows(Along),
}

impl Elementary {
    const ALL: &[Self] = Self::VARIANTS;

    /// The name as typed.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

impl Gather {
    const ALL: &[Self] = Self::VARIANTS;

    /// The name as typed.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

impl Along {
    const ALL: &[Self] = Self::VARIANTS;

    /// The name as typed.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

impl Whole {
    /// The name as typed.
    pub fn name(self) -> &'static str {
        match self {
            Self::Column(f) => f.name(),
            Self::Rows(f) => f.name(),
        }
    }
}

impl Function {
    /// All functions.
    pub fn all() -> impl Iterator<Item = Self> {
        let elementary = Elementary::ALL.iter().copied().map(Self::Of);
        let gathering = Gather::ALL.iter().copied().map(Self::Gather);
        elementary.chain([Self::Angle]).chain(gathering).chain(Along::ALL.iter().copied().map(Self::Along))
    }

    /// The name as typed.
    pub fn name(self) -> &'static str {
        match self {
            Self::Of(f) => f.name(),
            Self::Angle => "angle",
            Self::Gather(f) => f.name(),
            Self::Along(f) => f.name(),
        }
    }

    /// Whether it gathers: one argument means the whole column, several mean these parts of one row.
    pub fn gathers(self) -> bool {
        matches!(self, Self::Gather(_))
    }

    /// How it looks at other rows when it has this many arguments; `None` where it looks at its own row alone.
    pub fn whole(self, arguments: usize) -> Option<Whole> {
        match self {
            Self::Along(f) => Some(Whole::Rows(f)),
            Self::Gather(f) => (arguments == 1).then_some(Whole::Column(f)),
            Self::Of(_) | Self::Angle => None,
        }
    }

    /// Smallest and largest number of arguments.
    pub(super) fn arity(self) -> (usize, usize) {
        match self {
            Self::Along(Along::Rate | Along::Rate2) => (2, 3),
            Self::Angle => (2, 2),
            Self::Gather(_) => (1, 40),
            Self::Of(_) | Self::Along(Along::Change | Along::RunSum) => (1, 1),
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
        Self::all().find(|f| f.name() == name)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::formula::{Expr, FormulaError};
    use crate::formula::{Formula, Problem, Surroundings, evaluate_part};
    use crate::quantity::Uncertain;

    /// A row that stands alone, in which every symbol is 0.5.
    struct Alone;

    impl Surroundings for Alone {
        fn symbol(&self, _symbol: &str) -> Result<Uncertain, Problem> {
            Ok(Uncertain::exact(0.5))
        }
        fn row(&self) -> Result<f64, Problem> {
            Ok(1.0)
        }
        fn whole(&self, function: Whole, part: &Expr) -> Result<Uncertain, FormulaError> {
            Err(FormulaError { problem: Problem::NeedsColumn(function.name()), span: part.span.clone() })
        }
    }

    #[test]
    fn a_function_is_read_by_its_name_with_its_arguments_and_says_whether_it_needs_other_rows() {
        let mut names = std::collections::BTreeSet::new();
        for function in Function::all() {
            let name = function.name();
            assert!(names.insert(name), "{name} twice");
            assert_eq!(Function::named(name), Some(function));
            let call = |count: usize| format!("{name}({})", vec!["a"; count].join("; "));
            let (least, most) = function.arity();
            for count in [least, most] {
                let formula = Formula::parse(&call(count)).unwrap_or_else(|e| panic!("{name}, {count}: {e:?}"));
                let alone = evaluate_part(formula.tree(), &Alone);
                match function.whole(count) {
                    Some(whole) => {
                        assert_eq!(alone.unwrap_err().problem, Problem::NeedsColumn(whole.name()), "{name}, {count}");
                    }
                    None => assert!(alone.is_ok_and(|v| v.value.is_finite()), "{name}, {count}"),
                }
            }
            assert!(
                matches!(Formula::parse(&call(most + 1)).unwrap_err().problem, Problem::WrongCount { .. }),
                "{name}"
            );
        }
        assert_eq!(names.len(), 22);
    }
}
