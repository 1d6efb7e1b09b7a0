//! The words of a cell.

use crate::characters::bytes;
use crate::model::span::Span;
use smallvec::SmallVec;

pub(super) type Tokens = SmallVec<[Span; 8]>;

/// What stands between white space.
pub(super) fn tokens(text: &[u8], span: Span) -> Tokens {
    let words = span.of(text).split(|b| b.is_ascii_whitespace()).filter(|word| !word.is_empty());
    let place = |word: &[u8]| {
        let start = bytes::offset_in(text, word);
        Span::new(start, start + word.len())
    };
    words.map(place).collect()
}

/// Those that are words, without the signs around them.
pub(super) fn words_of(text: &[u8], tokens: &Tokens) -> Tokens {
    let is_of_word = |b: &u8| b.is_ascii_alphanumeric() || *b >= 0x80;
    let bare = |token: &Span| {
        let token_text = token.of(text);
        let start = token_text.iter().position(is_of_word)?;
        let end = token_text.iter().rposition(is_of_word)? + 1;
        let word = &token_text[start..end];
        let has_letter = word.iter().any(u8::is_ascii_alphanumeric)
            || String::from_utf8_lossy(word).chars().any(char::is_alphanumeric);
        has_letter.then(|| Span::new(token.start + start, token.start + end))
    };
    tokens.iter().filter_map(bare).collect()
}

pub(super) fn is_small(word: &[u8]) -> bool {
    word.iter().all(|b| {
        b.is_ascii_lowercase() || b.is_ascii_digit() || matches!(b, b'.' | b'-' | b'_' | b'\'' | b'+')
    })
}

/// Where words stand beside an address.
#[derive(Clone, Copy, Debug)]
pub(super) struct Words {
    pub(super) before: Span,
    pub(super) after: Span,
    /// Angle brackets stand around the address.
    pub(super) angle: bool,
    /// Another address stands in front of these words.
    pub(super) between: bool,
}
