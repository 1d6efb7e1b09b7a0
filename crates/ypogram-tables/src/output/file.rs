//! A file that appears under its name whole or not at all: written beside its place, synced, renamed.

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use crate::csv::Arranged;
use crate::error::{Error, Result};
use crate::file_writer::{Block, FileWriter};
use crate::output::access::Access;
use crate::output::partial;
use crate::output::place::{self, Kind};

/// A file that appears under its name only once it is whole. Dropped before that, it leaves nothing behind.
pub struct OutputFile {
    /// Its place, links followed.
    path: PathBuf,
    /// Who may read and write it in the end; until then its owner alone.
    access: Access,
    file: NamedTempFile,
    /// What was not handed over to be written.
    block: Block,
    /// Writes full blocks; there is none before the first.
    writer: Option<FileWriter>,
    /// How rows are arranged on their way into the file.
    arranged: Option<Arranged>,
    buffer: Vec<u8>,
    /// Rows that were not put into the block.
    gathered: Vec<u8>,
}

/// Rows are arranged when there are so many bytes of them.
pub(super) const GATHERED: usize = 1 << 14;

impl OutputFile {
    /// Starts the file that shall stand at `path`.
    ///
    /// # Errors
    /// Where its folder cannot be written to, or a device stands there, which is never replaced.
    pub fn create(path: &Path) -> Result<Self> {
        if place::kind(path) == Kind::Device {
            return Err(Error::output(
                format!("{}: this is no ordinary file, and cannot be replaced", path.display()),
                "give the name of a file",
            ));
        }
        let path = place::followed(path).map_err(|error| Error::writing(path, &error))?;
        let (file, access) = partial::file(&path).map_err(|error| Error::writing(&path, &error))?;
        Ok(OutputFile {
            path,
            access,
            file,
            block: Block::new(),
            writer: None,
            arranged: None,
            buffer: Vec::new(),
            gathered: Vec::new(),
        })
    }

    /// Lets every row that is written from here on be arranged; the header has been.
    pub fn arrange(&mut self, arranged: Option<Arranged>) {
        self.arranged = arranged;
    }

    /// Appends `bytes`; whole rows, where they are arranged.
    ///
    /// # Errors
    /// Where they, or what was appended before, cannot be written.
    pub fn write(&mut self, bytes: &[u8]) -> Result<()> {
        self.write_gathered()?;
        self.write_now(bytes)
    }

    fn write_now(&mut self, bytes: &[u8]) -> Result<()> {
        let Some(arranged) = &mut self.arranged else {
            return self.write_on(bytes).map_err(|error| Error::writing(&self.path, &error));
        };
        arranged.add(bytes, &mut self.buffer)?;
        self.write_buffer()
    }

    /// Appends a row that `put` puts in front of some room, of which there is at least `most` octets; it tells how many octets the row
    /// has. Mostly that is where it is written from, which is one copy less than to [write](Self::write) it.
    ///
    /// # Errors
    /// As above.
    #[inline]
    pub fn put(&mut self, most: usize, put: impl FnOnce(&mut [u8]) -> usize) -> Result<()> {
        let room = self.block.room();
        if self.arranged.is_none() && room.len() >= most {
            let octets = put(room);
            self.block.grow(octets);
            return Ok(());
        }
        let before = self.gathered.len();
        self.gathered.resize(before + most, 0);
        let octets = put(&mut self.gathered[before..]);
        self.gathered.truncate(before + octets);
        if self.arranged.is_none() || self.gathered.len() >= GATHERED {
            self.write_gathered()
        } else {
            Ok(())
        }
    }

    fn write_gathered(&mut self) -> Result<()> {
        if self.gathered.is_empty() {
            return Ok(());
        }
        let mut gathered = std::mem::take(&mut self.gathered);
        let written = self.write_now(&gathered);
        gathered.clear();
        self.gathered = gathered;
        written
    }

    fn write_buffer(&mut self) -> Result<()> {
        let mut buffer = std::mem::take(&mut self.buffer);
        let written = self.write_on(&buffer);
        buffer.clear();
        self.buffer = buffer;
        written.map_err(|error| Error::writing(&self.path, &error))
    }

    fn write_on(&mut self, bytes: &[u8]) -> io::Result<()> {
        if self.writer.as_ref().is_some_and(FileWriter::has_ended) {
            self.end_writer()?;
        }
        let mut rest = self.block.take(bytes);
        while self.block.is_full() {
            let writer = match &mut self.writer {
                Some(writer) => writer,
                none => none.insert(FileWriter::start(self.file.as_file())?),
            };
            let full = std::mem::replace(&mut self.block, Block::none());
            self.block = writer.write(full);
            rest = self.block.take(rest);
        }
        debug_assert!(rest.is_empty(), "nothing is appended to a file that was ended");
        Ok(())
    }

    /// Waits for the blocks that were handed over.
    fn end_writer(&mut self) -> io::Result<()> {
        self.writer.take().map_or(Ok(()), FileWriter::finish)
    }

    /// Writes what was not handed over yet. Nothing can be appended any more.
    fn end(&mut self) -> Result<()> {
        self.write_gathered()?;
        if let Some(mut arranged) = self.arranged.take() {
            arranged
                .finish(&mut |row| self.write_on(row).map_err(|error| Error::writing(&self.path, &error)))?;
        }
        let last = std::mem::replace(&mut self.block, Block::none());
        let written = self.end_writer().and_then(|()| self.file.as_file_mut().write_all(last.filled()));
        written.map_err(|error| Error::writing(&self.path, &error))
    }

    /// Its place.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Makes sure that what was written has reached the disk. Nothing can be appended any more.
    ///
    /// # Errors
    /// Where it has not.
    pub fn sync(&mut self) -> Result<()> {
        self.end()?;
        self.file.as_file().sync_all().map_err(|error| Error::writing(&self.path, &error))
    }

    /// Puts the file under its name.
    ///
    /// # Errors
    /// Where that fails; the file is then removed.
    pub fn publish(mut self) -> Result<()> {
        self.end()?;
        let path = self.path;
        self.access.give(self.file.as_file()).map_err(|error| Error::writing(&path, &error))?;
        self.file.persist(&path).map(drop).map_err(|error| Error::writing(&path, &error.error))
    }
}

#[cfg(test)]
mod tests {
    use std::fs;

    use super::*;

    #[test]
    fn rows_that_are_put_arrive_in_order() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("rows.csv");
        let (mut file, mut expected) = (OutputFile::create(&path).unwrap(), Vec::new());
        for nth in 0..80_000_usize {
            let row = format!("{nth},{}\n", "x".repeat(nth % 97));
            expected.extend_from_slice(row.as_bytes());
            let put = |room: &mut [u8]| {
                room[..row.len()].copy_from_slice(row.as_bytes());
                row.len()
            };
            file.put(row.len() + 50, put).unwrap();
        }
        file.sync().unwrap();
        file.publish().unwrap();
        assert!(expected.len() > crate::file_writer::BLOCK, "more than one block is filled");
        assert!(fs::read(&path).unwrap() == expected);
    }
}
