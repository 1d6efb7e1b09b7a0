//! Every address out of any text: one row an address, with where it stood and how.

mod by_record;
mod committer;
mod feed;
mod report;
mod row;
mod unique_rows;
mod worker;

use std::path::PathBuf;
use std::sync::Arc;

use ypogram_core::text::Options;
use ypogram_core::{Hasher, Policy};
use ypogram_tables::csv::Arrangement;
use ypogram_tables::pieces::PieceOptions;
use ypogram_tables::{OpenOptions, Result, Target};

use crate::pipeline;
use crate::progress::Progress;
pub use by_record::{ByRecordOptions, ByRecordReport, run as run_by_record};
use committer::Committer;
use feed::{ExtractTask, Feed};
pub use report::ExtractReport;
pub use row::RowFormat;
use worker::{Part, Worker};

/// What `extract` is asked to do.
#[derive(Clone, Debug)]
pub struct ExtractOptions {
    /// Files and folders to read; `-` is standard input.
    pub sources: Vec<PathBuf>,
    /// How to cut them.
    pub pieces: PieceOptions,
    /// Only these fields, keys or parts; all where none is named.
    pub fields: Vec<String>,
    /// How to judge.
    pub policy: Policy,
    /// What to look for beyond plain addresses.
    pub look: Options,
    /// How rows are written.
    pub format: RowFormat,
    /// Octets of text around an address to write with it.
    pub context: usize,
    /// One row a mailbox, with a count and the first place.
    pub unique: bool,
    /// List what was passed over instead of the addresses.
    pub show_skipped: bool,
    /// How rows of a table are arranged.
    pub arrangement: Arrangement,
    /// As many rows are found in all, where there is a limit.
    pub first: Option<u64>,
    /// Where the rows go.
    pub target: Target,
    /// Bytes of memory for what is held of all addresses.
    pub memory: usize,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}

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

/// How sources are opened where whole records come out.
pub(crate) fn open_options(pieces: &PieceOptions) -> OpenOptions {
    OpenOptions {
        delimiter: pieces.delimiter,
        header: pieces.header,
        sort_of: pieces.sort_of,
        salvage: pieces.salvage,
        chunk_octets: pieces.octets,
        longest_record: pieces.limits.longest_record,
        fingerprint: false,
        ..OpenOptions::default()
    }
}
