//! What came of one chunk.

use std::ops::Range;

use ypogram_core::{Class, Code, Confidence, Verdict};
use ypogram_io::{Batch, Chunk, EncodedRows, NotUtf8, Record, Values};

use crate::duplicates::merged_rows::Cells;
use crate::duplicates::survivor::Score;
use crate::judge::added_cells::TemplateKey;
use crate::judge::compared::Compared;
use crate::judge::decided::{Decided, DecidedRecord};
use crate::judge::house_clashes::HouseAddress;
use crate::judge::tally::Tally;
use crate::plan::columns::Column;
use crate::plan::outcome::Outcome;

/// What came of one chunk: first judged, then settled, then encoded.
#[derive(Default)]
pub(crate) struct Part {
    /// The rows that are wanted of its records, in their order.
    pub(crate) rows: Vec<Row>,
    /// Each output's rows, once they are encoded: by outcome, where records are sorted by it.
    pub(crate) encoded: Vec<EncodedRows>,
    /// Records in the chunk; more than rows where only some are shown.
    pub(crate) records: u64,
    /// Counts of what was found; whoever settles the part takes them.
    pub(crate) tally: Option<Tally>,
    /// Line breaks in the chunk.
    pub(crate) lines: u64,
    pub(crate) blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub(crate) formulas: u64,
    /// The first records whose number of cells is not that of the fields: line in the chunk, cells.
    pub(crate) ragged: Vec<(u64, usize)>,
    /// Where in the chunk something stands first that is not UTF-8.
    pub(crate) not_utf8: Option<NotUtf8>,
    /// Further usable addresses of records that have but one row, where duplicates are looked for: the place of the record in the
    /// chunk, the hash of the mailbox.
    pub(crate) further: Vec<(usize, u128)>,
    /// What tells each record apart, behind one another, and where each ends; empty where that is not asked for.
    pub(crate) ids: (Vec<u8>, Vec<usize>),
    /// The score of each row, where that is asked for.
    pub(crate) scores: Vec<Score>,
    /// Rows with cells of other records: the row, and the cells by field.
    pub(crate) merged: Vec<(usize, Cells)>,
    /// Records about which somebody decided.
    pub(crate) decided_records: Vec<DecidedRecord>,
    pub(super) batch: Batch,
    /// What the shared cells of the rows follow from.
    pub(super) keys: Vec<TemplateKey>,
    /// The values of the rows, in their order unless some are put off.
    pub(super) values: Values,
    /// Lines and records before the chunk.
    pub(super) lines_before: u64,
    pub(super) records_before: u64,
    /// Records before the chunk as decisions about single records count them, where there are such.
    pub(crate) decided_from: Option<u64>,
    /// What each row has or would have by the house's format, where that is asked for.
    pub(crate) house: Vec<HouseAddress>,
    /// Of those that fit, a hash of the address and the record, by its place in the chunk.
    pub(crate) own_house: Vec<(u64, u32)>,
    /// How each row compares with others, where that is asked for.
    pub(crate) compared: Vec<Compared>,
    /// Values that rows get once they are settled, by the places of the rows.
    pub(super) late: Vec<(usize, Column, Late)>,
}

/// A value that a row gets once it is settled.
pub(super) enum Late {
    Number(u64),
    /// Where it stands in the values.
    Text(Range<usize>),
}

/// A row to be written for a record.
#[derive(Clone, Copy, Default)]
pub(crate) struct Row {
    /// Hash of the key; only for records to be kept or reviewed.
    pub(crate) key: u128,
    /// Hash of the person; 0 where none is known or asked for.
    pub(crate) person: u32,
    /// The record, by its place in the chunk.
    pub(super) record: u32,
    /// Its values, by the place of their row.
    pub(super) values: u32,
    /// What its shared cells follow from, by its place in the part.
    pub(super) template: u32,
    pub(crate) class: Option<Class>,
    pub(crate) outcome: Outcome,
    /// The output that it goes to, where there are several.
    pub(crate) output: u8,
    /// It is another row of the record before it, for a further address.
    pub(crate) added: bool,
    /// Of a record for review the finding that asks for it, by place among all.
    pub(crate) reason: u8,
    /// How sure what is suggested for its address is, where something is.
    pub(crate) suggested: Option<Confidence>,
    /// What somebody decided about it.
    pub(crate) decided: Decided,
    /// Its values need no quotes in any format.
    pub(super) values_are_simple: bool,
    /// Nor does the first cell of its record.
    pub(super) record_is_simple: bool,
}

