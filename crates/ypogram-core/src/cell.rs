//! Reads a cell that should hold an address and nothing else: finds what stands in it, and in which form.

use std::borrow::Cow;

use smallvec::{SmallVec, smallvec};

use crate::bytes::{self, ATEXT, DOT, HIGH, SEPARATES, SPACE};
use crate::codes::{Code, CodeSet};
use crate::decoded::{self, Decoded};
use crate::examine;
use crate::found::{Form, Found, Place};
use crate::policy::Policy;
use crate::repair::{Repair, Repairs};
use crate::span::Span;
use crate::suggest::{self, Suggestion};
use crate::text;

/// An address in the making: ranges of the decoded cell.
#[derive(Clone, Copy, Debug)]
struct Piece {
    as_found: Span,
    text: Span,
    form: Form,
    repairs: Repairs,
    codes: CodeSet,
    name: Option<Span>,
}

/// The addresses of a cell: hardly ever more than one.
type Pieces = SmallVec<[Piece; 2]>;

/// The parts of a list.
type Parts = SmallVec<[Span; 4]>;

/// Appends what stands in the address cell `cell` to `out`: nothing where it is blank, else at least one address, be it a
/// faulty one.
///
/// ```
/// use ypogram_core::{Form, Policy, cell};
/// let mut found = Vec::new();
/// cell::read(b"\"Lovell, Ada\" <ada@fernhollow.org>", &Policy::default(), &mut found);
/// assert_eq!(&*found[0].text, b"ada@fernhollow.org");
/// assert_eq!(found[0].form, Form::Named);
/// ```
pub fn read<'a>(cell: &'a [u8], policy: &Policy, out: &mut Vec<Found<'a>>) {
    let is_read = match memchr::memchr2(b',', b';', cell) {
        Some(_) => read_plain_list(cell, out),
        None if is_plain(cell) => {
            out.push(found_plain(cell, cell, Form::Plain, Repairs::NONE));
            true
        }
        None => false,
    };
    if !is_read {
        read_any(cell, policy, out);
    }
}

fn read_any<'a>(cell: &'a [u8], policy: &Policy, out: &mut Vec<Found<'a>>) {
    let decoded = decoded::decode(cell);
    let text = decoded.as_ref().map_or(cell, |d| &d.text);
    for piece in pieces(text, policy) {
        out.push(finish(cell, decoded.as_ref(), piece));
    }
}

/// What was probably meant where a word stands beside the only address of `cell`: the two joined.
pub fn suggest_joined(cell: &[u8], policy: &Policy) -> Option<Suggestion> {
    suggest::suggest_joined(&joined(cell), policy)
}

/// The cell without what separates its words.
pub(crate) fn joined(cell: &[u8]) -> Vec<u8> {
    bytes::trim(cell).iter().copied().filter(|b| !bytes::is(*b, SPACE) && *b != b',').collect()
}

/// Whether the cell is a bare address as far as its bytes go: letters, digits, dots and the usual signs with one @ among them, or
/// with none or several of them where nothing shows a list or a wrapping.
#[inline]
fn is_plain(cell: &[u8]) -> bool {
    let (mut ats, mut seen) = (0, 0);
    for &b in cell {
        if b == b'@' {
            ats += 1;
        } else if !bytes::is(b, ATEXT | DOT) {
            return false;
        }
        seen |= bytes::CLASS[usize::from(b)];
    }
    if seen & SEPARATES == 0 {
        return !cell.is_empty() && (ats == 1 || cell[0] != b'\'');
    }
    // A percent sign or ampersand may encode something.
    ats == 1 && memchr::memchr2(b'%', b'&', cell).is_none()
}

/// Appends the addresses of a cell where a comma or semicolon stands between them and at most a space behind it, each a bare address
/// as far as its bytes go; tells whether it is such a cell.
fn read_plain_list<'a>(cell: &'a [u8], out: &mut Vec<Found<'a>>) -> bool {
    let first = out.len();
    let mut start = 0;
    for end in memchr::memchr2_iter(b',', b';', cell).chain([cell.len()]) {
        let part = &cell[start..end];
        let text = part.strip_prefix(b" ").unwrap_or(part);
        if !is_bare(text) {
            out.truncate(first);
            return false;
        }
        out.push(found_plain(cell, text, Form::Several, Repairs::NONE.with(Repair::OneOfSeveral)));
        start = end + 1;
    }
    true
}

