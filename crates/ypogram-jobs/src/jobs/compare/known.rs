//! What is known, by source.

use std::path::PathBuf;
use std::sync::Arc;

use crate::engine::digests::Digests;

/// What is known, by source.
pub(super) struct Known {
    /// Of each source its name, how many records it has, and its hashes where it holds only these.
    pub(super) sources: Vec<KnownSource>,
    /// The sources whose records can be read.
    pub(super) paths: Vec<PathBuf>,
}

pub(super) struct KnownSource {
    pub(super) name: String,
    pub(super) records: u64,
    pub(super) hashed: Option<Arc<Digests>>,
}

impl Known {
    /// The source of the known record of that number, and its number there.
    pub(super) fn place_of(&self, record: u64) -> (&str, u64) {
        let mut before = 0;
        for source in self.sources.iter().filter(|source| source.hashed.is_none()) {
            if record <= before + source.records {
                return (&source.name, record - before);
            }
            before += source.records;
        }
        ("", record)
    }

    /// The name of the source of hashes at that place among such.
    pub(super) fn name_of_hashed(&self, place: usize) -> &str {
        let mut hashed = self.sources.iter().filter(|source| source.hashed.is_some());
        hashed.nth(place).map_or("", |source| &source.name)
    }
}
