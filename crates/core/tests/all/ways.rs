//! How a careful student does each lab: what is set, what is read, what is worked out and put on the graph.

use zeitmass_core::logbook::{Instrument, Logbook};
use zeitmass_core::quantity::Footage;
use zeitmass_core::rigs::{Happening, Run, Sampling, Scene, SceneShape, Settings, rig};

/// How a value gets into the record.
pub enum Taken {
    By(Instrument),
    Typed(String),
}

/// Cells of a row: the column's symbol, and how the value is taken.
type Row = Vec<(&'static str, Taken)>;

/// How a lab is done.
pub struct Way {
    pub sheet: &'static str,
    /// Settings that are chosen once.
    pub chosen: &'static [(&'static str, &'static str)],
    /// What is set before each trial.
    pub trials: Vec<Vec<(&'static str, String)>>,
    /// What is written into which column after a run.
    pub rows: fn(&Logbook, &Run, u32) -> Vec<Row>,
    /// Symbols and formulas of worked columns.
    pub worked: &'static [(&'static str, &'static str)],
    /// What goes across and up.
    pub axes: [&'static str; 2],
    /// What the slope means; nothing where the result is the mean of what goes up.
    pub slope: &'static str,
}

/// Cells of a row that a trial logs by itself.
pub const WHOLE: &str = "whole trial";

fn series<const N: usize>(setting: &'static str, values: [&str; N]) -> Vec<Vec<(&'static str, String)>> {
    values.map(|v| vec![(setting, v.to_owned())]).into()
}

fn setting(name: &str) -> Taken {
    Taken::By(Instrument::Setting { name: name.to_owned() })
}

fn meter(run: u32, name: &str) -> Taken {
    Taken::By(Instrument::Meter { run, name: name.to_owned(), frame: 0 })
}

/// The start along the track, to a centimetre, from which a sledge just goes round a loop: found by halving, as a student would.
fn just_round(radius: &str) -> Vec<(&'static str, String)> {
    let nodes = format!("0 5; 3 2; 7 0 loop {radius}; 10 0");
    let rig = rig("hills").unwrap();
    let card = rig.card();
    let mut settings = card.defaults();
    settings.choose("course", "own");
    settings.put("nodes", &card.check("nodes", &nodes).unwrap());
    let (mut round, mut falls) = (0, 700);
    while falls - round > 1 {
        let middle = (round + falls) / 2;
        settings.set("start", f64::from(middle) / 100.0);
        let run = rig.run(&settings, 0, rig.clock(&settings).sampling()).unwrap();
        // A start so low that it turns back before the top leaves or not, but does not get past it.
        let past = run.channel("s").unwrap().iter().copied().fold(0.0, f64::max) > 11.0;
        let leaves = run.marks.iter().any(|(_, what)| *what == Happening::Leaves);
        if past && !leaves { round = middle } else { falls = middle }
    }
    vec![("nodes", nodes), ("start", format!("{}", f64::from(round) / 100.0))]
}

/// The frames of the `n`-th lowest place of the pointer after the release.
fn lowest(run: &Run, n: usize) -> u32 {
    let y = run.channel("y").unwrap();
    let turns = (1..y.len() - 1).filter(|&i| y[i] < y[i - 1] && y[i] <= y[i + 1]);
    turns.take(n).last().unwrap() as u32
}

/// Every shipped sheet with a rig and a constant, done as a careful student does it.
pub fn ways() -> Vec<Way> {
    [motion(), forces(), energy_and_gravitation(), waves_liquids_and_counting()].into_iter().flatten().collect()
}

/// Motion along a line, falls and throws.
fn motion() -> Vec<Way> {
    vec![
        Way {
            sheet: include_str!("../../../../labs/1.1-mail-shuttle.md"),
            chosen: &[],
            trials: vec![vec![]],
            // One run is stopped at eight moments; the scale beside the rail is read to a centimetre.
            rows: |_, run, _| {
                let at = |s: usize| {
                    let x = (run.channel("x").unwrap()[s * 100] * 100.0).round() / 100.0;
                    vec![("t", Taken::Typed(format!("{s}.00"))), ("x", Taken::Typed(format!("{x:.2}")))]
                };
                [0, 5, 10, 15, 20, 25, 30, 35].map(at).into()
            },
            worked: &[],
            axes: ["t", "x"],
            slope: "v",
        },
        Way {
            sheet: include_str!("../../../../labs/4.3-two-falls.md"),
            chosen: &[("drag", "none")],
            trials: series("height", ["2 m", "8 m", "16 m", "24 m", "32 m", "40 m"]),
            rows: |_, _, run| vec![vec![("h", setting("height")), ("t", meter(run, "time"))]],
            worked: &[("tsq", "t^2")],
            axes: ["tsq", "h"],
            slope: "g/2",
        },
        Way {
            sheet: include_str!("../../../../labs/4.4-terminal-speed.md"),
            chosen: &[],
            trials: series("diameter", ["2.00 mm", "2.50 mm", "3.00 mm", "3.50 mm", "4.00 mm", "4.50 mm"]),
            // The speedometer in the middle of the glass.
            rows: |_, run, number| {
                let frame = run.frames() as u32 / 2;
                let speed = Instrument::Meter { run: number, name: "speed".into(), frame };
                vec![vec![("d", setting("diameter")), ("v", Taken::By(speed))]]
            },
            worked: &[("dsq", "d^2")],
            axes: ["dsq", "v"],
            slope: "(ρ_b - ρ_o)*g/(18*η)",
        },
        Way {
            sheet: include_str!("../../../../labs/4.5-range.md"),
            chosen: &[("air", "off")],
            trials: series("angle", ["10", "20", "30", "40", "50", "60", "70", "80"]),
            rows: |_, _, run| vec![vec![("α", setting("angle")), ("R", meter(run, "range"))]],
            worked: &[("w", "sin(2*α)")],
            axes: ["w", "R"],
            slope: "v_0^2/g",
        },
        Way {
            sheet: include_str!("../../../../labs/4.6-two-directions.md"),
            chosen: &[],
            trials: series("speed", ["0", "5", "10", "15", "20", "25"]),
            rows: |_, _, run| {
                vec![vec![("v_0", setting("speed")), ("t", meter(run, "time")), ("R", meter(run, "range"))]]
            },
            worked: &[],
            axes: ["v_0", "R"],
            slope: "sqrt(2*h/g)",
        },
        Way {
            sheet: include_str!("../../../../labs/3.4-cabins-at-the-mast.md"),
            chosen: &[],
            trials: vec![vec![]; 6],
            // From the first frame in which the nose is past the mast to the first in which the tail is.
            rows: |book, run, number| {
                let split = |channel: &str, meter: &str| {
                    let (x, v) = (run.channel(channel).unwrap(), run.channel(meter).unwrap()[0]);
                    let length =
                        book.rule(if channel == "x" { "length 1" } else { "length 2" }).unwrap().value.si().unwrap();
                    let past = |by: f64| x.iter().position(|x| v.signum() * x >= by).unwrap() as u32;
                    Taken::By(Instrument::Split { of: Footage::Run(number), start: past(0.0), end: past(length) })
                };
                vec![vec![("t_1", split("x", "v")), ("t_2", split("x second", "v second"))]]
            },
            worked: &[("u", "L_1/t_1 ± L_2/t_2")],
            axes: ["t_1", "u"],
            slope: "",
        },
    ]
}

/// Forces, springs, momentum.
#[expect(clippy::too_many_lines, reason = "a list, one lab after the other")]
fn forces() -> Vec<Way> {
    vec![
        Way {
            sheet: include_str!("../../../../labs/5.6-bobbing-load.md"),
            chosen: &[("pull", "2.0 cm")],
            trials: series("load", ["200 g", "300 g", "400 g", "500 g", "600 g", "700 g"]),
            rows: |_, run, number| {
                let split = Instrument::Split { of: Footage::Run(number), start: lowest(run, 1), end: lowest(run, 11) };
                vec![vec![("m", setting("load")), ("t10", Taken::By(split))]]
            },
            worked: &[("Tsq", "(t10/10)^2")],
            axes: ["m", "Tsq"],
            slope: "4*pi^2/k",
        },
        Way {
            sheet: include_str!("../../../../labs/5.1-thrust.md"),
            chosen: &[],
            trials: series("thrust 1", ["0.20 N", "0.60 N", "1.00 N", "1.40 N", "1.80 N", "2.20 N"]),
            rows: |_, _, run| vec![vec![("F", meter(run, "force")), ("t", meter(run, "time"))]],
            worked: &[("a", "2*3.00 [m]/t^2")],
            axes: ["F", "a"],
            slope: "1/m",
        },
        Way {
            sheet: include_str!("../../../../labs/5.2-loads.md"),
            chosen: &[],
            trials: series(
                "load",
                ["0 kg", "0.25 kg", "0.50 kg", "0.75 kg", "1.00 kg", "1.25 kg", "1.50 kg", "2.00 kg"],
            ),
            rows: |_, _, run| vec![vec![("m_l", setting("load")), ("t", meter(run, "time"))]],
            worked: &[("a", "2*3.00 [m]/t^2"), ("w", "1/(m_t + m_l)")],
            axes: ["w", "a"],
            slope: "F",
        },
        Way {
            sheet: include_str!("../../../../labs/5.3-worlds.md"),
            chosen: &[("world", "unknown")],
            trials: series("angle", ["5", "15", "25", "35", "45", "60"]),
            rows: |_, _, run| vec![vec![("α", setting("angle")), ("t", meter(run, "time"))]],
            worked: &[("a", "2*2.00 [m]/t^2"), ("w", "sin(α)")],
            axes: ["w", "a"],
            slope: "g",
        },
        Way {
            sheet: include_str!("../../../../labs/5.4-spring-balance.md"),
            chosen: &[("spring", "specimen")],
            trials: series("load", ["0 g", "40 g", "80 g", "120 g", "160 g", "200 g"]),
            // By eye to a fifth of a millimetre.
            rows: |_, run, _| {
                let fifths = (run.channel("pointer").unwrap()[0] * 5000.0).round();
                vec![vec![("m", setting("load")), ("s", Taken::Typed(format!("{:.2}", fifths / 50.0)))]]
            },
            worked: &[],
            axes: ["m", "s"],
            slope: "[g_n]/k",
        },
        Way {
            sheet: include_str!("../../../../labs/5.5-rolling.md"),
            chosen: &[("body", "ball")],
            trials: series("angle", ["5", "12", "19", "26", "33", "40"]),
            rows: |_, _, run| vec![vec![("α", setting("angle")), ("t", meter(run, "time"))]],
            worked: &[("a", "2*3.00 [m]/t^2"), ("p", "9.81 [m/s^2]*sin(α)")],
            axes: ["p", "a"],
            slope: "q",
        },
        Way {
            sheet: include_str!("../../../../labs/6.1-whirling-table.md"),
            chosen: &[],
            trials: series("speed", ["0.50", "1.60", "2.70", "3.80", "4.90", "6.00"]),
            rows: |_, _, run| vec![vec![("v", setting("speed")), ("F", meter(run, "force"))]],
            worked: &[("vsq", "v^2")],
            axes: ["vsq", "F"],
            slope: "m/r",
        },
        Way {
            sheet: include_str!("../../../../labs/7.2-two-carriages.md"),
            chosen: &[],
            trials: series("velocity 1", ["0.30", "0.50", "0.70", "0.90", "1.10", "1.30"]),
            rows: |_, _, run| {
                vec![vec![
                    ("u_1", meter(run, "before 1")),
                    ("v_1", meter(run, "after 1")),
                    ("v_2", meter(run, "after 2")),
                ]]
            },
            worked: &[("p", "m_1*(u_1 - v_1)")],
            axes: ["v_2", "p"],
            slope: "m_2",
        },
        Way {
            sheet: include_str!("../../../../labs/7.1-what-stays.md"),
            chosen: &[],
            trials: [
                ("0.40", "-0.20"),
                ("0.80", "-0.40"),
                ("0.90", "0.30"),
                ("1.20", "-0.60"),
                ("1.40", "0.20"),
                ("0.60", "-1.00"),
            ]
            .map(|(one, two)| vec![("velocity 1", one.to_owned()), ("velocity 2", two.to_owned())])
            .into(),
            rows: |_, _, run| {
                let gates = [("u_1", "before 1"), ("u_2", "before 2"), ("v_1", "after 1"), ("v_2", "after 2")];
                vec![gates.map(|(symbol, name)| (symbol, meter(run, name))).into()]
            },
            worked: &[("d", "v_2 - v_1"), ("c", "u_1 - u_2")],
            axes: ["c", "d"],
            slope: "e",
        },
    ]
}

/// Tracks, planets, the pull of lead, the moon.
#[expect(clippy::too_many_lines, reason = "a list, one lab after the other")]
fn energy_and_gravitation() -> Vec<Way> {
    vec![
        Way {
            sheet: include_str!("../../../../labs/8.1-hill-railway.md"),
            chosen: &[],
            trials: series("gate 1", ["0.40", "0.80", "1.20", "1.60", "2.00", "2.40"]),
            rows: |_, _, _| vec![vec![(WHOLE, Taken::Typed(String::new()))]],
            worked: &[("q", "v^2")],
            axes: ["h", "q"],
            slope: "2*g",
        },
        Way {
            sheet: include_str!("../../../../labs/8.2-round-the-loop.md"),
            chosen: &[],
            trials: ["0.40", "0.60", "0.80", "1.00", "1.20"].map(just_round).into(),
            rows: |_, run, number| {
                // The loop's radius, as it was typed: half of how high it is above its foot.
                let y = run.channel("y").unwrap();
                let s = run.channel("s").unwrap();
                let foot = s.iter().zip(y).filter(|(s, _)| **s > 8.0).map(|(_, y)| *y).fold(0.0, f64::max);
                let height = Instrument::Meter { run: number, name: "height".into(), frame: 0 };
                vec![vec![("R", Taken::Typed(format!("{:.2}", (foot / 0.4).round() * 0.2))), ("h", Taken::By(height))]]
            },
            worked: &[],
            axes: ["R", "h"],
            slope: "q",
        },
        Way {
            sheet: include_str!("../../../../labs/9.1-years-of-the-planets.md"),
            chosen: &[],
            trials: ["0.5", "0.7", "0.9", "1.2", "1.5", "2", "2.5", "3", "3.5", "4"]
                .map(|x| {
                    // Slow enough for the lightest of these suns.
                    let speed = 0.7 * 29.78 * (0.6 / x.parse::<f64>().unwrap()).sqrt();
                    vec![("x", x.to_owned()), ("v_y", format!("{speed:.1}"))]
                })
                .into(),
            rows: |_, _, _| vec![vec![(WHOLE, Taken::Typed(String::new()))]],
            worked: &[("c", "((r_p + r_a)/2)^3"), ("q", "T^2")],
            axes: ["c", "q"],
            slope: "4*pi^2/([G]*M_s)",
        },
        Way {
            sheet: include_str!("../../../../labs/9.2-the-pull-of-lead.md"),
            chosen: &[],
            trials: [
                ("40", "500", "300"),
                ("80", "500", "300"),
                ("120", "500", "300"),
                ("160", "500", "300"),
                ("100", "200", "300"),
                ("100", "800", "300"),
                ("100", "500", "400"),
                ("100", "500", "600"),
            ]
            .map(|(large, small, apart)| {
                vec![("large", large.to_owned()), ("small", small.to_owned()), ("distance", apart.to_owned())]
            })
            .into(),
            rows: |_, _, _| vec![vec![(WHOLE, Taken::Typed(String::new()))]],
            worked: &[("w", "m_1*m_2/r^2")],
            axes: ["w", "F"],
            slope: "G",
        },
        Way {
            sheet: include_str!("../../../../labs/9.3-nights-with-the-moon.md"),
            chosen: &[],
            trials: ["0", "3", "6", "8", "11", "14", "17", "20", "23", "26"]
                .map(|night| vec![("night", night.to_owned()), ("pointing", AT_THE_MOON.to_owned())])
                .into(),
            rows: |book, run, number| {
                let settings = book.run_settings(number).unwrap();
                let [d, s] = plates(&rig("moon").unwrap().scene(&settings, run));
                vec![vec![("n", setting("night")), ("d", typed_to(d, 2)), ("s", typed_to(s, 2))]]
            },
            worked: &[
                ("r", "[c]*d*0.25 [s/\"divisions\"]/2"),
                ("o", "s*0.2 [deg/\"divisions\"]/90 [min]"),
                ("v", "o*r"),
                ("q", "v*r"),
            ],
            axes: ["r", "q"],
            slope: "",
        },
    ]
}

/// A wire, liquids, a pipe, cogs.
fn waves_liquids_and_counting() -> Vec<Way> {
    vec![
        Way {
            sheet: include_str!("../../../../labs/11.1-the-bell-wire.md"),
            chosen: &[],
            trials: series("frequency", [2, 3, 4, 5, 6, 7].map(tuned).each_ref().map(String::as_str)),
            rows: |book, run, number| vec![vec![("f", setting("frequency")), ("b", nodes_apart(book, run, number))]],
            worked: &[("λ", "2*b"), ("w", "1/f")],
            axes: ["w", "λ"],
            slope: "c",
        },
        Way {
            sheet: include_str!("../../../../labs/11.2-pulled-tighter.md"),
            chosen: &[],
            trials: ["150 g", "400 g", "700 g", "1000 g", "1400 g", "1900 g"]
                .map(|load| vec![("load", load.to_owned()), ("frequency", tuned(4))])
                .into(),
            rows: |book, run, number| {
                let b = nodes_apart(book, run, number);
                vec![vec![("m", setting("load")), ("f", setting("frequency")), ("b", b)]]
            },
            worked: &[("q", "(2*b*f)^2")],
            axes: ["m", "q"],
            slope: "[g_n]/μ",
        },
        Way {
            sheet: include_str!("../../../../labs/12.1-the-deep-basin.md"),
            chosen: &[("liquid", "unknown")],
            trials: series("depth 1", ["0.50 m", "2.00 m", "4.00 m", "6.00 m", "8.00 m", "10.00 m"]),
            rows: |_, _, _| vec![vec![(WHOLE, Taken::Typed(String::new()))]],
            worked: &[],
            axes: ["d", "p"],
            slope: "9.81 [m/s^2]*ρ",
        },
        Way {
            sheet: include_str!("../../../../labs/12.2-narrow-and-wide.md"),
            chosen: &[],
            trials: series("diameter 2", ["60 mm", "65 mm", "70 mm", "80 mm", "95 mm", "120 mm"]),
            rows: |_, _, _| vec![vec![(WHOLE, Taken::Typed(String::new()))]],
            worked: &[("w", "4/(pi*d^2)")],
            axes: ["w", "v"],
            slope: "Q",
        },
        Way {
            sheet: include_str!("../../../../labs/12.3-down-to-the-saw.md"),
            chosen: &[],
            trials: series("place", ["1.00", "1.80", "2.20", "2.50", "3.00", "3.60", "4.00", "5.00"]),
            rows: |_, _, _| vec![vec![(WHOLE, Taken::Typed(String::new()))]],
            worked: &[("u", "v^2/2 + 9.81 [m/s^2]*h")],
            axes: ["u", "p"],
            slope: "-ρ",
        },
        Way {
            sheet: include_str!("../../../../labs/13.1-a-hundred-cogs.md"),
            chosen: &[],
            trials: series("number", ["5", "12", "20", "30", "40", "50"]),
            rows: |_, _, _| vec![vec![(WHOLE, Taken::Typed(String::new()))]],
            worked: &[],
            axes: ["n", "m"],
            slope: "μ",
        },
    ]
}

/// A frequency at which the wire swings widest with so many loops, and the direction in which the moon is: what a student finds by the meter.
fn tuned(loops: u32) -> String {
    format!("tuned to {loops}")
}
const AT_THE_MOON: &str = "at the moon";

/// The settings as they are, hidden ones included.
fn as_set(book: &Logbook) -> Settings {
    let mut all = Settings::default();
    for rule in book.rules() {
        all.put(rule.name, book.state().run.settings.get(rule.name).unwrap_or(&rule.value));
    }
    all
}

/// What is to be typed where a value is found by trying.
pub fn tried(book: &Logbook, typed: &str) -> String {
    let rig = book.sheet().rig().unwrap();
    let mut settings = as_set(book);
    let mut best = |name: &str, meter: &str, middle: f64, step: f64, many: i32| {
        let mut shown = |k: i32| {
            let value = middle + f64::from(k) * step;
            settings.set(name, value);
            let run = rig.run(&settings, 0, Sampling { every: 1.0, duration: 1.0 }).unwrap();
            (value, run.found(meter).unwrap())
        };
        (-many..=many).map(&mut shown).max_by(|a, b| a.1.total_cmp(&b.1)).unwrap().0
    };
    if let Some(loops) = typed.strip_prefix("tuned to ") {
        let loops: f64 = loops.parse().unwrap();
        let settings = as_set(book);
        let c = rig.truths(&settings).into_iter().find(|(name, _)| *name == "c").unwrap().1;
        let near = (loops * c / (2.0 * settings.get("length")) * 10.0).round() / 10.0;
        return format!("{:.1} Hz", best("frequency", "amplitude", near, 0.1, 15));
    }
    if typed == AT_THE_MOON {
        let degree = 1f64.to_radians();
        let coarse = best("pointing", "strength", 180.0 * degree, 6.0 * degree, 30);
        let near = best("pointing", "strength", coarse, 0.5 * degree, 12);
        let fine = best("pointing", "strength", near, 0.05 * degree, 10);
        return format!("{:.2}", fine.to_degrees().rem_euclid(360.0));
    }
    typed.to_owned()
}

fn typed_to(value: f64, places: usize) -> Taken {
    Taken::Typed(format!("{value:.places$}"))
}

/// The distance of two nodes, from a tape over all loops that is read to a millimetre.
pub fn nodes_apart(book: &Logbook, run: &Run, number: u32) -> Taken {
    let settings = book.run_settings(number).unwrap();
    let scene = rig("wire").unwrap().scene(&settings, run);
    // Nodes are where the envelope is narrowest.
    let envelope = scene.shapes.iter().find_map(|shape| match shape {
        SceneShape::Curve { points, sways, .. } if sways.is_empty() => Some(points),
        _ => None,
    });
    let points = envelope.unwrap();
    let mut nodes: Vec<f64> = Vec::new();
    for w in points.windows(3) {
        if w[1][1].abs() < w[0][1].abs() && w[1][1].abs() <= w[2][1].abs() {
            // Two straight sides meet at a node, one step wide.
            let (before, after) = (w[0][1].abs(), w[2][1].abs());
            let step = w[1][0] - w[0][0];
            nodes.push(w[1][0] + step * (before - after) / (before + after));
        }
    }
    let last = points.last().unwrap()[0];
    let inner: Vec<f64> = nodes.into_iter().filter(|x| (last - x) > 0.02 && *x > 0.05).collect();
    let first = inner.first().copied().unwrap();
    let loops = inner.len() as f64;
    typed_to(((last - first) * 1e3).round() / 1e3 / loops, if loops > 3.0 { 4 } else { 3 })
}

/// From pulse to pulse on the trace, and from place to place on the plate, in divisions.
fn plates(scene: &Scene) -> [f64; 2] {
    let curve = |channel: &str| {
        let mut all = scene.shapes.iter().filter_map(|shape| match shape {
            SceneShape::Curve { points, sways, .. } => Some((points, sways.first()?)),
            _ => None,
        });
        all.find(|(_, sway)| sway.channel == channel).unwrap_or_else(|| panic!("no {channel}"))
    };
    // The top of a bell, by the parabola through the logarithms of three places.
    let top = |channel: &str| {
        let (points, sway) = curve(channel);
        let k = (1..points.len() - 1).max_by(|a, b| sway.weights[*a].total_cmp(&sway.weights[*b])).unwrap();
        let [a, b, c] = [k - 1, k, k + 1].map(|i| sway.weights[i].ln());
        points[k][0] + 0.5 * (points[k][0] - points[k - 1][0]) * (a - c) / (a - 2.0 * b + c)
    };
    let [[x_1, y_1], [x_2, y_2]] = ["first exposure", "second exposure"].map(|e| curve(e).0[0]);
    [top("back") - top("sent"), (x_2 - x_1).hypot(y_2 - y_1)]
}
