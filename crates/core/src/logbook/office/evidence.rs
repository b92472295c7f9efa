//! What a file that is brought back claims was read: recomputed where that can be done, marked as brought where it cannot.

use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

use crate::inquiry::{Forecast, Sketch};
use crate::logbook::Logbook;
use crate::logbook::state::State;
use crate::quantity::{FilmShare, Footage, Origin, Reading};
use crate::record::Column;
use crate::rigs::{ChannelSpec, Role};

/// What of a logbook was brought from a file and could not be checked.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub struct BroughtParts {
    /// Readings in tables.
    pub readings: usize,
    /// Sketches, the hypothesis, the prediction.
    pub forecast: usize,
    /// Fitted parameters of step models.
    pub models: usize,
}

impl BroughtParts {
    /// All together.
    pub fn total(self) -> usize {
        self.readings + self.forecast + self.models
    }
}

/// What of a content was brought from a file and could not be checked.
pub(super) fn count_brought(state: &State) -> BroughtParts {
    let shelved = state.deals.shelf.values().map(|s| &s.record);
    let rows = shelved.chain([&state.record]).flat_map(|r| &r.tables).flat_map(|t| &t.rows);
    let readings = rows.flat_map(|r| r.cells.values()).filter(|r| matches!(r.origin, Origin::Brought { .. }));
    let Forecast { sketches, hypothesis, prediction, earlier, .. } = &state.forecast;
    let earlier = earlier.iter().flat_map(|round| round.sketches.values());
    let forecast = sketches.values().chain(earlier).filter(|s| s.brought).count()
        + usize::from(hypothesis.as_ref().is_some_and(|h| h.brought))
        + usize::from(prediction.as_ref().is_some_and(|p| p.brought));
    let models = state.model.runs.iter().filter(|r| r.fitted.is_some_and(|f| f.brought)).count();
    BroughtParts { readings: readings.count(), forecast, models }
}

impl Logbook {
    /// What of it was brought from a file and could not be checked, for the teacher to know.
    pub fn brought(&self) -> BroughtParts {
        count_brought(self.state())
    }

    /// Checks where readings of a file say that they come from; runs in it are those the rig makes of their settings. What is in this logbook
    /// already, word for word, needs no proof.
    pub(super) fn check_evidence(&self, state: &mut State, at: i64) {
        let word = |column: &Column, reading: &Reading| format!("{} {reading:?}", column.symbol);
        let here: HashSet<String> = readings(&self.state).map(|(c, r)| word(c, r)).collect();
        let then = Self { state: state.clone(), ..Self::new(Arc::clone(&self.sheet), self.seed) };
        let then = Self { rules: self.rules.clone(), recall: Arc::clone(&self.recall), ..then };
        let doubtful: HashSet<String> = readings(&then.state)
            .filter(|(_, r)| !self.bears_out(&then, r))
            .map(|(c, r)| word(c, r))
            .filter(|word| !here.contains(word))
            .collect();
        for table in state.record.tables.iter_mut().map(Arc::make_mut) {
            for row in &mut table.rows {
                for (id, reading) in &mut row.cells {
                    let column = table.columns.iter().find(|c| c.id == *id);
                    if column.is_some_and(|c| doubtful.contains(&word(c, reading))) {
                        let there = Box::new(std::mem::replace(&mut reading.origin, Origin::Typed));
                        reading.origin = Origin::Brought { there };
                    }
                }
            }
        }
        let own = &self.state.forecast;
        let forecast = &mut state.forecast;
        let known: Vec<&Sketch> =
            own.earlier.iter().map(|round| &round.sketches).chain([&own.sketches]).flat_map(BTreeMap::values).collect();
        let earlier = forecast.earlier.iter_mut().map(|round| &mut round.sketches);
        for sketch in earlier.chain([&mut forecast.sketches]).flat_map(BTreeMap::values_mut) {
            if !known.contains(&&*sketch) {
                (sketch.at, sketch.brought) = (at, true);
            }
        }
        if let Some(h) = forecast.hypothesis.as_mut().filter(|h| own.hypothesis.as_ref() != Some(h)) {
            (h.at, h.brought) = (at, true);
        }
        if let Some(p) = forecast.prediction.as_mut().filter(|p| own.prediction.as_ref() != Some(p)) {
            (p.at, p.brought) = (at, true);
        }
    }

