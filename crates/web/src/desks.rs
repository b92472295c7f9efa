//! Logbooks in use. Each is open once, so that partners work on the same one; everyone who watches is told the number of the newest
//! edit, and whoever watches a class, which logbook moved.
//!
//! What follows from a logbook (its analysis, its recordings) is worked out in threads of its own, once for each state, and given up
//! when nobody waits for it any longer.

use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError, Weak};

use tokio::sync::{Mutex as AsyncMutex, OwnedMutexGuard, broadcast};
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{Analysis, Edit, Heard, Logbook, MadeByEdit, Recall, SlipKind, StandingResult, Touched};
use zeitmass_core::record::Stop;
use zeitmass_store::{Actor, Asked, Id, Loaded, Store, StoreError, StoredEdit};
use zeitmass_words::Words;

use crate::error::WebError;

/// Logbooks kept open although nobody uses them at the moment.
const MOST_OPEN: usize = 300;
/// Edit numbers a slow watcher may fall behind before it is told the newest only.
const BACKLOG: usize = 32;
/// Moves of a class a slow watcher may fall behind.
const CLASS_BACKLOG: usize = 256;
/// Seconds for which a refusal is remembered, how many of a logbook, and how many of the same kind are worth a word.
const REMEMBERED: i64 = 300;
const MOST_REFUSALS: usize = 20;
const AGAIN: usize = 3;
/// Values and terms of all analyses that are kept, at most: some 100 MB.
const MOST_KEPT: usize = 5_000_000;

/// Logbooks with the sizes of their analyses.
type Kept = VecDeque<(Weak<Logbook>, usize)>;

/// What was refused lately, by logbook.
type Refusals = HashMap<Id, VecDeque<(i64, String)>>;

/// A logbook in use.
#[derive(Debug)]
struct Desk {
    book: Arc<Logbook>,
    saved: Option<StoredEdit>,
    /// Who made the last edit, as far as that was looked up: names are not stored with edits.
    author: Option<(Actor, String)>,
    /// Results as last written to the standings.
    results: Vec<StandingResult>,
    /// Likely mistakes, likewise.
    slips: Vec<SlipKind>,
    /// Number of the edit the newest snapshot is of, and bytes of deeds since.
    snapshot: (u64, usize),
    /// Memory and store may differ: read it again before use.
    lost: bool,
}

#[derive(Debug)]
struct Open {
    class: Id,
    desk: Arc<AsyncMutex<Desk>>,
    /// Held while its analysis is worked out: whoever asks meanwhile waits here, and not in one of the few threads there are.
    analysing: AsyncMutex<()>,
    moved: broadcast::Sender<u64>,
}

/// All logbooks in use.
#[derive(Clone, Debug)]
pub(crate) struct Desks {
    store: Arc<Store>,
    open: Arc<Mutex<HashMap<Id, Arc<Open>>>>,
    classes: Arc<Mutex<HashMap<Id, broadcast::Sender<Id>>>>,
    recall: Arc<Recall>,
    /// Logbooks whose analysis is kept, oldest first, with its size.
    kept: Arc<Mutex<Kept>>,
    /// What was refused lately, by logbook: when, and in which words.
    refusals: Arc<Mutex<Refusals>>,
}

/// A logbook as it is at a moment, with what follows from it. Rendering it holds up nobody.
#[derive(Clone, Debug)]
pub(crate) struct Sight {
    pub book: Arc<Logbook>,
    pub analysis: Arc<Analysis>,
    pub saved: Option<StoredEdit>,
    /// Name of whoever made the last edit.
    pub author: String,
}

/// What came of an edit.
#[derive(Debug, Default)]
pub(crate) struct Done {
    pub heard: Vec<Heard>,
    /// What the edit is about.
    pub about: Option<Touched>,
    pub made: MadeByEdit,
}

/// Sets a sign when it is dropped before its time: whoever asked has gone away.
struct GoneAway(Stop);

