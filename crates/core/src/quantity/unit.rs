//! Units of measurement: parsing, algebra, conversion, and the way they are written.
//!
//! A [`Unit`] is a product of named units with rational exponents, kept as the student wrote it
//! (`cm/s` stays `cm/s`), together with its [`Dimension`] and its size in coherent SI units.

use std::fmt;

use num_traits::{One, Signed, Zero};
use serde::{Deserialize, Serialize};
use winnow::ascii::{digit1, multispace0};
use winnow::combinator::{alt, delimited, opt, preceded};
use winnow::prelude::*;
use winnow::token::{one_of, take_while};

use super::dimension::{BASE_UNITS, Dimension, Exponent, within};

/// Longest unit text that is read.
const LONGEST: usize = 60;

/// Degrees Celsius: a temperature from the freezing point, not a difference.
const CELSIUS: &str = "°C";
/// Units of angle.
const ANGLES: [&str; 3] = ["rad", "deg", "rev"];
/// Other ways to write a unit, some of them several units.
static OTHER_NAMES: [(&str, &str); 39] = [
    ("°", "deg"),
    ("degree", "deg"),
    ("degrees", "deg"),
    ("degC", CELSIUS),
    ("℃", CELSIUS),
    ("l", "L"),
    ("litre", "L"),
    ("litres", "L"),
    ("Ohm", "Ω"),
    ("ohm", "Ω"),
    ("sec", "s"),
    ("secs", "s"),
    ("second", "s"),
    ("seconds", "s"),
    ("mins", "min"),
    ("minute", "min"),
    ("minutes", "min"),
    ("hr", "h"),
    ("hrs", "h"),
    ("hour", "h"),
    ("hours", "h"),
    ("day", "d"),
    ("days", "d"),
    ("year", "a"),
    ("years", "a"),
    ("yr", "a"),
    ("metre", "m"),
    ("metres", "m"),
    ("meter", "m"),
    ("meters", "m"),
    ("gram", "g"),
    ("grams", "g"),
    ("kilogram", "kg"),
    ("kilograms", "kg"),
    ("newton", "N"),
    ("newtons", "N"),
    ("joule", "J"),
    ("joules", "J"),
    ("rpm", "rev/min"),
];

/// A named unit as the table knows it.
struct Named {
    symbol: &'static str,
    dimension: Dimension,
    /// Size in coherent SI units.
    size: f64,
    /// Whether SI prefixes may stand before it.
    prefixes: bool,
}

const fn named(symbol: &'static str, exponents: [i32; 7], size: f64, prefixes: bool) -> Named {
    Named { symbol, dimension: Dimension::of(exponents), size, prefixes }
}

