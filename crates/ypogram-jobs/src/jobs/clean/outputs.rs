//! The files of `clean`, one for each outcome that a record has.

use std::path::PathBuf;
use std::sync::Arc;

use ypogram_io::{EncodedRows, Opening, OutputFile, OutputFolder, Projection, Result, RowOutput};

use crate::jobs::receipt::OutputReport;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;

/// The files while they grow.
pub(crate) struct Outputs {
    files: Vec<Output>,
    opening: Opening,
    projection: Arc<Projection>,
}

/// One file.
struct Output {
    path: PathBuf,
    name: String,
    /// None until the first record ends there.
    file: Option<RowOutput<OutputFile>>,
    records: u64,
}

impl Outputs {
    pub(crate) fn new(layout: &OutputLayout, projection: &Arc<Projection>, folder: &OutputFolder) -> Self {
        let output = |outcome: Outcome| {
            let name = layout.file_name(outcome.file_stem());
            Output { path: folder.place(&name), name, file: None, records: 0 }
        };
        Outputs {
            files: Outcome::ALL.map(output).into(),
            opening: layout.writer(projection).opening(),
            projection: Arc::clone(projection),
        }
    }

    /// Appends rows, by outcome.
    ///
    /// # Errors
    /// Where a file cannot be made or written.
    pub(crate) fn write(&mut self, by_outcome: &[EncodedRows]) -> Result<()> {
        for (output, rows) in self.files.iter_mut().zip(by_outcome).filter(|(_, rows)| rows.rows > 0) {
            let file = match &mut output.file {
                Some(file) => file,
                none => {
                    let file = OutputFile::create(&output.path)?;
                    none.insert(RowOutput::begin(file, &self.opening, &self.projection)?)
                }
            };
            file.write(rows)?;
            output.records += rows.rows;
        }
        Ok(())
    }

    /// Gives the files, which are not published yet.
    ///
    /// # Errors
    /// Where one cannot be written.
    pub(crate) fn finish(self) -> Result<(Vec<OutputFile>, Vec<OutputReport>)> {
        let (mut files, mut reports) = (Vec::new(), Vec::new());
        for Output { name, file, records, .. } in self.files {
            if let Some(file) = file {
                files.push(file.finish()?);
                reports.push(OutputReport { name, records });
            }
        }
        Ok((files, reports))
    }
}
