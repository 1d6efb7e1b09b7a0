//! What is asked of fields, made ready for a job: where values may not repeat, the sources are read once before.

use std::path::PathBuf;
use std::sync::Arc;

use tempfile::TempDir;
use ypogram_core::{Code, Hasher, Policy};
use ypogram_io::{OpenOptions, Result};

use crate::engine::progress::Progress;
use crate::engine::reading::Reading;
use crate::engine::spool::keep_what_is_read_once;
use crate::judge::checked_fields::CheckedFields;
use crate::judge::repeated_values::RepeatedValues;
use crate::plan::field_rules::{FieldChecks, FieldRule};
use crate::plan::fields::FieldPlan;

/// What it takes to read sources before they are judged.
pub(super) struct Beforehand<'b> {
    pub(super) sources: &'b [PathBuf],
    /// How to open them; what can be read but once is kept already.
    pub(super) open: &'b OpenOptions,
    /// Bytes of memory that may be taken.
    pub(super) memory: usize,
    /// Where the rest goes.
    pub(super) temporary: &'b Arc<TempDir>,
    pub(super) threads: usize,
    pub(super) progress: &'b Progress,
    pub(super) hasher: Hasher,
}

/// Whether the sources have to be read once more before the first record is judged by `rules`.
pub(super) fn reads_beforehand(rules: &[FieldRule]) -> bool {
    rules.iter().flat_map(|rule| &rule.asked).any(|asked| asked.code() == Code::FieldUnique)
}

/// How sources are opened that are read several times, where they are: what can be read but once is kept in `temporary`.
///
/// # Errors
/// Where one cannot be read.
pub(super) fn open_for(
    rules: &[FieldRule],
    sources: &[PathBuf],
    open: &OpenOptions,
    temporary: &TempDir,
) -> Result<OpenOptions> {
    match reads_beforehand(rules) {
        // Whether a source changes meanwhile is seen by its fingerprint.
        true => Ok(OpenOptions { fingerprint: true, ..keep_what_is_read_once(sources, open, temporary)? }),
        false => Ok(open.clone()),
    }
}

/// Makes `rules` ready for the fields of `plan`, and reads the sources where that depends on all records.
///
/// # Errors
/// Where a field or list does not exist, a source is unusable or breaks off, or the temporary folder cannot be used.
pub(super) fn prepare(
    rules: &[FieldRule],
    plan: &FieldPlan,
    reading: &mut Reading,
    policy: &Policy,
    beforehand: &Beforehand<'_>,
) -> Result<CheckedFields> {
    let checks = FieldChecks::settle(rules, plan, reading, policy)?;
    if checks.unique.is_empty() {
        return Ok(CheckedFields::new(checks, RepeatedValues::default(), None));
    }
    let Beforehand { sources, open, memory, temporary, threads, progress, hasher } = *beforehand;
    let mut reading = Reading::open(sources, open)?;
    let repeated = RepeatedValues::gather(
        &mut reading,
        (plan, &checks.unique),
        (memory, Arc::clone(temporary)),
        (threads, progress),
        hasher,
    )?;
    // How far a trial reads differs from pass to pass.
    let read = open.first.is_none().then(|| reading.reports());
    Ok(CheckedFields::new(checks, repeated, read))
}
