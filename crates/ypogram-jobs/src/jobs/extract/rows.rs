//! The rows of one piece, gathered.

use std::ops::Range;

use ypogram_core::text::SkipReason;
use ypogram_core::{CodeSet, Form, Hasher, Span, Summary};
use ypogram_io::csv::is_formula_like;
use ypogram_io::pieces::{Places, Segment};

use crate::jobs::extract::ExtractOptions;
use crate::jobs::extract::json_row::{self, Found};
use crate::jobs::extract::part::{Part, Row};
use crate::jobs::extract::places::{EncodedPlaces, Lines};
use crate::jobs::extract::row::{RowKey, value};
use crate::jobs::extract::row_format::RowFormat;
use crate::judge::judged_address::JudgedAddress;

/// What is reported about an address, the same for all that are alike.
pub(super) struct Said {
    form: Form,
    judged: Summary,
    key: RowKey,
    /// The place of the key in the part of the piece with that number.
    place: (u64, u32),
}

impl Said {
    pub(super) fn of(form: Form, judged: Summary) -> Self {
        Said { form, judged, key: RowKey::of(form, &judged), place: (0, 0) }
    }
}

/// An address that was found and judged.
pub(super) struct Taken<'a> {
    pub(super) as_found: Span,
    /// The address itself: as it stands, or decoded where it was encoded.
    pub(super) text: &'a [u8],
    /// In standard form.
    pub(super) address: &'a [u8],
    pub(super) name: Option<Span>,
    /// It is plain ASCII without quotes, found as it stands.
    pub(super) plain: bool,
    /// The findings that come from how it stands.
    pub(super) as_found_codes: CodeSet,
    /// Of its key and its domain.
    pub(super) hashes: (u128, u64),
}

/// The rows of one piece while they are written.
pub(super) struct Rows<'w> {
    pub(super) options: &'w ExtractOptions,
    /// The number of the piece.
    pub(super) number: u64,
    pub(super) name: &'w str,
    pub(super) name_is_simple: bool,
    /// Where the name stands among the values.
    pub(super) source: Range<usize>,
    /// The field last written, and where it stands there.
    pub(super) field: (String, Range<usize>),
    pub(super) offset: u64,
    /// Of a text that was decoded: where in its own bytes the places of the piece are.
    pub(super) encoded: Option<EncodedPlaces<'w>>,
    pub(super) lines: Lines<'w>,
    pub(super) part: &'w mut Part,
}

