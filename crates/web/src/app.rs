//! What all handlers share.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use quick_cache::sync::Cache;
use zeitmass_core::lab::{LabSheet, SheetError};
use zeitmass_core::logbook::Recall;
use zeitmass_store::{FilmLimits, Store, StoreError};

use crate::desks::Desks;
use crate::error::WebError;
use crate::follow::Following;

/// Wrong passwords or PINs in a row before a pause.
const MOST_FAILURES: u32 = 8;
/// The pause.
const PAUSE: Duration = Duration::from_secs(60);
/// Lab sheets kept as they were read.
const MOST_SHEETS: usize = 256;
/// Names remembered at most; the oldest pauses are forgotten first.
const MOST_REMEMBERED: usize = 10_000;

/// What all handlers share. Cloning is cheap.
#[derive(Clone, Debug)]
pub struct App {
    store: Arc<Store>,
    pub(crate) desks: Desks,
    pub(crate) following: Following,
    recall: Arc<Recall>,
    sheets: Arc<Cache<Box<str>, Arc<LabSheet>>>,
    /// Demo films are rendered one after the other.
    pub(crate) rendering: Arc<tokio::sync::Mutex<()>>,
    failures: Arc<Mutex<HashMap<String, (u32, Instant)>>>,
}

impl App {
    /// The application over a store; loads the shipped sheets.
    ///
    /// # Errors
    /// [`StoreError`] when the store cannot be written.
    pub fn new(store: Store) -> Result<Self, StoreError> {
        for (key, source) in crate::SHIPPED_SHEETS {
            store.load_shipped(key, source)?;
        }
        let store = Arc::new(store);
        let recall = Arc::new(Recall::default());
        let desks = Desks::new(Arc::clone(&store), Arc::clone(&recall));
        let following = Following::new(&store, &desks);
        let sheets = Arc::new(Cache::new(MOST_SHEETS));
        Ok(Self { desks, following, recall, sheets, rendering: Arc::default(), store, failures: Arc::default() })
    }

    /// How many motions and how many analyses were worked out since the program started.
    pub fn worked_out(&self) -> (u64, u64) {
        self.recall.counts()
    }

    /// A lab sheet by its text: lists show dozens of the same ones over and over.
    ///
    /// # Errors
    /// [`SheetError`] when the text is no sheet of this program.
    pub(crate) fn sheet(&self, source: &str) -> Result<Arc<LabSheet>, SheetError> {
        if let Some(sheet) = self.sheets.get(source) {
            return Ok(sheet);
        }
        let sheet = Arc::new(LabSheet::parse(source)?);
        self.sheets.insert(source.into(), Arc::clone(&sheet));
        Ok(sheet)
    }

    /// What a film may have at most.
    pub(crate) fn film_limits(&self) -> FilmLimits {
        self.store.film_limits()
    }

    /// Runs blocking work on the store without holding up other requests.
    pub(crate) async fn store<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, WebError> {
        let store = Arc::clone(&self.store);
        tokio::task::spawn_blocking(move || work(&store)).await.map_err(|_| WebError::Broken)?.map_err(WebError::from)
    }

    /// Checks a secret given for `name`; after too many wrong ones in a row there is a pause.
    pub(crate) async fn guarded<T: Send + 'static>(
        &self,
        name: &str,
        work: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, WebError> {
        let key = name.trim().to_lowercase();
        if self.paused(&key) {
            return Err(WebError::Invalid("Too many wrong tries. Wait a minute, then try again.".to_owned()));
        }
        let outcome = self.store(work).await;
        let mut failures = self.failures.lock().unwrap_or_else(PoisonError::into_inner);
        match &outcome {
            Err(WebError::Store(StoreError::WrongSecret(_))) => {
                if failures.len() >= MOST_REMEMBERED {
                    failures.retain(|_, (_, at)| at.elapsed() < PAUSE);
                }
                let entry = failures.entry(key).or_insert((0, Instant::now()));
                *entry = (entry.0 + 1, Instant::now());
            }
            Ok(_) => {
                failures.remove(&key);
            }
            Err(_) => {}
        }
        outcome
    }

    fn paused(&self, key: &str) -> bool {
        let mut failures = self.failures.lock().unwrap_or_else(PoisonError::into_inner);
        match failures.get(key) {
            Some((count, at)) if *count >= MOST_FAILURES => {
                let waiting = at.elapsed() < PAUSE;
                if !waiting {
                    failures.remove(key);
                }
                waiting
            }
            _ => false,
        }
    }
}
