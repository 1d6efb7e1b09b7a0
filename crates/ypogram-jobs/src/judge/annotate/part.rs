//! What came of one chunk.

use ypogram_core::Class;
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Encode, Record};

use crate::judge::annotate::Wanted;
use crate::judge::tally::Tally;
use crate::plan::outcome::Outcome;

/// What came of one chunk.
#[derive(Default)]
pub(crate) struct Part {
    /// The records, encoded one behind the other, in their order unless there are rows that tell it; without their own fields where
    /// duplicates are looked for and these stand in the chunk.
    pub(crate) bytes: Vec<u8>,
    /// How many these are.
    pub(crate) written: u64,
    /// Each of them, where that is asked for.
    pub(crate) rows: Vec<Row>,
    /// Records in the chunk; more than rows where only some are shown.
    pub(crate) records: u64,
    /// Counts of what was met; whoever deals with the part takes them.
    pub(crate) tally: Option<Tally>,
    /// Line breaks in the chunk.
    pub(crate) lines: u64,
    pub(crate) blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub(crate) formulas: u64,
    /// The first records whose number of cells is not that of the fields: line in the chunk, cells.
    pub(crate) ragged: Vec<(u64, usize)>,
    /// Where in the chunk the first byte stands that is not UTF-8.
    pub(crate) not_utf8_at: Option<usize>,
    /// Further usable addresses of records that have but one row, where duplicates are looked for: the place of the record in the
    /// chunk, the hash of the mailbox.
    pub(crate) further: Vec<(usize, u128)>,
    /// What tells each record apart, behind one another, and where each ends; empty where that is not asked for.
    pub(crate) ids: (Vec<u8>, Vec<usize>),
}

impl Part {
    /// What tells each record apart, in order.
    pub(crate) fn ids(&self) -> impl Iterator<Item = &[u8]> {
        let (texts, ends) = &self.ids;
        let starts = std::iter::once(&0).chain(ends);
        starts.zip(ends).map(|(&start, &end)| &texts[start..end])
    }

    /// Writes the own fields of a record, where they cannot be copied from their chunk when all is put together; gives where they
    /// stand there otherwise.
    #[inline]
    pub(super) fn write_own(
        &mut self,
        record: Record<'_>,
        encoder: &mut CsvEncoder,
        wanted: &Wanted,
    ) -> (u32, u32) {
        if wanted.duplicates
            && let Some(place) = encoder.own_in_place(record)
        {
            return (place.start, place.end);
        }
        encoder.own(record, &mut self.bytes);
        (0, 0)
    }

    /// Holds the place of a row that is put off; gives that.
    #[inline]
    pub(super) fn hold_place(&mut self) -> usize {
        self.rows.push(Row::default());
        self.rows.len() - 1
    }

    /// Moves the row that was kept last to a place that was held for it.
    #[inline]
    pub(super) fn take_place(&mut self, place: usize) {
        self.rows.swap_remove(place);
    }

    /// Counts the row that was written last, and keeps it where that is asked for.
    #[inline]
    pub(super) fn end_row(&mut self, wanted: &Wanted, row: impl FnOnce() -> Row) {
        self.written += 1;
        if wanted.rows() {
            self.rows.push(row());
        }
    }
}

/// One record, encoded.
#[derive(Clone, Copy, Default)]
pub(crate) struct Row {
    /// Line breaks before it in the chunk.
    pub(crate) line: u32,
    /// Where in the chunk the own fields of the record stand, with which the row starts; nowhere where it has them already.
    pub(crate) own: (u32, u32),
    /// Where the row starts.
    pub(crate) start: u32,
    /// Where the cells that the committer fills in belong.
    pub(crate) split: u32,
    /// Where the row ends.
    pub(crate) end: u32,
    pub(crate) outcome: Outcome,
    /// It is another row of the record before it, for a further address.
    pub(crate) added: bool,
    /// Of a record for review the finding that asks for it, by place among all.
    pub(crate) reason: u8,
    pub(crate) class: Option<Class>,
    /// Hash of the key; only for records to be kept or reviewed.
    pub(crate) key: u128,
    /// Hash of the person; 0 where none is known or asked for.
    pub(crate) person: u32,
    /// Where the cells of verdict and findings start and end; they follow one another.
    pub(crate) verdict: u32,
    pub(crate) findings: (u32, u32),
}
