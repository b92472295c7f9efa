//! What the write-up is put together from.

use serde::{Deserialize, Serialize};

use crate::graph::GraphId;
use crate::logbook::writing::TextField;
use crate::record::TableId;
use crate::result::ResultId;

/// What was arranged by hand; all else stands in its usual place.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct WriteUpState {
    /// Blocks in their order; empty while nobody has arranged anything.
    pub blocks: Vec<Block>,
}

/// A block of the write-up.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Block {
    /// What it shows.
    pub shows: Shows,
    /// The sentence before it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub intro: String,
    /// Whether it is left out of the document.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub hidden: bool,
    /// Of what a picture was taken; with pictures only.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taken: Option<Taken>,
}

impl Block {
    /// A block as it stands by itself.
    pub(super) fn of(shows: Shows) -> Self {
        Self { shows, intro: String::new(), hidden: false, taken: None }
    }
}

/// Of what a picture of the stage was taken. The picture itself is drawn anew from it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Taken {
    /// A run up to a frame, with rings where its bodies were before.
    Run {
        /// Number of the run.
        run: u32,
        /// The frame.
        frame: u32,
    },
    /// A frame of a film, or several in one picture.
    Film {
        /// Key of the film.
        film: String,
        /// First frame.
        from: u32,
        /// Last frame; the same for a single one.
        to: u32,
        /// Frames from one instant to the next.
        step: u32,
        /// Whether bright objects stand out in it, otherwise dark ones.
        bright: bool,
    },
}

/// What a block shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Shows {
    /// The sheet's question.
    Question,
    /// The forecast beside what came out.
    Forecast,
    /// What was held in all trials.
    Held,
    /// A table.
    Table(TableId),
    /// A graph with what its curve says.
    Graph(GraphId),
    /// A result with its law and what it is compared with.
    Result(ResultId),
    /// The step model beside the data.
    Model,
    /// The claim with its evidence.
    Claim,
    /// A text of the write-up.
    Text(TextField),
    /// A text of one's own, which is the block's sentence.
    Own(u32),
    /// A picture of the stage, which the block says of what it was taken.
    Picture(u32),
    /// The questions of the sheet with their answers.
    Answers,
}

impl WriteUpState {
    pub(crate) fn is_empty(&self) -> bool {
        self.blocks.is_empty()
    }

    /// Gives what is shown the ids it has now.
    pub(in crate::logbook) fn renumber(&mut self, id: &mut impl FnMut(&mut u32)) {
        for block in &mut self.blocks {
            match &mut block.shows {
                Shows::Table(n) | Shows::Graph(n) | Shows::Result(n) | Shows::Own(n) | Shows::Picture(n) => id(n),
                Shows::Question
                | Shows::Forecast
                | Shows::Held
                | Shows::Model
                | Shows::Claim
                | Shows::Text(_)
                | Shows::Answers => {}
            }
        }
    }
}
