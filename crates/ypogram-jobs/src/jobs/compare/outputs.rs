//! The files of `compare`: one for each state that a record has, or one for all.

use std::path::PathBuf;
use std::sync::Arc;

use ypogram_io::{EncodedRows, Opening, Output, OutputFile, OutputFolder, Projection, Result, RowOutput};

use crate::jobs::compare::state::State;
use crate::jobs::receipt::OutputReport;
use crate::plan::layout::OutputLayout;

/// Outputs that appear with their first row, in a folder that is published as a whole.
pub(crate) struct StateOutputs {
    files: Vec<StateFile>,
    opening: Opening,
    projection: Arc<Projection>,
}

struct StateFile {
    name: String,
    path: PathBuf,
    rows: Option<RowOutput<Output>>,
    records: u64,
}

impl StateOutputs {
    pub(crate) fn new(layout: &OutputLayout, projection: &Arc<Projection>, folder: &OutputFolder) -> Self {
        let file = |state: State| {
            let name = layout.file_name(state.file_stem());
            StateFile { path: folder.place(&name), name, rows: None, records: 0 }
        };
        // In the order of the numbers of the states.
        let mut states = State::ALL;
        states.sort_by_key(|state| *state as usize);
        StateOutputs {
            files: states.map(file).into(),
            opening: layout.writer(projection).opening(),
            projection: Arc::clone(projection),
        }
    }

    /// Appends rows, by state.
    ///
    /// # Errors
    /// Where a file cannot be made or written.
    pub(crate) fn write(&mut self, by_state: &[EncodedRows]) -> Result<()> {
        for (file, rows) in self.files.iter_mut().zip(by_state).filter(|(_, rows)| rows.rows > 0) {
            let open = match &mut file.rows {
                Some(open) => open,
                none => {
                    let output = Output::File(Box::new(OutputFile::create(&file.path)?), None);
                    none.insert(RowOutput::begin(output, &self.opening, &self.projection)?)
                }
            };
            open.write(rows)?;
            file.records += rows.rows;
        }
        Ok(())
    }

    /// The files, which are not published yet, and what there is to say of them.
    ///
    /// # Errors
    /// Where one cannot be written.
    pub(crate) fn finish(self) -> Result<(Vec<OutputFile>, Vec<OutputReport>)> {
        let (mut files, mut reports) = (Vec::new(), Vec::new());
        for StateFile { name, rows, records, .. } in self.files {
            let Some(rows) = rows else { continue };
            if let Output::File(file, _) = rows.finish()? {
                files.push(*file);
            }
            reports.push(OutputReport { name, records, blake3: None });
        }
        Ok((files, reports))
    }
}

/// Where encoded rows go.
pub(crate) enum Rows {
    Nowhere,
    ByState(StateOutputs),
    Marked(Box<RowOutput<Output>>),
}

impl Rows {
    /// Appends rows.
    ///
    /// # Errors
    /// Where an output cannot be written.
    pub(crate) fn write(&mut self, encoded: &[EncodedRows]) -> Result<()> {
        match self {
            Rows::Nowhere => Ok(()),
            Rows::ByState(outputs) => outputs.write(encoded),
            Rows::Marked(output) => encoded.iter().try_for_each(|rows| output.write(rows)),
        }
    }
}
