//! Opening the server.

use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tokio::net::TcpListener;
use tracing_subscriber::EnvFilter;
use zeitmass_store::Store;
use zeitmass_web::{App, router};

use crate::commands::ServeArgs;

/// Opens a server over a data folder.
pub(crate) fn serve(args: &ServeArgs) -> Result<()> {
    let folder = args.data.clone().unwrap_or_else(|| PathBuf::from("zeitmass-data"));
    let store =
        Store::open(&folder).with_context(|| format!("{}", folder.display()))?.with_film_limits(args.film_limits());
    open(args, App::new(store)?, "")
}

/// Opens a server with demo data.
pub(crate) fn demo(args: &ServeArgs) -> Result<()> {
    let fresh = std::env::temp_dir().join(format!("zeitmass-demo-{}", std::process::id()));
    let folder: &Path = args.data.as_deref().unwrap_or(&fresh);
    let store = Store::open(folder).with_context(|| format!("{}", folder.display()))?;
    let store = store.with_film_limits(args.film_limits()).dealing_alike();
    let sign_ins = crate::demo::fill(&store)?;
    let outcome = App::new(store).map_err(Into::into).and_then(|app| open(args, app, &sign_ins));
    if args.data.is_none() {
        std::fs::remove_dir_all(&fresh).context("the demo's data could not be removed")?;
    }
    outcome
}

fn open(args: &ServeArgs, app: App, notes: &str) -> Result<()> {
    tracing_subscriber::fmt()
        .with_env_filter(EnvFilter::try_from_default_env().unwrap_or_else(|_| EnvFilter::new("warn")))
        .with_writer(std::io::stderr)
        .init();
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build()?;
    runtime.block_on(async {
        let listener = TcpListener::bind(args.bind).await.with_context(|| {
            format!("{} cannot be used; it may be taken. Choose another with --bind 127.0.0.1:0", args.bind)
        })?;
        let mut out = std::io::stdout().lock();
        writeln!(out, "Zeitmass is at http://{}/", listener.local_addr()?)?;
        if !notes.is_empty() {
            writeln!(out, "{notes}")?;
        }
        out.flush()?;
        drop(out);
        // Live pages keep a connection open for ever, so waiting for the last one would never end.
        tokio::select! {
            served = axum_serve(listener, app) => served?,
            stopped = tokio::signal::ctrl_c() => stopped?,
        }
        Ok(())
    })
}

async fn axum_serve(listener: TcpListener, app: App) -> Result<()> {
    Ok(axum::serve(listener, router(app)).await?)
}
