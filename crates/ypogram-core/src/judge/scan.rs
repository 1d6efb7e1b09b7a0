//! What one pass over an address tells before it is judged.

use crate::characters::bytes::{CLASS, DOT, NOT_IN_A_DOT_STRING};

/// What one pass over an address tells whose local part is a plain dot-string.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Scan {
    pub(crate) at: usize,
    /// The classes of the characters in the local part.
    pub(crate) local: u16,
    /// The domain is known to have only letters, digits, hyphens and dots.
    pub(crate) domain_seen: bool,
    /// The hash of the domain as it is written, where it was taken already.
    pub(crate) domain: Option<u64>,
}

impl Scan {
    /// For an @ at `at` behind characters of the classes `local`.
    #[inline]
    pub(crate) fn of(at: usize, local: u16, domain_seen: bool) -> Self {
        Scan { at, local, domain_seen, domain: None }
    }

    /// Whether the local part has a character of these classes.
    #[inline]
    pub(crate) fn has(&self, classes: u16) -> bool {
        self.local & classes != 0
    }

    /// Reads `text` up to its first @; none where something is not plain: another character, a misplaced dot, a wrong
    /// length.
    #[inline]
    pub(crate) fn new(text: &[u8]) -> Option<Self> {
        Scan::before(memchr::memchr(b'@', text)?, text)
    }

    /// The same for a text whose first @ stands at `at`.
    #[inline]
    pub(crate) fn before(at: usize, text: &[u8]) -> Option<Self> {
        // `before` starts as a dot, so that one in the first place counts as double.
        let (mut seen, mut before, mut double) = (0, DOT, 0);
        if at > 64 {
            return None;
        }
        for &b in &text[..at] {
            let class = CLASS[usize::from(b)];
            double |= before & class;
            before = class;
            seen |= class;
        }
        let at_fault = (double | before) & DOT | seen & NOT_IN_A_DOT_STRING;
        (at_fault == 0).then(|| Scan::of(at, seen, false))
    }
}
