//! Fits against certified values: NIST Statistical Reference Datasets, linear and nonlinear regression,
//! <https://www.itl.nist.gov/div898/strd/> (certified to 15 and 11 digits).
//!
//! The nonlinear sets and Longley's come from files of NIST (`tools/reference/nist.py`). The other linear ones were written down from
//! memory; `tools/reference/fits.py` works out the residual standard deviation of the data about the certified curve and finds the certified
//! one to 9 digits and more, which a wrong digit in either would not give. Wampler's are polynomials of whole numbers.

use std::collections::BTreeMap;

use serde::Deserialize;
use zeitmass_core::fit::{Data, Fit, Model, Typed, Weighting, fit};
use zeitmass_core::formula::Formula;
use zeitmass_core::quantity::Unit;

use crate::common::tell;

fn points(csv: &str) -> Data {
    let mut reader = csv::Reader::from_reader(csv.as_bytes());
    Data::of(&reader.deserialize().collect::<Result<Vec<(f64, f64)>, _>>().expect("fixture"))
}

fn plain(data: &Data, model: &Model) -> Fit {
    fit(data, model, Weighting::Equal, (&[Unit::one()], &Unit::one())).unwrap_or_else(|e| panic!("{model:?}: {e:?}"))
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
    /// A second quantity the curve depends on.
    #[serde(default)]
    z: Vec<f64>,
    y: Vec<f64>,
    certified: BTreeMap<String, (f64, f64)>,
    residual_sd: f64,
    #[serde(default)]
    starts: Vec<BTreeMap<String, f64>>,
}

/// A set of linear regression on several quantities; the first certified value is that of the constant.
#[derive(Deserialize)]
struct Linear {
    x: Vec<Vec<f64>>,
    y: Vec<f64>,
    certified: Vec<(f64, f64)>,
    residual_sd: f64,
}

#[derive(Deserialize)]
struct All {
    nonlinear: BTreeMap<String, Set>,
    linear: BTreeMap<String, Linear>,
}

fn all() -> All {
    serde_json::from_str(include_str!("../fixtures/nist.json")).expect("fixture")
}

