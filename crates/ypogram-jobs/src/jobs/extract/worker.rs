//! What the threads of `extract` do with a piece: look for addresses, judge them, and gather their rows; and encode these once
//! it is settled what depends on the pieces before.

use hashbrown::HashMap;
use ypogram_core::text::{self, Hit, JudgedMatch, ScanEvent, Seen, SkipReason};
use ypogram_core::{CodeSet, Form, Hasher, Judge, Span};
use ypogram_io::pieces::Segment;
use ypogram_io::{OutRow, Result, RowWriter};

use crate::engine::faults::caught;
use crate::engine::pipeline::Work;
use crate::jobs::extract::ExtractOptions;
use crate::jobs::extract::feed::ExtractTask;
use crate::jobs::extract::part::Part;
use crate::jobs::extract::places::{EncodedPlaces, Lines};
use crate::jobs::extract::row::{RowKey, RowLayout};
use crate::jobs::extract::rows::{Rows, Said, Taken, form_of, note_met};
use crate::judge::by_summary_key::BySummaryKey;

pub(crate) struct Worker<'p> {
    options: &'p ExtractOptions,
    hasher: Hasher,
    judge: Judge<'p>,
    scratch: Scratch,
    layout: &'p RowLayout,
    writer: RowWriter,
    /// The numbers of templates in the writer.
    templates: HashMap<RowKey, usize>,
    /// Pieces so far.
    pieces: u64,
}

/// As many templates are remembered.
const MOST_TEMPLATES: usize = 4096;

/// What follows for addresses that are alike, and for others the buffers to work it out in.
#[derive(Default)]
struct Scratch {
    key: Vec<u8>,
    /// For addresses judged on the way, by the forms of [`Form::ALL`].
    by_form: [BySummaryKey<Said>; Form::ALL.len()],
}

impl<'p> Worker<'p> {
    pub(crate) fn new(options: &'p ExtractOptions, layout: &'p RowLayout, hasher: Hasher) -> Self {
        Worker {
            options,
            hasher,
            judge: Judge::new(&options.policy, hasher),
            scratch: Scratch::default(),
            layout,
            writer: layout.writer(),
            templates: HashMap::new(),
            pieces: 0,
        }
    }

    /// Takes the addresses of a piece: line by line where it is to be `careful`, after a panic.
    fn look_through(&mut self, task: &ExtractTask, part: &mut Part, careful: bool) -> Result<()> {
        part.clear(self.layout.values());
        let piece = &task.piece;
        self.pieces += 1;
        let judge = &mut self.judge;
        let mut taker = Taker {
            hasher: self.hasher,
            layout: self.layout,
            scratch: &mut self.scratch,
            rows: Rows {
                options: self.options,
                number: self.pieces,
                name: &task.name,
                name_is_simple: is_simple(&task.name),
                source: part.values.append(task.name.as_bytes()),
                field: (String::new(), 0..0),
                offset: piece.offset,
                encoded: piece.encoding.map(|encoding| EncodedPlaces {
                    encoding,
                    bytes: &piece.bytes,
                    at: 0,
                    counted: 0,
                }),
                lines: Lines {
                    bytes: &piece.bytes,
                    start: piece.body.start,
                    from: piece.body.start,
                    count: 0,
                },
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
                part.clear(self.layout.values());
                part.trouble = Some(error.message);
            }
            Ok(counted) => {
                part.lines = counted.lines.unwrap_or(lines as u64);
                part.records = counted.records;
                (part.blank_lines, part.unpaired) = (counted.blank_lines, counted.unpaired);
                part.undecoded = counted.undecoded;
            }
        }
        Ok(())
    }
}

/// Whether a name needs no quotes in any format.
fn is_simple(name: &str) -> bool {
    name.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"-_./ ".contains(&byte))
}

/// So many bytes are shown of a line in which the program panics.
const SHOWN: usize = 80;

