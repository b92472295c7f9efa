//! The step model: against SciPy and closed forms, the order of its methods, what it states of a fitted parameter, and nonsense.

use proptest::prelude::*;
use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use serde_json::Value;
use statrs::distribution::{ContinuousCDF, StudentsT};
use zeitmass_core::chance;
use zeitmass_core::formula::Problem;
use zeitmass_core::step_model::{
    ForceField, ForceName, Method, ModelError, ModelField, Readings, Sought, StepModel, Typed, agreement, read_model,
};

const DIAL: &str = "mass = \"4.3 g\"\nstep = \"1 ms\"\nuntil = \"2 s\"\nmethod = \"midpoint\"\nstart = { y = \"3.8 m\" }\n[[forces]]\nkind = \"weight\"\n[[forces]]\nkind = \"drag squared\"\nk = \"0.0125 kg/m\"\nfit = true\n";

fn model(text: &str) -> StepModel {
    read_model(text).unwrap_or_else(|e| panic!("{e:?}\n{text}")).0
}

fn reference() -> Value {
    serde_json::from_str(include_str!("../fixtures/step_model.json")).unwrap()
}

/// `tools/reference/step_model.py`: SciPy's solve_ivp (DOP853) at a tolerance of 1e-12.
#[test]
fn in_the_limit_it_agrees_with_scipy() {
    let head = "step = \"0.2 ms\"\nmethod = \"midpoint\"\n";
    let drag =
        |k: &str| format!("[[forces]]\nkind = \"weight\"\n[[forces]]\nkind = \"drag squared\"\nk = \"{k} kg/m\"\n");
    let cases = [
        ("dial", format!("mass = \"4.3 g\"\nuntil = \"2 s\"\nstart = {{ y = \"3.8 m\" }}\n{head}{}", drag("0.0125"))),
        (
            "thrown dial",
            format!(
                "mass = \"4.3 g\"\nuntil = \"1.5 s\"\nstart = {{ y = \"1 m\", v_x = \"6 m/s\", v_y = \"5 m/s\" }}\n{head}{}",
                drag("0.002")
            ),
        ),
        (
            "spring",
            format!(
                "mass = \"0.3 kg\"\nuntil = \"3 s\"\nstart = {{ y = \"0.1 m\" }}\n{head}[[forces]]\nkind = \"weight\"\n[[forces]]\nkind = \"spring\"\nk = \"12 N/m\"\ny = \"0.5 m\"\n[[forces]]\nkind = \"drag\"\nk = \"0.2 kg/s\"\n"
            ),
        ),
        (
            "own",
            format!(
                "mass = \"200 g\"\nuntil = \"4 s\"\nstart = {{ x = \"10 cm\" }}\nheld = {{ c = \"0.5 N/m\", w = \"3 1/s\" }}\n{head}[[forces]]\nkind = \"own\"\nx = \"0.4 [N]*sin(w*t) - c*x\"\n"
            ),
        ),
    ];
    let all = reference();
    for (name, text) in cases {
        let wanted = &all["cases"][name];
        let ledger = model(&text).run().unwrap();
        for (i, t) in wanted["t"].as_array().unwrap().iter().enumerate() {
            let found = ledger.position_at(t.as_f64().unwrap().min(ledger.steps.last().unwrap().t)).unwrap();
            for (k, axis) in ["x", "y"].into_iter().enumerate() {
                let off = found[k] - wanted[axis][i].as_f64().unwrap();
                assert!(off.abs() < 2e-6, "{name}, {axis} at {t}: {off}");
            }
        }
    }
}

/// A fall with drag by the square of the speed: v = v∞ tanh(g t/v∞), fallen v∞²/g ln cosh(g t/v∞) (L. D. Landau, E. M. Lifshitz have it as an
/// exercise; from memory). Halving the step halves the error of both simple methods and quarters that of the midpoint.
#[test]
fn every_method_has_its_order() {
    let end = 0.8_f64;
    let (m, k, g) = (0.0043_f64, 0.0125, 9.80665);
    let steady = (m * g / k).sqrt();
    let exact = 3.8 - steady * steady / g * (g * end / steady).cosh().ln();
    for (method, order) in [(Method::OldVelocity, 1.0), (Method::NewVelocity, 1.0), (Method::Midpoint, 2.0)] {
        let off = |step: f64| {
            let model = StepModel { method, step, until: end, ..model(DIAL) };
            (model.run().unwrap().position_at(end).unwrap()[1] - exact).abs()
        };
        let found = (off(0.004) / off(0.002)).log2();
        assert!((found - order).abs() < 0.1, "{}: {found}", method.name());
        assert!(off(1e-4) < 1e-3);
    }
    // What half the step changes is said, and is about the error itself for the simple methods.
    let coarse = StepModel { method: Method::OldVelocity, step: 0.02, until: end, ..model(DIAL) };
    assert!(coarse.effect_of_step().unwrap() > 0.002);
}

