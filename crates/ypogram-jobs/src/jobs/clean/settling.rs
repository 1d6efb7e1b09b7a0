//! What depends on the order of the records: which of them are duplicates, and where each ends.

use std::collections::BTreeMap;

use hashbrown::HashMap;
use prefetch_index::prefetch_index;
use ypogram_core::{Code, Verdict};
use ypogram_io::{NotUtf8, Result};

use crate::duplicates::filled_cells::FilledCells;
use crate::duplicates::first_records::Earlier;
use crate::duplicates::merged_rows::MergedRows;
use crate::engine::faults::our_fault;
use crate::engine::id_store::IdStore;
use crate::engine::line_count::LineCount;
use crate::engine::pipeline::Flow;
use crate::engine::reading::{Reading, Task};
use crate::jobs::clean::behind::BehindFigures;
use crate::jobs::clean::earlier::EarlierOnes;
use crate::jobs::clean::report::{CleanCounts, FROM_MEMORY};
use crate::judge::annotate::{Part, Row, Wanted};
use crate::judge::decided::SharedAnswer;
use crate::judge::further::Further;
use crate::judge::house_clashes::HouseClashes;
use crate::plan::fields::FieldPlan;
use crate::plan::outcome::Outcome;
use crate::plan::shared::Shared;
use crate::plan::shown_record::ShownRecord;

pub(crate) struct Settling {
    earlier: EarlierOnes,
    shared: Shared,
    counts: CleanCounts,
    at: LineCount,
    /// Rows so far: as many as records, unless further addresses have rows of their own.
    rows: u64,
    /// The numbers of these rows.
    added: Vec<u64>,
    further: Further,
    /// What records are named by that others are the same as; their number where there is none.
    ids: Option<IdStore>,
    /// Records that stay beside one of another person, as somebody decided, by mailbox and person.
    staying: HashMap<(u128, u32), u64>,
    /// For each row of the chunk in hand the record that it is a duplicate of.
    met: Vec<Option<Earlier>>,
    /// What rows take from others.
    merging: Option<Merging>,
    behind: Option<BehindFigures>,
    /// Addresses that the house would give to several records.
    clashes: HouseClashes,
}

/// Rows that take cells from others, and where these are written down.
pub(crate) struct Merging {
    pub(crate) rows: MergedRows,
    pub(crate) filled: Option<FilledCells>,
}

impl Settling {
    pub(crate) fn new(
        reading: &Reading,
        plan: &FieldPlan,
        wanted: &Wanted,
        (earlier, shared): (EarlierOnes, Shared),
        ids: Option<IdStore>,
    ) -> Self {
        Settling {
            earlier,
            shared,
            counts: CleanCounts {
                blank_lines: reading.blank_lines_before(),
                ..CleanCounts::new(wanted.tally(plan))
            },
            at: LineCount::new(reading),
            rows: 0,
            added: Vec::new(),
            further: Further::default(),
            ids,
            staying: HashMap::new(),
            met: Vec::new(),
            merging: None,
            behind: None,
            clashes: HouseClashes::default(),
        }
    }

    /// The same, with what passes before this one found out.
    pub(crate) fn knowing(mut self, added: Vec<u64>, merging: Option<Merging>) -> Self {
        (self.added, self.merging) = (added, merging);
        self
    }

    /// The same, gathering the first records behind each figure.
    pub(crate) fn gathering(mut self, behind: Option<BehindFigures>) -> Self {
        self.behind = behind;
        self
    }

