//! Records with added cells, written in the dialect of their source.

use std::ops::Range;

use memchr::{memchr, memchr3};

use crate::batch::Record;
use crate::short_copy::append_short;
use crate::source::Encode;

/// Writes records as separated values: the record's own bytes as they stand, then the added cells.
#[derive(Clone, Debug)]
pub struct CsvEncoder {
    delimiter: u8,
    line_end: &'static [u8],
    own: Own,
    empty: bool,
}

/// Octets in which most plain cells fit.
const SHORT: usize = 64;

/// Where the own fields of a record come from.
#[derive(Clone, Debug)]
enum Own {
    /// As the source wrote them; this many are expected.
    Raw(usize),
    /// Cell by cell: the place in the record of each output field, none where the source lacks it.
    Cells(Vec<Option<usize>>),
}

impl CsvEncoder {
    /// For records of `fields` fields whose bytes are copied.
    pub fn copying(fields: usize, delimiter: u8, line_end: &'static [u8]) -> Self {
        CsvEncoder { delimiter, line_end, own: Own::Raw(fields), empty: true }
    }

    /// For records whose cells are written anew, in another order or dialect.
    pub fn rewriting(places: Vec<Option<usize>>, delimiter: u8, line_end: &'static [u8]) -> Self {
        CsvEncoder { delimiter, line_end, own: Own::Cells(places), empty: true }
    }

    /// For cells that follow others in a record begun elsewhere.
    #[must_use]
    pub fn continuing(mut self) -> Self {
        self.empty = false;
        self
    }

    /// For the cells behind the own ones of a record.
    #[must_use]
    pub fn behind_own(mut self) -> Self {
        self.empty = self.own_fields() == 0;
        self
    }

    /// How many own fields it writes of a record.
    pub fn own_fields(&self) -> usize {
        match &self.own {
            Own::Raw(fields) => *fields,
            Own::Cells(places) => places.len(),
        }
    }

    /// For a record whose cells are all given one by one.
    #[must_use]
    pub fn starting(mut self) -> Self {
        self.empty = true;
        self
    }

    /// Whether words of letters, digits and the signs of plain addresses, separated by spaces, need no quotes.
    pub fn takes_plain_words(&self) -> bool {
        matches!(self.delimiter, b',' | b';' | b'\t')
    }

    /// Appends a cell as it stands between delimiters, in quotes where it needs them.
    pub fn bare_cell(&self, cell: &[u8], out: &mut Vec<u8>) {
        write_cell(cell, self.delimiter, out);
    }

    /// Appends the own fields of `record`, of which it is known that its first cell needs no quotes.
    #[inline]
    pub fn own_plain(&mut self, record: Record<'_>, out: &mut Vec<u8>) {
        if !self.writes_one_cell() {
            return self.own(record, out);
        }
        let (from, octets) = record.cell_and_behind(0).unwrap_or_default();
        append_short::<SHORT>(from, octets, out);
        self.empty = false;
    }

    /// Where in its chunk the own fields of `record` stand as they are written, so that they can be copied from there later; none where
    /// they have to be [written](Encode::own). The cells behind them follow.
    #[inline]
    pub fn own_in_place(&mut self, record: Record<'_>) -> Option<Range<u32>> {
        match self.own {
            Own::Raw(fields) if fields > 0 && record.len() == fields => {
                self.empty = false;
                Some(record.place_in_chunk())
            }
            _ => None,
        }
    }

    /// Appends what `record` has beyond so many fields.
    #[cold]
    fn append_surplus(&self, record: Record<'_>, fields: usize, out: &mut Vec<u8>) {
        if let (_, Some(surplus)) = record.raw_cut_after(fields) {
            out.push(self.delimiter);
            out.extend_from_slice(surplus);
        }
    }

    /// Whether the first cell of a record is all it writes of it.
    pub fn writes_one_cell(&self) -> bool {
        matches!(&self.own, Own::Cells(places) if places[..] == [Some(0)])
    }

    /// What stands between cells.
    pub fn delimiter(&self) -> u8 {
        self.delimiter
    }

    /// What ends a row.
    pub fn line_end(&self) -> &'static [u8] {
        self.line_end
    }

    /// Ends a record whose cells were all given one by one.
    #[inline]
    pub fn end_row(&mut self, out: &mut Vec<u8>) {
        match self.line_end {
            [octet] => out.push(*octet),
            octets => out.extend_from_slice(octets),
        }
    }

    /// Appends a whole row of its own, such as a header.
    pub fn row<'a>(&mut self, cells: impl IntoIterator<Item = &'a str>, out: &mut Vec<u8>) {
        self.empty = true;
        for cell in cells {
            self.cell(cell.as_bytes(), out);
        }
        out.extend_from_slice(self.line_end);
    }
}

impl Encode for CsvEncoder {
    fn own(&mut self, record: Record<'_>, out: &mut Vec<u8>) {
        match &self.own {
            Own::Raw(fields) => {
                let fields = *fields;
                match record.len().checked_sub(fields) {
                    Some(0) => record.append_raw(out),
                    Some(_) => out.extend_from_slice(record.raw_cut_after(fields).0),
                    None => {
                        record.append_raw(out);
                        out.extend(std::iter::repeat_n(self.delimiter, fields - record.len()));
                    }
                }
                self.empty = fields == 0;
            }
            Own::Cells(places) => {
                for (nth, place) in places.iter().enumerate() {
                    if nth > 0 {
                        out.push(self.delimiter);
                    }
                    let cell = place.and_then(|index| record.cell(index)).unwrap_or_default();
                    write_cell(cell, self.delimiter, out);
                }
                self.empty = places.is_empty();
            }
        }
    }

    #[inline]
    fn cell(&mut self, cell: &[u8], out: &mut Vec<u8>) {
        if !self.empty {
            out.push(self.delimiter);
        }
        self.empty = false;
        write_cell(cell, self.delimiter, out);
    }

    #[inline]
    fn end(&mut self, record: Record<'_>, out: &mut Vec<u8>) {
        if let Own::Raw(fields) = self.own
            && record.len() > fields
        {
            self.append_surplus(record, fields, out);
        }
        self.end_row(out);
    }
}

/// Appends one cell, in quotes where it needs them.
pub(crate) fn write_cell(cell: &[u8], delimiter: u8, out: &mut Vec<u8>) {
    let plain = match cell.len() {
        0..16 => !cell.iter().any(|&b| b == delimiter || matches!(b, b'"' | b'\n' | b'\r')),
        _ => memchr3(delimiter, b'"', b'\n', cell).is_none() && memchr(b'\r', cell).is_none(),
    };
    if plain {
        out.extend_from_slice(cell);
        return;
    }
    out.push(b'"');
    for &b in cell {
        if b == b'"' {
            out.push(b'"');
        }
        out.push(b);
    }
    out.push(b'"');
}
