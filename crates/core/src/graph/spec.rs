//! A graph as it is stored: which columns, which axes, which fits.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};

use crate::fit::{Model, Weighting};
use crate::quantity::{Decimal, Unit};
use crate::record::ColumnId;

/// Identity of a graph; never used twice in a logbook.
pub type GraphId = u32;
/// Identity of a stretch; never used twice in a logbook.
pub type StretchId = u32;

/// The graph every logbook starts with.
pub const FIRST_GRAPH: GraphId = 1;
/// Most graphs of a logbook.
pub const MOST_GRAPHS: usize = 12;
/// Most series beside the first one.
pub const MOST_SERIES: usize = 7;
/// Most stretches of a graph.
pub const MOST_STRETCHES: usize = 8;

/// A graph as stored.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct GraphSpec {
    /// Its identity.
    pub id: GraphId,
    /// Its title; empty for one from its columns.
    pub title: String,
    /// Column across.
    pub x: Option<ColumnId>,
    /// Column up.
    pub y: Option<ColumnId>,
    /// Further series: column across and column up.
    pub more: Vec<(ColumnId, ColumnId)>,
    /// A series for every group of the table.
    pub grouped: bool,
    /// The axis across.
    pub across: AxisSpec,
    /// The axis up.
    pub up: AxisSpec,
    /// Whether uncertainties are drawn as bars.
    pub bars: bool,
    /// Whether the residuals are drawn below.
    pub residuals: bool,
    /// Whether the 95 % confidence band is drawn.
    pub band: bool,
    /// The curve through each series, if any.
    pub fit: Option<FitSpec>,
    /// Ranges with a curve of their own.
    pub stretches: Vec<Stretch>,
    /// A value asked of the curve.
    pub look: Option<Look>,
    /// What a student wrote into the gaps of the read-out.
    pub gaps: BTreeMap<Gap, String>,
}

impl Default for GraphSpec {
    fn default() -> Self {
        Self {
            id: FIRST_GRAPH,
            title: String::new(),
            x: None,
            y: None,
            more: Vec::new(),
            grouped: true,
            across: AxisSpec::default(),
            up: AxisSpec::default(),
            bars: true,
            residuals: false,
            band: false,
            fit: None,
            stretches: Vec::new(),
            look: None,
            gaps: BTreeMap::new(),
        }
    }
}

/// How an axis runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum AxisScale {
    /// Equal steps are equal differences.
    #[default]
    Linear,
    /// Equal steps are equal factors.
    Logarithmic,
}

/// An axis as stored.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct AxisSpec {
    /// Title; empty for one from the column.
    pub title: String,
    /// How it runs.
    pub scale: AxisScale,
    /// Typed ends, in coherent SI units; automatic where missing.
    pub from: Option<f64>,
    /// See `from`.
    pub to: Option<f64>,
    /// Whether zero is always shown.
    pub zero: bool,
}

/// A curve that is asked for.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct FitSpec {
    /// Which curve.
    pub model: Model,
    /// How the points count.
    #[serde(default)]
    pub weighting: Weighting,
}

/// A range of x with a curve of its own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Stretch {
    /// Its identity.
    pub id: StretchId,
    /// Its letter: A, B, …
    pub letter: char,
    /// Which series it is about, from 0.
    #[serde(default)]
    pub series: usize,
    /// Lower end of x, in coherent SI units.
    pub from: f64,
    /// Upper end of x, in coherent SI units.
    pub to: f64,
    /// The curve through its points.
    pub fit: FitSpec,
}

/// A value asked of the curve.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Look {
    /// Whether y is given and x is asked for.
    pub back: bool,
    /// The given value.
    pub number: Decimal,
    /// Its unit.
    pub unit: Unit,
    /// Which stretch's curve is asked; the first one of the graph without.
    #[serde(default)]
    pub stretch: Option<StretchId>,
}

/// A gap in the read-out.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString,
)]
#[serde(rename_all = "kebab-case")]
#[strum(serialize_all = "kebab-case")]
pub enum Gap {
    /// The quantity that changes by one unit.
    Across,
    /// The quantity that follows.
    Up,
    /// By how much.
    Slope,
    /// In which unit.
    SlopeUnit,
    /// The height of the line where x is zero.
    Intercept,
    /// In which unit.
    InterceptUnit,
}

impl Gap {
    /// All gaps.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in forms.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The gap of that name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }
}
