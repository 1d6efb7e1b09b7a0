//! Pieces of an address that stand apart from it: a dot, hyphen, underscore or TLD that a space cut off.

use crate::characters::labels::Labels;
use crate::data::public_suffix;
use crate::find::cell::tokens::Words;
use crate::find::cell::tokens::is_small;
use crate::find::cell::tokens::tokens;
use crate::find::cell::tokens::words_of;
use crate::judge::facts;
use crate::model::span::Span;
use crate::phrases::cell_words as words;
use crate::policy::job_policy::Policy;

/// A dot, hyphen, underscore or TLD of the address at `address` that a space cut off: the whole of it, and where it was cut.
pub(super) fn apart(text: &[u8], address: Span, words: Words, policy: &Policy) -> Option<(Span, Span)> {
    apart_in_front(text, address, words).or_else(|| apart_behind(text, address, words, policy))
}

fn apart_in_front(text: &[u8], address: Span, words: Words) -> Option<(Span, Span)> {
    let tokens = tokens(text, words.before);
    let &last = tokens.last()?;
    let count = words_of(text, &tokens).len();
    let from = |token: Span, marked: Span| Some((Span::new(token.start, address.end), marked));
    let is_joint = |b: Option<&u8>| matches!(b, Some(b'.' | b'-' | b'_'));
    let ends_in_word = last.of(text).last().is_some_and(u8::is_ascii_alphanumeric);
    if is_joint(address.of(text).first()) && ends_in_word {
        return from(last, Span::new(address.start, address.start + 1));
    }
    if !is_joint(last.of(text).last()) {
        return None;
    }
    if last.len() == 1 {
        let &before = tokens.get(tokens.len().checked_sub(2)?)?;
        // ‘Anna Lovell - anna@host’ and ‘work - anna@host’: a dash between words says nothing of the address.
        let is_dash = last.of(text) == b"-" && (count > 1 || !is_small(before.of(text)));
        return if is_dash { None } else { from(before, last) };
    }
    let word = String::from_utf8_lossy(&last.of(text)[..last.len() - 1]).into_owned();
    let is_number = word.bytes().all(|b| b.is_ascii_digit());
    let is_abbreviation = is_number
        || last.of(text).ends_with(b".") && (is_title(&word) || count > 1 && is_capital_initial(&word));
    let is_label = words::label(last.of(text)).is_some();
    if is_abbreviation || is_label { None } else { from(last, Span::new(last.end - 1, last.end)) }
}

/// Words that a dot closes in front of a name, in lower case.
const TITLES: [&str; 16] = [
    "dr", "mr", "mrs", "ms", "prof", "st", "jr", "sr", "hr", "fr", "ing", "dipl", "mag", "sra", "dott", "rev",
];

fn is_title(word: &str) -> bool {
    let word = word.to_lowercase();
    TITLES.contains(&&*word)
}

fn is_capital_initial(word: &str) -> bool {
    let mut chars = word.chars();
    chars.next().is_some_and(char::is_uppercase) && chars.next().is_none()
}

fn apart_behind(text: &[u8], address: Span, words: Words, policy: &Policy) -> Option<(Span, Span)> {
    let tokens = tokens(text, words.after);
    let &first = tokens.first()?;
    let to = |end: usize| Some((Span::new(address.start, end), Span::new(address.end, first.end)));
    let at = memchr::memchr(b'@', address.of(text))?;
    let domain = &address.of(text)[at + 1..];
    let is_of_domain = |b: &u8| b.is_ascii_alphanumeric() || matches!(b, b'.' | b'-');
    let first_text = first.of(text);
    if first.len() == 1 && matches!(first_text, b"." | b"-" | b"_") {
        let &[_, next] = &tokens[..] else { return None };
        return if next.of(text).iter().all(is_of_domain) && is_small(next.of(text)) {
            to(next.end)
        } else {
            None
        };
    }
    if let ([b'd' | b'D', b'o' | b'O', b't' | b'T'], Some(next)) = (first_text, tokens.get(1)) {
        return to(next.end);
    }
    let next = first_text.strip_suffix(b",").unwrap_or(first_text);
    let next = next.strip_suffix(b".").unwrap_or(next);
    if next.is_empty() || !next.iter().all(is_of_domain) {
        return None;
    }
    let end = first.start + next.len();
    let follows_joint = matches!(domain.last(), Some(b'.' | b'-'));
    if matches!(next[0], b'.' | b'-') || follows_joint {
        return to(end);
    }
    let glued = [domain, next].concat();
    let with_dot = [domain, b".", next].concat();
    let ends_known = |domain: &[u8]| has_known_tld(domain, policy);
    // Behind a TLD that is none, a dot ends no sentence.
    let has_dot = text.get(address.end) == Some(&b'.') && is_small(next);
    let completes = !ends_known(domain) && (has_dot || ends_known(&glued) || ends_known(&with_dot));
    if completes || is_second_half_of_suffix(&with_dot, next) { to(end) } else { None }
}

/// Where the apostrophe opens in the words before an address that closes directly before its @.
pub(super) fn opening_apostrophe(text: &[u8], address: Span, words: Words) -> Option<usize> {
    let local = &address.of(text)[..memchr::memchr(b'@', address.of(text))?];
    let opening = tokens(text, words.before).into_iter().rev().find(|token| token.of(text).starts_with(b"'"));
    opening.filter(|_| local.ends_with(b"'")).map(|token| token.start)
}

/// Where an address ends whose domain starts at `start` and which touches all up to `end`: at a comma or semicolon, unless what
/// follows that may as well be the rest of the domain.
pub(super) fn end_before_separator(text: &[u8], start: usize, end: usize, policy: &Policy) -> usize {
    let Some(place) = text[start..end].iter().position(|b| matches!(b, b',' | b';')) else { return end };
    let (domain, rest) = (&text[start..start + place], &text[start + place + 1..end]);
    let with_dot = [domain, b".", rest].concat();
    let is_half =
        rest.is_empty() || !has_known_tld(domain, policy) || is_second_half_of_suffix(&with_dot, rest);
    if is_half { end } else { start + place }
}

fn has_known_tld(domain: &[u8], policy: &Policy) -> bool {
    let lower = domain.to_ascii_lowercase();
    facts::name_of(Labels::of(&lower), policy).has_known_tld(&lower)
}

/// `uk` behind `host.co`: together they are one public suffix.
fn is_second_half_of_suffix(domain: &[u8], last: &[u8]) -> bool {
    let lower = domain.to_ascii_lowercase();
    let suffix = public_suffix::of(&lower).filter(|suffix| !suffix.private);
    last.len() == 2 && suffix.is_some_and(|suffix| suffix.len > last.len())
}
