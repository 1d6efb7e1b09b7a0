//! Reads a cell that should hold an address and nothing else: finds what stands in it, and in which form. Such a cell is read
//! strictly: what stands in it is recognised as a whole, or somebody has to look.
//!
//! The first reading that applies decides: nothing there; one address, or a list of them, in wrappings that mean nothing; a
//! name beside it; a remark that nobody must write there; one address in place of another; a broken address; a word that may
//! belong to it; any other words.

mod apart;
mod aside;
mod attached;
mod beside;
mod cores;
mod list;
mod members;
mod name_beside;
mod part;
mod peel;
mod piece;
mod record_names;
mod tokens;
mod trim;

use std::borrow::Cow;

use smallvec::SmallVec;

use crate::characters::bytes::{self, ATEXT, DOT, SEPARATES};
use crate::characters::decoded::{self, Decoded};
use crate::find::cell::trim::trimmed;
use crate::judge::simple_wrapping::SimpleWrapping;
use crate::model::found::{Form, Found, Meant, Place};
use crate::model::repair::{Repair, Repairs};
use crate::model::span::Span;
pub use crate::phrases::cell_words::says_nothing;
pub use crate::phrases::contact_remark::{
    is_in as says_do_not_contact, is_in_start as starts_with_do_not_contact,
};
use crate::policy::job_policy::Policy;
use crate::syntax::wrapping::{CLOSING_SIGNS, Wrapping};
use piece::Piece;
pub use record_names::Beside;

/// Appends what stands in the address cell `cell` to `out`: nothing where it is blank or says that there is no address, else at
/// least one address, be it a faulty one.
///
/// ```
/// use ypogram_core::{Code, Form, Policy, cell};
/// let mut found = Vec::new();
/// cell::read(b"\"Lovell, Ada\" <ada@fernhollow.org>", &Policy::default(), &mut found);
/// assert_eq!(&*found[0].text, b"ada@fernhollow.org");
/// assert_eq!(found[0].form, Form::Named);
///
/// found.clear();
/// cell::read(b"a(z@fernhollow.org", &Policy::default(), &mut found);
/// assert!(found[0].codes.contains(Code::BrokenAddress));
///
/// found.clear();
/// cell::read(b"n/a", &Policy::default(), &mut found);
/// assert!(found.is_empty());
/// ```
pub fn read<'a>(cell: &'a [u8], policy: &Policy, out: &mut Vec<Found<'a>>) {
    read_beside(cell, Beside::default(), policy, out);
}

/// The same for the cell of a record of which more is known.
///
/// ```
/// use ypogram_core::{Code, Form, Policy, cell};
/// let mut found = Vec::new();
/// let beside = cell::Beside { names: &[b"Gwen Dunmore"] };
/// cell::read_beside(b"Gwen star@fernhollow.org", beside, &Policy::default(), &mut found);
/// assert_eq!(found[0].form, Form::Named);
/// ```
pub fn read_beside<'a>(cell: &'a [u8], beside: Beside<'_>, policy: &Policy, out: &mut Vec<Found<'a>>) {
    if memchr::memchr2(b',', b';', cell).is_some() && read_plain_list(cell, out) {
        return;
    }
    match simply_wrapped(cell).or_else(|| signed_or_quoted(cell)) {
        Some(found) => out.push(found),
        None => read_any(cell, beside, policy, out),
    }
}

/// The only address of a cell, where it is plain and stands alone or in a simple wrapping, as most do; what
/// [`read_any`] finds there too.
fn simply_wrapped(cell: &[u8]) -> Option<Found<'_>> {
    let (wrapping, address) = SimpleWrapping::of(cell)?;
    // Several @ are a fault of an address, and not a list where nothing may separate.
    let is_bare = wrapping.is_none() && is_plain_but_for_ats(address);
    if !is_bare && !is_plain(address) {
        return None;
    }
    let mut found = found_plain(cell, address, wrapping.form(), wrapping.repairs());
    let outside = cell.trim_ascii();
    let start = bytes::offset_in(cell, outside);
    if found.form == Form::Named {
        let before = Span::new(start, found.as_found.start - 1);
        found.name = Some(name_beside::unquoted(cell, trimmed(cell, before)));
    }
    found.as_found = Span::new(start, start + outside.len());
    Some(found)
}

fn read_any<'a>(cell: &'a [u8], beside: Beside<'_>, policy: &Policy, out: &mut Vec<Found<'a>>) {
    let mut decoded = decoded::decode(cell);
    let text = decoded.as_ref().map_or(cell, |d| &d.text);
    if says_nothing(text) {
        return;
    }
    let mut closed = SmallVec::new();
    if memchr::memchr(b'@', text).is_some() {
        // Spaces beside an @ stand in the way of all else.
        if let Some((without, signs)) = decoded::without_space_around_at(text) {
            closed = signs;
            decoded = Some(match decoded.take() {
                Some(before) => before.then(without),
                None => without,
            });
        }
        let text = decoded.as_ref().map_or(cell, |d| &d.text);
        for mut piece in part::pieces(text, beside, policy) {
            if closed.iter().any(|at| (piece.text.start..piece.text.end).contains(at)) {
                piece.repairs.insert(Repair::SpaceAroundAt);
                piece.form = if piece.form == Form::Plain { Form::Spaced } else { piece.form };
            }
            out.push(finish(cell, decoded.as_ref(), piece));
        }
    } else {
        let text = trimmed(text, Span::new(0, text.len()));
        out.push(finish(cell, decoded.as_ref(), Piece::without_address(text)));
    }
}

