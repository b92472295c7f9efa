//! Runs of a rig: what the player needs to show them, their arrows, their meters.
//!
//! A recording goes out as whole steps and their second differences, so that a minute of motion is some ten thousand
//! characters a channel, and finer than a step nothing leaves the server.

use std::collections::BTreeMap;
use std::sync::Arc;

use axum::Json;
use axum::extract::{Path, Query, State};
use axum::response::{IntoResponse, Response};
use serde::{Deserialize, Serialize};
use zeitmass_core::lab::{Freedom, LabSheet};
use zeitmass_core::logbook::{Logbook, SetUp};
use zeitmass_core::quantity::Unit;
use zeitmass_core::rigs::{
    ArrowKind, Bounds, Channel, Clock, Follows, Handle, PLACE, Pull, Role, Run, Scene, SettingKind, SettingValue,
};
use zeitmass_store::{Id, StoreError};
use zeitmass_words::Words;

use crate::app::App;
use crate::desks::blocking;
use crate::error::WebError;
use crate::session::Access;

/// Parts of the stage that a glance at the apparatus tells apart.
const GLANCE: f64 = 120.0;
/// Arrows are drawn to a hundredth of the longest one, itself rounded up to two figures: no finer than a person reads them off.
const ARROW_STEPS: f64 = 100.0;

/// Curves beside the stage, at most.
const MOST_CURVES: usize = 4;

/// A channel in whole steps: the first value, the first difference, then second differences.
#[derive(Serialize)]
struct Packed {
    step: f64,
    values: Vec<i64>,
}

impl Packed {
    fn of(values: &[f64], step: f64) -> Self {
        let steps: Vec<i64> = values.iter().map(|v| (v / step).round() as i64).collect();
        let values = (0..steps.len()).map(|i| match i {
            0 => steps[0],
            1 => steps[1] - steps[0],
            _ => steps[i] - 2 * steps[i - 1] + steps[i - 2],
        });
        let values = values.collect();
        Self { step, values }
    }
}

/// A curve beside the stage.
#[derive(Serialize)]
struct Track {
    channel: &'static str,
    symbol: &'static str,
    unit: String,
}

/// What the player needs of a run: the scene, the channels it is bound to and those drawn beside it, nothing else.
#[derive(Serialize)]
struct Footage {
    run: u32,
    /// Time between two frames, in `time`.
    every: f64,
    /// How long a frame is shown at speed 1, in s.
    frame: f64,
    /// Unit and symbol of times.
    time: String,
    symbol: &'static str,
    /// Decimals of times.
    places: u32,
    frames: usize,
    /// Unit of the scene's lengths.
    length: String,
    /// Smallest division of the tape, in `length`.
    division: f64,
    /// What happened on the way, by frame.
    marks: Vec<(usize, String)>,
    /// What can be taken hold of.
    grips: Vec<Grip>,
    scene: Scene,
    channels: BTreeMap<&'static str, Packed>,
    tracks: Vec<Track>,
}

/// Which curves a person wants beside the stage: names parted by commas. The sheet's own without.
#[derive(Deserialize)]
pub(super) struct Wanted {
    curves: Option<String>,
    /// Settings as a hand would move them, typed, by name: JSON.
    set: Option<String>,
}

/// A handle, with each setting it moves as that stands.
#[derive(Serialize)]
struct Grip {
    name: String,
    at: [f64; 2],
    from: Option<[f64; 2]>,
    pulls: Vec<PullOn>,
}

/// A setting that a handle moves. Numbers are in the setting's unit.
#[derive(Serialize)]
struct PullOn {
    setting: &'static str,
    label: &'static str,
    unit: String,
    pretty: String,
    step: f64,
    ends: [f64; 2],
    /// Ends of a node's y.
    across: Option<[f64; 2]>,
    value: f64,
    /// Nodes of a path as typed.
    nodes: Option<String>,
    #[serde(flatten)]
    how: Follows,
}

impl Grip {
    /// The handles of a scene whose settings are free in this lab, with these values.
    fn of(book: &Logbook, scene: &Scene, settings: &BTreeMap<String, SettingValue>, place: f64) -> Vec<Self> {
        let to = |v: f64| (v / place).round() * place;
        let free = |p: &Pull| book.rule(p.setting).is_some_and(|r| r.freedom == Freedom::Free);
        let mut all: Vec<&Handle> = Vec::new();
        // Of several in one place the first that may be moved.
        for handle in scene.handles.iter().filter(|h| h.pulls.iter().all(free)) {
            if all.iter().all(|h| h.at != handle.at) {
                all.push(handle);
            }
        }
        let grips = all.into_iter().filter_map(|h| {
            let pulls = h.pulls.iter().map(|p| PullOn::of(book, p, settings)).collect::<Option<Vec<_>>>()?;
            Some(Self { name: h.name.clone(), at: h.at.map(to), from: h.from.map(|f| f.map(to)), pulls })
        });
        grips.collect()
    }
}

