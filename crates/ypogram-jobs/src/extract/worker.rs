//! What the threads of `extract` do with a piece: look for addresses, judge them, and write their rows, all but what
//! depends on the pieces before.

use std::cell::RefCell;

use ypogram_core::text::{self, Hit, Passed, Seen};
use ypogram_core::{Class, Form, Hasher, Judge};
use ypogram_tables::Result;
use ypogram_tables::pieces::Segment;

use crate::extract::ExtractOptions;
use crate::extract::feed::ExtractTask;
use crate::extract::row::{self, PassedRow, Row, RowFormat, Words};
use crate::judged_address::JudgedAddress;

/// What came of one piece.
#[derive(Default)]
pub(crate) struct Part {
    /// The rows, one behind the other.
    pub(crate) bytes: Vec<u8>,
    pub(crate) rows: Vec<RowPlace>,
    pub(crate) counts: Counts,
    /// Line breaks in the piece's own part.
    pub(crate) lines: u64,
    /// Records in the piece.
    pub(crate) records: u64,
    /// Why the piece could not be read, where it comes from a folder.
    pub(crate) trouble: Option<String>,
}

/// A row, and what the committer needs for it.
#[derive(Clone, Copy)]
pub(crate) struct RowPlace {
    /// Where record and line belong.
    pub(crate) split: u32,
    pub(crate) end: u32,
    /// Line breaks before it in the piece.
    pub(crate) line: u32,
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
}

impl Default for Counts {
    fn default() -> Self {
        Counts {
            addresses: 0,
            verdicts: [0; 3],
            forms: vec![0; Form::ALL.len()],
            passed: vec![0; Passed::ALL.len()],
        }
    }
}

pub(crate) struct Worker<'p> {
    options: &'p ExtractOptions,
    hasher: Hasher,
    judge: RefCell<Judge<'p>>,
    scratch: Scratch,
}

#[derive(Default)]
struct Scratch {
    key: Vec<u8>,
    words: Words,
    context: Vec<u8>,
}

impl Scratch {
    /// Hashes of the key and the domain of the address judged last.
    fn hashes(&mut self, judge: &Judge<'_>, hasher: Hasher) -> (u128, u64) {
        let key = judge.key_in(judge.policy().same, &mut self.key);
        (hasher.hash(key).max(1), judge.domain_hash())
    }
}

impl<'p> Worker<'p> {
    pub(crate) fn new(options: &'p ExtractOptions, hasher: Hasher) -> Self {
        Worker {
            options,
            hasher,
            judge: RefCell::new(Judge::new(&options.policy, hasher)),
            scratch: Scratch::default(),
        }
    }

    pub(crate) fn work(&mut self, task: &mut ExtractTask, part: &mut Part) -> Result<()> {
        part.clear();
        task.piece.load(&task.name)?;
        let piece = &task.piece;
        let mut source_cell = self.options.format.cell(&task.name);
        let octets = source_cell.len();
        source_cell.resize(octets.next_multiple_of(row::SHORT), 0);
        let mut at_segment = AtSegment {
            options: self.options,
            hasher: self.hasher,
            judge: &self.judge,
            scratch: &mut self.scratch,
            name: &task.name,
            source_cell: (&source_cell, octets),
            offset: piece.offset,
            lines: Lines { bytes: &piece.bytes, from: piece.body.start, count: 0 },
            part,
        };
        let read = piece.segments(&task.name, &mut |segment| at_segment.look(&segment));
        let lines = at_segment.lines.up_to(piece.body.end);
        match read {
            Err(error) if task.named => return Err(error),
            Err(error) => {
                part.clear();
                part.trouble = Some(error.message);
            }
            Ok(records) => part.records = records,
        }
        part.lines = lines;
        Ok(())
    }
}

impl Part {
    fn clear(&mut self) {
        self.bytes.clear();
        self.rows.clear();
        self.counts = Counts::default();
        (self.trouble, self.records) = (None, 0);
    }
}

/// Counts line breaks from left to right.
struct Lines<'a> {
    bytes: &'a [u8],
    from: usize,
    count: u64,
}

impl Lines<'_> {
    fn up_to(&mut self, place: usize) -> u64 {
        if place > self.from {
            self.count += bytecount::count(&self.bytes[self.from..place], b'\n') as u64;
            self.from = place;
        } else if place < self.from {
            // Only parts that were decoded lead back; few enough to count again.
            self.count -= memchr::memchr_iter(b'\n', &self.bytes[place..self.from]).count() as u64;
            self.from = place;
        }
        self.count
    }
}

