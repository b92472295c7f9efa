//! Fits, propagation and constants against general-purpose libraries and open data. The values and the versions of
//! the libraries stand in `fixtures/reference.json`, made by `tools/reference/fits.py`.

use std::collections::BTreeMap;

use serde::Deserialize;
use serde_json::Value;
use zeitmass_core::fit::{Data, FitError, Model, Typed, Weighting, fit};
use zeitmass_core::formula::{CONSTANTS, Formula, Problem};
use zeitmass_core::quantity::{Source, Uncertain, Unit};

fn reference(part: &str) -> Value {
    let mut all: Value = serde_json::from_str(include_str!("../fixtures/reference.json")).expect("fixture");
    all[part].take()
}

#[track_caller]
fn close(got: f64, expected: f64, relative: f64, what: &str) {
    assert!((got - expected).abs() <= relative * expected.abs(), "{what}: {got} against {expected}");
}

#[derive(Deserialize)]
struct Curve {
    x: Vec<f64>,
    y: Vec<f64>,
    uy: Option<Vec<f64>>,
    parameters: Vec<f64>,
    u: Vec<f64>,
}

const ONE: [Unit; 1] = [Unit::ONE];

#[test]
fn every_model_agrees_with_scipy_and_finds_its_own_start() {
    let all: BTreeMap<String, Curve> = serde_json::from_value(reference("models")).unwrap();
    assert_eq!(all.len(), 10);
    for (name, c) in all {
        let (model, weighting) = match Model::named(&name) {
            Some(model) => (model, Weighting::Equal),
            None => (Model::Line, Weighting::Up),
        };
        let data = Data { x: vec![c.x], y: c.y, uy: c.uy.unwrap_or_default(), ux: Vec::new() };
        let found = fit(&data, &model, weighting, (&ONE, &Unit::ONE)).unwrap_or_else(|e| panic!("{name}: {e:?}"));
        for (p, (value, u)) in found.parameters.iter().zip(c.parameters.iter().zip(&c.u)) {
            close(p.value, *value, 1e-6, &format!("{name}, {}", p.symbol));
            close(p.u, *u, 1e-4, &format!("{name}, u({})", p.symbol));
        }
    }
}

/// Pearson's data with York's weights. Values: D. York et al., *Am. J. Phys.* 72 (2004) 367, table II (slope
/// −0.480533407, intercept 5.47991022, uncertainties 0.0579850090 and 0.294970735, S/(n−2) = 1.4833), which are Reed's
/// (*Am. J. Phys.* 60 (1992) 59) too; written from memory, slope and intercept checked with SciPy's ODR.
#[test]
fn pearsons_data_with_yorks_weights_give_yorks_line() {
    #[derive(Deserialize)]
    struct Pearson {
        x: Vec<f64>,
        y: Vec<f64>,
        ux: Vec<f64>,
        uy: Vec<f64>,
        slope: f64,
        intercept: f64,
    }
    let p: Pearson = serde_json::from_value(reference("pearson")).unwrap();
    let data = Data { x: vec![p.x], y: p.y, ux: p.ux, uy: p.uy };
    let line = fit(&data, &Model::Line, Weighting::Both, (&ONE, &Unit::ONE)).unwrap();
    let (slope, intercept) = (line.slope().unwrap(), line.intercept().unwrap());
    close(slope.value, -0.480_533_407, 2e-9, "slope");
    close(intercept.value, 5.479_910_22, 2e-9, "intercept");
    close(slope.u, 0.057_985_009_0, 2e-9, "u(slope)");
    close(intercept.u, 0.294_970_735, 2e-9, "u(intercept)");
    close(line.chi2_reduced.unwrap(), 1.4833, 1e-4, "chi-square");
    close(slope.value, p.slope, 1e-6, "slope by ODR");
    close(intercept.value, p.intercept, 1e-6, "intercept by ODR");
    // The same line as a typed formula takes the way of the other curves.
    let typed = Typed { formula: Formula::parse("a*x + b").unwrap(), data: vec!["x".into()], start: BTreeMap::new() };
    let other = fit(&data, &Model::Typed(Box::new(typed)), Weighting::Both, (&ONE, &Unit::ONE)).unwrap();
    close(other.parameters[0].value, slope.value, 1e-6, "slope by effective variance");
}