impl PullOn {
    fn of(book: &Logbook, pull: &Pull, settings: &BTreeMap<String, SettingValue>) -> Option<Self> {
        let spec = book.sheet().card.setting(pull.setting)?;
        let value = settings.get(pull.setting).or(book.rule(pull.setting).map(|r| &r.value))?;
        let on = |unit: &Unit, step, ends, across, value, nodes| Self {
            setting: spec.name,
            label: spec.label,
            // As it can be typed again.
            unit: unit.to_string(),
            pretty: unit.pretty(),
            step,
            ends,
            across,
            value,
            nodes,
            how: pull.how.clone(),
        };
        match (&spec.kind, value) {
            (SettingKind::Quantity { unit, min, max, resolution, .. }, SettingValue::Quantity(number, _)) => {
                Some(on(unit, *resolution, [*min, *max], None, number.value(), None))
            }
            (SettingKind::Path { unit, limits, .. }, SettingValue::Path(_)) => {
                let Follows::Node { nodes, .. } = &pull.how else { return None };
                let written = SettingValue::Path(nodes.clone()).pretty();
                Some(on(unit, limits.step, limits.x, Some(limits.y), 0.0, Some(written)))
            }
            (SettingKind::Choice { .. } | SettingKind::Switch { .. }, _) => {
                Some(on(&Unit::one(), 1.0, [0.0, 1.0], None, 0.0, None))
            }
            // A blank is set by typing.
            (SettingKind::Quantity { .. } | SettingKind::Path { .. }, _) => None,
        }
    }
}

impl Wanted {
    /// The channels to draw, of those the sheet draws or lets record.
    fn tracks(&self, sheet: &LabSheet) -> Vec<&'static str> {
        let Some(wanted) = &self.curves else { return sheet.tracks.clone() };
        let allowed = sheet.card.channels.iter().map(|c| c.name);
        let allowed = allowed.filter(|n| sheet.tracks.contains(n) || sheet.recordable.contains(n) && *n != "t");
        allowed.filter(|n| wanted.split(',').any(|w| w == *n)).take(MOST_CURVES).collect()
    }
}

impl Footage {
    fn of(
        book: &Logbook,
        (number, recorded): (u32, &Run),
        (scene, clock): (Scene, Clock),
        place: f64,
        wanted: &Wanted,
        settings: &BTreeMap<String, SettingValue>,
    ) -> Self {
        let sheet = book.sheet();
        let length = &sheet.card.length;
        // Lengths are those of the scene, to the step of its places.
        let packed = |c: &Channel| {
            let long = c.spec.unit.same_dimension(length);
            let size = if long { length.size() } else { c.spec.unit.size() };
            let bound = long || scene.channels().contains(&c.spec.name);
            let values: Vec<f64> = c.values.iter().map(|v| v / size).collect();
            Packed::of(&values, if bound { place } else { c.spec.resolution })
        };
        let find = |name: &str| recorded.channels.iter().find(|c| c.spec.name == name);
        let mut channels: BTreeMap<&'static str, Packed> = BTreeMap::new();
        for name in scene.channels() {
            if let Some(channel) = find(name) {
                channels.insert(name, packed(channel));
            }
        }
        let names = wanted.tracks(sheet);
        let tracked = names.iter().filter_map(|name| find(name));
        let tracks = tracked.map(|c| {
            channels.entry(c.spec.name).or_insert_with(|| packed(c));
            let unit = if c.spec.unit.same_dimension(length) { length } else { &c.spec.unit };
            Track { channel: c.spec.name, symbol: c.spec.symbol, unit: unit.pretty() }
        });
        let tracks = tracks.collect();
        let (every, _, time) = clock.written();
        Self {
            run: number,
            // Whoever recorded it more finely has more frames.
            every: every * recorded.sampling.every / clock.every,
            frame: clock.frame * recorded.sampling.every / clock.every,
            time: time.pretty(),
            symbol: sheet.card.channel_of(Role::Time).map_or("t", |c| c.symbol),
            places: clock.places() as u32,
            frames: recorded.frames(),
            length: length.pretty(),
            division: sheet.card.division,
            marks: recorded.marks.iter().map(|(frame, what)| (*frame, what.words())).collect(),
            grips: Grip::of(book, &scene, settings, place),
            scene: scene.rounded(PLACE),
            channels,
            tracks,
        }
    }
}

/// The recording of a run, made again if it is not at hand.
async fn recording(app: &App, id: Id, number: u32) -> Result<(Arc<Logbook>, Arc<Run>), WebError> {
    let book = app.desks.book(id).await?;
    let asked = Arc::clone(&book);
    let run = blocking(move || asked.footage(number)).await?.ok_or(StoreError::NotFound("run"))?;
    Ok((book, run.map_err(|e| WebError::Invalid(e.words()))?))
}

pub(super) async fn footage(
    State(app): State<App>,
    access: Access,
    Path((_, number)): Path<(Id, u32)>,
    Query(wanted): Query<Wanted>,
) -> Result<Response, WebError> {
    let (book, run) = recording(&app, access.info.id, number).await?;
    let settings = book.run_settings(number).ok_or(StoreError::NotFound("run"))?;
    let rig = book.sheet().rig().ok_or(StoreError::NotFound("rig"))?;
    let drawn = (rig.scene(&settings, &run), rig.clock(&settings));
    let chosen = book.state().run(number).map(|r| r.settings.clone()).unwrap_or_default();
    let made = blocking(move || Footage::of(&book, (number, &run), drawn, PLACE, &wanted, &chosen)).await?;
    Ok(Json(made).into_response())
}

