//! A source as a file that can be read at any place.

use std::path::PathBuf;

use tempfile::TempDir;

use crate::records::fingerprint::Fingerprint;

/// A file of a source on disk, uncompressed.
pub(crate) struct OnDisk {
    pub(crate) path: PathBuf,
    /// Where it was copied to; removed with it.
    pub(crate) copy: Option<TempDir>,
    /// What was read of the source, where it was copied.
    pub(crate) fingerprint: Option<Fingerprint>,
}
