//! Addresses that were written so that programs do not see them: `name at host dot org`, `name (at) host`, `n a m e @ …`.
//!
//! They are guesses, so their verdict is at most for review.

use std::borrow::Cow;

use crate::characters::bytes::{self, ATEXT, HIGH, LDH};
use crate::find::text::{Hit, around, hidden_marks, spaced};
use crate::model::codes::{Code, CodeSet};
use crate::model::found::{Form, Place};
use crate::model::repair::Repairs;
use crate::model::span::Span;
use crate::policy::job_policy::Policy;

/// How people write the @, in brackets or between spaces. The words stand alone only where a written dot follows.
const AT: [&str; 16] = [
    "at",
    "ät",
    "arroba",
    "arobase",
    "chiocciola",
    "apenstaartje",
    "klammeraffe",
    "malpa",
    "małpa",
    "zavináč",
    "zavinac",
    "kukac",
    "snabel-a",
    "собака",
    "a",
    "@",
];
const DOT: [&str; 10] = ["dot", "punkt", "punto", "point", "ponto", "punt", "kropka", "tečka", "точка", "."];

/// Every obfuscated address in `text` whose at-word or @ starts in `body`, from left to right, with where that starts.
pub(super) fn all<'a>(
    text: &'a [u8],
    body: std::ops::Range<usize>,
    policy: &Policy,
) -> Vec<(usize, Hit<'a>)> {
    let mut hits: Vec<(usize, Hit<'a>)> = Vec::new();
    for sign in body {
        let done = hits.last().map_or(0, |(_, hit)| hit.bare.end);
        if sign < done || !may_start(text, sign) {
            continue;
        }
        let hit = match text[sign] {
            b'@' => spelled_out(text, sign, done, policy).or_else(|| {
                let itself = Candidate { span: Span::new(sign, sign + 1), bracketed: false, itself: true };
                address(text, itself, done, policy)
            }),
            _ => at_word(text, sign).and_then(|word| address(text, word, done, policy)),
        };
        hits.extend(hit.map(|hit| (sign, hit)));
    }
    hits
}

/// Where something in `body` is likely an address that programs do not see, without asking every byte: near a dot in words, or an @
/// in brackets.
pub(super) fn likely<'a>(
    text: &'a [u8],
    body: std::ops::Range<usize>,
    policy: &Policy,
) -> Vec<(usize, Hit<'a>)> {
    // No address starts further in front of its mark.
    const LONGEST: usize = 120;
    let mut hits: Vec<(usize, Hit<'a>)> = Vec::new();
    let mut looked_at = body.start;
    // The dot may stand behind the body.
    let looked_in = &text[body.start..(body.end + LONGEST).min(text.len())];
    hidden_marks::each(looked_in, |end| {
        let end = body.start + end;
        let (from, to) = (end.saturating_sub(LONGEST).max(looked_at), end.min(body.end));
        if from < to {
            let taken = hits.last().map_or(0, |(_, hit)| hit.bare.end);
            hits.extend(all(text, from..to, policy).into_iter().filter(|(_, hit)| hit.bare.start >= taken));
            looked_at = to;
        }
    });
    hits
}

/// `a d a @ h o s t . o r g`: single characters with a space between any two.
fn spelled_out<'a>(text: &'a [u8], at: usize, least: usize, policy: &Policy) -> Option<Hit<'a>> {
    let stands_alone = |place: usize| {
        let space = |b: Option<&u8>| b.is_none_or(|b| b.is_ascii_whitespace());
        space(text.get(place + 1)) && (place == 0 || space(text.get(place - 1)))
    };
    let is_sign = |place: usize| bytes::is(text[place], ATEXT) || text[place] == b'.';
    let mut start = at;
    while start >= least + 2 && text[start - 1] == b' ' && is_sign(start - 2) && stands_alone(start - 2) {
        start -= 2;
    }
    let mut end = at + 1;
    while text.get(end) == Some(&b' ') && end + 1 < text.len() && is_sign(end + 1) && stands_alone(end + 1) {
        end += 2;
    }
    // Two characters on each side could still be arithmetic.
    if at - start < 4 || end - at < 9 {
        return None;
    }
    let whole: Vec<u8> = text[start..end].iter().copied().filter(|&b| b != b' ').collect();
    let local = whole.iter().position(|&b| b == b'@')?;
    hit_of(whole, local, Span::new(start, end), policy)
}

