//! What a text is that has no @: a telephone number, a web address, something that lacks no more than the @, or words.

use crate::characters::bytes::{self, ATEXT, DOT, HIGH};
use crate::model::codes::Code;
use crate::profile::cell_kind::CellKind;

/// What is wrong with `text`, which has no @.
pub(crate) fn code(text: &[u8]) -> Code {
    let text = bytes::trim(text);
    match CellKind::of(text, 0) {
        CellKind::Telephone => Code::Telephone,
        CellKind::WebAddress if looks_like_web(text) => Code::WebAddress,
        _ if lacks_only_the_at(text) => Code::NoAtSign,
        _ => Code::NotAnAddress,
    }
}

/// Whether it has a scheme, `www.` or a path: a bare name with dots may as well be an address without its @.
fn looks_like_web(text: &[u8]) -> bool {
    let starts_like_web = text.get(..4).is_some_and(|start| start.eq_ignore_ascii_case(b"www."));
    starts_like_web || memchr::memmem::find(text, b"://").is_some() || text.contains(&b'/')
}

/// One word with a dot in it, or with the @ written out.
fn lacks_only_the_at(text: &[u8]) -> bool {
    let is_of_address = |&b: &u8| bytes::is(b, ATEXT | DOT | HIGH);
    let inner_dot = text.iter().skip(1).rev().skip(1).any(|&b| b == b'.');
    let has_letter = text.iter().any(|b| b.is_ascii_alphabetic() || *b >= 0x80);
    text.is_empty() || inner_dot && has_letter && text.iter().all(is_of_address) || has_written_at(text)
}

/// `ada(at)host.org`, `ada at host dot org`.
fn has_written_at(text: &[u8]) -> bool {
    let lower = text.to_ascii_lowercase();
    let at = |word: &[u8]| memchr::memmem::find(&lower, word).filter(|&at| at > 0).map(|at| at + word.len());
    if [&b"(at)"[..], b"[at]", b"{at}", b"<at>"].into_iter().find_map(at).is_some() {
        return true;
    }
    // Words that say where something is have more around it.
    at(b" at ").is_some_and(|behind| {
        let domain = &lower[behind..];
        let words = lower.split(|&b| b == b' ').filter(|word| !word.is_empty()).count();
        domain.contains(&b'.') && words == 3 || memchr::memmem::find(domain, b" dot ").is_some() && words == 5
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_without_an_at_sign() {
        for (text, code) in [
            ("01632 960413", Code::Telephone),
            ("Tel. +44 1632 960413", Code::Telephone),
            ("https://fernhollow.org/join", Code::WebAddress),
            ("www.fernhollow.org", Code::WebAddress),
            ("fernhollow.org/anna", Code::WebAddress),
            ("anna.host.org", Code::NoAtSign),
            ("fernhollow.org", Code::NoAtSign),
            ("annagmail.com", Code::NoAtSign),
            ("anna(at)gmail.com", Code::NoAtSign),
            ("anna at gmail.com", Code::NoAtSign),
            ("anna at gmail dot com", Code::NoAtSign),
            ("meet me at the dot com boom", Code::NotAnAddress),
            ("", Code::NoAtSign),
            ("Anna Lovell", Code::NotAnAddress),
            ("anna", Code::NotAnAddress),
            ("see the sheet", Code::NotAnAddress),
            ("12", Code::NotAnAddress),
            ("1.5", Code::NotAnAddress),
        ] {
            assert_eq!(super::code(text.as_bytes()), code, "{text}");
        }
    }
}
