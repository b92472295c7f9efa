//! What a graph shows: axes with ticks, points, curves. No drawing here.
//!
//! [`GraphSpec`] is what is stored; [`build`] works out the [`Graph`] people see.

mod build;
mod pool;
mod spec;

use crate::fit::{Fit, FitError};
use crate::lab::Expected;
use crate::quantity::Unit;
use crate::quantity::format::to_step;
use crate::record::ColumnId;
pub(crate) use build::look_up;
pub use build::{LookError, build};
pub use pool::{PooledGraph, PooledPoint, PooledSeries, pooled};
pub use spec::{
    AxisScale, AxisSpec, FIRST_GRAPH, FitSpec, Gap, GraphId, GraphSpec, Look, MOST_GRAPHS, MOST_SERIES, MOST_STRETCHES,
    Stretch, StretchId,
};

/// Wanted number of intervals between labelled ticks.
const INTERVALS: f64 = 6.0;

/// One axis: title, range and ticks, in the unit of its column.
#[derive(Clone, Debug, PartialEq)]
pub struct Axis {
    /// Name of the column, or the title a person gave.
    pub name: String,
    /// Its symbol.
    pub symbol: String,
    /// Its unit.
    pub unit: Unit,
    /// How it runs.
    pub scale: AxisScale,
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
    /// Both values were read, set or given.
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
    /// Standard uncertainty of x.
    pub ux: f64,
    /// Standard uncertainty of y.
    pub uy: f64,
    /// Parts of these two that the point has to itself; without what it shares with all others, such as a film's scale.
    pub own: (f64, f64),
    /// Readings it was worked out from, (source, ∂x·u, ∂y·u); none where x and y are readings themselves. Points that share
    /// readings are known together.
    pub worked_from: Vec<(u64, f64, f64)>,
    /// What it owes to each shared source: (source, ∂x·u, ∂y·u).
    pub shared: Vec<(u64, f64, f64)>,
    /// Value of x as shown in the record; empty on graphs of very many points.
    pub x_text: String,
    /// Value of y as shown in the record; empty on graphs of very many points.
    pub y_text: String,
    /// Kept, but not used in the fit.
    pub aside: bool,
    /// What changed in its trial beside the quantity that is varied, in words; none where nothing else did.
    pub odd: Option<String>,
}

/// Points that belong together.
#[derive(Clone, Debug, PartialEq)]
pub struct Series {
    /// What the legend says.
    pub label: String,
    /// Symbol of what goes up.
    pub symbol: String,
    /// Columns across and up.
    pub columns: (ColumnId, ColumnId),
    /// How its points came about.
    pub kind: PointKind,
    /// The points, in the order of the rows.
    pub points: Vec<Point>,
}

/// A curve that was asked for.
#[derive(Clone, Debug)]
pub struct Fitted {
    /// Number of its series.
    pub series: usize,
    /// Its stretch with its letter, if it is not about the whole series.
    pub stretch: Option<(StretchId, char)>,
    /// Ends of the stretch in the unit of x.
    pub range: Option<(f64, f64)>,
    /// The curve, or why there is none.
    pub outcome: Result<Fit, FitError>,
}

/// A value read off a curve.
#[derive(Clone, Debug, PartialEq)]
pub struct Looked {
    /// Whether y was given and x asked for.
    pub back: bool,
    /// The given value in the unit of its axis.
    pub given: f64,
    /// Values found in the unit of the other axis, each with the uncertainty of the curve there and that of a single
    /// reading there.
    pub found: Vec<(f64, f64, f64)>,
    /// How many times these uncertainties take in 95 %: Student's t of the curve's degrees of freedom.
    pub factor: f64,
    /// x of the found points, for drawing.
    pub at: Vec<(f64, f64)>,
    /// How far outside the data, as a share of their range; zero inside.
    pub outside: f64,
}

/// The curve of a step model over a graph, in the units of its axes.
#[derive(Clone, Debug, PartialEq)]
pub struct ModelCurve {
    /// Number of the model as shown.
    pub number: u32,
    /// Whether it is the newest one; the earlier ones are drawn faintly.
    pub newest: bool,
    /// Points along it.
    pub points: Vec<(f64, f64)>,
    /// What it leaves of the readings, against x; empty where that is not shown.
    pub left: Vec<(f64, f64)>,
}

