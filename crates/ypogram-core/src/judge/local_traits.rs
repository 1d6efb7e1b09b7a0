//! What a local part means beyond its mailbox: the one place that says it, for the full examination and for the fast path.

use crate::characters::bytes::{self, SEPARATES};
use crate::characters::web_prefix::starts_like_web;
use crate::data::local_words;
use crate::data::providers;
use crate::data::public_suffix;
use crate::judge::facts::DomainFacts;
use crate::model::codes::{Code, CodeSet};
use crate::policy::job_policy::Policy;

/// What a local part means.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct LocalTraits {
    /// Where its tag starts, with the separator.
    pub(crate) tag: Option<usize>,
    /// What follows from it as a word.
    pub(crate) word: Option<Code>,
    /// It starts as a web address does.
    pub(crate) like_web: bool,
    /// Its provider cannot have issued it.
    pub(crate) not_issued: bool,
}

/// A local part in lower case.
#[derive(Clone, Copy)]
pub(crate) struct Folded<'a> {
    pub(crate) text: &'a [u8],
    /// Where its first plus sign stands, unless that is its first character.
    pub(crate) plus: Option<usize>,
    /// There may be other characters in it than letters, digits and dots.
    pub(crate) signs: bool,
}

/// What the local part `local` means at `domain`, which has these facts.
#[inline(always)]
pub(crate) fn local_traits(
    local: Folded<'_>,
    domain: &[u8],
    facts: DomainFacts,
    policy: &Policy,
) -> LocalTraits {
    let Folded { text: local, plus, signs } = local;
    let rule = &policy.rules[usize::from(facts.rule)];
    // Where no rule is known, a plus is taken for the separator.
    let tag = match rule.tag {
        _ if facts.rule == 0 => plus,
        Some(b'+') => plus,
        None => None,
        Some(separator) => memchr::memchr(separator, local).filter(|&at| at > 0),
    };
    let base = tag.map_or(local, |at| &local[..at]);
    LocalTraits {
        tag,
        word: local_words::code(base, domain).filter(|&code| !policy.lists.replaced.contains(code)),
        like_web: starts_like_web(local),
        not_issued: facts.rule > 0 && !rule.can_issue(base, signs),
    }
}

impl LocalTraits {
    /// The findings that follow.
    pub(crate) fn codes(self) -> CodeSet {
        let told = [
            (self.tag.is_some(), Code::Tagged),
            (self.like_web, Code::TypingSlip),
            (self.not_issued, Code::NotIssued),
        ];
        let codes = told.into_iter().filter(|(holds, _)| *holds).map(|(_, code)| code);
        codes.chain(self.word).fold(CodeSet::EMPTY, CodeSet::with)
    }
}

/// Whether a local part may have [rare traits](rare_traits); the fast path leaves those to the full examination.
/// `seen` are the classes of its characters.
#[inline]
pub(crate) fn may_have_rare_traits(local: &[u8], seen: u16) -> bool {
    seen & SEPARATES != 0 || begins_oddly(local)
}

/// The same where it is known to have no other signs than `'+-_`.
#[inline]
pub(crate) fn begins_oddly(local: &[u8]) -> bool {
    matches!(local.first(), Some(b'+' | b'-' | b'\''))
}

/// What few local parts show: that they are masked, never filled in, left half encoded, read in another encoding, meant for
/// another host, or begin with a sign that hardly belongs to them. `local` is as written.
pub(crate) fn rare_traits(local: &[u8]) -> CodeSet {
    let mut codes = CodeSet::EMPTY;
    match local.first() {
        Some(b'=' | b'+' | b'-') => codes.insert(Code::FormulaLike),
        Some(b'\'' | b'/') => codes.insert(Code::OddBeginning),
        Some(b'*') if !local[1..].contains(&b'*') => codes.insert(Code::OddBeginning),
        _ => {}
    }
    if is_template(local) {
        codes.insert(Code::Template);
    } else if relay_meant(local).is_some() || is_bang_path(local) {
        codes.insert(Code::Relayed);
    } else if has_residue(local) {
        codes.insert(Code::Residue);
    }
    if !local.is_ascii() && std::str::from_utf8(local).is_ok_and(has_mojibake) {
        codes.insert(Code::Mojibake);
    }
    codes
}

