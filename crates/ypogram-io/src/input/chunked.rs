//! A source over chunks: what every format has in common that is cut by borders.

use tempfile::TempDir;

use crate::input::borders::Chunks;
use crate::records::chunk::Chunk;
use crate::records::error::Result;
use crate::records::fingerprint::Fingerprint;
use crate::records::source::{Decode, Schema, Source};

/// Chunks with their fields, and a way to make decoders.
pub(crate) struct ChunkedSource {
    pub(crate) chunks: Chunks,
    pub(crate) schema: Schema,
    pub(crate) make_decoder: Box<dyn Fn() -> Box<dyn Decode> + Send>,
    /// Where a copy lies that is read in place of the source; removed with it.
    pub(crate) _kept: Option<TempDir>,
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

    fn fingerprint(&self) -> Fingerprint {
        self.chunks.fingerprint()
    }
}
