//! Where something stands: a half-open range of byte offsets.

use std::ops::Range;

use serde::Serialize;

/// A half-open range of byte offsets, `start..end`.
///
/// ```
/// use ypogram_core::Span;
/// assert_eq!(Span::new(2, 5).of(b"a@host"), b"hos");
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
pub struct Span {
    /// Offset of the first byte.
    pub start: usize,
    /// Offset behind the last byte.
    pub end: usize,
}

impl Span {
    /// The range `start..end`.
    pub const fn new(start: usize, end: usize) -> Self {
        Span { start, end }
    }

    /// The bytes of `text` in this range.
    pub fn of(self, text: &[u8]) -> &[u8] {
        &text[self.start..self.end]
    }

    /// The same range, `by` bytes further right.
    pub const fn shifted(self, by: usize) -> Self {
        Span { start: self.start + by, end: self.end + by }
    }

    /// How many bytes the range has.
    pub const fn len(self) -> usize {
        self.end - self.start
    }

    /// Whether the range has no bytes.
    pub const fn is_empty(self) -> bool {
        self.start == self.end
    }
}

impl From<Range<usize>> for Span {
    fn from(range: Range<usize>) -> Self {
        Span::new(range.start, range.end)
    }
}
