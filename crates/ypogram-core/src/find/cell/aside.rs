//! What stands beside an address and says nothing of it: comments, telephone numbers, tags of HTML.

use std::collections::VecDeque;

use smallvec::SmallVec;

use crate::find::cell::piece::Piece;
use crate::find::cell::trim::trimmed;
use crate::model::found::Form;
use crate::model::repair::Repair;
use crate::model::span::Span;
use crate::phrases::cell_words::{self as words, Label};
use crate::profile::cell_kind::CellKind;
use crate::syntax::wrapping::Wrapping;

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
        let (mut from, mut passed) = (part.start, SkipReason::default());
        while let Some(group) = comment(text, part, from, &mut passed) {
            aside.comments.push(Span::new(group.start + 1, group.end - 1));
            text[group.start..group.end].fill(b' ');
            from = passed.look_again_from(group.start);
        }
    }
    if part.of(text).iter().any(u8::is_ascii_digit) {
        let (mut from, mut passed) = (part.start, SkipReason::default());
        while let Some(number) = telephone(text, part, from, &mut passed) {
            aside.telephone = true;
            text[number.start..number.end].fill(b' ');
            from = passed.look_again_from(number.start);
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
        let Some(close) = memchr::memchr3(b'>', b'<', b'@', &text[from..]).map(|close| from + close) else {
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

/// The last places where nothing was found to blank. Once something behind them is blank they are looked at again: so many, as people
/// nest no more, and no more, so that what nobody writes takes no longer either.
#[derive(Default)]
struct SkipReason(VecDeque<usize>);

impl SkipReason {
    const MOST: usize = 16;

    fn note(&mut self, place: usize) {
        if self.0.len() == Self::MOST {
            self.0.pop_front();
        }
        self.0.push_back(place);
    }

    /// Where to go on after something was found at `found`.
    fn look_again_from(&mut self, found: usize) -> usize {
        let first = self.0.front().map_or(found, |&place| place.min(found));
        self.0.clear();
        first
    }
}

/// The first group in brackets without an @ that stands apart on at least one side, from `from` on.
fn comment(text: &[u8], part: Span, mut from: usize, passed: &mut SkipReason) -> Option<Span> {
    let is_border = |b: Option<&u8>| {
        b.is_none_or(|b| b.is_ascii_whitespace() || matches!(b, b',' | b';' | b'<' | b'>' | b'.'))
    };
    while let Some(open) = memchr::memchr2(b'(', b'[', &text[from..part.end]).map(|open| from + open) {
        from = open + 1;
        passed.note(open);
        let closing = if text[open] == b'(' { b')' } else { b']' };
        // One with an @ or with another in it is none, however far off its end is.
        let end = memchr::memchr3(closing, text[open], b'@', &text[from..part.end])?;
        let close = from + end;
        if text[close] != closing {
            continue;
        }
        let is_number = CellKind::of(&text[open..=close], 0) == CellKind::Telephone;
        let before = (open > part.start).then(|| &text[open - 1]);
        let behind = (close + 1 < part.end).then(|| &text[close + 1]);
        // `[name]@host` is a local part that was never filled in.
        let starts_apart = is_border(before) && behind != Some(&b'@');
        let ends_apart =
            behind.is_none_or(|b| b.is_ascii_whitespace() || matches!(b, b',' | b';' | b'<' | b'>'));
        let is_empty = !text[open + 1..close].iter().any(|b| b.is_ascii_alphanumeric() || *b >= 0x80);
        let digits = text[open + 1..close].iter().all(|b| b.is_ascii_digit() || matches!(b, b' ' | b'+'));
        if !is_empty && !is_number && !digits && (starts_apart || ends_apart) {
            return Some(Span::new(open, close + 1));
        }
    }
    None
}

/// Digits and signs that no telephone number has.
const TOO_LONG: usize = 64;

/// The first telephone number that stands apart, with what it is called, from `from` on.
fn telephone(text: &[u8], part: Span, from: usize, passed: &mut SkipReason) -> Option<Span> {
    let is_part =
        |b: u8| b.is_ascii_digit() || matches!(b, b' ' | b'+' | b'-' | b'.' | b'/' | b'(' | b')' | b'\t');
    let mut start = from;
    while start < part.end {
        let opens = text[start].is_ascii_digit() || matches!(text[start], b'+' | b'(');
        let apart =
            start == part.start || matches!(text[start - 1], b' ' | b'\t' | b',' | b';' | b'|' | b'/' | b':');
        if !opens || !apart {
            start += 1;
            continue;
        }
        passed.note(start);
        let mut length = 0;
        let ends = |&at: &usize| {
            length += usize::from(!text[at].is_ascii_whitespace());
            !is_part(text[at]) || length > TOO_LONG
        };
        let end = (start..part.end).find(ends).unwrap_or(part.end);
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
    // Longer than any label.
    const LOOKED_BACK: usize = 256;
    let least = least.max(number.saturating_sub(LOOKED_BACK));
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