/// The units known by name. Sizes: SI Brochure, 9th edition (2019), tables 2, 4 and 8.
static NAMED: [Named; 34] = [
    named("m", [1, 0, 0, 0, 0, 0, 0], 1.0, true),
    named("g", [0, 1, 0, 0, 0, 0, 0], 1e-3, true),
    named("s", [0, 0, 1, 0, 0, 0, 0], 1.0, true),
    named("A", [0, 0, 0, 1, 0, 0, 0], 1.0, true),
    named("K", [0, 0, 0, 0, 1, 0, 0], 1.0, true),
    named("mol", [0, 0, 0, 0, 0, 1, 0], 1.0, true),
    named("cd", [0, 0, 0, 0, 0, 0, 1], 1.0, true),
    // Of temperatures that count from the freezing point of water only differences are reckoned with, and these are kelvins.
    named(CELSIUS, [0, 0, 0, 0, 1, 0, 0], 1.0, false),
    named("rad", [0; 7], 1.0, true),
    named("deg", [0; 7], std::f64::consts::PI / 180.0, false),
    named("rev", [0; 7], 2.0 * std::f64::consts::PI, false),
    named("%", [0; 7], 0.01, false),
    named("Hz", [0, 0, -1, 0, 0, 0, 0], 1.0, true),
    named("N", [1, 1, -2, 0, 0, 0, 0], 1.0, true),
    named("Pa", [-1, 1, -2, 0, 0, 0, 0], 1.0, true),
    named("J", [2, 1, -2, 0, 0, 0, 0], 1.0, true),
    named("W", [2, 1, -3, 0, 0, 0, 0], 1.0, true),
    named("C", [0, 0, 1, 1, 0, 0, 0], 1.0, true),
    named("V", [2, 1, -3, -1, 0, 0, 0], 1.0, true),
    named("F", [-2, -1, 4, 2, 0, 0, 0], 1.0, true),
    named("Ω", [2, 1, -3, -2, 0, 0, 0], 1.0, true),
    named("T", [0, 1, -2, -1, 0, 0, 0], 1.0, true),
    named("min", [0, 0, 1, 0, 0, 0, 0], 60.0, false),
    named("h", [0, 0, 1, 0, 0, 0, 0], 3600.0, false),
    named("d", [0, 0, 1, 0, 0, 0, 0], 86_400.0, false),
    // The Julian year (IAU style manual, 1989; UCUM).
    named("a", [0, 0, 1, 0, 0, 0, 0], 31_557_600.0, false),
    named("au", [1, 0, 0, 0, 0, 0, 0], 149_597_870_700.0, false),
    named("L", [3, 0, 0, 0, 0, 0, 0], 1e-3, true),
    named("t", [0, 1, 0, 0, 0, 0, 0], 1e3, false),
    named("bar", [-1, 1, -2, 0, 0, 0, 0], 1e5, true),
    named("Wh", [2, 1, -2, 0, 0, 0, 0], 3600.0, true),
    named("eV", [2, 1, -2, 0, 0, 0, 0], 1.602_176_634e-19, true),
    named("u", [0, 1, 0, 0, 0, 0, 0], 1.660_539_068_92e-27, false),
    named("ha", [2, 0, 0, 0, 0, 0, 0], 1e4, false),
];

const MICRO: f64 = 1e-6;

/// SI prefixes (SI Brochure, table 7), those a mechanics lab meets.
static PREFIXES: [(&str, f64); 15] = [
    ("da", 1e1),
    ("T", 1e12),
    ("G", 1e9),
    ("M", 1e6),
    ("k", 1e3),
    ("h", 1e2),
    ("d", 1e-1),
    ("c", 1e-2),
    ("m", 1e-3),
    ("µ", MICRO),
    ("μ", MICRO),
    ("u", MICRO),
    ("n", 1e-9),
    ("p", 1e-12),
    ("f", 1e-15),
];

#[derive(Clone, PartialEq, Debug)]
struct Factor {
    symbol: String,
    dimension: Dimension,
    size: f64,
    exponent: Exponent,
    /// A thing that is counted, named by the person.
    counted: bool,
}

impl Factor {
    fn is_angle(&self) -> bool {
        !self.counted && ANGLES.contains(&self.symbol.as_str())
    }
}

/// The unit of a thing that is counted.
fn counted(thing: &str) -> Factor {
    Factor {
        symbol: thing.to_owned(),
        dimension: Dimension::none(),
        size: 1.0,
        exponent: Exponent::one(),
        counted: true,
    }
}

/// A unit of measurement; the empty product is the unit 1 of a pure number.
#[derive(Clone, PartialEq, Debug, Default, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Unit {
    factors: Vec<Factor>,
}

/// Why a text is not a unit.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum UnitError {
    /// The text cannot be read as a product of units.
    Unreadable(String),
    /// One of its parts is not a known unit.
    Unknown(String),
    /// Exponents grew beyond what is handled.
    TooLarge,
}

impl Unit {
    /// The unit inside a sentence.
    pub fn in_words(&self) -> String {
        if self.is_one() { "pure numbers".to_owned() } else { self.pretty() }
    }

    /// The unit of a pure number.
    pub const ONE: Self = Self { factors: Vec::new() };

    /// The unit of a pure number.
    pub fn one() -> Self {
        Self::default()
    }

    /// The coherent SI unit of a dimension, written in base units (`kg m s^-2` as `kg m/s^2`).
    pub fn coherent(dimension: &Dimension) -> Self {
        let order = [1, 0, 2, 3, 4, 5, 6]; // kg before m, as in kg m/s²
        let factors = order
            .into_iter()
            .filter(|&i| !dimension.exponents()[i].is_zero())
            .filter_map(|i| Some(Factor { exponent: dimension.exponents()[i], ..look_up(BASE_UNITS[i])? }))
            .collect();
        Self { factors }
    }

