//! Following objects through films, in threads of its own: whoever works on something else is not slowed down.
//!
//! A job reads frames ahead in one thread and looks for the object in another; its marks go into the logbook as edits, a
//! batch at a time, so that partners see the trail grow.

use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, AtomicU32, Ordering};
use std::sync::{Arc, Mutex, PoisonError, mpsc};
use zeitmass_core::logbook::{Edit, FilmEdit};

use serde::Serialize;
use tokio::runtime::Handle;
use zeitmass_core::motion::TrailId;
use zeitmass_film::Grey;
use zeitmass_film::follow::{Follower, Found, Question};
use zeitmass_store::{Actor, Id, Store};
use zeitmass_words::Words;

use crate::desks::Desks;

/// Jobs at work at a time; the others wait.
const WORKERS: usize = 2;
/// Jobs that may wait.
const MOST_WAITING: usize = 64;
/// Marks that go into the logbook at a time.
const BATCH: usize = 60;
/// Frames read ahead.
const AHEAD: usize = 16;

/// What a job is about.
#[derive(Clone, Debug)]
pub(crate) struct Task {
    pub logbook: Id,
    pub by: Actor,
    pub film: Id,
    pub trail: TrailId,
    /// Times of all frames in s.
    pub times: Vec<f64>,
    /// Frame and place of the mark it starts from, in px.
    pub start: (u32, [f64; 2]),
    /// Marks before it, oldest first: time and place.
    pub earlier: Vec<(f64, [f64; 2])>,
    /// Last frame to look at.
    pub last: u32,
    /// Every so many frames.
    pub step: u32,
    /// Side of the box in px.
    pub side: usize,
}

/// How a job stands.
#[derive(Clone, Debug, Serialize)]
pub(crate) struct Standing {
    pub done: u32,
    pub total: u32,
    pub running: bool,
    /// What it asks or says, once it has stopped.
    pub words: String,
    /// The frame it stopped at.
    pub frame: u32,
}

/// How a job ended, and at which frame.
#[derive(Clone, Debug)]
struct End {
    frame: u32,
    why: Why,
}

#[derive(Clone, Debug)]
enum Why {
    /// There are no more frames.
    FilmEnds,
    /// Somebody stopped it.
    Stopped,
    /// It is not sure of the object.
    Asks(Question),
    /// A frame or an edit failed, in words.
    Failed(String),
}

impl End {
    fn words(&self, done: u32) -> String {
        let frame = self.frame;
        match &self.why {
            Why::FilmEnds => {
                format!("Followed through {done} {} to frame {frame}.", if done == 1 { "frame" } else { "frames" })
            }
            Why::Stopped => format!("Stopped at frame {frame}. The marks so far are kept."),
            Why::Asks(question) => {
                format!("Stopped at frame {frame}: {}. Mark it by hand, then press Follow.", question.words())
            }
            Why::Failed(words) => words.clone(),
        }
    }
}

#[derive(Debug)]
struct Job {
    task: Task,
    total: u32,
    done: AtomicU32,
    cancelled: AtomicBool,
    end: Mutex<Option<End>>,
}

type Key = (Id, TrailId);

/// All jobs.
#[derive(Clone, Debug)]
pub(crate) struct Following {
    jobs: Arc<Mutex<HashMap<Key, Arc<Job>>>>,
    queue: mpsc::Sender<(Arc<Job>, Handle)>,
}

impl Following {
    pub(crate) fn new(store: &Arc<Store>, desks: &Desks) -> Self {
        let (queue, waiting) = mpsc::channel::<(Arc<Job>, Handle)>();
        let waiting = Arc::new(Mutex::new(waiting));
        for _ in 0..WORKERS {
            let (store, desks, waiting) = (Arc::clone(store), desks.clone(), Arc::clone(&waiting));
            std::thread::spawn(move || {
                loop {
                    let next = waiting.lock().unwrap_or_else(PoisonError::into_inner).recv();
                    // The last sender is gone: the program ends.
                    let Ok((job, runtime)) = next else { break };
                    let end = work(&job, &store, &desks, &runtime);
                    *job.end.lock().unwrap_or_else(PoisonError::into_inner) = Some(end);
                }
            });
        }
        Self { jobs: Arc::default(), queue }
    }

