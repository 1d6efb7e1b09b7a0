//! Remarks that somebody must not be written to, or that an address is dead.

use smallvec::SmallVec;
use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

use super::words;

/// Whether `text` says, outside its addresses, that nobody must write there or that an address is dead.
///
/// ```
/// use ypogram_core::cell::says_do_not_contact;
/// assert!(says_do_not_contact(b"BOUNCED <tess@host.org>") && says_do_not_contact(b"do-not-mail"));
/// assert!(!says_do_not_contact(b"bounced@host.org") && !says_do_not_contact(b"old friend"));
/// ```
#[inline]
pub fn is_in(text: &[u8]) -> bool {
    // `Rip` is a name; nothing shorter is on the list.
    text.len() >= SHORTEST && is_in_words(text)
}

const SHORTEST: usize = 4;

fn is_in_words(text: &[u8]) -> bool {
    if text.is_ascii() {
        return is_in_folded(text);
    }
    let lossy = String::from_utf8_lossy(text);
    if words::do_not_contact_unspaced().iter().any(|phrase| lossy.contains(phrase)) {
        return true;
    }
    let folded: String = lossy
        .to_lowercase()
        .nfd()
        .filter(|&c| !is_combining_mark(c))
        .map(|c| match c {
            '’' => '\'',
            'ł' => 'l',
            'ø' => 'o',
            c => c,
        })
        .collect();
    is_in_folded(folded.as_bytes())
}

fn is_in_folded(text: &[u8]) -> bool {
    let mut plain: SmallVec<[u8; 128]> = SmallVec::new();
    let mut word_starts: SmallVec<[usize; 24]> = SmallVec::new();
    for token in text.split(|b| {
        b.is_ascii_whitespace() || matches!(b, b'<' | b'>' | b'(' | b')' | b'[' | b']' | b',' | b';')
    }) {
        if token.contains(&b'@') {
            // An address ends a phrase.
            plain.extend_from_slice(b"@ ");
            continue;
        }
        for word in token.split(|b| !(b.is_ascii_alphanumeric() || *b >= 0x80 || matches!(b, b'\'' | b'.'))) {
            let end = word.iter().rposition(|&b| b != b'.' && b != b'\'').map_or(0, |last| last + 1);
            let start = word.iter().position(|&b| b != b'\'' && b != b'.').unwrap_or(end);
            if start < end {
                word_starts.push(plain.len());
                plain.extend(word[start..end].iter().map(u8::to_ascii_lowercase));
                plain.push(b' ');
            }
        }
    }
    word_starts.iter().any(|&start| starts_with_phrase(&plain[start..]))
}

/// Whether words, a space behind each, start with a phrase.
fn starts_with_phrase(words_and_spaces: &[u8]) -> bool {
    let first = memchr::memchr(b' ', words_and_spaces).unwrap_or(words_and_spaces.len());
    let rest = words_and_spaces.get(first + 1..).unwrap_or_default();
    words::do_not_contact_behind(&words_and_spaces[..first]).iter().any(|phrase| {
        phrase.is_empty()
            || rest.strip_prefix(phrase.as_bytes()).is_some_and(|behind| behind.first() == Some(&b' '))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn remarks_that_say_so() {
        for text in [
            "BOUNCED <tess@h.org>",
            "tess@h.org (deceased)",
            "Do Not Mail tess@h.org",
            "do_not-contact",
            "DON’T EMAIL",
            "bitte nicht mehr anschreiben",
            "Décédée",
            "decedee",
            "no longer valid: a@h.org",
            "配信停止",
            "zmarł",
            "UNSUBSCRIBED!",
        ] {
            assert!(is_in(text.as_bytes()), "{text}");
        }
        for text in [
            "",
            "bounced@h.org",
            "unsubscribe-me@h.org",
            "old address",
            "left the message with Anna",
            "do not a@h.org mail",
            "wants the printed newsletter",
            "ask about lens cleaning",
            "Rip van Winkle",
        ] {
            assert!(!is_in(text.as_bytes()), "{text}");
        }
    }
}
