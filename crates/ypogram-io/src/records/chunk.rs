//! A piece of a source that holds whole records.

/// A piece of a source that holds whole records. Made by [`crate::Source::next_chunk`] and reused.
#[derive(Debug, Default)]
pub struct Chunk {
    /// The records' bytes, terminators included.
    pub bytes: Vec<u8>,
    /// Its number within the source, from 0.
    pub number: u64,
    /// The number of its source among those of a job; for whoever reads several.
    pub source: usize,
    /// Where its first byte stands in the source.
    pub offset: u64,
    /// Lines of the source that it covers, where its bytes do not tell.
    pub lines: Option<u64>,
    /// About how many bytes of the source it is, where its own tell nothing about that.
    pub source_bytes: Option<u64>,
    /// The input ended inside a record that this chunk ends with.
    pub unclosed: Option<Unclosed>,
}

/// A quote that is never closed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Unclosed {
    /// Line breaks between the start of the chunk and the quote.
    pub lines_before: u64,
}
