//! The answers that a job judges by, while it runs.

use std::path::PathBuf;
use std::sync::Arc;

use tempfile::TempDir;
use ypogram_io::Result;
use ypogram_jobs::dns::{self, Answers};

/// The answers that a job judges by.
#[derive(Debug)]
pub(crate) struct Dns {
    pub(crate) answers: Arc<Answers>,
    /// What a summary tells of them.
    pub(crate) told: String,
    /// Sources that can be read but once, and where they were put.
    pub(crate) kept: Vec<(PathBuf, PathBuf)>,
    /// Where that is, for as long as it is needed.
    #[allow(dead_code, reason = "it is removed with this")]
    pub(super) folder: Option<TempDir>,
    /// Where what is found out one by one is kept.
    pub(super) cache: Option<PathBuf>,
}

impl Dns {
    /// Keeps what was found out while values were judged.
    ///
    /// # Errors
    /// Where the file cannot be written.
    pub(crate) fn keep(&self) -> Result<()> {
        match &self.cache {
            Some(cache) => dns::add_to(cache, &self.answers.learnt()),
            None => Ok(()),
        }
    }
}