/// Whether a part of a list has one @ and otherwise what may stand in an address, and neither separates nor quotes.
fn is_bare(part: &[u8]) -> bool {
    let mut ats = 0;
    for &b in part {
        match bytes::CLASS[usize::from(b)] & (ATEXT | DOT | SEPARATES) {
            _ if b == b'@' => ats += 1,
            ATEXT | DOT if b != b'\'' => {}
            _ => return false,
        }
    }
    ats == 1
}

/// The address `text`, which stands in `cell` with nothing to take off.
fn found_plain<'a>(cell: &[u8], text: &'a [u8], form: Form, repairs: Repairs) -> Found<'a> {
    let start = bytes::offset_in(cell, text);
    Found {
        text: Cow::Borrowed(text),
        as_found: Span::new(start, start + text.len()),
        form,
        repairs,
        codes: CodeSet::EMPTY,
        name: None,
        place: Place::From(start),
    }
}

fn pieces(text: &[u8], policy: &Policy) -> Pieces {
    let mut out = Pieces::new();
    let whole = trimmed(text, Span::new(0, text.len()));
    if whole.is_empty() {
        return out;
    }
    let trim = if whole.len() < text.len() { Repairs::NONE.with(Repair::Trimmed) } else { Repairs::NONE };
    let parts = list_parts(text, whole);
    if parts.len() == 1 {
        single(text, whole, parts[0], trim, policy, &mut out);
    } else {
        for part in parts {
            let first = out.len();
            single(text, part, part, Repairs::NONE.with(Repair::OneOfSeveral), policy, &mut out);
            out[first..].iter_mut().for_each(|piece| piece.form = Form::Several);
        }
    }
    out
}

/// The parts of a list that hold an @ each: cut at semicolons, commas and line breaks outside quotes and brackets, else
/// at slashes, bars and white space where every word is an address.
fn list_parts(text: &[u8], whole: Span) -> Parts {
    if memchr::memchr_iter(b'@', whole.of(text)).count() < 2 {
        return smallvec![without_separators(text, whole)];
    }
    let mut parts = Parts::new();
    let mut pending: Option<usize> = None;
    for part in cut_outside_quotes(text, whole) {
        let start = pending.take().unwrap_or(part.start);
        let joined = trimmed(text, Span::new(start, part.end));
        if joined.is_empty() {
            continue;
        }
        if joined.of(text).contains(&b'@') {
            parts.push(joined);
        } else {
            // ‘Lovell, Ada <…>’: what has no @ belongs to what follows.
            pending = Some(joined.start);
        }
    }
    if let (Some(_), Some(last)) = (pending, parts.last_mut()) {
        last.end = whole.end;
    }
    if parts.len() == 1 { words_with_at(text, parts[0]).unwrap_or(parts) } else { parts }
}

fn without_separators(text: &[u8], span: Span) -> Span {
    let mut span = span;
    while let Some(b';' | b',') = span.of(text).last() {
        span = trimmed(text, Span::new(span.start, span.end - 1));
    }
    while let Some(b';' | b',') = span.of(text).first() {
        span = trimmed(text, Span::new(span.start + 1, span.end));
    }
    span
}

fn cut_outside_quotes(text: &[u8], whole: Span) -> Parts {
    let mut parts = Parts::new();
    let (mut start, mut quoted, mut angle, mut round) = (whole.start, false, false, 0_usize);
    let mut i = whole.start;
    while i < whole.end {
        match text[i] {
            b'\\' if quoted => i += 1,
            b'"' => quoted = !quoted && closes(text, i + 1, whole.end, b'"'),
            b'<' if !quoted => angle = closes(text, i + 1, whole.end, b'>'),
            b'>' if !quoted => angle = false,
            b'(' if !quoted && closes(text, i + 1, whole.end, b')') => round += 1,
            b')' if !quoted => round = round.saturating_sub(1),
            b';' | b',' | b'\n' if !quoted && !angle && round == 0 => {
                parts.push(Span::new(start, i));
                start = i + 1;
            }
            _ => {}
        }
        i += 1;
    }
    parts.push(Span::new(start, whole.end));
    parts
}