    /// Settles the rows of the next chunk; to stop where the mailboxes do not fit into memory.
    ///
    /// # Errors
    /// Where the source ends inside quotes, there is no memory, or the temporary folder cannot be used.
    pub(crate) fn settle(&mut self, task: &Task, part: &mut Part) -> Result<Flow> {
        self.at.enter(task)?;
        part.comes_behind(self.at.lines, self.counts.records);
        self.clashes.take(self.counts.records, &mut part.own_house, &mut part.house);
        if part.decided_from.is_some_and(|records| records != self.counts.records) {
            return Err(our_fault());
        }
        if let Some(tally) = &mut part.tally {
            self.counts.tally.take_from(tally, self.at.lines + 1);
        }
        self.note_shape(task, part);
        if let Some(ids) = &mut self.ids {
            part.ids().try_for_each(|id| ids.add(id))?;
        }
        if self.earlier.is_full() {
            return Ok(Flow::Stop);
        }
        self.counts.decided.append(&mut part.decided_records);
        self.find_earlier(&part.rows)?;
        let records_before = self.counts.records;
        let mut next_further = 0;
        for nth in 0..part.rows.len() {
            let outcome = self.settle_row(nth, part)?;
            if let Some(behind) = &mut self.behind {
                let asks_alone = self.met[nth].is_none_or(|earlier| !earlier.other_person);
                let own = usize::from(part.rows[nth].reason);
                behind.see(
                    task,
                    part,
                    nth,
                    self.at.lines,
                    if asks_alone { own } else { Code::SharedMailbox.index() },
                );
            }
            let record = (self.counts.records - records_before - 1) as usize;
            while let Some((_, mailbox)) = part.further.get(next_further).filter(|(of, _)| *of == record) {
                self.further.add(*mailbox, outcome == Outcome::Kept);
                next_further += 1;
            }
        }
        self.at.lines += part.lines;
        self.counts.blank_lines += part.blank_lines;
        self.counts.formula_cells += part.formulas;
        Ok(Flow::GoOn)
    }

    /// The row that the one at `nth` of the chunk that was just settled goes into where records of one mailbox are merged, and its
    /// place in the order of preference: itself where it stays. None where it neither takes nor gives.
    pub(crate) fn goes_into(&self, nth: usize, part: &Part) -> Option<(u64, u32)> {
        let (earlier, row) = (self.met[nth]?, &part.rows[nth]);
        let own = self.rows - (part.rows.len() - 1 - nth) as u64;
        match row.outcome {
            Outcome::Kept | Outcome::Review => Some((own, 0)),
            // What somebody dropped is gone, and what is another person's is not taken.
            Outcome::Duplicate if row.decided.shared == SharedAnswer::Drop || earlier.other_person => None,
            Outcome::Duplicate => Some((earlier.record, earlier.rank)),
            _ => None,
        }
    }

    /// The record of the row at `nth` of the chunk that was just settled.
    pub(crate) fn record_at(&self, nth: usize, part: &Part) -> u64 {
        self.record_of(self.rows - (part.rows.len() - 1 - nth) as u64)
    }

    /// Looks up the earlier record of each row: all of the chunk before the first is settled, so that what is known of the earlier
    /// records can be fetched meanwhile.
    fn find_earlier(&mut self, rows: &[Row]) -> Result<()> {
        self.met.clear();
        for nth in 0..rows.len() {
            // Another thread may have written them.
            prefetch_index(rows, nth + 64);
            self.met.push(self.earlier.of(rows, nth, self.rows + 1 + nth as u64)?);
        }
        Ok(())
    }

