//! Bytes from a file or from standard input, hashed and counted while they are read.

use std::fs::File;
use std::io::{self, Read};
use std::path::{Path, PathBuf};

use crate::error::{Error, Result};

/// What was read: how much, and its hash.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fingerprint {
    /// Octets read.
    pub octets: u64,
    /// BLAKE3 of them, in hexadecimal.
    pub blake3: String,
}

/// An open input.
pub struct Input {
    reader: Box<dyn Read + Send>,
    /// The name to call it by.
    pub name: String,
    /// Its size in octets, where that is known beforehand.
    pub octets: Option<u64>,
    hasher: blake3::Hasher,
    read: u64,
}

impl Input {
    /// Opens the file at `path`, or standard input where that is `-`.
    ///
    /// # Errors
    /// Where it is missing, a folder, or may not be read.
    pub fn open(path: &Path) -> Result<Self> {
        if path == Path::new("-") {
            return Ok(Input::new(Box::new(io::stdin()), "standard input".into(), None));
        }
        let name = path.display().to_string();
        let metadata = std::fs::metadata(path).map_err(|error| match error.kind() {
            io::ErrorKind::NotFound => {
                Error::unusable(format!("{name}: there is no such file"), look_around(path))
            }
            _ => Error::reading(&name, &error),
        })?;
        if metadata.is_dir() {
            return Err(Error::unusable(
                format!("{name}: this is a folder"),
                "name the files in it that are meant",
            ));
        }
        let file = File::open(path).map_err(|error| Error::reading(&name, &error))?;
        let octets = metadata.is_file().then_some(metadata.len());
        Ok(Input::new(Box::new(file), name, octets))
    }

    /// An input over any reader.
    pub fn new(reader: Box<dyn Read + Send>, name: String, octets: Option<u64>) -> Self {
        Input { reader, name, octets, hasher: blake3::Hasher::new(), read: 0 }
    }

    /// Appends up to `most` octets to `buffer`, as many as there are; tells how many. 0 is the end.
    ///
    /// # Errors
    /// Where the input cannot be read.
    pub fn fill(&mut self, buffer: &mut Vec<u8>, most: usize) -> Result<usize> {
        let before = buffer.len();
        (&mut self.reader)
            .take(most as u64)
            .read_to_end(buffer)
            .map_err(|error| Error::reading(&self.name, &error))?;
        let new = &buffer[before..];
        self.hasher.update(new);
        self.read += new.len() as u64;
        Ok(new.len())
    }

    /// What was read so far.
    pub fn fingerprint(&self) -> Fingerprint {
        Fingerprint { octets: self.read, blake3: self.hasher.finalize().to_hex().to_string() }
    }
}

/// Files beside the missing one whose names start alike, to name them in the hint.
fn look_around(path: &Path) -> String {
    let folder = path
        .parent()
        .filter(|p| !p.as_os_str().is_empty())
        .map_or_else(|| PathBuf::from("."), Path::to_path_buf);
    let Some(stem) = path.file_stem().and_then(|s| s.to_str()) else { return String::new() };
    let start: String = stem.chars().take(3).collect();
    let Ok(entries) = std::fs::read_dir(&folder) else {
        return format!("the folder {} does not exist either", folder.display());
    };
    let mut alike: Vec<String> = entries
        .flatten()
        .filter(|entry| entry.path().is_file())
        .filter_map(|entry| entry.file_name().into_string().ok())
        .filter(|name| name.starts_with(&start))
        .collect();
    alike.sort_unstable();
    alike.truncate(3);
    if alike.is_empty() {
        "see whether the path is right".into()
    } else {
        format!("beside it there is {}", alike.join(", "))
    }
}
