//! The analysis from the command line: curves, weights, the shape strip and worked columns.

use std::path::Path;
use std::process::{Command, Output};

use serde_json::Value;

fn zeitmass(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_zeitmass")).args(arguments).output().unwrap()
}

#[track_caller]
fn json(arguments: &[&str]) -> Value {
    let output = zeitmass(arguments);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    serde_json::from_slice(&output.stdout).unwrap()
}

fn parameter(fit: &Value, symbol: &str) -> (f64, String) {
    let all = fit["parameters"].as_array().unwrap();
    let p = all.iter().find(|p| p["symbol"] == symbol).unwrap_or_else(|| panic!("no {symbol} in {fit}"));
    (p["value"].as_f64().unwrap(), p["unit"].as_str().unwrap().to_owned())
}

/// A body falling in the tower: t in s, h in cm read to a millimetre, its uncertainty; row 4 was misread.
fn fall(folder: &Path) -> String {
    let rows = (1..=9).map(|i| f64::from(i) * 0.05).map(|t| {
        let h = if (t - 0.2).abs() < 1e-9 { 30.0 } else { 490.5 * t * t };
        format!("{t:.2};{h:.1};{:.2}\n", 0.05 + t / 10.0).replace('.', ",")
    });
    let path = folder.join("fall.csv");
    std::fs::write(&path, format!("t (s);h (cm);u\n{}", rows.collect::<String>())).unwrap();
    path.to_str().unwrap().to_owned()
}

#[test]
fn every_kind_of_fit_is_there() {
    let folder = tempfile::tempdir().unwrap();
    let file = fall(folder.path());
    let base = ["fit", &file, "--x", "t", "--y", "h", "--aside", "4"];
    let with = |more: &[&str]| json(&[&base[..], more].concat());
    let quadratic = with(&["--model", "quadratic"]);
    let (a, unit) = parameter(&quadratic, "a");
    assert!((a - 490.5).abs() < 3.0 && unit == "cm/s^2", "{quadratic}");
    assert_eq!((&quadratic["n"], &quadratic["dof"], &quadratic["outcome"]), (&8.into(), &5.into(), &"found".into()));
    let power = with(&["--model", "power"]);
    assert!((parameter(&power, "n").0 - 2.0).abs() < 0.01, "{power}");
    let typed = with(&["--formula", "h = g*t^2/2", "--start", "g=5"]);
    let (g, unit) = parameter(&typed, "g");
    assert!((g - 9.81).abs() < 0.02 && unit == "m/s^2", "{typed}");
    let weighted = with(&["--model", "quadratic", "--uy", "u"]);
    assert!(weighted["chi2_reduced"].as_f64().is_some() && weighted["weighting"] == "up");
    let both = with(&["--model", "power", "--uy", "0.05", "--ux", "0.003"]);
    assert_eq!(both["weighting"], "both");
    assert!((parameter(&both, "n").0 - 2.0).abs() < 0.02);
    let rows = json(&["fit", &file, "--x", "t", "--y", "h", "--rows", "5-9"]);
    assert_eq!(rows["n"], 5);
}

#[test]
fn points_that_give_no_curve_are_an_outcome_with_a_reason() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("same.csv");
    std::fs::write(&path, "x,y\n1,2\n1,3\n1,4\n").unwrap();
    let path = path.to_str().unwrap();
    for (model, outcome) in [("line", "all_x_equal"), ("damped-sine", "too_few_points")] {
        let output = zeitmass(&["fit", path, "--x", "x", "--y", "y", "--model", model]);
        assert_eq!(output.status.code(), Some(2));
        let report: Value = serde_json::from_slice(&output.stdout).unwrap();
        assert_eq!((&report["outcome"], &report["parameters"]), (&outcome.into(), &serde_json::json!([])));
        assert!(!report["message"].as_str().unwrap().is_empty());
    }
    let output = zeitmass(&["fit", path, "--x", "x", "--y", "y", "--formula", "a*(x"]);
    assert!(String::from_utf8_lossy(&output.stderr).contains("closing bracket"));
    let output = zeitmass(&["fit", path, "--x", "x", "--y", "y", "--formula", "a*x", "--start", "b=1"]);
    assert!(String::from_utf8_lossy(&output.stderr).contains("belongs to no parameter"));
}

#[test]
fn the_strip_names_the_shape_and_the_exponent() {
    let folder = tempfile::tempdir().unwrap();
    let file = fall(folder.path());
    let strip = json(&["shapes", &file, "--x", "t", "--y", "h", "--aside", "4"]);
    let shape = |name: &str| strip["shapes"].as_array().unwrap().iter().find(|s| s["shape"] == name).unwrap().clone();
    assert_eq!(strip["shapes"].as_array().unwrap().len(), 8);
    assert_eq!(shape("straight")["bend"], "upward");
    assert_eq!(shape("square")["outcome"], "straight");
    assert_eq!(shape("exponential")["outcome"], "bent");
    let exponent = shape("power")["exponent"]["value"].as_f64().unwrap();
    assert!((exponent - 2.0).abs() < 0.02, "{exponent}");
}