    /// Reads a unit: `m/s^2`, `kg m/s²`, `N·m`, `J/(kg K)`, `m per s`, `°`, `1` or nothing at all. Things that are
    /// counted stand in quotes, `N/"washer"`; they are pure numbers with a name.
    ///
    /// A solidus divides by the one factor (or bracket) after it.
    ///
    /// # Errors
    /// [`UnitError`] with the part that was not understood.
    pub fn parse(text: &str) -> Result<Self, UnitError> {
        let trimmed = text.trim();
        if trimmed.is_empty() || trimmed == "1" {
            return Ok(Self::one());
        }
        if trimmed.chars().count() > LONGEST {
            return Err(UnitError::Unreadable(trimmed.chars().take(LONGEST).collect::<String>() + "…"));
        }
        let per = trimmed.replace(" per ", "/");
        let raw = product.parse(per.as_str()).map_err(|_| UnitError::Unreadable(trimmed.to_owned()))?;
        let mut factors = Vec::with_capacity(raw.len());
        for (symbol, exponent) in raw {
            if let Some(thing) = symbol.strip_prefix('"') {
                factors.push(Factor { exponent, ..counted(thing) });
            } else if let Some((_, other)) = OTHER_NAMES.iter().find(|(name, _)| *name == symbol) {
                let other = Self::parse(other)?.power(exponent).ok_or(UnitError::TooLarge)?;
                factors.extend(other.factors);
            } else {
                factors.push(Factor { exponent, ..look_up(&symbol).ok_or(UnitError::Unknown(symbol))? });
            }
        }
        // Only the whole is simplified, and only if it stays as large: what is typed in this unit is meant in it.
        let typed = Self { factors };
        let simple = Self::of(typed.factors.clone()).ok_or(UnitError::TooLarge)?;
        Ok(if (simple.size() / typed.size() - 1.0).abs() < 1e-12 { simple } else { typed })
    }

    /// The product of these factors, as simple as it can be written. `None` when exponents grow too large.
    ///
    /// * Factors of the same name are taken together; two names for one dimension (`cm·m`) fall back to coherent SI units.
    /// * What takes fewer base units is written in them: N m/J is 1, N s²/m is kg, N s/kg is m/s; N/kg and N/m stay.
    /// * An angle beside a length in the numerator is no unit: r·ω is in m/s (SI Brochure, 9th edition, 5.4.8).
    /// * A hertz beside other units is 1/s; a degree Celsius, a kelvin.
    fn of(all: Vec<Factor>) -> Option<Self> {
        let mut factors: Vec<Factor> = Vec::with_capacity(all.len());
        let several = all.len() > 1;
        for factor in all {
            let factor = match factor.symbol.as_str() {
                CELSIUS if several || !factor.exponent.is_one() => {
                    Factor { exponent: factor.exponent, ..look_up("K")? }
                }
                "Hz" if several => Factor { exponent: -factor.exponent, ..look_up("s")? },
                _ => factor,
            };
            if let Some(mine) = factors.iter_mut().find(|f| f.symbol == factor.symbol && f.counted == factor.counted) {
                mine.exponent = within(mine.exponent + factor.exponent)?;
            } else {
                factors.push(factor);
            }
        }
        factors.retain(|f| !f.exponent.is_zero());
        let sum = |sum: Dimension, f: &Factor| sum.times(&f.dimension.power(f.exponent)?);
        let dimension = factors.iter().try_fold(Dimension::none(), sum)?;
        let long = |f: &Factor| (f.dimension.exponents()[0] * f.exponent).is_positive();
        if factors.iter().any(long) {
            factors.retain(|f| !(f.is_angle() && f.exponent.is_positive()));
        }
        let with_dimension = || factors.iter().filter(|f| !f.dimension.is_none());
        let clash = with_dimension().any(|a| {
            with_dimension().any(|b| a.dimension == b.dimension && (a.symbol != b.symbol || a.counted != b.counted))
        });
        let base = Self::coherent(&dimension);
        if clash {
            return Some(base);
        }
        if with_dimension().count() > base.factors.len() {
            factors.retain(|f| f.dimension.is_none());
            factors.splice(0..0, base.factors);
        }
        Some(Self { factors })
    }

