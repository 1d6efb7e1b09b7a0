//! What is written to and no ordinary file: a device, a FIFO.

use std::fs::File;
use std::io;
use std::path::Path;

use crate::records::error::{Error, Result};
use crate::records::stopping::{PATIENCE, is_stopped};

/// Opens what stands at `path` for writing. A FIFO is waited for until somebody reads it, or the program is told to stop.
///
/// # Errors
/// Where it cannot be written to.
#[cfg(unix)]
pub(super) fn open(path: &Path) -> Result<File> {
    use std::os::unix::fs::OpenOptionsExt as _;
    loop {
        let options = || {
            let mut options = File::options();
            options.write(true).custom_flags(rustix::fs::OFlags::NONBLOCK.bits() as i32);
            options
        };
        match options().open(path) {
            Ok(file) => {
                let blocking = rustix::fs::fcntl_getfl(&file)
                    .and_then(|flags| rustix::fs::fcntl_setfl(&file, flags - rustix::fs::OFlags::NONBLOCK));
                blocking.map_err(|error| Error::writing(path, &io::Error::from(error)))?;
                return Ok(file);
            }
            Err(_) if is_stopped() => return Err(Error::interrupted()),
            Err(error) if is_fifo_without_reader(path, &error) => std::thread::sleep(PATIENCE),
            Err(error) => return Err(Error::writing(path, &error)),
        }
    }
}

#[cfg(unix)]
fn is_fifo_without_reader(path: &Path, error: &io::Error) -> bool {
    use std::os::unix::fs::FileTypeExt as _;
    let is_fifo = std::fs::metadata(path).is_ok_and(|metadata| metadata.file_type().is_fifo());
    is_fifo && error.raw_os_error() == Some(rustix::io::Errno::NXIO.raw_os_error())
}

/// Opens what stands at `path` for writing.
///
/// # Errors
/// Where it cannot be written to.
#[cfg(not(unix))]
pub(super) fn open(path: &Path) -> Result<File> {
    File::options().write(true).open(path).map_err(|error| Error::writing(path, &error))
}
