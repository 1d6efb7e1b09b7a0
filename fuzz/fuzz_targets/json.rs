//! JSON: one document, and one object a line.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_fuzz::{file_of, read_records};
use ypogram_io::Format;

fuzz_target!(|bytes: &[u8]| {
    let path = file_of("list.json", bytes);
    read_records(&path, Some(Format::Json));
    read_records(&path, Some(Format::JsonLines));
});
