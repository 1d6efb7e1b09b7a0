//! Where each record stands among all, for decisions about single records.

use ypogram_io::{Batch, Decode, Result};

use crate::decisions::PlacedAnswers;
use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::jobs::clean::options::CleanOptions;

/// What was decided about single records; none where nothing was. The sources are read through for that, so that the records of each
/// chunk can be numbered before those in front of it are judged.
///
/// # Errors
/// Where a source cannot be read.
pub(super) fn placed(options: &CleanOptions) -> Result<Option<PlacedAnswers>> {
    if options.answers.by_record.is_empty() {
        return Ok(None);
    }
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let mut before: Vec<Vec<u64>> = vec![Vec::new(); reading.len()];
    let workers = (0..options.threads.max(1)).map(|_| {
        let mut decoders: Vec<Box<dyn Decode>> = reading.decoders();
        let mut batch = Batch::default();
        move |task: &mut Task, records: &mut u64| {
            batch.clear();
            decoders[task.source].decode(&task.chunk, &mut batch)?;
            *records = batch.len() as u64;
            Ok(())
        }
    });
    let workers = workers.collect();
    let mut records = 0;
    pipeline::run_in_order(&mut reading, workers, &Progress::default(), |task, of_chunk: &mut u64| {
        before[task.source].push(records);
        records += *of_chunk;
        Ok(())
    })?;
    Ok(Some(PlacedAnswers::new(options.answers.clone(), before)))
}
