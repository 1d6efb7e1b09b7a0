//! What `clean` writes, one file or sheet for each outcome that a record has.

use std::path::PathBuf;
use std::sync::Arc;

use ypogram_io::{
    BookSheet, EncodedRows, Opening, OutputFile, OutputFolder, OutputPlace, Projection, Result, RowOutput,
    TakeBytes,
};

use crate::jobs::clean::book::Book;
use crate::jobs::receipt::OutputReport;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;

/// Where the outputs go together.
pub(crate) enum Destination {
    /// A folder of files.
    Folder(OutputFolder),
    /// A workbook.
    Book(Box<Book>),
}

/// The outputs while they grow.
pub(crate) struct Outputs<'d> {
    outputs: Vec<Output>,
    destination: &'d Destination,
}

/// One output.
struct Output {
    outcome: Outcome,
    path: PathBuf,
    name: String,
    opening: Opening,
    projection: Arc<Projection>,
    /// None until the first record ends there.
    rows: Option<RowOutput<FileOrSheet>>,
    records: u64,
}

/// What rows of an outcome go into.
enum FileOrSheet {
    File(Box<OutputFile>),
    Sheet(BookSheet),
}

impl TakeBytes for FileOrSheet {
    fn take(&mut self, bytes: &[u8]) -> Result<()> {
        match self {
            FileOrSheet::File(file) => file.take(bytes),
            FileOrSheet::Sheet(sheet) => sheet.take(bytes),
        }
    }

    fn place(&self) -> OutputPlace {
        match self {
            FileOrSheet::File(file) => file.place(),
            FileOrSheet::Sheet(sheet) => sheet.place(),
        }
    }
}

impl<'d> Outputs<'d> {
    pub(crate) fn new(
        layout: &OutputLayout,
        (most, of_review): (&Arc<Projection>, &Arc<Projection>),
        destination: &'d Destination,
    ) -> Self {
        let output = |outcome: Outcome| {
            let (name, path) = match destination {
                Destination::Folder(folder) => {
                    let name = layout.file_name(outcome.file_stem());
                    (name.clone(), folder.place(&name))
                }
                Destination::Book(_) => (outcome.file_stem().to_owned(), PathBuf::new()),
            };
            let projection = Arc::clone(if outcome.is_decided_about() { of_review } else { most });
            let opening = match destination {
                Destination::Folder(_) => layout.writer(&projection).opening(),
                // A sheet takes the rows as they are packed.
                Destination::Book(_) => Opening::default(),
            };
            Output { outcome, path, name, opening, projection, rows: None, records: 0 }
        };
        Outputs { outputs: Outcome::ALL.map(output).into(), destination }
    }

    /// Appends rows, by outcome.
    ///
    /// # Errors
    /// Where an output cannot be made or written.
    pub(crate) fn write(&mut self, by_outcome: &[EncodedRows]) -> Result<()> {
        let Outputs { outputs, destination } = self;
        for (output, rows) in outputs.iter_mut().zip(by_outcome).filter(|(_, rows)| rows.rows > 0) {
            let open = match &mut output.rows {
                Some(open) => open,
                none => {
                    let to = match destination {
                        Destination::Folder(_) => {
                            FileOrSheet::File(Box::new(OutputFile::create(&output.path)?))
                        }
                        Destination::Book(book) => {
                            FileOrSheet::Sheet(book.add_sheet(output.outcome, &output.projection)?)
                        }
                    };
                    none.insert(RowOutput::begin(to, &output.opening, &output.projection)?)
                }
            };
            open.write(rows)?;
            output.records += rows.rows;
        }
        Ok(())
    }

    /// Gives the files, which are not published yet; there are none where all go into a workbook.
    ///
    /// # Errors
    /// Where one cannot be written.
    pub(crate) fn finish(self) -> Result<(Vec<OutputFile>, Vec<OutputReport>)> {
        let (mut files, mut reports) = (Vec::new(), Vec::new());
        for Output { name, rows, records, .. } in self.outputs {
            let Some(rows) = rows else { continue };
            match rows.finish()? {
                FileOrSheet::File(file) => files.push(*file),
                // The workbook has its rows.
                FileOrSheet::Sheet(_) => {}
            }
            reports.push(OutputReport { name, records, blake3: None });
        }
        Ok((files, reports))
    }
}
