//! What each byte may be in an address: one table look-up instead of chains of comparisons.

/// May stand unquoted in a local part (RFC 5322 §3.2.3 *atext*).
pub(crate) const ATEXT: u16 = 1;
/// A letter, digit or hyphen (RFC 5321 §4.1.2 *Let-dig*, *Ldh-str*).
pub(crate) const LDH: u16 = 1 << 1;
/// An ASCII capital.
pub(crate) const UPPER: u16 = 1 << 2;
/// The full stop.
pub(crate) const DOT: u16 = 1 << 3;
/// ASCII white space.
pub(crate) const SPACE: u16 = 1 << 4;
/// An ASCII control character.
pub(crate) const CONTROL: u16 = 1 << 5;
/// Part of a UTF-8 sequence (or of something that is not UTF-8).
pub(crate) const HIGH: u16 = 1 << 6;

/// The plus sign, the usual separator of tags.
pub(crate) const PLUS: u16 = 1 << 7;
/// A sign that may stand in a local part, yet in running text rather separates it from what is glued in front; and the
/// percent sign, which may start an escape.
pub(crate) const SEPARATES: u16 = 1 << 8;
/// The hyphen.
pub(crate) const HYPHEN: u16 = 1 << 9;
/// White space, a quote or a bracket that opens something: a web address does not reach over it.
pub(crate) const BORDER: u16 = 1 << 11;

/// Neither *atext* nor the full stop.
pub(crate) const NOT_IN_A_DOT_STRING: u16 = 1 << 10;

/// The classes of every byte, as an or of the constants above.
pub(crate) static CLASS: [u16; 256] = {
    let mut table = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        let b = byte as u8;
        let mut class = 0;
        if b.is_ascii_alphanumeric() || is_one_of(b, b"!#$%&'*+-/=?^_`{|}~") {
            class |= ATEXT;
        }
        if b.is_ascii_alphanumeric() || b == b'-' {
            class |= LDH;
        }
        if b.is_ascii_uppercase() {
            class |= UPPER;
        }
        if b == b'.' {
            class |= DOT;
        }
        if is_one_of(b, b" \t\r\n\x0b\x0c") {
            class |= SPACE;
        }
        if b.is_ascii_control() {
            class |= CONTROL;
        }
        if b >= 0x80 {
            class |= HIGH;
        }
        if b == b'+' {
            class |= PLUS;
        }
        if b == b'-' {
            class |= HYPHEN;
        }
        if is_one_of(b, b"!#$%*/=?^`{|}~&") {
            class |= SEPARATES;
        }
        if b.is_ascii_whitespace() || is_one_of(b, b"<>\"'([") {
            class |= BORDER;
        }
        if class & (ATEXT | DOT) == 0 {
            class |= NOT_IN_A_DOT_STRING;
        }
        table[byte] = class;
        byte += 1;
    }
    table
};

const fn is_one_of(b: u8, set: &[u8]) -> bool {
    let mut i = 0;
    while i < set.len() {
        if set[i] == b {
            return true;
        }
        i += 1;
    }
    false
}

/// Whether `b` is of one of the classes in `mask`.
#[inline]
pub(crate) fn is(b: u8, mask: u16) -> bool {
    CLASS[b as usize] & mask != 0
}

/// The classes of all of `text` together.
pub(crate) fn classes(text: &[u8]) -> u16 {
    text.iter().fold(0, |seen, &b| seen | CLASS[usize::from(b)])
}

/// Whether the set of ASCII characters `set`, one bit each, has `b`.
#[inline]
pub(crate) fn is_in(set: u128, b: u8) -> bool {
    let half = if b < 64 { set as u64 } else { (set >> 64) as u64 };
    b < 128 && half >> (b & 63) & 1 == 1
}

/// Whether a character separates words: any Unicode white space, the no-break space included.
pub(crate) fn is_space_char(c: char) -> bool {
    c.is_whitespace() || c == '\u{FEFF}'
}

/// Characters that show nothing and that copying leaves behind: soft hyphen, zero-width ones, joiners, marks of direction,
/// byte-order mark.
pub(crate) fn is_invisible(c: char) -> bool {
    matches!(c, '\u{AD}' | '\u{34F}' | '\u{61C}' | '\u{180E}' | '\u{200B}'..='\u{200F}' | '\u{2060}'..='\u{2064}' | '\u{FE00}'..='\u{FE0F}' | '\u{FEFF}')
}

/// Characters that turn the direction of writing, so that a text shows other than it reads (UAX #9).
pub(crate) fn is_bidi_control(c: char) -> bool {
    matches!(c, '\u{202A}'..='\u{202E}' | '\u{2066}'..='\u{2069}')
}

/// The character at the start of `bytes` and its length; `None` where it is not UTF-8.
pub(crate) fn first_char(bytes: &[u8]) -> Option<(char, usize)> {
    let width = match bytes.first()? {
        0..=0x7F => 1,
        0xC2..=0xDF => 2,
        0xE0..=0xEF => 3,
        0xF0..=0xF4 => 4,
        _ => return None,
    };
    let c = std::str::from_utf8(bytes.get(..width)?).ok()?.chars().next()?;
    Some((c, width))
}

/// The character at the end of `bytes` and its length; `None` where it is not UTF-8.
pub(crate) fn last_char(bytes: &[u8]) -> Option<(char, usize)> {
    let least = bytes.len().saturating_sub(4);
    (least..bytes.len()).rev().find(|&i| bytes[i] & 0xC0 != 0x80).and_then(|i| {
        let (c, width) = first_char(&bytes[i..])?;
        (i + width == bytes.len()).then_some((c, width))
    })
}

/// `bytes` without white space at its ends.
pub(crate) fn trim(mut bytes: &[u8]) -> &[u8] {
    // Most have none, and ASCII at their ends.
    let settled = |end: Option<&u8>| end.is_none_or(|&b| b < 0x80 && !is(b, SPACE));
    while !settled(bytes.first())
        && let Some((c, width)) = first_char(bytes)
        && is_space_char(c)
    {
        bytes = &bytes[width..];
    }
    while !settled(bytes.last())
        && let Some((c, width)) = last_char(bytes)
        && is_space_char(c)
    {
        bytes = &bytes[..bytes.len() - width];
    }
    bytes
}

/// Where `part`, a slice of `whole`, starts in it.
pub(crate) fn offset_in(whole: &[u8], part: &[u8]) -> usize {
    let offset = (part.as_ptr() as usize).wrapping_sub(whole.as_ptr() as usize);
    debug_assert!(offset + part.len() <= whole.len());
    offset
}

/// A character as a message shows it: itself where it shows, else its code point.
pub(crate) fn shown(c: char) -> String {
    match c {
        ' ' => "a space".to_owned(),
        '\t' => "a tab".to_owned(),
        '\n' | '\r' => "a line break".to_owned(),
        '\u{A0}' => "a no-break space (U+00A0)".to_owned(),
        c if c.is_control() || is_invisible(c) || is_bidi_control(c) || c.is_whitespace() => {
            format!("U+{:04X}", c as u32)
        }
        c if c.is_ascii() => format!("‘{c}’"),
        c => format!("‘{c}’ (U+{:04X})", c as u32),
    }
}

pub(crate) fn ends_ignoring_case(text: &[u8], end: &[u8]) -> bool {
    text.len() >= end.len() && text[text.len() - end.len()..].eq_ignore_ascii_case(end)
}