/// Under a constant force the midpoint method is exact; the simple ones give velocities exactly and places off by a·t·Δt/2, one on either side.
#[test]
fn a_constant_force_is_exact_where_the_method_has_it() {
    let text = "mass = \"2 kg\"\nstep = \"0.1 s\"\nuntil = \"3 s\"\nstart = { v_x = \"1 m/s\", v_y = \"20 m/s\" }\n[[forces]]\nkind = \"weight\"\ng = \"10 m/s^2\"\n";
    let at_end = |method| {
        let ledger = StepModel { method, ..model(text) }.run().unwrap();
        let last = ledger.steps.last().unwrap().clone();
        (last.position, last.velocity)
    };
    let (exact_y, off) = (20.0 * 3.0 - 0.5 * 10.0 * 9.0, 0.5 * 10.0 * 3.0 * 0.1);
    for (method, wanted) in
        [(Method::OldVelocity, exact_y + off), (Method::NewVelocity, exact_y - off), (Method::Midpoint, exact_y)]
    {
        let (position, velocity) = at_end(method);
        assert!(
            (position[1] - wanted).abs() < 1e-9 && (position[0] - 3.0).abs() < 1e-12,
            "{}: {position:?}",
            method.name()
        );
        assert!((velocity[1] + 10.0).abs() < 1e-9);
    }
}

/// fluids' v_terminal for a ball in air, through k = ½ρc_D A and with buoyancy; and the time to 99 % of it, artanh(0.99) v∞/g.
#[test]
fn terminal_speeds_agree_with_fluids_and_with_the_closed_form() {
    let t = &reference()["terminal"];
    let value = |name: &str| t[name].as_f64().unwrap();
    let text = format!(
        "mass = \"{} kg\"\nstep = \"2 ms\"\nuntil = \"9 s\"\nmethod = \"midpoint\"\n[[forces]]\nkind = \"weight\"\n[[forces]]\nkind = \"buoyancy\"\ndensity = \"{} kg/m^3\"\nvolume = \"{} m^3\"\n[[forces]]\nkind = \"drag squared\"\nk = \"{} kg/m\"\n",
        value("mass"),
        value("density"),
        value("volume"),
        value("k"),
    );
    // A typed number has 24 characters at most.
    let text = text.replace("0.0008377580409572782", "8.377580409572782e-4");
    let found = model(&text).terminal_speed().unwrap().unwrap();
    assert!((found.speed / value("speed") - 1.0).abs() < 1e-6, "{found:?}");
    let dial = model(DIAL).terminal_speed().unwrap().unwrap();
    let steady = (0.0043_f64 * 9.80665 / 0.0125).sqrt();
    assert!((dial.speed / steady - 1.0).abs() < 1e-9);
    let reached = 0.99_f64.atanh() * steady / 9.80665;
    assert!((dial.after.unwrap() - reached).abs() < 0.002, "{dial:?}, {reached}");
    // Nothing holds back a body without drag, and a spring leads nowhere.
    let off = DIAL.replace("k = \"0.0125 kg/m\"", "k = \"0.0125 kg/m\"\non = false").replace("fit = true\n", "");
    assert_eq!(model(&off).terminal_speed().unwrap(), None);
}

/// A braked sledge comes to rest and stays there, on a slope that pulls less than friction holds; with more pull it slides on.
#[test]
fn friction_stops_and_never_turns_back() {
    let sledge = |pull: &str| {
        format!(
            "mass = \"5 kg\"\nstep = \"10 ms\"\nuntil = \"3 s\"\nstart = {{ v_x = \"2 m/s\" }}\n[[forces]]\nkind = \"friction\"\nforce = \"10 N\"\n[[forces]]\nkind = \"push\"\nx = \"{pull}\"\nto = \"9 s\"\n"
        )
    };
    for name in Method::ALL.iter().map(|m| m.name()) {
        let run = |pull: &str| {
            model(&sledge(pull).replacen("until", &format!("method = \"{name}\"\nuntil"), 1)).run().unwrap()
        };
        let ledger = run("-4 N");
        let last = ledger.steps.last().unwrap();
        assert_eq!(last.velocity, [0.0, 0.0], "{name}");
        // v²/(2a) with a = 14 N/5 kg.
        assert!((last.position[0] - 4.0 / 5.6).abs() < 0.02, "{name}: {last:?}");
        let speeds: Vec<f64> = ledger.steps.iter().map(|s| s.velocity[0]).collect();
        assert!(speeds.iter().all(|v| *v >= 0.0), "{name} turned back");
        assert!(run("-12 N").steps.last().unwrap().velocity[0] < -0.1, "{name}: a stronger pull turns it round");
    }
}

