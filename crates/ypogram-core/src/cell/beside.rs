//! What the words beside an address are: a name, a piece of the address that slipped off, another address's fate, a remark.

use smallvec::SmallVec;
use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

use crate::bytes;
use crate::cell::list;
use crate::cell::part::Piece;
use crate::cell::words::{self, Label};
use crate::cell::{Beside, Pieces};
use crate::codes::{Code, CodeSet};
use crate::facts;
use crate::labels::Labels;
use crate::names::stands_between_names;
use crate::policy::Policy;
use crate::span::Span;

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

type Tokens = SmallVec<[Span; 8]>;

/// What stands between white space.
fn tokens(text: &[u8], span: Span) -> Tokens {
    let words = span.of(text).split(|b| b.is_ascii_whitespace()).filter(|word| !word.is_empty());
    let place = |word: &[u8]| {
        let start = bytes::offset_in(text, word);
        Span::new(start, start + word.len())
    };
    words.map(place).collect()
}

/// Those that are words, without the signs around them.
fn words_of(text: &[u8], tokens: &Tokens) -> Tokens {
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

/// Says what the words beside the address of `piece` are.
pub(super) fn read(text: &[u8], words: Words, beside: Beside<'_>, piece: &mut Piece) {
    let (before, after) = (tokens(text, words.before), tokens(text, words.after));
    let (words_before, words_after) = (words_of(text, &before), words_of(text, &after));
    if words_before.is_empty() && words_after.is_empty() {
        return read_signs(text, &before, &after, piece);
    }
    if words.angle && !words_before.is_empty() {
        let name = unquoted(text, list::trimmed(text, words.before));
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

/// Signs that stand apart from the address: some say nothing, others that somebody doubts.
fn read_signs(text: &[u8], before: &Tokens, after: &Tokens, piece: &mut Piece) {
    if let [sign] = before[..]
        && matches!(sign.of(text), b"-" | b"+" | b"=")
    {
        piece.meant = Some((piece.text.of(text).to_vec(), "the sign in front was removed"));
        return piece.with_words(Code::FormulaLike, [sign]);
    }
    let says_nothing = |sign: &Span| {
        let sign = String::from_utf8_lossy(sign.of(text)).into_owned();
        sign.chars().all(|c| {
            matches!(
                c,
                ',' | ';'
                    | ':'
                    | '|'
                    | '/'
                    | '-'
                    | '–'
                    | '—'
                    | '•'
                    | '·'
                    | '.'
                    | '&'
                    | '✉'
                    | '\u{FE0F}'
                    | '📧'
            )
        })
    };
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

fn is_small(word: &[u8]) -> bool {
    word.iter()
        .all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || matches!(b, b'.' | b'-' | b'_' | b'\''))
}

/// A word that stands between two of a list.
fn is_joiner(word: &[u8]) -> bool {
    matches!(
        &word.to_ascii_lowercase()[..],
        b"and"
            | b"or"
            | b"und"
            | b"oder"
            | b"et"
            | b"ou"
            | b"y"
            | b"o"
            | b"e"
            | b"en"
            | b"of"
            | b"i"
            | b"och"
            | b"eller"
            | b"lub"
            | b"oraz"
    ) || word == "と".as_bytes()
        || word == "и".as_bytes()
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

// Names.

/// Whether `words` are a name: one of them stands in the record's name fields, or in the local part as a word or an initial, and
/// the others look like names.
fn is_name(text: &[u8], words: &Tokens, local: &str, beside: Beside<'_>) -> bool {
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

fn local_words(local: &str) -> impl Iterator<Item = &str> {
    local.split(|c: char| !c.is_alphabetic()).filter(|word| !word.is_empty())
}

fn local_of(text: &[u8], address: Span) -> String {
    let address = address.of(text);
    let at = memchr::memchr(b'@', address).unwrap_or(address.len());
    plain(&address[..at])
}

fn name_words(beside: Beside<'_>) -> Vec<String> {
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
fn plain(text: &[u8]) -> String {
    let lower = String::from_utf8_lossy(text).to_lowercase();
    if lower.is_ascii() {
        return lower;
    }
    let bare = lower.replace('ß', "ss").replace('ø', "o").replace('æ', "ae").replace('ł', "l");
    bare.nfd().filter(|c| !is_combining_mark(*c)).collect()
}

// Pieces of an address that stand apart.

/// A dot, hyphen, underscore or ending of the address at `address` that a space cut off: the whole of it, and where it was cut.
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

fn is_title(word: &str) -> bool {
    let word = word.to_lowercase();
    matches!(
        &*word,
        "dr" | "mr"
            | "mrs"
            | "ms"
            | "prof"
            | "st"
            | "jr"
            | "sr"
            | "hr"
            | "fr"
            | "ing"
            | "dipl"
            | "mag"
            | "sra"
            | "dott"
            | "rev"
    )
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
    let ends_known = |domain: &[u8]| has_known_ending(domain, policy);
    let completes = !ends_known(domain) && (ends_known(&glued) || ends_known(&with_dot));
    if completes || is_second_half_of_suffix(&with_dot, next) { to(end) } else { None }
}

/// Where an address ends whose domain starts at `start` and which touches all up to `end`: at a comma or semicolon, unless what
/// follows that may as well be the rest of the domain.
pub(super) fn end_before_separator(text: &[u8], start: usize, end: usize, policy: &Policy) -> usize {
    let Some(place) = text[start..end].iter().position(|b| matches!(b, b',' | b';')) else { return end };
    let (domain, rest) = (&text[start..start + place], &text[start + place + 1..end]);
    let with_dot = [domain, b".", rest].concat();
    let is_half =
        rest.is_empty() || !has_known_ending(domain, policy) || is_second_half_of_suffix(&with_dot, rest);
    if is_half { end } else { start + place }
}

/// Where the apostrophe opens in the words before an address that closes directly before its @.
pub(super) fn opening_apostrophe(text: &[u8], address: Span, words: Words) -> Option<usize> {
    let local = &address.of(text)[..memchr::memchr(b'@', address.of(text))?];
    let opening = tokens(text, words.before).into_iter().rev().find(|token| token.of(text).starts_with(b"'"));
    opening.filter(|_| local.ends_with(b"'")).map(|token| token.start)
}

fn has_known_ending(domain: &[u8], policy: &Policy) -> bool {
    let lower = domain.to_ascii_lowercase();
    facts::name_of(Labels::of(&lower), policy).has_known_ending(&lower)
}

/// `uk` behind `host.co`: together they are one public suffix.
fn is_second_half_of_suffix(domain: &[u8], last: &[u8]) -> bool {
    let lower = domain.to_ascii_lowercase();
    let suffix = psl::suffix(&lower).filter(psl::Suffix::is_known);
    let of_icann = suffix.filter(|suffix| suffix.typ() == Some(psl::Type::Icann));
    last.len() == 2 && of_icann.is_some_and(|suffix| suffix.as_bytes().len() > last.len())
}

// One address in place of another.

/// Tells where one of several addresses replaces another: words or arrows between them say so.
pub(super) fn tell_replaced(text: &[u8], pieces: &mut Pieces) {
    let mut from = 0;
    let mut newer: SmallVec<[Option<bool>; 4]> = SmallVec::new();
    for piece in pieces.iter() {
        let gap = &text[from.min(piece.text.start)..piece.text.start];
        // A remark in brackets is about the address in front of it.
        let (of_last, gap) = cut_behind_brackets(gap);
        if let Some(last) = newer.last_mut() {
            *last = last.or(says_newer(of_last, false));
        }
        newer.push(says_newer(gap, from > 0));
        from = piece.text.end;
    }
    if let Some(last) = newer.last_mut() {
        *last = last.or(says_newer(cut_behind_brackets(&text[from..]).0, false));
    }
    if newer.iter().all(Option::is_none) {
        return;
    }
    let last_newer = newer.iter().rposition(|says| *says == Some(true));
    let Some(newest) = last_newer.or_else(|| newer.iter().rposition(|says| says.is_none())) else { return };
    let address = pieces[newest].text.of(text).to_vec();
    for piece in pieces {
        piece.meant = Some((address.clone(), "the newer address was taken"));
        if piece.codes.contains(Code::DoNotContact) || piece.codes.contains(Code::BrokenAddress) {
            continue;
        }
        piece.codes = CodeSet::of(&[Code::Replaced]);
        piece.marked = Some(piece.text);
    }
}

/// Cuts what stands between two addresses behind brackets that close there.
fn cut_behind_brackets(gap: &[u8]) -> (&[u8], &[u8]) {
    let start = gap.len() - gap.trim_ascii_start().len();
    let closed = gap[start..].starts_with(b"(").then(|| memchr::memchr(b')', gap)).flatten();
    closed.map_or((&[], gap), |close| gap.split_at(close + 1))
}

/// Tells of the addresses of a list that it was not read as a whole, where one of them is broken or has other words beside it.
pub(super) fn tell_unread(text: &[u8], pieces: &mut Pieces) {
    let unread = CodeSet::of(&[Code::BrokenAddress, Code::WordBeside, Code::Remark]);
    let is_unread = |piece: &Piece| {
        piece.codes.meets(unread) || memchr::memchr_iter(b'@', piece.text.of(text)).nth(1).is_some()
    };
    let words = |piece: &Piece| {
        if piece.remark.is_empty() { SmallVec::from_slice(&[piece.text]) } else { piece.remark.clone() }
    };
    let remarks: Vec<Span> = pieces.iter().filter(|piece| is_unread(piece)).flat_map(words).collect();
    for piece in pieces.iter_mut().filter(|piece| piece.codes.is_empty() && !remarks.is_empty()) {
        piece.codes.insert(Code::Remark);
        piece.marked = remarks.first().copied();
        piece.remark.extend(remarks.iter().copied());
    }
}

/// Whether what stands in front of an address says that it is the newer one, or the older.
fn says_newer(gap: &[u8], between: bool) -> Option<bool> {
    let text = String::from_utf8_lossy(gap).to_lowercase();
    if between {
        let has = |arrows: &[&str]| arrows.iter().any(|arrow| text.contains(arrow));
        if has(&["->", "=>", "→", "⇒", ">>", " > ", "➔", "➜"]) {
            return Some(true);
        }
        if has(&["<- ", "<-- ", "←"]) {
            return Some(false);
        }
    }
    // ‘Anna Neu <…>’ is a name.
    if text.trim_end().ends_with('<') && !text.contains(':') {
        return None;
    }
    let words: Vec<&str> = text.split(|c: char| !c.is_alphabetic()).filter(|word| !word.is_empty()).collect();
    const NEAR: usize = 3;
    words.iter().rev().take(NEAR).find_map(|word| words::is_newer(word))
}

/// Where the label of the telephone number at `number` starts; `number` where it has none.
pub(super) fn label_of_telephone(text: &[u8], least: usize, number: usize) -> usize {
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
