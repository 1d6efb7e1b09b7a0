//! What the threads of `extract` do with a piece: look for addresses, judge them, and write their rows, all but what
//! depends on the pieces before.

use ypogram_core::text::{self, Hit, Met, Passed, Seen, Within};
use ypogram_core::{CodeSet, Form, Hasher, Judge, Judged, Span};
use ypogram_tables::Result;
use ypogram_tables::csv::is_formula_like;
use ypogram_tables::pieces::{Segment, bytes_in_utf16};

use crate::engine::faults::caught;
use crate::jobs::extract::ExtractOptions;
use crate::jobs::extract::feed::ExtractTask;
use crate::jobs::extract::row::{self, PassedRow, RecentWords, Row, RowFormat, Words};
use crate::judge::by_alike::ByAlike;
use crate::judge::judged_address::JudgedAddress;

/// What came of one piece.
#[derive(Default)]
pub(crate) struct Part {
    /// The rows, one behind the other.
    pub(crate) bytes: Vec<u8>,
    pub(crate) rows: Vec<RowPlace>,
    /// Hashes of key and domain of usable addresses that have no row, since only what was passed over is listed.
    pub(crate) unlisted: Vec<(u64, u64)>,
    pub(crate) counts: Counts,
    /// Which of the fields that were named were met; those behind the last one that was are left out.
    pub(crate) fields_met: Vec<bool>,
    /// Line breaks in the piece's own part.
    pub(crate) lines: u64,
    /// Records in the piece.
    pub(crate) records: u64,
    pub(crate) blank_lines: u64,
    /// Surrogates without the other half of their pair.
    pub(crate) unpaired: u64,
    /// Messages that are past the limits.
    pub(crate) undecoded: u64,
    /// Why the piece could not be read, where it comes from a folder.
    pub(crate) trouble: Option<String>,
}

/// A row, and what the committer needs for it.
#[derive(Clone, Copy)]
pub(crate) struct RowPlace {
    /// Where record and line belong.
    pub(crate) split: u32,
    pub(crate) end: u32,
    /// Line breaks before it in the piece's own part; fewer than none where it starts in front of that.
    pub(crate) line: i32,
    /// Its record in the piece; `u32::MAX` where there are no records.
    pub(crate) record: u32,
    /// Hashes of key and domain; 0 for an address that is not usable.
    pub(crate) key: u128,
    pub(crate) domain: u64,
}

/// Counts of one piece.
#[derive(Clone, Debug)]
pub(crate) struct Counts {
    pub(crate) addresses: u64,
    pub(crate) verdicts: [u64; 3],
    pub(crate) forms: Vec<u64>,
    pub(crate) passed: Vec<u64>,
    /// Cells that a spreadsheet would take for formulas.
    pub(crate) formulas: u64,
}

impl Default for Counts {
    fn default() -> Self {
        Counts {
            addresses: 0,
            verdicts: [0; 3],
            forms: vec![0; Form::ALL.len()],
            passed: vec![0; Passed::ALL.len()],
            formulas: 0,
        }
    }
}

pub(crate) struct Worker<'p> {
    options: &'p ExtractOptions,
    hasher: Hasher,
    judge: Judge<'p>,
    scratch: Scratch,
}

/// What follows for addresses that are alike, and for others the buffers to work it out in.
#[derive(Default)]
struct Scratch {
    key: Vec<u8>,
    /// For addresses judged on the way, by the forms of [`Form::ALL`].
    by_form: [ByAlike<(Judged, Words)>; Form::ALL.len()],
    recent: RecentWords,
}

impl<'p> Worker<'p> {
    pub(crate) fn new(options: &'p ExtractOptions, hasher: Hasher) -> Self {
        Worker { options, hasher, judge: Judge::new(&options.policy, hasher), scratch: Scratch::default() }
    }

    pub(crate) fn work(&mut self, task: &mut ExtractTask, part: &mut Part) -> Result<()> {
        task.piece.load(&task.name)?;
        match caught(|| self.look_through(task, part, false)) {
            Some(done) => done,
            None => self.look_through(task, part, true),
        }
    }