    /// The unit's dimension.
    pub fn dimension(&self) -> Dimension {
        self.factors.iter().fold(Dimension::none(), |sum, f| {
            // Exponents were checked when the unit was built, so neither step can fail.
            f.dimension.power(f.exponent).and_then(|d| sum.times(&d)).unwrap_or(sum)
        })
    }

    /// How many coherent SI units one of this unit is: 0.01 for cm, 0.2778 for km/h.
    pub fn size(&self) -> f64 {
        self.factors
            .iter()
            .map(|f| {
                let e = f.exponent;
                if e.is_integer() {
                    f.size.powi(*e.numer())
                } else {
                    f.size.powf(f64::from(*e.numer()) / f64::from(*e.denom()))
                }
            })
            .product()
    }

    /// Whether this is the unit 1, written as nothing.
    pub fn is_one(&self) -> bool {
        self.factors.is_empty()
    }

    /// The unit of a product, as simple as it can be written. `None` when exponents grow too large.
    pub fn times(&self, other: &Self) -> Option<Self> {
        Self::of(self.factors.iter().chain(&other.factors).cloned().collect())
    }

    /// The unit of a quotient. `None` when exponents grow too large.
    pub fn per(&self, other: &Self) -> Option<Self> {
        let below = other.factors.iter().map(|f| Factor { exponent: -f.exponent, ..f.clone() });
        Self::of(self.factors.iter().cloned().chain(below).collect())
    }

    /// The unit of a power. `None` when exponents grow too large.
    pub fn power(&self, exponent: Exponent) -> Option<Self> {
        if exponent.is_zero() {
            return Some(Self::one());
        }
        let raised = self.factors.iter().map(|f| {
            use num_traits::CheckedMul;
            let exponent = within(f.exponent.checked_mul(&exponent)?)?;
            Some(Factor { exponent, ..f.clone() })
        });
        Self::of(raised.collect::<Option<_>>()?)
    }

    /// Whether quantities in one of the units can be told in the other. Temperatures that count from the freezing point cannot be told
    /// in kelvins by a factor.
    pub fn same_dimension(&self, other: &Self) -> bool {
        self.dimension() == other.dimension() && self.is_celsius() == other.is_celsius()
    }

    /// Whether this is °C: a temperature from the freezing point of water, of which only differences can be reckoned with.
    pub fn is_celsius(&self) -> bool {
        matches!(self.factors.as_slice(), [f] if f.symbol == CELSIUS && f.exponent.is_one())
    }

    /// The unit of differences: K for °C.
    pub fn of_differences(&self) -> Self {
        if self.is_celsius() { Self::coherent(&self.dimension()) } else { self.clone() }
    }

    /// What is meant by this unit where `wanted` is: a turn counts as one where no angle is wanted (30 rev/min are 30 1/min), and a
    /// number of times as turns where turns are wanted.
    #[must_use]
    pub fn turning_as(mut self, wanted: &Self) -> Self {
        let turns = |u: &Self| u.factors.iter().any(|f| f.symbol == "rev");
        let angles = |u: &Self| u.factors.iter().any(Factor::is_angle);
        if turns(&self) && !angles(wanted) {
            for factor in self.factors.iter_mut().filter(|f| f.symbol == "rev") {
                *factor = Factor { exponent: factor.exponent, ..counted("rev") };
            }
        } else if turns(wanted) && !angles(&self) && self.same_dimension(wanted) {
            self.factors.extend(wanted.factors.iter().filter(|f| f.symbol == "rev").cloned());
        }
        self
    }

    /// The unit as people read it: `m/s²`, `kg m/s²`, `J/(kg K)`, `°`. Empty for a pure number.
    pub fn pretty(&self) -> String {
        self.written(
            " ",
            |f| if f.symbol == "deg" { "°".to_owned() } else { f.symbol.clone() },
            |e| {
                if e.is_one() {
                    String::new()
                } else if e.is_integer() {
                    superscript(*e.numer())
                } else {
                    format!("^({e})")
                }
            },
        )
    }

