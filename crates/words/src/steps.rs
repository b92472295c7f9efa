//! The steps of a lab and the texts of a write-up by their names.

use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::TextField;

/// The heading of what a page is parted by.
pub trait Title {
    /// The heading, which also names it inside a sentence.
    fn title(self) -> &'static str;
}

impl Title for Step {
    fn title(self) -> &'static str {
        match self {
            Self::Question => "Question",
            Self::Forecast => "Forecast",
            Self::Measure => "Measure",
            Self::Graph => "Graph",
            Self::Linearize => "Linearize",
            Self::Model => "Model",
            Self::Constant => "Result",
            Self::WriteUp => "Write-up",
        }
    }
}

impl Title for TextField {
    fn title(self) -> &'static str {
        match self {
            Self::Claim => "Claim",
            Self::Evidence => "Evidence",
            Self::Reasoning => "Reasoning",
            Self::Intercept => "Intercept",
            Self::Difference => "Why they differ",
        }
    }
}
