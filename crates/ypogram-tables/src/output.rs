//! Outputs that appear whole or not at all: written beside their place, synced, renamed.

use std::fs::{self, File};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use crate::csv::Arranged;
use crate::error::{Error, Result};
use crate::file_writer::{Block, FileWriter};

/// A file that appears under its name only once it is whole. Dropped before that, it leaves nothing behind.
pub struct OutputFile {
    path: PathBuf,
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

/// Rows are arranged when there are so many octets of them.
const GATHERED: usize = 1 << 14;

impl OutputFile {
    /// Starts the file that shall stand at `path`.
    ///
    /// # Errors
    /// Where its folder cannot be written to.
    pub fn create(path: &Path) -> Result<Self> {
        let folder = path.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let name = path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
        let file = tempfile::Builder::new()
            .prefix(&format!(".{name}.partial-"))
            .permissions(new_file_permissions())
            .tempfile_in(folder)
            .map_err(|error| Error::writing(path, &error))?;
        Ok(OutputFile {
            path: path.to_path_buf(),
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
        self.file.persist(&path).map(drop).map_err(|error| Error::writing(&path, &error.error))
    }
}

#[cfg(unix)]
fn new_file_permissions() -> fs::Permissions {
    use std::os::unix::fs::PermissionsExt;
    // What a file made the ordinary way gets; the process mask still applies.
    fs::Permissions::from_mode(0o666)
}

#[cfg(not(unix))]
fn new_file_permissions() -> fs::Permissions {
    fs::metadata(".").map(|m| m.permissions()).expect("the working directory is there")
}

/// A folder of outputs that belong together. The account of the run comes last, so that a folder with one is complete.
pub struct OutputFolder {
    path: PathBuf,
    made: bool,
    published: bool,
}

impl OutputFolder {
    /// Takes `path` for outputs: a new folder, an empty one, or with `force` one whose earlier outputs are `earlier`.
    ///
    /// # Errors
    /// Where it holds something already, or cannot be made.
    pub fn prepare(path: &Path, force: bool, earlier: &[String], wanted: &[String]) -> Result<Self> {
        let mut folder = OutputFolder { path: path.to_path_buf(), made: false, published: false };
        match fs::read_dir(path) {
            Ok(entries) => {
                let there: Vec<String> =
                    entries.flatten().map(|e| e.file_name().to_string_lossy().into_owned()).collect();
                folder.refuse_what_is_there(&there, force, earlier, wanted)?;
            }
            Err(error) if error.kind() == io::ErrorKind::NotFound => {
                fs::create_dir(path).map_err(|error| match error.kind() {
                    io::ErrorKind::NotFound => Error::output(
                        format!("{}: the folder it belongs into does not exist", path.display()),
                        "make that folder first",
                    ),
                    _ => Error::writing(path, &error),
                })?;
                folder.made = true;
            }
            Err(_) if path.is_file() => {
                return Err(Error::output(
                    format!("{}: there is a file of that name", path.display()),
                    "give a folder with -o",
                ));
            }
            Err(error) => return Err(Error::writing(path, &error)),
        }
        Ok(folder)
    }

    fn refuse_what_is_there(
        &self,
        there: &[String],
        force: bool,
        earlier: &[String],
        wanted: &[String],
    ) -> Result<()> {
        let shown = self.path.display();
        if !there.is_empty() && !force {
            let hint = "choose another folder with -o, or replace the earlier outputs in it with --force";
            return Err(Error::output(format!("{shown}: the folder is not empty"), hint));
        }
        match there.iter().find(|name| wanted.contains(name) && !earlier.contains(name)) {
            Some(foreign) => Err(Error::output(
                format!("{shown}: {foreign} stands there and is no output of an earlier run"),
                "move it away, or choose another folder with -o",
            )),
            None => Ok(()),
        }
    }

    /// The place of `name` in the folder.
    pub fn place(&self, name: &str) -> PathBuf {
        self.path.join(name)
    }

    /// Removes the earlier outputs, then puts all of `files` under their names, in order.
    ///
    /// # Errors
    /// Where a file cannot be put in its place.
    pub fn publish(mut self, mut files: Vec<OutputFile>, earlier: &[String]) -> Result<()> {
        for file in &mut files {
            file.sync()?;
        }
        self.published = true;
        // The receipt goes first and comes last: a folder with a receipt is complete.
        for name in earlier.iter().rev() {
            let path = self.place(name);
            if let Err(error) = fs::remove_file(&path)
                && error.kind() != io::ErrorKind::NotFound
            {
                return Err(Error::writing(&path, &error));
            }
        }
        for file in files {
            file.publish()?;
        }
        if let Ok(folder) = File::open(&self.path) {
            // Not every system can sync a folder; the files themselves are safe.
            let _ = folder.sync_all();
        }
        Ok(())
    }
}

impl Drop for OutputFolder {
    fn drop(&mut self) {
        if self.made && !self.published {
            // Only an empty folder goes: nothing of anybody's can be lost.
            let _ = fs::remove_dir(&self.path);
        }
    }
}

/// Where one stream of records goes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Target {
    /// Standard output.
    Standard,
    /// Nowhere: only what is counted is asked for.
    Nowhere,
    /// A file; an existing one is replaced only where that is said.
    File {
        /// Its place.
        path: PathBuf,
        /// Whether an existing file is replaced.
        replace: bool,
    },
}

/// A stream of records being written.
pub enum Output {
    /// To standard output, with the rows arranged where that is asked for.
    Standard(io::Stdout, Option<Arranged>),
    /// To nowhere.
    Nowhere,
    /// To a file, which appears under its name at the end.
    File(OutputFile),
}

impl Target {
    /// Opens the target.
    ///
    /// # Errors
    /// Where the file exists and is not to be replaced, or cannot be made.
    pub fn open(&self) -> Result<Output> {
        match self {
            Target::Standard => Ok(Output::Standard(io::stdout(), None)),
            Target::Nowhere => Ok(Output::Nowhere),
            Target::File { path, replace } => {
                if path.is_dir() {
                    return Err(Error::output(
                        format!("{}: this is a folder", path.display()),
                        "give a file with -o",
                    ));
                }
                if path.exists() && !replace {
                    return Err(Error::output(
                        format!("{}: the file exists", path.display()),
                        "choose another name with -o, or replace it with --force",
                    ));
                }
                OutputFile::create(path).map(Output::File)
            }
        }
    }
}

fn to_standard(out: &mut io::Stdout, bytes: &[u8]) -> Result<()> {
    out.write_all(bytes).map_err(|error| Error::writing(Path::new("standard output"), &error))
}

impl Output {
    /// Lets every row that is written from here on be arranged; the header has been.
    pub fn arrange(&mut self, how: Option<Arranged>) {
        match self {
            Output::Standard(_, arranged) => *arranged = how,
            Output::Nowhere => {}
            Output::File(file) => file.arrange(how),
        }
    }