    fn written(&self, gap: &str, symbol: impl Fn(&Factor) -> String, exponent: impl Fn(Exponent) -> String) -> String {
        let part = |negative: bool| {
            let parts: Vec<String> = self
                .factors
                .iter()
                .filter(|f| f.exponent.is_negative() == negative)
                .map(|f| symbol(f) + &exponent(f.exponent.abs()))
                .collect();
            (parts.len(), parts.join(gap))
        };
        match (part(false), part(true)) {
            ((_, above), (0, _)) => above,
            ((0, _), (1, below)) => format!("1/{below}"),
            ((0, _), (_, below)) => format!("1/({below})"),
            ((_, above), (1, below)) => format!("{above}/{below}"),
            ((_, above), (_, below)) => format!("{above}/({below})"),
        }
    }
}

fn look_up(plain: &str) -> Option<Factor> {
    let factor = |n: &Named, scale: f64| Factor {
        symbol: plain.to_owned(),
        dimension: n.dimension,
        size: n.size * scale,
        exponent: Exponent::one(),
        counted: false,
    };
    if plain == "kg" {
        // Exactly one, not 1e3 * 1e-3.
        return NAMED.iter().find(|n| n.symbol == "g").map(|n| Factor { size: 1.0, ..factor(n, 1.0) });
    }
    NAMED.iter().find(|n| n.symbol == plain).map(|n| factor(n, 1.0)).or_else(|| {
        PREFIXES.iter().find_map(|(prefix, scale)| {
            let rest = plain.strip_prefix(prefix)?;
            let unit = NAMED.iter().find(|n| n.prefixes && n.symbol == rest)?;
            // However micro was typed, it is one sign.
            let symbol = if *scale == MICRO { format!("µ{rest}") } else { plain.to_owned() };
            Some(Factor { symbol, ..factor(unit, *scale) })
        })
    })
}

/// Quotes around the name of a thing that is counted.
const QUOTES: [char; 6] = ['"', '“', '”', '„', '«', '»'];

type Raw = Vec<(String, Exponent)>;

fn product(input: &mut &str) -> ModalResult<Raw> {
    let mut all = delimited(multispace0, factor, multispace0).parse_next(input)?;
    loop {
        let divides = match opt(alt(("/", "*", "·", "⋅"))).parse_next(input)? {
            Some("/") => true,
            None if input.is_empty() || input.starts_with(')') => return Ok(all),
            _ => false,
        };
        let next = delimited(multispace0, factor, multispace0).parse_next(input)?;
        all.extend(next.into_iter().map(|(s, e)| (s, if divides { -e } else { e })));
    }
}

fn factor(input: &mut &str) -> ModalResult<Raw> {
    let bracket = delimited('(', product, ')');
    let one = '1'.value(Vec::new());
    let name = take_while(1.., |c: char| c.is_alphabetic() || matches!(c, '°' | '℃' | '%' | 'µ' | 'Ω'))
        .map(|s: &str| vec![(s.to_owned(), Exponent::one())]);
    // Kept with its opening quote, which no name of a unit has.
    let letters = take_while(1..=24, |c: char| c.is_alphanumeric() || matches!(c, ' ' | '-'));
    let thing = delimited(one_of(QUOTES), letters.verify(|s: &str| !s.trim().is_empty()), one_of(QUOTES))
        .map(|s: &str| vec![(format!("\"{}", s.trim()), Exponent::one())]);
    let base: Raw = alt((bracket, one, name, thing)).parse_next(input)?;
    let exponent = opt(alt((preceded(('^', multispace0), written_exponent), raised))).parse_next(input)?;
    Ok(match exponent {
        Some(e) => base.into_iter().map(|(s, b)| (s, b * e)).collect(),
        None => base,
    })
}

fn written_exponent(input: &mut &str) -> ModalResult<Exponent> {
    let whole = |input: &mut &str| -> ModalResult<i32> {
        let sign = opt(alt(('-', '−'))).parse_next(input)?;
        let n: i32 = digit1.verify(|s: &str| s.len() <= 2).try_map(str::parse).parse_next(input)?;
        Ok(if sign.is_some() { -n } else { n })
    };
    let fraction = (whole, opt(preceded('/', whole.verify(|n| *n > 0)))).map(|(n, d)| Exponent::new(n, d.unwrap_or(1)));
    alt((delimited('(', fraction, ')'), whole.map(Exponent::from_integer))).parse_next(input)
}

