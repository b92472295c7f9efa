//! Looking after a data folder: copies, the way back, whether it is sound, and a teacher's forgotten password.

use std::io::Write;
use std::path::PathBuf;

use anyhow::{Context, Result};
use clap::Args;

#[derive(Args)]
pub(crate) struct BackupArgs {
    /// The data folder; a server may be at work in it.
    #[arg(long)]
    data: PathBuf,
    /// The file to write; it must not be there yet.
    #[arg(long)]
    to: PathBuf,
}

#[derive(Args)]
pub(crate) struct RestoreArgs {
    /// A file that `backup` wrote.
    #[arg(long)]
    from: PathBuf,
    /// The data folder to fill; new or empty.
    #[arg(long)]
    data: PathBuf,
}

#[derive(Args)]
pub(crate) struct CheckArgs {
    /// The data folder; a server may be at work in it.
    #[arg(long)]
    data: PathBuf,
}

#[derive(Args)]
pub(crate) struct PasswordArgs {
    /// The data folder; a server may be at work in it.
    #[arg(long)]
    data: PathBuf,
    /// Name of the teacher.
    #[arg(long)]
    name: String,
}

/// A data folder that was looked through is not sound.
#[derive(Debug, thiserror::Error)]
#[error("{} is not sound.", .0.display())]
pub(crate) struct NotSound(PathBuf);

impl BackupArgs {
    pub(crate) fn run(&self) -> Result<()> {
        zeitmass_store::backup(&self.data, &self.to)?;
        let bytes = self.to.metadata().context("the copy cannot be found")?.len();
        writeln!(
            std::io::stdout(),
            "{} holds a copy of {}, {} MB, and was read through.",
            self.to.display(),
            self.data.display(),
            bytes.div_ceil(1_000_000)
        )?;
        Ok(())
    }
}

impl RestoreArgs {
    pub(crate) fn run(&self) -> Result<()> {
        let _lock = crate::server::own(&self.data)?;
        zeitmass_store::restore(&self.from, &self.data)?;
        writeln!(std::io::stdout(), "{} is brought back from {}.", self.data.display(), self.from.display())?;
        Ok(())
    }
}

impl CheckArgs {
    pub(crate) fn run(&self) -> Result<()> {
        let found = zeitmass_store::check(&self.data)?;
        let mut out = std::io::stdout().lock();
        let (all, readable) = found.logbooks;
        writeln!(out, "{readable} of {all} logbooks can be read to their last edit.")?;
        writeln!(out, "The databases hold {} MB.", found.bytes.div_ceil(1_000_000))?;
        if let Some(free) = found.free {
            writeln!(out, "{} MB are free on the disk.", free / 1_000_000)?;
        }
        for fault in &found.faults {
            writeln!(out, "{fault}")?;
        }
        if found.faults.is_empty() {
            writeln!(out, "{} is sound.", self.data.display())?;
            return Ok(());
        }
        // The verdict is the last line that is written.
        Err(NotSound(self.data.clone()).into())
    }
}

/// Letters of a password that is made here, in three groups.
const MADE: usize = 15;

impl PasswordArgs {
    pub(crate) fn run(&self) -> Result<()> {
        let store = zeitmass_store::Store::open_there(&self.data)?;
        let teacher = store.teacher_named(&self.name)?;
        let teacher = teacher.with_context(|| format!("there is no teacher “{}”", self.name))?;
        let letters: Vec<char> = zeitmass_store::code(MADE).chars().collect();
        let groups: Vec<String> = letters.chunks(MADE / 3).map(|group| group.iter().collect()).collect();
        let password = groups.join("-");
        store.change_password(teacher, &password)?;
        writeln!(
            std::io::stdout(),
            "The password of {} is now {password}\nEverywhere this account was signed in, it is not any more.",
            self.name
        )?;
        Ok(())
    }
}