    /// Whether what a reading says of itself is what comes out when it is taken again, in a logbook that holds the file.
    fn bears_out(&self, then: &Self, reading: &Reading) -> bool {
        let same = |again: Reading| {
            again.in_unit(&reading.unit).is_some_and(|again| {
                let near = |a: f64, b: f64| (a - b).abs() <= 1e-9 * a.abs().max(b.abs());
                near(again.resolution, reading.resolution)
                    && (again.number.value() - reading.number.value()).abs() <= 1e-6 * again.resolution
            })
        };
        let known = |of: Footage| match of {
            Footage::Run(_) => true,
            Footage::Film(n) => self.knows_film(&then.state, n),
        };
        match &reading.origin {
            Origin::Typed | Origin::Brought { .. } => true,
            Origin::Split { of, start, end } => known(*of) && then.read_split(*of, (*start, *end)).is_ok_and(same),
            Origin::Area { run, start, end } => then.read_area(*run, (*start, *end)).is_ok_and(same),
            // Tenths are estimated by eye: whatever lies in the division that the end lies in was read.
            Origin::Tape { of: of @ Footage::Run(_), frame, zero, reading: end, .. } => {
                let nearest = then.read_tape(*of, *frame, [*zero, *end], None);
                nearest.is_ok_and(|nearest| {
                    let division = nearest.resolution;
                    let metre = reading.in_unit(&nearest.unit);
                    metre.is_some_and(|r| {
                        let step = r.resolution / division;
                        [1.0, 0.1].iter().any(|s| (step - s).abs() < 1e-9)
                            && (r.number.value() - nearest.number.value()).abs() < 1.0001 * division
                    })
                })
            }
            Origin::Tape { of, frame, zero, reading: end, .. } => {
                known(*of) && then.read_tape(*of, *frame, [*zero, *end], None).is_ok_and(same)
            }
            Origin::Mark { film, trail, frame, .. } => {
                let work = then.state.film.films.get(*film as usize).filter(|_| known(Footage::Film(*film)));
                let mark = work.and_then(|w| w.trail(*trail)).and_then(|t| t.marks.get(frame));
                let again = work.zip(mark).map(|(w, m)| w.sight().readings(*film, *trail, *frame, m));
                again.is_some_and(|all| all.into_iter().any(|r| same_mark(&r.origin, &reading.origin) && same(r)))
            }
            Origin::Curve { drawn } => then.draw(&then.analyse(), &drawn.source).is_ok_and(|found| {
                let again = found.reading(drawn.frozen);
                again.origin.drawn().is_some_and(|d| d.terms == drawn.terms) && same(again)
            }),
            // A moment was worked out from a mass that nobody wrote down.
            Origin::Moment { .. } => false,
            Origin::Meter { name, run, frame } => {
                let meter = self.sheet.card.meters.iter().find(|m| m.label == name);
                meter.is_some_and(|m| then.read_meter(*run, m.name, frame.unwrap_or_default()).is_ok_and(same))
            }
            Origin::Recorded { run, frame } => {
                let Some(Ok(motion)) = then.footage(*run) else { return false };
                let open = |c: &ChannelSpec| c.role == Role::Time || self.sheet.recordable.contains(&c.name);
                motion.channels.iter().filter(|c| open(&c.spec)).any(|c| {
                    c.written(*frame as usize).is_some_and(|number| {
                        let (unit, resolution) = (c.spec.unit.clone(), c.spec.resolution);
                        same(Reading { number, unit, resolution, origin: Origin::Typed })
                    })
                })
            }
            Origin::Setting { name, run } => {
                let chosen = match run {
                    Some(run) => then.state.run(*run).map(|r| &r.settings),
                    None => Some(&then.state.run.settings),
                };
                let rule = self.rule(name).filter(|r| r.freedom != crate::lab::Freedom::Hidden);
                rule.zip(chosen).is_some_and(|(rule, chosen)| {
                    let value = chosen.get(rule.name).unwrap_or(&rule.value);
                    let spec = self.sheet.card.setting(rule.name);
                    let Some((number, unit)) = spec.and_then(|s| s.number(value)) else { return false };
                    // Without a run it is what the setting once was, anything the apparatus can be set to.
                    let once = run.is_none() && rule.freedom == crate::lab::Freedom::Free;
                    unit.same_dimension(&reading.unit) && (once || same(Reading::typed(number, unit)))
                })
            }
        }
    }

    /// Whether a film of a file is one that is known here, with the same frames at the same times.
    fn knows_film(&self, state: &State, number: u32) -> bool {
        let film = state.film.films.get(number as usize);
        film.is_some_and(|film| self.state.film.films.iter().any(|own| own.facts == film.facts))
    }
}

fn readings(state: &State) -> impl Iterator<Item = (&Column, &Reading)> {
    let tables = state.record.tables.iter();
    tables.flat_map(|t| {
        t.rows.iter().flat_map(move |row| row.cells.iter().filter_map(|(id, r)| Some((t.column(*id)?, &**r))))
    })
}

/// Whether a mark that is read again says of itself what a file does, also one from before origins and first marks were counted as uncertain.
fn same_mark(again: &Origin, told: &Origin) -> bool {
    if again == told {
        return true;
    }
    let Origin::Mark { film, trail, frame, followed, scale } = again else { return false };
    let scale = scale.as_ref().map(FilmShare::of_scale_alone);
    *told == Origin::Mark { film: *film, trail: *trail, frame: *frame, followed: *followed, scale }
}