/// A mask such as `a***a`, or a placeholder such as `%EMAIL%`, `{name}`, `${mail}`, `#user#`.
pub(crate) fn is_template(local: &[u8]) -> bool {
    let enclosed = |sign: u8| {
        let first = memchr::memchr(sign, local);
        let last = memchr::memrchr(sign, local);
        matches!((first, last), (Some(first), Some(last)) if last > first + 2
            && local[first + 1..last].iter().all(|b| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'-' | b'.'))
            && (first == 0 || last + 1 == local.len()))
    };
    let stars_behind_letters = (1..local.len()).any(|at| {
        local[at] == b'*'
            && local[at - 1].is_ascii_alphanumeric()
            && local.get(at + 1).is_none_or(u8::is_ascii_alphanumeric)
    });
    let masked = stars_behind_letters
        || local.windows(2).any(|pair| pair == b"**")
        || memchr::memmem::find(local, "•".as_bytes()).is_some();
    let braces =
        memchr::memchr(b'{', local).zip(memchr::memrchr(b'}', local)).is_some_and(|(open, close)| {
            let inside = local.get(open + 1..close).unwrap_or_default();
            inside.iter().any(u8::is_ascii_alphanumeric)
        });
    masked || braces || enclosed(b'%') || enclosed(b'#') || enclosed(b'$')
}

/// `tess%host.org`: the mailbox that the percent sign hides, as the old hack of mail relays had it.
pub(crate) fn relay_meant(local: &[u8]) -> Option<Vec<u8>> {
    let at = memchr::memrchr(b'%', local).filter(|&at| at > 0)?;
    let host = &local[at + 1..];
    let is_host = host.contains(&b'.')
        && host.iter().all(|&b| b.is_ascii_alphanumeric() || matches!(b, b'.' | b'-'))
        && public_suffix::of(&host.to_ascii_lowercase()).is_some();
    is_host.then(|| [&local[..at], b"@", host].concat())
}

/// `host!anna`: a path of hosts (RFC 976).
fn is_bang_path(local: &[u8]) -> bool {
    memchr::memchr(b'!', local).is_some_and(|at| at > 0 && at + 1 < local.len())
}

/// Whether a mail system signed the sender in front of the local part: `prvs=…=anna`, `SRS0=…=acme.com=anna`.
pub(crate) fn is_signed_sender(local: &[u8]) -> bool {
    const SIGNED: [&[u8]; 9] =
        [b"prvs=", b"msprvs1=", b"btv1==", b"srs0=", b"srs0+", b"srs0-", b"srs1=", b"srs1+", b"srs1-"];
    SIGNED.iter().any(|start| local.len() > start.len() && local[..start.len()].eq_ignore_ascii_case(start))
}

/// Remains of percent-encoding (`%20anna`), of character references (`&nbsp`, `amp;`) or of quoted-printable (`=20`).
fn has_residue(local: &[u8]) -> bool {
    let is_hex = |b: Option<&u8>| b.is_some_and(u8::is_ascii_hexdigit);
    let mut signs = memchr::memchr2_iter(b'%', b'=', local);
    let encoded = signs.any(|at| {
        let upper = |b: Option<&u8>| b.is_some_and(|b| b.is_ascii_digit() || b.is_ascii_uppercase());
        let pair = (local.get(at + 1), local.get(at + 2));
        let digits = pair.0.is_some_and(u8::is_ascii_digit);
        let is_quoted = || at > 0 && upper(pair.1) && !is_signed_sender(local);
        is_hex(pair.0) && is_hex(pair.1) && digits && (local[at] == b'%' || is_quoted())
    });
    encoded || entity_names().any(|name| memchr::memmem::find(local, name).is_some())
}

/// What is left of character references where the semicolon, or all but it, was lost.
pub(crate) fn entity_names() -> impl Iterator<Item = &'static [u8]> {
    [&b"&nbsp"[..], b"&amp", b"&lt", b"&gt", b"&quot", b"&apos", b"&#", b"&shy", b"&zwnj"].into_iter()
}

/// Whether `text` has UTF-8 that was read as Windows-1252, or the sign for what could not be read.
pub(crate) fn has_mojibake(text: &str) -> bool {
    text.contains('\u{FFFD}') || unscrambled(text).is_some()
}

