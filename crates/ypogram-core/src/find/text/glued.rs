//! What stands glued in front of a local part and is no part of it.

use crate::characters::bytes::{self, DOT, LDH, SEPARATES};
use crate::characters::decoded;
use crate::find::text::tld_lookup::TldLookup;
use crate::judge::local_traits::is_signed_sender;

/// How many bytes at the start of `run` belong to what is glued in front: a label and its `=`, a path, an escape unless it stands
/// in a URI. `before` is what stands in front of the run.
pub(super) fn in_front(run: &[u8], before: Option<u8>, is_uri: bool, tlds: &mut impl TldLookup) -> usize {
    if is_rewritten_sender(run, tlds) || is_relay_path(run) {
        return 0;
    }
    let mut cut =
        run.iter().rposition(|&b| bytes::is(b, SEPARATES) && !matches!(b, b'%' | b'&')).map_or(0, |i| i + 1);
    // In a query, `&` separates as well.
    if run[..cut].contains(&b'=') || run[..cut].contains(&b'?') {
        cut = run.iter().rposition(|&b| b == b'&').map_or(cut, |i| cut.max(i + 1));
    }
    // `=3Cada@…`: an escape of quoted-printable (RFC 2045 §6.7).
    if cut > 0 && run[cut - 1] == b'=' && run.get(cut..cut + 2).is_some_and(is_escaped_separator) {
        cut += 2;
    }
    // `%3Aada@…`: an escape that stands for a separator.
    if let Some(escape) = memchr::memrchr(b'%', run)
        && escape >= cut
        && !is_uri
        && run.get(escape + 1..escape + 3).is_some_and(is_separator_in_hex)
    {
        cut = escape + 3;
    }
    // `\nada@…` in a string literal: the letter belongs to the escape.
    if cut == 0 && before == Some(b'\\') && matches!(run.first(), Some(b'n' | b't' | b'r')) {
        cut = 1;
    }
    // An ellipsis ends what stands before it.
    match memchr::memmem::rfind(run, b"...") {
        Some(dots) if dots + 3 > cut => dots + 3,
        _ => cut,
    }
}

/// Whether two hexadecimal digits stand for an ASCII character that separates words.
fn is_separator_in_hex(digits: &[u8]) -> bool {
    let byte = decoded::percent_byte(&[b'%', digits[0], digits[1]]);
    byte.is_some_and(|b| {
        b.is_ascii() && !b.is_ascii_alphanumeric() && !matches!(b, b'.' | b'_' | b'-' | b'+')
    })
}

/// The same for what quoted-printable escapes, always in capitals.
fn is_escaped_separator(digits: &[u8]) -> bool {
    is_separator_in_hex(digits) && !digits.iter().any(u8::is_ascii_lowercase)
}

/// Whether a mail system wrote another address into the local part: the recipient into that of a bounce
/// (`bounces+anna=acme.com`), or a signed sender (`prvs=…=anna`, `SRS0=…=acme.com=anna`).
fn is_rewritten_sender(run: &[u8], tlds: &mut impl TldLookup) -> bool {
    let Some(last) = memchr::memrchr(b'=', run) else { return false };
    if is_signed_sender(run) {
        return true;
    }
    let (head, host) = (&run[..last], &run[last + 1..]);
    let of_one_word = !head.iter().any(|&b| bytes::is(b, SEPARATES) && b != b'=');
    // No label has a tag.
    if of_one_word && head.contains(&b'+') {
        return true;
    }
    let is_bounce = || {
        let numbered = head.contains(&b'-') && head.iter().any(u8::is_ascii_digit);
        let named = [&b"bounce"[..], b"return", b"owner"]
            .iter()
            .any(|word| head.len() > word.len() && head[..word.len()].eq_ignore_ascii_case(word));
        numbered || named
    };
    let is_host = host.contains(&b'.') && host.iter().all(|&b| bytes::is(b, LDH | DOT));
    is_host && of_one_word && is_bounce() && tlds.are_known(host, bytes::classes(host))
}

/// Whether hosts that pass mail on stand in front: `host!anna` (RFC 976). A sentence that ends in an exclamation mark starts with
/// a capital, or is of more words.
fn is_relay_path(run: &[u8]) -> bool {
    let Some(last) = memchr::memrchr(b'!', run) else { return false };
    let is_host = |host: &[u8]| {
        !host.is_empty()
            && host.iter().all(|&b| bytes::is(b, LDH | DOT) && !b.is_ascii_uppercase())
            && host.iter().any(u8::is_ascii_alphabetic)
    };
    run[..last].split(|&b| b == b'!').all(is_host)
        && !run[last + 1..].iter().any(|&b| bytes::is(b, SEPARATES))
        && last + 1 < run.len()
}