/// The drag of a dial from its marked places: the truth within the stated uncertainty as often as it should be, at four marks and at forty.
#[test]
fn a_fitted_drag_takes_in_the_truth() {
    let mut random = StdRng::seed_from_u64(2);
    let mut normal = || chance::normal(random.random_range(f64::MIN_POSITIVE..1.0), random.random_range(0.0..1.0));
    let start = StepModel { step: 0.01, ..model(&DIAL.replace("0.0125", "0.02")) };
    let truth = StepModel { step: 0.001, ..model(DIAL) }.run().unwrap();
    let labs: u32 = std::env::var("ZEITMASS_TRUTH_LABS").ok().and_then(|n| n.parse().ok()).unwrap_or(300);
    for n in [4_u32, 40] {
        let student = |share: f64| StudentsT::new(0.0, 1.0, f64::from(n - 1)).unwrap().inverse_cdf(0.5 + 0.5 * share);
        let (mut one, mut two, mut chi) = (0, 0, 0.0);
        for _ in 0..labs {
            let t: Vec<f64> = (0..n).map(|i| 0.1 + 1.7 * f64::from(i) / f64::from(n - 1)).collect();
            let y = t.iter().map(|t| truth.position_at(*t).unwrap()[1] + 0.004 * normal()).collect();
            let readings = Readings { t, y: Some(y), u: Some(0.004), ..Readings::default() };
            let found = start.fitted(&Sought { place: 1, start: false, mass_u: 0.0 }, &readings).unwrap();
            let off = (found.parameter.value - 0.0125).abs() / found.parameter.u;
            one += u32::from(off <= student(0.6827));
            two += u32::from(off <= student(0.9545));
            chi += found.agreement.in_uncertainties.unwrap().powi(2) / f64::from(labs);
        }
        let percent = |k: u32| 100.0 * f64::from(k) / f64::from(labs);
        let scatter = |p: f64| 300.0 * (p * (1.0 - p) / f64::from(labs)).sqrt();
        assert!(
            (percent(one) - 68.27).abs() <= 3.0 + scatter(0.68) && (percent(two) - 95.45).abs() <= 2.0 + scatter(0.95),
            "{n}: {one} and {two} of {labs}"
        );
        // About one where the model is right.
        let wanted = f64::from(n - 1) / f64::from(n);
        assert!((chi / wanted - 1.0).abs() < 0.15, "{n}: {chi}");
    }
    // Without drag it is far off, and says so.
    let bare = model(&DIAL.replace("fit = true", "on = false"));
    let t: Vec<f64> = (0..20).map(|i| 0.09 * f64::from(i)).collect();
    let y = t.iter().map(|t| truth.position_at(*t).unwrap()[1]).collect();
    let far =
        agreement(&bare.run().unwrap(), &Readings { t, y: Some(y), u: Some(0.004), ..Readings::default() }).unwrap();
    assert!(far.in_uncertainties.unwrap() > 100.0);
}

/// The last reading is part of the run, however steps add up.
#[test]
fn the_last_reading_is_never_lost_to_rounding() {
    for start in [0.0, 0.1, 0.1167, 0.35] {
        for count in 1..400 {
            let end = format!("{:.4}", start + 0.05 * f64::from(count));
            let text = format!(
                "mass = \"1 kg\"\nstep = \"0.05 s\"\nuntil = \"{end} s\"\nstart = {{ t = \"{start} s\" }}\n[[forces]]\nkind = \"weight\"\n"
            );
            let ledger = model(&text).run().unwrap();
            let end: f64 = end.parse().unwrap();
            assert!(ledger.position_at(end).is_some() && ledger.velocity_at(end).is_some(), "{start} to {end}");
            assert!(ledger.position_at(start).is_some() && ledger.position_at(start - 0.01).is_none());
        }
    }
}

