//! A source over chunks: what every format has in common that is cut by borders.

use tempfile::TempDir;

use crate::input::borders::Chunks;
use crate::input::encoding::{Guess, Guessed};
use crate::records::chunk::Chunk;
use crate::records::error::Result;
use crate::records::fingerprint::Fingerprint;
use crate::records::source::{Decode, Schema, Source};

/// Chunks with their fields, and a way to make decoders.
pub(crate) struct ChunkedSource {
    pub(crate) chunks: Chunks,
    pub(crate) schema: Schema,
    pub(crate) make_decoder: Box<dyn Fn() -> Box<dyn Decode> + Send>,
    /// Size and hash of the source, where a copy is read in place of it.
    pub(crate) fingerprint: Option<Fingerprint>,
    /// What was guessed of its encoding.
    pub(crate) guessed: Guessed,
    /// Where a copy lies that is read in place of the source; removed with it.
    pub(crate) _kept: Option<TempDir>,
}

impl ChunkedSource {
    /// The same with what is guessed of its encoding.
    pub(crate) fn guessed(self, guessed: Guessed) -> Self {
        ChunkedSource { guessed, ..self }
    }
}

impl Source for ChunkedSource {
    fn schema(&self) -> &Schema {
        &self.schema
    }

    fn name(&self) -> &str {
        self.chunks.name()
    }

    fn next_chunk(&mut self, into: &mut Chunk) -> Result<bool> {
        self.chunks.next(into)
    }

    fn decoder(&self) -> Box<dyn Decode> {
        (self.make_decoder)()
    }

    fn broken_off(&self) -> Option<String> {
        self.chunks.broken_off()
    }

    fn remarks(&self) -> Vec<String> {
        self.guessed.get().and_then(Guess::remark).into_iter().collect()
    }

    fn fingerprint(&self) -> Fingerprint {
        self.fingerprint.clone().unwrap_or_else(|| self.chunks.fingerprint())
    }
}
