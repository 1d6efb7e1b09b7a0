//! Damaged Parquet and Arrow files, and Arrow streams.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_fuzz::{file_of, read_records};
use ypogram_io::Format;

fuzz_target!(|bytes: &[u8]| {
    let path = file_of("list.columns", bytes);
    read_records(
        &path,
        Some(match bytes {
            [b'P', ..] => Format::Parquet,
            [b'A', ..] => Format::Arrow,
            _ => Format::ArrowStream,
        }),
    );
});
