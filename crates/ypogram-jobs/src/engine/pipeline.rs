//! Chunks through worker threads, in the order of the input where that matters.
//!
//! A chunk goes through four steps:
//!
//! 1. a worker **judges** it, at any time;
//! 2. it is **settled** in the order of the input: what depends on the records before it is decided;
//! 3. a worker **encodes** it with what was decided, at any time;
//! 4. it is **written** in the order of the input.
//!
//! There are as many threads as workers and no others. Whoever finishes the chunk that is due settles or writes it, and
//! those parked behind it. Usually a worker encodes the chunk that it has just judged, while that is in its cache.

use std::collections::VecDeque;
use std::sync::{Condvar, Mutex, MutexGuard, PoisonError};
use std::thread;

use ypogram_io::Result;

use crate::engine::faults::{caught, our_fault};
use crate::engine::progress::Progress;

/// Chunks between reading and writing, for each worker.
const UNDER_WAY: usize = 5;

/// Where tasks come from.
pub(crate) trait Feed: Send {
    /// A piece of work; used again.
    type Task: Default + Send;

    /// Fills `task` with the next one; false at the end.
    fn next(&mut self, task: &mut Self::Task) -> Result<bool>;

    /// How many bytes of the input a task is.
    fn bytes(task: &Self::Task) -> u64;
}

/// What a worker does with a chunk before and after it is settled.
pub(crate) trait Work<T, P>: Send {
    /// Fills `part` with what comes of `task`; nothing may depend on other chunks.
    fn judge(&mut self, task: &mut T, part: &mut P) -> Result<()>;

    /// Writes into `part` what goes to the outputs, now that it is settled.
    fn encode(&mut self, task: &T, part: &mut P) -> Result<()>;
}

/// Whether a job goes on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Flow {
    GoOn,
    /// Nothing further is read, settled or written.
    Stop,
}

/// Runs every task of `feed` through `workers`, each on a thread of its own; `settle` and `write` are called in the order
/// of the input. Stops early where `settle` says so, and tells that.
///
/// Tasks and parts are used again, so that memory stays bounded.
///
/// # Errors
/// The first error of reading, judging, settling, encoding or writing.
pub(crate) fn run<F, P, W>(
    feed: &mut F,
    mut workers: Vec<W>,
    progress: &Progress,
    settle: impl FnMut(&F::Task, &mut P) -> Result<Flow> + Send,
    write: impl FnMut(&F::Task, &mut P) -> Result<()> + Send,
) -> Result<Flow>
where
    F: Feed,
    P: Default + Send,
    W: Work<F::Task, P>,
{
    let line = Line {
        progress,
        reading: Mutex::new(Reading { feed, next: 0, ended: false }),
        order: Mutex::new(Order::new()),
        changed: Condvar::new(),
        most_under_way: workers.len() * UNDER_WAY,
        settle: Mutex::new(settle),
        write: Mutex::new(write),
    };
    let own = workers.pop().expect("at least one worker");
    thread::scope(|scope| {
        for worker in workers {
            scope.spawn(|| line.work(worker));
        }
        line.work(own);
    });
    let order = line.order.into_inner().unwrap_or_else(PoisonError::into_inner);
    order.over.unwrap_or(Ok(Flow::GoOn))
}

/// Runs every task of `feed` through `workers`, each on a thread of its own, and gives what came of it to `commit`, in the
/// order of the input.
///
/// # Errors
/// The first error of reading, working or committing.
pub(crate) fn run_in_order<F, P, W>(
    feed: &mut F,
    workers: Vec<W>,
    progress: &Progress,
    mut commit: impl FnMut(&F::Task, &mut P) -> Result<()> + Send,
) -> Result<()>
where
    F: Feed,
    P: Default + Send,
    W: FnMut(&mut F::Task, &mut P) -> Result<()> + Send,
{
    let workers = workers.into_iter().map(JudgeOnly).collect();
    let settle = |task: &F::Task, part: &mut P| commit(task, part).map(|()| Flow::GoOn);
    run(feed, workers, progress, settle, |_, _| Ok(())).map(drop)
}