/// JCGM 100:2008, H.3: calibration of a thermometer, table H.6. b(t) = y1 + y2·(t − 20 °C) with
/// y1 = −0.1712 °C, u = 0.0029 °C, y2 = 0.00218, u = 0.00067, r = −0.930, b(30 °C) = −0.1494 °C, u = 0.0041 °C.
/// Written from memory; the certified results follow from the data.
#[test]
fn the_thermometer_of_annex_h_has_its_published_budget() {
    let t = [21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.010, 26.511];
    let b = [-0.171, -0.169, -0.166, -0.159, -0.164, -0.165, -0.156, -0.157, -0.159, -0.161, -0.160];
    let points: Vec<(f64, f64)> = t.iter().zip(b).map(|(t, b)| (t - 20.0, b)).collect();
    let line = fit(&Data::of(&points), &Model::Line, Weighting::Equal, (&ONE, &Unit::ONE)).unwrap();
    let (y2, y1) = (line.slope().unwrap(), line.intercept().unwrap());
    let rounded = |v: f64, places: i32| (v * 10f64.powi(places)).round() / 10f64.powi(places);
    assert_eq!((rounded(y1.value, 4), rounded(y1.u, 4)), (-0.1712, 0.0029));
    assert_eq!((rounded(y2.value, 5), rounded(y2.u, 5)), (0.00218, 0.00067));
    assert_eq!(rounded(line.covariance[0][1] / (y1.u * y2.u), 3), -0.930);
    assert_eq!((rounded(line.at(10.0), 4), rounded(line.u_at(10.0), 4)), (-0.1494, 0.0041));
    assert_eq!(rounded(line.residual_sd, 4), 0.0035);
}

/// JCGM 100:2008, H.2: resistance and reactance from simultaneous readings; means, correlations and results of table H.3:
/// R = 127.732 Ω, u = 0.071 Ω; X = 219.847 Ω, u = 0.295 Ω; Z = 254.260 Ω, u = 0.236 Ω. Written from memory.
#[test]
fn correlated_inputs_of_annex_h_give_their_published_uncertainties() {
    // Five sets of V (V), I (mA), φ (rad); the mean of each, with correlations from sharing the five sets.
    let sets = [
        [5.007, 19.663, 1.0456],
        [4.994, 19.639, 1.0438],
        [5.005, 19.640, 1.0468],
        [4.990, 19.685, 1.0428],
        [4.999, 19.678, 1.0433],
    ];
    let mean = |k: usize| {
        let m = sets.iter().map(|s| s[k]).sum::<f64>() / 5.0;
        // Each set is a source; its share of the mean's uncertainty is its deviation over √(n(n−1)).
        let parts: Vec<Uncertain> = (0..5).map(|i| Uncertain::from_source(0.0, 1.0, Source(i as u64 + 1))).collect();
        let shares = sets.iter().map(|s| (s[k] - m) / 20f64.sqrt());
        Uncertain::combination(shares.zip(&parts)).with_value(m)
    };
    let inputs = [("V", mean(0)), ("I", Uncertain::combination([(1e-3, &mean(1))].into_iter())), ("p", mean(2))];
    let value_of = |s: &str| Ok(inputs.iter().find(|(n, _)| *n == s).unwrap().1.clone());
    for (formula, value, u) in [("V/I*cos(p)", 127.732, 0.071), ("V/I*sin(p)", 219.847, 0.295), ("V/I", 254.260, 0.236)]
    {
        let found = Formula::parse(formula).unwrap().evaluate(&value_of).unwrap();
        assert!((found.value - value).abs() < 6e-4 && (found.u() - u).abs() < 6e-4, "{formula}: {found:?}");
    }
}

