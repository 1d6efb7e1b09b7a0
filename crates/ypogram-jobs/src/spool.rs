//! Standard input kept in a file, where it has to be read twice.

use std::io;
use std::path::{Path, PathBuf};

use tempfile::TempDir;
use ypogram_tables::{Error, Result};

/// Puts standard input, where it is among `sources`, into a file of `folder`, and gives the sources to read instead.
///
/// # Errors
/// Where it cannot be read, or the file not be written.
pub(crate) fn spooled(sources: &[PathBuf], folder: &TempDir) -> Result<Vec<PathBuf>> {
    let standard = Path::new("-");
    if !sources.iter().any(|source| source == standard) {
        return Ok(sources.to_vec());
    }
    let place = folder.path().join("standard input");
    let mut file = std::fs::File::create(&place).map_err(|error| Error::writing(&place, &error))?;
    io::copy(&mut io::stdin().lock(), &mut file).map_err(|error| Error::writing(&place, &error))?;
    let instead = |source: &PathBuf| if source == standard { place.clone() } else { source.clone() };
    Ok(sources.iter().map(instead).collect())
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
