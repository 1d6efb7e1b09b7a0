//! How much of what a format allows is taken for sense.

use crate::input::borders::LONGEST_RECORD;

/// Limits beyond which an input is nonsense, or harm, rather than data.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Bytes of a record of a table.
    pub longest_record: usize,
    /// Levels of parts within parts of a mail message.
    pub deepest: usize,
    /// Parts of a mail message.
    pub most_parts: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Limits { longest_record: LONGEST_RECORD, deepest: 100, most_parts: 10_000 }
    }
}
