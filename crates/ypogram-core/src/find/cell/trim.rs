//! White space around a stretch of a cell.

use crate::characters::bytes;
use crate::model::span::Span;

/// `span` without white space at its ends.
pub(super) fn trimmed(text: &[u8], span: Span) -> Span {
    let inner = bytes::trim(span.of(text));
    let start = bytes::offset_in(text, inner);
    Span::new(start, start + inner.len())
}