/// A bracket, a space before a word, or the sign itself.
fn may_start(text: &[u8], at: usize) -> bool {
    matches!(text[at], b'(' | b'[' | b'{' | b'<' | b' ' | b'_' | b'-' | b'@')
}

/// A word for the @ or a dot: where it stands, with its brackets and spaces.
#[derive(Clone, Copy)]
struct Candidate {
    span: Span,
    bracketed: bool,
    /// It is the sign itself, between spaces.
    itself: bool,
}

fn at_word(text: &[u8], at: usize) -> Option<Candidate> {
    sign(text, at, &AT)
}

/// Behind the spaces at `at`, or in the midst of more than anybody writes within an address.
fn behind_spaces(text: &[u8], at: usize) -> usize {
    const MOST: usize = 16;
    let spaces = text[at.min(text.len())..].iter().take(MOST).take_while(|&&b| b == b' ').count();
    at + spaces
}

/// One of `words` at `at`, in brackets with or without spaces, or between spaces.
fn sign(text: &[u8], at: usize, words: &[&str]) -> Option<Candidate> {
    let mut i = behind_spaces(text, at);
    let close = match text.get(i)? {
        b'(' => Some(b')'),
        b'[' => Some(b']'),
        b'{' => Some(b'}'),
        b'<' => Some(b'>'),
        b'_' if i == at => Some(b'_'),
        b'-' => Some(b'-'),
        _ => None,
    };
    let spaced = i > at;
    if close.is_none() && !spaced {
        return None;
    }
    i += usize::from(close.is_some());
    if close.is_some() {
        i = behind_spaces(text, i);
    }
    let rest = &text[i..];
    let word = words.iter().filter(|word| starts_with(rest, word)).max_by_key(|word| word.len())?;
    if close.is_none() && *word == "a" {
        return None;
    }
    i += word.len();
    match close {
        Some(close) => {
            i = behind_spaces(text, i);
            if text.get(i) != Some(&close) {
                return None;
            }
            i += 1;
        }
        None if text.get(i) != Some(&b' ') => return None,
        None => {}
    }
    let end = behind_spaces(text, i);
    let itself = matches!(*word, "@" | ".");
    let bracketed = close.is_some_and(|close| close != b'-');
    Some(Candidate { span: Span::new(at, end), bracketed, itself })
}

/// Whether `text` starts with `word`, whatever its letter case; one with letters outside ASCII has a capital only in front.
#[inline]
fn starts_with(text: &[u8], word: &str) -> bool {
    // Most leave here.
    let differs = |b: u8| b.is_ascii() && (b ^ word.as_bytes()[0]) & !0x20 != 0;
    let Some(start) = text.get(..word.len()).filter(|start| !differs(start[0])) else { return false };
    start.eq_ignore_ascii_case(word.as_bytes())
        || !start.is_ascii() && std::str::from_utf8(start).is_ok_and(|start| start.to_lowercase() == word)
}

/// The address around an at-word: a word before it, and words joined by dots behind it.
fn address<'a>(text: &'a [u8], at: Candidate, least: usize, policy: &Policy) -> Option<Hit<'a>> {
    let (local, local_start) = local_before(text, at.span.start, least)?;
    let mut domain = Vec::new();
    let (mut i, mut written_dots) = (at.span.end, 0);
    loop {
        let start = i;
        while text.get(i).is_some_and(|&b| bytes::is(b, LDH | HIGH)) {
            i += 1;
        }
        if i == start {
            return None;
        }
        domain.extend_from_slice(&text[start..i]);
        if text.get(i) == Some(&b'.') && text.get(i + 1).is_some_and(|&b| bytes::is(b, LDH | HIGH)) {
            domain.push(b'.');
            i += 1;
        } else if let Some(dot) = sign(text, i, &DOT)
            .filter(|dot| text.get(dot.span.end).is_some_and(|&b| bytes::is(b, LDH | HIGH)))
        {
            domain.push(b'.');
            written_dots += 1;
            i = dot.span.end;
        } else {
            break;
        }
    }
    // `host-dot-org`, where no other dot shows that the hyphens belong to a name.
    if !domain.contains(&b'.') {
        let undone = String::from_utf8_lossy(&domain).replace("-dot-", ".").replace("-DOT-", ".");
        written_dots += undone.matches('.').count();
        domain = undone.into_bytes();
    }
    // ‘at’ between spaces is an ordinary word unless a dot is written out as well, or angle brackets enclose an address. An @ as
    // it is, without anything else to undo, is found without asking for hidden ones.
    let in_angle = local_start > 0 && text[local_start - 1] == b'<' && text.get(i) == Some(&b'>');
    if !at.bracketed && written_dots == 0 && (at.itself || !in_angle) {
        return None;
    }
    if !at.bracketed && !at.itself && is_sentence(&local, &domain) {
        return None;
    }
    let mut whole = local.clone();
    whole.push(b'@');
    whole.extend_from_slice(&domain);
    hit_of(whole, local.len(), Span::new(local_start, i), policy)
}