/// Everything a graph shows.
#[derive(Clone, Debug)]
pub struct Graph {
    /// Its identity.
    pub id: GraphId,
    /// Its title, if a person gave one.
    pub title: String,
    /// What goes across.
    pub x: Axis,
    /// What goes up.
    pub y: Axis,
    /// The series; one or more.
    pub series: Vec<Series>,
    /// The curves.
    pub fits: Vec<Fitted>,
    /// Whether uncertainties are drawn as bars.
    pub bars: bool,
    /// Whether the confidence band is drawn.
    pub band: bool,
    /// The axis of the residuals, if they are drawn.
    pub residuals: Option<Axis>,
    /// A value asked of the curve, or why there is no answer.
    pub look: Option<Result<Looked, LookError>>,
    /// What it should have looked like, once that may be seen.
    pub expected: Option<Expected>,
    /// Curves of step models.
    pub models: Vec<ModelCurve>,
}

impl Graph {
    /// All points of all series.
    pub fn points(&self) -> impl Iterator<Item = &Point> {
        self.series.iter().flat_map(|s| &s.points)
    }

    /// The first curve that was found.
    pub fn first_fit(&self) -> Option<&Fit> {
        self.fits.iter().find_map(|f| f.outcome.as_ref().ok())
    }

    /// The curve of a stretch, or of a whole series; of the first series unless another one is named by its label.
    pub fn fit_of(&self, stretch: Option<StretchId>, series: Option<&str>) -> Option<&Fitted> {
        let mut those = self.fits.iter().filter(|f| f.stretch.map(|(id, _)| id) == stretch);
        match series {
            // A single curve over stretches may be meant by the whole.
            None => those.next().or_else(|| self.fits.first().filter(|_| stretch.is_none())),
            Some(label) => those.find(|f| self.series.get(f.series).is_some_and(|s| s.label == label)),
        }
    }
}

/// Range and step of the ticks of an axis with equal differences.
fn linear_range(mut lo: f64, mut hi: f64, zero: bool, free: bool) -> (f64, f64, f64) {
    if lo > hi {
        (lo, hi) = (0.0, 1.0);
    }
    let spread = hi - lo;
    // Zero is included when it lies near: within the spread of the data.
    if lo > 0.0 && (zero || free && lo <= spread.max(hi * 1e-9)) {
        lo = 0.0;
    } else if hi < 0.0 && (zero || free && -hi <= spread.max(-lo * 1e-9)) {
        hi = 0.0;
    }
    if hi - lo <= 1e-12 * hi.abs().max(lo.abs()) {
        let room = if hi == 0.0 { 1.0 } else { 0.1 * hi.abs() };
        (lo, hi) = (lo - room, hi + room);
    }
    (lo, hi, nice_step((hi - lo) / INTERVALS))
}

