//! How far a domain reaches behind its @.

use crate::characters::bytes::{self, CLASS, DOT, HIGH, HYPHEN, LDH};

/// The word behind an @, as far as it can be a domain.
pub(super) struct Word {
    pub(super) end: usize,
    /// The classes of its characters.
    pub(super) seen: u16,
    /// The last dot in it, counted from its start.
    pub(super) last_dot: Option<usize>,
}

impl Word {
    pub(super) fn has_two_labels(&self) -> bool {
        self.last_dot.is_some() || self.seen & HIGH != 0
    }
}

#[inline]
pub(super) fn word_after(text: &[u8], start: usize) -> Word {
    let most = text.len().min(start + 1024);
    // A dot in the first place counts as one too many.
    let (mut end, mut seen, mut before, mut twice, mut dot) = (start, 0, DOT, 0, None);
    while end < most {
        let class = CLASS[usize::from(text[end])];
        if class & (LDH | DOT) == 0 {
            break;
        }
        twice |= class & before & (DOT | HYPHEN);
        seen |= class;
        before = class;
        dot = if class & DOT != 0 { Some(end - start) } else { dot };
        end += 1;
    }
    let goes_on = text.get(end).is_some_and(|&b| end == most || bytes::is(b, HIGH));
    if twice != 0 || goes_on {
        return odd_word_after(text, start);
    }
    while end > start && matches!(text[end - 1], b'-' | b'.') {
        end -= 1;
        if dot == Some(end - start) {
            dot = memchr::memrchr(b'.', &text[start..end]);
        }
    }
    Word { end, seen, last_dot: dot }
}

/// Like [`word_after`] where letters outside ASCII, dashes or doubled dots have to be looked at.
#[cold]
fn odd_word_after(text: &[u8], start: usize) -> Word {
    let end = domain_end(text, start);
    let word = &text[start..end];
    Word { end, seen: bytes::classes(word), last_dot: memchr::memrchr(b'.', word) }
}

/// Where the word behind the @ ends, as far as it can be a domain.
fn domain_end(text: &[u8], start: usize) -> usize {
    let mut end = start;
    let mut dash = false;
    while end < text.len() && end - start <= 1024 {
        let b = text[end];
        dash |= b == b'-' && text.get(end + 1) == Some(&b'-');
        let joins =
            b == b'.' && end > start && text.get(end + 1).is_some_and(|&next| bytes::is(next, LDH | HIGH));
        if bytes::is(b, LDH) || joins {
            end += 1;
        } else if bytes::is(b, HIGH) {
            let Some((c, width)) = bytes::first_char(&text[end..]) else { break };
            let dot = matches!(c, '\u{FF0E}' | '\u{3002}');
            let is_of_word = c.is_alphanumeric() || is_hidden_inside(c) || dot || is_mark(c);
            if !is_of_word && !stands_in_label(&text[start..end], c, &text[end + width..]) {
                break;
            }
            end += width;
        } else {
            break;
        }
    }
    // Two hyphens are a dash, but for those of an A-label.
    let mut dashes = (start..end.saturating_sub(1)).filter(|&i| &text[i..i + 2] == b"--");
    let is_a_label = |dash: usize| {
        let before = &text[start..dash];
        before.eq_ignore_ascii_case(b"xn")
            || before.len() > 2 && before[before.len() - 3..].eq_ignore_ascii_case(b".xn")
    };
    if dash && let Some(dash) = dashes.find(|&dash| !is_a_label(dash)) {
        end = dash;
    }
    while end > start && matches!(text[end - 1], b'-' | b'.') {
        end -= 1;
    }
    end
}

/// Whether a sign that is no letter may stand there in a domain, between its letters (RFC 5892 Appendix A.3 to A.7): `col·lega.cat`.
fn stands_in_label(before: &[u8], c: char, after: &[u8]) -> bool {
    let beside = (bytes::last_char(before).map(|(c, _)| c), bytes::first_char(after).map(|(c, _)| c));
    let is_letter = |c: char| !c.is_ascii() && c.is_alphabetic();
    match (c, beside) {
        ('\u{B7}', (Some('l' | 'L'), Some('l' | 'L'))) => true,
        ('\u{5F3}' | '\u{5F4}' | '\u{30FB}', (Some(before), Some(after))) => {
            is_letter(before) && is_letter(after)
        }
        ('\u{375}', (_, Some(after))) => is_letter(after),
        _ => false,
    }
}

/// Vowel signs and accents that follow their letter.
pub(super) fn is_mark(c: char) -> bool {
    unicode_normalization::char::is_combining_mark(c) && !bytes::is_invisible(c)
}

/// Characters that show nothing, left inside a word by a copy.
pub(super) fn is_hidden_inside(c: char) -> bool {
    matches!(c, '\u{AD}' | '\u{200B}'..='\u{200D}' | '\u{2060}' | '\u{FEFF}') || is_full_width(c)
}

fn is_full_width(c: char) -> bool {
    matches!(c, '\u{FF0E}' | '\u{FF0D}' | '\u{FF3F}' | '\u{FF0B}')
}