/// A worker that has nothing to encode.
struct JudgeOnly<W>(W);

impl<T, P, W: FnMut(&mut T, &mut P) -> Result<()> + Send> Work<T, P> for JudgeOnly<W> {
    fn judge(&mut self, task: &mut T, part: &mut P) -> Result<()> {
        self.0(task, part)
    }

    fn encode(&mut self, _: &T, _: &mut P) -> Result<()> {
        Ok(())
    }
}

/// What the workers share.
struct Line<'l, F: Feed, P, S, C> {
    progress: &'l Progress,
    reading: Mutex<Reading<'l, F>>,
    order: Mutex<Order<F::Task, P>>,
    /// Notified when a chunk was settled or written.
    changed: Condvar,
    most_under_way: usize,
    /// Free whenever nobody is settling.
    settle: Mutex<S>,
    /// Free whenever nobody is writing.
    write: Mutex<C>,
}

struct Reading<'l, F> {
    feed: &'l mut F,
    /// The number of the next task.
    next: u64,
    ended: bool,
}

/// Where every chunk is that was read.
struct Order<T, P> {
    judged: InTurn<T, P>,
    /// To be encoded, the earliest first.
    settled: VecDeque<Job<T, P>>,
    encoded: InTurn<T, P>,
    /// Written ones, to be used again.
    spare: Vec<Job<T, P>>,
    /// Chunks that are read and not written yet.
    under_way: usize,
    /// Nothing further is read.
    reading_ended: bool,
    /// How it ended, where that is before the end of the input: nothing further is read or settled, and what was settled is
    /// still written.
    over: Option<Result<Flow>>,
    /// Nothing further is written either.
    failed: bool,
}

/// Chunks that arrive in any order and leave by their numbers.
struct InTurn<T, P> {
    /// The number of the one whose turn it is.
    next: u64,
    /// From that on, as far as they have arrived.
    parked: VecDeque<Option<Result<Job<T, P>>>>,
    /// Somebody deals with those that are due.
    busy: bool,
}

#[derive(Default)]
struct Job<T, P> {
    number: u64,
    task: T,
    part: P,
}

/// What a worker does next.
enum Step<T, P> {
    Read(Job<T, P>),
    Encode(Job<T, P>),
}

impl<T, P> InTurn<T, P> {
    fn new() -> Self {
        InTurn { next: 0, parked: VecDeque::new(), busy: false }
    }

    fn park(&mut self, number: u64, done: Result<Job<T, P>>) {
        let place = (number - self.next) as usize;
        if self.parked.len() <= place {
            self.parked.resize_with(place + 1, || None);
        }
        self.parked[place] = Some(done);
    }

    fn take_due(&mut self) -> Option<Result<Job<T, P>>> {
        let due = self.parked.front_mut()?.take()?;
        self.parked.pop_front();
        self.next += 1;
        Some(due)
    }
}

impl<T: Default, P: Default> Order<T, P> {
    fn new() -> Self {
        Order {
            judged: InTurn::new(),
            settled: VecDeque::new(),
            encoded: InTurn::new(),
            spare: Vec::new(),
            under_way: 0,
            reading_ended: false,
            over: None,
            failed: false,
        }
    }
}

