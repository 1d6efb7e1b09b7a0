//! What the members of a list say of one another: one address replaces another, or one of them was not read.

use smallvec::SmallVec;

use crate::find::cell::piece::Piece;
use crate::find::cell::piece::Pieces;
use crate::model::codes::{Code, CodeSet};
use crate::model::span::Span;
use crate::phrases::cell_words as words;

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
    for piece in
        pieces.iter_mut().filter(|piece| !remarks.is_empty() && piece.codes.is_empty() && !is_unread(piece))
    {
        piece.codes.insert(Code::Remark);
        piece.marked = remarks.first().copied();
        piece.remark.extend(remarks.iter().copied());
    }
}
