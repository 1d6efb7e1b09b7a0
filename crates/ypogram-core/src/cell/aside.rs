//! What stands beside an address and says nothing of it: comments, telephone numbers, tags of HTML.

use smallvec::SmallVec;

use crate::cell::list::trimmed;
use crate::cell::part::Piece;
use crate::cell::words::{self, Label};
use crate::cell_kind::CellKind;
use crate::found::Form;
use crate::repair::Repair;
use crate::span::Span;
use crate::wrapping::Wrapping;

/// Whether there may be anything in a part of a list beside what touches its address.
pub(super) fn has_words(part: &[u8]) -> bool {
    !part.is_ascii()
        || part
            .iter()
            .any(|b| b.is_ascii_whitespace() || matches!(b, b'(' | b'[' | b'<' | b',' | b';' | b'|'))
}

/// What stands beside an address and neither belongs to it nor says anything of it.
#[derive(Debug, Default)]
pub(super) struct Aside {
    pub(super) comments: SmallVec<[Span; 2]>,
    telephone: bool,
    /// Tags of HTML.
    markup: bool,
}

impl Aside {
    pub(super) fn note(&self, piece: &mut Piece) {
        if self.markup {
            piece.repairs.insert(Repair::Unwrapped);
        }
        if self.telephone {
            piece.repairs = piece.repairs.union(Wrapping::WithTelephone.repairs());
            let is_less = matches!(piece.form, Form::Plain | Form::Marked);
            piece.form = if is_less { Form::WithTelephone } else { piece.form };
        }
        if let Some(&comment) = self.comments.first() {
            piece.named(comment, false);
        }
    }
}

/// Blanks comments in brackets that close and telephone numbers.
pub(super) fn set_aside(text: &mut [u8], part: Span) -> Aside {
    let mut aside = Aside::default();
    blank_wide_spaces(&mut text[part.start..part.end]);
    aside.markup = blank_markup(&mut text[part.start..part.end]);
    if memchr::memchr2(b'(', b'[', part.of(text)).is_some() {
        while let Some(group) = comment(text, part) {
            aside.comments.push(Span::new(group.start + 1, group.end - 1));
            text[group.start..group.end].fill(b' ');
        }
    }
    if part.of(text).iter().any(u8::is_ascii_digit) {
        while let Some(number) = telephone(text, part) {
            aside.telephone = true;
            text[number.start..number.end].fill(b' ');
        }
    }
    aside
}

/// Spaces outside ASCII, as pages of the web have them, become ordinary ones.
fn blank_wide_spaces(text: &mut [u8]) {
    if text.is_ascii() {
        return;
    }
    for at in 0..text.len() {
        let width = match text[at..] {
            [0xC2, 0xA0, ..] => 2,
            [0xE2, 0x80, 0x80..=0x8A | 0xAF, ..] => 3,
            _ => 0,
        };
        text[at..at + width].fill(b' ');
    }
}

/// Blanks tags of HTML that say no more than how something looks or where a line ends; returns whether there were any.
fn blank_markup(text: &mut [u8]) -> bool {
    const TAGS: [&str; 14] =
        ["br", "p", "b", "i", "u", "em", "strong", "span", "div", "td", "tr", "li", "font", "nobr"];
    let (mut from, mut found) = (0, false);
    while let Some(open) = memchr::memchr(b'<', &text[from..]).map(|open| from + open) {
        from = open + 1;
        let Some(close) = memchr::memchr2(b'>', b'@', &text[open..]).map(|close| open + close) else {
            break;
        };
        let inside = text[open + 1..close].trim_ascii();
        let inside = inside.strip_prefix(b"/").unwrap_or(inside);
        let name = inside.split(|b| !b.is_ascii_alphanumeric()).next().unwrap_or_default();
        if text[close] == b'>' && TAGS.iter().any(|tag| name.eq_ignore_ascii_case(tag.as_bytes())) {
            text[open..=close].fill(b' ');
            found = true;
        }
    }
    found
}

