//! What `extract` reads: the first byte says by which name a file is read.

use super::cutting::cut_into_pieces;
use super::file::file_of;

const NAMES: [&str; 8] = ["a.txt", "a.html", "a.json", "a.jsonl", "a.csv", "a.eml", "a.mbox", "a"];

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn pieces(bytes: &[u8]) {
    let Some((which, bytes)) = bytes.split_first() else { return };
    cut_into_pieces(&file_of(NAMES[usize::from(*which) % NAMES.len()], bytes));
}