impl Drop for GoneAway {
    fn drop(&mut self) {
        self.0.set();
    }
}

impl Desks {
    pub(crate) fn new(store: Arc<Store>, recall: Arc<Recall>) -> Self {
        Self {
            store,
            open: Arc::default(),
            classes: Arc::default(),
            recall,
            kept: Arc::default(),
            refusals: Arc::default(),
        }
    }

    /// A logbook as it is now, for reading.
    pub(crate) async fn book(&self, id: Id) -> Result<Arc<Logbook>, WebError> {
        Ok(Arc::clone(&self.desk(id).await?.book))
    }

    /// A logbook as it is now, with its analysis.
    pub(crate) async fn sight(&self, id: Id) -> Result<Sight, WebError> {
        let open = self.open(id).await?;
        let turn = open.analysing.lock().await;
        // As it is when its turn has come: what was typed meanwhile needs no analysis of its own.
        let (book, saved, author) = {
            let mut desk = self.desk(id).await?;
            let author = self.author(&mut desk).await?;
            (Arc::clone(&desk.book), desk.saved, author)
        };
        let asked = Arc::clone(&book);
        let analysis = until_gone(move |stop| asked.analyse_until(stop)).await?.ok_or(WebError::Broken)?;
        drop(turn);
        self.keep(&book, &analysis);
        self.note_results(id, &book, &analysis).await?;
        Ok(Sight { book, analysis, saved, author })
    }

    async fn author(&self, desk: &mut Desk) -> Result<String, WebError> {
        let Some(by) = desk.saved.map(|s| s.by) else { return Ok(String::new()) };
        if let Some((known, name)) = &desk.author
            && *known == by
        {
            return Ok(name.clone());
        }
        let store = Arc::clone(&self.store);
        let name = blocking(move || store.name_of(by)).await?.unwrap_or_default();
        desk.author = Some((by, name.clone()));
        Ok(name)
    }

    /// Forgets the oldest analyses when there are too many.
    fn keep(&self, book: &Arc<Logbook>, analysis: &Analysis) {
        let mut kept = lock(&self.kept);
        let same = |w: &Weak<Logbook>| w.strong_count() == 0 || std::ptr::eq(w.as_ptr(), Arc::as_ptr(book));
        kept.retain(|(w, _)| !same(w));
        kept.push_back((Arc::downgrade(book), analysis.weight()));
        let mut sum: usize = kept.iter().map(|(_, size)| size).sum();
        while sum > MOST_KEPT && kept.len() > 1 {
            let Some((oldest, size)) = kept.pop_front() else { break };
            sum -= size;
            if let Some(book) = oldest.upgrade() {
                book.forget_analysis();
            }
        }
    }

    /// Writes results and likely mistakes that have changed to the standing of the logbook.
    async fn note_results(&self, id: Id, book: &Arc<Logbook>, analysis: &Arc<Analysis>) -> Result<(), WebError> {
        let (results, seq) = (analysis.standing(), book.seq());
        let slips = blocking({
            let (book, analysis) = (Arc::clone(book), Arc::clone(analysis));
            move || book.slips(&analysis).iter().filter(|s| s.sure).map(|s| s.kind).collect::<Vec<_>>()
        })
        .await?;
        let mut desk = self.desk(id).await?;
        if (&desk.results, &desk.slips) == (&results, &slips) || desk.book.seq() != seq {
            return Ok(());
        }
        desk.results.clone_from(&results);
        desk.slips.clone_from(&slips);
        drop(desk);
        let store = Arc::clone(&self.store);
        blocking(move || store.save_results(id, seq, (&results, &slips))).await??;
        self.announce(id, None);
        Ok(())
    }

