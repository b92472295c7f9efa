//! Places the tools on the stage, and reads instruments.

use super::{FootageEdit, Instrument};
use crate::lab::Freedom;
use crate::logbook::FilmRefusal;
use crate::logbook::FootageRefusal;
use crate::logbook::Logbook;
use crate::logbook::change::Change;
use crate::logbook::film::FilmChange;
use crate::logbook::planning::{Changes, Plan};
use crate::logbook::refusal::{Refusal, Thing};
use crate::logbook::run::RunChange;
use crate::motion::{FARTHEST, FilmWork, PIXEL, Tools};
use crate::quantity::format::step_for;
use crate::quantity::{Decimal, Dimension, Footage, Origin, Reading, Unit};
use crate::record::TableId;
use crate::rigs::{PLACE, Role};

impl Logbook {
    pub(in crate::logbook) fn plan_footage(&self, edit: &FootageEdit) -> Plan {
        let FootageEdit::PlaceTools { on, tools } = edit;
        let frames = self.frames(*on)?;
        if !tools.fit(frames) {
            return Err(Refusal::from(FootageRefusal::ToolsOutside));
        }
        let changes = match on {
            // One set of tools serves all runs of a rig.
            Footage::Run(_) => vec![Change::Run(RunChange::Tools { tools: tools.clone() })],
            Footage::Film(film) => self.place_film_tools(*film, tools)?,
        };
        Ok(changes.into())
    }

    fn place_film_tools(&self, number: u32, tools: &Tools) -> Changes {
        let film = self.film_numbered(number)?;
        // Only t = 0 shows in the table.
        if tools.zero == film.tools.zero {
            return Ok(vec![Change::Film(FilmChange::Tools { film: number, tools: tools.clone() })]);
        }
        Ok(self.relaid(number, FilmWork { tools: tools.clone(), ..film.clone() }))
    }

    fn film_numbered(&self, number: u32) -> Result<&FilmWork, Refusal> {
        self.state.film.films.get(number as usize).ok_or(Refusal::Gone(Thing::Film))
    }

    /// Number of frames of a run or a film.
    fn frames(&self, of: Footage) -> Result<usize, Refusal> {
        match of {
            Footage::Run(run) => Ok(self.run_entry(run)?.made.frames as usize),
            Footage::Film(film) => Ok(self.film_numbered(film)?.facts.times.len()),
        }
    }

    /// Refuses a frame that is not there.
    pub(in crate::logbook) fn frame_of(&self, of: Footage, frame: u32) -> Result<(), Refusal> {
        if (frame as usize) < self.frames(of)? {
            return Ok(());
        }
        Err(Refusal::from(FootageRefusal::NoFrame { of, frame }))
    }

    /// What an instrument shows, to be entered into a table.
    pub(in crate::logbook) fn read(&self, instrument: &Instrument, into: TableId) -> Result<Reading, Refusal> {
        match instrument {
            Instrument::Split { of, start, end } => self.read_split(*of, (*start.min(end), *start.max(end))),
            Instrument::Area { run, start, end } => self.read_area(*run, (*start.min(end), *start.max(end))),
            Instrument::Tape { of, frame, zero, reading, tenths } => {
                self.read_tape(*of, *frame, [*zero, *reading], *tenths)
            }
            Instrument::Meter { run, name, frame } => self.read_meter(*run, name, *frame),
            Instrument::Moment { of, what, mass } => self.read_moment(of, *what, mass),
            Instrument::Setting { name } => self.read_setting(name),
            Instrument::Curve { source } => self.read_drawn(source, into),
        }
    }

    pub(in crate::logbook) fn read_split(&self, of: Footage, (start, end): (u32, u32)) -> Result<Reading, Refusal> {
        self.frame_of(of, end)?;
        let second = || Unit::coherent(&Dimension::of([0, 0, 1, 0, 0, 0, 0]));
        let (number, resolution, unit) = match of {
            Footage::Run(number) => {
                let (every, digit, unit) = self.clock(number).ok_or(Refusal::Gone(Thing::Run))?.written();
                (Decimal::rounded(f64::from(end - start) * every, digit), every, unit)
            }
            Footage::Film(film) => {
                let times = &self.film_numbered(film)?.facts.times;
                // A moment is known to the frame it is seen in.
                let step = (times[times.len() - 1] - times[0]) / (times.len() - 1) as f64;
                (Decimal::rounded(times[end as usize] - times[start as usize], step / 10.0), step, second())
            }
        };
        Ok(Reading { number, unit, resolution, origin: Origin::Split { of, start, end } })
    }