impl Part {
    /// What tells each record apart, in order.
    pub(crate) fn ids(&self) -> impl Iterator<Item = &[u8]> {
        let (texts, ends) = &self.ids;
        let starts = std::iter::once(&0).chain(ends);
        starts.zip(ends).map(|(&start, &end)| &texts[start..end])
    }

    /// The value of that number of the row at `nth`.
    #[cfg_attr(not(feature = "sqlite"), allow(dead_code))]
    pub(crate) fn value(&self, nth: usize, value: usize) -> &[u8] {
        self.values.of_row(self.rows[nth].values as usize).get(value)
    }

    /// What the shared cells of the row at `nth` follow from.
    pub(crate) fn made_of(&self, nth: usize) -> &TemplateKey {
        &self.keys[self.rows[nth].template as usize]
    }

    /// The record of the row at `nth`.
    pub(crate) fn record<'c>(&'c self, nth: usize, chunk: &'c Chunk) -> Record<'c> {
        self.batch.record(chunk, self.rows[nth].record as usize)
    }

    /// Tells what stood before the chunk, so that its records can be numbered.
    pub(crate) fn comes_behind(&mut self, lines: u64, records: u64) {
        (self.lines_before, self.records_before) = (lines, records);
    }

    /// The row at `nth` is the same as the record of that number. To be told in the order of the rows.
    pub(crate) fn is_same_as(&mut self, nth: usize, record: u64) {
        self.set_number(nth, Column::SameAs, record);
    }

    /// The row at `nth` has that number in that column.
    pub(crate) fn set_number(&mut self, nth: usize, column: Column, number: u64) {
        self.late.push((nth, column, Late::Number(number)));
    }

    /// The row at `nth` has that text in that column.
    pub(crate) fn set_text(&mut self, nth: usize, column: Column, text: &str) {
        let place = self.values.append(text.as_bytes());
        self.set_late_text(nth, column, place);
    }

    /// The same, where that record has a name, which `write` appends.
    ///
    /// # Errors
    /// Those of `write`.
    pub(crate) fn is_same_as_named<E>(
        &mut self,
        nth: usize,
        write: impl FnOnce(&mut Vec<u8>) -> Result<(), E>,
    ) -> Result<(), E> {
        let mut written = Ok(());
        let place = self.values.append_with(|out| written = write(out));
        self.set_late_text(nth, Column::SameAs, place);
        written
    }

    /// The row at `nth` has the text at that place of the values, in which anything may stand.
    fn set_late_text(&mut self, nth: usize, column: Column, place: Range<usize>) {
        self.rows[nth].values_are_simple = false;
        self.late.push((nth, column, Late::Text(place)));
    }

    /// The row at `nth` has another finding, and that verdict where there is one.
    pub(crate) fn add_finding(&mut self, nth: usize, code: Code, verdict: Option<Verdict>) {
        let row = &mut self.rows[nth];
        let key = self.keys[row.template as usize].with_code(code, verdict);
        row.template = self.keys.len() as u32;
        self.keys.push(key);
    }

    pub(super) fn clear(&mut self, values: usize, outputs: usize) {
        self.rows.clear();
        self.ragged.clear();
        self.further.clear();
        self.scores.clear();
        self.house.clear();
        self.own_house.clear();
        self.merged.clear();
        self.decided_records.clear();
        self.batch.clear();
        self.keys.clear();
        self.late.clear();
        self.compared.clear();
        self.values.clear(values);
        self.encoded.resize_with(outputs, EncodedRows::default);
        self.encoded.iter_mut().for_each(EncodedRows::clear);
    }
}
