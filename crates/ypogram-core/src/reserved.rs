//! Names that no mailbox on the public Internet can have (RFC 2606, 6761, 6762, 7686, 8375, 9476).

include!(concat!(env!("OUT_DIR"), "/reserved.rs"));

/// The reserved name that `domain` (lower-case A-labels) is or lies below, with the standard that reserves it.
///
/// ```
/// use ypogram_core::reserved;
/// assert_eq!(reserved::find(b"mail.example.org"), Some(("example.org", "RFC 2606 §3")));
/// assert_eq!(reserved::find(b"myexample.org"), None);
/// ```
pub fn find(domain: &[u8]) -> Option<(&'static str, &'static str)> {
    RESERVED.iter().copied().find(|(name, _)| is_or_below(domain, name.as_bytes()))
}

/// Whether `domain` is `name` or lies below it; never by mere ending.
pub(crate) fn is_or_below(domain: &[u8], name: &[u8]) -> bool {
    domain.strip_suffix(name).is_some_and(|before| before.is_empty() || before.ends_with(b"."))
}
