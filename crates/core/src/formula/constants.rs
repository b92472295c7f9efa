//! Named physical constants, written `[G]` in a formula.
//!
//! Values and standard uncertainties: CODATA recommended values of the fundamental physical constants 2022
//! (NIST SP 961, 2024). Standard gravity and the standard atmosphere are exact by convention.

use crate::quantity::Dimension;

/// A named physical constant in coherent SI units.
#[derive(Debug, PartialEq)]
pub struct PhysicalConstant {
    /// What stands in the square brackets.
    pub symbol: &'static str,
    /// Its name.
    pub name: &'static str,
    /// Its value.
    pub value: f64,
    /// Its standard uncertainty; zero when exact.
    pub u: f64,
    /// Its dimension.
    pub dimension: Dimension,
}

const fn constant(
    symbol: &'static str,
    name: &'static str,
    value: f64,
    u: f64,
    exponents: [i32; 7],
) -> PhysicalConstant {
    PhysicalConstant { symbol, name, value, u, dimension: Dimension::of(exponents) }
}

/// Standard gravity, in m/s², exact by definition (3rd CGPM, 1901).
pub const STANDARD_GRAVITY: f64 = 9.806_65;
/// The speed of light in vacuum, in m/s, exact by definition.
pub const LIGHT: f64 = 299_792_458.0;
/// The constant of gravitation, in m³/(kg s²).
pub const GRAVITATION: f64 = 6.674_30e-11;

/// All constants; exponents are those of m, kg, s, A, K, mol and cd.
pub static CONSTANTS: [PhysicalConstant; 18] = [
    constant("G", "constant of gravitation", GRAVITATION, 0.000_15e-11, [3, -1, -2, 0, 0, 0, 0]),
    constant("g_n", "standard gravity", STANDARD_GRAVITY, 0.0, [1, 0, -2, 0, 0, 0, 0]),
    constant("c", "speed of light in vacuum", LIGHT, 0.0, [1, 0, -1, 0, 0, 0, 0]),
    constant("h", "Planck constant", 6.626_070_15e-34, 0.0, [2, 1, -1, 0, 0, 0, 0]),
    constant("hbar", "reduced Planck constant", 6.626_070_15e-34 / std::f64::consts::TAU, 0.0, [2, 1, -1, 0, 0, 0, 0]),
    constant("e", "elementary charge", 1.602_176_634e-19, 0.0, [0, 0, 1, 1, 0, 0, 0]),
    constant("k", "Boltzmann constant", 1.380_649e-23, 0.0, [2, 1, -2, 0, -1, 0, 0]),
    constant("N_A", "Avogadro constant", 6.022_140_76e23, 0.0, [0, 0, 0, 0, 0, -1, 0]),
    constant("R", "molar gas constant", 6.022_140_76e23 * 1.380_649e-23, 0.0, [2, 1, -2, 0, -1, -1, 0]),
    constant("F", "Faraday constant", 6.022_140_76e23 * 1.602_176_634e-19, 0.0, [0, 0, 1, 1, 0, -1, 0]),
    constant("sigma", "Stefan-Boltzmann constant", 5.670_374_419_184_43e-8, 0.0, [0, 1, -3, 0, -4, 0, 0]),
    constant("m_e", "electron mass", 9.109_383_713_9e-31, 0.000_000_002_8e-31, [0, 1, 0, 0, 0, 0, 0]),
    constant("m_p", "proton mass", 1.672_621_925_95e-27, 0.000_000_000_52e-27, [0, 1, 0, 0, 0, 0, 0]),
    constant("m_n", "neutron mass", 1.674_927_500_56e-27, 0.000_000_000_85e-27, [0, 1, 0, 0, 0, 0, 0]),
    constant("m_u", "atomic mass constant", 1.660_539_068_92e-27, 0.000_000_000_52e-27, [0, 1, 0, 0, 0, 0, 0]),
    constant(
        "eps_0",
        "vacuum electric permittivity",
        8.854_187_818_8e-12,
        0.000_000_001_4e-12,
        [-3, -1, 4, 2, 0, 0, 0],
    ),
    constant("mu_0", "vacuum magnetic permeability", 1.256_637_061_27e-6, 0.000_000_000_20e-6, [1, 1, -2, -2, 0, 0, 0]),
    constant("atm", "standard atmosphere", 101_325.0, 0.0, [-1, 1, -2, 0, 0, 0, 0]),
];

impl PhysicalConstant {
    /// The constant of that symbol.
    pub fn named(symbol: &str) -> Option<&'static Self> {
        CONSTANTS.iter().find(|c| c.symbol == symbol)
    }

    /// Its place in the table, which tells its source of uncertainty from others.
    pub(super) fn place(&self) -> u64 {
        CONSTANTS.iter().position(|c| c.symbol == self.symbol).unwrap_or(0) as u64
    }
}
