//! The trials of the campaign, and what comes of them.

pub mod disk;
pub mod hostile;
pub mod kill;
pub mod memory;
pub mod records;
pub mod stop;
pub mod writers;

use std::sync::atomic::{AtomicU64, Ordering};

/// How much is tried.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Scale {
    /// As much as CI has time for: some minutes.
    Short,
    /// As much as a release deserves: an hour or more.
    Long,
}

impl Scale {
    /// `short` or `long` cases.
    pub fn cases(self, short: u64, long: u64) -> u64 {
        match self {
            Scale::Short => short,
            Scale::Long => long,
        }
    }
}

/// What a trial has done, and the faults it found.
#[derive(Debug, Default)]
pub struct Outcome {
    /// What was counted, such as `files`, in the order in which it is printed.
    pub figures: Vec<(&'static str, u64)>,
    /// What was found, each with what it takes to see it again.
    pub faults: Vec<String>,
    /// What could not be tried here, and why.
    pub left_out: Vec<String>,
}

/// Tries the cases `0..cases`, on as many threads as the machine has.
///
/// # Panics
/// Where a case does.
pub fn in_parallel(cases: u64, one: impl Fn(u64, &mut Outcome) + Sync) -> Outcome {
    let next = AtomicU64::new(0);
    let some = || {
        let mut outcome = Outcome::default();
        loop {
            let case = next.fetch_add(1, Ordering::Relaxed);
            if case >= cases {
                return outcome;
            }
            one(case, &mut outcome);
        }
    };
    let threads = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    std::thread::scope(|scope| {
        let all: Vec<_> = (0..threads).map(|_| scope.spawn(some)).collect();
        let mut sum = Outcome::default();
        for outcome in all.into_iter().map(|thread| thread.join().expect("no case panics")) {
            sum.join(outcome);
        }
        sum.faults.sort();
        sum
    })
}

impl Outcome {
    /// Counts one more of `what`.
    pub fn count(&mut self, what: &'static str) {
        self.add(what, 1);
    }

    /// Counts so many more of `what`.
    pub fn add(&mut self, what: &'static str, more: u64) {
        match self.figures.iter_mut().find(|(name, _)| *name == what) {
            Some((_, count)) => *count += more,
            None => self.figures.push((what, more)),
        }
    }

    /// Adds what another has found.
    pub fn join(&mut self, other: Outcome) {
        other.figures.into_iter().for_each(|(what, count)| self.add(what, count));
        self.faults.extend(other.faults);
        self.left_out.extend(other.left_out);
    }

    /// A fault, unless `holds`.
    pub fn expect(&mut self, holds: bool, fault: impl FnOnce() -> String) {
        if !holds {
            self.faults.push(fault());
        }
    }
}
