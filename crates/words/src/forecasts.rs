//! Forecasts: what they lack, and how they turned out.

use std::collections::BTreeSet;

use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::ForecastPart;

use crate::{Words, list};

/// Inside a sentence; empty where nothing is missing.
impl Words for [ForecastPart] {
    fn words(&self) -> String {
        let one = |part: &ForecastPart| match part {
            ForecastPart::Sketch { curve } => format!("the sketch of the {curve}"),
            ForecastPart::Hypothesis => "the hypothesis".to_owned(),
            ForecastPart::Prediction => "the prediction".to_owned(),
        };
        list(&self.iter().map(one).collect::<Vec<_>>())
    }
}

/// Titles of steps inside a sentence.
impl Words for BTreeSet<Step> {
    fn words(&self) -> String {
        list(&self.iter().map(|s| s.title()).collect::<Vec<_>>())
    }
}
