//! What is known of every record with a key, divided by hash so that each part can be dealt with in memory; in a temporary
//! folder once there is too much.

use std::fs::File;
use std::io::{Read as _, Seek as _, SeekFrom, Write as _};
use std::path::PathBuf;
use std::sync::Arc;

use tempfile::TempDir;
use ypogram_io::{Error, Result, private_file};

/// What is known of a record with a key.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Entry {
    pub(crate) hash: u128,
    /// Its number, from 1.
    pub(crate) record: u64,
    pub(crate) score: u64,
    /// A hash of its person; 0 where none is known.
    pub(crate) person: u64,
}

impl Entry {
    /// Whether it has a mailbox, rather than the text of a rejected address.
    pub(crate) fn has_mailbox(&self) -> bool {
        self.hash & 1 == 0
    }
}

/// Bytes of an entry as it is kept.
pub(crate) const ENTRY: usize = 40;

/// Items that are read together from the temporary folder.
const READ_AT_ONCE: usize = 4096;

/// Fixed-size items in numbered parts.
pub(crate) struct Partitions {
    parts: Vec<Part>,
    /// Bytes of memory taken, and how many may be. They are kept when all moves out: what one thread gives back another does not
    /// get, so that more and more would be taken.
    held: usize,
    most: usize,
    folder: Arc<TempDir>,
    name: &'static str,
}

#[derive(Default)]
struct Part {
    held: Vec<u8>,
    file: Option<(PathBuf, File)>,
}

impl Partitions {
    /// Empty, with at most `most` bytes in memory.
    pub(crate) fn new(name: &'static str, most: usize, folder: Arc<TempDir>) -> Self {
        Partitions { parts: Vec::new(), held: 0, most, folder, name }
    }

    /// Adds `item` to the part of that number.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    pub(crate) fn add(&mut self, part: usize, item: &[u8]) -> Result<()> {
        if self.parts.len() <= part {
            self.parts.resize_with(part + 1, Part::default);
        }
        let held = &self.parts[part].held;
        let (has_room, grown) = (held.len() + item.len() <= held.capacity(), held.capacity().max(item.len()));
        if !has_room && self.held + grown > self.most {
            self.spill()?;
        }
        let held = &mut self.parts[part].held;
        let before = held.capacity();
        held.extend_from_slice(item);
        self.held += held.capacity() - before;
        Ok(())
    }

    /// Moves everything out of memory.
    fn spill(&mut self) -> Result<()> {
        for (number, part) in self.parts.iter_mut().enumerate().filter(|(_, part)| !part.held.is_empty()) {
            let path = self.folder.path().join(format!("{}-{number}", self.name));
            let failed = |error: std::io::Error| Error::temporary(self.folder.path(), &error);
            if part.file.is_none() {
                let file = private_file(&path).map_err(failed)?;
                part.file = Some((path.clone(), file));
            }
            let (_, file) = part.file.as_mut().expect("it is open");
            file.write_all(&part.held).map_err(failed)?;
            part.held.clear();
        }
        Ok(())
    }

    /// How many parts there are.
    pub(crate) fn len(&self) -> usize {
        self.parts.len()
    }

    /// Takes everything out of the part of that number.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    pub(crate) fn take(&mut self, part: usize) -> Result<Vec<u8>> {
        let Some(part) = self.parts.get_mut(part) else { return Ok(Vec::new()) };
        let held = std::mem::take(&mut part.held);
        self.held -= held.capacity();
        let Some((path, mut file)) = part.file.take() else { return Ok(held) };
        let failed = |error: std::io::Error| Error::temporary(self.folder.path(), &error);
        let mut all = Vec::new();
        file.seek(SeekFrom::Start(0)).map_err(failed)?;
        file.read_to_end(&mut all).map_err(failed)?;
        drop(file);
        // The space is needed by what comes next.
        let _ = std::fs::remove_file(&path);
        all.extend_from_slice(&held);
        Ok(all)
    }
}

impl Partitions {
    /// Calls `see` with every item of the part of that number, which stay; they have `ITEM` bytes each.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    pub(crate) fn each<const ITEM: usize>(
        &mut self,
        part: usize,
        mut see: impl FnMut(&[u8; ITEM]),
    ) -> Result<()> {
        let Some(part) = self.parts.get_mut(part) else { return Ok(()) };
        if let Some((_, file)) = &mut part.file {
            let failed = |error: std::io::Error| Error::temporary(self.folder.path(), &error);
            file.seek(SeekFrom::Start(0)).map_err(failed)?;
            let mut block = Vec::with_capacity(ITEM * READ_AT_ONCE);
            loop {
                block.clear();
                (&mut *file).take((ITEM * READ_AT_ONCE) as u64).read_to_end(&mut block).map_err(failed)?;
                if block.is_empty() {
                    break;
                }
                block.as_chunks().0.iter().for_each(&mut see);
            }
        }
        part.held.as_chunks().0.iter().for_each(see);
        Ok(())
    }
}

impl Entry {
    pub(crate) fn to_bytes(self) -> [u8; ENTRY] {
        let mut bytes = [0; ENTRY];
        bytes[..16].copy_from_slice(&self.hash.to_le_bytes());
        for (place, number) in [self.record, self.score, self.person].into_iter().enumerate() {
            bytes[16 + place * 8..24 + place * 8].copy_from_slice(&number.to_le_bytes());
        }
        bytes
    }

    pub(crate) fn from_bytes(bytes: &[u8; ENTRY]) -> Self {
        let number =
            |place: usize| u64::from_le_bytes(bytes[place..place + 8].try_into().expect("eight bytes"));
        let hash = u128::from_le_bytes(bytes[..16].try_into().expect("sixteen bytes"));
        Entry { hash, record: number(16), score: number(24), person: number(32) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_moved_out_comes_back_in_order_and_no_more_memory_is_taken() {
        let folder = Arc::new(TempDir::new().unwrap());
        for most in [0, 700, 1 << 20] {
            let mut partitions = Partitions::new("numbers", most, Arc::clone(&folder));
            let numbers = 0..20_000_u32;
            for number in numbers.clone() {
                partitions.add(number as usize % 3, &number.to_le_bytes()).unwrap();
                // A part takes room for a few items, however little is allowed.
                assert!(partitions.held <= most.max(3 * 16));
            }
            for part in 0..4_u32 {
                let expected: Vec<u32> = numbers.clone().filter(|number| number % 3 == part).collect();
                for _ in 0..2 {
                    let mut met = Vec::new();
                    partitions.each(part as usize, |item| met.push(u32::from_le_bytes(*item))).unwrap();
                    assert_eq!(met, expected);
                }
                let taken = partitions.take(part as usize).unwrap();
                let taken: Vec<u32> =
                    taken.as_chunks().0.iter().map(|item| u32::from_le_bytes(*item)).collect();
                assert_eq!(taken, expected);
            }
            assert_eq!(partitions.held, 0);
        }
    }
}