fn closes(text: &[u8], from: usize, end: usize, closing: u8) -> bool {
    memchr::memchr(closing, &text[from.min(end)..end]).is_some()
}

/// The words of `span` where each is an address with one @, cut at white space, slashes and bars.
fn words_with_at(text: &[u8], span: Span) -> Option<Parts> {
    let mut words = Parts::new();
    let is_border = |b: &u8| bytes::is(*b, SPACE) || matches!(b, b'/' | b'|');
    for word in span.of(text).split(is_border).filter(|word| !word.is_empty()) {
        let start = bytes::offset_in(text, word);
        words.push(Span::new(start, start + word.len()));
    }
    let whole_words = words.iter().all(|word| {
        let word = word.of(text);
        memchr::memchr_iter(b'@', word).count() == 1 && !word.starts_with(b"@") && !word.ends_with(b"@")
    });
    (words.len() > 1 && whole_words).then_some(words)
}

/// Unwraps one part; `shown` is the part with everything around it.
fn single(text: &[u8], shown: Span, part: Span, repairs: Repairs, policy: &Policy, out: &mut Pieces) {
    let mut piece =
        Piece { as_found: shown, text: part, form: Form::Plain, repairs, codes: CodeSet::EMPTY, name: None };
    if part != shown {
        piece.repairs.insert(Repair::Unwrapped);
    }
    while unwrap(text, &mut piece) {}
    let inner = piece.text.of(text);
    if is_one_word(inner) || is_quoted_local(inner) {
        out.push(piece);
        return;
    }
    let bare: Vec<u8> = without_space_around_at(inner);
    if bare.len() < inner.len() && is_one_word(&bare) {
        piece.repairs.insert(Repair::SpaceAroundAt);
        piece.form = if piece.form == Form::Plain { Form::Spaced } else { piece.form };
        out.push(piece);
        return;
    }
    let first = out.len();
    text::find(inner, policy, |hit| {
        out.push(Piece {
            as_found: hit.as_found.shifted(piece.text.start),
            text: hit.bare.shifted(piece.text.start),
            form: Form::WithinText,
            repairs: piece.repairs.with(Repair::TakenFromText),
            codes: CodeSet::EMPTY,
            name: hit.name.map(|name| name.shifted(piece.text.start)),
        });
    });
    match &mut out[first..] {
        [] => out.push(piece),
        [only] if has_word_beside(text, piece.text, only.as_found) => only.codes.insert(Code::WordBeside),
        _ => {}
    }
}

/// Takes one layer off; tells whether there was one.
fn unwrap(text: &[u8], piece: &mut Piece) -> bool {
    let inner = piece.text.of(text);
    if let Some(prefix) = inner.get(..7)
        && prefix.eq_ignore_ascii_case(b"mailto:")
    {
        let query = memchr::memchr(b'?', inner).unwrap_or(inner.len());
        piece.text = trimmed(text, Span::new(piece.text.start + 7, piece.text.start + query));
        piece.repairs.insert(Repair::Mailto);
        piece.form = if piece.form == Form::Named { Form::Named } else { Form::Mailto };
        return true;
    }
    if inner.ends_with(b">")
        && let Some(open) = memchr::memrchr(b'<', inner)
    {
        return unwrap_angle(text, piece, open);
    }
    if unwrap_comment(text, piece) {
        return true;
    }
    unwrap_pair(text, piece)
}

fn unwrap_angle(text: &[u8], piece: &mut Piece, open: usize) -> bool {
    let before = trimmed(text, Span::new(piece.text.start, piece.text.start + open));
    let inside = trimmed(text, Span::new(piece.text.start + open + 1, piece.text.end - 1));
    piece.repairs.insert(Repair::AngleBrackets);
    if before.is_empty() {
        piece.form = if piece.form == Form::Plain { Form::Angle } else { piece.form };
    } else {
        piece.repairs.insert(Repair::NameRemoved);
        piece.form = Form::Named;
        piece.name = Some(unquoted(text, before));
    }
    piece.text = inside;
    true
}