    pub(in crate::logbook) fn read_tape(
        &self,
        of: Footage,
        frame: u32,
        [zero, end]: [[f64; 2]; 2],
        tenths: Option<u8>,
    ) -> Result<Reading, Refusal> {
        self.frame_of(of, frame)?;
        if !zero.iter().chain(&end).all(|v| v.abs() < FARTHEST) || tenths.is_some_and(|t| t > 9) {
            return Err(Refusal::from(FootageRefusal::TapeOutside));
        }
        let (number, unit, resolution, scale) = match of {
            Footage::Run(_) => {
                let distance = (end[0] - zero[0]).hypot(end[1] - zero[1]);
                let (value, resolution) = tape_reading(distance, self.sheet.card.division, tenths);
                (Decimal::rounded(value, resolution), self.sheet.card.length.clone(), resolution, None)
            }
            Footage::Film(number) => {
                let film = self.film_numbered(number)?;
                let sight = film.sight();
                if !sight.sees(zero) || !sight.sees(end) {
                    return Err(Refusal::from(FilmRefusal::Beyond));
                }
                let (distance, pixel) = sight.distance([zero, end]);
                (
                    Decimal::rounded(distance, pixel / 10.0),
                    film.unit(),
                    pixel * PIXEL,
                    sight.share_of_length(number, [zero, end]),
                )
            }
        };
        Ok(Reading { number, unit, resolution, origin: Origin::Tape { of, frame, zero, reading: end, scale } })
    }

    /// Half the sum of the cross products of neighbouring rays: the polygon of the places on the stage, seen from the focus. Each of its two
    /// ends is known to a division of the tape.
    pub(in crate::logbook) fn read_area(&self, number: u32, (start, end): (u32, u32)) -> Result<Reading, Refusal> {
        self.frame_of(Footage::Run(number), end)?;
        let none = || Refusal::from(FootageRefusal::NoArea);
        let run = self.footage(number).ok_or(Refusal::Gone(Thing::Run))??;
        let settings = self.run_settings(number).ok_or(Refusal::Gone(Thing::Run))?;
        let scene = self.sheet.rig().ok_or_else(none)?.scene(&settings, &run);
        let focus = scene.focus.ok_or_else(none)?;
        let card = &self.sheet.card;
        let place = [Role::PlaceX, Role::PlaceY].map(|role| card.channel_of(role).and_then(|c| run.channel(c.name)));
        let [Some(x), Some(y)] = place else { return Err(none()) };
        let size = card.length.size();
        // As finely as the stage shows it.
        let at = |f: u32| {
            let on = |v: f64| (v / size / PLACE).round() * PLACE;
            [on(x[f as usize]) - focus[0], on(y[f as usize]) - focus[1]]
        };
        let (mut twice, mut far) = (0.0, 0.0_f64);
        for f in start..end {
            let ([a, b], [c, d]) = (at(f), at(f + 1));
            twice += a * d - b * c;
            far = far.max(a.hypot(b)).max(c.hypot(d));
        }
        let unit = card.length.power(2.into()).ok_or_else(none)?;
        let resolution = 0.5 * far * card.division;
        let number_read = Decimal::rounded(0.5 * f64::abs(twice), step_for(resolution / 12f64.sqrt()));
        Ok(Reading { number: number_read, unit, resolution, origin: Origin::Area { run: number, start, end } })
    }

    fn read_setting(&self, name: &str) -> Result<Reading, Refusal> {
        let rule = self.rule(name).filter(|r| r.freedom != Freedom::Hidden);
        let value = rule.map(|r| self.state.run.settings.get(name).unwrap_or(&r.value));
        let spec = self.sheet.card.setting(name);
        let Some((number, unit)) = spec.zip(value).and_then(|(spec, value)| spec.number(value)) else {
            return Err(Refusal::from(FootageRefusal::NotEntered { name: name.to_owned() }));
        };
        let run = self.state.run_on_stage().filter(|_| !self.settings_are_new());
        let origin = Origin::Setting { name: name.to_owned(), run };
        Ok(Reading { resolution: number.last_digit(), number, unit, origin })
    }
}

/// What the tape shows for a distance, and its resolution; all in one unit. With a tenth estimated by eye, the
/// last division passed counts; without, the nearest one.
fn tape_reading(distance: f64, division: f64, tenths: Option<u8>) -> (f64, f64) {
    let divisions = distance / division;
    match tenths {
        None => (divisions.round() * division, division),
        // A distance of exactly 1.500 m may be stored a little low.
        Some(t) => (((divisions + 1e-6).floor() + f64::from(t) / 10.0) * division, division / 10.0),
    }
}