/// The first group in brackets without an @ that stands apart on at least one side.
fn comment(text: &[u8], part: Span) -> Option<Span> {
    let is_border = |b: Option<&u8>| {
        b.is_none_or(|b| b.is_ascii_whitespace() || matches!(b, b',' | b';' | b'<' | b'>' | b'.'))
    };
    let mut from = part.start;
    while let Some(open) = memchr::memchr2(b'(', b'[', &text[from..part.end]).map(|open| from + open) {
        from = open + 1;
        let closing = if text[open] == b'(' { b')' } else { b']' };
        let close = memchr::memchr(closing, &text[open..part.end]).map(|close| open + close)?;
        let is_number = CellKind::of(&text[open..=close], 0) == CellKind::Telephone;
        let before = (open > part.start).then(|| &text[open - 1]);
        let behind = (close + 1 < part.end).then(|| &text[close + 1]);
        // `[name]@host` is a local part that was never filled in.
        let starts_apart = is_border(before) && behind != Some(&b'@');
        let ends_apart =
            behind.is_none_or(|b| b.is_ascii_whitespace() || matches!(b, b',' | b';' | b'<' | b'>'));
        let is_empty = !text[open + 1..close].iter().any(|b| b.is_ascii_alphanumeric() || *b >= 0x80);
        let digits = text[open + 1..close].iter().all(|b| b.is_ascii_digit() || matches!(b, b' ' | b'+'));
        if !is_empty
            && !is_number
            && !digits
            && (starts_apart || ends_apart)
            && !text[open + 1..close].iter().any(|&b| b == b'@' || b == text[open])
        {
            return Some(Span::new(open, close + 1));
        }
    }
    None
}

/// The first telephone number that stands apart, with what it is called.
fn telephone(text: &[u8], part: Span) -> Option<Span> {
    let is_part =
        |b: u8| b.is_ascii_digit() || matches!(b, b' ' | b'+' | b'-' | b'.' | b'/' | b'(' | b')' | b'\t');
    let mut start = part.start;
    while start < part.end {
        let opens = text[start].is_ascii_digit() || matches!(text[start], b'+' | b'(');
        let apart =
            start == part.start || matches!(text[start - 1], b' ' | b'\t' | b',' | b';' | b'|' | b'/' | b':');
        if !opens || !apart {
            start += 1;
            continue;
        }
        let end = (start..part.end).find(|&at| !is_part(text[at])).unwrap_or(part.end);
        // Where it runs into a word it ends at the space before.
        let runs_on = end < part.end && !matches!(text[end], b',' | b';' | b'|' | b'<');
        let end = if runs_on {
            (start..end).rev().find(|&at| matches!(text[at], b' ' | b'\t')).unwrap_or(start)
        } else {
            end
        };
        let number = trimmed(text, Span::new(start, end.max(start)));
        let bare = number.of(text).trim_ascii_end();
        let bare = bare.strip_suffix(b"/").or(bare.strip_suffix(b"-")).unwrap_or(bare).trim_ascii_end();
        if CellKind::of(bare, 0) == CellKind::Telephone {
            return Some(Span::new(label_of_telephone(text, part.start, start), number.start + bare.len()));
        }
        start = (start..part.end)
            .find(|&at| matches!(text[at], b' ' | b',' | b';' | b'|'))
            .map_or(part.end, |at| at + 1);
    }
    None
}

/// Where the label of the telephone number at `number` starts; `number` where it has none.
fn label_of_telephone(text: &[u8], least: usize, number: usize) -> usize {
    const WORDS: usize = 3;
    let before = text[least..number].trim_ascii_end();
    let label = before.strip_suffix(b":").unwrap_or(before);
    let mut start = label.len();
    for _ in 0..WORDS {
        let head = label[..start].trim_ascii_end();
        start = head
            .iter()
            .rposition(|b| b.is_ascii_whitespace() || matches!(b, b',' | b';' | b'|' | b'/'))
            .map_or(0, |at| at + 1);
        if words::label(&label[start..]) == Some(Label::Telephone) {
            return least + start;
        }
        if start == 0 {
            break;
        }
    }
    number
}
