//! The cells of a chunk: offsets into it, and a scratch space for what had to be decoded.

use std::ops::Range;

use crate::records::chunk::Chunk;
use crate::records::formula::{is_formula_like, is_guarded, may_begin_one};
use crate::records::typed_cell::TypedCell;
use crate::records::value::{Value, json_value};
use ypogram_bytes::append_short;

/// The records of one chunk as cells. Holds offsets only, so that it is filled again for chunk after chunk without
/// asking for memory.
#[derive(Debug, Default)]
pub struct Batch {
    /// The cells of all records, and behind these others without meaning.
    cells: Vec<CellRef>,
    cell_count: usize,
    records: Vec<RecordRef>,
    scratch: Vec<u8>,
    /// Of records in JSON, for each cell where its value stands.
    json: Vec<JsonCell>,
    /// Of packed records, for each cell what it holds.
    typed: Vec<TypedCell>,
    /// Of records that are written in a way of their own, for each where that stands.
    originals: Vec<Range<usize>>,
    /// For each cell with a link its number, and where the address stands that the link goes to.
    links: Vec<(usize, Range<usize>)>,
    /// Of packed records the first that has a cell which is not UTF-8.
    not_utf8: Option<usize>,
    /// Each record is a line of text with one cell.
    pub(crate) of_lines: bool,
    /// Lines without anything in them; they are not records.
    pub blank_lines: u64,
    /// Line breaks in the chunk.
    pub lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub formulas: u64,
}

/// Where something stands that is not UTF-8, counted from the start of a chunk or source.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NotUtf8 {
    /// At that byte of text.
    Byte(u64),
    /// In that line of a source without a text of its own, such as a sheet.
    Line(u64),
}

/// Bytes in which most lines of a list of addresses fit.
const LINE: usize = 64;

/// Bytes in which most rows of a table of contacts fit.
const ROW: usize = 192;

/// Where a cell stands.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct CellRef {
    start: u32,
    /// The length, shifted, and the flags.
    len_and_flags: u32,
}

/// The bytes of the cell are in the scratch space.
const DECODED: u32 = 1;
/// The cell has an apostrophe in front, which keeps a spreadsheet from taking it for a formula and is no part of it.
const GUARDED: u32 = 2;
const FLAG_BITS: u32 = 2;

impl CellRef {
    /// One that stands in the chunk as it is.
    #[inline]
    pub(crate) fn in_chunk(start: usize, end: usize) -> Self {
        CellRef { start: start as u32, len_and_flags: ((end - start) as u32) << FLAG_BITS }
    }

    #[inline]
    fn len(self) -> usize {
        (self.len_and_flags >> FLAG_BITS) as usize
    }

    #[inline]
    fn has(self, flag: u32) -> bool {
        self.len_and_flags & flag != 0
    }

    /// The same without its first byte, an apostrophe.
    fn guarded(self) -> Self {
        let flags = self.len_and_flags & DECODED | GUARDED;
        CellRef { start: self.start + 1, len_and_flags: ((self.len() - 1) as u32) << FLAG_BITS | flags }
    }
}

/// Where in the chunk the JSON value of a cell stands.
#[derive(Clone, Copy, Debug)]
pub(crate) struct JsonCell {
    pub(crate) start: u32,
    pub(crate) end: u32,
}

impl JsonCell {
    /// That of a cell whose record lacks the field.
    pub(crate) const MISSING: JsonCell = JsonCell { start: 0, end: 0 };

    pub(crate) fn is_missing(self) -> bool {
        self.end == 0
    }
}

#[derive(Clone, Copy, Debug)]
struct RecordRef {
    start: u32,
    end: u32,
    first_cell: u32,
    line: u32,
}

/// One record of a batch.
#[derive(Clone, Copy, Debug)]
pub struct Record<'a> {
    batch: &'a Batch,
    chunk: &'a Chunk,
    index: usize,
}

impl Batch {
    /// Makes it empty, keeping its memory.
    pub fn clear(&mut self) {
        self.cell_count = 0;
        self.records.clear();
        self.scratch.clear();
        self.json.clear();
        self.typed.clear();
        self.originals.clear();
        self.links.clear();
        self.not_utf8 = None;
        self.of_lines = false;
        self.blank_lines = 0;
        self.lines = 0;
        self.formulas = 0;
    }