    /// Settles and counts the row at `nth` of the part; gives where it ends.
    #[inline]
    fn settle_row(&mut self, nth: usize, part: &mut Part) -> Result<Outcome> {
        self.rows += 1;
        let row = part.rows[nth];
        match row.added {
            // It may be known already.
            true if self.added.last().is_none_or(|last| *last < self.rows) => self.added.push(self.rows),
            true => {}
            false => self.counts.records += 1,
        }
        let mut outcome = row.outcome;
        if let Some(earlier) = self.met[nth].filter(|earlier| earlier.record != self.rows) {
            let mut earlier = self.earlier.compare(&row, self.rows, earlier)?;
            if earlier.other_person
                && let Some(&own) = self.staying.get(&(row.key, row.person))
            {
                earlier = Earlier { record: own, other_person: false, holder_is_other: true, ..earlier };
            }
            self.met[nth] = Some(earlier);
            outcome = match earlier.other_person {
                true => self.settle_shared(nth, part),
                false => Outcome::Duplicate,
            };
            let record = self.record_of(earlier.record);
            match &mut self.ids {
                Some(ids) => part.is_same_as_named(nth, |out| ids.write(record, out))?,
                None => part.is_same_as(nth, record),
            }
        }
        if row.decided.shared == SharedAnswer::Drop && !row.decided.from_memory {
            // It stood against a record of another person, which may be gone by now.
            outcome = Outcome::Duplicate;
        }
        self.count_decision(&row);
        if row.outcome == Outcome::Review && outcome == Outcome::Duplicate {
            // It was counted among those for review.
            self.counts.tally.review[usize::from(row.reason)] -= 1;
        }
        self.counts.outcomes[outcome as usize] += 1;
        if let (true, Some(confidence)) = (outcome.is_decided_about(), row.suggested) {
            self.counts.suggestions[confidence as usize] += 1;
        }
        if let (Outcome::Kept | Outcome::Review, Some(class)) = (outcome, row.class) {
            self.counts.handed_over[class.index()] += 1;
        }
        if outcome == Outcome::Kept {
            self.earlier.note_kept(&row);
        }
        part.rows[nth].outcome = outcome;
        part.rows[nth].output = outcome as u8;
        if let Some(Merging { rows, filled }) = &mut self.merging
            && let Some(merged) = rows.of(self.rows)?
        {
            let record = self.rows - self.added.partition_point(|&added| added <= self.rows) as u64;
            filled.as_mut().map_or(Ok(()), |filled| filled.add(record, &merged.filled))?;
            part.merged.push((nth, merged.cells));
        }
        Ok(outcome)
    }

    /// The row has the mailbox of another person; gives where it ends.
    fn settle_shared(&mut self, nth: usize, part: &mut Part) -> Outcome {
        let own = part.rows[nth].outcome;
        self.counts.shared += 1;
        self.counts.tally.findings[Code::SharedMailbox.index()] += 1;
        let Row { key, person, decided, .. } = part.rows[nth];
        let is_decided = decided.shared != SharedAnswer::None;
        let verdict = (self.shared == Shared::Review && !is_decided).then_some(Verdict::Review);
        part.add_finding(nth, Code::SharedMailbox, verdict);
        if is_decided && decided.from_memory && decided.kind.is_none() {
            self.counts.decisions[FROM_MEMORY] += 1;
        }
        self.counts.shared_decided += u64::from(is_decided);
        match decided.shared {
            SharedAnswer::Keep => {
                self.staying.insert((key, person), self.rows);
                return own;
            }
            SharedAnswer::Drop => return Outcome::Duplicate,
            SharedAnswer::None if self.shared == Shared::Keep => return own,
            SharedAnswer::None => {}
        }
        self.counts.tally.review[Code::SharedMailbox.index()] += u64::from(own == Outcome::Kept);
        Outcome::Review
    }

    fn count_decision(&mut self, row: &Row) {
        if let Some(kind) = row.decided.kind {
            let place = if row.decided.from_memory { FROM_MEMORY } else { kind as usize };
            self.counts.decisions[place] += 1;
        }
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
        if let (Some(at), None) = (part.not_utf8, self.counts.not_utf8) {
            let at = match at {
                NotUtf8::Byte(byte) => NotUtf8::Byte(task.chunk.offset + byte),
                NotUtf8::Line(line) => NotUtf8::Line(self.at.lines + line + 1),
            };
            self.counts.not_utf8 = Some((task.source, at));
        }
    }

    /// Which record is a duplicate of which, to be asked again.
    pub(crate) fn into_earlier(mut self) -> EarlierOnes {
        self.earlier.rewind();
        self.earlier
    }

    /// The counts, once all is settled, what is left of merging, and the records behind the figures.
    pub(crate) fn finish(mut self) -> (CleanCounts, Option<Merging>, BTreeMap<String, Vec<ShownRecord>>) {
        self.counts.mailboxes = self.earlier.mailboxes();
        self.counts.tally.clashes = self.clashes.found();
        self.counts.further_not_kept =
            self.further.in_no_kept_record(|mailbox| self.earlier.is_kept(mailbox));
        let behind = self.behind.map(BehindFigures::by_figure).unwrap_or_default();
        (self.counts, self.merging, behind)
    }
}
