//! JSON: one document, and one object a line.

use ypogram_io::Format;

use super::file::file_of;
use super::records::read_records;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn json(bytes: &[u8]) {
    let path = file_of("list.json", bytes);
    read_records(&path, Format::Json);
    read_records(&path, Format::JsonLines);
}
