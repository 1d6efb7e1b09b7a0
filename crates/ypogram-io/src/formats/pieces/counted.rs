//! What a piece has.

/// What a piece has.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Counted {
    /// Records, of a format that has some.
    pub records: u64,
    /// Lines, where the bytes do not tell.
    pub lines: Option<u64>,
    /// Lines of a table without anything in them.
    pub blank_lines: u64,
    /// Surrogates without the other half of their pair, which are no character (UTF-16, and escapes of JSON).
    pub unpaired: u64,
    /// Mail messages that are past the limits and were read as they stand, without decoding their parts.
    pub undecoded: u64,
}

impl Counted {
    pub(crate) fn records(records: u64) -> Self {
        Counted { records, ..Counted::default() }
    }
}
