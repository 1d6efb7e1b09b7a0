//! Outputs that are not whole yet, under names of their own: locked while somebody works on them, so that what a killed run left can be
//! told and removed by the next.

use std::fs::{self, File, TryLockError};
use std::io::{self, Write as _};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};

use tempfile::{NamedTempFile, TempDir};

use crate::output::access::Access;
use crate::records::error::{Error, Result};

/// What the name of a temporary folder starts with.
const TEMPORARY: &str = "ypogram-";

/// A file for what shall stand at `path`, beside it, readable by its owner alone; and who may read it in the end.
///
/// # Errors
/// Where the folder cannot be written to.
pub(super) fn file(path: &Path) -> io::Result<(NamedTempFile, Access)> {
    let (folder, prefix) = (folder_of(path), prefix_for(path));
    clear(folder, &prefix);
    loop {
        let file = builder(&prefix).permissions(ordinary_file()).tempfile_in(folder)?;
        let access = match fs::metadata(path) {
            Ok(replaced) => Access::of(&replaced, true),
            Err(_) => Access::of(&file.as_file().metadata()?, false),
        };
        file.as_file().set_permissions(of_owner_alone())?;
        note(file.path());
        if lock(file.as_file()) && file.path().exists() {
            return Ok((file, access));
        }
    }
}

/// A folder for what shall stand at `path`, beside it, for its owner alone, and the lock on it.
///
/// # Errors
/// Where the folder around it cannot be written to.
pub(super) fn folder(path: &Path, within: &Path) -> io::Result<(TempDir, Option<File>)> {
    let prefix = prefix_for(path);
    clear(within, &prefix);
    loop {
        let folder = builder(&prefix).tempdir_in(within)?;
        note(folder.path());
        let held = File::open(folder.path()).ok();
        if held.as_ref().is_none_or(lock) && folder.path().exists() {
            return Ok((folder, held));
        }
    }
}

/// A folder for what does not fit into memory, for its owner alone; gone when it is dropped, and what killed runs left with it.
///
/// # Errors
/// Where it cannot be made.
pub fn temporary_folder() -> Result<TempDir> {
    // Held until the program ends, since the folder may be handed from one to another.
    static LOCKS: Mutex<Vec<File>> = Mutex::new(Vec::new());
    let within = std::env::temp_dir();
    clear(&within, TEMPORARY);
    let failed = |error: io::Error| Error::temporary(&within, &error);
    loop {
        let folder = builder(TEMPORARY).tempdir_in(&within).map_err(failed)?;
        note(folder.path());
        let held = File::open(folder.path()).ok();
        if held.as_ref().is_none_or(lock) && folder.path().exists() {
            LOCKS.lock().unwrap_or_else(PoisonError::into_inner).extend(held);
            return Ok(folder);
        }
    }
}

/// Removes what killed runs left in the temporary folder, for a run that may make none of its own.
pub fn clear_temporary_leftovers() {
    clear(&std::env::temp_dir(), TEMPORARY);
}

/// Locks what was just made, until it is closed. Not where another run has it, which takes it for a leftover and removes it.
fn lock(made: &File) -> bool {
    // Some file systems know no locks; there nobody removes leftovers.
    !matches!(made.try_lock(), Err(TryLockError::WouldBlock))
}

/// What is unfinished in this run, for an end that lets nothing clean up.
static UNFINISHED: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

/// Held while outputs are put into their place: no end comes between.
static PUBLISHING: Mutex<()> = Mutex::new(());

fn note(path: &Path) {
    UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner).push(path.to_path_buf());
}

/// While this is held, [remove_unfinished] waits.
pub(super) fn publishing() -> MutexGuard<'static, ()> {
    PUBLISHING.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Removes what is unfinished in this run, just before it ends: what is published by then has another name, and nothing is published
/// after it.
pub fn remove_unfinished() {
    std::mem::forget(publishing());
    for path in UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner).drain(..) {
        let _ = if path.is_dir() { fs::remove_dir_all(&path) } else { fs::remove_file(&path) };
    }
}

/// Makes a file for what does not fit into memory, for its owner alone.
///
/// # Errors
/// Where it is there already, or cannot be made.
pub fn private_file(path: &Path) -> io::Result<File> {
    let mut options = File::options();
    options.create_new(true).read(true).write(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options.open(path)
}

/// Writes a file that its owner alone can read, and that is never overwritten, because of `why`.
///
/// # Errors
/// Where it is there already, or cannot be written: then nothing of it is left.
pub fn write_private(path: &Path, bytes: &[u8], why: &str) -> Result<()> {
    let mut file = private_file(path).map_err(|error| match error.kind() {
        io::ErrorKind::AlreadyExists => Error::output(
            format!("{}: there is such a file already", path.display()),
            format!("it is never overwritten, since {why}; choose another name"),
        ),
        _ => Error::writing(path, &error),
    })?;
    let written = file.write_all(bytes).and_then(|()| file.sync_all());
    written.map_err(|error| {
        let _ = fs::remove_file(path);
        Error::writing(path, &error)
    })
}

fn builder(prefix: &str) -> tempfile::Builder<'_, 'static> {
    let mut builder = tempfile::Builder::new();
    builder.prefix(prefix);
    builder
}

fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

/// What the names of unfinished outputs for `path` start with.
fn prefix_for(path: &Path) -> String {
    let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    format!(".{name}.partial-")
}

/// Removes what killed runs left beside `path`.
pub(super) fn clear_beside(path: &Path) {
    clear(folder_of(path), &prefix_for(path));
}

/// Removes what killed runs left: names that start with `prefix`, ours, and locked by nobody.
fn clear(folder: &Path, prefix: &str) {
    let Ok(entries) = fs::read_dir(folder) else { return };
    for entry in entries.flatten().filter(|entry| entry.file_name().to_string_lossy().starts_with(prefix)) {
        let path = entry.path();
        let Ok(left) = File::open(&path) else { continue };
        let Ok(metadata) = left.metadata() else { continue };
        if !is_ours(&metadata) || left.try_lock().is_err() {
            continue;
        }
        let _ = if metadata.is_dir() { fs::remove_dir_all(&path) } else { fs::remove_file(&path) };
    }
}

#[cfg(unix)]
fn is_ours(metadata: &fs::Metadata) -> bool {
    use std::os::unix::fs::MetadataExt as _;
    metadata.uid() == rustix::process::geteuid().as_raw()
}

/// Where that is not known, nothing is removed.
#[cfg(not(unix))]
fn is_ours(_: &fs::Metadata) -> bool {
    false
}

#[cfg(unix)]
fn ordinary_file() -> fs::Permissions {
    use std::os::unix::fs::PermissionsExt as _;
    // The process mask still applies.
    fs::Permissions::from_mode(0o666)
}

#[cfg(unix)]
fn of_owner_alone() -> fs::Permissions {
    use std::os::unix::fs::PermissionsExt as _;
    fs::Permissions::from_mode(0o600)
}

#[cfg(not(unix))]
fn ordinary_file() -> fs::Permissions {
    fs::metadata(".").map(|metadata| metadata.permissions()).expect("the working directory is there")
}

#[cfg(not(unix))]
fn of_owner_alone() -> fs::Permissions {
    ordinary_file()
}