/// The apparatus as it is set, before it runs: the first frame of what would be.
pub(super) async fn setup(
    State(app): State<App>,
    access: Access,
    Query(wanted): Query<Wanted>,
) -> Result<Response, WebError> {
    let book = app.desks.book(access.info.id).await?;
    let asked = Arc::clone(&book);
    // What a hand holds is only looked at; it is set when it is let go.
    let tried = wanted.set.as_deref().map_or(Ok(BTreeMap::new()), serde_json::from_str::<BTreeMap<String, String>>);
    let tried = tried.map_err(|_| WebError::Invalid("These are no settings.".to_owned()))?;
    let made = blocking(move || asked.setup(&tried)).await?.map_err(|e| WebError::Invalid(e.words()))?;
    let SetUp { settings, run, scene, clock } = made;
    // Nobody measured anything yet: a glance tells where things are, and no average over many glances more.
    let Bounds { left, right, bottom, top } = scene.bounds;
    let glance = PLACE.max((right - left).max(top - bottom) / GLANCE);
    Ok(Json(Footage::of(&book, (0, &run.first_frame()), (scene, clock), glance, &wanted, &settings)).into_response())
}

/// One arrow over a run.
#[derive(Serialize)]
struct Arrow {
    name: &'static str,
    letter: &'static str,
    kind: ArrowKind,
    unit: &'static str,
    /// The longest it gets, in `unit`, to two figures.
    longest: f64,
    x: Packed,
    y: Packed,
    foot_x: Packed,
    foot_y: Packed,
}

pub(super) async fn arrow(
    State(app): State<App>,
    access: Access,
    Path((_, run, name)): Path<(Id, u32, String)>,
) -> Result<Response, WebError> {
    let (book, recorded) = recording(&app, access.info.id, run).await?;
    let sheet = book.sheet();
    // An arrow the sheet does not show is not there.
    let spec = sheet.card.arrows.iter().find(|a| a.name == name && sheet.arrows.contains(&a.name));
    let spec = spec.ok_or(StoreError::NotFound("arrow"))?;
    let zeros = vec![0.0; recorded.frames()];
    let values = |channel: &str| recorded.channel(channel).unwrap_or(&zeros);
    let [x, y] = spec.along.map(values);
    let longest = two_figures(x.iter().zip(y).map(|(x, y)| x.hypot(*y)).fold(0.0, f64::max));
    let step = longest / ARROW_STEPS;
    let foot = |k: usize| {
        let moved: Vec<f64> = values(spec.foot[k]).iter().map(|v| v + spec.beside[k]).collect();
        Packed::of(&moved, PLACE)
    };
    Ok(Json(Arrow {
        name: spec.name,
        letter: spec.letter,
        kind: spec.kind,
        unit: spec.kind.unit(),
        longest,
        x: Packed::of(x, step),
        y: Packed::of(y, step),
        foot_x: foot(0),
        foot_y: foot(1),
    })
    .into_response())
}

/// A length rounded up to two figures.
fn two_figures(longest: f64) -> f64 {
    let step = 10f64.powi(longest.max(1e-9).log10().floor() as i32 - 1);
    (longest / step).ceil().max(1.0) * step
}

/// What the meters show at a frame, by name.
pub(super) async fn meters(
    State(app): State<App>,
    access: Access,
    Path((_, run, frame)): Path<(Id, u32, u32)>,
) -> Result<Response, WebError> {
    let book = app.desks.book(access.info.id).await?;
    let shown = blocking(move || book.meters(run, frame)).await?.ok_or(StoreError::NotFound("run"))?;
    let shown: BTreeMap<&'static str, Option<String>> =
        shown.map_err(|e| WebError::Invalid(e.words()))?.into_iter().collect();
    Ok(Json(shown).into_response())
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What the browser does with a packed channel.
    fn unpack(p: &Packed) -> Vec<f64> {
        let (mut value, mut rise) = (0, 0);
        let steps = p.values.iter().enumerate().map(|(i, v)| {
            match i {
                0 => value = *v,
                _ => {
                    rise = if i == 1 { *v } else { rise + v };
                    value += rise;
                }
            }
            value as f64 * p.step
        });
        steps.collect()
    }

    #[test]
    fn a_packed_channel_comes_back_to_half_a_step() {
        let values: Vec<f64> = (0..500).map(|i| 3.0 + (f64::from(i) * 0.07).sin() * 2.5).collect();
        let packed = Packed::of(&values, PLACE);
        for (a, b) in values.iter().zip(unpack(&packed)) {
            assert!((a - b).abs() <= 0.5 * PLACE + 1e-12);
        }
        assert_eq!(unpack(&Packed::of(&[2.0], 0.5)), [2.0]);
        assert!(unpack(&Packed::of(&[], 0.5)).is_empty());
    }
}
