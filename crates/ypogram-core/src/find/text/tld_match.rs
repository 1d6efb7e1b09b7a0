//! What the TLD of a domain in running text is, and where that domain ends if words are glued to it.

use crate::characters::bytes::{self, HIGH, UPPER};
use crate::find::text::scripts;
use crate::find::text::skip_reason::SkipReason;
use crate::find::text::tld_lookup::TldLookup;
use crate::find::text::word_after::Word;

/// What a TLD is.
pub(super) enum TldMatch {
    Known,
    /// Only up to here: what follows is glued to it.
    KnownUpTo(usize),
    /// It is none, and likely a typing slip of one.
    Typo,
    None(SkipReason),
}

/// What the TLD of `domain` is, which stands behind an @ and was seen as `word`.
pub(super) fn match_tld(domain: &[u8], word: &Word, tlds: &mut impl TldLookup) -> TldMatch {
    if !word.has_two_labels() {
        let number = domain.first().is_some_and(|b| b.is_ascii_digit())
            || domain.first() == Some(&b'v') && domain.get(1).is_some_and(u8::is_ascii_digit);
        return TldMatch::None(if number { SkipReason::Version } else { SkipReason::OneLabel });
    }
    let last = &domain[word.last_dot.map_or(0, |dot| dot + 1)..];
    // A capital behind a dot, after labels without any: the next sentence.
    if word.seen & UPPER != 0
        && let Some(dot) = word.last_dot
        && last[0].is_ascii_uppercase()
        && !domain[..dot].iter().any(u8::is_ascii_uppercase)
        && domain[..dot].contains(&b'.')
        && tlds.are_known(&domain[..dot], word.seen & !UPPER)
    {
        return TldMatch::KnownUpTo(dot);
    }
    if word.seen & HIGH != 0
        && let Some(end) = end_of_sentence(domain, tlds)
    {
        return TldMatch::KnownUpTo(end);
    }
    if tlds.are_known(domain, word.seen) {
        return TldMatch::Known;
    }
    if let Some(end) = without_what_is_glued(domain, last.len(), word.seen, tlds) {
        return TldMatch::KnownUpTo(end);
    }
    if last.iter().all(u8::is_ascii_digit) || is_version(domain) {
        TldMatch::None(SkipReason::Version)
    } else if is_file_ending(last) {
        TldMatch::None(SkipReason::FileName)
    } else if domain.is_ascii() && tlds.are_slip(domain) {
        TldMatch::Typo
    } else {
        TldMatch::None(SkipReason::UnknownTld)
    }
}

/// Where `host.org。谢谢` ends: an ideographic full stop separates labels as well, and here it ends a sentence.
fn end_of_sentence(domain: &[u8], tlds: &mut impl TldLookup) -> Option<usize> {
    let stops = ["\u{3002}", "\u{FF61}"].map(str::as_bytes);
    stops.into_iter().find_map(|stop| {
        memchr::memmem::find_iter(domain, stop).find(|&at| {
            let goes_on_in_ascii = domain.get(at + stop.len()).is_none_or(u8::is_ascii);
            let host = &domain[..at];
            !goes_on_in_ascii && is_of_labels(host) && tlds.are_known(host, bytes::classes(host))
        })
    })
}

/// How many places are tried at most where a word may be glued to a domain.
const TRIED: usize = 24;

/// Where `host.org获取`, `host.org-ra` and `例子.中国谢谢` end: the longest part of them with a known TLD.
fn without_what_is_glued(domain: &[u8], last: usize, seen: u16, tlds: &mut impl TldLookup) -> Option<usize> {
    let mut is_known = |end: &usize| {
        let host = &domain[..*end];
        is_of_labels(host) && tlds.are_known(host, bytes::classes(host))
    };
    let last_from = domain.len() - last;
    // ‘…@host.orgTel. 12’, and the escapes of Perl's documentation: `host.orgE<gt>`.
    let capital = domain[last_from..].iter().position(u8::is_ascii_uppercase).filter(|&at| at > 1);
    if let Some(end) = capital.map(|at| last_from + at).filter(&mut is_known) {
        return Some(end);
    }
    if let Some(hyphen) = memchr::memchr(b'-', &domain[last_from..]).filter(|&at| at > 0) {
        let end = last_from + hyphen;
        // What stands behind the hyphen is an ending of the language and not a label.
        if !domain[last_from..].starts_with(b"xn--") && is_known(&end) {
            return Some(end);
        }
    }
    if seen & HIGH == 0 {
        return None;
    }
    if let Some(end) = scripts::first_change_from_ascii(domain).filter(&mut is_known) {
        return Some(end);
    }
    let text = std::str::from_utf8(domain).ok()?;
    let is_border = |&(_, c): &(usize, char)| c == '.' || scripts::is_apart_from_ascii(c);
    text.char_indices().rev().take(TRIED).filter(is_border).map(|(at, _)| at).find(is_known)
}

fn is_of_labels(host: &[u8]) -> bool {
    !host.ends_with(b".") && (!host.is_ascii() || host.contains(&b'.'))
}

fn is_version(domain: &[u8]) -> bool {
    let number = domain.strip_prefix(b"v").unwrap_or(domain);
    number.first().is_some_and(u8::is_ascii_digit)
        && number.iter().filter(|b| b.is_ascii_digit() || **b == b'.').count() * 2 > number.len()
}

fn is_file_ending(last: &[u8]) -> bool {
    const FILES: &[&str] = &[
        "png", "jpg", "jpeg", "gif", "svg", "webp", "ico", "bmp", "tif", "tiff", "css", "js", "ts", "json",
        "html", "htm", "xml", "txt", "csv", "pdf", "doc", "docx", "xls", "xlsx", "log", "bak", "yml", "yaml",
        "toml", "gz", "tgz", "exe", "dll", "service", "socket", "timer", "mount", "target", "ttf", "woff",
        "woff2", "mp3", "mp4", "wav", "eml", "php", "rb", "go", "java", "class", "jar",
    ];
    FILES.iter().any(|file| last.eq_ignore_ascii_case(file.as_bytes()))
}
