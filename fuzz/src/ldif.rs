//! Entries of directories.

use ypogram_io::Format;

use super::file::file_of;
use super::records::read_records;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn ldif(bytes: &[u8]) {
    read_records(&file_of("list.ldif", bytes), Format::Ldif);
}