/// `text` as it was before its UTF-8 was read as Windows-1252; none where it was not.
pub(crate) fn unscrambled(text: &str) -> Option<String> {
    // Two characters outside ASCII side by side, of which the first may be the first byte of more.
    let may_start = |c: char| ('\u{C2}'..='\u{F4}').contains(&c);
    if text.is_ascii()
        || !text.chars().zip(text.chars().skip(1)).any(|(c, next)| may_start(c) && !next.is_ascii())
    {
        return None;
    }
    let mut out = Vec::with_capacity(text.len());
    let mut found = false;
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        let width = match windows_1252(c) {
            Some(0xC3..=0xDF) | Some(0xC2) => 2,
            Some(0xE0..=0xEF) => 3,
            Some(0xF0..=0xF4) => 4,
            _ => 0,
        };
        let bytes: Vec<u8> = rest.chars().take(width).map_while(windows_1252).collect();
        match std::str::from_utf8(&bytes) {
            Ok(read) if width > 0 && bytes.len() == width && read.chars().count() == 1 => {
                out.extend_from_slice(&bytes);
                found = true;
                rest = &rest[rest.chars().take(width).map(char::len_utf8).sum::<usize>()..];
            }
            _ => {
                out.extend_from_slice(c.encode_utf8(&mut [0; 4]).as_bytes());
                rest = &rest[c.len_utf8()..];
            }
        }
    }
    let read = found.then(|| String::from_utf8(out).ok()).flatten()?;
    Some(read.chars().filter(|&c| !bytes::is_invisible(c)).collect())
}

/// The byte that Windows-1252 has for a character outside ASCII.
fn windows_1252(c: char) -> Option<u8> {
    const HIGH: &str = "€\u{81}‚ƒ„…†‡ˆ‰Š‹Œ\u{8D}Ž\u{8F}\u{90}‘’“”•–—˜™š›œ\u{9D}žŸ";
    match c {
        '\u{A0}'..='\u{FF}' => Some(c as u8),
        '\u{80}'..='\u{9F}' => Some(c as u8),
        c => HIGH.chars().position(|high| high == c).map(|place| 0x80 + place as u8),
    }
}

/// A domain that stands twice, as `gmail.comgmail.com` does, or a provider's whose TLD does, as in `gmail.com.com`: once.
pub(crate) fn once(domain: &[u8]) -> Option<&[u8]> {
    let half = domain.len() / 2;
    if domain.len().is_multiple_of(2) && domain[..half] == domain[half..] && domain[..half].contains(&b'.') {
        return Some(&domain[half..]);
    }
    let dot = memchr::memrchr(b'.', domain)?;
    let (before, tld) = domain.split_at(dot);
    // Elsewhere `host.org.org` is one name below another.
    let stands_twice = before.ends_with(tld) && providers::find(before).is_some();
    stands_twice.then_some(before)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rare_traits_of_local_parts() {
        for (local, codes) in [
            ("a***a", "template"),
            ("%EMAIL%", "template"),
            ("{name}", "template"),
            ("a**", "template"),
            ("tess%host.org", "relayed"),
            ("host!anna", "relayed"),
            ("%20anna", "residue"),
            ("anna%2Fb", "residue"),
            ("&nbspanna", "residue"),
            ("anna&ampb", "residue"),
            ("jÃ¶rg", "mojibake"),
            ("j\u{FFFD}rg", "mojibake"),
            ("=anna", "formula-like"),
            ("+anna", "formula-like"),
            ("-anna", "formula-like"),
            ("'anna", "odd-beginning"),
            ("/anna", "odd-beginning"),
            ("jörg", ""),
            ("ãna", ""),
            ("o'neil", ""),
            ("a+b=c", ""),
            ("prvs=1234ab=anna", ""),
            ("anna=3Dx", "residue"),
            ("r&d", ""),
            ("anna%", ""),
            ("bounces+anna=acme.com", ""),
        ] {
            let found: Vec<_> = rare_traits(local.as_bytes()).iter().map(Code::name).collect();
            assert_eq!(found.join(" "), codes, "{local}");
            let seen = local.bytes().fold(0, |seen, b| seen | bytes::CLASS[usize::from(b)]);
            assert!(
                codes.is_empty() || !local.is_ascii() || may_have_rare_traits(local.as_bytes(), seen),
                "{local}"
            );
        }
    }

    #[test]
    fn what_stands_twice_stands_once() {
        for (domain, meant) in [
            ("gmail.comgmail.com", Some("gmail.com")),
            ("gmail.com.com", Some("gmail.com")),
            ("host.com.com", None),
            ("gmail.com", None),
            ("co.co", None),
            ("com.com", None),
            ("host.co.uk", None),
        ] {
            assert_eq!(once(domain.as_bytes()), meant.map(str::as_bytes), "{domain}");
        }
        assert_eq!(unscrambled("jÃ¶rg").as_deref(), Some("jörg"));
        assert_eq!(unscrambled("jörg"), None);
    }
}