impl<F, P, S, C> Line<'_, F, P, S, C>
where
    F: Feed,
    P: Default + Send,
    S: FnMut(&F::Task, &mut P) -> Result<Flow>,
    C: FnMut(&F::Task, &mut P) -> Result<()>,
{
    fn work(&self, mut worker: impl Work<F::Task, P>) {
        while let Some(step) = self.next_step() {
            match step {
                Step::Encode(mut job) => {
                    let encoded = guarded(|| worker.encode(&job.task, &mut job.part));
                    self.hand_in_encoded(job.number, encoded.map(|()| job));
                }
                Step::Read(mut job) => match self.read(&mut job) {
                    Ok(false) => self.end_of_input(),
                    Ok(true) => {
                        let judged = guarded(|| worker.judge(&mut job.task, &mut job.part));
                        self.hand_in_judged(job.number, judged.map(|()| job));
                    }
                    Err(error) => self.hand_in_judged(job.number, Err(error)),
                },
            }
        }
    }

    /// Encoding goes before reading, so that chunks leave; none where all is done, or others do the rest.
    fn next_step(&self) -> Option<Step<F::Task, P>> {
        let mut order = lock(&self.order);
        loop {
            if let Some(job) = order.settled.pop_front().filter(|_| !order.failed) {
                return Some(Step::Encode(job));
            }
            if order.reading_ended || order.over.is_some() {
                return None;
            }
            if order.under_way < self.most_under_way {
                order.under_way += 1;
                return Some(Step::Read(order.spare.pop().unwrap_or_default()));
            }
            order = self.changed.wait(order).unwrap_or_else(PoisonError::into_inner);
        }
    }

    /// Fills the job with the next task; false at the end.
    fn read(&self, job: &mut Job<F::Task, P>) -> Result<bool> {
        let mut reading = lock(&self.reading);
        if reading.ended {
            return Ok(false);
        }
        let taken = self.progress.check().and_then(|()| reading.feed.next(&mut job.task));
        job.number = reading.next;
        reading.next += 1;
        reading.ended = !matches!(taken, Ok(true));
        taken
    }

    fn end_of_input(&self) {
        let mut order = lock(&self.order);
        order.under_way -= 1;
        order.reading_ended = true;
        self.changed.notify_all();
    }

    /// Settles the chunks whose turn it is, while the others work on.
    fn hand_in_judged(&self, number: u64, judged: Result<Job<F::Task, P>>) {
        let mut order = lock(&self.order);
        order.judged.park(number, judged);
        if order.judged.busy {
            return;
        }
        order.judged.busy = true;
        while order.over.is_none()
            && let Some(due) = order.judged.take_due()
        {
            drop(order);
            let settled = due.and_then(|mut job| {
                let settle = &mut *lock(&self.settle);
                let flow = guarded(|| settle(&job.task, &mut job.part))?;
                Ok((flow, job))
            });
            order = lock(&self.order);
            match settled {
                Ok((Flow::GoOn, job)) => order.settled.push_back(job),
                Ok((Flow::Stop, _)) => order.over = Some(Ok(Flow::Stop)),
                Err(error) => order.over = Some(Err(error)),
            }
            self.changed.notify_all();
        }
        order.judged.busy = false;
    }

    /// Writes the chunks whose turn it is, while the others work on.
    fn hand_in_encoded(&self, number: u64, encoded: Result<Job<F::Task, P>>) {
        let mut order = lock(&self.order);
        order.encoded.park(number, encoded);
        if order.encoded.busy {
            return;
        }
        order.encoded.busy = true;
        while !order.failed
            && let Some(due) = order.encoded.take_due()
        {
            drop(order);
            let written = due.and_then(|mut job| {
                let write = &mut *lock(&self.write);
                guarded(|| write(&job.task, &mut job.part))?;
                self.progress.advance(F::bytes(&job.task));
                Ok(job)
            });
            order = lock(&self.order);
            match written {
                Ok(job) => {
                    order.under_way -= 1;
                    order.spare.push(job);
                }
                // Of an earlier chunk than what may have stopped the settling.
                Err(error) => (order.failed, order.over) = (true, Some(Err(error))),
            }
            self.changed.notify_all();
        }
        order.encoded.busy = false;
    }
}

/// A fault of ours must not leave the others waiting for a part that never comes.
fn guarded<T>(work: impl FnOnce() -> Result<T>) -> Result<T> {
    caught(work).unwrap_or_else(|| Err(our_fault()))
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
