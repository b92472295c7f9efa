//! Zeitmass: mechanics labs for a class. `demo` shows it, `serve` runs it, the rest computes on the command line.

mod commands;
mod demo;
mod server;
mod tls;

use std::process::ExitCode;

use clap::Parser;

/// Gives memory back to the system when it is not needed any more, whichever thread asked for it; the system's own allocator keeps for every
/// thread what that has ever needed.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Bad input: what was typed or given cannot be used.
const BAD_INPUT: u8 = 2;

fn main() -> ExitCode {
    let cli = commands::Cli::parse();
    match cli.run() {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) if e.is::<commands::NotSound>() => {
            use std::io::Write;
            // Nothing can be done when standard output is closed.
            let _ = writeln!(std::io::stdout(), "{e}");
            ExitCode::FAILURE
        }
        Err(e) => {
            use std::io::Write;
            // Nothing can be done when standard error is closed.
            let _ = writeln!(std::io::stderr(), "zeitmass: {e:#}");
            ExitCode::from(BAD_INPUT)
        }
    }
}
