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
    let heads = lines.next().unwrap();
    assert!(heads.starts_with("t (s),angle (rad),angular velocity (rad/s),x (m),y (m),tension (N)"), "{heads}");
    let first: Vec<f64> = lines.next().unwrap().split(',').map(|v| v.parse().unwrap()).collect();
    assert_eq!(first[1], 10f64.to_radians());
    assert_eq!(lines.count(), 4000);
    let json: serde_json::Value =
        serde_json::from_str(&done(&[&run[..], &["--json", "--for", "2s"]].concat())).unwrap();
    assert_eq!(json["channels"]["tension"]["unit"], "N");
    assert_eq!(json["channels"]["x"]["values"].as_array().unwrap().len(), 201);
}

/// Common trade practice, no source: at 0.40 m/s² from rest, 10 m take 7.1 s and end at 2.83 m/s.
#[test]
fn every_rig_runs_from_the_command_line_and_shows_its_card() {
    let list = done(&["rig", "list"]);
    let names = ["shuttle", "trolley", "slope", "shaft", "thrower", "spring", "whirl", "buffers", "pendulum"];
    for name in names {
        assert!(list.contains(&format!("{name}: ")), "{name}");
        let card: serde_json::Value = serde_json::from_str(&done(&["rig", "card", name, "--json"])).unwrap();
        assert_eq!(card["name"], name);
        for part in ["settings", "channels", "arrows"] {
            assert!(!card[part].as_array().unwrap().is_empty(), "{name} has no {part}");
        }
        let channels = card["channels"].as_array().unwrap().len();
        let csv = done(&["rig", "run", name, "--for", "1s", "--every", "0.1s"]);
        assert!(csv.lines().count() > 3 && csv.lines().all(|l| l.split(',').count() == channels), "{name}: {csv}");
    }
    let ten = ["rig", "run", "trolley", "--set", "trolley mass=1 kg", "--set", "thrust 1=0.4 N", "--set", "rail=10 m"];
    let meters = done(&[&ten[..], &["--meters", "--seed", "4"]].concat());
    let shown = |name: &str| -> f64 {
        let line = meters.lines().find(|l| l.split_whitespace().next() == Some(name)).unwrap();
        line[16..].trim().split('\u{A0}').next().unwrap().parse().unwrap()
    };
    // A timer to a millisecond and a speed gate to a centimetre per second, with their scatter.
    assert!((shown("time") - 50f64.sqrt()).abs() < 0.01 && (shown("speed") - 8f64.sqrt()).abs() < 0.03, "{meters}");
    assert_eq!(done(&[&ten[..], &["--meters", "--seed", "4"]].concat()), meters);
    let seeds = ["1", "2", "3", "4", "5", "6"];
    let outcomes: std::collections::BTreeSet<String> =
        seeds.iter().map(|s| done(&[&ten[..], &["--meters", "--seed", s]].concat())).collect();
    assert!(outcomes.len() > 2, "{outcomes:?}");
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
        (vec!["rig", "run", "slope", "--set", "body=anvil"], "cylinder"),
        (vec!["rig", "card", "anvil"], "no rig"),
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

/// Columns worked out one after the other, through files, know what was known of the first; and what has no value is told, with its row.
#[test]
fn work_goes_on_from_file_to_file() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    std::fs::write(path("a.csv"), "θ (deg),L (m)\n10,0.200\n20,0\n30,0.300\n").unwrap();
    std::fs::write(path("b.csv"), done(&["work", &path("a.csv"), "s = L*sin(theta)", "--uncertainty"])).unwrap();
    let once = done(&["work", &path("a.csv"), "r = 3*L*sin(theta)", "--uncertainty"]);
    let twice = done(&["work", &path("b.csv"), "r = 3*s", "--uncertainty"]);
    let cells = |text: &str| -> Vec<Vec<f64>> {
        let last = |l: &str| l.split(',').rev().take(2).map(|c| c.parse().unwrap()).collect();
        text.lines().skip(1).map(last).collect()
    };
    assert!(twice.starts_with("θ (deg),L (m),s (m),u(s) (m),r (m),u(r) (m)\n"), "{twice}");
    for (a, b) in cells(&once).iter().flatten().zip(cells(&twice).iter().flatten()) {
        assert!((a - b).abs() <= 1e-12 * a.abs() && a.is_finite(), "{once}\n{twice}");
    }
    for (formula, said) in [
        ("k = theta/L", "1 row has no value (2): Division by zero."),
        ("k = 10^500*L", "3 rows have no value (1, 2, 3): The value is too large. Look at “10^500”."),
    ] {
        let output = zeitmass(&["work", &path("a.csv"), formula]);
        let told = String::from_utf8(output.stderr).unwrap();
        assert!(output.status.success() && told.contains(said), "{formula}: {told}");
    }
}