    /// Does an edit and stores it; acknowledged only when it is on disk.
    ///
    /// Runs in a task of its own: a browser that goes away meanwhile cannot leave it half done.
    pub(crate) async fn edit(&self, id: Id, by: Actor, token: Option<String>, edit: Edit) -> Result<Done, WebError> {
        let desks = self.clone();
        let work = async move {
            let desk = desks.desk(id).await?;
            let store = Arc::clone(&desks.store);
            let (desk, outcome) = blocking(move || {
                let mut desk = desk;
                let asked = Asked { by, token: token.as_deref(), edit: &edit };
                let outcome = store.carry_out(id, Arc::make_mut(&mut desk.book), asked);
                (desk, outcome)
            })
            .await?;
            desks.settle(id, desk, outcome).await
        };
        tokio::spawn(work).await.map_err(|_| WebError::Broken)?
    }

    async fn settle(
        &self,
        id: Id,
        mut desk: OwnedMutexGuard<Desk>,
        outcome: Result<zeitmass_store::CarriedOut, StoreError>,
    ) -> Result<Done, WebError> {
        match outcome {
            Ok(done) => {
                // One that was done before may be older than the last.
                if desk.saved.is_none_or(|s| s.seq < done.saved.seq) {
                    desk.saved = Some(done.saved);
                    desk.snapshot.1 += done.bytes;
                    self.snapshot_if_due(id, &mut desk);
                    self.announce(id, Some(done.saved.seq));
                    self.work_ahead(id);
                }
                Ok(Done { heard: done.heard, about: done.about, made: done.made })
            }
            Err(StoreError::Refused(refusal)) => {
                self.note_refusal(id, &refusal.words());
                Err(refusal.into())
            }
            Err(e) => {
                desk.lost = true;
                lock(&self.open).remove(&id);
                Err(e.into())
            }
        }
    }

    /// Grows a logbook by the text of its sheet that is in force; whoever looks at it is told with the next edit.
    pub(crate) async fn grow(&self, id: Id) -> Result<(), WebError> {
        let mut desk = self.desk(id).await?;
        let store = Arc::clone(&self.store);
        let source = blocking(move || store.grow(id)).await??;
        let later = LabSheet::parse_kept(&source).map_err(|_| WebError::Broken)?;
        Arc::make_mut(&mut desk.book).grow(&later);
        drop(desk);
        self.announce(id, None);
        Ok(())
    }

    /// Keeps what was refused for a while, so that whoever meets the same again and again is seen.
    fn note_refusal(&self, id: Id, word: &str) {
        let now = jiff::Timestamp::now().as_second();
        let mut all = lock(&self.refusals);
        all.retain(|_, those| those.back().is_some_and(|(at, _)| now - at < REMEMBERED));
        let those = all.entry(id).or_default();
        those.push_back((now, word.to_owned()));
        if those.len() > MOST_REFUSALS {
            those.pop_front();
        }
        let again = those.iter().filter(|(_, w)| w == word).count() >= AGAIN;
        drop(all);
        if again {
            self.announce(id, None);
        }
    }

    /// A refusal that a logbook met again and again in the last minutes, and how often.
    pub(crate) fn refused_again(&self, id: Id, now: i64) -> Option<(String, usize)> {
        let all = lock(&self.refusals);
        let those = all.get(&id)?;
        let recent = || those.iter().filter(|(at, _)| now - at < REMEMBERED).map(|(_, word)| word);
        let last = recent().next_back()?;
        let times = recent().filter(|w| *w == last).count();
        (times >= AGAIN).then(|| (last.clone(), times))
    }

    /// Works out what follows from an edit before the page asks for it, so that results stand in the class's list even when no page
    /// asks any more.
    fn work_ahead(&self, id: Id) {
        let desks = self.clone();
        tokio::spawn(async move {
            // A logbook that was erased meanwhile has no results.
            let _ = desks.sight(id).await;
        });
    }