#[test]
fn propagation_agrees_with_the_uncertainties_package() {
    let part = reference("propagated");
    let inputs: BTreeMap<String, (f64, f64)> = serde_json::from_value(part["inputs"].clone()).unwrap();
    let cases: BTreeMap<String, (f64, f64)> = serde_json::from_value(part["cases"].clone()).unwrap();
    assert_eq!(cases.len(), 11);
    for (formula, (value, u)) in cases {
        let found = Formula::parse(&formula).unwrap().evaluate(&|s| {
            let (v, u) = inputs[s];
            Ok(Uncertain::from_source(v, u, Source(u64::from(s.as_bytes()[0]))))
        });
        let found = found.unwrap();
        close(found.value, value, 1e-12, &formula);
        // That package takes some derivatives by differences.
        close(found.u(), u, 1e-6, &formula);
    }
}

/// Constants against SciPy's table, which is CODATA 2022.
#[test]
fn constants_are_those_of_codata_2022() {
    let table: BTreeMap<String, (f64, f64)> = serde_json::from_value(reference("codata")).unwrap();
    assert_eq!(table.len(), CONSTANTS.len());
    for c in &CONSTANTS {
        let (value, u) = table[c.symbol];
        // SciPy writes exact values that do not end to ten digits.
        close(c.value, value, 1e-9, c.name);
        assert!((c.u - u).abs() <= 1e-6 * u, "{}: {} against {u}", c.name, c.u);
    }
}

#[test]
fn open_data_give_their_known_answers() {
    #[derive(Deserialize)]
    struct Line {
        x: Vec<f64>,
        y: Vec<f64>,
        slope: f64,
        intercept: f64,
        u_slope: f64,
        u_intercept: f64,
        r2: f64,
    }
    let open = reference("open");
    for name in ["modelcars", "elasticband"] {
        let l: Line = serde_json::from_value(open[name].clone()).unwrap();
        let data = Data { x: vec![l.x], y: l.y, ..Data::default() };
        let found = fit(&data, &Model::Line, Weighting::Equal, (&ONE, &Unit::ONE)).unwrap();
        let (s, i) = (found.slope().unwrap(), found.intercept().unwrap());
        for (got, expected) in
            [(s.value, l.slope), (s.u, l.u_slope), (i.value, l.intercept), (i.u, l.u_intercept), (found.r2, l.r2)]
        {
            close(got, expected, 1e-9, name);
        }
    }
    // Thirteen measurements of the strength of gravity in Washington, series 8: near the accepted 980.1 cm/s².
    let g: Vec<f64> = serde_json::from_value(open["gravity"]["g"].clone()).unwrap();
    let cells: Vec<_> =
        g.iter().map(|v| zeitmass_core::record::Cell::Value(Uncertain::exact(980.0 + v / 1000.0))).collect();
    let steady = zeitmass_core::result::steady(cells.iter()).unwrap();
    close(steady.mean, 980.0 + open["gravity"]["mean"].as_f64().unwrap() / 1000.0, 1e-12, "mean");
    close(steady.spread, open["gravity"]["sd"].as_f64().unwrap() / 1000.0, 1e-6, "spread");
    assert!((steady.mean - 980.1).abs() < 0.03, "{steady:?}");
}

#[test]
fn what_cannot_be_fitted_is_said_in_words() {
    let flat: Vec<(f64, f64)> = (1..8).map(|i| (f64::from(i), 2.0)).collect();
    let typed = |f: &str| {
        Model::Typed(Box::new(Typed {
            formula: Formula::parse(f).unwrap(),
            data: vec!["x".into()],
            start: BTreeMap::new(),
        }))
    };
    let try_fit = |points: &[(f64, f64)], model: &Model, w| {
        fit(&Data::of(points), model, w, (&ONE, &Unit::ONE)).map(|f| f.parameters)
    };
    // A product of two parameters leaves both open.
    let error = try_fit(&flat, &typed("a*b*x"), Weighting::Equal).unwrap_err();
    assert!(matches!(error, FitError::Undetermined { .. }), "{error:?}");
    assert!(matches!(try_fit(&flat[..2], &Model::Quadratic, Weighting::Equal), Err(FitError::TooFewPoints { .. })));
    assert!(matches!(try_fit(&flat, &Model::Line, Weighting::Up), Err(FitError::NoUncertainty { point: 1 })));
    assert!(matches!(
        try_fit(&[(0.0, 1.0), (1.0, 2.0)], &Model::Inverse, Weighting::Equal),
        Err(FitError::NoValue { .. })
    ));
    let equal = [(1.0, 1.0), (1.0, 2.0), (1.0, 3.0)];
    assert_eq!(try_fit(&equal, &Model::Exponential, Weighting::Equal), Err(FitError::AllXEqual));
    let units = (&[Unit::parse("s").unwrap()][..], &Unit::parse("m").unwrap());
    let clash = fit(&Data::of(&flat), &typed("a*x + exp(x)"), Weighting::Equal, units).unwrap_err();
    assert!(matches!(clash, FitError::Formula(_)), "{clash:?}");
}

