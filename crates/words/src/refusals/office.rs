//! Edits of the logbook as a whole.

use zeitmass_core::logbook::{Flaw, Kind, OfficeRefusal};

use crate::Words;

impl Words for OfficeRefusal {
    fn words(&self) -> String {
        match self {
            Self::Stamped => "This step is stamped already. Nothing was changed.".to_owned(),
            Self::AsItIs => "That is how it is now. Nothing was changed.".to_owned(),
            Self::NotBrought(flaw) => {
                format!("This file cannot be restored: {}. The logbook is as it was.", flaw.words())
            }
        }
    }
}

/// Inside a sentence.
impl Words for Flaw {
    fn words(&self) -> String {
        match self {
            Self::Number(of) => format!("it has too few or too many {}", kind(*of).1),
            Self::Twice(of) => format!("it has the same {} twice", kind(*of).0),
            Self::OtherSheet => "it belongs to another lab sheet".to_owned(),
            Self::OtherGiven => "its given values are not those of this lab sheet".to_owned(),
            Self::NoConstant => "the constant the sheet asks for is missing".to_owned(),
            Self::NotFree { name } => format!("it sets “{name}”, which is not free in this lab"),
            Self::Setting(why) => why.words().trim_end_matches('.').to_owned(),
            Self::OtherSetting { name } => format!("its setting {name} is not one of this apparatus"),
            Self::NotMade(why) => why.words().trim_end_matches('.').to_owned(),
            Self::Runs => "its runs are incomplete".to_owned(),
            Self::ManyRuns { most } => format!("it has more than {most} runs"),
            Self::PlanOrForecast => "its plan or its forecast is incomplete".to_owned(),
            Self::Deals => "its deals do not fit each other".to_owned(),
            Self::NoSuchDeal => "it has deals of numbers this lab does not have".to_owned(),
            Self::LargeTable { table } => format!("the table “{table}” is larger than a table can be"),
            Self::Symbol { symbol } => format!("“{symbol}” cannot be the symbol of a column"),
            Self::Column { symbol } => format!("the column {symbol} is incomplete"),
            Self::LostReading => "a reading belongs to no column".to_owned(),
            Self::Reading { symbol } => format!("a reading does not fit the column {symbol}"),
            Self::LargeGraph => "a graph has too many series or intervals".to_owned(),
            Self::GraphOfNothing => "a graph shows a column that is not there".to_owned(),
            Self::Films => "its films are incomplete".to_owned(),
            Self::Film => "a film is incomplete".to_owned(),
            Self::OverFilm => "what lies over a film is incomplete".to_owned(),
            Self::TrailOfNothing => "a trail fills a table that is not there".to_owned(),
            Self::Trail => "a trail is incomplete".to_owned(),
            Self::ManyModels => "it has too many models".to_owned(),
            Self::LargeModel => "a model in it is larger than one can be".to_owned(),
            Self::Fitted => "a fitted parameter in it is not a number".to_owned(),
            Self::LongText => "a text is too long".to_owned(),
            Self::Evidence => "its claim has too much evidence".to_owned(),
            Self::Blocks => "its write-up has too many blocks, or one of them twice".to_owned(),
            Self::Pictures => "its write-up has too many pictures, or one of nothing".to_owned(),
        }
    }
}

/// One and several.
fn kind(of: Kind) -> (&'static str, &'static str) {
    match of {
        Kind::Table => ("table", "tables"),
        Kind::Column => ("column", "columns"),
        Kind::Row => ("row", "rows"),
        Kind::Graph => ("graph", "graphs"),
        Kind::Result => ("result", "results"),
        Kind::Model => ("model", "models"),
        Kind::Held => ("controlled variable", "controlled variables"),
    }
}
