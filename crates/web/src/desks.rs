//! Logbooks in use. Each is open once, so that partners work on the same one; everyone who watches is told the number
//! of the newest edit.

use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex, PoisonError};

use tokio::sync::{Mutex as AsyncMutex, OwnedMutexGuard, broadcast};
use zeitmass_core::logbook::{Edit, Logbook, RunEntry};
use zeitmass_core::rigs::Run;
use zeitmass_store::{Id, Store, StoreError, StoredEdit};

use crate::error::WebError;

/// Logbooks kept open although nobody uses them at the moment.
const MOST_OPEN: usize = 300;
/// Edit numbers a slow watcher may fall behind before it is told the newest only.
const BACKLOG: usize = 32;
/// Tokens of recent edits kept, to notice one that is sent twice.
const TOKENS: usize = 64;
/// Runs kept in memory.
const RUNS: usize = 8;

/// A logbook in use.
#[derive(Debug)]
pub(crate) struct Desk {
    pub book: Logbook,
    pub saved: Option<StoredEdit>,
    tokens: VecDeque<String>,
    runs: VecDeque<(u32, RunEntry, Arc<Run>)>,
    /// Memory and store may differ: read it again before use.
    lost: bool,
}

#[derive(Debug)]
struct Open {
    desk: Arc<AsyncMutex<Desk>>,
    moved: broadcast::Sender<u64>,
}

/// All logbooks in use.
#[derive(Clone, Debug)]
pub(crate) struct Desks {
    store: Arc<Store>,
    open: Arc<Mutex<HashMap<Id, Arc<Open>>>>,
}

impl Desks {
    pub(crate) fn new(store: Arc<Store>) -> Self {
        Self { store, open: Arc::default() }
    }

    /// A logbook, for reading.
    pub(crate) async fn desk(&self, id: Id) -> Result<OwnedMutexGuard<Desk>, WebError> {
        for _ in 0..3 {
            let open = self.open(id).await?;
            let desk = Arc::clone(&open.desk).lock_owned().await;
            if !desk.lost {
                return Ok(desk);
            }
        }
        Err(WebError::Broken)
    }

    /// Does an edit and stores it; acknowledged only when it is on disk. Gives a word for the person, if there is one.
    ///
    /// Runs in a task of its own: a browser that goes away meanwhile cannot leave it half done.
    pub(crate) async fn edit(
        &self,
        id: Id,
        author: String,
        token: Option<String>,
        edit: Edit,
    ) -> Result<Option<String>, WebError> {
        let desks = self.clone();
        let work = async move {
            let mut desk = desks.desk(id).await?;
            if token.as_ref().is_some_and(|t| desk.tokens.contains(t)) {
                return Ok(None);
            }
            let word = desk.book.apply(&edit)?;
            let (store, seq) = (Arc::clone(&desks.store), desk.book.seq());
            let append = move || store.append_edit(id, seq, &author, &edit);
            match tokio::task::spawn_blocking(append).await.map_err(|_| WebError::Broken).and_then(|s| Ok(s?)) {
                Ok(saved) => {
                    desk.saved = Some(saved);
                    if let Some(token) = token {
                        desk.tokens.push_back(token);
                        if desk.tokens.len() > TOKENS {
                            desk.tokens.pop_front();
                        }
                    }
                    desks.announce(id, seq);
                    Ok(word)
                }
                Err(e) => {
                    desk.lost = true;
                    desks.lock().remove(&id);
                    Err(e)
                }
            }
        };
        tokio::spawn(work).await.map_err(|_| WebError::Broken)?
    }

    /// The recording of a run, made again if it is not at hand.
    pub(crate) async fn run(&self, id: Id, number: u32) -> Result<Arc<Run>, WebError> {
        let mut desk = self.desk(id).await?;
        let entry = desk.book.state().run(number).ok_or(StoreError::NotFound("run"))?.clone();
        // Compared by settings too: a run taken back by undo may come again with others.
        let same = |e: &RunEntry| e.settings == entry.settings && e.pull == entry.pull;
        let at_hand = desk.runs.iter().find(|(n, e, _)| *n == number && same(e));
        if let Some((_, _, run)) = at_hand {
            return Ok(Arc::clone(run));
        }
        let book = desk.book.clone();
        let run = tokio::task::spawn_blocking(move || book.footage(number)).await.map_err(|_| WebError::Broken)?;
        let run = run.ok_or(StoreError::NotFound("run"))?.map_err(|e| WebError::Invalid(e.to_string()))?;
        let run = Arc::new(run);
        desk.runs.push_back((number, entry, Arc::clone(&run)));
        if desk.runs.len() > RUNS {
            desk.runs.pop_front();
        }
        Ok(run)
    }

    /// The numbers of new edits, as they come.
    pub(crate) async fn watch(&self, id: Id) -> Result<broadcast::Receiver<u64>, WebError> {
        Ok(self.open(id).await?.moved.subscribe())
    }

    fn announce(&self, id: Id, seq: u64) {
        if let Some(open) = self.lock().get(&id) {
            // Nobody watching is no error.
            let _ = open.moved.send(seq);
        }
    }

    async fn open(&self, id: Id) -> Result<Arc<Open>, WebError> {
        if let Some(open) = self.lock().get(&id) {
            return Ok(Arc::clone(open));
        }
        let store = Arc::clone(&self.store);
        let loaded = tokio::task::spawn_blocking(move || store.load_logbook(id)).await.map_err(|_| WebError::Broken)?;
        let (book, saved) = loaded?;
        let mut all = self.lock();
        if all.len() >= MOST_OPEN {
            all.retain(|_, o| {
                Arc::strong_count(o) > 1 || Arc::strong_count(&o.desk) > 1 || o.moved.receiver_count() > 0
            });
        }
        // Two requests may have read it at once; the first one in counts.
        let open = all.entry(id).or_insert_with(|| {
            let desk = Desk { book, saved, tokens: VecDeque::new(), runs: VecDeque::new(), lost: false };
            Arc::new(Open { desk: Arc::new(AsyncMutex::new(desk)), moved: broadcast::channel(BACKLOG).0 })
        });
        Ok(Arc::clone(open))
    }

    fn lock(&self) -> std::sync::MutexGuard<'_, HashMap<Id, Arc<Open>>> {
        self.open.lock().unwrap_or_else(PoisonError::into_inner)
    }
}
