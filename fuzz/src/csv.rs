//! Separated values in any encoding and dialect.

use ypogram_io::Format;

use super::file::file_of;
use super::records::read_records;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn csv(bytes: &[u8]) {
    read_records(&file_of("list.csv", bytes), Format::Csv);
}
