//! A first pass that learns typing slips from the list itself.

use std::sync::{Mutex, PoisonError};

use hashbrown::HashMap;
use ypogram_core::{Hasher, LearnedTypos};
use ypogram_io::{Batch, Result};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::jobs::clean::CleanOptions;
use crate::judge::select_address::AddressSelector;
use crate::plan::fields::FieldPlan;

/// Past this many distinct domains no new ones are counted: those seen often have come by then.
const MOST: usize = 1 << 20;

/// Reads the sources once and learns which domains are probably slips of others. Gives also what was read.
///
/// # Errors
/// Where a source cannot be read.
pub(super) fn learn(
    options: &CleanOptions,
    progress: &Progress,
) -> Result<(LearnedTypos, Vec<SourceReport>)> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    let counts: Mutex<HashMap<Vec<u8>, u64>> = Mutex::default();
    let workers: Vec<_> = (0..options.threads.max(1))
        .map(|_| {
            let mut picker = AddressSelector::new(&plan, &options.policy, Hasher::with_key(options.hash_key));
            let mut decoders = reading.decoders();
            let (mut batch, counts) = (Batch::default(), &counts);
            move |task: &mut Task, _: &mut ()| {
                batch.clear();
                decoders[task.source].decode(&task.chunk, &mut batch)?;
                let (mut cells, mut candidates) = (Vec::new(), Vec::new());
                let mut seen: HashMap<Vec<u8>, u64> = HashMap::new();
                picker.faulty.clear();
                for record in batch.records(&task.chunk) {
                    if picker
                        .pick_caught(record, &mut cells, &mut candidates)
                        .is_some_and(|selected| selected.judged.has_standard_form)
                    {
                        *seen.entry_ref(picker.judge.domain()).or_insert(0) += 1;
                    }
                }
                let mut counts = counts.lock().unwrap_or_else(PoisonError::into_inner);
                for (domain, count) in seen {
                    if counts.len() < MOST || counts.contains_key(&domain) {
                        *counts.entry(domain).or_insert(0) += count;
                    }
                }
                Ok(())
            }
        })
        .collect();
    pipeline::run_in_order(&mut reading, workers, progress, |_, _| Ok(()))?;
    let counts = counts.into_inner().unwrap_or_else(PoisonError::into_inner);
    let learnt = LearnedTypos::from_counts(counts.iter().map(|(domain, &count)| (&domain[..], count)));
    Ok((learnt, reading.reports()))
}
