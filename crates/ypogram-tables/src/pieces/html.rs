//! Web pages: the text between tags and the values of attributes, as they stand. Character references are left to whoever
//! looks for addresses, so that every place is exact.

use crate::pieces::Segment;

/// Calls `see` with the page's texts and attribute values. Addresses can hide in comments and scripts as well, so these
/// are texts like others; only the tags themselves separate.
pub(crate) fn segments(
    page: &[u8],
    start: usize,
    field: &str,
    record: Option<u64>,
    see: &mut dyn FnMut(Segment<'_>),
) {
    // Tags and attributes end at characters that no address goes over: `<`, `>`, quotes. The page is one text.
    see(Segment::plain(page, start, field, record));
}
