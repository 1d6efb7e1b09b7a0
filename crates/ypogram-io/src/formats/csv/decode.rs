//! From bytes to cells, by the rules of `csv-core`.

use memchr::memchr;

use crate::formats::csv::Dialect;
use crate::records::batch::{Batch, CellRef};
use crate::records::chunk::Chunk;
use crate::records::error::Result;
use crate::records::source::Decode;
use ypogram_bytes::BytePlaces;

pub(crate) struct CsvDecoder {
    pub(crate) dialect: Dialect,
}

impl Decode for CsvDecoder {
    fn decode(&mut self, chunk: &Chunk, batch: &mut Batch) -> Result<()> {
        decode(&chunk.bytes, self.dialect, batch);
        batch.look_for_formulas(&chunk.bytes);
        Ok(())
    }
}

/// Fills `batch` with the records of `bytes`.
pub(crate) fn decode(bytes: &[u8], dialect: Dialect, batch: &mut Batch) {
    let delimiter = dialect.delimiter;
    let mut borders = Borders::of(bytes, delimiter);
    let mut at = 0;
    while at < bytes.len() {
        if let Some(width) = line_end(bytes, at) {
            batch.blank_lines += 1;
            batch.lines += 1;
            at += width;
            continue;
        }
        let (start, first_cell, line) = (at, batch.cell_count(), batch.lines);
        loop {
            at = plain_cells(at, &mut borders, batch);
            at = cell(bytes, at, &mut borders, batch);
            if bytes.get(at) != Some(&delimiter) {
                break;
            }
            at += 1;
        }
        batch.push_record(start, at, first_cell, line);
        if let Some(width) = line_end(bytes, at) {
            batch.lines += 1;
            at += width;
        }
    }
}

/// The width of the line end at `at`, if one stands there.
#[inline]
fn line_end(bytes: &[u8], at: usize) -> Option<usize> {
    match bytes.get(at)? {
        b'\n' => Some(1),
        b'\r' => Some(if bytes.get(at + 1) == Some(&b'\n') { 2 } else { 1 }),
        _ => None,
    }
}

/// Where cells may end and what is quoted may start or end: delimiters, line ends and quotes, the end behind the last.
struct Borders<'b> {
    ahead: BytePlaces<'b, 4>,
    bytes: &'b [u8],
    delimiter: u8,
    /// The one in hand.
    next: usize,
}

impl<'b> Borders<'b> {
    fn of(bytes: &'b [u8], delimiter: u8) -> Self {
        let ahead = BytePlaces::of(bytes, [delimiter, b'\n', b'\r', b'"']);
        let mut borders = Borders { ahead, bytes, delimiter, next: 0 };
        borders.advance();
        borders
    }

    #[inline]
    fn advance(&mut self) {
        self.next = self.ahead.next().unwrap_or(self.bytes.len());
    }

    /// Goes on to the first one at `at` or behind it.
    #[inline]
    fn skip_to(&mut self, at: usize) {
        while self.next < at {
            self.advance();
        }
    }

    /// The first one at `at` or behind it that is no quote.
    #[inline]
    fn from(&mut self, at: usize) -> usize {
        while self.next < at || self.bytes.get(self.next) == Some(&b'"') {
            self.advance();
        }
        self.next
    }
}

/// Adds the cells from `at` on that end at a delimiter, are not quoted, and have no quote in them, as far as their borders are in hand;
/// gives where the next one starts.
#[inline]
fn plain_cells(at: usize, borders: &mut Borders<'_>, batch: &mut Batch) -> usize {
    borders.skip_to(at);
    let (bytes, delimiter) = (borders.bytes, borders.delimiter);
    let (from, places) = borders.ahead.in_hand();
    let (mut start, mut end, mut count) = (at, borders.next, 0);
    for (cell, place) in batch.room_for_cells(places.len()).iter_mut().zip(places) {
        if bytes.get(end) != Some(&delimiter) {
            break;
        }
        *cell = CellRef::in_chunk(start, end);
        (start, end) = (end + 1, from + usize::from(*place));
        count += 1;
    }
    batch.add_cells(count);
    borders.ahead.leave_out(count);
    borders.next = end;
    start
}

