//! Finds the records that reach the same mailbox, shows them, marks them, or keeps one of each.

mod differences;
mod group_list;
mod job;
mod mailbox_list;
mod near;
mod options;
mod output_writers;
mod outputs;
pub(super) mod part;
mod report;
mod settle_rows;
mod spelling;
mod view;
pub(super) mod worker;

use std::sync::Arc;

use ypogram_io::{Result, temporary_folder};

use crate::engine::progress::Progress;
use crate::engine::reading::Reading;
use crate::engine::spool::keep_what_is_read_once;
use crate::plan::date_order;
use crate::plan::fields::FieldPlan;
use job::Job;
pub use near::{Likeness, Twin, Twins};
pub use options::DedupeOptions;
pub use report::{DedupeReport, Group, GroupMember, RuleFigures};

/// Finds the duplicates of the sources.
///
/// # Errors
/// Where a source is unusable, breaks off or changes between the passes, a field does not exist, or an output or the
/// temporary folder cannot be written. Nothing then stands under the name of an output.
pub fn run(options: &DedupeOptions, progress: &Progress) -> Result<DedupeReport> {
    let folder = Arc::new(temporary_folder()?);
    let mut options = options.clone();
    options.open = keep_what_is_read_once(&options.sources, &options.open, &folder)?;
    let mut notes = settle_sorting(&mut options)?;
    let job = Job { options: &options, folder };
    if options.needs_one_pass()
        && let Some(mut report) = job.in_one_pass(progress)?
    {
        report.notes.append(&mut notes);
        return Ok(report.settle());
    }
    let mut report = job.in_two_passes(progress)?;
    report.notes.append(&mut notes);
    Ok(report.settle())
}

/// What to report about the dates by which rows are sorted.
fn settle_sorting(options: &mut DedupeOptions) -> Result<Vec<String>> {
    if options.rows.sort_by.is_empty() {
        return Ok(Vec::new());
    }
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    date_order::settle_sorting(&mut options.rows, &mut reading, &plan)
}
