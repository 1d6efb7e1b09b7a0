//! Rows as they are wanted: some of their columns, in another order, under other names, with cells changed, sorted.

use std::collections::HashSet;

use crate::csv::encode::write_cell;
use crate::csv::formula::{is_formula_like, may_begin_one};
use crate::error::{Error, Result, some_of};
use crate::sorted_rows::SortedRows;

/// How the rows of an output are to be arranged.
#[derive(Clone, Debug, Default)]
pub struct Arrangement {
    /// The columns that come out, in order, each with its name there; all as they stand where there is none.
    pub columns: Vec<(String, String)>,
    /// Columns that do not come out, where none are chosen.
    pub left_out: Vec<String>,
    /// Columns whose cells are changed, and how.
    pub changed: Vec<(String, Change)>,
    /// Columns by which rows are sorted, whether they come out or not; equal rows stay in their order.
    pub sort_by: Vec<SortBy>,
    /// Bytes of memory for rows that are sorted; past that they go to temporary files.
    pub memory: usize,
    /// Cells that a spreadsheet would take for formulas come out with an apostrophe in front.
    pub guard_formulas: bool,
}

/// Appends bytes that put cells in order when compared byte by byte.
pub type KeyOf = fn(&[u8], &mut Vec<u8>);

/// A column that rows are sorted by.
#[derive(Clone, Debug)]
pub struct SortBy {
    /// Its name.
    pub column: String,
    /// The greatest first; what is empty comes last all the same.
    pub downwards: bool,
    /// How its cells are put in order.
    pub key: KeyOf,
}

/// What becomes of a cell.
pub type Change = fn(&[u8]) -> Vec<u8>;

impl Arrangement {
    /// Whether rows stay as they are.
    pub fn is_none(&self) -> bool {
        !self.guard_formulas && self.names_none()
    }

    /// Whether it names no column.
    pub fn names_none(&self) -> bool {
        self.columns.is_empty()
            && self.left_out.is_empty()
            && self.changed.is_empty()
            && self.sort_by.is_empty()
    }

    /// Nothing of it but the guard against formulas: for tables with columns of their own.
    #[must_use]
    pub fn guard_alone(&self) -> Self {
        Arrangement { guard_formulas: self.guard_formulas, ..Arrangement::default() }
    }

    /// What of it speaks of `header`: for one of several outputs that do not all have the same columns.
    #[must_use]
    pub fn within(&self, header: &[String]) -> Self {
        let mut within = self.clone();
        within.columns.retain(|(name, _)| header.contains(name));
        within.left_out.retain(|name| header.contains(name));
        within.changed.retain(|(name, _)| header.contains(name));
        within.sort_by.retain(|by| header.contains(&by.column));
        within
    }
}

/// Arranges row after row.
#[derive(Debug)]
pub struct Arranged {
    /// For each column that comes out its place in the row, and how its cells are changed.
    cells: Vec<(usize, Option<Change>)>,
    /// What a row has beyond so many cells comes out behind these; none where columns were chosen.
    surplus_from: Option<usize>,
    header: Vec<u8>,
    delimiter: u8,
    line_end: &'static [u8],
    guard_formulas: bool,
    /// The places of the columns to sort by.
    sort_by: Vec<(usize, SortBy)>,
    sorted: Option<SortedRows>,
    borders: Vec<usize>,
    scratch: Vec<u8>,
    key: Vec<u8>,
}

impl Clone for Arranged {
    /// The same for another output, of which no row is there yet.
    fn clone(&self) -> Self {
        Arranged {
            cells: self.cells.clone(),
            surplus_from: self.surplus_from,
            header: self.header.clone(),
            delimiter: self.delimiter,
            line_end: self.line_end,
            guard_formulas: self.guard_formulas,
            sort_by: self.sort_by.clone(),
            sorted: self.sorted.as_ref().map(SortedRows::empty_copy),
            borders: Vec::new(),
            scratch: Vec::new(),
            key: Vec::new(),
        }
    }
}

