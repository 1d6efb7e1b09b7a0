//! Sources that can be read but once, kept in files where they have to be read twice.

use std::path::PathBuf;

use tempfile::TempDir;
use ypogram_io::{OpenOptions, Result, can_be_read_but_once, keep_source};

/// Puts those of `sources` that can be read but once, such as standard input and FIFOs, into files of `folder`, to be opened with what
/// this gives.
///
/// # Errors
/// Where one cannot be read, or its file not be written.
pub fn keep_what_is_read_once(
    sources: &[PathBuf],
    open: &OpenOptions,
    folder: &TempDir,
) -> Result<OpenOptions> {
    let mut open = open.clone();
    for source in sources.iter().filter(|source| can_be_read_but_once(source)) {
        if open.kept.iter().all(|(kept, _)| kept != source) {
            let place = folder.path().join(format!("source-{}", open.kept.len()));
            keep_source(source, &place)?;
            open.kept.push((source.clone(), place));
        }
    }
    Ok(open)
}
