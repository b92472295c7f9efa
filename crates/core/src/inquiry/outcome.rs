//! A hypothesis beside the record: where did the effect go when the cause was raised, and how did the curve run?

use super::evidence::shown;
use super::{CurvePick, Hypothesis};
use crate::fit::Seen;

/// How a hypothesis turned out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Turned {
    /// Whether the data run as stated.
    pub agrees: bool,
    /// Along which curve they run.
    pub curve: CurvePick,
}

/// Holds a hypothesis against the trials, x the cause and y the effect in any units, by what they show within their uncertainty: as a claim is
/// judged. One that turned out wrong is told like one that turned out right. `None` for fewer than three values of the cause.
pub fn outcome(hypothesis: &Hypothesis, points: &[Seen]) -> Option<Turned> {
    let shown = shown(points)?;
    let best = shown.best()?;
    let agrees = shown.shows(hypothesis.curve) == Some(true);
    let curve = if agrees { hypothesis.curve } else { best };
    Some(Turned { agrees, curve })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn direction_and_shape_are_told_from_the_trials() {
        let told = |curve, of: fn(f64) -> f64| {
            let (cause, effect, reason) = ("speed".to_owned(), "range".to_owned(), "so".to_owned());
            let h = Hypothesis { cause, effect, curve, reason, at: 0, brought: false };
            let points: Vec<Seen> = (1..=7).map(|i| Seen::from((f64::from(i), of(f64::from(i))))).collect();
            outcome(&h, &points)
        };
        use crate::inquiry::CurvePick::{
            FallsFlatter, FallsStraight, Level, RisesFlatter, RisesSteeper, RisesStraight, UpAndDown,
        };
        let agrees = |curve, of| told(curve, of).is_some_and(|r: Turned| r.agrees);
        assert!(agrees(RisesSteeper, |x| x * x));
        assert!(agrees(RisesFlatter, f64::sqrt) && agrees(FallsFlatter, |x| 1.0 / x));
        assert!(agrees(RisesStraight, |x| 3.0 * x + 0.02 * (5.0 * x).sin()));
        assert!(agrees(Level, |x| 2.0 + 0.01 * x.sin()));
        let wrong = told(FallsStraight, |x| x * x).unwrap();
        assert_eq!(wrong, Turned { agrees: false, curve: RisesSteeper });
        assert!(!agrees(RisesStraight, |x| x * x));
        assert!(agrees(UpAndDown, |x| (x * 0.45).sin()));
        assert_eq!(told(RisesStraight, |x| if x < 3.0 { x } else { f64::NAN }), None);
    }
}
