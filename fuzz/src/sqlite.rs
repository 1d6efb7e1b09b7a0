//! Damaged databases.

use ypogram_io::Format;

use super::file::file_of;
use super::records::read_records;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn sqlite(bytes: &[u8]) {
    read_records(&file_of("list.sqlite", bytes), Format::Sqlite);
}
