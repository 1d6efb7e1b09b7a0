//! Workbooks: damaged files, and whole ones with a fuzzed sheet and fuzzed strings.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_fuzz::{file_of, read_records, workbook_of};
use ypogram_io::Format;

fuzz_target!(|bytes: &[u8]| {
    if bytes.starts_with(b"PK") {
        read_records(&file_of("list.xlsx", bytes), Some(Format::Xlsx));
        read_records(&file_of("list.ods", bytes), Some(Format::Ods));
    } else if bytes.starts_with(&[0xD0, 0xCF]) {
        read_records(&file_of("list.xls", bytes), Some(Format::Xls));
    } else {
        read_records(&file_of("list.xlsx", &workbook_of(bytes)), Some(Format::Xlsx));
    }
});
