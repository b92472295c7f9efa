//! A value with the sources of its uncertainty, for first-order propagation that keeps correlations.

use smallvec::SmallVec;

/// Sources and what each does. Most values depend on one reading or two, and tables have thousands of them: these need no room of their
/// own.
type Terms = SmallVec<[(Source, f64); 2]>;

/// Identifies one independent source of uncertainty, such as one reading in the record.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug, Hash)]
pub struct Source(pub u64);

/// A value in coherent SI units with its first-order dependence on independent sources.
///
/// Each term is (∂value/∂xᵢ)·u(xᵢ) of one source xᵢ. Adding terms of the same source before squaring
/// carries the correlations of JCGM 100:2008, equation (13), exactly: `T*T` and `T^2` agree.
#[derive(Clone, Debug, PartialEq)]
pub struct Uncertain {
    /// Best estimate, in coherent SI units.
    pub value: f64,
    terms: Terms,
}

impl Uncertain {
    /// A number known exactly.
    pub fn exact(value: f64) -> Self {
        Self { value, terms: Terms::new() }
    }

    /// A value from one source with standard uncertainty `u`, both in coherent SI units.
    pub fn from_source(value: f64, u: f64, source: Source) -> Self {
        Self { value, terms: if u == 0.0 { Terms::new() } else { Terms::from_elem((source, u), 1) } }
    }

    /// The combined standard uncertainty, in coherent SI units (JCGM 100:2008, 5.1.2).
    pub fn u(&self) -> f64 {
        self.terms.iter().map(|(_, t)| t * t).sum::<f64>().sqrt()
    }

    /// The part of the uncertainty that this value has to itself, and the terms of sources it shares with many others.
    pub fn own_and_shared(&self) -> (f64, Vec<(Source, f64)>) {
        let shared: Vec<_> = self.terms.iter().filter(|(s, _)| (SHARED..TOGETHER).contains(&s.0)).copied().collect();
        if shared.is_empty() {
            return (self.u(), shared);
        }
        let own = self.terms.iter().filter(|(s, _)| !(SHARED..TOGETHER).contains(&s.0));
        (own.map(|(_, t)| t * t).sum::<f64>().sqrt(), shared)
    }

    /// f(x) with derivative f′(x).
    pub(crate) fn map(&self, value: f64, derivative: f64) -> Self {
        Self { value, terms: self.terms.iter().map(|(s, t)| (*s, t * derivative)).collect() }
    }

    /// f(x, y) with the partial derivatives ∂f/∂x and ∂f/∂y.
    pub(crate) fn join(&self, other: &Self, value: f64, by_self: f64, by_other: f64) -> Self {
        let (mut a, mut b) = (self.terms.iter().peekable(), other.terms.iter().peekable());
        let mut terms = Terms::with_capacity(self.terms.len() + other.terms.len());
        // Both lists are sorted by source, so one merge suffices.
        loop {
            let next = match (a.peek(), b.peek()) {
                (Some((s, t)), Some((r, v))) if s == r => {
                    let both = (*s, t * by_self + v * by_other);
                    a.next();
                    b.next();
                    both
                }
                (Some((s, t)), Some((r, _))) if s < r => {
                    let one = (*s, t * by_self);
                    a.next();
                    one
                }
                (Some((s, t)), None) => {
                    let one = (*s, t * by_self);
                    a.next();
                    one
                }
                (_, Some((r, v))) => {
                    let one = (*r, v * by_other);
                    b.next();
                    one
                }
                (None, None) => break,
            };
            terms.push(next);
        }
        Self { value, terms }
    }
}

/// More sources than this in one value are taken together as one: a single one of them hardly counts, and a column of
/// thousands of sums over thousands of readings would need their product in memory.
const MOST_TERMS: usize = 300;

/// Sources from here up, and below [`TOGETHER`], are shared by many values: the scale of a film, a quantity stated beside
/// the tables.
pub const SHARED: u64 = 1 << 60;

/// Sources from here up are those of values taken together.
const TOGETHER: u64 = 1 << 62;

impl Uncertain {
    /// Σ cᵢ·xᵢ.
    pub fn combination<'a>(parts: impl Iterator<Item = (f64, &'a Self)>) -> Self {
        let (mut value, mut terms) = (0.0, Terms::new());
        for (c, x) in parts {
            value += c * x.value;
            terms.extend(x.terms.iter().map(|(s, t)| (*s, c * t)));
        }
        terms.sort_unstable_by_key(|(s, _)| *s);
        terms.dedup_by(|next, kept| {
            let same = next.0 == kept.0;
            if same {
                kept.1 += next.1;
            }
            same
        });
        Self { value, terms }
    }

    /// Sum.
    pub fn plus(&self, other: &Self) -> Self {
        self.join(other, self.value + other.value, 1.0, 1.0)
    }

    /// Difference.
    pub fn minus(&self, other: &Self) -> Self {
        self.join(other, self.value - other.value, 1.0, -1.0)
    }

    /// Quotient; `None` when the other is zero.
    pub fn per(&self, other: &Self) -> Option<Self> {
        let (x, y) = (self.value, other.value);
        (y != 0.0).then(|| self.join(other, x / y, 1.0 / y, -x / (y * y)))
    }

    /// The same uncertainty at another value.
    pub fn with_value(mut self, value: f64) -> Self {
        self.value = value;
        self
    }

    /// The same value; if it has very many sources, they become one source of its own. `place` tells such values
    /// apart.
    pub fn condensed(self, place: u64) -> Self {
        if self.terms.len() <= MOST_TERMS {
            return self;
        }
        Self::from_source(self.value, self.u(), Source(TOGETHER + place))
    }

    /// Correlated part of the variance of two values: Σ over shared sources (JCGM 100:2008, F.1.2.3).
    pub fn covariance(&self, other: &Self) -> f64 {
        // The variance of a sum minus the variances.
        let sum = self.join(other, 0.0, 1.0, 1.0).u().powi(2);
        (sum - self.u().powi(2) - other.u().powi(2)) / 2.0
    }

    /// Its terms: sources with (∂value/∂xᵢ)·u(xᵢ), ascending by source.
    pub fn terms(&self) -> &[(Source, f64)] {
        &self.terms
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shared_sources_are_added_before_squaring() {
        let x = Uncertain::from_source(3.0, 0.1, Source(1));
        let y = Uncertain::from_source(2.0, 0.2, Source(2));
        let difference = x.join(&x, 0.0, 1.0, -1.0);
        assert_eq!(difference.u(), 0.0);
        let sum = x.join(&y, 5.0, 1.0, 1.0).join(&x, 8.0, 1.0, 1.0);
        assert!((sum.u() - (0.2f64.powi(2) + 0.2f64.powi(2)).sqrt()).abs() < 1e-15);
    }
}
