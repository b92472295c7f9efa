//! Edits of films: what is laid over them, marks, and the rows that marks fill.

use crate::logbook::FilmRefusal;
use crate::logbook::Heard;
use crate::logbook::refusal::{Counted, Limit, Named, Refusal, Thing};
use crate::logbook::{ColumnText, FromTrail, Logbook};
use std::sync::Arc;

use super::{FilmChange, FilmEdit};
use crate::formula::is_symbol;
use crate::logbook::Flaw;
use crate::logbook::change::Change;
use crate::logbook::planning::{Changes, Fresh, Plan, Planned, name_of, nothing_changed};
use crate::logbook::record::RecordChange;
use crate::logbook::state::State;
use crate::motion::{
    Axes, FARTHEST, FilmFacts, FilmWork, LONGEST_SIDE, MOST_FRAMES, Mark, Plane, Ruler, Trail, TrailId,
};
use crate::quantity::{Dimension, Precision, Unit, parse_quantity};
use crate::record::{Column, ColumnId, ColumnKind, Record, Row, TableId};

/// Most films of a logbook, rulers of a film and trails of a film.
const MOST_FILMS: usize = 40;
const MOST_RULERS: usize = 12;
const MOST_TRAILS: usize = 20;
/// What is said of a place that the rectangle cannot set right.
/// Ends of a ruler closer than this, in px, give no scale.
const SHORTEST: f64 = 5.0;

impl Logbook {
    pub(in crate::logbook) fn plan_film(&self, edit: &FilmEdit, fresh: &mut Fresh) -> Plan {
        let changes = match edit {
            FilmEdit::ChooseFilm { facts } => self.plan_choose(facts)?,
            FilmEdit::PlaceRuler { film, index, ends, typed, circle } => {
                let (number, film) = self.film(film)?;
                let ruler = ruler(*ends, typed, *circle)?;
                let mut new = film.clone();
                match index {
                    Some(i) => *new.rulers.get_mut(*i as usize).ok_or(Refusal::Gone(Thing::Ruler))? = ruler,
                    None if new.rulers.len() >= MOST_RULERS => {
                        return Err(Refusal::Limit(Limit::Many { of: Counted::Rulers, most: MOST_RULERS }));
                    }
                    None => new.rulers.push(ruler),
                }
                let differ = new.scale().filter(|s| s.disagree);
                let differ = differ.map(|s| Heard::ScalesDiffer { spread: s.spread.unwrap_or_default() });
                return Ok(Planned { heard: differ.into_iter().collect(), ..self.relaid(number, new).into() });
            }
            FilmEdit::DeleteRuler { film, index } => {
                let (number, film) = self.film(film)?;
                let mut new = film.clone();
                if *index as usize >= new.rulers.len() {
                    return Err(Refusal::Gone(Thing::Ruler));
                }
                new.rulers.remove(*index as usize);
                self.relaid(number, new)
            }
            FilmEdit::PlacePlane { film, corners, typed } => {
                let (number, film) = self.film(film)?;
                let plane = Some(plane(*corners, typed)?);
                self.relaid_in_sight(number, FilmWork { plane, ..film.clone() })?
            }
            FilmEdit::DeletePlane { film } => {
                let (number, film) = self.film(film)?;
                if film.plane.is_none() {
                    return Err(Refusal::Gone(Thing::Rectangle));
                }
                self.relaid(number, FilmWork { plane: None, ..film.clone() })
            }
            FilmEdit::PlaceAxes { film, origin, angle, flipped } => {
                let (number, film) = self.film(film)?;
                let degree = Unit::parse("deg").map_err(nothing_changed)?;
                let (value, unit) = parse_quantity(angle, &degree).map_err(nothing_changed)?;
                if !unit.same_dimension(&degree) || !sound(*origin) {
                    return Err(Refusal::from(FilmRefusal::AngleWanted));
                }
                let angle = value.value() * unit.size();
                let axes = Axes { origin: *origin, angle, flipped: *flipped };
                self.relaid_in_sight(number, FilmWork { axes, ..film.clone() })?
            }
            FilmEdit::AddTrail { film, name, table } => self.plan_trail(film, name, *table, fresh)?,
            FilmEdit::NameTrail { trail, name } => {
                let (film, place) = self.trail_place(*trail)?;
                let name = name_of(name, Named::Object)?;
                vec![Change::Film(FilmChange::NameTrail { film, place, name })]
            }
            FilmEdit::DeleteTrail { trail } => self.plan_delete_trail(*trail)?,
            FilmEdit::PlaceMark { trail, frame, at } => {
                let mark = Mark { at: at.map(|v| (v * 10.0).round() / 10.0), followed: false };
                self.marked(*trail, &[(*frame, mark)], fresh)?
            }
            FilmEdit::PlaceMarks { trail, marks } => {
                let fine = |v: f64| (v * 1000.0).round() / 1000.0;
                let marks: Vec<(u32, Mark)> =
                    marks.iter().map(|(f, at)| (*f, Mark { at: at.map(fine), followed: true })).collect();
                self.marked(*trail, &marks, fresh)?
            }
            FilmEdit::DeleteMarks { trail, from, to } => self.unmarked(*trail, *from, *to)?,
            FilmEdit::AddFromTrail { trail, what, rows } => self.plan_from_trail(*trail, *what, *rows, fresh)?,
        };
        Ok(changes.into())
    }