#[derive(Deserialize)]
struct Orthogonal {
    model: String,
    x: Vec<f64>,
    y: Vec<f64>,
    ux: f64,
    uy: f64,
    parameters: Vec<f64>,
    u: Vec<f64>,
    sum: f64,
}

/// scipy.odr (ODRPACK, SciPy 1.17.1; `tools/reference/odr.py`): parameters to 0.05 of their uncertainty, uncertainties to 5 %, over 24 powers of ten
/// and where the curve bends within the uncertainty of x.
#[test]
fn curves_with_uncertain_x_and_y_agree_with_odrpack() {
    let mut all: Value = serde_json::from_str(include_str!("../fixtures/odr.json")).unwrap();
    let cases: Vec<Orthogonal> = serde_json::from_value(all["cases"].take()).unwrap();
    assert!(cases.len() > 55, "{}", cases.len());
    let mut wrong = Vec::new();
    for (i, c) in cases.iter().enumerate() {
        let n = c.x.len();
        let data = Data { x: vec![c.x.clone()], y: c.y.clone(), ux: vec![c.ux; n], uy: vec![c.uy; n] };
        let model = Model::named(&c.model).unwrap();
        let what = format!("case {i}, {} at {:e}", c.model, c.x[0]);
        let fit = match fit(&data, &model, Weighting::Both, (&[], &Unit::one())) {
            Ok(fit) => fit,
            Err(e) => {
                wrong.push(format!("{what}: {e:?}"));
                continue;
            }
        };
        let sum = fit.chi2_reduced.unwrap() * fit.dof as f64;
        // Where ours is the lower one, theirs is not the best.
        if sum < c.sum * (1.0 - 1e-6) {
            continue;
        }
        for (p, (value, u)) in fit.parameters.iter().zip(c.parameters.iter().zip(&c.u)) {
            if (p.value - value).abs() > 0.05 * u || (p.u / u - 1.0).abs() > 0.05 {
                wrong.push(format!(
                    "{what}: {} = {} ± {}, theirs {value} ± {u}; sums {sum} {}",
                    p.symbol, p.value, p.u, c.sum
                ));
            }
        }
    }
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
}

/// The years 2001 to 2012 with both uncertain: 500 sets, none refused for rounding.
#[test]
fn lines_over_years_are_never_refused() {
    for seed in 0..500u32 {
        let wave = |k: u32, phase: f64| (f64::from(k * 37 + seed * 101) * 0.618 + phase).sin();
        let x: Vec<f64> = (0..12).map(|k| 2001.0 + f64::from(k) + 0.1 * wave(k, 0.0)).collect();
        let y: Vec<f64> = (0..12).map(|k| 14.2 + 0.02 * f64::from(k) + 0.05 * wave(k, 1.0)).collect();
        let data = Data { x: vec![x], y, ux: vec![0.1; 12], uy: vec![0.05; 12] };
        let line =
            fit(&data, &Model::Line, Weighting::Both, (&[], &Unit::one())).unwrap_or_else(|e| panic!("{seed}: {e:?}"));
        assert!((line.slope().unwrap().value - 0.02).abs() < 6.0 * line.slope().unwrap().u, "{seed}");
    }
}

