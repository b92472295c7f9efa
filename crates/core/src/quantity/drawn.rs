//! A number that comes from a curve or a result, and follows it.

use serde::{Deserialize, Serialize};

use super::{Decimal, Source, Uncertain, Unit};

/// Where a drawn reading comes from. Graphs, stretches and results are named by their ids in the logbook.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum DrawnFrom {
    /// A parameter of a curve.
    Parameter {
        /// Which graph.
        graph: u32,
        /// Which stretch of it; a whole series without.
        #[serde(default)]
        stretch: Option<u32>,
        /// Which of several series, by its label; the first without.
        #[serde(default)]
        series: Option<String>,
        /// Symbol of the parameter.
        symbol: String,
        /// Columns across and up that the curve went through when it was read: on other ones it is another curve.
        #[serde(default)]
        of: Option<(u32, u32)>,
    },
    /// A value read off a curve.
    Look {
        /// Which graph.
        graph: u32,
        /// Which stretch of it; its first curve without.
        #[serde(default)]
        stretch: Option<u32>,
        /// Whether y was given and x asked for.
        back: bool,
        /// The given value.
        number: Decimal,
        /// Its unit.
        unit: Unit,
        /// Which of the places found, from 0.
        #[serde(default)]
        place: usize,
        /// As for a parameter.
        #[serde(default)]
        of: Option<(u32, u32)>,
    },
    /// A result: a constant, the mean of a column, or an unknown.
    Result {
        /// Which result.
        result: u32,
        /// Which group of rows, by its label; all of them without.
        #[serde(default)]
        group: Option<String>,
    },
}

impl DrawnFrom {
    /// Gives what it names the ids that `id` makes of them.
    pub(crate) fn renumber(&mut self, id: &mut impl FnMut(&mut u32)) {
        match self {
            Self::Parameter { graph, stretch, of, .. } | Self::Look { graph, stretch, of, .. } => {
                id(graph);
                stretch.iter_mut().for_each(&mut *id);
                if let Some((x, y)) = of {
                    id(x);
                    id(y);
                }
            }
            Self::Result { result, .. } => id(result),
        }
    }
}

/// What a drawn reading says of itself.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Drawn {
    /// Where it comes from.
    pub source: DrawnFrom,
    /// Whether it stays as it is, whatever becomes of the curve.
    #[serde(default)]
    pub frozen: bool,
    /// The same in words, as of when it was read.
    pub said: String,
    /// What each source of uncertainty does to it, (source, ∂value·u) in coherent SI units, ascending by source: so that two values of one curve
    /// and all of one film are known together.
    pub terms: Vec<(u64, f64)>,
    /// The number before it followed its curve for the last time.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub before: Option<Decimal>,
}

impl Drawn {
    /// Its value with the sources of its uncertainty; `si` is the value in coherent SI units.
    pub fn uncertain(&self, si: f64) -> Uncertain {
        let parts = self.terms.iter().map(|(s, t)| Uncertain::from_source(0.0, *t, Source(*s)));
        parts.fold(Uncertain::exact(si), |all, part| all.plus(&part))
    }
}
