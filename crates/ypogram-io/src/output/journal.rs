//! Outputs put into a folder one by one, where it cannot be exchanged for another: what is to be done is written down first, so that the
//! next run finishes what a killed one began.

use std::fs::{self, File};
use std::io::{self, Write as _};
use std::path::Path;

use serde::{Deserialize, Serialize};
use tempfile::TempDir;

use crate::records::error::{Error, Result};

/// The folder that holds the new outputs from the moment on when they count.
const FOLDER: &str = ".ypogram-publishing";

/// What is to be done, in that folder.
const JOURNAL: &str = ".journal";

#[derive(Debug, Serialize, Deserialize)]
struct Journal {
    /// Earlier outputs.
    removed: Vec<String>,
    /// New ones, the receipt last.
    added: Vec<String>,
}

/// Puts the outputs `added` out of `new`, which is in `folder`, into that, and removes `removed`.
///
/// # Errors
/// Where that cannot be done.
pub(super) fn publish(folder: &Path, new: TempDir, removed: &[String], added: &[String]) -> io::Result<()> {
    let journal = Journal { removed: removed.to_vec(), added: added.to_vec() };
    let mut file = File::create(new.path().join(JOURNAL))?;
    file.write_all(&serde_json::to_vec(&journal).expect("plain data"))?;
    file.sync_all()?;
    // From here on the new outputs count.
    let place = folder.join(FOLDER);
    fs::rename(new.path(), &place)?;
    let _ = new.keep();
    carry_out(folder, &place, &journal)
}

/// Finishes what a killed run began in `folder`.
///
/// # Errors
/// Where that cannot be done.
pub(super) fn finish(folder: &Path) -> Result<()> {
    let place = folder.join(FOLDER);
    let Ok(text) = fs::read(place.join(JOURNAL)) else { return Ok(()) };
    let failed = |error: io::Error| Error::writing(folder, &error);
    let journal: Journal = serde_json::from_slice(&text).map_err(|error| {
        Error::output(
            format!("{}: this is not one of our journals: {error}", place.display()),
            "move that folder away, and run it again",
        )
    })?;
    let _lock = super::place::lock_current(folder).map_err(failed)?;
    carry_out(folder, &place, &journal).map_err(failed)
}

/// Removes a file, or a folder with all that is in it.
fn remove(path: &Path) -> io::Result<()> {
    match path.symlink_metadata()?.is_dir() {
        true => fs::remove_dir_all(path),
        false => fs::remove_file(path),
    }
}

/// Every step can be repeated.
fn carry_out(folder: &Path, place: &Path, journal: &Journal) -> io::Result<()> {
    let gone = |result: io::Result<()>| match result {
        Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(()),
        result => result,
    };
    for name in journal.removed.iter().rev().filter(|name| !journal.added.contains(name)) {
        gone(remove(&folder.join(name)))?;
    }
    for name in &journal.added {
        if place.join(name).is_dir() {
            // A folder takes the place of none that holds something.
            gone(remove(&folder.join(name)))?;
        }
        gone(fs::rename(place.join(name), folder.join(name)))?;
    }
    gone(fs::remove_file(place.join(JOURNAL)))?;
    gone(fs::remove_dir(place))
}
