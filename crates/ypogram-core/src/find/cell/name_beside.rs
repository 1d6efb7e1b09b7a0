//! Whether the words beside an address are the name of the person whose it is.

use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

use crate::characters::bytes;
use crate::find::cell::Beside;
use crate::find::cell::tokens::Tokens;
use crate::model::span::Span;
use crate::names::stands_between_names;

/// Whether `words` are a name: one of them stands in the record's name fields, or in the local part as a word or an initial, and
/// the others look like names.
pub(super) fn is_name(text: &[u8], words: &Tokens, local: &str, beside: Beside<'_>) -> bool {
    const MOST: usize = 6;
    let names = name_words(beside);
    let is_known = |word: &Span| {
        let written = word.of(text);
        let word = plain(written);
        let of_name = word.chars().count() > 1 && names.contains(&word);
        of_name || stands_in(&word, local) || is_initial_of(written, &word, local)
    };
    let looks_like_one = |word: &Span| looks_like_name(word.of(text)) || is_known(word);
    words.len() <= MOST && words.iter().any(is_known) && words.iter().all(looks_like_one)
}

/// With a capital, of a script that has none, or a small word that stands between names.
fn looks_like_name(word: &[u8]) -> bool {
    let text = String::from_utf8_lossy(word);
    let first = text.chars().next();
    let has_digit = text.chars().any(|c| c.is_ascii_digit());
    let large = first.is_some_and(|c| c.is_uppercase() || c.is_alphabetic() && !c.is_lowercase());
    !has_digit && (large || stands_between_names(&text))
}

/// A word of the local part, or what it starts or ends with.
fn stands_in(word: &str, local: &str) -> bool {
    let letters = word.chars().count();
    let is_long = letters >= 3 || letters == 2 && !word.is_ascii();
    is_long
        && (local_words(local).any(|known| known == word || known.starts_with(word) || known.ends_with(word)))
        || letters == 2 && local_words(local).any(|known| known == word)
}

/// A word with a capital, of which a single letter of the local part is the first.
fn is_initial_of(written: &[u8], word: &str, local: &str) -> bool {
    let large = bytes::first_char(written).is_some_and(|(c, _)| c.is_uppercase());
    large
        && word.chars().count() > 1
        && local_words(local).any(|known| known.chars().count() == 1 && word.starts_with(known))
}

pub(super) fn local_words(local: &str) -> impl Iterator<Item = &str> {
    local.split(|c: char| !c.is_alphabetic()).filter(|word| !word.is_empty())
}

pub(super) fn local_of(text: &[u8], address: Span) -> String {
    let address = address.of(text);
    let at = memchr::memchr(b'@', address).unwrap_or(address.len());
    plain(&address[..at])
}

pub(super) fn name_words(beside: Beside<'_>) -> Vec<String> {
    let words = |cell: &[u8]| {
        let text = plain(cell);
        text.split(|c: char| !c.is_alphanumeric())
            .filter(|word| !word.is_empty())
            .map(str::to_owned)
            .collect::<Vec<_>>()
    };
    beside.names.iter().flat_map(|cell| words(cell)).collect()
}

/// In lower case and without accents.
pub(super) fn plain(text: &[u8]) -> String {
    let lower = String::from_utf8_lossy(text).to_lowercase();
    if lower.is_ascii() {
        return lower;
    }
    let bare = lower.replace('ß', "ss").replace('ø', "o").replace('æ', "ae").replace('ł', "l");
    bare.nfd().filter(|c| !is_combining_mark(*c)).collect()
}

/// `span` without the quotes that enclose it.
pub(super) fn unquoted(text: &[u8], span: Span) -> Span {
    let name = span.of(text);
    let quote = |b: Option<&u8>| matches!(b, Some(b'"' | b'\''));
    if name.len() >= 2 && quote(name.first()) && name.first() == name.last() {
        Span::new(span.start + 1, span.end - 1)
    } else {
        span
    }
}