/// The worker while it goes through the segments of one piece.
struct AtSegment<'w, 'p> {
    options: &'p ExtractOptions,
    hasher: Hasher,
    judge: &'w RefCell<Judge<'p>>,
    scratch: &'w mut Scratch,
    name: &'w str,
    source_cell: (&'w [u8], usize),
    offset: u64,
    lines: Lines<'w>,
    part: &'w mut Part,
}

impl AtSegment<'_, '_> {
    fn look(&mut self, segment: &Segment<'_>) {
        let wanted = &self.options.fields;
        if !wanted.is_empty() && !wanted.iter().any(|field| field == segment.field) {
            return;
        }
        let options = self.options;
        text::look_with(segment.text, segment.body.clone(), self.judge, options.look, |seen| match seen {
            Seen::Taken(hit) => self.take(segment, &hit),
            Seen::Passed(span, reason) => {
                self.part.counts.passed[reason as usize] += 1;
                if options.show_skipped {
                    let row = PassedRow {
                        reason: reason.word(),
                        text: span.of(segment.text),
                        field: segment.field,
                        source: self.name,
                        offset: self.offset + segment.places.of(span.start) as u64,
                    };
                    let split = row::write_passed(&row, options.format, &mut self.part.bytes);
                    self.place_row(split, segment, span.start, 0, 0);
                }
            }
        });
    }

    fn take(&mut self, segment: &Segment<'_>, hit: &Hit<'_>) {
        let options = self.options;
        let mut judge = self.judge.borrow_mut();
        let judged = judge.judge_hit(hit);
        let codes = judged.codes.union(options.policy.in_force(hit.codes()));
        let verdict = options.policy.verdict(codes);
        let counts = &mut self.part.counts;
        counts.addresses += 1;
        counts.verdicts[verdict as usize] += 1;
        let form =
            if hit.form == Form::WithinText && is_alone(segment.text, hit) { Form::Plain } else { hit.form };
        counts.forms[form as usize] += 1;
        let (key, domain) = match verdict.is_usable() && judged.well_formed {
            true => self.scratch.hashes(&judge, self.hasher),
            false => (0, 0),
        };
        if options.show_skipped {
            return;
        }
        self.scratch.context.clear();
        if options.context > 0 {
            around(segment.text, hit, options.context, &mut self.scratch.context);
        }
        let row = Row {
            address: judge.address(),
            plain: hit.is_plain(),
            as_found: hit.as_found.of(segment.text),
            from_found: &segment.text[hit.as_found.start..],
            form,
            verdict,
            codes,
            class: judged.class.map_or("", Class::word),
            name: hit.name.map_or(b"", |name| name.of(segment.text)),
            field: segment.field,
            source: self.source_cell,
            offset: self.offset + segment.places.of(hit.as_found.start) as u64,
            context: (options.context > 0).then_some(&self.scratch.context[..]),
            id: options.pieces.id.as_ref().map(|_| segment.id.unwrap_or_default()),
        };
        let split = match options.format {
            RowFormat::JsonLines => {
                let mut judged = JudgedAddress::of_text(row.as_found, &hit.text, &options.policy);
                judged.verdict = verdict;
                row::write_json_row(&judged, &row, &mut self.part.bytes)
            }
            format => row::write(&row, format, &mut self.scratch.words, &mut self.part.bytes),
        };
        self.place_row(split, segment, hit.as_found.start, key, domain);
    }

    fn place_row(&mut self, split: usize, segment: &Segment<'_>, start: usize, key: u128, domain: u64) {
        self.part.rows.push(RowPlace {
            split: split as u32,
            end: self.part.bytes.len() as u32,
            line: self.lines.up_to(segment.places.of(start)) as u32,
            record: segment.record.map_or(u32::MAX, |record| record as u32),
            key,
            domain,
        });
    }
}

/// Whether nothing but white space stands beside the hit on its line.
fn is_alone(text: &[u8], hit: &Hit<'_>) -> bool {
    let blank = |b: &&u8| matches!(b, b' ' | b'\t' | b'\r');
    let before = text[..hit.as_found.start].iter().rev().find(|b| !blank(b));
    let after = text[hit.as_found.end..].iter().find(|b| !blank(b));
    before.is_none_or(|&b| b == b'\n') && after.is_none_or(|&b| b == b'\n')
}

/// Up to `octets` of text on both sides, white space folded to single spaces.
fn around(text: &[u8], hit: &Hit<'_>, octets: usize, out: &mut Vec<u8>) {
    let is_border = |at: usize| at == 0 || at >= text.len() || text[at] & 0xC0 != 0x80;
    let start = (hit.as_found.start.saturating_sub(octets)..=hit.as_found.start)
        .find(|&at| is_border(at))
        .unwrap_or(0);
    let end =
        (hit.as_found.end..=(hit.as_found.end + octets).min(text.len())).rev().find(|&at| is_border(at));
    let stretch = &text[start..end.unwrap_or(hit.as_found.end)];
    for word in stretch.split(|b| b.is_ascii_whitespace() || *b == 0).filter(|word| !word.is_empty()) {
        if !out.is_empty() {
            out.push(b' ');
        }
        out.extend_from_slice(word);
    }
}
