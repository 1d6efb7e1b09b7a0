//! Workbooks: damaged files, and whole ones with a fuzzed sheet and fuzzed strings.

use ypogram_io::Format;

use super::file::file_of;
use super::records::read_records;
use super::whole_workbook::workbook_of;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn workbook(bytes: &[u8]) {
    if bytes.starts_with(b"PK") {
        read_records(&file_of("list.xlsx", bytes), Format::Xlsx);
        read_records(&file_of("list.ods", bytes), Format::Ods);
    } else if bytes.starts_with(&[0xD0, 0xCF]) {
        read_records(&file_of("list.xls", bytes), Format::Xls);
    } else {
        read_records(&file_of("list.xlsx", &workbook_of(bytes)), Format::Xlsx);
    }
}
