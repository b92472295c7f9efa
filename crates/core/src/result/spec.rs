//! A result as it is stored: where it comes from, what the law says, what it is compared with.

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};

use crate::formula::Formula;
use crate::graph::{FIRST_GRAPH, GraphId, StretchId};
use crate::quantity::{Decimal, Unit};
use crate::record::{ColumnId, RowId};

/// Identity of a result; never used twice in a logbook.
pub type ResultId = u32;

/// The result every logbook starts with: the constant the sheet asks for.
pub const FIRST_RESULT: ResultId = 1;
/// Most results of a logbook.
pub const MOST_RESULTS: usize = 12;

/// Where a result comes from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "from", rename_all = "snake_case")]
pub enum ResultFrom {
    /// A parameter of a curve, through a law.
    Curve {
        /// Which graph.
        graph: GraphId,
        /// Which stretch of it; a whole series without.
        stretch: Option<StretchId>,
        /// Which of several series, by its label; the first without.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        series: Option<String>,
        /// Symbol of the parameter.
        parameter: String,
    },
    /// A column whose values should all be the same.
    Column {
        /// Which column.
        column: ColumnId,
    },
    /// An unknown read from a calibration line by its y.
    Calibration {
        /// Which graph.
        graph: GraphId,
        /// Which stretch of it.
        stretch: Option<StretchId>,
        /// The reading of the unknown, typed.
        reading: Option<(Decimal, Unit)>,
        /// The row whose y belongs to the unknown, where it stands in the table.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        row: Option<RowId>,
    },
    /// The parameter of a step model that was fitted, through a law if one is stated.
    Model {
        /// Which model that was run.
        run: u32,
    },
}

impl Default for ResultFrom {
    fn default() -> Self {
        Self::Curve { graph: FIRST_GRAPH, stretch: None, series: None, parameter: "slope".to_owned() }
    }
}

/// What the law says, term by term.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct Law {
    /// What stands on the axis up.
    pub up: Option<Formula>,
    /// What stands on the axis across.
    pub across: Option<Formula>,
    /// What the slope (or the chosen parameter) means.
    pub slope: Option<Formula>,
    /// What the intercept means.
    pub intercept: Option<Formula>,
}

/// A term of the law.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Default,
    Serialize,
    Deserialize,
    VariantArray,
    IntoStaticStr,
    EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum Term {
    /// What stands on the axis up.
    Up,
    /// What the slope means.
    #[default]
    Slope,
    /// What stands on the axis across.
    Across,
    /// What the intercept means.
    Intercept,
}

impl Term {
    /// All terms, in the order of the line: up = slope · across + intercept.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in forms.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The term of that name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }
}

impl Law {
    /// What a term says.
    pub fn term(&self, term: Term) -> Option<&Formula> {
        match term {
            Term::Up => self.up.as_ref(),
            Term::Across => self.across.as_ref(),
            Term::Slope => self.slope.as_ref(),
            Term::Intercept => self.intercept.as_ref(),
        }
    }

    /// The same law with another term.
    pub fn with(mut self, term: Term, formula: Option<Formula>) -> Self {
        match term {
            Term::Up => self.up = formula,
            Term::Across => self.across = formula,
            Term::Slope => self.slope = formula,
            Term::Intercept => self.intercept = formula,
        }
        self
    }
}

/// A result as stored.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct ResultSpec {
    /// Its identity.
    pub id: ResultId,
    /// What it is called; empty for the sheet's constant.
    pub name: String,
    /// Where it comes from.
    pub from: ResultFrom,
    /// What the law says.
    pub law: Law,
    /// Accepted value, if there is one.
    pub accepted: Option<(Decimal, Unit)>,
    /// Where the accepted value is from.
    pub source: String,
}

impl Default for ResultSpec {
    fn default() -> Self {
        Self {
            id: FIRST_RESULT,
            name: String::new(),
            from: ResultFrom::default(),
            law: Law::default(),
            accepted: None,
            source: String::new(),
        }
    }
}
