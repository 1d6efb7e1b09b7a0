//! Rows as they are wanted: some of their columns, in another order, under other names, with cells changed, sorted.

use std::cmp::Ordering;

use crate::csv::border::end_of_cell;
use crate::csv::encode::write_cell;
use crate::error::{Error, Result};

/// How the rows of an output are to be arranged.
#[derive(Clone, Debug, Default)]
pub struct Arrangement {
    /// The columns that come out, in order, each with its name there; all as they stand where there is none.
    pub columns: Vec<(String, String)>,
    /// Columns whose cells are changed, and how.
    pub changed: Vec<(String, Change)>,
    /// Columns of the output by which its rows are sorted; equal rows stay in their order.
    pub sort_by: Vec<String>,
    /// How two cells are compared.
    pub order: Option<Order>,
}

/// What becomes of a cell.
pub type Change = fn(&[u8]) -> Vec<u8>;

/// How two cells stand to one another.
pub type Order = fn(&[u8], &[u8]) -> Ordering;

impl Arrangement {
    /// Whether rows stay as they are.
    pub fn is_none(&self) -> bool {
        self.columns.is_empty() && self.changed.is_empty() && self.sort_by.is_empty()
    }

    /// What of it speaks of `header`: for one of several outputs that do not all have the same columns.
    #[must_use]
    pub fn within(&self, header: &[String]) -> Self {
        let mut within = self.clone();
        within.columns.retain(|(name, _)| header.contains(name));
        within.changed.retain(|(name, _)| header.contains(name));
        within
    }
}

/// Arranges row after row.
#[derive(Clone, Debug)]
pub struct Arranged {
    /// For each column that comes out its place in the row, and how its cells are changed.
    cells: Vec<(usize, Option<Change>)>,
    header: Vec<u8>,
    delimiter: u8,
    line_end: &'static [u8],
    sorted: Option<Sorted>,
    borders: Vec<usize>,
    scratch: Vec<u8>,
}

/// Rows that wait until all are there.
#[derive(Clone, Debug)]
struct Sorted {
    /// The places of the columns to sort by, in the output.
    by: Vec<usize>,
    order: Order,
    rows: Vec<(Vec<Vec<u8>>, Vec<u8>)>,
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
            true => header.iter().cloned().enumerate().collect(),
            false => {
                let columns = arrangement.columns.iter();
                columns.map(|(name, shown)| Ok((place(name)?, shown.clone()))).collect::<Result<_>>()?
            }
        };
        if let Some(twin) =
            (1..chosen.len()).find(|&at| chosen[..at].iter().any(|(_, name)| *name == chosen[at].1))
        {
            return Err(Error::unusable(
                format!("two columns would be called ‘{}’", chosen[twin].1),
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
        let shown: Vec<String> = chosen.into_iter().map(|(_, name)| name).collect();
        let by = arrangement.sort_by.iter().map(|name| place_of(name, &shown));
        let by = by.collect::<Result<Vec<usize>>>()?;
        let sorted = (!by.is_empty()).then(|| Sorted {
            by,
            order: arrangement.order.unwrap_or(Ord::cmp),
            rows: Vec::new(),
        });
        let mut bytes = Vec::new();
        for (at, name) in shown.iter().enumerate() {
            if at > 0 {
                bytes.push(delimiter);
            }
            write_cell(name.as_bytes(), delimiter, &mut bytes);
        }
        bytes.extend_from_slice(line_end);
        Ok(Arranged { cells, header: bytes, delimiter, line_end, sorted, borders: vec![], scratch: vec![] })
    }

    /// The header of what comes out, with its line end.
    pub fn header(&self) -> &[u8] {
        &self.header
    }

    /// Appends the whole rows in `rows`, arranged, to `out`; those to be sorted wait for [`finish`](Self::finish).
    pub fn add(&mut self, rows: &[u8], out: &mut Vec<u8>) {
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
            out.extend_from_slice(self.line_end);
            if let Some(sorted) = &mut self.sorted {
                let row = out.split_off(start);
                sorted.keep(row, self.delimiter);
            }
            rest = &rest[end..];
        }
    }

    /// Appends the rows that waited to be sorted.
    pub fn finish(&mut self, out: &mut Vec<u8>) {
        if let Some(sorted) = &mut self.sorted {
            let order = sorted.order;
            sorted.rows.sort_by(|one, other| {
                let pairs = one.0.iter().zip(&other.0);
                pairs.map(|(one, other)| order(one, other)).find(|o| o.is_ne()).unwrap_or(Ordering::Equal)
            });
            for (_, row) in sorted.rows.drain(..) {
                out.extend_from_slice(&row);
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
        let Some(&end) = self.borders.get(place) else { return };
        let start = if place == 0 { 0 } else { self.borders[place - 1] + 1 };
        let raw = &row[start..end];
        match change {
            None => out.extend_from_slice(raw),
            Some(change) => {
                self.scratch.clear();
                unquoted(raw, &mut self.scratch);
                write_cell(&change(&self.scratch), self.delimiter, out);
            }
        }
    }
}

impl Sorted {
    fn keep(&mut self, row: Vec<u8>, delimiter: u8) {
        let key = |&place: &usize| {
            let start = if place == 0 { 0 } else { end_of_cell(&row, place - 1, delimiter) + 1 };
            let end = end_of_field(&row, start.min(row.len()), delimiter);
            let mut cell = Vec::new();
            unquoted(row.get(start..end).unwrap_or_default(), &mut cell);
            cell
        };
        let keys = self.by.iter().map(key).collect();
        self.rows.push((keys, row));
    }
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
            format!("its columns are: {}", names.join(", ")),
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
            arranged.add(&rows[..cut], &mut out);
            arranged.add(&rows[cut..], &mut out);
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
            Arranged::new(&arrangement, &header, b',', b"\n").unwrap().add(&written, &mut out);
            let reader = csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(&out[..]);
            let read: Vec<Vec<String>> = reader.into_records().map(|row| row.unwrap().iter().map(str::to_owned).collect()).collect();
            let picked = |row: &Vec<String>| places.iter().map(|&place| row[place].clone()).collect::<Vec<_>>();
            // A row of one empty cell is a blank line to whoever reads it.
            let expected: Vec<Vec<String>> = rows.iter().map(picked).filter(|row| row != &[""]).collect();
            prop_assert_eq!(read.into_iter().filter(|row| row != &[""]).collect::<Vec<_>>(), expected);
        }
    }

    #[test]
    fn rows_are_sorted_and_equal_ones_stay() {
        let arrangement = Arrangement { sort_by: vec!["b".into(), "a".into()], ..Arrangement::default() };
        let mut arranged = Arranged::new(&arrangement, &names(&["a", "b", "c"]), b';', b"\n").unwrap();
        let mut out = Vec::new();
        arranged.add(b"x;\"2\";1\ny;1;2\nx;2;3\na;2;4\n", &mut out);
        assert!(out.is_empty());
        arranged.finish(&mut out);
        assert_eq!(out, b"y;1;2\na;2;4\nx;\"2\";1\nx;2;3\n");
        for (columns, told) in [("d=x", "no column ‘d’"), ("a=x b=x", "two columns would be called ‘x’")]
        {
            let pairs = columns.split(' ').filter_map(|pair| pair.split_once('='));
            let columns = pairs.map(|(name, shown)| (name.to_owned(), shown.to_owned())).collect();
            let arrangement = Arrangement { columns, ..Arrangement::default() };
            let error = Arranged::new(&arrangement, &names(&["a", "b"]), b',', b"\n").unwrap_err();
            assert!(error.message.contains(told), "{}", error.message);
        }
    }
}
