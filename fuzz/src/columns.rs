//! Damaged Parquet and Arrow files, and Arrow streams.

use ypogram_io::Format;

use super::file::file_of;
use super::records::read_records;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn columns(bytes: &[u8]) {
    let format = match bytes {
        [b'P', ..] => Format::Parquet,
        [b'A', ..] => Format::Arrow,
        _ => Format::ArrowStream,
    };
    read_records(&file_of("list.columns", bytes), format);
}