    /// Takes the addresses of a piece: line by line where it is to be `careful`, after a panic.
    fn look_through(&mut self, task: &ExtractTask, part: &mut Part, careful: bool) -> Result<()> {
        part.clear();
        let piece = &task.piece;
        let mut source_cell = self.options.format.cell(&task.name);
        let octets = source_cell.len();
        source_cell.resize(octets.next_multiple_of(row::SHORT), 0);
        let judge = &mut self.judge;
        let mut taker = Taker {
            hasher: self.hasher,
            scratch: &mut self.scratch,
            rows: Rows {
                options: self.options,
                name: &task.name,
                source_cell: (&source_cell, octets),
                offset: piece.offset,
                utf16: piece.from_utf16.then(|| Utf16Places { bytes: &piece.bytes, at: 0, counted: 0 }),
                lines: Lines {
                    bytes: &piece.bytes,
                    start: piece.body.start,
                    from: piece.body.start,
                    count: 0,
                },
                context: Vec::new(),
                part,
            },
        };
        let read = piece.segments(&task.name, &mut |segment| match careful {
            false => taker.look(&segment, judge),
            true => taker.look_line_by_line(&segment, judge),
        });
        let lines = taker.rows.lines.up_to(piece.body.end);
        match read {
            Err(error) if task.named => return Err(error),
            Err(error) => {
                part.clear();
                part.trouble = Some(error.message);
            }
            Ok(counted) => {
                part.records = counted.records;
                (part.blank_lines, part.unpaired) = (counted.blank_lines, counted.unpaired);
                part.undecoded = counted.undecoded;
            }
        }
        part.lines = lines as u64;
        Ok(())
    }
}

/// So many bytes are shown of a line in which the program panics.
const SHOWN: usize = 80;

impl Part {
    /// What there is so far.
    fn mark(&self) -> (usize, usize, usize, Counts) {
        (self.bytes.len(), self.rows.len(), self.unlisted.len(), self.counts.clone())
    }

    /// Takes back what came since.
    fn back_to(&mut self, (bytes, rows, unlisted, counts): (usize, usize, usize, Counts)) {
        self.bytes.truncate(bytes);
        self.rows.truncate(rows);
        self.unlisted.truncate(unlisted);
        self.counts = counts;
    }

    fn clear(&mut self) {
        self.bytes.clear();
        self.rows.clear();
        self.unlisted.clear();
        self.fields_met.clear();
        self.counts = Counts::default();
        (self.trouble, self.records, self.blank_lines) = (None, 0, 0);
        (self.unpaired, self.undecoded) = (0, 0);
    }
}

/// Counts line breaks of a piece's own part from left to right.
struct Lines<'a> {
    bytes: &'a [u8],
    start: usize,
    from: usize,
    count: isize,
}

impl Lines<'_> {
    #[inline]
    fn up_to(&mut self, place: usize) -> isize {
        if place != self.from {
            self.count_up_to(place);
        }
        self.count
    }

    fn count_up_to(&mut self, place: usize) {
        let breaks = |from, to| memchr::memchr_iter(b'\n', &self.bytes[from..to]).count() as isize;
        // Only parts that were decoded, and what starts in front of the piece's own part, lead back.
        self.count += if place >= self.from { breaks(self.from, place) } else { -breaks(place, self.from) };
        self.from = place;
    }

    /// Takes over how many there are up to `place` where that was counted already.
    #[inline]
    fn counted(&mut self, place: usize, count: isize) {
        (self.from, self.count) = (place, count);
    }

    /// Whether the line breaks of the segment are those that are counted.
    fn are_of(&self, segment: &Segment<'_>) -> bool {
        std::ptr::eq(self.bytes, segment.text) && self.start == segment.body.start
    }
}

/// Counts the bytes in UTF-16 of a piece from left to right.
struct Utf16Places<'a> {
    bytes: &'a [u8],
    at: usize,
    counted: u64,
}

impl Utf16Places<'_> {
    /// Those in front of `place`.
    fn of(&mut self, place: usize) -> u64 {
        if place < self.at {
            (self.at, self.counted) = (0, 0);
        }
        self.counted += bytes_in_utf16(&self.bytes[self.at..place]);
        self.at = place;
        self.counted
    }
}

/// Takes the addresses of one piece.
struct Taker<'w> {
    hasher: Hasher,
    scratch: &'w mut Scratch,
    rows: Rows<'w>,
}

