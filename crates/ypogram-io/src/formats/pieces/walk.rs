//! Files in folders, by the usual ignore rules.

use std::path::{Path, PathBuf};

/// A file to read.
#[derive(Clone, Debug)]
pub struct Listed {
    /// Where it lies.
    pub path: PathBuf,
    /// It was named itself rather than found in a folder: then trouble with it is an error.
    pub named: bool,
}

/// The files that `paths` name: themselves, or those in a folder, sorted by name. What cannot be listed is reported beside.
pub fn list_files(paths: &[PathBuf]) -> (Vec<Listed>, Vec<String>) {
    let (mut files, mut troubles) = (Vec::new(), Vec::new());
    for path in paths {
        if !path.is_dir() {
            files.push(Listed { path: path.clone(), named: true });
            continue;
        }
        let walk =
            ignore::WalkBuilder::new(path).sort_by_file_name(std::ffi::OsStr::cmp).require_git(false).build();
        for entry in walk {
            match entry {
                Ok(entry) if entry.file_type().is_some_and(|kind| kind.is_file()) => {
                    files.push(Listed { path: strip_dot(entry.path()), named: false });
                }
                Ok(_) => {}
                Err(error) => troubles.push(error.to_string()),
            }
        }
    }
    (files, troubles)
}

fn strip_dot(path: &Path) -> PathBuf {
    path.strip_prefix("./").unwrap_or(path).to_path_buf()
}