    /// How many records it has.
    pub fn len(&self) -> usize {
        self.records.len()
    }

    /// Whether it has none.
    pub fn is_empty(&self) -> bool {
        self.records.is_empty()
    }

    /// Whether each record is a line of text with one cell.
    pub fn is_of_lines(&self) -> bool {
        self.of_lines
    }

    /// Whether `chunk`, from which it was decoded, is its records as they are written, each with a line feed and nothing between.
    pub fn is_as_written(&self, chunk: &Chunk) -> bool {
        let one_by_one = self.blank_lines == 0 && self.lines == self.records.len() as u64;
        self.of_lines && one_by_one && memchr::memchr(b'\r', &chunk.bytes).is_none()
    }

    /// Where each record starts in `bytes`, from which the batch was decoded, and its bytes.
    pub(crate) fn raw_records<'a>(&'a self, bytes: &'a [u8]) -> impl Iterator<Item = (usize, &'a [u8])> {
        self.records
            .iter()
            .map(|record| (record.start as usize, &bytes[record.start as usize..record.end as usize]))
    }

    /// Counts cells that a spreadsheet would take for formulas, and leaves those that are guarded without their apostrophe.
    pub(crate) fn look_for_formulas(&mut self, bytes: &[u8]) {
        for cell in &mut self.cells[..self.cell_count] {
            let place = if cell.has(DECODED) { &self.scratch } else { bytes };
            let start = cell.start as usize;
            if place.get(start).is_none_or(|&byte| !may_begin_one(byte)) {
                continue;
            }
            let text = &place[start..][..cell.len()];
            self.formulas += u64::from(is_formula_like(text));
            if is_guarded(text) {
                *cell = cell.guarded();
            }
        }
    }

    /// Counts cells that a spreadsheet would take for formulas; none of them is guarded.
    pub(crate) fn count_formula_cells(&mut self, bytes: &[u8]) {
        let text = |cell: &CellRef| {
            let place = if cell.has(DECODED) { &self.scratch } else { bytes };
            &place[cell.start as usize..][..cell.len()]
        };
        self.formulas =
            self.cells[..self.cell_count].iter().filter(|cell| is_formula_like(text(cell))).count() as u64;
    }

    /// Adds where the JSON value of the next cell stands.
    pub(crate) fn push_json_cell(&mut self, cell: JsonCell) {
        self.json.push(cell);
    }

    /// Adds a cell of `bytes`, of which a part is its text, and what it holds.
    #[inline]
    pub(crate) fn push_typed_cell(&mut self, cell: TypedCell, bytes: &[u8], text: Range<usize>) {
        let shown = &bytes[text.clone()];
        if !shown.is_ascii() && self.not_utf8.is_none() && std::str::from_utf8(shown).is_err() {
            self.not_utf8 = Some(self.records.len());
        }
        self.formulas += u64::from(is_formula_like(shown));
        self.typed.push(cell);
        self.push_cell(text.start, text.end);
    }

    /// Where in `chunk`, from which it was decoded, something stands first that is not UTF-8.
    pub fn not_utf8(&self, chunk: &Chunk) -> Option<NotUtf8> {
        if self.typed.is_empty() {
            let error = simdutf8::compat::from_utf8(&chunk.bytes).err()?;
            return Some(NotUtf8::Byte(error.valid_up_to() as u64));
        }
        self.not_utf8.map(|record| NotUtf8::Line(self.record(chunk, record).line_in_chunk()))
    }

    /// Adds where the next record stands as it is written in its source; all records have that, or none.
    pub(crate) fn push_original(&mut self, place: Range<usize>) {
        self.originals.push(place);
    }

    /// Adds where the address stands that the link of the cell added last goes to.
    pub(crate) fn push_link(&mut self, place: Range<usize>) {
        self.links.push((self.cell_count - 1, place));
    }

    /// Counts cells that a spreadsheet would take for formulas, where all stand in `bytes` as they are.
    pub(crate) fn count_formulas(&mut self, bytes: &[u8]) {
        let begins = |record: &&RecordRef| may_begin_one(bytes[record.start as usize]);
        let may_be = self.records.iter().filter(begins);
        let is_one =
            |record: &&RecordRef| is_formula_like(&bytes[record.start as usize..record.end as usize]);
        self.formulas = may_be.filter(is_one).count() as u64;
    }

    /// How many cells each record has.
    pub(crate) fn widths(&self) -> Vec<usize> {
        let starts = self.records.iter().map(|record| record.first_cell as usize);
        let ends = starts.clone().skip(1).chain([self.cell_count]);
        starts.zip(ends).map(|(start, end)| end - start).collect()
    }

    /// How many cells the record at `record` has.
    #[inline]
    fn width(&self, record: usize) -> usize {
        let next = self.records.get(record + 1).map_or(self.cell_count, |next| next.first_cell as usize);
        next - self.records[record].first_cell as usize
    }

    /// The cell at `index` of the record at `record`, with whatever stands behind it, and how many bytes the cell has; `bytes` are those
    /// from which the batch was decoded. None where the record is too short.
    #[inline]
    pub(crate) fn cell_and_behind<'a>(
        &'a self,
        bytes: &'a [u8],
        record: usize,
        index: usize,
    ) -> Option<(&'a [u8], usize)> {
        if index >= self.width(record) {
            return None;
        }
        let cell = self.cells[self.records[record].first_cell as usize + index];
        let place = if cell.has(DECODED) { &self.scratch } else { bytes };
        Some((&place[cell.start as usize..], cell.len()))
    }

    /// Its records, in order. `chunk` is the one it was decoded from.
    pub fn records<'a>(&'a self, chunk: &'a Chunk) -> impl Iterator<Item = Record<'a>> {
        (0..self.records.len()).map(move |index| self.record(chunk, index))
    }

    /// The record at `index`; `chunk` is the one it was decoded from.
    #[inline]
    pub fn record<'a>(&'a self, chunk: &'a Chunk, index: usize) -> Record<'a> {
        Record { batch: self, chunk, index }
    }

    /// Adds a cell that stands in the chunk as it is.
    #[inline]
    pub(crate) fn push_cell(&mut self, start: usize, end: usize) {
        self.push(CellRef::in_chunk(start, end));
    }

    /// Adds a cell whose bytes had to be decoded.
    pub(crate) fn push_decoded_cell(&mut self, write: impl FnOnce(&mut Vec<u8>)) {
        let start = self.scratch.len();
        write(&mut self.scratch);
        let len = (self.scratch.len() - start) as u32;
        self.push(CellRef { start: start as u32, len_and_flags: len << FLAG_BITS | DECODED });
    }

    #[inline]
    fn push(&mut self, cell: CellRef) {
        self.room_for_cells(1)[0] = cell;
        self.add_cells(1);
    }

    /// Places for so many more cells, which count once they [are added](Self::add_cells).
    #[inline]
    pub(crate) fn room_for_cells(&mut self, more: usize) -> &mut [CellRef] {
        let needed = self.cell_count + more;
        if self.cells.len() < needed {
            self.cells.resize(needed.next_power_of_two(), CellRef::default());
        }
        &mut self.cells[self.cell_count..needed]
    }

    /// Adds the first so many of the cells for which there was [room](Self::room_for_cells).
    #[inline]
    pub(crate) fn add_cells(&mut self, count: usize) {
        self.cell_count += count;
    }

    /// Ends a record: its bytes without terminator, the index of its first cell, the line breaks before it in the chunk.
    #[inline]
    pub(crate) fn push_record(&mut self, start: usize, end: usize, first_cell: usize, line: u64) {
        self.records.push(RecordRef {
            start: start as u32,
            end: end as u32,
            first_cell: first_cell as u32,
            line: line as u32,
        });
    }

    #[inline]
    pub(crate) fn cell_count(&self) -> usize {
        self.cell_count
    }
}

