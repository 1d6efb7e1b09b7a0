//! One row for each mailbox, the first, with how many there are: in memory, and past a limit in temporary files.

use hashbrown::HashTable;
use ypogram_io::{Result, SortedRows};

/// The rows so far.
pub(crate) struct UniqueRows {
    /// Places in `rows`, by hash.
    table: HashTable<u32>,
    rows: Vec<Waiting>,
    /// These rows, one behind the other.
    bytes: Vec<u8>,
    /// How many mailboxes were seen, each counted anew once rows have moved to files.
    met: u64,
    /// Bytes of memory that they may take.
    most: usize,
    /// Rows that moved to files: by hash, then by when they were seen, with their counts in front.
    moved: Option<SortedRows>,
}

/// A row, with the hash of its mailbox.
#[derive(Clone, Copy)]
struct Waiting {
    hash: u128,
    start: usize,
    bytes: u32,
    /// Addresses of the mailbox.
    count: u64,
}

/// A mailbox whose rows come back from the files one behind the other: its hash, when it was first seen, its count, its first row.
struct Moved {
    hash: [u8; 16],
    nth: Vec<u8>,
    count: u64,
    row: Vec<u8>,
}

/// Bytes that a row takes beside its own, the room of the tables included.
const BESIDE: usize = 2 * size_of::<Waiting>();

impl UniqueRows {
    /// None yet, in at most so many bytes of memory.
    pub(crate) fn within(most: usize) -> Self {
        UniqueRows { table: HashTable::new(), rows: Vec::new(), bytes: Vec::new(), met: 0, most, moved: None }
    }

    /// Counts an address of the mailbox of that hash; `write` appends its row where it is the first.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add(&mut self, hash: u128, write: impl FnOnce(&mut Vec<u8>)) -> Result<()> {
        let rows = &mut self.rows;
        if let Some(&place) = self.table.find(hash as u64, |&place| rows[place as usize].hash == hash) {
            rows[place as usize].count += 1;
            return Ok(());
        }
        let place = rows.len() as u32;
        self.table.insert_unique(hash as u64, place, |&place| rows[place as usize].hash as u64);
        let start = self.bytes.len();
        write(&mut self.bytes);
        rows.push(Waiting { hash, start, bytes: (self.bytes.len() - start) as u32, count: 1 });
        if self.bytes.len() + self.rows.len() * BESIDE > self.most {
            self.move_to_files()?;
        }
        Ok(())
    }

    fn move_to_files(&mut self) -> Result<()> {
        let moved = self.moved.get_or_insert_with(|| SortedRows::within(self.most / 4));
        for (nth, row) in (self.met..).zip(&self.rows) {
            let key = [&row.hash.to_be_bytes()[..], &nth.to_be_bytes()].concat();
            moved.add(&key, &with_count(row.count, &self.bytes[row.start..][..row.bytes as usize]))?;
        }
        self.met += self.rows.len() as u64;
        self.table.clear();
        self.rows.clear();
        self.bytes.clear();
        Ok(())
    }

    /// Gives each row, in the order in which their mailboxes were seen, with its count to `write`.
    ///
    /// # Errors
    /// Where they cannot be written, or the temporary folder cannot be used.
    pub(crate) fn finish(mut self, mut write: impl FnMut(&[u8], u64) -> Result<()>) -> Result<()> {
        if self.moved.is_none() {
            let bytes = &self.bytes;
            return self
                .rows
                .iter()
                .try_for_each(|row| write(&bytes[row.start..][..row.bytes as usize], row.count));
        }
        self.move_to_files()?;
        (self.table, self.rows, self.bytes) = (HashTable::new(), Vec::new(), Vec::new());
        let mut in_order = SortedRows::within(self.most / 2);
        let mut present: Option<Moved> = None;
        let mut moved = self.moved.take().expect("rows have moved");
        moved.finish(&mut |key, row| {
            let (&hash, nth) = key.split_first_chunk().expect("a hash");
            let (count, row) = without_count(row);
            match &mut present {
                Some(present) if present.hash == hash => present.count += count,
                _ => {
                    let next = Moved { hash, nth: nth.to_vec(), count, row: row.to_vec() };
                    if let Some(whole) = present.replace(next) {
                        in_order.add(&whole.nth, &with_count(whole.count, &whole.row))?;
                    }
                }
            }
            Ok(())
        })?;
        if let Some(last) = present {
            in_order.add(&last.nth, &with_count(last.count, &last.row))?;
        }
        in_order.finish(&mut |_, row| {
            let (count, row) = without_count(row);
            write(row, count)
        })
    }
}

fn with_count(count: u64, row: &[u8]) -> Vec<u8> {
    [&count.to_le_bytes()[..], row].concat()
}

fn without_count(row: &[u8]) -> (u64, &[u8]) {
    let (count, row) = row.split_first_chunk().expect("a count");
    (u64::from_le_bytes(*count), row)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn the_same_in_memory_and_in_files(hashes in prop::collection::vec(0..30_u128, 0..300)) {
            let mut told = Vec::new();
            for most in [usize::MAX, 4000, 300, 0] {
                let mut unique = UniqueRows::within(most);
                for (nth, &hash) in hashes.iter().enumerate() {
                    unique.add(hash << 40, |out| out.extend_from_slice(format!("{hash} at {nth}").as_bytes())).unwrap();
                }
                let mut rows = Vec::new();
                unique
                    .finish(|row, count| {
                        rows.push((String::from_utf8(row.to_vec()).unwrap(), count));
                        Ok(())
                    })
                    .unwrap();
                told.push(rows);
            }
            let counts: u64 = told[0].iter().map(|(_, count)| count).sum();
            prop_assert_eq!(counts, hashes.len() as u64);
            prop_assert!(told.iter().all(|rows| *rows == told[0]), "{:?}", told);
        }
    }
}
