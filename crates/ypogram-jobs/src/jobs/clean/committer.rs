//! What depends on the order of the records: their numbers, which of them are duplicates, and the files they go to.

use std::path::PathBuf;

use prefetch_index::prefetch_index;
use ypogram_core::{Code, Verdict};
use ypogram_tables::csv::{Arranged, CsvEncoder};
use ypogram_tables::{Error, OutputFile, OutputFolder, Result};

use crate::engine::id_store::IdStore;
use crate::engine::line_count::LineCount;
use crate::engine::numbers::Counter;
use crate::engine::reading::{Reading, Task};
use crate::jobs::clean::earlier::{Earlier, EarlierOnes};
use crate::jobs::clean::numbered::Numbered;
use crate::jobs::clean::report::CleanCounts;
use crate::jobs::receipt::OutputReport;
use crate::judge::annotate::{Part, Row, Wanted};
use crate::judge::further::Further;
use crate::judge::picking::LOOKED_AHEAD;
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;
use crate::plan::shared::Shared;

/// One output while it grows.
struct Output {
    path: PathBuf,
    name: String,
    /// None until the first record ends there.
    file: Option<OutputFile>,
    records: u64,
}

impl Output {
    #[cold]
    fn create(&mut self, header: &[u8], arranged: Option<&Arranged>) -> Result<()> {
        let mut file = OutputFile::create(&self.path)?;
        file.write(header)?;
        file.arrange(arranged.cloned());
        self.file = Some(file);
        Ok(())
    }
}

/// So many records before they are written it is looked up which are duplicates, so that a processor need not wait for what is
/// known of the earlier ones.
const MET_AHEAD: usize = 16;

pub(crate) struct Committer {
    outputs: Vec<Output>,
    header: Vec<u8>,
    arranged: Option<Arranged>,
    delimiter: u8,
    earlier: EarlierOnes,
    shared: Shared,
    counts: CleanCounts,
    at: LineCount,
    /// The number of the record in hand.
    number: Counter,
    /// Rows so far: as many as records, unless further addresses have rows of their own.
    rows: u64,
    /// The numbers of these rows.
    added: Vec<u64>,
    further: Further,
    /// What records are named by that others are the same as; their number where there is none.
    ids: Option<IdStore>,
    /// A cell that is named so, with what stands behind it.
    same_as: Vec<u8>,
    encoder: CsvEncoder,
}

impl Committer {
    pub(crate) fn new(
        reading: &Reading,
        plan: &FieldPlan,
        (header, arranged): (Vec<u8>, Option<Arranged>),
        layout: &OutputLayout,
        folder: &OutputFolder,
        wanted: &Wanted,
        (earlier, shared): (EarlierOnes, Shared),
    ) -> Self {
        let output = |outcome: Outcome| {
            let name = layout.file_name(outcome.file_stem());
            Output { path: folder.place(&name), name, file: None, records: 0 }
        };
        Committer {
            outputs: Outcome::ALL.map(output).into(),
            header,
            arranged,
            delimiter: layout.encoders[0].delimiter(),
            earlier,
            shared,
            counts: CleanCounts {
                blank_lines: reading.blank_lines_before(),
                ..CleanCounts::new(wanted.tally(plan))
            },
            at: LineCount::new(reading),
            number: Counter::from_one(),
            rows: 0,
            added: Vec::new(),
            further: Further::default(),
            ids: None,
            same_as: Vec::new(),
            encoder: layout.encoders[0].clone().continuing(),
        }
    }

    /// Names records that others are the same as by what is put into `ids`.
    pub(crate) fn name_by_id(&mut self, ids: IdStore) {
        self.ids = Some(ids);
    }

    /// Whether the mailboxes do not fit into memory.
    pub(crate) fn is_full(&self) -> bool {
        self.earlier.is_full()
    }

    pub(crate) fn commit(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        self.at.enter(task)?;
        if let Some(tally) = &mut part.tally {
            self.counts.tally.take_from(tally, self.at.lines + 1);
        }
        self.note_shape(task, part);
        if let Some(ids) = &mut self.ids {
            part.ids().try_for_each(|id| ids.add(id))?;
        }
        let (rows, first) = (&part.rows[..], self.rows + 1);
        let (mut further, records_before) = (part.further.iter().peekable(), self.counts.records);
        let mut met = [None; MET_AHEAD];
        for nth in 0..rows.len() + MET_AHEAD {
            let earlier = met[nth % MET_AHEAD].take();
            if nth < rows.len() {
                if nth % LOOKED_AHEAD == 0 && self.is_full() {
                    return Err(Error::interrupted());
                }
                // Another thread may have written them.
                prefetch_index(rows, nth + 2 * LOOKED_AHEAD);
                met[nth % MET_AHEAD] = self.earlier.of(rows, nth, first + nth as u64)?;
            }
            if let Some(row) = nth.checked_sub(MET_AHEAD).map(|nth| &rows[nth]) {
                let number = self.rows + 1;
                let earlier =
                    earlier.map(|earlier| self.earlier.compare(row, number, earlier)).transpose()?;
                let outcome = self.settle(row, earlier, &task.chunk.bytes, &part.bytes)?;
                let record = (self.counts.records - records_before - 1) as usize;
                while let Some((_, mailbox)) = further.next_if(|(of, _)| *of == record) {
                    self.further.add(*mailbox, outcome == Outcome::Kept);
                }
            }
        }
        self.at.lines += part.lines;
        self.counts.blank_lines += part.blank_lines;
        self.counts.formula_cells += part.formulas;
        Ok(())
    }