/// Takes the addresses of one piece.
struct Taker<'w> {
    hasher: Hasher,
    layout: &'w RowLayout,
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
        if !options.patterns.is_empty() {
            self.rows.take_matches(segment, self.layout.groups());
            return;
        }
        let are_counted = self.rows.lines.are_of(segment);
        let body = segment.body.clone();
        #[cfg(test)]
        crate::engine::faults::tests::provoke(&segment.text[body.clone()]);
        let line_breaks = text::look_with(segment.text, body, judge, options.look, |judge, met| match met {
            ScanEvent::Judged(within) => {
                if are_counted {
                    self.rows.lines.counted(within.as_found.start, within.line_breaks);
                }
                self.take_judged(segment, within, judge);
            }
            ScanEvent::Seen(seen, near) => {
                if are_counted {
                    self.rows.lines.counted(near.at, near.line_breaks);
                }
                match seen {
                    Seen::Match(hit) => self.take_hit(segment, &hit, judge),
                    Seen::Skipped(span, reason) => self.rows.put_passed(segment, span, reason),
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
                self.rows.put_passed(&line, shown, SkipReason::ProgramFault);
            }
        }
    }

    /// Takes an address that was judged on the way.
    #[inline(always)]
    fn take_judged(&mut self, segment: &Segment<'_>, within: JudgedMatch, judge: &Judge<'_>) {
        let Taker { hasher, scratch, rows, .. } = self;
        let JudgedMatch { as_found, bare, name, summary_key, .. } = within;
        let text = bare.of(segment.text);
        let address = if summary_key.has_capitals() { judge.address() } else { text };
        let key = rows.hash(*hasher, judge.key_of_met(within, address, &mut scratch.key));
        let hashes = (key, judge.domain_hash());
        let taken =
            Taken { as_found, text, address, name, plain: true, as_found_codes: CodeSet::EMPTY, hashes };
        let form = form_of(within.form, segment.text, as_found);
        let known = &mut scratch.by_form[form as usize];
        let say = || Said::of(form, summary_key.summary(judge.policy()));
        match known.place(summary_key, say) {
            Some(place) => rows.put(segment, &taken, known.at(place)),
            None => rows.put(segment, &taken, &mut say()),
        }
    }

    #[inline(never)]
    fn take_hit(&mut self, segment: &Segment<'_>, hit: &Hit<'_>, judge: &mut Judge<'_>) {
        let Taker { hasher, scratch, rows, .. } = self;
        let policy = judge.policy();
        let judged = judge.judge_hit(hit);
        let form = form_of(hit.form, segment.text, hit.as_found);
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
        rows.put(segment, &taken, &mut Said::of(form, judged));
    }
}

impl Work<ExtractTask, Part> for Worker<'_> {
    fn judge(&mut self, task: &mut ExtractTask, part: &mut Part) -> Result<()> {
        task.piece.load(&task.name)?;
        match caught(|| self.look_through(task, part, false)) {
            Some(done) => done,
            None => self.look_through(task, part, true),
        }
    }

    fn encode(&mut self, _: &ExtractTask, part: &mut Part) -> Result<()> {
        if self.templates.len() > MOST_TEMPLATES {
            self.templates.clear();
            self.writer.forget_templates();
        }
        let (layout, writer) = (self.layout, &mut self.writer);
        let mut template_of =
            |key| *self.templates.entry(key).or_insert_with(|| writer.add_template(layout.template(&key)));
        let templates: Vec<usize> = part.keys.iter().map(|key| template_of(*key)).collect();
        for nth in 0..part.rows.len() {
            let row = part.rows[nth];
            if !row.is_written {
                continue;
            }
            part.set_place(nth);
            let out = OutRow {
                record: None,
                template: templates[row.template as usize],
                values: part.values.of_row(nth),
                values_are_simple: row.is_simple,
                record_is_simple: false,
                replaced: &[],
            };
            self.writer.row(&out, &mut part.encoded);
        }
        Ok(())
    }
}
