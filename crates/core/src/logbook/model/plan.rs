//! Plans edits of the step model.

use super::worked::suits;
use super::{Compared, FittedPart, ModelChange, ModelEdit, ModelRun, ModelSpec, ModelState};
use crate::logbook::Flaw;
use crate::logbook::Heard;
use crate::logbook::Logbook;
use crate::logbook::ModelRefusal;
use crate::logbook::change::Change;
use crate::logbook::planning::{Fresh, Plan, Planned, nothing_changed};
use crate::logbook::refusal::{Counted, Limit, Refusal, ShortText, Thing};
use crate::quantity::format::{plus_minus, with_unit};
use crate::quantity::{Decimal, Unit, parse_quantity};
use crate::record::ColumnId;
use crate::step_model::{ForceName, ForceText, MOST_FORCES, ModelField, ModelText, Sought, Typed, quantity};

/// Models that stay at most.
pub(super) const MOST_RUNS: usize = 12;
/// Steps of a model at the bench, at most.
pub(super) const MOST_STEPS: usize = 5000;
/// Longest formula or quantity that is typed for a model, in characters.
const LONGEST_TYPED: usize = 400;
/// Digits of a start value that was taken from readings, beyond those that are known.
const FINE: f64 = 1e-4;

impl Logbook {
    pub(in crate::logbook) fn plan_model(&self, edit: &ModelEdit, fresh: &mut Fresh) -> Plan {
        if !self.sheet.step_model {
            return Err(Refusal::from(ModelRefusal::NoModel));
        }
        let state = &self.state.model;
        let mut plan = (*state.plan).clone();
        match edit {
            ModelEdit::Compare { t, x, y } => {
                let with = self.compared_columns(*t, *x, *y)?;
                let same = self.compared(&self.analyse()) == Some(with);
                let change = ModelChange::Compare { with: Some(with) };
                return Ok(if same { Vec::new() } else { vec![Change::Model(change)] }.into());
            }
            ModelEdit::Type { field, typed } => {
                let typed = typed.trim();
                if !typed.is_empty() {
                    check_typed(typed)?;
                    quantity(typed, field.unit(), Typed::Model(*field)).map_err(nothing_changed)?;
                }
                typed.clone_into(plan.text.value_mut(*field));
                plan.start_from_data &= match field {
                    ModelField::Mass | ModelField::Step | ModelField::Until => true,
                    ModelField::T | ModelField::X | ModelField::Y | ModelField::Vx | ModelField::Vy => false,
                };
            }
            ModelEdit::Choose { method } => plan.text.method = *method,
            ModelEdit::StartFromData => self.start_from_data(&mut plan)?,
            ModelEdit::AddForce { kind } => {
                if plan.text.forces.len() >= MOST_FORCES {
                    return Err(Refusal::Limit(Limit::Many { of: Counted::Forces, most: MOST_FORCES }));
                }
                plan.text.forces.push(ForceText::new(*kind));
            }
            ModelEdit::RemoveForce { place } => {
                force(&mut plan, *place)?;
                plan.text.forces.remove(*place);
            }
            ModelEdit::Switch { place, on } => force(&mut plan, *place)?.on = *on,
            ModelEdit::TypeForce { place, field, typed } => {
                let typed = typed.trim();
                let force = force(&mut plan, *place)?;
                let takes = force.kind.takes().iter().find(|t| t.field == *field);
                let takes = takes.ok_or_else(|| {
                    Refusal::from(ModelRefusal::NoField { force: force.kind.name(), field: field.name() })
                })?;
                if typed.is_empty() {
                    force.values.remove(field);
                } else {
                    check_typed(typed)?;
                    force.values.insert(*field, typed.to_owned());
                    match takes.unit {
                        Some(unit) => {
                            quantity(typed, unit, Typed::Force(*field)).map_err(nothing_changed)?;
                        }
                        None => force.read(&self.held_values()).map(|_| ()).map_err(nothing_changed)?,
                    }
                }
            }
            ModelEdit::Run => return self.run_model(plan, None, fresh).map(Into::into),
            ModelEdit::Fit { place } => return self.fit_model(plan, *place, fresh),
            ModelEdit::Delete { run } => {
                let place = state.runs.iter().position(|r| r.id == *run).ok_or(Refusal::Gone(Thing::Model))?;
                return Ok(vec![Change::Model(ModelChange::Remove { place })].into());
            }
        }
        Ok(self.set_model(plan).into())
    }

    /// The change to a model set otherwise, if it is.
    fn set_model(&self, plan: ModelSpec) -> Vec<Change> {
        if plan == *self.state.model.plan {
            return Vec::new();
        }
        vec![Change::Model(ModelChange::Plan { plan: Box::new(plan) })]
    }

