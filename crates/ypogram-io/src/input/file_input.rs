//! Bytes from a file or from standard input: hashed and counted as they lie there, decompressed on the way.

use std::fs::File;
use std::io::{self, Cursor, Read, Write as _};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

use crate::input::waiting::Waiting;
use crate::records::error::{Error, Result};
use crate::records::fingerprint::Fingerprint;

/// Bytes that are read at first, where it is not known how many there are.
const FIRST_READ: usize = 512 << 10;

/// How an input is compressed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Compression {
    /// Not at all.
    None,
    /// gzip (RFC 1952), several members too.
    Gzip,
    /// Zstandard (RFC 8878).
    Zstd,
}

impl Compression {
    fn of(start: &[u8]) -> Self {
        match start {
            [0x1F, 0x8B, ..] => Compression::Gzip,
            [0x28, 0xB5, 0x2F, 0xFD, ..] => Compression::Zstd,
            _ => Compression::None,
        }
    }
}

/// What people call it.
const STANDARD_INPUT: &str = "standard input";

/// An open input.
pub struct Input {
    reader: Box<dyn Read + Send>,
    /// The name to call it by.
    pub name: String,
    /// How it is compressed.
    pub compression: Compression,
    seen: Arc<Mutex<SoFar>>,
    /// Bytes given out, decompressed.
    given: u64,
    /// What could be read before the input broke off is all there is.
    salvage: bool,
    broken_off: Option<String>,
}

#[derive(Default)]
struct SoFar {
    hasher: Option<blake3::Hasher>,
    bytes: u64,
}

impl Input {
    /// Opens the file at `path`, or standard input where that is `-`, and decompresses what is compressed.
    ///
    /// # Errors
    /// Where it is missing, a folder, or may not be read.
    pub fn open(path: &Path, hash: bool, salvage: bool) -> Result<Self> {
        Self::of(name_of(path), opened(path)?, hash, salvage)
    }

    /// Opens the file `kept` into which `source` was put, and goes by the name of that.
    ///
    /// # Errors
    /// Where it may not be read.
    pub(crate) fn open_kept(source: &Path, kept: &Path, hash: bool, salvage: bool) -> Result<Self> {
        Self::of(name_of(source), Box::new(open_file(kept)?), hash, salvage)
    }

    fn of(name: String, raw: Box<dyn Read + Send>, hash: bool, salvage: bool) -> Result<Self> {
        let seen = Arc::new(Mutex::new(SoFar { hasher: hash.then(blake3::Hasher::new), bytes: 0 }));
        let mut counted = Counted { inner: raw, seen: Arc::clone(&seen) };
        let mut start = Vec::new();
        (&mut counted).take(4).read_to_end(&mut start).map_err(|error| failed(&name, &error))?;
        let compression = Compression::of(&start);
        let whole = Cursor::new(start).chain(counted);
        let reader: Box<dyn Read + Send> = match compression {
            Compression::None => Box::new(whole),
            Compression::Gzip => Box::new(flate2::read::MultiGzDecoder::new(whole)),
            Compression::Zstd => {
                Box::new(zstd::stream::read::Decoder::new(whole).map_err(|error| failed(&name, &error))?)
            }
        };
        Ok(Input { reader, name, compression, seen, given: 0, salvage, broken_off: None })
    }

    /// Puts another reader over this one, such as a decoder of characters.
    #[must_use]
    pub(crate) fn through(self, wrap: impl FnOnce(Box<dyn Read + Send>) -> Box<dyn Read + Send>) -> Self {
        Input { reader: wrap(self.reader), ..self }
    }

    /// Appends up to `most` bytes to `buffer`, as many as there are; tells how many. Fewer than asked for is the end.
    ///
    /// # Errors
    /// Where the input cannot be read, or breaks off and is not to be salvaged.
    pub fn fill(&mut self, buffer: &mut Vec<u8>, most: usize) -> Result<usize> {
        self.fill_over(buffer, buffer.len(), most)
    }

    /// The same behind the first `kept` bytes of `buffer`; those behind them go. Where there are as many as are read, nothing has to
    /// be cleared.
    ///
    /// # Errors
    /// As above.
    pub(crate) fn fill_over(&mut self, buffer: &mut Vec<u8>, kept: usize, most: usize) -> Result<usize> {
        if self.broken_off.is_some() {
            buffer.truncate(kept);
            return Ok(0);
        }
        let (new, read) = read_over(&mut self.reader, buffer, kept, most);
        self.given += new as u64;
        match read {
            Ok(()) => Ok(new),
            Err(_) if crate::records::stopping::is_stopped() => Err(Error::interrupted()),
            Err(error) if self.compression != Compression::None && self.salvage => {
                self.broken_off = Some(error.to_string());
                Ok(new)
            }
            Err(error) if self.compression != Compression::None => Err(Error::unusable(
                format!(
                    "{}: the compressed input breaks off behind byte {} of its content: {error}",
                    self.name, self.given
                ),
                "fetch it again, or take what can be read with --salvage",
            )),
            Err(error) => Err(failed(&self.name, &error)),
        }
    }

    /// Why the input broke off, where it did and was salvaged.
    pub fn broken_off(&self) -> Option<&str> {
        self.broken_off.as_deref()
    }

    /// What was read so far, as it lies there.
    pub fn fingerprint(&self) -> Fingerprint {
        let seen = self.seen.lock().unwrap_or_else(PoisonError::into_inner);
        let blake3 =
            seen.hasher.as_ref().map_or_else(String::new, |hasher| hasher.finalize().to_hex().to_string());
        Fingerprint { bytes: seen.bytes, blake3 }
    }
}

