//! Domains in A-labels and in U-labels, by UTS #46.

use std::borrow::Cow;

use idna::uts46::{AsciiDenyList, DnsLength, Hyphens, Uts46};

pub(crate) fn is_a_label(label: &[u8]) -> bool {
    label.get(..4).is_some_and(|prefix| prefix.eq_ignore_ascii_case(b"xn--"))
}

/// Whether the domain has labels that only IDNA can judge.
pub(crate) fn needs_idna(text: &[u8]) -> bool {
    !text.is_ascii() || text.split(|&b| b == b'.').any(is_a_label)
}

/// The domain in A-labels, where the strict rules of IDNA allow it.
pub(crate) fn ascii_of(text: &[u8]) -> Option<String> {
    Uts46::new()
        .to_ascii(text, AsciiDenyList::STD3, Hyphens::Check, DnsLength::Ignore)
        .ok()
        .map(Cow::into_owned)
}

/// The domain as people read it: U-labels where the A-labels decode.
pub(crate) fn to_unicode(ascii: &str) -> String {
    if !needs_idna(ascii.as_bytes()) {
        return ascii.to_owned();
    }
    let (unicode, result) = Uts46::new().to_unicode(ascii.as_bytes(), AsciiDenyList::STD3, Hyphens::Check);
    if result.is_ok() { unicode.into_owned() } else { ascii.to_owned() }
}