impl Arranged {
    /// For rows whose header has the cells `header`.
    ///
    /// # Errors
    /// Where a column is named that they do not have, or two would have one name.
    pub fn new(
        arrangement: &Arrangement,
        header: &[String],
        delimiter: u8,
        line_end: &'static [u8],
    ) -> Result<Self> {
        let place = |name: &str| place_of(name, header);
        let chosen: Vec<(usize, String)> = match arrangement.columns.is_empty() {
            true => {
                let left_out = arrangement.left_out.iter().map(|name| place(name));
                let left_out = left_out.collect::<Result<Vec<usize>>>()?;
                header.iter().cloned().enumerate().filter(|(place, _)| !left_out.contains(place)).collect()
            }
            false => {
                let columns = arrangement.columns.iter();
                columns.map(|(name, shown)| Ok((place(name)?, shown.clone()))).collect::<Result<_>>()?
            }
        };
        let mut seen = HashSet::new();
        if let Some((_, twin)) = chosen.iter().find(|(_, name)| !seen.insert(name)) {
            return Err(Error::unusable(
                format!("two columns would be called ‘{twin}’"),
                "give one of them another name, as in --columns name=Name",
            ));
        }
        let mut cells: Vec<(usize, Option<Change>)> =
            chosen.iter().map(|(place, _)| (*place, None)).collect();
        for (name, change) in &arrangement.changed {
            let place = place(name)?;
            for cell in cells.iter_mut().filter(|cell| cell.0 == place) {
                cell.1 = Some(*change);
            }
        }
        let sort_place = |by: &SortBy| {
            let renamed = chosen.iter().find(|(_, shown)| *shown == by.column).map(|(place, _)| *place);
            let place = renamed.map_or_else(|| place_of(&by.column, header), Ok);
            Ok((place?, by.clone()))
        };
        let sort_by = arrangement.sort_by.iter().map(sort_place).collect::<Result<Vec<_>>>()?;
        let shown: Vec<String> = chosen.into_iter().map(|(_, name)| name).collect();
        let sorted = (!sort_by.is_empty()).then(|| SortedRows::within(arrangement.memory));
        let surplus_from = arrangement.columns.is_empty().then_some(header.len());
        let mut bytes = Vec::new();
        for (at, name) in shown.iter().enumerate() {
            if at > 0 {
                bytes.push(delimiter);
            }
            let guard = if arrangement.guard_formulas && is_formula_like(name.as_bytes()) { "'" } else { "" };
            write_cell(format!("{guard}{name}").as_bytes(), delimiter, &mut bytes);
        }
        bytes.extend_from_slice(line_end);
        Ok(Arranged {
            cells,
            surplus_from,
            header: bytes,
            delimiter,
            line_end,
            guard_formulas: arrangement.guard_formulas,
            sort_by,
            sorted,
            borders: vec![],
            scratch: vec![],
            key: vec![],
        })
    }

    /// The header of what comes out, with its line end.
    pub fn header(&self) -> &[u8] {
        &self.header
    }

    /// Appends the whole rows in `rows`, arranged, to `out`; those to be sorted wait for [`finish`](Self::finish).
    ///
    /// # Errors
    /// Where rows are sorted and the temporary folder cannot be used.
    pub fn add(&mut self, rows: &[u8], out: &mut Vec<u8>) -> Result<()> {
        let mut rest = rows;
        while !rest.is_empty() {
            let end = self.find_borders(rest);
            let start = out.len();
            for at in 0..self.cells.len() {
                if at > 0 {
                    out.push(self.delimiter);
                }
                self.write(rest, self.cells[at], out);
            }
            for place in self.surplus_from.unwrap_or(usize::MAX)..self.borders.len() {
                out.push(self.delimiter);
                self.write(rest, (place, None), out);
            }
            out.extend_from_slice(self.line_end);
            self.find_key(rest);
            if let Some(sorted) = &mut self.sorted {
                sorted.add(&self.key, &out[start..])?;
                out.truncate(start);
            }
            rest = &rest[end..];
        }
        Ok(())
    }

    /// Gives the rows that waited to be sorted to `write`.
    ///
    /// # Errors
    /// Where they cannot be written, or the temporary folder cannot be used.
    pub fn finish(&mut self, write: &mut dyn FnMut(&[u8]) -> Result<()>) -> Result<()> {
        match &mut self.sorted {
            Some(sorted) => sorted.finish(&mut |_, row| write(row)),
            None => Ok(()),
        }
    }

    /// The key of the first row, whose borders were found: cell by cell, each ended so that a longer one comes behind.
    fn find_key(&mut self, rows: &[u8]) {
        self.key.clear();
        for (place, by) in &self.sort_by {
            let raw = raw_cell(rows, &self.borders, *place);
            self.scratch.clear();
            unquoted(raw, &mut self.scratch);
            if self.scratch.trim_ascii().is_empty() {
                self.key.push(1);
                continue;
            }
            self.key.push(0);
            let start = self.key.len();
            (by.key)(&self.scratch, &mut self.key);
            end_key(&mut self.key, start);
            if by.downwards {
                self.key[start..].iter_mut().for_each(|byte| *byte = !*byte);
            }
        }
    }

