//! Where `clean` writes where nothing is said.

use std::path::{Path, PathBuf};

use ypogram_io::SourcePlace;

/// `members.csv` is cleaned into `members-cleaned`, in the working directory; the table of a database on a server into a folder of its name.
pub(crate) fn default_folder(source: &Path) -> PathBuf {
    let place = SourcePlace::of(source);
    let stem = match (&place.part, place.is_on_server()) {
        (Some(table), true) if !SourcePlace::is_query(table) => Some(table.replace('/', "-")),
        (_, true) => None,
        (_, false) => source
            .file_stem()
            .filter(|_| source != Path::new("-"))
            .map(|stem| stem.to_string_lossy().into_owned()),
    };
    PathBuf::from(stem.map_or_else(|| "cleaned".into(), |stem| format!("{stem}-cleaned")))
}
