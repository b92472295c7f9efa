//! `zeitmass film` and `zeitmass follow`: the simulated camera, and following an object through pictures in a folder.

use std::io::Write;
use std::path::PathBuf;

use anyhow::{Context, Result, anyhow, bail};
use clap::{Args, Subcommand};
use zeitmass_film::Grey;
use zeitmass_film::catalogue::{self, FILMS};
use zeitmass_film::follow::{Follower, Found};
use zeitmass_film::stills;
use zeitmass_words::Words;

#[derive(Subcommand)]
pub(crate) enum FilmCommand {
    /// Lists the demo films.
    List,
    /// Writes a demo film's frames, their times and the true positions of what moves in it.
    Render {
        /// Name of the film.
        name: String,
        /// Folder to write into; made if need be.
        #[arg(long)]
        out: PathBuf,
        /// Seed of everything that is left to chance.
        #[arg(long, default_value_t = 1)]
        seed: u64,
    },
}

impl FilmCommand {
    pub(crate) fn run(self) -> Result<()> {
        match self {
            Self::List => {
                let mut out = std::io::stdout().lock();
                for film in &FILMS {
                    writeln!(out, "{}: {}. {}", film.name, film.title, film.length)?;
                }
                Ok(())
            }
            Self::Render { name, out, seed } => {
                let known = || FILMS.iter().map(|f| f.name).collect::<Vec<_>>().join(", ");
                let film = catalogue::film(&name)
                    .ok_or_else(|| anyhow!("There is no film “{name}”. Known are: {}.", known()))?;
                let shoot = film.shoot(seed);
                let roll = shoot.roll(seed)?;
                std::fs::create_dir_all(&out).with_context(|| format!("{} cannot be made", out.display()))?;
                let mut times = "frame,t (s)\n".to_owned();
                let mut truth = "frame,t (s),object,x (px),y (px)\n".to_owned();
                for n in 0..shoot.frames {
                    std::fs::write(out.join(format!("{n:04}.jpg")), shoot.jpeg(&roll, n)?)?;
                    let t = shoot.camera.time(n);
                    times += &format!("{n},{t:.6}\n");
                    for (object, [x, y]) in shoot.truth(n) {
                        truth += &format!("{n},{t:.6},{object},{x:.4},{y:.4}\n");
                    }
                }
                std::fs::write(out.join("times.csv"), times)?;
                std::fs::write(out.join("truth.csv"), truth)?;
                writeln!(std::io::stdout(), "{} frames in {}. {}", shoot.frames, out.display(), film.length)?;
                Ok(())
            }
        }
    }
}

#[derive(Args)]
pub(crate) struct FollowArgs {
    /// Folder with the frames: JPEG or PNG pictures whose names sort in order.
    #[arg(long)]
    frames: PathBuf,
    /// Where the object is in the first frame, in pixels from the upper left corner: X,Y.
    #[arg(long)]
    start: String,
    /// Side of the box around it, in pixels.
    #[arg(long = "box", value_name = "W")]
    side: usize,
    /// Number of the frame to begin with, from 0.
    #[arg(long, default_value_t = 0)]
    from: usize,
    /// File with the frames' times; without, the numbers of the frames count as seconds.
    #[arg(long)]
    times: Option<PathBuf>,
}

impl FollowArgs {
    pub(crate) fn run(&self) -> Result<()> {
        let start: Vec<f64> = self.start.split(',').filter_map(|v| v.trim().parse().ok()).collect();
        let [x, y] = start[..] else {
            bail!("--start takes two numbers, such as 120.5,88; “{}” is none.", self.start)
        };
        let folder = std::fs::read_dir(&self.frames).with_context(|| format!("{}", self.frames.display()))?;
        let mut files: Vec<PathBuf> = folder.filter_map(|e| Some(e.ok()?.path())).collect();
        files.retain(|f| {
            let end = f.extension().and_then(|e| e.to_str()).unwrap_or("").to_ascii_lowercase();
            matches!(end.as_str(), "jpg" | "jpeg" | "png")
        });
        files.sort();
        if files.len() <= self.from {
            bail!("{} holds {} frames; there is no frame {}.", self.frames.display(), files.len(), self.from);
        }
        let times = match &self.times {
            Some(path) => {
                let text = std::fs::read(path).with_context(|| format!("{}", path.display()))?;
                stills::times(&text, files.len())?
            }
            None => (0..files.len()).map(|n| n as f64).collect(),
        };
        let read = |n: usize| -> Result<Grey> {
            let bytes = std::fs::read(&files[n])?;
            Grey::read(&bytes).with_context(|| format!("{}", files[n].display()))
        };
        let mut follower = Follower::start(&read(self.from)?, [x, y], self.side, times[self.from])?;
        let mut out = std::io::stdout().lock();
        writeln!(out, "frame,t (s),x (px),y (px),score")?;
        writeln!(out, "{},{:.6},{x:.3},{y:.3},1.0000", self.from, times[self.from])?;
        for (n, time) in times.iter().enumerate().skip(self.from + 1) {
            match follower.step(&read(n)?, *time) {
                Found::Placed { at: [x, y], score } => {
                    writeln!(out, "{n},{time:.6},{x:.3},{y:.3},{score:.4}")?;
                }
                Found::Asks { why, near: [x, y], score } => {
                    out.flush()?;
                    let words = why.words();
                    bail!(
                        "Stopped at frame {n}: {words} (best place {x:.1},{y:.1}, score {score:.2}). Go on with --from {n} and a --start of your own."
                    );
                }
            }
        }
        Ok(())
    }
}