    /// Counts and writes the next row, which comes from `chunk` and stands in `bytes`; gives where it ends.
    #[inline]
    fn settle(&mut self, row: &Row, earlier: Option<Earlier>, chunk: &[u8], bytes: &[u8]) -> Result<Outcome> {
        self.rows += 1;
        if row.added {
            self.added.push(self.rows);
        } else {
            if self.counts.records > 0 {
                self.number.advance();
            }
            self.counts.records += 1;
        }
        let same_as = earlier.map(|earlier| self.record_of(earlier.record));
        let mut outcome = if earlier.is_some() { Outcome::Duplicate } else { row.outcome };
        let shared = earlier.is_some_and(|earlier| earlier.other_person);
        if shared {
            self.counts.shared += 1;
            self.counts.tally.findings[Code::SharedMailbox.index()] += 1;
            outcome = match self.shared {
                Shared::Keep => row.outcome,
                _ => {
                    let was_kept = row.outcome == Outcome::Kept;
                    self.counts.tally.review[Code::SharedMailbox.index()] += u64::from(was_kept);
                    Outcome::Review
                }
            };
        }
        if row.outcome == Outcome::Review && outcome == Outcome::Duplicate {
            // It was counted among those for review.
            self.counts.tally.review[usize::from(row.reason)] -= 1;
        }
        self.counts.outcomes[outcome as usize] += 1;
        if let (Outcome::Kept | Outcome::Review, Some(class)) = (outcome, row.class) {
            self.counts.handed_over[class.index()] += 1;
        }
        let own = (&chunk[row.own.0 as usize..], (row.own.1 - row.own.0) as usize);
        let start = row.start as usize;
        let octets = row.split as usize - start;
        let end = &bytes[row.split as usize..row.end as usize];
        let (mut added, mut rewritten) = ((&bytes[start..], octets), Vec::new());
        if shared {
            let verdict = (self.shared == Shared::Review).then_some(Verdict::Review);
            with_shared_mailbox(&bytes[start..][..octets], row, verdict, &mut rewritten);
            added = (&rewritten, rewritten.len());
        }
        let output = &mut self.outputs[outcome as usize];
        if output.file.is_none() {
            output.create(&self.header, self.arranged.as_ref())?;
        }
        let file = output.file.as_mut().expect("it was created");
        output.records += 1;
        let (mut same_as, mut end) = (same_as, end);
        if let (Some(ids), Some(record)) = (&mut self.ids, same_as) {
            named_by_id(ids, record, &mut self.encoder, end, &mut self.same_as)?;
            (same_as, end) = (None, &self.same_as);
        }
        if outcome == Outcome::Kept {
            self.earlier.note_kept(row);
        }
        let row = Numbered { own, added, delimiter: self.delimiter, record: &self.number, same_as, end };
        file.put(row.room(), |room| row.put(room))?;
        Ok(outcome)
    }

    /// The record of a row.
    fn record_of(&self, row: u64) -> u64 {
        row - self.added.partition_point(|&added| added <= row) as u64
    }

    fn note_shape(&mut self, task: &Task, part: &Part) {
        for &(line, cells) in &part.ragged {
            if self.counts.ragged_lines.len() < 5 {
                self.counts.ragged_lines.push((task.source, self.at.lines + line + 1, cells));
            }
        }
        if let (Some(at), None) = (part.not_utf8_at, self.counts.not_utf8_at) {
            self.counts.not_utf8_at = Some((task.source, task.chunk.offset + at as u64));
        }
    }

    /// Gives the counts and the files, which are not published yet.
    pub(crate) fn finish(mut self) -> Result<(CleanCounts, Vec<OutputFile>, Vec<OutputReport>)> {
        self.counts.mailboxes = self.earlier.mailboxes();
        self.counts.further_not_kept =
            self.further.in_no_kept_record(|mailbox| self.earlier.is_kept(mailbox));
        let (mut files, mut reports) = (Vec::new(), Vec::new());
        for output in self.outputs {
            if let Some(file) = output.file {
                files.push(file);
                reports.push(OutputReport { name: output.name, records: output.records });
            }
        }
        Ok((self.counts, files, reports))
    }
}

/// The cell that names the record of that number, which stands behind a delimiter already, and what stands behind it.
fn named_by_id(
    ids: &mut IdStore,
    record: u64,
    encoder: &mut CsvEncoder,
    end: &[u8],
    out: &mut Vec<u8>,
) -> Result<()> {
    let mut id = Vec::new();
    ids.write(record, &mut id)?;
    out.clear();
    encoder.bare_cell(&id, out);
    out.extend_from_slice(end);
    Ok(())
}

/// The row with the finding that its mailbox is another person's, and the verdict that follows, where one does.
fn with_shared_mailbox(written: &[u8], row: &Row, verdict: Option<Verdict>, out: &mut Vec<u8>) {
    let place = |at: u32| (at - row.start) as usize;
    let (from, to) = (place(row.findings.0), place(row.findings.1));
    out.clear();
    match verdict {
        Some(verdict) => {
            out.extend_from_slice(&written[..place(row.verdict)]);
            out.extend_from_slice(verdict.word().as_bytes());
            // The delimiter stands between the two.
            out.push(written[from - 1]);
        }
        None => out.extend_from_slice(&written[..from]),
    }
    out.extend_from_slice(&written[from..to]);
    if to > from {
        out.push(b' ');
    }
    out.extend_from_slice(Code::SharedMailbox.name().as_bytes());
    out.extend_from_slice(&written[to..]);
}