    /// Puts a job in the queue; one for the same trail that still runs goes on instead.
    ///
    /// # Errors
    /// A sentence when too many are waiting.
    pub(crate) fn begin(&self, task: Task, runtime: Handle) -> Result<(), String> {
        let mut jobs = self.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        let key = (task.logbook, task.trail);
        if jobs.get(&key).is_some_and(|j| standing(j).running) {
            return Ok(());
        }
        if jobs.values().filter(|j| standing(j).running).count() >= MOST_WAITING {
            return Err("Many objects are being followed at the moment. Try again in a minute.".to_owned());
        }
        // Ended jobs are forgotten when there are many of them.
        if jobs.len() > 4 * MOST_WAITING {
            jobs.retain(|_, j| standing(j).running);
        }
        let total = task.last.saturating_sub(task.start.0) / task.step.max(1);
        let job = Arc::new(Job {
            task,
            total,
            done: AtomicU32::new(0),
            cancelled: AtomicBool::new(false),
            end: Mutex::new(None),
        });
        jobs.insert(key, Arc::clone(&job));
        self.queue.send((job, runtime)).map_err(|_| "Following is not possible at the moment.".to_owned())
    }

    pub(crate) fn standing(&self, logbook: Id, trail: TrailId) -> Option<Standing> {
        let jobs = self.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        jobs.get(&(logbook, trail)).map(|j| standing(j))
    }

    pub(crate) fn cancel(&self, logbook: Id, trail: TrailId) {
        if let Some(job) = self.jobs.lock().unwrap_or_else(PoisonError::into_inner).get(&(logbook, trail)) {
            job.cancelled.store(true, Ordering::Relaxed);
        }
    }
}

fn standing(job: &Job) -> Standing {
    let end = job.end.lock().unwrap_or_else(PoisonError::into_inner);
    let done = job.done.load(Ordering::Relaxed);
    let (words, frame) = end.as_ref().map_or_else(Default::default, |end| (end.words(done), end.frame));
    Standing { done, total: job.total, running: end.is_none(), words, frame }
}

/// Follows until it asks, is stopped, or the film ends.
fn work(job: &Job, store: &Store, desks: &Desks, runtime: &Handle) -> End {
    let task = &job.task;
    let time = |n: u32| task.times.get(n as usize).copied().unwrap_or_default();
    let read = |n: u32| {
        let bytes = store.frame(task.film, n).map_err(|e| e.to_string())?;
        Grey::read(&bytes).map_err(|e| format!("Frame {n}: {e}."))
    };
    let (first, at) = task.start;
    let begun = read(first).and_then(|f| Follower::start(&f, at, task.side, time(first)).map_err(|e| e.to_string()));
    let mut follower = match begun {
        Ok(follower) => follower,
        Err(e) => return End { frame: first, why: Why::Failed(e) },
    };
    follower.recall(&task.earlier);
    let frames: Vec<u32> = (first..=task.last).step_by(task.step.max(1) as usize).skip(1).collect();
    let mut marks: Vec<(u32, [f64; 2])> = Vec::new();
    let keep = |marks: &mut Vec<(u32, [f64; 2])>| -> Result<(), String> {
        if marks.is_empty() {
            return Ok(());
        }
        let edit = Edit::Film(FilmEdit::PlaceMarks { trail: task.trail, marks: std::mem::take(marks) });
        let kept = desks.edit(task.logbook, task.by, None, edit);
        runtime.block_on(kept).map(|_| ()).map_err(|e| e.to_string())
    };
    std::thread::scope(|scope| {
        let (ahead, pictures) = mpsc::sync_channel(AHEAD);
        let (read, frames) = (&read, &frames);
        scope.spawn(move || {
            for n in frames {
                // Nobody takes them any more once following has stopped.
                if ahead.send((*n, read(*n))).is_err() {
                    break;
                }
            }
        });
        let mut last = first;
        let mut end = None;
        for (n, picture) in pictures {
            if job.cancelled.load(Ordering::Relaxed) {
                end = Some(End { frame: last, why: Why::Stopped });
                break;
            }
            let found = match picture {
                Ok(picture) => follower.step(&picture, time(n)),
                Err(e) => {
                    end = Some(End { frame: n, why: Why::Failed(e) });
                    break;
                }
            };
            match found {
                Found::Placed { at, .. } => marks.push((n, at)),
                Found::Asks { why, .. } => {
                    end = Some(End { frame: n, why: Why::Asks(why) });
                    break;
                }
            }
            last = n;
            job.done.fetch_add(1, Ordering::Relaxed);
            if marks.len() >= BATCH
                && let Err(e) = keep(&mut marks)
            {
                end = Some(End { frame: n, why: Why::Failed(e) });
                break;
            }
        }
        if let Err(e) = keep(&mut marks) {
            return End { frame: last, why: Why::Failed(e) };
        }
        end.unwrap_or(End { frame: last, why: Why::FilmEnds })
    })
}
