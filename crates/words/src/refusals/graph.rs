//! Edits of graphs.

use zeitmass_core::logbook::GraphRefusal;

use crate::Words;

impl Words for GraphRefusal {
    fn words(&self) -> String {
        match self {
            Self::LastGraph => "A logbook keeps one graph. Choose other columns for it.".to_owned(),
            Self::EndsCrossed => "The lower end must be below the upper end. Nothing was changed.".to_owned(),
            Self::NotAboveZero => "A logarithmic axis has only values above zero. Nothing was changed.".to_owned(),
            Self::EmptyPart => "That part of the graph is empty. The graph is as it was.".to_owned(),
            Self::IntervalWithoutCurve => {
                "An interval has a curve. Delete the interval if you do not need it.".to_owned()
            }
            Self::OtherUnit { axis, typed } => {
                format!("This axis is in {}, not in {}. Nothing was changed.", axis.in_words(), typed.in_words())
            }
            Self::TwoTables => "y and x must be in the same table. The graph is as it was.".to_owned(),
            Self::SeriesThere => "This series is on the graph already.".to_owned(),
            Self::CannotShare { symbol, unit, axis } => format!(
                "{symbol} is in {}, the axis in {}: they cannot share it. Make another graph. Nothing was added.",
                unit.in_words(),
                axis.in_words()
            ),
            Self::NothingAcross => "Choose x first; an interval is a part of it. Nothing was changed.".to_owned(),
            Self::OneEnd => "An interval needs two different ends. Nothing was changed.".to_owned(),
            Self::NothingChosen => "Choose y and x first. Nothing was changed.".to_owned(),
            Self::WithoutAcross { across } => {
                format!("The formula must contain {across}, which is across. Nothing was changed.")
            }
            Self::NoParameter => {
                "The formula has no free parameter: every other symbol is one. Nothing was changed.".to_owned()
            }
            Self::TooManyParameters => "A formula can have 8 free parameters at most. Nothing was changed.".to_owned(),
            Self::StartOfNothing { symbol, parameters } => format!(
                "The start value {symbol} belongs to no parameter. The parameters are: {}. Nothing was changed.",
                parameters.join(", ")
            ),
            Self::OwnCurve => "A curve of your own is typed as a formula. Nothing was changed.".to_owned(),
            Self::StripClosed => "The shape strip is closed in this lab. Nothing was changed.".to_owned(),
        }
    }
}