    /// Stores a snapshot beside the edits, while work goes on.
    fn snapshot_if_due(&self, id: Id, desk: &mut Desk) {
        let seq = desk.book.seq();
        if !Store::snapshot_is_due(seq - desk.snapshot.0, desk.snapshot.1) {
            return;
        }
        desk.snapshot = (seq, 0);
        let (store, book) = (Arc::clone(&self.store), Arc::clone(&desk.book));
        tokio::task::spawn_blocking(move || {
            if let Err(e) = store.save_snapshot(id, &book.snapshot()) {
                tracing::warn!(logbook = id, error = %e, "a snapshot was not stored");
            }
        });
    }

    /// Forgets a logbook that was erased.
    pub(crate) fn close(&self, id: Id) {
        lock(&self.open).remove(&id);
    }

    /// The numbers of new edits, as they come.
    pub(crate) async fn watch(&self, id: Id) -> Result<broadcast::Receiver<u64>, WebError> {
        Ok(self.open(id).await?.moved.subscribe())
    }

    /// The logbooks of a class that move, as they do.
    pub(crate) fn watch_class(&self, class: Id) -> broadcast::Receiver<Id> {
        let mut classes = lock(&self.classes);
        classes.retain(|_, sender| sender.receiver_count() > 0);
        classes.entry(class).or_insert_with(|| broadcast::channel(CLASS_BACKLOG).0).subscribe()
    }

    /// Tells who watches that a logbook has a new edit, or a new result.
    fn announce(&self, id: Id, seq: Option<u64>) {
        let Some(open) = lock(&self.open).get(&id).map(Arc::clone) else { return };
        // Nobody watching is no error.
        if let Some(seq) = seq {
            let _ = open.moved.send(seq);
        }
        if let Some(class) = lock(&self.classes).get(&open.class) {
            let _ = class.send(id);
        }
    }

    async fn desk(&self, id: Id) -> Result<OwnedMutexGuard<Desk>, WebError> {
        for _ in 0..3 {
            let open = self.open(id).await?;
            let desk = Arc::clone(&open.desk).lock_owned().await;
            if !desk.lost {
                return Ok(desk);
            }
        }
        Err(WebError::Broken)
    }

    async fn open(&self, id: Id) -> Result<Arc<Open>, WebError> {
        if let Some(open) = lock(&self.open).get(&id) {
            return Ok(Arc::clone(open));
        }
        let store = Arc::clone(&self.store);
        let loaded = blocking(move || {
            let results = store.standing(id)?.map(|s| (s.results, s.slips)).unwrap_or_default();
            Ok::<_, StoreError>((store.load_logbook(id)?, store.logbook_info(id)?.class, results))
        });
        let (Loaded { mut book, last, snapshot }, class, (results, slips)) = loaded.await??;
        book.share(Arc::clone(&self.recall));
        let mut all = lock(&self.open);
        if all.len() >= MOST_OPEN {
            all.retain(|_, o| {
                Arc::strong_count(o) > 1 || Arc::strong_count(&o.desk) > 1 || o.moved.receiver_count() > 0
            });
        }
        // Two requests may have read it at once; the first one in counts.
        let open = all.entry(id).or_insert_with(|| {
            let desk = Desk {
                book: Arc::new(book),
                saved: last,
                author: None,
                results,
                slips,
                snapshot: (snapshot, 0),
                lost: false,
            };
            Arc::new(Open {
                class,
                desk: Arc::new(AsyncMutex::new(desk)),
                analysing: AsyncMutex::default(),
                moved: broadcast::channel(BACKLOG).0,
            })
        });
        Ok(Arc::clone(open))
    }
}

/// Runs work that takes its time in a thread of its own.
pub(crate) async fn blocking<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, WebError> {
    tokio::task::spawn_blocking(work).await.map_err(|_| WebError::Broken)
}

/// Runs work that takes its time in a thread of its own, and sets the sign it is given when whoever asked has gone away.
pub(crate) async fn until_gone<T: Send + 'static>(
    work: impl FnOnce(&Stop) -> T + Send + 'static,
) -> Result<T, WebError> {
    let stop = Stop::default();
    let gone = GoneAway(stop.clone());
    let done = blocking(move || work(&stop)).await;
    drop(gone);
    done
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