#[test]
fn a_worked_column_is_appended_with_its_unit() {
    let folder = tempfile::tempdir().unwrap();
    let file = fall(folder.path());
    let output = zeitmass(&["work", &file, "v = rate(h, t)", "--uncertainty"]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let text = String::from_utf8(output.stdout).unwrap();
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    assert_eq!(reader.headers().unwrap(), vec!["t (s)", "h (cm)", "u", "v (cm/s)", "u(v) (cm/s)"]);
    let rows: Vec<Vec<f64>> =
        reader.records().map(|r| r.unwrap().iter().map(|c| c.parse().unwrap()).collect()).collect();
    // Far from the misread row the rate of a fall is g·t.
    assert!((rows[7][3] - 981.0 * 0.4).abs() < 3.0, "{:?}", rows[7]);
    assert!(rows[7][4] > 0.0);
    for (column, reason) in
        [("h = 2*t", "new column"), ("w = h + t", "cannot be added"), ("w = q*2", "q"), ("w", "Write the column")]
    {
        let output = zeitmass(&["work", &file, column]);
        assert_eq!(output.status.code(), Some(2), "{column}");
        assert!(String::from_utf8_lossy(&output.stderr).contains(reason), "{column}");
    }
}

/// A logger's file is larger than anything that is pasted into a page; the command takes what memory holds.
#[test]
fn a_file_of_many_megabytes_is_fitted() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("logger.csv");
    let rows: String =
        (0..260_000).map(|i| format!("{:.3},{:.4}\n", f64::from(i) * 1e-3, 0.25 + f64::from(i) * 2e-3)).collect();
    std::fs::write(&path, format!("t (s),x (m)\n{rows}")).unwrap();
    assert!(std::fs::metadata(&path).unwrap().len() > 4_000_000);
    let fit = json(&["fit", path.to_str().unwrap(), "--x", "t", "--y", "x", "--model", "line"]);
    let (slope, unit) = parameter(&fit, "slope");
    assert!((slope - 2.0).abs() < 1e-9 && unit == "m/s", "{slope} {unit}");
}

/// A paper dial let go, places read to a millimetre and in centimetres: its drag comes back, with the steady speed it leads to.
#[test]
fn a_step_model_is_held_against_a_file_and_fitted() {
    let folder = tempfile::tempdir().unwrap();
    let [model, data] = ["dial.toml", "dial.csv"].map(|name| folder.path().join(name));
    let forces = "[[forces]]\nkind = \"weight\"\n[[forces]]\nkind = \"drag squared\"\nk = \"0.03 kg/m\"\nfit = true\n";
    let head =
        "mass = \"4.3 g\"\nstep = \"10 ms\"\nuntil = \"1.6 s\"\nmethod = \"midpoint\"\nstart = { y = \"3.80 m\" }\n";
    std::fs::write(&model, format!("{head}{forces}")).unwrap();
    let (k, g) = (0.0125_f64, 9.80665);
    let steady = (0.0043 * g / k).sqrt();
    let y = |t: f64| 3.8 - steady * steady / g * (g * t / steady).cosh().ln();
    let rows = (0..=15).map(|i| f64::from(i) * 0.1).map(|t| format!("{t:.2};{:.1}\n", 100.0 * y(t)).replace('.', ","));
    std::fs::write(&data, format!("t (s);y (cm)\n{}1,0;\n", rows.collect::<String>())).unwrap();
    let [model, data] = [model, data].map(|p| p.to_str().unwrap().to_owned());
    let found = json(&["step", &model, "--data", &data, "--u", "0.03"]);
    let value = |path: &str| found.pointer(path).and_then(Value::as_f64).unwrap_or_else(|| panic!("{path} of {found}"));
    let (fitted, u) = (value("/fitted/value"), value("/fitted/uncertainty"));
    assert!((fitted - k).abs() < 3.0 * u && u < 0.01 * k, "{fitted} ± {u}");
    assert!((0.3..2.0).contains(&value("/agreement/in_uncertainties")) && value("/agreement/n") == 16.0);
    assert!((value("/terminal_speed/speed") / steady - 1.0).abs() < 0.01 && value("/half_step_moves_by") < 1e-3);
    let list = |name: &str| found[name].as_array().unwrap().len();
    assert_eq!((list("t"), list("y"), list("v_y"), list("forces")), (161, 161, 161, 2));
    for (arguments, reason) in [
        (vec!["step", &data], "expected"),
        (vec!["step", &model, "--data", &model], "column"),
        (vec!["step", "nowhere.toml"], "cannot be read"),
    ] {
        let output = zeitmass(&arguments);
        let said = String::from_utf8_lossy(&output.stderr);
        assert!(output.status.code() == Some(2) && said.contains(reason), "{arguments:?}: {said}");
    }
}
