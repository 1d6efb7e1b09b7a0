//! What touches an address and is no part of it: the signs of a formula, what is left of an encoding, a sign in front.

use crate::find::cell::peel;
use crate::find::cell::piece::Piece;
use crate::find::text;
use crate::judge::local_traits::entity_names;
use crate::model::codes::Code;
use crate::model::span::Span;
use crate::phrases::cell_words::{self as words, Label};
use crate::policy::job_policy::Policy;
use crate::syntax::wrapping::Wrapping;

/// Reduces the text to the address in it where something else touches that which is known; returns whether it did.
pub(super) fn reduced(text: &[u8], policy: &Policy, piece: &mut Piece) -> bool {
    let all = piece.text;
    if let Some(address) = without_script(text, all, policy) {
        touched_by_words(text, address, piece);
        return true;
    }
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

/// Leaves out the words that touch `address`: a label, or others that somebody has to look at.
fn touched_by_words(text: &[u8], address: Span, piece: &mut Piece) {
    let all = std::mem::replace(&mut piece.text, address);
    let dots = text[address.end..all.end].iter().take_while(|b| **b == b'.').count();
    let (before, after) = (Span::new(all.start, address.start), Span::new(address.end + dots, all.end));
    if after.is_empty() && words::label(before.of(text)) == Some(Label::Address) {
        return piece.labelled();
    }
    piece.with_words(Code::WordBeside, [before, after].into_iter().filter(|words| !words.is_empty()));
    piece.meant = Some((address.of(text).to_vec(), "words of another script that touch it were removed"));
}

/// `邮箱anna@host.org`, `anna@host.org获取`: the address without words of a script that has no part in it, which touch it.
pub(super) fn without_script(text: &[u8], span: Span, policy: &Policy) -> Option<Span> {
    let word = span.of(text);
    if word.is_ascii() || memchr::memchr_iter(b'@', word).count() != 1 {
        return None;
    }
    let mut only = None;
    text::find(word, policy, |hit| {
        only.get_or_insert(hit.bare);
    });
    let is_script = |part: &[u8]| {
        part.utf8_chunks().all(|chunk| {
            let of_script =
                |c: char| text::is_apart_from_ascii(c) || !c.is_ascii_alphanumeric() && c.is_ascii();
            chunk.invalid().is_empty() && chunk.valid().chars().all(of_script)
        })
    };
    only.filter(|bare| bare.len() < word.len())
        .filter(|bare| is_script(&word[..bare.start]) && is_script(&word[bare.end..]))
        .map(|bare| bare.shifted(span.start))
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
