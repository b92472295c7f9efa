//! What a graph shows: axes with ticks, points, a line. No drawing here.

use crate::fit::LineFit;
use crate::quantity::Unit;
use crate::quantity::format::to_step;

/// Wanted number of intervals between labelled ticks.
const INTERVALS: f64 = 6.0;

/// One axis: title, range and ticks, in the unit of its column.
#[derive(Clone, Debug, PartialEq)]
pub struct Axis {
    /// Name of the column.
    pub name: String,
    /// Its symbol.
    pub symbol: String,
    /// Its unit.
    pub unit: Unit,
    /// Lower end.
    pub min: f64,
    /// Upper end.
    pub max: f64,
    /// Labelled ticks, ascending.
    pub ticks: Vec<Tick>,
}

/// A labelled tick.
#[derive(Clone, Debug, PartialEq)]
pub struct Tick {
    /// Where.
    pub value: f64,
    /// What stands there.
    pub label: String,
}

/// How a point came about, which decides its shape.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PointKind {
    /// Both values were read or set.
    Read,
    /// At least one value was worked out.
    Worked,
}

/// A point of the graph, in the units of the axes.
#[derive(Clone, Debug, PartialEq)]
pub struct Point {
    /// Id of its row in the record.
    pub row: u32,
    /// Number of its row as shown, from 1.
    pub number: usize,
    /// x in the axis's unit.
    pub x: f64,
    /// y in the axis's unit.
    pub y: f64,
    /// Value of x as shown in the record.
    pub x_text: String,
    /// Value of y as shown in the record.
    pub y_text: String,
    /// How it came about.
    pub kind: PointKind,
    /// Kept, but not used in the fit.
    pub aside: bool,
}

/// Everything a graph shows.
#[derive(Clone, Debug, PartialEq)]
pub struct Graph {
    /// What goes across.
    pub x: Axis,
    /// What goes up.
    pub y: Axis,
    /// The points, in the order of the rows.
    pub points: Vec<Point>,
    /// The best-fit line, if one was asked for and found.
    pub line: Option<LineFit>,
}

impl Axis {
    /// An axis that holds all values. Zero is included when it lies near: within the spread of the data.
    pub fn around(name: &str, symbol: &str, unit: Unit, values: impl Iterator<Item = f64>) -> Self {
        let (mut lo, mut hi) = values
            .filter(|v| v.is_finite())
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), v| (lo.min(v), hi.max(v)));
        if lo > hi {
            (lo, hi) = (0.0, 1.0);
        }
        let spread = hi - lo;
        if lo > 0.0 && lo <= spread.max(hi * 1e-9) {
            lo = 0.0;
        } else if hi < 0.0 && -hi <= spread.max(-lo * 1e-9) {
            hi = 0.0;
        }
        if hi - lo <= 1e-12 * hi.abs().max(lo.abs()) {
            let room = if hi == 0.0 { 1.0 } else { 0.1 * hi.abs() };
            (lo, hi) = (lo - room, hi + room);
        }
        let step = nice_step((hi - lo) / INTERVALS);
        // The last point keeps clear of the frame.
        let margin = 0.04 * (hi - lo);
        let first = if lo == 0.0 { 0.0 } else { ((lo - margin) / step).floor() };
        let last = if hi == 0.0 { 0.0 } else { ((hi + margin) / step).ceil() };
        let ticks = (0..=((last - first) as usize).min(40))
            .map(|i| {
                let value = (first + i as f64) * step;
                Tick { value, label: to_step(value, step) }
            })
            .collect();
        Self { name: name.to_owned(), symbol: symbol.to_owned(), unit, min: first * step, max: last * step, ticks }
    }

    /// Where a value lies along the axis: 0 at the lower end, 1 at the upper.
    pub fn share(&self, value: f64) -> f64 {
        (value - self.min) / (self.max - self.min)
    }
}

/// The step 1, 2 or 5 times a power of ten that is nearest above `rough`.
fn nice_step(rough: f64) -> f64 {
    let decade = 10f64.powf(rough.log10().floor());
    let share = rough / decade;
    let nice = [1.0, 2.0, 5.0, 10.0].into_iter().find(|s| share <= s * (1.0 + 1e-9)).unwrap_or(10.0);
    nice * decade
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn axis(values: &[f64]) -> Axis {
        Axis::around("length", "L", Unit::one(), values.iter().copied())
    }

    #[test]
    fn ticks_are_round_and_zero_is_shown_when_near() {
        let labels = |values| axis(values).ticks.into_iter().map(|t| t.label).collect::<Vec<_>>().join(" ");
        assert_eq!(labels(&[0.3, 1.5]), "0.0 0.5 1.0 1.5 2.0");
        assert_eq!(labels(&[1.2, 6.1]), "0 2 4 6 8");
        assert_eq!(labels(&[9.78, 9.82]), "9.77 9.78 9.79 9.80 9.81 9.82 9.83");
        assert_eq!(labels(&[]), "0.0 0.2 0.4 0.6 0.8 1.0 1.2");
        assert_eq!(labels(&[5.0]).split(' ').count(), 7);
    }

    proptest! {
        #[test]
        fn every_value_lies_on_the_axis(values in prop::collection::vec(-1e6f64..1e6, 1..20)) {
            let a = axis(&values);
            prop_assert!((2..=14).contains(&a.ticks.len()), "{a:?}");
            for v in values {
                prop_assert!((-1e-9..=1.0 + 1e-9).contains(&a.share(v)), "{v} {a:?}");
            }
        }
    }
}
