//! Standard input kept in a file, where it has to be read twice.

use std::path::{Path, PathBuf};

use tempfile::TempDir;
use ypogram_tables::{Error, OpenOptions, Result};

/// Puts standard input, where it is among `sources`, into a file of `folder`, to be opened with what this gives.
///
/// # Errors
/// Where it cannot be read, or the file not be written.
pub(crate) fn keep_standard_input(
    sources: &[PathBuf],
    open: &OpenOptions,
    folder: &TempDir,
) -> Result<OpenOptions> {
    if !sources.iter().any(|source| source == Path::new("-")) {
        return Ok(open.clone());
    }
    let place = folder.path().join("standard input");
    ypogram_tables::keep_standard_input(&place)?;
    Ok(OpenOptions { kept_standard_input: Some(place), ..open.clone() })
}

/// A folder for what does not fit into memory; gone when it is dropped.
///
/// # Errors
/// Where it cannot be made.
pub(crate) fn temporary_folder() -> Result<TempDir> {
    tempfile::Builder::new()
        .prefix("ypogram-")
        .tempdir()
        .map_err(|error| Error::writing(&std::env::temp_dir(), &error))
}
