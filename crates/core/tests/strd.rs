//! Straight lines against certified values: NIST Statistical Reference Datasets, linear regression,
//! <https://www.itl.nist.gov/div898/strd/>, sets *Norris* and *NoInt1* (certified to 15 digits).
//!
//! Data and certified values were written down from memory; exact rational arithmetic on the Norris data gives
//! the certified values to all 15 digits, which a wrong digit in either would not.

use zeitmass_core::fit::{Model, fit_line};

fn points(csv: &str) -> Vec<(f64, f64)> {
    let mut reader = csv::Reader::from_reader(csv.as_bytes());
    reader.deserialize().collect::<Result<_, _>>().expect("fixture")
}

/// Log relative error: the number of agreeing digits.
#[track_caller]
fn agrees(got: f64, certified: f64) {
    let digits = -((got - certified) / certified).abs().max(1e-16).log10();
    assert!(digits >= 9.0, "{got} against {certified}: {digits:.1} digits");
}

#[test]
fn norris_agrees_to_nine_digits() {
    let fit = fit_line(&points(include_str!("fixtures/norris.csv")), Model::Line).unwrap();
    let intercept = fit.intercept.unwrap();
    agrees(intercept.value, -0.262_323_073_774_029);
    agrees(intercept.u, 0.232_818_234_301_152);
    agrees(fit.slope.value, 1.002_116_818_020_45);
    agrees(fit.slope.u, 0.429_796_848_199_937e-3);
    agrees(fit.residual_sd, 0.884_796_396_144_373);
    agrees(fit.r2, 0.999_993_745_883_712);
    assert_eq!((fit.n, fit.dof), (36, 34));
}

#[test]
fn noint1_agrees_to_nine_digits() {
    let fit = fit_line(&points(include_str!("fixtures/noint1.csv")), Model::Proportional).unwrap();
    agrees(fit.slope.value, 2.074_380_165_289_26);
    agrees(fit.slope.u, 0.165_289_256_198_347e-1);
    agrees(fit.residual_sd, 3.567_530_340_063_38);
    agrees(fit.r2, 0.999_365_492_298_663);
    assert_eq!((fit.intercept, fit.dof), (None, 10));
}
