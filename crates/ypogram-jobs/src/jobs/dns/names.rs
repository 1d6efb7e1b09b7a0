//! Which domains a job will judge: all sources are read once, without judging anything else.

use std::collections::BTreeSet;
use std::sync::{Arc, Mutex, PoisonError};

use ypogram_core::{Code, DnsAnswers, Hasher, Policy};
use ypogram_io::{Batch, OpenOptions, Result};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::judge::select_address::AddressSelector;
use crate::plan::fields::{FieldChoice, FieldPlan};

/// Notes which domains somebody wants an answer for, and gives none.
#[derive(Debug, Default)]
struct Noted(Mutex<BTreeSet<String>>);

impl DnsAnswers for Noted {
    fn code(&self, domain: &[u8]) -> Option<Code> {
        let domain = String::from_utf8_lossy(domain).into_owned();
        self.0.lock().unwrap_or_else(PoisonError::into_inner).insert(domain);
        None
    }

    fn sentence(&self, _: &[u8]) -> Option<String> {
        None
    }

    fn hosted_by(&self, _: &[u8]) -> Option<String> {
        None
    }

    fn hash(&self) -> String {
        String::new()
    }
}

/// The domains that come up where the records of `sources` are judged, in lower-case A-labels: those whose names have no fault.
///
/// # Errors
/// Where a source is unusable or breaks off, or a field does not exist.
pub fn domains_of(
    sources: &[std::path::PathBuf],
    open: &OpenOptions,
    fields: &FieldChoice,
    policy: &Policy,
    threads: usize,
    progress: &Progress,
) -> Result<Vec<String>> {
    let noted = Arc::new(Noted::default());
    let mut policy = policy.clone();
    policy.answered_by(noted.clone());
    let mut reading = Reading::open(sources, open)?;
    let plan = FieldPlan::settle(&mut reading, fields, &policy)?;
    let workers: Vec<_> = (0..threads.max(1))
        .map(|_| {
            let mut selector = AddressSelector::new(&plan, &policy, Hasher::with_key(0));
            let mut decoders = reading.decoders();
            let mut batch = Batch::default();
            move |task: &mut Task, _: &mut ()| {
                batch.clear();
                decoders[task.source].decode(&task.chunk, &mut batch)?;
                let (mut cells, mut candidates) = (Vec::new(), Vec::new());
                selector.faulty.clear();
                for record in batch.records(&task.chunk) {
                    selector.pick_caught(record, &mut cells, &mut candidates);
                }
                Ok(())
            }
        })
        .collect();
    pipeline::run_in_order(&mut reading, workers, progress, |_, _: &mut ()| Ok(()))?;
    let domains = noted.0.lock().unwrap_or_else(PoisonError::into_inner);
    Ok(domains.iter().cloned().collect())
}
