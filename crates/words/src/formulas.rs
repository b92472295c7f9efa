//! What is wrong with a formula or a law.

use zeitmass_core::formula::{CONSTANTS, FormulaError, MissingPart, Outside, Problem};
use zeitmass_core::quantity::Unit;

use crate::Words;

impl Words for FormulaError {
    fn words(&self) -> String {
        self.problem.words()
    }
}

impl Words for Problem {
    fn words(&self) -> String {
        match self {
            Self::Empty => "The formula is empty.".to_owned(),
            Self::TooLong => "The formula is longer than can be read here.".to_owned(),
            Self::Strange(c) => format!("“{c}” cannot stand in a formula."),
            Self::Missing(what) => format!("{} is missing here.", missing(*what)),
            Self::CommaOpen(digits) => format!("{digits} can be one number or two here: write a point for a decimal comma, or a space after a comma that separates two."),
            Self::WhichLog => "log can mean two things: write ln(…) for the natural logarithm, log10(…) for the decimal one.".to_owned(),
            Self::NoOperator => "An operator is missing here: write * to multiply.".to_owned(),
            Self::BareFunction(name) => format!("{name} is a function: write {name}(…)."),
            Self::UnknownFunction(name) => format!("“{name}” is not a function known here."),
            Self::BadNumber(text) => format!("“{text}” is not a number."),
            Self::UnknownConstant(name) => {
                let known = CONSTANTS.iter().map(|c| format!("[{}]", c.symbol)).collect::<Vec<_>>().join(" ");
                format!("“{name}” is not a constant known here. Known are: {known}. Put a unit in square brackets after its number.")
            }
            Self::WrongCount { function, wanted } => format!("{function} takes {}.", if *wanted == 1 { "one argument".to_owned() } else { format!("{wanted} arguments, separated by a comma") }),
            Self::Window => "How many rows the parabola is laid through is an odd number from 3 to 51.".to_owned(),
            Self::FewRows(rows) => format!("This looks at {rows} rows, and fewer have values."),
            Self::NeedsColumn(name) => format!("{name} looks at a whole column, which there is not here."),
            Self::Nothing => "There is no value yet.".to_owned(),
            Self::UnitOpen(name) => format!("The unit of {name} does not follow from the formula."),
            Self::NoRoot(name) => format!("No value of {name} makes both sides equal."),
            Self::SeveralRoots { symbol, values } => format!("More than one value of {symbol} makes both sides equal: {values}. State the law so that one is left."),
            Self::BadUnit(why) => why.words(),
            Self::UnknownSymbol(name) => format!("There is no column or held quantity with the symbol {name}."),
            Self::Circular(name) => format!("{name} depends on itself through this symbol."),
            Self::Broken(name) => format!("The column {name} has a mistake in its own formula."),
            Self::UnitClash { left, right } => {
                format!("{} and {} cannot be added, subtracted or compared.", or_pure(left), or_pure(right))
            }
            Self::PartsClash { by } => {
                format!("Two parts that differ by the unit {} cannot be added, subtracted or compared.", by.pretty())
            }
            Self::Celsius => "Temperatures in °C count from the freezing point of water, so you can calculate with their differences only. For kelvins write T - (-273.15 [°C]).".to_owned(),
            Self::NeedsPureNumber { function, unit } => {
                format!("{} needs a pure number or an angle, not {}.", function.unwrap_or("An exponent"), unit.pretty())
            }
            Self::VariableExponent => "The exponent of a quantity with a unit must be a fixed number such as 2 or (1/2).".to_owned(),
            Self::UnitTooLarge => "The unit of this part has exponents too large to handle.".to_owned(),
            Self::DivisionByZero => "Division by zero.".to_owned(),
            Self::Domain(place) => format!("{} has no value here.", outside(*place)),
            Self::Overflow => "The value is too large.".to_owned(),
            Self::EmptyCell(name) => format!("The cell of {name} is empty."),
            Self::NothingUnknown => "Every symbol here has a value already; name the one to be found.".to_owned(),
            Self::SeveralUnknown(symbols) => format!("More than one symbol has no value: {symbols}. Only one can be found from one slope."),
        }
    }
}

fn or_pure(unit: &Unit) -> String {
    if unit.is_one() { "a pure number".to_owned() } else { unit.pretty() }
}

fn missing(what: MissingPart) -> &'static str {
    match what {
        MissingPart::Value => "A value",
        MissingPart::OpeningBracket => "An opening bracket for this one",
        MissingPart::ClosingBracket => "A closing bracket",
        MissingPart::ClosingSquareBracket => "A closing square bracket",
    }
}

fn outside(place: Outside) -> &'static str {
    match place {
        Outside::AngleOfZeros => "The angle of a pair of zeros",
        Outside::RootOfNegative => "The square root of a negative number",
        Outside::PowerOfNegative => "A root or power of a negative number",
        Outside::VariablePower => "A variable power of a negative number",
        Outside::Logarithm => "The logarithm of zero or a negative number",
        Outside::Asin => "asin of a number beyond 1",
        Outside::Acos => "acos of a number beyond 1",
    }
}
