//! Elementary changes: what is stored of an edit, beside the wish itself.
//!
//! Doing a change gives the one that takes it back. Places count at the moment of the change, which is the same each time,
//! since changes are taken back in the opposite order. A change never judges: whether something may be done was decided when it
//! was planned, once. It only refuses what cannot be done at all, which no plan asks for.

use serde::{Deserialize, Serialize};

use super::answer::AnswerChange;
use super::claim::ClaimChange;
use super::deals::DealChange;
use super::film::FilmChange;
use super::forecast::ForecastChange;
use super::graph::GraphChange;
use super::model::ModelChange;
use super::office::OfficeChange;
use super::part::Part;
use super::record::RecordChange;
use super::result::ResultChange;
use super::run::RunChange;
use super::state::State;
use super::write_up::WriteUpChange;
use super::writing::WritingChange;

/// An elementary change, by subject.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Change {
    /// Of the rig and its runs.
    Run(RunChange),
    /// Of the films.
    Film(FilmChange),
    /// Of the forecast.
    Forecast(ForecastChange),
    /// Of the tables.
    Record(RecordChange),
    /// Of the graphs.
    Graph(GraphChange),
    /// Of the step model.
    Model(ModelChange),
    /// Of the results.
    Result(ResultChange),
    /// Of the texts.
    Writing(WritingChange),
    /// Of the answers.
    Answer(AnswerChange),
    /// Of the claim.
    Claim(ClaimChange),
    /// Of the write-up's order.
    WriteUp(WriteUpChange),
    /// Handing in and back, and everything at once.
    Office(OfficeChange),
    /// Of the deals of numbers.
    Deal(DealChange),
}

/// A change that does not fit the state: its place is not there. Only a store that was changed by hand has such.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Misfit;

impl Change {
    /// The parts of the bench this change shows in.
    pub(super) fn parts(&self) -> &'static [Part] {
        match self {
            Self::Run(change) => change.parts(),
            Self::Film(_) => &[Part::Stage],
            // Whether the rig may run depends on it.
            Self::Forecast(_) => &[Part::Forecast, Part::Stage],
            // A hypothesis is held against the record, and so is the claim.
            Self::Record(_) => {
                &[Part::Forecast, Part::Record, Part::Graph, Part::Strip, Part::Model, Part::Constant, Part::Texts]
            }
            Self::Graph(_) => &[Part::Graph, Part::Strip, Part::Constant, Part::Texts],
            // Its curves lie over graphs and over the path on the stage.
            Self::Model(_) => &[Part::Stage, Part::Graph, Part::Model, Part::Constant, Part::Texts],
            Self::Result(_) => &[Part::Constant, Part::Texts],
            Self::Writing(change) => change.parts(),
            Self::Answer(_) => &[Part::Questions],
            Self::Claim(_) | Self::WriteUp(_) => &[Part::Texts],
            Self::Office(_) | Self::Deal(_) => Part::ALL,
        }
    }
}

impl State {
    /// Does one change and gives the change that takes it back.
    ///
    /// # Errors
    /// [`Misfit`]; then nothing has changed.
    pub(super) fn change(&mut self, change: Change) -> Result<Change, Misfit> {
        Ok(match change {
            Change::Run(change) => Change::Run(self.run.change(change)?),
            Change::Film(change) => Change::Film(self.film.change(change)?),
            Change::Forecast(ForecastChange { mut forecast }) => {
                std::mem::swap(&mut self.forecast, &mut forecast);
                Change::Forecast(ForecastChange { forecast })
            }
            Change::Record(change) => Change::Record(self.record.change(change)?),
            Change::Graph(change) => Change::Graph(self.graph.change(change)?),
            Change::Model(change) => Change::Model(self.model.change(change)?),
            Change::Result(change) => Change::Result(self.result.change(change)?),
            Change::Writing(change) => Change::Writing(self.writing.change(change)),
            Change::Answer(change) => Change::Answer(self.answers.change(change)),
            Change::Claim(change) => Change::Claim(self.claim.change(change)),
            Change::WriteUp(change) => Change::WriteUp(self.write_up.change(change)),
            Change::Office(change) => Change::Office(self.change_office(change)),
            Change::Deal(change) => Change::Deal(self.change_deal(change)?),
        })
    }

    /// Does changes in order; gives those that take them back, also in order.
    ///
    /// # Errors
    /// [`Misfit`]; then nothing has changed.
    pub(super) fn change_all(&mut self, changes: Vec<Change>) -> Result<Vec<Change>, Misfit> {
        let mut back = Vec::with_capacity(changes.len());
        for change in changes {
            match self.change(change) {
                Ok(inverse) => back.push(inverse),
                Err(misfit) => {
                    for inverse in back.into_iter().rev() {
                        self.change(inverse)?;
                    }
                    return Err(misfit);
                }
            }
        }
        back.reverse();
        Ok(back)
    }
}

/// Puts something into a list at a place.
pub(super) fn insert<T>(list: &mut Vec<T>, place: usize, item: T) -> Result<(), Misfit> {
    if place > list.len() {
        return Err(Misfit);
    }
    list.insert(place, item);
    Ok(())
}

/// Takes something out of a list.
pub(super) fn remove<T>(list: &mut Vec<T>, place: usize) -> Result<T, Misfit> {
    if place < list.len() { Ok(list.remove(place)) } else { Err(Misfit) }
}

/// Replaces something in a list by another, or adds it at the end; without another the last one is taken away. Gives what was
/// there.
pub(super) fn exchange<T>(list: &mut Vec<T>, place: usize, item: Option<T>) -> Result<Option<T>, Misfit> {
    match item {
        Some(item) if place < list.len() => Ok(Some(std::mem::replace(&mut list[place], item))),
        Some(item) => insert(list, place, item).map(|()| None),
        None if place + 1 == list.len() => Ok(list.pop()),
        None => Err(Misfit),
    }
}