/// `address (Name)` and `(Name) address`.
fn unwrap_comment(text: &[u8], piece: &mut Piece) -> bool {
    let inner = piece.text.of(text);
    let (comment, rest) = if inner.ends_with(b")")
        && let Some(open) = memchr::memchr(b'(', inner).filter(|&open| open > 0)
    {
        (open + 1..inner.len() - 1, 0..open)
    } else if inner.starts_with(b"(")
        && let Some(close) = memchr::memchr(b')', inner).filter(|&close| close + 1 < inner.len())
    {
        (1..close, close + 1..inner.len())
    } else {
        return false;
    };
    let rest = trimmed(text, Span::from(rest).shifted(piece.text.start));
    let comment = trimmed(text, Span::from(comment).shifted(piece.text.start));
    if !is_one_word(rest.of(text)) || comment.of(text).contains(&b'@') {
        return false;
    }
    piece.repairs.insert(Repair::NameRemoved);
    piece.form = Form::Named;
    piece.name = Some(comment);
    piece.text = rest;
    true
}

const PAIRS: [(&str, &str); 11] = [
    ("\"", "\""),
    ("'", "'"),
    ("`", "`"),
    ("(", ")"),
    ("[", "]"),
    ("{", "}"),
    ("“", "”"),
    ("„", "“"),
    ("‘", "’"),
    ("«", "»"),
    ("‹", "›"),
];

fn unwrap_pair(text: &[u8], piece: &mut Piece) -> bool {
    let inner = piece.text.of(text);
    // The first octets of the opening signs.
    if !matches!(inner.first(), Some(b'"' | b'\'' | b'`' | b'(' | b'[' | b'{' | 0xE2 | 0xC2)) {
        return false;
    }
    let pair = PAIRS.iter().find(|(open, close)| {
        let inside = inner.strip_prefix(open.as_bytes()).and_then(|rest| rest.strip_suffix(close.as_bytes()));
        inside.is_some_and(|inside| {
            inside.contains(&b'@') && memchr::memmem::find(inside, close.as_bytes()).is_none()
        })
    });
    let Some((open, close)) = pair else { return false };
    piece.text = trimmed(text, Span::new(piece.text.start + open.len(), piece.text.end - close.len()));
    piece.repairs.insert(Repair::Unwrapped);
    piece.form = if piece.form == Form::Plain { Form::Quoted } else { piece.form };
    true
}

fn unquoted(text: &[u8], span: Span) -> Span {
    let name = span.of(text);
    let quote = |b: Option<&u8>| matches!(b, Some(b'"' | b'\''));
    if name.len() >= 2 && quote(name.first()) && name.first() == name.last() {
        trimmed(text, Span::new(span.start + 1, span.end - 1))
    } else {
        span
    }
}

/// One word of the characters that addresses are made of, faults of their order included.
fn is_one_word(text: &[u8]) -> bool {
    text.iter().all(|&b| bytes::is(b, ATEXT | DOT | HIGH) || b == b'@')
        && !text.is_empty()
        && !has_space_char(text)
}

/// Only what is not ASCII has to be decoded to see white space in it.
fn has_space_char(text: &[u8]) -> bool {
    !text.is_ascii() && String::from_utf8_lossy(text).chars().any(bytes::is_space_char)
}

/// `"ada lovell"@host` and `ada@[192.0.2.1]`: what is no word and yet in order.
fn is_quoted_local(text: &[u8]) -> bool {
    (text.starts_with(b"\"") || text.ends_with(b"]"))
        && examine::cut(text).is_some_and(|cut| {
            let literal = cut.domain.of(text).starts_with(b"[");
            cut.second_at.is_none() && (is_one_word(cut.domain.of(text)) || literal)
        })
}

fn without_space_around_at(text: &[u8]) -> Vec<u8> {
    let mut out: Vec<u8> = Vec::with_capacity(text.len());
    let mut parts = text.split(|&b| b == b'@');
    out.extend_from_slice(parts.next().map_or(&[][..], trim_end));
    for part in parts {
        out.push(b'@');
        out.extend_from_slice(bytes::trim(part));
    }
    out
}

fn trim_end(text: &[u8]) -> &[u8] {
    let end = bytes::offset_in(text, bytes::trim(text)) + bytes::trim(text).len();
    &text[..end]
}