    /// Finds where the cells of the first row end; gives where the next row starts.
    fn find_borders(&mut self, rows: &[u8]) -> usize {
        self.borders.clear();
        let mut at = 0;
        loop {
            let end = end_of_field(rows, at, self.delimiter);
            self.borders.push(end);
            match rows.get(end) {
                Some(&b) if b == self.delimiter => at = end + 1,
                Some(b'\r') if rows.get(end + 1) == Some(&b'\n') => return end + 2,
                Some(_) => return end + 1,
                None => return end,
            }
        }
    }

    fn write(&mut self, row: &[u8], (place, change): (usize, Option<Change>), out: &mut Vec<u8>) {
        let raw = raw_cell(row, &self.borders, place);
        let first = raw.strip_prefix(b"\"").unwrap_or(raw).first();
        let may_be_one = self.guard_formulas && first.is_some_and(|&byte| may_begin_one(byte));
        if change.is_none() && !may_be_one {
            return out.extend_from_slice(raw);
        }
        self.scratch.clear();
        unquoted(raw, &mut self.scratch);
        let mut cell = change.map_or_else(|| self.scratch.clone(), |change| change(&self.scratch));
        if self.guard_formulas && is_formula_like(&cell) {
            cell.insert(0, b'\'');
        }
        write_cell(&cell, self.delimiter, out);
    }
}

/// The cell at `place` as it stands in the row; empty where the row is too short.
fn raw_cell<'r>(row: &'r [u8], borders: &[usize], place: usize) -> &'r [u8] {
    let Some(&end) = borders.get(place) else { return &[] };
    let start = if place == 0 { 0 } else { borders[place - 1] + 1 };
    &row[start..end]
}

/// Ends the key from `start` on, so that one that goes on comes behind it whatever follows: zeros in it become two bytes.
fn end_key(key: &mut Vec<u8>, start: usize) {
    if key[start..].contains(&0) {
        let escaped: Vec<u8> = key[start..]
            .iter()
            .flat_map(|&byte| if byte == 0 { vec![0, 0xFF] } else { vec![byte] })
            .collect();
        key.truncate(start);
        key.extend_from_slice(&escaped);
    }
    key.extend_from_slice(&[0, 0]);
}

/// Where the field that starts at `start` ends: before a delimiter or a line end outside quotes.
fn end_of_field(rows: &[u8], start: usize, delimiter: u8) -> usize {
    let mut from = start;
    if rows.get(start) == Some(&b'"') {
        from = crate::csv::border::closing_quote(rows, start, true).map_or(rows.len(), |close| close + 1);
    }
    memchr::memchr3(delimiter, b'\n', b'\r', &rows[from..]).map_or(rows.len(), |at| from + at)
}

/// What a raw cell says.
fn unquoted(raw: &[u8], out: &mut Vec<u8>) {
    let Some(inner) = raw.strip_prefix(b"\"") else { return out.extend_from_slice(raw) };
    let mut rest = inner;
    while let Some(quote) = memchr::memchr(b'"', rest) {
        out.extend_from_slice(&rest[..quote]);
        if rest.get(quote + 1) == Some(&b'"') {
            out.push(b'"');
            rest = &rest[quote + 2..];
        } else {
            rest = &rest[quote + 1..];
        }
    }
    out.extend_from_slice(rest);
}

