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
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::Logbook;
use zeitmass_core::rigs::{ArrowKind, Bounds, Run, Scene};
use zeitmass_store::{Id, StoreError};

use crate::app::App;
use crate::desks::blocking;
use crate::error::WebError;
use crate::session::Access;

/// Step of places on the stage, in m or rad: a tenth of a millimetre, finer than any instrument reads.
const PLACE: f64 = 1e-4;
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
    every: f64,
    frames: usize,
    /// Smallest division of the tape, in m.
    division: f64,
    scene: Scene,
    channels: BTreeMap<&'static str, Packed>,
    tracks: Vec<Track>,
}

/// Which curves a person wants beside the stage: names parted by commas. The sheet's own without.
#[derive(Deserialize)]
pub(super) struct Wanted {
    curves: Option<String>,
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
    fn of(book: &Logbook, (number, recorded): (u32, &Run), scene: Scene, place: f64, wanted: &Wanted) -> Self {
        let sheet = book.sheet();
        let mut channels: BTreeMap<&'static str, Packed> = BTreeMap::new();
        for name in scene.channels() {
            if let Some(values) = recorded.channel(name) {
                channels.insert(name, Packed::of(values, place));
            }
        }
        let names = wanted.tracks(sheet);
        let tracked = names.iter().filter_map(|name| recorded.channels.iter().find(|c| c.spec.name == *name));
        let tracks = tracked.map(|c| {
            let fine = if c.spec.unit.pretty() == "m" { place } else { c.spec.resolution };
            channels.entry(c.spec.name).or_insert_with(|| Packed::of(&c.values, fine));
            Track { channel: c.spec.name, symbol: c.spec.symbol, unit: c.spec.unit.pretty() }
        });
        let tracks = tracks.collect();
        let (every, frames) = (recorded.sampling.every, recorded.frames());
        let scene = scene.rounded(PLACE);
        Self { run: number, every, frames, division: sheet.card.division, scene, channels, tracks }
    }
}

/// The recording of a run, made again if it is not at hand.
async fn recording(app: &App, id: Id, number: u32) -> Result<(Arc<Logbook>, Arc<Run>), WebError> {
    let book = app.desks.book(id).await?;
    let asked = Arc::clone(&book);
    let run = blocking(move || asked.footage(number)).await?.ok_or(StoreError::NotFound("run"))?;
    Ok((book, run.map_err(|e| WebError::Invalid(e.to_string()))?))
}

pub(super) async fn footage(
    State(app): State<App>,
    access: Access,
    Path((_, number)): Path<(Id, u32)>,
    Query(wanted): Query<Wanted>,
) -> Result<Response, WebError> {
    let (book, run) = recording(&app, access.info.id, number).await?;
    let settings = book.run_settings(number).ok_or(StoreError::NotFound("run"))?;
    let scene = book.sheet().rig().ok_or(StoreError::NotFound("rig"))?.scene(&settings, &run);
    Ok(Json(blocking(move || Footage::of(&book, (number, &run), scene, PLACE, &wanted)).await?).into_response())
}

/// The apparatus as it is set, before it runs: the first frame of what would be.
pub(super) async fn setup(
    State(app): State<App>,
    access: Access,
    Query(wanted): Query<Wanted>,
) -> Result<Response, WebError> {
    let book = app.desks.book(access.info.id).await?;
    let asked = Arc::clone(&book);
    let made = blocking(move || asked.setup()).await?.ok_or(StoreError::NotFound("rig"))?;
    let (run, scene) = made.map_err(|e| WebError::Invalid(e.to_string()))?;
    // Nobody measured anything yet: a glance tells where things are, and no average over many glances more.
    let Bounds { left, right, bottom, top } = scene.bounds;
    let glance = PLACE.max((right - left).max(top - bottom) / GLANCE);
    Ok(Json(Footage::of(&book, (0, &run.first_frame()), scene, glance, &wanted)).into_response())
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
        shown.map_err(|e| WebError::Invalid(e.to_string()))?.into_iter().collect();
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
