//! Several sources read one after the other as one list.

use std::collections::VecDeque;
use std::path::PathBuf;

use crate::engine::pipeline;
use serde::{Deserialize, Serialize};
use ypogram_io::{Batch, Chunk, Decode, OpenOptions, Result, Schema, Source, open};

/// A chunk and the source it comes from.
#[derive(Debug, Default)]
pub(crate) struct Task {
    pub(crate) chunk: Chunk,
    pub(crate) source: usize,
}

/// What there is to tell of one source.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct SourceReport {
    /// Its name, without the folders it lies in.
    pub name: String,
    /// What people call its format.
    pub format: String,
    /// Its bytes.
    pub bytes: u64,
    /// BLAKE3 of them; empty where it was not asked for.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub blake3: String,
    /// Its fields.
    pub fields: Vec<String>,
    /// What else there is to say about it, such as that some rows are hidden in a sheet.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub remarks: Vec<String>,
    /// Why it broke off, where it did and was salvaged.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub broken_off: Option<String>,
}

/// The open sources of a job.
pub(crate) struct Reading {
    sources: Vec<Box<dyn Source>>,
    /// Chunks that were read to look ahead, by source.
    ahead: Vec<VecDeque<Chunk>>,
    current: usize,
    /// As many records are still to be read, where there is a limit.
    left: Option<u64>,
}

impl Reading {
    /// Opens `paths`.
    ///
    /// # Errors
    /// Where one of them cannot be opened.
    pub(crate) fn open(paths: &[PathBuf], options: &OpenOptions) -> Result<Self> {
        let sources = paths.iter().map(|path| open(path, options)).collect::<Result<Vec<_>>>()?;
        let ahead = sources.iter().map(|_| VecDeque::new()).collect();
        Ok(Reading { sources, ahead, current: 0, left: options.first })
    }

    /// Of one source that is open.
    #[cfg(feature = "worker")]
    pub(crate) fn of(source: Box<dyn Source>) -> Self {
        Reading { sources: vec![source], ahead: vec![VecDeque::new()], current: 0, left: None }
    }

    pub(crate) fn schemas(&self) -> impl Iterator<Item = &Schema> {
        self.sources.iter().map(|source| source.schema())
    }

    pub(crate) fn name(&self, source: usize) -> &str {
        self.sources[source].name()
    }

    /// The names of all sources, in order.
    pub(crate) fn names(&self) -> Vec<String> {
        self.sources.iter().map(|source| source.name().to_owned()).collect()
    }

    /// Lines without anything in them above the headers.
    pub(crate) fn blank_lines_before(&self) -> u64 {
        self.schemas().map(|schema| schema.blank_lines_before).sum()
    }

    pub(crate) fn len(&self) -> usize {
        self.sources.len()
    }

    /// A decoder for each source.
    pub(crate) fn decoders(&self) -> Vec<Box<dyn Decode>> {
        self.sources.iter().map(|source| source.decoder()).collect()
    }

    /// Calls `see` with the first `records` records of a source, which stay to be read.
    ///
    /// # Errors
    /// Where the source cannot be read.
    pub(crate) fn look_ahead(
        &mut self,
        source: usize,
        records: usize,
        mut see: impl FnMut(&Batch, &Chunk),
    ) -> Result<()> {
        let mut seen = 0;
        let mut batch = Batch::default();
        let mut decoder = self.sources[source].decoder();
        for chunk in &self.ahead[source] {
            batch.clear();
            decoder.decode(chunk, &mut batch)?;
            seen += batch.len();
            see(&batch, chunk);
        }
        while seen < records {
            let mut chunk = Chunk::default();
            if !self.sources[source].next_chunk(&mut chunk)? {
                break;
            }
            batch.clear();
            chunk.source = source;
            decoder.decode(&chunk, &mut batch)?;
            seen += batch.len();
            see(&batch, &chunk);
            self.ahead[source].push_back(chunk);
        }
        Ok(())
    }

    /// Leaves the chunk only the records that are still to be read.
    fn cut_off(&mut self, task: &mut Task) -> Result<()> {
        let Some(left) = &mut self.left else { return Ok(()) };
        let mut batch = Batch::default();
        self.sources[task.source].decoder().decode(&task.chunk, &mut batch)?;
        let past = batch.records(&task.chunk).nth(*left as usize).map(|record| record.start_in_chunk());
        if let Some(past) = past {
            task.chunk.bytes.truncate(past as usize);
            task.chunk.unclosed = None;
        }
        *left = left.saturating_sub(batch.len() as u64);
        Ok(())
    }

    /// What there is to tell of each source, once all are read.
    pub(crate) fn reports(&self) -> Vec<SourceReport> {
        let report = |source: &dyn Source| {
            let fingerprint = source.fingerprint();
            let name = source.name();
            SourceReport {
                name: without_folders(name),
                format: source.schema().described.clone(),
                bytes: fingerprint.bytes,
                blake3: fingerprint.blake3,
                fields: source.schema().fields.clone(),
                remarks: source.remarks(),
                broken_off: source.broken_off(),
            }
        };
        self.sources.iter().map(|source| report(&**source)).collect()
    }
}

impl pipeline::Feed for Reading {
    type Task = Task;

    fn next(&mut self, task: &mut Task) -> Result<bool> {
        while self.current < self.sources.len() && self.left != Some(0) {
            task.source = self.current;
            let ahead = self.ahead[self.current].pop_front();
            let more = match ahead {
                Some(chunk) => {
                    task.chunk = chunk;
                    true
                }
                None => self.sources[self.current].next_chunk(&mut task.chunk)?,
            };
            if more {
                task.chunk.source = self.current;
                self.cut_off(task)?;
                return Ok(true);
            }
            self.current += 1;
        }
        Ok(false)
    }

    fn bytes(task: &Task) -> u64 {
        task.chunk.source_bytes.unwrap_or(task.chunk.bytes.len() as u64)
    }
}

/// The name of a file without the folders it lies in; of a table on a server, that of its database and its own.
fn without_folders(name: &str) -> String {
    // A query can hold slashes.
    let part = name.find('#').filter(|_| name.contains("://")).unwrap_or(name.len());
    let start = name[..part].rfind(['/', '\\']).map_or(0, |slash| slash + 1);
    name[start..].to_owned()
}
