//! Every address out of any text: one row an address, with where it stood and how.

mod by_record;
pub(super) mod feed;
mod group_columns;
mod json_row;
mod matches;
mod options;
mod part;
pub(super) mod places;
pub(super) mod report;
mod row;
mod row_format;
mod rows;
mod settling;
mod unique_rows;
mod worker;

use std::sync::Arc;

use ypogram_core::Hasher;
use ypogram_io::Result;

use crate::engine::pipeline;
use crate::engine::progress::Progress;
pub use by_record::{ByRecordOptions, ByRecordReport, run as run_by_record};
use feed::{ExtractTask, Feed};
pub use options::ExtractOptions;
use part::Part;
pub use report::ExtractReport;
use row::RowLayout;
pub use row_format::RowFormat;
use settling::Settling;
use worker::Worker;
use ypogram_io::RowOutput;

/// Extracts the addresses of the sources.
///
/// # Errors
/// Where a source that was named cannot be read or breaks off, a field does not exist, or the output cannot be written.
/// Files found in folders are listed in the report instead.
pub fn run(options: &ExtractOptions, progress: &Progress) -> Result<ExtractReport> {
    let mut feed = Feed::new(&options.sources, &options.pieces, &options.fields)?;
    let hasher = Hasher::with_key(options.hash_key);
    // A trial is read piece by piece, so that the same rows come first whatever the machine.
    let threads = if options.first.is_some() { 1 } else { options.threads.max(1) };
    let layout = RowLayout::of(options)?;
    let workers: Vec<_> = (0..threads).map(|_| Worker::new(options, &layout, hasher)).collect();
    let mut output =
        RowOutput::begin(options.target.open()?, &layout.writer().opening(), layout.projection())?;
    let mut settling = Settling::new(options, Arc::clone(&feed.enough));
    let settle = |task: &ExtractTask, part: &mut Part| settling.settle(task, part);
    pipeline::run(&mut feed, workers, progress, settle, |_, part| output.write(&part.encoded))?;
    settling.finish(feed.into_report(), &layout, output)
}
