//! What was read, so that it can be known again.

use std::fs::File;
use std::io;
use std::path::Path;

/// What was read: how much, and its hash.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Fingerprint {
    /// Bytes read.
    pub bytes: u64,
    /// BLAKE3 of them, in hexadecimal.
    pub blake3: String,
}

impl Fingerprint {
    /// That of a whole file.
    ///
    /// # Errors
    /// Where it cannot be read.
    pub fn of_file(path: &Path) -> io::Result<Self> {
        let mut hasher = blake3::Hasher::new();
        hasher.update_reader(File::open(path)?)?;
        Ok(Fingerprint { bytes: hasher.count(), blake3: hasher.finalize().to_hex().to_string() })
    }
}
