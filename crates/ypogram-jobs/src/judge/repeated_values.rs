//! Which records repeat the value of an earlier one in a field where each value may stand once: known before any is judged.

use std::sync::Arc;

use tempfile::TempDir;
use ypogram_core::Hasher;
use ypogram_io::{Batch, Result};

use crate::duplicates::partitions::Partitions;
use crate::engine::blank::is_blank;
use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::plan::fields::FieldPlan;

/// The records that repeat a value, by field.
#[derive(Clone, Debug, Default)]
pub(crate) struct RepeatedValues {
    /// For each field a bit for each record.
    repeats: Vec<Vec<u64>>,
    /// How many records stand before each chunk, by source and the chunk's number.
    before: Vec<Vec<u64>>,
}

/// Bytes of a value as it is gathered: its hash, and the number of its record.
const ITEM: usize = 24;

/// Parts into which the values of a field are divided, so that each is sorted in memory.
const PARTS: usize = 64;

/// The hashes of the values of a chunk, by record and field; 0 for an empty cell.
#[derive(Default)]
struct Part {
    hashes: Vec<u128>,
    records: u64,
}

impl RepeatedValues {
    /// Reads all of `reading`, and looks for values that are repeated in one of `fields`; at most `memory` bytes are taken, the rest goes into
    /// `folder`.
    ///
    /// # Errors
    /// Where a source is unusable or breaks off, or the folder cannot be used.
    pub(crate) fn gather(
        reading: &mut Reading,
        (plan, fields): (&FieldPlan, &[usize]),
        (memory, folder): (usize, Arc<TempDir>),
        (threads, progress): (usize, &Progress),
        hasher: Hasher,
    ) -> Result<Self> {
        let mut values = Partitions::new("values", memory / 2, folder);
        let mut before: Vec<Vec<u64>> = vec![Vec::new(); reading.len()];
        let mut records = 0;
        let worker = |_| {
            let mut decoders = reading.decoders();
            let mut batch = Batch::default();
            move |task: &mut Task, part: &mut Part| {
                batch.clear();
                part.hashes.clear();
                decoders[task.source].decode(&task.chunk, &mut batch)?;
                part.records = batch.len() as u64;
                for record in batch.records(&task.chunk) {
                    let cells = fields.iter().map(|&field| plan.cell(record, field).unwrap_or_default());
                    part.hashes.extend(cells.map(|cell| match is_blank(cell) {
                        true => 0,
                        false => hasher.hash(cell.trim_ascii()).max(1),
                    }));
                }
                Ok(())
            }
        };
        let workers = (0..threads.max(1)).map(worker).collect();
        pipeline::run_in_order(reading, workers, progress, |task: &Task, part: &mut Part| {
            before[task.source].push(records);
            for (nth, &hash) in part.hashes.iter().enumerate().filter(|(_, hash)| **hash != 0) {
                let mut item = [0; ITEM];
                item[..16].copy_from_slice(&hash.to_le_bytes());
                item[16..].copy_from_slice(&(records + (nth / fields.len()) as u64).to_le_bytes());
                values.add(nth % fields.len() * PARTS + (hash >> 64) as usize % PARTS, &item)?;
            }
            records += part.records;
            Ok(())
        })?;
        let mut repeats = vec![vec![0; (records as usize).div_ceil(64)]; fields.len()];
        for part in 0..values.len() {
            let taken = values.take(part)?;
            mark_repeats(taken, &mut repeats[part / PARTS]);
        }
        Ok(RepeatedValues { repeats, before })
    }

    /// How many records stand before a chunk.
    pub(crate) fn records_before(&self, source: usize, chunk: u64) -> u64 {
        // A source that changes meanwhile is refused at its end.
        self.before[source].get(chunk as usize).copied().unwrap_or_default()
    }

    /// Whether the record of that number, from 0, repeats a value in the field at place `field` among those that were looked at.
    pub(crate) fn repeats(&self, field: usize, record: u64) -> bool {
        self.repeats[field].get((record / 64) as usize).is_some_and(|bits| bits >> (record % 64) & 1 == 1)
    }
}

/// Marks every record but the first of each value.
fn mark_repeats(items: Vec<u8>, repeats: &mut [u64]) {
    let mut items: Vec<(u128, u64)> = items
        .as_chunks::<ITEM>()
        .0
        .iter()
        .map(|item| {
            let (hash, record) = item.split_at(16);
            let hash = u128::from_le_bytes(hash.try_into().expect("sixteen bytes"));
            (hash, u64::from_le_bytes(record.try_into().expect("eight bytes")))
        })
        .collect();
    items.sort_unstable();
    for pair in items.windows(2).filter(|pair| pair[0].0 == pair[1].0) {
        let record = pair[1].1;
        repeats[(record / 64) as usize] |= 1 << (record % 64);
    }
}
