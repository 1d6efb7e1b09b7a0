//! Remarks that somebody must not be written to, or that an address is dead.

use unicode_normalization::char::{decompose_canonical, is_combining_mark};

use crate::phrases::cell_words as words;
use crate::phrases::fast::{is_of_word, next_start, starts_in};

/// Whether `text` says, outside its addresses, that nobody must write there or that an address is dead. Words count in any
/// letter case, with or without accents, whatever stands between them.
///
/// ```
/// use ypogram_core::cell::says_do_not_contact;
/// assert!(says_do_not_contact(b"BOUNCED <tess@host.org>") && says_do_not_contact(b"do-not-mail"));
/// assert!(!says_do_not_contact(b"bounced@host.org") && !says_do_not_contact(b"old friend"));
/// ```
#[inline]
pub fn is_in(text: &[u8]) -> bool {
    if text.is_ascii() { is_in_ascii(text) } else { is_in_any(text) }
}

/// The same for the first `len` bytes of `from`: what stands behind them has no meaning, and lets them be read in steps of fixed
/// width.
///
/// ```
/// use ypogram_core::cell::starts_with_do_not_contact;
/// assert!(starts_with_do_not_contact(b"moved, bounces,01632 960413", 14));
/// assert!(!starts_with_do_not_contact(b"moved, bounces,01632 960413", 6));
/// ```
#[inline]
pub fn is_in_start(from: &[u8], len: usize) -> bool {
    let Some(mut starts) = starts_in(from, len) else { return is_in(&from[..len]) };
    while starts != 0 {
        if starts_with_phrase(&from[..len], starts.trailing_zeros() as usize) {
            return true;
        }
        starts &= starts - 1;
    }
    false
}

fn is_in_any(text: &[u8]) -> bool {
    let text = String::from_utf8_lossy(text);
    // Those are of characters from U+3000 on.
    let may_be_unspaced = text.bytes().any(|b| b >= 0xE3);
    if may_be_unspaced && words::do_not_contact_unspaced().iter().any(|phrase| text.contains(phrase)) {
        return true;
    }
    let mut folded = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\0'..='\x7F' => folded.push(c),
            '’' => folded.push('\''),
            'ł' | 'Ł' => folded.push('l'),
            'ø' | 'Ø' => folded.push('o'),
            c => c.to_lowercase().for_each(|lower| {
                decompose_canonical(lower, |part| {
                    if !is_combining_mark(part) {
                        folded.push(part);
                    }
                });
            }),
        }
    }
    is_in_ascii(folded.as_bytes())
}

/// The same for a text without accents.
fn is_in_ascii(text: &[u8]) -> bool {
    let mut from = 0;
    while let Some(start) = next_start(text, from) {
        if starts_with_phrase(text, start) {
            return true;
        }
        from = start + 1;
    }
    false
}

/// Whether a phrase starts at `at` and stands apart from any address.
fn starts_with_phrase(text: &[u8], at: usize) -> bool {
    let mut lower = [0; LONGEST_FIRST];
    let mut len = 0;
    for &b in &text[at..] {
        if !is_of_word(b) && b != b'\'' {
            break;
        }
        let Some(place) = lower.get_mut(len) else { return false };
        *place = b.to_ascii_lowercase();
        len += 1;
    }
    while lower[..len].last() == Some(&b'\'') {
        len -= 1;
    }
    let rests = words::do_not_contact_behind(&lower[..len]);
    rests.iter().filter_map(|rest| end_of(rest, text, at + len)).any(|end| !touches_address(text, at, end))
}

/// No phrase starts with a longer word, in bytes.
const LONGEST_FIRST: usize = 32;

/// Where the words `rest` end that follow from `at` on, in any letter case and with anything but words between them.
fn end_of(rest: &str, text: &[u8], mut at: usize) -> Option<usize> {
    for word in rest.split(' ').filter(|word| !word.is_empty()) {
        at += text[at..].iter().position(|&b| is_of_word(b))?;
        let found = text.get(at..at + word.len())?;
        if !found.eq_ignore_ascii_case(word.as_bytes()) {
            return None;
        }
        at += word.len();
    }
    (!text.get(at).is_some_and(|&b| is_of_word(b))).then_some(at)
}

/// Whether an @ stands in the words from `start` to `end`, or in what touches them.
fn touches_address(text: &[u8], start: usize, end: usize) -> bool {
    let border = |b: &u8| {
        b.is_ascii_whitespace() || matches!(b, b'<' | b'>' | b'(' | b')' | b'[' | b']' | b',' | b';')
    };
    let start = text[..start].iter().rposition(border).map_or(0, |at| at + 1);
    let end = text[end..].iter().position(border).map_or(text.len(), |at| end + at);
    text[start..end].contains(&b'@')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_phrase_is_found() {
        let data = include_str!("../../data/do-not-contact.txt");
        for line in data.lines().filter(|line| !line.starts_with('#')) {
            let phrase = line.split('\t').next().unwrap_or_default();
            let texts = [
                phrase.to_owned(),
                phrase.to_uppercase(),
                format!("Ada ({phrase}), since"),
                phrase.replace(' ', "_"),
            ];
            for text in texts {
                let behind = format!("{text}{:70}", " x");
                assert!(is_in(text.as_bytes()), "{text}");
                assert!(is_in_start(behind.as_bytes(), text.len()), "{text}");
            }
        }
    }

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
            // Wherever it stands.
            for before in 0..70 {
                let text = format!("{}{text}", " x,".repeat(before));
                assert!(is_in(text.as_bytes()), "{text}");
            }
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
            "invalidenstrasse",
            "rebounced",
        ] {
            assert!(!is_in(text.as_bytes()), "{text}");
        }
    }
}
