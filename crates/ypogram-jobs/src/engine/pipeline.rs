//! Chunks through worker threads and out again in the order in which they came.
//!
//! There are as many threads as workers and no others: each takes the next chunk, works on it, and hands it in; the one
//! who hands in the chunk whose turn it is also commits it and those parked behind it.

use std::collections::VecDeque;
use std::sync::{Condvar, Mutex, MutexGuard, PoisonError};
use std::thread;

use ypogram_tables::{Error, Result};

use crate::engine::faults::{caught, our_fault};
use crate::engine::progress::Progress;

/// Finished chunks that may wait for their turn, for each worker.
const PARKED: usize = 4;

/// Where tasks come from.
pub(crate) trait Feed: Send {
    /// A piece of work; used again.
    type Task: Default + Send;

    /// Fills `task` with the next one; false at the end.
    fn next(&mut self, task: &mut Self::Task) -> Result<bool>;

    /// How much of the input a task is.
    fn octets(task: &Self::Task) -> u64;
}

/// Runs every task of `feed` through one of `workers`, each on a thread of its own, and gives what came of it to `commit`,
/// in the order of the input.
///
/// Tasks and parts are used again, so that memory stays bounded.
///
/// # Errors
/// The first error of reading, working or committing, in the order of the input.
pub(crate) fn run<F, P, W>(
    feed: &mut F,
    mut workers: Vec<W>,
    progress: &Progress,
    commit: impl FnMut(&F::Task, &mut P) -> Result<()> + Send,
) -> Result<()>
where
    F: Feed,
    P: Default + Send,
    W: FnMut(&mut F::Task, &mut P) -> Result<()> + Send,
{
    let line = Line {
        progress,
        reading: Mutex::new(Reading { feed, next: 0, ended: false }),
        order: Mutex::new(Order {
            next: 0,
            parked: VecDeque::new(),
            committing: false,
            spare: Vec::new(),
            failed: None,
        }),
        room: Condvar::new(),
        most_parked: workers.len() * PARKED,
        commit: Mutex::new(commit),
    };
    let own = workers.pop().expect("at least one worker");
    thread::scope(|scope| {
        for worker in workers {
            scope.spawn(|| line.work(worker));
        }
        line.work(own);
    });
    let order = line.order.into_inner().unwrap_or_else(PoisonError::into_inner);
    order.failed.map_or(Ok(()), Err)
}

/// What the workers share.
struct Line<'l, F: Feed, P, C> {
    progress: &'l Progress,
    reading: Mutex<Reading<'l, F>>,
    order: Mutex<Order<F::Task, P>>,
    /// Told when parked chunks have gone.
    room: Condvar,
    most_parked: usize,
    /// Free whenever nobody is committing.
    commit: Mutex<C>,
}

struct Reading<'l, F> {
    feed: &'l mut F,
    /// The number of the next task.
    next: u64,
    ended: bool,
}

struct Order<T, P> {
    /// The number of the task whose turn it is.
    next: u64,
    /// What came of the tasks from there on, as far as they are done.
    parked: VecDeque<Option<Result<Job<T, P>>>>,
    committing: bool,
    /// Committed ones, to be used again.
    spare: Vec<Job<T, P>>,
    failed: Option<Error>,
}

#[derive(Default)]
struct Job<T, P> {
    task: T,
    part: P,
}

impl<F, P, C> Line<'_, F, P, C>
where
    F: Feed,
    P: Default + Send,
    C: FnMut(&F::Task, &mut P) -> Result<()>,
{
    fn work(&self, mut worker: impl FnMut(&mut F::Task, &mut P) -> Result<()>) {
        let mut job = Job::default();
        loop {
            let (number, taken) = self.take(&mut job.task);
            let done = match taken {
                Ok(false) => return,
                // A fault of ours must not leave the others waiting for a part that never comes.
                Ok(true) => {
                    caught(|| worker(&mut job.task, &mut job.part)).unwrap_or_else(|| Err(our_fault()))
                }
                Err(error) => Err(error),
            };
            match self.hand_in(number, done.map(|()| job)) {
                Some(next) => job = next,
                None => return,
            }
        }
    }

    /// Fills `task` with the next one and gives its number; false at the end.
    fn take(&self, task: &mut F::Task) -> (u64, Result<bool>) {
        let mut reading = lock(&self.reading);
        let number = reading.next;
        if reading.ended {
            return (number, Ok(false));
        }
        let taken = self.progress.check().and_then(|()| reading.feed.next(task));
        reading.next += 1;
        reading.ended = !matches!(taken, Ok(true));
        (number, taken)
    }

    /// Hands in what came of a task, and commits what is due; gives a job to be used again, none where all is over.
    fn hand_in(&self, number: u64, done: Result<Job<F::Task, P>>) -> Option<Job<F::Task, P>> {
        let mut order = lock(&self.order);
        let place = (number - order.next) as usize;
        if order.parked.len() <= place {
            order.parked.resize_with(place + 1, || None);
        }
        order.parked[place] = Some(done);
        if !order.committing {
            order.committing = true;
            order = self.commit_due(order);
            order.committing = false;
        }
        let is_full = |order: &Order<_, _>| order.failed.is_none() && order.parked.len() > self.most_parked;
        while is_full(&order) {
            order = self.room.wait(order).unwrap_or_else(PoisonError::into_inner);
        }
        if order.failed.is_some() {
            return None;
        }
        Some(order.spare.pop().unwrap_or_default())
    }

    /// Commits the chunks whose turn it is, while the others work on.
    fn commit_due<'o>(
        &'o self,
        mut order: MutexGuard<'o, Order<F::Task, P>>,
    ) -> MutexGuard<'o, Order<F::Task, P>> {
        while order.failed.is_none() && matches!(order.parked.front(), Some(Some(_))) {
            let due = order.parked.pop_front().flatten().expect("it is there");
            order.next += 1;
            drop(order);
            let committed = due.and_then(|mut job| {
                let commit = &mut *lock(&self.commit);
                caught(|| commit(&job.task, &mut job.part)).unwrap_or_else(|| Err(our_fault()))?;
                self.progress.advance(F::octets(&job.task));
                Ok(job)
            });
            order = lock(&self.order);
            match committed {
                Ok(job) => order.spare.push(job),
                Err(error) => order.failed = Some(error),
            }
            self.room.notify_all();
        }
        order
    }
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
