//! All outputs of a job put into their places: from one moment on they count, and whatever is left to do is done by the next run.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use ypogram_io::{Error, OutputFolder, Result};
use ypogram_jobs::clean;

use crate::job::staging::{Staging, published_folder};

/// What is to be put where, in the folder of the job.
const JOURNAL: &str = "publishing.json";

#[derive(Debug, Deserialize, Serialize)]
struct Journal {
    /// Paths, in the folder of the job and from the rulebook's folder.
    outputs: Vec<PathBuf>,
}

/// Publishes `outputs` of the job, the receipt last.
///
/// # Errors
/// Where something cannot be written. What was published then is named.
pub(crate) fn publish(staging: Staging, job: &str, outputs: Vec<PathBuf>) -> Result<()> {
    let Staging { folder, root, home, .. } = staging;
    let writing = |error: io::Error| Error::writing(&root.join(JOURNAL), &error);
    let journal = serde_json::to_vec(&Journal { outputs }).expect("plain data");
    fs::write(root.join(JOURNAL), journal).map_err(writing)?;
    // From here on the new outputs count.
    folder.publish(Vec::new(), |_| Ok(Vec::new()))?;
    finish_earlier(&home, job)
}

/// Puts what a run of the job has to publish into its place, where one is left.
///
/// # Errors
/// Where something cannot be written.
pub(crate) fn finish_earlier(home: &Path, job: &str) -> Result<()> {
    let place = published_folder(home, job);
    let Ok(journal) = fs::read(place.join(JOURNAL)) else { return Ok(()) };
    let journal: Journal = serde_json::from_slice(&journal).map_err(|error| {
        Error::output(
            format!("{}: this is not one of our journals: {error}", place.display()),
            "move that folder away",
        )
    })?;
    for output in &journal.outputs {
        let (new, old) = (place.join(output), home.join(output));
        let put = match new.symlink_metadata() {
            Ok(metadata) if metadata.is_dir() => put_folder(&new, &old),
            Ok(_) => put_file(&new, &old).map_err(|error| Error::writing(&old, &error)),
            // It is there already.
            Err(_) => Ok(()),
        };
        put?;
    }
    fs::remove_dir_all(&place).map_err(|error| Error::writing(&place, &error))
}

fn put_file(new: &Path, old: &Path) -> io::Result<()> {
    if let Ok(replaced) = fs::metadata(old) {
        fs::set_permissions(new, replaced.permissions())?;
    }
    if let Some(around) = old.parent() {
        fs::create_dir_all(around)?;
    }
    fs::rename(new, old)
}

/// Other files that are in the folder stay, and what an earlier run left there goes.
fn put_folder(new: &Path, old: &Path) -> Result<()> {
    let mut folder = OutputFolder::prepare(old, true, clean::earlier_outputs, &clean::earlier_outputs(new)?)?;
    folder.adopt(new)?;
    folder.publish(Vec::new(), clean::earlier_outputs)?;
    fs::remove_dir_all(new).map_err(|error| Error::writing(new, &error))
}