    /// Appends `bytes`.
    ///
    /// # Errors
    /// Where they cannot be written.
    pub fn write(&mut self, bytes: &[u8]) -> Result<()> {
        match self {
            Output::Standard(out, None) => to_standard(out, bytes),
            Output::Standard(out, Some(arranged)) => {
                let mut buffer = Vec::new();
                arranged.add(bytes, &mut buffer)?;
                to_standard(out, &buffer)
            }
            Output::Nowhere => Ok(()),
            Output::File(file) => file.write(bytes),
        }
    }

    /// Makes sure that everything is written, and puts a file under its name.
    ///
    /// # Errors
    /// Where that fails.
    pub fn finish(self) -> Result<()> {
        match self {
            Output::Standard(mut out, arranged) => {
                if let Some(mut arranged) = arranged {
                    let mut buffer = Vec::new();
                    arranged.finish(&mut |row| {
                        buffer.extend_from_slice(row);
                        if buffer.len() < GATHERED {
                            return Ok(());
                        }
                        let written = to_standard(&mut out, &buffer);
                        buffer.clear();
                        written
                    })?;
                    to_standard(&mut out, &buffer)?;
                }
                out.flush().map_err(|error| Error::writing(Path::new("standard output"), &error))
            }
            Output::Nowhere => Ok(()),
            Output::File(mut file) => {
                file.sync()?;
                file.publish()
            }
        }
    }
}

#[cfg(test)]
mod tests {
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
