//! What `extract` reads: the first byte says by which name a file is read.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_fuzz::{cut_into_pieces, file_of};

const NAMES: [&str; 8] = ["a.txt", "a.html", "a.json", "a.jsonl", "a.csv", "a.eml", "a.mbox", "a"];

fuzz_target!(|bytes: &[u8]| {
    let Some((which, bytes)) = bytes.split_first() else { return };
    cut_into_pieces(&file_of(NAMES[usize::from(*which) % NAMES.len()], bytes));
});