/// What a source is called.
fn name_of(path: &Path) -> String {
    if path == Path::new("-") { STANDARD_INPUT.to_owned() } else { path.display().to_string() }
}

/// Whether what is read at `path` is gone then: standard input, a FIFO.
pub fn can_be_read_but_once(path: &Path) -> bool {
    path == Path::new("-")
        || std::fs::metadata(path).is_ok_and(|metadata| !metadata.is_file() && !metadata.is_dir())
}

/// Puts the source at `path` into a new file at `place`, as it lies there.
///
/// # Errors
/// Where it cannot be read, or the file not be written.
pub fn keep_source(path: &Path, place: &Path) -> Result<()> {
    let failed_to_keep = |error: io::Error| Error::temporary(place.parent().unwrap_or(place), &error);
    let mut file = crate::output::private_file(place).map_err(failed_to_keep)?;
    let (mut input, mut block) = (opened(path)?, vec![0; 64 << 10]);
    loop {
        let read = input.read(&mut block).map_err(|error| failed(&name_of(path), &error))?;
        if read == 0 {
            return Ok(());
        }
        file.write_all(&block[..read]).map_err(failed_to_keep)?;
    }
}

/// A file that lies there, or something that one may have to wait for.
fn opened(path: &Path) -> Result<Box<dyn Read + Send>> {
    if path == Path::new("-") {
        return Ok(Box::new(Waiting::on(|| Ok(io::stdin()))));
    }
    if can_be_read_but_once(path) {
        // A FIFO opens once somebody writes to it.
        let path = path.to_path_buf();
        return Ok(Box::new(Waiting::on(move || File::open(path))));
    }
    let file = open_file(path)?;
    // Some file systems do not tell, and say 0.
    let bytes = file.metadata().map_or(0, |metadata| metadata.len());
    Ok(Box::new(Whole { file, bytes, read: 0 }))
}

/// A file that must not become shorter while it is read.
struct Whole {
    file: File,
    /// When it was opened.
    bytes: u64,
    read: u64,
}

impl Read for Whole {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.file.read(buffer)?;
        self.read += read as u64;
        if read == 0 && !buffer.is_empty() && self.read < self.bytes {
            return Err(cut_off());
        }
        Ok(read)
    }
}

/// A file that became shorter while it was read.
pub(crate) fn cut_off() -> io::Error {
    io::Error::other("the file became shorter while it was read")
}

/// Reads up to `most` bytes to behind the first `kept` of `buffer`, where what else stands there goes; tells how many.
fn read_over(
    reader: &mut impl Read,
    buffer: &mut Vec<u8>,
    kept: usize,
    most: usize,
) -> (usize, io::Result<()>) {
    let (mut filled, mut result) = (0, Ok(()));
    while filled < most && result.is_ok() {
        // Not all at once, as `most` may be far more than there is.
        let next = kept + filled + filled.max(FIRST_READ).min(most - filled);
        if buffer.len() < next {
            buffer.resize(next, 0);
        }
        let end = buffer.len().min(kept + most);
        match reader.read(&mut buffer[kept + filled..end]) {
            Ok(0) => break,
            Ok(bytes) => filled += bytes,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => result = Err(error),
        }
    }
    buffer.truncate(kept + filled);
    (filled, result)
}

fn failed(name: &str, error: &io::Error) -> Error {
    if crate::records::stopping::is_stopped() { Error::interrupted() } else { Error::reading(name, error) }
}

/// Opens the file at `path` for reading.
///
/// # Errors
/// Where it is missing, a folder, or may not be read.
pub(crate) fn open_file(path: &Path) -> Result<File> {
    let name = path.display().to_string();
    let metadata = std::fs::metadata(path).map_err(|error| match error.kind() {
        io::ErrorKind::NotFound => Error::unusable(format!("{name}: file not found"), look_around(path)),
        _ => Error::reading(&name, &error),
    })?;
    if metadata.is_dir() {
        return Err(Error::unusable(
            format!("{name}: this is a folder"),
            "name the files in it that are meant",
        ));
    }
    File::open(path).map_err(|error| failed(&name, &error))
}

/// Counts and hashes what passes through.
struct Counted {
    inner: Box<dyn Read + Send>,
    seen: Arc<Mutex<SoFar>>,
}

impl Read for Counted {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.inner.read(buffer)?;
        let mut seen = self.seen.lock().unwrap_or_else(PoisonError::into_inner);
        seen.bytes += read as u64;
        if let Some(hasher) = &mut seen.hasher {
            hasher.update(&buffer[..read]);
        }
        Ok(read)
    }
}

/// Files beside the missing one whose names start alike, to name them in the hint.
fn look_around(path: &Path) -> String {
    let folder = path
        .parent()
        .filter(|p| !p.as_os_str().is_empty())
        .map_or_else(|| PathBuf::from("."), Path::to_path_buf);
    let Some(stem) = path.file_stem().and_then(|s| s.to_str()) else { return String::new() };
    let start: String = stem.chars().take(3).collect();
    let Ok(entries) = std::fs::read_dir(&folder) else {
        return format!("the folder {} does not exist either", folder.display());
    };
    let mut alike: Vec<String> = entries
        .flatten()
        .filter(|entry| entry.path().is_file())
        .filter_map(|entry| entry.file_name().into_string().ok())
        .filter(|name| name.starts_with(&start))
        .collect();
    alike.sort_unstable();
    alike.truncate(3);
    if alike.is_empty() {
        "see whether the path is right".into()
    } else {
        format!("beside it there is {}", alike.join(", "))
    }
}