#[test]
fn nonsense_is_told_with_its_reason() {
    type Is = fn(&ModelError) -> bool;
    let told: [(&str, &str, Is); 14] = [
        ("4.3 g", "0 g", |e| *e == ModelError::Mass),
        ("4.3 g", "4.3 s", |e| matches!(e, ModelError::OtherUnit { what: Typed::Model(ModelField::Mass), .. })),
        ("1 ms", "-1 ms", |e| *e == ModelError::TimeStep),
        ("1 ms", "1 us", |e| *e == ModelError::TooManySteps { most: 200_000 }),
        ("2 s", "0 s", |e| *e == ModelError::End),
        ("midpoint", "magic", |e| matches!(e, ModelError::Unreadable(why) if why.contains("magic"))),
        ("y = \"3.8 m\"", "z = \"3.8 m\"", |e| matches!(e, ModelError::Unreadable(why) if why.contains("`z`"))),
        ("kind = \"weight\"", "kind = \"love\"", |e| matches!(e, ModelError::Unreadable(why) if why.contains("love"))),
        ("k = \"0.0125 kg/m\"", "k = \"0.0125 kg/s\"", |e| {
            matches!(e, ModelError::OtherUnit { what: Typed::Force(ForceField::K), .. })
        }),
        ("k = \"0.0125 kg/m\"\n", "", |e| {
            *e == ModelError::FieldWanted { force: ForceName::DragSquared, field: ForceField::K }
        }),
        ("[[forces]]\nkind = \"weight\"", "[[forces]]\nkind = \"weight\"\nfit = true", |e| *e == ModelError::TwoFitted),
        ("kind = \"weight\"", "kind = \"own\"\ny = \"m*x\"", |e| matches!(e, ModelError::NoForce { .. })),
        (
            "kind = \"weight\"",
            "kind = \"own\"\ny = \"q*x\"",
            |e| matches!(e, ModelError::Formula { error, .. } if error.problem == Problem::UnknownSymbol("q".into())),
        ),
        ("mass", "# mass", |e| matches!(e, ModelError::Unreadable(why) if why.contains("`mass`"))),
    ];
    for (from, to, is) in told {
        assert!(DIAL.contains(from), "{from}");
        let why = read_model(&DIAL.replacen(from, to, 1)).expect_err(to);
        assert!(is(&why), "{to}: {why:?}");
    }
    // Steps far too long for a stiff drag grow beyond all bounds, and that is said.
    let wild = DIAL
        .replace("4.3 g", "0.01 g")
        .replace("1 ms", "0.5 s")
        .replace("midpoint", "old velocity")
        .replace("2 s", "60 s");
    assert!(matches!(model(&wild).run(), Err(ModelError::Diverges { .. })));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    /// Whatever the numbers: a run ends, or says why not; every step's net force is the sum of its forces, and leads to the next velocity.
    #[test]
    fn every_step_follows_from_the_one_before(
        m in 0.01f64..5.0, k in 0.0f64..2.0, c in 0.0f64..30.0, f in 0.0f64..5.0, v in -10.0f64..10.0, h in 0.001f64..0.1, which in 0usize..3,
    ) {
        let text = format!("mass = \"{m:.4} kg\"\nstep = \"{h:.4} s\"\nuntil = \"1 s\"\nmethod = \"{}\"\nstart = {{ x = \"0.3 m\", v_x = \"{v:.3} m/s\" }}\n[[forces]]\nkind = \"drag\"\nk = \"{k:.4} kg/s\"\n[[forces]]\nkind = \"spring\"\nk = \"{c:.3} N/m\"\n[[forces]]\nkind = \"friction\"\nforce = \"{f:.3} N\"\n", Method::ALL[which].name());
        let model = model(&text);
        let Ok(ledger) = model.run() else { return Ok(()) };
        for pair in ledger.steps.windows(2) {
            let (a, b) = (&pair[0], &pair[1]);
            let sum: f64 = a.forces.iter().map(|f| f[0]).sum();
            prop_assert!((sum - a.net[0]).abs() <= 1e-9 * (1.0 + sum.abs()));
            prop_assert!((b.t - a.t - model.step).abs() < 1e-9);
            let by_net = a.velocity[0] + model.step * a.net[0] / model.mass;
            if model.method != Method::Midpoint && b.velocity[0] != 0.0 {
                prop_assert!((b.velocity[0] - by_net).abs() <= 1e-9 * (1.0 + by_net.abs()));
            }
        }
    }
}
