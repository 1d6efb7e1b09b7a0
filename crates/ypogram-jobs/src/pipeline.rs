//! Chunks through worker threads and out again in the order in which they came.

use std::collections::VecDeque;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::thread;

use crossbeam_channel::{Receiver, Sender, bounded, unbounded};
use ypogram_tables::{Error, Result};

use crate::progress::Progress;

/// Chunks in flight for each worker thread.
const IN_FLIGHT: usize = 4;

/// Where tasks come from.
pub(crate) trait Feed: Send {
    /// A piece of work; used again.
    type Task: Default + Send;

    /// Fills `task` with the next one; false at the end.
    fn next(&mut self, task: &mut Self::Task) -> Result<bool>;

    /// How much of the input a task is.
    fn octets(task: &Self::Task) -> u64;
}

/// Runs every task of `feed` through one of `workers`, each on a thread of its own, and gives what came of it to `commit`, in the order of the input.
///
/// A finished part is parked and its worker goes on; tasks and parts are used again, so that memory stays bounded. With
/// one worker everything happens on the caller's.
///
/// # Errors
/// The first error of reading, working or committing, in the order of the input.
pub(crate) fn run<F, P, W>(
    feed: &mut F,
    mut workers: Vec<W>,
    progress: &Progress,
    mut commit: impl FnMut(&F::Task, &mut P) -> Result<()>,
) -> Result<()>
where
    F: Feed,
    P: Default + Send,
    W: FnMut(&mut F::Task, &mut P) -> Result<()> + Send,
{
    let threads = workers.len();
    let mut commit = |task: &F::Task, part: &mut P| {
        commit(task, part)?;
        progress.advance(F::octets(task));
        Ok(())
    };
    if threads <= 1 {
        let (mut task, mut part) = (F::Task::default(), P::default());
        let worker = workers.first_mut().expect("at least one worker");
        loop {
            progress.check()?;
            if !feed.next(&mut task)? {
                return Ok(());
            }
            worker(&mut task, &mut part)?;
            commit(&task, &mut part)?;
        }
    }
    thread::scope(|scope| {
        let (to_workers, tasks) = bounded::<Job<F::Task, P>>(threads * IN_FLIGHT);
        let (to_committer, results) = unbounded::<Done<F::Task, P>>();
        let (give_back, pool) = unbounded::<Job<F::Task, P>>();
        for _ in 0..threads * IN_FLIGHT {
            give_back.send(Job::default()).expect("the pool is open");
        }
        for worker in workers {
            let (tasks, to_committer) = (tasks.clone(), to_committer.clone());
            scope.spawn(move || work(&tasks, &to_committer, worker));
        }
        drop(tasks);
        scope.spawn(move || read(feed, progress, &pool, &to_workers, &to_committer));
        commit_in_order(&results, &give_back, &mut commit)
    })
}

/// A job that is done, or why it could not be, under its number.
type Done<T, P> = (u64, Result<Job<T, P>>);

#[derive(Default)]
struct Job<T, P> {
    number: u64,
    task: T,
    part: P,
}

fn read<F: Feed, P>(
    feed: &mut F,
    progress: &Progress,
    pool: &Receiver<Job<F::Task, P>>,
    to_workers: &Sender<Job<F::Task, P>>,
    to_committer: &Sender<Done<F::Task, P>>,
) {
    for number in 0.. {
        // Closed once the committer has given up.
        let Ok(mut job) = pool.recv() else { return };
        job.number = number;
        match progress.check().and_then(|()| feed.next(&mut job.task)) {
            Ok(true) => {
                if to_workers.send(job).is_err() {
                    return;
                }
            }
            Ok(false) => return,
            Err(error) => {
                let _ = to_committer.send((number, Err(error)));
                return;
            }
        }
    }
}

fn work<T, P>(
    tasks: &Receiver<Job<T, P>>,
    to_committer: &Sender<Done<T, P>>,
    mut worker: impl FnMut(&mut T, &mut P) -> Result<()>,
) {
    for mut job in tasks {
        let number = job.number;
        // A fault of ours must not leave the committer waiting for a part that never comes.
        let done =
            catch_unwind(AssertUnwindSafe(|| worker(&mut job.task, &mut job.part))).unwrap_or_else(|_| {
                Err(Error::unusable(
                    "Ypogram met a fault of its own; nothing was written",
                    "please report it",
                ))
            });
        if to_committer.send((number, done.map(|()| job))).is_err() {
            return;
        }
    }
}

fn commit_in_order<T, P>(
    results: &Receiver<Done<T, P>>,
    give_back: &Sender<Job<T, P>>,
    commit: &mut impl FnMut(&T, &mut P) -> Result<()>,
) -> Result<()> {
    let mut parked: VecDeque<Option<Result<Job<T, P>>>> = VecDeque::new();
    let mut next = 0;
    for (number, result) in results {
        let place = (number - next) as usize;
        if parked.len() <= place {
            parked.resize_with(place + 1, || None);
        }
        parked[place] = Some(result);
        while let Some(Some(_)) = parked.front() {
            let mut job = parked.pop_front().flatten().expect("it is there")?;
            next += 1;
            commit(&job.task, &mut job.part)?;
            // The reader is gone once it has reached the end.
            let _ = give_back.send(job);
        }
    }
    Ok(())
}
