//! Which line of which source a job has reached, so that records can be named by line.

use ypogram_io::{Error, Result};

use crate::engine::reading::{Reading, Task};

/// The line that was reached.
pub(crate) struct LineCount {
    names: Vec<String>,
    /// Lines of each source before its first record.
    before: Vec<u64>,
    source: Option<usize>,
    /// Lines of the present source before the present chunk.
    pub(crate) lines: u64,
}

impl LineCount {
    pub(crate) fn new(reading: &Reading) -> Self {
        LineCount {
            names: reading.names(),
            before: reading.schemas().map(|schema| schema.lines_before).collect(),
            source: None,
            lines: 0,
        }
    }

    /// Comes to `task`, which follows the one before it.
    ///
    /// # Errors
    /// Where the source ends inside quotes.
    pub(crate) fn enter(&mut self, task: &Task) -> Result<()> {
        if self.source != Some(task.source) {
            self.source = Some(task.source);
            self.lines = self.before[task.source];
        }
        match task.chunk.unclosed {
            Some(unclosed) => {
                Err(unclosed_quote(&self.names[task.source], self.lines + unclosed.lines_before + 1))
            }
            None => Ok(()),
        }
    }
}

/// An input that ends inside quotes.
pub(crate) fn unclosed_quote(source: &str, line: u64) -> Error {
    Error::unusable(
        format!("{source}: the quotation mark that opens in line {line} is never closed"),
        "close it, or see whether the file was cut off; nothing was written",
    )
}
