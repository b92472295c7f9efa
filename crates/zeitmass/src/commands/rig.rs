//! `zeitmass rig`: simulated apparatus on the command line.

use std::io::Write;

use anyhow::{Context, Result, anyhow, bail};
use clap::{Args, Subcommand};
use serde_json::{Map, Value, json};
use zeitmass_core::quantity::{Unit, parse_quantity};
use zeitmass_core::rigs::{self, CATALOGUE, Run, Sampling};

#[derive(Subcommand)]
pub(crate) enum RigCommand {
    /// Lists rigs with their settings and ranges.
    List,
    /// Runs a rig and prints its channels as CSV.
    Run(RunArgs),
}

#[derive(Args)]
pub(crate) struct RunArgs {
    /// Name of the rig.
    rig: String,
    /// A setting, such as length=0.8m; may be given several times.
    #[arg(long = "set", value_name = "NAME=VALUE")]
    set: Vec<String>,
    /// Seed of everything that is left to chance.
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// Time between two frames.
    #[arg(long, default_value = "0.01s")]
    every: String,
    /// Length of the recording.
    #[arg(long = "for", default_value = "40s")]
    duration: String,
    /// Prints JSON instead of CSV.
    #[arg(long)]
    json: bool,
}

impl RigCommand {
    pub(crate) fn run(self) -> Result<()> {
        match self {
            Self::List => list(),
            Self::Run(args) => args.run(),
        }
    }
}

fn list() -> Result<()> {
    let mut out = std::io::stdout().lock();
    for rig in CATALOGUE {
        let card = rig.card();
        writeln!(out, "{}: {}", card.name, card.title)?;
        for setting in &card.settings {
            let default = setting.default_value().pretty();
            writeln!(out, "  {:8} {}, {}; default {default}", setting.name, setting.label, setting.range())?;
        }
    }
    Ok(())
}

/// A time such as `0.01s` in seconds.
fn seconds(text: &str, what: &str) -> Result<f64> {
    let second = Unit::parse("s")?;
    let (number, unit) = parse_quantity(text, &second).map_err(|e| anyhow!("--{what}: {e}"))?;
    if !unit.same_dimension(&second) {
        bail!("--{what} is a time, such as 0.01s; {unit} is no unit of time.");
    }
    Ok(number.value() * unit.size())
}

impl RunArgs {
    fn run(self) -> Result<()> {
        let rig = rigs::rig(&self.rig)
            .with_context(|| format!("There is no rig “{}”. `zeitmass rig list` shows them.", self.rig))?;
        let card = rig.card();
        let mut settings = card.defaults();
        for pair in &self.set {
            let (name, value) =
                pair.split_once('=').with_context(|| format!("“{pair}” is not a setting. Write NAME=VALUE."))?;
            let checked = card.check(name.trim(), value).map_err(|e| anyhow!(e))?;
            settings.set(name.trim(), checked.si());
        }
        let sampling = Sampling { every: seconds(&self.every, "every")?, duration: seconds(&self.duration, "for")? };
        if sampling.every <= 0.0 || sampling.duration < 0.0 {
            bail!("--every must be more than zero and --for not negative.");
        }
        let run = rig.run(&settings, self.seed, sampling)?;
        if self.json { print_json(&run) } else { print_csv(&run) }
    }
}

fn print_csv(run: &Run) -> Result<()> {
    let mut writer = csv::Writer::from_writer(std::io::stdout().lock());
    writer.write_record(run.channels.iter().map(|c| format!("{} ({})", c.spec.name, c.spec.unit)))?;
    for frame in 0..run.frames() {
        writer.write_record(run.channels.iter().map(|c| c.values[frame].to_string()))?;
    }
    writer.flush()?;
    Ok(())
}

fn print_json(run: &Run) -> Result<()> {
    let channels: Map<String, Value> = run
        .channels
        .iter()
        .map(|c| (c.spec.name.to_owned(), json!({ "unit": c.spec.unit.to_string(), "values": c.values })))
        .collect();
    let all = json!({ "every": run.sampling.every, "frames": run.frames(), "channels": channels });
    writeln!(std::io::stdout().lock(), "{all}")?;
    Ok(())
}
