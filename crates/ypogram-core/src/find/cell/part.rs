//! Reads one part of a cell: where its addresses stand, and what is reported about each.

use smallvec::SmallVec;

use crate::find::cell::aside::{Aside, has_words, set_aside};
use crate::find::cell::attached::{meant_by_broken, offending, reduced, without_script};
use crate::find::cell::beside;
use crate::find::cell::cores::{Core, cores};
use crate::find::cell::list;
use crate::find::cell::peel::{self, Peeled};
use crate::find::cell::piece::Piece;
use crate::find::cell::piece::Pieces;
use crate::find::cell::tokens::Words;
use crate::find::cell::trim::trimmed;
use crate::find::cell::{Beside, apart, members};
use crate::judge::local_traits::unscrambled;
use crate::model::codes::{Code, CodeSet};
use crate::model::found::Form;
use crate::model::repair::Repair;
use crate::model::span::Span;
use crate::phrases::contact_remark;
use crate::policy::job_policy::Policy;
use crate::syntax::wrapping::CLOSING_SIGNS;

/// What stands in `text`, which has an @.
pub(super) fn pieces(text: &[u8], beside: Beside<'_>, policy: &Policy) -> Pieces {
    let mut out = Pieces::new();
    let all = Span::new(0, text.len());
    let mut whole = Peeled::of(trimmed(text, all));
    let outside = whole.text;
    list::drop_nothing(text, &mut whole);
    while whole.take_whole_layer(text) {}
    if is_whole(whole.text.of(text)) && without_script(text, whole.text, policy).is_none() {
        out.push(Piece::of(outside, whole));
    } else {
        let parts = match memchr::memchr_iter(b'@', whole.text.of(text)).nth(1) {
            Some(_) => list::parts(text, whole.text),
            None => SmallVec::from_slice(&[whole.text]),
        };
        for part in parts {
            read_part(Within { text, beside, policy }, part, whole, &mut out);
        }
    }
    if let [only] = &mut out[..] {
        // What encloses it stands with it.
        only.as_found = outside;
        if outside.len() < text.len() {
            only.repairs.insert(Repair::Trimmed);
        }
    } else {
        for piece in &mut out {
            piece.form = Form::Several;
            piece.repairs.insert(Repair::OneOfSeveral);
        }
        members::tell_replaced(text, &mut out);
        members::tell_unread(text, &mut out);
    }
    out
}

/// Whether that is one address, be it a faulty one, and nothing to take off.
fn is_whole(text: &[u8]) -> bool {
    let ends_in_sign = text.last().is_some_and(|last| CLOSING_SIGNS.contains(last));
    let may_be_list =
        memchr::memchr2(b'/', b'|', text).is_some() && memchr::memchr_iter(b'@', text).count() > 1;
    let behind_at = memchr::memchr(b'@', text).map_or(&text[..0], |at| &text[at..]);
    let has_residue = memchr::memchr2(b'%', b'&', behind_at).is_some();
    peel::is_clean(text) && !ends_in_sign && !may_be_list && !has_residue && peel::unclosed(text).is_none()
}

/// A cell, with what stands beside it in its record, and the policy it is read by.
#[derive(Clone, Copy)]
struct Within<'t> {
    text: &'t [u8],
    beside: Beside<'t>,
    policy: &'t Policy,
}

/// Adds the addresses of one part of a list, or of a cell that is none.
fn read_part(within: Within<'_>, part: Span, whole: Peeled, out: &mut Pieces) {
    let Within { text, policy, .. } = within;
    let mut shown: SmallVec<[u8; 256]> = SmallVec::new();
    let (mut aside, mut text, mut warned) = (Aside::default(), text, false);
    if has_words(part.of(text)) {
        warned = contact_remark::is_in(part.of(text));
        shown.extend_from_slice(text);
        aside = set_aside(&mut shown, part);
        text = &shown;
    }
    let cores = cores(text, part, whole.enclosed, policy);
    let first = out.len();
    for (nth, core) in cores.iter().enumerate() {
        let from = nth.checked_sub(1).map_or(part.start, |before| cores[before].outer.end);
        let is_last = nth + 1 == cores.len();
        let before = Span::new(from, core.outer.start);
        let after = Span::new(core.outer.end, if is_last { part.end } else { core.outer.end });
        let mut peeled = core.peeled;
        peeled.repairs = peeled.repairs.union(whole.repairs);
        let mut piece = Piece::of(if cores.len() == 1 { part } else { core.outer }, peeled);
        if piece.form == Form::Plain {
            piece.form = whole.form;
        }
        aside.note(&mut piece);
        let before = beside::without_label(text, before, &mut piece);
        let words = Words { before, after, angle: core.angle, between: nth > 0 };
        read_beside(Within { text, ..within }, core, words, &mut piece);
        out.push(piece);
    }
    for piece in &mut out[first..] {
        if warned {
            let rejects = piece.codes.intersection(CodeSet::of(&[Code::BrokenAddress]));
            piece.codes = rejects.with(Code::DoNotContact);
            let comments = aside.comments.iter().copied();
            if piece.remark.is_empty() {
                piece.remark.extend(piece.name.take().into_iter().chain(comments));
                piece.remark.dedup();
            }
        }
    }
}

/// What is reported about one address by what touches it and by the words beside it.
fn read_beside(within: Within<'_>, core: &Core, words: Words, piece: &mut Piece) {
    let Within { text, beside, policy } = within;
    if reduced(text, policy, piece) {
        if piece.codes.contains(Code::WordBeside) {
            piece.with_other_words(text, words);
        }
        return;
    }
    let address = piece.text.of(text);
    if let Some(read) = std::str::from_utf8(address).ok().and_then(unscrambled)
        && peel::is_clean(read.as_bytes())
    {
        piece.mark(Code::Mojibake, piece.text);
        piece.meant = Some((read.into_bytes(), "characters were read in the encoding they were written in"));
        return;
    }
    if let Some(opening) = apart::opening_apostrophe(text, piece.text, words) {
        piece.text.start = opening;
        return piece.mark(Code::BrokenAddress, Span::new(opening, opening + 1));
    }
    if !peel::is_clean(address) {
        piece.mark(Code::BrokenAddress, offending(address).shifted(piece.text.start));
        piece.meant = meant_by_broken(address, policy);
        return;
    }
    let is_blank = |span: Span| span.of(text).trim_ascii().is_empty();
    if is_blank(words.before) && is_blank(words.after) {
        return;
    }
    if !core.angle
        && let Some((broken, marked)) = apart::apart(text, piece.text, words, policy)
    {
        piece.text = broken;
        piece.mark(Code::BrokenAddress, marked);
        return;
    }
    beside::read(text, words, beside, piece);
}