impl Rows<'_> {
    /// The hash of a key: a wide one where rows depend on it, and not only how many mailboxes are counted.
    #[inline]
    pub(super) fn hash(&self, hasher: Hasher, key: &[u8]) -> u128 {
        if self.options.unique { hasher.hash(key) } else { hasher.hash_short(key).into() }
    }

    #[inline(always)]
    pub(super) fn put(&mut self, segment: &Segment<'_>, taken: &Taken<'_>, said: &mut Said) {
        let options = self.options;
        let &Taken { as_found, name, .. } = taken;
        let counts = &mut self.part.counts;
        counts.addresses += 1;
        counts.verdicts[said.judged.verdict as usize] += 1;
        counts.forms[said.form as usize] += 1;
        let hashes = match said.judged.verdict.is_usable() && said.judged.has_standard_form {
            true => (taken.hashes.0.max(1), taken.hashes.1),
            false => (0, 0),
        };
        if options.show_skipped {
            if hashes.0 != 0 {
                self.part.unlisted.push((hashes.0 as u64, hashes.1));
            }
            return;
        }
        let name = name.map_or(&b""[..], |name| name.of(segment.text));
        let texts = [taken.address, as_found.of(segment.text), name];
        self.part.counts.formulas += texts.iter().filter(|text| is_formula_like(text)).count() as u64;
        if said.place.0 != self.number {
            said.place = (self.number, self.part.keys.len() as u32);
            self.part.keys.push(said.key);
        }
        let template = said.place.1;
        let offset = self.offset_of(segment, as_found.start);
        let row = self.part.values.add_row();
        if matches!(options.format, RowFormat::Objects { .. }) {
            self.set_json_values(row, segment, taken, said.form, offset);
        } else {
            self.set_values(row, segment, taken, name, offset);
        }
        let is_simple = taken.plain
            && name.is_empty()
            && is_simply_wrapped(said.form, as_found.len(), taken.address.len())
            && self.has_simple_place(segment);
        self.add_row(segment, as_found.start, template, is_simple, hashes);
    }

    #[inline(always)]
    fn set_values(
        &mut self,
        row: usize,
        segment: &Segment<'_>,
        taken: &Taken<'_>,
        name: &[u8],
        offset: Option<u64>,
    ) {
        let as_found = taken.as_found;
        let values = &mut self.part.values;
        let stands = values.append_first(&segment.text[as_found.start..], as_found.len());
        let address = match std::ptr::eq(taken.address, as_found.of(segment.text)) {
            true => stands.clone(),
            false => values.append(taken.address),
        };
        values.set(row, value::ADDRESS, address);
        values.set(row, value::AS_FOUND, stands);
        if self.options.format == RowFormat::Plain {
            return;
        }
        if !name.is_empty() {
            let place = values.append(name);
            values.set(row, value::NAME, place);
        }
        self.set_common_values(row, segment, offset);
        self.set_context_and_id(row, segment, as_found);
    }

    /// Sets the text around what was found and the field that tells records apart, where they are asked for.
    #[inline(always)]
    pub(super) fn set_context_and_id(&mut self, row: usize, segment: &Segment<'_>, as_found: Span) {
        if self.options.context > 0 {
            let bytes = self.options.context;
            let place = self.part.values.append_with(|out| around(segment.text, as_found, bytes, out));
            self.part.values.set(row, value::CONTEXT, place);
        }
        if self.options.pieces.id.is_some() {
            let place = self.part.values.append(segment.id.unwrap_or_default());
            self.part.values.set(row, value::ID, place);
        }
    }

    /// Sets field, source and offset.
    #[inline(always)]
    pub(super) fn set_common_values(&mut self, row: usize, segment: &Segment<'_>, offset: Option<u64>) {
        let values = &mut self.part.values;
        if !segment.field.is_empty() && self.field.0 != segment.field {
            self.field = (segment.field.to_owned(), values.append(segment.field.as_bytes()));
        }
        if !segment.field.is_empty() {
            values.set(row, value::FIELD, self.field.1.clone());
        }
        values.set(row, value::SOURCE, self.source.clone());
        if let Some(offset) = offset {
            values.set_number(row, value::OFFSET, offset);
        }
    }

    #[cold]
    fn set_json_values(
        &mut self,
        row: usize,
        segment: &Segment<'_>,
        taken: &Taken<'_>,
        form: Form,
        offset: Option<u64>,
    ) {
        let options = self.options;
        let as_found = taken.as_found.of(segment.text);
        let judged = JudgedAddress::of_text(as_found, taken.text, taken.as_found_codes, &options.policy);
        let mut context = Vec::new();
        if options.context > 0 {
            around(segment.text, taken.as_found, options.context, &mut context);
        }
        let context = (options.context > 0).then_some(&context[..]);
        let id = options.pieces.id.as_ref().map(|_| segment.id.unwrap_or_default());
        let name = taken.name.map_or(&b""[..], |name| name.of(segment.text));
        let found = Found { field: segment.field, source: self.name, offset, name, context, id };
        let place = self.part.values.append_with(|out| {
            json_row::write_address(&judged, form, &found, out);
        });
        self.part.values.set(row, value::ADDRESS, place);
    }

    /// Whether the names of source and field need no quotes in any format.
    fn has_simple_place(&mut self, segment: &Segment<'_>) -> bool {
        segment.field.is_empty()
            && self.options.context == 0
            && self.options.pieces.id.is_none()
            && self.name_is_simple
    }

    /// Where in the input the byte at `at` of the segment stands; none where it has no place in bytes.
    #[inline]
    pub(super) fn offset_of(&mut self, segment: &Segment<'_>, at: usize) -> Option<u64> {
        if matches!(segment.places, Places::Nowhere) {
            return None;
        }
        let place = segment.places.of(at);
        let within = match &mut self.encoded {
            None => place as u64,
            Some(encoded) => encoded.of(place),
        };
        Some(self.offset + within)
    }

    pub(super) fn put_passed(&mut self, segment: &Segment<'_>, span: Span, reason: SkipReason) {
        self.part.counts.passed[reason as usize] += 1;
        if !self.options.show_skipped {
            return;
        }
        let offset = self.offset_of(segment, span.start);
        let template = self.part.keys.len() as u32;
        self.part.keys.push(RowKey::SkipReason(reason.word()));
        let row = self.part.values.add_row();
        let text = span.of(segment.text);
        if matches!(self.options.format, RowFormat::Objects { .. }) {
            let found =
                Found { field: segment.field, source: self.name, offset, name: b"", context: None, id: None };
            let place = self.part.values.append_with(|out| {
                json_row::write_passed(reason.word(), text, &found, out);
            });
            self.part.values.set(row, value::ADDRESS, place);
        } else {
            let place = self.part.values.append(text);
            self.part.values.set(row, value::ADDRESS, place);
            self.set_common_values(row, segment, offset);
        }
        self.add_row(segment, span.start, template, false, (0, 0));
    }

    pub(super) fn add_row(
        &mut self,
        segment: &Segment<'_>,
        start: usize,
        template: u32,
        is_simple: bool,
        (key, domain): (u128, u64),
    ) {
        self.part.rows.push(Row {
            key,
            domain,
            line: self.lines.above(segment, start) as i32,
            record: segment.record.map_or(u32::MAX, |record| record as u32),
            template,
            is_simple,
            is_written: true,
        });
    }
}