fn data(set: &Set) -> Data {
    let x = [&set.x, &set.z].into_iter().filter(|v| !v.is_empty()).cloned().collect();
    Data { x, y: set.y.clone(), ..Data::default() }
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
    let sets: BTreeMap<String, Set> =
        serde_json::from_str(include_str!("../fixtures/nist-linear.json")).expect("fixture");
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

/// Curves that are linear in their parameters, through a typed formula: Longley's six quantities that say almost the same, and Wampler's
/// polynomials of the fifth degree, exact and with large errors (R. H. Wampler, J. Am. Stat. Assoc. 65 (1970) 549; errors from memory,
/// checked by the certified standard deviation).
#[test]
fn longley_and_wampler_agree_to_nine_digits() {
    let longley = &all().linear["Longley"];
    let names: Vec<String> = (1..=6).map(|k| format!("x{k}")).collect();
    let terms: Vec<String> = (1..=6).map(|k| format!("b{k}*x{k}")).collect();
    let formula = Formula::parse(&format!("b0 + {}", terms.join(" + "))).unwrap();
    let typed = Typed { formula, data: names, start: BTreeMap::new() };
    let points = Data { x: longley.x.clone(), y: longley.y.clone(), ..Data::default() };
    let units = vec![Unit::one(); 6];
    let found = fit(&points, &Model::Typed(Box::new(typed)), Weighting::Equal, (&units, &Unit::one())).unwrap();
    for (k, (value, sd)) in longley.certified.iter().enumerate() {
        let p = found.parameter(&format!("b{k}")).unwrap();
        agrees(p.value, *value, 9.0, &format!("Longley, b{k}"));
        agrees(p.u, *sd, 9.0, &format!("Longley, u(b{k})"));
    }
    agrees(found.residual_sd, longley.residual_sd, 9.0, "Longley, residuals");

    let errors = [
        759., -2048., 2048., -2048., 2523., -2048., 2048., -2048., 1838., -2048., 2048., -2048., 1838., -2048., 2048.,
        -2048., 2523., -2048., 2048., -2048., 759.,
    ];
    let sds =
        [2152.32624678170, 2363.55173469681, 779.343524331583, 101.475507550350, 5.64566512170752, 0.112324854679312];
    let x: Vec<f64> = (0..=20).map(f64::from).collect();
    let polynomial = |base: f64, x: f64| (0..=5).map(|k| (base * x).powi(k)).sum::<f64>();
    let formula = Formula::parse("b0 + b1*x + b2*x^2 + b3*x^3 + b4*x^4 + b5*x^5").unwrap();
    for (name, base, times) in
        [("1", 1.0, 0.0), ("2", 0.1, 0.0), ("3", 1.0, 1.0), ("4", 1.0, 100.0), ("5", 1.0, 10_000.0)]
    {
        let y = x.iter().zip(errors).map(|(x, e)| polynomial(base, *x) + times * e).collect();
        let typed = Typed { formula: formula.clone(), data: vec!["x".to_owned()], start: BTreeMap::new() };
        let found = plain(&Data { x: vec![x.clone()], y, ..Data::default() }, &Model::Typed(Box::new(typed)));
        for (k, sd) in sds.iter().enumerate() {
            let p = found.parameter(&format!("b{k}")).unwrap();
            let what = format!("Wampler{name}, b{k}");
            // A parameter of 1 that is known to ±2·10⁵ keeps 8 of its digits, to ±2·10⁷ 6 of them: each y has no more than 16.
            let wanted = if times > 100.0 {
                6.0
            } else if times > 1.0 {
                8.0
            } else {
                9.0
            };
            agrees(p.value, base.powi(k as i32), wanted, &what);
            if times > 0.0 {
                agrees(p.u, sd * times, 9.0, &what);
            }
        }
        if times > 0.0 {
            agrees(found.residual_sd, 2360.14502379268 * times, 9.0, &format!("Wampler{name}"));
        }
    }
}

/// Starts from which no curve is found. It is refused then, and never a wrong one given.
const REFUSED: [(&str, usize); 0] = [];

/// Every set from both published starts, through a typed formula.
#[test]
fn nonlinear_sets_agree_to_six_digits_from_both_starts() {
    let mut told = Vec::new();
    for (name, set) in &all().nonlinear {
        for (number, start) in (1..).zip(&set.starts) {
            let data = data(set);
            let symbols = ["x", "z"].into_iter().take(data.x.len()).map(str::to_owned).collect();
            let typed = Typed { formula: Formula::parse(&set.formula).unwrap(), data: symbols, start: start.clone() };
            let units = vec![Unit::one(); data.x.len()];
            match fit(&data, &Model::Typed(Box::new(typed)), Weighting::Equal, (&units, &Unit::one())) {
                Ok(found) => {
                    let digits = set.certified.iter().map(|(symbol, (value, _))| {
                        -((found.parameter(symbol).unwrap().value - value) / value).abs().max(1e-16).log10()
                    });
                    let digits = digits.fold(f64::INFINITY, f64::min);
                    // Lanczos's first set is exact to its last digit.
                    let sd = if name == "Lanczos1" {
                        6.0
                    } else {
                        -(found.residual_sd / set.residual_sd - 1.0).abs().max(1e-16).log10()
                    };
                    let u = set.certified.iter().map(|(symbol, (_, u))| {
                        -(found.parameter(symbol).unwrap().u / u - 1.0).abs().max(1e-16).log10()
                    });
                    let u = if name == "Lanczos1" { 6.0 } else { u.fold(f64::INFINITY, f64::min) };
                    tell(&format!("nist| {name} | {number} | {digits:.1} | {u:.1} |"));
                    if digits < 6.0 || sd < 6.0 || u < 4.5 {
                        told.push(format!(
                            "{name} from {number}: {digits:.1} digits, deviations {u:.1}, residuals {sd:.1}"
                        ));
                    }
                }
                Err(e) => {
                    tell(&format!("nist| {name} | {number} | refused | |"));
                    if !REFUSED.contains(&(name.as_str(), number)) {
                        told.push(format!("{name} from {number}: {e:?}"));
                    }
                }
            }
        }
    }
    assert!(told.is_empty(), "{}", told.join("\n"));
    // Models that are offered find their own starts.
    let sets = all().nonlinear;
    let dan = &sets["DanWood"];
    matches(&plain(&data(dan), &Model::Power), dan, &[("a", "b1"), ("n", "b2")], 6.0, "DanWood as a power law");
}

/// A poor start leads a sine to a wrong frequency; the program says that it knows a nearer curve, and from where.
#[test]
fn a_poor_start_is_told_where_a_better_one_is_known() {
    let y = |x: f64| 2.0 * (3.1 * x + 0.4).sin() + 1.0;
    let points: Vec<(f64, f64)> =
        (0..60).map(f64::from).map(|k| (0.1 * k, y(0.1 * k) + 0.02 * (k * 7.3).sin())).collect();
    let typed = |w: f64| {
        let start = [("A", 1.0), ("w", w), ("p", 0.0), ("C", 0.0)].map(|(s, v)| (s.to_owned(), v)).into();
        Typed { formula: Formula::parse("A*sin(w*x + p) + C").unwrap(), data: vec!["x".to_owned()], start }
    };
    let poor = plain(&Data::of(&points), &Model::Typed(Box::new(typed(11.0))));
    let nearer: BTreeMap<String, f64> = poor.nearer.expect("a word").into_iter().map(|(s, v, _)| (s, v)).collect();
    assert!((nearer["w"].abs() - 3.1).abs() < 0.01 && poor.r2 < 0.5, "{nearer:?}");
    assert_eq!(plain(&Data::of(&points), &Model::Typed(Box::new(typed(3.0)))).nearer, None);
}
