//! Where the rows of a command go.

use std::path::{Path, PathBuf};

use ypogram_io::{Error, IfThere, Result, Target};

/// The file that was named, else standard output.
pub(crate) fn target_of(output: Option<&PathBuf>, force: bool) -> Target {
    target_if(output, IfThere::of_force(force))
}

/// The same with more to say of what is there.
pub(crate) fn target_if(output: Option<&PathBuf>, if_there: IfThere) -> Target {
    match output {
        Some(path) if path != Path::new("-") => Target::File { path: path.clone(), if_there },
        _ => Target::Standard,
    }
}

/// Refuses standard output for what is more than one stream of data: `what`, such as ‘a folder of files’.
///
/// # Errors
/// Where `path` is `-`; `hint` says what to do.
pub(crate) fn refuse_standard(path: &Path, what: &str, hint: &str) -> Result<()> {
    match path == Path::new("-") {
        true => Err(Error::output(format!("standard output cannot hold {what}"), hint)),
        false => Ok(()),
    }
}
