//! Undoes what copying and exporting does to characters: entities, percent-encoding, invisible and full-width ones.

use smallvec::SmallVec;

use crate::characters::bytes::{self, ATEXT, DOT};
use crate::model::repair::{Repair, Repairs};

/// A text after decoding, and where each of its bytes stood before.
#[derive(Debug)]
pub(crate) struct Decoded {
    pub(crate) text: Vec<u8>,
    /// One entry a byte, and one for the end.
    pub(crate) places: Vec<usize>,
    pub(crate) repairs: Repairs,
}

impl Decoded {
    fn with_capacity(len: usize) -> Self {
        Decoded { text: Vec::with_capacity(len), places: Vec::with_capacity(len + 1), repairs: Repairs::NONE }
    }

    /// This, and `later`, which was made of its text: with places in what this was made of.
    pub(crate) fn then(self, later: Decoded) -> Decoded {
        let places = later.places.iter().map(|&place| self.places[place]).collect();
        Decoded { text: later.text, places, repairs: self.repairs.union(later.repairs) }
    }

    fn push(&mut self, bytes: &[u8], place: usize) {
        self.text.extend_from_slice(bytes);
        self.places.extend(std::iter::repeat_n(place, bytes.len()));
    }

    /// Bytes that stood one after the other from `place` on.
    fn push_each(&mut self, bytes: &[u8], place: usize) {
        self.text.extend_from_slice(bytes);
        self.places.extend(place..place + bytes.len());
    }
}

/// `cell` decoded; none where there is nothing to decode.
pub(crate) fn decode(cell: &[u8]) -> Option<Decoded> {
    if cell.is_ascii() && memchr::memchr3(b'%', b'&', b'<', cell).is_none() {
        return None;
    }
    let percent = memchr::memchr(b'@', cell).is_none() && memchr::memmem::find(cell, b"%40").is_some();
    let entity = memchr::memchr(b'&', cell).is_some() && memchr::memchr(b';', cell).is_some();
    let word_break = memchr::memchr_iter(b'<', cell).any(|at| word_break(&cell[at..]).is_some());
    if !percent && !entity && !word_break && !has_hidden(cell) {
        return None;
    }
    let mut out = Decoded::with_capacity(cell.len());
    let mut i = 0;
    while i < cell.len() {
        let rest = &cell[i..];
        let (width, repair) = one(rest, percent, i, &mut out);
        if let Some(repair) = repair {
            out.repairs.insert(repair);
        }
        i += width;
    }
    out.places.push(cell.len());
    (!out.repairs.is_empty()).then_some(out)
}

/// Whether there are characters that show nothing, or full-width ones; what is not UTF-8 may have some.
fn has_hidden(cell: &[u8]) -> bool {
    let is_hidden = |c: char| !c.is_ascii() && (bytes::is_invisible(c) || narrow(c).is_some());
    !cell.is_ascii() && std::str::from_utf8(cell).map_or(true, |text| text.chars().any(is_hidden))
}

/// Decodes what stands at the start of `rest`; gives how many bytes it took and the repair that was made.
fn one(rest: &[u8], percent: bool, place: usize, out: &mut Decoded) -> (usize, Option<Repair>) {
    if rest[0] == b'&'
        && let Some((c, width)) = entity(rest)
    {
        out.push(c.encode_utf8(&mut [0; 4]).as_bytes(), place);
        return (width, Some(Repair::Entities));
    }
    if let Some(width) = word_break(rest) {
        return (width, Some(Repair::Invisible));
    }
    if percent
        && rest[0] == b'%'
        && let Some(byte) = percent_byte(rest)
    {
        out.push(&[byte], place);
        return (3, Some(Repair::Percent));
    }
    let Some((c, width)) = bytes::first_char(rest) else {
        out.push(&rest[..1], place);
        return (1, None);
    };
    if bytes::is_invisible(c) && !joins_letters(c, rest, width, &out.text) {
        return (width, Some(Repair::Invisible));
    }
    if let Some(narrow) = narrow(c) {
        out.push(&[narrow], place);
        return (width, Some(Repair::FullWidth));
    }
    out.push(&rest[..width], place);
    (width, None)
}

