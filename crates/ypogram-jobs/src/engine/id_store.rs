//! What distinguishes records, by their number: in memory, and past a limit in files.

use std::fs::File;
use std::io::{Read as _, Seek as _, SeekFrom, Write as _};
use std::path::PathBuf;

use tempfile::TempDir;
use ypogram_io::{Error, Result, private_file};

/// The texts of records, in order, behind one another.
pub(crate) struct IdStore {
    /// Those that are not in files.
    texts: Vec<u8>,
    /// Where each of these ends in `texts`.
    ends: Vec<u64>,
    filed: Option<Filed>,
    folder: PathBuf,
    /// Bytes of memory that they may take.
    most: usize,
}

/// Texts in a file, and where each ends in another, in eight bytes.
struct Filed {
    texts: File,
    ends: File,
    records: u64,
    bytes: u64,
}

impl IdStore {
    /// Empty, with at most so many bytes in memory and the rest in a folder of its own in `folder`.
    ///
    /// # Errors
    /// Where that cannot be made.
    pub(crate) fn within(most: usize, folder: &TempDir) -> Result<Self> {
        let own = tempfile::Builder::new().prefix("ids-").tempdir_in(folder.path());
        let folder = own.map(TempDir::keep).map_err(|error| Error::temporary(folder.path(), &error))?;
        Ok(IdStore { texts: Vec::new(), ends: Vec::new(), filed: None, folder, most })
    }

    /// Adds the text of the next record.
    ///
    /// # Errors
    /// Where the files cannot be written.
    pub(crate) fn add(&mut self, text: &[u8]) -> Result<()> {
        if self.texts.len() + text.len() + self.ends.len() * 8 > self.most {
            self.file().map_err(|error| Error::temporary(&self.folder, &error))?;
        }
        self.texts.extend_from_slice(text);
        self.ends.push(self.texts.len() as u64);
        Ok(())
    }

    /// Moves all to the files.
    fn file(&mut self) -> std::io::Result<()> {
        if self.filed.is_none() {
            let open = |name: &str| private_file(&self.folder.join(name));
            self.filed = Some(Filed { texts: open("ids")?, ends: open("id-ends")?, records: 0, bytes: 0 });
        }
        let filed = self.filed.as_mut().expect("it is open");
        filed.texts.seek(SeekFrom::End(0))?;
        filed.texts.write_all(&self.texts)?;
        let ends: Vec<u8> = self.ends.iter().flat_map(|end| (filed.bytes + end).to_le_bytes()).collect();
        filed.ends.seek(SeekFrom::End(0))?;
        filed.ends.write_all(&ends)?;
        filed.records += self.ends.len() as u64;
        filed.bytes += self.texts.len() as u64;
        self.texts.clear();
        self.ends.clear();
        Ok(())
    }

    /// Writes what tells the record of that number, from 1, to `out`: `record 7` where its field is empty.
    ///
    /// # Errors
    /// Where the files cannot be read.
    pub(crate) fn write(&mut self, record: u64, out: &mut Vec<u8>) -> Result<()> {
        let start = out.len();
        let filed = self.filed.as_ref().map_or(0, |filed| filed.records);
        match (record - 1).checked_sub(filed) {
            Some(nth) => {
                let nth = nth as usize;
                let from = if nth == 0 { 0 } else { self.ends[nth - 1] as usize };
                out.extend_from_slice(&self.texts[from..self.ends[nth] as usize]);
            }
            None => {
                let filed = self.filed.as_mut().expect("some are in files");
                let read = filed.read(record - 1, out);
                read.map_err(|error| Error::temporary(&self.folder, &error))?;
            }
        }
        if out[start..].trim_ascii().is_empty() {
            out.truncate(start);
            out.extend_from_slice(format!("record {record}").as_bytes());
        }
        Ok(())
    }
}

impl Filed {
    fn read(&mut self, nth: u64, out: &mut Vec<u8>) -> std::io::Result<()> {
        let mut ends = [0; 16];
        let (from, to) = if nth == 0 {
            self.ends.seek(SeekFrom::Start(0))?;
            self.ends.read_exact(&mut ends[8..])?;
            (0, u64::from_le_bytes(ends[8..].try_into().expect("eight bytes")))
        } else {
            self.ends.seek(SeekFrom::Start((nth - 1) * 8))?;
            self.ends.read_exact(&mut ends)?;
            let end = |at: usize| u64::from_le_bytes(ends[at..at + 8].try_into().expect("eight bytes"));
            (end(0), end(8))
        };
        self.texts.seek(SeekFrom::Start(from))?;
        (&self.texts).take(to - from).read_to_end(out).map(|_| ())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_in_memory_and_in_files() {
        let ids = ["M-1", "", "M-333", " ", "ß", "M-6"];
        for most in [0, 20, 1 << 20] {
            let folder = tempfile::tempdir().unwrap();
            let mut store = IdStore::within(most, &folder).unwrap();
            for (nth, id) in ids.iter().enumerate() {
                store.add(id.as_bytes()).unwrap();
                // Asked while it grows.
                let mut first = Vec::new();
                store.write(nth as u64 / 2 + 1, &mut first).unwrap();
            }
            let told: Vec<String> = (1..=6)
                .map(|record| {
                    let mut out = b"> ".to_vec();
                    store.write(record, &mut out).unwrap();
                    String::from_utf8(out).unwrap()
                })
                .collect();
            assert_eq!(told, ["> M-1", "> record 2", "> M-333", "> record 4", "> ß", "> M-6"], "{most}");
        }
    }
}
