//! Files of decisions: what is loaded is loaded again once it is written.

use ypogram_jobs::decisions::{Memory, Remembered};

use super::file::file_of;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn decisions(bytes: &[u8]) {
    let Ok(memory) = Memory::load(&file_of("decisions.csv", bytes)) else { return };
    let decided: Vec<Remembered> = memory.entries().map(|(_, entry)| entry).collect();
    assert_eq!(decided.len(), memory.len());
    let written = file_of("written.csv", b"");
    std::fs::remove_file(&written).expect("it is there");
    Memory::append(&written, &decided).expect("decisions can be written");
    let again = Memory::load(&written).expect("what was written can be read");
    assert!(again.len() <= memory.len() && again.is_empty() == memory.is_empty());
}