    /// Columns of one table, of the kinds a motion needs.
    fn compared_columns(&self, t: ColumnId, x: Option<ColumnId>, y: Option<ColumnId>) -> Result<Compared, Refusal> {
        let (table, _, _) = self.column(t)?;
        let analysis = self.analyse();
        // Times of another table bring its own positions with them: those of the table before do not go with them.
        let own = |id: &ColumnId| table.column(*id).is_some();
        if !x.iter().chain(&y).any(own) && self.compared(&analysis).is_some_and(|c| !own(&c.t)) {
            let there = analysis.tables.iter().find(|w| w.record.id == table.id);
            if let Some(offered) = there.and_then(super::worked::offered) {
                return self.compared_columns(t, offered.x, offered.y);
            }
        }
        if x.is_none() && y.is_none() {
            return Err(Refusal::from(ModelRefusal::NoPositions));
        }
        if x.is_some() && x == y {
            return Err(Refusal::from(ModelRefusal::OneColumn));
        }
        if let Some(other) = x.iter().chain(&y).find(|id| table.column(**id).is_none()) {
            self.column(*other)?;
            return Err(Refusal::from(ModelRefusal::TwoTables));
        }
        let with = Compared { t, x, y };
        if suits(&analysis, with) { Ok(with) } else { Err(Refusal::from(ModelRefusal::NotHeldAgainst)) }
    }

    /// Position and velocity at the first of the readings, the velocity from the parabola through the first seven (least squares).
    fn start_from_data(&self, plan: &mut ModelSpec) -> Result<(), Refusal> {
        let none = || Refusal::from(ModelRefusal::NoStart);
        let analysis = self.analyse();
        let with = self.compared(&analysis).ok_or_else(none)?;
        let readings = Self::compared_readings(&analysis, with).ok_or_else(none)?;
        // Who has typed when it starts wants the readings from there on.
        let typed =
            quantity(&plan.text.start.t, "s", Typed::Model(ModelField::T)).ok().filter(|_| !plan.start_from_data);
        let last = readings.t.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let readings = match typed {
            Some(from) => readings.between(from, last),
            None => readings,
        };
        let first = readings.t.iter().copied().fold(f64::INFINITY, f64::min);
        if !first.is_finite() {
            return Err(none());
        }
        let text = |value: f64, step: f64, unit: &str| format!("{} {unit}", Decimal::rounded(value, step).as_str());
        plan.text.start = crate::step_model::StartText { t: format!("{first} s"), ..Default::default() };
        for (values, position, velocity) in
            [(&readings.x, ModelField::X, ModelField::Vx), (&readings.y, ModelField::Y, ModelField::Vy)]
        {
            let Some(values) = values else { continue };
            let mut points: Vec<(f64, f64)> = readings.t.iter().zip(values).map(|(t, v)| (t - first, *v)).collect();
            points.sort_by(|a, b| a.0.total_cmp(&b.0));
            let wide = points.iter().map(|p| (p.1 - points[0].1).abs()).fold(1e-9, f64::max);
            let (at, speed) = super::worked::start_of(&points).ok_or_else(none)?;
            let long = points.last().map_or(1.0, |p| p.0).max(1e-9);
            *plan.text.value_mut(position) = text(at, FINE * wide, "m");
            *plan.text.value_mut(velocity) = text(speed, FINE * wide / long * 10.0, "m/s");
        }
        plan.start_from_data = true;
        Ok(())
    }

