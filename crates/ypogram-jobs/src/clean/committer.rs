//! What depends on the order of the records: their numbers, which of them are duplicates, and the files they go to.

use std::path::PathBuf;

use prefetch_index::prefetch_index;
use ypogram_core::{Code, Verdict};
use ypogram_tables::csv::Arranged;
use ypogram_tables::{Error, OutputFile, OutputFolder, Result};

use crate::annotate::{Part, Row, Wanted};
use crate::clean::earlier::{Earlier, EarlierOnes};
use crate::clean::numbered::Numbered;
use crate::clean::report::CleanCounts;
use crate::fields::FieldPlan;
use crate::layout::OutputLayout;
use crate::line_count::LineCount;
use crate::numbers::Counter;
use crate::outcome::Outcome;
use crate::picking::LOOKED_AHEAD;
use crate::reading::{Reading, Task};
use crate::receipt::OutputReport;

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
    counts: CleanCounts,
    at: LineCount,
    /// The number of the record that is written next.
    number: Counter,
}

impl Committer {
    pub(crate) fn new(
        reading: &Reading,
        plan: &FieldPlan,
        (header, arranged): (Vec<u8>, Option<Arranged>),
        layout: &OutputLayout,
        folder: &OutputFolder,
        wanted: &Wanted,
        earlier: EarlierOnes,
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
            counts: CleanCounts::new(wanted.tally(plan)),
            at: LineCount::new(reading),
            number: Counter::from_one(),
        }
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
        let (rows, first) = (&part.rows[..], self.counts.records + 1);
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
                let earlier = earlier.map(|earlier| self.earlier.compare(row, earlier));
                self.settle(row, earlier, &task.chunk.bytes, &part.bytes)?;
            }
        }
        self.at.lines += part.lines;
        self.counts.blank_lines += part.blank_lines;
        Ok(())
    }

    /// Counts and writes the next row, which comes from `chunk` and stands in `bytes`.
    #[inline]
    fn settle(&mut self, row: &Row, earlier: Option<Earlier>, chunk: &[u8], bytes: &[u8]) -> Result<()> {
        self.counts.records += 1;
        let same_as = earlier.map(|earlier| earlier.record);
        let mut outcome = if earlier.is_some() { Outcome::Duplicate } else { row.outcome };
        let shared = earlier.is_some_and(|earlier| earlier.other_person);
        if shared {
            if row.outcome == Outcome::Kept {
                self.counts.tally.review[Code::SharedMailbox.index()] += 1;
            }
            self.counts.tally.findings[Code::SharedMailbox.index()] += 1;
            outcome = Outcome::Review;
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
            with_shared_mailbox(&bytes[start..][..octets], row, start, &mut rewritten);
            added = (&rewritten, rewritten.len());
        }
        let output = &mut self.outputs[outcome as usize];
        if output.file.is_none() {
            output.create(&self.header, self.arranged.as_ref())?;
        }
        let file = output.file.as_mut().expect("it was created");
        output.records += 1;
        let row = Numbered { own, added, delimiter: self.delimiter, record: &self.number, same_as, end };
        file.put(row.room(), |room| row.put(room))?;
        self.number.advance();
        Ok(())
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

/// The row, which starts at `start` of its part, with the finding that its mailbox is another person's, and the verdict that
/// follows.
fn with_shared_mailbox(written: &[u8], row: &Row, start: usize, out: &mut Vec<u8>) {
    let place = |at: u32| at as usize - start;
    let (from, to) = (place(row.findings.0), place(row.findings.1));
    out.clear();
    out.extend_from_slice(&written[..place(row.verdict)]);
    out.extend_from_slice(Verdict::Review.word().as_bytes());
    // The delimiter stands between the two.
    out.push(written[from - 1]);
    out.extend_from_slice(&written[from..to]);
    if to > from {
        out.push(b' ');
    }
    out.extend_from_slice(Code::SharedMailbox.name().as_bytes());
    out.extend_from_slice(&written[to..]);
}
