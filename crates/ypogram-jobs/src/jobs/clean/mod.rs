//! The whole day in one pass: every record judged, its duplicates found, and written to the file of its outcome.

mod behind;
mod book;
mod earlier;
mod keep;
mod learn;
mod numbering;
mod options;
mod outputs;
mod passes;
mod report;
mod review;
mod settling;
mod since;
mod writing;

use std::path::Path;
use std::sync::Arc;

use tempfile::TempDir;
use ypogram_core::{Hasher, Policy};
use ypogram_io::{FORMATS, Result, temporary_folder};

use crate::engine::progress::Progress;
use crate::engine::reading::Reading;
use crate::engine::same_as_before::same_as_before;
use crate::engine::spool::keep_what_is_read_once;
use crate::jobs::checked_fields::{self, Beforehand};
use crate::jobs::receipt;
use crate::judge::checked_fields::CheckedFields;
use crate::plan::fields::FieldPlan;
use crate::plan::outcome::Outcome;
pub use earlier::UnclearCells;
pub use keep::{ANSWERS, DNS, KeptCall, refuse_lost_decisions};
pub(crate) use keep::{CALL, copy_name};
pub use options::{CleanOptions, Keep};
use passes::Passes;
pub use report::{CleanCounts, CleanReport};
pub use since::Since;
use writing::Writing;

/// Cleans the sources into the folder.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or an output cannot be written. Nothing is then
/// published.
pub fn run(options: &CleanOptions, progress: &Progress) -> Result<CleanReport> {
    let temporary = Arc::new(temporary_folder()?);
    // A second pass may come.
    let open = keep_what_is_read_once(&options.sources, &options.open, &temporary)?;
    let options = &CleanOptions { open, ..options.clone() };
    let mut policy = options.policy.clone();
    let mut read_before = None;
    if options.learn {
        let learnt;
        (policy.learned_typos, learnt) = learn::learn(options, progress)?;
        read_before = Some(learnt);
    }
    let fields = fields_checked(options, &policy, &temporary, progress)?;
    let read_before = read_before.or_else(|| fields.read.clone());
    let before = options.read_before.as_deref().or(read_before.as_deref());
    let answers = numbering::placed(options)?;
    let passes = Passes { options, policy: &policy, answers, fields, temporary: &temporary, progress };
    // What cannot be written is told before everything is read.
    let mut writing = Writing::prepare(&passes)?;
    if !passes.must_know_all() {
        if let Some(report) = writing.write(&passes, None, before)? {
            return Ok(report);
        }
        writing = Writing::prepare(&passes)?;
    }
    let known = passes.beforehand()?;
    if let Some(before) = before {
        same_as_before(before, &known.read)?;
    }
    let report = writing.write(&passes, Some(known), None)?;
    Ok(report.expect("what was settled beforehand needs no more memory"))
}

/// What is asked of fields other than the address, ready to judge records.
fn fields_checked(
    options: &CleanOptions,
    policy: &Policy,
    temporary: &Arc<TempDir>,
    progress: &Progress,
) -> Result<CheckedFields> {
    if options.field_rules.is_empty() {
        return Ok(CheckedFields::default());
    }
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, policy)?;
    let beforehand = Beforehand {
        sources: &options.sources,
        open: &options.open,
        memory: options.memory,
        temporary,
        threads: options.threads,
        progress,
        hasher: Hasher::with_key(options.hash_key),
    };
    checked_fields::prepare(&options.field_rules, &plan, &mut reading, policy, &beforehand)
}

/// The names of the outputs of a run in `folder`.
///
/// # Errors
/// Where the account there is not one.
pub fn earlier_outputs(folder: &Path) -> Result<Vec<String>> {
    receipt::earlier_outputs(folder)
}

/// The names of the outputs that a run may write into `folder`, and of those that an earlier one left there.
///
/// # Errors
/// Where the account of that one is none.
pub fn output_names(folder: &Path) -> Result<impl Iterator<Item = String> + use<>> {
    let of = |outcome: &Outcome| {
        let outputs = FORMATS.iter().filter(|entry| entry.uses.is_output);
        outputs.map(|entry| format!("{}.{}", outcome.file_stem(), entry.extensions[0])).collect::<Vec<_>>()
    };
    let written = Outcome::ALL.iter().flat_map(of).collect::<Vec<_>>();
    Ok(written.into_iter().chain(receipt::earlier_outputs(folder)?))
}