    /// A model that is run stays: it is checked here, and worked out again whenever it is shown.
    fn run_model(
        &self,
        plan: ModelSpec,
        fitted: Option<FittedPart>,
        fresh: &mut Fresh,
    ) -> Result<Vec<Change>, Refusal> {
        let runs = &self.state.model.runs;
        if runs.len() >= MOST_RUNS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Models, most: MOST_RUNS }));
        }
        let analysis = self.analyse();
        let compared = self.compared(&analysis);
        let same = runs.last().filter(|last| {
            *last.plan == plan && last.compared == compared && last.fitted.is_none() && fitted.is_none()
        });
        if let Some(last) = same {
            return Err(Refusal::from(ModelRefusal::JustSo { number: last.number }));
        }
        let readings = compared.and_then(|with| Self::compared_readings(&analysis, with));
        let (model, _) = self.model_of(&plan.text, readings).map_err(nothing_changed)?;
        model.run().map_err(nothing_changed)?;
        let mut changes = self.set_model(plan.clone());
        let number = runs.last().map_or(1, |r| r.number.saturating_add(1));
        let run = ModelRun { id: fresh.next(), number, plan: Box::new(plan), compared, fitted };
        changes.push(Change::Model(ModelChange::Insert { place: runs.len(), run: Box::new(run) }));
        Ok(changes)
    }

    fn fit_model(&self, mut plan: ModelSpec, place: usize, fresh: &mut Fresh) -> Plan {
        let kind = force(&mut plan, place)?.kind;
        let (field, unit) =
            kind.parameter().ok_or_else(|| Refusal::from(ModelRefusal::NothingToFit { force: kind.name() }))?;
        // Where the search begins, if nothing is typed yet.
        let values = &mut force(&mut plan, place)?.values;
        if values.get(&field).is_none_or(|v| v.trim().is_empty()) {
            values.insert(field, format!("{} {unit}", guess(kind)));
        }
        let analysis = self.analyse();
        let readings = self.compared(&analysis).and_then(|with| Self::compared_readings(&analysis, with));
        let (model, readings) = self.model_of(&plan.text, readings).map_err(nothing_changed)?;
        let readings = readings.ok_or_else(|| Refusal::from(ModelRefusal::NoReadings))?;
        let sought = Sought { place, start: plan.start_from_data, mass_u: mass_u(&plan.text) };
        let found = model.fitted(&sought, &readings).map_err(nothing_changed)?;
        let said = Unit::parse(unit).unwrap_or_default();
        let (value, u) = (found.parameter.value, found.parameter.u);
        if !value.is_finite() || !u.is_finite() {
            return Err(Refusal::from(ModelRefusal::NotDetermined));
        }
        let step = if u > 0.0 { 0.01 * u } else { value.abs().max(1e-90) * 1e-9 };
        let text = |value: f64, step: f64, unit: &str| format!("{} {unit}", Decimal::rounded(value, step).as_str());
        force(&mut plan, place)?.values.insert(field, text(value, step, unit));
        if plan.start_from_data {
            let long = (found.model.until - found.model.start).max(1e-9);
            for (axis, position, velocity) in [(0, ModelField::X, ModelField::Vx), (1, ModelField::Y, ModelField::Vy)] {
                let own = readings.all().filter(|(_, _, a)| *a == axis).map(|(_, value, _)| value);
                let Some((low, high)) = own.fold(None, |ends: Option<(f64, f64)>, v| {
                    Some(ends.map_or((v, v), |(lo, hi)| (lo.min(v), hi.max(v))))
                }) else {
                    continue;
                };
                let step = 0.1 * FINE * (high - low).max(1e-9);
                *plan.text.value_mut(position) = text(found.model.position[axis], step, position.unit());
                *plan.text.value_mut(velocity) = text(found.model.velocity[axis], step / long, velocity.unit());
            }
        }
        let part = FittedPart {
            place,
            value,
            u,
            freedom: Some(found.freedom).filter(|f| f.is_finite()),
            n: found.agreement.n,
            brought: false,
        };
        let heard = vec![Heard::Fitted { field, value: with_unit(&plus_minus(value, u), &said) }];
        Ok(Planned { heard, ..self.run_model(plan, Some(part), fresh)?.into() })
    }
}

fn force(plan: &mut ModelSpec, place: usize) -> Result<&mut ForceText, Refusal> {
    plan.text.forces.get_mut(place).ok_or(Refusal::Gone(Thing::Force))
}

fn check_typed(typed: &str) -> Result<(), Refusal> {
    if typed.chars().count() > LONGEST_TYPED {
        return Err(Refusal::Limit(Limit::Short { of: ShortText::Typed, most: LONGEST_TYPED }));
    }
    Ok(())
}

/// Standard uncertainty of the mass: known to its last digit (JCGM 100:2008, 4.3.7).
fn mass_u(text: &ModelText) -> f64 {
    let kilogram = Unit::parse("kg").unwrap_or_default();
    parse_quantity(&text.mass, &kilogram).map_or(0.0, |(number, unit)| number.last_digit() * unit.size() / 12f64.sqrt())
}

/// Where a search begins.
fn guess(kind: ForceName) -> &'static str {
    match kind {
        ForceName::Weight => "9.8",
        ForceName::Drag | ForceName::DragSquared => "0.01",
        ForceName::Spring => "10",
        ForceName::Friction => "0.1",
        ForceName::Buoyancy => "0.001",
        ForceName::Push | ForceName::Own => "1",
    }
}

/// A model that was brought from a file fits what one can be.
pub(in crate::logbook) fn check_restored(state: &ModelState) -> Result<(), Flaw> {
    if state.runs.len() > MOST_RUNS {
        return Err(Flaw::ManyModels);
    }
    let plans = state.runs.iter().map(|r| &r.plan).chain([&state.plan]);
    for plan in plans {
        let text = &plan.text;
        let typed = ModelField::ALL.iter().map(|f| text.value(*f)).chain(text.held.values().map(String::as_str));
        let forces = text.forces.iter().flat_map(|f| f.values.values().chain(&f.name)).map(String::as_str);
        let long = typed.chain(forces).any(|t| t.chars().count() > LONGEST_TYPED);
        if text.forces.len() > MOST_FORCES || text.held.len() > MOST_FORCES || long {
            return Err(Flaw::LargeModel);
        }
    }
    let sound = |f: &FittedPart| f.value.is_finite() && f.u.is_finite() && f.freedom.is_none_or(f64::is_finite);
    if !state.runs.iter().filter_map(|r| r.fitted.as_ref()).all(sound) {
        return Err(Flaw::Fitted);
    }
    Ok(())
}