fn raised(input: &mut &str) -> ModalResult<Exponent> {
    const DIGITS: [char; 10] = ['⁰', '¹', '²', '³', '⁴', '⁵', '⁶', '⁷', '⁸', '⁹'];
    (opt('⁻'), take_while(1..=2, DIGITS))
        .map(|(sign, digits): (Option<char>, &str)| {
            let n = digits.chars().fold(0, |n, c| 10 * n + DIGITS.iter().position(|d| *d == c).map_or(0, |p| p as i32));
            Exponent::from_integer(if sign.is_some() { -n } else { n })
        })
        .parse_next(input)
}

/// A whole number in superscript digits.
pub(crate) fn superscript(n: i32) -> String {
    n.to_string().chars().map(superscript_of).collect()
}

fn superscript_of(digit: char) -> char {
    match digit {
        '-' => '⁻',
        '1' => '¹',
        '2' => '²',
        '3' => '³',
        digit => char::from_u32('⁰' as u32 + digit as u32 - '0' as u32).unwrap_or(digit),
    }
}

/// Superscript digits as ordinary ones.
pub(crate) fn unraised(text: &str) -> String {
    let digit = |c| ('0'..='9').chain(['-']).find(|d| superscript_of(*d) == c).unwrap_or(c);
    text.chars().map(digit).collect()
}

/// The unit as it is typed and stored: `m/s^2`.
impl fmt::Display for Unit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let name = |f: &Factor| if f.counted { format!("\"{}\"", f.symbol) } else { f.symbol.clone() };
        let text = self.written(" ", name, |e| {
            if e.is_one() {
                String::new()
            } else if e.is_integer() {
                format!("^{e}")
            } else {
                format!("^({e})")
            }
        });
        f.write_str(&text)
    }
}

impl From<Unit> for String {
    fn from(unit: Unit) -> Self {
        unit.to_string()
    }
}

