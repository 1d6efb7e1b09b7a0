//! Where `clean` writes where nothing is said.

use std::path::{Path, PathBuf};

use ypogram_io::SourcePlace;

/// `members.csv` is cleaned into `members-cleaned`, in the working directory.
pub(crate) fn default_folder(source: &Path) -> PathBuf {
    let place = SourcePlace::of(source);
    // The table of a database on a server, else the database; a query has no name.
    let is_name = |part: &String| part.chars().all(|c| c.is_alphanumeric() || "_-.".contains(c));
    let part = place.part.as_ref().filter(|part| place.is_on_server() && is_name(part)).map(PathBuf::from);
    let source = part.as_deref().unwrap_or(if place.is_on_server() { &place.file } else { source });
    let stem = source
        .file_stem()
        .filter(|_| source != Path::new("-"))
        .map(|stem| stem.to_string_lossy().into_owned());
    PathBuf::from(stem.map_or_else(|| "cleaned".into(), |stem| format!("{stem}-cleaned")))
}