/// Joiners mean something between the letters of some scripts (RFC 5892 Appendix A).
fn joins_letters(c: char, rest: &[u8], width: usize, before: &[u8]) -> bool {
    let outside_ascii = |neighbour: Option<(char, usize)>| neighbour.is_some_and(|(c, _)| !c.is_ascii());
    matches!(c, '\u{200C}' | '\u{200D}')
        && outside_ascii(bytes::last_char(before))
        && outside_ascii(bytes::first_char(&rest[width..]))
}

/// The ordinary character for a full-width or small form.
fn narrow(c: char) -> Option<u8> {
    match c {
        '\u{FF01}'..='\u{FF5E}' => Some((c as u32 - 0xFEE0) as u8),
        '\u{3002}' | '\u{FF61}' | '\u{FE52}' => Some(b'.'),
        '\u{FE6B}' => Some(b'@'),
        '\u{3000}' => Some(b' '),
        _ => None,
    }
}

/// The byte that `%40` and the like stand for.
pub(crate) fn percent_byte(rest: &[u8]) -> Option<u8> {
    let digit = |b: u8| (b as char).to_digit(16);
    match rest {
        [b'%', high, low, ..] => Some((digit(*high)? * 16 + digit(*low)?) as u8),
        _ => None,
    }
}

/// The character reference at the start of `rest`, with its width: numbers, and the few names that occur in addresses.
fn entity(rest: &[u8]) -> Option<(char, usize)> {
    if rest.first() != Some(&b'&') {
        return None;
    }
    let end = memchr::memchr(b';', rest.get(..rest.len().min(12))?)?;
    let name = std::str::from_utf8(&rest[1..end]).ok()?;
    let c = match name {
        "commat" => '@',
        "period" => '.',
        "amp" => '&',
        "lt" => '<',
        "gt" => '>',
        "quot" => '"',
        "apos" => '\'',
        "nbsp" => ' ',
        "hyphen" | "dash" => '-',
        "lowbar" => '_',
        "plus" => '+',
        "shy" => '\u{AD}',
        _ => {
            let number = name.strip_prefix('#')?;
            let code = match number.strip_prefix(['x', 'X']) {
                Some(hex) => u32::from_str_radix(hex, 16).ok()?,
                None => number.parse().ok()?,
            };
            char::from_u32(code).filter(|&c| c != '\0')?
        }
    };
    Some((c, end + 1))
}

/// `text` without its percent-encoding, with the places of its bytes counted from `start`.
pub(crate) fn undo_percent(text: &[u8], start: usize) -> Decoded {
    let mut out = Decoded::with_capacity(text.len());
    let mut i = 0;
    while i < text.len() {
        match percent_byte(&text[i..]) {
            Some(byte) => {
                out.push(&[byte], start + i);
                i += 3;
            }
            None => {
                out.push(&text[i..=i], start + i);
                i += 1;
            }
        }
    }
    out.places.push(start + text.len());
    out.repairs.insert(Repair::Percent);
    out
}

/// `text` without the spaces beside an @ that has a word on both sides, and where those signs then stand; none where there are
/// no such spaces.
pub(crate) fn without_space_around_at(text: &[u8]) -> Option<(Decoded, SmallVec<[usize; 2]>)> {
    let is_blank = |b: Option<&u8>| b.is_some_and(|b| matches!(b, b' ' | b'\t' | 0xA0 | 0xC2));
    let is_beside_blank =
        |at: usize| is_blank(at.checked_sub(1).map(|before| &text[before])) || is_blank(text.get(at + 1));
    if !memchr::memchr_iter(b'@', text).any(is_beside_blank) {
        return None;
    }
    let mut out = Decoded::with_capacity(text.len());
    let mut signs = SmallVec::new();
    let mut from = 0;
    for at in memchr::memchr_iter(b'@', text) {
        let before = trim_blank_end(&text[..at]);
        let after = at + 1 + (text.len() - at - 1 - trim_blank_start(&text[at + 1..]).len());
        let joins = |b: Option<&u8>, others: &[u8]| {
            b.is_some_and(|b| b.is_ascii_alphanumeric() || *b >= 0x80 || others.contains(b))
        };
        let is_spaced = before.len() < at || after > at + 1;
        if !is_spaced
            || before.len() < from
            || !joins(before.last(), b"_-+\"'.")
            || !joins(text.get(after), b"[")
        {
            continue;
        }
        out.push_each(&text[from..before.len()], from);
        signs.push(out.text.len());
        out.push(b"@", at);
        from = after;
    }
    if signs.is_empty() {
        return None;
    }
    out.push_each(&text[from..], from);
    out.places.push(text.len());
    Some((out, signs))
}