fn place_of(name: &str, names: &[String]) -> Result<usize> {
    let exact = names.iter().position(|known| known == name);
    exact.or_else(|| names.iter().position(|known| known.eq_ignore_ascii_case(name))).ok_or_else(|| {
        Error::unusable(
            format!("there is no column ‘{name}’ in the output"),
            format!("its columns are: {}", some_of(names)),
        )
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn names(names: &[&str]) -> Vec<String> {
        names.iter().map(|name| (*name).to_owned()).collect()
    }

    #[test]
    fn cells_move_with_their_quotes() {
        let arrangement = Arrangement {
            columns: vec![("c".into(), "See".into()), ("a".into(), "a".into())],
            changed: vec![("a".into(), <[u8]>::to_ascii_uppercase)],
            ..Arrangement::default()
        };
        let mut arranged = Arranged::new(&arrangement, &names(&["a", "b", "c"]), b',', b"\r\n").unwrap();
        assert_eq!(arranged.header(), b"See,a\r\n");
        let rows = b"x,y,\"1,\n\"\"2\"\r\n\"q,\",y\r\n,,3,surplus\r\nlast,,4";
        for cut in [rows.len(), 14] {
            let mut out = Vec::new();
            arranged.add(&rows[..cut], &mut out).unwrap();
            arranged.add(&rows[cut..], &mut out).unwrap();
            assert_eq!(out, b"\"1,\n\"\"2\",X\r\n,\"Q,\"\r\n3,\r\n4,LAST\r\n", "cut at {cut}");
        }
    }

    proptest! {
        #[test]
        fn equals_what_csv_reads(rows in prop::collection::vec(prop::collection::vec("[a,\"\n\r é]{0,4}", 3..6), 0..8), places in prop::collection::vec(0_usize..3, 1..5)) {
            let mut writer = csv::WriterBuilder::new().flexible(true).from_writer(Vec::new());
            rows.iter().for_each(|row| writer.write_record(row).unwrap());
            let written = writer.into_inner().unwrap();
            let header = names(&["a", "b", "c"]);
            let columns = places.iter().enumerate().map(|(at, &place)| (header[place].clone(), at.to_string()));
            let arrangement = Arrangement { columns: columns.collect(), ..Arrangement::default() };
            let mut out = Vec::new();
            Arranged::new(&arrangement, &header, b',', b"\n").unwrap().add(&written, &mut out).unwrap();
            let reader = csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(&out[..]);
            let read: Vec<Vec<String>> = reader.into_records().map(|row| row.unwrap().iter().map(str::to_owned).collect()).collect();
            let picked = |row: &Vec<String>| places.iter().map(|&place| row[place].clone()).collect::<Vec<_>>();
            // A row of one empty cell is a blank line to whoever reads it.
            let expected: Vec<Vec<String>> = rows.iter().map(picked).filter(|row| row != &[""]).collect();
            prop_assert_eq!(read.into_iter().filter(|row| row != &[""]).collect::<Vec<_>>(), expected);
        }
    }

    fn bytes(cell: &[u8], key: &mut Vec<u8>) {
        key.extend_from_slice(cell);
    }

    fn finished(arranged: &mut Arranged) -> String {
        let mut out = Vec::new();
        arranged
            .finish(&mut |row| {
                out.extend_from_slice(row);
                Ok(())
            })
            .unwrap();
        String::from_utf8(out).unwrap()
    }

    #[test]
    fn rows_are_sorted_and_equal_ones_stay() {
        let by = |column: &str, downwards| SortBy { column: column.into(), downwards, key: bytes };
        let rows = b"x;\"2\";1\ny;1;2\nx;2;3\nab;22;4;surplus\na;2;5\na;;6\n";
        for (sort_by, expected) in [
            (vec![by("b", false), by("a", false)], "y;1;2\na;2;5\nx;\"2\";1\nx;2;3\nab;22;4;surplus\na;;6\n"),
            (vec![by("b", true), by("a", false)], "ab;22;4;surplus\na;2;5\nx;\"2\";1\nx;2;3\ny;1;2\na;;6\n"),
            (vec![by("a", true)], "y;1;2\nx;\"2\";1\nx;2;3\nab;22;4;surplus\na;2;5\na;;6\n"),
        ] {
            for memory in [0, 1 << 20] {
                let arrangement = Arrangement { sort_by: sort_by.clone(), memory, ..Arrangement::default() };
                let mut arranged =
                    Arranged::new(&arrangement, &names(&["a", "b", "c"]), b';', b"\n").unwrap();
                let mut out = Vec::new();
                arranged.add(rows, &mut out).unwrap();
                assert!(out.is_empty());
                assert_eq!(finished(&mut arranged), expected);
            }
        }
        for (columns, told) in [("d=x", "no column ‘d’"), ("a=x b=x", "two columns would be called ‘x’")]
        {
            let pairs = columns.split(' ').filter_map(|pair| pair.split_once('='));
            let columns = pairs.map(|(name, shown)| (name.to_owned(), shown.to_owned())).collect();
            let arrangement = Arrangement { columns, ..Arrangement::default() };
            let error = Arranged::new(&arrangement, &names(&["a", "b"]), b',', b"\n").unwrap_err();
            assert!(error.message.contains(told), "{}", error.message);
        }
    }

    #[test]
    fn columns_are_left_out() {
        let arrangement = Arrangement {
            left_out: vec!["b".into()],
            sort_by: vec![SortBy { column: "b".into(), downwards: true, key: bytes }],
            ..Arrangement::default()
        };
        let mut arranged = Arranged::new(&arrangement, &names(&["a", "b", "c"]), b',', b"\n").unwrap();
        assert_eq!(arranged.header(), b"a,c\n");
        arranged.add(b"x,1,y,more\nz,2,\n", &mut Vec::new()).unwrap();
        assert_eq!(finished(&mut arranged), "z,\nx,y,more\n");
    }
}
