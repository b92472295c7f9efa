//! Opening the server: a folder of its own, connections within bounds, and an end that lets running work finish.

use std::fs::{File, TryLockError};
use std::io::Write;
use std::net::SocketAddr;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;

use anyhow::{Context, Result, bail};
use axum::extract::connect_info::ConnectInfo;
use axum::middleware::AddExtension;
use axum::{Extension, Router};
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use tokio::net::TcpListener;
use tokio::sync::Semaphore;
use tokio_rustls::TlsAcceptor;
use tower::Layer;
use tracing_subscriber::EnvFilter;
use zeitmass_store::Store;
use zeitmass_web::{App, Network, router};

use crate::commands::ServeArgs;

/// Connections at once: a large school with two tabs each.
const MOST_CONNECTIONS: usize = 2000;
/// Threads for work that takes its time: pages, analyses, the store. More of them at once would be no faster, and each holds the memory of its work.
const MOST_WORKERS: usize = 8;
/// How long the head of a request may take, and a connection may lie idle.
const PATIENCE: Duration = Duration::from_secs(30);
/// How long running work may take when the server is told to stop.
const LAST_WORK: Duration = Duration::from_secs(10);
/// The file that a server holds while it works in a folder.
const LOCK: &str = "zeitmass.lock";

/// Opens a server over a data folder.
pub(crate) fn serve(args: &ServeArgs) -> Result<()> {
    keep_no_free_memory();
    let folder = args.data.clone().unwrap_or_else(|| PathBuf::from("zeitmass-data"));
    let _lock = own(&folder)?;
    let store =
        Store::open(&folder).with_context(|| format!("{}", folder.display()))?.with_film_limits(args.film_limits());
    open(args, &folder, App::new(store)?, "")
}

/// Opens a server with demo data.
pub(crate) fn demo(args: &ServeArgs) -> Result<()> {
    keep_no_free_memory();
    let fresh = std::env::temp_dir().join(format!("zeitmass-demo-{}", std::process::id()));
    let folder: &Path = args.data.as_deref().unwrap_or(&fresh);
    let lock = own(folder)?;
    let store = Store::open(folder).with_context(|| format!("{}", folder.display()))?;
    let store = store.with_film_limits(args.film_limits()).dealing_alike();
    let guests = crate::demo::fill(&store)?;
    let sign_ins = crate::demo::sign_ins(&guests);
    let outcome =
        App::new(store).map_err(Into::into).and_then(|app| open(args, folder, app.with_guests(guests), &sign_ins));
    drop(lock);
    if args.data.is_none() {
        std::fs::remove_dir_all(&fresh).context("the demo's data could not be removed")?;
    }
    outcome
}

/// Makes a data folder that only its owner can read, and holds it against a second server.
pub(crate) fn own(folder: &Path) -> Result<File> {
    let shown = folder.display();
    if !folder.exists() {
        let mut builder = std::fs::DirBuilder::new();
        #[cfg(unix)]
        std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
        builder.recursive(true).create(folder).with_context(|| format!("{shown} could not be made"))?;
    }
    let lock = File::create(folder.join(LOCK)).with_context(|| format!("{shown} cannot be written"))?;
    match lock.try_lock() {
        Ok(()) => Ok(lock),
        Err(TryLockError::WouldBlock) => {
            bail!("another Zeitmass works in {shown}. Stop it first, or choose another folder with --data")
        }
        Err(TryLockError::Error(e)) => Err(e).with_context(|| format!("{shown} cannot be locked")),
    }
}

fn open(args: &ServeArgs, folder: &Path, app: App, notes: &str) -> Result<()> {
    tracing_subscriber::fmt()
        .with_env_filter(EnvFilter::try_from_default_env().unwrap_or_else(|_| EnvFilter::new("warn")))
        .with_writer(std::io::stderr)
        .init();
    let encryption = match (&args.tls_cert, &args.tls_key) {
        (Some(certificate), Some(key)) => Some(crate::tls::from_files(certificate, key)?),
        _ if args.tls_self => Some(crate::tls::own(folder, args.bind, &args.tls_name)?),
        _ => None,
    };
    let app = match &args.register {
        Some(folder) => app.with_register(folder),
        None => app,
    };
    let app = app.reached_by(Network { proxy: args.behind_proxy, encrypted: encryption.is_some() });
    let runtime =
        tokio::runtime::Builder::new_multi_thread().enable_all().max_blocking_threads(MOST_WORKERS).build()?;
    runtime.block_on(async {
        let listener = TcpListener::bind(args.bind).await.with_context(|| {
            format!("{} cannot be used; it may be taken. Choose another with --bind 127.0.0.1:0", args.bind)
        })?;
        let address = listener.local_addr()?;
        let scheme = if encryption.is_some() { "https" } else { "http" };
        let mut told = format!("Zeitmass is at {scheme}://{address}/\n");
        if let Some(key) = app.first_key() {
            told += &format!("The first teacher makes an account at {scheme}://{address}/?key={key}\n");
        }
        if let Some(fingerprint) = encryption.as_ref().and_then(|e| e.fingerprint.as_ref()) {
            told += &format!("The certificate is this server’s own; its SHA-256 fingerprint is {fingerprint}\n");
        }
        if !notes.is_empty() {
            told += &format!("{notes}\n");
        }
        // At once: whoever waits for the first line may not be there for the second.
        std::io::stdout().write_all(told.as_bytes())?;
        answer(listener, encryption.map(|e| e.acceptor), app, told_to_stop()?).await
    })
}

