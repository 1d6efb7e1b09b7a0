//! Letter case folded, and what needs no quotes.

use unicode_normalization::UnicodeNormalization;

use crate::characters::bytes::{self, ATEXT, DOT, HIGH};

/// `text` in lower case and composed (NFC): a fixed point, so that folding twice changes nothing.
pub(crate) fn folded(text: &str) -> String {
    if text.is_ascii() {
        return text.to_ascii_lowercase();
    }
    let mut now: String = text.nfc().collect::<String>().to_lowercase().nfc().collect();
    for _ in 0..4 {
        let next: String = now.to_lowercase().nfc().collect();
        if next == now {
            break;
        }
        now = next;
    }
    now
}

/// Whether `text` may stand as a local part without quotes (RFC 5321 §4.1.2 *Dot-string*, with RFC 6531).
pub(crate) fn is_dot_string(text: &[u8]) -> bool {
    let of_atoms = text.iter().all(|&b| bytes::is(b, ATEXT | DOT | HIGH));
    of_atoms && text.split(|&b| b == b'.').all(|atom| !atom.is_empty())
}
