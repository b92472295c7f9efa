//! `zeitmass rig`: simulated apparatus on the command line.

use std::io::Write;

use anyhow::{Context, Result, anyhow, bail};
use clap::{Args, Subcommand};
use serde_json::{Map, Value, json};
use zeitmass_core::quantity::format::with_unit;
use zeitmass_core::quantity::{Unit, parse_quantity};
use zeitmass_core::rigs::{self, CATALOGUE, Card, Rig, Run, Sampling, SettingKind};
use zeitmass_words::Words;
use zeitmass_words::rigs::precision;

use super::told;

#[derive(Subcommand)]
pub(crate) enum RigCommand {
    /// Lists rigs with their settings and ranges.
    List,
    /// Shows all that can be set and read on a rig.
    Card {
        /// Name of the rig.
        rig: String,
        /// Prints JSON instead of text.
        #[arg(long)]
        json: bool,
    },
    /// Runs a rig and prints its channels as CSV.
    Run(RunArgs),
}

#[derive(Args)]
pub(crate) struct RunArgs {
    /// Name of the rig.
    rig: String,
    /// A setting, such as length=0.8m or body=ring; may be given several times, blank as “velocity 2=”.
    #[arg(long = "set", value_name = "NAME=VALUE")]
    set: Vec<String>,
    /// Seed of everything that is left to chance.
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// Time between two frames; that of the stage without.
    #[arg(long)]
    every: Option<String>,
    /// Longest recording; what the stage shows without.
    #[arg(long = "for")]
    duration: Option<String>,
    /// Prints what the meters show instead of the channels.
    #[arg(long)]
    meters: bool,
    /// Prints JSON instead of CSV.
    #[arg(long)]
    json: bool,
}

impl RigCommand {
    pub(crate) fn run(self) -> Result<()> {
        match self {
            Self::List => list(),
            Self::Card { rig, json } => card(find(&rig)?, json),
            Self::Run(args) => args.run(),
        }
    }
}

fn find(name: &str) -> Result<&'static dyn Rig> {
    rigs::rig(name).with_context(|| format!("There is no rig “{name}”. `zeitmass rig list` shows them."))
}

fn list() -> Result<()> {
    let mut out = std::io::stdout().lock();
    for rig in CATALOGUE {
        let card = rig.card();
        writeln!(out, "{}: {}", card.name, card.title)?;
        for setting in &card.settings {
            let default = setting.pretty(&setting.default_value());
            writeln!(out, "  {:16} {}, {}; default {default}", setting.name, setting.label, setting.range())?;
        }
    }
    Ok(())
}

fn card(rig: &dyn Rig, as_json: bool) -> Result<()> {
    let card = rig.card();
    let mut out = std::io::stdout().lock();
    if as_json {
        let settings = card.settings.iter().map(|s| {
            let mut all =
                json!({ "name": s.name, "label": s.label, "symbol": s.symbol, "default": s.default_value().pretty() });
            match &s.kind {
                SettingKind::Quantity { unit, min, max, resolution, blank, .. } => {
                    all["unit"] = json!(unit.to_string());
                    all["range"] = json!([min, max]);
                    all["step"] = json!(resolution);
                    all["blank"] = json!(blank);
                }
                SettingKind::Switch { .. } => all["options"] = json!(["off", "on"]),
                SettingKind::Choice { options } => {
                    all["options"] = json!(options.iter().map(|(n, _)| n).collect::<Vec<_>>());
                }
                SettingKind::Path { unit, limits, .. } => {
                    all["unit"] = json!(unit.to_string());
                    all["nodes"] = json!(limits.count);
                    all["step"] = json!(limits.step);
                }
            }
            all
        });
        let channels = card.channels.iter().map(
            |c| json!({ "name": c.name, "symbol": c.symbol, "unit": c.unit.to_string(), "resolution": c.resolution }),
        );
        let meters = card.meters.iter().map(|m| {
            json!({ "name": m.name, "label": m.label, "symbol": m.symbol, "unit": m.unit.to_string(),
                "precision": precision(m) })
        });
        let arrows = card.arrows.iter().map(|a| json!({ "name": a.name, "label": a.label, "unit": a.kind.unit() }));
        let all = json!({
            "name": card.name,
            "title": card.title,
            "settings": settings.collect::<Vec<_>>(),
            "channels": channels.collect::<Vec<_>>(),
            "meters": meters.collect::<Vec<_>>(),
            "arrows": arrows.collect::<Vec<_>>(),
            "every": card.clock.every,
            "lasts": card.clock.lasts,
            "length": card.length.to_string(),
            "tape_division": card.division,
        });
        writeln!(out, "{all:#}")?;
        return Ok(());
    }
    writeln!(out, "{}: {}", card.name, card.title)?;
    writeln!(out, "\nSettings")?;
    for s in &card.settings {
        writeln!(out, "  {:16} {}, {}; default {}", s.name, s.label, s.range(), s.pretty(&s.default_value()))?;
    }
    writeln!(out, "\nChannels")?;
    for c in &card.channels {
        writeln!(out, "  {:16} {} in {}, recorded to {}", c.name, c.symbol, c.unit, c.resolution)?;
    }
    writeln!(out, "\nMeters")?;
    for m in &card.meters {
        writeln!(out, "  {:16} {}, {}", m.name, m.label, precision(m))?;
    }
    Ok(())
}

