//! The encoded parts of mail: one that does not show as it is sent what is to be hidden in it is encoded anew.

use std::mem::take;
use std::ops::Range;

use ypogram_io::pieces::{EncodedPart, Segment};

use crate::jobs::redact::covered::replaced_in;
use crate::jobs::redact::finder::Finder;
use crate::jobs::redact::personal::{Part, Personal, What};

/// Where an encoded part stands.
pub(super) struct PartPlace<'b> {
    /// The bytes of its piece.
    pub(super) piece: &'b [u8],
    /// Where these start in the source.
    pub(super) offset: u64,
    /// As many of what was found stand in the piece as it is sent, in order.
    pub(super) sent: usize,
}

/// What stands before an encoded stretch is replaced by itself with it, so many bytes at most: what was encoded anew may be the same text as
/// one that was hidden elsewhere, and what stands before tells which is which when the originals are brought back.
const BEFORE: usize = 60;

impl PartPlace<'_> {
    /// Where what is replaced with the stretch at `range` starts: behind everything that was found before it.
    fn before(&self, range: &Range<usize>, found: &[Personal]) -> usize {
        let start = self.offset + range.start as u64;
        let ends = found.iter().map(|personal| personal.end).filter(|end| *end <= start);
        let behind_found = ends.max().unwrap_or_default().saturating_sub(self.offset) as usize;
        range.start.saturating_sub(BEFORE).max(behind_found)
    }

    /// What was found there as it is sent.
    fn as_sent<'f>(&self, range: &Range<usize>, found: &'f [Personal]) -> &'f [Personal] {
        let (start, end) = (self.offset + range.start as u64, self.offset + range.end as u64);
        let sent = &found[..self.sent];
        let from = sent.partition_point(|personal| personal.start < start);
        let to = sent.partition_point(|personal| personal.end <= end);
        &sent[from..to.max(from)]
    }
}

/// Adds what is to be hidden in an encoded part. Where all of it stands there as it is sent it was found there; otherwise the part is
/// replaced as a whole.
pub(super) fn look(
    finder: &mut Finder<'_>,
    encoded: &EncodedPart,
    segment: &Segment<'_>,
    place: &PartPlace<'_>,
    part: &mut Part,
) {
    let text = String::from_utf8_lossy(segment.text);
    let mut all = find_in(finder, &text, segment.field);
    part.passed += all.passed;
    let mut missing = without(texts(&all.found), texts(place.as_sent(&encoded.range, &part.found)));
    if missing.is_empty() {
        return;
    }
    for (stretch, text) in encoded.stretches(place.piece, &text) {
        let hidden = match encoded.is_header() {
            true => find_in(finder, &text, segment.field).found,
            false => take(&mut all.found),
        };
        if texts(&hidden) == texts(place.as_sent(&stretch.range, &part.found)) {
            continue;
        }
        let after = replaced_in(text.as_bytes(), &hidden);
        let anew = stretch.encode(place.piece, &text, &String::from_utf8_lossy(&after));
        let Some(instead) = anew else { continue };
        missing = without(missing, texts(&hidden));
        let before = place.before(&stretch.range, &part.found);
        let told = std::str::from_utf8(&place.piece[before..stretch.range.start]);
        let (before, told) = told.map_or((stretch.range.start, ""), |told| (before, told));
        part.found.push(Personal {
            start: place.offset + before as u64,
            end: place.offset + stretch.range.end as u64,
            text: Vec::new(),
            instead: format!("{told}{instead}"),
            what: What::Address,
            within: hidden,
        });
    }
    part.fixed += missing.len() as u64;
}

/// What is to be hidden in a decoded text, with its places there.
fn find_in(finder: &mut Finder<'_>, text: &str, field: &str) -> Part {
    let mut found = Part::default();
    finder.segment(&Segment::plain(text.as_bytes(), 0, field, None), &mut |at| at as u64, &mut found);
    found.in_order();
    found
}

/// The texts in lower case, in order.
fn texts(found: &[Personal]) -> Vec<Vec<u8>> {
    let mut texts: Vec<Vec<u8>> = found.iter().map(|personal| personal.text.to_ascii_lowercase()).collect();
    texts.sort_unstable();
    texts
}

/// `texts` without each of `others` once. Both are in order.
fn without(mut texts: Vec<Vec<u8>>, others: Vec<Vec<u8>>) -> Vec<Vec<u8>> {
    let mut others = others.into_iter().peekable();
    texts.retain(|text| {
        while others.next_if(|other| other < text).is_some() {}
        others.next_if_eq(text).is_none()
    });
    texts
}
