//! A file of fuzzed bytes, in memory where the system has a folder for that.

use std::path::{Path, PathBuf};
use std::sync::LazyLock;

use tempfile::TempDir;

static FOLDER: LazyLock<TempDir> = LazyLock::new(|| {
    let in_memory = tempfile::tempdir_in("/dev/shm");
    in_memory.or_else(|_| tempfile::tempdir()).expect("a temporary folder can be made")
});

/// The file `name` with those bytes; the one from before is gone.
///
/// # Panics
/// Where it cannot be written.
pub fn file_of(name: &str, bytes: &[u8]) -> PathBuf {
    let path = Path::join(FOLDER.path(), name);
    std::fs::write(&path, bytes).expect("a small file can be written");
    path
}
