//! The command line.

mod film;
mod fit;
mod keep;
mod rig;
mod shapes;
mod step;
mod table;
mod work;

use std::net::{IpAddr, SocketAddr};
use std::path::PathBuf;

use anyhow::{Result, anyhow};
use clap::{Args, Parser, Subcommand};
use zeitmass_store::FilmLimits;
use zeitmass_words::Words;

pub(crate) use keep::NotSound;

/// Mechanics labs for a class: measure, graph, linearize, extract a constant with its uncertainty.
#[derive(Parser)]
#[command(name = "zeitmass", version, about)]
pub(crate) struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Opens a server with demo data and prints the demo sign-ins.
    Demo(ServeArgs),
    /// Opens a server; the first teacher's account is made with the key it prints.
    Serve(ServeArgs),
    /// Copies a data folder into one file, while the server runs.
    Backup(keep::BackupArgs),
    /// Brings a data folder back from such a file.
    Restore(keep::RestoreArgs),
    /// Looks whether a data folder is sound; the last line says so.
    Check(keep::CheckArgs),
    /// Gives a teacher who has forgotten it a new password, and prints it.
    Password(keep::PasswordArgs),
    /// Simulated apparatus.
    Rig {
        #[command(subcommand)]
        command: rig::RigCommand,
    },
    /// The simulated camera and its demo films.
    Film {
        #[command(subcommand)]
        command: film::FilmCommand,
    },
    /// Follows an object through the pictures in a folder; prints CSV.
    Follow(film::FollowArgs),
    /// Fits a curve to columns of a CSV file; prints JSON.
    Fit(fit::FitArgs),
    /// Judges which shape two columns of a CSV file have; prints JSON.
    Shapes(shapes::ShapesArgs),
    /// Works a motion out step after step from its forces, beside readings if there are some; prints JSON.
    Step(step::StepArgs),
    /// Appends a worked column to a CSV file; prints CSV.
    Work(work::WorkArgs),
}

#[derive(Args)]
pub(crate) struct ServeArgs {
    /// Address and port; port 0 takes a free one.
    #[arg(long, default_value = "127.0.0.1:7341")]
    pub bind: SocketAddr,
    /// Data folder. `demo` makes a fresh one for the time it runs; `serve` uses zeitmass-data.
    #[arg(long)]
    pub data: Option<PathBuf>,
    /// Address of a proxy in front of the server. What it says of addresses and HTTPS is believed, and nobody else's word is.
    #[arg(long, value_name = "ADDRESS")]
    pub behind_proxy: Option<IpAddr>,
    /// Certificate with which the server encrypts, in PEM form, with those of whoever vouches for it.
    #[arg(long, value_name = "FILE", requires = "tls_key", conflicts_with = "behind_proxy")]
    pub tls_cert: Option<PathBuf>,
    /// The certificate's key, in PEM form.
    #[arg(long, value_name = "FILE", requires = "tls_cert")]
    pub tls_key: Option<PathBuf>,
    /// Encrypts with a certificate of the server's own, which it makes and keeps in the data folder, and prints its fingerprint.
    #[arg(long, conflicts_with_all = ["tls_cert", "behind_proxy"])]
    pub tls_self: bool,
    /// A name or address by which the server is reached, for its own certificate; can be given several times.
    #[arg(long, value_name = "NAME", requires = "tls_self")]
    pub tls_name: Vec<String>,
    /// Most frames of a film, at most 10000.
    #[arg(long, default_value_t = 3000)]
    pub film_frames: usize,
    /// Folder into which a teacher's marks are written for the school's register, as CSV files with their descriptions.
    #[arg(long, value_name = "FOLDER")]
    pub register: Option<PathBuf>,
    /// Most megabytes of a film's frames.
    #[arg(long, default_value_t = 400)]
    pub film_megabytes: u64,
}

impl ServeArgs {
    /// What a film may have at most.
    pub fn film_limits(&self) -> FilmLimits {
        FilmLimits { frames: self.film_frames, bytes: self.film_megabytes.saturating_mul(1_000_000) }
    }
}

impl Cli {
    pub(crate) fn run(self) -> Result<()> {
        match self.command {
            Command::Demo(args) => crate::server::demo(&args),
            Command::Serve(args) => crate::server::serve(&args),
            Command::Backup(args) => args.run(),
            Command::Restore(args) => args.run(),
            Command::Check(args) => args.run(),
            Command::Password(args) => args.run(),
            Command::Rig { command } => command.run(),
            Command::Film { command } => command.run(),
            Command::Follow(args) => args.run(),
            Command::Fit(args) => args.run(),
            Command::Shapes(args) => args.run(),
            Command::Step(args) => args.run(),
            Command::Work(args) => args.run(),
        }
    }
}

/// A reason as the program ends with it.
fn told(why: impl Words) -> anyhow::Error {
    anyhow!(why.words())
}