/// The same where a single sign stands behind it, or quotes or brackets around it.
fn signed_or_quoted(cell: &[u8]) -> Option<Found<'_>> {
    let outside = cell.trim_ascii();
    let (&last, unsigned) = outside.split_last()?;
    // An apostrophe may close one that stands inside.
    let is_sign = CLOSING_SIGNS.contains(&last) && !(last == b'\'' && unsigned.contains(&last));
    let (address, wrapping) = match is_sign && is_plain(unsigned) {
        true => (unsigned, Wrapping::Marked),
        false => (peel::in_pair(outside).filter(|inside| is_plain(inside))?, Wrapping::Quoted),
    };
    let trimmed =
        if outside.len() < cell.len() { Repairs::NONE.with(Repair::Trimmed) } else { Repairs::NONE };
    let mut found = found_plain(cell, address, wrapping.form(), wrapping.repairs().union(trimmed));
    let start = bytes::offset_in(cell, outside);
    found.as_found = Span::new(start, start + outside.len());
    Some(found)
}

/// Whether the cell is a bare address as far as its bytes go: letters, digits, dots and the usual signs with one @ among them,
/// and no sign at an end that may not belong to it.
#[inline]
fn is_plain(cell: &[u8]) -> bool {
    is_plain_but_for_ats(cell) && memchr::memchr_iter(b'@', cell).nth(1).is_none()
}

/// The same with one @ or several.
fn is_plain_but_for_ats(cell: &[u8]) -> bool {
    let (mut ats, mut seen) = (0, 0);
    for &b in cell {
        if b == b'@' {
            ats += 1;
        } else if !bytes::is(b, ATEXT | DOT) {
            return false;
        }
        seen |= bytes::CLASS[usize::from(b)];
    }
    ats > 0 && seen & SEPARATES == 0 && ends_plainly(cell)
}

/// Whether neither end is a sign that may not belong to an address.
fn ends_plainly(cell: &[u8]) -> bool {
    let is_sign = |b: Option<&u8>| b.is_some_and(|b| matches!(b, b'.' | b'\''));
    !is_sign(cell.last()) && cell.first() != Some(&b'\'')
}

/// Appends the addresses of a cell where a comma or semicolon stands between them and at most a space behind it, each a bare
/// address as far as its bytes go; returns whether it is such a cell.
fn read_plain_list<'a>(cell: &'a [u8], out: &mut Vec<Found<'a>>) -> bool {
    let first = out.len();
    let mut start = 0;
    for end in memchr::memchr2_iter(b',', b';', cell).chain([cell.len()]) {
        let part = &cell[start..end];
        let text = part.strip_prefix(b" ").unwrap_or(part);
        if !is_plain(text) {
            out.truncate(first);
            return false;
        }
        out.push(found_plain(cell, text, Form::Several, Repairs::NONE.with(Repair::OneOfSeveral)));
        start = end + 1;
    }
    true
}

/// The address `text`, which stands in `cell` with nothing to take off.
fn found_plain<'a>(cell: &[u8], text: &'a [u8], form: Form, repairs: Repairs) -> Found<'a> {
    let start = bytes::offset_in(cell, text);
    let as_found = Span::new(start, start + text.len());
    Found { as_found, form, repairs, place: Place::From(start), ..Found::whole(text) }
}

/// From ranges of the decoded cell to an address with places in the cell itself.
fn finish<'a>(cell: &'a [u8], decoded: Option<&Decoded>, piece: Piece) -> Found<'a> {
    let source = decoded.map_or(cell, |d| &d.text);
    let place = |at: usize| decoded.map_or(at, |d| d.places[at]);
    let in_cell = |span: Span| Span::new(place(span.start), place(span.end));
    let repairs = decoded.map_or(piece.repairs, |d| d.repairs.union(piece.repairs));
    let remark: Vec<&[u8]> = piece.remark.iter().map(|span| span.of(source)).collect();
    let mut found = Found {
        text: Cow::Borrowed(&[]),
        as_found: in_cell(piece.as_found),
        form: piece.form,
        repairs,
        codes: piece.codes,
        marked: piece.marked.map(in_cell),
        name: piece.name.map(in_cell),
        remark: (!remark.is_empty()).then(|| remark.join(&b' ')),
        meant: piece.meant.map(|(text, reason)| Meant { text, reason }),
        place: Place::From(piece.text.start),
    };
    let raw = piece.text.of(source);
    if piece.repairs.contains(Repair::Mailto) && raw.contains(&b'%') {
        let undone = decoded::undo_percent(raw, piece.text.start);
        found.repairs = found.repairs.union(undone.repairs);
        found.place = Place::Each(undone.places.iter().map(|&at| place(at)).collect());
        found.text = Cow::Owned(undone.text);
    } else if let Some(d) = decoded {
        found.place = Place::Each(d.places[piece.text.start..=piece.text.end].to_vec());
        found.text = Cow::Owned(raw.to_vec());
    } else {
        found.text = Cow::Borrowed(piece.text.of(cell));
    }
    found
}

#[cfg(test)]
mod tests;
