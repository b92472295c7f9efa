//! What all handlers share.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use quick_cache::sync::Cache;
use tokio::sync::{OwnedSemaphorePermit, Semaphore, broadcast, watch};
use zeitmass_core::lab::{LabSheet, SheetError};
use zeitmass_core::logbook::Recall;
use zeitmass_store::{FilmLimits, Id, Store, StoreError};

use crate::desks::Desks;
use crate::error::WebError;
use crate::follow::Following;
use crate::gate::{Gate, Network};

/// A made-up person of the demo: one comes in as them by a button.
#[derive(Clone, Debug)]
pub struct Guest {
    /// Their name.
    pub name: String,
    /// What they are doing.
    pub doing: String,
    /// Their password, or their PIN.
    pub secret: String,
    /// Code of their class; none for a teacher.
    pub class: Option<String>,
}

/// Lab sheets kept as they were read.
const MOST_SHEETS: usize = 256;
/// Film, first frame, last, step, and whether bright objects stand out.
pub(crate) type Strobe = (Id, [u32; 3], bool);
/// Strobe pictures that are kept: each is some 200 kB, and takes up to sixty frames to make.
const MOST_STROBES: usize = 64;
/// Letters of the key for the first account.
const FIRST_KEY: usize = 16;
/// Streams of one session: tabs that are open at once.
const MOST_STREAMS: usize = 24;
/// Uploads at once, of one session and together, and how long one waits for its turn. Each holds 16 MB of a body at most.
const MOST_OWN_UPLOADS: usize = 3;
const MOST_UPLOADS: usize = 6;
const UPLOAD_WAIT: Duration = Duration::from_secs(60);
/// Ended sessions a stream may be behind with before it ends for that.
const MOST_ENDED: usize = 256;
/// Questions to classes a stream may be behind with.
const MOST_ASKED: usize = 64;
/// What all handlers share. Cloning is cheap.
#[derive(Clone, Debug)]
pub struct App {
    store: Arc<Store>,
    pub(crate) desks: Desks,
    pub(crate) following: Following,
    recall: Arc<Recall>,
    sheets: Arc<Cache<Box<str>, Arc<LabSheet>>>,
    /// Several frames of a film in one picture, as JPEG. No film ever gets the number of another, and its frames stay as they are.
    pub(crate) strobes: Arc<Cache<Strobe, Arc<Vec<u8>>>>,
    /// Demo films are rendered one after the other.
    pub(crate) rendering: Arc<tokio::sync::Mutex<()>>,
    pub(crate) gate: Gate,
    network: Network,
    /// Sessions that have just ended, so that their streams end too.
    pub(crate) ended: broadcast::Sender<Ended>,
    /// Classes that are asked something in front of everybody from now on, or no longer.
    pub(crate) asked: broadcast::Sender<(Id, bool)>,
    /// Whether the server is about to stop, so that streams end.
    pub(crate) stopping: Arc<watch::Sender<bool>>,
    uploads: Arc<Semaphore>,
    /// Streams and uploads of each session.
    streams: Arc<Mutex<HashMap<String, usize>>>,
    /// What the console shows to whoever may make the first account; gone once there is one.
    first_key: Option<Arc<str>>,
    /// People of the demo whom anybody may be.
    pub(crate) guests: Arc<[Guest]>,
    /// The folder marks are written to, for the school's register.
    register: Option<Arc<std::path::Path>>,
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
        for (name, source) in crate::benches() {
            store.load_bench(&name, &source)?;
        }
        let store = Arc::new(store);
        let recall = Arc::new(Recall::default());
        let desks = Desks::new(Arc::clone(&store), Arc::clone(&recall));
        let following = Following::new(&store, &desks);
        let sheets = Arc::new(Cache::new(MOST_SHEETS));
        let (gate, ended) = (Gate::default(), broadcast::channel(MOST_ENDED).0);
        let stopping = Arc::new(watch::Sender::new(false));
        let first_key = if store.has_teacher()? { None } else { Some(zeitmass_store::code(FIRST_KEY).into()) };
        Ok(Self {
            desks,
            following,
            recall,
            sheets,
            strobes: Arc::new(Cache::new(MOST_STROBES)),
            rendering: Arc::default(),
            store,
            asked: broadcast::channel(MOST_ASKED).0,
            gate,
            network: Network::default(),
            ended,
            stopping,
            uploads: Arc::new(Semaphore::new(MOST_UPLOADS)),
            streams: Arc::default(),
            first_key,
            guests: Arc::new([]),
            register: None,
        })
    }

    /// The same application, reached in this way.
    #[must_use]
    pub fn reached_by(self, network: Network) -> Self {
        Self { network, ..self }
    }

    pub(crate) fn network(&self) -> Network {
        self.network
    }

    /// The same with people of the demo, whom anybody may be.
    #[must_use]
    pub fn with_guests(self, guests: Vec<Guest>) -> Self {
        Self { guests: guests.into(), ..self }
    }

    /// What has to be shown to make the first teacher's account, while there is none.
    pub fn first_key(&self) -> Option<&str> {
        self.first_key.as_deref()
    }

    /// The application with a folder that marks are written to, for the school's register to pick up.
    #[must_use]
    pub fn with_register(mut self, folder: &std::path::Path) -> Self {
        self.register = Some(folder.into());
        self
    }

    /// The folder of the register, if there is one.
    pub(crate) fn register(&self) -> Option<&std::path::Path> {
        self.register.as_deref()
    }

    /// Ends all streams: the server is about to stop.
    pub fn stop_streams(&self) {
        self.stopping.send_replace(true);
    }

    /// Counts a stream of a session until it is dropped.
    ///
    /// # Errors
    /// [`WebError::Busy`] when there are too many.
    pub(crate) fn stream_of(&self, session: &str) -> Result<StreamCount, WebError> {
        self.counted(session.to_owned(), MOST_STREAMS)
    }

    fn counted(&self, session: String, most: usize) -> Result<StreamCount, WebError> {
        let mut streams = self.streams.lock().unwrap_or_else(PoisonError::into_inner);
        let count = streams.entry(session.clone()).or_default();
        if *count >= most {
            return Err(WebError::Busy);
        }
        *count += 1;
        Ok(StreamCount { streams: Arc::clone(&self.streams), session })
    }

    /// A place among the uploads that are under way: few of one session, and as many together as memory is meant for. It is waited for,
    /// but not for ever.
    ///
    /// # Errors
    /// [`WebError::Busy`] when there is none.
    pub(crate) async fn upload_of(&self, session: &str) -> Result<Upload, WebError> {
        let counted = self.counted(format!("upload {session}"), MOST_OWN_UPLOADS)?;
        let place = tokio::time::timeout(UPLOAD_WAIT, Arc::clone(&self.uploads).acquire_owned()).await;
        let place = place.map_err(|_| WebError::Busy)?.map_err(|_| WebError::Broken)?;
        Ok(Upload { _counted: counted, _place: place })
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

    /// Gives space of what was deleted back to the disk, beside other work.
    pub(crate) fn give_space_back(&self) {
        let store = Arc::clone(&self.store);
        tokio::task::spawn_blocking(move || {
            if let Err(e) = store.give_space_back() {
                tracing::warn!(error = %e, "space could not be given back");
            }
        });
    }

    /// Runs blocking work on the store without holding up other requests.
    pub(crate) async fn store<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, WebError> {
        let store = Arc::clone(&self.store);
        tokio::task::spawn_blocking(move || work(&store)).await.map_err(|_| WebError::Broken)?.map_err(WebError::from)
    }
}

/// What has ended.
#[derive(Clone, Debug)]
pub(crate) enum Ended {
    /// The session with this hash.
    Session(String),
    /// Some sessions: every stream ends, and a browser whose session goes on comes again by itself.
    Some,
}

/// An upload, as long as it lasts.
#[derive(Debug)]
pub(crate) struct Upload {
    _counted: StreamCount,
    _place: OwnedSemaphorePermit,
}

/// A stream of a session, as long as it lasts.
#[derive(Debug)]
pub(crate) struct StreamCount {
    streams: Arc<Mutex<HashMap<String, usize>>>,
    session: String,
}

impl Drop for StreamCount {
    fn drop(&mut self) {
        let mut streams = self.streams.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(count) = streams.get_mut(&self.session) {
            *count -= 1;
            if *count == 0 {
                streams.remove(&self.session);
            }
        }
    }
}
