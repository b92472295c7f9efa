//! The curve pick: small sketches of curves to choose from.

use zeitmass_core::inquiry::CurvePick;
use zeitmass_words::forecasts::curve;

/// A shape to pick, with its small sketch.
pub(crate) struct PickView {
    pub name: &'static str,
    pub words: &'static str,
    pub path: String,
    pub chosen: bool,
}

/// All shapes; `chosen` is the one picked.
pub(crate) fn picks(chosen: Option<CurvePick>) -> Vec<PickView> {
    let view = |pick: &CurvePick| {
        let at = |k: i32| {
            let share = f64::from(k) / 20.0;
            format!("{:.1} {:.1}", 4.0 + 52.0 * share, 34.0 - 28.0 * pick.at(share))
        };
        let path = format!("M{}", (0..=20).map(at).collect::<Vec<_>>().join("L"));
        PickView { name: pick.name(), words: curve(*pick), path, chosen: chosen == Some(*pick) }
    };
    CurvePick::ALL.iter().map(view).collect()
}
