//! Where `clean` writes where nothing is said.

use std::path::{Path, PathBuf};

/// `members.csv` is cleaned into `members-cleaned`, in the working directory.
pub(crate) fn default_folder(source: &Path) -> PathBuf {
    let stem = source
        .file_stem()
        .filter(|_| source != Path::new("-"))
        .map(|stem| stem.to_string_lossy().into_owned());
    PathBuf::from(stem.map_or_else(|| "cleaned".into(), |stem| format!("{stem}-cleaned")))
}
