//! Where the rows of a command go.

use std::path::{Path, PathBuf};

use ypogram_io::Target;

/// The file that was named, else standard output.
pub(crate) fn target_of(output: Option<&PathBuf>, force: bool) -> Target {
    match output {
        Some(path) if path != Path::new("-") => Target::File { path: path.clone(), replace: force },
        _ => Target::Standard,
    }
}
