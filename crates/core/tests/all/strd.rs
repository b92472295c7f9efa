//! Fits against certified values: NIST Statistical Reference Datasets, linear and nonlinear regression,
//! <https://www.itl.nist.gov/div898/strd/> (certified to 15 and 11 digits).
//!
//! Data and certified values were written down from memory. `tools/reference/fits.py` works out the residual standard
//! deviation of the data about the certified curve and finds the certified one to 9 digits and more in every set, which
//! a wrong digit in either would not give.

use std::collections::BTreeMap;

use serde::Deserialize;
use zeitmass_core::fit::{Data, Fit, Model, Typed, Weighting, fit};
use zeitmass_core::formula::Formula;
use zeitmass_core::quantity::Unit;

fn points(csv: &str) -> Data {
    let mut reader = csv::Reader::from_reader(csv.as_bytes());
    Data::of(&reader.deserialize().collect::<Result<Vec<(f64, f64)>, _>>().expect("fixture"))
}

fn plain(data: &Data, model: &Model) -> Fit {
    fit(data, model, Weighting::Equal, (&[Unit::one()], &Unit::one())).unwrap_or_else(|e| panic!("{model:?}: {e}"))
}

/// Log relative error: the number of agreeing digits.
#[track_caller]
fn agrees(got: f64, certified: f64, wanted: f64, what: &str) {
    let digits = -((got - certified) / certified).abs().max(1e-16).log10();
    assert!(digits >= wanted, "{what}: {got} against {certified}: {digits:.1} digits");
}

#[test]
fn norris_agrees_to_nine_digits() {
    let fit = plain(&points(include_str!("../fixtures/norris.csv")), &Model::Line);
    let (slope, intercept) = (fit.slope().unwrap(), fit.intercept().unwrap());
    for (got, certified) in [
        (intercept.value, -0.262_323_073_774_029),
        (intercept.u, 0.232_818_234_301_152),
        (slope.value, 1.002_116_818_020_45),
        (slope.u, 0.429_796_848_199_937e-3),
        (fit.residual_sd, 0.884_796_396_144_373),
        (fit.r2, 0.999_993_745_883_712),
    ] {
        agrees(got, certified, 9.0, "Norris");
    }
    assert_eq!((fit.n, fit.dof), (36, 34));
}

#[test]
fn noint1_agrees_to_nine_digits() {
    let fit = plain(&points(include_str!("../fixtures/noint1.csv")), &Model::Proportional);
    let slope = fit.slope().unwrap();
    for (got, certified) in [
        (slope.value, 2.074_380_165_289_26),
        (slope.u, 0.165_289_256_198_347e-1),
        (fit.residual_sd, 3.567_530_340_063_38),
        (fit.r2, 0.999_365_492_298_663),
    ] {
        agrees(got, certified, 9.0, "NoInt1");
    }
    assert_eq!((fit.intercept(), fit.dof), (None, 10));
}

#[derive(Deserialize)]
struct Set {
    formula: String,
    x: Vec<f64>,
    y: Vec<f64>,
    certified: BTreeMap<String, (f64, f64)>,
    residual_sd: f64,
    starts: Vec<BTreeMap<String, f64>>,
}

fn sets() -> BTreeMap<String, Set> {
    serde_json::from_str(include_str!("../fixtures/nist.json")).expect("fixture")
}

fn data(set: &Set) -> Data {
    Data { x: vec![set.x.clone()], y: set.y.clone(), ..Data::default() }
}

#[track_caller]
fn matches(fit: &Fit, set: &Set, names: &[(&str, &str)], digits: f64, name: &str) {
    for (ours, theirs) in names {
        let p = fit.parameter(ours).unwrap();
        let (value, u) = set.certified[*theirs];
        agrees(p.value, value, digits, &format!("{name}, {ours}"));
        agrees(p.u, u, digits.min(5.5), &format!("{name}, u({ours})"));
    }
    agrees(fit.residual_sd, set.residual_sd, digits, &format!("{name}, residuals"));
}

#[test]
fn linear_sets_agree_to_nine_digits() {
    let sets = sets();
    let pontius = &sets["Pontius"];
    matches(
        &plain(&data(pontius), &Model::Quadratic),
        pontius,
        &[("a", "B2"), ("b", "B1"), ("c", "B0")],
        9.0,
        "Pontius",
    );
    let two = &sets["NoInt2"];
    matches(&plain(&data(two), &Model::Proportional), two, &[("slope", "B1")], 9.0, "NoInt2");
}

/// Every set from both published starts, through a typed formula.
#[test]
fn nonlinear_sets_agree_to_six_digits_from_both_starts() {
    let sets = sets();
    for (name, set) in sets.iter().filter(|(_, s)| !s.starts.is_empty()) {
        for start in &set.starts {
            let formula = Formula::parse(&set.formula).unwrap();
            let typed = Typed { formula, data: vec!["x".to_owned()], start: start.clone() };
            let fit = plain(&data(set), &Model::Typed(Box::new(typed)));
            let names: Vec<(&str, &str)> = set.certified.keys().map(|k| (k.as_str(), k.as_str())).collect();
            matches(&fit, set, &names, 6.0, &format!("{name} from {start:?}"));
        }
    }
    // Models that are offered find their own starts.
    let dan = &sets["DanWood"];
    matches(&plain(&data(dan), &Model::Power), dan, &[("a", "b1"), ("n", "b2")], 6.0, "DanWood as a power law");
}
