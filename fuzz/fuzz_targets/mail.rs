//! Mail: one message, and messages one after the other; with what is in their parts.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_fuzz::{cut_into_pieces, file_of, read_records};
use ypogram_io::Format;

fuzz_target!(|bytes: &[u8]| {
    let path = file_of("message.eml", bytes);
    read_records(&path, Some(Format::Mail));
    cut_into_pieces(&path);
    let path = file_of("messages.mbox", bytes);
    read_records(&path, Some(Format::Mailbox));
    cut_into_pieces(&path);
});
