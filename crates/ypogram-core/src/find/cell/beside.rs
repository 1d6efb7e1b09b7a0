//! What the words beside an address are: a name, a word that slipped off, a remark.

use crate::characters::bytes;
use crate::find::cell::Beside;
use crate::find::cell::name_beside::{is_name, local_of, local_words, name_words, plain, unquoted};
use crate::find::cell::piece::Piece;
use crate::find::cell::tokens::Words;
use crate::find::cell::tokens::{Tokens, is_small, tokens, words_of};
use crate::find::cell::trim::trimmed;
use crate::model::codes::Code;
use crate::model::span::Span;
use crate::phrases::cell_words::{self as words, Label};

/// SummaryFlag what the words beside the address of `piece` are.
pub(super) fn read(text: &[u8], words: Words, beside: Beside<'_>, piece: &mut Piece) {
    let (before, after) = (tokens(text, words.before), tokens(text, words.after));
    let (words_before, words_after) = (words_of(text, &before), words_of(text, &after));
    if words_before.is_empty() && words_after.is_empty() {
        return read_signs(text, &before, &after, piece);
    }
    if words.angle && !words_before.is_empty() {
        let name = unquoted(text, trimmed(text, words.before));
        piece.named(name, true);
        if let Some(remark) = around(&words_after) {
            piece.with_words(Code::Remark, [remark]);
        }
        return;
    }
    if words.between && words_after.is_empty() && words_before.iter().all(|word| is_joiner(word.of(text))) {
        return;
    }
    let local = local_of(text, piece.text);
    let is_beside = !words.angle && words_after.is_empty() && may_slip_off(text, &before, &words_before);
    let all: Tokens = words_before.iter().chain(&words_after).copied().collect();
    let alone = is_beside && all.len() == 1 && is_small(all[0].of(text));
    let is_name = is_name(text, &all, &local, if alone { Beside::default() } else { beside });
    let stands_in_both =
        |word: &[u8]| word.len() > 2 && local_words(&local).any(|known| known == plain(word));
    if is_name && (!alone || stands_in_both(all[0].of(text))) {
        let name = around(&words_before).or_else(|| around(&words_after)).expect("there are words");
        return piece.named(name, false);
    }
    if is_beside {
        piece.meant = meant_with(text, all[0], piece.text, beside);
        return piece.with_words(Code::WordBeside, around(&words_before));
    }
    piece.with_words(Code::Remark, around(&words_before).into_iter().chain(around(&words_after)));
}

/// CandidateScanner that say nothing beside an address.
const EMPTY_SIGNS: &str = ",;:|/-–—•·.&✉\u{FE0F}📧";

/// CandidateScanner that stand apart from the address: some say nothing, others that somebody doubts.
fn read_signs(text: &[u8], before: &Tokens, after: &Tokens, piece: &mut Piece) {
    if let [sign] = before[..]
        && matches!(sign.of(text), b"-" | b"+" | b"=")
    {
        piece.meant = Some((piece.text.of(text).to_vec(), "the sign in front was removed"));
        return piece.with_words(Code::FormulaLike, [sign]);
    }
    let says_nothing =
        |sign: &Span| String::from_utf8_lossy(sign.of(text)).chars().all(|c| EMPTY_SIGNS.contains(c));
    // A dot or underscore in front may be the end of what slipped off.
    let joins = |sign: &&Span| matches!(sign.of(text), b"." | b"_");
    let doubts =
        before.iter().chain(after).find(|sign| !says_nothing(sign)).or(before.iter().find(joins)).copied();
    match doubts {
        Some(sign) => piece.with_words(Code::Remark, [sign]),
        None if before.is_empty() && after.is_empty() => {}
        None => piece.note_signs(),
    }
}

/// One word that may be a part of the address: without capitals, or joined to it by a sign or a word.
fn may_slip_off(text: &[u8], tokens: &Tokens, words: &Tokens) -> bool {
    let last_token = tokens.last().map_or(&b""[..], |token| token.of(text));
    let joins = |token: &[u8]| matches!(token.last(), Some(b',' | b';' | b'&' | b'+'));
    match words[..] {
        [word] => is_small(word.of(text)) || joins(last_token),
        [_, joiner] => is_joiner(joiner.of(text)) && last_token == joiner.of(text),
        _ => false,
    }
}

/// The words for ‘and’ and ‘or’.
const JOINERS: [&str; 18] = [
    "and", "or", "und", "oder", "et", "ou", "y", "o", "e", "en", "of", "i", "och", "eller", "lub", "oraz",
    "と", "и",
];

/// A word that stands between two of a list.
fn is_joiner(word: &[u8]) -> bool {
    JOINERS.iter().any(|joiner| word.eq_ignore_ascii_case(joiner.as_bytes()))
}

/// The address with the word in front of it, where that is clearly likelier: the record's name says so, or hardly anything of a
/// local part is left without it.
fn meant_with(text: &[u8], word: Span, address: Span, beside: Beside<'_>) -> Option<(Vec<u8>, &'static str)> {
    let (word, address) = (word.of(text), address.of(text));
    let local = &address[..memchr::memchr(b'@', address)?];
    let names: Vec<String> = name_words(beside);
    let is_name = |text: &[u8]| names.contains(&plain(text));
    if is_name(&[word, local].concat()) || local.len() <= 2 {
        return Some(([word, address].concat(), "the space inside was removed"));
    }
    let both = is_name(word) && is_name(local);
    both.then(|| ([word, b".", address].concat(), "the space inside became a dot"))
}

/// The words `before` an address without a label that stands directly in front of it, which is noted.
pub(super) fn without_label(text: &[u8], before: Span, piece: &mut Piece) -> Span {
    let trimmed = before.of(text).trim_ascii_end();
    let Some(label) = trimmed.strip_suffix(b":") else { return before };
    let border = |b: &u8| matches!(b, b',' | b';' | b'|' | b'/' | b'(');
    let from = label.iter().rposition(border).map_or(0, |at| at + 1);
    let mut words = label[from..].split(|b| b.is_ascii_whitespace()).filter(|word| !word.is_empty());
    let found = words.find_map(|word| {
        let start = bytes::offset_in(label, word);
        (words::label(&label[start..]) == Some(Label::Address)).then_some(start)
    });
    let Some(start) = found else { return before };
    piece.labelled();
    Span::new(before.start, before.start + start)
}

/// From the first of these words to the last.
fn around(words: &Tokens) -> Option<Span> {
    Some(Span::new(words.first()?.start, words.last()?.end))
}
