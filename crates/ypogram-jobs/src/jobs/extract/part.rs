//! What came of one piece.

use ypogram_core::Form;
use ypogram_core::text::SkipReason;
use ypogram_io::{EncodedRows, Values};

use crate::jobs::extract::row::{RowKey, value};

/// What came of one piece: first its rows are found, then settled, then encoded.
#[derive(Default)]
pub(crate) struct Part {
    pub(super) rows: Vec<Row>,
    pub(super) encoded: EncodedRows,
    /// Of each row.
    pub(super) values: Values,
    /// What the shared cells of the rows follow from.
    pub(super) keys: Vec<RowKey>,
    /// Lines and records before the piece.
    pub(super) lines_before: u64,
    pub(super) records_before: u64,
    /// Hashes of key and domain of usable addresses that have no row, since only what was passed over is listed.
    pub(crate) unlisted: Vec<(u64, u64)>,
    pub(crate) counts: Counts,
    /// Which of the fields that were named were seen; those behind the last one that was are left out.
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

/// A row, whose values have the same place in the part.
#[derive(Clone, Copy)]
pub(super) struct Row {
    /// Hashes of key and domain; 0 for an address that is not usable.
    pub(super) key: u128,
    pub(super) domain: u64,
    /// Line breaks before it in the piece's own part; fewer than none where it starts in front of that.
    pub(super) line: i32,
    /// Its record in the piece; `u32::MAX` where there are no records.
    pub(super) record: u32,
    /// What its shared cells follow from, by its place in the part.
    pub(super) template: u32,
    /// Its values need no quotes in any format.
    pub(super) is_simple: bool,
    /// It is written with its part, unless that is settled otherwise.
    pub(super) is_written: bool,
}

/// Counts of one piece.
#[derive(Clone, Debug)]
pub(crate) struct Counts {
    pub(crate) addresses: u64,
    pub(crate) verdicts: [u64; 3],
    pub(crate) forms: Vec<u64>,
    pub(crate) passed: Vec<u64>,
    /// Matches by pattern; empty where there are none.
    pub(crate) matches: Vec<u64>,
    /// Cells that a spreadsheet would take for formulas.
    pub(crate) formulas: u64,
}

impl Default for Counts {
    fn default() -> Self {
        Counts {
            addresses: 0,
            verdicts: [0; 3],
            forms: vec![0; Form::ALL.len()],
            passed: vec![0; SkipReason::ALL.len()],
            matches: Vec::new(),
            formulas: 0,
        }
    }
}

impl Part {
    /// What there is so far.
    pub(super) fn mark(&self) -> (usize, usize, Counts) {
        (self.rows.len(), self.unlisted.len(), self.counts.clone())
    }

    /// Takes back what came since.
    pub(super) fn back_to(&mut self, (rows, unlisted, counts): (usize, usize, Counts)) {
        self.rows.truncate(rows);
        self.values.truncate(rows);
        self.unlisted.truncate(unlisted);
        self.counts = counts;
    }

    /// Sets line and record of the row at `nth` among its values.
    pub(super) fn set_place(&mut self, nth: usize) {
        let (line, record) = self.place_of(&self.rows[nth]);
        self.values.set_number(nth, value::LINE, line);
        if let Some(record) = record {
            self.values.set_number(nth, value::RECORD, record);
        }
    }

    /// Line and record of a row in its source.
    fn place_of(&self, row: &Row) -> (u64, Option<u64>) {
        let line = self.lines_before.saturating_add_signed(row.line.into()) + 1;
        let record = (row.record != u32::MAX).then(|| self.records_before + u64::from(row.record) + 1);
        (line, record)
    }

    /// Makes it empty, for rows with so many values.
    pub(super) fn clear(&mut self, values: usize) {
        self.values.clear(values);
        self.keys.clear();
        self.encoded.clear();
        self.rows.clear();
        self.unlisted.clear();
        self.fields_met.clear();
        self.counts = Counts::default();
        (self.trouble, self.records, self.blank_lines) = (None, 0, 0);
        (self.unpaired, self.undecoded) = (0, 0);
    }
}
