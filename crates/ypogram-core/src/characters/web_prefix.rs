//! The beginning of web addresses, which addresses of mailboxes get by mistake.

use crate::characters::bytes;

/// Whether an address starts or ends as a web address does.
pub(crate) fn starts_like_web(part: &[u8]) -> bool {
    part.len() > 4 && part[..4].eq_ignore_ascii_case(b"www.") && !bytes::trim(part).is_empty()
}