/// A time such as `0.01s` in seconds.
fn seconds(text: &str, what: &str) -> Result<f64> {
    let second = Unit::parse("s").map_err(told)?;
    let (number, unit) = parse_quantity(text, &second).map_err(|e| anyhow!("--{what}: {}", e.words()))?;
    if !unit.same_dimension(&second) {
        bail!("--{what} is a time, such as 0.01s; {unit} is no unit of time.");
    }
    Ok(number.value() * unit.size())
}

impl RunArgs {
    fn run(self) -> Result<()> {
        let rig = find(&self.rig)?;
        let card = rig.card();
        let mut settings = card.defaults();
        for pair in &self.set {
            let (name, value) =
                pair.split_once('=').with_context(|| format!("“{pair}” is not a setting. Write NAME=VALUE."))?;
            let checked = card.check(name.trim(), value).map_err(told)?;
            settings.put(name.trim(), &checked);
        }
        let clock = rig.clock(&settings);
        let duration = self.duration.as_deref().map_or(Ok(clock.lasts), |d| seconds(d, "for"))?;
        let every = self.every.as_deref().map_or(Ok(clock.every), |e| seconds(e, "every"))?;
        let sampling = Sampling { every, duration };
        if sampling.every <= 0.0 || sampling.duration < 0.0 {
            bail!("--every must be more than zero and --for not negative.");
        }
        let run = rig.run(&settings, self.seed, sampling).map_err(told)?;
        if run.outcome.is_told() {
            writeln!(std::io::stderr().lock(), "{}", run.outcome.words())?;
        }
        if self.meters {
            return print_meters(&card, &run, self.seed);
        }
        if self.json { print_json(&run) } else { print_csv(&run) }
    }
}

/// What the meters show: those of a moment show the last one.
fn print_meters(card: &Card, run: &Run, seed: u64) -> Result<()> {
    let mut out = std::io::stdout().lock();
    for m in &card.meters {
        let shown = m.read(run, run.frames().saturating_sub(1), seed);
        let shown = shown.map_or_else(|| "–".to_owned(), |v| with_unit(&m.shown(v).pretty(), &m.unit));
        writeln!(out, "{:16} {shown}", m.name)?;
    }
    Ok(())
}

fn print_csv(run: &Run) -> Result<()> {
    let mut writer = csv::Writer::from_writer(std::io::stdout().lock());
    writer.write_record(run.channels.iter().map(|c| format!("{} ({})", c.spec.name, c.spec.unit)))?;
    for frame in 0..run.frames() {
        writer.write_record(run.channels.iter().map(|c| (c.values[frame] / c.spec.unit.size()).to_string()))?;
    }
    writer.flush()?;
    Ok(())
}

fn print_json(run: &Run) -> Result<()> {
    let channels: Map<String, Value> = run
        .channels
        .iter()
        .map(|c| (c.spec.name.to_owned(), json!({ "unit": c.spec.unit.to_string(), "values": c.values.iter().map(|v| v / c.spec.unit.size()).collect::<Vec<_>>() })))
        .collect();
    let all = json!({ "every": run.sampling.every, "frames": run.frames(), "channels": channels });
    writeln!(std::io::stdout().lock(), "{all}")?;
    Ok(())
}