impl Taker<'_> {
    fn look(&mut self, segment: &Segment<'_>, judge: &mut Judge<'_>) {
        let options = self.rows.options;
        if !options.fields.is_empty() {
            let Some(nth) = options.fields.iter().position(|field| field == segment.field) else { return };
            note_met(&mut self.rows.part.fields_met, nth);
        }
        let are_counted = self.rows.lines.are_of(segment);
        let body = segment.body.clone();
        #[cfg(test)]
        crate::engine::faults::tests::provoke(&segment.text[body.clone()]);
        let line_breaks = text::look_with(segment.text, body, judge, options.look, |judge, met| match met {
            Met::Judged(within) => {
                if are_counted {
                    self.rows.lines.counted(within.as_found.start, within.line_breaks);
                }
                self.take_judged(segment, within, judge);
            }
            Met::Seen(seen, near) => {
                if are_counted {
                    self.rows.lines.counted(near.at, near.line_breaks);
                }
                match seen {
                    Seen::Taken(hit) => self.take_hit(segment, &hit, judge),
                    Seen::Passed(span, reason) => self.rows.put_passed(segment, span, reason),
                }
            }
        });
        if are_counted {
            self.rows.lines.counted(segment.body.end, line_breaks as isize);
        }
    }

    /// The same line by line; one in which the program panics is passed over.
    #[cold]
    fn look_line_by_line(&mut self, segment: &Segment<'_>, judge: &mut Judge<'_>) {
        let mut start = segment.body.start;
        for line in segment.text[segment.body.clone()].split_inclusive(|&b| b == b'\n') {
            let body = start..start + line.len();
            start = body.end;
            let line = Segment { body: body.clone(), ..segment.clone() };
            let before = self.rows.part.mark();
            if caught(|| self.look(&line, judge)).is_none() {
                self.rows.part.back_to(before);
                let shown = Span::new(body.start, body.end.min(body.start + SHOWN));
                self.rows.put_passed(&line, shown, Passed::ProgramFault);
            }
        }
    }

    /// Takes an address that was judged on the way.
    #[inline(always)]
    fn take_judged(&mut self, segment: &Segment<'_>, within: Within, judge: &Judge<'_>) {
        let Taker { hasher, scratch, rows } = self;
        let Within { as_found, bare, name, alike, .. } = within;
        let text = bare.of(segment.text);
        let address = if alike.has_capitals() { judge.address() } else { text };
        let key = rows.hash(*hasher, judge.key_of_met(within, address, &mut scratch.key));
        let hashes = (key, judge.domain_hash());
        let taken =
            Taken { as_found, text, address, name, plain: true, as_found_codes: CodeSet::EMPTY, hashes };
        let form = form_of(within.form, segment.text, as_found);
        let known = &mut scratch.by_form[form as usize];
        let say = || {
            let judged = alike.judged(judge.policy());
            (judged, Words::of(form, &judged, rows.options.format))
        };
        match known.place(alike, say) {
            Some(place) => {
                let (judged, words) = known.at(place);
                rows.put(segment, &taken, judged, words);
            }
            None => {
                let (judged, words) = say();
                rows.put(segment, &taken, &judged, &words);
            }
        }
    }

    #[inline(never)]
    fn take_hit(&mut self, segment: &Segment<'_>, hit: &Hit<'_>, judge: &mut Judge<'_>) {
        let Taker { hasher, scratch, rows } = self;
        let policy = judge.policy();
        let judged = judge.judge_hit(hit);
        let form = form_of(hit.form, segment.text, hit.as_found);
        let words = scratch.recent.of(form, &judged, rows.options.format);
        let key = rows.hash(*hasher, judge.key_in(policy.same, &mut scratch.key));
        let taken = Taken {
            as_found: hit.as_found,
            text: &hit.text,
            address: judge.address(),
            name: hit.name,
            plain: hit.is_plain(),
            as_found_codes: hit.codes(),
            hashes: (key, judge.domain_hash()),
        };
        rows.put(segment, &taken, &judged, words);
    }
}

/// An address that was found and judged.
struct Taken<'a> {
    as_found: Span,
    /// The address itself: as it stands, or decoded where it was encoded.
    text: &'a [u8],
    /// In standard form.
    address: &'a [u8],
    name: Option<Span>,
    /// It is plain ASCII without quotes, found as it stands.
    plain: bool,
    /// The findings that come from how it stands.
    as_found_codes: CodeSet,
    /// Of its key and its domain.
    hashes: (u128, u64),
}

/// The rows of one piece while they are written.
struct Rows<'w> {
    options: &'w ExtractOptions,
    name: &'w str,
    source_cell: (&'w [u8], usize),
    offset: u64,
    /// Of a table in UTF-16: where in that the places of the piece are.
    utf16: Option<Utf16Places<'w>>,
    lines: Lines<'w>,
    context: Vec<u8>,
    part: &'w mut Part,
}