/// Whether there is nothing that may need quotes around an address as found: no name, no query, no line break.
fn is_simply_wrapped(form: Form, as_found: usize, address: usize) -> bool {
    let wrapping = match form {
        Form::Mailto => "mailto:",
        Form::Angle => "<>",
        _ => "",
    };
    as_found == address + wrapping.len()
}

/// Notes that the `nth` field that was named was seen.
pub(super) fn note_met(met: &mut Vec<bool>, nth: usize) {
    if met.len() <= nth {
        met.resize(nth + 1, false);
    }
    met[nth] = true;
}

/// The form of what was found: within a text there may be nothing but white space beside it on its line.
#[inline]
pub(super) fn form_of(form: Form, text: &[u8], as_found: Span) -> Form {
    let blank = |b: &&u8| matches!(b, b' ' | b'\t' | b'\r');
    let ends = |beside: Option<&u8>| beside.is_none_or(|&b| b == b'\n');
    let alone = || {
        ends(text[..as_found.start].iter().rev().find(|b| !blank(b)))
            && ends(text[as_found.end..].iter().find(|b| !blank(b)))
    };
    // Next to it or one further stands something of a word, as nearly always.
    let is_of_word = |b: u8| !blank(&&b) & (b != b'\n');
    let stands_behind = |far: u8, near: u8| is_of_word(near) | (near != b'\n') & is_of_word(far);
    if let [.., far, near] = text[..as_found.start]
        && stands_behind(far, near)
    {
        return form;
    }
    if form == Form::WithinText && alone() { Form::Plain } else { form }
}

/// Up to `bytes` of text on both sides, white space folded to single spaces.
fn around(text: &[u8], as_found: Span, bytes: usize, out: &mut Vec<u8>) {
    let is_border = |at: usize| at == 0 || at >= text.len() || text[at] & 0xC0 != 0x80;
    let start =
        (as_found.start.saturating_sub(bytes)..=as_found.start).find(|&at| is_border(at)).unwrap_or(0);
    let end = (as_found.end..=(as_found.end + bytes).min(text.len())).rev().find(|&at| is_border(at));
    let (stretch, before) = (&text[start..end.unwrap_or(as_found.end)], out.len());
    for word in stretch.split(|b| b.is_ascii_whitespace() || *b == 0).filter(|word| !word.is_empty()) {
        if out.len() > before {
            out.push(b' ');
        }
        out.extend_from_slice(word);
    }
}
