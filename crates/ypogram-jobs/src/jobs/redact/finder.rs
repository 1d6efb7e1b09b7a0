//! What of a piece is to be hidden: every address in every way of writing, and the fields that are named.

use hashbrown::HashSet;
use ypogram_core::redact::hash_of;
use ypogram_core::text::{self, Hit, Options, ScanEvent, Seen};
use ypogram_core::{Class, Hasher, Judge, Policy, Span};
use ypogram_io::Result;
use ypogram_io::pieces::{Kind, Places, Segment};

use crate::engine::faults::caught;
use crate::jobs::extract::feed::ExtractTask;
use crate::jobs::extract::places::EncodedPlaces;
use crate::jobs::redact::options::RedactBy;
use crate::jobs::redact::wide::Wide;

/// Everything that may be an address is looked for.
pub(super) const EVERYTHING: Options = Options { any_tld: true, obfuscated: true, tell_hidden: true };

/// Something to be hidden: where it stands in its source, and what it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Personal {
    /// Its bytes in the decompressed source.
    pub(super) start: u64,
    pub(super) end: u64,
    /// Its text, decoded.
    pub(super) text: Vec<u8>,
    /// What stands in its place.
    pub(super) instead: String,
    /// It is a value of a field that is hidden.
    pub(super) of_field: bool,
}

/// What came of a piece.
#[derive(Default)]
pub(super) struct Part {
    pub(super) found: Vec<Personal>,
    /// What stands in an encoded part, where no single bytes are it.
    pub(super) encoded: u64,
    /// Lines in which the program has a fault.
    pub(super) faults: u64,
    pub(super) records: u64,
    /// Places with an @ that are no addresses.
    pub(super) passed: u64,
    /// The bytes of the piece are UTF-16.
    pub(super) wide: Option<Wide>,
}

/// Finds what is to be hidden. One for each thread.
pub(super) struct Finder<'p> {
    judge: Judge<'p>,
    hide: &'p [String],
    by: &'p RedactBy,
    key: Vec<u8>,
    /// Addresses that stand in the message in hand as it is sent, in lower case.
    seen: HashSet<Vec<u8>>,
}

impl<'p> Finder<'p> {
    pub(super) fn new(policy: &'p Policy, hide: &'p [String], by: &'p RedactBy, hasher: Hasher) -> Self {
        Finder { judge: Judge::new(policy, hasher), hide, by, key: Vec::new(), seen: HashSet::new() }
    }

    pub(super) fn look(&mut self, task: &mut ExtractTask, part: &mut Part) -> Result<()> {
        task.piece.load(&task.name)?;
        part.found.clear();
        (part.encoded, part.faults, part.passed) = (0, 0, 0);
        let piece = &task.piece;
        part.wide = match (piece.encoding, piece.kind.as_deref()) {
            (_, Some(Kind::Utf16(true))) => Some(Wide::Big),
            (_, Some(Kind::Utf16(false))) => Some(Wide::Little),
            (Some(encoding), _) if encoding.name() == "UTF-16LE" => Some(Wide::Little),
            (Some(encoding), _) if encoding.name() == "UTF-16BE" => Some(Wide::Big),
            _ => None,
        };
        let mut encoded =
            piece.encoding.map(|encoding| EncodedPlaces { encoding, bytes: &piece.bytes, at: 0, counted: 0 });
        let offset = piece.offset;
        if matches!(piece.kind.as_deref(), Some(Kind::Mail | Kind::Mailbox)) {
            // What stands in a message as it is sent is replaced there, in headers of encoded words too.
            let raw = Segment {
                text: &piece.bytes,
                body: piece.body.clone(),
                places: Places::From(0),
                field: "",
                record: None,
                line: None,
                id: None,
            };
            self.segment(&raw, &mut |at| offset + at as u64, part);
        }
        self.seen.clear();
        self.seen.extend(part.found.iter().map(|personal| personal.text.to_ascii_lowercase()));
        let counted = piece.segments(&task.name, &mut |segment| {
            let before = part.found.len();
            let mut place = |at: usize| {
                let place = segment.places.of(at);
                offset + encoded.as_mut().map_or(place as u64, |encoded| encoded.of(place))
            };
            if caught(|| self.segment(&segment, &mut place, part)).is_none() {
                part.found.truncate(before);
                part.faults += 1;
            }
        })?;
        part.records = counted.records;
        part.found.sort_by_key(|personal| (personal.start, personal.end));
        // Of two that stand in one another the first counts.
        let mut end = 0;
        part.found.retain(|personal| {
            let is_behind = personal.start >= end;
            end = if is_behind { personal.end } else { end };
            is_behind
        });
        Ok(())
    }

    fn segment(&mut self, segment: &Segment<'_>, place: &mut impl FnMut(usize) -> u64, part: &mut Part) {
        let is_hidden = !segment.field.is_empty() && self.hide.iter().any(|field| field == segment.field);
        if is_hidden {
            self.hide_whole(segment, place, part);
            return;
        }
        let body = segment.body.clone();
        let mut met: Vec<(Span, Span)> = Vec::new();
        let mut hits: Vec<Hit<'_>> = Vec::new();
        text::look_with(segment.text, body, &mut self.judge, EVERYTHING, |_, event| match event {
            ScanEvent::Judged(within) => met.push((within.bare, within.bare)),
            ScanEvent::Seen(Seen::Match(hit), _) => hits.push(hit),
            ScanEvent::Seen(Seen::Skipped(..), _) => part.passed += 1,
        });
        for (bare, text) in met {
            self.take(segment, bare, text.of(segment.text), place, part);
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
        if matches!(segment.places, Places::Nowhere | Places::Part(_)) {
            part.encoded += u64::from(!self.seen.contains(&text.to_ascii_lowercase()));
            return;
        }
        let instead = self.instead_of_address(text);
        let (start, end) = (place(span.start), place(span.end));
        part.found.push(Personal { start, end, text: text.to_vec(), instead, of_field: false });
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
        let trimmed = cell.trim_ascii();
        if trimmed.is_empty() {
            return;
        }
        if matches!(segment.places, Places::Nowhere | Places::Part(_)) {
            part.encoded += 1;
            return;
        }
        let start = segment.body.start + (cell.len() - cell.trim_ascii_start().len());
        let text = String::from_utf8_lossy(trimmed);
        let instead = match self.by {
            RedactBy::Token(key) => key.token_of_value(trimmed),
            RedactBy::Mask(mask) => mask.value(&text),
            RedactBy::Hash => hash_of(&text),
        };
        let (from, to) = (place(start), place(start + trimmed.len()));
        part.found.push(Personal { start: from, end: to, text: trimmed.to_vec(), instead, of_field: true });
    }
}
