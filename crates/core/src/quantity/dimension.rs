//! Dimensions: exponents of the seven SI base quantities.

use std::fmt;

use num_rational::Ratio;
use num_traits::{CheckedAdd, CheckedMul, Zero};

/// Exponent of a unit or base quantity. Rational, because `sqrt(h)` has the unit m^(1/2).
pub type Exponent = Ratio<i32>;

/// Symbols of the base units, in the order of [`Dimension`]'s exponents.
pub const BASE_UNITS: [&str; 7] = ["m", "kg", "s", "A", "K", "mol", "cd"];

/// Exponents are kept within this bound, so that no chain of powers can overflow.
const LARGEST: i32 = 48;

/// The dimension of a quantity as exponents of m, kg, s, A, K, mol and cd (ISO 80000-1, 5.2).
///
/// Plane angle is dimensionless (rad = 1), as in the SI.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub struct Dimension([Exponent; 7]);

impl Dimension {
    /// A pure number.
    pub fn none() -> Self {
        Self::default()
    }

    /// From whole exponents of m, kg, s, A, K, mol and cd.
    pub const fn of(exponents: [i32; 7]) -> Self {
        let [m, kg, s, a, k, mol, cd] = exponents;
        Self([
            Ratio::new_raw(m, 1),
            Ratio::new_raw(kg, 1),
            Ratio::new_raw(s, 1),
            Ratio::new_raw(a, 1),
            Ratio::new_raw(k, 1),
            Ratio::new_raw(mol, 1),
            Ratio::new_raw(cd, 1),
        ])
    }

    /// Whether this is the dimension of a pure number (or an angle).
    pub fn is_none(&self) -> bool {
        self.0.iter().all(Zero::is_zero)
    }

    /// The exponents of m, kg, s, A, K, mol and cd.
    pub fn exponents(&self) -> &[Exponent; 7] {
        &self.0
    }

    /// The dimension of a product. `None` when an exponent would leave the range the program handles.
    pub fn times(&self, other: &Self) -> Option<Self> {
        let mut out = *self;
        for (mine, theirs) in out.0.iter_mut().zip(&other.0) {
            *mine = within(mine.checked_add(theirs)?)?;
        }
        Some(out)
    }

    /// The dimension of a power. `None` when an exponent would leave the range the program handles.
    pub fn power(&self, exponent: Exponent) -> Option<Self> {
        let mut out = *self;
        for mine in &mut out.0 {
            *mine = within(mine.checked_mul(&exponent)?)?;
        }
        Some(out)
    }
}

/// Keeps exponents small enough for every later operation.
pub(crate) fn within(exponent: Exponent) -> Option<Exponent> {
    let (n, d) = (*exponent.numer(), *exponent.denom());
    (n.checked_abs()? <= LARGEST && d <= LARGEST).then_some(exponent)
}

impl fmt::Display for Dimension {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.is_none() {
            return f.write_str("1");
        }
        let mut first = true;
        for (unit, exponent) in BASE_UNITS.iter().zip(&self.0) {
            if exponent.is_zero() {
                continue;
            }
            if !first {
                f.write_str(" ")?;
            }
            first = false;
            f.write_str(unit)?;
            if exponent.is_integer() {
                if *exponent.numer() != 1 {
                    write!(f, "^{exponent}")?;
                }
            } else {
                write!(f, "^({exponent})")?;
            }
        }
        Ok(())
    }
}