impl TryFrom<String> for Unit {
    type Error = String;
    fn try_from(text: String) -> Result<Self, String> {
        Self::parse(&text).map_err(|e| format!("{e:?}"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use approx::assert_relative_eq;
    use proptest::prelude::*;

    fn unit(text: &str) -> Unit {
        Unit::parse(text).unwrap()
    }

    #[test]
    fn units_are_read_as_students_write_them() {
        for (text, pretty, size) in [
            ("m/s^2", "m/s²", 1.0),
            ("kg m/s²", "kg m/s²", 1.0),
            ("km/h", "km/h", 1.0 / 3.6),
            ("m per s", "m/s", 1.0),
            ("J/(kg K)", "J/(kg K)", 1.0),
            ("°", "°", std::f64::consts::PI / 180.0),
            ("N·m", "N m", 1.0),
            ("cm⁻¹", "1/cm", 100.0),
            ("m^(1/2)", "m^(1/2)", 1.0),
            ("1/s", "1/s", 1.0),
            ("min", "min", 60.0),
            ("mm", "mm", 1e-3),
            ("", "", 1.0),
            ("\"washers\"", "washers", 1.0),
            ("N/“brass washer”", "N/brass washer", 1.0),
            ("um", "µm", 1e-6),
            ("kWh", "kWh", 3.6e6),
            ("sec", "s", 1.0),
            ("m/sec", "m/s", 1.0),
            ("degC", "°C", 1.0),
            ("J/(kg °C)", "J/(kg K)", 1.0),
            ("rpm", "rev/min", std::f64::consts::TAU / 60.0),
            ("degrees", "°", std::f64::consts::PI / 180.0),
            ("cm m", "cm m", 0.01),
        ] {
            assert_eq!(unit(text).pretty(), pretty, "{text}");
            assert_relative_eq!(unit(text).size(), size, max_relative = 1e-12);
        }
        assert_eq!(Unit::parse("furlong"), Err(UnitError::Unknown("furlong".into())));
        for bad in ["m//s", "m^", "(m", "m^99999999999", "9.81", "m/s^2)"] {
            assert!(Unit::parse(bad).is_err(), "{bad}");
        }
    }

    #[test]
    fn two_names_for_one_dimension_become_si() {
        assert_eq!(unit("cm").times(&unit("m")).unwrap().to_string(), "m^2");
        assert_eq!(unit("km/h").times(&unit("s")).unwrap().to_string(), "m");
    }

    #[test]
    fn units_are_written_as_simply_as_they_can_be() {
        for (a, b, simple) in [
            ("N m", "1/J", ""),
            ("m", "rad", "m"),
            ("m", "deg", "m"),
            ("rad/s", "m", "m/s"),
            ("rad^2/s^2", "cm", "cm/s^2"),
            ("N s^2", "1/m", "kg"),
            ("N s", "1/kg", "m/s"),
            ("N", "1/kg", "N/kg"),
            ("N", "1/m", "N/m"),
            ("J", "1/N", "m"),
            ("m", "Hz", "m/s"),
            ("N m", "1/rad", "N m/rad"),
            ("rad", "1/m", "rad/m"),
            ("deg", "1/s", "deg/s"),
            ("J/kg", "1/°C", "J/(kg K)"),
            ("N/\"washer\"", "m/J", "1/\"washer\""),
        ] {
            assert_eq!(unit(a).times(&unit(b)).unwrap().to_string(), simple, "{a} times {b}");
        }
    }

    #[test]
    fn turns_are_counted_where_no_angle_is_wanted() {
        let meant = |typed: &str, wanted: &str| unit(typed).turning_as(&unit(wanted)).size() / unit(wanted).size();
        for (typed, wanted, factor) in
            [("rev/min", "1/min", 1.0), ("rpm", "Hz", 1.0 / 60.0), ("1/min", "rev/min", 1.0), ("rev", "deg", 360.0)]
        {
            assert_relative_eq!(meant(typed, wanted), factor, max_relative = 1e-12);
        }
        assert!(!unit("°C").same_dimension(&unit("K")) && unit("°C").of_differences() == unit("K"));
    }

    fn any_unit() -> impl Strategy<Value = Unit> {
        let names = prop::sample::select(vec![
            "m",
            "cm",
            "kg",
            "g",
            "s",
            "ms",
            "min",
            "N",
            "J",
            "rad",
            "deg",
            "Hz",
            "\"washers\"",
        ]);
        prop::collection::vec((names, -3i32..4), 0..4).prop_map(|parts| {
            parts.into_iter().fold(Unit::one(), |u, (n, e)| u.times(&unit(n).power(e.into()).unwrap()).unwrap())
        })
    }

    fn alike(a: &Unit, b: &Unit) -> bool {
        a.dimension() == b.dimension() && (a.size() / b.size() - 1.0).abs() < 1e-9
            || a.dimension() == b.dimension() && (si_fallback(a) || si_fallback(b))
    }

    /// `cm·m` is written m²: the unit changes its size on purpose, its dimension never.
    fn si_fallback(u: &Unit) -> bool {
        u.size() == 1.0
    }

    proptest! {
        #[test]
        fn unit_algebra_laws_hold(a in any_unit(), b in any_unit(), c in any_unit()) {
            let ab = a.times(&b).unwrap();
            prop_assert!(alike(&ab, &b.times(&a).unwrap()));
            prop_assert_eq!(ab.times(&c).unwrap().dimension(), a.times(&b.times(&c).unwrap()).unwrap().dimension());
            prop_assert!(a.per(&a).unwrap().is_one());
            prop_assert_eq!(ab.per(&b).unwrap().dimension(), a.dimension());
            let squared = a.power(2.into()).unwrap();
            prop_assert_eq!(squared.power(Exponent::new(1, 2)).unwrap(), a.clone());
            prop_assert!((squared.size() / (a.size() * a.size()) - 1.0).abs() < 1e-9);
        }

        #[test]
        fn a_unit_written_and_read_again_is_the_same(a in any_unit()) {
            let again = Unit::parse(&a.to_string()).unwrap();
            prop_assert_eq!(again.dimension(), a.dimension());
            prop_assert!((again.size() / a.size() - 1.0).abs() < 1e-12);
            if !a.to_string().contains('"') {
                prop_assert_eq!(Unit::parse(&a.pretty()).unwrap().dimension(), a.dimension());
            }
        }

        #[test]
        fn no_text_makes_the_parser_panic(text in "\\PC{0,40}") {
            let _ = Unit::parse(&text);
        }
    }
}
