//! All outputs of a job put into their places: from one moment on they count, and whatever is left to do is done by the next run.

use std::fs;
use std::io::{self, Read as _};
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use ypogram_io::{DatabaseUpdate, Error, OutputFile, OutputFolder, Result};
use ypogram_jobs::clean;

use crate::job::staging::{Staging, published_folder, staged, staged_database, table_of};

/// What is to be put where, in the folder of the job.
const JOURNAL: &str = "publishing.json";

#[derive(Debug, Deserialize, Serialize)]
struct Journal {
    /// Files and folders, as they are meant from the rulebook's folder.
    outputs: Vec<PathBuf>,
    /// Databases that get tables.
    #[serde(default)]
    databases: Vec<PathBuf>,
}

/// Publishes those of `outputs` of the job that there are, the receipt last.
///
/// # Errors
/// Where something cannot be written. What was published then is named.
pub(crate) fn publish(staging: Staging, job: &str, outputs: impl Iterator<Item = PathBuf>) -> Result<()> {
    let Staging { folder, root, home, .. } = staging;
    let mut journal = Journal { outputs: Vec::new(), databases: Vec::new() };
    for output in outputs {
        match table_of(&output, &home) {
            Some((file, _)) if !journal.databases.contains(&file) => journal.databases.push(file),
            Some(_) => {}
            None if root.join(staged(&output, &home)).exists() => journal.outputs.push(output),
            None => {}
        }
    }
    // What cannot be written is told while all is as it was.
    journal.outputs.iter().chain(&journal.databases).try_for_each(|path| make_folder_of(&home.join(path)))?;
    let updates = updates(&journal, &root, &home)?;
    let writing = |error: io::Error| Error::writing(&root.join(JOURNAL), &error);
    let text = serde_json::to_vec(&journal).expect("plain data");
    fs::write(root.join(JOURNAL), text).map_err(writing)?;
    // From here on the new outputs count.
    folder.publish(Vec::new(), |_| Ok(Vec::new()))?;
    finish(&journal, updates, &published_folder(&home, job), &home)
}

/// The databases that are there, with their new tables, which do not count yet.
fn updates(journal: &Journal, place: &Path, home: &Path) -> Result<Vec<DatabaseUpdate>> {
    let mut updates = Vec::new();
    for database in &journal.databases {
        let (new, old) = (place.join(staged_database(database)), home.join(database));
        if new.exists() && old.exists() {
            let mut update = DatabaseUpdate::begin(&old)?;
            update.take_tables(&new)?;
            updates.push(update);
        }
    }
    Ok(updates)
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
    let updates = updates(&journal, &place, home)?;
    finish(&journal, updates, &place, home)
}

/// Every step can be repeated.
fn finish(journal: &Journal, updates: Vec<DatabaseUpdate>, place: &Path, home: &Path) -> Result<()> {
    for output in &journal.outputs {
        let (new, old) = (place.join(staged(output, home)), home.join(output));
        let put = match new.symlink_metadata() {
            Ok(metadata) if metadata.is_dir() => put_folder(&new, &old),
            Ok(_) => put_file(&new, &old),
            // It is there already.
            Err(_) => Ok(()),
        };
        put?;
    }
    updates.into_iter().try_for_each(DatabaseUpdate::commit)?;
    for database in &journal.databases {
        let (new, old) = (place.join(staged_database(database)), home.join(database));
        if new.exists() && !old.exists() {
            put_file(&new, &old)?;
        }
    }
    fs::remove_dir_all(place).map_err(|error| Error::writing(place, &error))
}

fn make_folder_of(path: &Path) -> Result<()> {
    match path.parent() {
        Some(around) => fs::create_dir_all(around).map_err(|error| Error::writing(around, &error)),
        None => Ok(()),
    }
}

fn put_file(new: &Path, old: &Path) -> Result<()> {
    let writing = |error: io::Error| Error::writing(old, &error);
    if let Ok(replaced) = fs::metadata(old) {
        fs::set_permissions(new, replaced.permissions()).map_err(writing)?;
    }
    match fs::rename(new, old) {
        Err(error) if error.kind() == io::ErrorKind::CrossesDevices => copy_file(new, old),
        result => result.map_err(writing),
    }
}

/// Puts a file onto another disk, where it appears whole all the same.
fn copy_file(new: &Path, old: &Path) -> Result<()> {
    let reading = |error: io::Error| Error::writing(new, &error);
    let mut source = fs::File::open(new).map_err(reading)?;
    let mut copy = OutputFile::create(old)?;
    let mut block = vec![0; 1 << 16];
    loop {
        match source.read(&mut block).map_err(reading)? {
            0 => break,
            read => copy.write(&block[..read])?,
        }
    }
    copy.sync()?;
    copy.publish()?;
    fs::remove_file(new).map_err(reading)
}

/// Other files that are in the folder stay, and what an earlier run left there goes.
fn put_folder(new: &Path, old: &Path) -> Result<()> {
    let mut folder = OutputFolder::prepare(old, true, clean::earlier_outputs, &clean::earlier_outputs(new)?)?;
    folder.adopt(new)?;
    folder.publish(Vec::new(), clean::earlier_outputs)?;
    fs::remove_dir_all(new).map_err(|error| Error::writing(new, &error))
}
