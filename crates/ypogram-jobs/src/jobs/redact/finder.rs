//! What of a piece is to be hidden: every address in every way of writing, and the fields that are named.

use ypogram_core::redact::hash_of;
use ypogram_core::text::{self, Hit, Options, ScanEvent, Seen, SkipReason};
use ypogram_core::{Class, Hasher, Judge, Policy, Span};
use ypogram_io::pieces::{Places, Segment};

use crate::jobs::redact::options::RedactBy;
use crate::jobs::redact::personal::{Part, Personal, What};

/// Everything that may be an address is looked for.
pub(super) const EVERYTHING: Options = Options { any_tld: true, obfuscated: true, tell_hidden: true };

/// Finds what is to be hidden. One for each thread.
pub(super) struct Finder<'p> {
    judge: Judge<'p>,
    hide: &'p [String],
    by: &'p RedactBy,
    key: Vec<u8>,
}

impl<'p> Finder<'p> {
    pub(super) fn new(policy: &'p Policy, hide: &'p [String], by: &'p RedactBy, hasher: Hasher) -> Self {
        Finder { judge: Judge::new(policy, hasher), hide, by, key: Vec::new() }
    }

    /// Finds what is to be hidden in a stretch of text, whose bytes have the places that `place` gives.
    pub(super) fn segment(
        &mut self,
        segment: &Segment<'_>,
        place: &mut impl FnMut(usize) -> u64,
        part: &mut Part,
    ) {
        let is_cell = matches!(segment.places, Places::From(_)) && segment.record.is_some();
        if is_cell && memchr::memmem::find(segment.text, b"\"\"").is_some() {
            // A quotation mark in a cell is written as two.
            let (text, places) = single_quotes(segment.text);
            let cell = Segment { text: &text, body: 0..text.len(), ..segment.clone() };
            self.decoded(&cell, &mut |at| place(places[at]), part);
            return;
        }
        self.decoded(segment, place, part);
    }

    fn decoded(&mut self, segment: &Segment<'_>, place: &mut impl FnMut(usize) -> u64, part: &mut Part) {
        let is_hidden = !segment.field.is_empty() && self.hide.iter().any(|field| field == segment.field);
        if is_hidden {
            self.hide_whole(segment, place, part);
            return;
        }
        let body = segment.body.clone();
        let mut met: Vec<Span> = Vec::new();
        let mut hits: Vec<Hit<'_>> = Vec::new();
        let mut broken: Vec<Span> = Vec::new();
        text::look_with(segment.text, body, &mut self.judge, EVERYTHING, |_, event| match event {
            ScanEvent::Judged(within) => met.push(within.bare),
            ScanEvent::Seen(Seen::Match(hit), _) => hits.push(hit),
            ScanEvent::Seen(Seen::Skipped(span, reason), _) => match is_broken_address(reason) {
                true => add_broken(&mut broken, span),
                false => part.passed += 1,
            },
        });
        for span in broken {
            self.hide(segment, span, What::Broken, place, part);
        }
        for bare in met {
            self.take(segment, bare, bare.of(segment.text), place, part);
        }
        for hit in hits {
            self.take(segment, hit.bare, &hit.text, place, part);
        }
    }

    /// Takes the address `text`, which stands in `span`.
    fn take(
        &mut self,
        segment: &Segment<'_>,
        span: Span,
        text: &[u8],
        place: &mut impl FnMut(usize) -> u64,
        part: &mut Part,
    ) {
        if matches!(segment.places, Places::Nowhere) {
            part.fixed += 1;
            return;
        }
        let instead = self.instead_of_address(text);
        let (start, end) = (place(span.start), place(span.end));
        part.found.push(Personal {
            start,
            end,
            text: text.to_vec(),
            instead,
            what: What::Address,
            within: Vec::new(),
        });
    }

    /// What stands in the place of an address.
    fn instead_of_address(&mut self, text: &[u8]) -> String {
        let policy = self.judge.policy();
        let judged = self.judge.judge(text);
        let shown = String::from_utf8_lossy(text).to_lowercase();
        let address = match judged.has_standard_form {
            true => String::from_utf8_lossy(self.judge.address()).into_owned(),
            false => shown.clone(),
        };
        match self.by {
            RedactBy::Token(key) => {
                let of_mailbox = self.judge.key_in(policy.same, &mut self.key);
                // What tells no mailbox is the same where it is written alike.
                key.token_of_mailbox(if of_mailbox.is_empty() { shown.as_bytes() } else { of_mailbox })
            }
            RedactBy::Mask(mask) => {
                let (local, domain) = address.rsplit_once('@').unwrap_or((&address, ""));
                let class = judged.class.map_or("unusable", Class::word);
                let is_plain = domain.bytes().all(|b| b.is_ascii_alphanumeric() || b".-".contains(&b));
                mask.address(local, if is_plain { domain } else { "***" }, class)
            }
            RedactBy::Hash => hash_of(&address),
        }
    }

    fn hide_whole(&mut self, segment: &Segment<'_>, place: &mut impl FnMut(usize) -> u64, part: &mut Part) {
        let cell = &segment.text[segment.body.clone()];
        let start = segment.body.start + (cell.len() - cell.trim_ascii_start().len());
        let span = Span::new(start, start + cell.trim_ascii().len());
        if !span.is_empty() {
            self.hide(segment, span, What::Field, place, part);
        }
    }

    /// Hides what stands in `span` and is no address.
    fn hide(
        &mut self,
        segment: &Segment<'_>,
        span: Span,
        what: What,
        place: &mut impl FnMut(usize) -> u64,
        part: &mut Part,
    ) {
        if matches!(segment.places, Places::Nowhere) {
            part.fixed += 1;
            return;
        }
        let bytes = span.of(segment.text);
        let text = String::from_utf8_lossy(bytes);
        let instead = match self.by {
            RedactBy::Token(key) => key.token_of_value(bytes),
            RedactBy::Mask(mask) => mask.value(&text),
            RedactBy::Hash => hash_of(&text),
        };
        let (start, end) = (place(span.start), place(span.end));
        part.found.push(Personal { start, end, text: bytes.to_vec(), instead, what, within: Vec::new() });
    }
}

/// A cell with each pair of quotation marks as one, and where its bytes stand; one more place for the end.
fn single_quotes(cell: &[u8]) -> (Vec<u8>, Vec<usize>) {
    let (mut text, mut places, mut at) = (Vec::with_capacity(cell.len()), Vec::new(), 0);
    while at < cell.len() {
        text.push(cell[at]);
        places.push(at);
        at += if cell[at..].starts_with(b"\"\"") { 2 } else { 1 };
    }
    places.push(cell.len());
    (text, places)
}

/// Whether what was passed over was meant as an address.
fn is_broken_address(reason: SkipReason) -> bool {
    matches!(
        reason,
        SkipReason::SeveralAtSigns
            | SkipReason::Malformed
            | SkipReason::OneLabel
            | SkipReason::Incomplete
            | SkipReason::Literal
            | SkipReason::Hidden
    )
}

/// Adds a word, to the one before where they touch.
fn add_broken(broken: &mut Vec<Span>, span: Span) {
    match broken.last_mut() {
        Some(last) if span.start <= last.end => *last = Span::new(last.start, last.end.max(span.end)),
        _ => broken.push(span),
    }
}
