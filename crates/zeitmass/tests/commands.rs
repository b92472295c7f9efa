//! The command line, as a person or a script uses it.

use std::process::{Command, Output};

fn zeitmass(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_zeitmass")).args(arguments).output().unwrap()
}

#[track_caller]
fn done(arguments: &[&str]) -> String {
    let output = zeitmass(arguments);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap()
}

#[test]
fn a_rig_runs_and_prints_its_channels() {
    assert!(done(&["rig", "list"]).contains("0.200\u{A0}m to 2.000\u{A0}m"));
    let run =
        ["rig", "run", "pendulum", "--set", "length=0.8m", "--set", "angle=10deg", "--seed", "1", "--every", "0.01s"];
    let csv = done(&run);
    let mut lines = csv.lines();
    assert_eq!(lines.next(), Some("t (s),angle (rad),angular velocity (rad/s),x (m),y (m),tension (N)"));
    let first: Vec<f64> = lines.next().unwrap().split(',').map(|v| v.parse().unwrap()).collect();
    assert_eq!(first[1], 10f64.to_radians());
    assert_eq!(lines.count(), 4000);
    let json: serde_json::Value =
        serde_json::from_str(&done(&[&run[..], &["--json", "--for", "2s"]].concat())).unwrap();
    assert_eq!(json["channels"]["tension"]["unit"], "N");
    assert_eq!(json["channels"]["x"]["values"].as_array().unwrap().len(), 201);
}

#[test]
fn a_fit_carries_its_units() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("swings.csv");
    std::fs::write(&file, "L (cm),Tsq (s^2)\n20,0.81\n\"40,0\",1.60\n60,2.44\n80,\n100,4.01\n").unwrap();
    let file = file.to_str().unwrap();
    let fit: serde_json::Value =
        serde_json::from_str(&done(&["fit", file, "--x", "L", "--y", "Tsq", "--model", "line"])).unwrap();
    assert_eq!((&fit["n"], &fit["dof"]), (&4.into(), &2.into()));
    let (slope, intercept) = (&fit["parameters"][0], &fit["parameters"][1]);
    assert_eq!((&slope["symbol"], &slope["unit"]), (&"slope".into(), &"s^2/cm".into()));
    assert!((slope["value"].as_f64().unwrap() - 0.0401).abs() < 1e-3, "{slope}");
    assert!(intercept["uncertainty"].as_f64().unwrap() > 0.0);
}

#[test]
fn bad_input_ends_with_code_two_and_a_reason() {
    let fixture = concat!(env!("CARGO_MANIFEST_DIR"), "/../core/tests/fixtures/norris.csv");
    for (arguments, reason) in [
        (vec!["rig", "run", "anvil"], "no rig"),
        (vec!["rig", "run", "pendulum", "--set", "length=9m"], "0.200"),
        (vec!["rig", "run", "pendulum", "--set", "length"], "NAME=VALUE"),
        (vec!["rig", "run", "pendulum", "--every", "2m"], "unit of time"),
        (vec!["rig", "run", "pendulum", "--every", "0s"], "more than zero"),
        (vec!["rig", "run", "pendulum", "--every", "1e-9s"], "frames"),
        (vec!["fit", "nowhere.csv", "--x", "L", "--y", "T"], "cannot be opened"),
        (vec!["fit", fixture, "--x", "x", "--y", "z"], "no column"),
        (vec!["fit", fixture, "--x", "x", "--y", "y", "--model", "spiral"], "no model"),
        (vec!["melt"], "unrecognized"),
    ] {
        let output = zeitmass(&arguments);
        let said = String::from_utf8_lossy(&output.stderr);
        assert_eq!(output.status.code(), Some(2), "{arguments:?}: {said}");
        assert!(said.contains(reason), "{arguments:?}: {said}");
        assert!(output.stdout.is_empty(), "{arguments:?} printed something");
    }
}

#[test]
fn a_demo_film_is_rendered_and_the_ball_followed_in_it() {
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().to_str().unwrap();
    assert!(done(&["film", "list"]).contains("tower-yard: A ball thrown"));
    assert!(done(&["film", "render", "tower-yard", "--out", out]).contains("66 frames"));
    let truth = std::fs::read_to_string(folder.path().join("truth.csv")).unwrap();
    let truth: Vec<Vec<f64>> =
        truth.lines().skip(1).map(|l| l.split(',').filter_map(|v| v.parse().ok()).collect()).collect();
    let times = folder.path().join("times.csv");
    let start = format!("{},{}", truth[5][2], truth[5][3]);
    let follow = [
        "follow",
        "--frames",
        out,
        "--start",
        &start,
        "--box",
        "28",
        "--from",
        "5",
        "--times",
        times.to_str().unwrap(),
    ];
    let csv = done(&follow);
    let mut lines = csv.lines();
    assert_eq!(lines.next(), Some("frame,t (s),x (px),y (px),score"));
    let mut count = 0;
    for line in lines {
        let row: Vec<f64> = line.split(',').map(|v| v.parse().unwrap()).collect();
        let wanted = &truth[row[0] as usize];
        assert!((row[1] - wanted[1]).abs() < 1e-6, "{line}");
        assert!((row[2] - wanted[2]).hypot(row[3] - wanted[3]) < 0.3, "{line}");
        count += 1;
    }
    assert_eq!(count, 61);
    let lost = zeitmass(&["follow", "--frames", out, "--start", "2,2", "--box", "28"]);
    assert_eq!(lost.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&lost.stderr).contains("reaches beyond the picture"));
    assert_eq!(zeitmass(&["film", "render", "tower", "--out", out]).status.code(), Some(2));
}