/// Points that no curve is left free to miss: what cannot be told is never zero.
#[test]
fn without_freedom_no_uncertainty_is_told() {
    let points = [(1.0, 2.0), (2.0, 4.5), (3.0, 7.9), (4.0, 9.0)];
    let cases = [
        (Model::Line, 2),
        (Model::Quadratic, 3),
        (Model::Exponential, 2),
        (Model::Power, 2),
        (Model::ExponentialOffset, 3),
    ];
    for (model, n) in cases {
        let found = fit(&Data::of(&points[..n]), &model, Weighting::Equal, (&[], &Unit::one())).unwrap();
        assert!(found.dof == 0 && found.parameters.iter().all(|p| p.u.is_nan()), "{model:?}: {:?}", found.parameters);
        assert!(found.u_at(2.5).is_nan() && found.band(2.5).is_nan(), "{model:?}");
    }
}

/// Lines, constants and noise hold no wave; waves in noise are found, at the first try.
#[test]
fn waves_are_told_from_lines_and_noise() {
    use rand::rngs::StdRng;
    use rand::{RngExt, SeedableRng};
    let mut r = StdRng::seed_from_u64(3);
    let mut noise = |size: f64| size * (0..12).map(|_| r.random_range(-0.5..0.5)).sum::<f64>();
    let told = |y: &dyn Fn(f64) -> f64| {
        let points: Vec<(f64, f64)> = (0..24).map(|i| f64::from(i) * 0.25).map(|x| (x, y(x))).collect();
        fit(&Data::of(&points), &Model::Sine, Weighting::Equal, (&[], &Unit::one()))
    };
    assert!(told(&|_| 2.0).is_err() && told(&|x| 2.0 * x - 1.0).is_err());
    let (mut alarms, mut found) = (0, 0);
    for _ in 0..60 {
        let off: Vec<f64> = (0..24).map(|_| noise(0.3)).collect();
        let at = |x: f64| off[(x * 4.0).round() as usize];
        alarms += usize::from(told(&|x| 2.0 * x + at(x)).is_ok());
        let wave = told(&|x| 2.0 * (3.0 * x + 0.4).sin() + 1.0 + at(x));
        found += usize::from(wave.is_ok_and(|w| (w.parameter("ω").unwrap().value - 3.0).abs() < 0.1));
    }
    // Three standard deviations above 5 % of 60.
    assert!(alarms <= 8 && found >= 59, "{alarms} false alarms, {found} of 60 found");
}

/// What people type in a formula is read as they mean it, or asked about.
#[test]
fn a_formula_is_read_as_people_type_it() {
    let value = |text: &str| {
        let formula = Formula::parse(text).map_err(|e| e.problem)?;
        let x = Uncertain::exact(4.0);
        formula.evaluate(&|_| Ok(x.clone())).map(|v| v.value).map_err(|e| e.problem)
    };
    for (text, expected) in [
        ("max(2,3)*x", 12.0),
        ("max(2,5; x)", 4.0),
        ("max(1,2,3)", 3.0),
        ("min(1.5, x)", 1.5),
        ("sqrt(2,25)*x", 6.0),
        ("max(x, (2,5))", 4.0),
        ("x²", 16.0),
        ("2x⁻¹".replace('2', "2*").as_str(), 0.5),
        ("-x²", -16.0),
        ("–x + 1 – x", -7.0),
        ("x**2", 16.0),
        ("√x + 1", 3.0),
        ("√(x + 5)", 3.0),
        ("sin(30°)", 0.5),
        ("50 % * x", 2.0),
        ("arctan(1)*4", std::f64::consts::PI),
    ] {
        let got = value(text);
        assert!(got.as_ref().is_ok_and(|v| (v - expected).abs() < 1e-12), "{text}: {got:?}");
    }
    assert_eq!(value("max(2,5, x)").unwrap_err(), Problem::CommaOpen("2,5".to_owned()));
    assert_eq!(value("log(x)").unwrap_err(), Problem::WhichLog);
}
