//! Where a file is, however it is named.

use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};

/// Where a file is: two of the same file are equal, whatever they were called.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Place {
    /// One that is there: its device and number.
    Node(u64, u64),
    /// One that is not: its resolved path.
    Path(PathBuf),
}

impl Place {
    /// Of the file at `path`, whether it is there or not.
    ///
    /// ```
    /// use std::path::Path;
    /// use ypogram_io::Place;
    /// assert_eq!(Place::of(Path::new("out.csv")), Place::of(Path::new("./out.csv")));
    /// ```
    pub fn of(path: &Path) -> Self {
        if let Ok(metadata) = fs::metadata(path)
            && let Some(node) = Place::of_node(&metadata)
        {
            return node;
        }
        Place::Path(
            followed(path).ok().and_then(|path| absolute(&path)).unwrap_or_else(|| path.to_path_buf()),
        )
    }

    /// Of standard output, where that is an ordinary file.
    #[cfg(unix)]
    pub fn of_standard_output() -> Option<Self> {
        use std::os::fd::AsFd as _;
        let file = File::from(io::stdout().as_fd().try_clone_to_owned().ok()?);
        let metadata = file.metadata().ok().filter(fs::Metadata::is_file)?;
        Place::of_node(&metadata)
    }

    /// Of standard output, which is not known here.
    #[cfg(not(unix))]
    pub fn of_standard_output() -> Option<Self> {
        None
    }

    #[cfg(unix)]
    fn of_node(metadata: &fs::Metadata) -> Option<Self> {
        use std::os::unix::fs::MetadataExt as _;
        Some(Place::Node(metadata.dev(), metadata.ino()))
    }

    #[cfg(not(unix))]
    fn of_node(_: &fs::Metadata) -> Option<Self> {
        None
    }
}

/// The path with its folder resolved.
fn absolute(path: &Path) -> Option<PathBuf> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    Some(folder.canonicalize().ok()?.join(path.file_name()?))
}

/// What stands at a path.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    Missing,
    File,
    Folder,
    /// A device, a FIFO or a socket: it is written to, never replaced.
    Device,
}

pub(super) fn kind(path: &Path) -> Kind {
    match fs::metadata(path) {
        Ok(metadata) if metadata.is_file() => Kind::File,
        Ok(metadata) if metadata.is_dir() => Kind::Folder,
        Ok(_) => Kind::Device,
        Err(_) => Kind::Missing,
    }
}

/// More links than anybody makes: they go round in a circle.
const MOST_LINKS: usize = 40;

/// The path that symbolic links lead to, so that what they point at is written, and they stay.
///
/// # Errors
/// Where they lead in a circle.
pub(super) fn followed(path: &Path) -> io::Result<PathBuf> {
    let mut path = path.to_path_buf();
    for _ in 0..MOST_LINKS {
        let Ok(target) = fs::read_link(&path) else { return Ok(path) };
        path = path.parent().map(|folder| folder.join(&target)).unwrap_or(target);
    }
    Err(io::Error::other("its symbolic links lead in a circle"))
}

/// Opens the file or folder at `path` and waits until nobody else has it locked: what was replaced meanwhile does not count. It is
/// free again when what this gives is dropped.
///
/// # Errors
/// Where it cannot be opened.
pub fn lock_current(path: &Path) -> io::Result<File> {
    loop {
        let file = File::open(path)?;
        if file.lock().is_err() {
            // Some file systems know no locks.
            return Ok(file);
        }
        let (held, there) = (file.metadata()?, fs::metadata(path)?);
        if Place::of_node(&held) == Place::of_node(&there) {
            return Ok(file);
        }
    }
}
