//! Lists that hold hashes of addresses instead of addresses: SHA-256 in hexadecimal, of addresses in lower case.

use std::path::Path;

use hashbrown::HashMap;
use sha2::{Digest as _, Sha256};
use ypogram_io::{Batch, OpenOptions, Record, Result};

use crate::engine::pipeline::Feed as _;
use crate::engine::reading::{Reading, Task};

/// The hashes of a list, each with the number of its first record.
#[derive(Debug, Default)]
pub(crate) struct Digests {
    records: HashMap<[u8; 32], u64>,
}

/// Records that are looked at to tell whether a list holds hashes.
const LOOKED_AT: usize = 1000;

impl Digests {
    /// Reads the list at `path`; none where it is no list of hashes: most of its first records must have one.
    ///
    /// # Errors
    /// Where it cannot be read.
    pub(crate) fn read(path: &Path, open: &OpenOptions) -> Result<Option<Self>> {
        let mut reading = Reading::open(&[path.to_path_buf()], open)?;
        let mut decoder = reading.decoders().remove(0);
        let (mut task, mut batch, mut digests) = (Task::default(), Batch::default(), Digests::default());
        // A list without a header has a hash where names of fields would stand.
        let header = reading.schemas().next().map(|schema| schema.fields.clone()).unwrap_or_default();
        let mut record = 0;
        if let Some(digest) = header.iter().find_map(|name| digest_in(name.as_bytes())) {
            record = 1;
            digests.records.insert(digest, record);
        }
        let mut without = 0_usize;
        while reading.next(&mut task)? {
            batch.clear();
            decoder.decode(&task.chunk, &mut batch)?;
            for of_list in batch.records(&task.chunk) {
                record += 1;
                match digest_of(of_list) {
                    Some(digest) => {
                        digests.records.entry(digest).or_insert(record);
                    }
                    None => without += 1,
                }
                if record as usize <= LOOKED_AT && without > 10 && without * 2 > record as usize {
                    return Ok(None);
                }
            }
        }
        Ok((digests.records.len() > without).then_some(digests))
    }

    /// How many there are.
    pub(crate) fn len(&self) -> u64 {
        self.records.len() as u64
    }

    /// The record whose hash is that of `address`.
    pub(crate) fn record_of(&self, address: &[u8]) -> Option<u64> {
        let digest: [u8; 32] = Sha256::digest(address).into();
        self.records.get(&digest).copied()
    }
}

fn digest_of(record: Record<'_>) -> Option<[u8; 32]> {
    record.cells().find_map(digest_in)
}

/// The hash that a cell is.
fn digest_in(cell: &[u8]) -> Option<[u8; 32]> {
    let cell = cell.trim_ascii();
    let mut digest = [0; 32];
    let digits = cell.as_chunks::<2>().0;
    if cell.len() != 64 {
        return None;
    }
    for (byte, [high, low]) in digest.iter_mut().zip(digits) {
        let digit = |digit: u8| (digit as char).to_digit(16);
        *byte = (digit(*high)? << 4 | digit(*low)?) as u8;
    }
    Some(digest)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_hash_is_64_hexadecimal_digits() {
        let hashed: [u8; 32] = Sha256::digest(b"ada@h-works.org").into();
        let text: String = hashed.iter().map(|byte| format!("{byte:02X}")).collect();
        assert_eq!(digest_in(format!(" {text} ").as_bytes()), Some(hashed));
        for cell in ["", "ada@h-works.org", &text[1..], &format!("{}g", &text[1..])] {
            assert_eq!(digest_in(cell.as_bytes()), None, "{cell}");
        }
    }
}