impl<'a> Record<'a> {
    /// The record's bytes as they stand in the source, without the terminator.
    #[inline]
    pub fn raw(self) -> &'a [u8] {
        let record = self.batch.records[self.index];
        &self.chunk.bytes[record.start as usize..record.end as usize]
    }

    /// What it begins with, white space left out: as it stands in the source, or its first cell where it has no text of its own.
    pub fn beginning(self) -> &'a [u8] {
        let text = if self.batch.typed.is_empty() { self.raw() } else { self.cell(0).unwrap_or_default() };
        text.trim_ascii_start()
    }

    /// Whether there may be such a byte in a cell other than those at `places`.
    #[inline]
    pub fn may_hold_outside(self, byte: u8, mut places: impl Iterator<Item = usize>) -> bool {
        let RecordRef { start, end, .. } = self.batch.records[self.index];
        let raw = &self.chunk.bytes[start as usize..end as usize];
        let Some(first) = memchr::memchr(byte, raw) else { return false };
        let last = memchr::memrchr(byte, raw).unwrap_or(first);
        let holds_all = |cell: CellRef| {
            let from = cell.start.wrapping_sub(start) as usize;
            !cell.has(DECODED) && from <= first && last < from + cell.len()
        };
        !places.any(|place| self.cell_ref(place).is_some_and(holds_all))
    }

    /// Appends its bytes as they stand in the source and a line feed to `out`.
    #[inline]
    pub fn append_line(self, out: &mut Vec<u8>) {
        let RecordRef { start, end, .. } = self.batch.records[self.index];
        let (from, len) = (&self.chunk.bytes[start as usize..], (end - start) as usize);
        if from.get(len) == Some(&b'\n') {
            return append_short::<LINE>(from, len + 1, out);
        }
        out.extend_from_slice(&from[..len]);
        out.push(b'\n');
    }

    /// Appends its bytes as they stand in the source, without the terminator, to `out`.
    #[inline]
    pub(crate) fn append_raw(self, out: &mut Vec<u8>) {
        let RecordRef { start, end, .. } = self.batch.records[self.index];
        append_short::<ROW>(&self.chunk.bytes[start as usize..], (end - start) as usize, out);
    }

    /// Its number in the batch, from 0.
    #[inline]
    pub fn index(self) -> usize {
        self.index
    }

    /// The number of its source among those of a job.
    #[inline]
    pub fn source(self) -> usize {
        self.chunk.source
    }

    /// The number of its chunk in the source.
    #[inline]
    pub fn chunk_number(self) -> u64 {
        self.chunk.number
    }

    /// It and those behind it in the batch, in order, at most `most`.
    pub fn and_behind(self, most: usize) -> impl Iterator<Item = Record<'a>> {
        let end = self.batch.records.len().min(self.index + most);
        (self.index..end).map(move |index| Record { index, ..self })
    }

    /// The text of it and those behind it, at most `most`, and where each stands in that, where records are lines of text. None
    /// where they are not, and where that text is longer than `longest` bytes.
    pub fn lines(
        self,
        most: usize,
        longest: usize,
    ) -> Option<(&'a [u8], impl Iterator<Item = Range<usize>>)> {
        let behind = &self.batch.records[self.index..];
        let records = &behind[..behind.len().min(most)];
        let (start, end) = (records.first()?.start as usize, records.last()?.end as usize);
        let places = records.iter().map(move |line| line.start as usize - start..line.end as usize - start);
        (self.batch.of_lines && end - start <= longest).then(|| (&self.chunk.bytes[start..end], places))
    }

    /// How many cells it has.
    #[inline]
    pub fn len(self) -> usize {
        self.batch.width(self.index)
    }

    /// Whether it has no cells.
    pub fn is_empty(self) -> bool {
        self.len() == 0
    }

    /// The cell at `index`; none where the record is too short.
    #[inline]
    pub fn cell(self, index: usize) -> Option<&'a [u8]> {
        let (from, len) = self.cell_and_behind(index)?;
        Some(&from[..len])
    }

    /// The cell at `index` and whatever stands behind it, and how many bytes the cell has; none where the record is too short.
    #[inline]
    pub fn cell_and_behind(self, index: usize) -> Option<(&'a [u8], usize)> {
        self.batch.cell_and_behind(&self.chunk.bytes, self.index, index)
    }

    fn cell_ref(self, index: usize) -> Option<CellRef> {
        let record = self.batch.records[self.index];
        (index < self.len()).then(|| self.batch.cells[record.first_cell as usize + index])
    }

    /// What the cell at `index` holds.
    pub fn value(self, index: usize) -> Value<'a> {
        let Some(text) = self.cell(index) else { return Value::Missing };
        if let Some(cell) = self.json_cell(index) {
            return match cell.is_missing() {
                true => Value::Missing,
                false => json_value(self.json_text(cell), text),
            };
        }
        let first = self.batch.records[self.index].first_cell as usize;
        match self.batch.typed.get(first + index) {
            Some(cell) => cell.value(&self.chunk.bytes, text),
            None => Value::Text(text),
        }
    }

    /// Whether some cell of its batch has a link.
    #[inline]
    pub fn has_links(self) -> bool {
        !self.batch.links.is_empty()
    }

    /// The address that the link of the cell at `index` goes to, where it has one.
    #[inline]
    pub fn link(self, index: usize) -> Option<&'a [u8]> {
        if self.batch.links.is_empty() {
            return None;
        }
        let cell = self.batch.records[self.index].first_cell as usize + index;
        let place = self.batch.links.binary_search_by_key(&cell, |(cell, _)| *cell).ok()?;
        Some(&self.chunk.bytes[self.batch.links[place].1.clone()])
    }

    /// It as it is written in its source, where that is a way of its own, such as a card of an address book.
    pub(crate) fn original(self) -> Option<&'a [u8]> {
        Some(&self.chunk.bytes[self.batch.originals.get(self.index)?.clone()])
    }

    /// Whether it is a JSON object.
    pub(crate) fn is_json(self) -> bool {
        !self.batch.json.is_empty()
    }

    /// Where the JSON value of the cell at `index` stands in the chunk; none where the record is not in JSON.
    pub(crate) fn json_cell(self, index: usize) -> Option<JsonCell> {
        let first = self.batch.records[self.index].first_cell as usize;
        self.batch.json.get(first + index).copied()
    }

    /// The text of a JSON value.
    pub(crate) fn json_text(self, cell: JsonCell) -> &'a [u8] {
        &self.chunk.bytes[cell.start as usize..cell.end as usize]
    }

    /// The cell at `index` with the apostrophe that guards it, where there is one.
    pub(crate) fn cell_as_written(self, index: usize) -> Option<&'a [u8]> {
        let cell = self.cell_ref(index)?;
        let place = if cell.has(DECODED) { &self.batch.scratch } else { &self.chunk.bytes };
        let start = cell.start as usize - usize::from(cell.has(GUARDED));
        Some(&place[start..cell.start as usize + cell.len()])
    }

    /// The cell at `index` as it stands in the source, with its apostrophe and its quotes; none where it had to be decoded.
    pub(crate) fn cell_with_quotes(self, index: usize) -> Option<&'a [u8]> {
        let cell = self.cell_ref(index).filter(|cell| !cell.has(DECODED))?;
        let start = cell.start as usize - usize::from(cell.has(GUARDED));
        let (bytes, end) = (&self.chunk.bytes, cell.start as usize + cell.len());
        let first = self.batch.records[self.index].start as usize;
        match bytes.get(start.wrapping_sub(1)..end + 1) {
            Some(quoted @ [b'"', .., b'"']) if start > first => Some(quoted),
            _ => Some(&bytes[start..end]),
        }
    }

    /// Its cells, in order.
    pub fn cells(self) -> impl Iterator<Item = &'a [u8]> {
        (0..self.len()).filter_map(move |index| self.cell(index))
    }

    /// Where the next record can start: behind the terminator.
    pub(crate) fn offset_behind(self) -> usize {
        let end = self.batch.records[self.index].end as usize;
        match &self.chunk.bytes[end..] {
            [b'\r', b'\n', ..] => end + 2,
            [] => end,
            _ => end + 1,
        }
    }

    /// Where in the chunk its bytes stand, without the terminator.
    #[inline]
    pub fn place_in_chunk(self) -> Range<u32> {
        let RecordRef { start, end, .. } = self.batch.records[self.index];
        start..end
    }

    /// Where it starts in the chunk, in bytes.
    pub fn start_in_chunk(self) -> u64 {
        u64::from(self.batch.records[self.index].start)
    }

    /// Where its line ends in the chunk, behind a line feed, in bytes.
    #[inline]
    pub fn end_of_line_in_chunk(self) -> u64 {
        u64::from(self.batch.records[self.index].end) + 1
    }

    /// Line breaks before it in the chunk.
    pub fn line_in_chunk(self) -> u64 {
        u64::from(self.batch.records[self.index].line)
    }
}
