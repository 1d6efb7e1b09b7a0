//! Cards of address books.

use ypogram_io::Format;

use super::file::file_of;
use super::records::read_records;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn vcard(bytes: &[u8]) {
    read_records(&file_of("list.vcf", bytes), Format::Vcard);
}