/// Spaces, tabs and no-break spaces; a line end separates.
const BLANKS: [&[u8]; 3] = [b" ", b"\t", b"\xC2\xA0"];

fn trim_blank_end(mut text: &[u8]) -> &[u8] {
    while let Some(rest) = BLANKS.iter().find_map(|blank| text.strip_suffix(*blank)) {
        text = rest;
    }
    text
}

fn trim_blank_start(mut text: &[u8]) -> &[u8] {
    while let Some(rest) = BLANKS.iter().find_map(|blank| text.strip_prefix(*blank)) {
        text = rest;
    }
    text
}

/// Whether a character reference for the @ stands at the start of `rest`.
pub(crate) fn is_at_sign(rest: &[u8]) -> bool {
    entity(rest).is_some_and(|(c, _)| c == '@')
}

/// A break of HTML that shows nothing, at the start of `rest`: its width in bytes.
fn word_break(rest: &[u8]) -> Option<usize> {
    [&b"<wbr>"[..], b"<wbr/>", b"<wbr />", b"</wbr>"]
        .iter()
        .find(|tag| rest.len() >= tag.len() && rest[..tag.len()].eq_ignore_ascii_case(tag))
        .map(|tag| tag.len())
}

/// The character that `\u003c` or `\x3c` at the start of `rest` stands for, and its width in bytes.
fn backslash_escape(rest: &[u8]) -> Option<(char, usize)> {
    let digits = match rest {
        [b'\\', b'u', ..] => rest.get(2..6)?,
        [b'\\', b'x', ..] => rest.get(2..4)?,
        _ => return None,
    };
    let digits = std::str::from_utf8(digits).ok().filter(|digits| !digits.starts_with('+'))?;
    let c = char::from_u32(u32::from_str_radix(digits, 16).ok()?).filter(|&c| c != '\0')?;
    Some((c, 2 + digits.len()))
}

/// What is written at the start of `rest` so that a program shows a character, or breaks a word.
fn markup(rest: &[u8]) -> Option<(Option<char>, usize)> {
    match rest.first()? {
        b'&' => entity(rest).map(|(c, width)| (Some(c), width)),
        b'\\' => backslash_escape(rest).map(|(c, width)| (Some(c), width)),
        b'<' => word_break(rest).map(|width| (None, width)),
        _ => None,
    }
}

/// Whether the word from `start` to `end` of `text` goes on in front or behind with such a character.
pub(crate) fn goes_on_in_markup(text: &[u8], start: usize, end: usize) -> bool {
    let is_of_word = |c: Option<char>| {
        c.is_none_or(|c| {
            c.is_alphanumeric() || bytes::is_invisible(c) || c.is_ascii() && bytes::is(c as u8, ATEXT | DOT)
        })
    };
    let behind = matches!(text.get(end), Some(b'&' | b'<' | b'\\'))
        && markup(&text[end..]).is_some_and(|(c, _)| is_of_word(c));
    // The longest is `&hyphen;`, or a number with its signs.
    let in_front = || {
        let from = start.saturating_sub(12);
        let ends_there =
            |&at: &usize| markup(&text[at..]).is_some_and(|(c, width)| at + width == start && is_of_word(c));
        (from..start).any(|at| ends_there(&at))
    };
    // Of a backslash only the letter behind it is of the word.
    let is_escape = start > 0 && text[start - 1] == b'\\' && backslash_escape(&text[start - 1..]).is_some();
    behind || is_escape || start > 0 && matches!(text[start - 1], b';' | b'>') && in_front()
}

/// `text` with every character that a program would show, with the places of its bytes counted from `start`.
pub(crate) fn undo_markup(text: &[u8], start: usize) -> Decoded {
    let mut out = Decoded::with_capacity(text.len());
    let mut i = 0;
    while i < text.len() {
        let Some((c, width)) = markup(&text[i..]) else {
            out.push(&text[i..=i], start + i);
            i += 1;
            continue;
        };
        match c.filter(|&c| !bytes::is_invisible(c)) {
            Some(c) => {
                out.push(c.encode_utf8(&mut [0; 4]).as_bytes(), start + i);
                out.repairs.insert(Repair::Entities);
            }
            None => out.repairs.insert(Repair::Invisible),
        }
        i += width;
    }
    out.places.push(start + text.len());
    out
}
