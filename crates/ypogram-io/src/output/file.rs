//! A file that appears under its name whole or not at all: written beside its place, synced, renamed.

use std::fs::File;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use crate::output::access::Access;
use crate::output::file_writer::{Block, FileWriter};
use crate::output::packer::Packer;
use crate::output::partial;
use crate::output::partial::private_file;
use crate::output::place::{self, Kind};
use crate::records::error::{Error, Result};
use crate::records::fingerprint::Fingerprint;

/// A file that appears under its name only once it is whole. Dropped before that, it leaves nothing behind.
pub struct OutputFile {
    /// Its place, links followed.
    path: PathBuf,
    /// Who may read and write it in the end; until then its owner alone.
    access: Access,
    file: NamedTempFile,
    /// Compresses what is written, where the name says so.
    packer: Option<Packer>,
    /// What was not handed over to be written.
    block: Block,
    /// Writes full blocks; there is none before the first.
    writer: Option<FileWriter>,
}

impl OutputFile {
    /// Starts the file that shall stand at `path`.
    ///
    /// # Errors
    /// Where its folder cannot be written to, or a device stands there, which is never replaced.
    pub fn create(path: &Path) -> Result<Self> {
        if place::kind(path) == Kind::Device {
            return Err(Error::output(
                format!("{}: this is not an ordinary file, and cannot be replaced", path.display()),
                "give the name of a file",
            ));
        }
        let path = place::followed(path).map_err(|error| Error::writing(path, &error))?;
        let (file, access) = partial::file(&path).map_err(|error| Error::writing(&path, &error))?;
        let packer = Packer::of(&path).map_err(|error| Error::writing(&path, &error))?;
        Ok(OutputFile { path, access, file, packer, block: Block::new(), writer: None })
    }

    /// The same for a file that its owner alone may read, where there was none.
    ///
    /// # Errors
    /// As of [`OutputFile::create`].
    pub fn create_private(path: &Path) -> Result<Self> {
        let is_new = path.symlink_metadata().is_err();
        let mut file = OutputFile::create(path)?;
        if is_new && let Ok(metadata) = file.file.as_file().metadata() {
            // Until it is whole it is that of its owner alone.
            file.access = Access::of(&metadata, false);
        }
        Ok(file)
    }

    /// Where it is until it is published. Nothing can be appended any more.
    ///
    /// # Errors
    /// Where something cannot be written.
    pub fn written(&mut self) -> Result<PathBuf> {
        self.end()?;
        Ok(self.file.path().to_path_buf())
    }

    /// Copies what was written into a new file at `to`, for its owner alone, and gives the BLAKE3 of it. Nothing can be appended any
    /// more.
    ///
    /// # Errors
    /// Where either cannot be read or written.
    pub fn copy_to(&mut self, to: &Path) -> Result<String> {
        self.end()?;
        copy_private(self.file.path(), to)?;
        let fingerprint = Fingerprint::of_file(to).map_err(|error| Error::writing(to, &error))?;
        Ok(fingerprint.blake3)
    }

    /// Appends `bytes`.
    ///
    /// # Errors
    /// Where they, or what was appended before, cannot be written.
    pub fn write(&mut self, bytes: &[u8]) -> Result<()> {
        let written = match &mut self.packer {
            None => self.write_on(bytes),
            Some(packer) => packer.pack(bytes).and_then(|packed| self.write_on(&packed)),
        };
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
        if let Some(packer) = self.packer.take() {
            let written = packer.end().and_then(|packed| self.write_on(&packed));
            written.map_err(|error| Error::writing(&self.path, &error))?;
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

/// Copies a file into a new one at `to`, for its owner alone.
///
/// # Errors
/// Where either cannot be read or written.
pub fn copy_private(from: &Path, to: &Path) -> Result<()> {
    let mut source = File::open(from).map_err(|error| Error::reading(&from.display().to_string(), &error))?;
    let copied = private_file(to).and_then(|mut file| io::copy(&mut source, &mut file));
    copied.map(drop).map_err(|error| Error::writing(to, &error))
}

#[cfg(test)]
mod tests {
    use std::fs;
    use std::io::Read as _;

    use super::*;

    #[test]
    fn what_is_written_arrives_in_order() {
        for name in ["rows.csv", "rows.csv.gz", "rows.csv.zst"] {
            arrives_in_order(name);
        }
    }

    fn arrives_in_order(name: &str) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join(name);
        let (mut file, mut expected) = (OutputFile::create(&path).unwrap(), Vec::new());
        for nth in 0..80_000_usize {
            let row = format!("{nth},{}\n", "x".repeat(nth % 97));
            expected.extend_from_slice(row.as_bytes());
            file.write(row.as_bytes()).unwrap();
        }
        file.sync().unwrap();
        file.publish().unwrap();
        assert!(expected.len() > crate::output::file_writer::BLOCK, "more than one block is filled");
        let packed = fs::read(&path).unwrap();
        let mut read = Vec::new();
        match name.rsplit('.').next() {
            Some("gz") => flate2::read::GzDecoder::new(&packed[..]).read_to_end(&mut read).unwrap(),
            Some("zst") => zstd::Decoder::new(&packed[..]).unwrap().read_to_end(&mut read).unwrap(),
            _ => (&packed[..]).read_to_end(&mut read).unwrap(),
        };
        assert!(read == expected, "{name}");
    }
}