impl Rows<'_> {
    /// The hash of a key: a wide one where rows depend on it, and not only how many mailboxes are counted.
    #[inline]
    fn hash(&self, hasher: Hasher, key: &[u8]) -> u128 {
        if self.options.unique { hasher.hash(key) } else { hasher.hash_short(key).into() }
    }

    #[inline(always)]
    fn put(&mut self, segment: &Segment<'_>, taken: &Taken<'_>, judged: &Judged, words: &Words) {
        let options = self.options;
        let &Taken { as_found, name, .. } = taken;
        let counts = &mut self.part.counts;
        counts.addresses += 1;
        counts.verdicts[judged.verdict as usize] += 1;
        counts.forms[words.form as usize] += 1;
        let hashes = match judged.verdict.is_usable() && judged.has_standard_form {
            true => (taken.hashes.0.max(1), taken.hashes.1),
            false => (0, 0),
        };
        if options.show_skipped {
            if hashes.0 != 0 {
                self.part.unlisted.push((hashes.0 as u64, hashes.1));
            }
            return;
        }
        if options.context > 0 {
            self.context.clear();
            around(segment.text, as_found, options.context, &mut self.context);
        }
        let offset = self.offset_of(segment.places.of(as_found.start));
        let name = name.map_or(&b""[..], |name| name.of(segment.text));
        let texts = [taken.address, as_found.of(segment.text), name];
        self.part.counts.formulas += texts.iter().filter(|text| is_formula_like(text)).count() as u64;
        let row = Row {
            address: taken.address,
            plain: taken.plain,
            as_found: as_found.of(segment.text),
            from_found: &segment.text[as_found.start..],
            words,
            name,
            field: segment.field,
            source: self.source_cell,
            offset,
            context: (options.context > 0).then_some(&self.context[..]),
            id: options.pieces.id.as_ref().map(|_| segment.id.unwrap_or_default()),
        };
        let split = match options.format {
            RowFormat::JsonLines => {
                let json =
                    JudgedAddress::of_text(row.as_found, taken.text, taken.as_found_codes, &options.policy);
                row::write_json_row(&json, &row, &mut self.part.bytes)
            }
            format => row::write(&row, format, &mut self.part.bytes),
        };
        self.place(split, segment, as_found.start, hashes);
    }

    /// Where in the input the byte at `place` of the piece stands.
    #[inline]
    fn offset_of(&mut self, place: usize) -> u64 {
        let within = match &mut self.utf16 {
            None => place as u64,
            Some(utf16) => utf16.of(place),
        };
        self.offset + within
    }

    fn put_passed(&mut self, segment: &Segment<'_>, span: Span, reason: Passed) {
        self.part.counts.passed[reason as usize] += 1;
        if self.options.show_skipped {
            let offset = self.offset_of(segment.places.of(span.start));
            let row = PassedRow {
                reason: reason.word(),
                text: span.of(segment.text),
                field: segment.field,
                source: self.name,
                offset,
            };
            let split = row::write_passed(&row, self.options.format, &mut self.part.bytes);
            self.place(split, segment, span.start, (0, 0));
        }
    }

    fn place(&mut self, split: usize, segment: &Segment<'_>, start: usize, (key, domain): (u128, u64)) {
        self.part.rows.push(RowPlace {
            split: split as u32,
            end: self.part.bytes.len() as u32,
            line: self.lines.up_to(segment.places.of(start)) as i32,
            record: segment.record.map_or(u32::MAX, |record| record as u32),
            key,
            domain,
        });
    }
}

/// Notes that the `nth` field that was named was met.
pub(crate) fn note_met(met: &mut Vec<bool>, nth: usize) {
    if met.len() <= nth {
        met.resize(nth + 1, false);
    }
    met[nth] = true;
}

/// The form of what was found: within a text there may be nothing but white space beside it on its line.
#[inline]
fn form_of(form: Form, text: &[u8], as_found: Span) -> Form {
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

/// Up to `octets` of text on both sides, white space folded to single spaces.
fn around(text: &[u8], as_found: Span, octets: usize, out: &mut Vec<u8>) {
    let is_border = |at: usize| at == 0 || at >= text.len() || text[at] & 0xC0 != 0x80;
    let start =
        (as_found.start.saturating_sub(octets)..=as_found.start).find(|&at| is_border(at)).unwrap_or(0);
    let end = (as_found.end..=(as_found.end + octets).min(text.len())).rev().find(|&at| is_border(at));
    let stretch = &text[start..end.unwrap_or(as_found.end)];
    for word in stretch.split(|b| b.is_ascii_whitespace() || *b == 0).filter(|word| !word.is_empty()) {
        if !out.is_empty() {
            out.push(b' ');
        }
        out.extend_from_slice(word);
    }
}
