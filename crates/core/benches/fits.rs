//! Times of fits, as lines `name seconds` (median of several runs). `benches/compare` sets them beside SciPy's.

use std::collections::BTreeMap;
use std::hint::black_box;
use std::io::Write;
use std::time::Instant;

use zeitmass_core::fit::{Data, Model, Typed, Weighting, fit, fit_line};
use zeitmass_core::formula::{Formula, Tape};
use zeitmass_core::quantity::Unit;

/// Median time of a run, in seconds.
fn median(runs: usize, mut work: impl FnMut()) -> f64 {
    work();
    let mut times: Vec<f64> = (0..runs)
        .map(|_| {
            let begun = Instant::now();
            work();
            begun.elapsed().as_secs_f64()
        })
        .collect();
    times.sort_by(f64::total_cmp);
    times[runs / 2]
}

/// Numbers that look like scatter, the same every time.
fn scatter(i: usize) -> f64 {
    let x = (i as u64).wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 11;
    x as f64 / (1u64 << 53) as f64 - 0.5
}

fn main() -> std::io::Result<()> {
    let mut out = std::io::stdout().lock();
    let n = 1_000_000;
    let x: Vec<f64> = (0..n).map(|i| i as f64 * 1e-3).collect();
    let y: Vec<f64> = x.iter().enumerate().map(|(i, x)| 2.5 * x - 1.0 + scatter(i)).collect();
    let line = median(15, || {
        let _ = black_box(fit_line(black_box(&x), black_box(&y), false));
    });
    writeln!(out, "line_1000000 {line:e}")?;

    let t: Vec<f64> = (0..1000).map(|i| i as f64 * 5e-3).collect();
    let cooling: Vec<f64> =
        t.iter().enumerate().map(|(i, t)| 55.0 * (-0.8 * t).exp() + 21.0 + 0.2 * scatter(i)).collect();
    let wave: Vec<f64> = t
        .iter()
        .enumerate()
        .map(|(i, t)| 0.12 * (-0.2 * t).exp() * (5.1 * t - 1.0).sin() + 0.03 + 0.002 * scatter(i))
        .collect();
    for (name, formula, y, start) in [
        ("exponential_1000", "a*exp(-b*x) + c", &cooling, [("a", 40.0), ("b", 0.5), ("c", 10.0)].to_vec()),
        (
            "damped_sine_1000",
            "a*exp(-k*x)*sin(w*x + p) + c",
            &wave,
            [("a", 0.1), ("k", 0.1), ("w", 5.0), ("p", -0.8), ("c", 0.0)].to_vec(),
        ),
    ] {
        let names: Vec<String> = start.iter().map(|(s, _)| (*s).to_owned()).collect();
        let start: BTreeMap<String, f64> = start.into_iter().map(|(s, v)| (s.to_owned(), v)).collect();
        let typed = Typed { formula: Formula::parse(formula).expect("a formula"), data: vec!["x".to_owned()], start };
        let model = Model::Typed(Box::new(typed));
        let data = Data { x: vec![t.clone()], y: y.clone(), ..Data::default() };
        let one = [Unit::ONE];
        let time = median(101, || {
            black_box(fit(black_box(&data), &model, Weighting::Equal, (&one, &Unit::ONE))).expect("a fit");
        });
        writeln!(out, "{name} {time:e}")?;
        // What a fit is made of: the curve and its slopes at all points, once.
        let names: Vec<&str> = names.iter().map(String::as_str).collect();
        let tape = Tape::new(&Formula::parse(formula).expect("a formula"), &["x"], &names).expect("a tape");
        let (mut values, mut slopes) = (vec![0.0; t.len()], vec![0.0; t.len() * names.len()]);
        let place = vec![0.5; names.len()];
        let once = median(501, || tape.evaluate(&[black_box(&t)], &place, &mut values, Some(&mut slopes)));
        writeln!(out, "{name}_once {once:e}")?;
    }
    Ok(())
}