    /// Number of a trail's film, and its place among that film's trails.
    fn trail_place(&self, id: TrailId) -> Result<(u32, usize), Refusal> {
        let (number, film) = self.state.film_of(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let place = film.trails.iter().position(|t| t.id == id).ok_or(Refusal::Gone(Thing::Trail))?;
        Ok((number, place))
    }

    fn film(&self, key: &str) -> Result<(u32, &FilmWork), Refusal> {
        self.state.film(key).ok_or(Refusal::Gone(Thing::Film))
    }

    fn plan_choose(&self, facts: &FilmFacts) -> Changes {
        if let Some((number, _)) = self.state.film(&facts.key) {
            return Ok(vec![Change::Film(FilmChange::Shown { film: Some(number) })]);
        }
        if self.state.film.films.len() >= MOST_FILMS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Films, most: MOST_FILMS }));
        }
        check_facts(facts)?;
        let mut film = FilmWork::new(Arc::new(facts.clone()));
        // What the sheet has laid over the film already.
        if let Some(preset) = self.sheet.films.iter().find(|f| f.key == facts.key) {
            film.rulers.clone_from(&preset.rulers);
            film.axes = preset.axes.unwrap_or(film.axes);
        }
        let number = self.state.film.films.len() as u32;
        Ok(vec![
            Change::Film(FilmChange::Film { place: number as usize, film: Some(Box::new(film)) }),
            Change::Film(FilmChange::Shown { film: Some(number) }),
        ])
    }

    /// As [`Self::relaid`], refused when marks or origin would lie beyond the horizon of its plane.
    fn relaid_in_sight(&self, number: u32, film: FilmWork) -> Changes {
        if in_sight(&film) { Ok(self.relaid(number, film)) } else { Err(Refusal::from(FilmRefusal::Beyond)) }
    }

    /// A film changed in scale, axes or t = 0, and all that its marks fill.
    pub(in crate::logbook) fn relaid(&self, number: u32, film: FilmWork) -> Vec<Change> {
        let mut changes = Vec::new();
        let (unit, sight) = (film.unit(), film.sight());
        for trail in &film.trails {
            let Some(table) = self.state.table(trail.table) else { continue };
            for id in &trail.columns[1..] {
                let found = table.columns.iter().enumerate().find(|(_, c)| c.id == *id);
                // Another unit of length that a person chose stays.
                if let Some((i, column)) = found
                    && column.unit.as_ref().is_none_or(|u| !u.same_dimension(&unit))
                {
                    let column = Column { unit: Some(unit.clone()), ..column.clone() };
                    changes.push(Change::Record(RecordChange::ReplaceColumn { table: table.id, place: i, column }));
                }
            }
            for (i, row) in table.rows.iter().enumerate() {
                let Some((id, frame)) = row.mark.filter(|(id, _)| *id == trail.id) else { continue };
                let Some(mark) = trail.marks.get(&frame) else { continue };
                let readings = sight.readings(number, id, frame, mark);
                for (column, reading) in trail.columns.into_iter().zip(readings) {
                    changes.push(Change::Record(RecordChange::Cell {
                        table: table.id,
                        row: i,
                        column,
                        reading: Some(reading),
                    }));
                }
            }
        }
        let there = &self.state.film.films[number as usize];
        if (&film.rulers, &film.axes, &film.plane) != (&there.rulers, &there.axes, &there.plane) {
            let FilmWork { rulers, axes, plane, .. } = film;
            changes.push(Change::Film(FilmChange::Laid { film: number, rulers, axes, plane }));
        }
        if film.tools != there.tools {
            changes.push(Change::Film(FilmChange::Tools { film: number, tools: film.tools }));
        }
        changes
    }

    fn plan_trail(&self, film: &str, name: &str, table: Option<TableId>, fresh: &mut Fresh) -> Changes {
        let (number, film) = self.film(film)?;
        let name = name_of(name, Named::Object)?;
        if film.trails.len() >= MOST_TRAILS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Trails, most: MOST_TRAILS }));
        }
        let id = fresh.next();
        let mut changes = Vec::new();
        let conditions = self.sheet.conditions_of(&film.facts.key);
        let mut trail = Trail { id, name, table: 0, columns: [0; 3], conditions: Vec::new(), marks: [].into() };
        let joined = table.and_then(|t| self.state.film.films.iter().flat_map(|f| &f.trails).find(|o| o.table == t));
        match (table, joined) {
            (Some(table), Some(other)) => {
                trail.table = table;
                trail.columns = other.columns;
                let values = conditions.into_iter().map(|(_, reading)| reading);
                trail.conditions = other.conditions.iter().map(|(c, _)| *c).zip(values).collect();
            }
            (Some(_), None) => {
                return Err(Refusal::from(FilmRefusal::OtherTable));
            }
            (None, _) => {
                let wanted = trail.name.clone();
                let taken = |name: &str| self.state.record.tables.iter().any(|t| t.name == name);
                let name =
                    (1..).map(|k| if k == 1 { wanted.clone() } else { format!("{wanted} {k}") }).find(|n| !taken(n));
                let mut table = self.new_table(&name.unwrap_or(wanted), fresh)?;
                trail.table = table.id;
                for (spec, reading) in conditions {
                    let column = filled(fresh.next(), ColumnKind::Set, &spec.name, &spec.symbol, spec.unit.clone());
                    trail.conditions.push((column.id, reading));
                    table.columns.push(column);
                }
                // A condition parts the rows into groups: rates never reach from one film into another.
                table.group = trail.conditions.first().map(|(c, _)| *c);
                let second = Unit::coherent(&Dimension::of([0, 0, 1, 0, 0, 0, 0]));
                let heads = [("time", "t", second), ("position x", "x", film.unit()), ("position y", "y", film.unit())];
                for (i, (name, symbol, unit)) in heads.into_iter().enumerate() {
                    let column = filled(fresh.next(), ColumnKind::Read, name, symbol, unit);
                    trail.columns[i] = column.id;
                    table.columns.push(column);
                }
                // An empty table that nobody has used makes room.
                let unused = |t: &Arc<Record>| t.columns.is_empty() && t.rows.is_empty();
                match self.state.record.tables.iter().position(unused) {
                    Some(index) => {
                        changes.push(Change::Record(RecordChange::RemoveTable { place: index }));
                        changes.push(Change::Record(RecordChange::InsertTable { place: index, table: table.into() }));
                    }
                    None => changes.push(Change::Record(RecordChange::InsertTable {
                        place: self.state.record.tables.len(),
                        table: table.into(),
                    })),
                }
            }
        }
        changes.push(Change::Film(FilmChange::InsertTrail { film: number, place: film.trails.len(), trail }));
        Ok(changes)
    }

    fn plan_delete_trail(&self, id: TrailId) -> Changes {
        let (film, place) = self.trail_place(id)?;
        let mut changes = self.unmarked(id, 0, u32::MAX)?;
        // The marks are gone already when this is done.
        changes.push(Change::Film(FilmChange::RemoveTrail { film, place }));
        Ok(changes)
    }

    /// Marks set, and their rows filled; rows of a trail are in the order of its frames.
    fn marked(&self, id: TrailId, marks: &[(u32, Mark)], fresh: &mut Fresh) -> Changes {
        let (number, film) = self.state.film_of(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let trail = film.trail(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let table = self.table(trail.table)?;
        let (wide, high) = (f64::from(film.facts.width), f64::from(film.facts.height));
        let sight = film.sight();
        let mut changes = Vec::new();
        // Places of the rows as they are once the changes so far are done.
        let mut rows: Vec<Option<(u32, u32)>> = table.rows.iter().map(|r| r.mark).collect();
        for (frame, mark) in marks {
            let [x, y] = mark.at;
            if *frame as usize >= film.facts.times.len() || !(0.0..=wide).contains(&x) || !(0.0..=high).contains(&y) {
                return Err(Refusal::from(FilmRefusal::Outside));
            }
            if !sight.sees(mark.at) {
                return Err(Refusal::from(FilmRefusal::Beyond));
            }
            changes.push(Change::Film(FilmChange::Mark { film: number, trail: id, frame: *frame, mark: Some(*mark) }));
            let readings = trail.columns.into_iter().zip(sight.readings(number, id, *frame, mark));
            if let Some(at) = rows.iter().position(|m| *m == Some((id, *frame))) {
                changes.extend(readings.map(|(c, r)| {
                    Change::Record(RecordChange::Cell { table: table.id, row: at, column: c, reading: Some(r) })
                }));
                continue;
            }
            if rows.len() >= crate::record::MOST_ROWS {
                return Err(Refusal::from(FilmRefusal::TableFull));
            }
            let later = rows.iter().position(|m| m.is_some_and(|(t, f)| t == id && f > *frame));
            let last = rows.iter().rposition(|m| m.is_some_and(|(t, _)| t == id));
            let at = later.or(last.map(|l| l + 1)).unwrap_or(rows.len());
            let cells = readings.chain(trail.conditions.iter().cloned()).map(|(c, r)| (c, Box::new(r))).collect();
            let row = Row { id: fresh.next(), cells, mark: Some((id, *frame)), ..Row::default() };
            rows.insert(at, row.mark);
            changes.push(Change::Record(RecordChange::InsertRow { table: table.id, place: at, row }));
        }
        Ok(changes)
    }

    fn unmarked(&self, id: TrailId, from: u32, to: u32) -> Changes {
        let (number, film) = self.state.film_of(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let trail = film.trail(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let table = self.table(trail.table)?;
        let inside = |f: u32| (from..=to).contains(&f);
        let marks = trail
            .marks
            .keys()
            .filter(|f| inside(**f))
            .map(|f| Change::Film(FilmChange::Mark { film: number, trail: id, frame: *f, mark: None }));
        let hit = |r: &Row| r.mark.is_some_and(|(t, f)| t == id && inside(f));
        let rows: Vec<usize> = table.rows.iter().enumerate().filter(|(_, r)| hit(r)).map(|(i, _)| i).collect();
        // From below, so that the places above stay what they are.
        Ok(marks
            .chain(
                rows.into_iter().rev().map(|i| Change::Record(RecordChange::RemoveRow { table: table.id, place: i })),
            )
            .collect())
    }

    fn plan_from_trail(&self, id: TrailId, what: FromTrail, rows: Option<u8>, fresh: &mut Fresh) -> Changes {
        let (_, film) = self.state.film_of(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let trail = film.trail(id).ok_or(Refusal::Gone(Thing::Trail))?;
        let table = self.table(trail.table)?;
        let symbol = |i: usize| table.column(trail.columns[i]).map_or("", |c| c.symbol.as_str());
        let (t, x, y) = (symbol(0), symbol(1), symbol(2));
        let (window, way) = match rows {
            None => (String::new(), "central differences".to_owned()),
            Some(n) => (format!(", {n}"), format!("parabola of {n}")),
        };
        let wanted: Vec<(String, String, String)> = match what {
            FromTrail::Velocity => [x, y]
                .map(|s| (format!("v{s}"), format!("velocity {s}, {way}"), format!("rate({s}, {t}{window})")))
                .into(),
            FromTrail::Acceleration => [x, y]
                .map(|s| (format!("a{s}"), format!("acceleration {s}, {way}"), format!("rate2({s}, {t}{window})")))
                .into(),
            FromTrail::Distance => vec![("r".into(), "distance from origin".into(), format!("sqrt({x}^2 + {y}^2)"))],
            FromTrail::Angle => vec![("φ".into(), "angle from the x axis".into(), format!("angle({x}, {y})"))],
        };
        let mut changes = Vec::new();
        let mut after = table.clone();
        for (symbol, name, formula) in wanted {
            let taken = |s: &str| after.by_symbol(s).is_some() || !is_symbol(s);
            let symbol =
                (1..).map(|k| if k == 1 { symbol.clone() } else { format!("{symbol}{k}") }).find(|s| !taken(s));
            let text = ColumnText { name, symbol: symbol.unwrap_or_default(), formula, ..ColumnText::default() };
            let column = self.column_from(&after, fresh.next(), ColumnKind::Worked, &text)?;
            crate::logbook::record::columns::room_for_columns(&after, 1)?;
            changes.push(Change::Record(RecordChange::InsertColumn {
                table: table.id,
                place: after.columns.len(),
                column: column.clone(),
            }));
            after.columns.push(column);
        }
        Ok(changes)
    }
}

pub(in crate::logbook) fn filled(id: ColumnId, kind: ColumnKind, name: &str, symbol: &str, unit: Unit) -> Column {
    Column {
        id,
        kind,
        name: name.to_owned(),
        symbol: symbol.to_owned(),
        unit: Some(unit),
        formula: None,
        precision: Precision::default(),
        stem: None,
        aside: None,
        filled: true,
        source: None,
    }
}

fn sound(at: [f64; 2]) -> bool {
    at.iter().all(|v| v.abs() < FARTHEST)
}

fn ruler(ends: [[f64; 2]; 2], typed: &str, circle: bool) -> Result<Ruler, Refusal> {
    let metre = Unit::coherent(&Dimension::of([1, 0, 0, 0, 0, 0, 0]));
    let (number, unit) = parse_quantity(typed, &metre).map_err(nothing_changed)?;
    let what = if circle { "radius" } else { "length" };
    if !unit.same_dimension(&metre) || number.value() <= 0.0 {
        return Err(Refusal::from(FilmRefusal::NoLength { typed: typed.trim().to_owned(), what }));
    }
    let ruler = Ruler { ends, length: (number, unit), circle };
    if !sound(ends[0]) || !sound(ends[1]) || ruler.pixels().is_nan() || ruler.pixels() < SHORTEST {
        return Err(Refusal::from(FilmRefusal::EndsTogether));
    }
    Ok(ruler)
}

fn plane(corners: [[f64; 2]; 4], typed: &[String; 2]) -> Result<Plane, Refusal> {
    // Width and height are read like the length of a ruler.
    let side = |text: &str| ruler([[0.0, 0.0], [100.0, 0.0]], text, false).map(|r| r.length);
    let plane = Plane { corners, sides: [side(&typed[0])?, side(&typed[1])?] };
    if !corners.into_iter().all(sound) || plane.flat().is_none() {
        return Err(Refusal::from(FilmRefusal::NoRectangle));
    }
    Ok(plane)
}

/// Whether all marks and the origin lie on this side of the horizon.
fn in_sight(film: &FilmWork) -> bool {
    let sight = film.sight();
    sight.sees(film.axes.origin) && film.trails.iter().flat_map(|t| t.marks.values()).all(|m| sight.sees(m.at))
}

fn check_facts(facts: &FilmFacts) -> Result<(), FilmRefusal> {
    let rising = facts.times.windows(2).all(|w| w[1] > w[0]);
    if !(2..=MOST_FRAMES).contains(&facts.times.len()) || !rising || !facts.times.iter().all(|t| t.abs() < 1e6) {
        return Err(FilmRefusal::Frames { most: MOST_FRAMES });
    }
    if facts.width == 0 || facts.height == 0 || facts.width > LONGEST_SIDE || facts.height > LONGEST_SIDE {
        return Err(FilmRefusal::Picture { most: LONGEST_SIDE });
    }
    Ok(())
}

/// Films of a file that is brought back: nothing in it is trusted.
pub(in crate::logbook) fn check_restored(state: &State) -> Result<(), Flaw> {
    if state.film.films.len() > MOST_FILMS || state.film.shown.is_some_and(|n| n as usize >= state.film.films.len()) {
        return Err(Flaw::Films);
    }
    for film in &state.film.films {
        check_facts(&film.facts).map_err(|_| Flaw::Film)?;
        let frames = film.facts.times.len();
        let lengths = film.rulers.iter().all(|r| ruler(r.ends, "1 m", r.circle).is_ok() && r.length.0.value() > 0.0);
        let planes = film.plane.iter().all(|p| p.corners.into_iter().all(sound) && p.flat().is_some());
        let lengths = lengths && planes && in_sight(film);
        let moments = [Some(film.tools.zero), film.tools.start, film.tools.end];
        let placed = moments.into_iter().flatten().all(|f| (f as usize) < frames);
        if !lengths || !placed || !sound(film.axes.origin) || !film.axes.angle.is_finite() {
            return Err(Flaw::OverFilm);
        }
        for trail in &film.trails {
            let table = state.table(trail.table).ok_or(Flaw::TrailOfNothing)?;
            let columns = trail.columns.iter().chain(trail.conditions.iter().map(|(c, _)| c));
            let marks = trail.marks.iter().all(|(f, m)| (*f as usize) < frames && sound(m.at));
            if columns.into_iter().any(|c| table.column(*c).is_none_or(|c| !c.filled)) || !marks {
                return Err(Flaw::Trail);
            }
        }
    }
    Ok(())
}
