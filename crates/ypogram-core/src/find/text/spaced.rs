//! Addresses with white space beside their @: `name @ host.org`.

use crate::characters::bytes::{self, HIGH, LDH};
use crate::characters::decoded::{self, Decoded};
use crate::characters::web_prefix::starts_like_web;
use crate::find::text::around;
use crate::find::text::tld_lookup::TldLookup;
use crate::model::span::Span;
use crate::phrases::cell_words::{Label, label};

include!(concat!(env!("OUT_DIR"), "/ordinary_words.rs"));

/// Whether a word in lower case is one of a sentence rather than of an address.
pub(super) fn is_ordinary(word: &str) -> bool {
    ORDINARY_WORDS.contains(word.as_bytes())
}

/// An address around a spaced @, without its spaces.
pub(super) struct Spaced {
    pub(super) decoded: Decoded,
    /// Where it stands in what was decoded.
    pub(super) span: Span,
    /// Other words stand in front of it on its line, so that the last of them may be one of a sentence.
    pub(super) in_sentence: bool,
}

/// The address around the @ at `at`, which has a blank behind it, or on both sides; none where a word or a number in front says
/// that it is none. A blank only in front of it is a handle's, unless a label stands in front of both.
pub(super) fn around(text: &[u8], at: usize, least: usize, tlds: &mut impl TldLookup) -> Option<Spaced> {
    let is_blank = |b: Option<&u8>| matches!(b, Some(b' ' | b'\t' | 0xC2));
    let is_handle = !is_blank(text.get(at + 1));
    if at == least || is_handle && !is_blank(text.get(at - 1)) {
        return None;
    }
    let left = least + trimmed_end(&text[least..at])?;
    let right = at + 1 + text[at + 1..].iter().position(|b| !matches!(b, b' ' | b'\t' | 0xC2 | 0xA0))?;
    // Prices and times leave here.
    let host = &text[right..];
    let label = host.iter().take(64).take_while(|&&b| bytes::is(b, LDH | HIGH)).count();
    if label == 0 || !matches!(host.get(label), Some(b'.')) || host[0].is_ascii_digit() && label < 3 {
        return None;
    }
    let window = Span::new(around::window(text, left, least).start, around::window(text, right, least).end);
    let (mut decoded, signs) = decoded::without_space_around_at(window.of(text))?;
    decoded.places.iter_mut().for_each(|place| *place += window.start);
    let sign = signs.into_iter().find(|&sign| decoded.places[sign] == at)?;
    let bare = around::bounds(around::At { text: &decoded.text, at: sign, least: 0 }, None, tlds, false)
        .ok()
        .filter(|bare| !bare.is_slip)?;
    let local = std::str::from_utf8(&decoded.text[bare.span.start..sign]).ok()?;
    let is_ordinary = is_ordinary(&local.to_ascii_lowercase());
    // ‘Engineer @ host.org’ is where somebody works.
    let is_capitalised =
        local.starts_with(|c: char| c.is_uppercase()) && local.chars().skip(1).all(char::is_lowercase);
    let is_number = local.bytes().all(|b| b.is_ascii_digit() || matches!(b, b'.' | b',' | b'-' | b'+'));
    let before = text[..decoded.places[bare.span.start]].iter().rev();
    let before = before.copied().find(|b| !matches!(b, b' ' | b'\t' | 0xC2 | 0xA0));
    let in_sentence = before.is_some_and(|b| b.is_ascii_alphanumeric() || b >= 0x80 || b == b',');
    if is_handle && !is_labelled(&text[..decoded.places[bare.span.start]])
        || in_sentence && is_capitalised
        || starts_like_web(&decoded.text[sign + 1..])
    {
        return None;
    }
    (!is_ordinary && !is_number).then_some(Spaced { span: bare.span, decoded, in_sentence })
}

/// Whether `before` ends with a label such as `E-mail:` that stands alone on its line.
fn is_labelled(before: &[u8]) -> bool {
    // No label is longer.
    let before = &before[before.len().saturating_sub(80)..];
    let line = &before[memchr::memrchr(b'\n', before).map_or(0, |at| at + 1)..];
    line.trim_ascii().strip_suffix(b":").is_some_and(|words| label(words) == Some(Label::Address))
}

/// Where the last word of `text` ends on its line, a few blanks behind it left out.
fn trimmed_end(text: &[u8]) -> Option<usize> {
    let blanks = text.iter().rev().take_while(|b| matches!(b, b' ' | b'\t' | 0xC2 | 0xA0)).count();
    (blanks <= 2 && blanks < text.len()).then_some(text.len() - blanks)
}