impl Axis {
    /// An axis that holds all values, as it is laid down; `spec` holds typed ends in coherent SI units.
    pub fn of(name: &str, symbol: &str, unit: Unit, values: impl Iterator<Item = f64>, spec: &AxisSpec) -> Self {
        let log = spec.scale == AxisScale::Logarithmic;
        let (lo, hi) = values
            .filter(|v| v.is_finite() && (!log || *v > 0.0))
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), v| (lo.min(v), hi.max(v)));
        let name = if spec.title.is_empty() { name } else { &spec.title };
        let mut axis = Self {
            name: name.to_owned(),
            symbol: symbol.to_owned(),
            scale: spec.scale,
            min: lo,
            max: hi,
            ticks: Vec::new(),
            unit,
        };
        let size = axis.unit.size();
        let typed = |end: Option<f64>| end.map(|v| v / size).filter(|v| v.is_finite() && (!log || *v > 0.0));
        let (from, to) = (typed(spec.from), typed(spec.to));
        if log {
            axis.logarithmic(from, to);
        } else {
            axis.linear(from, to, spec.zero);
        }
        axis
    }

    /// An axis that holds all values, with automatic range.
    pub fn around(name: &str, symbol: &str, unit: Unit, values: impl Iterator<Item = f64>) -> Self {
        Self::of(name, symbol, unit, values, &AxisSpec::default())
    }

    fn linear(&mut self, from: Option<f64>, to: Option<f64>, zero: bool) {
        let free = from.is_none() && to.is_none();
        // An axis without data runs from zero to one.
        let (low, high) = if self.min > self.max { (0.0, 1.0) } else { (self.min, self.max) };
        let (mut lo, mut hi) = (from.unwrap_or(low), to.unwrap_or(high));
        if lo >= hi && (from.is_some() || to.is_some()) {
            // One end typed beyond the data: the other makes room.
            let room = lo.abs().max(hi.abs()).max(1e-9) * 0.5;
            if from.is_some() { hi = lo + room } else { lo = hi - room }
        }
        let (lo, hi, step) = linear_range(lo, hi, zero && free, free);
        // The last point keeps clear of the frame.
        let margin = 0.04 * (hi - lo);
        let first = if lo == 0.0 { 0.0 } else { ((lo - margin) / step).floor() * step };
        let last = if hi == 0.0 { 0.0 } else { ((hi + margin) / step).ceil() * step };
        self.min = if from.is_some() { lo } else { first };
        self.max = if to.is_some() { hi } else { last };
        let start = (self.min / step - 1e-9).ceil();
        let count = ((self.max / step + 1e-9).floor() - start).clamp(0.0, 40.0) as usize;
        self.ticks = (0..=count)
            .map(|i| {
                let value = (start + i as f64) * step;
                Tick { value, label: to_step(value, step) }
            })
            .collect();
    }

    fn logarithmic(&mut self, from: Option<f64>, to: Option<f64>) {
        let (mut lo, mut hi) = (from.unwrap_or(self.min), to.unwrap_or(self.max));
        if lo > hi || !lo.is_finite() {
            (lo, hi) = (1.0, 10.0);
        }
        let decade = |v: f64| v.log10();
        // Whole decades when they are several, else the steps 1, 2 and 5 around the data.
        let wide = decade(hi) - decade(lo) > 1.5;
        let steps: Vec<f64> = (decade(lo).floor() as i32 - 1..=decade(hi).ceil() as i32 + 1)
            .flat_map(|d| [1.0, 2.0, 5.0].map(|m| m * 10f64.powi(d)))
            .filter(|v| !wide || (v.log10() - v.log10().round()).abs() < 1e-9)
            .collect();
        let below = steps.iter().rev().find(|v| **v <= lo * 0.97).copied().unwrap_or(lo);
        let above = steps.iter().find(|v| **v >= hi * 1.03).copied().unwrap_or(hi);
        self.min = from.unwrap_or(below);
        self.max = to.filter(|t| *t > self.min).unwrap_or(above.max(self.min * 2.0));
        let (min, max) = (self.min * (1.0 - 1e-9), self.max * (1.0 + 1e-9));
        let shown: Vec<f64> = steps.into_iter().filter(|v| (min..=max).contains(v)).collect();
        // Very many decades: every second, third, … of them.
        let every = shown.len().div_ceil(12).max(1);
        self.ticks = shown
            .into_iter()
            .step_by(every)
            .map(|value| Tick { value, label: to_step(value, 10f64.powf(value.log10().floor())) })
            .collect();
    }

    /// Where a value lies along the axis: 0 at the lower end, 1 at the upper; not a number where the axis has no place.
    pub fn share(&self, value: f64) -> f64 {
        match self.scale {
            AxisScale::Linear => (value - self.min) / (self.max - self.min),
            AxisScale::Logarithmic if value > 0.0 => (value / self.min).ln() / (self.max / self.min).ln(),
            AxisScale::Logarithmic => f64::NAN,
        }
    }

    /// The value at a share of the axis.
    pub fn value(&self, share: f64) -> f64 {
        match self.scale {
            AxisScale::Linear => self.min + share * (self.max - self.min),
            AxisScale::Logarithmic => self.min * (self.max / self.min).powf(share),
        }
    }

    /// Whether a value has a place between the ends.
    pub fn holds(&self, value: f64) -> bool {
        (-1e-9..=1.0 + 1e-9).contains(&self.share(value))
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

        #[test]
        fn logarithmic_axes_hold_every_value_too(
            values in prop::collection::vec(-12f64..12.0, 1..20).prop_map(|e| e.into_iter().map(|e| 10f64.powf(e)).collect::<Vec<_>>()),
        ) {
            let spec = AxisSpec { scale: AxisScale::Logarithmic, ..AxisSpec::default() };
            let a = Axis::of("mass", "m", Unit::one(), values.iter().copied(), &spec);
            prop_assert!((1..=14).contains(&a.ticks.len()), "{a:?}");
            for v in values {
                prop_assert!(a.holds(v), "{v} {a:?}");
                prop_assert!((a.value(a.share(v)) / v - 1.0).abs() < 1e-9);
            }
            prop_assert!(a.share(-1.0).is_nan());
        }

        #[test]
        fn typed_ends_stay_where_they_were_typed(from in -50f64..50.0, length in 0.1f64..100.0, values in prop::collection::vec(-1e3f64..1e3, 0..9)) {
            let spec = AxisSpec { from: Some(from), to: Some(from + length), ..AxisSpec::default() };
            let a = Axis::of("mass", "m", Unit::one(), values.iter().copied(), &spec);
            prop_assert_eq!((a.min, a.max), (from, from + length));
            prop_assert!((2..=14).contains(&a.ticks.len()), "{a:?}");
            prop_assert!(a.ticks.iter().all(|t| a.holds(t.value)));
            let one = AxisSpec { to: None, ..spec };
            let a = Axis::of("mass", "m", Unit::one(), values.into_iter(), &one);
            prop_assert!(a.min == from && a.max > a.min, "{a:?}");
        }
    }
}
