//! What touches an address and is no part of it: the signs of a formula, what is left of an encoding, a sign in front.

use crate::cell::part::Piece;
use crate::cell::peel;
use crate::codes::Code;
use crate::local_traits::entity_names;
use crate::policy::Policy;
use crate::span::Span;
use crate::text;
use crate::wrapping::Wrapping;

/// Reduces the text to the address in it where something else touches that which is known; returns whether it did.
pub(super) fn reduced(text: &[u8], policy: &Policy, piece: &mut Piece) -> bool {
    let all = piece.text;
    let (address, code, reason) = if let Some(formula) = without_formula(text, all, policy) {
        (formula, Code::FormulaLike, "the signs of a formula were removed")
    } else if let Some(address) = without_residue(text, all) {
        (address, Code::Residue, "what was left of an encoding was removed")
    } else if let Some(sign) = peel::unclosed(all.of(text)) {
        (Span::new(all.start + sign, all.end), Code::OddBeginning, "the sign in front was removed")
    } else {
        return false;
    };
    let in_front = Span::new(all.start, address.start);
    piece.mark(code, if in_front.is_empty() { Span::new(address.end, all.end) } else { in_front });
    piece.meant = Some((address.of(text).to_vec(), reason));
    piece.repairs = piece.repairs.union(Wrapping::Marked.repairs());
    (piece.text, piece.form) = (address, Wrapping::Marked.form());
    true
}

/// `="ada@host.org"` and `=HYPERLINK("mailto:ada@host.org", …)`, as spreadsheets write them: the address.
fn without_formula(text: &[u8], span: Span, policy: &Policy) -> Option<Span> {
    let formula = span.of(text).strip_prefix(b"=").filter(|formula| formula.contains(&b'"'))?;
    let mut first = None;
    text::find(formula, policy, |hit| {
        first.get_or_insert(hit.bare.shifted(span.start + 1));
    });
    first
}

/// `ada@host.org%20`, `ada@host.org&nbsp`: the address in front of what is left of an encoding.
fn without_residue(text: &[u8], span: Span) -> Option<Span> {
    let at = memchr::memchr(b'@', span.of(text))?;
    let end = memchr::memchr2(b'%', b'&', &span.of(text)[at..]).map(|end| at + end)?;
    let (address, rest) = span.of(text).split_at(end);
    let encodes = |code: &[u8]| code.len() == 3 && code[1..].iter().all(u8::is_ascii_hexdigit);
    let is_residue = rest.chunks(3).all(encodes) || entity_names().any(|name| rest.starts_with(name));
    (is_residue && peel::is_clean(address)).then(|| Span::new(span.start, span.start + end))
}

/// The first character that keeps `address` from being one.
pub(super) fn offending(address: &[u8]) -> Span {
    let place = (0..address.len()).find(|&at| !peel::is_one_word(&address[at..=at]) && address[at] < 0x80);
    let at = place.or_else(|| memchr::memchr(b'@', address).map(|at| at.saturating_sub(1))).unwrap_or(0);
    Span::new(at, (at + 1).min(address.len()))
}

/// The address that a broken one starts with, where something that is no part of any follows, or the one without the quotes in it.
pub(super) fn meant_by_broken(address: &[u8], policy: &Policy) -> Option<(Vec<u8>, &'static str)> {
    let at = memchr::memchr(b'@', address).filter(|_| memchr::memchr_iter(b'@', address).count() == 1)?;
    let (local, domain) = address.split_at(at);
    if peel::is_one_word(local) {
        let mut first = None;
        text::find(address, policy, |hit| {
            first.get_or_insert(hit.bare);
        });
        // Behind a comma the domain may go on.
        let ends_there = |bare: &Span| address.get(bare.end).is_some_and(|b| !matches!(b, b',' | b';'));
        let bare = first.filter(|bare| bare.start == 0 && ends_there(bare))?;
        return Some((bare.of(address).to_vec(), "what follows it was removed"));
    }
    let without: Vec<u8> = local.iter().copied().filter(|b| *b != b'"').collect();
    let quotes_only = without.len() < local.len() && peel::is_one_word(&without) && peel::is_one_word(domain);
    quotes_only.then(|| ([&without[..], domain].concat(), "quotation marks inside were removed"))
}
