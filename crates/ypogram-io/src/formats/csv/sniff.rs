//! How the cells of a table are separated, recognised from its first records.

use crate::formats::csv::decode::decode;
use crate::formats::csv::header::{CellSort, SortOf, usual_width};
use crate::records::batch::Batch;
use crate::records::chunk::Chunk;
use crate::records::dialect::Dialect;

const CANDIDATES: [u8; 4] = [b',', b';', b'\t', b'|'];

impl Dialect {
    /// The separator under which most of the first records have the same number of cells, and more than one.
    ///
    /// ```
    /// use ypogram_io::csv::Dialect;
    /// assert_eq!(Dialect::recognise(b"name;email\n\"Lovell, Ada\";ada@h.example\n").delimiter, b';');
    /// ```
    pub fn recognise(sample: &[u8]) -> Self {
        let score = |delimiter: u8| {
            let mut batch = Batch::default();
            decode(sample, Dialect { delimiter }, &mut batch);
            let widths = batch.widths();
            let usual = usual_width(widths.iter().copied().filter(|&width| width > 1));
            let alike = widths.iter().filter(|&&width| width == usual).count();
            // A row above the header may be of another width, and so may a few records.
            let tells = usual > 1 && (alike * 2 >= widths.len() || widths[0] == usual);
            if tells { (alike * 1000 / widths.len(), usual) } else { (0, 0) }
        };
        let best =
            CANDIDATES.into_iter().rev().max_by_key(|&delimiter| score(delimiter)).expect("candidates");
        Dialect { delimiter: if score(best) == (0, 0) { b',' } else { best } }
    }

    /// How the cells of what may be text are separated, where it is a table for certain: rows of one width below names of
    /// fields, or with one column of what stands in records only.
    pub(crate) fn of_a_table(sample: &[u8], sort_of: SortOf) -> Option<Self> {
        let first_line = sample.split(|b| matches!(b, b'\n' | b'\r')).next().unwrap_or_default();
        if !first_line.iter().any(|b| CANDIDATES.contains(b)) {
            return None;
        }
        let dialect = Dialect::recognise(sample);
        let chunk = Chunk { bytes: sample.to_vec(), ..Chunk::default() };
        let mut batch = Batch::default();
        decode(&chunk.bytes, dialect, &mut batch);
        let widths = batch.widths();
        let width = usual_width(widths.iter().copied());
        let others = widths.iter().filter(|&&other| other != width).count();
        if width < 2 || widths.len() < 2 || others * 20 > widths.len() {
            return None;
        }
        let rows: Vec<Vec<&[u8]>> =
            batch.records(&chunk).take(ROWS).map(|row| row.cells().collect()).collect();
        let (head, body) = rows.split_first()?;
        let is_table = match names_fields(head, sort_of) {
            true => {
                (0..width).any(|place| is_mostly_of_records(body, place, sort_of))
                    || width > 2 && body.len() > 1
            }
            false => rows.len() > 2 && has_one_column_of_records(&rows, width, dialect, sort_of),
        };
        is_table.then_some(dialect)
    }
}

/// Rows that are looked at to see whether text is a table.
const ROWS: usize = 50;

/// The name of a field has at most so many bytes.
const LONGEST_NAME: usize = 60;

/// Whether the cells are different words, as the names of fields are.
fn names_fields(row: &[&[u8]], sort_of: SortOf) -> bool {
    let is_name = |cell: &&[u8]| cell.len() <= LONGEST_NAME && sort_of(cell) == CellSort::Words;
    row.iter().all(is_name) && (1..row.len()).all(|place| !row[..place].contains(&row[place]))
}

fn is_of_record(cell: &[u8], sort_of: SortOf) -> bool {
    matches!(sort_of(cell), CellSort::RecordOnly(_))
}

/// Whether at least half of the filled cells at `place` are what stands in records only.
fn is_mostly_of_records(rows: &[Vec<&[u8]>], place: usize, sort_of: SortOf) -> bool {
    let filled = rows.iter().filter_map(|row| row.get(place)).filter(|cell| !cell.trim_ascii().is_empty());
    let (mut count, mut of_records) = (0, 0);
    for cell in filled {
        count += 1;
        of_records += usize::from(is_of_record(cell, sort_of));
    }
    of_records > 0 && of_records * 2 >= count
}

/// Whether one column, and no other, holds what stands in records only. With commas, a name in front of an address in angle
/// brackets is no column of its own: `Stern, Anna <anna@…>`.
fn has_one_column_of_records(rows: &[Vec<&[u8]>], width: usize, dialect: Dialect, sort_of: SortOf) -> bool {
    let has_any =
        |place: &usize| rows.iter().filter_map(|row| row.get(*place)).any(|cell| is_of_record(cell, sort_of));
    let places: Vec<usize> = (0..width).filter(has_any).collect();
    let [place] = places[..] else { return false };
    let in_brackets = rows.iter().filter_map(|row| row.get(place)).any(|cell| cell.contains(&b'<'));
    is_mostly_of_records(rows, place, sort_of) && !(dialect.delimiter == b',' && in_brackets)
}
