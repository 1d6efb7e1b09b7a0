//! Every address out of any text: one row an address, with where it stood and how.

mod by_record;
mod committer;
mod feed;
mod options;
mod report;
mod row;
mod unique_rows;
mod worker;

use std::sync::Arc;

use ypogram_core::Hasher;
use ypogram_tables::Result;

use crate::engine::pipeline;
use crate::engine::progress::Progress;
pub use by_record::{ByRecordOptions, ByRecordReport, run as run_by_record};
use committer::Committer;
use feed::{ExtractTask, Feed};
pub use options::ExtractOptions;
pub(crate) use options::open_options;
pub use report::ExtractReport;
pub use row::RowFormat;
use worker::{Part, Worker};

/// Extracts the addresses of the sources.
///
/// # Errors
/// Where a source that was named cannot be read or breaks off, a field does not exist, or the output cannot be written.
/// Files found in folders are told in the report instead.
pub fn run(options: &ExtractOptions, progress: &Progress) -> Result<ExtractReport> {
    let mut feed = Feed::new(options)?;
    let hasher = Hasher::with_key(options.hash_key);
    // A trial is read piece by piece, so that the same rows come first whatever the machine.
    let threads = if options.first.is_some() { 1 } else { options.threads.max(1) };
    let workers: Vec<_> = (0..threads)
        .map(|_| {
            let mut worker = Worker::new(options, hasher);
            move |task: &mut ExtractTask, part: &mut Part| worker.work(task, part)
        })
        .collect();
    let mut committer = Committer::new(options, Arc::clone(&feed.enough))?;
    pipeline::run(&mut feed, workers, progress, |task, part| committer.commit(task, part))?;
    committer.finish(feed.into_report())
}
