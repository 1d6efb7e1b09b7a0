//! Cards of address books.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_fuzz::{file_of, read_records};
use ypogram_io::Format;

fuzz_target!(|bytes: &[u8]| read_records(&file_of("list.vcf", bytes), Some(Format::Vcard)));