/// Adds the cell that starts at `at`; gives where it ends: at a delimiter, a line end or the end.
#[inline]
fn cell(bytes: &[u8], at: usize, borders: &mut Borders<'_>, batch: &mut Batch) -> usize {
    if bytes.get(at) == Some(&b'"') {
        return quoted_cell(bytes, at, borders, batch);
    }
    let end = borders.from(at);
    batch.push_cell(at, end);
    end
}

fn quoted_cell(bytes: &[u8], at: usize, borders: &mut Borders<'_>, batch: &mut Batch) -> usize {
    borders.skip_to(at);
    let mut doubled = false;
    let close = loop {
        borders.advance();
        let place = borders.next;
        match bytes.get(place) {
            None => break place,
            Some(b'\n') => batch.lines += 1,
            Some(b'"') if bytes.get(place + 1) == Some(&b'"') => {
                doubled = true;
                borders.advance();
            }
            Some(b'"') => break place,
            Some(_) => {}
        }
    };
    // What follows the closing quote up to the border belongs to the cell, as it stands.
    let end = if close < bytes.len() { borders.from(close + 1) } else { close };
    let inside = &bytes[at + 1..close];
    let tail = bytes.get(close + 1..end).unwrap_or_default();
    if !doubled && tail.is_empty() {
        batch.push_cell(at + 1, close);
    } else {
        batch.push_decoded_cell(|out| {
            undouble(inside, out);
            out.extend_from_slice(tail);
        });
    }
    end
}

fn undouble(inside: &[u8], out: &mut Vec<u8>) {
    let mut rest = inside;
    while let Some(quote) = memchr(b'"', rest) {
        out.extend_from_slice(&rest[..=quote]);
        rest = rest.get(quote + 2..).unwrap_or_default();
    }
    out.extend_from_slice(rest);
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::formats::csv::last_border;
    use proptest::prelude::*;

    /// What `csv-core` makes of the same bytes, through the `csv` crate.
    fn reference(bytes: &[u8]) -> Vec<Vec<Vec<u8>>> {
        let mut reader = csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(bytes);
        reader.byte_records().map(|record| record.unwrap().iter().map(<[u8]>::to_vec).collect()).collect()
    }

    fn ours(bytes: &[u8]) -> Vec<Vec<Vec<u8>>> {
        let chunk = Chunk { bytes: bytes.to_vec(), ..Chunk::default() };
        let mut batch = Batch::default();
        decode(bytes, Dialect { delimiter: b',' }, &mut batch);
        batch.records(&chunk).map(|record| record.cells().map(<[u8]>::to_vec).collect()).collect()
    }

    proptest! {
        #[test]
        fn agrees_with_csv_core(text in "[a,\"\n\r ;]{0,200}") {
            let bytes = text.as_bytes();
            // A trailing part that breaks off inside quotes is reported by the border, not by the cells.
            prop_assume!(last_border(bytes, b',', true).open_quote.is_none());
            prop_assert_eq!(ours(bytes), reference(bytes));
        }

        #[test]
        fn borders_cut_between_records(text in "[a,\"\n\r]{0,100}", window in 1_usize..40) {
            let bytes = text.as_bytes();
            prop_assume!(last_border(bytes, b',', true).open_quote.is_none());
            let mut pieces = Vec::new();
            let mut rest = bytes;
            while !rest.is_empty() {
                let seen = rest.len().min(window);
                let end = match last_border(&rest[..seen], b',', seen == rest.len()).end {
                    _ if seen == rest.len() => rest.len(),
                    0 => match (seen + 1..=rest.len()).find(|&more| last_border(&rest[..more], b',', more == rest.len()).end > 0) {
                        Some(more) if more < rest.len() => last_border(&rest[..more], b',', false).end,
                        _ => rest.len(),
                    },
                    end => end,
                };
                pieces.extend(ours(&rest[..end]));
                rest = &rest[end..];
            }
            prop_assert_eq!(pieces, ours(bytes));
        }
    }
}
