//! How much of what a mail message allows is taken for sense.

/// Limits beyond which a message is nonsense, or harm, rather than data.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Levels of parts within parts of a mail message.
    pub deepest: usize,
    /// Parts of a mail message.
    pub most_parts: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Limits { deepest: 100, most_parts: 10_000 }
    }
}