/// Whether all that stands around the only address of a cell is one word without capitals, a space or comma away: it may
/// as well be a part of the address that slipped off.
fn has_word_beside(text: &[u8], whole: Span, found: Span) -> bool {
    let before = &text[whole.start..found.start];
    let after = &text[found.end..whole.end];
    let loose = |word: &[u8]| {
        let word = bytes::trim(word);
        let word = word.strip_suffix(b",").unwrap_or(word);
        let word = word.strip_prefix(b".").map_or(word, bytes::trim);
        !word.is_empty()
            && word
                .iter()
                .all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || matches!(b, b'.' | b'-' | b'_'))
    };
    match (bytes::trim(before).is_empty(), bytes::trim(after).is_empty()) {
        (false, true) => loose(before),
        (true, false) => loose(after) && bytes::trim(after).len() <= 6,
        _ => false,
    }
}

fn trimmed(text: &[u8], span: Span) -> Span {
    let inner = bytes::trim(span.of(text));
    let start = bytes::offset_in(text, inner);
    Span::new(start, start + inner.len())
}

/// From ranges of the decoded cell to an address with places in the cell itself.
fn finish<'a>(cell: &'a [u8], decoded: Option<&Decoded>, piece: Piece) -> Found<'a> {
    let source = decoded.map_or(cell, |d| &d.text);
    let place = |at: usize| decoded.map_or(at, |d| d.places[at]);
    let in_cell = |span: Span| Span::new(place(span.start), place(span.end));
    let repairs = decoded.map_or(piece.repairs, |d| d.repairs.union(piece.repairs));
    let mut found = Found {
        text: Cow::Borrowed(&[]),
        as_found: in_cell(piece.as_found),
        form: piece.form,
        repairs,
        codes: piece.codes,
        name: piece.name.map(in_cell),
        place: Place::From(piece.text.start),
    };
    let raw = piece.text.of(source);
    if piece.repairs.contains(Repair::Mailto) && raw.contains(&b'%') {
        let undone = decoded::undo_percent(raw, piece.text.start);
        found.repairs = found.repairs.union(undone.repairs);
        found.place = Place::Each(undone.places.iter().map(|&at| place(at)).collect());
        found.text = Cow::Owned(undone.text);
    } else if piece.repairs.contains(Repair::SpaceAroundAt) {
        let bare = without_space_around_at(raw);
        let mut places: Vec<usize> = Vec::with_capacity(bare.len() + 1);
        let mut from = 0;
        for &b in &bare {
            from += raw[from..].iter().position(|&r| r == b).expect("only white space was left out") + 1;
            places.push(place(piece.text.start + from - 1));
        }
        places.push(place(piece.text.end));
        found.place = Place::Each(places);
        found.text = Cow::Owned(bare);
    } else if let Some(d) = decoded {
        found.place = Place::Each(d.places[piece.text.start..=piece.text.end].to_vec());
        found.text = Cow::Owned(raw.to_vec());
    } else {
        found.text = Cow::Borrowed(piece.text.of(cell));
    }
    found
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn read_one(cell: &str) -> Vec<(String, Form, String)> {
        let mut found = Vec::new();
        let mut policy = Policy::default();
        policy.trust_name("example").unwrap();
        read(cell.as_bytes(), &policy, &mut found);
        let tell = |f: &Found<'_>| {
            let repairs: Vec<_> = f.repairs.iter().map(Repair::name).collect();
            let codes = f.codes.iter().map(Code::name).map(|code| format!(" !{code}")).collect::<String>();
            (String::from_utf8_lossy(&f.text).into_owned(), f.form, repairs.join(" ") + &codes)
        };
        found.iter().map(tell).collect()
    }

    #[test]
    fn forms_of_one() {
        use Form::*;
        for (cell, text, form, repairs) in [
            ("ada@h.example", "ada@h.example", Plain, ""),
            (" ada@h.example\t", "ada@h.example", Plain, "trimmed"),
            ("\u{A0}ada@h.example", "ada@h.example", Plain, "trimmed"),
            ("<ada@h.example>", "ada@h.example", Angle, "angle-brackets"),
            ("< ada@h.example >", "ada@h.example", Angle, "angle-brackets"),
            ("mailto:ada@h.example?subject=Open%20night", "ada@h.example", Mailto, "mailto"),
            ("MAILTO:ada%2Bclub@h.example", "ada+club@h.example", Mailto, "percent mailto"),
            ("Ada Lovell <ada@h.example>", "ada@h.example", Named, "angle-brackets name"),
            ("\"Lovell, Ada\" <ada@h.example>", "ada@h.example", Named, "angle-brackets name"),
            ("Lovell, Ada <ada@h.example>", "ada@h.example", Named, "angle-brackets name"),
            ("Ada <mailto:ada@h.example>", "ada@h.example", Named, "mailto angle-brackets name"),
            ("ada@h.example (Ada Lovell)", "ada@h.example", Named, "name"),
            ("“ada@h.example”", "ada@h.example", Quoted, "unwrapped"),
            ("[ada@h.example]", "ada@h.example", Quoted, "unwrapped"),
            ("ada@h.example;", "ada@h.example", Plain, "unwrapped"),
            ("ada @ h.example", "ada@h.example", Spaced, "space-around-at"),
            ("ada&#64;h.example", "ada@h.example", Plain, "entities"),
            ("ada%40h.example", "ada@h.example", Plain, "percent"),
            ("ada@h.exam\u{AD}ple", "ada@h.example", Plain, "invisible"),
            ("ａｄａ＠h.example", "ada@h.example", Plain, "full-width"),
            ("\"ada lovell\"@h.example", "\"ada lovell\"@h.example", Plain, ""),
            ("ada@[192.0.2.1]", "ada@[192.0.2.1]", Plain, ""),
            ("Email: ada@h.example", "ada@h.example", WithinText, "from-text"),
            ("write to ada@h.example, please", "ada@h.example", WithinText, "from-text"),
            ("Ada Lovell ada@h.example", "ada@h.example", WithinText, "from-text"),
            ("lov ell@h.example", "ell@h.example", WithinText, "from-text !word-beside"),
            ("ada@h. example", "ada@h. example", Plain, ""),
            ("ada@@h.example", "ada@@h.example", Plain, ""),
            ("ada.h.example", "ada.h.example", Plain, ""),
            ("see the sheet", "see the sheet", Plain, ""),
            ("r&d@h.example", "r&d@h.example", Plain, ""),
        ] {
            assert_eq!(read_one(cell), [(text.to_owned(), form, repairs.to_owned())], "{cell}");
        }
        assert!(read_one(" \t\u{A0} ").is_empty());
    }

    #[test]
    fn several_in_a_cell() {
        for cell in [
            "a@h.example; b@h.example",
            "a@h.example,b@h.example",
            "a@h.example / b@h.example",
            "a@h.example b@h.example",
            "Lovell, Ada <a@h.example>, Bea <b@h.example>",
            "\"Lovell; Ada\" <a@h.example>;b@h.example;",
            "a@h.example\nb@h.example",
        ] {
            let found = read_one(cell);
            let texts: Vec<_> = found.iter().map(|(text, _, _)| text.as_str()).collect();
            assert_eq!(texts, ["a@h.example", "b@h.example"], "{cell}");
            assert!(found.iter().all(|(_, form, _)| *form == Form::Several), "{cell}");
        }
        assert_eq!(read_one("a@b@h.example").len(), 1);
    }

    proptest! {
        #[test]
        fn plain_lists_are_read_as_any_cell(cell in "(( ?[ab.'`%&;=-]{0,3}(@|@[b.]{1,3})?)[,;]?){0,4}") {
            prop_assume!(cell.contains([',', ';']));
            let (mut by_list, mut by_any) = (Vec::new(), Vec::new());
            if read_plain_list(cell.as_bytes(), &mut by_list) {
                read_any(cell.as_bytes(), &Policy::default(), &mut by_any);
                prop_assert_eq!(format!("{by_list:?}"), format!("{by_any:?}"));
            } else {
                prop_assert!(by_list.is_empty());
            }
        }
    }

    #[test]
    fn places_lead_back_into_the_cell() {
        let cell = "x: <ada&#64;h..example>".as_bytes();
        let mut found = Vec::new();
        read(&cell[3..], &Policy::default(), &mut found);
        assert_eq!(found[0].locate(Span::new(5, 7)).of(&cell[3..]), b"..");
        assert_eq!(found[0].locate(Span::new(3, 4)).start, 4);
    }
}