/// What the allocator reads when a program starts: how long it keeps memory that is free, in ms.
const KEEPS_FREE_MEMORY: &str = "MIMALLOC_PURGE_DELAY";

/// Starts the program again in the same process, so that free memory goes back to the system at once: after a school has signed in and opened
/// its pages a hundred megabytes would stay behind, some in each thread. Whoever has set it is left alone.
fn keep_no_free_memory() {
    #[cfg(unix)]
    if std::env::var_os(KEEPS_FREE_MEMORY).is_none()
        && let Ok(program) = std::env::current_exe()
    {
        use std::os::unix::process::CommandExt;
        let mut again = std::process::Command::new(program);
        // Comes back only when it did not work; then the server takes more memory.
        let _ = again.args(std::env::args_os().skip(1)).env(KEEPS_FREE_MEMORY, "0").exec();
    }
}

/// Comes when the program is told to stop: by Ctrl+C, or by whoever looks after services.
fn told_to_stop() -> Result<impl Future<Output = ()>> {
    #[cfg(unix)]
    let mut terminate = tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate())?;
    Ok(async move {
        #[cfg(unix)]
        tokio::select! {
            _ = tokio::signal::ctrl_c() => {}
            _ = terminate.recv() => {}
        }
        #[cfg(not(unix))]
        let _ = tokio::signal::ctrl_c().await;
    })
}

/// Answers requests until `stop` comes; then streams are ended and running requests get some time to finish.
async fn answer(
    listener: TcpListener,
    encryption: Option<TlsAcceptor>,
    app: App,
    stop: impl Future<Output = ()>,
) -> Result<()> {
    let (router, graceful) = (router(app.clone()), GracefulShutdown::new());
    let free = Arc::new(Semaphore::new(MOST_CONNECTIONS));
    let mut http = http1::Builder::new();
    // Two thousand connections may each keep as much.
    http.timer(TokioTimer::new()).header_read_timeout(PATIENCE).max_buf_size(64 * 1024);
    let mut stop = std::pin::pin!(stop);
    loop {
        let accepted = async {
            let place = Arc::clone(&free).acquire_owned().await;
            (listener.accept().await, place)
        };
        let (accepted, place) = tokio::select! {
            next = accepted => next,
            () = &mut stop => break,
        };
        let (stream, peer) = match accepted {
            Ok(accepted) => accepted,
            Err(e) => {
                // Out of file handles, most likely: there is room again once somebody has gone.
                tracing::warn!(error = %e, "a connection could not be taken");
                tokio::time::sleep(Duration::from_millis(200)).await;
                continue;
            }
        };
        // Fragments are small and are waited for.
        let _ = stream.set_nodelay(true);
        let service = TowerToHyperService::new(known(&router, peer));
        match encryption.clone() {
            None => {
                let connection = graceful.watch(http.serve_connection(TokioIo::new(stream), service));
                tokio::spawn(async move {
                    // Whoever hangs up in the middle is no error of ours.
                    let _ = connection.await;
                    drop(place);
                });
            }
            Some(acceptor) => {
                let (http, watcher) = (http.clone(), graceful.watcher());
                tokio::spawn(async move {
                    // A greeting may take as long as the head of a request.
                    if let Ok(Ok(stream)) = tokio::time::timeout(PATIENCE, acceptor.accept(stream)).await {
                        let _ = watcher.watch(http.serve_connection(TokioIo::new(stream), service)).await;
                    }
                    drop(place);
                });
            }
        }
    }
    drop(listener);
    app.stop_streams();
    tokio::select! {
        () = graceful.shutdown() => {}
        () = tokio::time::sleep(LAST_WORK) => tracing::warn!("some requests were still running when the server stopped"),
    }
    Ok(())
}

/// The routes, for requests from an address. All connections share them: a router with a layer of its own would be a copy of every route,
/// some 400 kB.
fn known(router: &Router, peer: SocketAddr) -> AddExtension<Router, ConnectInfo<SocketAddr>> {
    Extension(ConnectInfo(peer)).layer(router.clone())
}