/// Whether the words beside ‘at’ are those of a sentence: ‘meet me at the dot com boom’.
fn is_sentence(local: &[u8], domain: &[u8]) -> bool {
    const ARTICLES: [&str; 24] = [
        "a", "all", "an", "any", "das", "der", "die", "each", "her", "his", "its", "la", "le", "least", "my",
        "no", "one", "our", "that", "the", "their", "this", "which", "your",
    ];
    let lower = |word: &[u8]| String::from_utf8_lossy(word).to_lowercase();
    let label = domain.split(|&b| b == b'.').next().unwrap_or_default();
    spaced::is_ordinary(&lower(local)) || ARTICLES.contains(&&*lower(label))
}

/// The address `whole`, put together from what stands at `bare`, where it is one.
fn hit_of<'a>(whole: Vec<u8>, local: usize, bare: Span, policy: &Policy) -> Option<Hit<'a>> {
    let bounds =
        around::bounds(around::At { text: &whole, at: local, least: 0 }, None, &mut &*policy, false).ok()?;
    (bounds.span == Span::new(0, whole.len())).then_some(Hit {
        text: Cow::Owned(whole),
        as_found: bare,
        bare,
        form: Form::Obfuscated,
        name: None,
        repairs: Repairs::NONE,
        scan: None,
        codes: CodeSet::of(&[Code::Obfuscated]),
        place: Place::Spread(bare),
    })
}

/// The word before the at-word, with dots that may be written out.
fn local_before(text: &[u8], end: usize, least: usize) -> Option<(Vec<u8>, usize)> {
    let mut start = end;
    while start > least
        && (bytes::is(text[start - 1], ATEXT | HIGH) || text[start - 1] == b'.')
        && end - start < 64
    {
        start -= 1;
    }
    let mut local = text[start..end].to_vec();
    let mut from = start;
    // ‘ada dot lovell at host’
    for _ in 0..3 {
        let before = &text[least..from];
        let Some(word_end) = dot_before(before) else { break };
        let word_start =
            before[..word_end].iter().rposition(|&b| !bytes::is(b, ATEXT | HIGH)).map_or(0, |i| i + 1);
        if word_start == word_end {
            break;
        }
        let mut joined = before[word_start..word_end].to_vec();
        joined.push(b'.');
        joined.extend_from_slice(&local);
        local = joined;
        from = least + word_start;
    }
    (!local.is_empty() && std::str::from_utf8(&local).is_ok()).then_some((local, from))
}

/// Where the word ends in front of a written dot that `before` ends with, between spaces or in brackets.
fn dot_before(before: &[u8]) -> Option<usize> {
    let trimmed = before.trim_ascii_end();
    let (inside, open) = match trimmed.last()? {
        b')' => (&trimmed[..trimmed.len() - 1], Some(b'(')),
        b']' => (&trimmed[..trimmed.len() - 1], Some(b'[')),
        b'}' => (&trimmed[..trimmed.len() - 1], Some(b'{')),
        _ if trimmed.len() < before.len() => (trimmed, None),
        _ => return None,
    };
    let inside = inside.trim_ascii_end();
    let ends = |word: &&&str| {
        let from = inside.len().checked_sub(word.len());
        from.is_some_and(|from| inside[from..].eq_ignore_ascii_case(word.as_bytes()))
    };
    let word = DOT.iter().find(ends)?;
    let rest = &inside[..inside.len() - word.len()];
    let outside = rest.trim_ascii_end();
    match open {
        Some(open) => Some(outside.strip_suffix(&[open])?.trim_ascii_end().len()),
        None => (outside.len() < rest.len()).then_some(outside.len()),
    }
}
